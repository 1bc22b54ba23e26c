"""What a class needs of each paper, the plans that were found for it, and the work that finds them."""

from __future__ import annotations

from decimal import Decimal
from functools import cached_property

from django.db import models

from zester.classes.kept_shelf import named
from zester.core.class_job import SHEET_ID
from zester.core.fitting.jobs.supply import Judgement, OnShelf, judge
from zester.core.stock.ledger import taken_before
from zester.shelf.uses import Promised, promised, who
from zester.site.shapes import ShapeField

# Between a paper's key and the number of a supplement in addresses.
PART_SIGN = "--"
# What of a plan only pages about that plan read.
LARGE = ("job", "plan", "pieces", "advice", "front", "steps")


class PaperPlan(models.Model):
    """A plan of one paper with all it was made with; it never changes what it says.

    ``job`` and ``plan`` are open JSON of this one paper, as they were when it was made: bench, prices and names of
    then. The figures are what lists show, so that no list has to read the plan.
    """

    class Stage(models.TextChoices):
        """How much was tried for it."""

        QUICK = "quick", "quick"
        PROVEN = "proven", "searched to the end"
        POLISHED = "polished", "with fewer minutes"

    class_paper = models.ForeignKey("classes.ClassPaper", on_delete=models.CASCADE, related_name="plans")
    need = models.CharField(max_length=64)
    labels = models.CharField(max_length=64)
    job = models.TextField()
    plan = models.TextField()
    # Piece by handle: name, card, why and count, as they were.
    pieces = ShapeField(shape="plan-pieces/1", default=dict)
    stage = models.CharField(max_length=8, choices=Stage, default=Stage.QUICK)
    made_at = models.DateTimeField(auto_now_add=True)
    seconds = models.FloatField(default=0)
    sheets = models.PositiveIntegerField()
    used = ShapeField(shape="plan-sheets/1", default=dict)
    # How many of the sheets are offcuts, and what those save against the plan without them.
    offcuts = models.PositiveIntegerField(default=0)
    saved_sheets = models.IntegerField(default=0)
    saved_cost = models.DecimalField(max_digits=14, decimal_places=6, default=0)
    # What it was found by, where that is not its cost: what lies on the shelf of several sizes counts less.
    weighed = models.DecimalField(max_digits=14, decimal_places=6, default=0)
    cost = models.DecimalField(max_digits=14, decimal_places=6)
    bound = models.DecimalField(max_digits=14, decimal_places=6)
    priced = models.BooleanField(default=False)
    proven = models.BooleanField(default=False)
    missing = models.PositiveIntegerField(default=0)
    layouts = models.PositiveIntegerField(default=0)
    strokes = models.PositiveIntegerField(default=0)
    # Seconds at the trimmer, at the usual pace; 0 for plans kept before that was reckoned.
    trimming = models.PositiveIntegerField(default=0)
    settings = models.PositiveIntegerField(default=0)
    yielded = models.DecimalField(max_digits=7, decimal_places=6, default=0)
    # What was found out about it: what each piece costs, near misses, other plans, seats.
    hints = ShapeField(shape="plan-hints/1", default=dict)
    advice = ShapeField(shape="plan-advice/1", default=dict)
    # Plans from the thriftiest to the easiest to cut, and everybody's own sheets, as ``core.choices`` writes them.
    front = ShapeField(shape="plan-choices/1", default=list)
    # The steps that cut it, and the habits they are for, as ``kept.py`` writes them; none of plans from elsewhere.
    steps = ShapeField(shape="plan-steps/1", default=dict, blank=True)
    # What proves that no plan costs less, as ``core.fitting.proofs`` writes it, with its format.
    proof = models.JSONField(default=dict)
    # What fewer and more people would take: runs of numbers of kits that need the same, and how many there are now.
    growth = ShapeField(shape="plan-growth/1", default=dict)
    cutting_at = models.DateTimeField(null=True)
    cut_at = models.DateTimeField(null=True)

    class Meta:
        # The tables were named before there was this app.
        db_table = "fits_paperplan"
        ordering = ["-pk"]
        indexes = [models.Index(fields=["class_paper", "need"], name="plans_by_need")]

    def __str__(self) -> str:
        return f"{self.class_paper}: {self.sheets}"

    @property
    def rank(self) -> tuple:
        """What is better comes first, among plans for one need."""
        order = {self.Stage.POLISHED: 0, self.Stage.PROVEN: 1, self.Stage.QUICK: 2}
        proof = not self.proven, order[self.stage]
        handling = not self.trimming, self.trimming, self.strokes
        return (self.missing, self.weighed, self.new_sheets, self.offcuts, *proof, *handling, -self.pk)

    @property
    def new_sheets(self) -> int:
        """How many sheets are opened that are no offcuts."""
        return self.sheets - self.offcuts


def _less(on_hand: int | None, taken: int) -> int | None:
    return None if on_hand is None else max(0, on_hand - taken)


def paper_and_part(key: str) -> tuple[str, int]:
    """The paper's key and the part that a key in an address means."""
    paper, _, part = key.rpartition(PART_SIGN)
    return (paper, int(part)) if paper and part.isdecimal() and len(part) < 4 else (key, 1)


