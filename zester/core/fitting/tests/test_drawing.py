"""The geometry of the drawings, and the tidying of layouts."""

from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from zester.core.fitting.engine import fit
from zester.core.fitting.jobs.drawing import LaidPart, fit_label, lay_parts
from zester.core.fitting.jobs.job import KeepRule
from zester.core.fitting.jobs.summary import summarise
from zester.core.fitting.patterns.columns import count_sizes
from zester.core.fitting.patterns.knapsack import Part
from zester.core.fitting.patterns.strokes import count_strokes
from zester.core.fitting.patterns.tidy import tidy
from zester.core.fitting.tests.jobs import random_job
from zester.core.papers import luminance, repeat_ink
from zester.core.tests.share import each_of


class DrawingTests(TestCase):
    @settings(max_examples=20)
    @given(st.integers(0, 10_000))
    def test_the_parts_cover_every_sheet_without_overlap(self, seed):
        paper = (wanted := random_job(seed)).papers[0]
        plan = fit(wanted, seconds=2).papers[0]
        sheet = paper.sheets[0]
        for layout in each_of(plan.layouts):
            placed = lay_parts(layout, sheet.width, sheet.height)
            self.assertEqual(sum(p.area for p in placed), sheet.width * sheet.height)
            for index, a in enumerate(placed):
                for b in placed[index + 1 :]:
                    beside = a.x + a.width <= b.x or b.x + b.width <= a.x
                    self.assertTrue(beside or a.y + a.height <= b.y or b.y + b.height <= a.y)
        summary = summarise(paper, plan, KeepRule(8128, 3 * 8128))
        self.assertEqual(summary.used + summary.kept + summary.waste, 1)

    def test_labels_stay_inside_their_part(self):
        for width, height in [(30_000, 40_000), (4_000, 40_000), (60_000, 3_500), (5_000, 6_000), (900, 900)]:
            label = fit_label(LaidPart(part=0, x=0, y=0, width=width, height=height), "A12", "2⅛ × 2¾", 89_408)
            if label is None:
                self.assertLess(min(width, height), 4_000)
                continue
            plate = label.plate[::-1] if label.upwards else label.plate
            self.assertLessEqual(plate[0], width)
            self.assertLessEqual(plate[1], height)

    def test_a_wide_part_tells_its_size_and_a_tiny_one_nothing(self):
        self.assertEqual(
            fit_label(LaidPart(part=0, x=0, y=0, width=40_000, height=40_000), "A1", "4 × 5", 89_408).lines,
            ("A1", "4 × 5"),
        )
        self.assertIsNone(fit_label(LaidPart(part=0, x=0, y=0, width=500, height=500), "A1", "4 × 5", 89_408))

    def test_the_repeat_can_be_seen_on_light_and_dark_paper(self):
        for colour in ("#24304f", "#f3eee2", "#000000", "#ffffff", "#b98f45"):
            first, second = sorted([luminance(colour), luminance(repeat_ink(colour))])
            self.assertGreater((second + 0.05) / (first + 0.05), 1.4)


def leaf(width: int, height: int, size: int | None = 0) -> Part:
    return Part(width=width, height=height, size=size)


class TidyTests(TestCase):
    def row(self) -> Part:
        """| 2 | waste | 5 | 2 | of a strip 10 wide and 6 high."""
        rest = Part(
            width=8,
            height=6,
            axis="x",
            at=1,
            first=leaf(1, 6, None),
            second=Part(width=7, height=6, axis="x", at=5, first=leaf(5, 6, 1), second=leaf(2, 6)),
        )
        return Part(width=10, height=6, axis="x", at=2, first=leaf(2, 6), second=rest)

    def test_alike_strips_stand_together_and_waste_comes_last(self):
        part, widths = tidy(self.row(), halve=False), []
        while part.axis:
            widths.append(part.at)
            part = part.second
        self.assertEqual(widths, [5, 2, 2])
        self.assertTrue(part.left_over)

    def test_nothing_is_lost(self):
        for halve in (False, True):
            self.assertEqual(count_sizes(tidy(self.row(), halve), 2), (2, 1))

    def test_four_alike_strips_take_fewer_strokes_when_halved(self):
        strips = leaf(2, 6)
        for width in (4, 6, 8):
            strips = Part(width=width, height=6, axis="x", at=2, first=leaf(2, 6), second=strips)
        self.assertEqual(count_strokes([(tidy(strips, halve=False), 1)], 3), 3)
        self.assertEqual(count_strokes([(tidy(strips, halve=True), 1)], 3), 2)
