"""A fit: one run of the fitting for a class, with the job it was given and the plan it found."""

from __future__ import annotations

from django.db import models
from django.utils import timezone


class Fit(models.Model):
    """``job`` and ``plan`` are open JSON; ``context`` keeps the names and colours as they were when it was made.

    ``so_far`` lists the papers that are done while the fit runs. ``fingerprint`` tells whether the class has changed
    since.
    """

    class Status(models.TextChoices):
        """Where a fit is."""

        WAITING = "waiting", "waiting"
        WORKING = "working", "working"
        DONE = "done", "done"
        STOPPED = "stopped", "stopped"
        FAILED = "failed", "failed"

    card_class = models.ForeignKey("classes.CardClass", on_delete=models.CASCADE, related_name="fits")
    created_at = models.DateTimeField(auto_now_add=True)
    finished_at = models.DateTimeField(null=True)
    status = models.CharField(max_length=8, choices=Status, default=Status.WAITING)
    fingerprint = models.CharField(max_length=64)
    job = models.TextField()
    context = models.JSONField()
    plan = models.TextField(blank=True)
    to_buy = models.JSONField(default=dict)
    done = models.PositiveIntegerField(default=0)
    papers = models.PositiveIntegerField(default=0)
    words = models.CharField(max_length=120, blank=True)
    so_far = models.JSONField(default=list)
    stop_asked = models.BooleanField(default=False)
    problem = models.TextField(blank=True)

    class Meta:
        ordering = ["-created_at", "-pk"]
        indexes = [models.Index(fields=["card_class", "-created_at"], name="fits_of_class")]

    def __str__(self) -> str:
        return f"{self.card_class}, {self.created_at:%Y-%m-%d %H:%M}"

    @property
    def running(self) -> bool:
        """Whether it is still waiting or at work."""
        return self.status in (self.Status.WAITING, self.Status.WORKING)


class Advice(models.Model):
    """What was asked about a finished fit: other plans, free seats and near misses, paper by paper.

    ``plans`` maps paper ids to lists of choices, each with its figures and its plan as open JSON; ``seats`` to lists of
    steps, ``near`` to lists of near misses. ``told_at`` is when it was last heard of.
    """

    fit = models.OneToOneField(Fit, on_delete=models.CASCADE, related_name="advice")
    told_at = models.DateTimeField(default=timezone.now)
    status = models.CharField(max_length=8, choices=Fit.Status, default=Fit.Status.WAITING)
    words = models.CharField(max_length=120, blank=True)
    done = models.PositiveIntegerField(default=0)
    plans = models.JSONField(default=dict)
    seats = models.JSONField(default=dict)
    near = models.JSONField(default=dict)

    def __str__(self) -> str:
        return f"advice on {self.fit}"

    @property
    def running(self) -> bool:
        """Whether it is still waiting or at work."""
        return self.status in (Fit.Status.WAITING, Fit.Status.WORKING)
