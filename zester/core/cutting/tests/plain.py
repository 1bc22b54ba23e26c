"""The plain order of steps, which the search is measured against.

A step comes only after everything it takes has been cut; among the steps that are ready one with the rail where it is
comes first, then the largest part. Parts are alike only if everything below them is cut the same way.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from zester.core.cutting.steps import PILE, WASTE, CutSteps, Result, Step, stack_sizes
from zester.core.fitting.jobs.job import PaperJob
from zester.core.fitting.jobs.plan import Layout, PaperPlan


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


def tree_of(layout: Layout, width: int, height: int) -> Node:
    """The tree of cuts of a layout on a sheet of this size."""
    cuts = {cut.part: cut for cut in layout.cuts}
    children = {cut.part: 2 * index + 1 for index, cut in enumerate(layout.cuts)}
    names = {named.part: named.piece for named in layout.parts}

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


def plain_steps(job: PaperJob, plan: PaperPlan, stack: int) -> CutSteps:
    """The steps of a paper's plan in the plain order; whose piece a part is it does not say."""
    return _Plain(job, plan, stack).run()


class _Plain:
    def __init__(self, job: PaperJob, plan: PaperPlan, stack: int):
        self.stack = stack
        self.nodes: dict[tuple, Node] = {}
        self.count: Counter = Counter()
        self.waits: dict[tuple, set] = {}
        self.sheet_of: dict[tuple, str] = {}
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
        label = self.piles.setdefault(key, str(len(self.piles) + 1)) if node.axis else ""
        return Result(kind=PILE if node.axis else WASTE, label=label, width=node.width, height=node.height, count=count)
