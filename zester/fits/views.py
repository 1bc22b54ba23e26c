"""The Fit station: the wall of all layouts, a paper by itself, the strip of papers that other stations show."""

from __future__ import annotations

import json
from decimal import Decimal

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from zester.classes.models import CardClass, ClassPaper
from zester.classes.services import class_or_404
from zester.core.errors import JobError
from zester.core.fitting.jobs.plan import layout_entry
from zester.fits.advised import advice_on, line_costs
from zester.fits.sheets import draw_paper, print_shares, scale_of, wall_of, yield_of
from zester.fits.tradeoff import class_front, front_of, is_taken
from zester.plans.kept import whole
from zester.plans.models import PaperFit, Work
from zester.plans.needs import begin, begin_class
from zester.plans.proofs import proof_file, proof_words
from zester.plans.standing import Entry, Papers, living_workers, papers_in, stamp_of
from zester.plans.wishes import pin, set_auto, set_pool, take_plan, unpin, unpin_all
from zester.plans.work import ask as ask_for
from zester.plans.work import stop as stop_work
from zester.plans.work import stop_class
from zester.site.owned import key_of
from zester.site.stations import thread
from zester.supply.booking import let_go


def _class(request: HttpRequest, pk: int) -> CardClass:
    return class_or_404(request.user, pk)


def _entry(papers: Papers, key: str) -> Entry:
    found = next((entry for entry in papers.entries if entry.fit.key == key), None)
    if found is None:
        raise Http404
    return found


def _fit(request: HttpRequest, pk: int, key: str) -> PaperFit:
    """A paper's fit, whole, of the user's class."""
    fits = PaperFit.objects.select_related("class_paper__paper", "class_paper__card_class", "shown", "offered")
    return get_object_or_404(fits.filter(class_paper__card_class=_class(request, pk)).known_by(key))


def wall(request: HttpRequest, pk: int) -> HttpResponse:
    """Every layout of the class on one screen, small, by paper; what stands in the way, or is being looked for."""
    card_class = _class(request, pk)
    stamp = stamp_of(card_class)
    context = _wall_context(card_class, papers_in(card_class)) | {"stations": thread(card_class, "fit")}
    return render(request, "fits/wall.html", context | {"stamp": stamp})


def _wall_context(card_class: CardClass, papers: Papers) -> dict:
    costs = [fit.cost for fit in papers.shown if fit.cost is not None]
    wall = wall_of(papers.entries)
    return {
        "card_class": card_class,
        "papers": papers,
        "wall": wall,
        "scale": scale_of(wall),
        "used_percent": yield_of(papers.entries),
        "cost": sum(costs, Decimal(0)),
        "unpriced": len(papers.shown) - len(costs),
        "late": _is_late(card_class, papers),
        "pinned": ClassPaper.objects.filter(card_class=card_class).exclude(pins=[]).exists(),
        "advising": Work.objects.filter(
            fit__class_paper__card_class=card_class, kind=Work.Kind.ADVICE, status__in=Work.OPEN
        ).count(),
    }


def _is_late(card_class: CardClass, papers: Papers) -> bool:
    """Whether its day has passed and nobody has said of a paper that it is cut."""
    passed = card_class.date is not None and card_class.date < timezone.localdate()
    return passed and any(fit.held != PaperFit.Held.CUT for fit in papers.shown)


def wall_part(request: HttpRequest, pk: int) -> HttpResponse:
    """The wall alone, if it has changed since the page has it."""
    card_class = _class(request, pk)
    stamp = stamp_of(card_class)
    if request.GET.get("since") == stamp:
        return HttpResponse(status=204)
    context = _wall_context(card_class, papers_in(card_class)) | {"stations": thread(card_class, "fit")}
    return render(request, "fits/_wall.html", context | {"stamp": stamp, "answer": True})


def strip(request: HttpRequest, pk: int) -> HttpResponse:
    """The strip of papers, if it has changed since the page has it; what the lines of the open card cost."""
    card_class = _class(request, pk)
    stamp = stamp_of(card_class)
    if request.GET.get("since") == stamp:
        return HttpResponse(status=204)
    papers = papers_in(card_class)
    letter = request.GET.get("card", "")[:3]
    costs = line_costs([entry.fit for entry in papers.entries], letter) if letter else []
    here = "count" if request.GET.get("station") == "count" else "design"
    context = {"card_class": card_class, "papers": papers, "costs": costs, "letter": letter, "here": here}
    context["stamp"] = stamp
    return render(request, "fits/_strip.html", context | {"stations": thread(card_class, here)})


