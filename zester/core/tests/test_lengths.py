"""Exact lengths: every notation, true fractions back, refusal of what is on no ruler."""

from fractions import Fraction
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from zester.core.errors import LengthError
from zester.core.lengths import (
    MILLIMETRES,
    SIXTEENTHS,
    SIXTY_FOURTHS,
    THIRTY_SECONDS,
    TICKS_PER_INCH,
    TICKS_PER_MM,
    parse_length,
    parse_size,
    read_length,
    show_length,
    show_long,
    show_size,
    write_length,
)

QUARTER = TICKS_PER_INCH // 4


class TickTests(TestCase):
    def test_an_inch_is_25_4_mm_exactly(self):
        # International yard and pound agreement, 1959: 1 in = 25.4 mm.
        self.assertEqual(Fraction(TICKS_PER_INCH, TICKS_PER_MM), Fraction(254, 10))

    def test_both_finest_marks_are_whole_ticks(self):
        self.assertEqual(parse_length("1/64", SIXTY_FOURTHS), 127)
        self.assertEqual(parse_length("0.1 mm"), 32)


class NotationTests(TestCase):
    def test_every_way_of_writing_four_and_a_quarter_inches(self):
        ways = ["4 1/4", "4-1/4", "4¼", "4.25", '4.25"', "4.25 in", "4,25", "4 ¼", "4 1⁄4", "4¼″", "4¼ inches", "17/4"]
        for text in [*ways, "4.25in."]:
            with self.subTest(text=text):
                self.assertEqual(parse_length(text), 17 * QUARTER)

    def test_metric(self):
        self.assertEqual(parse_length("10.8 cm"), parse_length("108 mm"))
        self.assertEqual(parse_length("108", MILLIMETRES), 108 * TICKS_PER_MM)
        self.assertEqual(parse_length("4 1/4 in", MILLIMETRES), 17 * QUARTER)

    def test_every_way_of_writing_a_size(self):
        wanted = (17 * QUARTER, 22 * QUARTER)
        ways = ["4 1/4 x 5 1/2", "4¼ by 5½", "4.25×5.5", "4¼x5½", '4.25" X 5.5"', "4-1/4 * 5-1/2 in", "4¼ × 5½ inches"]
        for text in ways:
            with self.subTest(text=text):
                self.assertEqual(parse_size(text), wanted)

    def test_a_unit_at_the_end_goes_for_both(self):
        self.assertEqual(parse_size("105 x 148 mm"), (105 * TICKS_PER_MM, 148 * TICKS_PER_MM))
        self.assertEqual(parse_size("10.5 x 14.8 cm"), (105 * TICKS_PER_MM, 148 * TICKS_PER_MM))

    def test_off_the_ruler_is_refused_with_the_nearest_marks(self):
        with self.assertRaises(LengthError) as caught:
            parse_length("0.3")
        self.assertIn("¼ and 5⁄16 in", caught.exception.mend)
        with self.assertRaises(LengthError) as caught:
            parse_length("1/32", SIXTEENTHS)
        self.assertIn("The nearest mark is 1⁄16 in", caught.exception.mend)
        self.assertEqual(parse_length("1/32", THIRTY_SECONDS), TICKS_PER_INCH // 32)
        with self.assertRaises(LengthError) as caught:
            parse_length("10.55 mm")
        self.assertIn("10.5 and 10.6 mm", caught.exception.mend)

    def test_nonsense_is_refused_and_says_how_to_mend_it(self):
        for text in ["", "  ", "four", "4 1/0", "0", "-4", "4 x", "1/2/3", "201", "1e3", "0x10", "4'", "NaN"]:
            with self.subTest(text=text), self.assertRaises(LengthError) as caught:
                parse_length(text)
            self.assertTrue(caught.exception.mend)
        for text in ["", "4", "4 x", "x 4", "4 x 5 x 6"]:
            with self.subTest(text=text), self.assertRaises(LengthError):
                parse_size(text)


class ShowTests(TestCase):
    def test_true_fractions(self):
        shown = {"4 1/4": "4¼", "1/2": "½", "3 3/4": "3¾", "12": "12", "1 9/16": "1\u200a9⁄16", "2 1/8": "2\u200a1⁄8"}
        for text, wanted in shown.items():
            self.assertEqual(show_length(parse_length(text), "in"), wanted)

    def test_metric_lengths_in_an_inch_class_stay_exact(self):
        self.assertEqual(show_length(210 * TICKS_PER_MM, "in"), "210 mm")
        self.assertEqual(show_size(210 * TICKS_PER_MM, 11 * TICKS_PER_INCH, "in"), "210 × 279.4 mm")
        self.assertEqual(show_size(17 * QUARTER, 11 * TICKS_PER_INCH, "in"), "4¼ × 11 in")

    def test_long_lengths_of_ribbon(self):
        self.assertEqual(show_long(5000 * TICKS_PER_MM, "mm"), "5.00 m")
        self.assertEqual(show_long(-1250 * TICKS_PER_MM, "in"), "−1.25 m")
        self.assertEqual(show_long(324 * TICKS_PER_INCH, "in"), "324 in")
        self.assertEqual(show_long(0, "mm"), "0")

    @given(st.integers(1, 200 * 64))
    def test_what_is_shown_or_written_in_inches_reads_back_the_same(self, marks):
        ticks = marks * 127
        self.assertEqual(parse_length(show_length(ticks, "in"), SIXTY_FOURTHS), ticks)
        self.assertEqual(parse_length(write_length(ticks, "in"), SIXTY_FOURTHS), ticks)

    @given(st.integers(1, 50_000))
    def test_what_is_shown_or_written_in_millimetres_reads_back_the_same(self, tenths):
        ticks = tenths * 32
        self.assertEqual(parse_length(show_length(ticks, "mm"), MILLIMETRES), ticks)
        self.assertEqual(parse_length(write_length(ticks, "mm"), MILLIMETRES), ticks)

    @given(st.decimals(min_value="0.001", max_value="199", places=3))
    def test_a_decimal_is_exact_or_refused(self, number):
        exact = Fraction(number) * TICKS_PER_INCH
        try:
            self.assertEqual(parse_length(str(number)), exact)
        except LengthError:
            self.assertNotEqual(exact % SIXTEENTHS.step, 0)

    @given(st.text(max_size=30))
    def test_no_text_breaks_the_reader(self, text):
        try:
            self.assertGreater(parse_length(text), 0)
        except LengthError as error:
            self.assertTrue(error.what)


class FileTests(TestCase):
    """What a file holds was computed and lies on no ruler; it is exact all the same."""

    @given(st.integers(0, 200 * TICKS_PER_INCH), st.sampled_from(["in", "mm"]))
    def test_every_whole_tick_reads_back_the_same_in_both_units(self, ticks, unit):
        self.assertEqual(read_length(write_length(ticks, unit), unit, zero=True), ticks)

    def test_all_ticks_of_an_inch_and_of_a_millimetre_and_the_longest_length(self):
        for unit in ("in", "mm"):
            for ticks in (*range(TICKS_PER_INCH + 1), 200 * TICKS_PER_INCH - 1, 200 * TICKS_PER_INCH):
                self.assertEqual(read_length(write_length(ticks, unit), unit, zero=True), ticks)

    def test_any_notation_is_read_whichever_unit_the_file_is_in(self):
        for text in ("4 1/4", "4¼", "4.25", "4.25 in", "107.95 mm"):
            self.assertEqual(read_length(text, "in"), 17 * QUARTER)
        # 3 mm are 960 ticks, 960/8128 in = 15/127 in.
        self.assertEqual(read_length("15/127", "in"), 3 * TICKS_PER_MM)
        self.assertEqual(read_length("3", "mm"), read_length("3 mm", "in"))

    def test_what_is_no_whole_tick_is_refused_with_the_nearest(self):
        for text, unit, nearest in (
            ("0.3", "in", "7.61875 mm and 7.621875 mm"),
            ("0.001", "mm", "0 mm and 0.003125 mm"),
        ):
            with self.assertRaises(LengthError) as caught:
                read_length(text, unit)
            self.assertIn(nearest, caught.exception.mend)

    def test_nothing_is_a_length_only_where_it_may_be(self):
        self.assertEqual(read_length("0", "in", zero=True), 0)
        for text, zero in (("0", False), ("-1", True), ("201", True), ("", True), ("9" * 5000, True), ("x", True)):
            with self.assertRaises(LengthError):
                read_length(text, "in", zero=zero)
