"""``fit(job)``: the whole way from a job to a checked plan."""

from __future__ import annotations

import sys
import time
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import cache
from multiprocessing import get_context
from operator import itemgetter

import numpy as np

from zester.core.fitting.jobs.check_plan import check_paper, check_paper_pins, check_pins, check_plan
from zester.core.fitting.jobs.job import AT_HOME, PAPER_SECONDS, Bench, Job, PaperJob, Piece, Sheet, row_strip
from zester.core.fitting.jobs.plan import Layout, PaperPlan, Plan
from zester.core.fitting.patterns.columns import ColumnPool, Tables, relax
from zester.core.fitting.patterns.knapsack import PLAIN_WORK
from zester.core.fitting.patterns.problem import Problem, beyond_pins, make_problem, without_used
from zester.core.fitting.search.closing import close_gap
from zester.core.fitting.search.fillers import add_fillers
from zester.core.fitting.search.found import Answer, Found
from zester.core.fitting.search.naming import Slot, emit, merge_alike, name_layouts
from zester.core.fitting.search.portions import Portion, choose_portion, grids
from zester.core.fitting.search.rounding import Rounding
from zester.core.fitting.search.smaller import Depth

# The search ends before the budget does, so that what comes after it is inside, too.
SEARCH = 0.92
# The share of the budget that looking for easier plans has for itself, and that for judging more than two of them.
EASING, JUDGING = 0.72, 0.15
SHARE_SECONDS = 1.0
FIRST_SHARE = 0.6
# The share of the time that is kept for whole sheets, where there are so many sizes that the mix alone takes it all.
FILLING = 0.35
# The same where exact tables take long to fill: their bound is what is missing at last.
FILLING_FINER = 0.15
DEEPEST = 20_000
# For how much more money easier plans are looked for, and how many are shown.
MORE, MOST_PLANS = 0.25, 8
SURELY_JUDGED = 2


@dataclass(frozen=True, kw_only=True)
class Progress:
    """How far a fit is."""

    done: int
    """Papers done."""
    papers: int
    """Papers in all."""
    paper: str
    """The one at work."""
    words: str
    """What is being done, in a few words."""
    so_far: tuple[PaperPlan, ...]
    """The plans of those that are done."""


Teller = Callable[[Progress], None]
# The seconds that cutting a paper's plan takes; who fits does not know how that is counted.
Judge = Callable[[PaperJob, PaperPlan, Bench], float]


def fit(
    job: Job,
    tell: Teller | None = None,
    seconds: float = PAPER_SECONDS,
    judge: Judge | None = None,
    cores: int = 1,
) -> Plan:
    """Fit every paper of the job.

    Parameters
    ----------
    job : Job
    tell : callable, optional
        Called with a Progress now and then; may raise ``Cancelled`` to stop.
    seconds : float
        Time budget for one paper; the best plan so far is taken when it runs out.
    judge : callable, optional
        Among plans as thrifty the one is looked for that it gives the fewest seconds.
    cores : int
        How many papers are fitted beside each other, each in a process of its own; which plans are found does not
        depend on it, as long as no budget runs out.

    Returns
    -------
    Plan
        Replayed and checked against the job. Pieces that the sheets there are cannot make are listed as short.

    Raises
    ------
    JobError
        If a pinned layout does not go with the job, or a paper cannot be cut into portions that hold its pieces.
    PlanError
        If the plan fails its check (a defect of the solver; never a plan that is wrong).
    """
    check_pins(job)
    if cores > 1 and len(job.papers) > 1:
        plan = Plan(job.unit, _beside_each_other(job, tell, seconds, judge, cores))
        check_plan(job, plan)
        return plan
    plans: list[PaperPlan] = []
    for paper in job.papers:

        def tell_words(words: str, paper: PaperJob = paper) -> None:
            if tell:
                tell(
                    Progress(done=len(plans), papers=len(job.papers), paper=paper.id, words=words, so_far=tuple(plans))
                )

        tell_words("looking for layouts")
        plans.append(fit_paper(paper, job.bench, tell_words, seconds, judge))
    plan = Plan(job.unit, tuple(plans))
    check_plan(job, plan)
    return plan


