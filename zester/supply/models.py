"""What is asked about several classes at once."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Joint(models.Model):
    """The question what several classes do for each other if they are planned together, and what was found.

    ``made_of`` are the plans it was asked about: another plan, another question.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    classes = models.JSONField(default=list)
    made_of = models.JSONField(default=list)
    found = models.JSONField(default=list)
    words = models.CharField(max_length=120, blank=True)
    problem = models.CharField(max_length=200, blank=True)
    asked_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        # Named before there was this app.
        db_table = "fits_joint"
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"classes {self.classes}"
