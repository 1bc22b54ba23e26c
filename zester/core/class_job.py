"""From a class's tally to a fit job."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal

from zester.core.errors import JobError
from zester.core.fitting.jobs.job import (
    ANY_BENCH,
    NO_MARGINS,
    ON_SHELF,
    SHELF_SHARE,
    Bench,
    Job,
    Margins,
    PaperJob,
    Piece,
    Row,
    Sheet,
)
from zester.core.fitting.jobs.plan import Layout
from zester.core.lengths import TICKS_PER_INCH
from zester.core.pieces import drops_out
from zester.core.tally import TOGETHER, PieceCount, card_of

SHEET_ID = "sheet"


@dataclass(frozen=True, kw_only=True)
class ShelfPaper:
    """A paper as the shelf has it, as far as its pieces and their price depend on it.

    How many sheets are on hand is not said here: a plan is made for all that is needed, and what is there is judged
    beside it (``fitting/jobs/supply.py``).
    """

    key: str
    """What it is known by."""
    name: str
    """What people call it."""
    width: int
    """Of a sheet, in ticks."""
    height: int
    """Of a sheet, in ticks."""
    price: Decimal | None = None
    """Of one sheet; None if nobody knows."""
    margins: Margins = NO_MARGINS
    """What cannot be used along the sides."""
    pack: int = 1
    """How many sheets are sold together."""
    there: int = 0
    """How many of its usual sheets lie there and are promised to nobody else; it matters only with other sizes."""
    sizes: tuple[SheetSize, ...] = ()
    """The other sizes it comes in."""
    offcuts: tuple[OffcutSize, ...] = ()
    """Offcuts of it that may be used first; none if they are not to be."""


@dataclass(frozen=True, kw_only=True)
class SheetSize:
    """Another size a paper comes in."""

    id: str
    """What plans call it."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    price: Decimal | None = None
    """Of one; None if nobody knows."""
    pack: int = 1
    """How many are sold together."""
    there: int = 0
    """How many lie on the shelf and are promised to nobody else."""


@dataclass(frozen=True, kw_only=True)
class OffcutSize:
    """Offcuts of one size that lie on the shelf and are promised to nobody else."""

    id: str
    """What plans call them."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    count: int
    """How many."""
    up: str = "top"
    """The edge at which the top of the pattern lies."""


@dataclass(frozen=True)
class Wishes:
    """What a class wants of its fit."""

    bench: Bench = ANY_BENCH
    """What it is cut with."""
    pins: dict[str, tuple[Layout, ...]] = field(default_factory=dict)
    """The layouts of a paper that stay, by its key."""


def class_job(unit: str, papers: Sequence[ShelfPaper], counts: Sequence[PieceCount], wishes: Wishes) -> Job:
    """The job of a whole class: one paper job for every paper that has pieces, pieces named by their handles.

    A paper without a price counts 1 a sheet, so that fewest sheets is what is looked for. Raises JobError if there is
    nothing to cut.
    """
    wanted: dict[str, list[PieceCount]] = {}
    for entry in counts:
        if entry.count:
            wanted.setdefault(entry.piece.paper, []).append(entry)
    jobs = tuple(
        paper_job(paper, wanted[paper.key], wishes)
        for paper in papers
        if any(not entry.piece.filler for entry in wanted.get(paper.key, ()))
    )
    if not jobs:
        raise JobError(
            "There is nothing to cut yet", mend="Write a piece into a card’s cut list, and count at least one card"
        )
    return Job(unit, jobs, wishes.bench)


def paper_job(paper: ShelfPaper, wanted: Sequence[PieceCount], wishes: Wishes) -> PaperJob:
    """All that the class wants from one paper; ``wanted`` are its pieces.

    Offcuts cost nothing and there are only so many; they are for common sheets alone, since what somebody gets whole
    has to be the same for all.
    """
    shared = sharing(wanted)
    sheets = (*_whole_sheets(paper), *(_offcuts(paper) if shared.pool == TOGETHER else ()))
    taken = any(entry.piece.from_middle for entry in wanted)
    return PaperJob(
        id=paper.key,
        sheets=sheets,
        pieces=tuple(_piece(entry, shared.each[entry.handle], taken) for entry in wanted),
        matched=_rows(wanted),
        pool=shared.pool,
        people=shared.kits,
        pins=_still_there(wishes.pins.get(paper.key, ()), sheets),
        name=paper.name,
    )


def _still_there(pins: Sequence[Layout], sheets: Sequence[Sheet]) -> tuple[Layout, ...]:
    """The pins; of one from the shelf that is empty now its size is bought."""
    names = {sheet.id for sheet in sheets}
    return tuple(
        pin if pin.source != "sheet" or pin.sheet in names else replace(pin, sheet=pin.sheet.removesuffix(ON_SHELF))
        for pin in pins
    )


def _whole_sheets(paper: ShelfPaper) -> list[Sheet]:
    """The sizes it comes in at their prices.

    Without a price each counts 1, so that the fewest are looked for; with several sizes, of which one has no price,
    each counts by its area, so that the least paper is.
    """
    usual = SheetSize(
        id=SHEET_ID, width=paper.width, height=paper.height, price=paper.price, pack=paper.pack, there=paper.there
    )
    sizes = [usual, *paper.sizes]
    costs = [size.price for size in sizes if size.price]
    if len(costs) == len(sizes):
        pass
    elif len(sizes) == 1:
        costs = [Decimal(1)]
    else:
        costs = [round(Decimal(size.width * size.height) / TICKS_PER_INCH**2, 2) for size in sizes]
    sheets = []
    for size, cost in zip(sizes, costs, strict=True):
        sheet = Sheet(
            id=size.id, width=size.width, height=size.height, cost=cost, margins=paper.margins, pack=size.pack
        )
        sheets.append(sheet)
        if len(sizes) > 1 and size.there:
            sheets.append(replace(sheet, id=size.id + ON_SHELF, cost=cost * SHELF_SHARE, count=size.there))
    return sheets


def _offcuts(paper: ShelfPaper) -> list[Sheet]:
    return [
        Sheet(id=each.id, width=each.width, height=each.height, count=each.count, cost=Decimal(0), up=each.up)
        for each in paper.offcuts
        if each.count
    ]


@dataclass(frozen=True)
class Sharing:
    """How one paper's pieces are handed out."""

    pool: str
    """One of the fitting's pools."""
    kits: int
    """How many kits get the same."""
    each: Mapping[str, int]
    """By handle what each of them gets."""
    others: int = 0
    """Kits that should get it whole or as portions as well, but hold other pieces: theirs are cut for them."""


