"""The Fit station."""

from __future__ import annotations

from contextlib import suppress

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from zester.classes.models import CardClass
from zester.classes.services import read_class
from zester.core.errors import JobError
from zester.fits.models import Fit
from zester.fits.services import ask_to_stop, is_current, job_of, latest_fit, latest_plan, start_fit
from zester.fits.sheets import draw_sheets
from zester.fits.tasks import fit_task
from zester.site.stations import thread


def sheets(request: HttpRequest, pk: int) -> HttpResponse:
    """The sheets view: the newest plan, or what stands in its way, or the fit at work."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    sheet = read_class(card_class)
    newest, planned = latest_fit(card_class), latest_plan(card_class)
    context = {
        "card_class": card_class,
        "sheet": sheet,
        "newest": newest,
        "planned": planned,
        "current": bool(planned) and is_current(planned, sheet),
        "in_the_way": _in_the_way(sheet),
        "stations": thread(sheet, "fit"),
        "view": draw_sheets(planned) if planned and not (newest and newest.running) else None,
    }
    return render(request, "fits/sheets.html", context)


def _in_the_way(sheet) -> JobError | None:
    try:
        job_of(sheet)
    except JobError as error:
        return error
    return None


@require_POST
def start(request: HttpRequest, pk: int) -> HttpResponse:
    """Start a fit; what stands in its way is shown on the page."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    with suppress(JobError):
        start_fit(card_class, fit_task.enqueue)
    return redirect("fits:sheets", pk)


def _fit(request: HttpRequest, pk: int) -> Fit:
    return get_object_or_404(Fit.objects.filter(card_class__in=CardClass.objects.of(request.user)), pk=pk)


def progress(request: HttpRequest, pk: int) -> HttpResponse:
    """How far a fit is; when it has ended the page is loaded anew."""
    found = _fit(request, pk)
    if not found.running:
        response = HttpResponse(status=204)
        response["HX-Refresh"] = "true"
        return response
    return render(request, "fits/_progress.html", {"newest": found, "card_class": found.card_class})


@require_POST
def stop(request: HttpRequest, pk: int) -> HttpResponse:
    """Ask a fit to stop."""
    found = _fit(request, pk)
    ask_to_stop(found)
    return redirect("fits:sheets", found.card_class_id)


def download(request: HttpRequest, pk: int, what: str) -> HttpResponse:
    """The job or the plan as open JSON."""
    found = _fit(request, pk)
    text = found.job if what == "job" else found.plan
    response = HttpResponse(text, content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="{slugify(found.card_class.title)}-{what}.json"'
    return response
