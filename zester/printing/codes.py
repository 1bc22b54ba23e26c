"""The one door to segno: a text as a QR code (ISO/IEC 18004), for a page or for paper."""

from __future__ import annotations

from io import BytesIO
from urllib.parse import quote, unquote

import segno
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

# What the addresses of codes in files begin with; after it comes the text.
ADDRESS = "code:"

# The quiet zone the standard asks for, modules; and how many points a module is wide in a picture.
_QUIET, _POINTS = 4, 4


def _made(text: str) -> segno.QRCode:
    """At least some 15 % of it may be smudged (level M)."""
    return segno.make(text, micro=False, error="m", boost_error=True)


def code_svg(text: str) -> SafeString:
    """The code, drawn."""
    # Segno writes numbers and its own names only.
    return mark_safe(_made(text).svg_inline(border=_QUIET, omitsize=True, svgclass=None, lineclass=None))  # noqa: S308


def code_picture(text: str) -> SafeString:
    """Where the code stands in a file; it is made when the file is set, and not for the page it is set from."""
    return format_html('<img src="{}{}" alt="">', ADDRESS, quote(text, safe=""))


def code_points(address: str) -> bytes:
    """The code that an address in a file stands for as a picture (PNG).

    As points: a hundred drawn ones on labels are half of the work of setting them.
    """
    out = BytesIO()
    _made(unquote(address.removeprefix(ADDRESS))).save(out, kind="png", border=_QUIET, scale=_POINTS)
    return out.getvalue()
