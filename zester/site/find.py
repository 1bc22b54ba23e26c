"""Looking for anything by its words: each app says what it has; nothing here knows any of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import Q, QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

# So many of a kind are shown; more are asked for with more words.
MOST = 12
LONGEST = 100


@dataclass(frozen=True, kw_only=True)
class Found:
    """One thing that holds the words."""

    name: str
    """What it is called."""
    words: str
    """What it is, or where."""
    url: str
    """Its page."""


Finder = Callable[[AbstractBaseUser, Sequence[str]], Iterable[Found]]
_FINDERS: dict[str, Finder] = {}


def register(kind: str, finder: Finder) -> None:
    """Say how things of a kind are found; ``kind`` is their heading."""
    _FINDERS[kind] = finder


def holding(things: QuerySet, words: Sequence[str], *fields: str) -> QuerySet:
    """Those that hold every word in one of the fields, one more than are shown."""
    for word in words:
        anywhere = Q()
        for field in fields:
            anywhere |= Q(**{f"{field}__icontains": word})
        things = things.filter(anywhere)
    return things[: MOST + 1]


def find(request: HttpRequest) -> HttpResponse:
    """Everything of one's own that holds the words, by kind."""
    asked = " ".join(request.GET.get("q", "").replace("\0", " ").split())[:LONGEST]
    words = asked.split()[:8]
    groups = []
    for kind, finder in _FINDERS.items() if words else ():
        found = list(finder(request.user, words))
        if found:
            groups.append((kind, found[:MOST], len(found) > MOST))
    template = "site/_found.html" if request.htmx else "site/find.html"
    return render(request, template, {"asked": asked, "groups": groups})
