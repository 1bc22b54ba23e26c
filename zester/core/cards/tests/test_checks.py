"""The checks: each finds what it is for, says why, offers a mend that mends it, and is silent otherwise."""

from dataclasses import replace
from itertools import pairwise
from unittest import TestCase

from zester.core.cards.checks import check_card, facts_of, yields_of
from zester.core.cards.hidden import covered
from zester.core.cards.moving import moved
from zester.core.cards.study import Study
from zester.core.cards.tests.cards import GATE, INCH, KNOWN, card, findings, grave, mended
from zester.core.cards.thickness import envelope_for
from zester.core.cutlist.notation import read_list
from zester.core.errors import CutListError
from zester.core.lengths import MILLIMETRES, SIXTEENTHS, parse_length, parse_size
from zester.core.pieces import Known, drops_out
from zester.core.sizes import ISO_ENVELOPES, US_ENVELOPES, iso_c

SIDE = "card 4¼ x 5½ side fold\nBase midnight\n"


class CheckTests(TestCase):
    def assert_mends(self, text: str, group: str, what: str, number: int = 0):
        """The finding is there, and gone after its mend."""
        found = [finding for finding in findings(text, group) if what in finding.what]
        self.assertEqual(len(found), 1, findings(text))
        after = mended(text, found[0], number)
        self.assertEqual([f.what for f in findings(after, group) if what in f.what], [], after)
        return found[0], after

    def test_sound_cards_are_left_alone(self):
        sound = [
            GATE,
            SIDE + "Mat 4 x 5¼ brass\nPanel 3⅞ x 5⅛ star chart\nHills 3⅞ x 1¾ pine ridge flush bottom\n"
            "Strip ½ x 5⅛ brass overhang ¼",
            "card 4¼ x 5½ top fold\nBase midnight\nMat ⅛ border brass\nSentiment 3 x ¾ chalk bottom 1 tilted 3",
            "Base 8½ x 5½ brass score 4¼\nInside panel 4 x 5¼ chalk\nInside panel 3½ x 4¾ chalk",
        ]
        for text in sound:
            with self.subTest(text=text.splitlines()[0]):
                self.assertEqual(grave(text), [])

    def test_a_layer_larger_than_what_it_sits_on(self):
        finding, after = self.assert_mends(SIDE + "Mat 4½ x 5¼ brass", "layers", "larger than the front")
        self.assertEqual(finding.why, "4½ × 5¼ in on 4¼ × 5½ in")
        self.assertIn("Mat 4 x 5¼ brass", after)
        self.assert_mends(SIDE + "Mat 4 x 5¼ brass\nPanel 4⅛ x 5⅛ chalk", "layers", "larger than the Mat")

    def test_a_layer_that_hangs_over(self):
        finding, after = self.assert_mends(SIDE + "Star 2 x 2 brass left 3", "layers", "hangs over the right edge")
        self.assertEqual(finding.why, "by ¾ in")
        self.assertNotIn("left 3", after)
        tilted = findings(SIDE + "Mat 4¼ x 5½ brass tilted 10", "layers")
        self.assertEqual([f.grave for f in tilted], [False])

    def test_a_shape_is_measured_by_its_outline_not_by_its_blank(self):
        text = SIDE + "Mat 4 x 4 brass\nMoon 4¼ x 4¼ chalk circle 4"
        self.assertEqual(findings(text, "layers"), [])

    def test_borders_that_are_uneven_or_too_thin(self):
        finding, after = self.assert_mends(SIDE + "Mat 4 x 5 brass", "borders", "uneven borders")
        self.assertEqual(finding.why, "⅛ in left and right, ¼ in above and below".replace("⅛", "1⁄8"))
        self.assertIn("Mat 4 x 5¼", after)
        other = mended(SIDE + "Mat 4 x 5 brass", finding, 1)
        self.assertIn("Mat 3¾ x 5", other)
        self.assert_mends(SIDE + "Mat 4 3/16 x 5 7/16 brass", "borders", "too thin")
        self.assert_mends(SIDE + "Star 3 x 1 brass left 9/16", "borders", "a little off the middle")

    def test_borders_on_both_doors_are_looked_at(self):
        text = "card 4¼ x 5½ gate fold\nBase midnight\n2 Door mats 2 x 5 brass"
        self.assertIn("uneven borders on the left door", findings(text, "borders")[0].what)
        self.assertEqual(findings(SIDE + "2 Mat 2 x 5 brass", "borders"), [], "two beside each other have other gaps")

    def test_wide_borders_and_half_covered_layers_are_meant(self):
        for piece in (
            "Panel 3 x 3 brass",
            "Panel 4¼ x 2 brass",
            "Panel 3¾ x 2½ brass top ½",
            "Star 1 x 1 brass left ½",
        ):
            with self.subTest(piece=piece):
                self.assertEqual(findings(SIDE + piece, "borders"), [])

    def test_score_lines_that_do_not_halve_the_base(self):
        finding, after = self.assert_mends("Base 8½ x 5½ brass score 4", "folds", "does not halve")
        self.assertEqual(finding.why, "half of 8½ in is 4¼ in; it is scored at 4 in")
        self.assertIn("score across 4¼", after)
        short = findings("Base 8½ x 5½ brass score 3", "folds")
        self.assertEqual([(f.grave, f.what) for f in short], [(False, "The front is shorter than the back")])

    def test_doors_that_do_not_meet_or_overlap(self):
        finding, _ = self.assert_mends("Base 8½ x 5½ brass score 2, 6½", "folds", "The doors leave")
        self.assertEqual(finding.why, "2 in + 2 in over a middle of 4½ in")
        self.assert_mends("card gate fold\nBase 8½ x 5½ brass score 2¼, 6¼", "folds", "The doors overlap by")
        self.assertEqual(grave("Base 8 7/16 x 5½ brass score 2⅛, 6⅜"), [], "1/16 in between the doors is let be")

    def test_a_base_that_does_not_make_the_card_that_was_meant(self):
        self.assert_mends("card 4 x 4 side fold\nBase 8½ x 5½ brass score 4¼", "folds", "The base folds to")
        finding, after = self.assert_mends("card 4 x 4 top fold\nBase 4 x 8 brass", "folds", "has no score line")
        self.assertIn("score down 4", after)
        self.assertEqual(finding.what, "The card’s line says top fold, its base has no score line")

    def test_a_pocket_holds_a_gift_card_or_says_why_not(self):
        # ISO/IEC 7810:2019 ID-1: 85.60 × 53.98 mm.
        text = "card no fold pocket\nBase {} x {} brass score {}"
        self.assertIn("too shallow", grave(text.format("4¼", "6½", "5½"))[0])
        self.assertIn("too narrow", grave(text.format("3¾", "7½", "5½"))[0])
        self.assertEqual(grave(text.format("4¼", "7½", "5½")), [])
        facts = {fact.name: fact.value for fact in facts_of(card(text.format("4¼", "7½", "5½")))}
        self.assertEqual(facts["Pocket"], "2 in deep: a gift card stands 3 mm out of it")

    def test_a_band_goes_round_with_something_to_glue_and_room_to_slide(self):
        finding, after = self.assert_mends(SIDE + "Belly band 8½ x 1 brass", "folds", "too short")
        # 2 × 4¼ round, twice the thickness (two sheets of 0.3 mm: 1/16), ½ to glue, ⅛ to slide: common practice.
        self.assertIn("= 9¼ in", finding.why)
        self.assertIn("Belly band 9¼ x 1", after)
        self.assert_mends(SIDE + "Belly band 8 13/16 x 1 brass", "folds", "too short")
        self.assert_mends(SIDE + "Belly band 8⅞ x 1 brass", "folds", "too tight")
        self.assertEqual(findings(SIDE + "Belly band 9½ x 1 brass\nSeal circle 2 chalk on band", "folds"), [])
        self.assertEqual(grave(SIDE + "Belly band 1 x 9½ brass"), [])
        metric = "card 105 x 148 mm side fold\nBase brass\nBelly band {} x 25 mm brass"
        text = findings(metric.format(215), "folds", MILLIMETRES)[0]
        round_it = "2 × 105 mm round the card + 2 × 1 mm for its thickness"
        self.assertEqual(text.why, f"{round_it} + 13 mm to glue + 4 mm to slide = 229 mm")

    def test_strips_meant_to_be_flush_are_cut_long(self):
        finding, after = self.assert_mends(SIDE + "Strip ½ x 5½ brass", "strips", "cut exact")
        self.assertFalse(finding.grave)
        piece = card(after).pieces[-1]
        self.assertEqual((piece.height, piece.shown_height), (INCH * 23 // 4, INCH * 11 // 2))
        self.assert_mends(SIDE + "Strip ½ x 6 brass", "layers", "larger than the front")

    def test_one_way_patterns_do_not_lie_on_their_side(self):
        self.assert_mends(SIDE + "Hills 2 x 2 pine ridge tilted 90", "papers", "lies on its side")
        self.assert_mends(SIDE + "Belly band 1 x 9½ pine ridge", "papers", "lies on its side")
        self.assertEqual(findings(SIDE + "Hills 2 x 2 star chart tilted 90", "papers"), [])
        inside = "card 4 x 4 top fold\nBase brass\nPines 2 x 2 pine ridge on inside top"
        self.assertEqual([f.grave for f in findings(inside, "papers")], [False])

    def test_a_side_the_paper_does_not_have(self):
        _, after = self.assert_mends(SIDE + "Mat 4 x 5¼ chalk side b", "papers", "has no side B")
        self.assertTrue(after.endswith("Mat 4 x 5¼ chalk"))
        self.assertEqual(findings(SIDE + "Mat 4 x 5¼ brass other side", "papers"), [])

    def test_matched_pieces_fit_side_by_side_on_a_sheet(self):
        wide = SIDE + "4 Panel 3½ x 3 star chart match row"
        self.assertIn("3½ in + 3½ in + 3½ in + 3½ in = 14 in", findings(wide, "papers")[0].why)
        self.assertEqual(findings(GATE, "papers"), [])

    def test_how_many_come_from_a_sheet(self):
        # Common practice: four 4 × 5¼ mats, sixteen 2⅛ × 2¾ tags from a letter sheet.
        study = card("Mat 4 x 5¼ brass\nTag 2⅛ x 2¾ brass\nBase 8½ x 5½ brass\nPortion 4 x 6 star chart")
        self.assertEqual(yields_of(study), {1: 4, 2: 16, 3: 2, 4: 6})
        finding = findings("Panel 4⅜ x 5½ brass", "yield")[0]
        self.assertEqual(finding.what, "Panel cut 1⁄8 in narrower gives 4 from a sheet in place of 2")
        self.assertEqual(finding.mends[0].text, "Panel 4¼ x 5½ brass")
        self.assertEqual(findings("Tag 2⅛ x 2¾ brass", "yield"), [])

    def test_tools_reach_only_so_far(self):
        self.assertIn("does not reach", findings(SIDE + "Moon 3 x 3 chalk disc punch", "papers")[0].what)
        self.assertEqual(findings(SIDE + "Moon 2 x 2 chalk disc punch", "papers"), [])
        self.assertIn("too large for Clouds", findings("Panel 4½ x 5½ brass embossed clouds", "papers")[0].what)
        self.assertEqual(findings("Panel 5½ x 4¼ brass embossed clouds", "papers"), [])

    def test_a_blank_leaves_a_margin_for_its_die(self):
        finding, after = self.assert_mends(SIDE + "Moon 2 x 2 chalk circles 4", "papers", "no margin")
        self.assertTrue(finding.grave)
        self.assertIn("Moon 2¼ x 2¼ chalk circles 4", after)
        # One side without a margin is enough, whichever it is.
        for size in ("2 x 3", "3 x 2"):
            self.assert_mends(SIDE + f"Moon {size} chalk circles 4", "papers", "no margin")
        self.assertEqual(findings(SIDE + "Moon circles 4 chalk\nDisc 2 x 2 chalk circle", "papers"), [])

    def test_words_that_a_layer_covers(self):
        text = SIDE + "Sentiment 3 x 1 chalk\nStar 2 x 2 brass"
        self.assertEqual(findings(text, "layers")[0].what, "Star lies over Sentiment")
        self.assertEqual(findings(SIDE + "Sentiment 3 x 1 chalk bottom ½\nStar 1 x 1 brass top ½", "layers"), [])

    def test_hidden_middles_are_offered_with_their_rim(self):
        text = SIDE + "Mat 4 x 5¼ brass\nPanel 3¾ x 5 star chart\nTag 2 x 3 brass left ½"
        self.assertEqual(findings(text.replace("3 brass", "3 chalk"), "middles"), [], "nothing of that paper is wanted")
        _, after = self.assert_mends(text, "middles", "are hidden under Panel")
        self.assertIn("Mat 4 x 5¼ brass  middle 3¼ x 4½", after)
        clear = "Mat 4 x 5¼ brass\nPane 3¾ x 5 pane as panel"
        self.assertEqual(findings(SIDE + clear, "middles"), [], "what lies under a clear sheet is seen")
        aside = "Mat 4 x 5¼ brass\nPanel 3 x 3 star chart top ½ left ½\nTag 2 x 2 brass bottom ½"
        moved = findings(SIDE + aside, "middles")[0]
        self.assertIn("middle 2½ x 2½ at ¾, ¾", moved.mends[0].text)
        # Offered once: a layer with a middle, a matched one, or one under a shape is left alone.
        self.assertEqual(findings(SIDE + "Mat 4 x 5¼ brass\nMoon circle 3 chalk", "middles"), [])

    def test_a_middle_that_is_not_covered_would_show(self):
        text = SIDE + "Mat 4 x 5¼ brass middle 3¾ x 5\nPanel 3¾ x 4½ star chart"
        finding, after = self.assert_mends(text, "middles", "would show")
        self.assertTrue(finding.grave)
        self.assertIn("middle 3¼ x 4", after)

    def test_a_folder_takes_a_base_closed_and_other_pieces_as_they_are(self):
        self.assertEqual(findings("Base 8½ x 5½ brass score 4¼ clouds", "papers"), [])
        (finding,) = findings(SIDE + "Mat 4½ x 5½ chalk on inside clouds", "papers")
        self.assertIn("too large for Clouds", finding.what)

    def test_a_dark_card_with_nothing_to_write_on_inside_is_a_hint(self):
        dark = replace(KNOWN.papers[1], dark=True)
        known = Known((KNOWN.papers[0], dark, *KNOWN.papers[2:]), KNOWN.tools)
        text = "Base 8½ x 5½ midnight dome score 4¼"
        for more, wanted in (("", 1), ("\nInside panel 4 x 5¼ chalk", 0), ("\nInside panel 4 x 5¼ midnight", 1)):
            found = [
                f
                for f in check_card(Study(tuple(read_list(text + more, known)), known, SIXTEENTHS))
                if f.group == "inside"
            ]
            self.assertEqual((len(found), any(f.grave for f in found)), (wanted, False), more)
        self.assertEqual(findings(SIDE, "inside"), [])

    def test_a_tilted_stack_is_judged_in_its_own_frame(self):
        tilted = SIDE + "Mat 3 x 4 brass tilted 8\nPanel 2¾ x 3⅝ chalk\nStar 1 x 1 brass"
        self.assertEqual([f.group for f in findings(tilted, "layers")], [])
        (uneven,) = findings(tilted, "borders")
        self.assertIn("Panel has uneven borders", uneven.what)
        mat, panel = card(tilted).placed[:2]
        self.assertEqual((mat.tilt, panel.tilt), (80, 80), "what lies on a tilted layer is tilted with it")

    def test_a_larger_piece_is_not_put_on_a_smaller_one(self):
        mat, panel, star = card(SIDE + "Mat 3 x 3 brass\nPanel 4 x 5 chalk\nStar 1 x 1 brass").placed
        self.assertEqual((mat.under, panel.under, star.under), (None, None, 1))
        finding = findings(SIDE + "Mat 3 x 3 brass\nPanel 4 x 5 chalk", "layers")[0]
        self.assertEqual([m.label for m in finding.mends][-1], "Put it behind the Mat")
        behind = mended(SIDE + "Mat 3 x 3 brass\nPanel 4 x 5 chalk", finding, -1)
        self.assertEqual(findings(behind, "layers"), [])
        panel, mat = card(behind).placed
        self.assertEqual((panel.piece.name, mat.under), ("Panel", 0))
        self.assertEqual(
            findings(SIDE + "Mat 4 x 5¼ brass\nStrip ½ x 5½ chalk overhang ⅛", "layers"), [], "edge to edge"
        )

    def test_what_is_seen_through_a_hole_is_not_hidden(self):
        text = SIDE + "Backing 3 x 3 brass\nFrame 4 x 5¼ chalk window {0} x {0} raised"
        (seen,) = findings(text.format("3½"), "layers")
        self.assertNotIn("hides it", seen.what)
        self.assertFalse(seen.grave)
        self.assertIn("hides it", findings(text.format("2"), "layers")[0].what)

    def test_a_mat_and_its_panel_written_with_one_tilt_lie_along_each_other(self):
        text = SIDE + "Mat 3 x 4 brass tilted 8\nPanel 2¾ x 3¾ chalk tilted 8"
        mat, panel = card(text).placed
        self.assertEqual((mat.tilt, panel.tilt), (80, 80))
        self.assertEqual(findings(text, "layers"), [])
        other = card(text.replace("chalk tilted 8", "chalk tilted 4")).placed[1]
        self.assertEqual(other.tilt, 120)

    def test_strips_without_a_place_that_lie_on_each_other_are_asked_about_once(self):
        strips = "".join(f"\nStrip {letter} ½ x 4 chalk" for letter in "abcdef")
        (finding,) = findings(SIDE + strips.lstrip(), "layers")
        self.assertIn("Strip a, Strip b, Strip c, Strip d, Strip e, Strip f lie on each other", finding.what)
        text = mended(SIDE + "Strip a ½ x 4 chalk\nStrip b ½ x 4 chalk", findings(SIDE + strips.lstrip(), "layers")[0])
        one, other = card(text).placed
        self.assertEqual(other.local[1] - one.local[1], 4 * INCH + INCH // 8)
        placed = SIDE + "Strip a ½ x 4 chalk left ½\nStrip b ½ x 4 chalk right ½"
        self.assertEqual(findings(placed, "layers"), [])

    def test_a_base_written_the_other_way_round_is_the_same_card(self):
        for text, fold in (
            ("card 4¼ x 5½ side fold\nBase 5½ x 8½ brass score 4¼", "side"),
            ("card 5½ x 4¼ top fold\nBase 8½ x 5½ brass score 4¼", "top"),
        ):
            with self.subTest(text=text):
                self.assertEqual(findings(text, "folds"), [])
                folded = card(text).folded
                wide, high = (17, 22) if fold == "side" else (22, 17)
                self.assertEqual((folded.fold, folded.width, folded.height), (fold, wide * INCH // 4, high * INCH // 4))
        wrong = "card 4¼ x 5½ side fold\nBase 5½ x 8½ brass score 4"
        self.assertEqual(len(findings(wrong, "folds")), 1)

    def test_a_middle_that_nothing_has_is_told_with_the_mats_that_have_room(self):
        text = SIDE + "Mat 4 x 5¼ brass\nTag 2 x 2 brass from a middle\nStar 1 x 1 brass from a middle"
        (finding,) = [each for each in findings(text, "papers") if "is cut from a middle" in each.what]
        found = card(mended(text, finding))
        self.assertEqual(found.pieces[1].middle.width, 2 * INCH)
        self.assertEqual(
            [each for each in findings(mended(text, finding), "papers") if "from a middle" in each.what], []
        )

    def test_a_pocket_measured_from_the_other_end_is_turned_by_its_mend(self):
        text = "card 4 x 6 with a pocket\nBase 4 x 9 brass score 3"
        (finding,) = findings(text, "folds")[:1]
        right = mended(text, finding)
        self.assertEqual(findings(right, "folds"), [])
        self.assertEqual(card(right).folded.pocket, 3 * INCH)
        (wrong,) = findings("card 4 x 6 with a pocket\nBase 4 x 9 brass score 2", "folds")[:1]
        self.assertIn("score down 6", wrong.mends[0].text)

    def test_a_base_that_does_not_fold_to_its_card_is_scored_so_that_the_pocket_stays(self):
        for line, base, deep in (
            ("5½ x 4¼ top fold with a pocket", "5½ x 11 brass score down 3, 7", "2½"),
            ("4¼ x 5½ side fold with a pocket", "8½ x 8½ brass score down 4¼ across 5½", "3"),
            ("4¼ x 5½ side fold with a pocket at the left", "11 x 5½ brass score 2½, 6½", "2½"),
            ("5½ x 4¼ top fold with a pocket at the top", "5½ x 11 brass score 2½, 6⅝", "2½"),
            ("5½ x 4¼ top fold with a pocket at the right", "8 x 8½ brass score down 5½ across 4⅛", "2½"),
            ("5½ x 4¼ side fold with a pocket", "8½ x 8½ brass score across 4¼ down 5½", "4¼"),
        ):
            text = f"card {line}\nBase {base}"
            right = mended(text, findings(text, "folds")[0])
            self.assertEqual(grave(right), [], right)
            folded = card(right).folded
            self.assertEqual((folded.width, folded.height), parse_size(" ".join(line.split()[:3])))
            self.assertEqual(folded.pocket, parse_length(deep), text)

    def test_what_is_meant_to_go_over_the_fold_is_offered_so(self):
        text = "card 3 x 2½ top fold\nBase 3 x 5 brass score 2½\nCover 2¾ x 4 chalk"
        (finding,) = [each for each in findings(text) if each.grave]
        self.assertEqual(grave(mended(text, finding)), [])
        self.assertTrue(card(mended(text, finding)).pieces[-1].place.over_fold)
        # A sixteenth too large is a slip, and nothing that lies inside goes over the fold.
        for slip in ("Cover 3 1/16 x 2½ chalk", "Cover 2¾ x 4 chalk on inside"):
            wrong = text.replace("Cover 2¾ x 4 chalk", slip)
            offered = [mend.label for each in findings(wrong) for mend in each.mends]
            self.assertNotIn("Put it over the fold", offered, slip)

    def test_several_that_do_not_fit_beside_each_other_lie_on_each_other_a_little(self):
        for line in ("5 Gourds 1 x 1½ chalk", "3 Gourds 1¾ x 1¾ chalk bottom 1", "5 Gourds 1 x 1½ chalk bottom ½"):
            self.assertEqual(grave(SIDE + line), [], line)
        # Three beside each other: a row at one height.
        row = card(SIDE + "3 Gourds 1 x 2 chalk bottom ½").placed
        self.assertEqual(len({each.y for each in row}), 1)
        self.assertEqual(len({each.x for each in row}), 3)
        # Panels as large as the front are one too many.
        self.assertEqual(len(grave(SIDE + "3 Panels 4 x 5 chalk")), 1)

    def test_what_is_so_of_several_lines_is_told_once_and_mended_in_all(self):
        tiles = "\n".join(f"Tile {side} 2 3/16 x 2 3/16 chalk {side} 0" for side in ("left", "top", "right"))
        (hint,) = findings(SIDE + tiles, "yield")
        self.assertEqual(len(hint.alike), 2)
        self.assertIn("the same of lines", hint.why)
        right = mended(SIDE + tiles, hint)
        self.assertEqual(right.count("2 1/8 x 2 1/8"), 3)
        self.assertEqual(findings(right, "yield"), [])

    def test_a_sixteenth_less_of_squares_and_blanks_gives_more(self):
        for line, now, then in (
            ("Tile 3 1/16 x 3 1/16 star chart", 9, 16),
            ("Seal 2 3/16 x 2 3/16 circle 2 chalk", 15, 20),
            ("Seal circle 2 chalk", 12, 15),
        ):
            (hint,) = findings(SIDE + line, "yield")
            self.assertIn(f"smaller gives {then} from a sheet in place of {now}", hint.what)
            made = card(mended(SIDE + line, hint))
            self.assertEqual(yields_of(made)[made.pieces[-1].number], then)
            self.assertEqual(made.pieces[-1].shape, card(SIDE + line).pieces[-1].shape and made.pieces[-1].shape)
        # A blank that would leave its die no margin stays.
        self.assertEqual(findings(SIDE + "Seal 2 3/16 x 2 3/16 circle 2 1/8 chalk", "yield"), [])

    def test_two_that_lie_beside_each_other_but_for_a_sixteenth(self):
        text = SIDE + "Panel 4 1/16 x 5¼ chalk\nInside panel 4½ x 5⅛ chalk"
        self.assertEqual([each for each in findings(text, "yield") if "beside each other" in each.what], [])
        wide = "card 9 x 9 side fold\nBase 8½ x 11 brass score 4¼\nMat 5½ x 8 chalk\nTag 5 9/16 x 8 chalk"
        (hint,) = [each for each in findings(wide, "yield") if "beside each other" in each.what]
        self.assertIn("for want of 1⁄16 in", hint.what)
        for number in range(len(hint.mends)):
            after = findings(mended(wide, hint, number), "yield")
            self.assertEqual([each for each in after if "beside each other" in each.what], [])

    def test_what_drops_out_of_a_window_is_a_middle(self):
        frame = SIDE + "Mat 4 x 5¼ brass window circle 3\nStar 1½ x 1½ brass from a middle"
        self.assertEqual([each for each in findings(frame, "papers") if "from a middle" in each.what], [])
        mat = card(frame).pieces[1]
        room = drops_out(mat)
        # The square in a circle of 3 in: 2.121 in a side; centred in it, and never outside it.
        self.assertLessEqual(room.width**2 + room.height**2, (3 * INCH) ** 2)
        self.assertGreater(room.width, 21 * INCH // 10)
        self.assertAlmostEqual(2 * room.x + room.width, mat.width, delta=1)
        self.assertAlmostEqual(2 * room.y + room.height, mat.height, delta=1)

    def test_a_square_keeps_its_name_when_it_is_made_smaller(self):
        text = SIDE + "Square 2 13/16 brass"
        (hint,) = [each for each in findings(text, "yield") if each.mends]
        self.assertEqual(card(mended(text, hint)).pieces[-1].name, "Square")

    def test_side_by_side_is_side_by_side(self):
        text = SIDE + "Mat 4 x 5¼ brass\nLeft panel 1¾ x 5 star chart\nRight panel 1¾ x 5 chalk"
        _, left, right = card(text).placed
        self.assertEqual((left.under, right.under, left.local[0], right.local[0]), (0, 0, INCH // 8, 17 * INCH // 8))
        pair = card(SIDE + "2 Squares 1 x 1 brass left ½ and right ½").placed
        self.assertEqual([each.x for each in pair], [INCH // 2, 11 * INCH // 4])

    def test_copies_with_a_gap_in_a_column_and_at_places(self):
        gap = card(SIDE + "3 Squares ¾ x ¾ brass ¼ apart in a row").placed
        self.assertEqual([b.x - a.x for a, b in pairwise(gap)], [INCH, INCH])
        column = card(SIDE + "2 Squares 1 x 1 brass in a column").placed
        self.assertEqual(len({each.x for each in column}), 1)
        spots = card(SIDE + "3 Squares ½ x ½ brass left ½, 1½, 2½").placed
        self.assertEqual([each.x for each in spots], [INCH // 2, 3 * INCH // 2, 5 * INCH // 2])

    def test_a_greeting_mat_is_a_mat_and_what_comes_later_lies_beside_it(self):
        text = SIDE + "Mat 4 x 5¼ brass\nGreeting mat 3 x 1 midnight bottom ½\nGreeting 2¾ x ¾ chalk\nStar 1 x ¾ brass"
        _, under, greeting, star = card(text).placed
        self.assertEqual((under.under, greeting.under, star.under), (0, 1, 0))
        self.assertEqual([f.what for f in findings(text, "layers") if "Greeting lies over" in f.what], [])

    def test_what_is_handed_out_is_not_on_the_card(self):
        text = SIDE + "Mat 4 x 5¼ brass\nScrap 4¼ x 5½ chalk\nMask 4 x 4 brass\nStar 1 x 1 chalk not on the card"
        self.assertEqual([each.piece.name for each in card(text).placed], ["Mat"])
        self.assertEqual(findings(text, "layers"), [])

    def test_strips_follow_each_other_from_the_top(self):
        text = SIDE + (
            "Mat 4 x 5¼ brass\nStrip 4 x ½ chalk flush top\nStrip 4 x ¾ star chart ¼ below it\n"
            "2 Strips 4 x ½ chalk below it"
        )
        # What is moved down stands where it was put; copies with places of their own are not moved at all.
        line, new = moved(card(text), 4, 0, 4)
        self.assertEqual((line, new), (4, "Strip 4 x ¾ star chart  top 1"))
        with self.assertRaisesRegex(CutListError, "a place of its own"):
            moved(card(SIDE + "3 Squares ½ x ½ brass left ½, 1½, 2½"), 2, 1, 0)
        tops = [each.local[1] for each in card(text).placed[1:]]
        self.assertEqual(tops, [0, INCH * 3 // 4, INCH * 3 // 2, INCH * 2])

    def test_a_piece_over_the_fold_is_on_the_front_and_on_the_back(self):
        front, back = card(SIDE + "Cover 4 x 5½ star chart over the fold").placed
        self.assertEqual((front.face.key, back.face.key, front.width, front.x), ("front", "back", 2 * INCH, 0))
        self.assertEqual(back.x + back.width, back.face.width)

    def test_a_mend_of_the_score_keeps_a_paper_called_after_it(self):
        score = replace(KNOWN.papers[0], key="s", name="Score Board")
        known = Known((score, *KNOWN.papers[1:]), KNOWN.tools)
        text = "card 4¼ x 5½ side fold\nBase 8 x 5½ score 4 score board # keep"
        finding = next(f for f in check_card(Study(tuple(read_list(text, known)), known, SIXTEENTHS)) if f.mends)
        self.assertIn("score board", finding.mends[0].text)
        self.assertTrue(finding.mends[0].text.endswith("# keep"))

    def test_covering_is_looked_at_cell_by_cell(self):
        self.assertTrue(covered((0, 0, 10, 10), [(0, 0, 6, 10), (6, 0, 10, 10)]))
        self.assertFalse(covered((0, 0, 10, 10), [(0, 0, 6, 10), (6, 0, 10, 9)]))


class PostTests(TestCase):
    def facts(self, text: str, ruler=None) -> dict[str, str]:
        study = card(text, ruler) if ruler else card(text)
        return {fact.name: fact.value for fact in facts_of(study)}

    def test_us_cards_and_their_envelopes(self):
        # Common practice: a 4¼ × 5½ card goes into an A2 envelope, 5 × 7 into an A7.
        self.assertTrue(self.facts("card 4¼ x 5½ side fold")["Envelope"].startswith("A2"))
        self.assertTrue(self.facts("card 5 x 7 top fold")["Envelope"].startswith("A7"))

    def test_iso_cards_and_their_envelopes(self):
        # ISO 269:1985: C6 takes A6 flat, DL takes A4 folded in three, C5 takes A5.
        for size, name in (("105 x 148", "C6"), ("210 x 99", "DL"), ("148 x 210", "C5")):
            self.assertTrue(self.facts(f"card {size} no fold", MILLIMETRES)["Envelope"].startswith(f"{name},"), size)

    def test_an_envelope_has_an_eighth_to_spare_both_ways(self):
        # A2 is 5¾ × 4⅜ in: what leaves an eighth each way goes in, a sixteenth more in either side does not.
        inch = INCH
        room = 45 * inch // 8, 34 * inch // 8
        self.assertEqual(envelope_for(*room, "in").name, "A2")
        self.assertEqual(envelope_for(*reversed(room), "in").name, "A2")
        for more in ((inch // 16, 0), (0, inch // 16)):
            self.assertNotEqual(envelope_for(room[0] + more[0], room[1] + more[1], "in").name, "A2")
        self.assertIsNone(envelope_for(20 * inch, 3 * inch, "in"))

    def test_the_c_series_is_that_of_iso_269(self):
        # ISO 269:1985, C series: C4 229 × 324, C5 162 × 229, C6 114 × 162, C7 81 × 114 mm.
        self.assertEqual([iso_c(n) for n in (4, 5, 6, 7)], [(229, 324), (162, 229), (114, 162), (81, 114)])
        self.assertEqual(
            len({each.name for each in (*ISO_ENVELOPES, *US_ENVELOPES)}), len(ISO_ENVELOPES) + len(US_ENVELOPES)
        )

    def test_square_oversize_and_thick_cards_are_marked(self):
        self.assertIn("Square cards", findings("card 4 x 4 side fold\nBase brass", "post")[0].what)
        self.assertIn("No usual envelope", findings("card 8½ x 11 no fold\nBase brass", "post")[0].what)
        thick = SIDE + "Mat 4 x 5¼ brass raised ⅛\nPanel 3¾ x 5 chalk raised ⅛"
        finding = findings(thick, "post")[0]
        self.assertIn("ask your carrier", finding.why)
        self.assertEqual(findings(SIDE, "post"), [])

    def test_thickness_adds_up_sheets_and_foam(self):
        # Two layers of the base and a mat of 0.3 mm each, and ⅛ in = 3.175 mm of foam: 4.075 mm, shown rounded up.
        self.assertEqual(self.facts(SIDE + "Mat 4 x 5¼ brass raised ⅛")["Thickness"], "about 4.1 mm")

    def test_grave_findings_come_first(self):
        order = [finding.grave for finding in check_card(card(SIDE + "Strip ½ x 5½ brass\nMat 5 x 5 brass"))]
        self.assertEqual(order, sorted(order, reverse=True))
        self.assertIn(True, order)
