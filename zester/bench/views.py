"""The Cut station."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from zester.bench.services import kept_of, left_of, paper_steps
from zester.classes.models import CardClass
from zester.fits.models import PaperFit
from zester.fits.states import papers_in
from zester.fits.wishes import cut, let_go
from zester.site.stations import thread


def steps(request: HttpRequest, pk: int, key: str = "") -> HttpResponse:
    """The numbered steps for one paper, the first that is not cut yet unless one is named; prints on its own."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    papers = papers_in(card_class)
    planned = papers.shown
    waiting = [fit for fit in planned if fit.held != PaperFit.Held.CUT]
    fit = (
        next((each for each in planned if each.paper.key == key), None) if key else next(iter(waiting or planned), None)
    )
    if key and fit is None:
        raise Http404
    context = {"card_class": card_class, "papers": papers, "planned": planned, "stations": thread(card_class, "cut")}
    if fit:
        fit.shown.refresh_from_db()
        fit.refresh_from_db(fields=["pieces"])
        context["paper"] = paper_steps(fit)
        context["left"] = left_of(fit)
    return render(request, "bench/steps.html", context)


@require_POST
def mark(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Say that a paper is being cut, is cut, or is not cut after all."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    fits = PaperFit.objects.select_related("class_paper__paper", "class_paper__card_class", "shown", "offered")
    fit = get_object_or_404(fits.exclude(shown=None), class_paper__card_class=card_class, class_paper__paper__key=key)
    if request.POST.get("state") == "not":
        let_go(fit)
    else:
        done = request.POST.get("state") == "cut"
        cut(fit, done, kept_of(fit, request.POST) if done else ())
        if done:
            messages.success(request, f"{fit.paper.name} is cut, and booked on the shelf.")
    return redirect("bench:paper", pk, key)
