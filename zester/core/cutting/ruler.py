"""The ruler drawn at the mark: what the rail is set to, with the marks on both sides of it.

|        |   |       |   |   :   |   |       |
4                       4⅜   ^              4½     the lines as long as on a real ruler, the whole ones longest
"""

from __future__ import annotations

from dataclasses import dataclass

from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM, show_length

# Inches: every mark is so many sixty-fourths long apart; with sixteenths as the finest unless the mark needs finer.
_INCH_STEPS = (16, 32, 64)
_INCH_REACH, _MM_REACH = 9 * TICKS_PER_INCH // 16, 14 * TICKS_PER_MM


@dataclass(frozen=True)
class Mark:
    """One line of the ruler."""

    at: int
    """Ticks from the rail."""
    share: int
    """How long it is, in hundredths of the longest."""
    label: str
    """What is written on it; empty: nothing."""


@dataclass(frozen=True)
class RulerPart:
    """A part of the ruler around a mark."""

    start: int
    """Its left end, ticks from the rail."""
    end: int
    """Its right end."""
    marks: tuple[Mark, ...]
    """The lines."""
    at: int
    """Where the rail is set."""
    finest: str
    """What the closest lines are apart, in words."""


def ruler_at(at: int, unit: str) -> RulerPart:
    """The ruler around a place, zoomed so that neighbouring marks cannot be confused."""
    if unit == "mm":
        return _part(at, _MM_REACH, TICKS_PER_MM // 2 if at % TICKS_PER_MM else TICKS_PER_MM, unit)
    finest = next((each for each in _INCH_STEPS if at % (TICKS_PER_INCH // each) == 0), 64)
    return _part(at, _INCH_REACH * 16 // finest, TICKS_PER_INCH // finest, unit)


def _part(at: int, reach: int, step: int, unit: str) -> RulerPart:
    start, end = max(0, at - reach), at + reach
    first = -(-start // step) * step
    marks = tuple(_mark(place, step, unit) for place in range(first, end + 1, step))
    return RulerPart(
        start, end, marks, at, "half millimetres" if unit == "mm" and step < TICKS_PER_MM else _finest(step, unit)
    )


def _finest(step: int, unit: str) -> str:
    return (
        "millimetres"
        if unit == "mm"
        else {16: "sixteenths", 32: "thirty-seconds", 64: "sixty-fourths"}[TICKS_PER_INCH // step]
    )


def _mark(place: int, step: int, unit: str) -> Mark:
    if unit == "mm":
        if place % (10 * TICKS_PER_MM) == 0:
            return Mark(place, 100, str(place // TICKS_PER_MM))
        if place % (5 * TICKS_PER_MM) == 0:
            return Mark(place, 75, str(place // TICKS_PER_MM))
        return Mark(place, 50 if place % TICKS_PER_MM == 0 else 30, "")
    for parts, share in ((1, 100), (2, 80), (4, 64), (8, 50), (16, 36), (32, 25), (64, 16)):
        if place % (TICKS_PER_INCH // parts) == 0:
            named = parts <= 4 or (parts <= 8 and step < TICKS_PER_INCH // 16) or (parts == 8)
            return Mark(place, share, show_length(place, unit).replace(" in", "") if named else "")
    return Mark(place, 16, "")
