"""Who uses papers. The shelf knows nobody above it; who does says so here."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

from zester.core.class_job import SHEET_ID
from zester.core.stock.ledger import Wanted, open_for
from zester.shelf.models import Paper, Sheet

# Gives the names of the things that use a paper.
UsedIn = Callable[[Paper], list[str]]
# Gives, for a paper and the name it shall have, what would no longer be clear, one sentence each.
Unclear = Callable[[Paper, str], list[str]]


@dataclass(frozen=True, kw_only=True)
class Promised:
    """Sheets or offcuts that a class is planned with."""

    paper: int
    """The paper's key in the database."""
    sheet: str
    """What plans call the kind of sheet."""
    count: int
    """How many."""
    card_class: int
    """The class's key in the database."""
    title: str
    """The class's title."""
    part: int = 1
    """Which of its plans for the paper: the first, or a supplement."""

    @property
    def wanted(self) -> Wanted:
        """The same as the ledger takes it."""
        return Wanted(who=who(self.card_class, self.part), count=self.count)


def who(card_class: int, part: int) -> str:
    """What the ledger knows a class's plan of a paper by."""
    return f"{card_class}-{part}"


# Gives all that the classes of the user with this key are planned with, in the order in which classes are served.
PromisedTo = Callable[[int], Iterable[Promised]]

_PROMISED: list[PromisedTo] = []
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


def register_promised(promised: PromisedTo) -> None:
    """Be asked what classes are planned with."""
    _PROMISED.append(promised)


def promised(user: int) -> dict[tuple[int, str], list[Promised]]:
    """What this user's classes are planned with, by paper and kind of sheet; who is served first is first."""
    found: dict[tuple[int, str], list[Promised]] = {}
    for ask in _PROMISED:
        for each in ask(user):
            found.setdefault((each.paper, each.sheet), []).append(each)
    return found


Wants = Mapping[tuple[int, str], list[Promised]]


def open_stock(wants: Wants, mine: str, paper: Paper, sheets: Iterable[Sheet]) -> dict[str, int]:
    """What somebody (``who``) may plan with of a paper with several sizes or offcuts: what no other is promised.

    ``wants`` are what ``promised`` gives; by what plans call the kind of sheet.
    """
    lying = {SHEET_ID: paper.on_hand} | {sheet.key: sheet.on_hand for sheet in sheets}
    return {
        key: open_for(mine, max(0, count or 0), [each.wanted for each in wants.get((paper.pk, key), ())])
        for key, count in lying.items()
    }


def plan_name(sheet: Sheet | None) -> str:
    """What plans call a kind of sheet; without one it is the paper's usual size."""
    return sheet.key if sheet else SHEET_ID
