"""What is said of pieces, cards and bits."""

from unittest import TestCase

from zester.core.cards.tests.cards import KNOWN, card
from zester.core.cutlist.notation import read_list
from zester.core.piece_words import bit_words, card_words, piece_words
from zester.core.pieces import Bit
from zester.core.tally import BitCount

SIDE = "card 4¼ x 5½ side fold\nBase midnight\n"


class WordsTests(TestCase):
    def words(self, line: str) -> str:
        study = card(SIDE + line, version="simple")
        return piece_words(study.pieces[-1], "in", {key: paper.name for key, paper in study.papers.items()})

    def test_every_rule_is_said_back(self):
        for line, wanted in {
            "Mat ⅛ border chalk": "1⁄8 in border",
            "Strip ½ x 5 chalk overhang ¼": "trimmed flush: ¼ in top, ¼ in bottom",
            "Moon circle 2 chalk": "circle 2 × 2 in",
            "Sky 4 x 5 star chart side b": "Star Chart, side B",
            "Sky 4 x 5 star chart upright": "upright",
            "Frame 4 x 5 chalk window 2 x 3": "window 2 × 3 in",
            "Mat 4 x 5 brass middle 3 x 4": "3 × 4 in of it are hidden",
            "Star 1 x 1 brass from a middle": "may come out of a hidden middle",
            "Star 1 x 1 brass filler": "only where it costs nothing",
            "Star 1 x 1 brass raised": "raised 1⁄16 in on foam",
            "Star 1 x 1 brass stamped in class": "stamped in class",
            "Star 1 x 1 brass only simple": "only simple",
            "Flap 4 x 2 brass score 1, 3": "scored at 1 and 3 in from the left",
            "2 Door 1 x 5 star chart match doors": "matched, beside the other doors",
        }.items():
            with self.subTest(line=line):
                self.assertIn(wanted, self.words(line))

    def test_the_card_and_its_bits(self):
        for line, wanted in {
            "card 4¼ x 5½ top fold with a pocket": "The card: 4¼ × 5½ in, top fold with a pocket",
            "card gate fold": "The card: gate fold",
        }.items():
            self.assertEqual(card_words(read_list(line, KNOWN)[0].card, "in"), wanted)
        self.assertEqual(bit_words(read_list("+ 6 foam squares", KNOWN)[0].bit, "in"), "6 foam squares")
        self.assertEqual(bit_words(BitCount("thread", 0, 12 * 8128, ""), "in"), "12 in of thread")
        # A ribbon round a layer tells what is left to tie: an inch, or as much as metric designers leave.
        around = Bit("ribbon", length=8128, around=2)
        self.assertEqual(bit_words(around, "in"), "1 in of ribbon round no. 2: there and back and 1 in to tie or glue")
        self.assertIn("there and back and 25 mm to tie", bit_words(Bit("ribbon", length=32000, around=2), "mm"))
