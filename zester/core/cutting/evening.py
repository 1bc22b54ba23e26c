"""An order of work for a whole class: what dries first, then the trimming paper by paper, the piles, the packing.

Minutes add up, so that an evening can be planned and cut into sittings. Times for packing are common practice without
a source.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

DRYING, TRIMMING, WORKING, PACKING = "first, as it has to dry", "at the trimmer", "working the pieces", "packing"
PHASES = (DRYING, TRIMMING, WORKING, PACKING)
BAG_SECONDS, KIT_SECONDS, COUNT_SECONDS = 25, 60, 1


@dataclass(frozen=True, kw_only=True)
class Task:
    """Something to do, in one go."""

    phase: str
    """One of ``PHASES``."""
    what: str
    """In words."""
    seconds: int
    """How long it takes, about."""
    by: str = ""
    """Who does it, if somebody is named."""
    tool: str = ""
    """The tool that can hurt."""
    key: str = ""
    """What it is known by, of a paper its key."""
    done: bool = False
    """Whether it is done."""

    @property
    def minutes(self) -> int:
        """How long it takes, in whole minutes, as every page says it: so what is shown adds up."""
        return -(-self.seconds // 60)


@dataclass(frozen=True)
class Sitting:
    """What is done at one sitting."""

    tasks: tuple[Task, ...]
    """In order."""

    @property
    def minutes(self) -> int:
        """How long it takes."""
        return sum(task.minutes for task in self.tasks)


def packing(bags: int, kits: int, pieces: int) -> list[Task]:
    """Counting pieces into bags, bags into kits."""
    found = []
    if bags:
        words = f"{pieces:,} piece{'s' if pieces != 1 else ''} into {bags} bag{'s' if bags != 1 else ''}"
        found.append(Task(phase=PACKING, what=words, seconds=BAG_SECONDS * bags + COUNT_SECONDS * pieces))
    if kits:
        words = f"bags, envelopes and bits into {kits} kit{'s' if kits != 1 else ''}"
        found.append(Task(phase=PACKING, what=words, seconds=KIT_SECONDS * kits))
    return found


def in_order(tasks: Iterable[Task]) -> list[Task]:
    """Phase by phase, otherwise as they came."""
    return sorted(tasks, key=lambda task: PHASES.index(task.phase))


def sittings(tasks: Sequence[Task], minutes: int) -> list[Sitting]:
    """The tasks that are left, cut into sittings of at most so long; one that is longer has a sitting to itself."""
    found: list[list[Task]] = []
    for task in tasks:
        if task.done:
            continue
        if not found or sum(each.minutes for each in found[-1]) + task.minutes > minutes:
            found.append([])
        found[-1].append(task)
    return [Sitting(tuple(group)) for group in found]


def minutes_in_words(minutes: int) -> str:
    """``3 h 10``, ``45 min``; never nothing."""
    minutes = max(1, minutes)
    if minutes < 60:
        return f"{minutes} min"
    return f"{minutes // 60} h {minutes % 60:02d}" if minutes % 60 else f"{minutes // 60} h"


def evening_in_words(tasks: Sequence[Task]) -> str:
    """``about 3 h 10, of which 1 h 50 at the trimmer``; empty if all is done."""
    left = [task for task in tasks if not task.done]
    if not left:
        return ""
    trimming = sum(task.minutes for task in left if task.phase == TRIMMING)
    words = f"about {minutes_in_words(sum(task.minutes for task in left))}"
    return f"{words}, of which {minutes_in_words(trimming)} at the trimmer" if trimming else words
