"""Need and supply: what makes a plan old, and what is only judged beside it."""

import random
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from unittest import TestCase

from zester.core.errors import JobError, PlanError
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import Bench, KeepRule, Margins, PaperJob, Row, Sheet
from zester.core.fitting.jobs.job_file import read_job
from zester.core.fitting.jobs.need import labels_of, need_of, places_of, relabelled
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.jobs.supply import OnShelf, cheapest, judge, missing_pieces, used_sheets
from zester.core.fitting.parts import CutLimits
from zester.core.fitting.tests.jobs import paper, piece, random_job, sheet
from zester.core.geometry import Window

EXAMPLES = Path(__file__).parents[4] / "docs" / "examples"
BENCH = Bench(3)


def fitted(job: PaperJob, bench: Bench = BENCH) -> PaperPlan:
    return fit_paper(job, bench, lambda _: None, 5)


def shuffled(job: PaperJob, seed: int) -> PaperJob:
    """The same need under other names and in another order, at another price and from a shelf with little on it."""
    dice = random.Random(seed)
    names = {each.id: f"X{number}" for number, each in enumerate(dice.sample(job.pieces, len(job.pieces)))}
    pieces = [replace(each, id=names[each.id]) for each in job.pieces]
    dice.shuffle(pieces)
    rows = tuple(Row(f"row {k}", row.axis, tuple(names[n] for n in row.pieces)) for k, row in enumerate(job.matched))
    sheets = tuple(replace(each, cost=each.cost * 3, pack=7) for each in job.sheets)
    return replace(job, name="Another", pieces=tuple(pieces), matched=rows, sheets=sheets)


class NeedTests(TestCase):
    def setUp(self):
        self.job = replace(
            paper("8½ x 11"),
            pieces=(
                piece("A1", "4 x 5¼", 14, each=1),
                piece("A2", "2 x 3", 28, turn=False, each=2, window=Window(10, 10, 500, 500)),
                piece("A3", "1 x 5", 6),
                piece("A4", "2 x 5", 6),
            ),
            matched=(Row("A d", "x", ("A3", "A4")),),
        )

    def changed(self, at: int, **changes) -> PaperJob:
        pieces = [replace(each, **changes) if k == at else each for k, each in enumerate(self.job.pieces)]
        return replace(self.job, pieces=tuple(pieces))

    def test_names_prices_stock_and_order_do_not_matter(self):
        for seed in range(6):
            other = shuffled(self.job, seed)
            self.assertEqual(need_of(other, BENCH), need_of(self.job, BENCH))
            self.assertNotEqual(labels_of(other), labels_of(self.job))
            self.assertEqual(sorted(places_of(other).values()), [0, 1, 2, 3])
        short = replace(self.job, sheets=(sheet("8½ x 11", 2, "0.42"),))
        self.assertEqual(need_of(short, BENCH), need_of(self.job, BENCH))
        self.assertEqual(labels_of(short), labels_of(self.job))

    def test_everything_that_has_to_be_made_matters(self):
        letter = self.job.sheets[0]
        others = [
            self.changed(0, count=15),
            self.changed(0, width=1),
            self.changed(0, height=1),
            self.changed(0, turn=False),
            self.changed(1, upright=True),
            self.changed(1, window=None),
            self.changed(1, window=Window(10, 11, 500, 500)),
            self.changed(0, from_window=True),
            self.changed(0, filler=True),
            replace(self.job, matched=()),
            replace(self.job, matched=(Row("A d", "x", ("A4", "A3")),)),
            replace(self.job, matched=(Row("A d", "y", ("A3", "A4")),)),
            replace(self.job, pieces=self.job.pieces[1:]),
            replace(self.job, pool="own", people=3),
            replace(self.job, sheets=(replace(letter, height=letter.height + 1),)),
            replace(self.job, sheets=(replace(letter, margins=Margins(left=1)),)),
            replace(self.job, sheets=(replace(letter, up="left"),)),
            replace(self.job, sheets=(letter, sheet("12 x 12", name="large"))),
            replace(self.job, pins=fitted(self.job).layouts[:1]),
        ]
        benches = [
            Bench(4),
            Bench(3, CutLimits(90_000)),
            Bench(3, CutLimits(None, 99)),
            Bench(3, keep=KeepRule(1, 2)),
        ]
        needs = {need_of(other, BENCH) for other in others} | {need_of(self.job, bench) for bench in benches}
        self.assertEqual(len(needs), len(others) + len(benches))
        self.assertNotIn(need_of(self.job, BENCH), needs)

    def test_shares_and_people_matter_only_where_somebody_gets_a_share(self):
        more = replace(self.changed(0, each=3), people=9)
        self.assertEqual(need_of(more, BENCH), need_of(self.job, BENCH))
        own, own_more = (replace(each, pool="own") for each in (self.job, more))
        self.assertNotEqual(need_of(own_more, BENCH), need_of(own, BENCH))

    def test_pins_count_by_what_they_are_not_by_names(self):
        pin = replace(fitted(self.job).layouts[0], pinned=True)
        pinned = replace(self.job, pins=(pin,))
        names = dict(zip(("A1", "A2", "A3", "A4"), ("B1", "B2", "B3", "B4"), strict=True))
        other = replace(
            self.job,
            pieces=tuple(replace(each, id=names[each.id]) for each in self.job.pieces),
            matched=(Row("B d", "x", ("B3", "B4")),),
            pins=(replace(pin, parts=tuple(replace(n, piece=names.get(n.piece, "")) for n in pin.parts)),),
        )
        self.assertEqual(need_of(other, BENCH), need_of(pinned, BENCH))


