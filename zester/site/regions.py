"""How somebody measures and writes where she lives: unit, paper, currency, days, numbers, the time of day.

Everything new starts from it. It is known of the account, else of the house, else from the settings; while a request is
answered, or work is done for somebody, it is what ``current`` gives.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import asdict, dataclass, fields
from functools import cache
from zoneinfo import ZoneInfo, available_timezones

from django.conf import settings
from django.utils import timezone

UNITS = {"in": "inches", "mm": "millimetres"}
PAPERS = {"letter": "letter, 8½ × 11 in", "a4": "A4, 210 × 297 mm"}
DATES = {"dmy": "19 December 2026", "mdy": "December 19, 2026", "ymd": "2026-12-19"}
WEEKS = {"monday": "Monday", "sunday": "Sunday", "saturday": "Saturday"}
LONGEST_CURRENCY = 5
# Where letter paper is used, and where one measures in inches (Unicode CLDR, measurementData; from memory).
_LETTER = frozenset("US CA MX BZ CL CO CR GT NI PA PH PR SV VE".split())  # noqa: SIM905
_INCHES = frozenset(("US", "LR", "MM", "PR"))
_MONTH_FIRST = frozenset(("US", "PR", "PH"))
_YEAR_FIRST = frozenset("CN JP KR TW HU LT MN SE".split())  # noqa: SIM905


@dataclass(frozen=True)
class Region:
    """One way to measure and to write."""

    unit: str = "in"
    """A key of ``UNITS``."""
    paper: str = "letter"
    """A key of ``PAPERS``: what is printed on, and the size of a new paper."""
    currency: str = ""
    """The sign of all amounts; empty: the settings' own."""
    dates: str = "dmy"
    """A key of ``DATES``."""
    comma: bool = False
    """Whether a comma parts the cents."""
    week: str = "monday"
    """The first day of a week: a key of ``WEEKS``."""
    zone: str = ""
    """The name of a time zone (IANA); empty: the settings' own."""

    @property
    def sign(self) -> str:
        """The sign of all amounts."""
        return self.currency or settings.CURRENCY

    @property
    def unit_words(self) -> str:
        """The unit in words."""
        return UNITS[self.unit]

    @property
    def paper_words(self) -> str:
        """The paper in a word."""
        return PAPERS[self.paper].partition(",")[0]

    @property
    def date_words(self) -> str:
        """What a day looks like."""
        return DATES[self.dates]

    @property
    def ruler(self) -> str:
        """The ruler a new class is written with."""
        return "mm" if self.unit == "mm" else "in16"

    @property
    def zone_info(self) -> ZoneInfo:
        """The time zone."""
        return ZoneInfo(self.zone or settings.TIME_ZONE)

    def stored(self) -> dict:
        """As JSON."""
        return asdict(self)


@cache
def zones() -> frozenset[str]:
    """The names of all time zones; they are read from files."""
    return frozenset(available_timezones())


HOUSE = Region()
_current: ContextVar[Region] = ContextVar("region", default=HOUSE)


def current() -> Region:
    """That of whoever is answered, or worked for, now."""
    return _current.get()


@contextmanager
def within(region: Region) -> Iterator[None]:
    """Answer, or work, as somebody there would have it."""
    before = _current.set(region)
    try:
        with timezone.override(region.zone_info):
            yield
    finally:
        _current.reset(before)


def read_region(kept: object) -> Region:
    """A region that was stored; what is none of it, or not known any more, is as usual."""
    known = kept if isinstance(kept, dict) else {}
    checks = {
        "unit": UNITS.__contains__,
        "paper": PAPERS.__contains__,
        "dates": DATES.__contains__,
        "week": WEEKS.__contains__,
        "zone": lambda name: not name or name in zones(),
        "currency": lambda sign: len(sign) <= LONGEST_CURRENCY,
    }
    found = {}
    for field in fields(Region):
        value = known.get(field.name)
        if isinstance(value, type(field.default)) and checks.get(field.name, bool.__instancecheck__)(value):
            found[field.name] = value
    return Region(**found)


def guess(language: str, zone: str) -> Region:
    """The region of a browser that says ``de-AT`` or ``en-US`` and names its time zone; as usual where it says less."""
    # Its tables are large, and only needed here.
    from babel import Locale, UnknownLocaleError
    from babel.numbers import get_currency_symbol, get_territory_currencies

    zone = zone if zone in zones() else ""
    try:
        locale = Locale.parse(language.replace("-", "_"))
    except (UnknownLocaleError, ValueError):
        return Region(zone=zone)
    where = locale.territory
    if not where:
        # A language alone does not say where somebody lives.
        return Region(zone=zone)
    money = get_territory_currencies(where)
    sign = get_currency_symbol(money[-1], locale=locale) if money else ""
    return Region(
        unit="in" if where in _INCHES else "mm",
        paper="letter" if where in _LETTER else "a4",
        currency=sign if len(sign) <= LONGEST_CURRENCY else money[-1],
        dates="mdy" if where in _MONTH_FIRST else "ymd" if where in _YEAR_FIRST else "dmy",
        comma=locale.number_symbols["latn"]["decimal"] == ",",
        week={0: "monday", 5: "saturday"}.get(locale.first_week_day, "sunday"),
        zone=zone,
    )
