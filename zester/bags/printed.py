"""What the Pack station prints: labels for bags and kits, the list for a helper without a screen."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from django.utils.safestring import SafeString

from zester.bags.board import Board, Line, ShownKit
from zester.core.kits.packing import ALL
from zester.printing.codes import code_picture

# More in one file would keep a browser waiting for minutes.
MOST_LABELS = 500
BAGS, KITS = "bags", "kits"
_NUMBERED = re.compile(r"(\D+)(\d+)")
ORDERS = {"design": "design by design", "person": "person by person"}


@dataclass(frozen=True, kw_only=True)
class PackLabel:
    """The label of a bag or a kit."""

    big: str
    """What is read from afar: the card's letter, or a person's name."""
    title: str
    """Whose bag it is, or where the kit goes."""
    lines: tuple[str, ...]
    """What else is written on it, line by line."""
    inside: str
    """What is in it."""
    code: SafeString
    """The code that opens its page."""


def bag_labels(board: Board, order: str, address: Callable[[str, str], str], part: int = 1) -> list[PackLabel]:
    """A label for every bag, up to ``MOST_LABELS`` of them; ``address`` gives that of a bag or a kit, whole."""
    if order == "person":
        rows = [bag for kit in board.kits for bag in kit.bags]
    else:
        rows = [row for stack in board.stacks for row in stack.rows]
    found = []
    for row in rows[(part - 1) * MOST_LABELS : part * MOST_LABELS]:
        lines = board.lines(row.bag.items, board.notes.get(row.bag.key, ()))
        notes = [words for words in row.notes if "instead" in words]
        found.append(
            PackLabel(
                big="" if row.bag.letter == ALL else row.bag.name,
                title=row.name,
                lines=(board.card_name(row.bag.letter), *board.instead_words(row.bag.items), *notes),
                inside=_inside(lines),
                code=code_picture(address("bag", row.bag.key)),
            )
        )
    return found


def parts_of(number: int) -> list[tuple[int, str]]:
    """The files that so many labels come in: their numbers, and which labels are in each."""
    starts = range(0, number, MOST_LABELS)
    return [(n, f"{first + 1} to {min(first + MOST_LABELS, number)}") for n, first in enumerate(starts, 1)]


def kit_labels(board: Board, address: Callable[[str, str], str], page: str = "") -> list[PackLabel]:
    """A label for every kit; with ``page``, the whole address of the page for participants, its code leads there."""
    there = code_picture(page) if page else None
    people = {str(person.pk): person for person in board.card_class.people.all()}
    found = []
    for each in board.kits:
        person = people.get(each.kit.person)
        found.append(
            PackLabel(
                big=person.name if person else each.name,
                title=person.address if person else "",
                lines=(_ordered(each), board.card_class.title, *_notes(each)),
                inside=_beside(board, each),
                code=there or code_picture(address("kit", each.kit.key)),
            )
        )
    return found


def _ordered(each: ShownKit) -> str:
    kit = each.kit
    number = f" {kit.number} of {kit.of}" if kit.of > 1 else ""
    return f"{kit.what or 'kit'}{number}"


def _notes(each: ShownKit) -> Iterable[str]:
    """What is put in instead of something, so that people are told."""
    said = (*each.notes, *(words for bag in each.bags for words in bag.notes))
    return dict.fromkeys(words for words in said if "instead" in words)


def _beside(board: Board, each: ShownKit) -> str:
    bags = ", ".join(bag.bag.name if bag.bag.letter != ALL else "one bag" for bag in each.bags)
    rest = _inside(board.lines(each.kit.beside))
    return "; ".join(filter(None, (f"Bags {bags}" if bags else "", rest)))


def _inside(lines: Iterable[Line]) -> str:
    """``2 × A1–A8, 1 × A9, 8 foam squares``: pieces of which there are as many stand together."""
    pieces: dict[str, list[str]] = {}
    rest = []
    for line in lines:
        if line.handle:
            pieces.setdefault(line.count, []).append(line.handle)
        else:
            rest.append(f"{line.count} {line.name}")
    return ", ".join([*(f"{count} × {in_ranges(handles)}" for count, handles in pieces.items()), *rest])


def in_ranges(handles: Iterable[str]) -> str:
    """``A1–A3, A7`` of handles in order."""
    runs: list[list[str]] = []
    for handle in handles:
        if runs and _follows(runs[-1][-1], handle):
            runs[-1].append(handle)
        else:
            runs.append([handle])
    return ", ".join(run[0] if len(run) == 1 else f"{run[0]}–{run[-1]}" for run in runs)


def _follows(one: str, other: str) -> bool:
    first, second = _NUMBERED.fullmatch(one), _NUMBERED.fullmatch(other)
    return bool(first and second) and first[1] == second[1] and int(first[2]) + 1 == int(second[2])
