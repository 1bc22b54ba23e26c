"""The designer's cards with their written cut lists."""

from __future__ import annotations

from django.db import models

from zester.site.owned import Owned

RULER_CHOICES = [
    ("in16", "inches, sixteenths"),
    ("in32", "inches, thirty-seconds"),
    ("in64", "inches, sixty-fourths"),
    ("mm", "millimetres"),
]


class Card(Owned):
    """A card. Its cut list is kept exactly as typed, right or wrong; what it means is read anew each time.

    ``version`` counts the saves and ``saved_by`` names the open editor that saved last, so that two tabs cannot
    overwrite each other unseen.
    """

    name = models.CharField(max_length=60)
    ruler = models.CharField(max_length=5, choices=RULER_CHOICES, default="in16")
    cut_list = models.TextField(blank=True, max_length=40_000)
    version = models.PositiveIntegerField(default=0)
    saved_by = models.CharField(max_length=40, blank=True)
    saved_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name