class PaperFitQuerySet(models.QuerySet):
    """Queries for what classes need of papers."""

    def promised(self, user: int) -> PaperFitQuerySet:
        """Those whose shown plans wait to be cut, of classes of the user with this key, neither removed nor closed."""
        mine = {"owner": user, "removed_at": None, "closed_at": None}
        where = {f"class_paper__card_class__{name}": value for name, value in mine.items()}
        return self.filter(**where, shown__isnull=False).exclude(held=PaperFit.Held.CUT).exclude(need="", held="")

    def wanted(self) -> PaperFitQuerySet:
        """Those of papers that the class needs now, with what a list shows of them."""
        unread = [f"{plan}__{field}" for plan in ("shown", "offered") for field in (*LARGE, "hints")]
        return (
            self.exclude(need="", problem="")
            .select_related("class_paper__paper", "class_paper__card_class", "shown", "offered")
            .prefetch_related("class_paper__paper__sheets")
            .defer("job", "pieces", *unread)
            .order_by("class_paper__paper__kind", "class_paper__paper__name", "class_paper", "part")
        )

    def known_by(self, key: str) -> PaperFitQuerySet:
        """The one with this key in addresses, of each class."""
        paper, part = paper_and_part(key)
        return self.filter(class_paper__paper__key=paper, part=part)


class PaperFit(models.Model):
    """What a class needs of one paper now, and the plan that is shown for it.

    The shown plan answers the need if the two have the same ``need``; that it has other ``labels`` means that pieces
    have got other names since. From the first cut on the need is what is cut, and stays so (``done``); what a class
    wants of the paper beyond it is a fit of its own, a **supplement**: the next ``part``.
    """

    class Held(models.TextChoices):
        """Why no other plan takes the place of the shown one unasked."""

        NO = "", "not held"
        TAKEN = "taken", "taken by hand"
        CUTTING = "cutting", "being cut"
        CUT = "cut", "cut"

    DONE = (Held.CUTTING, Held.CUT)

    class_paper = models.ForeignKey("classes.ClassPaper", on_delete=models.CASCADE, related_name="fits")
    part = models.PositiveSmallIntegerField(default=1)
    need = models.CharField(max_length=64, blank=True)
    labels = models.CharField(max_length=64, blank=True)
    job = models.TextField(blank=True)
    pieces = ShapeField(shape="plan-pieces/1", default=dict)
    # What stands in the way of fitting it, in words.
    problem = models.TextField(blank=True)
    # How the last work on it failed, or that it was stopped, in words.
    failed = models.TextField(blank=True)
    shown = models.ForeignKey(PaperPlan, on_delete=models.SET_NULL, null=True, related_name="+")
    # A plan that is better, or answers what is needed now, where the shown one is held.
    offered = models.ForeignKey(PaperPlan, on_delete=models.SET_NULL, null=True, related_name="+")
    held = models.CharField(max_length=8, choices=Held, default=Held.NO, blank=True)
    # Of what is cut: pieces that could not be made after all; and those that nobody wants any more, by the name they
    # were made under.
    lost = ShapeField(shape="plan-lost/1", default=dict, blank=True)
    over = ShapeField(shape="plan-over/1", default=list, blank=True)
    changed_at = models.DateTimeField(auto_now=True)

    objects = PaperFitQuerySet.as_manager()

    class Meta:
        db_table = "fits_paperfit"
        constraints = [models.UniqueConstraint("class_paper", "part", name="a_part_once_a_paper")]

    def __str__(self) -> str:
        return str(self.class_paper)

    @property
    def paper(self):
        """The paper on the shelf, called as the class keeps it."""
        mine = self.class_paper
        return named(mine.paper, mine.card_class.kept_shelf)

    @property
    def key(self) -> str:
        """What addresses know it by: the paper's key, of a supplement with its number."""
        return self.paper.key if self.part == 1 else f"{self.paper.key}{PART_SIGN}{self.part}"

    @property
    def name(self) -> str:
        """What people call it: the paper's name; of a supplement that it is one."""
        if self.part == 1:
            return self.paper.name
        return f"{self.paper.name}, supplement" + ("" if self.part == 2 else f" {self.part - 1}")

    @property
    def done(self) -> bool:
        """Whether it is cut, or being cut: what it makes is made, and no other plan takes its place."""
        return self.held in self.DONE

    @property
    def answered(self) -> bool:
        """Whether the shown plan answers what is needed now."""
        return self.shown is not None and self.shown.need == self.need and not self.problem

    @property
    def answer_offered(self) -> bool:
        """Whether a plan that answers what is needed now waits to be taken, since the shown one is held."""
        return self.offered is not None and self.offered.need == self.need

    @property
    def is_held(self) -> bool:
        """Whether the shown plan stays until somebody says otherwise."""
        return bool(self.held or (self.part == 1 and self.class_paper.pins))

    @cached_property
    def shelf(self) -> dict[str, OnShelf]:
        """What there is of the paper now for this class, by kind of sheet: without what classes before it take."""
        me = who(self.class_paper.card_class_id, self.part)
        before = {key: taken_before(me, (each.wanted for each in row)) for key, row in self.promised.items()}
        found = {SHEET_ID: OnShelf(_less(self.paper.on_hand, before.get(SHEET_ID, 0)), self.paper.price)}
        for sheet in self.paper.sheets.all():
            if sheet.removed_at is None:
                price = Decimal(0) if sheet.is_offcut else sheet.price
                found[sheet.key] = OnShelf(_less(sheet.on_hand, before.get(sheet.key, 0)), price)
        return found

    @cached_property
    def promised(self) -> dict[str, list[Promised]]:
        """What classes are planned with of this paper, by kind of sheet; lists that show many fits set it for all."""
        mine = promised(self.paper.owner_id)
        return {sheet: row for (paper, sheet), row in mine.items() if paper == self.paper.pk}

    @cached_property
    def kinds(self) -> dict[str, tuple[int, int, str]]:
        """Every kind of sheet of the paper: width, height (ticks) and what it is called."""
        paper = self.paper
        found = {SHEET_ID: (paper.width, paper.height, paper.size_text)}
        for sheet in paper.sheets.all():
            words = f"offcut {sheet.size_text}" if sheet.is_offcut else sheet.size_text
            found[sheet.key] = sheet.width, sheet.height, words
        return found

    @property
    def planned(self) -> list[str]:
        """What the shown plan takes, in words: ``3 of letter, 8½ × 11 in``."""
        return [f"{count} of {self.kinds[key][2]}" for key, count in self.shown.used.items() if key in self.kinds]

    @property
    def opened_area(self) -> int:
        """The area of all sheets and offcuts that the shown plan takes, in square ticks."""
        sides = ((self.kinds[key][:2], count) for key, count in self.shown.used.items() if key in self.kinds)
        return sum(width * height * count for (width, height), count in sides)

    def judged(self, used: dict[str, int]) -> Judgement:
        """What the shelf as it is now means for a plan that opens so many sheets of each kind."""
        return judge(used, self.shelf)

    @property
    def judgement(self) -> Judgement:
        """What it means for the shown plan."""
        return self.judged(self.shown.used)

    @property
    def short(self) -> int:
        """How many sheets are not on the shelf; of what is cut none, nor of a class that is closed."""
        over = self.held == self.Held.CUT or self.class_paper.card_class.closed_at
        return self.judgement.short if self.shown and not over else 0

    @property
    def cost(self) -> Decimal | None:
        """What the shown plan cost when it was made; None where the paper had no price."""
        return self.shown.cost if self.shown and self.shown.priced else None


