"""How somebody cuts: how fast, with how much room, and what may be off."""

from __future__ import annotations

from dataclasses import dataclass

from zester.core.pace import DEFAULT_PACE, Pace


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
