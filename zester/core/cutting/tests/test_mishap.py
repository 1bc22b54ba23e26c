"""After something was spoiled: what is made in the end is what is wanted, and no sheet is opened that need not be."""

import itertools
import random
from collections import Counter
from dataclasses import replace
from decimal import Decimal
from functools import cache, partial
from pathlib import Path
from unittest import TestCase, mock

from ortools.sat.python import cp_model

from zester.core.cutting.mishap import Spoiled, Stand, begun, go_on, lay_aside, rest_job
from zester.core.cutting.steps import KEEP, PIECE, PILE, SHEET, WASTE, cutting_steps
from zester.core.cutting.table import Lying, Table
from zester.core.errors import JobError
from zester.core.fitting.engine import fit
from zester.core.fitting.jobs.job import Bench, Job, Margins, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.job_file import read_job
from zester.core.fitting.tests.jobs import job, random_job
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.tests.share import some

STARGAZER = Path(__file__).parents[4] / "benchmarks" / "stargazer.json"
# Seconds for a fit: what is followed need not be the best plan.
SOON = 0.12


class Helper:
    """Somebody who does what the steps say and nothing else; knows neither the plan nor how it was made."""

    def __init__(self, table: Table):
        self.piles: dict[str, list[tuple[int, int]]] = {}
        # Sheets that are pieces as they come need no step.
        self.pieces = [(each.label, (each.width, each.height)) for each in table.lying for _ in range(each.count)]
        self.left: list[tuple[int, int]] = []
        self.opened = 0

    def do(self, step) -> None:
        size = (step.width, step.height)
        if step.source == SHEET:
            self.opened += step.count
            parts = [size] * step.count
        elif step.source_label.startswith("L"):
            parts = [size] * step.count
            for part in parts:
                self.left.remove(part)
        else:
            pile = self.piles[step.source_label]
            parts = [pile.pop() for _ in range(step.count)]
            assert set(parts) == {size}, "the pile holds what the step says"
        came: Counter = Counter()
        for part in parts:
            wide, high = part
            for _ in range(step.cuts):
                came[(step.at, high) if step.axis == "x" else (wide, step.at)] += 1
                wide, high = (wide - step.at, high) if step.axis == "x" else (wide, high - step.at)
                assert min(wide, high) > 0
            came[wide, high] += 1
        for result in step.results:
            parts = [(result.width, result.height)] * result.count
            came.subtract(parts)
            if result.kind == PILE:
                self.piles.setdefault(result.label, []).extend(parts)
            elif result.kind == PIECE:
                self.pieces += [(result.label, part) for part in parts]
            else:
                self.left += parts
        assert not any(came.values()), "what comes off is what the step says"


