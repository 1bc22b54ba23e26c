"""Packs to buy, against an integer program of another solver."""

import random
from decimal import Decimal
from unittest import TestCase

from ortools.sat.python import cp_model

from zester.core.errors import ZesterError
from zester.core.kits.buying import Pack, packs_to_buy
from zester.core.kits.coverage import add_bits, bit_key, least_sheets
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.pieces import CutPiece
from zester.core.tally import PieceCount
from zester.core.tests.share import some


def pack(key: str, price: str | None = None, most: int | None = None, **holds: int) -> Pack:
    return Pack(key=key, name=key, holds=holds, price=price and Decimal(price), most=most)


def cheapest(needs: dict[str, int], packs: list[Pack]) -> int | None:
    """The least price in cents by CP-SAT (ortools); None if the packs that can be had do not hold it."""
    model = cp_model.CpModel()
    amounts = [model.new_int_var(0, 1000 if each.most is None else each.most, each.key) for each in packs]
    for article, count in needs.items():
        model.add(
            sum(amount * each.holds.get(article, 0) for amount, each in zip(amounts, packs, strict=True)) >= count
        )
    model.minimize(sum(amount * int(each.price * 100) for amount, each in zip(amounts, packs, strict=True)))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    return int(solver.objective_value) if solver.solve(model) == cp_model.OPTIMAL else None


class BuyingTests(TestCase):
    def test_whole_packs_and_what_comes_along(self):
        bought = packs_to_buy({"brass": 17}, [pack("p", "7.60", brass=20)])
        (line,) = bought.lines
        self.assertEqual((line.count, line.price, line.unused, bought.missing), (1, Decimal("7.60"), {"brass": 3}, {}))

    def test_the_cheaper_mix_of_packs_is_taken_and_of_equal_ones_the_one_with_fewer(self):
        packs = [pack("one", "0.50", brass=1), pack("ten", "4.00", brass=10), pack("hundred", "39.00", brass=100)]
        found = {line.pack.key: line.count for line in packs_to_buy({"brass": 13}, packs).lines}
        self.assertEqual(found, {"ten": 1, "one": 3})
        equal = [pack("one", "1.00", brass=1), pack("five", "5.00", brass=5)]
        self.assertEqual([line.pack.key for line in packs_to_buy({"brass": 5}, equal).lines], ["five"])

    def test_a_pad_of_several_patterns_is_bought_whole(self):
        pad = pack("pad", "6.00", kites=2, ropes=2, gulls=2)
        bought = packs_to_buy({"kites": 3, "ropes": 1}, [pad])
        self.assertEqual((bought.lines[0].count, bought.lines[0].unused), (2, {"kites": 1, "ropes": 3, "gulls": 4}))
        mixed = packs_to_buy({"kites": 3, "ropes": 2}, [pad, pack("kite", "0.40", kites=1)])
        self.assertEqual({line.pack.key: line.count for line in mixed.lines}, {"pad": 1, "kite": 1})

    def test_what_cannot_be_had_is_said_and_the_rest_is_bought(self):
        bought = packs_to_buy(
            {"brass": 50, "moon": 2, "foil": 1}, [pack("p", "7.60", 2, brass=20), pack("m", "1", moon=1)]
        )
        found = {line.pack.key: line.count for line in bought.lines}
        self.assertEqual((bought.missing, found), ({"brass": 10, "foil": 1}, {"p": 2, "m": 2}))
        self.assertTrue(bought.proven)

    def test_without_a_price_packs_are_counted_and_said(self):
        bought = packs_to_buy({"brass": 30}, [pack("p", None, brass=25)])
        self.assertEqual((bought.lines[0].count, bought.lines[0].price, bought.unpriced), (2, None, 1))
        self.assertEqual(packs_to_buy({"brass": 0}, [pack("p", None, brass=25)]).lines, ())

    def test_a_pack_that_holds_nothing_is_refused(self):
        for broken in (pack("p", "1"), pack("p", "1", brass=0)):
            with self.assertRaises(ZesterError):
                packs_to_buy({"brass": 1}, [broken])

    def test_prices_agree_with_another_solver(self):
        for seed in range(some(150)):
            dice = random.Random(seed)
            articles = [f"a{k}" for k in range(dice.randint(1, 5))]
            needs = {article: dice.randint(0, 60) for article in articles}
            packs = [
                Pack(
                    key=f"p{k}",
                    name=f"p{k}",
                    holds={a: dice.randint(1, 25) for a in dice.sample(articles, dice.randint(1, len(articles)))},
                    price=Decimal(dice.randint(20, 2500)) / 100,
                    most=dice.choice([None, None, dice.randint(0, 6)]),
                )
                for k in range(dice.randint(1, 6))
            ]
            bought = packs_to_buy(needs, packs)
            lacking = {a: count - bought.missing.get(a, 0) for a, count in needs.items()}
            self.assertTrue(bought.proven, seed)
            self.assertEqual(int(bought.price * 100), cheapest(lacking, packs), seed)
            for article, count in lacking.items():
                held = sum(line.count * line.pack.holds.get(article, 0) for line in bought.lines)
                self.assertGreaterEqual(held, count)
            left = {a: sum(line.unused.get(a, 0) for line in bought.lines) for a in articles}
            for article in articles:
                held = sum(line.count * line.pack.holds.get(article, 0) for line in bought.lines)
                self.assertEqual(left[article], max(0, held - needs[article]))


class CoverageTests(TestCase):
    def test_the_least_sheets_by_area(self):
        one = CutPiece(number=1, count=1, name="x", width=50, height=50, paper="p")
        rows = [PieceCount(handle="A1", card="x", piece=one, count=9, why="")]
        self.assertEqual(least_sheets(rows, 100, 100), 3)
        self.assertEqual(least_sheets([], 100, 100), 0)

    def test_bits_of_one_name_add_up_over_classes_in_the_plural_too(self):
        rows = [
            ("gem", 3, 0, "Evening"),
            ("Gems", 4, 0, "Post"),
            ("thread", 0, 500, "Evening"),
            ("thread", 2, 0, "Post"),
        ]
        found = add_bits(rows, {bit_key("Gem", False): 5, bit_key("thread", True): 800})
        told = [(bit.name, bit.needed, bit.lacking, bit.why) for bit in found]
        self.assertEqual(
            told, [("gem", 7, 2, "Evening + Post"), ("thread", 500, 0, "Evening"), ("thread", 2, 2, "Post")]
        )

    def test_a_length_is_told_in_one_unit_needed_and_on_hand(self):
        inches = add_bits([("thread", 0, 24 * TICKS_PER_INCH, "Evening")], {})[0]
        self.assertFalse(inches.metric)
        metres = add_bits([("thread", 0, 24 * TICKS_PER_INCH, "")], {bit_key("thread", True): 4000 * TICKS_PER_MM})[0]
        self.assertTrue(metres.metric)
