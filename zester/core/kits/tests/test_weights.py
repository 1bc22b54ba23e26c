"""Weights by hand, from ISO 536's definition of grammage and the sizes of ISO 216; what looks alike."""

from __future__ import annotations

import math
from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from zester.core.geometry import Window
from zester.core.kits.alike import looks_alike, sides_of
from zester.core.kits.coverage import bit_key
from zester.core.kits.packing import BIT, IF_ANY, PIECE, Item
from zester.core.kits.weights import (
    Grammage,
    Weight,
    area_of,
    bit_weight,
    grammage_of,
    parcel_of,
    piece_weight,
    shows,
    weigh,
)
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.lengths import TICKS_PER_MM as MM
from zester.core.pieces import CutPiece, Outline, PieceJob
from zester.core.sizes import SHEET_SIZES, iso_a


def piece(width: int, height: int, **more) -> CutPiece:
    return CutPiece(
        **({"number": 1, "count": 1, "name": "Base", "width": width, "height": height, "paper": "x"} | more)
    )


def stock(grams: int) -> Grammage:
    return Grammage(grams, False, 270)


class WeightTests(TestCase):
    def test_a_sheet_of_a4_of_80_grams_weighs_5_grams_as_everybody_knows(self):
        # ISO 216: A4 is 1/16 of a square metre but for rounding to whole millimetres; ISO 536: grammage is g/m².
        width, height = iso_a(4)
        self.assertEqual(piece_weight(piece(width * MM, height * MM), stock(80)).milligrams, 4990)
        self.assertEqual(piece_weight(piece(841 * MM, 1189 * MM), stock(80)).milligrams, 79996)

    def test_a_base_of_80_pound_cover_by_hand(self):
        # 8½ × 5½ in = 0.2159 m × 0.1397 m = 0.030161 m²; × 216 g/m² = 6.5148 g.
        base = piece_weight(piece(17 * INCH // 2, 11 * INCH // 2), stock(216))
        self.assertEqual(base.milligrams, 6515)
        self.assertEqual(base.words, "7 g (5 to 8)")
        # 500 sheets of 20 × 26 in of 80 lb cover weigh 80 lb = 36,287 g, by its definition.
        sheet = piece_weight(piece(20 * INCH, 26 * INCH), stock(grammage_of(216, None, "card").grams))
        self.assertAlmostEqual(sheet.times(500).milligrams / 36_287_390, 1, delta=0.003)

    def test_what_is_cut_out_before_the_class_is_not_in_the_bag(self):
        circle = Outline(kind="circle", width=2 * INCH, height=2 * INCH)
        blank = piece(3 * INCH, 3 * INCH, shape=circle, jobs=(PieceJob(what="die-cut", when="class"),))
        whole = piece_weight(blank, stock(200)).milligrams
        self.assertEqual(whole, round(9 * 0.0254**2 * 200_000))
        cut = piece_weight(replace(blank, jobs=(PieceJob(what="die-cut", when="before"),)), stock(200)).milligrams
        self.assertEqual(cut, round(math.pi * 0.0254**2 * 200_000))
        mat = piece(4 * INCH, 5 * INCH, middle=Window(0, 0, 3 * INCH, 4 * INCH))
        ratio = piece_weight(mat, stock(200), middle_out=True).milligrams / piece_weight(mat, stock(200)).milligrams
        self.assertAlmostEqual(ratio, 8 / 20, places=3)

    def test_areas_of_outlines(self):
        self.assertEqual(area_of(Outline(kind="rectangle", width=30, height=20)), 600)
        self.assertAlmostEqual(area_of(Outline(kind="oval", width=40, height=20)), math.pi * 200)
        for kind in ("scallop", "banner", "tag", "label"):
            self.assertTrue(0.5 < area_of(Outline(kind=kind, width=8000, height=8000)) / 64_000_000 < 1, kind)

    def test_bits_by_the_piece_and_by_the_metre(self):
        self.assertEqual(bit_weight("gem", 3, 0, Decimal("0.05")).milligrams, 150)
        # 8 in of a thread of 0.8 g a metre: 0.2032 m × 0.8 g/m = 163 mg, two of them.
        self.assertEqual(bit_weight("thread", 2, 8 * INCH, Decimal("0.8")).milligrams, 325)
        self.assertEqual(bit_weight("bow", 1, 0, None).unknown, ("bow",))

    def test_a_bag_and_what_a_scale_shows_of_it(self):
        pieces = {"A1": Weight(6515, 325), "A6": Weight(250, 12)}
        items = (Item(PIECE, "A1", 2), Item(PIECE, "A6", 2), Item(PIECE, "A9", 1, how=IF_ANY), Item(BIT, "Gems", 2))
        bag = weigh(items, pieces, {bit_key("gem", False): Decimal("0.5")})
        self.assertEqual((bag.milligrams, bag.off), (2 * 6515 + 500 + 1000, 650 + 24 + 100))
        self.assertLess(bag.milligrams - 6515, bag.least * 1000, "a missing base is seen")
        self.assertTrue(shows(pieces["A1"], bag))
        self.assertFalse(shows(pieces["A6"], bag))

    def test_a_scale_shows_what_weighs_more_than_its_step_and_a_hundredth_of_the_bag(self):
        # A kitchen scale's gram, and a bag of 200 g: 3 g are not sure, a milligram more is.
        bag = Weight(200_000)
        self.assertEqual([shows(Weight(one), bag) for one in (3000, 3001)], [False, True])

    def test_a_paper_without_a_weight_is_guessed_and_says_so(self):
        self.assertEqual(grammage_of(None, None, "card"), Grammage(216, True, 270))
        self.assertEqual(grammage_of(300, 320, "card"), Grammage(300, False, 320))

    def test_a_parcel_is_as_large_as_its_largest_piece(self):
        sheet = SHEET_SIZES["letter"]
        sides = {"A1": (17 * INCH // 2, 11 * INCH // 2, 270), "A2": (sheet.width, INCH, 200)}
        parcel = parcel_of((Item(PIECE, "A1", 2), Item(PIECE, "A2", 1)), sides)
        self.assertEqual((parcel.long, parcel.short), (17 * INCH // 2, 11 * INCH // 2))
        self.assertEqual(parcel.thick, (270 * 2 + 200) * MM // 1000 + 1)


class AlikeTests(TestCase):
    def test_a_sixteenth_and_the_other_side_are_pointed_out_and_nothing_else(self):
        mat = piece(4 * INCH, 5 * INCH, name="Mat")
        near = replace(mat, width=4 * INCH - INCH // 16, name="Panel")
        turned = replace(mat, width=5 * INCH, height=4 * INCH, side="b", name="Lining")
        far = replace(mat, width=4 * INCH - INCH // 8, name="Window")
        other = replace(near, paper="y", name="Other")
        found = looks_alike({"A2": mat, "A3": near, "A5": far, "A6": other}, "in")
        self.assertEqual(found, [
            "A2 Mat is only 1⁄16 in larger than A3 Panel.", "A3 Panel is only 1⁄16 in larger than A5 Window.",
        ])  # fmt: skip
        found = looks_alike({"A2": mat, "A4": turned}, "in")
        self.assertEqual(found, ["A2 Mat and A4 Lining are one size: only the side that is seen differs."])

    def test_matched_pieces_are_numbered_on_their_backs(self):
        doors = piece(2 * INCH, 5 * INCH, name="Door panels", count=2, match="doors")
        (words,) = sides_of([("C3", doors), ("C4", piece(INCH, INCH))], "in")
        self.assertEqual(
            words, "C3 (together 4 in wide): number the backs 1, 2 from the left as they were cut, the pattern runs on."
        )
