"""Fewer strokes by strips: every sheet is first cut right across into strips; alike strips of all sheets are stacked.

+-------+-------+     +-------+-------+
|   a   |   a   |     |   a   |   b   |     Two different sheets, but the strips a | a, a | b, c | c are counted over
+---+---+---+---+     +---+---+---+---+     all sheets: what is cut inside a strip is cut in stacks wherever the same
| c | c | c | c |     | c | c | c | c |     strip occurs ("strips before cross-cuts", common practice).
+---+---+---+---+     +---+---+---+---+

Any edge-to-edge layout is a row of such strips (its first cuts), so nothing is lost. The integer program chooses how
many of every strip and of every pattern of strip lengths are made, at no more than a given cost:

    work of the strips in stacks + work of the patterns in stacks  ->  least
    strips make every size often enough; patterns offer every length as often as strips need it

(the one-cut models of Dyckhoff 1981 and Silva, Alvelos & Valério de Carvalho 2010, at the first stage alone).
"""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from zester.core.fitting.columns import Column, Tables
from zester.core.fitting.handling import Light, work_of
from zester.core.fitting.parts import Part, count_cuts, count_sizes, cut_part
from zester.core.fitting.problem import Problem
from zester.core.fitting.solver import least_work
from zester.core.fitting.strokes import part_key
from zester.core.fitting.tidy import length_along, row_of, tidy

MOST_STRIPS = 90
MOST_PATTERNS = 60
MOST_LENGTHS = 40
ENUMERATED = 300
LOSS = 1.0
SHAKES = 2
NODES = 2000
WASTED = 0.12

Chosen = Iterable[tuple[Column, int]]


@dataclass(frozen=True)
class Kind:
    """A kind of strip: the stock and the axis it is cut along, its length there in ticks, what it makes."""

    stock: int
    axis: str
    length: int
    counts: tuple[int, ...]


@dataclass(frozen=True)
class Pattern:
    """How a sheet is cut into strips: the stock, the axis, the lengths in ascending order."""

    stock: int
    axis: str
    lengths: tuple[int, ...]


