"""The form for a paper."""

from __future__ import annotations

from decimal import Decimal

from django import forms

from zester.core.errors import ZesterError
from zester.core.lengths import show_size
from zester.core.papers import parse_weight
from zester.core.sizes import SHEET_SIZES
from zester.shelf.models import LOOKS, Paper
from zester.shelf.services import called
from zester.shelf.uses import unclear_after
from zester.site import links
from zester.site.fields import BootstrapMixin, LengthField, SizeField
from zester.site.photos import swatch_of
from zester.site.seen import SeenMixin

TYPED = "typed"
BUY, ON_HAND = "buy", "on_hand"
SIDES = ("look", "tones", "back_direction", "back_look", "back_tones")
MARGINS = ("margin_left", "margin_top", "margin_right", "margin_bottom")


def sheet_choices() -> list[tuple[str, str]]:
    """The usual sheet sizes, and another one."""
    usual = [
        (
            s.key,
            show_size(s.width, s.height, s.unit)
            if "×" in s.name
            else f"{s.name}, {show_size(s.width, s.height, s.unit)}",
        )
        for s in SHEET_SIZES.values()
    ]
    return [*usual, (TYPED, "another size…")]


class PaperLinesForm(BootstrapMixin, forms.Form):
    """Papers written one a line."""

    lines = forms.CharField(
        label="Papers, one a line",
        max_length=20_000,
        strip=False,
        widget=forms.Textarea(attrs={"rows": 14, "spellcheck": "false"}),
    )
    unit = forms.ChoiceField(
        label="Sheets whose size is not written",
        choices=[("in", "letter card stock, 12 × 12 in patterned"), ("mm", "A4")],
        widget=forms.RadioSelect,
        initial="in",
    )


class SwatchForm(forms.Form):
    """A photo of a sheet, to be its swatch."""

    photo = forms.ImageField(label="A photo of the sheet", help_text="Its middle is shown wherever the paper is drawn.")

    def clean_photo(self) -> tuple[str, str]:
        """The swatch as a data URL, and its mean colour."""
        return swatch_of(self.cleaned_data["photo"])


class PaperForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """A paper: its sheet from the usual sizes or typed, on hand or bought as needed."""

    sheet = forms.ChoiceField(choices=sheet_choices, label="Sheet size")
    typed_size = SizeField(
        required=False, label="Width × height", help_text="Like 8½ x 11, or 210 x 297 mm. Upright as you look at it."
    )
    supply = forms.ChoiceField(
        choices=[(BUY, "buy as needed"), (ON_HAND, "only what is on hand")], widget=forms.RadioSelect, initial=BUY
    )
    on_hand = forms.IntegerField(required=False, min_value=0, max_value=100_000, label="Sheets on hand")
    price = forms.DecimalField(required=False, min_value=0, max_digits=8, decimal_places=2, label="Price of a sheet")

    weight = forms.CharField(
        required=False, label="Weight", help_text="Like 216 gsm, or 80 lb cover. How thick a card gets follows from it."
    )
    thickness = forms.DecimalField(
        required=False, min_value=0.01, max_value=20, decimal_places=3, label="Thickness of a sheet in mm"
    )
    back = forms.ChoiceField(choices=Paper.Back.choices, widget=forms.RadioSelect, label="Its other side, side B")

    anyway = forms.BooleanField(
        required=False,
        label="Rename it all the same; these lines will ask which paper is meant",
        widget=forms.HiddenInput,
    )

    margin_left = LengthField(required=False, zero=True, label="Left")
    margin_top = LengthField(required=False, zero=True, label="Top")
    margin_right = LengthField(required=False, zero=True, label="Right")
    margin_bottom = LengthField(required=False, zero=True, label="Bottom")

    class Meta:
        model = Paper
        fields = ["name", "kind", "sheet", "direction", *MARGINS, "pack", "price", "colour", "repeat"]
        fields += ["back", "back_colour", "back_repeat", "place", "merchant", "link", "pictures", *SIDES]
        labels = {"direction": "Pieces may lie on the sheet", "pack": "Sheets in a pack"}
        labels |= {"place": "Where it is kept", "merchant": "Bought at", "link": "A page about it"}
        labels |= {"pictures": "Pictures on a sheet"}
        labels |= {"back_colour": "Its colour", "back_repeat": "Its repeat"}
        labels |= {"look": "Side A is", "back_look": "Side B is", "back_direction": "Pieces that show side B may lie"}
        labels |= {"tones": "Main colours of side A", "back_tones": "Main colours of side B"}
        help_texts = {
            "direction": "Stripes: half a turn only. Words, trees, buildings: one way up only.",
            "pack": "1 if it is sold by the sheet.",
            "link": links.HELP,
            "pictures": "If it is cut apart into pictures: across x down, and how many of each if lists name them, "
            "like 3 x 4: 4 owl, 8 moon",
        }
        widgets = {
            "colour": forms.TextInput(attrs={"type": "color"}),
            "repeat": forms.RadioSelect,
            "back_colour": forms.TextInput(attrs={"type": "color"}),
            "back_repeat": forms.Select,
        }

    def __init__(self, *args, owner, **kwargs):
        super().__init__(*args, **kwargs)
        self.instance.owner = owner
        paper = self.instance
        for name in MARGINS:
            self.fields[name].ruler_key = "mm" if paper.unit == "mm" else "in64"
        for name in ("colour", "back_colour"):
            self.fields[name].widget.attrs["class"] = "form-control form-control-color"
            self.fields[name].required = name == "colour"
        self.fields["back_direction"].choices = [("", "as with side A"), *Paper.Direction.choices]
        for name in ("look", "back_look"):
            self.fields[name].choices = [("", "not said"), *LOOKS]
        for side, name in (("a", "tones"), ("b", "back_tones")):
            self.fields[name].help_text = (
                f"Empty: as it is drawn, {' '.join(paper.main_colours(side))}" if paper.pk else ""
            )
        self.fields["back"].required = self.fields["back_repeat"].required = False
        self.initial["weight"] = f"{paper.weight} gsm" if paper.weight else ""
        self.initial["thickness"] = Decimal(paper.caliper) / 1000 if paper.caliper else None
        if paper.pk:
            self.initial["supply"] = BUY if paper.on_hand is None else ON_HAND
            self.initial["on_hand"] = paper.on_hand
            if paper.sheet == TYPED:
                self.initial["typed_size"] = show_size(paper.width, paper.height, paper.unit)

    def clean_name(self) -> str:
        """One paper of a name on a shelf, and none that a list could not name."""
        name = " ".join(self.cleaned_data["name"].split())
        if not any(char.isalpha() for char in name):
            raise forms.ValidationError("A paper’s name needs a letter, or a cut list could not name it.")
        if "#" in name:
            raise forms.ValidationError("In a cut list a remark begins at #, so a name cannot hold one.")
        other = called(self.instance.owner, name, but=self.instance)
        if other and other.name.casefold() == name.casefold():
            raise forms.ValidationError("A paper of this name is on your shelf already.")
        if other:
            raise forms.ValidationError(
                f"{other.name} was once called so, and lists may still say it. Choose another name, or let the former "
                f"name go on the page of {other.name}."
            )
        self._check_clear(name)
        return name

    def _check_clear(self, name: str) -> None:
        """A new name must not make unclear what lists say of other papers, unless that is wanted."""
        before = self.initial.get("name", "")
        if not self.instance.pk or name == before:
            return
        unclear = unclear_after(self.instance, name)
        if unclear and not self.data.get(self.add_prefix("anyway")):
            self.fields["anyway"].widget = forms.CheckboxInput(attrs={"class": "form-check-input"})
            more = f" And {len(unclear) - 3} more." if len(unclear) > 3 else ""
            raise forms.ValidationError(
                f"{' '.join(unclear[:3])}{more} Choose another name, or write the other paper out in full there."
            )

    def clean_weight(self) -> int | None:
        """Grams a square metre; pounds of cover and text are converted."""
        text = self.cleaned_data["weight"]
        try:
            return parse_weight(text) if text else None
        except ZesterError as error:
            raise forms.ValidationError(error.advice()) from error

    def clean_back(self) -> str:
        """Side B is like side A unless it is said."""
        return self.cleaned_data["back"] or Paper.Back.SAME

    def clean_back_colour(self) -> str:
        """The colour before, where the page sent none."""
        return self.cleaned_data["back_colour"] or self.instance.back_colour

    def clean_back_repeat(self) -> str:
        """The repeat before, where the page sent none."""
        return self.cleaned_data["back_repeat"] or self.instance.back_repeat

    def clean(self) -> dict:
        """Fill in the sheet's size and what is on hand."""
        data = super().clean()
        key = data.get("sheet")
        if key == TYPED:
            self._take_typed(data)
        elif key in SHEET_SIZES:
            size = SHEET_SIZES[key]
            self.instance.width, self.instance.height, self.instance.unit = size.width, size.height, size.unit
        self._check_margins(data)
        self.instance.weight = data.get("weight")
        self.instance.caliper = int(data["thickness"] * 1000) if data.get("thickness") else None
        if data.get("supply") == ON_HAND and data.get("on_hand") is None and "on_hand" not in self.errors:
            self.add_error("on_hand", "How many sheets are there? Write 0 if it is all used up.")
        return data

    @property
    def counted(self) -> int | None:
        """How many sheets there are; None: it is bought as needed."""
        return self.cleaned_data["on_hand"] if self.cleaned_data["supply"] == ON_HAND else None

    def _check_margins(self, data: dict) -> None:
        left, top, right, bottom = (data.get(name) or 0 for name in MARGINS)
        data |= dict(zip(MARGINS, (left, top, right, bottom), strict=True))
        if self.instance.width and not (left + right < self.instance.width and top + bottom < self.instance.height):
            self.add_error("margin_left", "The margins leave nothing of the sheet.")

    def _take_typed(self, data: dict) -> None:
        if data.get("typed_size"):
            self.instance.width, self.instance.height = data["typed_size"]
            text = self.data.get(self.add_prefix("typed_size"), "")
            self.instance.unit = "mm" if "mm" in text or "cm" in text else "in"
        elif "typed_size" not in self.errors:
            self.add_error("typed_size", "How large is the sheet? Write it like 8½ x 11, or 210 x 297 mm.")