def sharing(wanted: Sequence[PieceCount]) -> Sharing:
    """How the pieces of one paper are handed out: the way in which most kits that do not take it from common sheets do.

    A plan has one portion, or one person's sheets, for all; kits that hold other pieces are cut from common sheets.
    """
    alike: dict[tuple[str, tuple[int, ...]], int] = {}
    for pool, each, kits in _kits(wanted):
        alike[pool, each] = alike.get((pool, each), 0) + kits
    apart = {key: kits for key, kits in alike.items() if key[0] != TOGETHER}
    if not alike:
        return Sharing(TOGETHER, 1, {entry.handle: 0 for entry in wanted})
    (pool, each), kits = max((apart or alike).items(), key=lambda item: item[1])
    shares = dict(zip((entry.handle for entry in wanted), each, strict=True))
    return Sharing(pool, kits, shares, sum(apart.values()) - kits if apart else 0)


def _kits(wanted: Sequence[PieceCount]) -> list[tuple[str, tuple[int, ...], int]]:
    """Every group of kits: how they get the paper, what each gets of every piece, how many kits they are."""
    groups: dict[tuple[str, int], dict[int, int]] = {}
    sizes: dict[tuple[str, int], int] = {}
    for number, entry in enumerate(wanted):
        for share in entry.shares:
            each = groups.setdefault((share.pool, share.group), {})
            each[number] = each.get(number, 0) + share.each
            sizes[share.pool, share.group] = share.kits
    return [
        (pool, tuple(each.get(number, 0) for number in range(len(wanted))), sizes[pool, group])
        for (pool, group), each in groups.items()
        if any(each.values())
    ]


def _piece(entry: PieceCount, each: int, taken: bool) -> Piece:
    """One piece as a job has it; ``taken``: something of the paper may come out of a middle."""
    piece = entry.piece
    return Piece(
        id=entry.handle,
        width=piece.width,
        height=piece.height,
        count=entry.count,
        turn=piece.turn,
        upright=piece.upright and not piece.turn,
        each=each,
        window=drops_out(piece) if taken else piece.middle,
        from_window=piece.from_middle,
        filler=piece.filler,
    )


def _rows(counts: Sequence[PieceCount]) -> tuple[Row, ...]:
    """The matched rows of the cards: every piece as often as one card has it, in the order of the list."""
    rows: dict[str, list[PieceCount]] = {}
    for entry in counts:
        if entry.piece.match:
            rows.setdefault(f"{card_of(entry.handle)} {entry.piece.match}", []).append(entry)
    return tuple(
        Row(
            name,
            "y" if entries[0].piece.below else "x",
            tuple(entry.handle for entry in entries for _ in range(entry.piece.count)),
        )
        for name, entries in rows.items()
    )
