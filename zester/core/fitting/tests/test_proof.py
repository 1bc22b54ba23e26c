"""Proofs, their check, and what they are checked against: brute force, CP-SAT, plans that are as good as can be."""

import random
from dataclasses import replace
from decimal import Decimal
from functools import cache
from unittest import TestCase

from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.job import Bench, Margins, PaperJob, Piece, Row, Sheet
from zester.core.fitting.jobs.plan import Layout, Named, PaperPlan
from zester.core.fitting.parts import CutLimits
from zester.core.fitting.proofs.proof import (
    MILLIONTHS,
    PRICES,
    SEARCH,
    Proof,
    ProofError,
    _Choices,
    _kinds,
    _Line,
    _supplies,
    check_proof,
    most_held,
    read_proofs,
    write_proofs,
)
from zester.core.fitting.proofs.prove import prove
from zester.core.fitting.tests.jobs import random_job
from zester.core.fitting.tests.test_published import tiny_job
from zester.core.geometry import Window
from zester.core.tests.share import some

SHEET = Sheet(id="sheet", width=10, height=10)
ONE = Bench(1)


def paper(*pieces: tuple[int, int, int], sheets=(SHEET,), **more) -> PaperJob:
    """Pieces as (width, height, count)."""
    made = tuple(Piece(id=f"P{k}", width=w, height=h, count=n) for k, (w, h, n) in enumerate(pieces))
    return PaperJob(id="paper", sheets=tuple(sheets), pieces=made, **more)


def fitted(job: PaperJob, bench: Bench = ONE):
    return fit_paper(job, bench, lambda _: None, 5.0)


class MostHeldTests(TestCase):
    def test_it_is_what_trying_every_cut_finds(self):
        for seed in range(some(80)):
            dice = random.Random(seed)
            ways = [(dice.randint(2, 9), dice.randint(2, 9), dice.randint(1, 60)) for _ in range(dice.randint(1, 5))]
            sheets = [(dice.randint(4, 17), dice.randint(4, 17)) for _ in range(3)]
            with self.subTest(seed=seed):
                self.assertEqual(most_held(sheets, ways), [_every_cut(ways, *sheet) for sheet in sheets])

    def test_fine_sizes_leave_a_small_table(self):
        # In tenths of a millimetre on A4; the value is that of the pieces of 700 × 990, nine of them.
        self.assertEqual(most_held([(2100, 2970)], [(700, 990, 10), (699, 987, 9), (1403, 1979, 35)]), [90])

    def test_what_would_take_too_long_is_refused(self):
        ways = [(side, side + 1, side) for side in range(3, 40)]
        with self.assertRaises(ProofError):
            most_held([(9000, 900)], ways)
        # So many sums along each side that the table would be too large, though neither alone has too many.
        with self.assertRaises(ProofError):
            most_held([(1200, 1200)], [(1, 1200, 3), (1200, 1, 5)])
        self.assertEqual(most_held([(900, 900)], [(1, 900, 3), (900, 1, 5)]), [900 * 5])
        with self.assertRaises(ProofError):
            most_held([(10, 10)], [(1, 1, 2**58)])
        # A hundred of them on a sheet are counted rightly up to the largest number that is sure to be held.
        self.assertEqual(most_held([(10, 10)], [(1, 1, 2**53)]), [100 * 2**53])
        with self.assertRaises(ProofError):
            most_held([(100, 100)], [(1, 1, 2**47)])


