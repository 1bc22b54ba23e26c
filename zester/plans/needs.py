"""What a class needs of each paper, written down whenever the class is counted, and what follows from a change.

counted class --jobs_of--> a job for each paper --need_of--> changed?  no: nothing happens
                                                             known?    its plan is shown at once
                                                             new:      work is asked for, older work stopped
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import asdict, replace

from django.db.models import QuerySet

from zester.classes.models import CardClass, ClassPaper
from zester.classes.services import CountedClass, count_class
from zester.core.care import care_of
from zester.core.class_job import Wishes, paper_job
from zester.core.cutting.handwork import assembly, handwork, is_trimmed, marks_data
from zester.core.errors import JobError
from zester.core.fitting.jobs.check_job import check_reach, check_shares
from zester.core.fitting.jobs.check_plan import check_paper_pins
from zester.core.fitting.jobs.job import AT_HOME, Bench, Job, KeepRule, PaperJob
from zester.core.fitting.jobs.job_file import write_job
from zester.core.fitting.jobs.need import labels_of, need_of
from zester.core.fitting.jobs.plan import Layout, read_layout
from zester.core.fitting.jobs.rest import rest_of
from zester.core.fitting.parts import CutLimits
from zester.core.pictures import ANY
from zester.core.pieces import CutPiece
from zester.core.tally import PieceCount
from zester.plans.kept import known_plan, show, was_made
from zester.plans.models import LARGE, PaperFit, Work
from zester.plans.work import ask, go_on, settle_now, stop
from zester.shelf.models import Paper, Sheet
from zester.shelf.services import shelf_paper, sizes_of
from zester.shelf.uses import Wants, open_stock, promised, who
from zester.site.prepared import prepared

# Say which sheets of a paper a class cuts as they are drawn elsewhere: layouts that stay in its plans.
_LAYOUTS: list[Callable[[CountedClass, Paper], tuple[Layout, ...]]] = []


def register_layouts(find: Callable[[CountedClass, Paper], tuple[Layout, ...]]) -> None:
    """Be asked for them."""
    _LAYOUTS.append(find)


# The sum of a piece of a supplement, in words.
BEYOND = "more than is cut already"
# What pictures are called that come along.
OTHERS = "X0"


def follow(sender: type, counted: CountedClass, papers: set[str] | None = None, **_) -> None:
    """A class was counted: note what it needs, of these papers or of all, and begin what follows.

    While lines cannot be read nobody knows what is needed; what was noted before stays.
    """
    if counted.errors:
        return
    changed = _note(counted, papers)
    if counted.card_class.auto_fit:
        begin(changed)


def note_anew(card_class: CardClass, papers: set[str]) -> None:
    """What is cut of some papers has changed: note what is still to be made of them."""
    follow(CardClass, count_class(card_class), papers)


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
    parts: dict[str, list[PaperFit]] = {}
    for fit in _fits(card_class, only):
        parts.setdefault(fit.paper.key, []).append(fit)
    sizes, changed = sizes_of(card_class.owner_id), []
    # Asked once for all papers, and only where a paper comes in several sizes.
    wants = promised(card_class.owner_id) if sizes else {}
    for paper in counted.held.papers:
        if paper.key in wanted or paper.key in parts:
            mine = wanted.get(paper.key, []), parts.get(paper.key, [])
            changed += _OfPaper(counted, paper, sizes.get(paper.pk, []), wants, *mine).note()
    return changed


class _OfPaper:
    """One paper of a class: what is wanted of it, and its fits."""

    def __init__(
        self,
        counted: CountedClass,
        paper: Paper,
        sizes: list[Sheet],
        wants: Wants,
        wanted: list[PieceCount],
        fits: list[PaperFit],
    ):
        self.counted, self.paper, self.sizes = counted, paper, sizes
        self.wanted = [*wanted, *_other_pictures(paper, wanted)]
        self.wants = wants
        self.done = [fit for fit in fits if fit.done]
        self.open = [fit for fit in fits if not fit.done]
        self.bench = bench_of(counted.card_class)

    def note(self) -> list[PaperFit]:
        """Write down what is still to be made of it; the fits that changed."""
        fit, *others = self.open or [None]
        changed = [other for other in others if _want_nothing(other)]
        if not self.wanted and not self.done:
            return changed + ([fit] if fit and _want_nothing(fit) else [])
        fit = fit or self._new()
        job = self._job(fit)
        if self.done:
            job, wanted = self._rest(job)
        else:
            wanted = self.wanted
        if job is None:
            return changed + ([fit] if fit.pk and _want_nothing(fit) else [])
        whole = Job(self.counted.card_class.unit, (job,), self.bench)
        return changed + ([fit] if _write(fit, whole, wanted, self.counted) else [])

    def _new(self) -> PaperFit:
        card_class = self.counted.card_class
        wish, _ = ClassPaper.objects.get_or_create(card_class=card_class, paper=self.paper)
        return PaperFit(class_paper=wish, part=1 + max((fit.part for fit in self.done), default=0))

    def _job(self, fit: PaperFit) -> PaperJob:
        """All that the class wants of it, from what lies on the shelf for this fit."""
        card_class, paper = self.counted.card_class, self.paper
        there = open_stock(self.wants, who(card_class.pk, fit.part), paper, self.sizes) if self.sizes else None
        drawn = tuple(layout for find in _LAYOUTS for layout in find(self.counted, paper))
        wishes = Wishes(self.bench, {paper.key: (*pins_of(fit.class_paper), *drawn)})
        first = card_class.offcuts_first
        # A picture is part of a whole sheet of the usual size.
        pictured = any(entry.piece.picture for entry in self.wanted)
        mine = shelf_paper(paper, [] if pictured else self.sizes, there, offcuts_too=first)
        return paper_job(mine, self.wanted, wishes)

    def _rest(self, job: PaperJob) -> tuple[PaperJob | None, list[PieceCount]]:
        """What of it is not cut yet, with its pieces; what is over is written down with what was cut last."""
        rest = rest_of(job, [was_made(fit) for fit in self.done])
        last, over = self.done[-1], [list(entry) for entry in rest.over]
        if last.over != over:
            last.over = over
            last.save(update_fields=["over", "changed_at"])
        if rest.job is None:
            return None, []
        counts = {piece.id: piece.count for piece in rest.job.pieces}
        more = [entry for entry in self.wanted if entry.handle in counts]
        return rest.job, [replace(entry, count=counts[entry.handle], why=BEYOND) for entry in more]


def _want_nothing(fit: PaperFit) -> bool:
    """Nothing is wanted of a paper any more; whether anything was."""
    if not (fit.need or fit.problem):
        return False
    fit.need = fit.labels = fit.problem = fit.job = ""
    fit.save(update_fields=["need", "labels", "problem", "job", "changed_at"])
    return True


def _fits(card_class: CardClass, only: set[str] | None = None) -> list[PaperFit]:
    """What is written down of the class's papers, or of these; of each paper what was first is first."""
    found = _fits_in(card_class.pk) if only is None else _fits_of(card_class.pk, sorted(only))
    for fit in found:
        fit.class_paper.card_class = card_class
    return found


