"""Whole fits: common practice, outside witnesses, properties."""

import itertools
import random
import subprocess
import sys
from dataclasses import replace
from decimal import Decimal
from unittest import TestCase, mock

import rectpack
from hypothesis import example, given, settings
from hypothesis import strategies as st
from ortools.sat.python import cp_model

from zester.core.errors import Cancelled
from zester.core.fitting.engine import fit, fit_paper, warm_up
from zester.core.fitting.jobs.check_plan import check_paper, check_plan
from zester.core.fitting.jobs.job import Bench, Job, KeepRule, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.job_file import read_job, write_job
from zester.core.fitting.jobs.plan import PaperPlan, read_plan, write_plan
from zester.core.fitting.jobs.summary import bound_in_words, summarise
from zester.core.fitting.parts import CutLimits
from zester.core.fitting.patterns.columns import ColumnPool, Tables, full_one_size_columns
from zester.core.fitting.patterns.problem import make_problem
from zester.core.fitting.patterns.strokes import count_strokes
from zester.core.fitting.tests.jobs import job, paper, random_job, random_shelf_job, sheet
from zester.core.tests.share import some


def fit_one(*args, **kwargs) -> PaperPlan:
    return fit(job(*args, **kwargs)).papers[0]


class CommonPracticeTests(TestCase):
    """Yields every card maker knows (common practice, no source)."""

    def check_yield(self, sheet_size: str, piece: str, per_sheet: int) -> None:
        for people in (1, 7, 100):
            with self.subTest(piece=piece, people=people):
                plan = fit_one(sheet_size, (piece, people))
                self.assertEqual(plan.sheets, -(-people // per_sheet))
                self.assertTrue(plan.proven)
                self.assertEqual(plan.bound, plan.cost)

    def test_two_bases_from_a_letter_sheet_either_way(self):
        self.check_yield("8½ x 11", "8½ x 5½", 2)
        self.check_yield("8½ x 11", "4¼ x 11", 2)

    def test_four_mats_from_a_letter_sheet(self):
        self.check_yield("8½ x 11", "4 x 5¼", 4)

    def test_sixteen_tags_from_a_letter_sheet_with_nothing_left(self):
        self.check_yield("8½ x 11", "2⅛ x 2¾", 16)
        full = job("8½ x 11", ("2⅛ x 2¾", 16))
        self.assertEqual(summarise(full.papers[0], fit(full).papers[0], KeepRule(1, 1)).used, 1)

    def test_six_portions_from_a_twelve_inch_sheet(self):
        self.check_yield("12 x 12", "4 x 6", 6)

    def test_a_portion_gives_two_by_five_and_a_half_and_narrow_strips(self):
        # 4 × 6, ½ in taken off the end, then two 1 × 5½ and four ½ × 5½ exactly.
        plan = fit_one("4 x 6", ("1 x 5½", 2), ("½ x 5½", 4))
        self.assertEqual(plan.sheets, 1)

    def test_sixteen_tags_are_cut_by_halving_and_stacking(self):
        # Cut at 4¼, stack, cut at 2¾… : with four at once it takes four strokes (common practice, product rule).
        full = job("8½ x 11", ("2⅛ x 2¾", 16), stack=8)
        plan = fit(full).papers[0]
        problem = make_problem(full.papers[0])
        tables = Tables(problem)
        tables.fill([1])
        self.assertEqual(count_strokes([(tables.tree(0), 1)], 8), 4)
        self.assertEqual(plan.sheets, 1)


class RuleTests(TestCase):
    def test_a_piece_that_may_not_turn_is_not_turned(self):
        self.assertEqual(fit_one("11 x 8½", ("4¼ x 8½", 4)).sheets, 2)
        free = fit_one("8½ x 11", ("5½ x 4¼", 4))
        kept = fit_one("8½ x 11", ("5½ x 4¼", 4, False))
        self.assertEqual((free.sheets, kept.sheets), (1, 2))
        self.assertFalse(any(part.turned for layout in kept.layouts for part in layout.parts))

    def test_free_offcuts_are_used_before_a_new_sheet_is_opened(self):
        offcut = sheet("4¼ x 6", 2, "0", "offcut")
        plan = fit_one([sheet("8½ x 11", cost="0.42"), offcut], ("4 x 5¼", 6))
        self.assertEqual(plan.cost, Decimal("0.42"))
        self.assertEqual(sum(lay.copies for lay in plan.layouts if lay.sheet == "offcut"), 2)
        self.assertTrue(plan.proven)

    def test_a_short_shelf_is_said(self):
        short = paper([sheet("8½ x 11", 2)], ("4 x 5¼", 14))
        plan = fit_paper(short, Bench(1), lambda _: None, 5)
        self.assertEqual(plan.short, (("P1", 6),))
        self.assertEqual(plan.sheets, 2)
        self.assertFalse(plan.proven)
        check_paper(short, plan)

    def test_an_empty_shelf_makes_nothing_and_says_so(self):
        empty = paper([sheet("8½ x 11", 0)], ("4 x 5¼", 3))
        plan = fit_paper(empty, Bench(1), lambda _: None, 5)
        self.assertEqual((plan.short, plan.sheets), ((("P1", 3),), 0))

    def test_metric_and_inch_sizes_mix_exactly(self):
        mixed = Job("in", (paper("210 x 297 mm", ("105 x 148 mm", 4), ("4 x 5¼", 3)),))
        plan = fit(mixed)
        check_plan(mixed, read_plan(write_plan(plan)))

    def test_the_same_size_under_two_names_shares_its_sheets(self):
        plan = fit_one("8½ x 11", ("4 x 5¼", 3), ("5¼ x 4", 1))
        self.assertEqual(plan.sheets, 1)
        self.assertEqual(sum(layout.copies for layout in plan.layouts), 1)

    def test_no_piece_is_cut_that_nobody_asked_for_and_the_offcut_stays_large(self):
        single = paper("12 x 12", ("5 x 11½", 1))
        summary = summarise(single, fit_paper(single, Bench(3), lambda _: None, 5), KeepRule(8128, 3 * 8128))
        self.assertEqual(summary.over, {})
        self.assertEqual([(o.width, o.height) for o in summary.offcuts if o.kept], [(7 * 8128, 12 * 8128)])

    def test_progress_is_told_and_can_stop_the_fit(self):
        seen = []
        fit(job("8½ x 11", ("4 x 5¼", 3)), lambda progress: seen.append(progress.paper))
        self.assertIn("paper", seen)

        def stop(_):
            raise Cancelled

        with self.assertRaises(Cancelled):
            fit(job("8½ x 11", ("4 x 5¼", 3)), stop)

    def test_the_bound_is_told_in_plain_words(self):
        full = paper("8½ x 11", ("4 x 5¼", 8))
        words = bound_in_words(full, fit_paper(full, Bench(1), lambda _: None, 5))
        self.assertIn("1 sheet cannot hold these pieces", words)

    def test_the_same_job_gives_the_same_plan(self):
        self.assertEqual(write_plan(fit(random_job(5))), write_plan(fit(random_job(5))))


def one_size_sheets(paper_job: PaperJob) -> int:
    """Sheets when no sheet holds two sizes: the best grid of each size, a plain floor division."""
    sheet_, total = paper_job.sheets[0], 0
    for piece in paper_job.pieces:
        ways = [(piece.width, piece.height), (piece.height, piece.width)][: 2 if piece.turn else 1]
        total += -(-piece.count // max((sheet_.width // w) * (sheet_.height // h) for w, h in ways))
    return total


class PropertyTests(TestCase):
    @settings(max_examples=some(25))
    @given(st.integers(0, 10_000))
    def test_any_class_gets_a_checked_plan_no_worse_than_one_size_a_sheet(self, seed):
        wanted = random_job(seed)
        plan = fit(wanted, seconds=2)
        check_plan(wanted, read_plan(write_plan(plan)))
        paper_plan = plan.papers[0]
        self.assertFalse(paper_plan.short)
        self.assertLessEqual(paper_plan.bound, paper_plan.cost)
        self.assertLessEqual(paper_plan.sheets, one_size_sheets(wanted.papers[0]))

    @settings(max_examples=some(10))
    @given(st.integers(0, 10_000))
    def test_more_people_never_have_a_lower_bound_than_fewer_cost_when_proven(self, seed):
        small = random_job(seed)
        more = Job("in", (_doubled(small.papers[0]),), Bench(3))
        first, second = fit(small, seconds=2).papers[0], fit(more, seconds=2).papers[0]
        if first.proven:
            self.assertGreaterEqual(second.cost, first.cost)
        self.assertGreaterEqual(second.cost, first.bound)

    @settings(max_examples=some(25))
    @given(st.integers(0, 100_000))
    @example(430)  # a size that fits only a sheet that is used up
    def test_any_shelf_gets_a_checked_plan(self, seed):
        wanted = random_shelf_job(seed)
        if wanted is None:
            return
        plan = fit(wanted, seconds=1)
        check_plan(wanted, read_plan(write_plan(plan)))
        self.assertEqual(read_job(write_job(wanted)), wanted)
        endless = [s for s in wanted.papers[0].sheets if s.count is None]
        if all(any(piece.fits(s) for s in endless) for piece in wanted.papers[0].pieces):
            self.assertFalse(plan.papers[0].short)


def _doubled(paper_job: PaperJob) -> PaperJob:
    pieces = tuple(
        Piece(id=p.id, width=p.width, height=p.height, count=2 * p.count, turn=p.turn) for p in paper_job.pieces
    )
    return PaperJob(id=paper_job.id, sheets=paper_job.sheets, pieces=pieces)


# Every guillotine variant of the witness library.
GUILLOTINE = [
    getattr(rectpack, f"Guillotine{choice}{split}")
    for choice in ("Bssf", "Blsf", "Baf")
    for split in ("Sas", "Las", "Slas", "Llas", "Maxas", "Minas")
]


def rectpack_sheets(paper_job: PaperJob) -> int:
    """The fewest sheets any of rectpack's guillotine variants finds (turning all or none)."""
    turn = all(piece.turn for piece in paper_job.pieces)
    sheet_ = paper_job.sheets[0]
    best = None
    for variant in GUILLOTINE:
        packer = rectpack.newPacker(rotation=turn, pack_algo=variant, bin_algo=rectpack.PackingBin.BFF)
        for piece in paper_job.pieces:
            for _ in range(piece.count):
                packer.add_rect(piece.width, piece.height)
        packer.add_bin(sheet_.width, sheet_.height, count=10_000)
        packer.pack()
        best = len(packer) if best is None else min(best, len(packer))
    return best


def cp_sat_sheets(sheet_: Sheet, pieces: list[tuple[int, int]]) -> int:
    """The fewest sheets for these pieces (not turned) by a model of its own.

    Any packing of at most four rectangles can be cut edge to edge (the smallest packing that cannot needs five, the
    pinwheel), so with at most four pieces a sheet plain non-overlap is enough.
    """
    model = cp_model.CpModel()
    bins = len(pieces)
    used = [model.new_bool_var(f"u{b}") for b in range(bins)]
    at = [[model.new_bool_var(f"p{k}b{b}") for b in range(bins)] for k in range(len(pieces))]
    for here in at:
        model.add_exactly_one(here)
    for b in range(bins):
        model.add(sum(here[b] for here in at) <= 4 * used[b])
        across, down = [], []
        for k, (width, height) in enumerate(pieces):
            x = model.new_int_var(0, sheet_.width - width, f"x{k}b{b}")
            y = model.new_int_var(0, sheet_.height - height, f"y{k}b{b}")
            across.append(model.new_optional_fixed_size_interval_var(x, width, at[k][b], f"i{k}b{b}"))
            down.append(model.new_optional_fixed_size_interval_var(y, height, at[k][b], f"j{k}b{b}"))
        model.add_no_overlap_2d(across, down)
    for first, second in itertools.pairwise(used):
        model.add(first >= second)
    model.minimize(sum(used))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    assert solver.solve(model) == cp_model.OPTIMAL
    return int(solver.objective_value)


class WarmUpTests(TestCase):
    def test_no_fit_waits_for_the_compiler_afterwards(self):
        told = (
            "from zester.core.fitting.engine import warm_up; warm_up()\n"
            "from zester.core.fitting.patterns import kernels\n"
            "loops = 'fill_table fill_in_blocks fill_bounded needs_below list_vectors fill_rows anneal'.split()\n"
            "print([loop for loop in loops if not getattr(kernels, loop).signatures])"
        )
        found = subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=True, timeout=240)
        self.assertEqual(found.stdout.strip(), "[]")


class BudgetTests(TestCase):
    """What is done when there is no time: told by what is called, not by a clock."""

    def setUp(self):
        warm_up()
        dice = random.Random(8)
        self.pieces = tuple(
            Piece(
                id=f"P{k}", width=dice.randrange(900, 5000), height=dice.randrange(900, 6000), count=dice.randint(1, 60)
            )
            for k in range(70)
        )

    def check_hurried(self, paper_job: PaperJob, bench: Bench) -> PaperPlan:
        """A sound plan in which no sheet was filled at leisure."""
        slow = AssertionError("there was no time for that")
        with mock.patch.object(Tables, "bounded_tree", side_effect=slow):
            plan = fit_paper(paper_job, bench, lambda _: None, 0.0)
        check_paper(paper_job, plan, bench)
        self.assertEqual(plan.short, ())
        return plan

    def test_without_time_sheets_are_filled_the_quickest_way(self):
        endless = Sheet(id="s", width=12 * 1016, height=12 * 1016)
        self.check_hurried(PaperJob(id="p", sheets=(endless,), pieces=self.pieces), Bench(3))

    def test_also_where_the_trimmer_has_limits_or_there_are_two_kinds_of_sheets(self):
        large, small = Sheet(id="l", width=12 * 1016, height=12 * 1016), Sheet(id="s", width=9000, height=11000)
        paper_job = PaperJob(id="p", sheets=(large, small), pieces=self.pieces)
        self.check_hurried(paper_job, Bench(3))
        limits = CutLimits(longest=None, hold=508)
        self.check_hurried(replace(paper_job, sheets=(large,)), Bench(3, limits))

    def test_no_more_columns_to_begin_with_than_a_fifth_of_the_time_allows(self):
        problem = make_problem(
            PaperJob(id="p", sheets=(Sheet(id="s", width=12192, height=12192),), pieces=self.pieces),
            {piece.id: piece.count for piece in self.pieces},
        )
        ticks = itertools.count(100, -1)
        pool = ColumnPool(problem)
        full_one_size_columns(problem, Tables(problem), pool, lambda _: None, lambda: next(ticks))
        self.assertLessEqual(len(pool.columns), 21)


class FineSizesTests(TestCase):
    def test_sizes_in_tenths_of_a_millimetre_without_number_still_get_a_sound_plan(self):
        dice = random.Random(4)
        pieces = tuple(
            Piece(
                id=f"P{k}",
                width=dice.randint(300, 1500) * 32,
                height=dice.randint(300, 1500) * 32,
                count=dice.randint(5, 40),
            )
            for k in range(40)
        )
        a3 = Sheet(id="A3", width=297 * 320, height=420 * 320)
        wanted = Job("mm", (PaperJob(id="chalk", sheets=(a3,), pieces=pieces),), Bench(3))
        self.assertFalse(Tables(make_problem(wanted.papers[0])).exact)
        plan = fit(wanted, seconds=3)
        check_plan(wanted, read_plan(write_plan(plan)))
        self.assertLessEqual(plan.papers[0].sheets, one_size_sheets(wanted.papers[0]))
        self.assertLessEqual(plan.papers[0].bound, plan.papers[0].cost)


class WitnessTests(TestCase):
    def test_never_worse_than_any_guillotine_variant_of_rectpack(self):
        for seed in range(12):
            wanted = random_job(seed).papers[0]
            with self.subTest(seed=seed):
                plan = fit_paper(wanted, Bench(3), lambda _: None, 4)
                self.assertLessEqual(plan.sheets, rectpack_sheets(wanted))

    def test_the_proven_fewest_is_that_of_cp_sat_on_tiny_jobs(self):
        sizes = [("4 x 5", "5 x 6", "7 x 4"), ("3 x 8", "6 x 5", "4 x 7"), ("5 x 5", "8 x 3", "6 x 4")]
        proven = 0
        for number, chosen in enumerate(sizes):
            for counts in ((1, 1, 1), (2, 1, 2), (3, 2, 1)):
                # Each piece is more than a fifth of the sheet, so at most four share one.
                entries = [(size, count, False) for size, count in zip(chosen, counts, strict=True)]
                tiny = paper("9 x 10½", *entries)
                plan = fit_paper(tiny, Bench(1), lambda _: None, 4)
                flat = [(p.width, p.height) for p in tiny.pieces for _ in range(p.count)]
                fewest = cp_sat_sheets(tiny.sheets[0], flat)
                with self.subTest(sizes=number, counts=counts):
                    self.assertLessEqual(plan.bound, fewest)
                    if plan.proven:
                        proven += 1
                        self.assertEqual(plan.sheets, fewest)
        self.assertGreaterEqual(proven, 6)
