"""Paper against minutes: of plans that cost more and take less time, which one is worth it.

    total = what the sheets cost + hours at the trimmer x what an hour is worth

For several papers only steps that save most for their money are taken, paper by paper: the plans on the lower hull of
each paper's points, merged in the order of seconds saved for a unit of money. For every worth of an hour that gives the
plans of least total (Lagrangian relaxation: Everett 1963).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

HOUR = 3600


@dataclass(frozen=True, kw_only=True)
class Point:
    """What one plan comes to."""

    cost: Decimal
    """What its sheets cost."""
    seconds: int
    """What cutting it takes."""
    sheets: int
    """How many sheets it opens."""

    def total(self, hour: Decimal) -> Decimal:
        """The cost, with the time at what an hour is worth."""
        return self.cost + hour * self.seconds / HOUR


def least_total(points: Sequence[Point], hour: Decimal) -> int:
    """The place of the plan of least total, the cheaper one of equals."""
    return min(range(len(points)), key=lambda place: (points[place].total(hour), points[place].cost, place))


def together(points: Sequence[Point]) -> Point:
    """Plans of several papers, added up."""
    return Point(
        cost=sum((point.cost for point in points), Decimal(0)),
        seconds=sum(point.seconds for point in points),
        sheets=sum(point.sheets for point in points),
    )


def worth_it(fronts: Sequence[Sequence[Point]]) -> list[tuple[int, ...]]:
    """For several papers, which plan of each: from all thriftiest to all easiest, one step at a time.

    ``fronts`` are the plans of every paper, dearer ones quicker. What is given back are places in them.
    """
    steps = [(rate, paper, to) for paper, front in enumerate(fronts) for rate, to in _hull(front)]
    # What saves time for nothing comes first; within a paper the rates fall, so its steps stay in order.
    steps.sort(key=lambda step: (-step[0], step[1]))
    here = [0] * len(fronts)
    found = [tuple(here)]
    for _, paper, to in steps:
        here[paper] = to
        found.append(tuple(here))
    return found


def _hull(front: Sequence[Point]) -> list[tuple[Decimal, int]]:
    """The steps along the lower hull of a paper's plans: seconds saved for a unit of money, and to which plan."""
    found: list[tuple[Decimal, int]] = []
    here = 0
    while True:
        ahead = [place for place in range(here + 1, len(front)) if front[place].seconds < front[here].seconds]
        if not ahead:
            return found
        rates = {place: _rate(front[here], front[place]) for place in ahead}
        here = max(ahead, key=lambda place: (rates[place], place))
        found.append((rates[here], here))


def _rate(one: Point, other: Point) -> Decimal:
    more = other.cost - one.cost
    return (one.seconds - other.seconds) / more if more > 0 else Decimal("Infinity")
