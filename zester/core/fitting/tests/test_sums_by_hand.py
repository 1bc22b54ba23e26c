"""What a plan comes to, on plans made by hand: drawing, yield, offcuts, the shelf, the bound in words."""

from dataclasses import replace
from decimal import Decimal
from fractions import Fraction
from unittest import TestCase

from zester.core.fitting.jobs.drawing import LaidPart, cut_lines, fit_label, lay_parts
from zester.core.fitting.jobs.job import KeepRule, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.leftovers import LeftOver, left_over
from zester.core.fitting.jobs.plan import Named, money
from zester.core.fitting.jobs.summary import Offcut, bound_in_words, summarise
from zester.core.fitting.jobs.supply import (
    OnShelf,
    cheapest,
    full_cost,
    judge,
    missing_pieces,
    on_shelf_too,
    used_sheets,
)
from zester.core.fitting.tests.test_check_by_hand import layout, named, plan
from zester.core.geometry import Window

SHEET = Sheet(id="sheet", width=20, height=30)
A = Piece(id="a", width=8, height=10, count=4, window=Window(1, 1, 6, 6))
DOT = Piece(id="dot", width=3, height=3, count=2, from_window=True)
# a, and below it a strip 8 × 20; right of both 12 × 25 and 12 × 5.
CUTS = [(0, "x", 8), (1, "y", 10), (2, "y", 25)]
ONE = layout(CUTS, [named(3, "a")], 3)
TWO = layout([(0, "x", 8), (1, "y", 10), (4, "y", 10)], [named(3, "a"), named(5, "a")], 2)
DOTS = layout([(0, "x", 3), (1, "y", 3)], [named(3, "dot")], 4, sheet="a", source="window")


def job(*pieces: Piece, **more) -> PaperJob:
    return PaperJob(id="p", sheets=more.pop("sheets", (SHEET,)), pieces=pieces, **more)


class DrawingTests(TestCase):
    def test_every_part_and_every_cut_lies_where_it_is_made(self):
        parts = [(part.part, part.x, part.y, part.width, part.height, part.piece) for part in lay_parts(ONE, 20, 30)]
        self.assertEqual(
            parts, [(3, 0, 0, 8, 10, "a"), (5, 8, 0, 12, 25, ""), (4, 0, 10, 8, 20, ""), (6, 8, 25, 12, 5, "")]
        )
        lines = [(line.box, line.start, line.end) for line in cut_lines(ONE, 20, 30)]
        self.assertEqual(
            lines,
            [
                ((0, 0, 20, 30), (8, 0), (8, 30)),
                ((0, 0, 8, 30), (0, 10), (8, 10)),
                ((8, 0, 12, 30), (8, 25), (20, 25)),
            ],
        )

    def test_a_label_is_in_the_middle_of_its_part_and_as_large_as_fits(self):
        def label(width: int, height: int, size: str = "4 × 5"):
            return fit_label(LaidPart(part=0, x=100, y=200, width=width, height=height), "A1", size, 3600)

        # The larger letters are 100 high, the smaller 80; "4 × 5" is five letters of 0.58 and half a letter of rim.
        wide = label(340, 270)
        self.assertEqual(
            (wide.lines, wide.letter, wide.x, wide.y, wide.upwards), (("A1", "4 × 5"), 100, 270, 335, False)
        )
        self.assertEqual((wide.line_step, wide.plate), (118, (330, 248)))
        self.assertEqual([wide.baseline(0), wide.baseline(1)], [-59, 59])
        for width, height, lines, letter, upwards in (
            (339, 270, ("A1", "4 × 5"), 80, False),
            (340, 269, ("A1", "4 × 5"), 80, False),
            (270, 340, ("A1", "4 × 5"), 100, True),
            (272, 216, ("A1", "4 × 5"), 80, False),
            (572, 145, ("A1  4 × 5",), 100, False),
            (145, 572, ("A1  4 × 5",), 100, True),
            (571, 145, ("A1  4 × 5",), 80, False),
            (166, 145, ("A1",), 100, False),
            (145, 166, ("A1",), 100, True),
            (165, 144, ("A1",), 80, False),
            (132, 116, ("A1",), 80, False),
        ):
            with self.subTest(width=width, height=height):
                found = label(width, height)
                self.assertEqual((found.lines, found.letter, found.upwards), (lines, letter, upwards))
        self.assertIsNone(label(131, 131))
        self.assertIsNone(label(166, 115))
        self.assertEqual(label(340, 270, "").lines, ("A1",))
        one = label(166, 145, "")
        self.assertEqual((one.baseline(0), one.plate), (0, (162, 130)))


