"""The fewest minutes a small paper can take, by an integer program over every way to cut it.

The program lists no layouts. Its unknowns are single cuts: how many parts of one size are cut along one side at one
place, so and so often each (the one-cut model: Dyckhoff 1981, A new linear programming approach to the cutting stock
problem; for sheets Silva, Alvelos & Valério de Carvalho 2010). What is cut must be there, and every strip that is
measured must be of use. Whatever its layouts are, a plan is such a list of cuts.

    setting   every place of the rail, as often as it is visited
    stack     the parts cut alike in full stacks, less those that are in the hand still
    stroke    every stack, as often as it is cut

A stack is in the hand if the step just before gave it. So of every stack that is cut one at most is gone on with, and
from one place of the rail to another that happens once a visit. That the visits are one walk, and that nothing is cut
before it is there, is asked for once an answer goes in a circle. All that is left out can only make the program quicker
than the plans are: what it finds no answer below is a bound, and a plan that takes no longer takes the fewest minutes.
It holds for plans whose cuts lie at sums of piece lengths (``positions.py``) and that measure off nothing but what is
of use, as all plans here do.
"""

from __future__ import annotations

import time
from collections import Counter, defaultdict
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from graphlib import CycleError, TopologicalSorter
from heapq import heappop, heappush
from math import gcd
from typing import NamedTuple

from zester.core.fitting.parts import ANY_CUT, Part
from zester.core.fitting.patterns.positions import normal_positions
from zester.core.fitting.patterns.problem import Problem
from zester.core.fitting.solver import WholeProgram
from zester.core.pace import DEFAULT_PACE

# With more positions or cuts than this a paper is not small.
MOST_POSITIONS, MOST_CUTS = 2000, 3000
# How far every search of the integer program goes.
NODES = 1_000_000
# How often circles are forbidden, and how often a place of the rail is visited at the most.
ROUNDS, VISITS = 30, 99

Sides = tuple[int, int]


class Cut(NamedTuple):
    """A way to cut parts of one size. Lengths are ticks."""

    part: Sides
    """What is cut: width and height."""
    axis: str
    """``x`` or ``y``."""
    at: int
    """The place of the rail."""
    times: int
    """How often each part is cut there."""
    off: Sides
    """What comes off every time."""
    rest: Sides | None
    """What remains; None if it is of no use."""

    @property
    def gives(self) -> Counter[Sides]:
        """What of use one part gives."""
        return Counter({self.off: self.times}) + Counter([self.rest] if self.rest else [])


@dataclass(frozen=True)
class Fewest:
    """What is known of the fewest seconds."""

    bound: int
    """No plan takes fewer seconds; what was asked about, if there is no answer below it."""
    layouts: tuple[tuple[Part, int], ...] = ()
    """Cut trees and copies of the best answer that takes less, if there is one. Put in order it may take longer."""


