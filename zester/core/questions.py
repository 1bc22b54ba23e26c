"""Questions about a fit: how many more people the same paper serves, and which size is only just too large."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from decimal import Decimal

from zester.core.fitting.engine import fit_paper, warm_up
from zester.core.fitting.job import Bench, PaperJob, Piece
from zester.core.fitting.rounding import Depth
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM

MOST_SEATS = 60
A_FIT = 2.5
SMALLER_INCHES = tuple(TICKS_PER_INCH // part for part in (16, 8, 4))
SMALLER_MM = tuple(TICKS_PER_MM * each for each in range(1, 6))


@dataclass(frozen=True)
class Step:
    """From ``first`` to ``last`` participants the same sheets, packs and price are enough."""

    first: int
    last: int
    sheets: int
    packs: int
    price: Decimal


@dataclass(frozen=True)
class Seats:
    """A paper's steps for 1 to 60 participants."""

    paper: str
    steps: tuple[Step, ...]

    def at(self, people: int) -> Step:
        """The step that so many participants are on."""
        return next(step for step in self.steps if step.first <= people <= step.last)

    def after(self, people: int) -> Step | None:
        """The next step; None if there is none up to the most asked for."""
        return next((step for step in self.steps if step.first > people), None)


def for_people(paper: PaperJob, people: int) -> PaperJob:
    """The paper for another number of participants: every piece's share more or less of the count."""
    pieces = (
        replace(piece, count=piece.count + (piece.each or 0) * (people - paper.people)) if not piece.filler else piece
        for piece in paper.pieces
    )
    return replace(paper, people=people, pieces=tuple(piece for piece in pieces if piece.count > 0), pins=())


def seats(paper: PaperJob, bench: Bench, tell: Callable[[str], None] = lambda _: None, most: int = MOST_SEATS) -> Seats:
    """How sheets, packs and price grow with the participants.

    Sheets are taken to be there without limit; margins, pools and all other rules stay, pins do not. Numbers between
    two that need the same need the same themselves, so only the ends of such runs are fitted.
    """
    warm_up()
    sheets = tuple(replace(sheet, count=None) for sheet in paper.sheets[:1])
    endless = replace(paper, sheets=sheets)
    known: dict[int, int] = {}

    def needed(people: int) -> int:
        if people not in known:
            tell(f"{people} people")
            known[people] = _sheets(for_people(endless, people), bench, tell)
        return known[people]

    def spread(low: int, high: int) -> None:
        if needed(low) < needed(high) and high - low > 1:
            middle = (low + high) // 2
            spread(low, middle)
            spread(middle, high)

    spread(1, most)
    return Seats(paper.id, tuple(_steps(known, most, sheets[0])))


def _steps(known: dict[int, int], most: int, sheet) -> Iterator[Step]:
    needs, last = [0] * (most + 1), 0
    for people in range(most, 0, -1):
        # More people never need less; where a quick fit says so, the better one of more people serves fewer, too.
        last = min(known.get(people, last or 10**9), last or 10**9)
        needs[people] = last
    first = 1
    for people in range(1, most + 1):
        if people == most or needs[people + 1] != needs[people]:
            packs = -(-needs[people] // sheet.pack)
            yield Step(first, people, needs[people], packs, packs * sheet.pack * sheet.cost)
            first = people + 1


def _sheets(paper: PaperJob, bench: Bench, tell: Callable[[str], None]) -> int:
    if not any(not piece.filler for piece in paper.pieces):
        return 0
    return fit_paper(paper, bench, tell, A_FIT, depth=Depth.THRIFTY).sheets


@dataclass(frozen=True)
class NearMiss:
    """Pieces that, ``smaller`` ticks less wide or high, would save ``sheets`` sheets and ``money``."""

    paper: str
    pieces: tuple[str, ...]
    side: str
    smaller: int
    sheets: int
    money: Decimal


def near(
    paper: PaperJob, bench: Bench, unit: str, tell: Callable[[str], None] = lambda _: None, seconds: float = 2.0
) -> list[NearMiss]:
    """Which sizes are only just too large, what would save most first.

    Every size is made smaller by 1/16, 1/8 and 1/4 in, or 1 to 5 mm, in width and in height; the smallest change that
    saves as much as any is listed. Matched pieces and pieces with a hidden middle are left as they are.
    """
    warm_up()
    paper = replace(paper, pins=(), pieces=tuple(piece for piece in paper.pieces if not piece.filler))
    now = fit_paper(paper, bench, tell, 2 * seconds, depth=Depth.THRIFTY)
    if now.short:
        return []
    cuts = SMALLER_INCHES if unit == "in" else SMALLER_MM
    found = []
    for group in _groups(paper):
        for side in ("width", "height"):
            tell(f"{group[0].id}, {side}")
            found += _near_of(paper, bench, group, side, cuts, now, tell, seconds)
    return sorted(found, key=lambda miss: (-miss.money, -miss.sheets, miss.smaller, miss.pieces))


def _groups(paper: PaperJob) -> list[list[Piece]]:
    """Pieces of equal size and rules together; those that must stay as they are left out."""
    fixed = {name for row in paper.matched for name in row.pieces}
    groups: dict[tuple, list[Piece]] = {}
    for piece in paper.pieces:
        if piece.id not in fixed and not piece.window:
            groups.setdefault((piece.width, piece.height, piece.direction), []).append(piece)
    return list(groups.values())


def _near_of(paper, bench, group, side, cuts, now, tell, seconds) -> list[NearMiss]:
    """The smallest change of one side of a group that saves anything, and a larger one only if it saves more."""
    names = {piece.id for piece in group}
    found: list[NearMiss] = []
    for smaller in reversed(cuts):
        if getattr(group[0], side) <= smaller:
            continue
        pieces = tuple(
            replace(piece, **{side: getattr(piece, side) - smaller}) if piece.id in names else piece
            for piece in paper.pieces
        )
        plan = fit_paper(replace(paper, pieces=pieces), bench, tell, seconds, depth=Depth.THRIFTY)
        money, sheets = now.cost - plan.cost, now.sheets - plan.sheets
        if money <= 0:
            # What this much does not save, less does not save either.
            break
        if found and found[-1].money == money:
            found.pop()
        found.append(NearMiss(paper.id, tuple(sorted(names)), side, smaller, sheets, money))
    return found
