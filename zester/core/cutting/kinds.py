"""Parts at the trimmer, by kind: what a part is cut into matters, not which sheet it came from.

A part that is cut along one side is a row of strips; which strip is cut off first is free, only one remains at the
end and is not measured. That is what can bear to be off: what is left over, a strip that is trimmed flush later, or a
part with something to spare.

    | 4 | 4 | 2 | rest |    cut off at 4 twice and at 2, in either order; the rest is what remains

Where the order is not free (margins, matched rows, strips too narrow to be held) a cut is kept as it stands in the
plan, the first part measured.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from zester.core.fitting.jobs.job import NO_MARGINS, Margins, PaperJob, Sheet
from zester.core.fitting.jobs.plan import Layout, PaperPlan
from zester.core.geometry import Box, split

PORTION = "portion"


@dataclass(frozen=True, eq=False)
class Kind:
    """A kind of part. Two are the same kind if and only if they are the same object."""

    width: int
    """Ticks."""
    height: int
    """Ticks."""
    axis: str = ""
    """``x`` or ``y`` if it is cut."""
    strips: tuple[Kind, ...] = ()
    """What it is cut into, along that side."""
    remains: frozenset[Kind] = frozenset()
    """The strips that may be the one that is not measured."""
    use: str = ""
    """Of a part that is not cut: ``piece``, or empty if it is left over."""
    lay: str = ""
    """The edge of the part at which the top of the pattern lies, where the paper's direction matters."""
    unusable: Margins = NO_MARGINS
    """What of it lies in the margins of its sheet."""
    bears: bool = False
    """Of a piece: whether it may be off, as it is trimmed later."""
    lot: int = 0
    """Which paper it is of, where several are cut in one order."""
    number: int = 0
    """In the order in which kinds were met: what sorts them."""

    def length(self, axis: str) -> int:
        """Its side along an axis, in ticks."""
        return self.width if axis == "x" else self.height

    def slack(self, axis: str) -> bool:
        """Whether it may be a little off along an axis: nothing that counts is made of that side without measuring."""
        return self._slack[axis]

    @cached_property
    def _slack(self) -> dict[str, bool]:
        if not self.axis:
            return dict.fromkeys("xy", not self.use or self.bears)
        along = [strip for strip in self.remains if strip.slack(self.axis)]
        across = "y" if self.axis == "x" else "x"
        return {self.axis: bool(along), across: all(strip.slack(across) for strip in self.strips)}

    @cached_property
    def lengths(self) -> tuple[int, ...]:
        """The places of the rail at which it can be cut first."""
        return tuple(dict.fromkeys(strip.length(self.axis) for strip in self.strips if self._measurable(strip)))

    def _measurable(self, strip: Kind) -> bool:
        others = list(self.strips)
        others.remove(strip)
        return any(other in self.remains for other in others)

    def walk(self) -> Iterator[Kind]:
        """Itself and every part made of it, each as often as it is made."""
        yield self
        for strip in self.strips:
            yield from strip.walk()


@dataclass(frozen=True)
class Cutting:
    """What cutting a kind at one place comes to."""

    times: int
    """How often one part is cut there, pushed up every time."""
    off: tuple[tuple[Kind, int], ...]
    """What comes off, each with how many of it."""
    rest: Kind
    """What remains."""

    @cached_property
    def gives(self) -> tuple[tuple[Kind, int], ...]:
        """What one part gives in all."""
        return tuple((Counter(dict(self.off)) + Counter({self.rest: 1})).items())


class Kinds:
    """All kinds of a paper, or of several: alike parts are one object, those of two papers never."""

    def __init__(self) -> None:
        self._known: dict[tuple[Any, ...], Kind] = {}
        self._cuts: dict[tuple[Kind, int], Cutting] = {}

    def leaf(self, width: int, height: int, **known: Any) -> Kind:
        """A part that is not cut; ``known``: its use, its lay, whether it bears to be off, what of it is unusable."""
        key = (width, height, *sorted(known.items()))
        return self._same(key, width=width, height=height, **known)

    def row(
        self,
        axis: str,
        strips: Iterable[Kind],
        remains: Iterable[Kind] | None = None,
        unusable: Margins = NO_MARGINS,
    ) -> Kind:
        """A part cut into strips along an axis; ``remains`` are those that may remain, None: whichever bears it."""
        strips = tuple(sorted(strips, key=lambda strip: (-strip.length(axis), strip.number)))
        if remains is None:
            remains = [strip for strip in strips if not strip.axis and not strip.use]
            remains = remains or [strip for strip in strips if strip.slack(axis)] or strips
        remains = frozenset(remains)
        across = {"width": strips[0].width, "height": strips[0].height}
        across["width" if axis == "x" else "height"] = sum(strip.length(axis) for strip in strips)
        about = {"axis": axis, "strips": strips, "remains": remains, "lay": strips[0].lay, "unusable": unusable}
        about["lot"] = strips[0].lot
        return self._same(tuple(about.values()), **about, **across)

    def _same(self, key: tuple[Any, ...], **fields: Any) -> Kind:
        if key not in self._known:
            self._known[key] = Kind(number=len(self._known), **fields)
        return self._known[key]

    def cut(self, kind: Kind, at: int) -> Cutting:
        """Cut off, one after the other, all strips of that length; the strip that has to remain stays."""
        if (kind, at) not in self._cuts:
            self._cuts[kind, at] = self._cut(kind, at)
        return self._cuts[kind, at]

    def _cut(self, kind: Kind, at: int) -> Cutting:
        off = [strip for strip in kind.strips if strip.length(kind.axis) == at]
        rest = [strip for strip in kind.strips if strip.length(kind.axis) != at]
        if not any(strip in kind.remains for strip in rest):
            staying = next(strip for strip in reversed(off) if strip in kind.remains)
            off.remove(staying)
            rest.append(staying)
        last = rest[0] if len(rest) == 1 else self.row(kind.axis, rest, kind.remains.intersection(rest))
        return Cutting(len(off), tuple(Counter(off).items()), last)