def fewest_seconds(
    problem: Problem,
    cost: int,
    stack: int,
    known: int,
    seconds: float,
    *,
    nodes: int = NODES,
    most_cuts: int = MOST_CUTS,
) -> Fewest | None:
    """Look for a plan of at most ``cost`` units that takes less than ``known`` seconds at the default pace.

    None if the paper is not small, has several kinds of sheets or any rules. ``nodes`` bounds every search of the
    integer program, ``seconds`` is the emergency brake.
    """
    stock, until = problem.stocks[0], time.monotonic() + seconds
    plain = stock.count is None and problem.costs[0] > 0 and stock.limits == ANY_CUT and not stock.is_window
    if len(problem.stocks) > 1 or not plain or any(size.row for size in problem.sizes):
        return None
    ways = _Ways(problem, cost // problem.costs[0])
    if not ways.small or ways.sheet in ways.pieces:
        return None
    program, bound = _Program(problem, ways, stack), 0
    for _ in range(ROUNDS):
        answer, found = program.solve(known, nodes, until - time.monotonic())
        bound = max(bound, found)
        if answer is None:
            return Fewest(bound)
        if time.monotonic() > until or not program.forbid(answer):
            return Fewest(bound, tuple(program.layouts(answer)))
    return Fewest(bound)


class _Ways:
    """Every cut that a plan with so many sheets can use: none that wastes more than these sheets have to spare."""

    def __init__(self, problem: Problem, sheets: int):
        self.problem, self.sheets = problem, sheets
        self.pieces: dict[Sides, list[int]] = defaultdict(list)
        for index, size in enumerate(problem.sizes):
            for sides in size.ways:
                self.pieces[sides].append(index)
        self.sheet = problem.stocks[0].width, problem.stocks[0].height
        self.spare = sheets * problem.stocks[0].area - sum(size.area * size.demand for size in problem.sizes)
        self.cuts: dict[Sides, list[Cut]] = {}
        self._sums = cache(self._sums)
        self._held = cache(self._held)
        count = len(self._sums("x", self._fitting(self.sheet))) * len(self._sums("y", self._fitting(self.sheet)))
        self.small = count <= MOST_POSITIONS and self._list()

    def _fitting(self, part: Sides) -> tuple[Sides, ...]:
        return tuple(sides for sides in sorted(self.pieces) if sides[0] <= part[0] and sides[1] <= part[1])

    def _sums(self, axis: str, fitting: tuple[Sides, ...]) -> tuple[int, ...]:
        side = int(axis == "y")
        lengths = [(sides[side], max(self.problem.demands[k] for k in self.pieces[sides])) for sides in fitting]
        return tuple(int(place) for place in normal_positions(lengths, self.sheet[side]))

    def _places(self, part: Sides, axis: str) -> list[int]:
        side = part[axis == "y"]
        return [place for place in self._sums(axis, self._fitting(part)) if 0 < place < side]

    def _held(self, part: Sides) -> int:
        """The most area of pieces, as many of each as one likes, that a part holds."""
        most = max((sides[0] * sides[1] for sides in self._fitting(part)), default=0)
        if most:
            for axis in "xy":
                for at in self._places(part, axis):
                    off, rest = _cut(part, axis, at, 1)
                    most = max(most, self._held(off) + self._held(self._trimmed(rest)))
        return most

    def _trimmed(self, part: Sides) -> Sides:
        fitting = self._fitting(part)
        wide, high = (max(p for p in self._sums(axis, fitting) if p <= part[axis == "y"]) for axis in "xy")
        return wide, high

    def _waste(self, part: Sides) -> int:
        return part[0] * part[1] - self._held(self._trimmed(part))

    def _list(self) -> bool:
        """List the cuts, the parts that cost least waste first; whether they are few."""
        least, waiting, number = {self.sheet: 0}, [(0, self.sheet)], 0
        while waiting:
            before, part = heappop(waiting)
            if part in self.cuts:
                continue
            self.cuts[part] = []
            for cut, rest in self._of(part):
                off_waste, rest_waste = self._waste(cut.off), self._waste(rest)
                if before + cut.times * off_waste + rest_waste > self.spare:
                    continue
                self.cuts[part].append(cut)
                number += 1
                beside = {cut.off: (cut.times - 1) * off_waste + rest_waste, rest: cut.times * off_waste}
                for made, waste in beside.items():
                    if self._fitting(made) and before + waste < least.get(made, self.spare + 1):
                        least[made] = before + waste
                        heappush(waiting, (before + waste, made))
            if number > MOST_CUTS:
                return False
        return True

    def _of(self, part: Sides) -> Iterator[tuple[Cut, Sides]]:
        for axis in "xy":
            for at in self._places(part, axis):
                for times in range(1, (part[axis == "y"] - 1) // at + 1):
                    off, rest = _cut(part, axis, at, times)
                    yield Cut(part, axis, at, times, off, rest if self._fitting(rest) else None), rest

    def most(self, part: Sides) -> int:
        """How many parts of a size all sheets can give."""
        return self.sheets * (self.sheet[0] // part[0]) * (self.sheet[1] // part[1])


def _cut(part: Sides, axis: str, at: int, times: int) -> tuple[Sides, Sides]:
    """What comes off and what remains."""
    width, height = part
    if axis == "x":
        return (at, height), (width - times * at, height)
    return (width, at), (width, height - times * at)


class _Program:
    """The integer program, and what its answers are."""

    def __init__(self, problem: Problem, ways: _Ways, stack: int):
        self.problem, self.ways, self.stack, self.program = problem, ways, stack, WholeProgram()
        pace = DEFAULT_PACE
        self.unit = gcd(pace.setting, pace.stack, pace.stroke)
        self.cuts = [cut for part in ways.cuts for cut in ways.cuts[part]]
        self.amounts = [self.program.add(most=ways.most(cut.part)) for cut in self.cuts]
        self.stacks = [
            self.program.add((pace.stack + pace.stroke * cut.times) // self.unit, ways.most(cut.part))
            for cut in self.cuts
        ]
        self._used: dict[int, int] = {}
        self._parts()
        self._visits()
        self._in_hand()

    def solve(self, known: int, nodes: int, seconds: float) -> tuple[list[int] | None, int]:
        """The best answer that takes less than ``known`` seconds, and a bound in seconds."""
        answer, bound = self.program.solve(-(-known // self.unit), nodes, seconds)
        return answer, min(known, bound * self.unit)

    def _parts(self) -> None:
        """Every part is cut or a piece at most once; what is measured off is one of both."""
        program, ways = self.program, self.ways
        self.opened = program.add(most=ways.sheets)
        slots = [(sides, index) for sides, sizes in ways.pieces.items() for index in sizes]
        self.pieces = {slot: program.add(most=ways.most(slot[0])) for slot in slots}
        for index, demand in enumerate(self.problem.demands):
            program.row({unknown: 1 for (_, size), unknown in self.pieces.items() if size == index}, least=demand)
        taken: dict[Sides, Counter] = defaultdict(Counter)
        made: dict[Sides, Counter] = defaultdict(Counter)
        off: dict[Sides, Counter] = defaultdict(Counter)
        made[ways.sheet][self.opened] += 1
        for cut, amount, stacks in zip(self.cuts, self.amounts, self.stacks, strict=True):
            taken[cut.part][amount] += 1
            off[cut.off][amount] += cut.times
            for part, many in cut.gives.items():
                made[part][amount] += many
            program.row({stacks: self.stack, amount: -1}, least=0)
            program.row({stacks: 1, amount: -1}, most=0)
        for (sides, _), unknown in self.pieces.items():
            taken[sides][unknown] += 1
        for part in {*ways.cuts, *ways.pieces}:
            program.row(_minus(made[part], taken[part]), least=0)
            if part not in ways.pieces:
                program.row(_minus(off[part], taken[part]), most=0)

    def _visits(self) -> None:
        """A place of the rail is visited if anything is cut there."""
        program = self.program
        self.places = sorted({cut.at for cut in self.cuts})
        self.visits = {at: program.add(DEFAULT_PACE.setting // self.unit, VISITS) for at in self.places}
        self.visited = {at: program.add(most=1) for at in self.places}
        for at in self.places:
            program.row({self.visits[at]: 1, self.visited[at]: -1}, least=0)
            program.row({self.visits[at]: 1, self.visited[at]: -VISITS}, most=0)
        alike: dict[tuple, list[int]] = defaultdict(list)
        for cut, amount in zip(self.cuts, self.amounts, strict=True):
            alike[cut.part, cut.at, cut.axis].append(amount)
        for (part, at, _), amounts in alike.items():
            program.row(dict.fromkeys(amounts, 1) | {self.visited[at]: -self.ways.most(part)}, most=0)

    def _in_hand(self) -> None:
        """Stacks that are gone on with: ``held[part, one, other]``, made at one place and cut on at the other.

        Beside them stand their parts: no more than a stack's each, and no more than there were made for it.
        """
        program, gone_on, taken_up = self.program, self._gone_on(), self._taken_up()
        saved = -DEFAULT_PACE.stack // self.unit
        self.held: dict[tuple[Sides, int, int], int] = {}
        for part in self.ways.cuts:
            most = self.ways.most(part)
            between = [(one, other) for one in gone_on[part] for other in taken_up[part]]
            stacks = {pair: program.add(saved, most) for pair in between}
            parts = {pair: program.add(most=most) for pair in between}
            self.held |= {(part, *pair): unknown for pair, unknown in stacks.items()}
            for pair in between:
                program.row({parts[pair]: 1, stacks[pair]: -self.stack}, most=0)
            for number, unknowns in enumerate((stacks, parts)):
                for one, shares in gone_on[part].items():
                    mine = [unknowns[pair] for pair in between if pair[0] == one]
                    program.row(dict.fromkeys(mine, 1) | dict.fromkeys((share[number] for share in shares), -1), most=0)
                for other, shares in taken_up[part].items():
                    mine = [unknowns[pair] for pair in between if pair[1] == other]
                    program.row(dict.fromkeys(mine, 1) | dict.fromkeys((share[number] for share in shares), -1), 0, 0)
        self._walk()

    def _walk(self) -> None:
        """From one place of the rail to another a stack is held once a visit; the walk begins with a sheet."""
        moved = {key: held for key, held in self.held.items() if key[1] != key[2]}
        for at in self.places:
            for side in (1, 2):
                mine = [held for key, held in moved.items() if key[side] == at]
                self.program.row(dict.fromkeys(mine, 1) | {self.visits[at]: -1}, most=0)
        self.program.row(dict.fromkeys(moved.values(), 1) | dict.fromkeys(self.visits.values(), -1), most=-1)
        for pair in {frozenset(key[1:]) for key in moved}:
            self._one_walk(pair)

    def _gone_on(self) -> dict[Sides, dict[int, list[tuple[int, int]]]]:
        """By part and place what may stay in the hand of every cut: of its stacks one each, and so many parts."""
        program = self.program
        found: dict[Sides, dict[int, list[tuple[int, int]]]] = defaultdict(lambda: defaultdict(list))
        for cut, amount, stacks in zip(self.cuts, self.amounts, self.stacks, strict=True):
            gives = {part: many for part, many in cut.gives.items() if self.ways.cuts.get(part)}
            most = self.ways.most(cut.part)
            shares = [program.add(most=most) for _ in gives] if len(gives) > 1 else [stacks] * len(gives)
            if len(gives) > 1:
                program.row(dict.fromkeys(shares, 1) | {stacks: -1}, most=0)
            for (part, many), share in zip(gives.items(), shares, strict=True):
                parts = program.add(most=most * many)
                program.row({parts: 1, share: -self.stack}, most=0)
                program.row({parts: 1, amount: -many}, most=0)
                found[part][cut.at].append((share, parts))
        return found

    def _taken_up(self) -> dict[Sides, dict[int, list[tuple[int, int]]]]:
        """By part and place how many stacks, and parts, of every cut are in the hand; the others are stacked anew."""
        program = self.program
        found: dict[Sides, dict[int, list[tuple[int, int]]]] = defaultdict(lambda: defaultdict(list))
        for cut, amount, stacks in zip(self.cuts, self.amounts, self.stacks, strict=True):
            most = self.ways.most(cut.part)
            held, parts = program.add(most=most), program.add(most=most)
            program.row({held: 1, parts: -1}, most=0)
            program.row({amount: 1, parts: -1, stacks: -self.stack, held: self.stack}, most=0)
            program.row({parts: 1, amount: -1}, most=0)
            found[cut.part][cut.at].append((held, parts))
        return found

    def forbid(self, answer: Sequence[int]) -> bool:
        """Ask for what an answer does not keep to; whether there was anything."""
        circle = _circle((one, other) for (_, one, other), held in self.held.items() if one != other and answer[held])
        if circle and self._forbid_walk(circle, answer):
            return True
        edges = self._edges(answer)
        circle = _circle(edges)
        if not circle:
            return False
        # One of the reasons does not hold, or one of the places is visited again.
        row: Counter = Counter({self.visits[at]: -len(circle) for at in circle})
        most = len(circle) - 1 - len(circle) * len(circle)
        for one, other in zip(circle, [*circle[1:], circle[0]], strict=True):
            reason, unless = edges[one, other]
            row[reason] += 1
            row.subtract(dict.fromkeys(unless, 1))
        self.program.row(dict(row), most=most)
        return True

    def _forbid_walk(self, circle: Sequence[int], answer: Sequence[int]) -> bool:
        """Going round in a circle of places takes one visit more than there are; whether the answer leaves it out."""
        within = [held for (_, one, other), held in self.held.items() if one != other and {one, other} <= {*circle}]
        if sum(answer[held] for held in within) < sum(answer[self.visits[at]] for at in circle):
            return False
        self._one_walk(circle)
        return True

    def _one_walk(self, places: Collection[int]) -> None:
        """Between visits to these places there is one step fewer than there are visits."""
        within = [held for (_, one, other), held in self.held.items() if one != other and {one, other} <= {*places}]
        visits = [self.visits[at] for at in places]
        for at in places:
            self.program.row(dict.fromkeys(within, 1) | dict.fromkeys(visits, -1) | {self.visited[at]: 1}, most=0)

    def _edges(self, answer: Sequence[int]) -> dict[tuple[int, int], tuple[int, list[int]]]:
        """Which place, visited once, comes before which: the unknown that says so, and those that make it untrue."""
        once = {at for at in self.places if answer[self.visits[at]] == 1}
        edges: dict[tuple[int, int], tuple[int, list[int]]] = {}
        for (_, one, other), held in self.held.items():
            if answer[held] and one != other and {one, other} <= once:
                edges[one, other] = held, []
        makers: dict[Sides, list[int]] = defaultdict(list)
        for number, cut in enumerate(self.cuts):
            for part in cut.gives:
                makers[part].append(number)
        for number, cut in enumerate(self.cuts):
            if not answer[self.amounts[number]] or cut.part == self.ways.sheet or cut.at not in once:
                continue
            places = {self.cuts[maker].at for maker in makers[cut.part] if answer[self.amounts[maker]]}
            if len(places) == 1 and places <= once - {cut.at}:
                one = places.pop()
                others = [self.stacks[maker] for maker in makers[cut.part] if self.cuts[maker].at != one]
                edges.setdefault((one, cut.at), (self._is_used(number), others))
        return edges

    def _is_used(self, number: int) -> int:
        """Whether a cut is made at all, as an unknown."""
        if number not in self._used:
            self._used[number] = self.program.add(most=1)
            most = self.ways.most(self.cuts[number].part)
            self.program.row({self.amounts[number]: 1, self._used[number]: -most}, most=0)
        return self._used[number]

    def layouts(self, answer: Sequence[int]) -> Iterator[tuple[Part, int]]:
        """Cut trees and copies that an answer comes to; which part is cut how does not matter to it."""
        waiting: dict[Sides, list] = defaultdict(list)
        for cut, amount in zip(self.cuts, self.amounts, strict=True):
            waiting[cut.part] += [cut] * answer[amount]
        for (sides, index), unknown in self.pieces.items():
            waiting[sides] += [index] * answer[unknown]

        def build(part: Sides) -> Part:
            todo = waiting[part].pop() if waiting[part] else None
            if isinstance(todo, Cut):
                return row(part, todo, todo.times)
            return Part(width=part[0], height=part[1], size=todo)

        def row(part: Sides, cut: Cut, times: int) -> Part:
            if not times:
                return build(part)
            off, rest = _cut(part, cut.axis, cut.at, 1)
            first = build(off)
            second = row(rest, cut, times - 1)
            return Part(width=part[0], height=part[1], axis=cut.axis, at=cut.at, first=first, second=second)

        yield from Counter(build(self.ways.sheet) for _ in range(answer[self.opened])).items()


def _minus(one: Counter, other: Counter) -> dict[int, int]:
    found = Counter(one)
    found.subtract(other)
    return {unknown: many for unknown, many in found.items() if many}


def _circle(edges) -> list[int]:
    """Places that come before each other all around, in that order; empty if there are none."""
    before: dict[int, set[int]] = defaultdict(set)
    for one, other in edges:
        before[other].add(one)
    try:
        TopologicalSorter(before).prepare()
    except CycleError as error:
        return error.args[1][:-1]
    return []
