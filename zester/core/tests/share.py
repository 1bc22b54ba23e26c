"""How many cases made at random the tests try: a share of them each time, all with ``ZESTER_THOROUGH=1``."""

from __future__ import annotations

import os

SHARE = 1 if os.environ.get("ZESTER_THOROUGH") else 4


def some(count: int) -> int:
    """So many of ``count`` cases."""
    return -(-count // SHARE)
