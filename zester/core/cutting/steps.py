"""Numbered steps at the trimmer for one paper.

Alike parts are stacked over all layouts and copies. A part that is cut several times at the same setting is one step
with several cuts; parts that differ only in what is cut of them later are cut together and sorted into piles then.
The order is that of ``order.py``; here its actions become steps, and piles get their names.

    the rail is set once    +----+----+----+---+
    at = 4, three cuts      | 4  | 4  | 4  |   |   the part is pushed up to the rail for every cut
                            +----+----+----+---+
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from hashlib import blake2b
from typing import Any

from zester.core.cutting.habits import USUAL, Habits
from zester.core.cutting.hands import Action, in_order, woven
from zester.core.cutting.kinds import Kind, Roots, roots_of
from zester.core.cutting.order import Search, places_needed
from zester.core.fitting.jobs.job import NO_MARGINS, Bench, KeepRule, Margins, PaperJob
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.patterns.strokes import plan_strokes
from zester.core.pace import DEFAULT_PACE, Pace

PIECE, PILE, KEEP, WASTE = "piece", "pile", "keep", "waste"
SHEET = "sheet"


@dataclass(frozen=True, kw_only=True)
class Result:
    """What a step yields of one size."""

    kind: str
    """``piece``, ``pile``, ``keep`` or ``waste``."""
    label: str
    """The pieces' handles, or the number of the pile."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    count: int
    """How many parts."""
    rest: int = 0
    """How many of them, at most, are what remained and was not measured."""
    up: str = "top"
    """The edge at which the top of the pattern lies, where that matters."""
    unusable: Margins = NO_MARGINS
    """What of each lies in the margins of its sheet."""


@dataclass(frozen=True, kw_only=True)
class Step:
    """One setting of the rail."""

    number: int
    """From 1."""
    source: str
    """What is taken: ``sheet`` or ``pile``."""
    source_label: str
    """The sheet's id or the pile's number."""
    count: int
    """How many parts are taken."""
    width: int
    """Of each, ticks."""
    height: int
    """Of each, ticks."""
    axis: str
    """The side the cut is measured along: ``x`` the width, ``y`` the height."""
    at: int
    """Ticks from the rail."""
    cuts: int
    """How many times each part is cut, pushed up again every time."""
    stacks: tuple[int, ...]
    """The sizes of the stacks."""
    moved: bool
    """Whether the rail has to be set anew."""
    turned: bool
    """Whether the parts get a quarter turn since they were cut last."""
    results: tuple[Result, ...]
    """What comes off."""
    held: bool = False
    """Whether it takes the stack that is in the hand still."""
    exact: bool = False
    """Whether nothing is to spare: what remains is, or becomes, a piece along the side that is measured."""
    bears: bool = False
    """Whether what remains is a piece that may be off, as it is trimmed later."""

    @property
    def side(self) -> int:
        """The side the cut is measured along, in ticks."""
        return self.width if self.axis == "x" else self.height

    @property
    def other_side(self) -> int:
        """The side the blade runs along, in ticks."""
        return self.height if self.axis == "x" else self.width

    @property
    def strokes(self) -> int:
        """Strokes of the blade."""
        return self.cuts * len(self.stacks)


@dataclass(frozen=True)
class CutSteps:
    """All steps of a paper."""

    steps: tuple[Step, ...]
    """In order."""
    places: int = 0
    """The fewest different places of the rail with which it can be cut at all."""

    @property
    def strokes(self) -> int:
        """Strokes of the blade in all."""
        return sum(step.strokes for step in self.steps)

    @property
    def settings(self) -> int:
        """How many times the rail is moved."""
        return sum(step.moved for step in self.steps)

    @property
    def stacks(self) -> int:
        """How many times a stack is fetched: not where the one that was just made is cut on in the hand."""
        return sum(stacks for _, stacks, _ in self.work)

    @property
    def work(self) -> list[tuple[int, int, int]]:
        """Of every step: how often the rail is set, how many stacks are fetched, how many strokes."""
        before = (None, *self.steps)
        return [work_of(last, step) for last, step in zip(before, self.steps, strict=False)]

    @property
    def key(self) -> str:
        """What these steps are told from others of the same plan by."""
        told = "".join(f"{step.source_label}{step.axis}{step.at}{step.count}" for step in self.steps)
        return blake2b(told.encode(), digest_size=8).hexdigest()

    def each_seconds(self, pace: Pace = DEFAULT_PACE) -> list[int]:
        """What every step takes at that pace."""
        return [seconds_of_work(each, pace) for each in self.work]

    @property
    def most_piles(self) -> int:
        """How many piles wait on the table at once, at the most; a stack that stays in the hand does not."""
        lying, most = set(), 0
        for step, after in zip(self.steps, (*self.steps[1:], None), strict=False):
            lying.discard(step.source_label if step.source == PILE else "")
            lying |= {result.label for result in step.results if result.kind == PILE}
            most = max(most, len(lying - {after.source_label if after and after.held else ""}))
        return most

    def seconds(self, pace: Pace = DEFAULT_PACE) -> int:
        """What all of it takes at that pace."""
        return pace.setting * self.settings + pace.stack * self.stacks + pace.stroke * self.strokes


