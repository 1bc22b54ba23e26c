"""Standard sizes of sheets, envelopes and gift cards, in ticks, with where each comes from.

ISO 216:2007 gives the A series in whole millimetres: each size halves the one before across its longer side,
rounded down. US letter and tabloid are those of ANSI/ASME Y14.1 (sizes A and B). Square craft sheets are common
practice and have no standard.

Envelopes: ISO 269:1985. Its C series starts from the geometric mean of A0 and B0, 917 × 1297 mm, and halves like the A
series; to it come DL, B6 and two long sizes. US envelopes are common practice of the trade, their sizes from memory.
"""

from __future__ import annotations

from dataclasses import dataclass

from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM


@dataclass(frozen=True, kw_only=True)
class SheetSize:
    """A usual sheet."""

    key: str
    """What it is known by."""
    name: str
    """What it is called."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    unit: str
    """The one it is defined in: ``in`` or ``mm``."""


def iso_a(number: int) -> tuple[int, int]:
    """Width and height of ISO 216 size A``number`` in whole millimetres, halved down from A0 = 841 × 1189 mm."""
    return _halved(841, 1189, number)


def iso_c(number: int) -> tuple[int, int]:
    """Width and height of ISO 269 size C``number`` in whole millimetres, halved down from C0 = 917 × 1297 mm."""
    return _halved(917, 1297, number)


def _halved(width: int, height: int, times: int) -> tuple[int, int]:
    for _ in range(times):
        width, height = height // 2, width
    return width, height


def _inch(key: str, name: str, width_halves: int, height_halves: int) -> SheetSize:
    half = TICKS_PER_INCH // 2
    return SheetSize(key=key, name=name, width=width_halves * half, height=height_halves * half, unit="in")


def _metric(key: str, number: int) -> SheetSize:
    width, height = iso_a(number)
    return SheetSize(key=key, name=f"A{number}", width=width * TICKS_PER_MM, height=height * TICKS_PER_MM, unit="mm")


SHEET_SIZES = {
    size.key: size
    for size in (
        _inch("letter", "letter", 17, 22),
        _inch("tabloid", "tabloid", 22, 34),
        _metric("a4", 4),
        _metric("a3", 3),
        # ISO 217:2013, untrimmed sizes, supplementary series SRA (from memory).
        SheetSize(key="sra3", name="SRA3", width=320 * TICKS_PER_MM, height=450 * TICKS_PER_MM, unit="mm"),
        _metric("a5", 5),
        _inch("12x12", "12 × 12", 24, 24),
        _inch("8x8", "8 × 8", 16, 16),
        _inch("6x6", "6 × 6", 12, 12),
    )
}


def usual_sheet(kind: str, unit: str) -> SheetSize:
    """The sheet that a kind of paper most likely comes in where one measures in ``in`` or ``mm`` (common practice)."""
    if unit == "mm":
        return SHEET_SIZES["a4"]
    return SHEET_SIZES["12x12" if kind in ("patterned", "glitter") else "letter"]


@dataclass(frozen=True)
class Envelope:
    """A usual envelope."""

    name: str
    """What it is called."""
    width: int
    """The longer side, ticks."""
    height: int
    """The shorter side, ticks."""
    unit: str
    """Its makers' own: ``in`` or ``mm``."""


def _mm(name: str, width: int, height: int) -> Envelope:
    return Envelope(name, width * TICKS_PER_MM, height * TICKS_PER_MM, "mm")


def _eighths(name: str, width: int, height: int) -> Envelope:
    return Envelope(name, width * TICKS_PER_INCH // 8, height * TICKS_PER_INCH // 8, "in")


# ISO 269:1985, Correspondence envelopes: designation and sizes; what is not of the C series is from memory.
ISO_ENVELOPES = (
    _mm("C7", *reversed(iso_c(7))),
    _mm("C7/6", 162, 81),
    _mm("C6", *reversed(iso_c(6))),
    _mm("DL", 220, 110),
    _mm("C6/C5", 229, 114),
    _mm("B6", 176, 125),
    _mm("C5", *reversed(iso_c(5))),
    _mm("B5", 250, 176),
    _mm("C4", *reversed(iso_c(4))),
)
# Announcement sizes, the business envelope and squares: common practice in the US, from memory.
US_ENVELOPES = (
    _eighths("A1", 41, 29),
    _eighths("A2", 46, 35),
    _eighths("A6", 52, 38),
    _eighths("A7", 58, 42),
    _eighths("A8", 65, 44),
    _eighths("A9", 70, 46),
    _eighths("A10", 76, 48),
    _eighths("no. 10", 76, 33),
    _eighths("5 × 5", 40, 40),
    _eighths("6 × 6", 48, 48),
    _eighths("6½ × 6½", 52, 52),
    _eighths("7 × 7", 56, 56),
    _eighths("9 × 9", 72, 72),
)
# Cards that go into the US envelopes of these names: common practice, from memory.
US_CARDS = {"A6": "4½ x 6¼", "A7": "5 x 7", "A8": "5¼ x 7⅞"}
ENVELOPES = {"in": US_ENVELOPES, "mm": ISO_ENVELOPES}

# ISO/IEC 7810:2019, ID-1: 85.60 × 53.98 mm, the size of payment and gift cards, here to the next tenth upwards.
ID1_WIDTH, ID1_HEIGHT = 856 * TICKS_PER_MM // 10, 540 * TICKS_PER_MM // 10
