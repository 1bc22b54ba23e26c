"""Guides of a library, and which of them a class is cut by."""

from __future__ import annotations

from django.core.exceptions import ValidationError
from django.db import models

from zester.classes.models import CardClass
from zester.core.casting.guide import load_guide
from zester.core.errors import ZesterError
from zester.shelf.models import UNITS, Pad
from zester.site.owned import Owned

LONGEST_LINES = 8000


def is_guide(text: str) -> None:
    """It can be read.

    Raises
    ------
    ValidationError
        If it cannot.
    """
    try:
        load_guide(text)
    except ZesterError as error:
        raise ValidationError(error.advice()) from error


class Guide(Owned):
    """How every lettered sheet of a pad is cut; see ``core.casting.guide``. Lengths are ticks.

    ``lines`` is kept exactly as typed, right or wrong. ``made`` is what can be used of it, as open JSON.
    """

    what = "guide"
    restore_view = "casting:restore"

    name = models.CharField(max_length=60)
    unit = models.CharField(max_length=2, choices=UNITS, default="in")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    lines = models.TextField(blank=True, max_length=LONGEST_LINES)
    made = models.TextField(editable=False, validators=[is_guide])

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class ClassGuide(models.Model):
    """The guide and the pad of a class, and her marks there.

    ``made`` is the guide as the class took it: what becomes of it in the library changes no plan. ``marks``: pairs of
    papers' keys that go ``together`` always or ``never``.
    """

    card_class = models.OneToOneField(CardClass, on_delete=models.CASCADE, related_name="cast_by")
    guide = models.ForeignKey(Guide, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    name = models.CharField(max_length=60, blank=True)
    made = models.TextField(blank=True, validators=[is_guide])
    pad = models.ForeignKey(Pad, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    marks = models.JSONField(default=dict, blank=True)

    def __str__(self) -> str:
        return f"{self.name or 'no guide'} in {self.card_class}"


class GuideSearch(models.Model):
    """A guide that is looked for, for one class: what was found last.

    ``made`` is the best so far, as open JSON; ``nudges`` are sizes (pairs of ticks) that would save a sheet if they
    were a little smaller, with the sheets it takes then.
    """

    class State(models.TextChoices):
        """How it stands."""

        ASKED = "asked", "waiting for a worker"
        LOOKING = "looking", "looking"
        DONE = "done", "done"
        STOPPED = "stopped", "stopped"
        FAILED = "failed", "nothing found"

    OPEN = (State.ASKED, State.LOOKING)

    card_class = models.OneToOneField(CardClass, on_delete=models.CASCADE, related_name="guide_search")
    state = models.CharField(max_length=7, choices=State, default=State.ASKED)
    told = models.CharField(max_length=200, blank=True)
    made = models.TextField(blank=True, validators=[is_guide])
    bound = models.PositiveIntegerField(default=0)
    nudges = models.JSONField(default=list, blank=True)
    asked_at = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"a guide for {self.card_class}, {self.get_state_display()}"

    @property
    def is_open(self) -> bool:
        """Whether a worker looks, or will."""
        return self.state in self.OPEN
