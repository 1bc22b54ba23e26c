"""Guides that are searched: every slot made once, cards' letters apart, the number of sheets against CP-SAT."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Iterator
from functools import cache
from itertools import combinations
from unittest import TestCase

from ortools.sat.python import cp_model

from zester.core.casting.casting import Slot
from zester.core.casting.guide import check_guide, read_guide
from zester.core.casting.nudges import nudges
from zester.core.casting.search import Found, search_guide
from zester.core.casting.sharing import comes_out
from zester.core.casting.tests.test_guide import FIFTEEN
from zester.core.errors import GuideError
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.letters import LETTERS

SIDE = 6


def slot(card: int, number: int, letter: str, width: int, height: int) -> Slot:
    handle = f"{'ABCDEFGHIJKLMNOP'[card - 1]}{number}"
    sides = {"width": width * INCH, "height": height * INCH}
    return Slot(handle=handle, card=handle[0], number=card, letter=letter, name="Piece", **sides)


def search(slots: list[Slot], seconds: float = 4.0) -> Found:
    return search_guide(slots, SIDE * INCH, SIDE * INCH, "in", seconds=seconds)


class SearchTests(TestCase):
    def hold(self, found: Found, slots: list[Slot]) -> None:
        """It makes every slot once; what one card has of two letters comes out of two sheets, of one out of one."""
        check_guide(found.guide)
        made = [piece for sheet in found.guide.letters for piece in sheet.pieces]
        self.assertEqual(sorted(piece.id for piece in made), sorted(f"{each.handle}.1" for each in slots))
        where = {piece.id: sheet.letter for sheet in found.guide.letters for piece in sheet.pieces}
        for one, other in combinations(slots, 2):
            if one.card == other.card:
                same = where[f"{one.handle}.1"] == where[f"{other.handle}.1"]
                self.assertEqual(same, one.letter == other.letter, (one.handle, other.handle))
        self.assertGreaterEqual(found.sheets, found.bound)

    def test_fifteen_cards_come_from_six_sheets(self):
        # Common practice, no source: fifteen cards from six sheets of 6 × 6 in; the sizes are made up.
        guide = read_guide(FIFTEEN, SIDE * INCH, SIDE * INCH).guide
        slots, number = [], Counter()
        for sheet in guide.letters:
            for piece in sheet.pieces:
                number[piece.card] += 1
                sides = piece.width // INCH, piece.height // INCH
                slots.append(slot(piece.card, number[piece.card], sheet.letter, *sides))
        found = search(slots, 8.0)
        self.hold(found, slots)
        self.assertEqual((found.sheets, found.bound, found.proven), (6, 6, True))

    def test_hidden_guides_without_any_waste_are_found_again_and_proven(self):
        for slots in hidden(random.Random(6), 6):
            found = search(slots, 9.0)
            self.hold(found, slots)
            self.assertEqual((found.sheets, found.bound), (6, 6))

    def test_boxes_are_those_of_every_cut_tried_at_every_inch(self):
        chance, ends = random.Random(5), Counter()
        for _ in range(300):
            sizes = tuple(sorted((chance.randint(1, 5), chance.randint(1, 5)) for _ in range(chance.randint(2, 5))))
            inches = [(wide * INCH, high * INCH) for wide, high in sizes]
            mine = comes_out(inches, SIDE * INCH, SIDE * INCH)
            self.assertEqual(mine, _comes_out(sizes, SIDE, SIDE), sizes)
            ends[mine] += 1
        self.assertGreater(min(ends[True], ends[False]), 50)

    def test_a_size_that_saves_a_sheet_when_it_is_smaller_is_named_with_the_sheets_it_takes_then(self):
        slots = [
            Slot(handle=f"{card}1", card=card, number=at, letter="A", name="Mat", width=width, height=5 * INCH)
            for at, (card, width) in enumerate(zip("ABC", (25 * INCH // 8, 25 * INCH // 8, 4 * INCH), strict=True), 1)
        ]
        found = search(slots)
        self.assertEqual(found.sheets, 3)
        sizes = [(each.width, each.height) for each in slots]
        (nudge,) = nudges(slots, found, sizes, lambda _: None, seconds=4.0)
        self.assertEqual((nudge.sizes, nudge.sheets), (((25 * INCH // 8, 5 * INCH),), 2))
        # What saves nothing is not proposed, nor what may not be smaller.
        self.assertEqual(nudges(slots, found, [sizes[2]], lambda _: None, seconds=4.0), [])

    def test_the_fewest_sheets_are_those_of_cp_sat_where_it_says_proven_and_never_fewer(self):
        chance, proven, missed = random.Random(31), 0, 0
        for _ in range(100):
            slots = []
            for card in range(1, chance.randint(3, 4)):
                for number, letter in enumerate(chance.choice(("A", "AB", "AA", "AB")), 1):
                    slots.append(slot(card, number, letter, chance.randint(2, 6), chance.randint(2, 4)))
            best = _fewest(slots)
            try:
                found = search(slots, 1.0)
            except GuideError:
                self.assertIsNone(best)
                continue
            self.hold(found, slots)
            self.assertGreaterEqual(found.sheets, best)
            self.assertLessEqual(found.bound, best)
            proven += found.proven
            self.assertLessEqual(found.sheets, best + 1)
            missed += found.sheets > best
        self.assertGreater(proven, 60)
        # On a slow machine a second may not be enough for every one.
        self.assertLessEqual(missed, 3)

    def test_what_cannot_be_says_why(self):
        for slots, words in (
            ([slot(1, 1, "A", 7, 3)], "7 × 3 in is larger than the sheet"),
            ([slot(1, 1, "A", 6, 4), slot(1, 2, "A", 6, 4)], "What card 1 takes of A does not come out of one sheet"),
            ([], "No lettered piece"),
        ):
            with self.assertRaisesRegex(GuideError, words):
                search(slots)

    def test_whoever_is_told_may_stop_it(self):
        class StoppedError(Exception):
            pass

        def tell(words: str) -> None:
            raise StoppedError(words)

        with self.assertRaises(StoppedError):
            search_guide([slot(1, 1, "A", 3, 3)], SIDE * INCH, SIDE * INCH, "in", tell)


def hidden(chance: random.Random, sheets: int) -> Iterator[list[Slot]]:
    """Cards' pieces that fill so many sheets without any waste, made by cutting them; twelve sets."""
    for _ in range(12):
        slots, numbers = [], Counter()
        for letter in LETTERS[:sheets]:
            first = chance.randint(1, 15)
            for at, (wide, high) in enumerate(parted(chance, SIDE, SIDE, chance.randint(4, 7))):
                card = (first + at - 1) % 15 + 1
                numbers[card] += 1
                slots.append(slot(card, numbers[card], letter, wide, high))
        yield slots


