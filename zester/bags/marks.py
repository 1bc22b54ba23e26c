"""Ticking off at the packing table: several people at once, each tick once, and what a page is told of it."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from uuid import UUID

from django.db import transaction
from django.db.models import QuerySet

from zester.bags.board import Board, ShownKit, ShownStack, board_of, board_with, digest, kit_of
from zester.bags.models import Mark
from zester.bags.shortages import say_anew
from zester.classes.held import follow_again, hold_designs
from zester.classes.models import CardClass
from zester.classes.people import set_state
from zester.classes.services import CountedClass, count_class, hold_class, recount
from zester.core.errors import ZesterError, storable
from zester.core.kits.demand import PERSON
from zester.core.kits.packing import BAGGINGS
from zester.site.prepared import prepared

MOST_TICKS = 500
LARGEST = 200_000
STACK, THING = "stack", "thing"


@dataclass(frozen=True)
class Tick:
    """A tick as it comes from a browser."""

    key: UUID
    """What it is known by."""
    kind: str
    """``stack``: one bag more of those; ``thing``: this bag, or this kit."""
    what: str
    """The key of the stack, the bag or the kit."""
    on: bool
    """Whether it is packed; otherwise it is not after all."""
    device: str
    """What the device is called."""


def read_ticks(body: bytes) -> list[Tick]:
    """The ticks of a request, in order. Raises ZesterError if it is something else."""
    if len(body) > LARGEST:
        raise ZesterError("These are too many ticks at once", mend="Reload the page")
    try:
        entries = json.loads(body)
        if not isinstance(entries, list) or len(entries) > MOST_TICKS:
            raise ValueError("no list")
        return [_tick(entry) for entry in entries]
    except (ValueError, KeyError, TypeError, AttributeError, OverflowError, RecursionError) as error:
        raise ZesterError("These are no ticks", mend="Reload the page") from error


def _tick(entry: dict) -> Tick:
    kind, what, on, device = entry["kind"], entry["what"], entry["on"], entry.get("device", "")
    if kind not in (STACK, THING) or not isinstance(what, str) or len(what) > 80 or not isinstance(on, bool):
        raise ValueError("no tick")
    if not isinstance(device, str) or not storable(device + what):
        raise ValueError("no name")
    return Tick(UUID(str(entry["key"])), kind, what, on, device[:40])


@prepared
def _marks_of(card_class: int) -> QuerySet:
    return Mark.objects.filter(card_class=card_class).values_list("pk", "what", "wanted")


def follow_counts(sender: type, counted: CountedClass, **_) -> None:
    """Hears that a class was counted: what is packed for nobody any more is not one of the bags that are packed."""
    marks = _marks_of(counted.card_class.pk)
    if not marks:
        return
    kits = counted.packed.kits
    known = {kit.key for kit in kits} | {bag.key for kit in kits for bag in kit.bags}
    for wanted in (True, False):
        changed = [pk for pk, what, was in marks if was != wanted and (what in known) == wanted]
        if changed:
            Mark.objects.filter(pk__in=changed).update(wanted=wanted)


@transaction.atomic
def tick(card_class: CardClass, ticks: Iterable[Tick]) -> tuple[dict[str, str], Board]:
    """Keep what was ticked, in order; by the key of a tick the bag it was for, if there was one, and how all stands.

    Of a stack each tick takes the next bag that nobody has packed, so that two people at one pile never mark the same.
    What is here already is here once.
    """
    hold_class(card_class.pk)
    counted = count_class(card_class)
    took: dict[str, str] = {}
    touched: dict[str, str] = {}
    for each in ticks:
        known = Mark.objects.filter(key=each.key).first()
        if known:
            if known.card_class_id == card_class.pk:
                took[str(each.key)] = known.what
            continue
        board = Board(counted, Mark.objects.filter(card_class=card_class), ())
        what = _meant(board, each)
        if what:
            took[str(each.key)] = what
            touched[kit_of(what)] = _keep(board, what, each) or touched.get(kit_of(what), "")
    if touched:
        hold_designs(card_class, counted.held)
    now = board_with(counted)
    closed = {key for key in touched if key in now.marks or (key in now.kits_by_key and now.kits_by_key[key].done)}
    move_people(card_class, {key: before for key, before in touched.items() if before or key in closed})
    return took, now


def _meant(board: Board, each: Tick) -> str:
    """The bag or kit that a tick is for; empty if there is none."""
    if each.kind == STACK:
        stack = board.stack(each.what)
        row = stack.next if stack else None
        return row.bag.key if row else ""
    kit = board.kits_by_key.get(each.what)
    if kit and kit.only_bag:
        return kit.only_bag.bag.key
    known = each.what in board.bags or kit
    return each.what if known or each.what in board.marks else ""


def _keep(board: Board, what: str, each: Tick) -> str:
    """Store a tick; of one that is taken back the state from which it had moved its person on."""
    if not each.on:
        mark = board.marks.get(what)
        Mark.objects.filter(card_class=board.card_class, what=what).delete()
        return mark.moved_from if mark else ""
    items = board.bags[what].bag.items if what in board.bags else board.kits_by_key[what].kit.beside
    holds = {"holds": digest(items), "key": each.key, "device": each.device}
    Mark.objects.update_or_create(card_class=board.card_class, what=what, defaults=holds)
    return ""


def move_people(card_class: CardClass, kits: Mapping[str, str]) -> None:
    """Whoever has paid and all of whose kits are packed now is packed for; and no longer when one is opened again.

    ``kits``: by the keys of kits something was done to the state from which a mark that is gone had moved their person.
    """
    people: dict[str, str] = {}
    for key, before in kits.items():
        if key.startswith(PERSON):
            person = key.removeprefix(PERSON).split("-", 1)[0]
            people[person] = before or people.get(person, "")
    if not people:
        return
    board = board_of(card_class)
    states = {person.key: person.state for person in board.counted.needs.people}
    for person, gone in people.items():
        mine = [kit for kit in board.kits if kit.kit.person == person]
        closing = [kit.closed_by for kit in mine if kit.closed_by]
        before = gone or next((mark.moved_from for mark in closing if mark.moved_from), "")
        state = states.get(person, "")
        if mine and all(kit.done for kit in mine):
            if state == "paid":
                Mark.objects.filter(pk=closing[-1].pk).update(moved_from=state)
                set_state(card_class, {int(person): state}, "packed")
        elif state == "packed" and before:
            set_state(card_class, {int(person): state}, before)
            Mark.objects.filter(card_class=card_class, what__startswith=f"{PERSON}{person}-").update(moved_from="")


@transaction.atomic
def set_bagging(card_class: CardClass, bagging: str) -> None:
    """Choose how many bags a kit has. Raises ZesterError once something is packed."""
    if bagging not in BAGGINGS:
        raise ZesterError("That is no way to pack", mend="Choose one of those that are offered")
    card_class = hold_class(card_class.pk)
    if bagging == card_class.bagging:
        return
    number = Mark.objects.filter(card_class=card_class).count()
    if number:
        words = "1 bag or kit is packed" if number == 1 else f"{number} bags and kits are packed"
        raise ZesterError(f"{words} already", mend="Begin the packing again, then choose")
    card_class.bagging = bagging
    card_class.save(update_fields=["bagging"])
    recount(card_class.pk)
    say_anew(card_class)


@transaction.atomic
def begin_again(card_class: CardClass) -> int:
    """Nothing is packed after all; how many marks are gone."""
    card_class = hold_class(card_class.pk)
    marks = Mark.objects.filter(card_class=card_class).exclude(moved_from="")
    moved = {kit_of(what): before for what, before in marks.values_list("what", "moved_from")}
    # What lies on the shelf as a ready kit stays packed.
    number, _ = Mark.objects.filter(card_class=card_class, on_shelf=False).delete()
    move_people(card_class, moved)
    follow_again(card_class)
    return number


@transaction.atomic
def take_apart(card_class: CardClass, what: str) -> None:
    """What was packed for nobody is taken out of its bag again."""
    hold_class(card_class.pk)
    Mark.objects.filter(card_class=card_class, what=what).delete()


@transaction.atomic
def hand_on(card_class: CardClass, what: str, to: str) -> None:
    """What was packed for nobody is another kit's now. Raises ZesterError if that holds something else."""
    hold_class(card_class.pk)
    board = board_of(card_class)
    row = next((each for each in board.surplus if each.mark.what == what), None)
    if row is None or to not in {each.kit.key for each in row.fits}:
        raise ZesterError("That kit holds something else, or is packed", mend="Look at the list again")
    row.mark.what, row.mark.wanted = f"{to}{what.removeprefix(row.kit)}", True
    row.mark.save(update_fields=["what", "wanted"])
    move_people(card_class, {to: ""})


def state_of(board: Board, stack: ShownStack | None = None, kit: ShownKit | None = None) -> dict:
    """What a page is told: sums, and how its own stack or kit stands."""
    state: dict = {
        "bags": [board.bags_done, len(board.bags)],
        "kits": [board.kits_done, len(board.kits)],
        "short": len(board.open_shortages),
    }
    if stack:
        row = stack.next
        state["stack"] = [stack.done, len(stack.rows)]
        state["next"] = {"for": row.name, "notes": list(row.notes)} if row else None
    elif kit:
        state["done"] = [*(bag.bag.key for bag in kit.bags if bag.done), *([kit.kit.key] if kit.done else [])]
    else:
        state["stacks"] = {each.key: each.done for each in board.stacks}
        state["each"] = {each.kit.key: [each.state, each.words] for each in board.kits}
    return state
