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


# Words in papers' names that say a colour, and what is drawn for them; of two the later in the name counts.
COLOURS = {
    "white": "#fbfaf6", "snow": "#f7f8f8", "chalk": "#f1ede1", "ivory": "#f6efdc", "cream": "#f4ead0",
    "vanilla": "#f3e6c4", "sand": "#dcc9a0", "oat": "#e0d2b0", "linen": "#eae2d0", "stone": "#a9a498",
    "grey": "#8f8f8c", "gray": "#8f8f8c", "slate": "#56606b", "smoke": "#7a7d80", "ash": "#b4b3ae",
    "silver": "#c2c5c9", "black": "#22211f", "ink": "#25273a", "midnight": "#1f2a4d", "night": "#232a45",
    "navy": "#22305c", "blue": "#3a6ea5", "sky": "#9cc4e0", "harbour": "#33617c", "sea": "#3f8a9b",
    "ocean": "#2f6f8f", "lagoon": "#2a8c94", "teal": "#1f7a7a", "aqua": "#6fc3c3", "turquoise": "#3cb0b0",
    "green": "#4f8a4b", "moss": "#6f7d3c", "leaf": "#5e9446", "pine": "#2f5d46", "fern": "#4f8552",
    "mint": "#b5dcc3", "sage": "#a3b18a", "olive": "#7d7a3a", "lime": "#b6cf5b", "meadow": "#7fa65a",
    "yellow": "#f2cf4a", "lemon": "#f4e06d", "sun": "#f0b93a", "honey": "#d99a2b", "gold": "#c9a14a",
    "brass": "#b8903f", "amber": "#d08a2a", "mustard": "#c9992b", "orange": "#dd7a35", "apricot": "#efb583",
    "peach": "#f2bfa0", "coral": "#ea7f6b", "ember": "#b4472f", "rust": "#a2512d", "copper": "#b06c43",
    "brown": "#7a5638", "cocoa": "#5f4030", "coffee": "#5a4233", "chestnut": "#7b4a34", "red": "#b53a35",
    "cherry": "#a3273a", "berry": "#8c2f55", "wine": "#6c2338", "rose": "#d98a96", "pink": "#e8a5b3",
    "blush": "#eccbc4", "plum": "#653a5c", "purple": "#6d4a8c", "violet": "#7a5aa0", "lilac": "#b9a3d0",
    "lavender": "#b8add6", "heather": "#9a84a5",
}  # fmt: skip
UNKNOWN_COLOUR = "#e8d9b0"
_REPEAT_WORDS = {
    "dot": "dots",
    "spot": "dots",
    "stripe": "stripes",
    "star": "stars",
    "moon": "moons",
    "ray": "rays",
    "wave": "waves",
    "kite": "kites",
    "step": "steps",
    "pine": "pines",
    "tree": "pines",
}


def guess_colour(name: str) -> str:
    """The colour that a paper's name says; a straw colour if it says none."""
    words = re.findall(r"[a-z]+", name.casefold())
    said = [COLOURS[word] for word in words if word in COLOURS]
    return said[-1] if said else UNKNOWN_COLOUR


def guess_repeat(name: str) -> str:
    """The repeat that a patterned paper's name says; plain if it says none."""
    words = [word.rstrip("s") for word in re.findall(r"[a-z]+", name.casefold())]
    return next((_REPEAT_WORDS[word] for word in reversed(words) if word in _REPEAT_WORDS), "plain")


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
