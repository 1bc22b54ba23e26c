"""The Cut station: the list of steps, the bench at which they are done, what went wrong, the log."""

from __future__ import annotations

from collections.abc import Mapping

from django.contrib import messages
from django.db.models import QuerySet
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from zester.bench import runs
from zester.bench.evening import evening_of, forget_job, log_job
from zester.bench.mishaps import mended_words, on_table, read_spoiled
from zester.bench.models import CutLog, HandLog, Refit
from zester.bench.one_order import in_order_of, look_unasked, offered
from zester.bench.practice import read_strips
from zester.bench.refits import ASKED, ask_mishap, open_refit, take_back
from zester.bench.rehearsal import play_of
from zester.bench.services import paper_steps
from zester.bench.short import short_of, short_pieces
from zester.bench.ticks import read_ticks, state_of
from zester.classes.models import CardClass, Trimmer
from zester.classes.services import class_or_404
from zester.core.errors import JobError
from zester.core.lengths import show_size
from zester.core.stock.offcut_lines import LONGEST_PLACE
from zester.plans.kept import read_made
from zester.plans.models import PaperFit, paper_and_part
from zester.plans.standing import papers_in
from zester.site.owned import key_of
from zester.site.prepared import prepared
from zester.site.stations import some, thread
from zester.supply.booking import Unbooked, unbooked

# Minutes that a job by hand may take.
LONGEST_JOB = 6000


def class_of(request: HttpRequest, pk: int) -> CardClass:
    """One’s own class."""
    return class_or_404(request.user, pk, "trimmer")


def fit_of(request: HttpRequest, pk: int, key: str) -> PaperFit:
    """A paper of one's own class that has a plan."""
    return _with_plan.one_or_404(class_of(request, pk).pk, *paper_and_part(key))


@prepared
def _with_plan(card_class: int, paper: str, part: int) -> QuerySet[PaperFit]:
    mine = PaperFit.objects.filter(class_paper__card_class=card_class, class_paper__paper__key=paper, part=part)
    return mine.exclude(shown=None).select_related(*runs.WITH_ALL)


@prepared
def _logs(plan: int) -> QuerySet[CutLog]:
    return CutLog.objects.filter(plan=plan)


def steps(request: HttpRequest, pk: int, key: str = "") -> HttpResponse:
    """The numbered steps for one paper, the first that is not cut yet unless one is named; prints on its own."""
    card_class = class_of(request, pk)
    papers = papers_in(card_class)
    planned = papers.shown
    waiting = [fit for fit in planned if fit.held != PaperFit.Held.CUT]
    fit = next((each for each in planned if each.key == key), None) if key else next(iter(waiting or planned), None)
    if key and fit is None:
        raise Http404
    context = {"card_class": card_class, "papers": papers, "planned": planned, "stations": thread(card_class, "cut")}
    context["offer"] = offered(look_unasked(card_class, papers), planned)
    if fit:
        there, fit = fit, fit_of(request, pk, fit.key)
        fit.class_paper.paper, fit.promised = there.class_paper.paper, there.promised
        context["shared"] = shared = in_order_of(card_class, planned)
        rail = shared.rail(fit) if shared and fit.key in shared.keys else None
        context["paper"] = paper = paper_steps(fit, runs.cutting_of(fit), rail)
        context["rail"] = rail and f"{shared.order.pk}-{shared.order.asked_at.timestamp()}"
        if paper.cutting and fit.held == PaperFit.Held.CUTTING:
            context["left"] = _left(paper.cutting, paper.unit)
            context["unbooked"] = unbooked(fit, runs.opened_in(paper.cutting))
        context["log"] = next(iter(_logs(fit.shown_id)), None)
        context["over"], context["after"] = _over(fit), next(iter(waiting), None)
    return render(request, "bench/steps.html", context)


def _left(cutting: runs.Cutting, unit: str) -> list[tuple[str, int, str]]:
    """What is worth keeping when all is cut: a name for its field, how many, the size in words."""
    sizes = runs.left_now(cutting).items()
    return [(f"keep{n}", count, show_size(*size[:2], unit)) for n, (size, count) in enumerate(sizes)]


def _counts(cutting: runs.Cutting, data: Mapping[str, str]) -> dict[tuple[int, int, str], int]:
    return {size: key_of(data.get(f"keep{n}", "")) for n, size in enumerate(runs.left_now(cutting))}


def _over(fit: PaperFit) -> list[str]:
    """Pieces that nobody wants any more, in words."""
    return [f"{count} × {handle} {fit.pieces.get(handle, {}).get('name', '')}".strip() for handle, count in fit.over]