@prepared
def _fits_in(card_class: int) -> QuerySet[PaperFit]:
    plans = [f"{plan}__{field}" for plan in ("shown", "offered") for field in LARGE]
    rows = PaperFit.objects.filter(class_paper__card_class=card_class).order_by("part")
    return rows.select_related("class_paper__paper", "shown", "offered").defer(*plans)


@prepared
def _fits_of(card_class: int, papers: list[str]) -> QuerySet[PaperFit]:
    return _fits_in.build(card_class).filter(class_paper__paper__key__in=papers)


def _about(entry: PieceCount, unit: str, counted: CountedClass, home: int) -> dict:
    """What pages say of a piece: its names, the sum, what is done to it, how many are cut at home."""
    return {
        "name": entry.piece.name,
        "card": entry.card,
        "why": entry.why,
        "count": entry.count,
        "home": home,
        "care": " · ".join(care_of(entry.piece)),
        "work": [asdict(work) for work in handwork(entry.piece, unit, counted.known.tools, counted.usual)],
        "assembly": [asdict(work) for work in assembly(entry.piece, unit)],
        "trimmed": is_trimmed(entry.piece),
        "marks": marks_data(entry.piece),
    }


def _write(fit: PaperFit, whole: Job, wanted: list[PieceCount], counted: CountedClass) -> bool:
    """Write what is needed of one paper; whether its need, its pieces' names or what stands in its way has changed."""
    (job,), bench, unit = whole.papers, whole.bench, whole.unit
    need, labels = need_of(job, bench), labels_of(job)
    home = {piece.id: piece.each * job.people for piece in job.pieces if piece.each} if job.pool in AT_HOME else {}
    pieces = {entry.handle: _about(entry, unit, counted, home.get(entry.handle, 0)) for entry in wanted}
    same = (fit.need, fit.labels) == (need, labels) and not fit.problem
    problem = "" if same else _mixed(wanted) or _obstacle(job, bench, unit)
    text = "" if problem else write_job(whole)
    now = ("" if problem else need, "" if problem else labels, problem)
    changed = (fit.need, fit.labels, fit.problem) != now
    if changed or fit.job != text or fit.pieces != pieces:
        fit.need, fit.labels, fit.problem = now
        fit.job, fit.pieces = text, pieces
        fit.save()
    return changed