class SummaryTests(TestCase):
    def test_yield_offcuts_and_waste_add_up_to_what_is_opened(self):
        found = summarise(job(A, DOT), plan(ONE, TWO, DOTS), KeepRule(5, 20))
        # Five sheets of 600; seven of 80 made. ONE leaves 12 × 25 and 8 × 20 (kept) and 5 × 12; TWO 8 × 10 and 12 × 30.
        self.assertEqual(found.made, {"a": 7, "dot": 4})
        self.assertEqual(found.over, {"a": 3, "dot": 2})
        self.assertEqual(
            found.offcuts,
            (
                Offcut(12, 30, 2, True),
                Offcut(12, 25, 3, True),
                Offcut(8, 20, 3, True),
                Offcut(8, 10, 2, False),
                Offcut(5, 12, 3, False),
            ),
        )
        kept = 2 * 360 + 3 * 300 + 3 * 160
        self.assertEqual((found.used, found.kept), (Fraction(560, 3000), Fraction(kept, 3000)))
        self.assertEqual(found.waste, Fraction(3000 - 560 - kept, 3000))

    def test_portions_are_no_offcuts_and_what_is_cut_from_them_counts(self):
        cut = layout(
            [(0, "y", 10), (2, "y", 10)], [Named(part=k, piece="", turned=False, portion=True) for k in (1, 3, 4)]
        )
        up = layout([(0, "x", 8)], [named(1, "a")], 3, sheet="", source="portion")
        found = summarise(job(A), plan(cut, up, portion=(20, 10)), KeepRule(1, 1))
        self.assertEqual((found.made, found.offcuts, found.used), ({"a": 3}, (), Fraction(240, 600)))
        self.assertEqual(found.waste, Fraction(360, 600))

    def test_offcuts_worth_keeping_lie_as_their_sheet_does(self):
        made = plan(ONE)
        free = [(each.width, each.height, each.up, each.count) for each in left_over(job(A), made, KeepRule(8, 20))]
        self.assertEqual(free, [(12, 25, "top", 3), (8, 20, "top", 3)])
        stiff = job(replace(A, turn=False), sheets=(replace(SHEET, up="left"),))
        self.assertEqual(
            left_over(stiff, made, KeepRule(5, 12)),
            [
                LeftOver(width=12, height=25, up="left", count=3),
                LeftOver(width=8, height=20, up="left", count=3),
                LeftOver(width=12, height=5, up="left", count=3),
            ],
        )
        self.assertEqual(left_over(job(A), made, KeepRule(13, 20)), [])

    def test_the_bound_in_words(self):
        def said(cost: str, bound: str, sheets=(SHEET,), used=(("sheet", 4),), **more) -> str:
            layouts = [layout([], [], copies, sheet=name) for name, copies in used]
            made = replace(plan(*layouts), cost=Decimal(cost), bound=Decimal(bound), **more)
            return bound_in_words(job(A, sheets=sheets), made)

        off = Sheet(id="off", width=9, height=9, count=2, cost=Decimal(0))
        large = replace(SHEET, id="large", cost=Decimal("1.5"))
        fewest = "Fewest possible: it is proven that "
        for wanted, found in (
            (f"{fewest}3 sheets cannot hold these pieces.", said("4", "4", proven=True)),
            (f"{fewest}1 sheet cannot hold these pieces.", said("2", "2", proven=True, used=(("sheet", 2),))),
            ("Fewest possible: one sheet.", said("1", "1", proven=True, used=(("sheet", 1),))),
            (
                "Fewest possible: these offcuts alone do not hold it all.",
                said("1", "1", (SHEET, off), (("sheet", 1), ("off", 1)), proven=True),
            ),
            (
                f"{fewest}3 sheets, with these offcuts, cannot hold these pieces.",
                said("4", "4", (SHEET, off), (("sheet", 4), ("off", 1)), proven=True),
            ),
            (
                "Fewest possible: no new sheet is opened.",
                said("0", "0", (SHEET, off), (("off", 2),), proven=True),
            ),
            (
                "Cheapest possible: it is proven that no plan costs less than 5.50.",
                said("5.5", "5.5", (SHEET, large), (("sheet", 4), ("large", 1)), proven=True),
            ),
            ("At least 3 sheets are needed for certain; this plan uses 4.", said("4", "3")),
            ("At least 1 sheet is needed for certain; this plan uses 4.", said("4", "1")),
            ("No plan can cost less than 5.00; this one costs 5.50.", said("5.5", "5", (SHEET, large))),
            ("The shelf is short, so this is not the whole class.", said("4", "3", short=(("a", 1),))),
        ):
            self.assertEqual(found, wanted)


