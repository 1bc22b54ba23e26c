"""Days as people write them."""

from __future__ import annotations

import datetime

from django.utils.dateformat import format as spelled


def day(date: datetime.date) -> str:
    """``19 December 2026``."""
    return spelled(date, "j F Y")
