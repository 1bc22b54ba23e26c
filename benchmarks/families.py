"""Families of fit jobs made from seeds, for the benchmark of the fitting.

class    3 to 14 sizes of the kinds cards have, 4 to 30 people, on the usual sheets
club     8 to 24 sizes, 250 to 5,000 people
few      6 to 16 sizes, 1 to 3 of each
exact    a sheet cut at random into 5 to 12 pieces, 3 to 20 people: the best is known, no waste
offcuts  a class with 2 to 5 limited offcuts at no price beside new sheets
"""

from __future__ import annotations

import random
from decimal import Decimal

from zester.core.fitting.job import Bench, Job, PaperJob, Piece, Sheet
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.sizes import SHEET_SIZES

EIGHTH = TICKS_PER_INCH // 8
SHEETS = ("letter", "a4", "12x12", "8x8", "6x6")

# Kinds of pieces as (width, height) ranges in eighths of an inch.
KINDS = {
    "mat": ((28, 34), (36, 44)),
    "panel": ((20, 34), (24, 42)),
    "strip": ((2, 12), (28, 44)),
    "sentiment": ((16, 32), (5, 10)),
    "tag": ((12, 20), (18, 26)),
    "blank": ((10, 24), (10, 24)),
    "base": ((34, 44), (44, 88)),
}
WEIGHTS = (4, 4, 4, 2, 2, 3, 1)


def card_sizes(dice: random.Random, number: int, width: int, height: int, metric: bool) -> list[tuple[int, int]]:
    """Different sizes of the kinds cards have that fit the sheet; whole millimetres on metric sheets."""
    found: list[tuple[int, int]] = []
    while len(found) < number:
        across, down = KINDS[dice.choices(list(KINDS), WEIGHTS)[0]]
        size = tuple(dice.randint(*span) * EIGHTH for span in (across, down))
        if metric:
            size = tuple(round(side / TICKS_PER_MM) * TICKS_PER_MM for side in size)
        fits = min(size) <= min(width, height) and max(size) <= max(width, height)
        if fits and size not in found and size[::-1] not in found:
            found.append(size)
    return found


def _sheet(dice: random.Random) -> tuple[int, int, bool]:
    size = SHEET_SIZES[dice.choice(SHEETS)]
    return size.width, size.height, size.unit == "mm"


def _pieces(dice: random.Random, sizes: list[tuple[int, int]], counts: list[int]) -> tuple[Piece, ...]:
    turn = dice.random() < 0.8
    return tuple(
        Piece(
            id=f"P{k + 1}",
            width=size[0],
            height=size[1],
            count=count,
            turn=turn or size[0] > size[1] or dice.random() < 0.5,
        )
        for k, (size, count) in enumerate(zip(sizes, counts, strict=True))
    )


def _job(sheets: list[Sheet], pieces: tuple[Piece, ...]) -> Job:
    # A piece that fits its sheet only turned must be allowed to.
    fitting = tuple(
        piece
        if any(piece.fits(s) for s in sheets)
        else Piece(id=piece.id, width=piece.width, height=piece.height, count=piece.count)
        for piece in pieces
    )
    return Job("in", (PaperJob(id="paper", sheets=tuple(sheets), pieces=fitting),), Bench(3))


def _people_job(name: str, people: tuple[int, int], sizes: tuple[int, int]) -> Job:
    dice = random.Random(name)
    width, height, metric = _sheet(dice)
    many = dice.randint(*people)
    chosen = card_sizes(dice, dice.randint(*sizes), width, height, metric)
    counts = [many * dice.choice((1, 1, 1, 2, 2, 3, 4)) for _ in chosen]
    return _job([Sheet(id="new", width=width, height=height)], _pieces(dice, chosen, counts))


def class_job(seed: int) -> Job:
    """One paper of a class."""
    return _people_job(f"class {seed}", (4, 30), (3, 14))


def club_job(seed: int) -> Job:
    """One paper of a very large class."""
    return _people_job(f"club {seed}", (250, 5000), (8, 24))


def few_job(seed: int) -> Job:
    """Many sizes, hardly any of each."""
    dice = random.Random(f"few {seed}")
    width, height, metric = _sheet(dice)
    sizes = card_sizes(dice, dice.randint(6, 16), width, height, metric)
    return _job(
        [Sheet(id="new", width=width, height=height)], _pieces(dice, sizes, [dice.randint(1, 3) for _ in sizes])
    )


def _cut_up(dice: random.Random, width: int, height: int, pieces: int) -> list[tuple[int, int]]:
    """A sheet cut edge to edge into so many pieces, the largest part first, nowhere thinner than half an inch."""
    least, step = 4 * EIGHTH, EIGHTH
    parts = [(width, height)]
    while len(parts) < pieces:
        parts.sort(key=lambda part: -part[0] * part[1])
        wide, high = parts.pop(0)
        if (wide >= high and wide >= 2 * least) or high < 2 * least:
            at = dice.randrange(least, wide - least + 1, step)
            parts += [(at, high), (wide - at, high)]
        else:
            at = dice.randrange(least, high - least + 1, step)
            parts += [(wide, at), (wide, high - at)]
    return parts


def exact_job(seed: int) -> Job:
    """A sheet cut at random into pieces, for everybody once: as many sheets as people, without waste."""
    dice = random.Random(f"exact {seed}")
    width, height, _ = _sheet(dice)
    people = dice.randint(3, 20)
    parts = _cut_up(dice, width, height, dice.randint(5, 12))
    counts: dict[tuple[int, int], int] = {}
    for part in parts:
        counts[part] = counts.get(part, 0) + people
    return _job([Sheet(id="new", width=width, height=height)], _pieces(dice, list(counts), list(counts.values())))


def offcuts_job(seed: int) -> Job:
    """A class with offcuts on the shelf."""
    dice = random.Random(f"offcuts {seed}")
    width, height, metric = _sheet(dice)
    people = dice.randint(4, 30)
    sizes = card_sizes(dice, dice.randint(3, 10), width, height, metric)
    counts = [people * dice.choice((1, 1, 1, 2)) for _ in sizes]
    sheets = [Sheet(id="new", width=width, height=height, count=None, cost=Decimal("0.42"))]
    for number in range(dice.randint(2, 5)):
        wide, high = (dice.randrange(side // 4, side, EIGHTH) for side in (width, height))
        name = f"offcut {number + 1}"
        sheets.append(Sheet(id=name, width=wide, height=high, count=dice.randint(1, 4), cost=Decimal(0)))
    return _job(sheets, _pieces(dice, sizes, counts))


FAMILIES = {
    "class": (class_job, 60),
    "club": (club_job, 20),
    "few": (few_job, 20),
    "exact": (exact_job, 60),
    "offcuts": (offcuts_job, 20),
}
