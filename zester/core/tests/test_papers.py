"""What a paper's colour and name say, and how thick it is likely to be."""

from unittest import TestCase

from zester.core.papers import COLOURS, guess_colour, guess_repeat, is_dark, luminance, repeat_ink, usual_caliper


class ColourTests(TestCase):
    def test_luminance_is_that_of_wcag(self):
        # WCAG 2.2, definition of relative luminance: 0 for black, 1 for white, the three weights for pure colours.
        for colour, wanted in {
            "#000000": 0,
            "#ffffff": 1,
            "#ff0000": 0.2126,
            "#00ff00": 0.7152,
            "#0000ff": 0.0722,
        }.items():
            self.assertAlmostEqual(luminance(colour), wanted, places=4)
        # The usual grey of contrast tables: #767676 has 4.54 : 1 against white (from memory).
        self.assertAlmostEqual(1.05 / (luminance("#767676") + 0.05), 4.54, places=2)

    def test_dark_is_what_black_ink_is_hardly_seen_on(self):
        # 4.5 : 1 lies between these two greys.
        self.assertEqual((is_dark("#747474"), is_dark("#757575")), (True, False))
        dark = {name for name, colour in COLOURS.items() if is_dark(colour)}
        self.assertLessEqual({"black", "ink", "midnight", "navy", "cocoa", "plum"}, dark)
        self.assertFalse(dark & {"white", "cream", "chalk", "sand", "sky", "mint", "yellow", "pink", "silver"})

    def test_a_repeat_is_lighter_on_dark_paper_and_darker_on_light_paper(self):
        self.assertLess(luminance("#22305c"), luminance(repeat_ink("#22305c")))
        self.assertGreater(luminance("#f1ede1"), luminance(repeat_ink("#f1ede1")))
        # A third of the way, each channel.
        self.assertEqual((repeat_ink("#000000"), repeat_ink("#ffffff")), ("#565656", "#a8a8a8"))

    def test_of_two_colours_in_a_name_the_later_counts(self):
        self.assertEqual(guess_colour("Midnight Blue"), COLOURS["blue"])
        self.assertEqual(guess_colour("Blue Midnight"), COLOURS["midnight"])
        self.assertEqual(guess_repeat("Stars and Stripes"), "stripes")
        self.assertEqual(guess_repeat("Nobody knows"), "plain")


class CaliperTests(TestCase):
    def test_a_sheet_is_as_thick_as_its_weight_says_or_as_its_kind_is_usually(self):
        # 1.25 cubic centimetres a gram (common practice): 216 g/m² is 0.27 mm.
        self.assertEqual([usual_caliper(216, "card"), usual_caliper(80, "patterned")], [270, 100])
        self.assertEqual([usual_caliper(None, "card"), usual_caliper(None, "vellum")], [270, 200])
