"""How fast somebody works at the trimmer."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Pace:
    """How many seconds the work at the trimmer takes somebody. The numbers are common practice, without a source."""

    setting: int = 12
    """Setting the rail."""
    stack: int = 8
    """Fetching a stack and squaring it up."""
    stroke: int = 4
    """A stroke of the blade."""


DEFAULT_PACE = Pace()
