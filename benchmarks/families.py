"""Families of fit jobs made from seeds, for the benchmark of the fitting.

class    3 to 14 sizes of the kinds cards have, 4 to 30 people, on the usual sheets
club     8 to 24 sizes, 250 to 5,000 people
few      6 to 16 sizes, 1 to 3 of each
exact    a sheet cut at random into 5 to 12 pieces, 3 to 20 people: the best is known, no waste
offcuts  a class with 2 to 5 limited offcuts at no price beside new sheets

Harder ones, each of which is what some class has:

many     30 to 40 sizes in one paper, as a white card stock through twelve cards has
prices   a paper in two sizes of sheets at two prices
tenths   A4, sizes in tenths of a millimetre
limits   margins on the sheets, and a trimmer with a longest cut and a narrowest strip
shelf    forty different offcuts beside new sheets
small    pieces of which a hundred and more come out of a sheet
rules    matched rows, hidden middles, a pattern with a direction
evening  a whole class: twelve papers as one run
"""

from __future__ import annotations

import random
from dataclasses import replace
from decimal import Decimal

from zester.core.errors import JobError
from zester.core.fitting.jobs.check_job import check_job
from zester.core.fitting.jobs.job import Bench, Job, Margins, PaperJob, Piece, Row, Sheet
from zester.core.fitting.parts import CutLimits
from zester.core.geometry import Window
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


def mats_job(seed: int) -> Job:
    """One or two sizes of mats, few of each, on letter sheets: small enough for the fewest minutes there are."""
    dice, sides = random.Random(seed), SHEET_SIZES["letter"]
    sizes = {(dice.randint(28, 44) * EIGHTH, dice.randint(34, 46) * EIGHTH) for _ in range(1 + seed % 2)}
    pieces = tuple(
        Piece(id=f"P{k + 1}", width=size[0], height=size[1], count=dice.randint(3, 16))
        for k, size in enumerate(sorted(sizes))
    )
    sheet = Sheet(id="sheet", width=sides.width, height=sides.height)
    return Job("in", (PaperJob(id="paper", sheets=(sheet,), pieces=pieces),), Bench(3))


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


def many_job(seed: int) -> Job:
    """A paper through twelve cards."""
    return _people_job(f"many {seed}", (8, 30), (30, 40))


def prices_job(seed: int) -> Job:
    """Two sizes of sheets, the larger one cheaper or dearer for its area."""
    dice = random.Random(f"prices {seed}")
    small, large = SHEET_SIZES["letter"], SHEET_SIZES["12x12"]
    people = dice.randint(4, 30)
    sizes = card_sizes(dice, dice.randint(5, 14), small.width, small.height, metric=False)
    counts = [people * dice.choice((1, 1, 2, 2, 3)) for _ in sizes]
    prices = Decimal("0.42"), Decimal(dice.randint(55, 95)) / 100
    sheets = [
        Sheet(id="small", width=small.width, height=small.height, cost=prices[0]),
        Sheet(id="large", width=large.width, height=large.height, cost=prices[1]),
    ]
    return _job(sheets, _pieces(dice, sizes, counts))


def tenths_job(seed: int) -> Job:
    """Sizes as a drawing program gives them."""
    dice = random.Random(f"tenths {seed}")
    a4, tenth = SHEET_SIZES["a4"], TICKS_PER_MM // 10
    people = dice.randint(4, 30)
    sizes = card_sizes(dice, dice.randint(5, 14), a4.width, a4.height, metric=True)
    sizes = [tuple(side - dice.randint(0, 9) * tenth for side in size) for size in sizes]
    counts = [people * dice.choice((1, 1, 2, 2, 3)) for _ in sizes]
    return _job([Sheet(id="new", width=a4.width, height=a4.height)], _pieces(dice, sizes, counts))


def limits_job(seed: int) -> Job:
    """Printed edges, and a small trimmer."""
    dice = random.Random(f"limits {seed}")
    letter = SHEET_SIZES["letter"]
    edge = dice.choice((1, 2, 4)) * EIGHTH
    margins = Margins(edge, edge, edge, edge)
    inner = letter.width - 2 * edge, letter.height - 2 * edge
    people = dice.randint(4, 30)
    sizes = card_sizes(dice, dice.randint(5, 12), *inner, metric=False)
    counts = [people * dice.choice((1, 1, 2, 2, 3)) for _ in sizes]
    sheet = Sheet(id="new", width=letter.width, height=letter.height, margins=margins)
    job, hold = _job([sheet], _pieces(dice, sizes, counts)), dice.choice((0, 4, 6)) * EIGHTH
    for longest in dice.sample((letter.width, 9 * TICKS_PER_INCH), 2):
        limited = replace(job, bench=Bench(3, CutLimits(longest=longest, hold=hold)))
        try:
            check_job(limited)
        except JobError:
            continue
        return limited
    return replace(job, bench=Bench(3, CutLimits(longest=letter.height, hold=hold)))


