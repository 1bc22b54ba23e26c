"""The fewest minutes of small papers: an integer program, and a model of another kind that goes step by step."""

from collections import Counter
from unittest import TestCase

from ortools.sat.python import cp_model

from benchmarks.fewest_minutes import fewest_seconds
from zester.core.cutting.steps import minutes_judge
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import Bench
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.minutes.least_minutes import least_seconds
from zester.core.fitting.patterns.columns import Tables
from zester.core.fitting.patterns.problem import make_problem
from zester.core.fitting.search.naming import name_layouts
from zester.core.fitting.tests.jobs import paper

BENCH = Bench(3)
JUDGE = minutes_judge()


def fewest(job, sheets: int, known: int):
    """What the integer program says of a paper's fewest seconds below ``known``."""
    return fewest_seconds(make_problem(job), sheets, BENCH.stack, known, seconds=60)


def as_plan(job, layouts) -> PaperPlan:
    """Cut trees and copies as a checked plan."""
    wanted = {piece.id: piece.count for piece in job.pieces}
    named = name_layouts(make_problem(job), [(0, tree, copies) for tree, copies in layouts], wanted, BENCH.stack)
    cost = sum(layout.copies for layout in named) * job.sheets[0].cost
    plan = PaperPlan(id=job.id, cost=cost, bound=cost, proven=False, short=(), layouts=tuple(named))
    check_paper(job, plan, BENCH)
    return plan


class FewestTests(TestCase):
    def test_sheets_that_are_halved(self):
        # Six sheets of 8½ × 11 at 5½, three at a time: one setting, two stacks, two strokes. Nothing is less.
        job = paper("8½ x 11", ("8½ x 5½", 12))
        self.assertEqual(fewest(job, 6, 40).bound, 36)
        self.assertEqual(fewest(job, 6, 36).layouts, ())

    def test_a_plan_step_by_step_agrees(self):
        # OR-tools' CP-SAT (a general-purpose solver) puts every step in its place by itself.
        cases = [
            (paper("8 x 11", ("4 x 5½", 8, False)), 2, 3),
            (paper("8 x 11", ("3 x 5", 4, False), ("2 x 5", 2, False)), 1, 4),
            (paper("9 x 9", ("5 x 4", 2, False), ("4 x 5", 3, False)), 2, 4),
            (paper("9 x 11", ("4 x 5", 3, False), ("4 x 6", 4, False)), 2, 4),
        ]
        for job, sheets, steps in cases:
            with self.subTest(pieces=[(piece.width, piece.height, piece.count) for piece in job.pieces]):
                seconds = _Steps(job, sheets, steps).fewest()
                self.assertEqual(fewest(job, sheets, seconds).layouts, ())
                problem = make_problem(job)
                self.assertLessEqual(least_seconds(problem, Tables(problem), sheets, BENCH.stack), seconds)
                found = fewest(job, sheets, seconds + 4)
                self.assertEqual(found.bound, seconds)
                self.assertGreaterEqual(JUDGE(job, as_plan(job, found.layouts), BENCH), seconds)
                plan = fit_paper(job, BENCH, lambda _: None, 9.5, JUDGE)
                self.assertEqual((plan.sheets, JUDGE(job, plan, BENCH)), (sheets, seconds))

    def test_no_plan_takes_less(self):
        for pieces in ([("4 x 5¼", 9)], [("4¼ x 6⅛", 11), ("4¼ x 4¾", 12)]):
            job = paper("8½ x 11", *pieces)
            plan = fit_paper(job, BENCH, lambda _: None, 9.5, JUDGE)
            taken = JUDGE(job, plan, BENCH)
            with self.subTest(pieces=pieces):
                # The polished plan is the quickest there is: nothing is found below it.
                self.assertEqual(fewest(job, plan.sheets, taken).bound, taken)

    def test_a_paper_that_is_not_small_is_left_alone(self):
        job = paper("12 x 12", *[(f"{n} x {n + 1}", 9) for n in range(1, 8)])
        self.assertIsNone(fewest(job, 40, 9999))