def _bought(asked: list[Unbooked], data: Mapping[str, str]) -> dict[str, int]:
    """How many sheets of each kind were bought for it. Raises JobError if that is not said."""
    found = {}
    for number, each in enumerate(asked):
        said = data.get(f"bought{number}", "").strip()
        if not said.isdecimal() or int(said[:6]) > 10_000:
            words = f"{some(each.count, 'sheet')} of {each.size} did not come from the shelf: how many were bought?"
            raise JobError(words, mend="Write how many, or 0 if they lay there uncounted")
        found[each.key] = int(said)
    return found


@require_POST
def mark(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Say that a paper is being cut, is cut, or is not cut after all; what undoes work has to be said for sure."""
    fit, state = fit_of(request, pk, key), request.POST.get("state")
    if state == "not" and fit.done and request.POST.get("sure") != "yes":
        words = f"{fit.name} is {fit.get_held_display()}: read below what is given up, then say so."
        messages.error(request, words)
    elif state == "not":
        runs.give_up(fit)
    elif state == "cut":
        _book(request, fit)
    else:
        runs.begin(fit)
        if state == "bench":
            return redirect("bench:table", pk, key)
    return redirect("bench:paper", pk, key)


def _book(request: HttpRequest, fit: PaperFit) -> None:
    """All of it is cut; said twice it is booked once."""
    cutting, bought = runs.cutting_of(fit) or runs.Cutting(fit, runs.begin(fit)), {}
    try:
        if fit.held != PaperFit.Held.CUT:
            bought = _bought(unbooked(fit, runs.opened_in(cutting)), request.POST)
    except JobError as error:
        messages.error(request, error.text())
        return
    place = " ".join(request.POST.get("place", "").split())
    if len(place) > LONGEST_PLACE:
        messages.error(request, f"Kept in “{place}”: a place holds {LONGEST_PLACE} letters. Nothing is booked yet.")
        return
    log = runs.finish(cutting.fit, _counts(cutting, request.POST), place, bought)
    messages.success(request, _finished_words(fit, log))


def _finished_words(fit: PaperFit, log: CutLog) -> str:
    words = f"{fit.name} is cut, and booked on the shelf."
    if log.offcuts:
        words += f" {log.offcuts} offcut{'s' if log.offcuts > 1 else ''} went back."
    if log.seconds >= 60:
        words += f" It took {round(log.seconds / 60)} min; {round(log.planned_seconds / 60)} were reckoned."
    return words


@require_GET
def table(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """The bench, one step at a time; somebody has to have begun. Says so while another way is being looked for."""
    fit = fit_of(request, pk, key)
    card_class = fit.class_paper.card_class
    if open_refit(fit):
        context = {"card_class": card_class, "fit": fit, "stations": thread(card_class, "cut")}
        return render(request, "bench/looking.html", context)
    tell_answer(request, fit)
    shared = in_order_of(card_class, [each for each in papers_in(card_class).shown if each.done])
    shared = shared if shared and fit.key in shared.keys else None
    paper = paper_steps(fit, runs.cutting_of(fit), shared.rail(fit) if shared else None)
    if fit.held != PaperFit.Held.CUTTING or paper.cutting is None:
        return redirect("bench:paper", pk, key)
    context = {"card_class": card_class, "paper": paper, "fit": fit, "shared": shared}
    return render(request, "bench/table.html", context | {"turns": shared.turns(fit) if shared else []})


def tell_answer(request: HttpRequest, fit: PaperFit) -> None:
    """Say what came of what this browser asked, once."""
    refit = Refit.objects.filter(pk=request.session.pop(ASKED, None), run__fit=fit).select_related("made").first()
    if refit and refit.made:
        messages.success(request, mended_words(fit, refit.made))
    elif refit and refit.problem:
        messages.error(request, refit.problem)


@require_GET
def looking(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Whether another way is still being looked for; if not, the page is loaded anew."""
    response = HttpResponse(status=204)
    if not open_refit(fit_of(request, pk, key)):
        response["HX-Refresh"] = "true"
    return response


@require_GET
def rehearsal(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """The steps played on the drawing, to see the evening beforehand; nothing is ticked."""
    fit = fit_of(request, pk, key)
    paper = paper_steps(fit, runs.cutting_of(fit))
    card_class = fit.class_paper.card_class
    context = {"card_class": card_class, "paper": paper, "fit": fit, "play": play_of(paper)}
    return render(request, "bench/rehearsal.html", context | {"stations": thread(card_class, "cut")})


@require_POST
def ticks(request: HttpRequest, pk: int, key: str) -> JsonResponse:
    """Keep what a bench has ticked, in order, and say how all stands."""
    fit = fit_of(request, pk, key)
    try:
        sent = read_ticks(request.body if request.content_type == "application/json" else b"")
    except JobError as error:
        return JsonResponse({"problem": error.text()}, status=400)
    runs.tick(fit, sent)
    return JsonResponse(state_of(fit))


@require_GET
def state(request: HttpRequest, pk: int, key: str) -> JsonResponse:
    """How far this paper and the others of the class are."""
    return JsonResponse(state_of(fit_of(request, pk, key)))


@require_GET
def wrong(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """What may have been spoiled: what lies on the table now."""
    cutting = runs.cutting_of(fit_of(request, pk, key))
    if cutting is None:
        raise Http404
    return render(request, "bench/_wrong.html", {"cutting": cutting, "choices": on_table(cutting)})


@require_POST
def mishap(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Something was spoiled: a worker fits the rest into what lies there, and the new steps go on from here."""
    fit = fit_of(request, pk, key)
    try:
        spoiled = read_spoiled(request.POST)
        number, done = key_of(request.POST.get("run", "")), key_of(request.POST.get("done", ""))
        request.session[ASKED] = ask_mishap(fit, number, done, spoiled, request.POST.get("reason", "")).pk
    except JobError as error:
        messages.error(request, error.text())
    return redirect("bench:table", pk, key)


@require_GET
def short(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Pieces a hair short: which places of which cards can bear it, what to trim instead."""
    fit = fit_of(request, pk, key)
    card_class = fit.class_paper.card_class
    context = {"card_class": card_class, "fit": fit, "stations": thread(card_class, "cut")}
    context |= {"rows": short_pieces(fit, read_made(fit.shown).plan), "much": short_of(card_class.unit)[1]}
    return render(request, "bench/short.html", context)


@require_POST
def undo_mishap(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """It was not so, whether another way was found yet or not."""
    try:
        take_back(fit_of(request, pk, key))
        messages.success(request, "Taken back: the steps are as they were.")
    except JobError as error:
        messages.error(request, error.text())
    return redirect("bench:table", pk, key)


@require_GET
def evening(request: HttpRequest, pk: int) -> HttpResponse:
    """The order of work for the whole class, with minutes, cut into sittings."""
    card_class = class_of(request, pk)
    minutes = min(600, max(15, key_of(request.GET.get("minutes", "")) or 90))
    context = evening_of(card_class, minutes) | {"card_class": card_class, "stations": thread(card_class, "cut")}
    return render(request, "bench/evening.html", context)


@require_POST
def job_done(request: HttpRequest, pk: int) -> HttpResponse:
    """Say that a job by hand is done, and how long it took; or that it is not after all."""
    card_class, job, by = class_of(request, pk), request.POST.get("job", ""), request.POST.get("by", "")
    text = request.POST.get("minutes", "").strip()
    minutes = key_of(text)
    if "undo" in request.POST:
        forget_job(card_class, job, by)
        messages.info(request, f"“{job}” is to be done again.")
    elif text and not 1 <= minutes <= LONGEST_JOB:
        messages.error(
            request, f"“{text[:40]}” is no number of minutes from 1 to {LONGEST_JOB:,}. Write one, or leave it empty."
        )
    elif not log_job(card_class, job, by, 60 * minutes):
        messages.error(request, f"“{job[:80]}” is not among the jobs any more. Look at what there is now.")
    else:
        took = f" in {minutes} min; your own time counts from now on" if minutes else ""
        messages.success(request, f"“{job}” is done{took}.")
    return redirect("bench:evening", pk)


@require_GET
def log(request: HttpRequest) -> HttpResponse:
    """Every paper that was cut: minutes, strokes, what was spoiled; and the pace that was learnt."""
    trimmers = [(each, runs.pace_learnt(each)) for each in Trimmer.objects.of(request.user)]
    rows = CutLog.objects.filter(owner=request.user)[:300]
    by_hand = HandLog.objects.filter(owner=request.user)[:300]
    context = {"rows": rows, "by_hand": by_hand, "learnt": [(trimmer, pace) for trimmer, pace in trimmers if pace]}
    return render(request, "bench/log.html", context)


@require_POST
def take_pace(request: HttpRequest, pk: int) -> HttpResponse:
    """Reckon with the pace that was learnt from now on."""
    trimmer = get_object_or_404(Trimmer.objects.of(request.user), pk=pk)
    pace = runs.pace_learnt(trimmer)
    if pace:
        trimmer.setting_seconds, trimmer.stack_seconds, trimmer.stroke_seconds = pace.setting, pace.stack, pace.stroke
        trimmer.save(update_fields=["setting_seconds", "stack_seconds", "stroke_seconds"])
        messages.success(request, f"{trimmer.name} is reckoned with at your own pace now.")
    return redirect("bench:log")


def practice(request: HttpRequest, pk: int) -> HttpResponse:
    """A practice sheet: three cuts on scrap; what they measured says how far off the rail is."""
    trimmer = get_object_or_404(Trimmer.objects.of(request.user), pk=pk)
    strips = read_strips(trimmer, request.POST if request.method == "POST" else None)
    if strips.words:
        messages.success(request, strips.words)
        return redirect("classes:edit_trimmer", trimmer.pk)
    return render(request, "bench/practice.html", {"trimmer": trimmer, "strips": strips})