class AfterwardsTests(TestCase):
    def follow(self, wanted, at: int, seed: int) -> None:
        """A paper's steps followed to the letter; something is spoiled on the way, at times twice."""
        dice = random.Random(seed)
        paper, plan = wanted.papers[at], fit(wanted, seconds=SOON).papers[at]
        steps = cutting_steps(paper, plan, wanted.bench, thorough=False).steps
        if not steps:
            return
        whole = Helper(begun(paper, plan))
        for step in steps:
            whole.do(step)
        self.check(paper, whole)
        helper, done = Helper(begun(paper, plan)), dice.randint(1, len(steps))
        for step in steps[:done]:
            helper.do(step)
        stand = Stand(job=paper, plan=plan, steps=steps, done=done, before=begun(paper, plan))
        # The table that is reckoned with is the one that lies there.
        self.assertEqual(sum(each.count for each in stand.table.of(PIECE)), len(helper.pieces))
        self.assertEqual(sum(each.count for each in stand.table.of(KEEP, WASTE)), len(helper.left))
        stand = self.spoil(stand, helper, wanted.bench, dice)
        done = dice.randint(0, len(stand.steps))
        for step in stand.steps[:done]:
            helper.do(step)
        if seed % 4 == 0 and done:
            stand, done = self.spoil(replace(stand, done=done), helper, wanted.bench, dice), 0
        for step in stand.steps[done:]:
            helper.do(step)
        self.check(paper, helper)

    def spoil(self, stand: Stand, helper: Helper, bench: Bench, dice: random.Random) -> Stand:
        """Something is spoiled; where one stands then."""
        what = dice.choice(stand.table.of(PIECE, PILE) or stand.table.of(KEEP, WASTE))
        spoiled = Spoiled(what.kind, what.label, dice.randint(1, what.count), (what.width, what.height))
        self.take_away(helper, spoiled)
        mended = go_on(stand, [spoiled], bench, seconds=SOON)
        self.assertEqual(mended.short, ())
        for label, piece, count in mended.taken:
            self.name_as_they_are(helper, stand.job, label, piece, count)
        opens = sum(step.count for step in mended.steps if step.source == SHEET) + self.whole_sheets(mended)
        self.assertEqual(opens, mended.sheets)
        return Stand(job=stand.job, plan=stand.plan, steps=mended.steps, done=0, before=mended.table)

    def check(self, paper: PaperJob, helper: Helper) -> None:
        """Every pile is rightly named, and there are enough of every piece."""
        wanted = {piece.id: piece for piece in paper.pieces}
        missing = Counter({piece.id: piece.count for piece in paper.pieces})
        for label, size in sorted(helper.pieces, key=lambda each: each[0].count(",")):
            names = label.split(", ")
            for name in names:
                self.assertEqual(sorted((wanted[name].width, wanted[name].height)), sorted(size), label)
            takes = next((name for name in names if missing[name] > 0), None)
            if takes:
                missing[takes] -= 1
        self.assertEqual(+missing, Counter())
        self.assertFalse(any(helper.piles.values()) and not helper.pieces)

    def take_away(self, helper: Helper, spoiled: Spoiled) -> None:
        for _ in range(spoiled.count):
            if spoiled.kind == PILE:
                helper.piles[spoiled.label].pop()
            elif spoiled.kind == PIECE:
                helper.pieces.remove((spoiled.label, spoiled.size))
            else:
                helper.left.remove(spoiled.size)

    def name_as_they_are(self, helper: Helper, paper, label: str, piece: str, count: int) -> None:
        for _ in range(count):
            if label.startswith("L"):
                (size,) = {(p.width, p.height) for p in paper.pieces if p.id == piece}
                found = next(part for part in helper.left if sorted(part) == sorted(size))
                helper.left.remove(found)
            elif label in helper.piles:
                found = helper.piles[label].pop()
            else:
                found = (paper.sheets[0].width, paper.sheets[0].height)
            helper.pieces.append((piece, found))

    def whole_sheets(self, mended) -> int:
        return sum(count for label, _, count in mended.taken if label == "sheet")

    def setUp(self):
        # What is looked at here holds for any order of steps; the best one is not searched for.
        quick = partial(cutting_steps, thorough=False)
        self.enterContext(mock.patch("zester.core.cutting.mishap.cutting_steps", quick))

    def test_jobs_with_something_spoiled_at_random(self):
        for seed in range(some(200)):
            with self.subTest(seed=seed):
                self.follow(random_job(seed), 0, seed)

    def test_the_demo_with_something_spoiled_at_random(self):
        demo = read_job(STARGAZER.read_bytes())
        for at, paper in enumerate(demo.papers):
            with self.subTest(paper=paper.id):
                self.follow(Job(demo.unit, (paper,), demo.bench), 0, at)

    def test_new_steps_go_on_where_somebody_stands(self):
        wanted = job("8½ x 11", ("4 x 5¼", 8), ("2 x 3", 6))
        paper, plan = wanted.papers[0], fit(wanted).papers[0]
        steps = cutting_steps(paper, plan, wanted.bench).steps
        pile = Table().after(steps[:1]).of(PILE)[0]
        mended = go_on(Stand(job=paper, plan=plan, steps=steps, done=1), [Spoiled(PILE, pile.label, 1)], wanted.bench)
        self.assertEqual([step.number for step in mended.steps], list(range(2, len(mended.steps) + 2)))
        old = {r.label for step in steps for r in step.results if r.kind == PILE}
        new = {r.label for step in mended.steps for r in step.results if r.kind == PILE}
        self.assertFalse(old & new, "no new pile is called like an old one")

    def test_sheets_that_are_pieces_as_they_come_lie_there_from_the_beginning(self):
        wanted = job("8½ x 11", ("8½ x 11", 3), ("4 x 5", 2))
        paper, plan = wanted.papers[0], fit(wanted).papers[0]
        steps = cutting_steps(paper, plan, wanted.bench).steps
        before = begun(paper, plan)
        self.assertEqual([(each.label, each.count) for each in before.of(PIECE)], [("P1", 3)])
        stand = Stand(job=paper, plan=plan, steps=steps, done=0, before=before)
        mended = go_on(stand, [Spoiled(PIECE, "P1", 1)], wanted.bench)
        self.assertEqual((mended.taken, mended.more), ((("sheet", "P1", 1),), 1))

    def test_what_is_not_there_cannot_be_spoiled(self):
        wanted = job("8½ x 11", ("4 x 5¼", 8))
        paper, plan = wanted.papers[0], fit(wanted).papers[0]
        steps = cutting_steps(paper, plan, wanted.bench).steps
        for spoiled in (
            Spoiled(PIECE, "P1", 9),
            Spoiled(PILE, "77", 1),
            Spoiled(PIECE, "P1", 0),
            Spoiled(SHEET, "sheet", -1),
        ):
            with self.assertRaises(JobError):
                go_on(Stand(job=paper, plan=plan, steps=steps, done=len(steps)), [spoiled], wanted.bench)

    def test_everything_there_needs_nothing_more(self):
        wanted = job("8½ x 11", ("4 x 5¼", 3))
        paper, plan = wanted.papers[0], fit(wanted).papers[0]
        steps = cutting_steps(paper, plan, wanted.bench).steps
        left = Table().after(steps).of(KEEP, WASTE)[0]
        mended = go_on(
            Stand(job=paper, plan=plan, steps=steps, done=len(steps)), [Spoiled(left.kind, left.label, 1)], wanted.bench
        )
        self.assertEqual((mended.steps, mended.sheets), ((), 0))

    def test_a_torn_sheet_of_few_leaves_something_short(self):
        sheet = Sheet(id="sheet", width=8 * INCH, height=8 * INCH, count=2)
        paper = PaperJob(id="p", sheets=(sheet,), pieces=(Piece(id="A1", width=8 * INCH, height=4 * INCH, count=4),))
        plan = fit(type(job("8 x 8", ("1 x 1", 1)))("in", (paper,), Bench(1))).papers[0]
        steps = cutting_steps(paper, plan, Bench(1)).steps
        mended = go_on(Stand(job=paper, plan=plan, steps=steps, done=0), [Spoiled(SHEET, "sheet", 1)], Bench(1))
        self.assertEqual(mended.short, (("A1", 2),))

    def test_the_last_sheet_is_open_and_what_lies_there_is_enough(self):
        sheet = Sheet(id="sheet", width=8 * INCH, height=8 * INCH, count=1)
        paper = PaperJob(id="p", sheets=(sheet,), pieces=(Piece(id="A1", width=5 * INCH, height=3 * INCH, count=1),))
        plan = fit(Job("in", (paper,), Bench(1))).papers[0]
        steps = cutting_steps(paper, plan, Bench(1)).steps
        mended = go_on(Stand(job=paper, plan=plan, steps=steps, done=len(steps)), [Spoiled(PIECE, "A1", 1)], Bench(1))
        self.assertEqual((mended.sheets, mended.short), (0, ()))
        made = sum(r.count for step in mended.steps for r in step.results if r.kind == PIECE)
        self.assertEqual(made + sum(count for _, piece, count in mended.taken if piece == "A1"), 1)

    def test_the_first_pile_there_is_is_called_1(self):
        sheets = (
            Sheet(id="small", width=8 * INCH, height=8 * INCH, count=1, cost=Decimal(1)),
            Sheet(id="large", width=9 * INCH, height=9 * INCH, cost=Decimal(5)),
        )
        paper = PaperJob(id="p", sheets=sheets, pieces=(Piece(id="A1", width=8 * INCH, height=4 * INCH, count=2),))
        plan = fit(Job("in", (paper,), Bench(1))).papers[0]
        steps = cutting_steps(paper, plan, Bench(1)).steps
        self.assertEqual([r.kind for step in steps for r in step.results], [PIECE], "no pile yet")
        mended = go_on(Stand(job=paper, plan=plan, steps=steps, done=1), [Spoiled(PIECE, "A1", 1)], Bench(1))
        self.assertEqual({r.label for step in mended.steps for r in step.results if r.kind == PILE}, {"1"})

    def test_a_margin_that_is_not_cut_off_yet_is_no_paper(self):
        sheet = Sheet(id="sheet", width=8 * INCH, height=8 * INCH, margins=Margins(left=INCH, top=INCH))
        paper = PaperJob(id="p", sheets=(sheet,), pieces=(Piece(id="A1", width=7 * INCH, height=7 * INCH, count=2),))
        plan = fit(type(job("8 x 8", ("1 x 1", 1)))("in", (paper,), Bench(2))).papers[0]
        steps = cutting_steps(paper, plan, Bench(2)).steps
        self.assertEqual(len(steps), 2)
        (pile,) = Table().after(steps[:1]).of(PILE)
        gone = (pile.unusable.left, pile.unusable.top)
        self.assertIn(gone, {(0, INCH), (INCH, 0)})
        mended = go_on(Stand(job=paper, plan=plan, steps=steps, done=1), [Spoiled(PILE, pile.label, 1)], Bench(2))
        self.assertEqual(mended.more, 1)

    def test_what_is_nothing_but_margin_is_no_paper(self):
        """A strip of 4 in whose right half and whose left half lie in margins gives nothing, however high it is."""
        sheet = Sheet(id="sheet", width=8 * INCH, height=8 * INCH)
        paper = PaperJob(id="p", sheets=(sheet,), pieces=(Piece(id="A1", width=INCH, height=INCH, count=1),))
        plan = fit(Job("in", (paper,), Bench(1)), seconds=SOON).papers[0]
        strip = Lying(kind=KEEP, label="L1", width=4 * INCH, height=8 * INCH, count=1)
        for margins, there in (
            (Margins(left=2 * INCH, right=2 * INCH), False),
            (Margins(top=4 * INCH, bottom=4 * INCH), False),
            (Margins(left=2 * INCH, right=INCH, top=4 * INCH, bottom=3 * INCH), True),
        ):
            with self.subTest(margins):
                table = Table((replace(strip, unusable=margins),))
                rest = rest_job(paper, plan, table)
                self.assertEqual([each.margins for each in rest.sheets if each.id != "sheet"], [margins] * there)

    def test_sheets_that_are_pieces_count_with_those_opened_before(self):
        sheet = Sheet(id="sheet", width=8 * INCH, height=8 * INCH)
        table = Table(opened={"sheet": 2, "other": 1}).opening(sheet, 3, "A1")
        self.assertEqual(table.opened, {"sheet": 5, "other": 1})
        self.assertEqual([(each.label, each.count) for each in table.of(PIECE)], [("A1", 3)])


