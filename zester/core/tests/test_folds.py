"""Bases, folds, and the worked sums of the trade. Sums marked so are common practice and have no published source."""

from unittest import TestCase

from zester.core.cards.tests.cards import GATE, INCH, card
from zester.core.cutlist.notation import read_list
from zester.core.folds import fold_of, scores_for
from zester.core.lengths import MILLIMETRES, TICKS_PER_MM
from zester.core.pieces import CardLine, Score


def inches(*lengths: float) -> tuple[int, ...]:
    return tuple(int(length * INCH) for length in lengths)


class CommonPracticeTests(TestCase):
    """Check values of the trade (common practice, no source)."""

    def test_both_bases_of_a_letter_sheet(self):
        side, top = CardLine(*inches(4.25, 5.5), "side"), CardLine(*inches(4.25, 5.5), "top")
        self.assertEqual(scores_for(side), (*inches(8.5, 5.5), Score("x", inches(4.25))))
        self.assertEqual(scores_for(top), (*inches(4.25, 11), Score("y", inches(5.5))))
        for text in ("Base 8½ x 5½ brass score 4¼", "Base 4¼ x 11 brass score 5½"):
            folded = card(text).folded
            self.assertEqual((folded.width, folded.height), inches(4.25, 5.5))

    def test_stepped_mats_of_the_three_usual_borders(self):
        text = "Base 8½ x 5½ brass score 4¼\nMat {} border midnight\nPanel {} border chalk"
        for borders, sizes in {
            ("⅛", "⅛"): ((4, 5.25), (3.75, 5)),
            ("⅛", "1/16"): ((4, 5.25), (3.875, 5.125)),
            ("1/16", "¼"): ((4.125, 5.375), (3.625, 4.875)),
        }.items():
            with self.subTest(borders=borders):
                pieces = card(text.format(*borders)).pieces
                self.assertEqual([(p.width, p.height) for p in pieces[1:]], [inches(*size) for size in sizes])

    def test_a_gate_fold_is_scored_at_a_quarter_from_each_end_and_its_doors_meet(self):
        study = card(GATE)
        self.assertEqual(study.base.score, Score("x", inches(2.125, 6.375)))
        left, right = study.folded.faces["left door"], study.folded.faces["right door"]
        self.assertEqual((left.x, left.width, right.x, right.width), inches(0, 2.125, 2.125, 2.125))
        self.assertEqual(study.folded.faces["inside middle"].width, INCH * 17 // 4)
        mats = [(p.name, p.width, p.height) for p in study.pieces if p.role in ("mat", "panel")]
        self.assertEqual(mats[0][1:], inches(1.875, 5.25))
        self.assertEqual(mats[1][1:], inches(1.625, 5))

    def test_a_pocket_at_any_end_and_on_a_side_fold(self):
        for line, base, size, where in (
            ("side fold with a pocket", "8½ x 7½ brass score 4¼ across 5½ down", (4.25, 5.5), (0, 3.5, 8.5, 2)),
            ("side fold with a pocket at the right", "11 x 5½ brass score 4¼, 8½", (4.25, 5.5), (6, 0, 2.5, 5.5)),
            ("side fold with a pocket at the left", "10½ x 5½ brass score 2, 6¼", (4.25, 5.5), (0, 0, 2, 5.5)),
            ("top fold with a pocket at the top", "4¼ x 11 brass score 2, 6½ down", (4.25, 4.5), (0, 0, 4.25, 2)),
            ("no fold with a pocket at the left", "6¼ x 5½ brass score 2 across", (4.25, 5.5), (0, 0, 2, 5.5)),
        ):
            with self.subTest(line=line):
                folded = card(f"card {line}\nBase {base}").folded
                self.assertEqual((folded.width, folded.height), inches(*size))
                pocket = folded.faces["pocket"]
                self.assertEqual((pocket.x, pocket.y, pocket.width, pocket.height), inches(*where))

    def test_a_base_with_its_end_folded_up_has_a_pocket(self):
        study = card("card no fold with a pocket\nBase 4¼ x 7½ brass score 5½")
        self.assertEqual((study.folded.width, study.folded.height, study.folded.pocket), inches(4.25, 5.5, 2))
        pocket = study.folded.faces["pocket"]
        self.assertEqual((pocket.y, pocket.height), inches(3.5, 2))
        inside = card("card top fold pocket\nBase 4 x 10½ brass score 4, 8").folded
        self.assertEqual((inside.width, inside.height, inside.pocket), inches(4, 4, 2.5))
        self.assertEqual(inside.faces["pocket"].y, INCH * 11 // 2)

    def test_thirds_make_a_tri_fold_and_more_an_accordion(self):
        self.assertEqual(card("Base 11 x 4 brass score 3 11/16, 7⅜").folded.fold, "tri")
        folded = card("Base 11 x 4 brass score 2, 4, 6, 8").folded
        self.assertEqual((folded.fold, folded.layers, folded.width), ("accordion", 5, 3 * INCH))
        down = card("Base 4 x 11 brass score 3, 6, 9").folded
        self.assertEqual((down.width, down.height), inches(4, 3))

    def test_an_a5_base_folds_to_a6(self):
        # ISO 216: A5 is 148 × 210 mm, A6 105 × 148 mm.
        folded = card("Base 210 x 148 brass score 105", MILLIMETRES).folded
        self.assertEqual((folded.width, folded.height), (105 * TICKS_PER_MM, 148 * TICKS_PER_MM))

    def test_without_a_base_the_cards_line_is_enough_to_draw(self):
        self.assertIsNone(fold_of(None, None))
        self.assertIsNone(card("Mat 4 x 5 brass").folded)
        self.assertEqual(card("card 3 x 3 top fold").folded.open_height, 6 * INCH)


class PlaceTests(TestCase):
    def where(self, text: str, name: str) -> list:
        study = card(text)
        return [(each.face.key, each.x / INCH, each.y / INCH) for each in study.placed if each.piece.name == name]

    def test_doors_get_one_each_and_their_panels_sit_on_their_mats(self):
        self.assertEqual(self.where(GATE, "Door panels"), [("left door", 0.25, 0.25), ("right door", 2.375, 0.25)])

    def test_places_are_measured_from_an_edge_or_the_fold(self):
        base = "card 4 x 4 side fold\nBase brass\nMat 3 x 3 chalk\n"
        self.assertEqual(self.where(base + "Tag 1 x 1 chalk left ¼ bottom ½", "Tag"), [("front", 0.75, 2)])
        self.assertEqual(self.where(base + "Tag 1 x 1 chalk on front fold ¼ flush top", "Tag"), [("front", 0.75, 0.5)])
        self.assertEqual(self.where(base + "Tag 1 x 1 chalk on base fold ¼ flush top", "Tag"), [("front", 0.25, 0)])
        self.assertEqual(self.where(base + "Tag 1 x 1 chalk on inside right 0", "Tag"), [("inside right", 7, 1.5)])

    def test_copies_spread_evenly_or_follow_each_other(self):
        base = "card 4 x 4 top fold\nBase brass\n"
        even = self.where(base + "3 Strip ½ x 4 chalk", "Strip")
        self.assertEqual([x for _, x, _ in even], [0.625, 1.75, 2.875])
        rowed = self.where(base + "2 Strip ½ x 4 chalk left ½", "Strip")
        self.assertEqual([x for _, x, _ in rowed], [0.5, 1.125])

    def test_a_piece_may_be_put_on_any_piece_above_by_name_number_or_beginning(self):
        base = "card 4 x 4 side fold\nBase brass\nFirst mat 3½ x 3½ chalk\nSecond mat 3 x 3 midnight\n"
        for words in ("first mat", "2", "first", "a2"):
            study = card(base + f"Star 1 x 1 brass on {words}")
            self.assertEqual(study.placed[study.placed[-1].under].piece.name, "First mat")

    def test_what_sits_on_a_tag_does_not_carry_what_follows(self):
        text = "card 4 x 4 side fold\nBase brass\nMat 3½ x 3½ chalk\nTag 2 x 2 midnight\nTag panel 1 x 1 chalk on tag\n"
        study = card(text + "Star 1 x 1 brass")
        self.assertEqual(study.placed[study.placed[-1].under].piece.name, "Mat")

    def test_pieces_on_a_version_only_are_not_under_those_of_all(self):
        text = "card 4 x 4 side fold\nBase brass\nMat 3½ x 3½ chalk\nPanel 3 x 3 brass only stepped\nStar 1 x 1 brass"
        for version, under in (("", "Mat"), ("stepped", "Mat")):
            study = card(text, version=version)
            star = next(each for each in study.placed if each.piece.name == "Star")
            self.assertEqual(study.placed[star.under].piece.name, under)

    def test_an_exact_copy_of_a_long_list_is_placed_in_no_time(self):
        # Faces that do not agree used to be looked for again and again: 2⁶⁰ times for sixty pieces.
        lines = [f"{'Inside ' if k % 2 else ''}Panel no. {k} 3 x 3 chalk" for k in range(60)]
        self.assertEqual(len(card("card 4 x 4 side fold\nBase brass\n" + "\n".join(lines)).placed), 60)

    def test_reading_it_in_another_order_reads_the_same_pieces(self):
        one = read_list("card 4 x 4 side fold", card("Base 4 x 4 brass").known)
        self.assertEqual(one[0].card, CardLine(4 * INCH, 4 * INCH, "side"))
