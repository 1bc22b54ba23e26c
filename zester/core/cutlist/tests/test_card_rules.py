"""What a line may say of the card: its own line, places, borders, shapes, tools, bits, versions."""

from unittest import TestCase

from zester.core.cards.tests.cards import INCH, KNOWN, card
from zester.core.cutlist.notation import read_list
from zester.core.cutlist.tests.writers import SHELF
from zester.core.lengths import RULERS, TICKS_PER_MM
from zester.core.pieces import Bit, CardLine, Edges, Outline


def pieces(text: str):
    return card(text).pieces


def error(text: str) -> str:
    return " ".join(reading.error.text() for reading in read_list(text, KNOWN) if reading.error)


SIDE = "card 4¼ x 5½ side fold\nBase midnight\n"


class CardLineTests(TestCase):
    def test_size_fold_and_pocket_in_everyday_words(self):
        size = (17 * INCH // 4, 11 * INCH // 2)
        for text, wanted in {
            "card 4¼ x 5½ side fold": CardLine(*size, "side"),
            "Card: 4.25 by 5.5 in, top-fold": CardLine(*size, "top"),
            "card 4¼ x 5½": CardLine(*size, "side"),
            "card gate fold": CardLine(None, None, "gate"),
            "card 4¼ x 5½ trifold": CardLine(*size, "tri"),
            "card 4¼ x 5½ flat": CardLine(*size, "none"),
            "card 4¼ x 5½ top fold with a pocket": CardLine(*size, "top", True),
        }.items():
            with self.subTest(text=text):
                self.assertEqual(read_list(text, KNOWN)[0].card, wanted)

    def test_a_card_of_a_series_is_named_by_its_size_or_asked_about(self):
        # ISO 216:2007: A6 is 105 × 148 mm.
        metric = read_list("card A6 side fold\nBase midnight", KNOWN, RULERS["mm"])
        self.assertEqual(metric[0].card, CardLine(105 * TICKS_PER_MM, 148 * TICKS_PER_MM, "side"))
        self.assertEqual((metric[1].piece.width, metric[1].piece.height), (210 * TICKS_PER_MM, 148 * TICKS_PER_MM))
        asked = read_list("card A6 side fold", KNOWN)[0].error
        self.assertEqual(asked.what, "Which A6 is meant?")
        lines = [choice.line for choice in asked.choices]
        self.assertEqual(lines, ["card 105 x 148 mm side fold", "card 4½ x 6¼ side fold"])
        self.assertEqual(read_list(lines[0], KNOWN)[0].card, metric[0].card)
        # No envelope of the trade is called A5.
        self.assertEqual(read_list("card A5 top fold", KNOWN)[0].card.fold, "top")

    def test_a_size_in_the_name_of_a_bit_is_no_number_of_them(self):
        found = read_list("+ envelope C6\n+ 2 envelopes C6\nenvelope C6\n+ 3 envelope no. 10", KNOWN)
        self.assertEqual(
            [(each.bit.name, each.bit.count) for each in found],
            [("envelope C6", 1), ("envelopes C6", 2), ("envelope C6", 1), ("envelope no. 10", 3)],
        )
        self.assertIn("How many", error("+ envelopes C6"))

    def test_a_piece_may_still_be_called_card(self):
        self.assertEqual(pieces("Card 4 x 5 brass")[0].name, "Card")
        self.assertIn("is no fold", error("card 4 x 5 zig fold"))

    def test_a_base_needs_no_size_below_the_cards_line(self):
        base = pieces("card 4 x 5 gate fold\nBase brass")[0]
        self.assertEqual((base.width, base.score.places), (8 * INCH, (2 * INCH, 6 * INCH)))
        self.assertIn("write the card above", error("Base brass"))
        self.assertEqual(pieces("card 4 x 5 gate fold\nBase 8½ x 5½ brass score 4¼")[0].width, 17 * INCH // 2)


class BorderTests(TestCase):
    def test_a_border_follows_what_it_is_on(self):
        text = "Base {} brass score 4\nMat ⅛ border on the base midnight\nPanel 1/16 border chalk"
        for size, mat, panel in (("8 x 5", (3.75, 4.75), (3.625, 4.625)), ("8 x 6", (3.75, 5.75), (3.625, 5.625))):
            sizes = [(p.width / INCH, p.height / INCH) for p in pieces(text.format(size))[1:]]
            self.assertEqual(sizes, [mat, panel])

    def test_it_says_what_it_cannot_do(self):
        self.assertIn("A border on what?", error("Mat ⅛ border brass"))
        self.assertIn("leaves nothing", error(SIDE + "Mat 3 border brass"))

    def test_a_name_of_many_words_ends_where_the_longest_known_name_ends(self):
        text = SIDE + "Star 3 x 3 chalk\nStar mat 3½ x 3½ from chalk moon\nPanel ¼ border on star mat star chart"
        panel = pieces(text)[-1]
        self.assertEqual((panel.width, panel.paper, panel.place.on), (3 * INCH, "Star Chart", "#3"))
        # “Star” is no layer of “Starlet”.
        self.assertIn("starlet", error(SIDE + "Star 3 x 3 chalk\nPanel ¼ border on starlet chalk"))


class PlaceAndShapeTests(TestCase):
    def one(self, line: str):
        return pieces(SIDE + "Mat 4 x 5 brass\n" + line)[-1]

    def test_places_overhangs_tilts_and_sides(self):
        piece = self.one("2 Strip ½ x 4 star chart side b overhang ¼ left ½, flush top tilted 2.5 left raised ⅛ on mat")
        place = piece.place
        self.assertEqual((place.left, place.top, place.tilt, place.on), (INCH // 2, 0, -25, "#2"))
        self.assertEqual(
            (piece.side, piece.raised, piece.overhang), ("b", INCH // 8, Edges(0, INCH // 4, 0, INCH // 4))
        )
        self.assertEqual((piece.height, piece.shown_height), (INCH * 9 // 2, 4 * INCH))
        right = self.one("Strip ½ x 4 star chart overhang ¼ right").overhang
        self.assertEqual(right, Edges(right=INCH // 4))
        self.assertEqual(self.one("Strip 1 x 1 chalk overhang ⅛ all round").overhang, Edges(*[INCH // 8] * 4))

    def test_shapes_on_their_blanks(self):
        self.assertEqual(
            self.one("Moon 2½ x 2½ chalk circle 2¼").shape,
            Outline(kind="circle", width=9 * INCH // 4, height=9 * INCH // 4),
        )
        self.assertEqual(self.one("Flag 1 x 3 chalk banner").shape, Outline(kind="banner", width=INCH, height=3 * INCH))
        self.assertEqual(self.one("Flag 1 x 3 chalk fishtail").shape.kind, "banner")
        self.assertEqual(
            self.one("Frame 3 x 4 chalk oval 2 x 3").shape, Outline(kind="oval", width=2 * INCH, height=3 * INCH)
        )
        self.assertIn("larger than its piece", error(SIDE + "Moon 2 x 2 chalk circle 2¼"))

    def test_a_round_shape_alone_gets_a_blank_with_a_margin_for_the_die(self):
        moon = self.one("2 Moon circle 2¼ chalk")
        self.assertEqual((moon.count, moon.name, moon.width, moon.role), (2, "Moon", INCH * 5 // 2, "shape"))
        self.assertEqual(self.one("Circle 2 chalk").name, "Circle")
        # Two measures are those of the shape or of its blank: asked.
        self.assertIn("Is 2¼ × 2½ the circle", error(SIDE + "Circle 2¼ x 2½ chalk"))

    def test_of_a_set_of_dies_a_size_is_no_number(self):
        """What stands on the box is the size: read as a number it would be another die."""
        for line, half_inches in {
            'Moon moon circles 2" chalk': 4,
            "Moon moon circles 2 in chalk": 4,
            "Moon moon circles 1½ chalk": 3,
            "Moon moon circles 38.1 mm chalk": 3,
            "Moon the smallest moon circles chalk": 1,
            "Moon second smallest of the moon circles chalk": 2,
            "Moon moon circles, second largest, chalk": 5,
            "Moon moon circles largest chalk": 6,
            # No die cuts 5 in, and none has the number 38.
            "Moon moon circles 5 chalk": 5,
            "A moon of chalk, cut with the moon circles 1½": 3,
        }.items():
            with self.subTest(line):
                (reading,) = read_list(line, SHELF)
                self.assertEqual(reading.piece.shape.width, half_inches * INCH // 2, reading)
        (frame,) = read_list("Frame 4 x 5 chalk window moon circles 2½", SHELF)
        self.assertEqual(frame.piece.window.width, 5 * INCH // 2)
        (reading,) = read_list("Moon moon circles 2⅛ chalk", SHELF)
        self.assertEqual(
            reading.error.mend, "Write one of its numbers: 1 is ½, 2 is 1, 3 is 1½, 4 is 2, 5 is 2½, 6 is 3"
        )
        for line in ("Moon seventh smallest moon circles chalk", "Moon the two largest moon circles chalk"):
            (reading,) = read_list(line, SHELF)
            self.assertIsNone(reading.piece, line)
        # Behind the set's name the sign of a remark is that of a number.
        for line, note in {"Moon moon circles #4 chalk": "", "Moon moon circles # 4 chalk # mind": "mind"}.items():
            (reading,) = read_list(line, SHELF)
            self.assertEqual((reading.text, reading.piece.shape.width, reading.piece.note), (line, 2 * INCH, note))
        (reading,) = read_list("Moon moon circles no. 4 chalk #2 of them are spare", SHELF)
        self.assertEqual((reading.piece.shape.width, reading.piece.note), (2 * INCH, "2 of them are spare"))
        # No. 2 cuts 1 in, and another cuts 2.
        for line in ("Moon moon circles 2 chalk in class", "Tag 3 x 3 chalk notch moon circles 2 left # two"):
            (reading,) = read_list(line, SHELF)
            self.assertIn("no. 2, or the one that cuts 2 in?", reading.error.what)
            ways = [read_list(choice.line, SHELF)[0].piece for choice in reading.error.choices]
            self.assertEqual([(way.shape or way.notch).width for way in ways], [INCH, 2 * INCH])
            self.assertEqual([way.note for way in ways], ["two" if "#" in line else ""] * 2)
        # A number stays one, whatever stands behind it.
        for line in (
            "Moon moon circles no. 2 chalk in class",
            "Moon moon circles no. 2 chalk",
            "Tag 2 x 3 chalk moon die-cut moon circles no. 2 ½ from the bottom",
        ):
            self.assertEqual(read_list(line, SHELF)[0].piece.shape.width, 8128, line)
        # Two sides are no number either, nor is a part of them a size.
        for line in ('Moon circles 2" x 3" chalk', "Moon circles 2 in x 3 in chalk", "Moon circles 2½ x 3 chalk"):
            self.assertIsNone(read_list(line, SHELF)[0].piece, line)

    def test_tools_are_named_with_their_number(self):
        seal = self.one("Seal circles 4 chalk stamped in class")
        self.assertEqual((seal.shape.width, seal.width, seal.tool), (2 * INCH, 9 * INCH // 4, "Circles"))
        self.assertEqual([(job.what, job.when) for job in seal.jobs], [("die-cut", ""), ("stamped", "class")])
        self.assertIn("numbers 1 to 6", error("Seal circles 9 chalk"))
        # Of a tool with one size no number is needed; of one with several it is.
        self.assertEqual(self.one("Dot disc punch chalk").shape.width, 2 * INCH)
        self.assertTrue(error("Dot circles chalk"))
        self.assertEqual(self.one("Panel 4 x 5 chalk embossed clouds").preparations, ("embossed",))

    def test_windows_roles_versions_and_remarks(self):
        line = "Sky 4 x 5 chalk as mat window circle 2 at 1, 1½ only stepped-up # frame it"
        piece = card(SIDE + line, version="stepped-up").pieces[-1]
        self.assertEqual((piece.role, piece.only, piece.note), ("mat", "stepped-up", "frame it"))
        self.assertEqual(piece.window, Outline(kind="circle", width=2 * INCH, height=2 * INCH, x=INCH, y=3 * INCH // 2))

    def test_a_number_at_the_end_of_a_name_is_no_length(self):
        self.assertEqual(self.one("Tag2 1/2 x 3 chalk").width, INCH // 2)
        self.assertEqual(self.one("Mat no2 1/4 border chalk").width, 7 * INCH // 2)

    def test_mistakes_say_what_and_how(self):
        for line, wanted in {
            "Star 1 x 1 chalk on moon": "Nothing above is called “moon”",
            "Star 1 x 1 chalk left ½ left 1": "said twice",
            "Star 1 x 1 telescope brass shiny": "“shiny” is not understood",
            "Star 1 x 1 chalk window 2": "reaches beyond",
        }.items():
            self.assertIn(wanted, error(SIDE + line))


class BitTests(TestCase):
    def test_bits_by_the_count_or_by_the_length(self):
        for line, wanted in {
            "+ 6 foam squares": Bit("foam squares", 6),
            "+ envelope": Bit("envelope", 1),
            "+ 12 in brass thread": Bit("brass thread", length=12 * INCH),
            "+ 30 cm ribbon only stepped": Bit("ribbon", length=300 * 320, only="stepped"),
            "+ 7½ in ribbon # tie it": Bit("ribbon", length=15 * INCH // 2),
        }.items():
            with self.subTest(line=line):
                self.assertEqual(read_list(line, KNOWN)[0].bit, wanted)
        self.assertIn("What is it? Write it like", error("+ 6"))
        self.assertIn("of what measure", error("+ 7.5 ribbon"))

    def test_they_take_no_number_from_the_pieces(self):
        self.assertEqual([p.number for p in pieces("Mat 4 x 5 brass\n+ gem\ncard 4 x 4\nTag 2 x 3 brass")], [1, 2])
