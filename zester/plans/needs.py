"""What a class needs of each paper, written down whenever the class is counted, and what follows from a change.

counted class --jobs_of--> a job for each paper --need_of--> changed?  no: nothing happens
                                                             known?    its plan is shown at once
                                                             new:      work is asked for, older work stopped
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import asdict, replace

from zester.classes.models import CardClass, ClassPaper
from zester.classes.services import CountedClass
from zester.core.care import care_of
from zester.core.class_job import Wishes, paper_job
from zester.core.cutting.handwork import assembly, handwork, is_trimmed, marks_data
from zester.core.errors import JobError
from zester.core.fitting.jobs.check_job import check_reach, check_shares
from zester.core.fitting.jobs.check_plan import check_paper_pins
from zester.core.fitting.jobs.job import Bench, Job, KeepRule, PaperJob
from zester.core.fitting.jobs.job_file import write_job
from zester.core.fitting.jobs.need import labels_of, need_of
from zester.core.fitting.jobs.plan import Layout, read_layout
from zester.core.fitting.parts import CutLimits
from zester.core.pieces import Tool
from zester.core.tally import PieceCount
from zester.plans.kept import known_plan, show
from zester.plans.models import PaperFit, Work
from zester.plans.work import SETTLE, ask, go_on, stop
from zester.shelf.services import shelf_paper, sizes_of
from zester.shelf.uses import open_stock


def follow(sender: type, counted: CountedClass, papers: set[str] | None = None, **_) -> None:
    """A class was counted: note what it needs, of these papers or of all, and begin what follows.

    While lines cannot be read nobody knows what is needed; what was noted before stays.
    """
    if counted.errors:
        return
    changed = _note(counted, papers)
    if counted.card_class.auto_fit:
        begin(changed)


def bench_of(card_class: CardClass) -> Bench:
    """What the class is cut with."""
    habit = card_class.habit
    limits = CutLimits(habit("longest_cut"), habit("narrowest"))
    return Bench(habit("stack"), limits, KeepRule(habit("keep_short"), habit("keep_long")))


def pins_of(wish: ClassPaper) -> tuple[Layout, ...]:
    """The layouts that stay."""
    return tuple(replace(read_layout(entry, wish.pins_unit), pinned=True) for entry in wish.pins)


def _note(counted: CountedClass, only: set[str] | None) -> list[PaperFit]:
    """Write down what each paper has to give; the fits whose need, names or obstacle has changed."""
    card_class = counted.card_class
    wanted: dict[str, list[PieceCount]] = {}
    for entry in counted.counts:
        if entry.count and (only is None or entry.piece.paper in only):
            wanted.setdefault(entry.piece.paper, []).append(entry)
    wanted = {key: group for key, group in wanted.items() if any(not entry.piece.filler for entry in group)}
    fits = _fits(card_class, only)
    bench, changed = bench_of(card_class), []
    sheets = sizes_of(card_class.owner)
    there = open_stock(card_class.owner_id, card_class.pk, counted.held.papers, sheets)
    for paper in counted.held.papers:
        if paper.key in wanted:
            fit = fits.pop(paper.key, None) or _new(card_class, paper)
            wishes = Wishes(bench, {paper.key: pins_of(fit.class_paper)})
            first = card_class.offcuts_first
            mine = shelf_paper(paper, sheets.get(paper.pk, ()), there.get(paper.pk), offcuts_too=first)
            job = paper_job(mine, wanted[paper.key], wishes)
            if _write(fit, Job(card_class.unit, (job,), bench), wanted[paper.key], counted.known.tools):
                changed.append(fit)
    for fit in fits.values():
        if fit.need or fit.problem:
            fit.need = fit.labels = fit.problem = fit.job = ""
            fit.save(update_fields=["need", "labels", "problem", "job", "changed_at"])
            changed.append(fit)
    return changed


def _fits(card_class: CardClass, only: set[str] | None = None) -> dict[str, PaperFit]:
    """What is written down of the class's papers, or of these, by their keys."""
    rows = PaperFit.objects.filter(class_paper__card_class=card_class)
    if only is not None:
        rows = rows.filter(class_paper__paper__key__in=only)
    plans = [
        f"{plan}__{field}" for plan in ("shown", "offered") for field in ("job", "plan", "pieces", "advice", "front")
    ]
    rows = rows.select_related("class_paper__paper", "shown", "offered").defer(*plans)
    return {fit.paper.key: fit for fit in rows}


def _new(card_class: CardClass, paper) -> PaperFit:
    wish, _ = ClassPaper.objects.get_or_create(card_class=card_class, paper=paper)
    return PaperFit(class_paper=wish)


def _about(entry: PieceCount, unit: str, tools: Sequence[Tool]) -> dict:
    """What pages say of a piece: its names, the sum, what is done to it."""
    return {
        "name": entry.piece.name,
        "card": entry.card,
        "why": entry.why,
        "count": entry.count,
        "care": " · ".join(care_of(entry.piece)),
        "work": [asdict(work) for work in handwork(entry.piece, unit, tools)],
        "assembly": [asdict(work) for work in assembly(entry.piece, unit)],
        "trimmed": is_trimmed(entry.piece),
        "marks": marks_data(entry.piece),
    }


def _write(fit: PaperFit, whole: Job, wanted: list[PieceCount], tools: Sequence[Tool]) -> bool:
    """Write what is needed of one paper; whether its need, its pieces' names or what stands in its way has changed."""
    (job,), bench, unit = whole.papers, whole.bench, whole.unit
    need, labels = need_of(job, bench), labels_of(job)
    pieces = {entry.handle: _about(entry, unit, tools) for entry in wanted}
    same = (fit.need, fit.labels) == (need, labels) and not fit.problem
    problem = "" if same else _obstacle(job, bench, unit)
    text = "" if problem else write_job(whole)
    now = ("" if problem else need, "" if problem else labels, problem)
    changed = (fit.need, fit.labels, fit.problem) != now
    if changed or fit.job != text or fit.pieces != pieces:
        fit.need, fit.labels, fit.problem = now
        fit.job, fit.pieces = text, pieces
        fit.save()
    return changed


def _obstacle(job: PaperJob, bench: Bench, unit: str) -> str:
    """Why the paper cannot be fitted, in words; empty if it can."""
    try:
        check_reach(job, bench.limits, unit, "")
        if job.pool != "together":
            check_shares(job.pieces, job.people, "")
        check_paper_pins(job, bench)
    except JobError as error:
        return error.text()
    return ""


def begin(fits: Iterable[PaperFit]) -> None:
    """Begin what a change asks for: older work is stopped, a plan that is known is shown, others are looked for."""
    for fit in fits:
        stop(fit__pk=fit.pk)
        if not fit.need:
            continue
        known = known_plan(fit)
        if known:
            show(fit, known)
            go_on(fit, known)
        else:
            ask(fit, Work.Kind.QUICK, SETTLE)


def begin_class(card_class: CardClass) -> None:
    """Begin for every paper of a class that no plan answers: what the button does."""
    rows = _fits(card_class).values()
    begin(fit for fit in rows if fit.need and not fit.answered)
