"""Numbered steps at the trimmer for one paper.

Alike parts (same size, cut the same way below) are stacked over all layouts and copies. A part that is cut several
times at the same setting is one step with several cuts. A step comes only after everything it takes has been cut, and
among the steps that are ready one with the rail where it is comes first, then the largest part.

    the rail is set once    +----+----+----+---+
    at = 4, three cuts      | 4  | 4  | 4  |   |   the part is pushed up to the rail for every cut
                            +----+----+----+---+
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from zester.core.fitting.job import KeepRule, PaperJob
from zester.core.fitting.plan import Layout, PaperPlan

PIECE, PILE, KEEP, WASTE = "piece", "pile", "keep", "waste"
PORTION = "portion"


@dataclass(frozen=True, kw_only=True)
class Node:
    """A part in the tree of cuts."""

    width: int
    """Ticks."""
    height: int
    """Ticks."""
    axis: str = ""
    """``x`` or ``y`` if it is cut."""
    at: int = 0
    """Where, ticks from its left or upper edge."""
    first: Node | None = None
    """The left or upper part of a cut one."""
    second: Node | None = None
    """The other part."""
    piece: str = ""
    """Whose piece it is; empty for a cut part and for an offcut."""

    @property
    def key(self) -> tuple:
        """What makes parts alike; whose piece it is does not matter."""
        if not self.axis:
            return (self.width, self.height)
        return (self.width, self.height, self.axis, self.at, self.first.key, self.second.key)


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


@dataclass(frozen=True, kw_only=True)
class Pace:
    """How many seconds the work takes somebody. The numbers are common practice, without a source."""

    setting: int = 12
    """Setting the rail."""
    stack: int = 8
    """Fetching a stack and squaring it up."""
    stroke: int = 4
    """A stroke of the blade."""


DEFAULT_PACE = Pace()


@dataclass(frozen=True)
class CutSteps:
    """All steps of a paper."""

    steps: tuple[Step, ...]
    """In order."""

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
        before = (None, *self.steps)
        return sum(len(step.stacks) for last, step in zip(before, self.steps, strict=False) if not _in_hand(last, step))

    def seconds(self, pace: Pace = DEFAULT_PACE) -> int:
        """What all of it takes at that pace."""
        return pace.setting * self.settings + pace.stack * self.stacks + pace.stroke * self.strokes


def _in_hand(last: Step | None, step: Step) -> bool:
    """Whether a step takes, as one stack, only what the step just before gave."""
    if last is None or step.source != PILE or len(step.stacks) > 1:
        return False
    given = sum(each.count for each in last.results if (each.kind, each.label) == (PILE, step.source_label))
    return given == step.count


def tree_of(layout: Layout, width: int, height: int) -> Node:
    """The tree of cuts of a layout on a sheet of this size."""
    cuts = {cut.part: cut for cut in layout.cuts}
    children = {cut.part: 2 * index + 1 for index, cut in enumerate(layout.cuts)}
    names = {named.part: PORTION if named.portion else named.piece for named in layout.parts}

    def build(part: int, wide: int, high: int) -> Node:
        cut = cuts.get(part)
        if cut is None:
            return Node(width=wide, height=high, piece=names.get(part, ""))
        child = children[part]
        if cut.axis == "x":
            first, second = build(child, cut.at, high), build(child + 1, wide - cut.at, high)
        else:
            first, second = build(child, wide, cut.at), build(child + 1, wide, high - cut.at)
        return Node(width=wide, height=high, axis=cut.axis, at=cut.at, first=first, second=second)

    return build(0, width, height)


def stack_sizes(count: int, stack: int) -> tuple[int, ...]:
    """``count`` parts in as few stacks as can be, as even as can be: 7 by 3 gives 3, 2, 2."""
    stacks = -(-count // stack)
    small, larger = divmod(count, stacks)
    return (small + 1,) * larger + (small,) * (stacks - larger)


def cutting_steps(job: PaperJob, plan: PaperPlan, stack: int, keep: KeepRule) -> CutSteps:
    """The steps that cut a paper's plan; their strokes add up to what docs/formats.md defines."""
    return _Bench(job, plan, stack, keep).run()