def parted(chance: random.Random, width: int, height: int, many: int) -> list[tuple[int, int]]:
    """A sheet cut into so many pieces of whole inches, from edge to edge."""
    parts = [(width, height)]
    while len(parts) < many:
        at = max(range(len(parts)), key=lambda k: parts[k][0] * parts[k][1] * chance.uniform(0.5, 1))
        wide, high = parts.pop(at)
        if wide >= high:
            cut = chance.randint(1, wide - 1)
            parts += [(cut, high), (wide - cut, high)]
        else:
            cut = chance.randint(1, high - 1)
            parts += [(wide, cut), (wide, high - cut)]
    return parts


def _fewest(slots: list[Slot]) -> int | None:
    """By CP-SAT over all sets of units that one sheet holds; None if one unit alone is too much for a sheet."""
    units: dict[tuple[int, str], list[tuple[int, int]]] = {}
    for each in slots:
        units.setdefault((each.number, each.letter), []).append((each.width // INCH, each.height // INCH))
    names = list(units)
    model, chosen = cp_model.CpModel(), []
    for many in range(1, len(names) + 1):
        for group in combinations(names, many):
            sizes = tuple(sorted(size for name in group for size in units[name]))
            if len({card for card, _ in group}) == many and _comes_out(sizes, SIDE, SIDE):
                chosen.append((group, model.new_bool_var(str(group))))
    for name in names:
        mine = [var for group, var in chosen if name in group]
        if not mine:
            return None
        model.add_exactly_one(mine)
    model.minimize(sum(var for _, var in chosen))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    return round(solver.objective_value) if solver.solve(model) == cp_model.OPTIMAL else None


@cache
def _comes_out(sizes: tuple[tuple[int, int], ...], width: int, height: int) -> bool:
    """Whether these whole-inch pieces come out of a part by cuts from edge to edge, by trying every first cut."""
    if not sizes:
        return True
    if sum(wide * high for wide, high in sizes) > width * height:
        return False
    if len(sizes) == 1:
        wide, high = sizes[0]
        return (wide <= width and high <= height) or (high <= width and wide <= height)
    for many in range(1, len(sizes)):
        for part in combinations(range(len(sizes)), many):
            mine = tuple(sizes[k] for k in part)
            rest = tuple(sizes[k] for k in range(len(sizes)) if k not in part)
            if any(_comes_out(mine, at, height) and _comes_out(rest, width - at, height) for at in range(1, width)):
                return True
            if any(_comes_out(mine, width, at) and _comes_out(rest, width, height - at) for at in range(1, height)):
                return True
    return False
