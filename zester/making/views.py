"""What can be made of what lies on the shelf: its page."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from zester.core.cautions import CAUTIONS
from zester.core.errors import ZesterError
from zester.core.makeable import MOST_CARDS
from zester.designs.models import Card
from zester.making import looking as search
from zester.making.models import Look
from zester.shelf.stock import offcuts_of
from zester.site.owned import key_of


def _context(request: HttpRequest) -> dict:
    look = Look.objects.filter(owner=request.user).first()
    found = look.found if look else {}
    # One that was taken away since is not offered.
    there = set(Card.objects.of(request.user).filter(is_kit=False).values_list("pk", flat=True))
    return {
        "look": look,
        "ways": Look.Of.choices,
        "cards": [entry for entry in found.get("cards", ()) if entry["card"] in there],
        "nearly": [row for row in found.get("nearly", ()) if row[0] in there],
        "small": found.get("small", ()),
        "left_out": found.get("left_out", ()),
        "caution": CAUTIONS["blade"],
        "most": MOST_CARDS,
    }


@require_GET
def page(request: HttpRequest) -> HttpResponse:
    """What was found last, and the way to look again."""
    offcuts = offcuts_of(request.user)
    about = {"kinds": len(offcuts), "offcuts": sum(each.on_hand or 0 for each in offcuts)}
    return render(request, "making/page.html", _context(request) | about | {"first": search.first_to_cut(request.user)})


@require_GET
def looking(request: HttpRequest) -> HttpResponse:
    """The same, as a part, while a worker looks."""
    return render(request, "making/_found.html", _context(request))


@require_POST
def look(request: HttpRequest) -> HttpResponse:
    """Look, or stop looking."""
    if request.POST.get("act") == "stop":
        search.stop(request.user)
    else:
        search.ask(request.user, request.POST.get("of", ""))
    return redirect("making:page")


@require_POST
def plan(request: HttpRequest, pk: int) -> HttpResponse:
    """A class that makes so many of a design."""
    card = get_object_or_404(Card.objects.of(request.user), pk=pk)
    count = key_of(request.POST.get("count", ""))
    try:
        made = search.plan_class(request.user, card, count)
    except ZesterError as error:
        messages.error(request, error.advice())
        return redirect("making:page")
    messages.success(request, f"{made.title} is planned, offcuts first. Packed, its kits lie ready on the shelf.")
    return redirect("fits:wall", made.pk)
