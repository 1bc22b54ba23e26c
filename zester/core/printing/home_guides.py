"""Guides for those who cut at home: a portion or a sheet with numbered cuts, as large as the page has room for."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from zester.core.fitting.jobs.drawing import cut_lines, lay_parts
from zester.core.fitting.jobs.plan import Layout
from zester.core.lengths import TICKS_PER_MM, show_length, show_size

MM = TICKS_PER_MM


@dataclass(frozen=True, kw_only=True)
class HomeCut:
    """A numbered cut of a guide for home."""

    number: int
    """From 1, in the order in which it is cut."""
    x1: int
    """Ticks."""
    y1: int
    """Ticks."""
    x2: int
    """Ticks."""
    y2: int
    """Ticks."""
    words: str
    """What is done."""

    @property
    def cx(self) -> str:
        """Where its number stands, millimetres: not in the middle, where cuts cross."""
        return f"{(self.x1 + (self.x2 - self.x1) * 0.38) / MM:.3f}"

    @property
    def cy(self) -> str:
        """The same from above."""
        return f"{(self.y1 + (self.y2 - self.y1) * 0.38) / MM:.3f}"


@dataclass(frozen=True, kw_only=True)
class HomePart:
    """Where a piece comes from."""

    piece: str
    """Its handle."""
    name: str
    """What it is called."""
    x: int
    """Ticks."""
    y: int
    """Ticks."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""


@dataclass(frozen=True, kw_only=True)
class HomeGuide:
    """One portion, or whole sheet, that is cut up at home; drawn as large as the page has room for."""

    paper: str
    """The paper."""
    size: str
    """Its size."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    parts: tuple[HomePart, ...]
    """Where each piece goes."""
    cuts: tuple[HomeCut, ...]
    """The cuts."""
    way: str = ""
    """Which of several ways it is, in words; empty if there is one."""
    true_size: bool = False
    """Whether it is drawn as large as it is, where a page has room for that."""

    @property
    def is_true(self) -> bool:
        """Whether it is drawn as large as it is."""
        return self.true_size and self.width <= 180 * MM and self.height <= 165 * MM

    @property
    def counted(self) -> list[tuple[HomePart, int]]:
        """The pieces, each once with how many of it come out; of one name and two sizes each size by itself."""
        found: dict[tuple[str, int, int], list[HomePart]] = {}
        for part in self.parts:
            short, long = sorted((part.width, part.height))
            found.setdefault((part.piece, short, long), []).append(part)
        return [(parts[0], len(parts)) for parts in found.values()]

    @property
    def _share(self) -> float:
        """Of its real size, as it is drawn."""
        return 1.0 if self.is_true else min(165 * MM / self.width, 130 * MM / self.height)

    @property
    def shown_width(self) -> str:
        """How wide it is drawn, millimetres."""
        return f"{self.width * self._share / MM:.2f}"

    @property
    def shown_height(self) -> str:
        """How high."""
        return f"{self.height * self._share / MM:.2f}"

    @property
    def box(self) -> str:
        """The view box, millimetres of the paper."""
        rim = 0.3 / self._share
        return f"{-rim:.2f} {-rim:.2f} {self.width / MM + 2 * rim:.3f} {self.height / MM + 2 * rim:.3f}"

    @property
    def line(self) -> str:
        """How thick lines are, so that they come out alike on every page."""
        return f"{0.5 / self._share:.3f}"

    @property
    def letter(self) -> str:
        """How high letters are."""
        return f"{3.6 / self._share:.3f}"

    @property
    def down(self) -> str:
        """How far below the upper edge of a part its handle stands."""
        return f"{5 / self._share:.3f}"

    @property
    def dot(self) -> str:
        """How large the circle round a number is."""
        return f"{2.6 / self._share:.3f}"


def guide_for(paper: str, size: tuple[int, int], layout: Layout, names: Mapping[str, str], unit: str) -> HomeGuide:
    """The guide to cut up a sheet of this size (ticks) by a layout; ``names`` of the pieces by handle."""
    width, height = size
    parts = tuple(
        HomePart(
            piece=part.piece,
            name=names.get(part.piece, ""),
            x=part.x,
            y=part.y,
            width=part.width,
            height=part.height,
        )
        for part in lay_parts(layout, width, height)
        if not part.offcut
    )
    return HomeGuide(
        paper=paper,
        size=show_size(width, height, unit),
        width=width,
        height=height,
        parts=parts,
        cuts=tuple(_home_cuts(layout, width, height, unit)),
    )


def _home_cuts(layout: Layout, width: int, height: int, unit: str) -> Iterable[HomeCut]:
    for number, line in enumerate(cut_lines(layout, width, height), 1):
        at, edge = show_length(line.cut.at, unit), "left" if line.cut.axis == "x" else "upper"
        words = f"the part of {show_size(*line.box[2:], unit)} at {at} {unit} from its {edge} edge"
        yield HomeCut(number=number, x1=line.start[0], y1=line.start[1], x2=line.end[0], y2=line.end[1], words=words)
