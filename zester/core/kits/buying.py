"""What has to be bought: packs that together hold what is missing, at the least price.

articles (sheets of a paper, metres of ribbon…) x packs (so many of one article, or a pad of several) -> whole packs

A covering program in whole numbers, one for each group of articles that packs tie together; the answer is checked in
exact numbers.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from zester.core.errors import ZesterError
from zester.core.fitting.solver import whole_cover

# Without prices packs are counted; of equally cheap purchases the one with fewer packs is taken.
_NODES, _SECONDS = 20_000, 5.0
_CENT = 100


@dataclass(frozen=True, kw_only=True)
class Pack:
    """Something that is sold."""

    key: str
    """What it is known by."""
    name: str
    """What people call it."""
    holds: Mapping[str, int]
    """By article how much of it is in one."""
    price: Decimal | None = None
    """Of one; None if nobody knows."""
    most: int | None = None
    """How many can be had; None: any number."""


@dataclass(frozen=True, kw_only=True)
class Bought:
    """One line of a purchase."""

    pack: Pack
    """What is bought."""
    count: int
    """How many."""
    unused: Mapping[str, int]
    """By article what comes along that nobody asked for; of an article in several lines all of it is said once."""

    @property
    def price(self) -> Decimal | None:
        """Of all of them."""
        return None if self.pack.price is None else self.pack.price * self.count


@dataclass(frozen=True, kw_only=True)
class Purchase:
    """What is bought, and what cannot be had."""

    lines: tuple[Bought, ...]
    """One for each kind of pack."""
    missing: Mapping[str, int]
    """By article what no pack that can be had holds."""
    proven: bool
    """Whether nothing cheaper is possible."""

    @property
    def price(self) -> Decimal:
        """Of all whose price is known."""
        return sum((line.price for line in self.lines if line.price is not None), Decimal(0))

    @property
    def unpriced(self) -> int:
        """How many lines have no price."""
        return sum(line.price is None for line in self.lines)


def packs_to_buy(needs: Mapping[str, int], packs: Sequence[Pack]) -> Purchase:
    """The cheapest packs that hold all that is needed.

    Parameters
    ----------
    needs
        By article how much is missing.
    packs
        What is sold. Packs without a price count as dear as the dearest, so that they are taken where nothing else is.

    Raises
    ------
    ZesterError
        If a pack holds nothing, or less than nothing.
    """
    for pack in packs:
        if not pack.holds or min(pack.holds.values()) < 1:
            raise ZesterError(f"{pack.name}: a pack holds at least 1", mend="Write how many are in it")
    wanted = {article: count for article, count in needs.items() if count > 0}
    useful = [pack for pack in packs if any(article in wanted for article in pack.holds)]
    lines: list[Bought] = []
    missing: dict[str, int] = {}
    proven = True
    for articles, group in _tied(wanted, useful):
        amounts, lacking, ended = _cover({a: wanted[a] for a in articles}, group)
        missing |= lacking
        proven &= ended
        lines += _lines({a: wanted[a] for a in articles}, group, amounts)
    return Purchase(lines=tuple(lines), missing=missing, proven=proven)


def _tied(wanted: Mapping[str, int], packs: Sequence[Pack]) -> Iterable[tuple[list[str], list[Pack]]]:
    """Articles that packs tie together, with those packs: each group is a program of its own."""
    left = dict.fromkeys(wanted)
    while left:
        articles: dict[str, None] = {}
        todo, mine = [next(iter(left))], dict[str, Pack]()
        while todo:
            article = todo.pop()
            articles[article] = None
            for pack in packs:
                if article in pack.holds and pack.key not in mine:
                    mine[pack.key] = pack
                    todo += [other for other in pack.holds if other in wanted and other not in articles]
        for article in articles:
            left.pop(article, None)
        yield list(articles), list(mine.values())


def _cover(wanted: Mapping[str, int], packs: Sequence[Pack]) -> tuple[list[int], dict[str, int], bool]:
    """How many of each pack; what cannot be had; whether that is the cheapest for certain."""
    there = {a: much for a in wanted if (much := _there(a, packs)) is not None}
    lacking = {a: wanted[a] - much for a, much in there.items() if much < wanted[a]}
    demands = {a: count - lacking.get(a, 0) for a, count in wanted.items()}
    if not any(demands.values()):
        return [0] * len(packs), lacking, True
    rows = list(demands)
    limited = [number for number, pack in enumerate(packs) if pack.most is not None]
    columns = []
    for number, pack in enumerate(packs):
        # More than is wanted counts no more than what is: so numbers stay small.
        column = {rows.index(a): min(held, demands[a]) for a, held in pack.holds.items() if demands.get(a)}
        if number in limited:
            column[len(rows) + limited.index(number)] = 1
        columns.append(column)
    answer = whole_cover(
        _costs(packs, sum(demands.values())),
        columns,
        list(demands.values()),
        [pack.most for pack in packs if pack.most is not None],
        good_enough=0,
        nodes=_NODES,
        seconds=_SECONDS,
    )
    amounts = answer.amounts
    if amounts is None or not _holds(demands, packs, amounts):
        raise ZesterError("What to buy could not be worked out", mend="Try again; if it stays so, tell us")
    return amounts, lacking, answer.finished


def _there(article: str, packs: Sequence[Pack]) -> int | None:
    """How much of an article can be had; None: any amount."""
    mine = [pack for pack in packs if article in pack.holds]
    much = [pack.most * pack.holds[article] for pack in mine if pack.most is not None]
    return sum(much) if len(much) == len(mine) else None


def _costs(packs: Sequence[Pack], most: int) -> list[float]:
    """Whole numbers: cents, and less than a cent for every pack, so that of equally cheap ones fewer are taken."""
    dearest = max((int(pack.price * _CENT) for pack in packs if pack.price is not None), default=1) or 1
    step = max(1, most)
    return [
        float((dearest if pack.price is None else int(pack.price * _CENT)) * (step + 1) + 1) / (step + 1)
        for pack in packs
    ]


def _holds(demands: Mapping[str, int], packs: Sequence[Pack], amounts: Sequence[int]) -> bool:
    """Whether the packs hold all that is wanted and can be had, in exact numbers."""
    within = all(pack.most is None or amount <= pack.most for pack, amount in zip(packs, amounts, strict=True))
    return within and all(
        sum(amount * pack.holds.get(article, 0) for pack, amount in zip(packs, amounts, strict=True)) >= count
        for article, count in demands.items()
    )


def _lines(wanted: Mapping[str, int], packs: Sequence[Pack], amounts: Sequence[int]) -> list[Bought]:
    bought = [(pack, amount) for pack, amount in zip(packs, amounts, strict=True) if amount]
    held: dict[str, int] = {}
    for pack, amount in bought:
        for article, count in pack.holds.items():
            held[article] = held.get(article, 0) + count * amount
    over = {a: count - wanted.get(a, 0) for a, count in held.items() if count > wanted.get(a, 0)}
    lines = []
    for pack, amount in bought:
        unused = {a: over.pop(a) for a in list(pack.holds) if a in over}
        lines.append(Bought(pack=pack, count=amount, unused=unused))
    return lines
