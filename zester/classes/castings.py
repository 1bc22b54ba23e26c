"""The castings of a class: from rows to the core's values and back, one change at a time, with a way back."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence, Set
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from zester.classes.models import CardClass, Casting
from zester.core.casting.casting import NOTHING, Slot, plain_slots, slots_of
from zester.core.casting.casting import Casting as Cast
from zester.core.errors import ZesterError
from zester.core.kits.demand import LAST, Instead
from zester.core.pieces import CutPiece, KnownPaper
from zester.site.prepared import prepared

MOST_CASTINGS, MOST_PAST, LONGEST_NAME = 8, 60, 40


@prepared
def _rows(card_class: int) -> QuerySet[Casting]:
    return Casting.objects.filter(card_class=card_class)


def castings_of(card_class: int) -> list[Casting]:
    """The castings of the class with this key, the one for everybody first."""
    return list(_rows(card_class))


def cast_of(row: Casting) -> Cast:
    """A casting as the core takes it."""
    kept = row.cast
    return Cast(
        letters=dict(kept.get("letters", {})),
        over=frozenset(kept.get("over", ())),
        instead=dict(kept.get("instead", {})),
        locked=frozenset(kept.get("locked", ())),
    )


def first_cast(card_class: int) -> Cast | None:
    """What everybody gets in the class with this key; None if nothing is cast."""
    rows = castings_of(card_class)
    return cast_of(rows[0]) if rows else None


def to_keep(cast: Cast) -> dict[str, Any]:
    """The same as a row keeps it."""
    return {
        "letters": dict(cast.letters),
        "over": sorted(cast.over),
        "instead": dict(cast.instead),
        "locked": sorted(cast.locked),
    }


def faces_of(papers: Iterable[KnownPaper]) -> dict[tuple[str, str], str]:
    """By a paper's key and its side how pieces that show it may lie."""
    return {(paper.key, side): paper.runs(side) for paper in papers for side in "ab"}


def taken_of(cast: Cast, slot: Slot) -> str | None:
    """What a piece is cut from as demand lines say it; None where its letter is not cast."""
    paper = cast.paper(slot)
    return f"{paper}|{cast.side(slot)}" if paper else paper


def instead_of(
    rows: Iterable[Casting], cards: Iterable[tuple[str, tuple[CutPiece, ...]]], names: Mapping[str, str]
) -> list[Instead]:
    """What the last kits get by castings of their own in place of everybody’s; pieces as they are written."""
    rows, slots = list(rows), castable(list(cards))
    found = []
    for row in rows[1:]:
        for handle, taken in _differing(rows[0], row, slots, names.keys()).items():
            name = names.get(taken.partition("|")[0], "nothing" if taken == NOTHING else "another paper")
            found.append(Instead(paper=handle, other=taken, name=name, who=LAST, last=row.last))
    return found


def castable(cards: Sequence[tuple[str, Sequence[CutPiece]]]) -> tuple[Slot, ...]:
    """Every piece a casting may say something of: the lettered ones, bases and mats."""
    return (*slots_of(cards), *plain_slots(cards))


def _differing(first: Casting, row: Casting, slots: Iterable[Slot], there: Set[str] | None = None) -> dict[str, str]:
    """By handle what a casting for the last kits takes where that is not what everybody's does.

    ``there``: the keys of the papers there are, where those that are gone are to be left out.
    """
    one, other = (cast_of(each) for each in (first, row))
    if there is not None:
        one, other = one.of_papers(there), other.of_papers(there)
    taken = {slot.handle: (taken_of(one, slot), taken_of(other, slot)) for slot in slots if row.last}
    return {handle: theirs for handle, (mine, theirs) in taken.items() if theirs is not None and theirs != mine}


def whose(rows: Sequence[Casting], slots: Sequence[Slot], instead: Mapping[str, str]) -> int:
    """Which of the castings (its place among them) kits have for which this is taken in place of what is written.

    A paper that has run out may be replaced since, so that most of what it says decides, not all.
    """
    alike = {}
    for at in range(1, len(rows)):
        mine = _differing(rows[0], rows[at], slots)
        if mine and mine.keys() <= instead.keys():
            alike[at] = sum(instead[handle] == taken for handle, taken in mine.items())
    return max(alike, key=lambda at: (alike[at], at), default=0)


@transaction.atomic
def add_casting(card_class: CardClass, name: str, like: Casting | None = None) -> Casting:
    """Another casting beside those there are; ``like``: begun as a copy of that.

    Raises
    ------
    ZesterError
        If its name is taken or empty, or there are enough.
    """
    name, rows = " ".join(name.split()), castings_of(card_class.pk)
    if not name or len(name) > LONGEST_NAME:
        raise ZesterError("What is the casting called?", mend=f"Up to {LONGEST_NAME} letters, like Blue set")
    if name.casefold() in (row.name.casefold() for row in rows):
        raise ZesterError(f"There is a casting called {name}", mend="Give this one another name")
    if len(rows) >= MOST_CASTINGS:
        raise ZesterError(f"A class has up to {MOST_CASTINGS} castings", mend="Take one away first")
    return Casting.objects.create(card_class=card_class, name=name, cast=like.cast if like else {})


@transaction.atomic
def change(row: Casting, move: Callable[[Cast], Cast]) -> Casting:
    """Change a casting by a move, so that it can be undone. Raises what the move raises; then nothing has changed."""
    row = Casting.objects.select_for_update().get(pk=row.pk)
    now = to_keep(move(cast_of(row)))
    if now != to_keep(cast_of(row)):
        row.past, row.undone, row.cast = [*row.past, row.cast][-MOST_PAST:], [], now
        row.save(update_fields=["past", "undone", "cast"])
    return row


@transaction.atomic
def undo(row: Casting) -> bool:
    """What it was before the last move; whether there was one."""
    return _step(row, "past", "undone")


@transaction.atomic
def redo(row: Casting) -> bool:
    """The move that was undone last; whether there was one."""
    return _step(row, "undone", "past")


def _step(row: Casting, back: str, forth: str) -> bool:
    row = Casting.objects.select_for_update().get(pk=row.pk)
    there = getattr(row, back)
    if not there:
        return False
    setattr(row, forth, [*getattr(row, forth), row.cast][-MOST_PAST:])
    setattr(row, back, there[:-1])
    row.cast = there[-1]
    row.save(update_fields=["past", "undone", "cast"])
    return True
