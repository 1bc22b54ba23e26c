"""Packing for real: what is packed, what is short, the page that participants may open."""

from __future__ import annotations

import secrets
import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone


def new_token() -> str:
    """192 random bits as an address: nobody guesses it."""
    return secrets.token_urlsafe(24)


class Mark(models.Model):
    """A bag or a kit that is packed. ``what`` is its key, see ``core.kits.packing``.

    ``holds`` is what was in it when that was said, so that a bag whose order has changed since is looked at again.
    Sent again it is the same mark, as it has a key.
    """

    card_class = models.ForeignKey("classes.CardClass", on_delete=models.CASCADE, related_name="marks")
    what = models.CharField(max_length=80)
    key = models.UUIDField(default=uuid.uuid4, unique=True)
    holds = models.CharField(max_length=32)
    at = models.DateTimeField(default=timezone.now)
    device = models.CharField(max_length=40, blank=True)
    # The state of the person whose last kit this was, before they were said to be packed for.
    moved_from = models.CharField(max_length=9, blank=True)
    # Whether its kit lies on the shelf as a ready kit, though nobody's order is gone: it was made for that.
    on_shelf = models.BooleanField(default=False, editable=False)
    # Whether its kit is still somebody's, by the last count of the class.
    wanted = models.BooleanField(default=True, editable=False)

    class Meta:
        ordering = ["at", "pk"]
        constraints = [models.UniqueConstraint("card_class", "what", name="a_thing_packed_once")]

    def __str__(self) -> str:
        return self.what


class ReadyKit(models.Model):
    """A packed kit that lies on the shelf: its order was cancelled, or it was made for stock.

    ``marks``: by what follows the kit's key in a bag's what was in it; so it is another kit's only if that holds the
    same. ``lines``: what it holds in words. ``counts_less``: for whoever takes it a kit less is made, as it does not
    take the place of one that their class has packed.
    """

    class State(models.TextChoices):
        """Where it is."""

        THERE = "there", "on the shelf"
        TAKEN = "taken", "taken by an order"
        SOLD = "sold", "sold"
        GIVEN = "given", "given away"
        APART = "apart", "taken apart"

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="ready_kits")
    card_class = models.ForeignKey("classes.CardClass", on_delete=models.SET_NULL, null=True, related_name="ready_kits")
    title = models.CharField(max_length=80)
    name = models.CharField(max_length=120)
    place = models.CharField(max_length=80, blank=True)
    marks = models.JSONField(default=dict)
    lines = models.JSONField(default=list, blank=True)
    state = models.CharField(max_length=5, choices=State, default=State.THERE)
    words = models.CharField(max_length=120, blank=True)
    counts_less = models.BooleanField(default=False, editable=False)
    taken_by = models.ForeignKey(
        "classes.Participant", on_delete=models.SET_NULL, null=True, blank=True, related_name="ready_kits"
    )
    made_at = models.DateTimeField(default=timezone.now)
    gone_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-made_at", "-pk"]

    def __str__(self) -> str:
        return f"{self.name}, {self.get_state_display()}"


class Shortage(models.Model):
    """So many of a piece or a bit are missing. ``thing`` is a piece's handle, or a bit's name.

    ``lacking`` says who goes without: keys of bags (or of kits, for what lies beside the bags) and how many each, as
    it was worked out when it was said. ``refit`` asks the bench for steps that make it again, ``run`` are those steps;
    ``paper`` or ``words`` what is taken instead.
    """

    class State(models.TextChoices):
        """What is done about it."""

        OPEN = "open", "short"
        BENCH = "bench", "at the bench"
        INSTEAD = "instead", "something else instead"
        THERE = "there", "there again"

    card_class = models.ForeignKey("classes.CardClass", on_delete=models.CASCADE, related_name="shortages")
    is_piece = models.BooleanField(default=True)
    thing = models.CharField(max_length=120)
    count = models.PositiveIntegerField()
    state = models.CharField(max_length=7, choices=State, default=State.OPEN)
    lacking = models.JSONField(default=list, blank=True)
    refit = models.ForeignKey("bench.Refit", on_delete=models.SET_NULL, null=True, blank=True, related_name="shortages")
    run = models.ForeignKey("bench.Run", on_delete=models.SET_NULL, null=True, blank=True, related_name="shortages")
    paper = models.ForeignKey("shelf.Paper", on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    words = models.CharField(max_length=120, blank=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.count} {self.thing}"


class SharedPage(models.Model):
    """The page of a class that participants open without signing in, by an address that nobody can guess."""

    card_class = models.OneToOneField("classes.CardClass", on_delete=models.CASCADE, related_name="shared_page")
    token = models.CharField(max_length=64, unique=True, default=new_token)
    is_on = models.BooleanField(default=False)
    until = models.DateField(null=True, blank=True)
    # While the class is taught: which step is shown, and since when, so that the page follows it.
    step = models.PositiveSmallIntegerField(null=True, blank=True, editable=False)
    step_at = models.DateTimeField(null=True, blank=True, editable=False)

    def __str__(self) -> str:
        return f"page of {self.card_class}"

    @property
    def is_open(self) -> bool:
        """Whether somebody with the address sees it today."""
        return self.is_on and (self.until is None or timezone.localdate() <= self.until)
