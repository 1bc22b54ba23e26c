"""Ready kits: packed kits on the shelf that the next order takes, or that are sold, given away, taken apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from django.db import transaction
from django.utils import timezone

from zester.bags.board import Board, ShownKit, board_of, board_with, digest, kit_of
from zester.bags.marks import move_people
from zester.bags.models import Mark, ReadyKit
from zester.classes.models import CardClass, Participant
from zester.classes.services import hold_class
from zester.core.errors import ZesterError
from zester.core.kits.demand import PERSON, demands_of
from zester.core.kits.offers import COUNTED

GONE = "That kit is not there any more"


@transaction.atomic
def shelve(card_class: CardClass, kit: str, place: str) -> ReadyKit:
    """What is packed for nobody of one kit becomes a ready kit. Raises ZesterError if nothing is."""
    hold_class(card_class.pk)
    board = board_of(card_class)
    rows = [row for row in board.surplus if row.kit == kit]
    if not rows:
        raise ZesterError(GONE, mend="Look at the list again")
    marks = {row.mark.what.removeprefix(kit): row.mark.holds for row in rows}
    name, lines = _known_again(board, kit, marks)
    about = {
        "owner": card_class.owner,
        "card_class": card_class,
        "title": card_class.title,
        "place": place.strip()[:80],
    }
    made = ReadyKit.objects.create(name=name or rows[0].name.partition(",")[0], marks=marks, lines=lines, **about)
    Mark.objects.filter(pk__in=[row.mark.pk for row in rows]).delete()
    return made


def _known_again(board: Board, kit: str, marks: dict[str, str]) -> tuple[str, list[str]]:
    """What was ordered and what lies in it, if its order as it was holds just that."""
    person = kit.removeprefix(PERSON).split("-", 1)[0]
    needs = board.counted.needs
    people = tuple(replace(each, state="paid") if each.key == person else each for each in needs.people)
    needs = replace(needs, people=people)
    again = board_with(replace(board.counted, needs=needs, demands=tuple(demands_of(needs))))
    shown = next((each for each in again.kits if each.kit.key == kit), None)
    if shown is None or not marks.items() <= _holds(shown).items():
        return "", []
    items = [item for bag in shown.bags if bag.bag.key.removeprefix(kit) in marks for item in bag.bag.items]
    items += shown.kit.beside if "" in marks else ()
    return shown.kit.what, [f"{line.count} {line.handle} {line.name}".replace("  ", " ") for line in again.lines(items)]


def _holds(shown: ShownKit) -> dict[str, str]:
    """By what follows its key in a bag's what each of its bags holds, and what lies beside them."""
    found = {bag.bag.key.removeprefix(shown.kit.key): digest(bag.bag.items) for bag in shown.bags}
    return found | {"": digest(shown.kit.beside)}


def ready_here(card_class: CardClass, board: Board | None = None) -> list[tuple[ReadyKit, list[ShownKit]]]:
    """The ready kits of a class that are there, each with the kits not packed yet that hold just the same."""
    rows = list(ReadyKit.objects.filter(card_class=card_class, state=ReadyKit.State.THERE))
    if not rows:
        return []
    open_kits = [(kit, _holds(kit)) for kit in (board or board_of(card_class)).kits if not kit.mark and not _begun(kit)]
    return [(row, [kit for kit, holds in open_kits if row.marks.items() <= holds.items()]) for row in rows]


def _begun(kit: ShownKit) -> bool:
    return any(bag.mark for bag in kit.bags)


@transaction.atomic
def take(card_class: CardClass, row: int, kit: str) -> ReadyKit:
    """A ready kit is that kit now, and packed. Raises ZesterError if it holds something else or is gone."""
    hold_class(card_class.pk)
    found = next(((ready, kits) for ready, kits in ready_here(card_class) if ready.pk == row), None)
    shown = next((each for each in found[1] if each.kit.key == kit), None) if found else None
    if found is None or shown is None:
        raise ZesterError("That kit holds something else, or is packed", mend="Look at the list again")
    ready = found[0]
    Mark.objects.bulk_create(
        Mark(card_class=card_class, what=f"{kit}{rest}", holds=holds) for rest, holds in ready.marks.items()
    )
    ready.state, ready.gone_at = ReadyKit.State.TAKEN, timezone.now()
    ready.taken_by_id = int(shown.kit.person) if shown.kit.person else None
    ready.save(update_fields=["state", "gone_at", "taken_by"])
    move_people(card_class, {kit_of(kit): ""})
    return ready


def take_next(card_class: CardClass, people: Sequence[Participant]) -> list[str]:
    """Whoever orders what lies ready takes it: the first of the list the first kit. What happened in words."""
    mine = {str(person.pk): person.name for person in people if person.state in COUNTED}
    said = []
    # What was taken is packed by now, so that each time there is one less of both.
    while pairs := [(row, kit) for row, kits in ready_here(card_class) for kit in kits if kit.kit.person in mine]:
        ready, kit = pairs[0]
        take(card_class, ready.pk, kit.kit.key)
        lies = f" It lies: {ready.place}." if ready.place else ""
        said.append(f"{mine[kit.kit.person]} has the ready kit of {ready.name}, which is packed.{lies}")
    return said


@transaction.atomic
def let_go(ready: ReadyKit, state: str, words: str) -> None:
    """Say what became of a ready kit, or that it is on the shelf after all. Raises ZesterError if an order took it."""
    ready = ReadyKit.objects.select_for_update(of=("self",)).get(pk=ready.pk)
    if ready.state == ReadyKit.State.TAKEN:
        raise ZesterError(
            f"{ready.name} was taken by an order", mend="Cancel that order, then put its kit onto the shelf again"
        )
    if state not in ReadyKit.State.values or state == ReadyKit.State.TAKEN:
        raise ZesterError("What became of it?", mend="Choose sold, given away, taken apart, or on the shelf")
    ready.state, ready.words = state, words.strip()[:120]
    ready.gone_at = None if state == ReadyKit.State.THERE else timezone.now()
    ready.save(update_fields=["state", "words", "gone_at"])
