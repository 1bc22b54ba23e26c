"""From a class's tally to a fit job."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from zester.core.errors import JobError
from zester.core.fitting.job import Job, PaperJob, Piece, Sheet
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


def class_job(unit: str, stack: int, papers: Sequence[ShelfPaper], counts: Sequence[PieceCount]) -> Job:
    """The job of a whole class: one paper job for every paper that has pieces, pieces named by their handles.

    A paper without a price counts 1 a sheet, so that fewest sheets is what is looked for. Raises JobError if there is
    nothing to cut.
    """
    jobs = []
    for paper in papers:
        pieces = tuple(
            Piece(entry.handle, entry.piece.width, entry.piece.height, entry.count, entry.piece.turn)
            for entry in counts
            if entry.piece.paper == paper.key and entry.count
        )
        if pieces:
            cost = paper.price if paper.price else Decimal(1)
            sheet = Sheet(SHEET_ID, paper.width, paper.height, paper.on_hand, cost)
            jobs.append(PaperJob(paper.key, (sheet,), pieces))
    if not jobs:
        raise JobError(
            "There is nothing to cut yet", mend="Write a piece into a card's cut list, and count at least one card"
        )
    return Job(unit, tuple(jobs), stack)
