"""How somebody cuts: how fast, with how much room, and what may be off."""

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


@dataclass(frozen=True, kw_only=True)
class Habits:
    """What the order of the steps depends on besides the plan."""

    pace: Pace = DEFAULT_PACE
    """How fast somebody is."""
    most_piles: int | None = None
    """How many piles may wait on the table, where that can be kept; None: any number."""
    bears: frozenset[str] = frozenset()
    """The pieces that may be off, as they are trimmed later."""


USUAL = Habits()
