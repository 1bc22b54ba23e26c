"""Links to pages elsewhere: shown to be opened, never fetched."""

from __future__ import annotations

import re

from django.core.exceptions import ValidationError

LONGEST_LINK = 300
HELP = "Begins with https://; hand-out and buying list show it."


def is_link(text: str) -> None:
    """A page that may be opened.

    Raises
    ------
    ValidationError
        If it begins with anything but http or https.
    """
    if not re.fullmatch(r"https?://[^\s|<>\"']+", text, re.IGNORECASE):
        raise ValidationError("A link begins with https:// and has no spaces.")