class Work(models.Model):
    """One piece of work in the background on one paper: asked for, taken up by a worker, ended."""

    class Kind(models.TextChoices):
        """What is to be done; in the order of their urgency."""

        QUICK = "quick", "a first plan"
        PROVE = "prove", "the fewest sheets"
        POLISH = "polish", "fewer minutes"
        HINTS = "hints", "what each piece costs"
        ADVICE = "advice", "other plans"
        FRONT = "front", "paper against minutes"
        SEATS = "seats", "what more people would take"

    class Status(models.TextChoices):
        """Where it is."""

        WAITING = "waiting", "waiting"
        WORKING = "working", "working"
        DONE = "done", "done"
        STOPPED = "stopped", "stopped"
        FAILED = "failed", "failed"

    OPEN = (Status.WAITING, Status.WORKING)

    fit = models.ForeignKey(PaperFit, on_delete=models.CASCADE, related_name="work")
    kind = models.CharField(max_length=8, choices=Kind)
    need = models.CharField(max_length=64)
    status = models.CharField(max_length=8, choices=Status, default=Status.WAITING)
    words = models.CharField(max_length=120, blank=True)
    problem = models.TextField(blank=True)
    stop_asked = models.BooleanField(default=False)
    asked_at = models.DateTimeField(auto_now_add=True)
    due_at = models.DateTimeField()
    told_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)
    worker = models.CharField(max_length=64, blank=True)
    tries = models.PositiveSmallIntegerField(default=0)
    # Whose turn it was: higher with every piece of work that is begun.
    turn = models.PositiveBigIntegerField(null=True, db_index=True)
    # What a long question has found so far, so that it goes on there after giving way.
    found = models.JSONField(default=dict)
    gave_way = models.PositiveSmallIntegerField(default=0)

    class Meta:
        db_table = "fits_work"
        indexes = [models.Index(fields=["status", "kind"], name="open_work")]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} of {self.fit}"

    @property
    def open(self) -> bool:
        """Whether it still waits or is worked on."""
        return self.status in self.OPEN


class Worker(models.Model):
    """A worker that lives: it counts on every second, and its work is another's when it has not for a while."""

    name = models.CharField(max_length=64, unique=True)
    beats = models.PositiveBigIntegerField(default=0)
    beat_at = models.DateTimeField()

    class Meta:
        db_table = "fits_worker"

    def __str__(self) -> str:
        return self.name