def _beside_each_other(
    job: Job, tell: Teller | None, seconds: float, judge: Judge | None, cores: int
) -> tuple[PaperPlan, ...]:
    """The plans of all papers, so many at a time; it is told of each that is done."""
    found: list[PaperPlan] = []
    # A process that is forked while threads run may hang.
    with ProcessPoolExecutor(min(cores, len(job.papers)), get_context("spawn")) as pool:
        waiting = [pool.submit(_alone, paper, job.bench, seconds, judge) for paper in job.papers]
        for paper, answer in zip(job.papers, waiting, strict=True):
            if tell:
                words, many = "looking for layouts", len(job.papers)
                tell(Progress(done=len(found), papers=many, paper=paper.id, words=words, so_far=tuple(found)))
            found.append(answer.result())
    return tuple(found)


def _alone(paper: PaperJob, bench: Bench, seconds: float, judge: Judge | None) -> PaperPlan:
    return fit_paper(paper, bench, lambda _: None, seconds, judge)


@cache
def warm_up() -> None:
    """Load the compiled loops, or compile them on the first run ever, before any clock runs."""
    pieces = (Piece(id="a", width=6, height=6, count=3), Piece(id="b", width=5, height=4, count=2))
    paper = PaperJob(id="warm-up", sheets=(Sheet(id="sheet", width=10, height=10),), pieces=pieces)
    # From here on all loops are compiled ones.
    import zester.core.fitting.patterns.kernels  # noqa: F401

    problem = make_problem(paper)
    tables = Tables(problem)
    close_gap(problem, tables, [(3, 2)], known_cost=9, bound=1, seconds=1.0)
    # A table so small is not filled by blocks; here it is, for the loops of large ones.
    tables.all[0].blocks = np.array([1, tables.all[0].shape[0]])
    tables.fill((1, 1))
    _Fitting(paper, Bench(2), lambda _: None, 5.0, easier=0.0, warm=True).run()


def fit_paper(
    paper: PaperJob, bench: Bench, tell: Callable[[str], None], seconds: float, judge: Judge | None = None
) -> PaperPlan:
    """Fit one paper within the time budget, and check what comes out.

    Parameters
    ----------
    paper, bench
        What is wanted, and what it is cut with.
    tell : callable
        Hears a few words now and then; may raise ``Cancelled`` to stop.
    seconds : float
        Time budget; the best plan so far is taken when it runs out.
    judge : callable, optional
        Among plans as thrifty the one is looked for that it gives the fewest seconds, for nearly as long again.

    Raises
    ------
    JobError
        If a pinned layout does not go with the job, or the paper cannot be cut into portions that hold its pieces.
    PlanError
        If the plan fails its check.
    """
    plans = _fitted(paper, bench, tell, seconds, None if judge is None else 0.0)
    if judge is None:
        return plans[0]
    until = time.monotonic() + seconds * JUDGING
    judged: list[tuple[float, PaperPlan]] = []
    # Those that seem quickest come first.
    for plan in (plan for plan in plans if _thrift(plan) == _thrift(plans[0])):
        if len(judged) < SURELY_JUDGED or time.monotonic() < until:
            judged.append((judge(paper, plan, bench), plan))
    return min(judged, key=itemgetter(0))[1]


def fit_front(
    paper: PaperJob, bench: Bench, tell: Callable[[str], None], seconds: float, judge: Judge, more: float = MORE
) -> list[tuple[PaperPlan, float]]:
    """Plans of which none is beaten in both cost and seconds, the thriftiest first, with what the judge says of each.

    ``more`` is the share of the least cost that the easiest may cost more; up to ``MOST_PLANS`` are given. Otherwise
    parameters and errors are those of ``fit_paper``.
    """
    plans = _fitted(paper, bench, tell, seconds, more)
    judged: list[tuple[PaperPlan, float]] = []
    for plan in plans:
        tell("counting minutes")
        judged.append((plan, judge(paper, plan, bench)))
    judged.sort(key=lambda each: (_thrift(each[0]), each[1]))
    front: list[tuple[PaperPlan, float]] = []
    for plan, taken in judged:
        if not front or taken < front[-1][1]:
            front.append((plan, taken))
    return _thinned(front)


