"""A class: who comes, which cards, how many of each."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from copy import copy
from decimal import Decimal

from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.utils import timezone

from zester.classes.kept_shelf import named
from zester.core.errors import ZesterError
from zester.core.kits.demand import EVERYBODY, LAST, SINCE, SOME
from zester.core.kits.offers import MOST_KITS, STATES
from zester.core.kits.packing import BAGGINGS, BY_DESIGN
from zester.core.lengths import RULERS, TICKS_PER_INCH, TICKS_PER_MM
from zester.core.money.accounts import KINDS as PAYMENTS
from zester.core.money.accounts import PAID, SENT
from zester.core.money.cost_lines import read_costs, read_post
from zester.core.pace import DEFAULT_PACE, Pace
from zester.core.tally import MOST_EACH, MOST_PARTICIPANTS
from zester.core.usual_times import BEFOREHAND
from zester.designs.models import RULER_CHOICES
from zester.shelf.models import NOT_BELOW_NOTHING
from zester.site.owned import Owned
from zester.site.shapes import ShapeField

STACK_LIMITS = [
    MinValueValidator(1, "At least 1 sheet is cut at a time."),
    MaxValueValidator(10, "More than %(limit_value)s sheets make no clean cut."),
]


def of_costs(text: str) -> None:
    """Every line is understood. Raises ValidationError."""
    _read_by(read_costs, text)


def of_post(text: str) -> None:
    """Every line is understood. Raises ValidationError."""
    _read_by(read_post, text)


def _read_by(reader: Callable[[str], object], text: str) -> None:
    try:
        reader(text)
    except ZesterError as error:
        raise ValidationError(error.advice()) from error


def usually_before() -> list[str]:
    """What is done before a class where nobody has said otherwise."""
    return sorted(BEFOREHAND)


class Trimmer(Owned):
    """Somebody's trimmer, at a place: what it can do and how fast they are at it. Lengths are ticks.

    ``error`` is how far a cut may be off; the seconds are for setting the rail, for fetching a stack, for a stroke.
    """

    what = "trimmer"
    restore_view = "classes:restore_trimmer"

    name = models.CharField(max_length=60, default="My trimmer")
    place = models.CharField(max_length=80, blank=True)
    unit = models.CharField(max_length=2, choices=[("in", "inches"), ("mm", "millimetres")], default="in")
    stack = models.PositiveIntegerField(default=3, validators=STACK_LIMITS)
    longest_cut = models.PositiveIntegerField(null=True, blank=True)
    narrowest = models.PositiveIntegerField(default=0)
    keep_short = models.PositiveIntegerField(default=TICKS_PER_INCH)
    keep_long = models.PositiveIntegerField(default=3 * TICKS_PER_INCH)
    error = models.PositiveIntegerField(default=TICKS_PER_INCH // 32)
    most_piles = models.PositiveSmallIntegerField(
        null=True,
        blank=True,
        default=12,
        validators=[
            MinValueValidator(3, "With fewer than %(limit_value)s piles hardly any plan can be cut."),
            MaxValueValidator(99, "Leave it empty where there is room for so many."),
        ],
    )
    setting_seconds = models.PositiveSmallIntegerField(
        default=DEFAULT_PACE.setting, validators=[MaxValueValidator(600)]
    )
    stack_seconds = models.PositiveSmallIntegerField(default=DEFAULT_PACE.stack, validators=[MaxValueValidator(600)])
    stroke_seconds = models.PositiveSmallIntegerField(default=DEFAULT_PACE.stroke, validators=[MaxValueValidator(600)])
    # What an hour at it is worth to somebody, against paper.
    hour_worth = models.DecimalField(max_digits=6, decimal_places=2, default=0, validators=[MinValueValidator(0)])

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.name}, {self.place}" if self.place else self.name

    @classmethod
    def usual(cls, unit: str, **more) -> Trimmer:
        """One in round figures of a unit, not stored: it keeps 1 by 3 in or 25 by 75 mm, is off by 1/32 in or 1 mm."""
        if unit == "mm":
            more = {"keep_short": 25 * TICKS_PER_MM, "keep_long": 75 * TICKS_PER_MM, "error": TICKS_PER_MM} | more
        return cls(unit=unit, **more)

    @property
    def pace(self) -> Pace:
        """How fast somebody is at it."""
        return Pace(setting=self.setting_seconds, stack=self.stack_seconds, stroke=self.stroke_seconds)


class CardClass(Owned):
    """A card-making class. Lengths are ticks.

    ``participants`` are those who come and have no name yet; ``n_people`` are all. What is written of ``stack``,
    ``longest_cut``, ``narrowest`` and the keep-size holds for this class in place of what its trimmer says.
    ``beforehand`` are the keys of ``core.usual_times.KINDS`` that are done before it where no line says otherwise.
    ``auto_fit`` says that plans follow every change by themselves. The counts are facts that lists show, stored when
    the class was counted last; ``counted_at`` is empty where that has still to be done.
    """

    class Where(models.TextChoices):
        """Where it is held."""

        ROOM = "room", "in a room"
        POST = "post", "a call, with kits by post"
        BOTH = "both", "both: some in the room, some by post"

    class Repeats(models.TextChoices):
        """How often."""

        ONCE = "", "once"
        WEEK = "week", "every week"
        TWO_WEEKS = "two", "every other week"
        MONTH = "month", "every month"

    class Spread(models.TextChoices):
        """How its cards are spread."""

        AT_ONCE = "", "all at once"
        DAY = "day", "a card a day"
        WEEK = "week", "a card a week"

    class SpareBy(models.TextChoices):
        """What is made more of."""

        PIECE = "piece", "of every piece"
        KIT = "kit", "kits"

    what = "class"
    restore_view = "classes:restore"

    title = models.CharField(max_length=80)
    date = models.DateField(null=True, blank=True)
    time = models.TimeField(null=True, blank=True)
    minutes = models.PositiveIntegerField(default=150, validators=[MinValueValidator(5), MaxValueValidator(1440)])
    where = models.CharField(max_length=4, choices=Where, default=Where.ROOM)
    place = models.CharField(max_length=120, blank=True)
    repeats = models.CharField(max_length=5, choices=Repeats, default=Repeats.ONCE, blank=True)
    spread = models.CharField(max_length=4, choices=Spread, default=Spread.AT_ONCE, blank=True)
    order_by = models.DateField(null=True, blank=True)
    capacity = models.PositiveIntegerField(
        null=True,
        blank=True,
        validators=[
            MinValueValidator(1, "A class needs room for at least 1 person."),
            MaxValueValidator(MOST_PARTICIPANTS, "Zester plans classes of up to %(limit_value)s people."),
        ],
    )
    notes = models.TextField(blank=True, max_length=4000)
    participants = models.PositiveIntegerField(
        default=1,
        validators=[
            MaxValueValidator(MOST_PARTICIPANTS, "Zester plans classes of up to %(limit_value)s people."),
        ],
    )
    give_aways = models.PositiveIntegerField(
        default=0, validators=[MaxValueValidator(MOST_EACH, "At most %(limit_value)s kits to give away.")]
    )
    # What it costs beside papers and bits, and what post costs: see ``core.money.cost_lines``.
    costs = models.TextField(blank=True, max_length=2000, validators=[of_costs])
    post_rates = models.TextField(blank=True, max_length=2000, validators=[of_post])
    post_inside = models.DecimalField(
        max_digits=6, decimal_places=2, null=True, blank=True, validators=[NOT_BELOW_NOTHING]
    )
    post_abroad = models.DecimalField(
        max_digits=6, decimal_places=2, null=True, blank=True, validators=[NOT_BELOW_NOTHING]
    )
    spare_by = models.CharField(max_length=5, choices=SpareBy, default=SpareBy.PIECE)
    spare_number = models.PositiveIntegerField(
        default=0, validators=[MaxValueValidator(MOST_EACH, "At most %(limit_value)s spares.")]
    )
    spare_percent = models.PositiveIntegerField(
        default=0, validators=[MaxValueValidator(100, "At most %(limit_value)s per cent.")]
    )
    bagging = models.CharField(max_length=6, choices=list(BAGGINGS.items()), default=BY_DESIGN)
    beforehand = models.JSONField(default=usually_before, blank=True)
    offcuts_first = models.BooleanField(default=True)
    ruler = models.CharField(max_length=5, choices=RULER_CHOICES, default="in16")
    trimmer = models.ForeignKey(Trimmer, on_delete=models.SET_NULL, null=True, blank=True, related_name="classes")
    stack = models.PositiveIntegerField(null=True, blank=True, validators=STACK_LIMITS)
    keep_short = models.PositiveIntegerField(null=True, blank=True)
    keep_long = models.PositiveIntegerField(null=True, blank=True)
    longest_cut = models.PositiveIntegerField(null=True, blank=True)
    narrowest = models.PositiveIntegerField(null=True, blank=True)
    auto_fit = models.BooleanField(default=True)
    n_people = models.PositiveIntegerField(default=0, editable=False)
    # What it takes of bits, as it was counted last: name, count, length, the sum in words.
    bits = models.JSONField(default=list, blank=True, editable=False)
    n_cards = models.PositiveIntegerField(default=0, editable=False)
    n_lines = models.PositiveIntegerField(default=0, editable=False)
    n_wrong = models.PositiveIntegerField(default=0, editable=False)
    # Pieces of lettered sheets that no paper is cast for.
    n_uncast = models.PositiveIntegerField(default=0, editable=False)
    n_faults = models.PositiveIntegerField(default=0, editable=False)
    n_pieces = models.PositiveIntegerField(default=0, editable=False)
    n_bags = models.PositiveIntegerField(default=0, editable=False)
    counted_at = models.DateTimeField(null=True, editable=False)
    # The papers that what was typed since then is about; empty where the class waits for a count of all of them.
    touched = models.JSONField(default=list, blank=True, editable=False)
    # What papers were called and what tools there were when the first of it was cut; empty: it follows the shelf.
    kept_shelf = ShapeField(shape="class-shelf/1", default=dict, blank=True, editable=False)
    # Since when all of it is handed over; until somebody opens it again nothing of it changes.
    closed_at = models.DateTimeField(null=True, editable=False)
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

    @property
    def can_close(self) -> bool:
        """Whether it may be handed over by now: something of it is cut or packed, or its day has come."""
        come = self.date is not None and self.date <= timezone.localdate()
        return self.closed_at is None and bool(self.kept_shelf or come)

    def date_of(self, number: int) -> datetime.date | None:
        """When its card of this number, from 0, is made; None if it has no date or all are made at once."""
        if self.date is None or not self.spread:
            return None
        return self.date + number * datetime.timedelta(days=7 if self.spread == self.Spread.WEEK else 1)

    @property
    def cut_with(self) -> Trimmer:
        """Its trimmer; a usual one if none is chosen."""
        return self.trimmer or Trimmer.usual(self.unit)

    def habit(self, name: str) -> int | None:
        """``stack``, ``longest_cut``, ``narrowest``, ``keep_short`` or ``keep_long``: its own, or its trimmer's."""
        mine = getattr(self, name)
        return getattr(self.cut_with, name) if mine is None else mine


