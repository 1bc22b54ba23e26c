"""A layout in fewer cuts: the trade's portion, and whatever the fitting lays out, replayed."""

from __future__ import annotations

import random
from unittest import TestCase

from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.check_plan import replay
from zester.core.fitting.jobs.fewest_cuts import fewest_cuts
from zester.core.fitting.jobs.job import ANY_BENCH, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.plan import Cut, Layout, Named
from zester.core.lengths import TICKS_PER_INCH as INCH


class FewestCutsTests(TestCase):
    def test_a_portion_of_narrow_strips_is_trimmed_once_and_then_cut_five_times(self):
        # Common practice, no source: a 4 × 6 portion gives two 1 × 5½ and four ½ × 5½.
        cuts, parts, left = [], [], 0
        for number, at in enumerate((1, 1, 0.5, 0.5, 0.5)):
            cuts.append(Cut(left, "x", int(at * INCH)))
            parts.append((2 * number + 1, "C1" if at == 1 else "C2"))
            left = 2 * number + 2
        parts.append((left, "C2"))
        named, number = [], 11
        for part, piece in parts:
            cuts.append(Cut(part, "y", 11 * INCH // 2))
            named.append(Named(part=number, piece=piece, turned=False))
            number += 2
        long = Layout(sheet="s", copies=1, cuts=tuple(cuts), parts=tuple(named))
        self.assertEqual(len(long.cuts), 11)
        short = fewest_cuts(long, 4 * INCH, 6 * INCH)
        self.assertEqual((short.cuts[0].axis, short.cuts[0].at / INCH), ("y", 5.5))
        self.assertEqual(len(short.cuts), 6)
        self.assertEqual(*(_pieces(each, 4 * INCH, 6 * INCH) for each in (long, short)))

    def test_every_part_stays_where_it_was_and_no_cut_is_added(self):
        chance, fewer = random.Random(5), 0
        for _ in range(40):
            pieces = tuple(
                Piece(
                    id=f"p{k}", width=chance.randint(1, 5) * INCH // 2, height=chance.randint(1, 5) * INCH // 2, count=3
                )
                for k in range(chance.randint(1, 4))
            )
            sheet = Sheet(id="s", width=6 * INCH, height=6 * INCH)
            plan = fit_paper(PaperJob(id="x", sheets=(sheet,), pieces=pieces), ANY_BENCH, lambda _: None, 0.3)
            for layout in plan.layouts:
                again = fewest_cuts(layout, sheet.width, sheet.height)
                self.assertEqual(*(_pieces(each, sheet.width, sheet.height) for each in (layout, again)))
                self.assertLessEqual(len(again.cuts), len(layout.cuts))
                fewer += len(again.cuts) < len(layout.cuts)
        self.assertGreater(fewer, 0)


def _pieces(layout: Layout, width: int, height: int) -> list:
    boxes = replay(layout, width, height)
    return sorted((part.piece, boxes[part.part], part.edge) for part in layout.parts)
