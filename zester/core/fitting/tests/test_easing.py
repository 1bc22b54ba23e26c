"""Plans that take few minutes: the estimate, the table over rows, the search, the bound, the plans to choose from."""

import random
from collections import Counter
from dataclasses import replace
from decimal import Decimal
from functools import cache
from itertools import pairwise
from unittest import TestCase

from ortools.sat.python import cp_model

from zester.core.cutting.steps import minutes_judge
from zester.core.fitting.engine import MOST_PLANS, fit_front, fit_paper
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import Bench, KeepRule
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.minutes.carrying import carried
from zester.core.fitting.minutes.easing import Arrays, Best, Easing
from zester.core.fitting.minutes.easy_columns import EasyColumns
from zester.core.fitting.minutes.hand_table import HandTable
from zester.core.fitting.minutes.least_minutes import least_for, least_seconds
from zester.core.fitting.parts import Part, count_sizes, cut_part, renumber
from zester.core.fitting.patterns.columns import ColumnPool, Tables, relax
from zester.core.fitting.patterns.handling import group_seconds, groups_of, seconds_of_groups, seconds_of_layouts
from zester.core.fitting.patterns.knapsack import GuillotineTable, Item
from zester.core.fitting.patterns.positions import normal_positions
from zester.core.fitting.patterns.problem import make_problem
from zester.core.fitting.patterns.rows import RowTable, row_tables
from zester.core.fitting.search.naming import name_layouts
from zester.core.fitting.tests.jobs import paper, random_job
from zester.core.lengths import TICKS_PER_INCH as INCH

BENCH = Bench(3)
JUDGE = minutes_judge()


def quiet(_: object) -> None:
    """Hears nothing."""


def small_problem(seed: int):
    """A random job's problem, its tables and the columns of its linear program."""
    job = random_job(seed)
    problem = make_problem(job.papers[0])
    tables, pool = Tables(problem), ColumnPool(problem)
    relax(problem, tables, pool, quiet, lambda: 5.0)
    return job, problem, tables, pool


