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


def goes_in(width: int, height: int, wide: int, high: int, *, turn: bool) -> bool:
    """Whether width × height goes into wide × high (ticks), turned a quarter if it may."""
    return (width <= wide and height <= high) or (turn and height <= wide and width <= high)
