"""Sheet sizes against the standards that define them."""

import ctypes
from ctypes.util import find_library
from decimal import Decimal
from unittest import TestCase, skipUnless

from zester.core.errors import ZesterError
from zester.core.lengths import RULERS, TICKS_PER_INCH, TICKS_PER_MM, parse_size
from zester.core.papers import grams, parse_weight
from zester.core.sizes import (
    ID1_HEIGHT,
    ID1_WIDTH,
    ISO_ENVELOPES,
    SHEET_SIZES,
    US_ENVELOPES,
    iso_a,
    usual_sheet,
)

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


class _Media(ctypes.Structure):
    """``pwg_media_t`` of the printing system's library: names and sides, hundredths of a millimetre."""

    _fields_ = [
        ("pwg", ctypes.c_char_p),
        ("legacy", ctypes.c_char_p),
        ("ppd", ctypes.c_char_p),
        ("width", ctypes.c_int),
        ("length", ctypes.c_int),
    ]


class EnvelopeTests(TestCase):
    @skipUnless(find_library("cups"), "Debian's libcups2, which Chromium brings along, is not here")
    def test_envelopes_that_printers_know_are_those_of_pwg_5101_1(self):
        # IEEE-ISTO PWG 5101.1, Media Standardized Names, as the table of CUPS has them: US and ISO 269 sizes.
        look_up = ctypes.CDLL(find_library("cups")).pwgMediaForPPD
        look_up.restype, look_up.argtypes = ctypes.POINTER(_Media), [ctypes.c_char_p]
        ours = {envelope.name: envelope for envelope in (*US_ENVELOPES, *ISO_ENVELOPES)}
        names = {"A2": "EnvA2", "no. 10": "Env10", "C7": "EnvC7", "C6": "EnvC6", "C5": "EnvC5", "DL": "EnvDL"}
        for name, theirs in names.items():
            media = look_up(theirs.encode()).contents
            with self.subTest(name):
                sides = [round(side * 100 / TICKS_PER_MM) for side in (ours[name].height, ours[name].width)]
                self.assertAlmostEqual(sides[0], media.width, delta=1)
                self.assertAlmostEqual(sides[1], media.length, delta=1)

    def test_an_announcement_envelope_is_a_quarter_inch_larger_than_its_card(self):
        # Common practice: the cards that go with the sizes, in eighths of an inch.
        cards = {"A1": (39, 27), "A6": (50, 36), "A7": (56, 40), "A8": (63, 42), "A9": (68, 44)}
        for envelope in US_ENVELOPES:
            if envelope.name in cards:
                sides = tuple(side * 8 // TICKS_PER_INCH for side in (envelope.width, envelope.height))
                self.assertEqual(sides, tuple(side + 2 for side in cards[envelope.name]), envelope.name)

    def test_the_c_series_and_those_between_are_those_of_iso_269(self):
        # ISO 216:2007, table 3 (series C, as ISO 269 takes them over), shorter side first; B and DL from memory.
        series = {"C4": (229, 324), "C5": (162, 229), "C6": (114, 162), "C7": (81, 114)}
        others = {"B5": (176, 250), "B6": (125, 176), "DL": (110, 220)}
        # One between two has the shorter side of the one and the longer of the other.
        between = {"C7/6": (series["C7"][0], series["C6"][1]), "C6/C5": (series["C6"][0], series["C5"][1])}
        found = {each.name: (each.height // TICKS_PER_MM, each.width // TICKS_PER_MM) for each in ISO_ENVELOPES}
        self.assertEqual(found, series | others | between)

    def test_square_envelopes_are_as_large_as_they_are_called(self):
        squares = [each for each in US_ENVELOPES if "×" in each.name]
        self.assertEqual(len(squares), 5)
        for each in squares:
            self.assertEqual((each.width, each.height), parse_size(each.name, RULERS["in16"]), each.name)


class NamedTests(TestCase):
    def test_sheets_are_as_large_as_they_are_called(self):
        squares = [each for each in SHEET_SIZES.values() if "×" in each.name]
        self.assertEqual(len(squares), 3)
        for each in squares:
            self.assertEqual((each.width, each.height), parse_size(each.name, RULERS["in16"]), each.name)

    def test_the_a_sizes_have_the_number_of_their_name(self):
        metric = {each.name: each for each in SHEET_SIZES.values() if each.unit == "mm"}
        # ISO 217, from memory.
        raw = metric.pop("SRA3")
        self.assertEqual((raw.width, raw.height), (320 * TICKS_PER_MM, 450 * TICKS_PER_MM))
        self.assertEqual(sorted(metric), ["A3", "A4", "A5"])
        for name, each in metric.items():
            sides = (each.width // TICKS_PER_MM, each.height // TICKS_PER_MM)
            self.assertEqual(sides, ISO_216_A[int(name[1:])], name)


class UsualTests(TestCase):
    def test_the_usual_sheet_is_that_of_the_kind_and_the_unit(self):
        found = [usual_sheet(kind, unit).key for kind in ("card", "patterned", "vellum") for unit in ("in", "mm")]
        self.assertEqual(found, ["letter", "a4", "12x12", "a4", "letter", "a4"])


class WeightTests(TestCase):
    """ISO 536 grammage from basis weights: cover 20 × 26 in, text 25 × 38 in, 500 sheets (common practice)."""

    def test_basis_weights_are_those_of_the_usual_tables(self):
        # As conversion tables of the paper trade have them (from memory), to the gram they round to.
        table = {(80, "cover"): 216, (65, "cover"): 176, (100, "cover"): 270, (60, "text"): 89, (80, "text"): 118}
        for (pounds, kind), wanted in table.items():
            self.assertAlmostEqual(grams(Decimal(pounds), kind), wanted, delta=1)
        self.assertEqual(grams(Decimal(80), "cover"), 216)

    def test_weights_are_read_as_they_are_printed_on_the_pack(self):
        for text, wanted in {"216": 216, "216 gsm": 216, "216 g/m²": 216, "80 lb cover": 216, "80# Cover": 216}.items():
            self.assertEqual(parse_weight(text), wanted)
        for text in ("heavy", "80 lb", "5000 gsm", ""):
            with self.assertRaises(ZesterError):
                parse_weight(text)

    def test_a_gift_card_is_that_of_iso_7810(self):
        # ISO/IEC 7810:2019, ID-1: 85.60 × 53.98 mm; kept to the next tenth of a millimetre upwards.
        self.assertEqual((ID1_WIDTH, ID1_HEIGHT), (85 * TICKS_PER_MM + 192, 54 * TICKS_PER_MM))
