"""The page on which the papers of a class are cut in one order."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from zester.bench import one_order
from zester.bench.models import OneOrder
from zester.bench.one_order import InOrder
from zester.bench.views import class_of
from zester.classes.models import CardClass
from zester.core.cautions import CAUTIONS
from zester.core.errors import JobError
from zester.fits.sheets import percent
from zester.plans.models import PaperFit
from zester.plans.standing import papers_in
from zester.site.owned import key_of
from zester.site.stations import thread

ROOMS = (8, 12, 16, 24, 32, 48)
LONGEST, SHORTEST = 600, 15


def _context(card_class: CardClass) -> dict:
    papers = papers_in(card_class)
    order = one_order.current(card_class, papers.shown)
    waiting = [fit for fit in papers.shown if fit.held != PaperFit.Held.CUT]
    context = {"card_class": card_class, "order": order, "waiting": waiting, "caution": CAUTIONS["blade"]}
    room = order.room if order else one_order.usual_room(card_class)
    usual = {one_order.usual_room(card_class), *ROOMS, *([room] if room else [])}
    context |= {"rooms": sorted(usual), "room": room, "minutes": order.minutes if order else None}
    if order is None or order.state != OneOrder.State.DONE or not order.found.get("sittings"):
        return context
    sittings = order.found["sittings"]
    context |= {"sums": one_order.sums_of(sittings), "worth": one_order.WORTH}
    context["worthy"] = context["sums"]["share"] >= one_order.WORTH
    # One that saves nothing is paper after paper: there is nothing to begin.
    context["useful"] = context["sums"]["seconds"] < context["sums"]["apart"]
    context["share"] = percent(context["sums"]["share"])
    names = {fit.key: fit for fit in papers.shown}
    context["sittings"] = [
        (each, [names[key] for key in each["keys"] if key in names], each["minutes"] - one_order.saved_minutes(each))
        for each in sittings
    ]
    context["stale"] = [
        names[key].name if key in names else "a paper"
        for each in sittings[order.begun :]
        for key in each["keys"]
        if key not in names or names[key].shown_id != order.found["plans"][key] or names[key].done
    ]
    if order.begun:
        context["shared"] = InOrder(order, papers.shown)
    else:
        context["preview"] = _preview(order, names)
    return context


def _preview(order: OneOrder, names: dict[str, PaperFit]) -> list[tuple[int, list[tuple[PaperFit, int, int]]]]:
    """The stops of the rail of the first sitting: the place, and paper by paper from which step to which."""
    found: list[tuple[int, list[tuple[PaperFit, int, int]]]] = []
    for key, first, last in order.found["sittings"][0]["legs"]:
        if key not in names:
            continue
        at = order.found["steps"][key]["steps"][first - 1]["at"]
        if not found or found[-1][0] != at:
            found.append((at, []))
        found[-1][1].append((names[key], first, last))
    return found


@require_GET
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """What one order saves and asks for; once begun, where one is in it."""
    card_class = class_of(request, pk)
    context = _context(card_class) | {"stations": thread(card_class, "cut")}
    return render(request, "bench/together.html", context)


@require_GET
def looking(request: HttpRequest, pk: int) -> HttpResponse:
    """The same, as a part, while a worker looks."""
    return render(request, "bench/_together.html", _context(class_of(request, pk)))


@require_POST
def look(request: HttpRequest, pk: int) -> HttpResponse:
    """Look, stop looking, or let every paper go on by itself."""
    card_class, act = class_of(request, pk), request.POST.get("act")
    order = one_order.current(card_class, papers_in(card_class).shown)
    if act == "stop":
        one_order.stop(card_class)
    elif act == "leave":
        one_order.forget(card_class)
        messages.info(request, "Every paper goes on by itself now, each in its own steps; what is done stays done.")
    elif order and order.begun:
        messages.error(request, "This order is being cut. Leave it first, then look for another.")
    else:
        _ask(request, card_class)
    return redirect("bench:together", pk)


def _ask(request: HttpRequest, card_class: CardClass) -> None:
    text, room = request.POST.get("minutes", "").strip(), key_of(request.POST.get("room", ""))
    minutes = key_of(text)
    if text and not SHORTEST <= minutes <= LONGEST:
        words = f"A sitting of “{text[:20]}” minutes: write a number from {SHORTEST} to {LONGEST}, or leave it empty."
        messages.error(request, words)
        return
    one_order.ask(card_class, min(room, 999) or None, minutes or None)


@require_POST
def begin(request: HttpRequest, pk: int) -> HttpResponse:
    """Begin the next sitting, and go to the bench of its first paper."""
    card_class = class_of(request, pk)
    try:
        fits = one_order.begin(card_class)
    except JobError as error:
        messages.error(request, error.text())
        return redirect("bench:together", pk)
    shared = one_order.in_order_of(card_class, papers_in(card_class).shown)
    first = (shared and shared.next) or fits[0]
    return redirect("bench:table", pk, first.key)
