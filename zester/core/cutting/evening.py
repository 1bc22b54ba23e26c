"""An order of work for a whole class: what dries is trimmed and done first, then all else, the packing last.

Minutes add up, so that an evening can be planned and cut into sittings. Times for packing are common practice without
a source.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

# What is done to a piece comes after it is trimmed, also where that has to dry.
TRIMMED_FIRST, DRYING, TRIMMING = "trimmed first, for what has to dry", "set aside to dry", "at the trimmer"
WORKING, LYING, PACKING = "working the pieces", "last, lying flat to dry", "packing"
PHASES = (TRIMMED_FIRST, DRYING, TRIMMING, WORKING, LYING, PACKING)
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
    dries: int = 0
    """How many minutes it then has to dry."""
    job: str = ""
    """Of handwork which job it is, in words, without the piles."""
    count: int = 0
    """Of handwork how many pieces it is done to."""
    usual: int = 0
    """Of handwork how many seconds it usually takes; 0 where the list says how long."""

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


@dataclass(frozen=True, kw_only=True)
class Job:
    """Something that is done to one pile."""

    phase: str
    """One of ``PHASES``."""
    what: str
    """What is done to every piece, in words."""
    pile: str
    """Handle and name of its pieces."""
    count: int
    """How many there are."""
    seconds: int
    """For one piece."""
    by: str = ""
    """Who does it, if somebody is named."""
    tool: str = ""
    """The tool that can hurt."""
    dries: int = 0
    """How many minutes it then has to dry."""
    usual: int = 0
    """How many seconds one usually takes; 0 where the list says how long."""


def in_one_go(jobs: Iterable[Job]) -> list[Task]:
    """What is done alike is done in one go, whatever card and paper it is of; what takes the same tool on end."""
    alike: dict[tuple[str, ...], list[Job]] = {}
    for job in jobs:
        alike.setdefault((job.phase, job.by, job.tool, job.what), []).append(job)
    tools = list(dict.fromkeys(key[:3] for key in alike))
    return [_in_one_go(alike[key]) for key in sorted(alike, key=lambda key: tools.index(key[:3]))]


def _in_one_go(jobs: Sequence[Job]) -> Task:
    first, counts = jobs[0], dict[str, int]()
    for job in jobs:
        counts[job.pile] = counts.get(job.pile, 0) + job.count
    piles = ", ".join(f"{count} {pile}" for pile, count in counts.items())
    return Task(
        phase=first.phase,
        what=f"{first.what}: {piles}",
        seconds=sum(job.seconds * job.count for job in jobs),
        by=first.by,
        tool=first.tool,
        dries=max(job.dries for job in jobs),
        job=first.what,
        count=sum(counts.values()),
        usual=sum(job.usual * job.count for job in jobs),
    )


def drying_in_words(tasks: Sequence[Task], phase: str) -> str:
    """How long what is set aside has to dry, and what goes on meanwhile; empty if nothing has to."""
    dries = max((task.dries for task in tasks if task.phase == phase and not task.done), default=0)
    if not dries:
        return ""
    words = f"dries about {minutes_in_words(dries)}"
    after = PHASES[PHASES.index(phase) + 1 : PHASES.index(PACKING)]
    meanwhile = sum(task.minutes for task in tasks if task.phase in after and not task.done)
    if meanwhile >= dries:
        return f"{words}; go on meanwhile"
    filled = f"what follows fills {minutes_in_words(meanwhile)}, then " if meanwhile else ""
    return f"{words}; {filled}wait {minutes_in_words(dries - meanwhile)} before packing"


def minutes_by_person(tasks: Iterable[Task]) -> dict[str, int]:
    """What is left for everybody who is named, minutes; what nobody is named for under no name."""
    found: dict[str, int] = {}
    for task in tasks:
        if not task.done:
            found[task.by] = found.get(task.by, 0) + task.minutes
    return found


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
    trimming = sum(task.minutes for task in left if task.phase in (TRIMMED_FIRST, TRIMMING))
    words = f"about {minutes_in_words(sum(task.minutes for task in left))}"
    return f"{words}, of which {minutes_in_words(trimming)} at the trimmer" if trimming else words
