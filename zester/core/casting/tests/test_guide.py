"""Typed guides: common practice of the trade as worked cases, an independent look at every sheet, files."""

from __future__ import annotations

import json
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from zester.core.casting.guide import check_guide, load_guide, read_guide, typed_guide, write_guide
from zester.core.errors import PlanError
from zester.core.lengths import MILLIMETRES, SIXTEENTHS, TICKS_PER_INCH, TICKS_PER_MM

INCH = TICKS_PER_INCH
SIX = 6 * INCH
# Fifteen cards from six sheets of 6 × 6 in with bases of card stock: common practice, no source. Sizes made up here.
FIFTEEN = """\
A: 4 x 3 cards 1, 2; 2 x 3 cards 3, 4
B: 4 x 6 card 5; 2 x 6 card 6
C: 3 x 5 cards 7, 8; 3 x 1 cards 1, 2
D: 4 x 3 cards 9, 10; strip 2 x 3 cards 11, 12
E: 3 x 6 cards 11, 13
F: 3 x 3 cards 12, 14, 15, 4"""


class TypedGuideTests(TestCase):
    def read(self, text: str, side: int = SIX):
        return read_guide(text, side, side, SIXTEENTHS)

    def error(self, line: str) -> str:
        return self.read(line).lines[0].error.text()

    def test_a_sheet_that_is_filled_leaves_nothing(self):
        reading = self.read("A: 6 x 3 card 1; 3 x 3 cards 2, 5")
        (sheet,) = reading.guide.letters
        self.assertEqual((reading.errors, reading.lines[0].left, sheet.cards), (0, (), (1, 2, 5)))
        self.assertEqual(len(sheet.layout.cuts), 2)
        self.assertEqual(sheet.edges, {"top"})

    def test_what_is_left_is_said_the_largest_first(self):
        (line,) = self.read("A: 4 x 6 card 2; strip 1 x 6 card 9").lines
        self.assertEqual([(w / INCH, h / INCH) for w, h in line.left], [(1, 6)])

    def test_pieces_lie_upright_where_they_can_and_turned_where_they_must(self):
        upright, mixed = self.read(
            "A: 4 x 2 cards 1, 2, 3; 2 x 6 card 4\nB: 4 x 2 cards 1 to 3; 6 x 2 card 4"
        ).guide.letters
        self.assertEqual(upright.edges, {"top"})
        self.assertEqual(mixed.edges, {"top", "right"})

    def test_every_mistake_says_what_and_how(self):
        for line, words in (
            ("A: 6 x 3 card 1; 3 x 4 cards 2, 5", "17% too much"),
            ("A: 5 x 5 card 1; 5 x 1 1/2 card 2", "do not come out of one sheet with cuts from edge to edge"),
            ("6 x 3 card 1", "Begin with its letter"),
            ("A: 7 x 3 card 1", "7 × 3 in is larger than the sheet"),
            ("A: 3 x 3", "Which card is “3 x 3” for?"),
            ("A: 3 x 3 for the lid", "What does “for the lid” mean?"),
            ("A: panel card 2", "has no size"),
            ("A: 6.3 x 1 card 2", "is not on the ruler"),
            ("A:", "Nothing is cut from it"),
            ("A: 3 x 3 card 0", "are no cards"),
        ):
            self.assertIn(words, self.error(line), line)

    def test_a_letter_twice_is_asked_about_and_the_first_stays(self):
        reading = self.read("A: 6 x 6 card 1\nA: 3 x 3 card 2")
        self.assertIn("Sheet A is there already", reading.lines[1].error.text())
        self.assertEqual(reading.guide.cards, (1,))

    def test_a_guide_of_millimetres(self):
        reading = read_guide("A: 75 x 150 Karte 1", 150 * TICKS_PER_MM, 150 * TICKS_PER_MM, MILLIMETRES)
        self.assertEqual(reading.errors, 1)
        reading = read_guide("A) 75 x 150 card 1, 2", 150 * TICKS_PER_MM, 150 * TICKS_PER_MM, MILLIMETRES)
        self.assertEqual((reading.errors, reading.guide.letters[0].cards), (0, (1, 2)))

    def test_fifteen_cards_come_from_six_sheets(self):
        guide = self.read(FIFTEEN).guide
        check_guide(guide)
        self.assertEqual((len(guide.letters), guide.cards), (6, tuple(range(1, 16))))
        # Nothing but fillers is left of any.
        self.assertFalse([line.left for line in self.read(FIFTEEN).lines if line.left])

    def test_six_cards_from_three_sheets_and_six_tags_of_the_rest(self):
        text = "\n".join(
            f"{letter}: 4 x 4 card {n}; 2 x 4 card {n + 1}; tag 2 x 2 cards {n}, {n + 1}; 2 x 2 filler"
            for letter, n in (("A", 1), ("B", 3), ("C", 5))
        )
        guide = self.read(text).guide
        check_guide(guide)
        tags = [piece for sheet in guide.letters for piece in sheet.pieces if piece.name == "Tag"]
        self.assertEqual((guide.cards, len(tags)), (tuple(range(1, 7)), 6))

    def test_files_come_back_as_they_were(self):
        guide = self.read(FIFTEEN).guide
        self.assertEqual(load_guide(write_guide(guide)), guide)
        again = self.read(typed_guide(guide))
        self.assertEqual((again.errors, again.guide.cards), (0, guide.cards))
        for mine, theirs in zip(guide.letters, again.guide.letters, strict=True):
            sizes = [sorted((p.card, p.name, p.width, p.height) for p in sheet.pieces) for sheet in (mine, theirs)]
            self.assertEqual(*sizes)

    def test_a_file_that_does_not_hold_what_it_says_is_turned_away(self):
        good = json.loads(write_guide(self.read("A: 6 x 3 card 1; 3 x 3 cards 2, 5").guide))
        for change in (
            lambda data: data.update(zester="other/1"),
            lambda data: data["letters"][0]["pieces"][0].update(width="5"),
            lambda data: data["letters"][0]["pieces"].pop(),
            lambda data: data["letters"][0]["cuts"].pop(),
            lambda data: data["letters"][0]["parts"][0].update(part=9),
            lambda data: data["letters"].append(data["letters"][0]),
            lambda data: data["letters"][0]["pieces"][0].update(card=True),
            lambda data: data.update(unit="ell"),
            lambda data: data["sheet"].update(width="-6"),
            lambda data: data.update(letters=7),
        ):
            data = json.loads(json.dumps(good))
            change(data)
            with self.assertRaises(PlanError):
                load_guide(json.dumps(data))

    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.tuples(st.integers(1, 6), st.integers(1, 6), st.integers(1, 9)), min_size=1, max_size=7))
    def test_whatever_is_laid_out_holds_before_the_checker(self, pieces):
        text = "A: " + "; ".join(f"{width} x {height} card {card}" for width, height, card in pieces)
        reading = self.read(text)
        check_guide(reading.guide)
        area = sum(width * height for width, height, _ in pieces)
        if reading.guide.letters:
            left = sum(width * height for width, height in reading.lines[0].left)
            self.assertEqual(area * INCH * INCH + left, SIX * SIX)
        elif area <= 9:
            self.assertFalse(all(max(sides[:2]) <= 3 for sides in pieces), text)
