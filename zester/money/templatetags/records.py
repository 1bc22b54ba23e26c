"""Shares of the log."""

from __future__ import annotations

from decimal import Decimal

from django import template

from zester.fits.sheets import percent as in_words

register = template.Library()


@register.filter
def percent(share: Decimal | None) -> str:
    """``84.3 %``; a dash where there is none."""
    return "–" if share is None else in_words(share)


@register.filter
def tenth(number: Decimal | None) -> str:
    """``3.4``; a dash where there is none."""
    return "–" if number is None else f"{number:.1f}"
