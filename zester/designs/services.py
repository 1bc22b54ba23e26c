"""Reading, saving and renaming in cut lists."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from zester.core.cutlist.notation import read_list, rename_paper
from zester.core.cutlist.pieces import Reading, Stock
from zester.core.lengths import RULERS
from zester.designs.models import Card
from zester.shelf.services import papers_of, stocks

LONGEST_LIST = 40_000


@dataclass(frozen=True)
class Saved:
    """What came of saving: ``conflict`` means another window saved in between, and nothing was overwritten."""

    card: Card
    conflict: bool


def stocks_of(user: AbstractBaseUser) -> list[Stock]:
    """The papers the user's lists may name."""
    return stocks(papers_of(user))


def read_card(card: Card, known: list[Stock], text: str | None = None) -> list[Reading]:
    """Read the card's list, or ``text`` in its place."""
    return read_list(card.cut_list if text is None else text, known, RULERS[card.ruler])


def save_list(card: Card, text: str, version: int, editor: str, *, force: bool = False) -> Saved:
    """Keep the list exactly as typed, right or wrong.

    Saving is refused if another editor saved since ``version``, unless ``force``. Line ends are made plain.
    """
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    with transaction.atomic():
        card = Card.objects.select_for_update().get(pk=card.pk)
        if not force and card.version != version and card.saved_by != editor and card.cut_list != text:
            return Saved(card, conflict=True)
        if card.cut_list != text or card.saved_by != editor:
            card.cut_list, card.saved_by, card.version = text[:LONGEST_LIST], editor, card.version + 1
            card.saved_at = timezone.now()
            card.save(update_fields=["cut_list", "saved_by", "version", "saved_at"])
    return Saved(card, conflict=False)


def follow_paper(user: AbstractBaseUser, old_name: str, new_name: str, before: list[Stock]) -> int:
    """After a paper was renamed, rename it in all the user's lists; returns how many lists changed.

    ``before`` are the papers as they were called before, so that the lists can still be read.
    """
    changed = 0
    for card in Card.objects.of(user):
        text = rename_paper(card.cut_list, old_name, new_name, before, RULERS[card.ruler])
        if text != card.cut_list:
            card.cut_list, card.version, card.saved_by = text, card.version + 1, "shelf"
            card.save(update_fields=["cut_list", "version", "saved_by", "saved_at"])
            changed += 1
    return changed


def lists_naming(user: AbstractBaseUser, paper: str, known: list[Stock]) -> list[str]:
    """The names of the user's cards whose lists use the paper."""
    return [
        card.name
        for card in Card.objects.of(user)
        if any(reading.piece and reading.piece.paper == paper for reading in read_card(card, known))
    ]
