"""Forms of the design desk, the library and the tools."""

from __future__ import annotations

import json

from django import forms
from django.core.files.base import ContentFile

from zester.core.care import TIMES
from zester.core.cutlist.lines import plain_lines
from zester.core.cutlist.list_files import LONGEST_CELL, MOST_COLUMNS
from zester.core.cutlist.mapping import Table
from zester.core.cutlist.notation import MOST_LINES
from zester.core.errors import LengthError, storable
from zester.core.lengths import RULERS, parse_length, parse_size, show_size, type_length
from zester.designs.models import RULER_CHOICES, Card, Tool
from zester.designs.services import LONGEST_LIST
from zester.site.fields import BootstrapMixin, LengthField, SizeField
from zester.site.photos import small_photo
from zester.site.regions import current
from zester.site.seen import SeenMixin

PHOTO_SIDE = 1600
# More lines than a list may have are kept as typed, with an error; far more are turned away.
MOST_KEPT_LINES = 1000
MOST_SIZES = 100


class NameField(forms.CharField):
    """A name of up to 60 letters; ``whose`` is what needs one, in words."""

    def __init__(self, *, whose: str, **kwargs):
        words = {
            "max_length": "A name has up to 60 letters; this one has %(show_value)s.",
            "required": f"{whose} needs a name of up to 60 letters.",
        }
        super().__init__(max_length=60, error_messages=words, **kwargs)


class CardForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """A card's name and the ruler its list is read with."""

    class Meta:
        model = Card
        fields = ["name", "ruler"]
        labels = {"ruler": "Measured in"}
        help_texts = {"ruler": "What a number without a unit means in this card’s list, and the finest mark."}


class CardNameForm(BootstrapMixin, forms.Form):
    """The name of a new card."""

    name = NameField(label="Name of the card", whose="A card")


class ListField(forms.CharField):
    """A whole cut list, exactly as typed but for its line ends. What is too long is turned away, never cut."""

    def __init__(self, **kwargs):
        super().__init__(required=False, strip=False, **kwargs)

    def clean(self, value: str) -> str:
        """The list; how much there is of it is looked at before anything is read."""
        text = value or ""
        if len(text) > 2 * LONGEST_LIST:
            raise forms.ValidationError(_too_much(len(text), LONGEST_LIST, "letters"))
        text = plain_lines(super().clean(text))
        if len(text) > LONGEST_LIST:
            raise forms.ValidationError(_too_much(len(text), LONGEST_LIST, "letters"))
        lines = len(text.splitlines())
        if lines > MOST_KEPT_LINES:
            raise forms.ValidationError(_too_much(lines, MOST_KEPT_LINES, "lines"))
        return text


def _too_much(found: int, most: int, what: str) -> str:
    return f"A cut list holds {most:,} {what}, this one has {found:,}. Make a second card of the rest."


class ListForm(forms.Form):
    """What the editor sends: the text, the save it was based on, which editor it is, what is shown beside it."""

    cut_list = ListField()
    saves = forms.IntegerField(min_value=0)
    editor = forms.CharField(max_length=40)
    force = forms.BooleanField(required=False)
    shown = forms.CharField(required=False, max_length=40)
    view = forms.CharField(required=False, max_length=20)


class MissingPaperForm(forms.Form):
    """A paper that a line names and the shelf does not have."""

    name = forms.CharField(max_length=60)
    kind = forms.ChoiceField(choices=[("card", "card stock"), ("patterned", "patterned paper")])


class TextForm(forms.Form):
    """A list as it stands in the editor, without saving it."""

    cut_list = ListField()
    shown = forms.CharField(required=False, max_length=40)


class StepForm(forms.Form):
    """One line and where the caret is; how many marks to step."""

    line = forms.CharField(required=False, max_length=400, strip=False)
    caret = forms.IntegerField(min_value=0, max_value=400)
    steps = forms.IntegerField(min_value=-16, max_value=16)


class MoveForm(TextForm):
    """A piece and how many marks to move it."""

    number = forms.IntegerField(min_value=1, max_value=500)
    across = forms.IntegerField(min_value=-4000, max_value=4000)
    down = forms.IntegerField(min_value=-4000, max_value=4000)


