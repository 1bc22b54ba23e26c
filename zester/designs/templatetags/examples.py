"""The examples of how a list is written, in the reader's own unit."""

from __future__ import annotations

import re

from django import template
from django.utils.safestring import SafeString, mark_safe

from zester.site.regions import current

register = template.Library()
# What the page says in inches, and what it is to whoever measures in millimetres: round, and a card that fits together.
_IN_MILLIMETRES = {
    "card 4¼ x 5½": "card 105 x 148",
    "⅛ border": "3 border",
    "1/16 border": "1.5 border",
    "3⅞ x ¼": "96 x 6",
    "overhang ¼": "overhang 6",
    "circle 2¼": "circle 57",
    "top ¾ raised": "top 20 raised",
    "1 by 3": "25 by 75",
    "right ½": "right 12",
    "4 x 5¼": "99 x 142",
    "12 in thread": "30 cm thread",
    "12 in ribbon": "30 cm ribbon",
    "4 by 5 1/4": "99 by 142",
    "½ x 4 star": "12 x 99 star",
    "four by five and a quarter": "ten by seven and a half cm",
    "score 2⅛, 6⅜": "score 52.5, 157.5",
    "left ½ top 1": "left 12 top 25",
    "left ½, 1½, 2½": "left 12, 37, 62",
    "left ½": "left 12",
    "½ from the bottom": "12 from the bottom",
    "¼ apart": "6 apart",
    "foam 1⁄16 in thick": "foam 1.5 mm thick",
    "raised ⅛": "raised 3",
    "gets ⅛ in round": "gets 3 mm round",
    "is cut 2 × 2": "is cut 50 × 50",
    "window 2 x 2": "window 50 x 50",
    "circle 2": "circle 50",
    "Square 2": "Square 50",
    "at ½, 1": "at 12, 25",
    "hole ⅛ top": "hole 3 top",
    "notch ½ right": "notch 12 right",
    "middle 3 x 4": "middle 75 x 100",
    "about ¼ in for": "about 6 mm for",
}
_ANY = re.compile(
    "|".join(rf"{re.escape(words)}(?![\d⅛¼½¾])" for words in sorted(_IN_MILLIMETRES, key=len, reverse=True))
)


@register.filter
def in_my_unit(page: SafeString) -> SafeString:
    """The page with its examples in millimetres where its reader measures so."""
    if current().unit != "mm":
        return page
    # Only words of ours are put in the place of words of ours.
    return mark_safe(_ANY.sub(lambda found: _IN_MILLIMETRES[found.group()], page))  # noqa: S308
