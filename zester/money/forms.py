"""What is written of a class's costs."""

from __future__ import annotations

from decimal import Decimal

from django import forms

from zester.classes.models import CardClass
from zester.core.tally import MOST_EACH, MOST_PARTICIPANTS
from zester.site.fields import BootstrapMixin
from zester.site.seen import SeenMixin


class CostsForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """Costs and post rates, one a line."""

    class Meta:
        model = CardClass
        fields = ["costs", "post_rates"]
        labels = {"costs": "What it costs beside papers and bits", "post_rates": "What post costs"}
        help_texts = {
            "costs": "One a line, like: room 40 · drinks 2.50 a person · bags 0.30 a kit · glue 0.05 a card · "
            "6 h at 18",
            "post_rates": "One a line, like: 100 g, 10 mm: 1.60 · 500 g: 4.20. What your carrier "
            "asks varies and changes.",
        }
        widgets = {name: forms.Textarea(attrs={"rows": 5, "spellcheck": "false"}) for name in ("costs", "post_rates")}


class TryForm(BootstrapMixin, forms.Form):
    """Another number of people, another price, other spares: to look at, not to keep."""

    people = forms.IntegerField(required=False, min_value=0, max_value=MOST_PARTICIPANTS, label="People")
    price = forms.DecimalField(
        required=False, min_value=Decimal(0), max_digits=8, decimal_places=2, label="Price of one"
    )
    spares = forms.IntegerField(required=False, min_value=0, max_value=MOST_EACH, label="Spares")