class StripProgram:
    """The strips and patterns of a problem, and the integer program over them.

    Parameters
    ----------
    problem, tables, columns
        The problem, its tables, and the columns whose strips are taken.
    known : iterable of (Column, copies)
        A plan to start from.
    light : Light
        Prices in cuts, which say which strips are promising.
    stack : int
        Sheets cut at once.
    """

    def __init__(
        self, problem: Problem, tables: Tables, columns: list[Column], known: Chosen, *, light: Light, stack: int
    ):
        self.problem, self.tables, self.light, self.stack = problem, tables, light, stack
        self.trees: dict[Kind, Part] = {}
        self.patterns: dict[Pattern, None] = {}
        self.start: Counter = Counter()
        for column, copies in known:
            kinds, pattern = self._take(column)
            self.start.update({kind: copies * times for kind, times in Counter(kinds).items()})
            self.start[pattern] += copies
        for column in columns:
            self._take(column)
        self._from_tables()

    def _take(self, column: Column) -> tuple[list[Kind], Pattern]:
        tree = tidy(column.tree, halve=False, limits=self.problem.stocks[column.sheet].limits)
        axis = tree.axis or "y"
        strips = [strip for strip in row_of(tree, axis) if not strip.left_over]
        kinds = [self._add(column.sheet, axis, strip) for strip in strips]
        pattern = Pattern(column.sheet, axis, tuple(sorted(kind.length for kind in kinds)))
        self.patterns[pattern] = None
        return kinds, pattern

    def _add(self, stock: int, axis: str, strip: Part) -> Kind:
        kind = Kind(stock, axis, length_along(strip, axis), count_sizes(strip, len(self.problem.sizes)))
        known = self.trees.get(kind)
        if known is None or count_cuts(strip) < count_cuts(known):
            self.trees[kind] = strip
        return kind

    def _from_tables(self) -> None:
        """The best strip of every useful length, by the light prices and by some near them."""
        dice = random.Random(3)
        for turn in range(1 + SHAKES):
            luck = [1.0 if not turn else dice.uniform(0.85, 1.15) for _ in self.light.worth]
            self.tables.fill([int(worth * by) for worth, by in zip(self.light.worth, luck, strict=True)], 1000)
            for index, stock in enumerate(self.problem.stocks):
                if not stock.is_window:
                    self._strips_of_table(index)

    def _strips_of_table(self, index: int) -> None:
        stock, table = self.problem.stocks[index], self.tables.table_of(index)
        limits = self.problem.stocks[index].limits
        i, j = table.cell(stock.width, stock.height)
        for axis, positions, values in (
            ("x", table.xs, table.values[: i + 1, j]),
            ("y", table.ys, table.values[i, : j + 1]),
        ):
            for place in range(1, len(values)):
                if values[place] > values[place - 1]:
                    length = int(positions[place])
                    box = (length, stock.height) if axis == "x" else (stock.width, length)
                    self._add(index, axis, tidy(table.tree(*box), halve=False, limits=limits))

    def _loss(self, kind: Kind) -> float:
        """How many cuts a strip wastes by the light prices, its share of the sheet's rent paid."""
        value = sum(count * price for count, price in zip(kind.counts, self.light.prices, strict=True))
        rent = self.light.rents[kind.stock] * kind.length / self._side(kind)
        return count_cuts(self.trees[kind]) + 1 + rent - value

    def _side(self, of: Kind | Pattern) -> int:
        stock = self.problem.stocks[of.stock]
        return stock.width if of.axis == "x" else stock.height

    def solve(self, cost: int, seconds: float) -> list[tuple[Column, int]] | None:
        """Columns with copies that cost no more than ``cost`` units, or None if nothing was found."""
        kinds = self._kinds()
        links = {key: index for index, key in enumerate(sorted({(k.stock, k.axis, k.length) for k in kinds}))}
        patterns = self._patterns(links, kinds)
        sizes, stocks = len(self.problem.sizes), self.problem.limited
        work = [work_of(self.trees[kind], self.stack, self.problem.stocks[kind.stock].limits) for kind in kinds]
        rows = [
            {index: count for index, count in enumerate(kind.counts) if count}
            | {sizes + links[kind.stock, kind.axis, kind.length]: -1}
            for kind in kinds
        ]
        for pattern in patterns:
            cuts = len(pattern.lengths) - (sum(pattern.lengths) == self._side(pattern))
            cuts = 0 if self.problem.stocks[pattern.stock].is_window else cuts
            work.append([cuts + 0.1] * self.stack)
            entries = Counter(sizes + links[pattern.stock, pattern.axis, length] for length in pattern.lengths)
            if pattern.stock in stocks:
                entries[sizes + len(links) + stocks.index(pattern.stock)] = 1
            rows.append(dict(entries))
        found = least_work(
            work,
            [0.0] * len(kinds) + [float(self.problem.costs[pattern.stock]) for pattern in patterns],
            rows,
            [*self.problem.demands, *([0] * len(links))],
            [self.problem.stocks[index].count for index in stocks],
            ceiling=float(cost),
            start=[self.start[each] for each in (*kinds, *patterns)],
            nodes=NODES,
            seconds=seconds,
            heuristics=0.15,
        )
        if found is None:
            return None
        amounts = dict(zip(kinds, found, strict=False))
        return self._sheets(amounts, dict(zip(patterns, found[len(kinds) :], strict=True)))

    def _kinds(self) -> list[Kind]:
        rest = [kind for kind in self.trees if any(kind.counts) and kind not in self.start]
        losses = {kind: self._loss(kind) for kind in rest}
        rest = sorted((k for k in rest if losses[k] < LOSS), key=lambda k: (losses[k] / k.length, k.length, k.counts))
        known = [kind for kind in self.trees if kind in self.start and any(kind.counts)]
        return [*known, *rest[: max(0, MOST_STRIPS - len(known))]]

    def _patterns(self, links: dict, kinds: list[Kind]) -> list[Pattern]:
        """The known patterns, those of the columns, and the fullest of all that the lengths allow."""
        lengths: dict[tuple[int, str], list[int]] = {}
        for stock, axis, length in links:
            lengths.setdefault((stock, axis), []).append(length)
        for (stock, axis), those in lengths.items():
            if not self.problem.stocks[stock].is_window:
                self._enumerate(stock, axis, sorted(those, reverse=True)[:MOST_LENGTHS])
        known = [pattern for pattern in self.patterns if pattern in self.start]
        rest = [
            pattern
            for pattern in self.patterns
            if pattern not in self.start
            and pattern.lengths
            and all((pattern.stock, pattern.axis, length) in links for length in pattern.lengths)
        ]
        return [*known, *rest[: max(0, MOST_PATTERNS - len(known))]]

    def _enumerate(self, stock: int, axis: str, lengths: list[int]) -> None:
        side, found = self._side(Pattern(stock, axis, ())), 0
        waiting: list[tuple[int, int, tuple[int, ...]]] = [(0, side, ())]
        while waiting and found < ENUMERATED:
            index, left, chosen = waiting.pop()
            if index == len(lengths):
                if left < side * WASTED:
                    found += 1
                    self.patterns.setdefault(Pattern(stock, axis, tuple(sorted(chosen))))
                continue
            times = range(left // lengths[index] + 1)
            waiting += [(index + 1, left - n * lengths[index], chosen + (lengths[index],) * n) for n in times]

    def _sheets(self, amounts: dict[Kind, int], patterns: dict[Pattern, int]) -> list[tuple[Column, int]]:
        """The strips laid onto the sheets of the patterns, alike ones onto alike sheets."""
        bags: dict[tuple, list[Kind]] = {}
        for kind in sorted(amounts, key=lambda kind: (-amounts[kind], kind.counts)):
            bags.setdefault((kind.stock, kind.axis, kind.length), []).extend([kind] * amounts[kind])
        sheets: dict[tuple, tuple[Column, int]] = {}
        for pattern in sorted(patterns, key=lambda p: (-patterns[p], p.lengths)):
            for _ in range(patterns[pattern]):
                kinds = [
                    bags[pattern.stock, pattern.axis, length].pop(0)
                    for length in pattern.lengths
                    if bags.get((pattern.stock, pattern.axis, length))
                ]
                if kinds:
                    tree = self._sheet(pattern, kinds)
                    column, copies = sheets.get(part_key(tree), (None, 0))
                    counts = count_sizes(tree, len(self.problem.sizes))
                    sheets[part_key(tree)] = column or Column(pattern.stock, counts, tree), copies + 1
        return list(sheets.values())

    def _sheet(self, pattern: Pattern, kinds: list[Kind]) -> Part:
        stock = self.problem.stocks[pattern.stock]
        left = self._side(pattern) - sum(kind.length for kind in kinds)
        rest: Part | None = None
        if left:
            rest = Part(left, stock.height) if pattern.axis == "x" else Part(stock.width, left)
        for kind in sorted(kinds, key=lambda kind: (kind.length, kind.counts)):
            strip = self.trees[kind]
            if rest is None:
                rest = strip
            elif pattern.axis == "x":
                rest = cut_part(strip.width + rest.width, stock.height, "x", strip.width, strip, rest)
            else:
                rest = cut_part(stock.width, strip.height + rest.height, "y", strip.height, strip, rest)
        return tidy(rest, halve=False, limits=stock.limits)