class CellsForm(forms.Form):
    """The cells of a row of the table; what is too long for a cell is said, not cut."""

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        for name, field in self.fields.items():
            if isinstance(field, forms.CharField):
                field.error_messages["max_length"] = f"The {name} holds up to {field.max_length} letters."

    kind = forms.ChoiceField(choices=[(kind, kind) for kind in ("piece", "card", "bit", "remark", "blank", "unread")])
    count = forms.CharField(required=False, max_length=10)
    name = forms.CharField(required=False, max_length=200)
    size = forms.CharField(required=False, max_length=100)
    paper = forms.CharField(required=False, max_length=100)
    rules = forms.CharField(required=False, max_length=200)
    note = forms.CharField(required=False, max_length=200)
    when = forms.ChoiceField(required=False, choices=[(when, when) for when in ("usual", *TIMES)])


class NotesForm(forms.Form):
    """Notes to be understood."""

    notes = forms.CharField(
        required=False,
        max_length=20_000,
        strip=False,
        error_messages={
            "max_length": "20,000 letters of notes are read at once; these are %(show_value)s. Paste them in parts."
        },
    )


class DesignForm(CardForm):
    """A card's name and ruler, and what is remembered of it beside its list."""

    class Meta(CardForm.Meta):
        fields = ["name", "ruler", "supplies", "notes", "went_wrong"]
        labels = CardForm.Meta.labels | {"went_wrong": "What went wrong last time"}
        help_texts = CardForm.Meta.help_texts | {
            "went_wrong": "It is shown at the desk whenever this card is opened.",
            "supplies": "One a line: Dark blue ink | Lantern Lane, page 12 | https://… Begin a line with “kit:” for "
            "what comes with the kit. Hand-out, page and buying list name them.",
        }
        widgets = {
            "supplies": forms.Textarea(attrs={"rows": 4}),
            "notes": forms.Textarea(attrs={"rows": 4}),
            "went_wrong": forms.Textarea(attrs={"rows": 3}),
        }


class PhotoForm(forms.Form):
    """A photo of the finished card, or of what its words say."""

    photo = forms.ImageField(label="A photo of the finished card, or of a part")
    words = forms.CharField(
        required=False,
        max_length=80,
        label="What it shows",
        help_text="Empty: the finished card.",
        error_messages={"max_length": "What a photo shows has up to 80 letters; these are %(show_value)s."},
    )

    def clean_photo(self) -> ContentFile:
        """The photo as a plain JPEG of at most 1600 pixels a side."""
        return ContentFile(small_photo(self.cleaned_data["photo"], PHOTO_SIDE), "photo.jpg")


class ImportForm(forms.Form):
    """A list from a file."""

    file = forms.FileField(
        label="A cut list as TXT, CSV, JSON or XLSX",
        widget=forms.FileInput(attrs={"class": "form-control", "accept": ".txt,.csv,.json,.xlsx"}),
    )


class ColumnsForm(forms.Form):
    """A table that was sent, and what each of its columns holds."""

    file = forms.CharField(max_length=200)
    table = forms.CharField(max_length=1_000_000, strip=False)

    def clean_table(self) -> Table:
        """The table, as the page before had read it from the file.

        Raises
        ------
        ValidationError
            If it is none.
        """
        wrong = forms.ValidationError("The table did not come through. Send the file again.")
        try:
            heads, *rows = json.loads(self.cleaned_data["table"])
        except (ValueError, RecursionError, TypeError) as error:
            raise wrong from error
        cells = [heads, *rows]
        if not all(isinstance(row, list) and len(row) == len(heads) <= MOST_COLUMNS for row in cells):
            raise wrong
        if not all(
            isinstance(cell, str) and len(cell) <= LONGEST_CELL and storable(cell) for row in cells for cell in row
        ):
            raise wrong
        if len(rows) > MOST_LINES + 1:
            raise wrong
        return Table(tuple(heads), tuple(tuple(row) for row in rows))

    def kinds(self, table: Table) -> list[str]:
        """What was chosen for every column."""
        return [self.data.get(f"column-{at}", "") for at in range(len(table.heads))]