class ClassPaper(models.Model):
    """What a class wishes of one paper: how its pieces are pooled, which layouts stay.

    ``pins`` are layouts as a plan writes them, their lengths in ``pins_unit``.
    """

    POOLS = {
        "together": "all from common sheets",
        "own": "everybody’s from their own sheets",
        "portions": "portions, cut up at home",
        "whole": "whole sheets, cut up at home",
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


# What a class keeps of a design.
HELD = ("name", "ruler", "cut_list", "teaching")


class ClassCardQuerySet(models.QuerySet):
    """Queries for cards in classes."""

    def used(self) -> ClassCardQuerySet:
        """Those that were not taken out, of designs that are there, in classes that are."""
        return self.there().filter(card_class__removed_at=None)

    def there(self) -> ClassCardQuerySet:
        """Those that were not taken out, of designs that are not removed; what a class keeps is there in any case."""
        return self.filter(models.Q(card__removed_at=None) | ~models.Q(held={}), removed_at=None)


class ClassCard(models.Model):
    """A card in a class: its letter, which version is made, how many for each participant, samples and spares.

    A card taken out of a class is only marked, which makes undo simple; the design is kept in the library. From the
    first cut on a class keeps its own state of each design (``held``), whatever becomes of that in the library.
    """

    card_class = models.ForeignKey(CardClass, on_delete=models.CASCADE, related_name="class_cards")
    card = models.ForeignKey("designs.Card", on_delete=models.CASCADE, related_name="class_cards")
    letter = models.CharField(max_length=3)
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

    # The letter of the card in whose envelope it goes; empty: it has its own.
    envelope_of = models.CharField(max_length=3, blank=True)
    removed_at = models.DateTimeField(null=True, blank=True, editable=False)
    # The fields of the design as the class keeps them; empty: it follows the design.
    held = ShapeField(shape="class-design/1", default=dict, blank=True, editable=False)

    objects = ClassCardQuerySet.as_manager()

    class Meta:
        ordering = ["letter"]

    def __str__(self) -> str:
        return f"{self.letter} {self.card}"

    restore_view = "classes:put_back"

    @property
    def what(self) -> str:
        """What it is in a word."""
        return f"card of {self.card_class.title}"

    def as_held(self) -> ClassCard:
        """The same with its design as the class keeps it. Not to be stored."""
        if self.held:
            self.card = copy(self.card)
            for name in HELD:
                setattr(self.card, name, self.held[name])
        return self

    @property
    def differs(self) -> bool:
        """Whether the class keeps another list than its design has."""
        return bool(self.held) and any(self.held[name] != getattr(self.card, name) for name in ("cut_list", "ruler"))


class Offer(models.Model):
    """Something that can be ordered in a class; see ``core.kits.offers``.

    ``cards``: by letter how many a set holds; empty: as the class says. ``pools``: by a paper's key or kind how it is
    handed out. ``extras`` are written like bits, one a line. ``among``: keys of the papers to choose from.
    """

    card_class = models.ForeignKey(CardClass, on_delete=models.CASCADE, related_name="offers")
    name = models.CharField(max_length=60)
    sets = models.PositiveSmallIntegerField(
        default=1, validators=[MinValueValidator(1, "At least 1 set."), MaxValueValidator(20, "At most 20 sets.")]
    )
    cards = models.JSONField(default=dict, blank=True)
    pools = models.JSONField(default=dict, blank=True)
    extras = models.TextField(blank=True, max_length=2000)
    kit_list = models.BooleanField(default=True)
    bits = models.BooleanField(default=True)
    price = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True, validators=[NOT_BELOW_NOTHING])
    with_post = models.BooleanField(default=False)
    post_to = models.CharField(max_length=80, blank=True)
    free_above = models.DecimalField(
        max_digits=8, decimal_places=2, null=True, blank=True, validators=[NOT_BELOW_NOTHING]
    )
    free_from = models.DateField(null=True, blank=True)
    free_until = models.DateField(null=True, blank=True)
    # How many of the people without a name have it.
    unnamed = models.PositiveIntegerField(default=0, validators=[MaxValueValidator(MOST_PARTICIPANTS)])
    free_below = models.DecimalField(
        max_digits=8, decimal_places=2, null=True, blank=True, validators=[NOT_BELOW_NOTHING]
    )
    closes_on = models.DateField(null=True, blank=True)
    limit = models.PositiveIntegerField(null=True, blank=True, validators=[MaxValueValidator(MOST_PARTICIPANTS)])
    later_price = models.DecimalField(
        max_digits=8, decimal_places=2, null=True, blank=True, validators=[NOT_BELOW_NOTHING]
    )
    later_from = models.DateField(null=True, blank=True)
    member_price = models.DecimalField(
        max_digits=8, decimal_places=2, null=True, blank=True, validators=[NOT_BELOW_NOTHING]
    )
    choose = models.PositiveSmallIntegerField(default=0, validators=[MaxValueValidator(24, "At most 24 papers.")])
    among = models.JSONField(default=list, blank=True)
    choice_width = models.PositiveIntegerField(null=True, blank=True)
    choice_height = models.PositiveIntegerField(null=True, blank=True)
    choose_at_home = models.BooleanField(default=False)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint("card_class", models.functions.Lower("name"), name="one_offer_of_a_name_a_class")
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def key(self) -> str:
        """What the core knows it by."""
        return str(self.pk)


