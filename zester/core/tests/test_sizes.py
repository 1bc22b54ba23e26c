"""Sheet sizes against the standards that define them."""

from unittest import TestCase

from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.sizes import SHEET_SIZES, iso_a

# ISO 216:2007, table 1 (main series A, trimmed sizes in mm).
ISO_216_A = [(841, 1189), (594, 841), (420, 594), (297, 420), (210, 297), (148, 210), (105, 148), (74, 105), (52, 74)]


class SheetSizeTests(TestCase):
    def test_the_a_series_is_that_of_iso_216(self):
        self.assertEqual([iso_a(number) for number in range(9)], ISO_216_A)

    def test_a4_and_a3_are_whole_ticks(self):
        for key, number in (("a4", 4), ("a3", 3)):
            size = SHEET_SIZES[key]
            self.assertEqual((size.width, size.height), tuple(TICKS_PER_MM * mm for mm in ISO_216_A[number]))

    def test_letter_and_tabloid(self):
        # ANSI/ASME Y14.1: size A 8.5 × 11 in, size B 11 × 17 in.
        letter, tabloid = SHEET_SIZES["letter"], SHEET_SIZES["tabloid"]
        self.assertEqual((letter.width * 2, letter.height), (17 * TICKS_PER_INCH, 11 * TICKS_PER_INCH))
        self.assertEqual((tabloid.width, tabloid.height), (11 * TICKS_PER_INCH, 17 * TICKS_PER_INCH))

    def test_a4_halves_to_a5_which_folds_to_a6(self):
        # Common practice for metric cards.
        self.assertEqual((iso_a(4)[1] // 2, iso_a(4)[0]), iso_a(5))
        self.assertEqual((iso_a(5)[1] // 2, iso_a(5)[0]), iso_a(6))
