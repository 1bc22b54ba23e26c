"""Forms of accounts."""

from django import forms
from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.forms import AuthenticationForm, BaseUserCreationForm

from zester.accounts.models import House
from zester.site.fields import BootstrapMixin
from zester.site.regions import DATES, LONGEST_CURRENCY, PAPERS, UNITS, WEEKS, Region, zones
from zester.site.seen import SeenMixin


class SignInForm(BootstrapMixin, AuthenticationForm):
    """Name and password."""

    error_messages = AuthenticationForm.error_messages | {
        "invalid_login": "Name and password do not belong together. Mind capital and small letters."
    }


class WithPassword(forms.Form):
    """What only the owner may do, who knows the password; whoever finds a window open does not."""

    current = forms.CharField(
        label="Your password", widget=forms.PasswordInput(attrs={"autocomplete": "current-password"})
    )

    def __init__(self, *args, user, **kwargs):
        super().__init__(*args, **kwargs)
        self.user = user

    def clean_current(self) -> str:
        """It has to be right."""
        if not self.user.check_password(self.cleaned_data["current"]):
            raise forms.ValidationError("This is not your password.")
        return ""


class SignUpForm(BootstrapMixin, BaseUserCreationForm):
    """A new account: name, mail address, password twice."""

    email = forms.EmailField(
        required=False,
        label="Mail address",
        help_text="Only for a link if you forget your password. It may stay empty.",
    )

    class Meta(BaseUserCreationForm.Meta):
        fields = ["username", "email"]
        labels = {"username": "Your name here"}
        help_texts = {"username": "To sign in with. Letters, digits and @ . + - _"}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["password1"].label = "A password"
        self.fields["password2"].label = "The same once more"

    def clean_username(self) -> str:
        """One account of a name, whatever its capitals."""
        name = self.cleaned_data["username"]
        if get_user_model().objects.filter(username__iexact=name).exists():
            raise forms.ValidationError("Somebody has this name here. Choose another.")
        return name


class HouseForm(BootstrapMixin, forms.ModelForm):
    """Who may make an account."""

    class Meta:
        model = House
        fields = ["sign_up"]
        labels = {"sign_up": "Who may make an account here"}
        widgets = {"sign_up": forms.RadioSelect}


class DeleteForm(BootstrapMixin, WithPassword):
    """Everything of one's own goes for good."""


class ContactForm(SeenMixin, BootstrapMixin, WithPassword, forms.ModelForm):
    """Where a link for a forgotten password goes."""

    class Meta:
        model = get_user_model()
        fields = ["email"]
        labels = {"email": "Mail address"}
        help_texts = {"email": "Only for a link if you forget your password. It may stay empty."}


class RegionForm(BootstrapMixin, forms.Form):
    """How somebody measures and writes; see ``zester.site.regions``."""

    unit = forms.ChoiceField(choices=list(UNITS.items()), label="Lengths in")
    paper = forms.ChoiceField(choices=list(PAPERS.items()), label="Sheets and prints on")
    currency = forms.CharField(required=False, max_length=LONGEST_CURRENCY, label="Sign of amounts")
    comma = forms.TypedChoiceField(
        choices=[("False", "1,250.00"), ("True", "1.250,00")],
        coerce=lambda said: said == "True",
        label="Amounts look like",
    )
    dates = forms.ChoiceField(choices=list(DATES.items()), label="Days look like")
    week = forms.ChoiceField(choices=list(WEEKS.items()), label="A week begins on")
    zone = forms.ChoiceField(required=False, label="Time of")

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["currency"].help_text = (
            f"Empty: {settings.CURRENCY}, as this house has it." if settings.CURRENCY else ""
        )
        places = sorted(name for name in zones() if "/" in name and not name.startswith("Etc/"))
        too_long = f"Write the sign alone, like € or kr: at most {LONGEST_CURRENCY} letters."
        self.fields["currency"].error_messages["max_length"] = too_long
        self.fields["zone"].choices = [
            ("", f"this house ({settings.TIME_ZONE})"),
            *((name, name.replace("_", " ")) for name in places),
        ]

    def region(self) -> Region:
        """What was said."""
        return Region(**self.cleaned_data)
