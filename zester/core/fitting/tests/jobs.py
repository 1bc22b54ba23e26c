"""Jobs for tests, written short."""

from __future__ import annotations

import random
from decimal import Decimal

from zester.core.fitting.job import Job, PaperJob, Piece, Sheet
from zester.core.lengths import SIXTY_FOURTHS, parse_size


def sheet(size: str, count: int | None = None, cost: str = "1", name: str = "sheet") -> Sheet:
    """A sheet from a written size."""
    return Sheet(name, *parse_size(size, SIXTY_FOURTHS), count, Decimal(cost))


def paper(sheets, *pieces: tuple) -> PaperJob:
    """A paper; pieces are (size, count) or (size, count, turn)."""
    sheets = (sheet(sheets),) if isinstance(sheets, str) else tuple(sheets)
    made = [
        Piece(f"P{k + 1}", *parse_size(entry[0], SIXTY_FOURTHS), entry[1], *entry[2:]) for k, entry in enumerate(pieces)
    ]
    return PaperJob("paper", sheets, tuple(made))


def job(sheets, *pieces: tuple, stack: int = 3) -> Job:
    """A job with one paper."""
    return Job("in", (paper(sheets, *pieces),), stack)


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
            f"S{k}",
            dice.randint(20, 90) * unit,
            dice.randint(20, 120) * unit,
            dice.choice([None, None, 0, 1, 3, 8]),
            Decimal(dice.choice(["0", "1", "0.42", "2.5", "0.1"])),
        )
        for k in range(dice.randint(1, 4))
    )
    wanted = [
        Piece(
            f"P{k}",
            dice.randint(1, 60) * unit,
            dice.randint(1, 60) * unit,
            dice.choice([1, 2, 3, 7, 30, 400]),
            dice.random() < 0.7,
        )
        for k in range(dice.randint(1, 8))
    ]
    pieces = tuple(piece for piece in wanted if any(piece.fits(sheet) for sheet in sheets))
    if not pieces:
        return None
    return Job("mm" if unit == 320 else "in", (PaperJob("paper", sheets, pieces),), dice.randint(1, 5))
