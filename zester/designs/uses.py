"""Where designs are used. The designs know nobody above them; who uses them says so here."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from zester.designs.models import Card


@dataclass(frozen=True, kw_only=True)
class Use:
    """A place where a design is used."""

    name: str
    """What it is called."""
    letter: str
    """The design's letter there."""
    url: str
    """The design's page there."""
    keeps: bool = False
    """Whether it keeps its own state of the design, whatever becomes of that."""


@dataclass(frozen=True, kw_only=True)
class Place:
    """A place that a design could be put into."""

    key: int
    """What it is known by."""
    name: str
    """What it is called."""


class User(Protocol):
    """Somebody who uses designs."""

    put_url: str
    """The name of the address that puts a design (its key in the address) into a place (posted as ``class``)."""

    def uses(self, cards: Sequence[Card]) -> dict[int, list[Use]]:
        """Where each of the cards, by key, is used."""

    def places(self, card: Card) -> list[Place]:
        """What the card could be put into."""


_USERS: list[User] = []


def register(user: User) -> None:
    """Be asked where designs are used."""
    _USERS.append(user)


def uses_of(cards: Sequence[Card]) -> dict[int, list[Use]]:
    """Where each of the cards, by key, is used."""
    found: dict[int, list[Use]] = {card.pk: [] for card in cards}
    for user in _USERS:
        for key, uses in user.uses(cards).items():
            found[key] += uses
    return found


def places_for(card: Card) -> list[tuple[str, list[Place]]]:
    """What the card could be put into, with the name of the address that does it."""
    return [(user.put_url, user.places(card)) for user in _USERS]
