"""Steps at the trimmer: following them by the book makes the plan."""

from collections import Counter
from decimal import Decimal
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from zester.core.cutting.steps import PIECE, PILE, Result, Step, cutting_steps, natural, stack_sizes
from zester.core.fitting.engine import fit
from zester.core.fitting.jobs.job import Bench, KeepRule
from zester.core.fitting.jobs.plan import Cut, Layout, Named, PaperPlan
from zester.core.fitting.jobs.summary import summarise
from zester.core.fitting.tests.jobs import job, random_job
from zester.core.lengths import TICKS_PER_INCH

KEEP = KeepRule(TICKS_PER_INCH, 3 * TICKS_PER_INCH)


def follow(cut_steps, sheets: int) -> Counter:
    """Do the steps with nothing but what they say: piles by name, counts by size. Returns the finished sizes."""
    piles: Counter = Counter()
    finished: Counter = Counter()
    taken = 0
    for step in cut_steps.steps:
        if step.source == "sheet":
            taken += step.count
        else:
            assert piles.pop(step.source_label) == step.count, "a pile is taken whole, after all of it was cut"
        area = sum(r.count * r.width * r.height for r in step.results)
        assert area == step.count * step.width * step.height, "nothing gets lost in a cut"
        assert sum(step.stacks) == step.count
        for result in step.results:
            if result.kind == PILE:
                piles[result.label] += result.count
            elif result.kind == PIECE:
                finished[tuple(sorted((result.width, result.height)))] += result.count
    assert not piles, "no pile is left lying"
    assert taken == sheets
    return finished


class StepTests(TestCase):
    @settings(max_examples=20)
    @given(st.integers(0, 10_000))
    def test_following_the_steps_makes_every_piece(self, seed):
        wanted = random_job(seed)
        paper, plan = wanted.papers[0], fit(wanted, seconds=2).papers[0]
        finished = follow(cutting_steps(paper, plan, Bench(3, keep=KEEP)), plan.sheets)
        made = Counter()
        for piece in paper.pieces:
            made[tuple(sorted((piece.width, piece.height)))] += summarise(paper, plan, KEEP).made[piece.id]
        self.assertEqual(finished, made)

    def test_strips_of_one_width_are_one_step_at_one_setting(self):
        wanted = job("12 x 12", ("4 x 12", 3), stack=2)
        cut_steps = cutting_steps(wanted.papers[0], fit(wanted).papers[0], Bench(2, keep=KEEP))
        (step,) = cut_steps.steps
        self.assertEqual((step.cuts, step.at, cut_steps.settings), (2, 4 * TICKS_PER_INCH, 1))

    def test_strokes_count_stacks(self):
        wanted = job("8½ x 11", ("8½ x 5½", 14), stack=3)
        cut_steps = cutting_steps(wanted.papers[0], fit(wanted).papers[0], Bench(3, keep=KEEP))
        self.assertEqual((cut_steps.strokes, cut_steps.settings), (3, 1))
        self.assertEqual(cut_steps.steps[0].stacks, (3, 2, 2))

    def test_a_quarter_turn_is_said_when_the_cut_changes_direction(self):
        wanted = job("8½ x 11", ("4¼ x 5½", 4), stack=3)
        cut_steps = cutting_steps(wanted.papers[0], fit(wanted).papers[0], Bench(3, keep=KEEP))
        self.assertEqual([step.turned for step in cut_steps.steps], [False, True])
        self.assertEqual([step.source for step in cut_steps.steps], ["sheet", "pile"])

    def test_offcuts_are_kept_from_the_keep_size_up(self):
        wanted = job("8½ x 11", ("8½ x 7½", 1), ("8½ x 3¼", 1))
        cut_steps = cutting_steps(wanted.papers[0], fit(wanted).papers[0], Bench(1, keep=KEEP))
        self.assertEqual({r.kind for step in cut_steps.steps for r in step.results}, {"piece", "waste", "pile"})
        wanted = job("8½ x 11", ("8½ x 9", 1))
        cut_steps = cutting_steps(wanted.papers[0], fit(wanted).papers[0], Bench(1, keep=KEEP))
        self.assertEqual([r.kind for r in cut_steps.steps[0].results], ["piece", "keep"])

    def test_stacks_are_even(self):
        self.assertEqual(stack_sizes(7, 3), (3, 2, 2))
        self.assertEqual(stack_sizes(3, 3), (3,))

    def test_handles_are_sorted_as_people_count(self):
        self.assertEqual(sorted(["A10", "B1", "A2"], key=natural), ["A2", "A10", "B1"])


