"""Whether there is anything cheaper: by listing what a cheaper plan could use, or by mixes of prices."""

from __future__ import annotations

from zester.core.fitting.patterns.columns import ColumnPool, Tables, relax
from zester.core.fitting.patterns.problem import part_of
from zester.core.fitting.search.closing import close_gap
from zester.core.fitting.search.found import Found
from zester.core.fitting.search.mixes import Mixes
from zester.core.fitting.search.smaller import Smaller

# What is kept for listing, seconds.
LISTING = 2.0
# Shares of what closing may do at the most.
EFFORTS = (0.02, 0.1, 0.3)


class Gaps:
    """The ways that settle whether there is a cheaper answer."""

    def __init__(self, found: Found, smaller: Smaller):
        self.found, self.smaller = found, smaller
        self._closed_at: tuple[int, float] | None = None

    def close(self, effort: float) -> None:
        """List every column a cheaper plan could use, and settle whether there is one."""
        if self.found.lacks or self._closed_at == (self.found.best.cost, effort):
            return
        self.found.settle_prices()
        self._closed_at = (self.found.best.cost, effort)
        area = [size.area for size in self.found.problem.sizes]
        self.found.tell("closing the gap")
        self.found.compiled()
        closed = close_gap(
            self.found.problem,
            self.found.tables,
            [self.found.relaxed.worth, area],
            self.found.best.cost,
            self.found.bound,
            seconds=max(0.3, min(3.0, self.found.seconds_left())),
            effort=effort,
        )
        if closed.chosen:
            self.found.take_whole(closed.chosen)
        if closed.settled:
            self.found.raise_bound(self.found.best.cost)

    def close_for_priced(self) -> None:
        """Settle the gap for the sizes that have a price alone: what they need at least, all of them need.

        What has no price fits in beside the others in any mix, in more ways than can be listed.
        """
        self.found.settle_prices()
        priced = [bool(worth) for worth in self.found.relaxed.worth]
        windows = [stock for stock in self.found.problem.stocks if stock.is_window]
        if all(priced) or not any(priced) or self.found.done or self.found.lacks:
            return
        if any(fits and price for window in windows for fits, price in zip(window.allowed, priced, strict=True)):
            return
        self.found.tell("closing the gap")
        demands = [demand * price for demand, price in zip(self.found.problem.demands, priced, strict=True)]
        small = part_of(self.found.problem, demands)[0]
        tables = Tables(small)
        relaxed = relax(small, tables, ColumnPool(small), lambda _: None, self.found.seconds_left, early=False)
        left = max(0.3, min(3.0, self.found.seconds_left()))
        closed = close_gap(
            small, tables, [relaxed.worth], self.found.best.cost, relaxed.bound, seconds=left, effort=EFFORTS[1]
        )
        self.found.raise_bound(relaxed.bound)
        if closed.settled and not closed.chosen:
            self.found.raise_bound(self.found.best.cost)

    def exclude_mixes(self) -> None:
        """Where sheets have several prices: the bound of those numbers of each kind that prices exclude."""
        mixes = self._open_mixes()
        if mixes:
            self.found.raise_bound(mixes.exclude(self.found.bound, self.found.best.cost))

    def by_mixes(self) -> None:
        """Where sheets have several prices: one number of each kind after the other."""
        mixes = self._open_mixes()
        if not mixes:
            return
        chosen, bound = mixes.run(self.found.bound, self.found.best.cost)
        if chosen:
            self.found.take_whole(chosen)
        self.found.raise_bound(bound)

    def _open_mixes(self) -> Mixes | None:
        """The numbers of sheets of several prices between the bound and the best so far, if there are any."""
        mixes = Mixes(self.found.problem, self.found.tables, self.found.pool, self.smaller.fit_mix, self._more_mixes)
        if self.found.lacks or not mixes.apply:
            return None
        self.found.settle_prices()
        self.found.compiled()
        return None if self.found.done else mixes

    def _more_mixes(self) -> bool:
        self.found.tell("sheets of several prices")
        return self.found.seconds_left() > LISTING
