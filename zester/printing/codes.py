"""The one door to segno: a text as a QR code (ISO/IEC 18004), drawn as SVG."""

from __future__ import annotations

import segno
from django.utils.safestring import SafeString, mark_safe


def code_svg(text: str) -> SafeString:
    """The code with its quiet zone of four modules; at least some 15 % of it may be smudged (level M)."""
    code = segno.make(text, micro=False, error="m", boost_error=True)
    # Segno writes numbers and its own names only.
    return mark_safe(code.svg_inline(border=4, omitsize=True, svgclass=None, lineclass=None))  # noqa: S308