class RelabelTests(TestCase):
    def test_a_plan_answers_every_job_of_the_same_need(self):
        jobs = [random_job(seed).papers[0] for seed in range(12)]
        jobs += [read_job(path.read_bytes()).papers[0] for path in sorted(EXAMPLES.glob("*.json"))]
        for number, job in enumerate(replace(each, pins=()) for each in jobs):
            with self.subTest(number):
                other = shuffled(job, number)
                plan = fitted(job)
                named = relabelled(plan, job, other, BENCH)
                self.assertEqual((named.sheets, named.short), (plan.sheets, ()))
                self.assertEqual(named.cost, plan.cost * 3)
                self.assertEqual(named.proven, plan.proven and sum(each.cost > 0 for each in job.sheets) == 1)
                check_paper(other, named, BENCH)

    def test_a_plan_for_another_need_is_refused(self):
        job = paper("8½ x 11", ("4 x 5", 4))
        with self.assertRaises(PlanError):
            relabelled(fitted(job), job, paper("8½ x 11", ("4 x 5", 40)), BENCH)
        with self.assertRaises(PlanError):
            relabelled(fitted(job), job, paper("8½ x 11", ("4 x 5", 4), ("1 x 1", 1)), BENCH)

    def test_a_pin_that_no_longer_goes_is_said_before_any_work(self):
        job = paper("8½ x 11", ("4 x 5", 4))
        pinned = replace(job, pins=fitted(job).layouts, pieces=(piece("P1", "3 x 3", 4),), name="Brass")
        with self.assertRaises(JobError) as caught:
            fitted(pinned)
        self.assertIn("Brass, pinned layout 1", caught.exception.where)


class SupplyTests(TestCase):
    def test_what_lacks_and_what_it_costs_today(self):
        used = {"letter": 5, "large": 2}
        shelf = {"letter": OnShelf(3, Decimal("0.40")), "large": OnShelf(None, Decimal("1.10"))}
        found = judge(used, shelf)
        self.assertEqual((found.lacking, found.short, found.cost), ({"letter": 2}, 2, Decimal("4.20")))
        enough = judge(used, {"letter": OnShelf(5, None), "large": OnShelf(2, Decimal(1))})
        self.assertEqual((enough.lacking, enough.cost), ({}, None))
        self.assertEqual(judge(used, {"letter": OnShelf(9, Decimal(1))}).lacking, {"large": 2})

    def test_the_cheaper_of_two_sheet_sizes_follows_the_prices(self):
        plans = [{"letter": 9}, {"large": 3}]
        for letter, large, best in ("0.30", "1.00", 0), ("0.40", "1.00", 1):
            shelf = {"letter": OnShelf(None, Decimal(letter)), "large": OnShelf(None, Decimal(large))}
            self.assertEqual(cheapest(plans, shelf), best)
        self.assertIsNone(cheapest(plans, {"letter": OnShelf(None, Decimal(1))}))
        self.assertIsNone(cheapest([], {}))

    def test_the_pieces_that_are_missing_when_sheets_are(self):
        job = paper("8½ x 11", ("4 x 5¼", 9), ("8½ x 5½", 1))
        plan = fitted(job)
        self.assertEqual((plan.sheets, used_sheets(plan)), (3, {"sheet": 3}))
        self.assertEqual(missing_pieces(job, plan, {}), {})
        self.assertEqual(sum(missing_pieces(job, plan, {"sheet": 3}).values()), 10)
        self.assertLessEqual(sum(missing_pieces(job, plan, {"sheet": 1}).values()), 4)

    def test_a_shape_is_missing_with_the_middle_it_comes_out_of(self):
        job = PaperJob(
            id="p",
            sheets=(Sheet(id="sheet", width=100, height=100),),
            pieces=(
                piece("host", "1 x 1", 2, window=Window(10, 10, 50, 50)),
                piece("shape", "1 x 1", 2, from_window=True),
            ),
        )
        job = replace(
            job, pieces=tuple(replace(p, width=w, height=w) for p, w in zip(job.pieces, (90, 40), strict=True))
        )
        plan = fitted(job)
        self.assertEqual([layout.source for layout in plan.layouts], ["sheet", "window"])
        self.assertEqual(missing_pieces(job, plan, {"sheet": plan.sheets - 1}), {"host": 1, "shape": 1})