def work_of(last: Step | None, step: Step) -> tuple[int, int, int]:
    """Of a step after another: how often the rail is set, how many stacks are fetched, how many strokes."""
    return int(step.moved), 0 if stays_in_hand(last, step) else len(step.stacks), step.strokes


def seconds_of_work(work: tuple[int, int, int], pace: Pace) -> int:
    """What that takes."""
    moved, stacks, strokes = work
    return pace.setting * moved + pace.stack * stacks + pace.stroke * strokes


def stays_in_hand(last: Step | None, step: Step) -> bool:
    """Whether a step takes, as one stack, only what the step just before gave."""
    if last is None or step.source != PILE or len(step.stacks) > 1:
        return False
    given = sum(each.count for each in last.results if (each.kind, each.label) == (PILE, step.source_label))
    return given == step.count


def stack_sizes(count: int, stack: int) -> tuple[int, ...]:
    """``count`` parts in as few stacks as can be, as even as can be: 7 by 3 gives 3, 2, 2."""
    stacks = -(-count // stack)
    small, larger = divmod(count, stacks)
    return (small + 1,) * larger + (small,) * (stacks - larger)


def cutting_steps(
    job: PaperJob, plan: PaperPlan, bench: Bench, habits: Habits = USUAL, thorough: bool = True
) -> CutSteps:
    """The quickest steps found that cut a paper's plan the way somebody cuts.

    ``thorough``: whether there is time to look for long. The strokes are no more than docs/formats.md defines, unless
    there is no room for the piles otherwise.
    """
    orders = (True,) if bench.limits.hold else (False, True)
    ways = [roots_of(job, plan, each, habits.bears) for each in orders]
    promised = plan_strokes(job, plan, bench.stack)
    best = CutSteps(())
    for way, room, wait in _tries(ways, habits.most_piles):
        found = []
        for visits in Search(way, bench.stack, habits.pace, room, thorough, wait).run():
            actions = in_order(visits, way.kinds, bench.stack)
            writer = Writer(way, bench.stack, bench.keep_rule)
            found.append(writer.write(actions))
            other = woven(actions, way.kinds, bench.stack)
            if other != actions:
                found.append(writer.write(other))
            if room is not None:
                # With everything put down no pile is parted in two.
                found.append(writer.write([Action(group, None) for groups in visits for group in groups]))
        if found:
            best = min(found if not best.steps else [best, *found], key=_rank(promised, habits))
        if best.strokes <= promised and (habits.most_piles is None or best.most_piles <= habits.most_piles):
            break
    return replace(best, places=places_needed(ways[0]))


def _tries(ways: list[Roots], most_piles: int | None) -> list[tuple[Roots, int | None, bool]]:
    """What is searched one after the other, until the steps are as they should be.

    The roots, the room for piles, whether alike parts wait for each other. Where there is little room it may be that
    not all alike parts can wait for each other.
    """
    if most_piles is None:
        return [(way, None, True) for way in ways]
    # A stack that stays in the hand parts a pile in two, so a pile less may have to be planned with.
    less = max(2, most_piles - 1)
    tight = [(way, room, True) for room in (most_piles, less) for way in ways]
    return [(ways[0], None, True), *tight, (ways[-1], less, False)]


def _rank(promised: int, habits: Habits) -> Callable[[CutSteps], tuple[Any, ...]]:
    """What makes steps better: room for the piles, no more strokes than promised, the time, fewer steps."""

    def rank(steps: CutSteps) -> tuple[Any, ...]:
        too_many = max(0, steps.most_piles - habits.most_piles) if habits.most_piles is not None else 0
        return too_many, max(0, steps.strokes - promised), steps.seconds(habits.pace), len(steps.steps)

    return rank


@dataclass(frozen=True)
class _MinutesJudge:
    """Can be sent to another process."""

    habits: Habits

    def __call__(self, job: PaperJob, plan: PaperPlan, bench: Bench) -> int:
        return cutting_steps(job, plan, bench, self.habits).seconds(self.habits.pace)


def minutes_judge(habits: Habits = USUAL) -> Callable[[PaperJob, PaperPlan, Bench], int]:
    """What tells the seconds a paper's plan takes somebody, its steps in the best order found."""
    return _MinutesJudge(habits)


@dataclass
class _Draft:
    """A step whose piles have no names yet. Every step takes a pile of its own, all of it."""

    at: int
    """The place of the rail."""
    taken: Counter[Kind]
    """Kinds and how many."""
    sheet: str
    """The sheet's id; empty for a pile."""
    stacks: tuple[int, ...]
    """The sizes of the stacks."""
    held: bool
    """Whether it takes the stack that is in the hand."""


# By the step that makes parts and their kind: the steps that take of them, and how many.
_Takes = dict[tuple[int, Kind], list[tuple[int, int]]]


class Writer:
    """Actions written out as steps, of one paper or of several."""

    def __init__(self, roots: Roots, stack: int, keep: KeepRule):
        self.roots, self.stack, self.keep = roots, stack, keep

    def write(self, actions: list[Action]) -> CutSteps:
        """The steps."""
        return CutSteps(tuple(step for step, _ in self.write_lots(actions)))

    def write_lots(self, actions: list[Action]) -> list[tuple[Step, int]]:
        """The steps, each with the paper it is of."""
        drafts: list[_Draft] = []
        for index, action in enumerate(actions):
            made = self._drafts(actions, index)
            if action.woven:
                drafts[-1:] = self._woven(drafts[-1], made[0])
            else:
                drafts += made
        takes = self._takes(drafts)
        axes: dict[int, set[str]] = {}
        for (source, _), given in takes.items():
            for pile, _ in given:
                axes.setdefault(pile, set()).add(next(iter(drafts[source].taken)).axis)
        labels: dict[int, str] = {}
        steps, rail = [], None
        for index, draft in enumerate(drafts):
            results = self._results(index, draft, takes, labels)
            steps.append(self._step(index, draft, results, labels.get(index, ""), axes.get(index, set()), rail))
            rail = draft.at
        return [(step, next(iter(draft.taken)).lot) for step, draft in zip(steps, drafts, strict=True)]

    def _drafts(self, actions: list[Action], index: int) -> list[_Draft]:
        """An action in up to three steps: the stack in the hand, the others, the one that stays in the hand."""
        group, held = actions[index].group, actions[index].held
        after = actions[index + 1].held if index + 1 < len(actions) else None
        rest, stacks = Counter(dict(group.taken)), group.stacks(self.stack)
        first, last = Counter[Kind](), Counter[Kind]()
        if held:
            first[held.kind] = held.now
            rest, stacks = rest - first, stacks - 1
        if after and stacks:
            last = rest if stacks == 1 else Counter({after.source: after.before})
            rest, stacks = rest - last, stacks - 1
        found = []
        for taken, number, in_hand in ((first, 1, True), (rest, stacks, False), (last, 1, False)):
            if taken:
                sizes = stack_sizes(taken.total(), -(-taken.total() // number))
                found.append(_Draft(taken=taken, stacks=sizes, held=in_hand, at=group.at, sheet=group.sheet))
        return found

    @staticmethod
    def _woven(one: _Draft, other: _Draft) -> list[_Draft]:
        """Two steps stack by stack."""
        found = []
        for size in one.stacks:
            for draft in (one, other):
                kind = next(iter(draft.taken))
                found.append(replace(draft, taken=Counter({kind: size}), stacks=(size,), held=draft is other))
        return found

    def _takes(self, drafts: list[_Draft]) -> _Takes:
        """Who takes what a step makes: by step and kind, the steps that take of it and how many."""
        found: _Takes = {}
        # First the stacks in the hand have what is theirs, then the others what is left of the steps before them.
        for in_hand in (True, False):
            made: dict[Kind, list[tuple[int, int]]] = {}
            for index, draft in enumerate(drafts):
                if not draft.sheet and draft.held == in_hand:
                    for kind, count in draft.taken.items():
                        lots = made[kind]
                        made[kind] = lots[:-1] if in_hand else []
                        made[kind] += self._give(found, lots[-1:] if in_hand else lots, kind, count, index)
                for kind, count in self._gives(draft).items():
                    if kind.axis:
                        gone = 0 if in_hand else sum(n for _, n in found.get((index, kind), ()))
                        made.setdefault(kind, []).append((index, count - gone))
        return found

    @staticmethod
    def _give(
        found: _Takes, lots: list[tuple[int, int]], kind: Kind, count: int, taker: int
    ) -> Iterator[tuple[int, int]]:
        """Give a step its parts out of lots (step that made them, how many); what is left of the lots."""
        for source, there in lots:
            many = min(there, count)
            if many:
                found.setdefault((source, kind), []).append((taker, many))
            count -= many
            yield source, there - many
        if count:
            raise AssertionError("a step takes what nobody has made")

    def _gives(self, draft: _Draft) -> Counter[Kind]:
        found: Counter[Kind] = Counter()
        for kind, count in draft.taken.items():
            for made, each in self.roots.kinds.cut(kind, draft.at).gives:
                found[made] += count * each
        return found

    def _step(
        self, index: int, draft: _Draft, results: list[Result], label: str, axes: set[str], rail: int | None
    ) -> Step:
        kind = next(iter(draft.taken))
        rests = [self.roots.kinds.cut(each, draft.at).rest for each in draft.taken]
        return Step(
            number=index + 1,
            source=SHEET if draft.sheet else PILE,
            source_label=draft.sheet or label,
            count=draft.taken.total(),
            width=kind.width,
            height=kind.height,
            axis=kind.axis,
            at=draft.at,
            cuts=self.roots.kinds.cut(kind, draft.at).times,
            stacks=draft.stacks,
            moved=draft.at != rail,
            turned=bool(axes - {kind.axis}),
            held=draft.held,
            exact=not all(rest.slack(kind.axis) for rest in rests),
            bears=any(rest.use and rest.bears for rest in rests),
            results=tuple(_together(results)),
        )

    def _results(self, index: int, draft: _Draft, takes: _Takes, labels: dict[int, str]) -> list[Result]:
        found = []
        for kind, count in draft.taken.items():
            cutting = self.roots.kinds.cut(kind, draft.at)
            left = {(made, False): count * each for made, each in cutting.off}
            left[cutting.rest, True] = count
            found += [(made, remains, many) for (made, remains), many in left.items()]
        results = []
        for made in dict.fromkeys(kind for kind, _, _ in found):
            total = sum(many for kind, _, many in found if kind is made)
            rest = sum(many for kind, remains, many in found if kind is made and remains)
            results += self._sorted(made, total, rest, takes.get((index, made), ()), labels)
        return results

    def _sorted(
        self, kind: Kind, count: int, rest: int, piles: Iterable[tuple[int, int]], labels: dict[int, str]
    ) -> list[Result]:
        """What comes of a kind, by the pile it goes to; ``rest`` of it are what remained."""

        def result(what: str, label: str, many: int, remained: int) -> Result:
            return Result(
                kind=what,
                label=label,
                count=many,
                rest=remained,
                width=kind.width,
                height=kind.height,
                up=kind.lay or "top",
                unusable=kind.unusable,
            )

        if kind.axis:
            named = [(labels.setdefault(pile, str(len(labels) + 1)), many) for pile, many in piles]
            # Which of them remained nobody knows any more.
            return [result(PILE, name, many, min(rest, many)) for name, many in named]
        if kind.use:
            names = ", ".join(sorted(self.roots.handles[kind], key=natural))
            return [result(PIECE, names, count, rest)]
        kept = KEEP if self.keep.keeps(kind.width, kind.height) else WASTE
        return [result(kept, "", count, rest)]


def _together(results: list[Result]) -> list[Result]:
    """Results of one pile as one."""
    found: dict[tuple[Any, ...], Result] = {}
    for each in results:
        key = (each.kind, each.label, each.width, each.height)
        before = found.get(key)
        found[key] = replace(each, count=each.count + before.count, rest=each.rest + before.rest) if before else each
    return list(found.values())


def natural(handle: str) -> tuple[Any, ...]:
    """Sort key that puts A2 before A10."""
    bare = handle.rstrip("′")
    letters = bare.rstrip("0123456789")
    digits = bare[len(letters) :]
    return (letters, int(digits) if digits else 0, handle)