class EditionForm(forms.Form):
    """The name under which a list is kept."""

    name = NameField(label="Keep this list as", whose="A kept list")


class ToolForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """A set of dies, a punch or a folder; sizes are typed as on its box."""

    ruler = forms.ChoiceField(choices=RULER_CHOICES, label="Measured in", initial=lambda: current().ruler)
    typed_sizes = forms.CharField(
        required=False,
        label="Sizes, the smallest first",
        help_text="Apart by commas: 1, 1½, 2¼ for round ones, 2 x 3, 3 x 4 for others. They are numbered from 1.",
    )
    reach = LengthField(
        required=False, zero=True, label="How far in a punch reaches", help_text="0 or empty: as far as you like."
    )
    largest = SizeField(required=False, label="Largest piece a folder takes", help_text="Like 4¼ x 5½.")

    class Meta:
        model = Tool
        fields = ["name", "kind", "shape", "merchant", "link"]
        labels = {"kind": "What it is", "merchant": "Where it can be had", "link": "A page about it"}
        help_texts = {
            "name": "As you name it in a list: Circles no. 4.",
            "link": "Begins with https://; the hand-out shows it.",
        }

    field_order = ("name", "kind", "shape", "ruler", "typed_sizes", "reach", "largest", "merchant", "link")

    def __init__(self, *args, owner, **kwargs):
        super().__init__(*args, **kwargs)
        self.instance.owner = owner
        ruler = self.data.get("ruler")
        self.ruler_key = ruler if ruler in RULERS else "in16"
        for name in ("reach", "largest"):
            self.fields[name].ruler_key = self.ruler_key
        tool = self.instance
        if tool.pk:
            # Lengths that are on no inch mark write their own unit.
            sizes = [
                type_length(w, "in") if w == h else f"{type_length(w, 'in')} x {type_length(h, 'in')}"
                for w, h in tool.sizes
            ]
            self.initial["typed_sizes"] = ", ".join(sizes)
            self.initial["reach"] = tool.reach
            if tool.largest_width:
                self.initial["largest"] = show_size(tool.largest_width, tool.largest_height, "in")

    def clean_name(self) -> str:
        """One tool of a name, and none that a list could not name."""
        name = " ".join(self.cleaned_data["name"].split())
        if not any(char.isalpha() for char in name) or "#" in name or name[-1:].isdigit():
            raise forms.ValidationError("A name needs a letter, no #, and no number at its end: that is the size’s.")
        same = Tool.objects.of(self.instance.owner).filter(name__iexact=name).exclude(pk=self.instance.pk)
        if same.exists():
            raise forms.ValidationError("You have a tool of this name already.")
        return name

    def clean_typed_sizes(self) -> list[list[int]]:
        """Pairs of ticks."""
        parts = [part.strip() for part in self.cleaned_data["typed_sizes"].replace(";", ",").split(",") if part.strip()]
        if len(parts) > MOST_SIZES:
            raise forms.ValidationError(f"These are {len(parts)} sizes, a tool holds {MOST_SIZES}. Make two of it.")
        try:
            return [list(self._size(part)) for part in parts]
        except LengthError as error:
            raise forms.ValidationError(error.advice()) from error

    def _size(self, text: str) -> tuple[int, int]:
        ruler = RULERS[self.ruler_key]
        if any(sign in text.casefold() for sign in ("x", "×", "by")):
            return parse_size(text, ruler)
        side = parse_length(text, ruler)
        return side, side

    def clean(self) -> dict:
        """Sizes where they are needed."""
        data = super().clean()
        if data.get("kind") != Tool.Kind.FOLDER and not data.get("typed_sizes") and "typed_sizes" not in self.errors:
            self.add_error("typed_sizes", "Which sizes are there? Write one, or several apart by commas.")
        tool = self.instance
        tool.sizes, tool.reach = data.get("typed_sizes") or [], data.get("reach") or 0
        tool.largest_width, tool.largest_height = data.get("largest") or (None, None)
        return data
