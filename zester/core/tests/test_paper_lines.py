"""Papers written one a line: what is said is taken, what is not is usual, what is not understood is asked about."""

from decimal import Decimal
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.paper_lines import read_papers
from zester.core.papers import UNKNOWN_COLOUR, guess_colour, guess_repeat

INCH = TICKS_PER_INCH


def paper(line: str, *, metric: bool = False):
    (read,) = read_papers(line, metric=metric)
    assert read.error is None, read.error
    return read.paper


class PaperLineTests(TestCase):
    def test_a_whole_line_in_any_order_and_between_any_signs(self):
        for line in (
            "Lagoon, letter, card, 0.42",
            "Lagoon,letter,card,0.42",
            "Lagoon; 0,42; card; letter",
            "Lagoon\t8½ x 11\tcard stock\t$0.42",
            "Lagoon | card | 0.42 a sheet | letter",
        ):
            with self.subTest(line=line):
                found = paper(line)
                self.assertEqual(
                    (found.name, found.sheet, found.kind, found.price), ("Lagoon", "letter", "card", Decimal("0.42"))
                )

    def test_what_is_left_out_is_usual(self):
        card, patterned, metric = paper("Sand"), paper("Kite Stripes, patterned"), paper("Sand", metric=True)
        self.assertEqual((card.sheet, card.kind, card.on_hand, card.pack), ("letter", "card", None, 1))
        self.assertEqual((patterned.sheet, patterned.repeat, patterned.direction), ("12x12", "stripes", "half"))
        self.assertEqual((metric.sheet, metric.width), ("a4", 210 * TICKS_PER_MM))

    def test_sizes_stock_packs_and_weights(self):
        found = paper("Wind, 6 x 6, patterned, pack of 24, 12 on hand, 80 lb cover, one way, #b4472f")
        self.assertEqual((found.sheet, found.pack, found.on_hand, found.weight), ("6x6", 24, 12, 216))
        self.assertEqual((found.direction, found.colour), ("upright", "#b4472f"))
        typed = paper("Offcut, 100 x 150 mm, vellum")
        self.assertEqual(
            (typed.sheet, typed.unit, typed.width, typed.kind), ("typed", "mm", 100 * TICKS_PER_MM, "vellum")
        )
        self.assertEqual(paper("Odd, 5½ x 8½").height, 17 * INCH // 2)

    def test_both_sides_and_the_price_of_a_pack(self):
        self.assertEqual(paper("Wind, patterned, stripes, side B dots").back_repeat, "dots")
        backs = [paper(f"Wind, {words}").back for words in ("two-sided", "double sided", "one-sided", "card")]
        self.assertEqual(backs, ["other", "other", "none", "same"])
        (asked,) = read_papers("Wind, 6 x 6, pack of 24, 9.25")
        self.assertIn("9.25: for a sheet, or for the pack of 24?", asked.error.advice())
        self.assertIn("0.39 a sheet", asked.error.advice())
        self.assertEqual(paper("Wind, pack of 24, 0.39 a sheet").price, Decimal("0.39"))
        self.assertIn("said twice", read_papers("Wind, two-sided, one-sided")[0].error.advice())

    def test_a_pad_is_a_line_and_the_lines_of_its_patterns(self):
        text = (
            "Lagoon, letter\nPad Kite Tails, 6 x 6, 9.25, pad of 24\n8 stripes, one way\n- 8 × small dots, two-sided\n"
            "8 stars, 12 x 12\nChalk Cliff, A4\n2 of Sea Glass / waves, 6 x 6"
        )
        lagoon, kite, *patterns, cliff, waves = read_papers(text)
        self.assertEqual([line.error for line in read_papers(text)], [None] * 7)
        self.assertEqual((kite.pad.name, kite.pad.price, kite.paper), ("Kite Tails", Decimal("9.25"), None))
        self.assertEqual([line.sheets for line in patterns], [8, 8, 8])
        stripes, dots, stars = (line.paper for line in patterns)
        self.assertEqual((stripes.name, stripes.sheet, stripes.repeat), ("Kite Tails Stripes", "6x6", "stripes"))
        self.assertEqual((stripes.direction, dots.direction, dots.back), ("upright", "free", "other"))
        # The price is the pad's; its own size counts before the pad's.
        self.assertEqual((stripes.price, stars.sheet, stars.kind), (None, "12x12", "patterned"))
        self.assertEqual((cliff.pad, lagoon.pad, waves.pad.name, waves.sheets), (None, None, "Sea Glass", 2))

    def test_a_length_is_no_price(self):
        for part in ("0.3 in", "0.3 mm", "1.5cm"):
            (read,) = read_papers(f"Lagoon, letter, {part}")
            self.assertIn("not understood", read.error.what, part)
        self.assertEqual(
            [paper(f"Lagoon, {price}").price for price in ("0.42 €", "$0.42", "0.42")], [Decimal("0.42")] * 3
        )

    def test_a_pad_has_the_sheets_it_says(self):
        lonely, short, dots = read_papers("Pad Lonely, 6 x 6\nPad Short, 6 x 6, pack of 12\n4 dots")
        self.assertIn("has no sheets", lonely.error.what)
        self.assertIn("12 sheets; the lines below make 4", short.error.what)
        self.assertIsNone(dots.error)
        for line in ("-3 dots", "0 dots"):
            pad, wrong = read_papers(f"Pad Odd, 6 x 6, pack of 12\n{line}")
            self.assertIn("a sheet of it at least", wrong.error.what)
        # What is wrong with a sheet is said there, not of the pad, too.
        pad, wrong = read_papers("Pad Odd, 6 x 6, pack of 12\n4 dots, shiny")
        self.assertIsNone(pad.error)
        self.assertIn("shiny", wrong.error.what)

    def test_what_is_not_understood_is_an_error_of_its_line(self):
        for line, words in {
            "Lagoon, letter, shiny": "“shiny” is not understood",
            "Lagoon, 20": "Write 20 on hand, pack of 20",
            "Lagoon, letter, A4": "the size is said twice",
            "Lagoon, 0.3 x 5": "nearest mark",
            "42, letter": "The name comes first",
            "La#goon": "is no name",
        }.items():
            (read,) = read_papers(line)
            with self.subTest(line=line):
                self.assertIsNone(read.paper)
                self.assertIn(words, read.error.advice())
        self.assertEqual([bool(each.error) for each in read_papers("Sand\n\nLagoon, shiny\nSky")], [False, True, False])

    def test_colours_and_repeats_come_from_the_names(self):
        self.assertEqual(guess_colour("Harbour Blue"), guess_colour("blue"))
        self.assertNotEqual(guess_colour("Moss"), UNKNOWN_COLOUR)
        self.assertEqual(guess_colour("Zephyr"), UNKNOWN_COLOUR)
        self.assertEqual(
            [guess_repeat(name) for name in ("Sky Dots", "Pine Ridge", "Plain")], ["dots", "pines", "plain"]
        )

    @given(st.text(alphabet="ab ,;\t|0123456789x½.#mgplettrcard\n", max_size=80))
    @settings(max_examples=200)
    def test_no_lines_break_it_and_none_is_lost(self, text):
        read = read_papers(text)
        self.assertEqual([each.text for each in read], [line.strip() for line in text.splitlines() if line.strip()])
        self.assertTrue(all((each.paper is None) != (each.error is None) for each in read))
