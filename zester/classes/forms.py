"""Forms for a class and its counts."""

from __future__ import annotations

from django import forms

from zester.classes.models import CardClass, ClassCard
from zester.site.fields import BootstrapMixin, LengthField
from zester.site.seen import SeenMixin


class ClassForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """A class and the habits of its bench."""

    keep_short = LengthField(label="…at least this wide", help_text="Narrower offcuts count as waste.")
    keep_long = LengthField(label="…and at least this long")

    longest_cut = LengthField(
        required=False, label="Longest cut of the trimmer", help_text="Empty: it reaches across every sheet."
    )
    narrowest = LengthField(
        required=False, zero=True, label="Narrowest strip it can hold", help_text="0: however narrow."
    )

    class Meta:
        model = CardClass
        fields = [
            "title",
            "date",
            "participants",
            "auto_fit",
            "ruler",
            "stack",
            "longest_cut",
            "narrowest",
            "keep_short",
            "keep_long",
        ]
        labels = {
            "auto_fit": "Keep the sheets always current",
            "ruler": "Measured in",
            "stack": "Sheets cut at once",
            "participants": "Participants",
        }
        help_texts = {
            "auto_fit": "Every change is laid out on sheets at once. Without it you press a button.",
            "stack": "How many sheets your trimmer cuts cleanly in one stroke. Follow its maker’s advice.",
        }
        widgets = {
            "date": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
            "title": forms.TextInput(attrs={"autofocus": True}),
        }

    def __init__(self, *args, **kwargs):
        # A new class starts from the model's usual habits; Django would leave declared fields empty.
        kwargs.setdefault("instance", CardClass())
        super().__init__(*args, **kwargs)
        ruler = self.data.get("ruler") or self.initial.get("ruler") or "in16"
        for name in ("keep_short", "keep_long", "longest_cut", "narrowest"):
            self.fields[name].ruler_key = ruler if ruler in dict(CardClass._meta.get_field("ruler").choices) else "in16"

    def clean_narrowest(self) -> int:
        """An empty field means that nothing is too narrow."""
        return self.cleaned_data["narrowest"] or 0


class FirstClassForm(BootstrapMixin, forms.ModelForm):
    """What a first class is asked for; all else is as usual."""

    class Meta:
        model = CardClass
        fields = ["title", "participants", "ruler"]
        labels = {"title": "What is it called?", "participants": "How many come?", "ruler": "Measured in"}
        widgets = {"title": forms.TextInput(attrs={"autofocus": True})}


class ParticipantsForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """How many people come."""

    class Meta:
        model = CardClass
        fields = ["participants"]


class CountForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """How many of one card, and of which version if its list names some."""

    version = forms.ChoiceField(required=False, label="Version")

    class Meta:
        model = ClassCard
        fields = ["version", "each", "samples", "spares"]

    def __init__(self, *args, versions=(), **kwargs):
        super().__init__(*args, **kwargs)
        if versions:
            self.fields["version"].choices = [("", "the lines of all"), *((each, each) for each in versions)]
        else:
            del self.fields["version"]
