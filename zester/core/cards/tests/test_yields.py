"""How many of one piece come from a sheet, against a plain recursion over all edge-to-edge cuts."""

from functools import cache
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from zester.core.cards.tests.cards import INCH, KNOWN, card
from zester.core.cards.yields import from_sheet, most_of_one, nearest_with_more
from zester.core.lengths import MILLIMETRES, SIXTEENTHS, TICKS_PER_MM


def by_every_cut(width: int, height: int, sheet_width: int, sheet_height: int, turn: bool) -> int:
    """The same number by trying every cut at every whole place: slow, and too simple to be wrong."""

    @cache
    def most(w: int, h: int) -> int:
        fits = (width <= w and height <= h) or (turn and height <= w and width <= h)
        best = int(fits)
        for at in range(1, w // 2 + 1):
            best = max(best, most(at, h) + most(w - at, h))
        for at in range(1, h // 2 + 1):
            best = max(best, most(w, at) + most(w, h - at))
        return best

    return most(sheet_width, sheet_height)


class YieldTests(TestCase):
    @given(st.integers(2, 9), st.integers(2, 9), st.integers(3, 17), st.integers(3, 17), st.booleans())
    @settings(max_examples=120)
    def test_as_many_as_every_cut_tried_gives(self, width, height, sheet_width, sheet_height, turn):
        wanted = by_every_cut(width, height, sheet_width, sheet_height, turn)
        self.assertEqual(most_of_one(width, height, sheet_width, sheet_height, turn), wanted)

    def test_portions_of_the_trade(self):
        # Common practice, no source: a 4 × 6 portion gives two 3 × 4, or two 2 × 5½ once ½ in is taken off its end.
        for (width, height), wanted in {(3, 4): 2, (2, 5.5): 2, (1, 5.5): 4, (0.5, 5.5): 8}.items():
            ticks = int(width * INCH), int(height * INCH)
            self.assertEqual(most_of_one(*ticks, 4 * INCH, 6 * INCH, True), wanted)
        # An A4 sheet gives two A5 or four A6 (ISO 216).
        a4 = 210 * TICKS_PER_MM, 297 * TICKS_PER_MM
        self.assertEqual(most_of_one(148 * TICKS_PER_MM, 210 * TICKS_PER_MM, *a4, True), 2)
        self.assertEqual(most_of_one(105 * TICKS_PER_MM, 148 * TICKS_PER_MM, *a4, True), 4)

    def test_a_piece_that_may_not_be_turned_gives_fewer(self):
        free, upright = card("Strip 5 x 1 star chart\nStrip 5 x 1 star chart upright").pieces
        sheet = KNOWN.papers[4]
        self.assertEqual(sheet.name, "Star Chart")
        self.assertGreater(from_sheet(free, sheet), from_sheet(upright, sheet))
        self.assertEqual(from_sheet(upright, sheet), 24)

    def test_confetti_is_not_counted(self):
        piece = card("Dot 1/16 x 1/16 star chart").pieces[0]
        self.assertIsNone(from_sheet(piece, KNOWN.papers[4]))
        self.assertIsNone(nearest_with_more(piece, KNOWN.papers[4], SIXTEENTHS.step))

    def test_the_nearest_size_that_gives_more_really_gives_more_and_is_near(self):
        brass = KNOWN.papers[0]
        for text in ("Panel 4⅜ x 5½", "Tag 2 3/16 x 2¾", "Panel 2⅞ x 3¾", "Strip 1 1/16 x 4", "Mat 4 x 5¼"):
            piece = card(f"{text} telescope brass").pieces[0]
            more = nearest_with_more(piece, brass, SIXTEENTHS.step)
            if more is None:
                continue
            with self.subTest(text=text):
                self.assertEqual(most_of_one(more.width, more.height, brass.width, brass.height, True), more.count)
                self.assertGreater(more.count, from_sheet(piece, brass))
                taken = piece.width - more.width, piece.height - more.height
                self.assertEqual(min(taken), 0)
                self.assertTrue(0 < max(taken) <= INCH // 8)
                self.assertEqual((more.width % SIXTEENTHS.step, more.height % SIXTEENTHS.step), (0, 0))

    def test_in_millimetres_it_is_a_whole_millimetre(self):
        piece = card("Kite 40 x 55 telescope brass", MILLIMETRES).pieces[0]
        more = nearest_with_more(piece, KNOWN.papers[0], TICKS_PER_MM)
        self.assertEqual((more.width % TICKS_PER_MM, more.height % TICKS_PER_MM), (0, 0))