class Participant(models.Model):
    """Somebody of a class. ``chosen``: the keys of the papers they chose.

    ``sets``: how many of everything they get where nothing else can be ordered.
    """

    STATES = list(STATES.items())

    card_class = models.ForeignKey(CardClass, on_delete=models.CASCADE, related_name="people")
    name = models.CharField(max_length=80)
    contact = models.CharField(max_length=400, blank=True)
    address = models.CharField(max_length=400, blank=True)
    state = models.CharField(max_length=9, choices=STATES, default="booked")
    note = models.CharField(max_length=400, blank=True)
    chosen = models.JSONField(default=list, blank=True)
    sets = models.PositiveSmallIntegerField(
        default=1, validators=[MinValueValidator(1), MaxValueValidator(MOST_KITS, "At most %(limit_value)s sets.")]
    )
    ordered_on = models.DateField(null=True, blank=True)
    amount = models.DecimalField(max_digits=8, decimal_places=2, default=0, validators=[NOT_BELOW_NOTHING])
    goods = models.CharField(max_length=80, blank=True)
    own_share = models.DecimalField(max_digits=8, decimal_places=2, default=0, validators=[NOT_BELOW_NOTHING])
    member = models.BooleanField(default=False)
    sent = models.CharField(max_length=6, choices=list(SENT.items()), blank=True)
    # How many of their kits lie ready on the shelf already; nothing is cut for those.
    from_shelf = models.PositiveSmallIntegerField(default=0, editable=False)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["card_class", "state"], name="people_by_state")]

    def __str__(self) -> str:
        return self.name


