"""The designer's cards with their written cut lists."""

from __future__ import annotations

from uuid import uuid4

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import models

from zester.core.errors import ZesterError
from zester.core.kits.supplies import read_supplies
from zester.core.pieces import SHAPES
from zester.site.links import LONGEST_LINK, is_link
from zester.site.owned import Owned

RULER_CHOICES = [
    ("in16", "inches, sixteenths"),
    ("in32", "inches, thirty-seconds"),
    ("in64", "inches, sixty-fourths"),
    ("mm", "millimetres"),
]


def photo_name(_photo: Photo, _name: str) -> str:
    """A name for a photo that nobody can guess and that says nothing of the file it came from."""
    return f"photos/{uuid4().hex}.jpg"


def of_supplies(text: str) -> None:
    """Every line names a supply; links are links.

    Raises
    ------
    ValidationError
        If one does not.
    """
    try:
        read_supplies(text)
    except ZesterError as error:
        raise ValidationError(error.advice()) from error


class Card(Owned):
    """A card. Its cut list is kept exactly as typed, right or wrong; what it means is read anew each time.

    ``saves`` counts the saves and ``saved_by`` names the open editor that saved last, so that two tabs cannot
    overwrite each other unseen. ``went_wrong`` is what to mind next time.
    """

    what = "design"
    restore_view = "designs:restore"

    name = models.CharField(max_length=60)
    # What comes once a person and belongs to no card is written like a card, but is none.
    is_kit = models.BooleanField(default=False, editable=False)
    ruler = models.CharField(max_length=5, choices=RULER_CHOICES, default="in16")
    cut_list = models.TextField(blank=True, max_length=40_000)
    saves = models.PositiveIntegerField(default=0)
    saved_by = models.CharField(max_length=40, blank=True)
    saved_at = models.DateTimeField(auto_now=True)
    notes = models.TextField(blank=True, max_length=4000)
    went_wrong = models.TextField(blank=True, max_length=4000)
    # What is used and not cut, by name, one a line; see ``core.kits.supplies``.
    supplies = models.TextField(blank=True, max_length=8000, validators=[of_supplies])
    # The teacher's own words to steps of the hand-out, by the step's key.
    teaching = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Photo(Owned):
    """A photo of a card as it was made, or of a part of it. Its file never changes: another photo is another row."""

    what = "photo"
    restore_view = "designs:restore_photo"

    card = models.ForeignKey(Card, on_delete=models.CASCADE, related_name="photos")
    image = models.ImageField(blank=True, upload_to=photo_name)
    words = models.CharField(max_length=80, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.words or "the finished card"


class Edition(models.Model):
    """A state of a card's list that is kept: by hand under a name, or before an import replaces it."""

    card = models.ForeignKey(Card, on_delete=models.CASCADE, related_name="editions")
    name = models.CharField(max_length=60)
    cut_list = models.TextField(blank=True, max_length=40_000)
    ruler = models.CharField(max_length=5, choices=RULER_CHOICES, default="in16")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created_at"]

    def __str__(self) -> str:
        return self.name


class ColumnMap(models.Model):
    """What the columns of a table of another make held last time, by its headings; both one a line."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    heads = models.TextField(max_length=9000)
    kinds = models.CharField(max_length=400)

    class Meta:
        constraints = [models.UniqueConstraint("owner", "heads", name="one_column_map_of_a_table")]

    def __str__(self) -> str:
        return self.heads.replace("\n", ", ")


class OwnWord(Owned):
    """A word of the designer's own, with what it stands for in a list; used once she has said so.

    ``seen`` counts how often she picked that for it; from the second time on it is proposed.
    """

    what = "word"
    restore_view = "designs:restore_word"

    word = models.CharField(max_length=40)
    means = models.CharField(max_length=80)
    seen = models.PositiveSmallIntegerField(default=0)
    is_used = models.BooleanField(default=False)

    class Meta:
        ordering = ["word", "pk"]

    def __str__(self) -> str:
        return f"“{self.word}”"


class Tool(Owned):
    """A set of dies, a punch or an embossing folder, as lists name it. Lengths are ticks.

    ``sizes`` are pairs of width and height, the smallest first: the numbers of a nested set.
    """

    what = "tool"
    restore_view = "designs:restore_tool"

    class Kind(models.TextChoices):
        """What it does."""

        DIE = "die", "dies"
        PUNCH = "punch", "punch"
        FOLDER = "folder", "embossing folder"

    name = models.CharField(max_length=40)
    kind = models.CharField(max_length=6, choices=Kind, default=Kind.DIE)
    shape = models.CharField(max_length=10, choices=[(shape, shape) for shape in SHAPES], default="circle")
    sizes = models.JSONField(default=list, blank=True)
    reach = models.PositiveIntegerField(default=0)
    largest_width = models.PositiveIntegerField(null=True, blank=True)
    largest_height = models.PositiveIntegerField(null=True, blank=True)
    merchant = models.CharField(max_length=80, blank=True)
    link = models.CharField(max_length=LONGEST_LINK, blank=True, validators=[is_link])

    class Meta:
        ordering = ["kind", "name"]
        constraints = [
            models.UniqueConstraint(
                "owner", models.functions.Lower("name"), name="one_tool_of_a_name", condition=models.Q(removed_at=None)
            )
        ]

    def __str__(self) -> str:
        return self.name