@dataclass(frozen=True)
class Roots:
    """The sheets of a plan as kinds of parts."""

    kinds: Kinds
    """All kinds there are."""
    sheets: dict[tuple[Kind, str], int]
    """By kind and the sheet's id, how many are opened."""
    handles: dict[Kind, frozenset[str]]
    """Of kinds that are pieces: whose pieces they are."""


def roots_of(
    job: PaperJob,
    plan: PaperPlan,
    in_order: bool,
    bears: frozenset[str] = frozenset(),
    kinds: Kinds | None = None,
    lot: int = 0,
) -> Roots:
    """The sheets of a paper's plan.

    ``in_order``: no cut may change its place; ``bears``: the pieces that are trimmed later; ``kinds`` and ``lot``:
    where several papers are cut in one order, the kinds of those before, and the number of this one.
    """
    return _Reader(job, in_order, bears, kinds or Kinds(), lot).read(plan)


class _Reader:
    def __init__(self, job: PaperJob, in_order: bool, bears: frozenset[str], kinds: Kinds, lot: int):
        self.kinds, self.lot, self.in_order, self.bears = kinds, lot, in_order, bears
        self.sheets = {sheet.id: sheet for sheet in job.sheets}
        self.directed = any(not piece.turn for piece in job.pieces)
        self.matched = [Counter(row.pieces) for row in job.matched]
        self.handles: dict[Kind, set[str]] = {}

    def read(self, plan: PaperPlan) -> Roots:
        found: Counter[tuple[Kind, str]] = Counter()
        for layout in plan.on_sheets:
            found[self._root(layout), layout.sheet] += layout.copies
        return Roots(self.kinds, dict(found), {kind: frozenset(names) for kind, names in self.handles.items()})

    def _root(self, layout: Layout) -> Kind:
        sheet = self.sheets[layout.sheet]
        cuts = {cut.part: (cut, 2 * index + 1) for index, cut in enumerate(layout.cuts)}
        named = {each.part: PORTION if each.portion else each.piece for each in layout.parts}

        def build(part: int, box: Box) -> Kind:
            if part not in cuts:
                return self._leaf(box, named.get(part, ""), sheet)
            axis, strips = cuts[part][0].axis, [build(*each) for each in row(part, box)]
            over = _in_margins(box, sheet)
            if self.in_order or over != NO_MARGINS or matched(part):
                return self._in_order(axis, strips, over)
            return self.kinds.row(axis, strips)

        def row(part: int, box: Box) -> Iterator[tuple[int, Box]]:
            """The strips: the first part of every cut, and the second while it is cut on the same way."""
            first, axis = part, cuts[part][0].axis
            while part in cuts and cuts[part][0].axis == axis and (part == first or not matched(part)):
                cut, child = cuts[part]
                strip, box = split(box, axis, cut.at)
                yield child, strip
                part = child + 1
            yield part, box

        def matched(part: int) -> bool:
            return bool(self.matched) and Counter(names(part)) in self.matched

        def names(part: int) -> list[str]:
            if part not in cuts:
                return [named.get(part, "")]
            child = cuts[part][1]
            return names(child) + names(child + 1)

        return build(0, (0, 0, sheet.width, sheet.height))

    def _leaf(self, box: Box, name: str, sheet: Sheet) -> Kind:
        *_, width, height = box
        lay = sheet.up if self.directed else ""
        if not name:
            return self.kinds.leaf(width, height, lay=lay, lot=self.lot, unusable=_in_margins(box, sheet))
        kind = self.kinds.leaf(width, height, use="piece", lay=lay, lot=self.lot, bears=name in self.bears)
        self.handles.setdefault(kind, set()).add(name)
        return kind

    def _in_order(self, axis: str, strips: list[Kind], over: Margins) -> Kind:
        """Cut by cut as it stands: every time only what is left may remain."""
        whole, before = strips[-1], sum(strip.length(axis) for strip in strips[:-1])
        for strip in reversed(strips[:-1]):
            before -= strip.length(axis)
            near = "left" if axis == "x" else "top"
            mine = replace(over, **{near: max(0, getattr(over, near) - before)})
            whole = self.kinds.row(axis, (strip, whole), (whole,), mine)
        return whole


def _in_margins(box: Box, sheet: Sheet) -> Margins:
    """How much of a part lies in the margins: where those are cut off nothing may change its place."""
    x, y, width, height = box
    m = sheet.margins
    return Margins(
        min(width, max(0, m.left - x)),
        min(height, max(0, m.top - y)),
        min(width, max(0, x + width - (sheet.width - m.right))),
        min(height, max(0, y + height - (sheet.height - m.bottom))),
    )
