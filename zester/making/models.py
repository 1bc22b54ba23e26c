"""What was found out about what lies on the shelf."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Look(models.Model):
    """What can be made of what lies on somebody's shelf, as a worker found it last.

    ``found``: the designs with how many of each and how, and the small things, by paper; see ``looking``.
    """

    class State(models.TextChoices):
        """How it stands."""

        ASKED = "asked", "waiting for a worker"
        LOOKING = "looking", "looking"
        DONE = "done", "done"
        STOPPED = "stopped", "stopped"
        FAILED = "failed", "not found out"

    class Of(models.TextChoices):
        """What it is made of."""

        OFFCUTS = "offcuts", "offcuts alone"
        ODD = "odd", "offcuts and odd sheets: what is left of an opened pack"
        ALL = "all", "offcuts and every sheet on the shelf"

    OPEN = (State.ASKED, State.LOOKING)

    owner = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="making_look")
    of = models.CharField(max_length=7, choices=Of, default=Of.OFFCUTS)
    state = models.CharField(max_length=7, choices=State, default=State.ASKED)
    told = models.CharField(max_length=200, blank=True)
    found = models.JSONField(default=dict, blank=True)
    asked_at = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"{self.get_of_display()}, {self.get_state_display()}"

    @property
    def is_open(self) -> bool:
        """Whether a worker looks, or will."""
        return self.state in self.OPEN
