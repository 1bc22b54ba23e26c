"""Archives that somebody has sent, and that workers bring in."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models

FOLDER = "archives"


class Intake(models.Model):
    """An archive on its way into an account: sent, being brought in, a question, there, or why it is not.

    What is made of it belongs to ``hidden`` until all of it is there. ``state`` is how far it is, as ``unpacking``
    writes it, and ``under_way`` whether somebody is at it: where they died it is begun anew.
    """

    class Stage(models.TextChoices):
        """How far it is."""

        WAITING = "waiting", "waits"
        MAKING = "making", "is being brought in"
        ASKS = "asks", "asks something"
        DONE = "done", "is brought in"
        FAILED = "failed", "could not be brought in"

    OPEN = (Stage.WAITING, Stage.MAKING)

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    hidden = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    stage = models.CharField(max_length=7, choices=Stage, default=Stage.WAITING)
    again = models.BooleanField(default=False)
    problem = models.TextField(blank=True)
    state = models.JSONField(default=dict)
    under_way = models.BooleanField(default=False)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    counts = models.JSONField(default=dict)
    asked_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"an archive of account {self.owner_id}"

    @property
    def file(self) -> Path:
        """What was sent, as long as it is needed."""
        return Path(settings.MEDIA_ROOT, FOLDER, f"{self.pk}.zip")

    @property
    def lock(self) -> Path:
        """What whoever is at it holds on to: the system lets it go when they die."""
        return self.file.with_suffix(".lock")

    @property
    def percent(self) -> int:
        """How much of it is done."""
        return 100 * self.done // self.total if self.total else 0