class Order(models.Model):
    """So many of an offer for one person."""

    participant = models.ForeignKey(Participant, on_delete=models.CASCADE, related_name="orders")
    offer = models.ForeignKey(Offer, on_delete=models.RESTRICT, related_name="orders")
    count = models.PositiveIntegerField(
        default=1,
        validators=[MinValueValidator(1), MaxValueValidator(MOST_KITS, "At most %(limit_value)s of one offer.")],
    )

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint("participant", "offer", name="an_offer_once_a_person")]

    def __str__(self) -> str:
        return f"{self.count} {self.offer}"


class Payment(models.Model):
    """An amount that somebody paid on a day, that went back, or that nobody asks for any more; done is kept."""

    participant = models.ForeignKey(Participant, on_delete=models.CASCADE, related_name="payments")
    amount = models.DecimalField(max_digits=8, decimal_places=2, validators=[MinValueValidator(Decimal("0.01"))])
    on = models.DateField(default=timezone.localdate)
    kind = models.CharField(max_length=4, choices=list(PAYMENTS.items()), default=PAID)
    words = models.CharField(max_length=80, blank=True)
    at = models.DateTimeField(default=timezone.now, editable=False)
    removed_at = models.DateTimeField(null=True, blank=True, editable=False)

    class Meta:
        ordering = ["on", "pk"]

    def __str__(self) -> str:
        return f"{self.participant}: {self.amount} {self.get_kind_display()}"


