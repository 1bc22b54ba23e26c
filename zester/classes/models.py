"""A class: who comes, which cards, how many of each."""

from __future__ import annotations

import datetime

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from zester.core.lengths import RULERS, TICKS_PER_INCH
from zester.core.tally import MOST_EACH, MOST_PARTICIPANTS
from zester.designs.models import RULER_CHOICES
from zester.site.owned import Owned


class CardClass(Owned):
    """A card-making class. Lengths are ticks; ``stack`` is how many sheets the trimmer cuts at once.

    ``auto_fit`` says that plans follow every change by themselves. The counts are facts that lists show, stored when
    the class was counted last; ``counted_at`` is empty where that has still to be done.
    """

    what = "class"
    restore_view = "classes:restore"

    title = models.CharField(max_length=80)
    date = models.DateField(null=True, blank=True)
    participants = models.PositiveIntegerField(
        default=1,
        validators=[
            MinValueValidator(1, "A class needs at least 1 person."),
            MaxValueValidator(MOST_PARTICIPANTS, "Zester plans classes of up to %(limit_value)s people."),
        ],
    )
    ruler = models.CharField(max_length=5, choices=RULER_CHOICES, default="in16")
    stack = models.PositiveIntegerField(
        default=3,
        validators=[
            MinValueValidator(1, "At least 1 sheet is cut at a time."),
            MaxValueValidator(10, "More than %(limit_value)s sheets make no clean cut."),
        ],
    )
    keep_short = models.PositiveIntegerField(default=TICKS_PER_INCH)
    keep_long = models.PositiveIntegerField(default=3 * TICKS_PER_INCH)
    longest_cut = models.PositiveIntegerField(null=True, blank=True)
    narrowest = models.PositiveIntegerField(default=0)
    auto_fit = models.BooleanField(default=True)
    n_cards = models.PositiveIntegerField(default=0, editable=False)
    n_lines = models.PositiveIntegerField(default=0, editable=False)
    n_wrong = models.PositiveIntegerField(default=0, editable=False)
    n_pieces = models.PositiveIntegerField(default=0, editable=False)
    n_bags = models.PositiveIntegerField(default=0, editable=False)
    counted_at = models.DateTimeField(null=True, editable=False)
    cards = models.ManyToManyField("designs.Card", through="ClassCard", related_name="classes")

    class Meta:
        ordering = ["-date", "-created_at"]
        verbose_name = "class"
        verbose_name_plural = "classes"

    def __str__(self) -> str:
        return self.title

    @property
    def unit(self) -> str:
        """The unit its lengths are shown in."""
        return RULERS[self.ruler].unit


class ClassPaper(models.Model):
    """What a class wishes of one paper: how its pieces are pooled, which layouts stay.

    ``pins`` are layouts as a plan writes them, their lengths in ``pins_unit``.
    """

    POOLS = {
        "together": "all from common sheets",
        "own": "everybody’s from their own sheets",
        "portions": "portions, cut up at home",
    }

    card_class = models.ForeignKey(CardClass, on_delete=models.CASCADE, related_name="papers")
    paper = models.ForeignKey("shelf.Paper", on_delete=models.CASCADE, related_name="class_papers")
    pool = models.CharField(max_length=8, choices=list(POOLS.items()), default="together")
    pins = models.JSONField(default=list, blank=True)
    pins_unit = models.CharField(max_length=2, default="in")

    class Meta:
        constraints = [models.UniqueConstraint("card_class", "paper", name="a_paper_once_a_class")]

    def __str__(self) -> str:
        return f"{self.paper} in {self.card_class}"


class ClassCardQuerySet(models.QuerySet):
    """Queries for cards in classes."""

    def used(self) -> ClassCardQuerySet:
        """Those that were not taken out, of designs that are not removed, in classes that are not."""
        return self.filter(removed_at=None, card__removed_at=None, card_class__removed_at=None)


class ClassCard(models.Model):
    """A card in a class: its letter, which version is made, how many for each participant, samples and spares.

    A card taken out of a class is only marked, which makes undo simple; the design is kept in the library.
    """

    card_class = models.ForeignKey(CardClass, on_delete=models.CASCADE, related_name="class_cards")
    card = models.ForeignKey("designs.Card", on_delete=models.CASCADE, related_name="class_cards")
    letter = models.CharField(max_length=1)
    version = models.CharField(max_length=40, blank=True)
    each = models.PositiveIntegerField(
        default=1, validators=[MaxValueValidator(MOST_EACH, "At most %(limit_value)s of a card for each person.")]
    )
    samples = models.PositiveIntegerField(
        default=1, validators=[MaxValueValidator(MOST_EACH, "At most %(limit_value)s samples.")]
    )
    spares = models.PositiveIntegerField(
        default=0, validators=[MaxValueValidator(MOST_EACH, "At most %(limit_value)s spares.")]
    )

    removed_at = models.DateTimeField(null=True, blank=True, editable=False)

    objects = ClassCardQuerySet.as_manager()

    class Meta:
        ordering = ["letter"]
        constraints = [models.UniqueConstraint("card_class", "card", name="a_card_once_a_class")]

    def __str__(self) -> str:
        return f"{self.letter} {self.card}"

    def take_out(self, when: datetime.datetime | None) -> None:
        """Mark as taken out of its class, or with None as put back."""
        self.removed_at = when
        self.save(update_fields=["removed_at"])
