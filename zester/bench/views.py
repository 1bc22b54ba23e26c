"""The Cut station."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from zester.bench.services import paper_steps, papers_to_cut
from zester.classes.models import CardClass
from zester.classes.services import read_class
from zester.fits.services import is_current, latest_plan
from zester.site.stations import thread


def steps(request: HttpRequest, pk: int, number: int = 1) -> HttpResponse:
    """The numbered steps for one paper (papers count from 1); prints on a page of its own."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    sheet = read_class(card_class)
    planned = latest_plan(card_class)
    context = {
        "card_class": card_class,
        "planned": planned,
        "current": bool(planned) and is_current(planned, sheet),
        "stations": thread(sheet, "cut"),
    }
    if planned:
        papers = papers_to_cut(planned)
        if not 1 <= number <= len(papers):
            raise Http404
        context |= {"papers": papers, "paper": paper_steps(planned, number - 1), "number": number}
    return render(request, "bench/steps.html", context)
