"""Cutting a paper for real: the steps that are done, which of them, how long they took, what was spoiled."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone

from zester.site.shapes import ShapeField

LONGEST_REASON = 120


class Run(models.Model):
    """The steps of one paper that somebody does: from the beginning, or from a mishap on.

    ``steps`` and ``before`` (what lay on the table when they were begun) are kept as they were, see
    ``core.cutting.record``; a plan that is made anew changes neither. ``taken`` is what needed no cut after a mishap,
    ``short`` what could not be made any more, ``more`` how many sheets more had to be opened.
    ``places`` is the fewest places of the rail they need, ``done`` says how many of them are done. The newest run of
    a plan is the one that counts.
    """

    fit = models.ForeignKey("plans.PaperFit", on_delete=models.CASCADE, related_name="runs")
    plan = models.ForeignKey("plans.PaperPlan", on_delete=models.CASCADE, related_name="runs")
    number = models.PositiveSmallIntegerField(default=1)
    steps = ShapeField(shape="bench-steps/1", default=list)
    places = models.PositiveSmallIntegerField(default=0)
    before = ShapeField(shape="bench-table/1", default=dict, blank=True)
    taken = ShapeField(shape="bench-taken/1", default=list, blank=True)
    done = models.PositiveSmallIntegerField(default=0)
    spoiled = ShapeField(shape="bench-spoiled/1", default=list, blank=True)
    reason = models.CharField(max_length=LONGEST_REASON, blank=True)
    more = models.IntegerField(default=0)
    short = ShapeField(shape="bench-short/1", default=list, blank=True)
    begun_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint("plan", "number", name="a_run_once_a_plan")]

    def __str__(self) -> str:
        return f"{self.fit}, run {self.number}"


class Refit(models.Model):
    """Something was spoiled or is missing where somebody stands: another way is asked for, a worker answers.

    ``run``, ``done`` and ``held`` say where one stood; ``made`` is the run that goes on from there, ``problem`` why
    there is none.
    """

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="refits")
    done = models.PositiveSmallIntegerField()
    held = models.CharField(max_length=8)
    spoiled = ShapeField(shape="bench-spoiled/1", default=list)
    reason = models.CharField(max_length=LONGEST_REASON, blank=True)
    made = models.OneToOneField(Run, on_delete=models.SET_NULL, null=True, related_name="made_by")
    problem = models.CharField(max_length=300, blank=True)
    asked_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint("run", condition=models.Q(ended_at=None), name="one_open_refit_a_run")]

    def __str__(self) -> str:
        return f"{self.run}, from step {self.done} on"


class OneOrder(models.Model):
    """The papers of a class cut in one order, so that the rail is set fewer times: asked for, found, begun.

    ``room`` is how many piles may lie on the table, ``minutes`` how long a sitting lasts (at the end of which no paper
    is half cut); empty: any number, all at one. ``found`` as ``one_order`` writes it: legs, steps and figures.
    """

    class State(models.TextChoices):
        """How it stands."""

        ASKED = "asked", "waiting for a worker"
        LOOKING = "looking", "looking"
        DONE = "done", "found"
        STOPPED = "stopped", "stopped"
        FAILED = "failed", "not found"

    OPEN = (State.ASKED, State.LOOKING)

    card_class = models.OneToOneField("classes.CardClass", on_delete=models.CASCADE, related_name="one_order")
    state = models.CharField(max_length=7, choices=State, default=State.ASKED)
    room = models.PositiveSmallIntegerField(null=True)
    minutes = models.PositiveSmallIntegerField(null=True)
    # Whether somebody asked; otherwise it was looked for when nothing else was to do.
    asked = models.BooleanField(default=True)
    told = models.CharField(max_length=200, blank=True)
    found = models.JSONField(default=dict, blank=True)
    # How many of its sittings are begun.
    begun = models.PositiveSmallIntegerField(default=0)
    asked_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"{self.card_class}, {self.get_state_display()}"

    @property
    def is_open(self) -> bool:
        """Whether a worker looks, or will."""
        return self.state in self.OPEN


class Tick(models.Model):
    """Somebody went to a step: so many are done now. Sent again it is the same tick, as it has a key.

    ``turn`` says what came before what, whatever clocks say (a logical clock: Lamport 1978): a device counts on from
    the highest it knows of, so that what it ticked without a line comes before what others ticked meanwhile knowing
    more.
    """

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="ticks")
    key = models.UUIDField(default=uuid.uuid4, unique=True)
    done = models.PositiveSmallIntegerField()
    turn = models.PositiveIntegerField(default=0)
    at = models.DateTimeField()
    seconds = models.FloatField(default=0)
    device = models.CharField(max_length=40, blank=True)

    class Meta:
        ordering = ["turn", "pk"]

    def __str__(self) -> str:
        return f"{self.run}: {self.done}"


class HandLog(models.Model):
    """A job by hand of a class that is done: to how many pieces, how long that usually takes, how long it took.

    ``usual_seconds`` is 0 where the list says how long it takes, ``seconds`` where nobody timed it.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="hand_logs")
    card_class = models.ForeignKey("classes.CardClass", on_delete=models.SET_NULL, null=True, related_name="hand_logs")
    title = models.CharField(max_length=80)
    job = models.CharField(max_length=200)
    by = models.CharField(max_length=60, blank=True)
    count = models.PositiveIntegerField()
    usual_seconds = models.PositiveIntegerField(default=0)
    seconds = models.PositiveIntegerField(default=0)
    done_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-done_at", "-pk"]
        constraints = [
            models.UniqueConstraint("card_class", "job", "by", name="a_job_of_a_class_logged_once"),
        ]

    def __str__(self) -> str:
        return f"{self.job}, {self.title}"

    @property
    def minutes(self) -> int:
        """How long it took, rounded up."""
        return -(-self.seconds // 60)

    @property
    def usual_minutes(self) -> int:
        """How long it usually takes, rounded up."""
        return -(-self.usual_seconds // 60)


class CutLog(models.Model):
    """A paper that was cut: how long it was reckoned to take, how long it took, what was spoiled."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="cut_logs")
    plan = models.OneToOneField("plans.PaperPlan", on_delete=models.SET_NULL, null=True, related_name="log")
    paper = models.CharField(max_length=80)
    title = models.CharField(max_length=80)
    cut_at = models.DateTimeField()
    planned_seconds = models.PositiveIntegerField(default=0)
    seconds = models.PositiveIntegerField(default=0)
    steps = models.PositiveIntegerField(default=0)
    strokes = models.PositiveIntegerField(default=0)
    sheets = models.PositiveIntegerField(default=0)
    more_sheets = models.IntegerField(default=0)
    offcuts = models.PositiveIntegerField(default=0)
    spoiled = ShapeField(shape="bench-spoiled/1", default=list, blank=True)

    class Meta:
        ordering = ["-cut_at", "-pk"]

    def __str__(self) -> str:
        return f"{self.paper}, {self.title}"

    @property
    def lost_sheets(self) -> int:
        """How many sheets mishaps took: those opened beyond the plan, and whole ones that were torn."""
        torn = sum(int(each.get("count", 1)) for each in self.spoiled if each.get("kind") == "sheet")
        return max(0, self.more_sheets) + torn

    @property
    def minutes(self) -> int:
        """How long it took, rounded up."""
        return -(-self.seconds // 60)

    @property
    def planned_minutes(self) -> int:
        """How long it was reckoned to take, rounded up."""
        return -(-self.planned_seconds // 60)
