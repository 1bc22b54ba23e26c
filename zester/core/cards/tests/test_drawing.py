"""The drawings' geometry, with shapely (a general geometry library) as a witness from outside."""

import math
import re
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import Polygon, box
from shapely.ops import unary_union

from zester.core.cards.check_layers import check_layers
from zester.core.cards.drawing import View, draw_card
from zester.core.cards.hidden import covered
from zester.core.cards.moving import moved
from zester.core.cards.outlines import corners_of, path_of, sheet_path
from zester.core.cards.tests.cards import GATE, INCH, card, findings
from zester.core.errors import CutListError
from zester.core.lengths import TICKS_PER_MM
from zester.core.pieces import Outline
from zester.core.tests.share import each_of

SIDE = "card 4¼ x 5½ side fold\nBase midnight\n"
small = st.integers(0, 40)


def views(text: str) -> dict[str, View]:
    study = card(text)
    return {view.key: view for view in draw_card(study.pieces, study.folded, study.placed, "in")}


def polygon(placed) -> Polygon:
    """A placed piece as shapely sees it."""
    x, y = placed.x, placed.y
    whole = box(x, y, x + placed.width, y + placed.height)
    return affinity.rotate(whole, placed.tilt / 10, origin=(x + placed.width / 2, y + placed.height / 2))


