"""Things that were removed: kept for a while, and then gone for good."""

from __future__ import annotations

import datetime
import logging

from django.conf import settings
from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

from zester.site.owned import Owned

log = logging.getLogger("zester.audit")


def kept_for() -> datetime.timedelta:
    """How long a removed thing can be brought back."""
    return datetime.timedelta(days=settings.KEEP_REMOVED_DAYS)


def say_removed(request: HttpRequest, thing: Owned, words: str) -> None:
    """Say that something is removed, and offer to bring it back."""
    back = f"For {settings.KEEP_REMOVED_DAYS} days it can be brought back, also from your account."
    messages.info(request, f"{words} {back}", extra_tags=f"undo:{thing.restore_view}:{thing.pk}")


def removed(request: HttpRequest) -> HttpResponse:
    """The user's removed things, each to be brought back."""
    things = [thing for model in Owned.__subclasses__() for thing in model.objects.removed_of(request.user)]
    things.sort(key=lambda thing: thing.removed_at, reverse=True)
    rows = [{"thing": thing, "until": thing.removed_at + kept_for()} for thing in things]
    return render(request, "site/removed.html", {"rows": rows, "days": settings.KEEP_REMOVED_DAYS})


def purge(before: datetime.datetime | None = None) -> int:
    """Delete for good what was removed long ago, or before a moment; the number of things."""
    before = before or timezone.now() - kept_for()
    number = 0
    for model in Owned.__subclasses__():
        for thing in model.objects.filter(removed_at__lt=before):
            with transaction.atomic():
                thing.delete()
            number += 1
    if number:
        log.info("purged: %s removed things", number)
    return number
