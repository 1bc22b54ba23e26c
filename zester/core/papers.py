"""What a paper is: its repeat and ink in a drawing, its weight and its thickness.

Grammage is grams a square metre (ISO 536). In the US a basis weight is that of 500 sheets of the kind's basic size in
pounds: cover 20 × 26 in, text 25 × 38 in (common practice of the paper trade; 1 lb = 453.59237 g exactly).
"""

from __future__ import annotations

import re
from decimal import ROUND_HALF_UP, Decimal

from zester.core.errors import ZesterError

# What the repeats are called, and whether a pattern of that kind runs one way by nature.
REPEATS = {
    "plain": "plain",
    "dots": "dots",
    "stripes": "stripes",
    "stars": "stars",
    "moons": "moons",
    "rays": "rays",
    "waves": "waves",
    "kites": "kites",
    "steps": "steps",
    "pines": "pines (one way)",
}


def _channels(colour: str) -> tuple[int, ...]:
    return tuple(int(colour[k : k + 2], 16) for k in (1, 3, 5))


def luminance(colour: str) -> float:
    """Relative luminance, 0 black to 1 white (WCAG 2.2, definition of relative luminance)."""
    parts = [c / 255 for c in _channels(colour)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def is_dark(colour: str) -> bool:
    """Whether ink is hardly seen on paper of this colour: black on it has less than 4.5 : 1 (WCAG 2.2, 1.4.3)."""
    return (luminance(colour) + 0.05) / 0.05 < 4.5


def repeat_ink(colour: str) -> str:
    """The ink for a repeat on paper of this colour: the same colour moved a third towards white or black."""
    towards = 255 if luminance(colour) < 0.25 else 0
    return "#" + "".join(f"{c + (towards - c) * 34 // 100:02x}" for c in _channels(colour))


BASIC_SIZES = {"cover": (20, 26), "text": (25, 38)}
GRAMS_A_POUND = Decimal("453.59237")
SQUARE_METRES_A_SQUARE_INCH = Decimal("0.0254") ** 2
HEAVIEST = 1000
_WEIGHT = re.compile(
    r"(?P<number>\d{1,7}(?:[.,]\d{1,7})?)\s*(?P<unit>gsm|g/m²|g/m2|g|lb|lbs|#|pounds?)?\s*(?P<kind>cover|text)?",
    re.IGNORECASE,
)


def grams(pounds: Decimal, kind: str) -> int:
    """Grams a square metre of a paper of that basis weight, to the nearest gram: 80 lb cover is 216."""
    width, height = BASIC_SIZES[kind]
    area = 500 * width * height * SQUARE_METRES_A_SQUARE_INCH
    return int((pounds * GRAMS_A_POUND / area).quantize(Decimal(1), ROUND_HALF_UP))


def parse_weight(text: str) -> int:
    """Read ``216``, ``216 gsm`` or ``80 lb cover`` as grams a square metre. Raises ZesterError."""
    found = _WEIGHT.fullmatch(text.strip())
    if not found:
        raise ZesterError(f"“{text.strip()[:40]}” is not a weight", mend="Write it like 216 gsm or 80 lb cover")
    number = Decimal(found["number"].replace(",", "."))
    in_pounds = (found["unit"] or "g").lower() in ("lb", "lbs", "#", "pound", "pounds") or found["kind"]
    if in_pounds and not found["kind"]:
        raise ZesterError("Pounds of cover or of text?", mend="Write it like 80 lb cover, or 60 lb text")
    weight = grams(number, found["kind"].lower()) if in_pounds else int(number)
    if not 1 <= weight <= HEAVIEST:
        raise ZesterError(f"{weight} g/m² is no paper", mend=f"Weights go up to {HEAVIEST} g/m²")
    return weight


def usual_caliper(weight: int | None, kind: str) -> int:
    """How thick a sheet is likely to be, in micrometres, where nobody has measured it.

    Card stock and printed papers have about 1.25 cubic centimetres a gram; without a weight card stock is taken for
    0.27 mm, other sheets for 0.2 mm (common practice, no source).
    """
    if weight:
        return weight * 5 // 4
    return 270 if kind == "card" else 200
