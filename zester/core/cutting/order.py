"""The order of the steps at the trimmer that takes the least time: an iterated greedy search over places of the rail.

At one place of the rail all is cut there that can be; then the rail goes to where the largest part waits, unless
another place finishes more. Between two places a stack may stay in the hand:

    rail to 4:    3 stacks are cut; the last one stays in the hand
    rail to 5¼:   it is cut on first, then what else there is for 5¼, and again one stack stays in the hand

Many such orders are made, with other weights and a little chance; then the best is taken up in the middle again and
again and gone on with otherwise (Ruiz and Stützle 2007, A simple and effective iterated greedy algorithm). That proves
nothing; the places of the rail that are needed at all (``places_needed``) are a bound. ``hands.py`` puts the steps of
every place in order.
"""

from __future__ import annotations

import random
from collections import Counter
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from zester.core.cutting.kinds import Kind, Roots
from zester.core.pace import Pace

# How many parts are looked at in all: orders of many parts are made fewer times.
EFFORT = 240_000
MOST, LEAST = 700, 20
# How many are made where there is no time to look for long: twice as many save two seconds in a hundred.
SOON = 8
# After so many orders, or a quarter of all, of which none was better, no more are made.
GIVE_UP = 80
# What a pile more than may lie about counts, in seconds: nearly a prohibition.
A_PILE_TOO_MANY = 600
# How many orders are worked out in full; of many parts fewer, as that takes long and saves next to nothing.
FINISHED, FINISHED_SOON, FINISHED_PARTS = 12, 1, 1_000
SEED = 13

# How many parts of a kind are still to be cut, of a sheet with this id or (empty) of piles; and what can be cut now.
Pending = dict[tuple[Kind, str], int]
Ready = list[tuple[Kind, str, int]]


