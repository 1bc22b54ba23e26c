"""Exact lengths: whole ticks, and every notation people write them in.

One tick is 1/320 mm = 1/8128 in, because 1 in = 25.4 mm exactly (the international inch, 1959), so that
1/64 in = 127 ticks and 0.1 mm = 32 ticks are both whole numbers. A length is a plain ``int`` of ticks; nothing
here ever makes a binary float.

    typed --parse_length--> ticks --show_length--> text on a screen  (4¼, 1 9⁄16, 108.5)
    file  --read_length---> ticks --write_length-> text in a file    (4 1/4, 1 9/16, 108.5)

What people type has to lie on a ruler; what a file holds was computed and may lie anywhere, so that reading a file
minds no ruler and gives back every whole tick exactly.
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from functools import lru_cache

from zester.core.errors import LengthError

TICKS_PER_INCH = 8128
TICKS_PER_MM = 320
LONGEST = 200 * TICKS_PER_INCH
# Of one length; more is nothing anybody would write.
MOST_LETTERS = 40

FRACTION_SLASH = "\u2044"
HAIR_SPACE = "\u200a"

_UNITS = {
    "in": Fraction(TICKS_PER_INCH),
    "inch": Fraction(TICKS_PER_INCH),
    "inches": Fraction(TICKS_PER_INCH),
    '"': Fraction(TICKS_PER_INCH),
    "mm": Fraction(TICKS_PER_MM),
    "cm": Fraction(TICKS_PER_MM * 10),
}
_UNIT = r'(?:inches|inch|in\b\.?|mm\b|cm\b|")'
_NUMBER = r"(?:\d+[ -]+\d+\s*/\s*\d+|\d+\s*/\s*\d+|\d*[.,]\d+|\d+)"
LENGTH = rf"(?:{_NUMBER}\s*{_UNIT}?)"
_LENGTH = re.compile(rf"\s*(?P<number>{_NUMBER})\s*(?P<unit>{_UNIT})?\s*")
_BETWEEN = r"\s*(?:x|\*|by)\s*"
SIZE = rf"{LENGTH}{_BETWEEN}{LENGTH}"
_SIZE = re.compile(rf"\s*(?P<first>{LENGTH}){_BETWEEN}(?P<second>{LENGTH})\s*", re.IGNORECASE)


@dataclass(frozen=True)
class Ruler:
    """The marks a length has to lie on. Millimetres always go by tenths."""

    name: str
    """What it is called."""
    unit: str
    """The unit meant when none is written: ``in`` or ``mm``."""
    step: int
    """The distance of the inch marks, ticks."""

    def marks(self, unit: str) -> int:
        """Distance between two marks, in ticks, for a length written in ``unit`` ("in" or "mm")."""
        return TICKS_PER_MM // 10 if unit == "mm" else self.step


SIXTEENTHS = Ruler("inches, sixteenths", "in", TICKS_PER_INCH // 16)
THIRTY_SECONDS = Ruler("inches, thirty-seconds", "in", TICKS_PER_INCH // 32)
SIXTY_FOURTHS = Ruler("inches, sixty-fourths", "in", TICKS_PER_INCH // 64)
MILLIMETRES = Ruler("millimetres", "mm", TICKS_PER_INCH // 16)
RULERS = {"in16": SIXTEENTHS, "in32": THIRTY_SECONDS, "in64": SIXTY_FOURTHS, "mm": MILLIMETRES}


def plain(text: str) -> str:
    """The same text with every sign for a fraction, a times or an inch in its ASCII form.

    ``4¼`` becomes ``4 1/4``, ``×`` becomes ``x``, ``″`` and curly quotes become ``"``.
    """
    if text.isascii():
        return text.replace("''", '"')
    out: list[str] = []
    for char in text:
        spelled = unicodedata.normalize("NFKC", char)
        if FRACTION_SLASH in spelled and len(spelled) > 1:
            before = " " if out and out[-1].isdigit() else ""
            out.append(before + spelled.replace(FRACTION_SLASH, "/"))
        else:
            out.append(_SIGNS.get(char, char))
    return re.sub(r"''", '"', "".join(out))


_SIGNS = {
    FRACTION_SLASH: "/",
    "\u2215": "/",
    "×": "x",
    "✕": "x",
    "″": '"',
    "”": '"',
    "“": '"',
    "–": "-",
    "−": "-",
    "\u00a0": " ",
    "\u2009": " ",
    "\u202f": " ",
    HAIR_SPACE: " ",
}


@lru_cache(maxsize=8192)
def parse_length(text: str | int, ruler: Ruler = SIXTEENTHS, *, unit: str | None = None, longest: int = LONGEST) -> int:
    """Read one length.

    Parameters
    ----------
    text : str or int
        Any of ``4 1/4``, ``4-1/4``, ``4¼``, ``4.25``, ``4.25"``, ``4.25 in``, ``10.8 cm``, ``108 mm``.
    ruler : Ruler
        The marks it must lie on, and the unit meant when none is written.
    unit : str, optional
        "in", "mm" or "cm": overrides the ruler's unit for text without one.
    longest : int
        Ticks up to which it is a length; of what comes on rolls more than of sheets.

    Returns
    -------
    int
        The length in ticks, above zero.

    Raises
    ------
    LengthError
        If the text is no length, not above zero, longer than ``longest``, or between two marks (the nearest are
        named).
    """
    original = str(text).strip()
    exact, written = _in_ticks(original, unit or ruler.unit)
    return _on_the_ruler(
        _possible(exact, original, longest), "mm" if written in ("mm", "cm") else "in", ruler, original
    )


def _in_ticks(text: str, unit: str) -> tuple[Fraction, str]:
    """What is written in ticks, be it whole or not, and the unit it is written in, ``unit`` if it has none."""
    if len(text) > MOST_LETTERS:
        raise LengthError(f"A length of {len(text)} letters is none", mend="Write it like 4¼, 4 1/4, 4.25 or 108 mm")
    found = _LENGTH.fullmatch(plain(text).strip().lower())
    if not found:
        raise _not_a_length(text)
    written = (found["unit"] or unit).rstrip(".")
    return _number(found["number"], text) * _UNITS[written], written


def _possible(exact: Fraction, original: str, longest: int = LONGEST) -> Fraction:
    """The length, if it is above nothing and not longer than any sheet, or than what is the longest."""
    if exact <= 0:
        raise LengthError(f"“{original}” is nothing to cut", mend="A length must be more than zero")
    if exact > longest:
        what, most = ("any sheet", "200 in (5080 mm)") if longest == LONGEST else ("any roll", show_long(longest, "mm"))
        raise LengthError(f"“{original}” is longer than {what}", mend=f"Lengths go up to {most}")
    return exact


def read_length(text: str, unit: str, *, zero: bool = False) -> int:
    """Read a length from a file; the other half of ``write_length``.

    Parameters
    ----------
    text : str
        Any notation that ``parse_length`` takes, on no ruler: ``4 1/4``, ``108.003125``, ``15/127``, ``3 mm``.
    unit : str
        "in" or "mm": what is meant where the text has no unit.
    zero : bool
        Whether nothing at all is a length, too.

    Returns
    -------
    int
        Whole ticks.

    Raises
    ------
    LengthError
        If the text is no length, not above zero (or, with ``zero``, below it), longer than 200 in, or no whole number
        of ticks; the nearest are named.
    """
    original = text.strip()
    exact, _ = _in_ticks(original, unit)
    if zero and exact == 0:
        return 0
    if _possible(exact, original).denominator != 1:
        low, high = (f"{_decimal_mm(int(exact) + more)} mm" for more in (0, 1))
        raise LengthError(f"“{original}” is no whole number of ticks", mend=f"The nearest are {low} and {high}")
    return int(exact)


def parse_size(text: str, ruler: Ruler = SIXTEENTHS) -> tuple[int, int]:
    """Read ``width x height`` in any notation (``4 1/4 x 5 1/2``, ``4¼ by 5½``, ``105 × 148 mm``).

    A unit after the second number alone goes for both. Returns ticks (width, height); raises LengthError.
    """
    if len(text) > 3 * MOST_LETTERS:
        raise LengthError(f"A size of {len(text)} letters is none", mend="Write it like 4¼ x 5½, or 108 x 140 mm")
    found = _SIZE.fullmatch(plain(text).lower())
    if not found:
        if _LENGTH.fullmatch(plain(text).lower()):
            raise LengthError(
                f"“{text.strip()}” is one length, a size needs two", mend="Write it as width × height, like 4¼ x 5½"
            )
        raise LengthError(
            f"“{text.strip()}” is not a size" if text.strip() else "A size is needed",
            mend="Write it as width × height, like 4¼ x 5½",
        )
    last_unit = re.search(rf"{_UNIT}\s*$", found["second"])
    unit = last_unit.group().strip().rstrip(".") if last_unit else None
    return parse_length(found["first"], ruler, unit=unit), parse_length(found["second"], ruler)


def _number(text: str, original: str) -> Fraction:
    whole, _, rest = text.replace(",", ".").replace("-", " ").partition(" ")
    if "/" not in text:
        return Fraction(text.replace(",", "."))
    if "/" in whole or rest.lstrip().startswith("/"):
        whole, rest = "0", text
    top, bottom = (int(part) for part in rest.split("/"))
    if bottom == 0:
        raise LengthError(f"“{original.strip()}” divides by nothing", mend="Write a fraction like 3/16")
    return int(whole) + Fraction(top, bottom)


def _on_the_ruler(exact: Fraction, unit: str, ruler: Ruler, original: str) -> int:
    step = ruler.marks(unit)
    marks, between = divmod(exact, step)
    if between:
        low, high = (show_length(int(m) * step, unit) for m in (marks, marks + 1))
        nearest = f"{low} and {high} {unit}" if marks else f"{high} {unit}"
        raise LengthError(
            f"“{original}” is not on the ruler", mend=f"The nearest mark{'s are' if marks else ' is'} {nearest}"
        )
    return int(exact)


def _not_a_length(text: str) -> LengthError:
    if not text:
        return LengthError("A length is needed", mend="Write it like 4¼, 4 1/4, 4.25 or 108 mm")
    if text.startswith(("-", "−")):
        return LengthError(f"“{text}” is less than nothing", mend="A length must be more than zero")
    return LengthError(f"“{text}” is not a length", mend="Write it like 4¼, 4 1/4, 4.25 or 108 mm")


def _inches(ticks: int) -> tuple[int, Fraction]:
    whole, rest = divmod(ticks, TICKS_PER_INCH)
    return whole, Fraction(rest, TICKS_PER_INCH)


def on_inch_marks(ticks: int) -> bool:
    """Whether the length is a whole number of sixty-fourths of an inch."""
    return ticks % SIXTY_FOURTHS.step == 0


def _decimal_mm(ticks: int) -> str:
    # 1/320 mm has at most six decimals, so this is exact.
    micro = ticks * 1_000_000 // TICKS_PER_MM
    return f"{micro // 1_000_000}.{micro % 1_000_000:06d}".rstrip("0").rstrip(".")


@lru_cache(maxsize=8192)
def show_length(ticks: int, unit: str) -> str:
    """The length as set on a ruler, without its unit: ``4¼``, ``1 9⁄16``, ``108.5``.

    A length that is on no inch mark (a metric sheet in a class that works in inches) is shown in exact millimetres,
    with the unit, since rounding it would be a wrong measure.
    """
    if unit == "mm":
        return _decimal_mm(ticks)
    if not on_inch_marks(ticks):
        return f"{_decimal_mm(ticks)} mm"
    whole, part = _inches(ticks)
    if not part:
        return str(whole)
    quarter = {Fraction(1, 4): "¼", Fraction(1, 2): "½", Fraction(3, 4): "¾"}.get(part)
    head = str(whole) if whole else ""
    if quarter:
        return head + quarter
    return f"{head + HAIR_SPACE if head else ''}{part.numerator}{FRACTION_SLASH}{part.denominator}"


def show_size(width: int, height: int, unit: str) -> str:
    """``4¼ × 5½ in``, the unit once; in millimetres if one of the two lies on no inch mark."""
    if unit == "in" and not (on_inch_marks(width) and on_inch_marks(height)):
        unit = "mm"
    return f"{show_length(width, unit)} × {show_length(height, unit)} {unit}"


def show_long(ticks: int, unit: str) -> str:
    """A length that may be long, or less than nothing: metres from one on, where it is not on the marks of an inch."""
    sign, size = ("−" if ticks < 0 else ""), abs(ticks)
    if size >= 1000 * TICKS_PER_MM and (unit == "mm" or not on_inch_marks(size)):
        return f"{sign}{Decimal(size) / (1000 * TICKS_PER_MM):.2f} m"
    return sign + with_unit(size, unit) if size else "0"


def with_unit(ticks: int, unit: str) -> str:
    """``4¼ in`` or ``108.5 mm``."""
    text = show_length(ticks, unit)
    return text if text.endswith("mm") else f"{text} {unit}"


def write_length(ticks: int, unit: str) -> str:
    """The length as plain text for a file: ``4 1/4`` or ``108.5``, exact for every whole tick.

    A length on no sixty-fourth of an inch is given in millimetres, with the unit; 1/320 mm has at most six decimals.
    """
    if unit == "mm":
        return _decimal_mm(ticks)
    if not on_inch_marks(ticks):
        return f"{_decimal_mm(ticks)} mm"
    whole, part = _inches(ticks)
    if not part:
        return str(whole)
    return f"{whole} {part}" if whole else str(part)


def type_length(ticks: int, unit: str) -> str:
    """The length as somebody would type it into a list: ``4¼``, ``1 9/16``, ``108.5``; 0 where it is nothing.

    A length between the finest inch marks is given in millimetres, with its unit.
    """
    text = write_length(ticks, unit)
    whole, _, part = text.rpartition(" ")
    quarter = {"1/4": "¼", "1/2": "½", "3/4": "¾"}.get(part)
    return f"{whole}{quarter}" if quarter else text


@lru_cache(maxsize=16384)
def millimetres(ticks: int) -> str:
    """The exact decimal of the length in millimetres, for drawings whose user unit is 1 mm."""
    return _decimal_mm(ticks) if ticks >= 0 else f"-{_decimal_mm(-ticks)}"