def paper(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """One paper, large: its layouts with their pieces, the list of pieces, what can be wished of it."""
    card_class = _class(request, pk)
    papers = papers_in(card_class)
    entry = _entry(papers, key)
    context = {
        "card_class": card_class,
        "papers": papers,
        "entry": entry,
        "stations": thread(card_class, "fit"),
        "pools": ClassPaper.POOLS,
        "stamp": _paper_stamp(entry),
        "prefix": "",
    }
    if entry.fit.shown_id:
        whole([entry.fit])
        context["sheets"] = draw_paper(entry)
        context["proof_words"] = proof_words(entry.fit.shown)
        context |= _advice_context(entry.fit, context["sheets"])
    return render(request, "fits/paper.html", context)


def proof(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """What proves that no plan of the paper needs less, as a file of open JSON."""
    shown = _entry(papers_in(_class(request, pk)), key).fit.shown
    if shown is None or not shown.proven:
        raise Http404
    shown.refresh_from_db()
    response = HttpResponse(proof_file(shown), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="{key}-proof.json"'
    return response


def paper_state(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Whether another plan is shown than the page has; then it is loaded anew."""
    card_class = _class(request, pk)
    entry = _entry(papers_in(card_class), key)
    if request.GET.get("since") == _paper_stamp(entry):
        return HttpResponse(status=204)
    response = HttpResponse(status=204)
    response["HX-Refresh"] = "true"
    return response


def _paper_stamp(entry: Entry) -> str:
    fit = entry.fit
    return f"{fit.shown_id}-{fit.offered_id}-{entry.state}-{fit.held}-{fit.short}"


def print_all(request: HttpRequest, pk: int) -> HttpResponse:
    """All papers for the printer, each on a page of its own."""
    card_class = _class(request, pk)
    papers = papers_in(card_class)
    whole(entry.fit for entry in papers.entries)
    drawn = [draw_paper(entry, print_shares) for entry in papers.entries if entry.fit.shown_id]
    return render(request, "fits/print.html", {"card_class": card_class, "papers": papers, "drawn": drawn})


@require_POST
def start(request: HttpRequest, pk: int) -> HttpResponse:
    """Look for a plan for every paper that has none for what is needed now."""
    begin_class(_class(request, pk))
    return redirect("fits:wall", pk)


@require_POST
def stop(request: HttpRequest, pk: int) -> HttpResponse:
    """Stop all work on the class, the question about one paper, or the search for easier plans of all papers."""
    card_class, key = _class(request, pk), request.POST.get("paper", "")
    if request.POST.get("kind") == Work.Kind.FRONT:
        stop_work(fit__class_paper__card_class=card_class, kind=Work.Kind.FRONT)
        return redirect("fits:tradeoff", pk)
    if not key:
        stop_class(card_class)
        return redirect("fits:wall", pk)
    stop_work(fit=_fit(request, pk, key), kind=Work.Kind.ADVICE)
    return redirect("fits:paper", pk, key)


@require_POST
def auto(request: HttpRequest, pk: int) -> HttpResponse:
    """Whether plans follow every change of the class by themselves."""
    set_auto(_class(request, pk), request.POST.get("auto") == "on")
    return redirect("fits:wall", pk)


@require_POST
def pool(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Say how a paper's pieces are pooled, and fit it that way."""
    fit = _fit(request, pk, key)
    try:
        set_pool(fit, request.POST.get("pool", ""))
    except JobError as error:
        messages.error(request, error.advice())
    else:
        _begin_by_hand(fit)
    return redirect("fits:paper", pk, key)


def _begin_by_hand(fit: PaperFit) -> None:
    """Where plans do not follow by themselves, what was asked for here is begun all the same."""
    if not fit.class_paper.card_class.auto_fit:
        begin([PaperFit.objects.select_related("class_paper__paper", "shown").get(pk=fit.pk)])


@require_POST
def pin_layout(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Keep a layout of the shown plan in the plans to come."""
    fit = _fit(request, pk, key)
    try:
        pin(fit, int(request.POST.get("layout", "")))
    except (LookupError, ValueError, AttributeError):
        raise Http404 from None
    messages.success(request, "This layout stays as it is. When the class changes, the rest is fitted around it.")
    return redirect("fits:paper", pk, key)


@require_POST
def unpin_layout(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Let a pinned layout of a paper go, or all of them."""
    number = request.POST.get("layout", "")
    fit = _fit(request, pk, key)
    unpin(fit, key_of(number) if number else None)
    _begin_by_hand(fit)
    messages.success(request, "Let go. It may change now.")
    return redirect("fits:paper", pk, key)


@require_POST
def unpin_class(request: HttpRequest, pk: int) -> HttpResponse:
    """Let all pinned layouts of a class go."""
    unpin_all(_class(request, pk))
    messages.success(request, "All pinned layouts are let go.")
    return redirect("fits:wall", pk)


@require_POST
def release(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Take the plan that is offered, or hold the shown one no longer; of a paper that is cut that is said at Cut."""
    fit = _fit(request, pk, key)
    if fit.done:
        messages.error(request, f"{fit.name} is {fit.get_held_display()}: say at Cut that it is not after all.")
    else:
        let_go(fit)
    return redirect("fits:paper", pk, key)


@require_POST
def ask(request: HttpRequest, pk: int) -> HttpResponse:
    """Look for other plans, free seats and near misses: of one paper, or of all."""
    card_class = _class(request, pk)
    papers, key = papers_in(card_class), request.POST.get("paper", "")
    for entry in [_entry(papers, key)] if key else papers.entries:
        if entry.fit.answered:
            ask_for(entry.fit, Work.Kind.ADVICE)
    return redirect("fits:paper", pk, key) if key else redirect("fits:wall", pk)


def _advice_context(fit: PaperFit, sheets) -> dict:
    work = Work.objects.filter(fit=fit, kind=Work.Kind.ADVICE, need=fit.need).order_by("-pk").first()
    current = [layout_entry(layout, sheets.unit) for layout in sheets.plan.layouts]
    trimmer = fit.class_paper.card_class.cut_with
    return {
        "advice_work": work,
        "advised": advice_on(sheets),
        "front": front_of(fit.shown.front, current, trimmer, sheets.kept.priced),
        "nobody": work and work.open and not living_workers(),
    }


def advice(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """How far the advice on a paper is; when it has ended the page is loaded anew."""
    entry = _entry(papers_in(_class(request, pk)), key)
    work = Work.objects.filter(fit=entry.fit, kind=Work.Kind.ADVICE).order_by("-pk").first()
    if work is None or not work.open:
        response = HttpResponse(status=204)
        response["HX-Refresh"] = "true"
        return response
    context = {"card_class": entry.fit.class_paper.card_class, "entry": entry, "advice_work": work}
    context["nobody"] = not living_workers()
    return render(request, "fits/_advice.html", context)


@require_POST
def take(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Take one of the plans that were looked for."""
    fit = _fit(request, pk, key)
    try:
        take_plan(fit, request.POST.get("plan", ""))
    except JobError as error:
        messages.error(request, error.text())
    else:
        messages.success(request, f"{fit.name}: the other plan is taken, and stays until you let it go.")
    return redirect("fits:paper", pk, key)


def tradeoff(request: HttpRequest, pk: int) -> HttpResponse:
    """Paper against minutes for the whole class: what each sheet more saves, and which plans are worth it."""
    card_class = _class(request, pk)
    papers = papers_in(card_class)
    return render(request, "fits/tradeoff.html", _tradeoff_context(card_class, papers))


def _tradeoff_context(card_class: CardClass, papers: Papers) -> dict:
    looking = _looking(card_class)
    return {
        "card_class": card_class,
        "papers": papers,
        "front": class_front(card_class, [entry.fit for entry in papers.entries]),
        "looking": looking,
        "nobody": bool(looking) and not living_workers(),
        "stations": thread(card_class, "fit"),
    }


def _looking(card_class: CardClass) -> int:
    """How many papers' plans are being looked for."""
    kinds = Work.Kind.FRONT, Work.Kind.ADVICE
    return Work.objects.filter(
        fit__class_paper__card_class=card_class, kind__in=kinds, status__in=Work.OPEN, stop_asked=False
    ).count()


def tradeoff_state(request: HttpRequest, pk: int) -> HttpResponse:
    """Whether fewer papers are being looked at than the page has; then it is loaded anew."""
    response = HttpResponse(status=204)
    if str(_looking(_class(request, pk))) != request.GET.get("looking", ""):
        response["HX-Refresh"] = "true"
    return response


@require_POST
def look(request: HttpRequest, pk: int) -> HttpResponse:
    """Look for easier plans of every paper of the class."""
    card_class = _class(request, pk)
    for fit in class_front(card_class, [entry.fit for entry in papers_in(card_class).entries]).open:
        ask_for(fit, Work.Kind.FRONT)
    return redirect("fits:tradeoff", pk)


@require_POST
def take_all(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a plan of every paper: those of one step of the class."""
    card_class, took = _class(request, pk), []
    for line in request.POST.get("takes", "").split(";"):
        key, _, name = line.strip().partition(" ")
        fit = _fit(request, pk, key)
        if is_taken(fit, name):
            continue
        try:
            take_plan(fit, name)
        except JobError as error:
            messages.error(request, f"{fit.name}: {error.text()}")
        else:
            took.append(fit.name)
    if took:
        messages.success(request, f"Taken: {', '.join(took)}. These plans stay until you let them go.")
    return redirect("fits:tradeoff", card_class.pk)


def download(request: HttpRequest, pk: int, what: str) -> HttpResponse:
    """The shown plans of the class, or the jobs they were made for, as one file of open JSON."""
    card_class = _class(request, pk)
    fits = PaperFit.objects.wanted().filter(class_paper__card_class=card_class, shown__isnull=False)
    texts = [getattr(fit.shown, what) for fit in fits]
    if not texts:
        raise Http404
    response = HttpResponse(_joined(texts), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="{slugify(card_class.title) or "class"}-{what}.json"'
    return response


def _joined(texts: list[str]) -> str:
    """Files of one paper each as one file: the lists that both have are put one after the other."""
    parts = [json.loads(text) for text in texts]
    joined = dict(parts[0])
    for part in parts[1:]:
        for key, value in part.items():
            if isinstance(value, list):
                joined[key] = [*joined.get(key, []), *value]
    return json.dumps(joined, indent=1, ensure_ascii=False)
