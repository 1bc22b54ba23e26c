"""Tools drawn to one scale from their sizes, so that they can be told apart beside each other."""

from __future__ import annotations

from dataclasses import dataclass

from zester.core.cards.outlines import path_of
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.designs.models import Tool

# How many CSS pixels an inch is drawn.
SCALE = 22


@dataclass(frozen=True)
class ToolDrawing:
    """One tool: its outlines within each other, on a common ground."""

    width: int
    """Of the drawing, ticks."""
    height: int
    """Of the drawing, ticks."""
    paths: tuple[str, ...]
    """An outline for each size in millimetres, the largest first."""

    @property
    def box(self) -> str:
        """The part of the plane that is shown, millimetres, half of one more all round for the lines."""
        return f"-0.5 -0.5 {self.width / TICKS_PER_MM + 1:g} {self.height / TICKS_PER_MM + 1:g}"

    @property
    def pixels(self) -> tuple[int, ...]:
        """Width and height on the screen."""
        return tuple(round(side * SCALE / TICKS_PER_INCH) + 2 for side in (self.width, self.height))


def drawing_of(tool: Tool) -> ToolDrawing | None:
    """The tool as it lies there; nothing of one without a size."""
    kind = tool.shape if tool.sizes else "rectangle"
    sizes = [tuple(size) for size in tool.sizes] or (
        [(tool.largest_width, tool.largest_height)] if tool.largest_width and tool.largest_height else []
    )
    if not sizes:
        return None
    width, height = (max(side) for side in zip(*sizes, strict=True))
    nested = sorted(sizes, key=lambda size: -size[0] * size[1])
    paths = tuple(path_of(kind, across, down, (width - across) // 2, height - down) for across, down in nested)
    return ToolDrawing(width, height, paths)