def shelf_job(seed: int) -> Job:
    """Forty offcuts, all different."""
    dice = random.Random(f"shelf {seed}")
    letter = SHEET_SIZES["letter"]
    people = dice.randint(8, 30)
    sizes = card_sizes(dice, dice.randint(4, 10), letter.width, letter.height, metric=False)
    counts = [people * dice.choice((1, 1, 1, 2)) for _ in sizes]
    sheets = [Sheet(id="new", width=letter.width, height=letter.height, cost=Decimal("0.42"))]
    for number in range(40):
        wide, high = (dice.randrange(side // 4, side, EIGHTH) for side in (letter.width, letter.height))
        sheets.append(Sheet(id=f"offcut {number + 1}", width=wide, height=high, count=1, cost=Decimal(0)))
    return _job(sheets, _pieces(dice, sizes, counts))


def small_job(seed: int) -> Job:
    """Confetti, labels, tags."""
    dice = random.Random(f"small {seed}")
    letter = SHEET_SIZES["letter"]
    sizes: list[tuple[int, int]] = []
    while len(sizes) < dice.randint(4, 8):
        size = dice.randint(4, 8) * EIGHTH, dice.randint(4, 9) * EIGHTH
        if size not in sizes and size[::-1] not in sizes:
            sizes.append(size)
    counts = [dice.randint(100, 900) for _ in sizes]
    return _job([Sheet(id="new", width=letter.width, height=letter.height)], _pieces(dice, sizes, counts))


def rules_job(seed: int) -> Job:
    """All the rules of the trade in one paper."""
    dice = random.Random(f"rules {seed}")
    size = SHEET_SIZES["12x12"]
    people = dice.randint(6, 24)
    middle = Window(3 * EIGHTH, 3 * EIGHTH, 28 * EIGHTH, 38 * EIGHTH)
    mat = Piece(id="mat", width=34 * EIGHTH, height=44 * EIGHTH, count=people, window=middle)
    shapes = tuple(
        Piece(
            id=f"shape {k}",
            width=dice.randint(8, 16) * EIGHTH,
            height=dice.randint(8, 20) * EIGHTH,
            count=people * dice.randint(1, 2),
            from_window=True,
        )
        for k in range(2)
    )
    row = tuple(
        Piece(id=f"row {k}", width=dice.randint(8, 14) * EIGHTH, height=18 * EIGHTH, count=people, turn=False)
        for k in range(3)
    )
    sizes = card_sizes(dice, dice.randint(3, 7), size.width, size.height, metric=False)
    counts = [people * dice.choice((1, 1, 2)) for _ in sizes]
    directed = tuple(replace(piece, turn=False) for piece in _pieces(dice, sizes, counts))
    matched = (Row("row", "x", tuple(piece.id for piece in row)),)
    sheet = Sheet(id="new", width=size.width, height=size.height)
    pieces = (mat, *shapes, *row, *directed)
    return Job("in", (PaperJob(id="paper", sheets=(sheet,), pieces=pieces, matched=matched),), Bench(3))


def evening_job(seed: int) -> Job:
    """Twelve papers."""
    papers = []
    for number in range(12):
        paper = class_job(1000 + 12 * seed + number).papers[0]
        pieces = tuple(replace(piece, id=f"{number + 1}-{piece.id}") for piece in paper.pieces)
        papers.append(replace(paper, id=f"paper {number + 1}", pieces=pieces))
    return Job("in", tuple(papers), Bench(3))


FAMILIES = {
    "class": (class_job, 60),
    "club": (club_job, 20),
    "few": (few_job, 20),
    "exact": (exact_job, 60),
    "offcuts": (offcuts_job, 20),
    "many": (many_job, 20),
    "prices": (prices_job, 20),
    "tenths": (tenths_job, 20),
    "limits": (limits_job, 20),
    "shelf": (shelf_job, 10),
    "small": (small_job, 20),
    "rules": (rules_job, 20),
    "evening": (evening_job, 5),
}
