"""The ruler drawn at the mark: what the rail is set to, with the marks on both sides of it.

|        |   |       |   |   :   |   |       |
4                       4⅜   ^              4½     the lines as long as on a real ruler, the whole ones longest
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM, on_inch_marks, show_length

# Sixteenths are the finest lines unless the mark needs finer ones.
NAMES = {16: "sixteenths", 32: "thirty-seconds", 64: "sixty-fourths"}
# By the part of an inch how long its line is.
LONG = ((1, 100), (2, 80), (4, 64), (8, 50), (16, 36), (32, 25), (64, 16))
_INCH_REACH, _MM_REACH = TICKS_PER_INCH, 24 * TICKS_PER_MM
# How high the ruler is drawn, and its longest line, as shares of how wide it is.
_HIGH, _LONGEST, _ARROW = 0.26, 0.15, 0.12


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
    unit: str
    """``in`` or ``mm``: what it is a ruler of."""

    @property
    def width(self) -> int:
        """How much of it is drawn, ticks."""
        return self.end - self.start

    @property
    def _wide(self) -> float:
        return self.width / TICKS_PER_MM

    @property
    def box(self) -> str:
        """The view box, millimetres: above the ruler there is room for the arrow and what it says."""
        left, wide = self.start / TICKS_PER_MM, self._wide
        return f"{left:.3f} {-_ARROW * wide:.3f} {wide:.3f} {(_HIGH + _ARROW) * wide:.3f}"

    @property
    def high(self) -> str:
        """How high the ruler is drawn, millimetres."""
        return f"{_HIGH * self._wide:.3f}"

    @property
    def letter(self) -> str:
        """How high its letters are, millimetres: so that those of neighbouring marks do not touch."""
        # From 10 in on the words are half as long again.
        longer = self.unit == "in" and self.end >= 10 * TICKS_PER_INCH
        return f"{self._wide / (38 if longer else 31):.3f}"

    @property
    def line(self) -> str:
        """How thick its lines are."""
        return f"{self._wide / 260:.3f}"

    @property
    def drawn(self) -> list[tuple[Mark, str, str]]:
        """Every line with how long it is drawn and where its words stand, millimetres; the mark has none."""
        found = []
        for mark in self.marks:
            length = _LONGEST * self._wide * mark.share / 100
            # The mark itself is named above; words at the ends would be cut off.
            near_end = min(mark.at - self.start, self.end - mark.at) * 20 < self.width
            words = replace(mark, label="") if mark.at == self.at or near_end else mark
            found.append((words, f"{length:.3f}", f"{length + self._wide / 80:.3f}"))
        return found

    @property
    def arrow(self) -> str:
        """The arrow down to the mark, as a path in millimetres."""
        half = self._wide / 50
        return f"M{self.at / TICKS_PER_MM:.3f} 0l{-half:.3f} {-1.6 * half:.3f}h{2 * half:.3f}z"

    @property
    def over_arrow(self) -> str:
        """Where the words above the arrow stand, millimetres."""
        return f"{-self._wide / 50 * 2.1:.3f}"

    @property
    def large(self) -> str:
        """How high those are."""
        return f"{self._wide / 17:.3f}"


@lru_cache(maxsize=1024)
def ruler_at(at: int, unit: str) -> RulerPart:
    """The ruler around a place, zoomed so that neighbouring marks cannot be confused.

    A length that is on no inch mark is shown in millimetres.
    """
    if unit == "in" and on_inch_marks(at):
        finest = next(each for each in NAMES if at % (TICKS_PER_INCH // each) == 0)
        return _part(at, _INCH_REACH * 16 // finest, TICKS_PER_INCH // finest, "in", NAMES[finest])
    if at % TICKS_PER_MM:
        return _part(at, _MM_REACH, TICKS_PER_MM // 2, "mm", "half millimetres")
    return _part(at, _MM_REACH, TICKS_PER_MM, "mm", "millimetres")


def _part(at: int, reach: int, step: int, unit: str, finest: str) -> RulerPart:
    start, end = max(0, at - reach), at + reach
    marks = tuple(_mark(place, step, unit) for place in range(-(-start // step) * step, end + 1, step))
    return RulerPart(start, end, marks, at, finest, unit)


def _mark(place: int, step: int, unit: str) -> Mark:
    if unit == "mm":
        return _mm_mark(place)
    parts, share = next((parts, share) for parts, share in LONG if place % (TICKS_PER_INCH // parts) == 0)
    named = parts <= 8 or (parts == 16 and step < TICKS_PER_INCH // 16)
    return Mark(place, share, show_length(place, "in") if named else "")


def _mm_mark(place: int) -> Mark:
    number = str(place // TICKS_PER_MM)
    if place % (10 * TICKS_PER_MM) == 0:
        return Mark(place, 100, number)
    if place % (5 * TICKS_PER_MM) == 0:
        return Mark(place, 75, number)
    return Mark(place, 50 if place % TICKS_PER_MM == 0 else 30, "")
