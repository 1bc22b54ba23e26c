"""The Pack station: what goes into each bag."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from zester.classes.models import CardClass
from zester.classes.services import count_class
from zester.site.stations import thread


def pack(request: HttpRequest, pk: int) -> HttpResponse:
    """A packing list: for every card how many bags, and the pieces of one bag."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    counted = count_class(card_class)
    bags = [
        {
            "card": card,
            "bags": counted.bags_of(card.entry.letter),
            "why": counted.why(card.entry.letter),
            "instead": counted.instead_of(card.entry.letter),
        }
        for card in counted.cards
    ]
    context = {"card_class": card_class, "counted": counted, "bags": bags, "stations": thread(card_class, "pack")}
    return render(request, "bags/pack.html", context)
