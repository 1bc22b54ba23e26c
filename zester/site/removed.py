"""Things that were removed: kept for a while, and then gone for good."""

from __future__ import annotations

import datetime
import logging
from collections.abc import Callable, Iterable

from django.conf import settings
from django.contrib import messages
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from zester.site.owned import Owned

log = logging.getLogger("zester.audit")

# Give what else somebody has removed: things with what they are, when that was and the address that brings them back.
_MORE: list[Callable[[AbstractBaseUser], Iterable]] = []


def register_more(more: Callable[[AbstractBaseUser], Iterable]) -> None:
    """Be asked for things that were taken out of others."""
    _MORE.append(more)


# Say of a removed thing whether something that was done is made of it.
_NEEDS: list[Callable[[Owned], bool]] = []


def register_need(needs: Callable[[Owned], bool]) -> None:
    """Be asked before a removed thing is deleted for good."""
    _NEEDS.append(needs)


def kept_for() -> datetime.timedelta:
    """How long a removed thing can be brought back."""
    return datetime.timedelta(days=settings.KEEP_REMOVED_DAYS)


def say_removed(request: HttpRequest, thing: Owned, words: str) -> None:
    """Say that something is removed, and offer to bring it back."""
    back = f"For {settings.KEEP_REMOVED_DAYS} days it can be brought back, also from your account."
    messages.info(request, f"{words} {back}", extra_tags=f"undo:{thing.restore_view}:{thing.pk}")


def removing(
    model: type[Owned],
    back_to: str,
    *,
    words: str = "{} is removed.",
    take_away: Callable[[Owned], str | None] = Owned.remove,
) -> Callable[..., HttpResponse]:
    """A view that removes one of the user's own things, says so with its undo, and goes back to a page.

    ``take_away`` does it where more belongs to it than the mark; it may give what else is to be said.
    """

    @require_POST
    def view(request: HttpRequest, pk: int) -> HttpResponse:
        thing = get_object_or_404(model.objects.of(request.user), pk=pk)
        more = take_away(thing) or ""
        say_removed(request, thing, words.format(thing) + more)
        return redirect(back_to)

    return view


def bringing_back(
    model: type[Owned],
    back_to: str,
    *,
    words: str = "{} is back.",
    put_back: Callable[[Owned], object] = Owned.restore,
    in_the_way: Callable[[Owned], str] = lambda thing: "",
) -> Callable[..., HttpResponse]:
    """A view that takes such a removal back, unless something is ``in_the_way``: that is said, with the mend."""

    @require_POST
    def view(request: HttpRequest, pk: int) -> HttpResponse:
        thing = get_object_or_404(model.objects.removed_of(request.user), pk=pk)
        trouble = in_the_way(thing)
        if trouble:
            messages.error(request, trouble)
        else:
            put_back(thing)
            messages.success(request, words.format(thing))
        return redirect(back_to)

    return view


def removed(request: HttpRequest) -> HttpResponse:
    """The user's removed things, each to be brought back."""
    things = [thing for model in Owned.__subclasses__() for thing in model.objects.removed_of(request.user)]
    things += [thing for more in _MORE for thing in more(request.user)]
    things.sort(key=lambda thing: thing.removed_at, reverse=True)
    rows = [{"thing": thing, "until": thing.removed_at + kept_for()} for thing in things]
    return render(request, "site/removed.html", {"rows": rows, "days": settings.KEEP_REMOVED_DAYS})


def purge(before: datetime.datetime | None = None) -> int:
    """Delete for good what was removed long ago, or before a moment; the number of things.

    What something that was done is made of stays.
    """
    before = before or timezone.now() - kept_for()
    number = 0
    for model in Owned.__subclasses__():
        for thing in model.objects.filter(removed_at__lt=before):
            if any(needs(thing) for needs in _NEEDS):
                continue
            with transaction.atomic():
                thing.delete()
            number += 1
    if number:
        log.info("purged: %s removed things", number)
    return number
