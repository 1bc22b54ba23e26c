"""Forms for a class and its counts."""

from __future__ import annotations

from decimal import Decimal

from django import forms

from zester.classes.models import CardClass, ClassCard, Trimmer
from zester.core.kits.offers import COUNTED
from zester.core.lengths import RULERS, with_unit
from zester.core.usual_times import KINDS
from zester.site.dates import day
from zester.site.fields import BootstrapMixin, ChoiceOfField, LengthField
from zester.site.seen import SeenMixin

_HABITS = ("keep_short", "keep_long", "longest_cut", "narrowest")
_NOBODY = "A class needs at least 1 person."


class ClassForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """All settings of a class; what it does not say of cutting is as its trimmer has it."""

    keep_short = LengthField(required=False, label="Keep offcuts at least this wide")
    keep_long = LengthField(required=False, label="and at least this long")
    longest_cut = LengthField(required=False, label="Longest cut")
    narrowest = LengthField(required=False, zero=True, label="Narrowest strip")
    beforehand = forms.MultipleChoiceField(
        required=False,
        label="Done before the class, unless a line says otherwise",
        choices=[(kind, words) for kind, (words, _) in KINDS.items()],
        widget=forms.CheckboxSelectMultiple,
    )

    class Meta:
        model = CardClass
        fields = ["title", "date", "time", "minutes", "where", "place", "repeats", "spread"]
        fields += ["order_by", "capacity"]
        fields += ["participants", "notes", "give_aways", "spare_by", "spare_number", "spare_percent", "offcuts_first"]
        fields += [
            "beforehand",
            "auto_fit",
            "ruler",
            "trimmer",
            "stack",
            "longest_cut",
            "narrowest",
            "keep_short",
            "keep_long",
        ]
        labels = {
            "minutes": "Minutes it takes",
            "where": "How it is held",
            "place": "Where, or the link of the call",
            "repeats": "How often",
            "spread": "Its cards",
            "order_by": "Orders until",
            "capacity": "Seats",
            "participants": "People without a name",
            "give_aways": "Kits to give away",
            "spare_by": "Spares",
            "spare_number": "So many",
            "spare_percent": "or a share, in per cent",
            "offcuts_first": "Use offcuts first",
            "auto_fit": "Keep the sheets always current",
            "ruler": "Measured in",
            "trimmer": "Cut with",
            "stack": "Sheets cut at once",
        }
        help_texts = {
            "capacity": "Empty: as many as like. Who comes after that waits.",
            "participants": "Those with a name stand in the list of people.",
            "spare_percent": "Rounded up.",
            "offcuts_first": "Offcuts on the shelf that save a sheet are cut before a new one is opened.",
            "auto_fit": "Every change is laid out on sheets at once. Without it you press a button.",
        }
        widgets = {
            "date": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
            "order_by": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
            "time": forms.TimeInput(attrs={"type": "time"}, format="%H:%M"),
            "notes": forms.Textarea(attrs={"rows": 3}),
        }
        field_classes = {"trimmer": ChoiceOfField}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        owner = self.instance.owner
        self.fields["trimmer"].queryset = Trimmer.objects.of(owner)
        self.fields["trimmer"].empty_label = None if self.instance.trimmer_id else "a trimmer as usual"
        ruler = self.data.get("ruler") or self.initial.get("ruler") or "in16"
        for name in _HABITS:
            self.fields[name].ruler_key = ruler if ruler in dict(CardClass._meta.get_field("ruler").choices) else "in16"
            usual = getattr(self.instance.cut_with, name)
            unit = RULERS[self.fields[name].ruler_key].unit
            self.fields[name].widget.attrs["placeholder"] = with_unit(usual, unit) if usual else _NO_HABIT[name]
        self.fields["stack"].widget.attrs["placeholder"] = str(self.instance.cut_with.stack)

    def clean_participants(self) -> int:
        """Nobody without a name is enough where others have one."""
        return _somebody(self.cleaned_data["participants"], self.instance)

    def clean(self) -> dict:
        """Orders end before the class begins."""
        data = super().clean()
        date, order_by = data.get("date"), data.get("order_by")
        if date and order_by and order_by > date:
            self.add_error("order_by", f"The class is on {day(date)}: orders end on that day or before it.")
        if data.get("spare_number") and data.get("spare_percent"):
            self.add_error("spare_percent", "Spares are so many or a share: write 0 in one of the two.")
        return data


_NO_HABIT = {"longest_cut": "across every sheet", "narrowest": "however narrow", "keep_short": "", "keep_long": ""}


def _somebody(number: int, card_class: CardClass) -> int:
    if not number and not (card_class.pk and card_class.people.filter(state__in=COUNTED).exists()):
        raise forms.ValidationError(_NOBODY)
    return number


class NewClassForm(BootstrapMixin, forms.ModelForm):
    """What a new class is asked for; all else is as usual, and can be changed in its settings."""

    class Meta:
        model = CardClass
        fields = ["title", "date", "participants"]
        labels = {"title": "What is it called?", "participants": "How many come?", "date": "When is it?"}
        widgets = {
            "title": forms.TextInput(attrs={"autofocus": True}),
            "date": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
        }

    def clean_participants(self) -> int:
        """At least one."""
        return _somebody(self.cleaned_data["participants"], self.instance)


