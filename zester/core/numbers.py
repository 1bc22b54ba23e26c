"""Numbers as people write them: with a point or with a comma.

0.35   0,35   1.000,50   1,000.50   $ 0.35      one number each
1,000                                           one thousand, or one? asked
"""

from __future__ import annotations

import re
from decimal import Decimal

from zester.core.errors import ZesterError


class NotSure(ZesterError):
    """A number that could be one of two."""


_SIGNS = re.compile(r"^\s*[^\w\s.,+-]?\s*(?P<number>[+-]?[\d.,\s]*\d[\d.,]*)\s*[^\w\s.,+-]?\s*$")
_THOUSANDS = re.compile(r"[+-]?\d{1,3}(?:[.,]\d{3})+")


def read_decimal(text: str) -> Decimal:
    """A number with a point or a comma; a sign of money before or behind it is passed over.

    Raises ZesterError for what is none, NotSure for ``1,000`` or ``1.000``, which could be a thousand or one.
    """
    found = _SIGNS.match(text)
    if not found or len(text) > 40:
        raise ZesterError("This is no number", mend="Write it like 0.35")
    number = re.sub(r"\s", "", found["number"])
    point, comma = number.rfind("."), number.rfind(",")
    if point >= 0 and comma >= 0:
        whole, sign = (number[:point], ",") if point > comma else (number[:comma], ".")
        if not _THOUSANDS.fullmatch(whole) or whole.count(sign) != len(re.findall("[.,]", whole)):
            raise ZesterError(f"“{text.strip()}” is no number", mend="Write it like 1000.50")
        return Decimal(f"{whole.replace(sign, '')}.{number[max(point, comma) + 1 :] or 0}")
    if number.count(",") + number.count(".") > 1:
        raise ZesterError(f"“{text.strip()}” is no number", mend="Write it like 1000.50")
    if comma >= 0 and _THOUSANDS.fullmatch(number) and not number.lstrip("+-").startswith("0"):
        plain = number.replace(",", "")
        other = number.replace(",", ".")
        raise NotSure(f"Is “{text.strip()}” {plain}, or {other}?", mend="Write it without the comma, or with a point")
    return Decimal(number.replace(",", ".").rstrip("."))