class SupplyTests(TestCase):
    def test_what_is_there_and_what_it_costs(self):
        shelf = {"a": OnShelf(3, Decimal("0.5")), "b": OnShelf(None, Decimal(2)), "c": OnShelf(9, None)}
        found = judge({"a": 4, "b": 5}, shelf)
        self.assertEqual((found.lacking, found.short, found.cost), ({"a": 1}, 1, Decimal(12)))
        found = judge({"a": 3}, shelf)
        self.assertEqual((found.lacking, found.short, found.cost), ({}, 0, Decimal("1.5")))
        found = judge({"c": 2, "z": 2}, shelf)
        self.assertEqual((found.lacking, found.short, found.cost), ({"z": 2}, 2, None))
        self.assertEqual(cheapest([{"b": 1}, {"a": 3}, {"a": 3, "b": 1}], shelf), 1)
        self.assertIsNone(cheapest([{"b": 1}, {"c": 1}], shelf))
        self.assertIsNone(cheapest([], shelf))

    def test_sheets_of_a_size_on_the_shelf_count_with_those_that_are_bought(self):
        sizes = (replace(SHEET, cost=Decimal(3)), replace(SHEET, id="sheet+", count=2, cost=Decimal("0.3")))
        made = plan(replace(ONE, copies=4), replace(ONE, sheet="sheet+", copies=2))
        self.assertEqual(used_sheets(made), {"sheet": 6})
        self.assertEqual(full_cost(job(A, sheets=sizes), made), 18)
        self.assertEqual(on_shelf_too({"a+": 2, "a": 3, "b": 1}), {"a": 5, "b": 1})

    def test_the_sheets_left_out_are_those_that_give_least(self):
        made = plan(TWO, ONE, DOTS)
        wanted = job(replace(A, count=7), replace(DOT, count=4))
        self.assertEqual(missing_pieces(wanted, made, {}), {})
        # Two of the three sheets of one each; then all three and one of two each.
        self.assertEqual(missing_pieces(wanted, made, {"sheet": 2}), {"a": 2})
        self.assertEqual(missing_pieces(wanted, made, {"sheet": 4}), {"a": 5, "dot": 2})
        self.assertEqual(missing_pieces(wanted, made, {"sheet": 5}), {"a": 7, "dot": 4})
        self.assertEqual(missing_pieces(job(A), made, {"sheet": 3}), {})

    def test_without_portions_nothing_is_cut_up(self):
        cut = layout(
            [(0, "y", 10), (2, "y", 10)], [Named(part=k, piece="", turned=False, portion=True) for k in (1, 3)], 2
        )
        up = layout([(0, "x", 8)], [named(1, "a"), named(2, "a")], 4, sheet="", source="portion")
        wanted = job(replace(A, count=8))
        made = plan(cut, up, portion=(20, 10))
        self.assertEqual(missing_pieces(wanted, made, {}), {})
        self.assertEqual(missing_pieces(wanted, made, {"sheet": 1}), {"a": 4})
        self.assertEqual(made.portions_each(2), 2)

    def test_money_has_cents_and_loses_none(self):
        for amount, said in (("1", "1.00"), ("0.5", "0.50"), ("0.125", "0.125"), ("1200", "1200.00")):
            self.assertEqual(money(Decimal(amount)), said)
