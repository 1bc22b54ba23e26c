"""Template filters for lengths, money and drawings."""

from __future__ import annotations

from decimal import Decimal

from django import template
from django.conf import settings
from django.urls import reverse
from django.utils.html import format_html

from zester.core.lengths import RULERS, millimetres, show_length, show_size, with_unit

register = template.Library()


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
def money(amount: Decimal) -> str:
    """An amount with the currency sign."""
    return f"{settings.CURRENCY}{amount:,.2f}"


@register.filter
def plural(number: int, word: str) -> str:
    """``1 sheet``, ``2 sheets``."""
    return format_html("{}&nbsp;{}{}", f"{number:,}", word, "" if number == 1 else "s")


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
