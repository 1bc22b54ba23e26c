"""Portions, own sheets, fillers and the time budget."""

from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import ANY_BENCH, Bench, KeepRule, Margins, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.plan import Cut, Layout, Named
from zester.core.fitting.parts import ANY_CUT, CutLimits
from zester.core.fitting.patterns.problem import make_problem, part_of
from zester.core.fitting.search.fillers import add_fillers
from zester.core.fitting.search.portions import choose_portion, grids
from zester.core.fitting.tests.jobs import paper, random_job
from zester.core.geometry import Window
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM

INCH = TICKS_PER_INCH


def fitted(job: PaperJob, bench: Bench = ANY_BENCH, seconds: float = 4.0):
    plan = fit_paper(job, bench, lambda _: None, seconds)
    check_paper(job, plan, bench)
    return plan


class PortionTests(TestCase):
    def portions(self, sheet: Sheet, *pieces: Piece, limits: CutLimits = ANY_CUT) -> set[tuple[int, int]]:
        return {(p.across, p.down) for p in grids((sheet,), list(pieces), limits)}

    def test_every_grid_whose_portions_hold_the_pieces_is_there(self):
        found = self.portions(
            Sheet(id="s", width=12 * INCH, height=12 * INCH), Piece(id="a", width=4 * INCH, height=6 * INCH, count=1)
        )
        self.assertIn((3, 2), found)
        self.assertIn((2, 3), found)
        self.assertNotIn((3, 3), found)
        upright = Piece(id="a", width=4 * INCH, height=6 * INCH, count=1, turn=False)
        self.assertNotIn((2, 3), self.portions(Sheet(id="s", width=12 * INCH, height=12 * INCH), upright))

    def test_sides_are_rounded_down_to_a_mark(self):
        inches = grids((Sheet(id="s", width=17 * INCH // 2, height=11 * INCH),), [], ANY_CUT)
        self.assertTrue(all(p.width % (INCH // 16) == 0 == p.height % (INCH // 16) for p in inches))
        metric = grids((Sheet(id="a4", width=210 * TICKS_PER_MM, height=297 * TICKS_PER_MM),), [], ANY_CUT)
        halves = next(p for p in metric if (p.across, p.down) == (1, 2))
        self.assertEqual((halves.width, halves.height), (210 * TICKS_PER_MM, 148 * TICKS_PER_MM))

    def test_whole_sheets_are_handed_out_uncut_as_many_as_one_person_needs(self):
        mat = Piece(id="a", width=4 * INCH, height=21 * INCH // 4, count=15, each=5)
        sheet = Sheet(id="s", width=17 * INCH // 2, height=11 * INCH)
        plan = fitted(PaperJob(id="p", sheets=(sheet,), pieces=(mat,), pool="whole", people=3))
        # Four mats come out of a sheet, so five take two sheets a person, and nothing is cut for them.
        handed = [layout for layout in plan.layouts if layout.source == "sheet"]
        self.assertEqual((plan.sheets, plan.portion, plan.proven), (6, (sheet.width, sheet.height), True))
        self.assertEqual([layout.cuts for layout in handed], [()])
        rest = replace(mat, count=17)
        more = fitted(PaperJob(id="p", sheets=(sheet,), pieces=(rest,), pool="whole", people=3))
        self.assertEqual(more.sheets, 7)

    def test_grids_the_trimmer_cannot_cut_are_left_out(self):
        sheet = Sheet(id="s", width=12 * INCH, height=24 * INCH)
        found = self.portions(sheet, Piece(id="a", width=INCH, height=INCH, count=1), limits=CutLimits(12 * INCH))
        # Strips across the 12 in side come first; what is longer than the cut cannot be divided along.
        self.assertIn((2, 2), found)
        self.assertNotIn((2, 1), found)

    def test_the_cheapest_grid_is_chosen_and_its_bound_is_that_of_any(self):
        portions = grids((Sheet(id="s", width=12 * INCH, height=12 * INCH, count=None, cost=Decimal(2)),), [], ANY_CUT)
        # As if one person needed 23 square inches, and every portion of at least that were enough.
        choice = choose_portion(portions, 23 * INCH**2, 14, lambda p: (-(-23 * INCH**2 // (p.width * p.height)), 1, ()))
        self.assertEqual((choice.cost, choice.bound, choice.each), (Decimal(6), Decimal(6), 1))
        self.assertEqual(sorted((choice.portion.width, choice.portion.height)), [4 * INCH, 6 * INCH])

    def test_a_shelf_without_enough_sheets_gives_no_portions(self):
        portions = grids((Sheet(id="s", width=12 * INCH, height=12 * INCH, count=2),), [], ANY_CUT)
        needed = lambda p: (-(-23 * INCH**2 // (p.width * p.height)), 1, ())  # noqa: E731
        self.assertIsNone(choose_portion(portions, 23 * INCH**2, 14, needed))

    def test_portions_and_the_rest_are_fitted_side_by_side(self):
        pieces = (
            Piece(id="a", width=INCH, height=11 * INCH // 2, count=15, each=1),
            Piece(id="b", width=3 * INCH, height=4 * INCH, count=14, each=1),
        )
        job = PaperJob(
            id="p",
            sheets=(Sheet(id="s", width=12 * INCH, height=12 * INCH),),
            pieces=pieces,
            pool="portions",
            people=14,
        )
        plan = fitted(job)
        self.assertEqual(sum(lay.copies for lay in plan.layouts if lay.source == "portion") % 14, 0)
        self.assertFalse(plan.short)
        # The one strip beyond everybody's share comes from a common sheet.
        common = [lay for lay in plan.on_sheets if any(n.piece for n in lay.parts)]
        self.assertEqual([n.piece for lay in common for n in lay.parts], ["a"])

    def test_a_sheet_whose_pattern_lies_sideways_is_cut_into_portions_all_the_same(self):
        piece = Piece(id="a", width=3 * INCH, height=5 * INCH, count=8, turn=False, upright=True, each=1)
        sheet = Sheet(id="s", width=11 * INCH, height=17 * INCH // 2, up="left", margins=Margins(top=INCH // 4))
        plan = fitted(PaperJob(id="p", sheets=(sheet,), pieces=(piece,), pool="portions", people=8))
        self.assertFalse(plan.short)


class OwnTests(TestCase):
    def test_everybodys_layouts_come_once_for_each(self):
        pieces = (
            Piece(id="a", width=4 * INCH, height=5 * INCH, count=13, each=2),
            Piece(id="b", width=INCH, height=INCH, count=6, each=1),
        )
        job = PaperJob(
            id="p", sheets=(Sheet(id="s", width=17 * INCH // 2, height=11 * INCH),), pieces=pieces, pool="own", people=6
        )
        plan = fitted(job)
        self.assertEqual([lay.copies for lay in plan.on_sheets], [6, 1])
        self.assertTrue(plan.proven)

    def test_it_never_takes_fewer_sheets_than_common_ones(self):
        for seed in range(8):
            job = random_job(seed).papers[0]
            shares = tuple(replace(piece, count=4 * piece.count, each=piece.count) for piece in job.pieces)
            own = replace(job, pieces=shares, pool="own", people=4)
            with self.subTest(seed=seed):
                self.assertGreaterEqual(fitted(own).cost, fitted(replace(own, pool="together")).bound)


class FillerTests(TestCase):
    LAYOUT = Layout(sheet="s", copies=5, cuts=(Cut(0, "x", 8),), parts=(Named(part=1, piece="a", turned=False),))

    def job(self, *fillers: Piece, **sheet) -> PaperJob:
        return PaperJob(
            id="p",
            sheets=(Sheet(id="s", width=10, height=10, **sheet),),
            pieces=(Piece(id="a", width=8, height=10, count=5), *fillers),
        )

    def test_a_layout_is_split_where_only_some_copies_are_needed(self):
        filled = add_fillers(
            self.job(Piece(id="f", width=2, height=10, count=3, filler=True)), (self.LAYOUT,), ANY_BENCH
        )
        self.assertEqual([(lay.copies, len(lay.parts)) for lay in filled], [(3, 2), (2, 1)])

    def test_no_more_are_cut_than_wanted(self):
        filled = add_fillers(
            self.job(Piece(id="f", width=1, height=2, count=7, filler=True)), (self.LAYOUT,), ANY_BENCH
        )
        made = sum(lay.copies for lay in filled for n in lay.parts if n.piece == "f")
        self.assertEqual(made, 7)

    def test_margins_kept_offcuts_and_pins_are_left_alone(self):
        filler = Piece(id="f", width=2, height=5, count=9, filler=True)
        for job, bench, layout in (
            (self.job(filler, margins=Margins(right=1)), ANY_BENCH, self.LAYOUT),
            (self.job(filler), Bench(keep=KeepRule(2, 10)), self.LAYOUT),
            (self.job(filler), ANY_BENCH, replace(self.LAYOUT, pinned=True)),
        ):
            self.assertEqual(add_fillers(job, (layout,), bench), (layout,))


class ProblemTests(TestCase):
    def test_equal_sizes_share_a_demand_and_rules_keep_them_apart(self):
        pieces = (
            Piece(id="a", width=4, height=5, count=3),
            Piece(id="b", width=5, height=4, count=2),
            Piece(id="c", width=4, height=5, count=1, turn=False),
            Piece(id="d", width=4, height=5, count=7, filler=True),
        )
        problem = make_problem(PaperJob(id="p", sheets=(Sheet(id="s", width=20, height=20),), pieces=pieces))
        self.assertEqual(sorted((size.demand, size.turn) for size in problem.sizes), [(1, False), (5, True)])

    def test_a_hidden_middle_is_a_limited_sheet_for_shapes_alone(self):
        host = Piece(id="a", width=10, height=10, count=6, window=Window(1, 1, 8, 8))
        problem = make_problem(
            PaperJob(
                id="p",
                sheets=(Sheet(id="s", width=20, height=20),),
                pieces=(host, Piece(id="b", width=3, height=3, count=9, from_window=True)),
            )
        )
        window = problem.stocks[1]
        self.assertEqual((window.count, window.width, problem.costs[1]), (6, 8, 0))
        self.assertEqual([problem.sizes[k].area for k, may in enumerate(window.allowed) if may], [9])
        # One that may not turn comes only out of hosts that may not turn either.
        fixed = make_problem(
            PaperJob(
                id="p",
                sheets=(Sheet(id="s", width=20, height=20),),
                pieces=(host, Piece(id="b", width=3, height=4, count=9, turn=False, from_window=True)),
            )
        )
        self.assertEqual(len(fixed.stocks), 1)

    def test_a_part_of_a_problem_leaves_out_what_is_not_wanted(self):
        problem = make_problem(paper("10 x 10", ("6 x 6", 3), ("5 x 4", 2), ("2 x 2", 9)))
        small, sizes, stocks = part_of(problem, [0, 1, 4])
        self.assertEqual((small.demands, sizes, stocks), ([1, 4], [1, 2], [0]))


class BudgetTests(TestCase):
    def test_without_any_time_there_is_still_a_whole_plan_with_a_valid_bound(self):
        for seed in range(6):
            job = random_job(seed).papers[0]
            hurried, full = fitted(job, Bench(3), 0.0), fitted(job, Bench(3), 4.0)
            with self.subTest(seed=seed):
                self.assertFalse(hurried.short)
                self.assertLessEqual(hurried.bound, full.cost)
                self.assertGreaterEqual(hurried.cost, full.cost)
