"""How the stations Design and Count of classes stand, from what is stored."""

from __future__ import annotations

from collections.abc import Iterable

from zester.classes.models import CardClass
from zester.site.stations import State, some


def design_states(classes: Iterable[CardClass]) -> dict[int, State]:
    """The Design station of each class, by key."""
    return {each.pk: _design(each) for each in classes}


def _design(card_class: CardClass) -> State:
    if card_class.n_wrong:
        return "todo", f"{some(card_class.n_wrong, 'line')} to mend"
    if card_class.n_faults:
        return "todo", f"{some(card_class.n_faults, 'fault')} to mend"
    if not card_class.n_lines:
        return "ready", "write the first card"
    return "done", f"{some(card_class.n_cards, 'card')}, {some(card_class.n_lines, 'line')}"


def count_states(classes: Iterable[CardClass]) -> dict[int, State]:
    """The Count station of each class, by key."""
    return {each.pk: _count(each) for each in classes}


def _count(card_class: CardClass) -> State:
    if card_class.n_uncast:
        return "todo", f"{some(card_class.n_uncast, 'piece')} to cast"
    return ("done", some(card_class.n_pieces, "piece")) if card_class.n_pieces else ("wait", "after the list")