def _thrift(plan: PaperPlan) -> tuple[int, Decimal, int]:
    return sum(missing for _, missing in plan.short), plan.cost, plan.sheets


def _thinned(front: list[tuple[PaperPlan, float]]) -> list[tuple[PaperPlan, float]]:
    """So many plans that one can look at them: those stay whose neighbours do not tell nearly the same."""
    front = list(front)
    while len(front) > MOST_PLANS:
        gains = [
            (before[1] - here[1]) * float(after[0].cost - here[0].cost)
            for before, here, after in zip(front, front[1:], front[2:], strict=False)
        ]
        del front[1 + gains.index(min(gains))]
    return front


def _fitted(
    paper: PaperJob, bench: Bench, tell: Callable[[str], None], seconds: float, easier: float | None
) -> list[PaperPlan]:
    """Checked plans, the thriftiest first; ``easier`` as ``_Fitting`` has it."""
    check_paper_pins(paper, bench)
    # A row of very small pieces makes a cut tree as deep as the row is long.
    sys.setrecursionlimit(max(sys.getrecursionlimit(), DEEPEST))
    plans = _Fitting(paper, bench, tell, seconds, easier).run()
    for plan in plans:
        check_paper(paper, plan, bench)
    return plans


@dataclass(frozen=True)
class _Fitted:
    """Layouts, what they surely cost at the least, and what they leave unmade."""

    layouts: tuple[Layout, ...]
    bound: Decimal
    missing: dict[str, int]