def _other_pictures(paper: Paper, wanted: list[PieceCount]) -> list[PieceCount]:
    """The pictures that come along with those that are named: which part of a sheet has those nobody knows here."""
    pictures, mine = paper.shown_pictures, [entry for entry in wanted if entry.piece.picture]
    if pictures is None or not mine:
        return []
    each: dict[str, int] = {}
    for entry in mine:
        each[entry.piece.picture] = each.get(entry.piece.picture, 0) + entry.count
    rest = pictures.sheets(each) * pictures.count - sum(each.values())
    if not rest or each.keys() == {ANY}:
        return []
    wide, high = mine[0].piece.width, mine[0].piece.height
    piece = CutPiece(number=0, count=1, name="other pictures", width=wide, height=high, paper=paper.key, turn=False)
    why = "they lie on the sheets of those that are named"
    return [PieceCount(handle=OTHERS, card="left over", piece=piece, count=rest, why=why)]


def _mixed(wanted: list[PieceCount]) -> str:
    """Why pictures and other pieces of one paper cannot be planned together; empty if there are not both."""
    across = [entry.handle for entry in wanted if not entry.piece.picture and entry.handle != OTHERS]
    if not across or len(across) == len(wanted):
        return ""
    others = ", ".join(across)
    return f"{others} would be cut across its pictures: take another paper for that, or count the pictures as pieces"


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


def settle(fit: PaperFit) -> None:
    """The shown plan is what is made from now on: that is the need, whatever the class wants beyond it."""
    stop(fit__pk=fit.pk)
    plan = fit.shown
    if not fit.answered or fit.labels != plan.labels:
        fit.need, fit.labels, fit.job, fit.pieces = plan.need, plan.labels, plan.job, plan.pieces
    fit.problem, fit.failed, fit.offered = "", "", None


@prepared
def _open_work(fit: int) -> QuerySet:
    return Work.objects.filter(fit=fit, status__in=Work.OPEN).values_list("pk")


def begin(fits: Iterable[PaperFit]) -> None:
    """Begin what a change asks for: older work is stopped, a plan that is known is shown, others are looked for."""
    for fit in fits:
        if _open_work(fit.pk):
            stop(fit__pk=fit.pk)
        if not fit.need or fit.done:
            continue
        known = known_plan(fit)
        if known:
            show(fit, known)
            go_on(fit, known)
        else:
            ask(fit, Work.Kind.QUICK, settle_now(fit.class_paper.card_class_id))


def begin_class(card_class: CardClass) -> None:
    """Begin for every paper of a class that no plan answers: what the button does."""
    begin(fit for fit in _fits(card_class) if fit.need and not fit.answered)
