"""A class that is handed over is closed: nothing of it changes until somebody opens it again."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from django.db import transaction
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone

from zester.classes.held import hold_designs
from zester.classes.models import CardClass
from zester.classes.services import hold_class
from zester.core.errors import ZesterError
from zester.core.kits.offers import COUNTED

View = TypeVar("View", bound=Callable[..., HttpResponse])
_SAFE = ("GET", "HEAD", "OPTIONS")
_PREFIX = "/classes/"


def leaves_class_alone(view: View) -> View:
    """Say of a view that what is sent to it changes nothing of the class, so that a closed one answers, too."""
    view.leaves_class_alone = True
    return view


def still_open(card_class: CardClass) -> CardClass:
    """The class; raises ZesterError if it is closed."""
    if card_class.closed_at:
        raise ZesterError(f"{card_class.title} is handed over and closed", mend="Open it again, then change it")
    return card_class


# What other apps keep of a class that is closed.
_KEPT_TOO: list[Callable[[CardClass], None]] = []


def register_closed(keep: Callable[[CardClass], None]) -> None:
    """Be told of a class that is closed, once it is."""
    _KEPT_TOO.append(keep)


@transaction.atomic
def close(card_class: CardClass) -> None:
    """All of it is handed over."""
    card_class = hold_class(card_class.pk)
    if card_class.closed_at:
        return
    hold_designs(card_class)
    card_class.closed_at = timezone.now()
    card_class.save(update_fields=["closed_at"])
    for keep in _KEPT_TOO:
        keep(card_class)


@transaction.atomic
def close_if_handed_over(card_class: CardClass) -> bool:
    """Close the class if everybody who comes has a name and their kit; whether it was closed by this."""
    states = card_class.people.filter(state__in=COUNTED).values_list("state", flat=True)
    if card_class.closed_at or card_class.participants or not states or set(states) != {"handed"}:
        return False
    close(card_class)
    return True


@transaction.atomic
def open_again(card_class: CardClass) -> None:
    """Somebody asked for it: the class changes again as any that is cut."""
    card_class = hold_class(card_class.pk)
    card_class.closed_at = None
    card_class.save(update_fields=["closed_at"])


class ClosedClasses:
    """Middleware: what is sent to a page of a closed class is not done, and it is said why and how to open it."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]):
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """As without it."""
        return self.answer(request)

    def process_view(
        self, request: HttpRequest, view: Callable[..., HttpResponse], args: tuple, kwargs: dict
    ) -> HttpResponse | None:
        """The gate; what is only looked at passes."""
        if request.method in _SAFE or not request.path.startswith(_PREFIX) or "pk" not in kwargs:
            return None
        if getattr(view, "leaves_class_alone", False) or not request.user.is_authenticated:
            return None
        card_class = CardClass.objects.of(request.user).filter(pk=kwargs["pk"]).exclude(closed_at=None).first()
        return _refused(request, card_class) if card_class else None


def _refused(request: HttpRequest, card_class: CardClass) -> HttpResponse:
    page = reverse("classes:closed", args=[card_class.pk])
    if request.content_type == "application/json" or request.headers.get("X-Requested-With") == "fetch":
        return JsonResponse({"problem": f"{card_class.title} is closed. Open it again first."}, status=409)
    if request.htmx:
        return HttpResponse(status=204, headers={"HX-Redirect": page})
    return render(request, "classes/closed.html", {"card_class": card_class, "refused": True}, status=409)
