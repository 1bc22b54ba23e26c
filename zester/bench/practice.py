"""The practice sheet: three strips cut from scrap, and what they measured."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zester.bench.services import off_words
from zester.classes.models import Trimmer
from zester.core.errors import ZesterError
from zester.core.lengths import MILLIMETRES, SIXTY_FOURTHS, TICKS_PER_INCH, TICKS_PER_MM, parse_length

MARKS = {"in": ("1", "2½", "4¼"), "mm": ("25", "60", "110")}
# More than this is no error of the rail but another strip.
MOST_OFF = TICKS_PER_INCH // 4
# The page is cut along a line at this distance from its left edge first: no printer prints to the edge truly.
RIM = 127 * TICKS_PER_MM // 10
A_LITTLE = TICKS_PER_INCH // 64


@dataclass(frozen=True, kw_only=True)
class Strip:
    """One strip of the form."""

    name: str
    """Its field."""
    mark: str
    """What the rail was set to."""
    written: str
    """What was written."""
    problem: str
    """What is wrong with that; empty if nothing is."""


@dataclass(frozen=True, kw_only=True)
class Strips:
    """The form."""

    strips: tuple[Strip, ...]
    """Three of them."""
    now: str
    """What a cut may be off by, as it is reckoned with."""
    words: str
    """What was found and kept; empty if nothing was."""


def read_strips(trimmer: Trimmer, data: Mapping[str, str] | None) -> Strips:
    """The form, empty or as it was sent; what the strips measured is kept as the trimmer's error if it can be read."""
    ruler = SIXTY_FOURTHS if trimmer.unit == "in" else MILLIMETRES
    strips, off = [], []
    for number, mark in enumerate(MARKS[trimmer.unit]):
        written, problem = (data or {}).get(f"measured{number}", "").strip(), ""
        if data is not None:
            try:
                off.append(parse_length(written, ruler) - parse_length(mark, ruler))
                if abs(off[-1]) > MOST_OFF:
                    problem = f"That is far from {mark} {trimmer.unit}: is it the strip that was measured off?"
            except ZesterError as error:
                problem = error.text()
        strips.append(Strip(name=f"measured{number}", mark=mark, written=written, problem=problem))
    kept = ""
    if data is not None and not any(strip.problem for strip in strips):
        trimmer.error = max(abs(each) for each in off)
        trimmer.save(update_fields=["error"])
        kept = _found(trimmer, off)
    now = off_words(trimmer.error, trimmer.unit) if trimmer.error else "nothing"
    return Strips(strips=tuple(strips), now=now, words=kept)


def _found(trimmer: Trimmer, off: list[int]) -> str:
    if not trimmer.error:
        return f"{trimmer.name}: all three strips are right to the mark."
    words = f"{trimmer.name}: a cut may be off by {off_words(trimmer.error, trimmer.unit)}; the steps reckon with it."
    if min(off) > A_LITTLE or max(off) < -A_LITTLE:
        words += f" All three came out too {'wide' if min(off) > 0 else 'narrow'}: set its zero as its maker says."
    return words


def practice_marks(unit: str) -> list[dict]:
    """The three cuts of the practice sheet with marks on both sides: how far off the blade fell is read beside it."""
    ruler = SIXTY_FOURTHS if unit == "in" else MILLIMETRES
    step = TICKS_PER_INCH // 32 if unit == "in" else TICKS_PER_MM // 2
    rows = []
    for number, mark in enumerate(MARKS[unit]):
        at = parse_length(mark, ruler)
        lines = [
            {"x": RIM + at + k * step, "long": k % 4 == 0, "words": _sign(k) if k in (-4, 0, 4) else ""}
            for k in range(-8, 9)
        ]
        rows.append({"mark": f"{mark} {unit}", "lines": lines, "top": 45 + 70 * number})
    return rows


def _sign(steps: int) -> str:
    return "0" if not steps else f"{'+' if steps > 0 else '−'}{abs(steps)}"
