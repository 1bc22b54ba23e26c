"""The form of a guide, and of its file."""

from __future__ import annotations

from django import forms

from zester.casting.guides import LARGEST_FILE, ruler_of
from zester.casting.models import LONGEST_LINES, Guide
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM, show_size
from zester.site.fields import BootstrapMixin, SizeField
from zester.site.seen import SeenMixin

# Of a sheet of a pad, where nobody has said: 6 × 6 in, 150 × 150 mm.
USUAL_SIDES = {"in": 6 * TICKS_PER_INCH, "mm": 150 * TICKS_PER_MM}


class GuideForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """A guide: its sheets' size and its lines."""

    size = SizeField(label="Sheet, width × height", help_text="Of every sheet of the pad, like 6 x 6 or 150 x 150 mm.")
    lines = forms.CharField(
        required=False,
        label="One sheet a line",
        max_length=LONGEST_LINES,
        strip=False,
        widget=forms.Textarea(attrs={"rows": 10, "spellcheck": "false"}),
        help_text="Its letter, then the pieces with the cards they are for, apart by semicolons.",
    )

    class Meta:
        model = Guide
        fields = ["name", "unit", "size", "lines"]
        labels = {"name": "What it is called", "unit": "Typed in"}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        guide = self.instance
        self.fields["size"].ruler_key = ruler_of(self.data.get("unit") or guide.unit)
        if guide.width:
            self.initial["size"] = show_size(guide.width, guide.height, guide.unit)

    @property
    def sheet(self) -> tuple[int, int, str]:
        """Width and height of a sheet (ticks) and the unit: as said, else as they are, else as usual."""
        said = getattr(self, "cleaned_data", {})
        guide = self.instance
        unit = said.get("unit") or guide.unit
        kept = (guide.width, guide.height) if guide.width else (USUAL_SIDES[unit],) * 2
        return (*(said.get("size") or kept), unit)

    def filled(self) -> Guide:
        """The guide as the form has it."""
        guide = self.instance
        guide.width, guide.height = self.cleaned_data["size"]
        return guide


class GuideFileForm(forms.Form):
    """A guide as an open file."""

    file = forms.FileField(label="A guide as JSON")

    def clean_file(self) -> tuple[str, bytes]:
        """Its name and what is in it."""
        file = self.cleaned_data["file"]
        if file.size > LARGEST_FILE:
            raise forms.ValidationError("That is too large for a guide. Choose the file that Zester saved.")
        return file.name.rpartition(".")[0] or file.name, file.read()