class _Bench:
    def __init__(self, job: PaperJob, plan: PaperPlan, stack: int, keep: KeepRule):
        self.stack, self.keep = stack, keep
        self.nodes: dict[tuple, Node] = {}
        self.count: Counter = Counter()
        self.handles: dict[tuple, set[str]] = {}
        self.waits: dict[tuple, set] = {}
        self.sheet_of: dict[tuple, str] = {}
        self.offcuts: Counter = Counter()
        sheets = {sheet.id: sheet for sheet in job.sheets}
        for layout in plan.on_sheets:
            root = tree_of(layout, sheets[layout.sheet].width, sheets[layout.sheet].height)
            self.sheet_of[root.key] = layout.sheet
            self._note(root, layout.copies, None)
        self.piles: dict[tuple, str] = {}
        self.last_axis: dict[tuple, str] = {}

    def _note(self, node: Node, copies: int, parent: tuple | None) -> None:
        """Count a part and everything below it, and remember what has to be cut before it."""
        key = node.key
        self.nodes.setdefault(key, node)
        self.count[key] += copies
        if parent:
            self.waits.setdefault(key, set()).add(parent)
        if node.axis:
            self._note(node.first, copies, key)
            self._note(node.second, copies, key)
        elif node.piece:
            self.handles.setdefault(key, set()).add(node.piece)

    def run(self) -> CutSteps:
        steps: list[Step] = []
        open_keys = {key for key, node in self.nodes.items() if node.axis}
        rail = None
        while open_keys:
            ready = [key for key in open_keys if not self.waits.get(key, set()) & open_keys]
            key = min(ready, key=lambda k: (self.nodes[k].at != rail, -k[0] * k[1], k[:4], str(k)))
            chain = self._chain(key, open_keys)
            steps.append(self._step(len(steps) + 1, chain, rail))
            rail = self.nodes[key].at
            open_keys -= set(chain)
        return CutSteps(tuple(steps))

    def _chain(self, key: tuple, open_keys: set) -> list[tuple]:
        """The part and the rests of it that are cut on at the same setting."""
        chain = [key]
        while True:
            node = self.nodes[chain[-1]]
            rest = node.second
            alike = rest.axis == node.axis and rest.at == node.at
            if not alike or self.waits[rest.key] & open_keys - set(chain) or self.count[rest.key] != self.count[key]:
                return chain
            chain.append(rest.key)

    def _step(self, number: int, chain: list[tuple], rail: int | None) -> Step:
        node, key = self.nodes[chain[0]], chain[0]
        count = self.count[key]
        outcome: Counter = Counter()
        for link in chain:
            outcome[self.nodes[link].first.key] += count
        outcome[self.nodes[chain[-1]].second.key] += count
        for made in outcome:
            self.last_axis[made] = node.axis
        is_sheet = key in self.sheet_of and key not in self.piles
        return Step(
            number=number,
            source="sheet" if is_sheet else "pile",
            source_label=self.sheet_of[key] if is_sheet else self.piles[key],
            count=count,
            width=node.width,
            height=node.height,
            axis=node.axis,
            at=node.at,
            cuts=len(chain),
            stacks=stack_sizes(count, self.stack),
            moved=node.at != rail,
            turned=self.last_axis.get(key, node.axis) != node.axis,
            results=tuple(self._result(made, many) for made, many in outcome.items()),
        )

    def _result(self, key: tuple, count: int) -> Result:
        node = self.nodes[key]
        if node.axis:
            label = self.piles.setdefault(key, str(len(self.piles) + 1))
            return Result(kind=PILE, label=label, width=node.width, height=node.height, count=count)
        handles = self.handles.get(key)
        if handles:
            return Result(
                kind=PIECE,
                label=", ".join(sorted(handles, key=natural)),
                width=node.width,
                height=node.height,
                count=count,
            )
        kind = KEEP if self.keep.keeps(node.width, node.height) else WASTE
        return Result(kind=kind, label="", width=node.width, height=node.height, count=count)


def natural(handle: str) -> tuple:
    """Sort key that puts A2 before A10."""
    bare = handle.rstrip("′")
    letters = bare.rstrip("0123456789")
    digits = bare[len(letters) :]
    return (letters, int(digits) if digits else 0, handle)
