"""What a class came to, kept when it was closed."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from zester.site.shapes import ShapeField


class ClassRecord(models.Model):
    """What one class came to, as it was when it was closed; done is kept, whatever becomes of papers, prices, designs.

    ``kept``: see ``core.money.record``. ``made_up``: written by a simulation, for the demo.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="class_records")
    card_class = models.OneToOneField(
        "classes.CardClass", on_delete=models.SET_NULL, null=True, blank=True, related_name="record"
    )
    title = models.CharField(max_length=80)
    date = models.DateField(null=True, blank=True)
    closed_at = models.DateTimeField(default=timezone.now)
    made_up = models.BooleanField(default=False)
    kept = ShapeField(shape="class-record/1", default=dict, blank=True)

    class Meta:
        ordering = ["-date", "-closed_at"]

    def __str__(self) -> str:
        return f"{self.title}, closed"
