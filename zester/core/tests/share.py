"""How many cases made at random are tried: a share each time, all with ``ZESTER_THOROUGH=1``; that there were some."""

from __future__ import annotations

import os
from collections.abc import Iterable
from typing import TypeVar

T = TypeVar("T")
SHARE = 1 if os.environ.get("ZESTER_THOROUGH") else 4


def some(count: int) -> int:
    """So many of ``count`` cases."""
    return -(-count // SHARE)


def each_of(things: Iterable[T]) -> list[T]:
    """All of them, to be looked at one by one: a test that looks at none has shown nothing."""
    found = list(things)
    if not found:
        raise AssertionError("There was nothing to look at.")
    return found
