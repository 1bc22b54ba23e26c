"""Figures that are cut out by hand and come back onto the card, and holes that need no die. By hand."""

from unittest import TestCase

from zester.core.cards.tests.cards import KNOWN
from zester.core.cards.tests.test_random_cards import looked_at
from zester.core.cutlist.notation import read_list
from zester.core.cutting.handwork import handwork
from zester.core.kits.assembly import assembly_of

SIDE = "card 4¼ x 5½ side fold\nBase telescope brass\nPanel 4 x 5¼ midnight dome\n"
SCRAP = f"{SIDE}Scrap 3 x 4 chalk moon stamped\n"


class CutOutTests(TestCase):
    def test_with_a_place_it_is_on_the_card_and_glued(self):
        card = looked_at(f"{SIDE}Fish 1 x 1 chalk moon cut out by hand right ½\nOwl 1 x 1 chalk moon cut out by hand")
        self.assertEqual([piece.loose for piece in card.pieces], ["", "", "", "scrap"])
        self.assertIn("Glue 3 Fish on 2 Panel, ½ in from the right", [step.what for step in assembly_of(card)])
        self.assertEqual([each.piece.name for each in card.placed if each.piece.by_hand], ["Fish"])

    def test_out_of_a_scrap_nothing_is_cut_for_it_and_the_scrap_is_worked_first(self):
        card = looked_at(f"{SCRAP}Bird 1½ x 2 cut out of the scrap, left ½ top 1 raised")
        bird = card.pieces[-1]
        self.assertEqual((bird.out_of, bird.paper, bird.loose), (3, card.pieces[-2].paper, ""))
        said = [step.what for step in assembly_of(card)]
        self.assertLess(said.index("3 Scrap: stamp"), said.index("4 Bird: cut it out of 3 Scrap"))
        self.assertIn("Stick 4 Bird on 2 Panel with foam under it, ½ in from the left, 1 in from the top", said)

    def test_what_does_not_come_out_of_the_scrap_is_said(self):
        for line, said in {
            "Bird 4 x 5 cut out of the scrap left ½": "4 × 5 in does not come out of Scrap. That is 3 × 4 in",
            "Bird 1 x 1 brass cut out of the scrap left ½": "Scrap is Chalk Moon. Take the paper away",
        }.items():
            self.assertIn(said, read_list(SCRAP + line, KNOWN)[-1].error.text())
        (reading,) = read_list("Bird 1 x 1 cut out of the scrap left ½", KNOWN)
        self.assertIn("Write the scrap above it", reading.error.mend)

    def test_a_small_hole_is_punched_a_larger_one_die_cut(self):
        for size, how in (("⅛", "punch the hole"), ("¼", "punch the hole"), ("5/16", "die-cut the opening")):
            (reading,) = read_list(f"Tag 2 x 3 chalk hole {size} top", KNOWN)
            (work,) = handwork(reading.piece, "in")
            self.assertTrue(work.what.startswith(how), work)
        # Four hundred tags are half an hour with a punch, not three hours at a machine.
        (reading,) = read_list("Tag 2 x 3 chalk hole ⅛ top", KNOWN)
        self.assertLess(400 * handwork(reading.piece, "in")[0].seconds, 30 * 60)