class _Fitting:
    """One paper's fit.

    ``easier``: for what share of the cost more easier plans are looked for, too; 0.0: as thrifty ones; None: none.
    ``warm``: whether the compiled loops are loaded, or this fit is what loads them.
    """

    def __init__(
        self,
        paper: PaperJob,
        bench: Bench,
        tell: Callable[[str], None],
        seconds: float,
        easier: float | None = None,
        warm: bool = False,
    ):
        self.paper, self.bench, self.tell, self.easier, self.warm = paper, bench, tell, easier, warm
        self.seconds = seconds
        self.end = time.monotonic() + seconds * SEARCH
        # The first of two fits of a paper gets so much of the time.
        self.half = time.monotonic() + seconds * SEARCH * FIRST_SHARE

    def run(self) -> list[PaperPlan]:
        """Plans, the thriftiest first."""
        paper = self.paper
        rest, wanted = beyond_pins(paper)
        if paper.pool == "own":
            return [self._plan(self._own(rest, wanted))]
        if paper.pool in AT_HOME:
            return [self._plan(*self._portions(rest, wanted))]
        return [self._plan(fitted) for fitted in self._ways(rest, wanted, self._left)]

    def _plan(self, fitted: _Fitted, portion: tuple[int, int] | None = None) -> PaperPlan:
        paper = self.paper
        layouts = merge_alike((*paper.pins, *add_fillers(paper, fitted.layouts, self.bench)))
        layouts = tuple(sorted(layouts, key=lambda layout: layout.source != "sheet"))
        cost = self._cost(layouts)
        bound = self._cost(paper.pins) + fitted.bound
        made = Counter(part.piece for layout in layouts for part in layout.parts for _ in range(layout.copies))
        # What was left over may have been filled with what was missing.
        missing = {
            piece.id: min(fitted.missing.get(piece.id, 0), piece.count - made[piece.id]) for piece in paper.pieces
        }
        short = tuple((piece, many) for piece, many in missing.items() if many > 0)
        proven = not short and bound >= cost
        return PaperPlan(
            id=paper.id, cost=cost, bound=min(bound, cost), proven=proven, short=short, layouts=layouts, portion=portion
        )

    def _tables(self, problem: Problem) -> Tables:
        """The problem's tables. What loading the compiled loops takes, where they are needed, is not on the clock."""
        tables = Tables(problem)
        if tables.work > PLAIN_WORK:
            self._compile()
        return tables

    def _compile(self) -> None:
        if not self.warm:
            before = time.monotonic()
            warm_up()
            self.warm, spent = True, time.monotonic() - before
            self.end, self.half = self.end + spent, self.half + spent

    def _left(self) -> float:
        return self.end - time.monotonic()

    def _left_of_first(self) -> float:
        return self.half - time.monotonic()

    def _cost(self, layouts: tuple[Layout, ...]) -> Decimal:
        costs = {sheet.id: sheet.cost for sheet in self.paper.sheets}
        return sum((costs[lay.sheet] * lay.copies for lay in layouts if lay.source == "sheet"), Decimal(0))

    def _together(
        self, paper: PaperJob, wanted: dict[str, int], left_over: Callable[[], float] | None = None
    ) -> _Fitted:
        """Everything from common sheets, the thriftiest way."""
        return self._ways(paper, wanted, left_over or self._left)[0]

    def _ways(self, paper: PaperJob, wanted: dict[str, int], left_over: Callable[[], float]) -> list[_Fitted]:
        """Everything from common sheets, in one way or, where easier ones are looked for, in several."""
        if not any(wanted.values()):
            return [_Fitted((), Decimal(0), {})]
        if all(sheet.count == 0 for sheet in paper.sheets):
            return [_Fitted((), Decimal(0), dict(wanted))]
        found = self._answered(paper, wanted, left_over)
        if any(found[0].missing.values()) and any(sheet.count for sheet in paper.sheets):
            # What the search for as much as possible leaves unmade may well come out of as many sheets.
            free = replace(paper, sheets=tuple(replace(sheet, count=None) for sheet in paper.sheets))
            enough = [each for each in self._answered(free, wanted, left_over) if _are_there(paper, each)]
            return enough or found
        return found

    def _answered(self, paper: PaperJob, wanted: dict[str, int], left_over: Callable[[], float]) -> list[_Fitted]:
        problem, answers, proven = self._solve(paper, wanted, left_over)
        found = []
        for answer in answers:
            left = dict(wanted)
            chosen = [(column.sheet, column.tree, copies) for column, copies in answer.chosen]
            layouts = tuple(name_layouts(problem, chosen, left, self.bench.stack))
            bound = self._bound_of_made(paper, wanted, left) if any(left.values()) else proven * problem.unit_cost
            found.append(_Fitted(layouts, bound, left))
        return found

    def _solve(
        self, paper: PaperJob, wanted: dict[str, int], seconds_left: Callable[[], float]
    ) -> tuple[Problem, list[Answer], int]:
        problem = make_problem(paper, wanted, self.bench.limits)
        tables, pool = self._tables(problem), ColumnPool(problem)
        spare = (FILLING if tables.exact else FILLING_FINER) * seconds_left()
        relaxed = relax(
            problem,
            tables,
            pool,
            lambda many: self.tell(f"{many} layouts compared"),
            lambda: seconds_left() - spare,
            rich=True,
        )
        found = Found(
            problem,
            tables,
            pool,
            relaxed,
            stack=self.bench.stack,
            tell=self.tell,
            seconds_left=seconds_left,
            compiled=self._compile,
        )
        rounding = Rounding(found)
        answers = [rounding.run()]
        if self.easier is not None:
            self._compile()
            # It has time of its own, however long the fewest sheets took.
            self.end = max(self.end, time.monotonic() + self.seconds * EASING)
            answers = rounding.eased(answers[0], self.easier, self.bench.keep)
        return problem, answers, found.bound

    def _bound_of_made(self, paper: PaperJob, wanted: dict[str, int], missing: dict[str, int]) -> Decimal:
        """A proven lower bound on the cost of making as many pieces as a short plan makes."""
        made = {piece: count - missing[piece] for piece, count in wanted.items()}
        if not any(made.values()):
            return Decimal(0)
        problem = make_problem(paper, made, self.bench.limits)
        relaxed = relax(problem, Tables(problem), ColumnPool(problem), lambda _: self.tell("bound"), lambda: 1.0)
        return relaxed.bound * problem.unit_cost

    def _own(self, paper: PaperJob, wanted: dict[str, int]) -> _Fitted:
        """Everybody's pieces from sheets of their own, the same layouts for all; what is left over together."""
        people, share = self.paper.people, self._share()
        theirs = replace(paper, sheets=tuple(_shared(sheet, people) for sheet in paper.sheets))
        one = self._together(theirs, share, self._left_of_first)
        layouts = tuple(replace(layout, copies=layout.copies * people) for layout in one.layouts)
        made = {piece: people * (count - one.missing.get(piece, 0)) for piece, count in share.items()}
        rest = {piece: max(0, count - made[piece]) for piece, count in wanted.items()}
        others = self._together(replace(paper, sheets=without_used(paper.sheets, layouts)), rest)
        return _Fitted((*layouts, *others.layouts), one.bound * people + others.bound, others.missing)

    def _share(self) -> dict[str, int]:
        return {piece.id: 0 if piece.filler else piece.each or 0 for piece in self.paper.pieces}

    def _portions(self, paper: PaperJob, wanted: dict[str, int]) -> tuple[_Fitted, tuple[int, int] | None]:
        """Whole sheets cut into equal portions; what is wanted beyond everybody's share is fitted on whole sheets."""
        people, share = self.paper.people, self._share()
        mine = [piece for piece in paper.pieces if share[piece.id]]
        area = sum(share[piece.id] * piece.width * piece.height for piece in mine)
        pieces = {piece.id: piece for piece in mine}
        strips = [row_strip(row, pieces) for row in paper.matched if row.pieces[0] in pieces]
        portions = grids(paper.sheets, [*mine, *strips], self.bench.limits)
        if paper.pool == "whole":
            portions = [portion for portion in portions if portion.a_sheet == 1]
        choice = choose_portion(
            portions,
            area,
            people,
            lambda portion: self._fit_share(portion, share),
        )
        if not mine or choice is None:
            return self._together(paper, wanted), None
        cut, home = self._cut_portions(choice.portion, people * choice.each), choice.layouts
        home = tuple(replace(layout, copies=layout.copies * people) for layout in home)
        rest = {piece: max(0, count - people * share[piece]) for piece, count in wanted.items()}
        others = self._together(replace(paper, sheets=without_used(paper.sheets, cut)), rest)
        fitted = _Fitted((*cut, *home, *others.layouts), choice.bound + others.bound, others.missing)
        return fitted, (choice.portion.width, choice.portion.height)

    def _fit_share(self, portion: Portion, share: dict[str, int]) -> tuple[int, int, tuple[Layout, ...]]:
        """One person's pieces in portions: how many it takes, how many are certainly needed, the layouts."""
        sheet = Sheet(id="portion", width=portion.width, height=portion.height)
        self.tell(f"portions, {portion.a_sheet} a sheet")
        problem = make_problem(replace(self.paper, sheets=(sheet,)), share)
        tables, pool = self._tables(problem), ColumnPool(problem)
        end = time.monotonic() + SHARE_SECONDS

        def left() -> float:
            return min(self._left_of_first(), end - time.monotonic())

        relaxed = relax(problem, tables, pool, lambda _: None, left)
        found = Found(
            problem, tables, pool, relaxed, stack=1, tell=self.tell, seconds_left=left, compiled=self._compile
        )
        best = Rounding(found, Depth.SHARE).run()
        chosen = [(column.sheet, column.tree, copies) for column, copies in best.chosen]
        layouts = name_layouts(problem, chosen, dict(share), 1)
        needed = sum(layout.copies for layout in layouts if layout.source == "sheet")
        home = tuple(replace(lay, source="portion") if lay.source == "sheet" else lay for lay in layouts)
        return needed, found.bound, home

    def _cut_portions(self, portion: Portion, needed: int) -> tuple[Layout, ...]:
        """Sheets cut into portions."""
        tree, whole = portion.tree(self.bench.limits), -(-needed // portion.a_sheet)
        return (emit(tree, [Slot("")], portion.sheet.id, whole),)


def _are_there(paper: PaperJob, fitted: _Fitted) -> bool:
    """Whether nothing is missing, and no more sheets are used than there are."""
    used: Counter[str] = Counter()
    for layout in fitted.layouts:
        if layout.source == "sheet":
            used[layout.sheet] += layout.copies
    enough = all(sheet.count is None or used[sheet.id] <= sheet.count for sheet in paper.sheets)
    return enough and not any(fitted.missing.values())


def _shared(sheet: Sheet, people: int) -> Sheet:
    return sheet if sheet.count is None else replace(sheet, count=sheet.count // people)
