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


@dataclass(frozen=True)
class ShelfPaper:
    """A paper with what is on hand: ticks; ``on_hand`` None means it is bought as needed; ``price`` of one sheet."""

    key: str
    width: int
    height: int
    on_hand: int | None = None
    price: Decimal | None = None
    margins: Margins = NO_MARGINS
    pack: int = 1


@dataclass(frozen=True)
class Wishes:
    """What a class wants of its fit: the bench, the participants, and for each paper how to pool and what is pinned."""

    bench: Bench = ANY_BENCH
    people: int = 1
    pools: dict[str, str] = field(default_factory=dict)
    pins: dict[str, tuple[Layout, ...]] = field(default_factory=dict)


def class_job(unit: str, papers: Sequence[ShelfPaper], counts: Sequence[PieceCount], wishes: Wishes) -> Job:
    """The job of a whole class: one paper job for every paper that has pieces, pieces named by their handles.

    A paper without a price counts 1 a sheet, so that fewest sheets is what is looked for. Raises JobError if there is
    nothing to cut.
    """
    jobs = []
    for paper in papers:
        wanted = [entry for entry in counts if entry.piece.paper == paper.key and entry.count]
        if any(not entry.piece.filler for entry in wanted):
            cost = paper.price if paper.price else Decimal(1)
            size = paper.width, paper.height
            sheet = Sheet(SHEET_ID, *size, paper.on_hand, cost, paper.margins, pack=paper.pack)
            jobs.append(
                PaperJob(
                    paper.key,
                    (sheet,),
                    tuple(_piece(entry) for entry in wanted),
                    _rows(wanted),
                    wishes.pools.get(paper.key, "together"),
                    wishes.people,
                    wishes.pins.get(paper.key, ()),
                )
            )
    if not jobs:
        raise JobError(
            "There is nothing to cut yet", mend="Write a piece into a card's cut list, and count at least one card"
        )
    bench = wishes.bench
    return Job(unit, tuple(jobs), bench.stack, bench.limits, bench.keep)


def _piece(entry: PieceCount) -> Piece:
    piece = entry.piece
    return Piece(
        entry.handle,
        piece.width,
        piece.height,
        entry.count,
        piece.turn,
        piece.upright and not piece.turn,
        entry.each,
        piece.middle,
        piece.from_middle,
        piece.filler,
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
