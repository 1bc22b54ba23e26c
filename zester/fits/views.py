"""The Fit station."""

from __future__ import annotations

from contextlib import suppress

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from zester.classes.models import CardClass
from zester.classes.services import read_class
from zester.core.errors import JobError
from zester.fits.advice import advice_of, ask_advice, take_plan
from zester.fits.advised import shown_advice
from zester.fits.models import Advice, Fit
from zester.fits.services import (
    ask_to_stop,
    is_current,
    job_of,
    latest_fit,
    latest_plan,
    pin,
    set_pool,
    start_fit,
    unpin,
)
from zester.fits.sheets import draw_sheets
from zester.fits.tasks import advice_task, fit_task
from zester.site.stations import thread


def sheets(request: HttpRequest, pk: int) -> HttpResponse:
    """The sheets view: the newest plan, or what stands in its way, or the fit at work."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    sheet = read_class(card_class)
    newest, planned = latest_fit(card_class), latest_plan(card_class)
    view = draw_sheets(planned) if planned and not (newest and newest.running) else None
    advice = advice_of(planned) if view else None
    context = {
        "card_class": card_class,
        "sheet": sheet,
        "newest": newest,
        "planned": planned,
        "current": bool(planned) and is_current(planned, sheet),
        "in_the_way": _in_the_way(sheet),
        "stations": thread(sheet, "fit"),
        "view": view,
        "advice": advice,
        "blocks": _blocks(view, advice),
        "pools": POOL_WORDS,
    }
    return render(request, "fits/sheets.html", context)


def _blocks(view, advice: Advice | None) -> list[tuple]:
    """Every paper of the view with the advice on it, if there is any yet."""
    advised = shown_advice(advice) if advice else {}
    return [(paper, advised.get(paper.job.id)) for paper in view.papers] if view else []


POOL_WORDS = {
    "together": "all from common sheets",
    "own": "everybody’s from their own sheets",
    "portions": "portions, cut up at home",
}


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


@require_POST
def pool(request: HttpRequest, pk: int) -> HttpResponse:
    """Say how a paper's pieces are pooled, and fit the class that way."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    try:
        set_pool(card_class, request.POST.get("paper", ""), request.POST.get("pool", ""))
        start_fit(card_class, fit_task.enqueue)
    except JobError as error:
        messages.error(request, error.text())
    return redirect("fits:sheets", pk)


@require_POST
def pin_layout(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep a layout of a plan in the fits to come."""
    found = _fit(request, pk)
    try:
        pin(found, request.POST.get("paper", ""), int(request.POST.get("layout", "")))
    except (LookupError, StopIteration, ValueError):
        raise Http404 from None
    messages.success(request, "This layout stays as it is when you fit again. The rest is fitted around it.")
    return _back_to_paper(request, found.card_class_id)


@require_POST
def unpin_layout(request: HttpRequest, pk: int) -> HttpResponse:
    """Let pinned layouts go: one, or all there are."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    number = request.POST.get("layout", "")
    unpin(card_class, request.POST.get("paper", ""), int(number) if number.isdecimal() else None)
    messages.success(request, "Let go. It may change when you fit again.")
    return _back_to_paper(request, pk)


def _back_to_paper(request: HttpRequest, pk: int) -> HttpResponse:
    place = request.POST.get("place", "")
    return redirect(reverse("fits:sheets", args=[pk]) + (f"#paper-{place}" if place.isdecimal() else ""))


@require_POST
def ask(request: HttpRequest, pk: int) -> HttpResponse:
    """Ask for other plans, free seats and near misses of a plan."""
    found = _fit(request, pk)
    if found.status == Fit.Status.DONE:
        ask_advice(found, advice_task.enqueue)
    return redirect(reverse("fits:sheets", args=[found.card_class_id]) + "#advice")


def advice_progress(request: HttpRequest, pk: int) -> HttpResponse:
    """How far the advice is; when it has ended the page is loaded anew."""
    found = _fit(request, pk)
    advice = get_object_or_404(Advice, fit=found)
    if not advice.running:
        response = HttpResponse(status=204)
        response["HX-Refresh"] = "true"
        return response
    return render(request, "fits/_advice.html", {"advice": advice, "planned": found})


@require_POST
def take(request: HttpRequest, pk: int) -> HttpResponse:
    """Take one of the advised plans for a paper."""
    found = _fit(request, pk)
    get_object_or_404(Advice, fit=found)
    try:
        take_plan(found, request.POST.get("paper", ""), request.POST.get("plan", ""))
    except JobError as error:
        messages.error(request, error.text())
    else:
        messages.success(request, f"{request.POST.get('paper', '')}: the other plan is taken.")
    return _back_to_paper(request, found.card_class_id)


def download(request: HttpRequest, pk: int, what: str) -> HttpResponse:
    """The job or the plan as open JSON."""
    found = _fit(request, pk)
    text = found.job if what == "job" else found.plan
    response = HttpResponse(text, content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="{slugify(found.card_class.title)}-{what}.json"'
    return response
