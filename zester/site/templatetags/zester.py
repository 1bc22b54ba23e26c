"""Template filters for lengths, money and drawings."""

from __future__ import annotations

import datetime
import json
from decimal import Decimal

from django import template
from django.urls import reverse
from django.utils.html import format_html

from zester.core import piece_words
from zester.core.care import TIMES, care_of
from zester.core.lengths import (
    RULERS,
    TICKS_PER_INCH,
    TICKS_PER_MM,
    millimetres,
    show_length,
    show_long,
    show_size,
    with_unit,
)
from zester.core.pieces import CutPiece
from zester.site.dates import amount as amount_words
from zester.site.dates import clock as clock_words
from zester.site.dates import day
from zester.site.dates import number as number_words
from zester.site.stations import strip_url, tabs, url_of

register = template.Library()


@register.filter
def as_json(value: object) -> str:
    """For an attribute that a script reads."""
    return json.dumps(value)


@register.filter
def measure(ticks: int, unit: str) -> str:
    """``4¼ in``."""
    return with_unit(ticks, unit)


@register.filter
def bare(ticks: int, unit: str) -> str:
    """``4¼``."""
    return show_length(ticks, unit)


@register.filter
def size(piece, unit: str) -> str:
    """``4 × 5¼ in`` of anything with a width and a height."""
    return show_size(piece.width, piece.height, unit)


@register.filter
def unit(ruler: str) -> str:
    """The unit of a ruler's key."""
    return RULERS[ruler].unit


@register.filter
def mm(ticks: int) -> str:
    """Ticks as the exact millimetres a drawing is made in."""
    return millimetres(ticks)


@register.filter
def wall_size(ticks: int, scale: int) -> str:
    """The side of a sheet on the wall in CSS pixels, at so many an inch."""
    return str(round(ticks * scale / TICKS_PER_INCH))


@register.filter
def money(amount: Decimal) -> str:
    """An amount with the currency sign."""
    return amount_words(amount)


@register.filter
def plural(number: int, word: str) -> str:
    """``1 sheet``, ``2 sheets``."""
    return format_html("{}&nbsp;{}{}", number_words(number), word, "" if number == 1 else "s")


@register.filter
def signed(number: int) -> str:
    """``+3``, ``−2``."""
    return f"+{number:,}" if number > 0 else f"−{-number:,}" if number < 0 else "0"


@register.filter
def stretch(ticks: int, unit: str) -> str:
    """A length that may be long, or less than nothing: metres, or inches."""
    return show_long(ticks, unit)


@register.filter
def about(ticks: int, unit: str) -> str:
    """A length that nobody can measure to the tick, rounded up to 1/16 in or a millimetre."""
    step = TICKS_PER_INCH // 16 if unit == "in" else TICKS_PER_MM
    return with_unit(-(-ticks // step) * step, unit)


@register.filter
def on_board(ticks: int) -> int:
    """A length on the board of offcuts: 15 CSS pixels an inch."""
    return max(6, round(ticks * 15 / TICKS_PER_INCH))


@register.filter
def uncapitalised(words: str) -> str:
    """The words as they stand within a sentence."""
    return words[:1].lower() + words[1:]


@register.filter
def people(number: int) -> str:
    """``1 person``, ``2 people``."""
    return format_html("{}&nbsp;{}", number_words(number), "person" if number == 1 else "people")


@register.filter
def undo_url(tag: str) -> str:
    """The address that takes a removal back, from a message's tag ``undo:app:view:key``."""
    _, app, view, key = tag.split(" ", maxsplit=1)[0].split(":")
    return reverse(f"{app}:{view}", args=[key])


@register.filter
def concat(text: str, more) -> str:
    """One text after the other, for ids."""
    return f"{text}{more}"


@register.simple_tag
def label_plate(label) -> str:
    """The rectangle behind a label, centred."""
    width, height = label.plate
    return format_html(
        'x="{}" y="{}" width="{}" height="{}"',
        millimetres(-(width // 2)),
        millimetres(-(height // 2)),
        millimetres(width),
        millimetres(height),
    )


@register.simple_tag
def label_line(label, line: int) -> str:
    """Where a line of a label stands."""
    return millimetres(label.baseline(line))


register.filter(piece_words.called)
register.filter(piece_words.card_words)
register.filter(piece_words.bit_words)
register.simple_tag(piece_words.piece_words)


@register.simple_tag
def strip_of(pk: int) -> str:
    """Where the strip of papers of a class comes from."""
    return strip_url(pk)


@register.inclusion_tag("site/_tabs.html")
def station_tabs(station: str, pk: int | None, here: str) -> dict:
    """The pages of a station that has several."""
    return {"tabs": tabs(station, pk), "here": here}


@register.filter
def page_of(stations, key: str) -> str:
    """The page of a station of the thread."""
    return url_of(stations, key)


@register.filter
def care(piece: CutPiece) -> str:
    """What whoever works with a piece has to know of it."""
    return " · ".join(care_of(piece))


@register.filter
def when(time: str) -> str:
    """The time of a job in words; of what was kept without one, that it may be either."""
    return TIMES.get(time, "before or in class")


@register.filter
def pair(size: list[int]) -> str:
    """``2¼ in`` of a size that is the same both ways, ``2 × 3 in`` of others."""
    width, height = size
    return with_unit(width, "in") if width == height else show_size(width, height, "in")


@register.filter(name="day", expects_localtime=True)
def day_words(date: datetime.date | None, form: str = "") -> str:
    """A day as it is written here, in a form of ``zester.site.dates``; with ``, time`` its time. Empty for none."""
    if not date:
        return ""
    form, _, timed = form.partition(", ")
    return f"{day(date, form)}, {clock_words(date)}" if timed else day(date, form)


@register.filter(expects_localtime=True)
def clock(time: datetime.time | datetime.datetime | None) -> str:
    """A time of the day as it is written here."""
    return clock_words(time) if time else ""


@register.filter
def sentence(words: str) -> str:
    """The words with a capital letter in front."""
    return words[:1].upper() + words[1:]
