"""Files for a cutting machine, read back by other libraries; the simulated machine."""

import io
from collections import Counter
from dataclasses import replace
from unittest import TestCase

import dxfgrabber
from svgelements import SVG, Path

from zester.core.cutting.cutter import LARGEST_FILE, Faults, cut_out
from zester.core.cutting.machine_file import Marks, machine_file, to_dxf, to_svg
from zester.core.errors import JobError
from zester.core.fitting.engine import fit
from zester.core.fitting.jobs.drawing import lay_parts
from zester.core.fitting.tests.jobs import job, random_job
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.lengths import TICKS_PER_MM as MM
from zester.core.tests.share import each_of

# Half of the 0.2 mm that guides and files may be off by.
NEAR = 0.1
MARKS = {"P1": Marks(scores=(("x", 2 * INCH),), outlines=(("circle", INCH, INCH, INCH, INCH),))}


def files(wanted, marks=None):
    """The layouts of a plan as files, each with its layout and sheet."""
    plan = fit(wanted, seconds=1).papers[0]
    sheet = wanted.papers[0].sheets[0]
    for layout in plan.on_sheets:
        yield layout, sheet, machine_file("A & B <layout>", layout, sheet.width, sheet.height, marks or {}, wanted.unit)


class SvgTests(TestCase):
    def test_another_library_measures_the_same(self):
        """svgelements (SVG 1.1, W3C), which works in pixels of 1/96 in."""
        wanted = job("8½ x 11", ("4 x 5¼", 4), ("3 x 1", 2))
        for layout, sheet, file in each_of(files(wanted, MARKS)):
            read = SVG.parse(io.StringIO(to_svg(file)), ppi=96)
            self.assertAlmostEqual(float(read.width) / 96, sheet.width / INCH, places=4)
            self.assertAlmostEqual(float(read.height) / 96, sheet.height / INCH, places=4)
            layers = {}
            for group in read.select(lambda each: getattr(each, "values", {}).get("tag") == "g"):
                layers[group.id] = list(group.select(lambda each: isinstance(each, Path)))
            self.assertEqual(set(layers), {"cut", "score", "draw"})
            straight = [path for path in layers["cut"] if len(path) == 2]
            self.assertEqual(len(straight), len(layout.cuts))
            for path, line in zip(
                straight, [x for x in file.lines if x.layer == "cut" and len(x.points) == 2], strict=True
            ):
                ours = abs(line.points[0][0] - line.points[1][0]) + abs(line.points[0][1] - line.points[1][1])
                self.assertAlmostEqual(path.length() / 96 * 25.4, ours / MM, delta=NEAR)
            pieces = [named for named in layout.parts if named.piece == "P1"]
            self.assertEqual(len(layers["score"]), len(pieces))

    def test_words_are_escaped(self):
        (_, _, file), *_ = files(job("8½ x 11", ("4 x 5¼", 2)))
        self.assertIn("A &amp; B &lt;layout&gt;", to_svg(file))

    def test_a_name_with_signs_that_xml_has_not_is_written_without_them(self):
        (_, _, file), *_ = files(job("8½ x 11", ("4 x 5¼", 2)))
        odd = to_svg(replace(file, name="Chalk\x0b \x00Moon \ud83d\uffff \U0001f319"))
        self.assertIn("<title>Chalk Moon  \U0001f319</title>", odd)
        self.assertEqual(len(cut_out(odd)), len(cut_out(to_svg(file))))


class DxfTests(TestCase):
    def test_another_library_measures_the_same(self):
        """dxfgrabber reads what ezdxf wrote."""
        wanted = job("210 x 297 mm", ("4 x 5¼", 4), ("3 x 1", 2))
        for layout, sheet, file in each_of(files(wanted, MARKS)):
            drawing = dxfgrabber.read(io.StringIO(to_dxf(file)))
            self.assertEqual(drawing.header["$INSUNITS"], 4)
            by_layer = Counter(entity.layer for entity in drawing.entities)
            lines = [entity for entity in drawing.entities if entity.dxftype == "LINE" and entity.layer == "CUT"]
            self.assertEqual(len(lines), len(layout.cuts))
            ours = [line for line in file.lines if line.layer == "cut" and len(line.points) == 2]
            for entity, line in zip(lines, ours, strict=True):
                for point, (x, y) in zip((entity.start, entity.end), line.points, strict=True):
                    self.assertAlmostEqual(point[0], x / MM, delta=NEAR)
                    self.assertAlmostEqual(point[1], (sheet.height - y) / MM, delta=NEAR)
            self.assertEqual(by_layer["SCORE"], sum(named.piece == "P1" for named in layout.parts))
            (edge,) = [
                entity for entity in drawing.entities if entity.layer == "DRAW" and entity.dxftype == "LWPOLYLINE"
            ]
            self.assertAlmostEqual(max(x for x, _ in edge.points), sheet.width / MM, delta=NEAR)
            self.assertAlmostEqual(max(y for _, y in edge.points), sheet.height / MM, delta=NEAR)


class CutterTests(TestCase):
    def test_the_machine_gets_the_pieces_of_the_plan(self):
        for seed in range(6):
            for layout, sheet, file in each_of(files(random_job(seed))):
                wanted = Counter(
                    (round(part.width / MM, 1), round(part.height / MM, 1))
                    for part in lay_parts(layout, sheet.width, sheet.height)
                )
                got = Counter((round(each.width, 1), round(each.height, 1)) for each in cut_out(to_svg(file)))
                self.assertEqual(got, wanted)

    def test_its_faults_are_seen(self):
        _, sheet, file = next(files(job("8½ x 11", ("4 x 5¼", 4))))
        right = cut_out(to_svg(file))
        askew = cut_out(to_svg(file), Faults(askew=0.5))
        self.assertFalse(all(each.square for each in askew))
        self.assertAlmostEqual(sum(each.area for each in askew), sheet.width / MM * sheet.height / MM, delta=5)
        shifted = cut_out(to_svg(file), Faults(shifted=2))
        self.assertNotEqual([each.width for each in shifted], [each.width for each in right])
        left = cut_out(to_svg(file), Faults(not_cut=(0,)))
        self.assertLess(len(left), len(right))

    def test_a_file_of_the_largest_size_is_cut_and_one_letter_more_is_not(self):
        (_, _, file), *_ = files(job("8½ x 11", ("4 x 5¼", 2)))
        good = to_svg(file)
        self.assertEqual(cut_out(good.ljust(LARGEST_FILE)), cut_out(good))
        with self.assertRaisesRegex(JobError, "too large"):
            cut_out(good.ljust(LARGEST_FILE + 1))

    def test_what_it_cannot_read_it_says(self):
        (_, _, file), *_ = files(job("8½ x 11", ("4 x 5¼", 2)))
        good = to_svg(file)
        bomb = '<!DOCTYPE x [<!ENTITY a "b">]><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1 1">&a;</svg>'
        for text in (
            "",
            "<svg/>",
            bomb,
            good.replace('id="cut"', 'id="x"'),
            good.replace("M", "C", 1),
            "x" * 6_000_000,
        ):
            with self.assertRaises(JobError):
                cut_out(text)
