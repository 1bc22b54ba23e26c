"""Forms of the design desk."""

from __future__ import annotations

from django import forms

from zester.designs.models import Card
from zester.site.fields import BootstrapMixin


class CardForm(BootstrapMixin, forms.ModelForm):
    """A card's name and the ruler its list is read with."""

    class Meta:
        model = Card
        fields = ["name", "ruler"]
        labels = {"ruler": "Measured in"}
        help_texts = {"ruler": "What a number without a unit means in this card's list, and the finest mark."}


class ListForm(forms.Form):
    """What the editor sends: the text, the version it was based on, which editor it is."""

    cut_list = forms.CharField(
        required=False,
        max_length=40_000,
        strip=False,
        error_messages={"max_length": "A cut list holds 40,000 letters. Make a second card of the rest."},
    )
    version = forms.IntegerField(min_value=0)
    editor = forms.CharField(max_length=40)
    force = forms.BooleanField(required=False)
