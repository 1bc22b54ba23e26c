"""What pieces, cards and kits cost, from what their papers' sheets cost.

    sheets opened x price  =  pieces  +  what was cut off and binned  +  offcuts worth keeping
                              \\___ carried by the pieces, by area __/     \\___ stay on the shelf

Sums are exact fractions until the end and rounded once, where they are shown.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

from zester.core.money.cost_lines import CARD, KIT, ONCE, PERSON, CostLine
from zester.core.money.shares import cents, share_out
from zester.core.tally import people as in_words
from zester.core.tally import some

NOTHING = Fraction(0)


@dataclass(frozen=True, kw_only=True)
class PaperSpent:
    """What one paper of a class takes."""

    name: str
    """What it is called."""
    sheets: int
    """Sheets opened."""
    cost: Decimal | None
    """What they cost; None if nobody wrote a price."""
    used: Fraction
    """The share of their area that becomes pieces."""
    kept: Fraction
    """The share that is kept as offcuts."""
    areas: Mapping[str, int]
    """By handle the area of all of it, square ticks."""
    made: Mapping[str, int]
    """By handle how many are made."""
    by_pack: Decimal | None = None
    """What the new sheets cost if whole packs are bought for them; None without a price."""

    @property
    def shares(self) -> tuple[Decimal, Decimal, Decimal]:
        """What of the cost is in pieces, in offcuts worth keeping, and in the bin: together it is all of it."""
        if self.cost is None:
            return Decimal(0), Decimal(0), Decimal(0)
        pieces, kept, waste = share_out(cents(self.cost), [self.used, self.kept, 1 - self.used - self.kept])
        return pieces, kept, waste

    @property
    def spent(self) -> Decimal:
        """What the class bears of it: all but the offcuts' worth."""
        pieces, _, waste = self.shares
        return pieces + waste

    def of_each(self) -> dict[str, Fraction]:
        """By handle what one piece costs, with its share of what is binned."""
        whole = sum(self.areas.values())
        if self.cost is None or not whole:
            return {}
        spent = Fraction(self.spent)
        return {
            handle: spent * area / whole / self.made[handle] for handle, area in self.areas.items() if self.made[handle]
        }


@dataclass(frozen=True, kw_only=True)
class KitCost:
    """What the kits of one offer cost, one of them."""

    name: str
    """What is ordered."""
    count: int
    """How many are made."""
    paper: Fraction
    """Its pieces."""
    bits: Fraction
    """Its bits."""
    post: Fraction
    """What sending it costs."""
    lines: Fraction
    """What is written for each kit or person."""
    price: Decimal | None
    """What one of them brings; None if it has no price."""

    @property
    def cost(self) -> Fraction:
        """All of it."""
        return self.paper + self.bits + self.post + self.lines

    @property
    def left(self) -> Fraction | None:
        """What is left of its price."""
        return None if self.price is None else Fraction(self.price) - self.cost

    @property
    def shown(self) -> dict[str, Decimal | None]:
        """Its parts, all of it and what is left to the cent, each rounded once."""
        parts = {name: getattr(self, name) for name in ("paper", "bits", "post", "lines", "cost", "left")}
        return {name: None if part is None else cents(part) for name, part in parts.items()}


@dataclass(frozen=True)
class Entry:
    """A line of a sum."""

    words: str
    """What it is, with its sum."""
    amount: Decimal
    """How much, to the cent."""


@dataclass(frozen=True, kw_only=True)
class ClassSum:
    """What a class brings, costs and leaves."""

    income: tuple[Entry, ...]
    """What it brings."""
    costs: tuple[Entry, ...]
    """What it costs."""
    fixed: Decimal
    """What of that does not grow with the people."""
    each: Fraction | None
    """What one more person leaves, without paper that is opened for them anew; None if nothing has a price."""

    @property
    def brings(self) -> Decimal:
        """All that comes in."""
        return sum((entry.amount for entry in self.income), Decimal(0))

    @property
    def takes(self) -> Decimal:
        """All that goes out."""
        return sum((entry.amount for entry in self.costs), Decimal(0))

    @property
    def left(self) -> Decimal:
        """What is left."""
        return self.brings - self.takes

    @property
    def lacks(self) -> Decimal:
        """What is missing, where less comes in than goes out."""
        return max(Decimal(0), -self.left)

    @property
    def pays_from(self) -> int | None:
        """From how many people on nothing is lost; None if it never pays."""
        if self.each is None or self.each <= 0:
            return None
        return -int(-Fraction(self.fixed) // self.each)


def lines_cost(lines: Sequence[CostLine], people: int, kits: int, cards: int = 0) -> list[Entry]:
    """What is written, for so many people, kits and cards."""
    times = {ONCE: 1, PERSON: people, KIT: kits, CARD: cards}
    called = {ONCE: "", PERSON: f", {in_words(people)} at {{}}", KIT: f", {some(kits, 'kit')} at {{}}"}
    called[CARD] = f", {some(cards, 'card')} at {{}}"
    return [
        Entry(f"{line.words}{called[line.per].format(line.amount)}", line.amount * times[line.per]) for line in lines
    ]


def of_items(items: Iterable[tuple[str, int]], each: Mapping[str, Fraction]) -> Fraction:
    """What so many of each thing cost together; what has no price costs nothing."""
    return sum((each.get(key, NOTHING) * count for key, count in items), NOTHING)