class FixedPlanTests(TestCase):
    """Three sheets of 8½ × 11 cut by a plan given by hand; every figure of every step by hand, in stacks of two.

    +---------+---------+---+
    |  4 x 5½ |  4 x 5½ |   |   first the sheet at 5½ (both halves alike), then the halves at 4, twice;
    +---------+---------+ ½ |   a strip of ½ is left of each
    |  4 x 5½ |  4 x 5½ |   |
    +---------+---------+---+
    """

    def plan(self, cuts, parts, copies: int) -> PaperPlan:
        layout = Layout(sheet="sheet", copies=copies, cuts=cuts, parts=parts)
        return PaperPlan(id="paper", cost=Decimal(3), bound=Decimal(3), proven=True, short=(), layouts=(layout,))

    def test_every_figure_of_every_step(self):
        inch = TICKS_PER_INCH
        cuts = (
            Cut(part=0, axis="y", at=11 * inch // 2),
            Cut(part=1, axis="x", at=4 * inch),
            Cut(part=2, axis="x", at=4 * inch),
            Cut(part=4, axis="x", at=4 * inch),
            Cut(part=6, axis="x", at=4 * inch),
        )
        names = {3: "A10", 7: "A2", 5: "A2", 9: "A2"}
        parts = tuple(Named(part=part, piece=piece, turned=False) for part, piece in names.items())
        wanted = job("8½ x 11", ("4 x 5½", 12)).papers[0]
        cut_steps = cutting_steps(wanted, self.plan(cuts, parts, 3), Bench(2, keep=KEEP))
        high, wide = 11 * inch // 2, 17 * inch // 2
        sheet = {"source": "sheet", "source_label": "sheet", "width": wide, "height": 11 * inch, "axis": "y"}
        half = {"width": wide, "height": high}

        def pile(label, count, rest):
            return Result(kind="pile", label=label, count=count, rest=rest, **half)

        def quarters(count):
            return (
                Result(kind="piece", label="A2, A10", width=4 * inch, height=high, count=2 * count),
                Result(kind="waste", label="", width=inch // 2, height=high, count=count, rest=count),
            )

        # One sheet, then two: of these two halves stay in the hand, so only the other four are fetched.
        one, two = {"at": high, "cuts": 1, "turned": False, "exact": True}, {"at": 4 * inch, "cuts": 2, "turned": True}
        self.assertEqual(
            cut_steps.steps,
            (
                Step(number=1, count=1, stacks=(1,), moved=True, results=(pile("1", 2, 1),), **sheet, **one),
                Step(
                    number=2, count=2, stacks=(2,), moved=False, results=(pile("2", 2, 2), pile("1", 2, 2)),
                    **sheet, **one,
                ),
                Step(
                    number=3, source="pile", source_label="2", count=2, axis="x", stacks=(2,), moved=True, held=True,
                    results=quarters(2), **half, **two,
                ),
                Step(
                    number=4, source="pile", source_label="1", count=4, axis="x", stacks=(2, 2), moved=False,
                    results=quarters(4), **half, **two,
                ),
            ),
        )  # fmt: skip
        last = cut_steps.steps[-1]
        self.assertEqual((last.side, last.other_side, last.strokes), (wide, high, 4))
        self.assertEqual((cut_steps.strokes, cut_steps.settings, cut_steps.stacks), (8, 2, 4))
        self.assertEqual(cut_steps.seconds(), 2 * 12 + 4 * 8 + 8 * 4)

    def test_the_rail_stays_where_it_is_as_long_as_anything_is_cut_there(self):
        inch = TICKS_PER_INCH
        # 3 off the left, then the right part at 7 from the top, the left one at 3 from the top: 3, 3, then 7 or 4.
        cuts = (
            Cut(part=0, axis="x", at=3 * inch),
            Cut(part=1, axis="y", at=3 * inch),
            Cut(part=2, axis="y", at=7 * inch),
        )
        parts = tuple(Named(part=part, piece=f"P{part}", turned=False) for part in (3, 4, 5, 6))
        wanted = job("8½ x 11", ("3 x 3", 1), ("3 x 8", 1), ("5½ x 7", 1), ("5½ x 4", 1)).papers[0]
        cut_steps = cutting_steps(wanted, self.plan(cuts, parts, 1), Bench(3, keep=KEEP))
        self.assertEqual([step.at // inch for step in cut_steps.steps][:2], [3, 3])
        self.assertIn(cut_steps.steps[2].at // inch, (4, 7))
        self.assertEqual(cut_steps.places, 2)
        self.assertEqual([step.moved for step in cut_steps.steps], [True, False, True])
        self.assertEqual([step.width for step in cut_steps.steps], [17 * inch // 2, 3 * inch, 11 * inch // 2])
        self.assertEqual([step.number for step in cut_steps.steps], [1, 2, 3])
