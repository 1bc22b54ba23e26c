"""The one door to segno: a text as a QR code (ISO/IEC 18004), for a page or for paper."""

from __future__ import annotations

from functools import lru_cache

import segno
from django.utils.safestring import SafeString, mark_safe

# The quiet zone the standard asks for, modules; and how many points a module is wide in a picture.
_QUIET, _POINTS = 4, 4


def _made(text: str) -> segno.QRCode:
    """At least some 15 % of it may be smudged (level M)."""
    return segno.make(text, micro=False, error="m", boost_error=True)


def code_svg(text: str) -> SafeString:
    """The code, drawn."""
    # Segno writes numbers and its own names only.
    return mark_safe(_made(text).svg_inline(border=_QUIET, omitsize=True, svgclass=None, lineclass=None))  # noqa: S308


@lru_cache(maxsize=4096)
def code_picture(text: str) -> SafeString:
    """The code as points, for files: a hundred drawn ones on labels are half of the work of setting them.

    Remembered: a file that was made already is known by its page, which is put together every time it is asked for.
    """
    picture = _made(text).png_data_uri(border=_QUIET, scale=_POINTS)
    return mark_safe(f'<img src="{picture}" alt="">')  # noqa: S308
