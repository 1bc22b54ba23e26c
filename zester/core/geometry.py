"""Rectangles in ticks: a part of a piece, and whether one rectangle goes into another."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Window:
    """A rectangle inside a piece, such as a hidden middle."""

    x: int
    """Ticks from the piece's left edge."""
    y: int
    """Ticks from the piece's upper edge."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""


# Left, top, width and height, ticks.
Box = tuple[int, int, int, int]


def split(box: Box, axis: str, at: int) -> tuple[Box, Box]:
    """The two parts a cut right across makes: ``at`` ticks from the left edge (axis ``x``) or the upper one."""
    x, y, width, height = box
    if axis == "x":
        return (x, y, at, height), (x + at, y, width - at, height)
    return (x, y, width, at), (x, y + at, width, height - at)


def goes_in(width: int, height: int, wide: int, high: int, *, turn: bool) -> bool:
    """Whether width × height goes into wide × high (ticks), turned a quarter if it may."""
    return (width <= wide and height <= high) or (turn and height <= wide and width <= high)
