"""The Pack station: what goes into each bag."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from zester.classes.models import CardClass
from zester.classes.services import read_class
from zester.site.stations import thread


def pack(request: HttpRequest, pk: int) -> HttpResponse:
    """A packing list: for every card how many bags, and the pieces of one bag."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    sheet = read_class(card_class)
    bags = [
        {
            "card": card,
            "bags": card.count.cards(card_class.participants),
            "why": card.count.sum_in_words(card_class.participants),
        }
        for card in sheet.cards
    ]
    context = {"card_class": card_class, "sheet": sheet, "bags": bags, "stations": thread(sheet, "pack")}
    return render(request, "bags/pack.html", context)
