"""Ready kits: onto the shelf, taken by an order, sold, given away, taken apart."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from zester.bags import ready
from zester.bags.models import ReadyKit
from zester.bags.views import class_of
from zester.classes.models import Participant
from zester.core.errors import ZesterError
from zester.site.owned import key_of
from zester.site.stations import some

MOST_GONE = 100


@require_POST
def shelve(request: HttpRequest, pk: int) -> HttpResponse:
    """What is packed for nobody becomes a ready kit."""
    try:
        made = ready.shelve(class_of(request, pk), request.POST.get("kit", "")[:80], request.POST.get("place", ""))
        messages.success(request, f"{made.name} lies ready now: the next order that holds the same takes it.")
    except ZesterError as error:
        messages.error(request, error.advice())
    return redirect("bags:pack", pk)


@require_POST
def take(request: HttpRequest, pk: int, row: int) -> HttpResponse:
    """A ready kit is somebody's now."""
    try:
        made = ready.take(class_of(request, pk), row, request.POST.get("kit", "")[:80])
        whose = made.taken_by.name if made.taken_by else "a kit without a name"
        messages.success(request, f"{whose} has the ready kit of {made.name}.")
    except ZesterError as error:
        messages.error(request, error.advice())
    return redirect("bags:pack", pk)


@require_POST
def shelve_made(request: HttpRequest, pk: int) -> HttpResponse:
    """The kits made for nobody that are packed lie on the shelf now."""
    count = ready.shelve_made(class_of(request, pk), request.POST.get("place", ""))
    if count:
        messages.success(request, f"{some(count, 'kit')} on the shelf, ready for any order.")
    return redirect("bags:pack", pk)


@require_POST
def hand_out(request: HttpRequest, pk: int) -> HttpResponse:
    """A ready kit is somebody's, of any class."""
    row = get_object_or_404(ReadyKit.objects.filter(owner=request.user), pk=pk)
    people = Participant.objects.filter(card_class__owner=request.user)
    person = get_object_or_404(people, pk=key_of(request.POST.get("person", "")))
    try:
        ready.hand_out(row, person)
        messages.success(request, f"{person.name} has the ready kit of {row.name}; a kit less is made for them.")
    except ZesterError as error:
        messages.error(request, error.advice())
    return redirect("bags:ready")


@require_GET
def ready_kits(request: HttpRequest) -> HttpResponse:
    """What lies ready, and what became of others."""
    mine = ReadyKit.objects.filter(owner=request.user).select_related("taken_by", "card_class")
    there = ReadyKit.State.THERE
    states = [each for each in ReadyKit.State.choices if each[0] not in (there, ReadyKit.State.TAKEN)]
    context = {"there": mine.filter(state=there), "gone": mine.exclude(state=there)[:MOST_GONE], "states": states}
    context["people"] = ready.could_have(request.user) if context["there"] else []
    return render(request, "bags/ready.html", context)


@require_POST
def let_go(request: HttpRequest, pk: int) -> HttpResponse:
    """Sold, given away, taken apart, or there after all."""
    row = get_object_or_404(ReadyKit.objects.filter(owner=request.user), pk=pk)
    try:
        ready.let_go(row, request.POST.get("state", ""), request.POST.get("words", ""))
        row.refresh_from_db()
        apart = "Its pieces lie in their piles again; what nobody wants of them can be written among the offcuts."
        told = f" {apart}" if row.state == ReadyKit.State.APART else ""
        messages.success(request, f"{row.name}: {row.get_state_display()}.{told}")
    except ZesterError as error:
        messages.error(request, error.advice())
    return redirect("bags:ready")