class ExactTests(TestCase):
    """Small cases: CP-SAT over all ways of cutting every part says how few new sheets are needed."""

    @staticmethod
    def ways(width: int, height: int, pieces: tuple[tuple[int, int], ...], most: int = 4) -> set[tuple[int, ...]]:
        """All counts of pieces that edge-to-edge cuts can make of a part, the undominated ones."""

        @cache
        def of(wide: int, high: int) -> frozenset[tuple[int, ...]]:
            found = {tuple([0] * len(pieces))}
            for k, (w, h) in enumerate(pieces):
                for a, b in {(w, h), (h, w)}:
                    if (a, b) == (wide, high):
                        found.add(tuple(int(k == j) for j in range(len(pieces))))
            sides = {a for piece in pieces for a in piece}
            for at in _sums(sides, wide):
                found |= _both(of(at, high), of(wide - at, high), most)
            for at in _sums(sides, high):
                found |= _both(of(wide, at), of(wide, high - at), most)
            return frozenset(found)

        return set(of(width, height))

    def test_no_new_sheet_where_none_is_needed(self):
        checked = spared = 0
        for seed in range(20):
            dice = random.Random(seed)
            sizes = dice.sample([(2, 3), (4, 5), (1, 4), (3, 3), (2, 6)], 2)
            pieces = tuple(
                Piece(id=f"P{k}", width=w * INCH, height=h * INCH, count=dice.randint(2, 5))
                for k, (w, h) in enumerate(sizes)
            )
            sheet = Sheet(id="sheet", width=8 * INCH, height=10 * INCH)
            paper = PaperJob(id="p", sheets=(sheet,), pieces=pieces)
            plan = fit(type(job("8 x 8", ("1 x 1", 1)))("in", (paper,), Bench(2)), seconds=0.5).papers[0]
            steps = cutting_steps(paper, plan, Bench(2), thorough=False).steps
            done = dice.randint(1, len(steps))
            table = Table().after(steps[:done])
            what = dice.choice(table.of(PIECE, PILE))
            spoiled = [Spoiled(what.kind, what.label, 1, (what.width, what.height))]
            rest = rest_job(paper, plan, lay_aside(table, spoiled))
            if rest is None:
                continue
            mended = go_on(Stand(job=paper, plan=plan, steps=steps, done=done), spoiled, Bench(2), seconds=1)
            least = self.least(rest)
            checked += 1
            spared += least == 0
            with self.subTest(seed=seed):
                self.assertEqual(mended.sheets, least)
        self.assertGreater(checked, 12)
        self.assertGreater(spared, 2)

    def least(self, rest: PaperJob) -> int:
        """The fewest new sheets, by CP-SAT."""
        model, new = cp_model.CpModel(), []
        kinds = tuple((piece.width // INCH, piece.height // INCH) for piece in rest.pieces)
        made = [[] for _ in kinds]
        for sheet in rest.sheets:
            most = 12 if sheet.count is None else sheet.count
            uses = []
            for way in self.ways(sheet.width // INCH, sheet.height // INCH, kinds, max(p.count for p in rest.pieces)):
                use = model.new_int_var(0, most, "")
                uses.append(use)
                for k, n in enumerate(way):
                    made[k].append(n * use)
                if sheet.count is None and any(way):
                    new.append(use)
            model.add(sum(uses) <= most)
        for k, piece in enumerate(rest.pieces):
            model.add(sum(made[k]) >= piece.count)
        model.minimize(sum(new))
        solver = cp_model.CpSolver()
        assert solver.solve(model) == cp_model.OPTIMAL
        return int(solver.objective_value)


def _sums(sides: set[int], most: int) -> set[int]:
    """All places within a side at which sums of pieces' sides end."""
    found = {0}
    for _ in range(most):
        found |= {a + b for a, b in itertools.product(found, sides) if a + b < most}
    return found - {0}


def _both(some: frozenset, others: frozenset, most: int) -> set[tuple[int, ...]]:
    found = {tuple(min(most, a + b) for a, b in zip(one, other, strict=True)) for one in some for other in others}
    return {
        one for one in found if not any(one != b and all(x <= y for x, y in zip(one, b, strict=True)) for b in found)
    }
