"""What needs somebody of a class today: its next step, and what else waits for a word.

The apps that own a station say it; nothing here knows any of them. It is asked of the one class that comes next.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import chain


@dataclass(frozen=True, kw_only=True)
class Need:
    """One thing that waits for somebody."""

    words: str
    """What it is, as a sentence or a button has it."""
    url: str
    """Where it is done."""
    grave: bool = False
    """Whether the class cannot be held without it."""


# Given a class: what is to be done next at a station, or nothing; and all else that waits.
Next = Callable[..., Need | None]
Needs = Callable[..., Iterable[Need]]
_ORDER = ("design", "count", "fit", "cut", "pack")
_NEXT: dict[str, Next] = {}
_NEEDS: dict[str, Needs] = {}


def register_next(station: str, step: Next) -> None:
    """Say what is next at a station."""
    _NEXT[station] = step


def register_needs(station: str, needs: Needs) -> None:
    """Say what else waits at a station."""
    _NEEDS[station] = needs


def next_step(card_class) -> Need | None:
    """The first thing to be done, from Design to Pack; nothing where all is packed."""
    found = (_NEXT[key](card_class) for key in _ORDER if key in _NEXT)
    return next((need for need in found if need), None)


def needs_of(card_class) -> Iterator[Need]:
    """What else waits, in the order of the stations."""
    return chain.from_iterable(_NEEDS[key](card_class) for key in _ORDER if key in _NEEDS)
