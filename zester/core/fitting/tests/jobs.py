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
