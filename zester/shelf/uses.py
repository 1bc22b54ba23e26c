"""Who uses papers. The shelf knows nobody above it; who does says so here."""

from __future__ import annotations

from collections.abc import Callable

from zester.shelf.models import Paper

# Gives the names of the things that use a paper.
UsedIn = Callable[[Paper], list[str]]
# Gives, for a paper and the name it shall have, what would no longer be clear, one sentence each.
Unclear = Callable[[Paper, str], list[str]]

_USED_IN: list[UsedIn] = []
_UNCLEAR: list[Unclear] = []


def register(used_in: UsedIn, unclear: Unclear) -> None:
    """Be asked who uses a paper, and what a new name would make unclear."""
    _USED_IN.append(used_in)
    _UNCLEAR.append(unclear)


def used_in(paper: Paper) -> list[str]:
    """The names of what uses the paper."""
    return [name for ask in _USED_IN for name in ask(paper)]


def unclear_after(paper: Paper, name: str) -> list[str]:
    """What would no longer be clear if the paper were called so."""
    return [words for ask in _UNCLEAR for words in ask(paper, name)]
