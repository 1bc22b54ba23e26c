"""Offcuts first: never dearer than without them; several sizes; several jobs for one paper."""

import random
from collections import Counter
from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from ortools.sat.python import cp_model

from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import Bench, KeepRule, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.leftovers import left_over
from zester.core.fitting.jobs.need import need_of
from zester.core.fitting.jobs.supply import full_cost, used_sheets
from zester.core.fitting.offcuts import fit_offcuts_first, without_offcuts
from zester.core.fitting.sequence import best_order, joined
from zester.core.tests.share import some

BENCH = Bench(stack=3, keep=KeepRule(8, 24))
# How many seeded classes are tried: hundreds, or a share of them.
CLASSES = some(220)
# Seconds: every one of them is proven in much less, on a machine that is busy with something else, too.
ENOUGH = 8.0


def quiet(_: str) -> None:
    """Hears nothing."""


def job(seed: int) -> PaperJob:
    """A small class for one paper, and a few offcuts, in eighths of an inch."""
    dice = random.Random(seed)
    pieces = tuple(
        Piece(
            id=f"A{k}",
            width=dice.randint(8, 40),
            height=dice.randint(8, 50),
            count=dice.randint(1, 12),
            turn=dice.random() < 0.8,
        )
        for k in range(dice.randint(1, 4))
    )
    offcuts = tuple(
        Sheet(
            id=f"o{k}",
            width=dice.randint(10, 68),
            height=dice.randint(10, 88),
            count=dice.randint(1, 3),
            cost=Decimal(0),
        )
        for k in range(dice.randint(1, 4))
    )
    return PaperJob(id="p", sheets=(Sheet(id="sheet", width=68, height=88), *offcuts), pieces=pieces)