class _Steps:
    """At most so many steps at the trimmer, each with its place in the order, as a model of constraints."""

    def __init__(self, job, sheets: int, steps: int):
        self.sheet = job.sheets[0].width, job.sheets[0].height
        self.pieces = {(piece.width, piece.height): piece.count for piece in job.pieces}
        self.cuts = _every_cut(self.sheet, self.pieces)
        self.parts = {self.sheet} | {part for cut in self.cuts for part in cut[4]}
        self.model = cp_model.CpModel()
        self.there = {part: sheets if part == self.sheet else 0 for part in self.parts}
        self.unused = dict.fromkeys(self.parts - {*self.pieces}, 0)
        self.total, self.before = [], ([0] * len(self.cuts), [0] * len(self.cuts))
        for number in range(steps):
            self.step(number)

    def fewest(self) -> int:
        """The fewest seconds."""
        for part, count in self.pieces.items():
            self.model.add(self.there[part] >= count)
        for measured in self.unused.values():
            # Nothing is measured off that is not cut on.
            self.model.add(measured <= 0)
        self.model.minimize(sum(self.total))
        solver = cp_model.CpSolver()
        solver.parameters.num_workers, solver.parameters.max_time_in_seconds = 2, 60
        assert solver.solve(self.model) == cp_model.OPTIMAL
        return round(solver.objective_value)

    def step(self, number: int) -> None:
        """One more: which cut, of how many parts, in how many stacks."""
        model, cuts, top = self.model, self.cuts, 60
        chosen = [model.new_bool_var("") for _ in cuts]
        many = [model.new_int_var(0, top, "") for _ in cuts]
        stacks = [model.new_int_var(0, top, "") for _ in cuts]
        moved = model.new_bool_var("")
        model.add(sum(chosen) <= 1)
        if number:
            model.add(sum(chosen) <= sum(self.before[0]))
        for one, amount, fetched in zip(chosen, many, stacks, strict=True):
            model.add(one <= amount)
            model.add(amount <= top * one)
            model.add(3 * fetched >= amount)
        for at in {cut[2] for cut in cuts}:
            here, last = (self.sum(row, lambda cut, at=at: cut[2] == at) for row in (chosen, self.before[0]))
            model.add(moved >= here - last)
        held = self.held(chosen, many, stacks)
        for part in self.parts:
            used = self.sum(many, lambda cut, part=part: cut[0] == part)
            model.add(used <= self.there[part])
            self.there[part] += self.sum(many, lambda cut, part=part: cut[4][part]) - used
            if part in self.unused:
                self.unused[part] += self.sum(many, lambda cut, part=part: cut[5][part]) - used
        self.total.append(12 * moved - 8 * held + self.sum(stacks, lambda cut: 8 + 4 * cut[3]))
        self.before = chosen, many

    def held(self, chosen, many, stacks):
        """Whether it takes the stack in the hand: one stack of what the step before gave, and no sheet."""
        model, held = self.model, self.model.new_bool_var("")
        model.add(held <= sum(chosen))
        model.add(sum(stacks) <= 1).only_enforce_if(held)
        for (part, *_), amount in zip(self.cuts, many, strict=True):
            given = 0 if part == self.sheet else self.sum(self.before[1], lambda cut, part=part: cut[4][part])
            model.add(amount <= given).only_enforce_if(held)
        return held

    def sum(self, row, weight):
        """The row of unknowns, one for every cut, weighed and added up."""
        return sum(int(weight(cut)) * unknown for cut, unknown in zip(self.cuts, row, strict=True))


def _every_cut(sheet, pieces) -> list[tuple]:
    """Part, axis, place, times, what that gives and what of it is measured, for every cut at a sum of lengths."""
    found, waiting, seen = [], [sheet], {sheet}
    while waiting:
        part = waiting.pop()
        for axis in (0, 1):
            length = part[axis]
            sums = {0}
            for _ in range(12):
                sums |= {a + piece[axis] for a in sums for piece in pieces if a + piece[axis] < length}
            for at, times in ((a, n) for a in sums - {0} for n in range(1, (length - 1) // a + 1)):
                off, rest = list(part), list(part)
                off[axis], rest[axis] = at, length - at * times
                gives = Counter({tuple(off): times}) + Counter([tuple(rest)])
                found.append((part, axis, at, times, gives, Counter({tuple(off): times})))
                new = {made for made in gives if any(made[0] >= p[0] and made[1] >= p[1] for p in pieces)} - seen
                seen |= new
                waiting += new
    return found
