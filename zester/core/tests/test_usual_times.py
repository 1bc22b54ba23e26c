"""When jobs are done that no line gives a time: worked by hand."""

from unittest import TestCase

from zester.core.cutlist.notation import read_list
from zester.core.cutting.handwork import handwork
from zester.core.kits.weights import in_the_bag
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.pieces import FOLDED, SCORE
from zester.core.tests.test_piece_words import KNOWN
from zester.core.usual_times import BEFOREHAND, KINDS, USUAL_TIMES, UsualTimes

BEFORE, CLASS, HOME = "before", "class", "home"


def piece_of(line: str, *above: str):
    """The piece a line asks for, below others."""
    reading = read_list("\n".join([*above, line]), KNOWN)[-1]
    if reading.error:
        raise reading.error
    return reading.piece


class UsualTests(TestCase):
    def test_a_line_decides_else_the_habit_else_the_order_of_the_jobs(self):
        for line, times in {
            "Tag 1 x 2 chalk die-cut, stamped": [("die-cut", BEFORE), ("stamped", CLASS)],
            # What is stamped in class is not cut out before it.
            "Tag 1 x 2 chalk stamped, die-cut": [("stamped", CLASS), ("die-cut", CLASS)],
            "Tag 1 x 2 chalk stamped before class": [("stamped", BEFORE)],
            "Tag 1 x 2 chalk die-cut at home": [("die-cut", HOME)],
            "Tag 1 x 2 chalk die-cut in class, stamped at home": [("die-cut", CLASS), ("stamped", HOME)],
            "Scrap 2 x 2 chalk stamped": [("stamped", CLASS)],
            "Scrap 2 x 2 chalk embossed": [("embossed", CLASS)],
            "Scrap 2 x 2 chalk embossed before class": [("embossed", BEFORE)],
            "Tag 1 x 2 chalk corners snipped, threaded": [("corners snipped", BEFORE), ("threaded", BEFORE)],
            "Tag 1 x 2 chalk edges inked, tape attached": [("inked", CLASS), ("taped", CLASS)],
        }.items():
            piece = piece_of(line)
            with self.subTest(line):
                found = [(what, USUAL_TIMES.job(piece, what).when) for what in piece.preparations]
                self.assertEqual(found, times)

    def test_a_habit_is_chosen_and_every_job_has_a_kind(self):
        frame = piece_of("Frame 4 x 5 chalk window 2 x 3 stamped")
        opening, found = "die-cut the opening", []
        for before in (BEFOREHAND, {"stamped"}, ()):
            works = handwork(frame, "in", (), UsualTimes(before=frozenset(before)))
            found.append([(work.what.split(":")[0], work.when) for work in works])
        self.assertEqual(
            found,
            [
                [(opening, BEFORE), ("stamp", CLASS)],
                [("stamp", BEFORE), (opening, CLASS)],
                [("stamp", CLASS), (opening, CLASS)],
            ],
        )
        self.assertLessEqual(BEFOREHAND, KINDS.keys())

    def test_nothing_is_done_beforehand_to_paper_that_people_cut(self):
        tag = piece_of("Tag 1 x 2 chalk die-cut")
        usual = UsualTimes(by_people=frozenset({tag.paper}))
        self.assertEqual(usual.job(tag, "die-cut").when, CLASS)

    def test_a_base_is_scored_beforehand_and_folded_in_class(self):
        base = piece_of("Base brass stamped in class", "card 4¼ x 5½ side fold")
        self.assertEqual([USUAL_TIMES.job(base, what).when for what in (SCORE, FOLDED)], [BEFORE, CLASS])

    def test_a_base_that_comes_folded_lies_in_the_bag_folded(self):
        side, gate = "card 4¼ x 5½ side fold", "card 4¼ x 5½ gate fold"
        flat, wide, high = 17 * INCH // 2, 17 * INCH // 4, 11 * INCH // 2
        self.assertEqual(in_the_bag(piece_of("Base brass", side), 300), (flat, high, 300))
        self.assertEqual(in_the_bag(piece_of("Base brass folded before class", side), 300), (wide, high, 600))
        self.assertEqual(in_the_bag(piece_of("Base brass folded before class", gate), 300), (wide, high, 600))
        self.assertEqual(
            in_the_bag(piece_of("Base 11 x 4 brass score 3 11/16, 7 3/8 folded before class"), 300)[2], 900
        )

    def test_minutes_of_a_piece_as_a_line_says_them(self):
        for line, seconds in {
            "Tag 1 x 2 chalk stamped 2 min each": 120,
            "Tag 1 x 2 chalk stamped in class, takes 1.5 minutes": 90,
            "Tag 1 x 2 chalk coloured about 1/2 min a piece": 30,
            "Tag 1 x 2 chalk coloured 1½ min": 90,
            "Tag 1 x 2 chalk stamped": 20,
        }.items():
            with self.subTest(line):
                self.assertEqual([work.seconds for work in handwork(piece_of(line), "in")], [seconds])
        with self.fails("2 min for which of stamped and coloured?"):
            piece_of("Tag 1 x 2 chalk stamped and coloured 2 min")
        with self.fails("10 min for what?"):
            piece_of("Tag 1 x 2 chalk 10 min")
        with self.fails("And 3 min?"):
            piece_of("Tag 1 x 2 chalk stamped 2 min 3 min")

    def test_what_dries_last_is_said_and_kept(self):
        piece = piece_of("Star 2 x 2 chalk painted in class, dry last")
        (work,) = handwork(piece, "in")
        self.assertEqual((work.first, work.last), (False, True))

    def fails(self, words: str):
        """The sentence an error begins with."""
        return self.assertRaisesRegex(Exception, f"^{words.replace('?', '[?]')}")
