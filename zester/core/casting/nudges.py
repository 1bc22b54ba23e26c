"""What a sixteenth would save: pieces of one size a little smaller, where a guide then takes fewer sheets."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

from zester.core.casting.casting import Slot
from zester.core.casting.search import Found, search_guide
from zester.core.casting.sharing import Size
from zester.core.errors import GuideError
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM

# A border of a sixteenth (of a millimetre) less takes this much off a piece, each way.
LESS = {"in": TICKS_PER_INCH // 8, "mm": 2 * TICKS_PER_MM}
# A look at one of them gets so much of the seconds there are.
SHARE = 0.4


@dataclass(frozen=True)
class Nudge:
    """Pieces that might be a little smaller, and what that comes to."""

    sizes: tuple[Size, ...]
    """As they are written, width and height in ticks."""
    sheets: int
    """How many sheets the guide takes then."""


def smaller(size: Size, unit: str) -> Size:
    """A size with a border of a sixteenth, or a millimetre, less all round; ticks."""
    return size[0] - LESS[unit], size[1] - LESS[unit]


def nudges(
    slots: Sequence[Slot],
    found: Found,
    sizes: Iterable[Size],
    tell: Callable[[str], None],
    *,
    seconds: float,
) -> list[Nudge]:
    """Which of these sizes, each alone or else all together, save a sheet if they are a little smaller.

    Parameters
    ----------
    slots, found
        The lettered pieces, and the guide they have.
    sizes
        Those that may be smaller, ticks.
    tell
        Hears a few words now and then; may raise to stop.
    seconds
        The budget.
    """
    end = time.monotonic() + seconds
    sizes = list(dict.fromkeys(sizes))
    alone = [(size,) for size in sizes]
    saving = [nudge for group in alone if (nudge := _tried(slots, found, group, tell, end, SHARE * seconds))]
    if saving or len(sizes) < 2:
        return saving
    together = _tried(slots, found, tuple(sizes), tell, end, seconds)
    return [together] if together else []


def _tried(
    slots: Sequence[Slot],
    found: Found,
    sizes: tuple[Size, ...],
    tell: Callable[[str], None],
    end: float,
    seconds: float,
) -> Nudge | None:
    guide, left = found.guide, min(seconds, end - time.monotonic())
    changed = [_nudged(slot, sizes, guide.unit) for slot in slots]
    # By area alone most of them save nothing, whatever is done.
    room = (found.sheets - 1) * guide.width * guide.height
    if left <= 0 or sum(slot.width * slot.height * slot.count for slot in changed) > room:
        return None
    try:
        less = search_guide(changed, guide.width, guide.height, guide.unit, tell, seconds=left)
    except GuideError:
        return None
    return Nudge(sizes, less.sheets) if less.sheets < found.sheets else None


def _nudged(slot: Slot, sizes: tuple[Size, ...], unit: str) -> Slot:
    if (slot.width, slot.height) not in sizes:
        return slot
    width, height = smaller((slot.width, slot.height), unit)
    return replace(slot, width=width, height=height)