@dataclass(frozen=True)
class Group:
    """Parts of one size, from one place, that are cut alike at one setting of the rail."""

    at: int
    """The place of the rail, ticks."""
    taken: tuple[tuple[Kind, int], ...]
    """Kinds and how many of each."""
    sheet: str
    """The sheet's id; empty for what lies in piles."""
    times: int
    """How often each is cut."""

    @property
    def count(self) -> int:
        """How many parts are cut."""
        return sum(count for _, count in self.taken)

    @property
    def lot(self) -> int:
        """Which paper they are of, where several are cut in one order."""
        return self.taken[0][0].lot

    def stacks(self, stack: int) -> int:
        """How many stacks they are."""
        return -(-self.count // stack)


def places_needed(*papers: Roots) -> int:
    """The fewest different places of the rail with which all of it, of one paper or of several, can be cut at all.

    Every length that is measured whatever remains, and of the rows in which any strip may remain all but one.
    """
    rows = {kind for roots in papers for root, _ in roots.sheets for kind in root.walk() if kind.axis}
    sure: set[int] = set()
    choices: set[frozenset[int]] = set()
    for kind in rows:
        counts = Counter(strip.length(kind.axis) for strip in kind.strips)
        may_remain = {strip.length(kind.axis) for strip in kind.remains}
        single = frozenset(length for length in may_remain if counts[length] == 1)
        # Only one strip remains; a length that stands twice, or may not remain, is measured in any case.
        sure |= set(counts) - single
        if len(single) > 1:
            choices.add(single)
    return len(sure) + _fewest(frozenset(sure), list(choices))


def _fewest(there: frozenset[int], choices: list[frozenset[int]]) -> int:
    """How many lengths more are needed so that of every choice all but one are there; small, so by trying."""
    open_choices = [choice for choice in choices if len(choice - there) > 1]
    if not open_choices:
        return 0
    choice = min(open_choices, key=len)
    if len(open_choices) > 12:
        return 0
    mores = [choice - there - {left_out} for left_out in choice]
    return min(len(more) + _fewest(there | more, open_choices) for more in mores)


@dataclass(frozen=True)
class Visit:
    """What is done at one place of the rail."""

    groups: tuple[Group, ...]
    """In an order in which nothing is cut before it is there."""
    cost: int
    """Seconds, with all before."""


@dataclass(frozen=True)
class Weights:
    """What counts in choosing the next place."""

    size: float
    """That a large part waits there."""
    ends: float
    """That the rail need not come there again."""
    work: float
    """That many stacks wait there."""
    hand: float
    """That something can be cut on that the last place gave."""
    chance: float
    """Nothing at all."""


class Search:
    """The search for one paper."""

    def __init__(
        self, roots: Roots, stack: int, pace: Pace, most_piles: int | None, thorough: bool = True, wait: bool = True
    ):
        self.thorough = thorough
        # Whether a part waits until all that are alike are there; with little room it cannot.
        self.wait = wait
        self.kinds, self.stack, self.pace, self.most_piles = roots.kinds, stack, pace, most_piles
        self.roots, self.dice = roots, random.Random(SEED)
        self.below = _Below()

    def run(self, many: int | None = None) -> list[list[tuple[Group, ...]]]:
        """The best orders found, the one that seems quickest first: what is done at every place of the rail.

        ``many``: how many at the most, if not as many as are worked out in full.
        """
        pending = {(kind, sheet): n for (kind, sheet), n in self.roots.sheets.items() if kind.axis}
        if not pending:
            return []
        parts = sum(len([each for each in kind.walk() if each.axis]) for kind, _ in pending)
        times = max(LEAST, min(MOST, EFFORT // (parts * parts))) if self.thorough else SOON
        found: dict[tuple[Any, ...], list[Visit]] = {}
        best: list[Visit] | None = None
        better = 0
        for turn in range(times):
            begun = [] if best is None or turn < times // 4 else best[: self.dice.randrange(len(best))]
            visits = self._go_on(pending, begun, self._weights(turn))
            found.setdefault(tuple(visit.groups for visit in visits), visits)
            if best is None or visits[-1].cost < best[-1].cost:
                best, better = visits, turn
            if turn - better > max(times // 4, GIVE_UP):
                break
        best_first = sorted(found.values(), key=lambda visits: visits[-1].cost)
        many = many or (max(2, min(FINISHED, FINISHED_PARTS // parts)) if self.thorough else FINISHED_SOON)
        return [[visit.groups for visit in visits] for visits in best_first[:many]]

    @cached_property
    def _largest(self) -> int:
        return max(kind.width * kind.height for kind, _ in self.roots.sheets)

    def _weights(self, turn: int) -> Weights:
        if turn == 0:
            return Weights(1, 0, 0, 0, 0)
        dice = self.dice.random
        # Small parts first: what is begun is finished, which leaves fewer piles; with little room mostly so.
        size = -1 if turn % 4 == 3 or (self.most_piles is not None and turn % 4) else 1
        return Weights(size, dice() ** 2, dice() ** 2 / 2, dice() ** 2, dice() ** 2)

    def _go_on(self, pending: Pending, begun: list[Visit], weights: Weights) -> list[Visit]:
        visits, left, made = list(begun), dict(pending), frozenset[Kind]()
        for visit in begun:
            made = frozenset(kind for group in visit.groups for kind in self._cut(left, group))
        ready = self._ready(left)
        while left:
            at = self._next(left, ready, weights, made)
            visit, made, ready = self._visit(left, ready, at, made, visits[-1].cost if visits else 0)
            visits.append(visit)
        return visits

    def _next(self, left: Pending, ready: Ready, weights: Weights, made: frozenset[Kind]) -> int:
        """The next place of the rail."""
        size: dict[int, int] = {}
        work: dict[int, int] = {}
        follow: set[int] = set()
        for kind, _, count in ready:
            area, stacks = kind.width * kind.height, -(-count // self.stack)
            for at in kind.lengths:
                size[at] = max(size.get(at, 0), area)
                work[at] = work.get(at, 0) + stacks
            if kind in made:
                follow.update(kind.lengths)
        waiting: set[int] = set()
        ready_kinds = {kind for kind, _, _ in ready}
        for kind, _ in left:
            waiting |= self.below.lengths(kind) if kind in ready_kinds else self.below.all_lengths(kind)
        most = max(work.values())

        def worth(at: int) -> float:
            value = weights.size * size[at] / self._largest + weights.ends * (at not in waiting)
            value += weights.hand * (at in follow)
            return value + weights.work * work[at] / most + weights.chance * self.dice.random()

        places = sorted(work)
        if self.most_piles is not None and (piles := _piles(left)) + 1 >= self.most_piles:
            # The table is full: first whatever leaves the fewest piles.
            fewest = {at: min(piles + self._more(left, group) for group in self._groups(ready, at)) for at in places}
            places = [at for at in places if fewest[at] == min(fewest.values())]
        return max(places, key=worth)

    def _ready(self, left: Pending) -> Ready:
        """Parts of which no more come: alike parts are cut together."""
        coming = 0
        if self.wait:
            for kind, _ in left:
                coming |= self.below.kinds(kind)
        found = [(kind.number, sheet, kind, n) for (kind, sheet), n in left.items() if not coming >> kind.number & 1]
        # No two have the same number and sheet.
        return [(kind, sheet, n) for _, sheet, kind, n in sorted(found)]

    def _visit(
        self, left: Pending, ready: Ready, at: int, made: frozenset[Kind], cost: int
    ) -> tuple[Visit, frozenset[Kind], Ready]:
        """Cut everything at a place that can be; with what that gave, and what is ready then."""
        done: list[Group] = []
        new: set[Kind] = set()
        pace, saved = self.pace, False
        cost += pace.setting
        while groups := self._groups(ready, at):
            for group in self._with_room(left, groups, bool(done)):
                stacks = group.stacks(self.stack)
                cost += (pace.stack + pace.stroke * group.times) * stacks
                saved = saved or (not group.sheet and any(kind in made for kind, _ in group.taken))
                new |= self._cut(left, group)
                # A stack of one that the step before gave is in the hand still.
                if stacks == 1 and done and not group.sheet and self._gave(done[-1], group):
                    cost -= pace.stack
                done.append(group)
                if self.most_piles is not None:
                    cost += A_PILE_TOO_MANY * max(0, _piles(left) - self.most_piles)
            ready = self._ready(left)
            # With little room one at a time, as every one changes what there is room for; it ends where there is none.
            if self.most_piles is not None and not self._with_room(left, self._groups(ready, at), True):
                break
        return Visit(tuple(done), cost - (pace.stack if saved else 0)), frozenset(new), ready

    def _with_room(self, left: Pending, groups: list[Group], begun: bool) -> list[Group]:
        """All of them; with little room only one, the one that leaves the fewest piles, and none that leaves too many.

        At a new place something has to be cut, whatever it leaves.
        """
        if self.most_piles is None or not groups:
            return groups
        fewest = min(groups, key=lambda group: self._more(left, group))
        return [fewest] if not begun or _piles(left) + self._more(left, fewest) <= self.most_piles else []

    def _more(self, left: Pending, group: Group) -> int:
        """How many piles more there are when a group is cut."""
        taken = [kind for kind, _ in group.taken]
        piles_taken = () if group.sheet else taken
        made = {part for kind in taken for part, _ in self.kinds.cut(kind, group.at).gives if part.axis}
        new = sum(1 for part in made if (part, "") not in left or part in piles_taken)
        return new - len(piles_taken)

    def _gave(self, before: Group, group: Group) -> bool:
        given = {made for kind, _ in before.taken for made, _ in self.kinds.cut(kind, before.at).gives}
        return all(kind in given for kind, _ in group.taken)

    def _cut(self, left: Pending, group: Group) -> set[Kind]:
        """Take a group away and add what comes of it; the kinds of that."""
        new = set()
        for kind, n in group.taken:
            del left[kind, group.sheet]
            for made, each in self.kinds.cut(kind, group.at).gives:
                if made.axis:
                    left[made, ""] = left.get((made, ""), 0) + n * each
                    new.add(made)
        return new

    def _groups(self, ready: Ready, at: int) -> list[Group]:
        found: dict[tuple[Any, ...], list[Any]] = {}
        for kind, sheet, count in ready:
            if at in kind.lengths:
                key = (kind.width, kind.height, kind.axis, sheet, self.kinds.cut(kind, at).times)
                found.setdefault(key, []).append((kind, count))
        return [Group(at, tuple(taken), key[3], key[4]) for key, taken in found.items()]


def _piles(left: Pending) -> int:
    return sum(1 for _, sheet in left if not sheet)


class _Below:
    """What is cut below a kind of part, remembered."""

    def __init__(self) -> None:
        self._kinds: dict[Kind, int] = {}
        self._lengths: dict[Kind, frozenset[int]] = {}
        self._all_lengths: dict[Kind, frozenset[int]] = {}

    def kinds(self, kind: Kind) -> int:
        """All kinds below it that are cut, a bit for each at its number."""
        if kind not in self._kinds:
            self._kinds[kind] = 0
            for strip in kind.strips:
                self._kinds[kind] |= self.kinds(strip) | (1 << strip.number if strip.axis else 0)
        return self._kinds[kind]

    def lengths(self, kind: Kind) -> frozenset[int]:
        """The places at which they are cut."""
        if kind not in self._lengths:
            self._lengths[kind] = frozenset[int]().union(*map(self.all_lengths, kind.strips))
        return self._lengths[kind]

    def all_lengths(self, kind: Kind) -> frozenset[int]:
        """With its own."""
        if kind not in self._all_lengths:
            self._all_lengths[kind] = self.lengths(kind).union(kind.lengths)
        return self._all_lengths[kind]
