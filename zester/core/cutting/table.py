"""What lies on the table in the middle of the steps: piles to be cut, finished pieces, what is left over."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from zester.core.cutting.steps import PIECE, PILE, Result, Step
from zester.core.errors import JobError
from zester.core.fitting.jobs.job import NO_MARGINS, Margins, Sheet

LEFT = "L"


@dataclass(frozen=True, kw_only=True)
class Lying:
    """Parts of one kind that lie together."""

    kind: str
    """``pile`` (to be cut), ``piece``, ``keep`` or ``waste``."""
    label: str
    """The pile's name, or whose pieces they are; what is left over is numbered, with an L in front."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    count: int
    """How many."""
    up: str = "top"
    """The edge at which the top of the pattern lies."""
    unusable: Margins = NO_MARGINS
    """What of each lies in the margins of its sheet."""


@dataclass(frozen=True)
class Table:
    """What lies there."""

    lying: tuple[Lying, ...] = ()
    """Everything that was cut."""
    opened: dict[str, int] = field(default_factory=dict)
    """By a sheet's id how many were opened."""
    torn: dict[str, int] = field(default_factory=dict)
    """By a sheet's id how many that were not opened cannot be used."""

    def of(self, *kinds: str) -> list[Lying]:
        """What lies there of these kinds."""
        return [each for each in self.lying if each.kind in kinds]

    def without(self, kind: str, label: str, count: int, size: tuple[int, int] | None = None) -> Table:
        """So many fewer; raises JobError if there are not so many."""
        lying, left = [], count
        for each in self.lying:
            gone = 0
            if (each.kind, each.label) == (kind, label) and size in (None, (each.width, each.height)):
                gone = min(left, each.count)
            left -= gone
            if each.count > gone:
                lying.append(replace(each, count=each.count - gone))
        if left:
            raise JobError(f"There are not {count} of {label} on the table", mend="Say how many of those there are")
        return replace(self, lying=tuple(lying))

    def named(self, kind: str, label: str, count: int, piece: str) -> Table:
        """So many of what lies there are a piece as they are."""
        source = next(each for each in self.lying if (each.kind, each.label) == (kind, label))
        whole = replace(source, kind=PIECE, label=piece, count=count)
        return replace(self, lying=(*self.without(kind, label, count).lying, whole))

    def opening(self, sheet: Sheet, count: int, piece: str) -> Table:
        """So many sheets are opened that are a piece as they are."""
        whole = Lying(kind=PIECE, label=piece, width=sheet.width, height=sheet.height, count=count, up=sheet.up)
        opened = self.opened | {sheet.id: self.opened.get(sheet.id, 0) + count}
        return replace(self, lying=(*self.lying, whole), opened=opened)

    def after(self, steps: Iterable[Step]) -> Table:
        """After these steps, done to the letter. Raises JobError if one takes what is not there."""
        table = self
        for step in steps:
            table = table._cut(step)
        return table

    def _cut(self, step: Step) -> Table:
        opened = dict(self.opened)
        if step.source == PILE:
            kinds = [each.kind for each in self.lying if each.label == step.source_label and each.kind != PIECE]
            table = self.without(next(iter(kinds), PILE), step.source_label, step.count)
        else:
            table = self
            opened[step.source_label] = opened.get(step.source_label, 0) + step.count
        lying = list(table.lying)
        for result in step.results:
            _put(lying, result)
        return replace(table, lying=tuple(lying), opened=opened)


def _put(lying: list[Lying], result: Result) -> None:
    """Lay a result to what it belongs to."""
    label = result.label if result.kind in (PIECE, PILE) else ""
    about = result.width, result.height, result.up, result.unusable
    for index, each in enumerate(lying):
        same = (each.width, each.height, each.up, each.unusable) == about
        if each.kind == result.kind and same and label in ("", each.label):
            lying[index] = replace(each, count=each.count + result.count)
            return
    if not label:
        taken = {each.label for each in lying}
        label = next(f"{LEFT}{n}" for n in range(1, len(lying) + 2) if f"{LEFT}{n}" not in taken)
    lying.append(
        Lying(
            kind=result.kind,
            label=label,
            count=result.count,
            width=result.width,
            height=result.height,
            up=result.up,
            unusable=result.unusable,
        )
    )
