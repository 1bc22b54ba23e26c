"""Forms of accounts."""

from django import forms
from django.contrib.auth import get_user_model
from django.contrib.auth.forms import AuthenticationForm

from zester.site.fields import BootstrapMixin


class SignInForm(BootstrapMixin, AuthenticationForm):
    """Name and password."""

    error_messages = AuthenticationForm.error_messages | {
        "invalid_login": "Name and password do not belong together. Mind capital and small letters."
    }


class ContactForm(BootstrapMixin, forms.ModelForm):
    """Where a link for a forgotten password goes."""

    class Meta:
        model = get_user_model()
        fields = ["email"]
        labels = {"email": "Mail address"}
        help_texts = {"email": "Only for a link if you forget your password. It may stay empty."}
