"""Days, times and amounts as the region writes them."""

from __future__ import annotations

import datetime
from decimal import Decimal

from django.utils.dateformat import format as spelled

from zester.site.regions import current

# By what a region's days look like: whole, short, without the year, short without the year.
_DAYS = {
    "dmy": ("j F Y", "j M Y", "j F", "j M"),
    "mdy": ("F j, Y", "M j, Y", "F j", "M j"),
    "ymd": ("Y-m-d", "Y-m-d", "F j", "M j"),
}
_FORMS = {"": 0, "short": 1, "no year": 2, "short no year": 3}


def day(date: datetime.date, form: str = "") -> str:
    """``19 December 2026``; ``short``: ``19 Dec 2026``; ``no year`` and ``short no year`` leave that out."""
    return spelled(date, _DAYS[current().dates][_FORMS[form]])


def clock(time: datetime.time | datetime.datetime) -> str:
    """``18:30``, or ``6:30 p.m.`` where the month comes first."""
    return spelled(time, "g:i a" if current().dates == "mdy" else "H:i") if time else ""


def number(count: int) -> str:
    """``1,250``, or ``1.250`` where a comma parts the cents."""
    plain = f"{count:,}"
    return plain.replace(",", ".") if current().comma else plain


def amount(money: Decimal) -> str:
    """``$1,250.00``, or ``1.250,00 €`` where a comma parts the cents."""
    region = current()
    plain, less = f"{abs(money):,.2f}", "\N{MINUS SIGN}" if money < 0 else ""
    if not region.comma:
        return f"{less}{region.sign}{plain}"
    return f"{less}{plain.translate(str.maketrans(',.', '.,'))}\N{NO-BREAK SPACE}{region.sign}"
