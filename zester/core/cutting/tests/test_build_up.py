"""What pieces can be off by: never more than is said, and as much as is said; found by cutting at random."""

import random
from collections import defaultdict
from unittest import TestCase

from zester.core.cutting.build_up import Spread, errors_of
from zester.core.cutting.steps import KEEP, PIECE, PILE, SHEET, Result, Step, cutting_steps
from zester.core.fitting.engine import fit
from zester.core.fitting.tests.jobs import job, random_job
from zester.core.lengths import TICKS_PER_INCH as INCH

ERROR = INCH // 32


def cut_at_random(steps, dice: random.Random) -> dict[tuple, list[tuple[int, int]]]:
    """The pieces that come out when every setting of the rail is off by chance; by label and size as wanted."""
    piles: dict[str, list[tuple[int, int]]] = defaultdict(list)
    pieces: dict[tuple, list[tuple[int, int]]] = defaultdict(list)
    off = 0
    for step in steps:
        off = dice.choice((-ERROR, ERROR, dice.randint(-ERROR, ERROR))) if step.moved else off
        if step.source == PILE:
            parts = [piles[step.source_label].pop(0) for _ in range(step.count)]
        else:
            parts = [(step.width, step.height)] * step.count
        strips, rests = [], []
        for part in parts:
            along, across = part if step.axis == "x" else part[::-1]
            for _ in range(step.cuts):
                strips.append(min(along, step.at + off))
                along -= strips[-1]
                strips[-1] = strips[-1], across
            rests.append((along, across))
        # What was all measured first; of the others nobody knows which is which.
        for result in sorted(step.results, key=lambda each: each.rest > 0):
            pools = [strips] * ((result.width if step.axis == "x" else result.height) == step.at)
            pools += [rests] * (result.rest > 0)
            take = []
            for _ in range(result.count):
                pool = dice.choice([each for each in pools if each])
                take.append(pool.pop(dice.randrange(len(pool))))
            sized = [each if step.axis == "x" else each[::-1] for each in take]
            if result.kind == PILE:
                piles[result.label] += sized
            elif result.kind == PIECE:
                pieces[result.label, result.width, result.height] += sized
    return pieces


class BuildUpTests(TestCase):
    def errors(self, wanted, seconds=1):
        steps = cutting_steps(wanted.papers[0], fit(wanted, seconds=seconds).papers[0], wanted.bench).steps
        return steps, {(each.label, *each.size): each for each in errors_of(steps, ERROR)}

    def test_measured_from_the_edge_or_what_remained(self):
        # Worked by hand: 8½ = 4 + 4 + ½ leaves waste; both strips are measured, whatever came before.
        _, found = self.errors(job("8½ x 11", ("4 x 11", 2)))
        (strips,) = found.values()
        self.assertEqual((strips.off, strips.remained), (ERROR, False))
        # 12 = 3 × 4 with nothing to spare: the last strip is off by what both cuts before were off by.
        _, found = self.errors(job("12 x 12", ("4 x 12", 3), stack=1))
        (strips,) = found.values()
        self.assertEqual((strips.off, strips.remained), (2 * ERROR, True))
        self.assertEqual(strips.width, Spread(4 * INCH - 2 * ERROR, 4 * INCH + 2 * ERROR))
        self.assertEqual(strips.height.off(12 * INCH), 0)

    def test_a_rail_off_by_more_than_the_strip_is_wide_may_leave_nothing(self):
        steps, _ = self.errors(job("8½ x 11", ("1/64 x 11", 1)))
        self.assertEqual([(each.label, each.width.least) for each in errors_of(steps, ERROR)], [("P1", 0)])

    def test_after_a_mishap_parts_are_as_far_off_as_they_were(self):
        """12 is cut at 4; then, in new steps, the 8 that remained, and later what was left over of the same size."""
        about = {
            "count": 1,
            "height": 12 * INCH,
            "axis": "x",
            "at": 4 * INCH,
            "cuts": 1,
            "stacks": (1,),
            "turned": False,
        }
        strip = {"width": 4 * INCH, "height": 12 * INCH, "count": 1}
        first = Result(kind=PIECE, label="P1", **strip)
        for kind, label, taken in ((PILE, "1", "1"), (KEEP, "", "L1")):
            with self.subTest(kind=kind):
                eight = Result(kind=kind, label=label, width=8 * INCH, height=12 * INCH, count=1, rest=1)
                old = Step(
                    number=1,
                    source=SHEET,
                    source_label="s",
                    width=12 * INCH,
                    moved=True,
                    results=(first, eight),
                    **about,
                )
                both = (first, Result(kind=PIECE, label="P2", rest=1, **strip))
                new = Step(number=2, source=PILE, source_label=taken, width=8 * INCH, moved=True, results=both, **about)
                off = {each.label: each.off for each in errors_of((old, new), ERROR)}
                self.assertEqual(off, {"P1": ERROR, "P2": 2 * ERROR})

    def test_many_random_cuts_stay_within_what_is_said_and_come_near_it(self):
        dice = random.Random(7)
        for seed in range(10):
            with self.subTest(seed=seed):
                steps, found = self.errors(random_job(seed), 0.3)
                worst: dict[tuple, int] = defaultdict(int)
                for _ in range(60):
                    for name, sizes in cut_at_random(steps, dice).items():
                        for width, height in sizes:
                            wide, high = found[name].width, found[name].height
                            self.assertTrue(wide.least <= width <= wide.most, (name, width, wide))
                            self.assertTrue(high.least <= height <= high.most, (name, height, high))
                            worst[name] = max(worst[name], abs(name[1] - width), abs(name[2] - height))
                for name, each in found.items():
                    self.assertGreaterEqual(worst[name], min(each.off, ERROR), name)