class ShapelyTests(TestCase):
    def test_every_layer_lies_within_what_it_sits_on(self):
        study = card(GATE)
        for placed in each_of(study.placed):
            if placed.under is None or placed.face.key == "around":
                continue
            self.assertTrue(polygon(study.placed[placed.under]).covers(polygon(placed)), placed.piece.name)

    @given(st.integers(-60, 60), st.integers(8, 70), st.integers(8, 70), st.integers(0, 40), st.integers(0, 60))
    @settings(max_examples=60)
    def test_hanging_over_is_found_exactly_when_shapely_sees_it(self, tilt, width, height, left, top):
        """Sizes and places in sixteenths on a 4¼ × 5½ front; the tilted box is rounded outwards by at most a tick."""
        text = f"{SIDE}Star {width}/16 x {height}/16 brass tilted {tilt}"
        text += f" left {left}/16" if left else ""
        text += f" top {top}/16" if top else ""
        study = card(text)
        front = box(0, 0, study.folded.width, study.folded.height)
        star = polygon(study.placed[0])
        outside = star.difference(front).area
        found = any("hangs over" in f.what or "larger than" in f.what for f in findings(text, "layers"))
        if outside > 0 and outside > 8 * (width + height) * INCH / 16:
            self.assertTrue(found)
        elif front.buffer(-2).covers(star):
            self.assertFalse(found)

    @given(small, small, st.integers(1, 30), st.integers(1, 30), st.integers(-30, 30))
    @settings(max_examples=60)
    def test_words_are_covered_exactly_where_shapely_sees_an_overlap(self, left, top, width, height, tilt):
        text = f"{SIDE}Words 2 x 1 brass left 1 top 2\nStar {width}/8 x {height}/8 brass"
        text += f" left {left}/8" if left else " flush left"
        text += f" top {top}/8" if top else " flush top"
        study = card(text + (f" tilted {tilt}" if tilt else ""))
        words, star = (polygon(each) for each in study.placed)
        found = any("lies over" in f.what for f in check_layers(study))
        # A tilted piece is looked at by its upright box, which is never smaller.
        if words.intersection(star).area > 0:
            self.assertTrue(found)
        elif not tilt:
            self.assertFalse(found)

    def test_areas_of_outlines(self):
        side = 2 * INCH
        exact = {
            "circle": math.pi * side**2 / 4,
            "square": side**2,
            "tag": side**2 - (side // 4) ** 2,
            "banner": side**2 - side * (side // 2) / 2,
        }
        for kind, area in exact.items():
            with self.subTest(kind=kind):
                shape = Polygon(corners_of(kind, side, side))
                self.assertTrue(shape.is_valid)
                self.assertAlmostEqual(shape.area / area, 1, delta=0.002)
        scallop = Polygon(corners_of("scallop", side, side))
        self.assertTrue(scallop.is_valid)
        circle = Polygon(corners_of("circle", side, side))
        self.assertTrue(0.9 < scallop.area / circle.area < 1)
        self.assertTrue(circle.buffer(8).covers(scallop))

    def test_every_shape_stands_in_its_box(self):
        """Corners and curves touch all four sides of the box and none lies outside; the bends are where they were."""
        for kind in ("circle", "oval", "square", "rectangle", "label", "banner", "tag", "scallop"):
            for width, height in ((2 * INCH, 2 * INCH), (3 * INCH, INCH), (INCH, 4 * INCH)):
                with self.subTest(kind=kind, width=width, height=height):
                    bounds = Polygon(corners_of(kind, width, height)).bounds
                    slack = 0.035 * max(width, height) if kind == "scallop" else 0
                    for got, box_side in zip(bounds, (0, 0, width, height), strict=True):
                        self.assertAlmostEqual(got, box_side, delta=slack)
                    # The path is the same shape in millimetres, moved.
                    moved = path_of(kind, width, height, INCH, 3 * INCH)
                    self.assertEqual(moved.count("Z"), 2 if kind == "tag" else 1)
        self.assertEqual(corners_of("banner", 6, 4), [(0, 0), (6, 0), (4, 2), (6, 4), (0, 4)])
        self.assertEqual(corners_of("banner", 4, 6), [(0, 0), (4, 0), (4, 6), (2, 4), (0, 6)])
        self.assertEqual(corners_of("banner", 4, 4)[2], (2, 2))
        self.assertEqual(corners_of("tag", 8, 20), [(2, 0), (6, 0), (8, 2), (8, 20), (0, 20), (0, 2)])

    def test_a_notch_and_rounded_corners(self):
        ten, mm = 10 * TICKS_PER_MM, TICKS_PER_MM
        top = Outline(kind="circle", width=4 * mm, height=4 * mm, x=3 * mm, y=-2 * mm)
        self.assertEqual(sheet_path(ten, ten, notch=top), "M0 0L3 0A2 2 0 0 0 7 0L10 0L10 0L10 10L10 10L0 10L0 10L0 0Z")
        for edge, part in {
            "left": "L0 7A2 2 0 0 0 0 3",
            "right": "L10 3A2 2 0 0 0 10 7",
            "bottom": "L7 10A2 2 0 0 0 3 10",
        }.items():
            x, y = {"left": (-2, 3), "right": (8, 3), "bottom": (3, 8)}[edge]
            notch = Outline(kind="circle", width=4 * mm, height=4 * mm, x=x * mm, y=y * mm)
            with self.subTest(edge=edge):
                self.assertIn(part, sheet_path(ten, ten, notch=notch))
        rounded = sheet_path(ten, 2 * ten, rounded=True)
        self.assertEqual(rounded.count("A2.5 2.5 0 0 1"), 4)
        pocket = card("Base 4 x 3 brass notch 1 right # thumb").pieces[0]
        self.assertEqual((pocket.notch.x, pocket.notch.y), (7 * INCH // 2, INCH))

    def test_the_flat_drawing_is_written_to_be_read(self):
        flat = views("Base 8½ x 5½ brass score 4¼")["flat"]
        # On a desk a drawing is some 400 pixels wide: then a letter is at least 13 pixels high.
        self.assertGreaterEqual(flat.letter * 400 / flat.width, 13)

    def test_paths_in_millimetres(self):
        ten, mm = 10 * TICKS_PER_MM, TICKS_PER_MM
        self.assertEqual(path_of("circle", ten, 2 * ten, mm, 2 * mm), "M1 12A5 10 0 1 0 11 12A5 10 0 1 0 1 12Z")
        self.assertEqual(path_of("square", ten, ten, mm, mm), "M1 1L11 1L11 11L1 11Z")
        self.assertEqual(
            path_of("label", 2 * ten, ten, mm, 3 * mm),
            "M3 3L19 3A2 2 0 0 0 21 5L21 11A2 2 0 0 0 19 13L3 13A2 2 0 0 0 1 11L1 5A2 2 0 0 0 3 3Z",
        )
        twelve = 12 * mm
        self.assertEqual(path_of("tag", twelve, 2 * twelve, mm, mm).split("Z")[1], "M6 4A1 1 0 1 0 8 4A1 1 0 1 0 6 4")

    def test_a_scallop_has_about_three_bumps_an_inch_of_its_edge(self):
        """An inch and a half round: 4.7 inches of edge, 14 bumps; the smallest has eight."""
        for size, bumps in ((3 * INCH // 2, 14), (INCH // 2, 8), (3 * INCH, 28)):
            points = corners_of("scallop", size, size)
            reach = [math.dist(point, (size / 2, size / 2)) for point in points]
            valleys = sum(a > b <= c for a, b, c in zip(reach[-1:] + reach, reach, reach[1:] + reach[:1], strict=False))
            self.assertEqual(valleys, bumps)

    @given(st.lists(st.tuples(small, small, small, small), max_size=5))
    def test_covering_is_what_shapely_calls_covering(self, corners):
        covers = [(min(a, c), min(b, d), max(a, c), max(b, d)) for a, b, c, d in corners]
        whole = unary_union([box(*cover) for cover in covers]) if covers else Polygon()
        wanted = box(10, 10, 30, 30).difference(whole).area == 0
        self.assertEqual(covered((10, 10, 30, 30), covers), wanted)


class ViewTests(TestCase):
    def test_the_closed_card_shows_doors_and_what_is_on_them_the_open_one_the_rest(self):
        drawn = views(GATE)
        self.assertEqual([layer.name for layer in drawn["front"].layers][:2], ["left door", "right door"])
        self.assertEqual([layer.name for layer in drawn["front"].layers][-2:], ["Belly band", "Seal"])
        self.assertEqual([layer.name for layer in drawn["inside"].layers], ["inside", "Middle mat", "Middle panel"])
        self.assertEqual(len(drawn["inside"].lines), 2)

    def test_what_the_drawings_are_called(self):
        names = {key: view.name for key, view in views(GATE).items()}
        self.assertEqual(set(names), {"front", "inside", "flat", "apart-front", "apart-inside"})
        self.assertEqual((names["apart-front"], names["apart-inside"]), ("Front apart", "Inside apart"))

    def test_a_matched_pattern_runs_on(self):
        panels = [layer for layer in views(GATE)["front"].layers if layer.name == "Door panels"]
        self.assertEqual([layer.run[0] for layer in panels], [0, 13 * INCH // 8])
        # Each copy starts where its part of the strip starts, so the group's own origin is the strip's.
        self.assertEqual(panels[1].start[0], panels[1].x - 13 * INCH // 8)

    def test_the_flat_base_is_measured_between_its_scores(self):
        flat = views(GATE)["flat"]
        self.assertEqual([m.text for m in flat.measures if not m.upwards], ["2\u200a1⁄8", "4¼", "2\u200a1⁄8", "8½ in"])
        self.assertEqual([line.x1 for line in flat.lines], [17 * INCH // 8, 51 * INCH // 8])
        pocket = views("card no fold pocket\nBase 4¼ x 7½ brass score 5½")["flat"]
        self.assertEqual([m.text for m in pocket.measures if m.upwards], ["5½", "2", "7½ in"])

    def test_borders_are_measured_to_what_a_piece_sits_on(self):
        panel = next(layer for layer in views(GATE)["inside"].layers if layer.name == "Middle panel")
        self.assertEqual([measure.text for measure in panel.borders], ["1⁄8"] * 4)

    def test_a_shape_is_measured_by_its_outline(self):
        text = SIDE + "Mat 3 x 3 chalk\nRing 2½ x 2½ brass circle 2\nDot circle 1 chalk on ring"
        ring, dot = views(text)["front"].layers[-2:]
        self.assertEqual([measure.text for measure in ring.borders], ["½"] * 4)
        self.assertEqual([measure.text for measure in dot.borders], ["½"] * 4)

    def test_layers_apart_are_as_many_as_there_are_heights(self):
        drawn = views(GATE)
        planes = drawn["apart-front"].planes
        self.assertEqual([plane.label for plane in planes], ["Front", "Door mats", "Door panels", "Belly band", "Seal"])
        rises = [plane.at[1] for plane in planes]
        self.assertEqual(rises, sorted(rises, reverse=True))
        inside = [plane.label for plane in drawn["apart-inside"].planes]
        self.assertEqual(inside, ["Inside", "Middle mat", "Middle panel"])

    def test_a_tag_is_drawn_in_its_own_shape(self):
        tag = views("card 2 x 4 no fold\nBase brass tag")["front"].layers[0]
        self.assertEqual(tag.path, path_of("tag", 2 * INCH, 4 * INCH))

    def test_a_view_is_wide_enough_for_what_hangs_over(self):
        front = views(SIDE + "Star 6 x 1 brass")["front"]
        star = front.layers[-1]
        self.assertLess(front.left, star.x)
        self.assertGreater(front.left + front.width, star.x + star.width)

    def test_paths_are_true_millimetres(self):
        numbers = [float(n) for n in re.findall(r"-?\d+(?:\.\d+)?", path_of("rectangle", 4 * INCH, INCH))]
        self.assertEqual((max(numbers), min(numbers)), (101.6, 0))
        self.assertIn("A", path_of("circle", INCH, INCH))
        self.assertEqual(path_of("label", 100 * TICKS_PER_MM, 50 * TICKS_PER_MM).count("A"), 4)
        self.assertEqual(path_of("tag", INCH, INCH).count("M"), 2, "a tag has a hole")

    def test_a_back_is_drawn_where_something_is_on_it(self):
        self.assertNotIn("back", views(GATE))
        self.assertEqual(views(SIDE + "Maker mark 2 x 1 chalk on back")["back"].layers[-1].name, "Maker mark")


class MovingTests(TestCase):
    BASE = "card 4 x 4 side fold\nBase brass\nMat 3 x 3 chalk\n"

    def moved(self, line: str, across: int, down: int) -> str:
        return moved(card(self.BASE + line), 3, across, down)[1]

    def test_by_marks_from_where_it_was_measured(self):
        for line, across, down, wanted in (
            ("Star 1 x 1 brass", 1, 0, "Star 1 x 1 brass  left 1 1/16"),
            ("Star 1 x 1 brass", 0, -2, "Star 1 x 1 brass  top 7/8"),
            ("Star 1 x 1 brass left ½ top ¼", 1, 1, "Star 1 x 1 brass  left 9/16 top 5/16"),
            ("Star 1 x 1 brass right ½", 1, 0, "Star 1 x 1 brass  right 7/16"),
            ("Star 1 x 1 brass on base fold ½", 1, 0, "Star 1 x 1 brass on base  fold 9/16"),
            ("Star 1 x 1 brass left 1 1/16", -1, 0, "Star 1 x 1 brass"),
            ("Star 1 x 1 brass left 1", -99, 0, "Star 1 x 1 brass  left 0"),
            ("Star 1 x 1 brass flush left", 0, 1, "Star 1 x 1 brass  left 0 top 1 1/16"),
            ("Star 1 x 1 brass # here", 99, 0, "Star 1 x 1 brass  left 2  # here"),
        ):
            with self.subTest(line=line):
                self.assertEqual(self.moved(line, across, down), wanted)

    def test_off_a_mark_it_moves_to_the_next(self):
        self.assertEqual(self.moved("Star 1 1/16 x 1 brass", 1, 0), "Star 1 1/16 x 1 brass  left 1")

    def test_what_is_moved_is_drawn_there(self):
        text = self.BASE + "Star 1 x 1 brass left ½ top ¼"
        line, new = moved(card(text), 3, 4, 4)
        lines = text.split("\n")
        lines[line] = new
        before, after = (card(t).placed[-1] for t in (text, "\n".join(lines)))
        self.assertEqual((after.x - before.x, after.y - before.y), (INCH // 4, INCH // 4))

    def test_what_goes_round_the_card_cannot_be_moved(self):
        with self.assertRaises(CutListError):
            moved(card("card 4 x 4 side fold\nBase brass\nBelly band 9 x 1 chalk"), 2, 1, 0)
