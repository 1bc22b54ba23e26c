"""Reading, saving, keeping and renaming cut lists; the designer's tools."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from zester.core.cards.study import Study, study
from zester.core.cutlist.lines import Reading
from zester.core.cutlist.notation import read_list, rename_paper, rename_tool
from zester.core.cutlist.pieces import Known
from zester.core.cutlist.pieces import Tool as CoreTool
from zester.core.lengths import RULERS
from zester.designs.models import Card, Edition, Tool
from zester.shelf.services import papers_of, stocks

LONGEST_LIST = 40_000


@dataclass(frozen=True)
class Saved:
    """What came of saving: ``conflict`` means another window saved in between, and nothing was overwritten."""

    card: Card
    conflict: bool


def known_to(user: AbstractBaseUser) -> Known:
    """The papers and tools the user's lists may name."""
    return Known(tuple(stocks(papers_of(user))), tuple(_core_tool(tool) for tool in tools_of(user)))


def tools_of(user: AbstractBaseUser) -> QuerySet[Tool]:
    """The user's dies, punches and folders."""
    return Tool.objects.of(user)


def _core_tool(tool: Tool) -> CoreTool:
    largest = (tool.largest_width, tool.largest_height) if tool.largest_width and tool.largest_height else None
    sizes = tuple((width, height) for width, height in tool.sizes)
    return CoreTool(tool.name, tool.kind, tool.shape, sizes, tool.reach, largest)


def read_card(card: Card, known: Known, text: str | None = None) -> list[Reading]:
    """Read the card's list, or ``text`` in its place."""
    return read_list(card.cut_list if text is None else text, known, RULERS[card.ruler])


def study_card(card: Card, known: Known, text: str | None = None, version: str = "") -> Study:
    """The card's list, or ``text`` in its place, looked at as a card."""
    return study(read_card(card, known, text), known, RULERS[card.ruler], version)


def save_list(card: Card, text: str, version: int, editor: str, *, force: bool = False) -> Saved:
    """Keep the list exactly as typed, right or wrong.

    Saving is refused if another editor saved since ``version``, unless ``force``. Line ends are made plain.
    """
    text = plain_lines(text)
    with transaction.atomic():
        card = Card.objects.select_for_update().get(pk=card.pk)
        if not force and card.version != version and card.saved_by != editor and card.cut_list != text:
            return Saved(card, conflict=True)
        if card.cut_list != text or card.saved_by != editor:
            card.cut_list, card.saved_by, card.version = text[:LONGEST_LIST], editor, card.version + 1
            card.saved_at = timezone.now()
            card.save(update_fields=["cut_list", "saved_by", "version", "saved_at"])
    return Saved(card, conflict=False)


def plain_lines(text: str) -> str:
    """The text with every kind of line end as the plain one, so that all count its lines alike."""
    return "\n".join(text.splitlines()) + ("\n" if text.endswith(("\n", "\r")) else "")


@transaction.atomic
def keep_edition(card: Card, name: str) -> Edition:
    """Keep the list as it is now under a name."""
    return Edition.objects.create(card=card, name=name, cut_list=card.cut_list, ruler=card.ruler)


@transaction.atomic
def replace_list(card: Card, text: str, ruler: str, before: str) -> Card:
    """Put another list in place of the card's; the one before is kept as an edition, unless it was empty."""
    card = Card.objects.select_for_update().get(pk=card.pk)
    if card.cut_list.strip():
        keep_edition(card, before)
    card.cut_list, card.ruler = plain_lines(text)[:LONGEST_LIST], ruler or card.ruler
    card.version, card.saved_by, card.saved_at = card.version + 1, "library", timezone.now()
    card.save(update_fields=["cut_list", "ruler", "version", "saved_by", "saved_at"])
    return card


@transaction.atomic
def copy_card(card: Card, name: str) -> Card:
    """A new card with the same list and notes; the photo and the kept lists stay with the old one."""
    return Card.objects.create(
        owner=card.owner,
        name=name,
        ruler=card.ruler,
        cut_list=card.cut_list,
        notes=card.notes,
        went_wrong=card.went_wrong,
    )


def follow_paper(user: AbstractBaseUser, old_name: str, new_name: str, before: Known) -> int:
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


def follow_tool(user: AbstractBaseUser, old_name: str, new_name: str, before: Known) -> None:
    """After a tool was renamed, rename it in all the user's lists, which can still be read with ``before``."""
    for card in Card.objects.of(user):
        text = rename_tool(card.cut_list, old_name, new_name, before, RULERS[card.ruler])
        if text != card.cut_list:
            card.cut_list, card.version, card.saved_by = text, card.version + 1, "tools"
            card.save(update_fields=["cut_list", "version", "saved_by", "saved_at"])


def lists_naming(user: AbstractBaseUser, paper: str, known: Known) -> list[str]:
    """The names of the user's cards whose lists use the paper."""
    return [
        card.name
        for card in Card.objects.of(user)
        if any(reading.piece and reading.piece.paper == paper for reading in read_card(card, known))
    ]