class OffcutsFirstTests(TestCase):
    def test_classes_never_cost_more_with_offcuts_than_without(self):
        saved = 0
        for seed in range(CLASSES):
            paper = job(seed)
            found = fit_offcuts_first(paper, BENCH, quiet, ENOUGH)
            plain = fit_paper(without_offcuts(paper), BENCH, quiet, ENOUGH)
            check_paper(paper, found.plan, BENCH)
            self.assertLessEqual(found.plan.cost, plain.cost, seed)
            self.assertEqual(found.plan.cost + found.cost, plain.cost, seed)
            used = used_sheets(found.plan)
            self.assertEqual(found.plan.sheets - found.offcuts, used.get("sheet", 0))
            self.assertEqual(plain.sheets - used.get("sheet", 0), found.sheets)
            for sheet in paper.sheets[1:]:
                self.assertLessEqual(used.get(sheet.id, 0), sheet.count, seed)
            # An offcut is only taken where it saves something.
            self.assertTrue(found.offcuts == 0 or found.sheets > 0, seed)
            saved += found.sheets > 0
        self.assertGreater(saved, CLASSES // 8)

    def test_offcuts_that_save_nothing_are_left_for_another_time(self):
        pieces = (Piece(id="A1", width=34, height=44, count=9),)
        sheets = (Sheet(id="sheet", width=68, height=88),)
        useful = Sheet(id="one", width=36, height=46, count=1, cost=Decimal(0))
        more = Sheet(id="two", width=36, height=50, count=1, cost=Decimal(0))
        found = fit_offcuts_first(PaperJob(id="p", sheets=(*sheets, useful, more), pieces=pieces), BENCH, quiet, 2.0)
        # Four come out of a sheet; for the ninth one offcut is enough.
        self.assertEqual((found.sheets, found.offcuts, found.plan.proven), (1, 1, True))
        none = replace(pieces[0], count=4)
        found = fit_offcuts_first(PaperJob(id="p", sheets=(*sheets, useful), pieces=(none,)), BENCH, quiet, 2.0)
        self.assertEqual((found.sheets, found.offcuts, used_sheets(found.plan)), (0, 0, {"sheet": 1}))

    def test_an_offcut_keeps_which_way_its_pattern_stands(self):
        upright = Piece(id="A1", width=20, height=40, count=1, turn=False, upright=True)
        for up, fits in (("top", False), ("left", True)):
            lying = Sheet(id="o", width=44, height=24, count=1, cost=Decimal(0), up=up)
            paper = PaperJob(id="p", sheets=(Sheet(id="sheet", width=68, height=88), lying), pieces=(upright,))
            self.assertEqual(fit_offcuts_first(paper, BENCH, quiet, 1.0).offcuts, int(fits), up)

    def test_which_offcuts_there_are_is_part_of_the_need_and_stock_of_one_size_is_not(self):
        paper = job(1)
        fewer = replace(paper, sheets=(paper.sheets[0], replace(paper.sheets[1], count=9)))
        self.assertNotEqual(need_of(paper, BENCH), need_of(fewer, BENCH))
        limited = replace(paper, sheets=(replace(paper.sheets[0], count=5, cost=Decimal(2)), *paper.sheets[1:]))
        self.assertEqual(need_of(paper, BENCH), need_of(limited, BENCH))


class SizesTests(TestCase):
    def test_the_cheapest_mix_of_sizes_agrees_with_an_integer_program(self):
        """Of one square piece so many come from a sheet of each size, so the mix is a covering program for CP-SAT."""
        for seed in range(30):
            dice = random.Random(seed)
            side, count = dice.randint(10, 30), dice.randint(1, 40)
            sizes = [(68, 88), (96, 96), (66, 94)]
            prices = [Decimal(dice.randint(20, 120)) / 100 for _ in sizes]
            sheets = tuple(
                Sheet(id=f"s{k}", width=w, height=h, cost=price)
                for k, ((w, h), price) in enumerate(zip(sizes, prices, strict=True))
            )
            piece = Piece(id="A1", width=side, height=side, count=count)
            plan = fit_paper(PaperJob(id="p", sheets=sheets, pieces=(piece,)), BENCH, quiet, 2.0)
            model = cp_model.CpModel()
            amounts = [model.new_int_var(0, 50, str(k)) for k in range(3)]
            held = [(w // side) * (h // side) for w, h in sizes]
            model.add(sum(a * h for a, h in zip(amounts, held, strict=True)) >= count)
            model.minimize(sum(a * int(p * 100) for a, p in zip(amounts, prices, strict=True)))
            solver = cp_model.CpSolver()
            solver.parameters.num_workers = 1
            solver.solve(model)
            self.assertEqual(int(plan.cost * 100), int(solver.objective_value), seed)

    def test_of_sizes_of_which_there_are_so_many_no_more_are_taken(self):
        """By hand: two of these come from a small sheet for 1, two from a large one for 5."""
        for small, large, cost, short in (
            (None, None, 4, 0),
            (1, None, 16, 0),
            (0, None, 20, 0),
            (2, 3, 12, 0),
            (1, 1, 6, 4),
        ):
            sheets = (
                Sheet(id="small", width=64, height=64, count=small, cost=Decimal(1)),
                Sheet(id="large", width=72, height=72, count=large, cost=Decimal(5)),
            )
            paper = PaperJob(id="p", sheets=sheets, pieces=(Piece(id="A1", width=64, height=32, count=8),))
            plan = fit_offcuts_first(paper, BENCH, quiet, ENOUGH).plan
            check_paper(paper, plan, BENCH)
            with self.subTest(small=small, large=large):
                self.assertEqual((plan.cost, sum(count for _, count in plan.short)), (cost, short))

    def test_a_first_plan_keeps_to_the_size_of_the_plan_before_where_that_can_be(self):
        """By hand: two of these come from a small sheet for 1 or from a large one for 5."""
        sheets = (
            Sheet(id="small", width=64, height=64, cost=Decimal(1)),
            Sheet(id="large", width=90, height=64, cost=Decimal(5)),
            Sheet(id="o1", width=10, height=10, count=1, cost=Decimal(0)),
        )
        tag = Piece(id="A1", width=64, height=32, count=8)
        # Where there is little time; with time, or where a piece does not fit that size any more, all are tried.
        for piece, seconds, before, used in (
            (tag, 0.3, "large", {"large": 4}),
            (tag, ENOUGH, "large", {"small": 4}),
            (replace(tag, width=90), 0.3, "small", {"large": 4}),
        ):
            paper = PaperJob(id="p", sheets=sheets, pieces=(piece,))
            plan = fit_offcuts_first(paper, BENCH, quiet, seconds, before={before: 9}).plan
            check_paper(paper, plan, BENCH)
            self.assertEqual(used_sheets(plan), used)

    def test_what_lies_on_the_shelf_is_used_before_any_is_bought(self):
        letter = Sheet(id="sheet", width=68, height=88, cost=Decimal("0.42"))
        large = Sheet(id="large", width=96, height=96, cost=Decimal("0.40"))
        shelf = replace(letter, id="sheet+", count=3, cost=Decimal("0.042"))
        pieces = (Piece(id="A1", width=32, height=42, count=12),)
        paper = PaperJob(id="p", sheets=(letter, shelf, large), pieces=pieces)
        plan = fit_paper(paper, BENCH, quiet, 2.0)
        self.assertEqual(used_sheets(plan), {"sheet": 3})
        self.assertEqual((plan.cost, full_cost(paper, plan)), (Decimal("0.126"), Decimal("1.26")))
        # Another count on the shelf is another need: it decides which size is taken.
        self.assertNotEqual(
            need_of(paper, BENCH), need_of(replace(paper, sheets=(letter, replace(shelf, count=1), large)), BENCH)
        )


class SequenceTests(TestCase):
    def test_together_is_never_more_than_apart_and_in_turn_never_more_either(self):
        for seed in range(12):
            jobs = [(f"class {k}", without_offcuts(job(100 * seed + k)), BENCH) for k in range(2)]
            found = best_order(jobs, seconds=0.4)
            self.assertLessEqual(found.together, found.apart, seed)
            self.assertLessEqual(found.in_turn, found.apart, seed)
            self.assertGreaterEqual(found.in_turn, 0)
            self.assertEqual(sorted(found.order), ["class 0", "class 1"])

    def test_what_the_first_leaves_over_serves_the_next(self):
        sheet = Sheet(id="sheet", width=68, height=88)
        large = PaperJob(id="p", sheets=(sheet,), pieces=(Piece(id="A1", width=68, height=50, count=2),))
        small = PaperJob(id="p", sheets=(sheet,), pieces=(Piece(id="A1", width=68, height=30, count=2),))
        found = best_order([("small", small, BENCH), ("large", large, BENCH)])
        self.assertEqual((found.apart, found.together, found.in_turn, found.saved, found.first), (3, 2, 2, 1, "large"))

    def test_one_job_of_all_keeps_every_piece(self):
        jobs = [(f"c{k}", without_offcuts(job(k)), BENCH) for k in range(3)]
        whole = joined(jobs)
        self.assertEqual(len({piece.id for piece in whole.pieces}), sum(len(each.pieces) for _, each, _ in jobs))

    def test_left_over_pieces_cover_what_a_plan_does_not_use(self):
        for seed in range(10):
            paper = without_offcuts(job(seed))
            plan = fit_paper(paper, BENCH, quiet, 0.5)
            made = Counter(
                named.piece for lay in plan.layouts for named in lay.parts for _ in range(lay.copies) if named.piece
            )
            area = {piece.id: piece.width * piece.height for piece in paper.pieces}
            used = sum(count * area[name] for name, count in made.items())
            every = left_over(paper, plan, KeepRule(1, 1))
            self.assertEqual(used + sum(e.width * e.height * e.count for e in every), plan.sheets * 68 * 88, seed)
            kept = left_over(paper, plan, BENCH.keep_rule)
            self.assertTrue(all(BENCH.keep_rule.keeps(each.width, each.height) for each in kept))
