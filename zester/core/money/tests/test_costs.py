"""Shares to the cent, cost lines, post, what pieces and kits cost: by hand, by properties, and beside CP-SAT."""

from __future__ import annotations

import random
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st
from ortools.sat.python import cp_model

from zester.core.errors import ZesterError
from zester.core.money.cost_lines import KIT, PERSON, CostLine, PostRate, post_for, read_costs, read_post
from zester.core.money.costs import ClassSum, Entry, PaperSpent, lines_cost, of_items
from zester.core.money.shares import CENT, cents, share_out

D = Decimal
AMOUNTS = st.decimals("0.00", "9999.99", places=2)


class ShareTests(TestCase):
    def test_worked_by_hand(self):
        self.assertEqual(share_out(D("10"), [1, 1, 1]), [D("3.34"), D("3.33"), D("3.33")])
        self.assertEqual(share_out(D("0.05"), [1, 2, 3]), [D("0.01"), D("0.02"), D("0.02")])
        self.assertEqual(share_out(D("0"), [0, 0]), [D("0.00"), D("0.00")])
        self.assertRaises(ValueError, share_out, D("1"), [0])

    @given(AMOUNTS, st.lists(st.integers(0, 10**9), min_size=1, max_size=12).filter(any))
    def test_nothing_is_lost_and_nothing_made_and_nobody_is_a_cent_off(self, total, weights):
        parts = share_out(total, weights)
        self.assertEqual(sum(parts), total)
        for part, weight in zip(parts, weights, strict=True):
            self.assertLess(abs(Fraction(part) - Fraction(total) * weight / sum(weights)), Fraction(1, 100))

    def test_no_other_shares_in_whole_cents_are_nearer_cp_sat_says(self):
        chance = random.Random(7)
        for _ in range(40):
            weights = [chance.randint(0, 50) for _ in range(chance.randint(2, 6))]
            if not any(weights):
                continue
            total = chance.randint(0, 200)
            mine = share_out(D(total) * CENT, weights)
            off = sum(
                abs(int(part / CENT) * sum(weights) - total * weight)
                for part, weight in zip(mine, weights, strict=True)
            )
            self.assertEqual(off, _least_off(total, weights))

    # The outside witness for rounding: decimal's own half up, after General Decimal Arithmetic (Cowlishaw).
    @given(st.decimals("-9999", "9999", places=5))
    def test_cents_are_rounded_half_up(self, amount):
        self.assertEqual(cents(amount), amount.quantize(CENT, ROUND_HALF_UP) + 0)


def _least_off(total: int, weights: list[int]) -> int:
    model = cp_model.CpModel()
    parts = [model.new_int_var(0, total, f"p{at}") for at in range(len(weights))]
    model.add(sum(parts) == total)
    offs = []
    for part, weight in zip(parts, weights, strict=True):
        off = model.new_int_var(0, 10**7, "off")
        model.add_abs_equality(off, part * sum(weights) - total * weight)
        offs.append(off)
    model.minimize(sum(offs))
    solver = cp_model.CpSolver()
    assert solver.solve(model) == cp_model.OPTIMAL
    return round(solver.objective_value)


class LineTests(TestCase):
    def test_what_is_written_is_read_as_meant(self):
        for line, meant in (
            ("room 40", CostLine("room", D("40"))),
            ("Hall fee: 62.50", CostLine("Hall fee", D("62.50"))),
            ("drinks 2.50 a person", CostLine("drinks", D("2.50"), PERSON)),
            ("drinks 2,50 each", CostLine("drinks", D("2.50"), PERSON)),
            ("bags 0.30 per kit", CostLine("bags", D("0.30"), KIT)),
            ("6 h at 18", CostLine("6 h at 18.00", D("108"))),
            ("teaching 2.5 hours at 20 an hour", CostLine("teaching 2.5 h at 20.00", D("50"))),
        ):
            self.assertEqual(read_costs(line), [meant], line)

    def test_what_is_not_clear_is_asked(self):
        for line in ("40", "room", "room 4.567", "room -5", "room 0", "2 rooms at 40 and 50"):
            self.assertRaises(ZesterError, read_costs, line)

    def test_post_by_weight_and_thickness_takes_the_cheapest_that_will_do(self):
        rates = read_post("500 g: 4.20\n100 g, 5 mm: 1.60\nup to 100 g, 25 mm = 2.70")
        for grams, mm, price in (
            (80, 4, "1.60"),
            (80, 9, "2.70"),
            (100, 25, "2.70"),
            (101, 4, "4.20"),
            (80, 30, "4.20"),
        ):
            self.assertEqual(post_for(rates, grams, mm).price, D(price), (grams, mm))
        self.assertIsNone(post_for(rates, 501, 1))
        self.assertEqual(read_post(""), [])
        self.assertRaises(ZesterError, read_post, "100 1.60")
        self.assertEqual(rates[0], PostRate(100, 5, D("1.60")))


class CostTests(TestCase):
    def test_a_paper_worked_by_hand(self):
        # Three sheets at 0.50; half of them pieces, three tenths kept, a fifth in the bin.
        paper = PaperSpent(
            name="Cream", sheets=3, cost=D("1.50"), used=Fraction(1, 2), kept=Fraction(3, 10),
            areas={"A1": 300, "B1": 100}, made={"A1": 10, "B1": 5},
        )  # fmt: skip
        self.assertEqual(paper.shares, (D("0.75"), D("0.45"), D("0.30")))
        # What the class bears, 1.05, lies on the pieces by their area: 0.7875 on ten of A1, 0.2625 on five of B1.
        self.assertEqual(paper.of_each(), {"A1": Fraction("0.07875"), "B1": Fraction("0.0525")})
        kit = of_items([("A1", 2), ("B1", 1), ("gem", 3)], paper.of_each())
        self.assertEqual(kit, Fraction("0.21"))

    @given(
        AMOUNTS,
        st.lists(st.tuples(st.integers(1, 10**8), st.integers(1, 90)), min_size=1, max_size=8),
        st.integers(1, 100),
        st.integers(0, 100),
    )
    def test_pieces_offcuts_and_waste_are_all_of_it_to_the_cent(self, cost, pieces, used, kept):
        shares = Fraction(used, 200), Fraction(kept, 200)
        areas = {f"A{at}": area * count for at, (area, count) in enumerate(pieces)}
        made = {f"A{at}": count for at, (_, count) in enumerate(pieces)}
        paper = PaperSpent(name="x", sheets=1, cost=cost, used=shares[0], kept=shares[1], areas=areas, made=made)
        self.assertEqual(sum(paper.shares), cost)
        every = of_items(made.items(), paper.of_each())
        self.assertEqual(every, Fraction(paper.spent))

    def test_from_how_many_people_a_class_pays(self):
        lines = lines_cost(read_costs("room 40\ndrinks 2.50 a person\nbags 0.30 a kit"), 12, 14)
        self.assertEqual([entry.amount for entry in lines], [D("40"), D("30.00"), D("4.20")])
        found = ClassSum(income=(Entry("x", D("408")),), costs=tuple(lines), fixed=D("40"), each=Fraction("12.50"))
        self.assertEqual((found.left, found.pays_from), (D("333.80"), 4))
        for fixed, each, people in (
            (D("0"), Fraction(1), 0),
            (D("25"), Fraction("12.5"), 2),
            (D("40"), Fraction(-1), None),
        ):
            self.assertEqual(ClassSum(income=(), costs=(), fixed=fixed, each=each).pays_from, people)
