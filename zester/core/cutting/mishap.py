"""Something went wrong at the trimmer: how the rest is made with the least that must be opened anew.

What lies on the table (piles that wait to be cut, what is left over) are offcuts now; sheets that are not opened yet
cost what they cost. The pieces that are there and good need not be made again. The rest is fitted once more, offcuts
first, and its steps go on where somebody stands.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal

from zester.core.cutting.habits import USUAL, Habits
from zester.core.cutting.kinds import PORTION
from zester.core.cutting.steps import KEEP, PIECE, PILE, SHEET, WASTE, Step, cutting_steps, minutes_judge
from zester.core.cutting.table import LEFT, Table
from zester.core.errors import JobError
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import Bench, PaperJob, Piece, Row, Sheet
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.offcuts import fit_offcuts_first

# A sheet of the new job that is a pile of the table: its id with this in front.
ON_TABLE = "table:"
SECONDS = 4.0


@dataclass(frozen=True)
class Spoiled:
    """What cannot be used."""

    kind: str
    """``piece``, ``pile``, ``keep``, ``waste``, or ``sheet``: one that is torn or different, not opened yet."""
    label: str
    """Whose pieces, which pile; of a sheet its id."""
    count: int
    """How many."""
    size: tuple[int, int] | None = None
    """Width and height of pieces, where a label stands for two ways to lie."""


@dataclass(frozen=True, kw_only=True)
class Mended:
    """How it goes on."""

    table: Table
    """What lies on the table, without what was spoiled."""
    steps: tuple[Step, ...]
    """The steps from here on; none if everything is there."""
    taken: tuple[tuple[str, str, int], ...] = ()
    """What is a piece as it lies there: the pile, or the sheet's id, the piece, how many."""
    sheets: int
    """How many sheets they open."""
    more: int
    """How many more than the steps before would have opened."""
    short: tuple[tuple[str, int], ...]
    """Pieces that cannot be made any more, and how many of each."""
    places: int = 0
    """The fewest different places of the rail that they need."""


def begun(job: PaperJob, plan: PaperPlan) -> Table:
    """The table before the first step: sheets that are pieces as they come lie there."""
    return _as_they_are(Table(), job, plan)[0]


@dataclass(frozen=True, kw_only=True)
class Stand:
    """Where somebody stands."""

    job: PaperJob
    """What was wanted in the beginning."""
    plan: PaperPlan
    """The plan for it."""
    steps: tuple[Step, ...]
    """The steps that are being done: the first ones, or those since the last mishap."""
    done: int
    """How many of them are done."""
    before: Table = field(default_factory=Table)
    """What lay on the table when they were begun."""

    @property
    def table(self) -> Table:
        """What lies there now."""
        return self.before.after(self.steps[: self.done])

    @property
    def would_open(self) -> int:
        """How many sheets the steps would open from here on."""
        return sum(step.count for step in self.steps[self.done :] if step.source == SHEET)


def lay_aside(table: Table, spoiled: Iterable[Spoiled]) -> Table:
    """The table without what was spoiled. Raises JobError if there is not so much of it."""
    for each in spoiled:
        if each.count < 1:
            raise JobError("Nothing was spoiled", mend="Say how many")
        if each.kind == SHEET:
            table = replace(table, torn=table.torn | {each.label: table.torn.get(each.label, 0) + each.count})
        else:
            table = table.without(each.kind, each.label, each.count, each.size)
    return table


def rest_job(job: PaperJob, plan: PaperPlan, table: Table) -> PaperJob | None:
    """What of a plan is still to be made, from the table and from sheets that are not opened; None: nothing.

    Raises JobError if a sheet is torn of which there is none.
    """
    pieces, rows = _wanted(job, plan, _missing(job, plan, table))
    if not pieces:
        return None
    sheets = (*_on_table(table, pieces), *_unopened(job, table))
    return PaperJob(id=job.id, name=job.name, sheets=sheets, pieces=pieces, matched=rows)


def go_on(
    stand: Stand,
    spoiled: Iterable[Spoiled],
    bench: Bench,
    habits: Habits = USUAL,
    tell: Callable[[str], None] = lambda _: None,
    seconds: float = SECONDS,
) -> Mended:
    """The steps from here on. Raises JobError if what was spoiled is not there."""
    table = lay_aside(stand.table, spoiled)
    rest = rest_job(stand.job, stand.plan, table)
    if rest is None:
        return Mended(table=table, steps=(), sheets=0, more=-stand.would_open, short=())
    plan = fit_offcuts_first(rest, bench, tell, seconds, minutes_judge(habits)).plan
    check_paper(rest, plan, bench)
    first = max((int(label) for label in _names(stand) if label.isdigit()), default=0)
    number = stand.steps[stand.done - 1].number if stand.done else _first_number(stand) - 1
    found = cutting_steps(rest, plan, bench, habits)
    table, taken = _as_they_are(table, rest, plan)
    opens = sum(layout.copies for layout in plan.on_sheets if not layout.sheet.startswith(ON_TABLE))
    return Mended(
        table=table,
        steps=tuple(_renamed(step, first, number) for step in found.steps),
        places=found.places,
        taken=taken,
        sheets=opens,
        more=opens - stand.would_open,
        short=plan.short,
    )


def _first_number(stand: Stand) -> int:
    return stand.steps[0].number if stand.steps else 1


