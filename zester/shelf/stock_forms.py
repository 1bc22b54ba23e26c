"""Forms for what lies on the shelf: entries, sizes, bits, pads, offcuts as lines."""

from __future__ import annotations

import re
from decimal import Decimal

from django import forms

from zester.core.errors import LengthError, ZesterError
from zester.core.lengths import RULERS, TICKS_PER_INCH, TICKS_PER_MM, parse_length, show_size, with_unit
from zester.core.sizes import SHEET_SIZES
from zester.core.stock.ledger import KINDS, MOST
from zester.shelf.forms import TYPED, sheet_choices
from zester.shelf.models import Bit, Pad, Paper, Sheet
from zester.site import links
from zester.site.fields import BootstrapMixin, SizeField, TableField, count_field
from zester.site.seen import SeenMixin

# What is booked by hand; plans book the rest.
BY_HAND = [(key, KINDS[key][0]) for key in ("bought", "spoiled", "given", "used", "left")]
# What comes on rolls is sold by the metre or the yard.
_LONG = re.compile(r"(\d{1,5}(?:[.,]\d{1,2})?)\s*(m|metres?|meters?|yd|yds|yards?|ft|feet)", re.IGNORECASE)
_LONG_UNITS = dict.fromkeys(("m", "metre", "metres", "meter", "meters"), 1000 * TICKS_PER_MM)
_LONG_UNITS |= dict.fromkeys(("yd", "yds", "yard", "yards"), 36 * TICKS_PER_INCH)
_LONG_UNITS |= dict.fromkeys(("ft", "feet"), 12 * TICKS_PER_INCH)
# Longer than any roll there is: five kilometres.
_ROLL = 5_000_000 * TICKS_PER_MM


class TableForm(forms.Form):
    """A CSV table."""

    table = TableField(label="A CSV table")


class EntryForm(BootstrapMixin, forms.Form):
    """An entry booked by hand."""

    kind = forms.ChoiceField(choices=BY_HAND, label="What happened")
    number = forms.IntegerField(min_value=1, max_value=MOST, label="How many sheets")
    about = forms.CharField(required=False, max_length=200, label="What for")


class OffcutLinesForm(BootstrapMixin, forms.Form):
    """Offcuts written one a line."""

    lines = forms.CharField(
        label="Offcuts, one a line",
        max_length=20_000,
        strip=False,
        widget=forms.Textarea(attrs={"rows": 4, "spellcheck": "false"}),
    )


class SheetForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """Another size that a paper comes in."""

    sheet = forms.ChoiceField(choices=sheet_choices, label="Sheet size")
    typed_size = SizeField(required=False, label="Width × height", help_text="If it is another size: like 8½ x 11.")
    on_hand = forms.IntegerField(
        required=False, min_value=0, max_value=MOST, label="Sheets on hand", help_text="Empty: bought as needed."
    )

    class Meta:
        model = Sheet
        fields = ["sheet", "price", "pack", "place"]
        labels = {"price": "Price of a sheet", "pack": "Sheets in a pack", "place": "Where it is kept"}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        sheet = self.instance
        self.initial["on_hand"] = sheet.on_hand
        if sheet.pk and sheet.sheet == TYPED:
            self.initial["typed_size"] = show_size(sheet.width, sheet.height, sheet.unit)

    def clean(self) -> dict:
        """Fill in its size; a paper has each size once."""
        data = super().clean()
        key, sheet = data.get("sheet"), self.instance
        if key in SHEET_SIZES:
            size = SHEET_SIZES[key]
            sheet.width, sheet.height, sheet.unit = size.width, size.height, size.unit
        elif data.get("typed_size"):
            text = self.data.get(self.add_prefix("typed_size"), "")
            sheet.width, sheet.height = data["typed_size"]
            sheet.unit = "mm" if "mm" in text or "cm" in text else "in"
        elif "typed_size" not in self.errors:
            self.add_error("typed_size", "How large is the sheet? Write it like 8½ x 11, or 210 x 297 mm.")
        if sheet.width and self._is_there(sheet):
            self.add_error("sheet", "The paper has this size already.")
        return data

    def _is_there(self, sheet: Sheet) -> bool:
        sides = {(sheet.width, sheet.height), (sheet.height, sheet.width)}
        others = sheet.paper.sheets.filter(is_offcut=False, removed_at=None).exclude(pk=sheet.pk)
        return bool(sides & {(sheet.paper.width, sheet.paper.height), *others.values_list("width", "height")})


class BitForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """A bit: how it is sold and how much of it is there."""

    how = forms.ChoiceField(
        choices=[("count", "by the piece"), ("length", "by the length")], widget=forms.RadioSelect, label="It goes"
    )
    pack_text = forms.CharField(max_length=40, label="In a packet or on a roll", help_text="200, or 5 m, or 9 yards.")
    on_hand_text = forms.CharField(max_length=40, required=False, label="On hand", help_text="Empty: nobody counts it.")

    class Meta:
        model = Bit
        fields = ["name", "price", "place", "merchant", "link", "grams"]
        labels = {
            "price": "Price of a packet or roll",
            "place": "Where it is kept",
            "merchant": "Bought at",
            "link": "A page about it",
            "grams": "Weight in grams",
        }
        help_texts = {"link": links.HELP, "grams": "Of one; of what goes by the length, of a metre. For weighing kits."}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        bit = self.instance
        self.initial["how"] = "length" if bit.by_length else "count"
        if bit.pk:
            self.initial["pack_text"] = self._shown(bit.pack)
            self.initial["on_hand_text"] = "" if bit.on_hand is None else self._shown(bit.on_hand)
            del self.fields["how"]

    def _shown(self, number: int) -> str:
        return with_unit(number, self.instance.unit) if self.instance.by_length and number else str(number)

    def clean_name(self) -> str:
        """One bit of a name."""
        name = " ".join(self.cleaned_data["name"].split())
        if Bit.objects.of(self.instance.owner).filter(name__iexact=name).exclude(pk=self.instance.pk).exists():
            raise forms.ValidationError("This bit is there already.")
        return name

    def clean(self) -> dict:
        """Read amounts as pieces or as lengths."""
        data = super().clean()
        by_length = self.instance.by_length if self.instance.pk else data.get("how") == "length"
        self.instance.by_length = by_length
        for name in ("pack_text", "on_hand_text"):
            if data.get(name) and name not in self.errors:
                try:
                    data[name] = self._amount(data[name], by_length)
                except ZesterError as error:
                    self.add_error(name, error.advice())
        pack = data.get("pack_text")
        if isinstance(pack, int) and pack < 1:
            self.add_error("pack_text", "A packet holds something.")
        elif isinstance(pack, int):
            self.instance.pack = pack
        return data

    def _amount(self, text: str, by_length: bool) -> int:
        if not by_length:
            if not text.strip().isdecimal() or len(text.strip()) > 7:
                raise ZesterError(f"“{text}” is no number of pieces", mend="Write it like 200")
            return int(text)
        if text.strip() == "0":
            return 0
        metric = bool(re.search(r"\d\s*(?:m|cm|mm)\b", text))
        self.instance.unit = "mm" if metric else "in"
        long = _LONG.fullmatch(text.strip())
        try:
            if long:
                return self._long(Decimal(long[1].replace(",", ".")) * _LONG_UNITS[long[2].casefold()], text)
            return parse_length(text, RULERS["mm" if metric else "in64"], longest=_ROLL)
        except LengthError as error:
            raise ZesterError(error.what, mend=error.mend) from error

    @staticmethod
    def _long(ticks: Decimal, text: str) -> int:
        if not 0 < ticks <= _ROLL:
            raise ZesterError(f"“{text}” is no length of a roll", mend="Lengths go up to 5,000 m")
        return int(ticks)

    @property
    def counted(self) -> int | None:
        """How much is there; None if nobody counts it."""
        found = self.cleaned_data.get("on_hand_text")
        return found if isinstance(found, int) else None


class PadForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """A pad of several patterns: how many sheets of each paper it has."""

    class Meta:
        model = Pad
        fields = ["name", "price", "merchant"]
        labels = {"price": "Price of a pad", "merchant": "Bought at"}

    def __init__(self, *args, papers: list[Paper], **kwargs):
        super().__init__(*args, **kwargs)
        self.papers = papers
        for paper in papers:
            name, held = f"{paper.name}, {paper.size_text}", self.instance.holds.get(paper.key)
            self.fields[f"holds_{paper.key}"] = count_field(name, 1000, held)

    @property
    def hold_fields(self) -> list:
        """How many sheets of each paper."""
        return [self[f"holds_{paper.key}"] for paper in self.papers]

    def clean(self) -> dict:
        """A pad holds something."""
        data = super().clean()
        holds = {paper.key: data.get(f"holds_{paper.key}") for paper in self.papers}
        self.instance.holds = {key: count for key, count in holds.items() if count}
        if not self.papers:
            self.add_error(
                None, "A pad holds designer paper, and there is none on your shelf. Put its papers there first."
            )
        elif not self.instance.holds:
            self.add_error(f"holds_{self.papers[0].key}", "Which papers does it hold, and how many sheets of each?")
        return data
