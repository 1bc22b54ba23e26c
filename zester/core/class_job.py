"""From a class's tally to a fit job."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from decimal import Decimal

from zester.core.errors import JobError
from zester.core.fitting.job import ANY_BENCH, NO_MARGINS, Bench, Job, Margins, PaperJob, Piece, Row, Sheet
from zester.core.fitting.plan import Layout
from zester.core.tally import PieceCount

SHEET_ID = "sheet"


@dataclass(frozen=True, kw_only=True)
class ShelfPaper:
    """A paper as the shelf has it, as far as its pieces and their price depend on it.

    How many sheets are on hand is not said here: a plan is made for all that is needed, and what is there is judged
    beside it (``fitting/supply.py``).
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


@dataclass(frozen=True)
class Wishes:
    """What a class wants of its fit."""

    bench: Bench = ANY_BENCH
    """What it is cut with."""
    people: int = 1
    """Participants."""
    pools: dict[str, str] = field(default_factory=dict)
    """How a paper's pieces are pooled, by its key, where that is not from common sheets."""
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
    """All that the class wants from one paper; ``wanted`` are its pieces."""
    cost = paper.price if paper.price else Decimal(1)
    sheet = Sheet(
        id=SHEET_ID, width=paper.width, height=paper.height, cost=cost, margins=paper.margins, pack=paper.pack
    )
    return PaperJob(
        id=paper.key,
        sheets=(sheet,),
        pieces=tuple(_piece(entry) for entry in wanted),
        matched=_rows(wanted),
        pool=wishes.pools.get(paper.key, "together"),
        people=wishes.people,
        pins=wishes.pins.get(paper.key, ()),
        name=paper.name,
    )


def _piece(entry: PieceCount) -> Piece:
    piece = entry.piece
    return Piece(
        id=entry.handle,
        width=piece.width,
        height=piece.height,
        count=entry.count,
        turn=piece.turn,
        upright=piece.upright and not piece.turn,
        each=entry.each,
        window=piece.middle,
        from_window=piece.from_middle,
        filler=piece.filler,
    )


def _rows(counts: Sequence[PieceCount]) -> tuple[Row, ...]:
    """The matched rows of the cards: every piece as often as one card has it, in the order of the list."""
    rows: dict[str, list[PieceCount]] = {}
    for entry in counts:
        if entry.piece.match:
            card = entry.handle.rstrip("0123456789")
            rows.setdefault(f"{card} {entry.piece.match}", []).append(entry)
    return tuple(
        Row(
            name,
            "y" if entries[0].piece.below else "x",
            tuple(entry.handle for entry in entries for _ in range(entry.piece.count)),
        )
        for name, entries in rows.items()
    )