class Casting(models.Model):
    """Which paper is which lettered sheet in one class; see ``core.casting.casting``.

    The first of a class is everybody's; another is that of the last kits (``last``), or only lies beside it (0).
    ``past`` and ``undone`` are what it was, for going back and forth.
    """

    card_class = models.ForeignKey(CardClass, on_delete=models.CASCADE, related_name="castings")
    name = models.CharField(max_length=40)
    cast = ShapeField(shape="casting/1", default=dict, blank=True)
    last = models.PositiveIntegerField(default=0, validators=[MaxValueValidator(MOST_PARTICIPANTS)])
    past = models.JSONField(default=list, blank=True, editable=False)
    undone = models.JSONField(default=list, blank=True, editable=False)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint("card_class", models.functions.Lower("name"), name="one_casting_of_a_name_a_class")
        ]

    def __str__(self) -> str:
        return self.name


class Substitution(models.Model):
    """One paper or bit in place of another in one class: for everybody, some people, the last kits, late orders."""

    WHO = [
        (EVERYBODY, "everybody"),
        (SOME, "some people"),
        (LAST, "the last kits"),
        (SINCE, "orders from a day on, and those to come"),
    ]

    card_class = models.ForeignKey(CardClass, on_delete=models.CASCADE, related_name="substitutions")
    paper = models.ForeignKey("shelf.Paper", on_delete=models.CASCADE, null=True, blank=True, related_name="+")
    other = models.ForeignKey("shelf.Paper", on_delete=models.CASCADE, null=True, blank=True, related_name="+")
    # Of bits their names.
    bit = models.CharField(max_length=60, blank=True)
    other_bit = models.CharField(max_length=60, blank=True)
    who = models.CharField(max_length=5, choices=WHO, default=EVERYBODY)
    since = models.DateField(null=True, blank=True)
    people = models.ManyToManyField(Participant, blank=True, related_name="substitutions")
    last = models.PositiveIntegerField(default=0, validators=[MaxValueValidator(MOST_PARTICIPANTS)])
    reason = models.CharField(max_length=120, blank=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(
                name="papers_or_bits_instead",
                condition=models.Q(paper__isnull=False, other__isnull=False, bit="", other_bit="")
                | (models.Q(paper=None, other=None) & ~models.Q(bit="") & ~models.Q(other_bit="")),
            )
        ]

    def __str__(self) -> str:
        return f"{self.taken} instead of {self.written}"

    @property
    def written(self) -> str:
        """What the lists say: the paper as the class calls it, or the bit."""
        return named(self.paper, self.card_class.kept_shelf).name if self.paper else self.bit

    @property
    def taken(self) -> str:
        """What is taken in its place."""
        return named(self.other, self.card_class.kept_shelf).name if self.other else self.other_bit
