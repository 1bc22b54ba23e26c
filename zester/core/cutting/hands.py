"""The order of the steps at every place of the rail, so that a stack stays in the hand wherever it can.

Of a step in several stacks the last one is in the hand when it is done. If the next step cuts on what that stack
became, it need not be fetched: the step is begun with it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from zester.core.cutting.kinds import Kind, Kinds
from zester.core.cutting.order import Group

# Up to how many stacks are cut on one by one.
MOST_WOVEN = 100


@dataclass(frozen=True)
class Held:
    """A stack that is in the hand from one step to the next."""

    kind: Kind
    """What it is of now."""
    source: Kind
    """What it was cut from."""
    before: int
    """How many parts of that."""
    now: int
    """How many parts it has now."""


@dataclass(frozen=True)
class Action:
    """A group with what is in the hand when it is begun."""

    group: Group
    """What is cut."""
    held: Held | None
    """The stack in the hand, if it is cut on."""
    woven: bool = False
    """Whether every stack of the action before is cut on at once, before the next one is fetched."""


def woven(actions: list[Action], kinds: Kinds, stack: int) -> list[Action]:
    """The same, where steps at one place of the rail follow each other stack by stack: cut, turn, cut, next stack.

    A stack that could stay in the hand before and after such a pair is put down; which is quicker has to be counted.
    Of very many stacks it would be a list nobody reads.
    """
    hands, found = _Hands(kinds, stack), list(actions)
    index = 1
    while index < len(found):
        one, other = found[index - 1].group, found[index].group
        few = one.stacks(stack) <= MOST_WOVEN
        if few and one.at == other.at and hands.stack_by_stack(one, other):
            found[index - 1] = Action(one, None)
            found[index] = Action(other, None, woven=True)
            if index + 1 < len(found):
                found[index + 1] = Action(found[index + 1].group, None)
            index += 1
        index += 1
    return found


def in_order(visits: list[tuple[Group, ...]], kinds: Kinds, stack: int) -> list[Action]:
    """What is done at the places of the rail, one after the other."""
    hands = _Hands(kinds, stack)
    bridges = hands.bridges(visits)
    actions: list[Action] = []
    for index, groups in enumerate(visits):
        first = bridges[index - 1][1] if index else None
        last = bridges[index][0] if index < len(bridges) else None
        for group in hands.sequence(groups, first, last):
            before = actions[-1] if actions else None
            actions.append(Action(group, hands.held(before, group) if before else None))
    return actions


def bridgeable(visits: list[tuple[Group, ...]], kinds: Kinds, stack: int) -> list[bool]:
    """Between every two places whether a stack can stay in the hand."""
    hands = _Hands(kinds, stack)
    return [any(hands.pairs(place, after)) for place, after in pairwise(visits)]


class _Hands:
    def __init__(self, kinds: Kinds, stack: int):
        self.kinds, self.stack = kinds, stack
        self._gives: dict[int, tuple[Group, set[Kind]]] = {}

    def gives(self, group: Group) -> set[Kind]:
        """What comes off and is cut on."""
        # Asked very often; by identity, since what a group is told apart by is long.
        if id(group) not in self._gives:
            made = {made for kind, _ in group.taken for made, _ in self.kinds.cut(kind, group.at).gives if made.axis}
            self._gives[id(group)] = group, made
        return self._gives[id(group)][1]

    def stack_by_stack(self, one: Group, other: Group) -> bool:
        """Whether every stack of one is, without being taken apart, a stack of the other."""
        if len(one.taken) > 1 or len(other.taken) > 1 or other.sheet or one.stacks(self.stack) == 1:
            return False
        kind, count = other.taken[0]
        each = dict(self.kinds.cut(one.taken[0][0], one.at).gives).get(kind, 0)
        return each == 1 and count == one.count

    def follows(self, group: Group, before: Group) -> bool:
        """Whether a group cuts on something that another gave."""
        return not group.sheet and not self.gives(before).isdisjoint(kind for kind, _ in group.taken)

    def bridges(self, visits: list[tuple[Group, ...]]) -> list[tuple[Group | None, Group | None]]:
        """Between every two places the group that is done last and the one that is begun with, as many as can be.

        In a place with several groups the first and the last are different ones; dynamic programming over the places.
        """
        best: dict[Group | None, tuple[int, tuple[Any, ...]]] = {None: (0, ())}
        for place, after in pairwise(visits):
            found: dict[Group | None, tuple[int, tuple[Any, ...]]] = {}
            for last, first in [(None, None), *self.pairs(place, after)]:
                for begun, (score, chosen) in best.items():
                    clash = last is not None and last is begun and len(place) > 1
                    value = score + (last is not None)
                    if not clash and (first not in found or found[first][0] < value):
                        found[first] = value, (*chosen, (last, first))
            best = found
        return list(max(best.values(), key=lambda each: each[0])[1])

    def pairs(self, place: tuple[Group, ...], after: tuple[Group, ...]) -> Iterator[tuple[Group, Group]]:
        """The groups of two places between which a stack can stay in the hand."""
        lasts = [group for group in place if not any(self.follows(other, group) for other in place)]
        firsts = [group for group in after if not any(self.follows(group, other) for other in after)]
        for last in lasts:
            for first in firsts:
                if self.held(Action(last, None), first):
                    yield last, first

    def sequence(self, groups: tuple[Group, ...], first: Group | None, last: Group | None) -> Iterator[Group]:
        """One place's groups: what is in the hand first, what stays in it last, nothing before what it needs."""
        left, before = list(groups), None
        needs = {id(group): {id(other) for other in groups if self.follows(group, other)} for group in groups}
        while left:
            there = {id(group) for group in left}
            ready = [group for group in left if needs[id(group)].isdisjoint(there)]
            chosen = min(
                ready,
                key=lambda group: (
                    group is not first,
                    group is last,
                    before is None or not self.follows(group, before),
                    before is None or group.lot != before.lot,
                    -group.taken[0][0].width * group.taken[0][0].height,
                ),
            )
            left = [group for group in left if group is not chosen]
            before = chosen
            yield chosen

    def held(self, before: Action, group: Group) -> Held | None:
        """The largest stack in the hand with which a group can be begun, without needing a stack more for it."""
        if group.sheet:
            return None
        parts, stacks = before.group.count, before.group.stacks(self.stack)
        used = before.held if before.held is not None and stacks > 1 else None
        if used:
            parts, stacks = parts - used.now, stacks - 1
        least = max(1, parts - (stacks - 1) * self.stack)
        wanted, room = dict(group.taken), (group.stacks(self.stack) - 1) * self.stack
        found = None
        for kind, there in before.group.taken:
            mine = there - (used.now if used and used.kind is kind else 0)
            for made, each in self.kinds.cut(kind, before.group.at).gives:
                x = min(self.stack, mine)
                now = min(self.stack, x * each, wanted.get(made, 0))
                fits = x >= least or stacks == 1
                if now and fits and group.count - now <= room and (found is None or now > found.now):
                    found = Held(made, kind, x, now)
        return found