def _names(stand: Stand) -> set[str]:
    """What piles are called, those to come included."""
    lying = {each.label for each in stand.before.of(PILE)}
    return lying | {result.label for step in stand.steps for result in step.results if result.kind == PILE}


def _missing(job: PaperJob, plan: PaperPlan, table: Table) -> dict[str, int]:
    """By id how many pieces of the plan are not there yet; a whole portion counts as a piece."""
    made: Counter[str] = Counter()
    for layout in plan.on_sheets:
        for named in layout.parts:
            made[PORTION if named.portion else named.piece] += layout.copies
    from_windows = of_windows(plan)
    target = dict(made)
    for piece in job.pieces:
        if piece.id in target and not piece.filler:
            target[piece.id] = min(target[piece.id], max(0, piece.count - from_windows[piece.id]))
        elif piece.filler:
            target.pop(piece.id, None)
    there = there_of(table, target)
    return {name: count - there[name] for name, count in target.items() if count > there[name]}


def of_windows(plan: PaperPlan) -> Counter[str]:
    """How many of every piece come out of hidden middles."""
    found: Counter[str] = Counter()
    for layout in plan.layouts:
        if layout.source == "window":
            for named in layout.parts:
                found[named.piece] += layout.copies
    return found


def there_of(table: Table, wanted: Mapping[str, int]) -> Counter[str]:
    """By id how many pieces lie there; a pile that may be several gives each what is wanted, the first what is over."""
    found: Counter[str] = Counter()
    # Pieces that can only be one thing first.
    for pile in sorted(table.of(PIECE), key=lambda each: each.label.count(",")):
        names, left = pile.label.split(", "), pile.count
        for name in names:
            used = min(left, max(0, wanted.get(name, 0) - found[name]))
            found[name] += used
            left -= used
        found[names[0]] += left
    return found


def _wanted(job: PaperJob, plan: PaperPlan, missing: dict[str, int]) -> tuple[tuple[Piece, ...], tuple[Row, ...]]:
    """The pieces that are missing, whole rows of those that are matched."""
    count = Counter(missing)
    rows = []
    for row in job.matched:
        times = Counter(row.pieces)
        wanted = max((-(-count[name] // n) for name, n in times.items()), default=0)
        if wanted:
            rows.append(row)
            for name, n in times.items():
                count[name] = wanted * n
    pieces = [
        replace(piece, count=count[piece.id], each=None, window=None, from_window=False, filler=False)
        for piece in job.pieces
        if count[piece.id]
    ]
    if count[PORTION] and plan.portion:
        turn = all(piece.turn for piece in job.pieces)
        width, height = plan.portion
        pieces.append(Piece(id=PORTION, width=width, height=height, count=count[PORTION], turn=turn))
    return tuple(pieces), tuple(rows)


def _on_table(table: Table, pieces: tuple[Piece, ...]) -> list[Sheet]:
    """What lies on the table as offcuts, as far as a piece fits on it."""
    sheets = [
        Sheet(
            id=f"{ON_TABLE}{each.label}",
            width=each.width,
            height=each.height,
            count=each.count,
            cost=Decimal(0),
            margins=each.unusable,
            up=each.up,
        )
        for each in table.of(PILE, KEEP, WASTE)
    ]
    return [sheet for sheet in sheets if any(piece.fits(sheet) for piece in pieces)]


def _unopened(job: PaperJob, table: Table) -> list[Sheet]:
    """The sheets that are still to be had."""
    found = []
    for sheet in job.sheets:
        if sheet.count is None:
            found.append(sheet)
            continue
        left = sheet.count - table.opened.get(sheet.id, 0) - table.torn.get(sheet.id, 0)
        if left < 0:
            raise JobError("There are not so many sheets any more", mend="Say how many are torn")
        found.append(replace(sheet, count=left))
    return found


def _renamed(step: Step, first: int, numbers: int) -> Step:
    """A step of the new plan as it goes on from here: what lies on the table is a pile, new piles have new names."""
    label, source = step.source_label, step.source
    if source == SHEET and label.startswith(ON_TABLE):
        source, label = PILE, label.removeprefix(ON_TABLE)
    elif source == PILE:
        label = str(int(label) + first)
    results = tuple(
        replace(each, label=str(int(each.label) + first)) if each.kind == PILE else each for each in step.results
    )
    return replace(step, number=step.number + numbers, source=source, source_label=label, results=results)


def _as_they_are(table: Table, rest: PaperJob, plan: PaperPlan) -> tuple[Table, tuple[tuple[str, str, int], ...]]:
    """The table when what needs no cut is a piece; and what that is."""
    taken = []
    sheets = {sheet.id: sheet for sheet in rest.sheets}
    for layout in plan.on_sheets:
        if layout.cuts or not layout.parts:
            continue
        piece = PORTION if layout.parts[0].portion else layout.parts[0].piece
        label = layout.sheet.removeprefix(ON_TABLE)
        if layout.sheet == label:
            table = table.opening(sheets[label], layout.copies, piece)
        else:
            kind = next(each.kind for each in table.of(PILE, KEEP, WASTE) if each.label == label)
            table = table.named(kind, label, layout.copies, piece)
        taken.append((label, piece, layout.copies))
    return table, tuple(taken)


def is_left(label: str) -> bool:
    """Whether a label of the table means something left over."""
    return label.startswith(LEFT)
