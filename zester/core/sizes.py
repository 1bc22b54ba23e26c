"""Standard sheet sizes, in ticks, with where each comes from.

ISO 216:2007 gives the A series in whole millimetres: each size halves the one before across its longer side,
rounded down. US letter and tabloid are those of ANSI/ASME Y14.1 (sizes A and B). Square craft sheets are common
practice and have no standard.
"""

from __future__ import annotations

from dataclasses import dataclass

from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM


@dataclass(frozen=True)
class SheetSize:
    """A named sheet: ``width`` and ``height`` in ticks, ``unit`` the one it is defined in."""

    key: str
    name: str
    width: int
    height: int
    unit: str


def iso_a(number: int) -> tuple[int, int]:
    """Width and height of ISO 216 size A``number`` in whole millimetres, halved down from A0 = 841 × 1189 mm."""
    width, height = 841, 1189
    for _ in range(number):
        width, height = height // 2, width
    return width, height


def _inch(key: str, name: str, width_halves: int, height_halves: int) -> SheetSize:
    half = TICKS_PER_INCH // 2
    return SheetSize(key, name, width_halves * half, height_halves * half, "in")


def _metric(key: str, number: int) -> SheetSize:
    width, height = iso_a(number)
    return SheetSize(key, f"A{number}", width * TICKS_PER_MM, height * TICKS_PER_MM, "mm")


SHEET_SIZES = {
    size.key: size
    for size in (
        _inch("letter", "letter", 17, 22),
        _inch("tabloid", "tabloid", 22, 34),
        _metric("a4", 4),
        _metric("a3", 3),
        _inch("12x12", "12 × 12", 24, 24),
        _inch("8x8", "8 × 8", 16, 16),
        _inch("6x6", "6 × 6", 12, 12),
    )
}
