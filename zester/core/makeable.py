"""What can be made of what lies there: how many of a card come out of offcuts and odd sheets, with no sheet opened.

for n cards:   what lies there (costs nothing)  +  new sheets (1 each)   --fit-->   costs nothing: n can be made
                                                                                  proven to cost more: n cannot

More cards never need less, so the most is found by halving; the paper with the least room is looked at first, the
others only up to what that gives.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from zester.core.cards.yields import most_of_one
from zester.core.class_job import OffcutSize, ShelfPaper, Wishes, paper_job
from zester.core.errors import JobError
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.job import ANY_BENCH, Bench, PaperJob
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.tally import CardPieces, Demand, PieceCount, some, tally

# Nobody makes more of one card out of what is left over.
MOST_CARDS = 24
A_TRY = 0.15
MADE, NOT, UNKNOWN = "made", "not", "unknown"


@dataclass(frozen=True, kw_only=True)
class OfPaper:
    """What one paper gives for so many cards."""

    job: PaperJob
    """What was wanted of it, and what lies there."""
    plan: PaperPlan
    """How it comes out of what lies there, checked."""


@dataclass(frozen=True, kw_only=True)
class Makeable:
    """How many of one card can be made."""

    count: int
    """So many, at least."""
    exact: bool
    """Whether more is proven not to come out of it."""
    lacking: tuple[str, ...] = ()
    """Where none can be made: the keys of the papers that do not give one."""
    papers: tuple[OfPaper, ...] = ()
    """How, paper by paper; empty where none can be made."""


def most_cards(
    card: CardPieces,
    shelf: Mapping[str, ShelfPaper],
    bench: Bench = ANY_BENCH,
    tell: Callable[[str], None] = lambda _: None,
) -> Makeable:
    """The most of a card that comes out of what lies there.

    Parameters
    ----------
    card
        What one is made of. Fillers are not needed for it.
    shelf
        By key the papers; what lies there are their ``offcuts``, odd sheets among them. A paper that is not there has
        none.
    bench
        What it is cut with.
    tell
        Hears a few words now and then; may raise to stop.
    """
    mine = [_OfOne(key, card, shelf.get(key), bench, tell) for key in _papers(card)]
    lacking = tuple(each.key for each in mine if not each.most)
    if not mine or lacking:
        return Makeable(count=0, exact=True, lacking=lacking)
    count, exact = MOST_CARDS, False
    for each in sorted(mine, key=lambda each: each.most):
        most, sure = each.look(count)
        if most < count:
            count, exact = most, sure
    if not count:
        return Makeable(count=0, exact=exact, lacking=tuple(each.key for each in mine if each.found(1)[0] != MADE))
    ways = [each.found(count)[1] for each in mine]
    while count > 1 and None in ways:
        # More came out of one paper than the quick look finds for fewer.
        count, exact = count - 1, False
        ways = [each.found(count)[1] for each in mine]
    return Makeable(count=count, exact=exact, papers=tuple(way for way in ways if way))


def _papers(card: CardPieces) -> list[str]:
    return list(dict.fromkeys(piece.paper for piece in card.pieces if not piece.filler))


class _OfOne:
    """One paper of a card: what its pieces take of it, and what was found out so far."""

    def __init__(self, key: str, card: CardPieces, paper: ShelfPaper | None, bench: Bench, tell: Callable[[str], None]):
        self.key, self.bench, self.tell = key, bench, tell
        pieces = tuple(piece for piece in card.pieces if piece.paper == key and not piece.filler)
        self.card = replace(card, pieces=pieces)
        self.paper = replace(paper, sizes=(), there=0) if paper else None
        self.known: dict[int, tuple[str, OfPaper | None]] = {}
        self.most = self._most()

    def _most(self) -> int:
        """No more than this for sure: by area, and by how often each piece comes out of each part on its own."""
        if self.paper is None or not self.paper.offcuts:
            return 0
        lying = [(each.width, each.height, each.count) for each in self.paper.offcuts]
        bounds = [MOST_CARDS]
        # What comes out of a hidden middle takes nothing of its own.
        cut = [piece for piece in self.card.pieces if not piece.from_middle]
        area = sum(piece.width * piece.height * piece.count for piece in cut)
        if area:
            bounds.append(sum(width * height * count for width, height, count in lying) // area)
        for piece in cut:
            each = [most_of_one(piece.width, piece.height, width, height, piece.turn) for width, height, _ in lying]
            if None not in each:
                out = sum((most or 0) * count for most, (_, _, count) in zip(each, lying, strict=True))
                bounds.append(out // piece.count)
        return min(bounds)

    def look(self, most: int) -> tuple[int, bool]:
        """The most cards up to ``most`` it gives, and whether one more is proven not to come out."""
        low, high = 0, min(most, self.most)
        sure = high < most
        if high and self.found(high)[0] == MADE:
            return high, sure
        high -= 1
        while low < high:
            middle = (low + high + 1) // 2
            if self.found(middle)[0] == MADE:
                low = middle
            else:
                high = middle - 1
        return low, self.found(low + 1)[0] == NOT

    def found(self, count: int) -> tuple[str, OfPaper | None]:
        """Whether so many come out, and how."""
        if count > self.most:
            return NOT, None
        if count not in self.known:
            self.tell(f"{some(count, 'card')} of {self.card.name}")
            self.known[count] = self._fitted(count)
        return self.known[count]

    def _fitted(self, count: int) -> tuple[str, OfPaper | None]:
        if self.paper is None:
            return NOT, None
        try:
            job = self._job(self.paper, count)
            new, *lying = job.sheets
            # Without new sheets it is quick where it can be done; with them it is proven where it cannot.
            alone = replace(job, sheets=tuple(lying))
            plan = fit_paper(alone, self.bench, self.tell, A_TRY)
            if not plan.short:
                return MADE, OfPaper(job=alone, plan=plan)
            proving = replace(job, sheets=(replace(new, cost=Decimal(1)), *lying))
            plan = fit_paper(proving, self.bench, self.tell, A_TRY)
        except JobError:
            return NOT, None
        if not plan.short and not plan.cost:
            return MADE, OfPaper(job=proving, plan=plan)
        return (NOT if plan.bound > 0 else UNKNOWN), None

    def _job(self, paper: ShelfPaper, count: int) -> PaperJob:
        wanted: Sequence[PieceCount] = tally([self.card], [Demand(self.card.letter, count, some(count, "card"))])
        return paper_job(paper, wanted, Wishes(self.bench))


@dataclass(frozen=True)
class Small:
    """Something small that is cut from what is left over: a tag, a border, a topper."""

    name: str
    """What it is."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    turn: bool = True
    """Whether it may lie a quarter turn round."""


def most_small(small: Small, lying: Sequence[OffcutSize]) -> int | None:
    """How many of it come out of all that lies of a paper, exactly: each part gives what it gives on its own.

    None where that takes too long to tell.
    """
    total = 0
    for each in lying:
        out = most_of_one(small.width, small.height, each.width, each.height, small.turn)
        if out is None:
            return None
        total += out * each.count
    return total


def look_through(
    cards: Mapping[int, CardPieces],
    shelf: Mapping[str, ShelfPaper],
    bench: Bench,
    tell: Callable[[str], None],
    seconds: float,
) -> Iterator[tuple[int, Makeable]]:
    """Every card, by its key, with how many of it can be made, as long as there is time."""
    end = time.monotonic() + seconds
    for number, (key, card) in enumerate(cards.items(), 1):
        if time.monotonic() > end:
            return

        def told(words: str, number: int = number) -> None:
            tell(f"{number} of {some(len(cards), 'design')}: {words}")

        told(card.name)
        yield key, most_cards(card, shelf, bench, told)