class FirstClassForm(NewClassForm):
    """What a first class is asked for, its ruler too."""

    class Meta(NewClassForm.Meta):
        fields = ["title", "participants", "ruler"]
        labels = {**NewClassForm.Meta.labels, "ruler": "Measured in"}


class ParticipantsForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """How many people come without a name."""

    class Meta:
        model = CardClass
        fields = ["participants"]

    def clean_participants(self) -> int:
        """Nobody without a name is enough where others have one."""
        return _somebody(self.cleaned_data["participants"], self.instance)


class TrimmerForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """A trimmer: what it can do, and how fast somebody is at it."""

    longest_cut = LengthField(required=False, label="Longest cut", help_text="Empty: it reaches across every sheet.")
    narrowest = LengthField(
        required=False, zero=True, label="Narrowest strip it can hold", help_text="0: however narrow."
    )
    keep_short = LengthField(label="Keep an offcut that is at least this wide", help_text="Narrower ones are waste.")
    keep_long = LengthField(label="…and at least this long")
    error = LengthField(required=False, zero=True, label="A cut may be off by", help_text="Like 1/32 in, or 1 mm.")

    class Meta:
        model = Trimmer
        fields = ["name", "place", "unit", "stack", "longest_cut", "narrowest", "keep_short", "keep_long", "error"]
        fields += ["most_piles", "setting_seconds", "stack_seconds", "stroke_seconds", "hour_worth"]
        labels = {
            "name": "What you call it",
            "place": "Where it stands",
            "unit": "Its ruler",
            "stack": "Sheets cut at once",
            "most_piles": "Piles that may wait on the table",
            "setting_seconds": "Setting the rail, seconds",
            "stack_seconds": "Fetching a stack, seconds",
            "stroke_seconds": "A stroke, seconds",
            "hour_worth": "What an hour at it is worth to you",
        }
        help_texts = {
            "stack": "How many sheets it cuts cleanly in one stroke. Follow its maker’s advice.",
            "most_piles": "Of parts that are cut again later. Empty: as many as it takes.",
            "hour_worth": "In money, against paper: it says which plan is proposed. Empty or 0: the fewest sheets.",
        }
        error_messages = {
            "hour_worth": {
                **dict.fromkeys(("max_digits", "max_whole_digits"), "Write an amount up to 9,999.99."),
                "max_decimal_places": "Write at most two places after the point, like 12.50.",
            }
        }

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        unit = self.data.get("unit") or self.initial.get("unit") or self.instance.unit
        for name in (*_HABITS, "error"):
            self.fields[name].ruler_key = "mm" if unit == "mm" else "in64"
        self.fields["hour_worth"].required = False

    def clean_hour_worth(self) -> Decimal:
        """An empty field means that an hour costs nothing."""
        return self.cleaned_data["hour_worth"] or Decimal(0)

    def clean_narrowest(self) -> int:
        """An empty field means that nothing is too narrow."""
        return self.cleaned_data["narrowest"] or 0

    def clean_error(self) -> int:
        """An empty field means that no cut is off."""
        return self.cleaned_data["error"] or 0


class CountForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """How many of one card, of which version if its list names some, and in whose envelope.

    ``hosts`` are the other cards that have an envelope, by letter, ``offers`` by name the letters of what can be
    ordered.
    """

    version = forms.ChoiceField(required=False, label="Version")
    envelope_of = forms.ChoiceField(required=False, label="Envelope")

    class Meta:
        model = ClassCard
        fields = ["version", "envelope_of", "each", "samples", "spares"]

    def __init__(self, *args, versions=(), hosts=(), offers=None, **kwargs):
        super().__init__(*args, **kwargs)
        self.offers = offers or {}
        self.fields["envelope_of"].choices = [
            ("", "its own envelope"),
            *((letter, f"in the envelope of {letter}") for letter in hosts),
        ]
        if not hosts:
            del self.fields["envelope_of"]
        if versions:
            self.fields["version"].choices = [("", "the lines of all"), *((each, each) for each in versions)]
        else:
            del self.fields["version"]

    def clean_envelope_of(self) -> str:
        """Whoever orders this card has to get the other, too."""
        host, mine = self.cleaned_data["envelope_of"], self.instance.letter
        alone = [name for name, letters in self.offers.items() if mine in letters and host not in letters]
        if host and alone:
            raise forms.ValidationError(f"“{alone[0]}” has {mine} without {host}: there it would have no envelope.")
        return host

    def clean_version(self) -> str:
        """Not one that the class makes under another letter."""
        version, mine = self.cleaned_data["version"], self.instance
        same = ClassCard.objects.there().filter(card_class=mine.card_class_id, card=mine.card_id, version=version)
        there = same.exclude(pk=mine.pk).first()
        if there:
            raise forms.ValidationError(f"The class makes that already, as {there.letter}.")
        return version