def _every_cut(ways, width: int, height: int) -> int:
    """The most a part can hold, every whole cut tried."""

    @cache
    def best(wide: int, high: int) -> int:
        found = max((price for w, h, price in ways if w <= wide and h <= high), default=0)
        for at in range(1, wide // 2 + 1):
            found = max(found, best(at, high) + best(wide - at, high))
        for at in range(1, high // 2 + 1):
            found = max(found, best(wide, at) + best(wide, high - at))
        return found

    return best(width, height)


class ProofTests(TestCase):
    def test_plans_that_cp_sat_finds_too_are_proven_and_never_fewer(self):
        """The tiny jobs are those whose fewest sheets CP-SAT knows (``test_published.py``)."""
        checked = 0
        for seed in range(some(60)):
            job = tiny_job(seed)
            plan = fitted(job)
            proof = prove(job, plan, 5.0)
            if proof.rests_on == PRICES:
                checked += 1
                check_proof(job, plan, proof)
                # By the same prices nothing more is proven.
                dearer = replace(plan, cost=plan.cost + 1), replace(proof, cost=plan.cost + 1)
                with self.subTest(seed=seed), self.assertRaises(ProofError):
                    check_proof(job, *dearer)
        self.assertGreater(checked, some(60) * 0.8)

    def test_classes_are_proven_by_prices_that_fit_on_a_page(self):
        for seed in range(some(16)):
            job = random_job(seed).papers[0]
            plan = fitted(job, Bench(3))
            proof = prove(job, plan, 5.0)
            with self.subTest(seed=seed):
                self.assertEqual(proof.rests_on, PRICES)
                self.assertLess(len(write_proofs([proof])), 1500)
                self.assertEqual(read_proofs(write_proofs([proof])), (_without_zeros(proof),))

    def test_a_proof_that_is_touched_proves_nothing(self):
        # Four of 4 × 5 on a sheet and room for a strip: nine need three sheets.
        job = paper((5, 4, 9))
        plan = fitted(job)
        proof = prove(job, plan, 5.0)
        self.assertEqual((plan.cost, proof.rests_on), (3, PRICES))
        check_proof(job, plan, proof)
        for wrong in (
            replace(proof, prices=()),
            replace(proof, prices=({"P0": 0},)),
            replace(proof, prices=({"Q": 7},)),
            replace(proof, prices=({"P0": -1},)),
            replace(proof, prices=({"P0": 1.5},)),
            replace(proof, cost=Decimal(2)),
            replace(proof, id="another"),
        ):
            with self.assertRaises(ProofError):
                check_proof(job, plan, wrong)
        # Prices that hold for nine prove nothing for eight, which go on two sheets.
        with self.assertRaises(ProofError):
            check_proof(paper((5, 4, 8)), plan, proof)

    def test_sheets_of_two_prices_are_gone_through_choice_by_choice(self):
        small = Sheet(id="s", width=10, height=10, cost=Decimal("0.42"))
        large = Sheet(id="l", width=15, height=12, cost=Decimal("0.78"))
        job = paper((7, 7, 4), (4, 5, 14), (8, 8, 7), sheets=(small, large))
        plan = fitted(job)
        self.assertTrue(plan.proven)
        proof = prove(job, plan, 5.0)
        # No single line of prices rules all of them out.
        self.assertEqual((proof.rests_on, len(proof.prices)), (PRICES, 4))
        for line in proof.prices:
            with self.assertRaises(ProofError):
                check_proof(job, plan, replace(proof, prices=(line,)))
        cheaper = replace(large, cost=Decimal("0.30"))
        with self.assertRaises(ProofError):
            check_proof(replace(job, sheets=(small, cheaper)), plan, proof)

    def test_what_is_left_of_an_offcut_by_pinned_layouts_counts(self):
        # Two offcuts hold one each, a sheet four; one of the offcuts is pinned: nine need two sheets beside both.
        offcut = Sheet(id="offcut", width=5, height=4, count=2, cost=Decimal(0))
        pin = Layout(sheet="offcut", copies=1, cuts=(), parts=(Named(part=0, piece="P0", turned=False),), pinned=True)
        job = paper((5, 4, 10), sheets=(SHEET, offcut), pins=(pin,))
        proof = Proof(id="paper", cost=Decimal(2), prices=({"P0": 1},))
        plan = PaperPlan(id="paper", cost=Decimal(2), bound=Decimal(2), proven=True, short=(), layouts=())
        check_proof(job, plan, proof)
        # What the other offcut gave is wanted from a sheet: six of ten, where two and four would do for six.
        for wrong in (
            replace(job, pieces=(replace(job.pieces[0], count=6),)),
            replace(job, sheets=(SHEET, replace(offcut, count=6))),
        ):
            with self.assertRaises(ProofError):
                check_proof(wrong, plan, proof)
        # One more pinned: they are used up, so that six need two sheets again.
        used_up = replace(job, pieces=(replace(job.pieces[0], count=7),), pins=(replace(pin, copies=2),))
        check_proof(used_up, plan, proof)
        with self.assertRaises(ProofError):
            check_proof(replace(used_up, pieces=(replace(job.pieces[0], count=6),)), plan, proof)

    def test_fewer_sheets_of_a_dearer_kind_are_looked_through_without_detours(self):
        # Ten of 5 × 4: by one price for each, all choices of two kinds of sheets are ruled out at one look.
        dear = Sheet(id="dear", width=10, height=10, cost=Decimal(2))
        job = paper((5, 4, 10), sheets=(SHEET, dear))
        kinds = _kinds(job)
        supplies = _supplies(job, kinds)
        line = _Line(kinds, supplies, {"P0": 1})
        self.assertEqual((line.wanted, line.values), (10, [4, 4]))
        choices = _Choices(supplies, [line], 3 * MILLIONTHS)
        choices.rule_out("paper")
        self.assertEqual(choices.seen, 1)
        # Eight are not: two sheets hold them.
        eight = paper((5, 4, 8), sheets=(SHEET, dear))
        with self.assertRaises(ProofError) as caught:
            _Choices(supplies, [_Line(_kinds(eight), supplies, {"P0": 1})], 3 * MILLIONTHS).rule_out("paper")
        self.assertEqual(caught.exception.what, "[2, 0] sheets are not ruled out")

    def test_offcuts_hidden_middles_and_rows_count_as_what_they_can_hold(self):
        middle = Window(1, 1, 6, 6)
        host = Piece(id="host", width=8, height=8, count=4, window=middle)
        shape = Piece(id="shape", width=6, height=6, count=5, from_window=True)
        row = tuple(Piece(id=f"r{k}", width=3, height=5, count=4, turn=False) for k in range(2))
        offcut = Sheet(id="offcut", width=6, height=6, count=1, cost=Decimal(0))
        job = PaperJob(
            id="paper",
            sheets=(SHEET, offcut),
            pieces=(host, shape, *row),
            matched=(Row("row", "x", ("r0", "r1")),),
        )
        plan = fitted(job)
        proof = prove(job, plan, 5.0)
        self.assertEqual(proof.rests_on, PRICES)
        # The rows, four strips of 6 × 5, take two sheets more than the four of the mats unless they lie beside them.
        check_proof(job, plan, proof)
        self.assertTrue(set(proof.prices[0]) <= {"host", "shape", "row"})
        without = replace(job, sheets=(SHEET, replace(offcut, count=60)))
        with self.assertRaises(ProofError):
            check_proof(without, plan, proof)

    def test_margins_count_and_limits_rest_on_the_search(self):
        printed = replace(SHEET, margins=Margins(1, 1, 1, 1))
        job = paper((4, 4, 9), sheets=(printed,))
        plan = fitted(job)
        self.assertEqual(plan.cost, 3)
        check_proof(job, plan, prove(job, plan, 5.0))
        # Only five long can be cut, so that two of 8 × 4 do not come out of a sheet; the check knows nothing of that.
        job, bench = paper((8, 4, 4), sheets=(replace(SHEET, height=8),)), Bench(1, CutLimits(longest=8))
        plan = fitted(job, bench)
        self.assertIn(prove(job, plan, 5.0).rests_on, (PRICES, SEARCH))

    def test_what_is_handed_out_rests_on_the_search(self):
        pieces = (Piece(id="P", width=4, height=5, count=8, each=2),)
        job = PaperJob(id="paper", sheets=(SHEET,), pieces=pieces, pool="own", people=4)
        plan = fitted(job)
        proof = prove(job, plan, 5.0)
        self.assertEqual((proof.rests_on, proof.prices), (SEARCH, ()))
        with self.assertRaises(ProofError):
            check_proof(job, plan, proof)

    def test_a_paper_of_which_everything_is_pinned_is_proven_by_nothing(self):
        job = paper((5, 4, 4))
        pinned = replace(job, pins=tuple(replace(layout, pinned=True) for layout in fitted(job).layouts))
        plan = fitted(pinned)
        proof = prove(pinned, plan, 5.0)
        self.assertEqual((proof.prices, proof.rests_on), ((), PRICES))
        check_proof(pinned, plan, proof)

    def test_files_that_are_none_are_refused(self):
        for text in (
            "",
            "[]",
            "{}",
            '{"zester": "fit-plan/1", "papers": []}',
            '{"zester": "fit-proof/1", "papers": [{}]}',
        ):
            with self.subTest(text), self.assertRaises(ProofError):
                read_proofs(text)


def _without_zeros(proof: Proof) -> Proof:
    return replace(proof, prices=tuple({k: v for k, v in line.items() if v} for line in proof.prices))
