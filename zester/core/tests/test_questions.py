"""Plans to choose from, free seats and near misses."""

import json
from dataclasses import replace
from decimal import Decimal
from itertools import pairwise
from pathlib import Path
from unittest import TestCase, mock

from zester.core.choices import OWN, THRIFTIEST, plans
from zester.core.cutting.steps import minutes_judge
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import Bench, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.job_file import read_job
from zester.core.geometry import Window
from zester.core.lengths import TICKS_PER_INCH
from zester.core.questions import Steps, apart, for_people, from_middles, near, price_of_pieces, seats
from zester.core.tests.share import each_of

INCH = TICKS_PER_INCH
LETTER = Sheet(id="letter", width=17 * INCH // 2, height=11 * INCH, count=None, cost=Decimal("0.42"), pack=10)
BENCHMARK = Path(__file__).parents[3] / "benchmarks" / "stargazer.json"


def mats(each: int, people: int, samples: int = 0, width: int = 4 * INCH) -> PaperJob:
    """Mats of 4 × 5¼ in, four of which come out of a letter sheet (common practice, no source)."""
    piece = Piece(id="A1", width=width, height=21 * INCH // 4, count=each * people + samples, each=each)
    return PaperJob(id="chalk", sheets=(LETTER,), pieces=(piece,), people=people)


class SeatsTests(TestCase):
    def test_the_same_sheet_serves_four_mats(self):
        found = seats(mats(each=1, people=9), Bench(3))
        step = found.at(9)
        self.assertEqual((step.first, step.last, step.sheets), (9, 12, 3))
        self.assertEqual(found.after(9).sheets, 4)
        self.assertEqual([s.last for s in found.ranges][-1], 60)
        # One pack of ten is enough for up to forty mats, and costs what ten sheets cost.
        self.assertEqual((step.packs, step.price), (1, Decimal("4.20")))
        self.assertEqual(found.at(41).packs, 2)

    def test_every_step_agrees_with_a_fit_of_its_own(self):
        paper = read_job((BENCHMARK).read_bytes()).papers[0]
        paper = replace(paper, people=14, pieces=tuple(replace(p, each=p.count // 29 * 2) for p in paper.pieces))
        found = seats(paper, Bench(3), most=16)
        for people in (1, 7, 14, 16):
            plan = fit_paper(for_people(paper, people), Bench(3), lambda _: None, 4)
            with self.subTest(people=people):
                self.assertEqual(found.at(people).sheets, plan.sheets)
        sheets = [step.sheets for step in found.ranges]
        self.assertEqual(sheets, sorted(sheets))

    def test_samples_do_not_grow_with_the_people(self):
        self.assertEqual(seats(mats(each=1, people=4, samples=1), Bench(3)).at(4).sheets, 2)
        self.assertEqual(seats(mats(each=1, people=4, samples=1), Bench(3)).at(3).sheets, 1)


class ApartTests(TestCase):
    def test_every_card_by_itself(self):
        # Six mats of one card and two of another, four to a sheet: two sheets together, two and one apart.
        six, two = mats(each=1, people=6).pieces[0], mats(each=1, people=2).pieces[0]
        paper = replace(mats(each=1, people=6), pieces=(six, replace(two, id="B1")))
        judge = minutes_judge()
        steps = Steps()
        sheets, seconds = apart(paper, Bench(3), judge, steps=steps)
        together = fit_paper(paper, Bench(3), lambda _: None, 2)
        self.assertEqual((together.sheets, sheets), (2, 3))
        self.assertGreaterEqual(seconds, judge(paper, together, Bench(3)))
        # Asked again nothing is fitted anew.
        with mock.patch("zester.core.questions.fit_paper", side_effect=AssertionError):
            self.assertEqual(apart(paper, Bench(3), judge, steps=steps), (sheets, seconds))
        one = mats(each=1, people=6)
        self.assertEqual(apart(one, Bench(3), judge)[0], fit_paper(one, Bench(3), lambda _: None, 2).sheets)


class NearTests(TestCase):
    def test_a_size_an_eighth_too_wide_is_found(self):
        # 4 5/16 in wide mats lie once across 8½ in and once more turned; at 4¼ in they lie twice.
        wide = mats(each=1, people=12, width=69 * INCH // 16)
        found = near(wide, Bench(3), "in").misses
        self.assertEqual((found[0].pieces, found[0].side, found[0].smaller), (("A1",), "width", INCH // 16))
        self.assertEqual(found[0].sheets, fit_paper(wide, Bench(3), lambda _: None, 4).sheets - 3)
        self.assertEqual(found[0].money, found[0].sheets * Decimal("0.42"))

    def test_what_is_full_already_has_no_near_misses(self):
        self.assertEqual(near(mats(each=1, people=12), Bench(3), "in").misses, ())


class MiddleTests(TestCase):
    def setUp(self):
        # Eight mats are two sheets, full but for strips; eight tags of 3 × 3 are a third of their own.
        mat = mats(each=1, people=8).pieces[0]
        tag = Piece(id="B2", width=3 * INCH, height=3 * INCH, count=8, each=1)
        self.paper = replace(mats(each=1, people=8), pieces=(mat, tag))
        self.rooms = {"A1": Window(INCH // 2, INCH // 2, 3 * INCH, 17 * INCH // 4)}

    def test_what_would_save_a_sheet_out_of_a_middle_is_found(self):
        (found,) = from_middles(self.paper, Bench(3), self.rooms)
        self.assertEqual((found.pieces, found.hosts), (("B2",), ("A1",)))
        now = fit_paper(self.paper, Bench(3), lambda _: None, 4).sheets
        self.assertEqual((now - found.sheets, found.money), (2, found.sheets * Decimal("0.42")))

    def test_what_saves_nothing_or_has_no_room_is_not_offered(self):
        self.assertEqual(from_middles(self.paper, Bench(3), {}), ())
        self.assertEqual(from_middles(self.paper, Bench(3), {"A1": Window(0, 0, 2 * INCH, 4 * INCH)}), ())
        small = replace(self.paper, pieces=(self.paper.pieces[0], replace(self.paper.pieces[1], width=INCH // 4)))
        self.assertEqual(from_middles(small, Bench(3), self.rooms), ())

    def test_those_that_save_alone_are_told_apart(self):
        more = Piece(id="C1", width=2 * INCH, height=2 * INCH, count=80, each=10)
        found = from_middles(replace(self.paper, pieces=(*self.paper.pieces, more)), Bench(3), self.rooms)
        self.assertTrue(all(len(each.pieces) == 1 and each.sheets > 0 for each in found), found)
        self.assertGreater(len(found), 0)


class StepsTests(TestCase):
    """Questions that are broken off, and those that have had their time."""

    def setUp(self):
        self.paper = read_job(BENCHMARK.read_bytes()).papers[0]
        people = tuple(replace(p, each=p.count // 29 * 2) for p in self.paper.pieces)
        self.paper = replace(self.paper, people=14, pieces=people)

    def test_what_is_known_is_not_fitted_again_also_after_writing_and_reading(self):
        known: dict = {}
        first = near(self.paper, Bench(3), "in", steps=Steps(known))
        known = json.loads(json.dumps(known))
        with mock.patch("zester.core.questions.fit_paper", side_effect=AssertionError("fitted again")):
            self.assertEqual(near(self.paper, Bench(3), "in", steps=Steps(known)), first)

    def test_when_the_time_is_up_it_is_said_how_much_was_looked_at(self):
        used_up = {"seconds": 1000.0}
        found = near(self.paper, Bench(3), "in", steps=Steps(dict(used_up)))
        self.assertEqual((found.looked, found.misses), (0, ()))
        self.assertGreater(found.of, 3)
        self.assertEqual(price_of_pieces(self.paper, Bench(3), steps=Steps(dict(used_up))), {})
        rough, whole = (
            seats(self.paper, Bench(3), most=12, steps=Steps(dict(used_up))),
            seats(self.paper, Bench(3), most=12),
        )
        self.assertEqual((rough.exact, whole.exact), (False, True))
        # Never fewer sheets than it takes: what was not looked at counts as its next larger number does.
        for people in range(1, 13):
            self.assertGreaterEqual(rough.at(people).sheets, whole.at(people).sheets)


class PlansTests(TestCase):
    def setUp(self):
        paper = read_job(BENCHMARK.read_bytes()).papers[0]
        self.paper = replace(paper, people=14, pieces=tuple(replace(p, each=p.count // 29 * 2) for p in paper.pieces))

    def test_the_choices_are_different_checked_and_worth_it(self):
        found = plans(self.paper, Bench(3), seconds=2)
        names = [choice.name for choice in found]
        self.assertEqual((names[0], names[-1], len(names)), (THRIFTIEST, OWN, len(set(names))))
        for choice in each_of(found):
            paper = replace(self.paper, pool="own") if choice.name == OWN else self.paper
            check_paper(paper, choice.plan)
            self.assertEqual(choice.sheets, choice.plan.sheets)
            self.assertTrue(0 < choice.used <= 1)
        together = [choice for choice in found if choice.name != OWN]
        for one, other in pairwise(together):
            self.assertLess(one.cost, other.cost)
            self.assertGreater(one.seconds, other.seconds)