class EstimateTests(TestCase):
    def test_four_mats_a_sheet_are_two_groups(self):
        # 8 1/2 x 11: 4 in twice along the width, then 5 1/4 in twice along the strips; six sheets in stacks of three.
        wide, high = 17 * INCH // 2, 11 * INCH
        mat = Part(width=4 * INCH, height=21 * INCH // 4, size=0)
        strip = Part(width=4 * INCH, height=high)
        for left in (INCH // 2, INCH // 2 + mat.height):
            rest = strip if strip.axis else Part(width=mat.width, height=left)
            strip = cut_part(mat.width, left + mat.height, "y", mat.height, mat, rest)
        rest = cut_part(wide - mat.width, high, "x", mat.width, strip, Part(width=INCH // 2, height=high))
        groups = groups_of(cut_part(wide, high, "x", mat.width, strip, rest))
        self.assertEqual({(group.at, group.times) for group in groups}, {(4 * INCH, 2), (21 * INCH // 4, 2)})
        self.assertEqual(sorted(groups.values()), [1, 2])
        # Six sheets: two stacks of them, four of strips; each takes 8 s and two strokes of 4 s. Two places, 15 s each;
        # half a fetch of both groups' first stacks is in the hand.
        total = Counter({group: 6 * count for group, count in groups.items()})
        self.assertEqual(seconds_of_groups(total, 3), 6 * 16 + 2 * 15 - 2 * 4)

    def test_strips_that_two_layouts_share_are_cut_together(self):
        *_, pool = small_problem(3)
        tree = pool.columns[-1].tree
        once, twice = seconds_of_layouts([(tree, 1), (tree, 1)], 3), seconds_of_layouts([(tree, 2)], 3)
        self.assertEqual(once, twice)
        self.assertEqual(seconds_of_layouts([(tree, 3)], 3), seconds_of_groups(groups_of(tree), 1))


class RowTableTests(TestCase):
    def test_it_is_worth_what_trying_every_row_finds(self):
        for seed in range(12):
            dice = random.Random(seed)
            pieces = [(dice.randint(2, 6), dice.randint(2, 6)) for _ in range(3)]
            worth, fetch, stroke = [dice.randint(5, 40) for _ in pieces], dice.randint(0, 6), dice.randint(0, 3)
            items = [Item(k, *piece) for k, piece in enumerate(pieces)]
            xs = normal_positions([(item.width, 9) for item in items], 13)
            ys = normal_positions([(item.height, 9) for item in items], 10)
            table = RowTable(GuillotineTable(xs, ys, items), [(13, 10)])
            table.fill(worth, fetch, stroke)
            tree = table.tree(13, 10)
            earned = sum(n * w for n, w in zip(count_sizes(tree, 3), worth, strict=True))
            handled = sum(n * (fetch + stroke * group.times) for group, n in groups_of(tree).items())
            with self.subTest(seed=seed):
                self.assertEqual(table.best(13, 10), _best_rows(pieces, worth, fetch, stroke, 13, 10))
                self.assertGreaterEqual(earned - handled, table.best(13, 10))


def _best_rows(pieces, worth, fetch, stroke, width, height) -> int:
    """The same by every whole-number row of every part, nothing rounded to positions."""

    @cache
    def best(w: int, h: int) -> int:
        found = max([0, *(worth[k] for k, piece in enumerate(pieces) if piece == (w, h))])
        for x in range(1, w + 1):
            for times in range(1, w // x + 1):
                rest = w - times * x
                if rest or times > 1:
                    value = times * best(x, h) + (best(rest, h) if rest else 0)
                    found = max(found, value - fetch - stroke * (times - (not rest)))
        for y in range(1, h + 1):
            for times in range(1, h // y + 1):
                rest = h - times * y
                if rest or times > 1:
                    value = times * best(w, y) + (best(w, rest) if rest else 0)
                    found = max(found, value - fetch - stroke * (times - (not rest)))
        return found

    return best(width, height)


class SearchTests(TestCase):
    def test_it_finds_what_an_integer_program_of_another_kind_proves_the_best(self):
        # OR-tools' CP-SAT (a general-purpose solver) with a model of its own: stacks of every group, places, copies.
        for seed in (1, 4, 9):
            _, problem, tables, pool = small_problem(seed)
            columns = EasyColumns(problem, tables, 3, lambda: True)
            found = [columns.add(column.sheet, column.tree) for column in pool.columns][:24]
            thrifty, _ = _cp_sat(problem, found, None)
            cost = sum(n for _, n in thrifty) + 2
            _, seconds = _cp_sat(problem, found, cost)
            best = Best([cost], thrifty)
            for turn in range(3):
                best.search(Arrays(problem, found, 3), cost, turn, 1, 300_000)
            with self.subTest(seed=seed):
                self.assertAlmostEqual(float(best.seconds[0]), seconds)

    def test_plans_make_everything_and_cost_no_more_than_they_may(self):
        _, problem, tables, pool = small_problem(6)
        # A wasteful plan to begin from: every column as often as the most that is asked for.
        start = tuple((column, max(problem.demands)) for column in pool.columns)
        cost = sum(n for _, n in start)
        for eased in Easing(EasyColumns(problem, tables, 3, lambda: True), pool.columns, start).run():
            made = [sum(n * c.counts[k] for c, n in eased.chosen) for k in range(len(problem.sizes))]
            self.assertTrue(all(m >= d for m, d in zip(made, problem.demands, strict=True)))
            self.assertLessEqual(sum(n for _, n in eased.chosen), cost)


def _cp_sat(problem, columns, most: int | None):
    """The copies with the fewest sheets, or with the fewest estimated seconds at no more than ``most`` sheets."""
    model = cp_model.CpModel()
    top = max(problem.demands)
    copies = [model.new_int_var(0, top, "") for _ in columns]
    for k, demand in enumerate(problem.demands):
        model.add(sum(n * easy.column.counts[k] for n, easy in zip(copies, columns, strict=True)) >= demand)
    if most is None:
        model.minimize(sum(copies))
    else:
        model.add(sum(copies) <= most)
        groups = sorted({group for easy in columns for group in easy.groups})
        stacks = {group: model.new_int_var(0, top * 99, "") for group in groups}
        there = {group: model.new_bool_var("") for group in groups}
        places = {at: model.new_bool_var("") for at in {group.at for group in groups}}
        for group in groups:
            model.add(3 * stacks[group] >= sum(n * easy.groups[group] for n, easy in zip(copies, columns, strict=True)))
            model.add(stacks[group] <= top * 99 * there[group])
            model.add(there[group] <= stacks[group])
            model.add_implication(there[group], places[group.at])
        # 8 s a stack, 4 s a stroke, half of the first stack of each group off, 15 s a place.
        work = sum((8 + 4 * group.times) * stacks[group] - 4 * there[group] for group in groups)
        model.minimize(work + 15 * sum(places.values()))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers, solver.parameters.max_time_in_seconds = 2, 20
    assert solver.solve(model) == cp_model.OPTIMAL
    return [
        (e, solver.value(n)) for e, n in zip(columns, copies, strict=True) if solver.value(n)
    ], solver.objective_value


class CarryTests(TestCase):
    def sheet(self, wide: int) -> Part:
        """Nine inches high: a strip of 4 in beside six pieces 2¼ × 3 in, trimmed to 4½ in; what is left at the end."""
        piece, strip = Part(width=9 * INCH // 4, height=3 * INCH, size=1), Part(width=4 * INCH, height=9 * INCH, size=0)
        pair = cut_part(9 * INCH // 2, 3 * INCH, "x", piece.width, piece, piece)
        two = cut_part(pair.width, 6 * INCH, "y", pair.height, pair, pair)
        block = cut_part(pair.width, 9 * INCH, "y", pair.height, pair, two)
        spare = Part(width=wide - strip.width - block.width, height=9 * INCH)
        rest = cut_part(wide - strip.width, 9 * INCH, "x", block.width, block, spare)
        return cut_part(wide, 9 * INCH, "x", strip.width, strip, rest)

    def test_what_is_left_over_is_trimmed_off_later_where_that_is_quicker(self):
        tree = self.sheet(9 * INCH)
        later = carried(tree)
        self.assertEqual(count_sizes(later, 2), count_sizes(tree, 2))
        # 4½ in need not be measured.
        self.assertEqual({group.at for group in groups_of(tree)}, {4 * INCH, 9 * INCH // 2, 3 * INCH, 9 * INCH // 4})
        self.assertEqual({group.at for group in groups_of(later)}, {4 * INCH, 3 * INCH, 9 * INCH // 4})
        seconds = [sum(n * group_seconds(group) for group, n in groups_of(each).items()) for each in (tree, later)]
        # A stack and a stroke less for the block, a stroke more for each of its three rows.
        self.assertEqual(seconds[1] - seconds[0], 3 * 4 - 12)

    def test_an_offcut_that_is_worth_keeping_stays_whole(self):
        tree = self.sheet(11 * INCH)
        self.assertEqual(carried(tree), tree)
        narrow = self.sheet(9 * INCH)
        self.assertEqual(carried(narrow, KeepRule(INCH // 2, 6 * INCH)), narrow)
        self.assertNotEqual(carried(narrow, KeepRule(INCH, 6 * INCH)), narrow)

    def test_a_plan_of_such_layouts_holds_and_is_cut_in_fewer_settings(self):
        job = paper("9 x 9", ("4 x 9", 9, False), ("2¼ x 3", 54, False))
        tree, copies = self.sheet(9 * INCH), 9
        wanted = {piece.id: piece.count for piece in job.pieces}
        problem = make_problem(job)
        sizes = [(size.width, size.height) for size in problem.sizes]
        numbers = {0: sizes.index((4 * INCH, 9 * INCH)), 1: sizes.index((9 * INCH // 4, 3 * INCH))}
        taken = []
        for each in (tree, carried(tree)):
            named = name_layouts(problem, [(0, renumber(each, numbers), copies)], dict(wanted), BENCH.stack)
            plan = PaperPlan(id=job.id, cost=9, bound=9, proven=False, short=(), layouts=tuple(named))
            check_paper(job, plan, BENCH)
            taken.append(JUDGE(job, plan, BENCH))
        self.assertLess(taken[1], taken[0])


class BoundTests(TestCase):
    def test_no_plan_is_quicker_than_the_bound(self):
        for seed in (0, 2, 5, 7):
            job, problem, tables, _ = small_problem(seed)
            plan = fit_paper(job.papers[0], BENCH, quiet, 3, JUDGE)
            least = least_seconds(problem, tables, int(plan.cost), BENCH.stack)
            with self.subTest(seed=seed):
                self.assertLessEqual(least, JUDGE(job.papers[0], plan, BENCH))
                self.assertGreater(least, 0)

    def test_the_bound_of_a_job(self):
        job = paper("8½ x 11", ("8½ x 5½", 12))
        self.assertEqual(least_for(job, BENCH, Decimal(6)), 2 * 8 + 2 * 4 + 12 - 8)
        # Everybody's own sheets, pinned layouts and middles are not reckoned with.
        self.assertEqual(least_for(replace(job, pool="own"), BENCH, Decimal(6)), 0)

    def test_one_way_there_is(self):
        # 8½ × 11 sheets halved at 5½, three at a time: a setting, two stacks, a stroke each. Nothing is less.
        problem = make_problem(paper("8½ x 11", ("8½ x 5½", 12)))
        self.assertEqual(least_seconds(problem, Tables(problem), 6, 3), 2 * 8 + 2 * 4 + 12 - 8)

    def test_a_rest_that_is_turned_and_cut_at_the_same_place_need_not_be_fetched(self):
        # 10 × 5 sheets cut at 4, what remains turned and cut at 4 again: one setting, four stacks, eight strokes.
        turned = paper("10 x 5", ("4 x 5", 12), ("6 x 4", 12))
        problem = make_problem(turned)
        plan = fit_paper(turned, BENCH, quiet, 3, JUDGE)
        self.assertEqual(JUDGE(turned, plan, BENCH), 12 + 4 * 8 + 8 * 4)
        self.assertEqual(least_seconds(problem, Tables(problem), 12, 3), 12 - 8 + 4 * 8 + 8 * 4)

    def test_strips_that_become_squares_need_not_be_fetched(self):
        # 8 × 4 sheets cut at 4 make two squares: the sheets are all that is fetched. 9 × 4 ones: a stroke more.
        for width, strokes in (("8", 4), ("9", 8)):
            problem = make_problem(paper(f"{width} x 4", ("4 x 4", 24)))
            with self.subTest(width=width):
                self.assertEqual(least_seconds(problem, Tables(problem), 12, 3), 12 - 8 + 4 * 8 + strokes * 4)

    def test_what_a_sheet_makes_is_worth_what_the_table_says_and_its_handling(self):
        dice = random.Random(4)
        for seed in (1, 3, 6):
            _, problem, tables, _ = small_problem(seed)
            table, stock = HandTable(row_tables(problem, tables)[0]), problem.stocks[0]
            for _ in range(5):
                worth = [dice.choice((0, 9_000, 40_000, 200_000)) for _ in problem.sizes]
                table.fill(worth, 8_000, 4_000)
                best, tree = table.best(stock.width, stock.height), table.tree(stock.width, stock.height)
                counts = count_sizes(tree, len(problem.sizes))
                self.assertEqual((tree.width, tree.height), (stock.width, stock.height))
                spent = sum(n * each for n, each in zip(counts, worth, strict=True)) - best
                with self.subTest(seed=seed, worth=worth):
                    # A stroke and a fetch at the least; two of each for a piece alone.
                    self.assertEqual(spent % 4_000, 0)
                    self.assertTrue(12_000 <= spent <= 24_000 * sum(counts) if any(counts) else best == 0)


class FrontTests(TestCase):
    def test_no_plan_is_beaten_and_the_first_is_the_thriftiest(self):
        job = random_job(11)
        thrifty = fit_paper(job.papers[0], BENCH, quiet, 5)
        front = fit_front(job.papers[0], BENCH, quiet, 6, JUDGE)
        self.assertEqual(front[0][0].cost, thrifty.cost)
        self.assertLessEqual(front[0][1], JUDGE(job.papers[0], thrifty, BENCH))
        self.assertLessEqual(len(front), MOST_PLANS)
        for (one, slow), (other, quick) in pairwise(front):
            self.assertLess(one.cost, other.cost)
            self.assertGreater(slow, quick)
        for plan, _ in front:
            check_paper(job.papers[0], plan, BENCH)

    def test_polishing_makes_the_sheets_and_the_minutes_never_more_and_is_the_same_twice(self):
        job = random_job(8)
        thrifty = fit_paper(job.papers[0], BENCH, quiet, 5)
        polished = [fit_paper(job.papers[0], BENCH, quiet, 30, JUDGE) for _ in range(2)]
        self.assertEqual(*polished)
        self.assertEqual(polished[0].sheets, thrifty.sheets)
        self.assertLessEqual(JUDGE(job.papers[0], polished[0], BENCH), JUDGE(job.papers[0], thrifty, BENCH))
