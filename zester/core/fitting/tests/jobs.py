"""Jobs for tests, written short."""

from __future__ import annotations

import random
from decimal import Decimal

from zester.core.fitting.jobs.job import Bench, Job, PaperJob, Piece, Sheet
from zester.core.lengths import SIXTY_FOURTHS, parse_size


def sheet(size: str, count: int | None = None, cost: str = "1", name: str = "sheet") -> Sheet:
    """A sheet from a written size."""
    width, height = parse_size(size, SIXTY_FOURTHS)
    return Sheet(id=name, width=width, height=height, count=count, cost=Decimal(cost))


def paper(sheets, *pieces: tuple) -> PaperJob:
    """A paper; pieces are (size, count) or (size, count, turn)."""
    sheets = (sheet(sheets),) if isinstance(sheets, str) else tuple(sheets)
    made = tuple(piece(f"P{k + 1}", *entry) for k, entry in enumerate(pieces))
    return PaperJob(id="paper", sheets=sheets, pieces=made)


def piece(name: str, size: str, count: int, turn: bool = True, **more) -> Piece:
    """A piece from a written size."""
    width, height = parse_size(size, SIXTY_FOURTHS)
    return Piece(id=name, width=width, height=height, count=count, turn=turn, **more)


def job(sheets, *pieces: tuple, stack: int = 3) -> Job:
    """A job with one paper."""
    return Job("in", (paper(sheets, *pieces),), Bench(stack))


CARD_SIZES = ["4 x 5¼", "3¾ x 5", "3⅞ x 5⅛", "2⅛ x 2¾", "1 x 5¼", "½ x 5½", "3½ x 4¾", "2½ x 2½", "3 x ¾", "5½ x 8½"]


def random_job(seed: int) -> Job:
    """A small class job: 1 to 6 sizes of the kinds cards have."""
    dice = random.Random(seed)
    people = dice.choice([1, 2, 5, 9, 14])
    sizes = dice.sample(CARD_SIZES[:-1], dice.randint(1, 6))
    pieces = [(size, people * dice.randint(1, 3), dice.random() < 0.8) for size in sizes]
    return job(dice.choice(["8½ x 11", "12 x 12", "210 x 297 mm"]), *pieces)


def random_shelf_job(seed: int) -> Job | None:
    """One paper with several kinds of sheets, some limited, some free, some used up; None if nothing fits any."""
    dice = random.Random(seed)
    unit = dice.choice([1016, 508, 320])
    sheets = tuple(
        Sheet(
            id=f"S{k}",
            width=dice.randint(20, 90) * unit,
            height=dice.randint(20, 120) * unit,
            count=dice.choice([None, None, 0, 1, 3, 8]),
            cost=Decimal(dice.choice(["0", "1", "0.42", "2.5", "0.1"])),
        )
        for k in range(dice.randint(1, 4))
    )
    wanted = [
        Piece(
            id=f"P{k}",
            width=dice.randint(1, 60) * unit,
            height=dice.randint(1, 60) * unit,
            count=dice.choice([1, 2, 3, 7, 30, 400]),
            turn=dice.random() < 0.7,
        )
        for k in range(dice.randint(1, 8))
    ]
    pieces = tuple(piece for piece in wanted if any(piece.fits(sheet) for sheet in sheets))
    if not pieces:
        return None
    paper_job = PaperJob(id="paper", sheets=sheets, pieces=pieces)
    return Job("mm" if unit == 320 else "in", (paper_job,), Bench(dice.randint(1, 5)))
