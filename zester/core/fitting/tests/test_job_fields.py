"""Every field of a fit job at its limits: the last that is taken, and the first that is refused, in which words."""

import json
from copy import deepcopy
from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from zester.core.errors import JobError
from zester.core.fitting.jobs.check_job import check_reach, cut_from_sheet
from zester.core.fitting.jobs.job import Bench, KeepRule, Margins, PaperJob, Piece, Row, Sheet
from zester.core.fitting.jobs.job_file import read_job, write_job
from zester.core.fitting.parts import CutLimits
from zester.core.geometry import Window
from zester.core.lengths import TICKS_PER_INCH

INCH = TICKS_PER_INCH
FULL = {
    "zester": "fit-job/1",
    "unit": "in",
    "trimmer": {"stack": 4, "longest": "12", "narrowest": "1/2"},
    "keep": {"short": "1", "long": "3"},
    "people": 6,
    "papers": [
        {
            "id": "moss",
            "name": "Deep Moss",
            "sheets": [
                {
                    "id": "whole",
                    "width": "8 1/2",
                    "height": "11",
                    "count": 30,
                    "cost": "0.42",
                    "margins": {"left": "1/4", "top": "1/8", "right": "3/8", "bottom": "1/2"},
                    "up": "left",
                    "pack": 10,
                }
            ],
            "pool": "own",
            "matched": [{"id": "doors", "along": "row", "pieces": ["A3", "A4"]}],
            "pins": [
                {
                    "sheet": "whole",
                    "copies": 1,
                    "cuts": [{"part": 0, "axis": "x", "at": "2"}],
                    "parts": [],
                }
            ],
        }
    ],
    "pieces": [
        {
            "id": "A1",
            "paper": "moss",
            "width": "4",
            "height": "5",
            "count": 12,
            "each": 2,
            "window": {"x": "1", "y": "1", "width": "3", "height": "4"},
        },
        {"id": "A2", "paper": "moss", "width": "1", "height": "2", "count": 6, "each": 1, "from_window": True},
        {"id": "A3", "paper": "moss", "width": "2", "height": "3", "count": 6, "each": 1, "direction": "half"},
        {"id": "A4", "paper": "moss", "width": "1", "height": "3", "count": 6, "each": 1, "direction": "half"},
        {"id": "A5", "paper": "moss", "width": "1", "height": "1", "count": 5, "filler": True},
    ],
}
GONE = object()


def changed(*changes: tuple[str, object]) -> str:
    """The job with some fields changed, each by its path: ``pieces.0.count``."""
    data = json.loads(json.dumps(FULL))
    for path, value in changes:
        *way, last = [int(step) if step.isdigit() else step for step in path.split(".")]
        place = data
        for step in way:
            place = place[step]
        if value is GONE:
            del place[last]
        else:
            place[last] = deepcopy(value)
    return json.dumps(data)


class FieldTests(TestCase):
    def refused(self, words: str, where: str, *changes: tuple[str, object]):
        with self.subTest(changes=changes):
            with self.assertRaises(JobError) as caught:
                read_job(changed(*changes))
            self.assertEqual((caught.exception.where, caught.exception.what), (where, words))

    def test_ids_can_be_printed_and_have_an_end(self):
        words = "this id cannot be printed, or has more than 200 letters"
        for odd in ("9" * 5000, "A" + "9" * 200, "A\ud83d", "A\0"):
            for path in ("pieces.0.id", "papers.0.id", "papers.0.sheets.0.id", "papers.0.matched.0.id"):
                self.refused(words, path.replace(".0", "[0]"), (path, odd))
        self.refused("not text", "papers[0].name", ("papers.0.name", "Moss \ud83d"))
        self.assertEqual(read_job(changed(("papers.0.matched.0.id", "9" * 200))).papers[0].matched[0].id, "9" * 200)

    def test_every_field_arrives(self):
        job = read_job(json.dumps(FULL))
        self.assertEqual(job.unit, "in")
        self.assertEqual(job.bench, Bench(4, CutLimits(12 * INCH, INCH // 2), KeepRule(INCH, 3 * INCH)))
        (paper,) = job.papers
        self.assertEqual((paper.id, paper.name, paper.pool, paper.people), ("moss", "Deep Moss", "own", 6))
        (sheet,) = paper.sheets
        self.assertEqual(
            (sheet.width, sheet.height, sheet.count, sheet.cost), (INCH * 17 // 2, 11 * INCH, 30, Decimal("0.42"))
        )
        self.assertEqual(sheet.margins, Margins(INCH // 4, INCH // 8, INCH * 3 // 8, INCH // 2))
        self.assertEqual((sheet.up, sheet.pack), ("left", 10))
        self.assertEqual(paper.matched, (Row("doors", "x", ("A3", "A4")),))
        self.assertTrue(paper.pins[0].pinned)
        first, dot, door, _, filler = paper.pieces
        self.assertEqual((first.count, first.each, first.window), (12, 2, Window(INCH, INCH, 3 * INCH, 4 * INCH)))
        self.assertEqual((first.turn, dot.from_window, door.turn, door.upright), (True, True, False, False))
        self.assertEqual((filler.filler, filler.each, dot.filler), (True, None, False))

    def test_what_is_written_is_read_again_and_what_is_usual_left_out(self):
        job = read_job(json.dumps(FULL))
        self.assertEqual(read_job(write_job(job)), job)
        written = json.loads(write_job(job))
        self.assertEqual(written["trimmer"], {"stack": 4, "longest": "12", "narrowest": "1/2"})
        self.assertEqual(written["keep"], {"short": "1", "long": "3"})
        self.assertEqual((written["people"], written["papers"][0]["sheets"][0]["pack"]), (6, 10))
        self.assertEqual(written["papers"][0]["sheets"][0]["margins"]["bottom"], "1/2")
        self.assertEqual(written["papers"][0]["matched"][0]["along"], "row")
        column = read_job(
            changed(
                ("papers.0.matched.0.along", "column"), ("pieces.3.width", "2"), ("pieces.2.direction", "upright"),
                ("pieces.3.direction", "upright"), ("people", 1), ("papers.0.pool", "together"),
                ("trimmer", {}), ("papers.0.sheets.0.pack", 1), ("papers.0.sheets.0.up", "top"),
                ("papers.0.sheets.0.margins", {"top": 0}), ("papers.0.name", ""),
            )
        )  # fmt: skip
        written = json.loads(write_job(column))
        self.assertEqual(read_job(write_job(column)), column)
        self.assertEqual(written["papers"][0]["matched"][0]["along"], "column")
        self.assertEqual((written["trimmer"], written["pieces"][2]["direction"]), ({"stack": 1}, "upright"))
        self.assertEqual(set(written), {"zester", "unit", "trimmer", "keep", "papers", "pieces"})
        self.assertEqual(set(written["papers"][0]), {"id", "sheets", "matched", "pins"})
        self.assertEqual(set(written["papers"][0]["sheets"][0]), {"id", "width", "height", "count", "cost"})

    def test_numbers_are_taken_to_their_limits(self):
        for path, least, most in (
            ("trimmer.stack", 1, 100),
            ("people", 1, 6),
            ("pieces.0.count", 12, 10_000_000),
            ("pieces.0.each", 0, 2),
            ("pieces.4.count", 1, 10_000_000),
            ("papers.0.sheets.0.count", 0, 10_000_000),
            ("papers.0.sheets.0.pack", 1, 10_000_000),
            ("papers.0.pins.0.copies", 1, 10_000_000),
        ):
            for value in (least, most):
                with self.subTest(path=path, value=value):
                    read_job(changed((path, value)))
            for value in (least - 1, most + 1):
                with self.subTest(path=path, value=value), self.assertRaises(JobError):
                    read_job(changed((path, value)))
        for path, words in (("trimmer.stack", "Write 1 to 100"), ("people", "Write 1 to 10,000,000")):
            with self.assertRaises(JobError) as caught:
                read_job(changed((path, 0)))
            self.assertEqual(caught.exception.mend, words)

    def test_costs_are_money(self):
        for good in (0, "0", 1000000, "0.000001", 0.42):
            read_job(changed(("papers.0.sheets.0.cost", good)))
        for bad in (-1, "1000000.000001", "0.0000001", "much", True, None, "NaN", "Infinity", [1]):
            self.refused(f"“{bad}” is not a cost", "papers[0].sheets[0].cost", ("papers.0.sheets.0.cost", bad))

    def test_margins_leave_something(self):
        # One small piece on the sheet of 8½ in, whose margins are drawn together round it.
        dot = {"id": "A1", "paper": "moss", "width": "1/16", "height": "1/16", "count": 1, "each": 0}
        free = [("pieces", [dot]), ("papers.0.matched", []), ("papers.0.pins", []), ("trimmer", {})]
        margins = "papers.0.sheets.0.margins"
        for sides, last, beyond in ((("left", "right"), "8 7/16", "8 1/2"), (("top", "bottom"), "10 15/16", "11")):
            for side in sides:
                read_job(changed(*free, (margins, {side: last})))
                words = "the margins leave nothing of the sheet"
                self.refused(words, "papers[0].sheets[0].margins", *free, (margins, {side: beyond}))

    def test_hidden_middles_end_where_their_piece_does(self):
        for path, last, beyond in (
            ("pieces.0.window.x", "1", "1 1/16"),
            ("pieces.0.window.y", "1", "1 1/16"),
            ("pieces.0.window.width", "3", "3 1/16"),
            ("pieces.0.window.height", "4", "4 1/16"),
        ):
            read_job(changed((path, last)))
            read_job(changed((path, "1/16")))
            self.refused("the hidden middle reaches beyond “A1”", "pieces[0].window", (path, beyond))
        read_job(changed(("pieces.0.window.x", 0), ("pieces.0.window.y", "0")))
        with self.assertRaises(JobError):
            read_job(changed(("pieces.0.window.width", 0)))

    def test_what_contradicts_itself_says_so(self):
        where = "papers[0].matched[0].pieces"
        matched = "papers.0.matched.0.pieces"
        for words, field, *changes in (
            ("“turn” and “direction” say the same thing", "pieces[2]", ("pieces.2.turn", False)),
            ("a filler has no hidden middle and does not come out of one", "pieces[4]", ("pieces.4.from_window", True)),
            (
                "a filler has no hidden middle and does not come out of one",
                "pieces[4]",
                ("pieces.4.window", {"x": 0, "y": 0, "width": "1/2", "height": "1/2"}),
            ),
            ("one piece alone matches nothing", where, (matched, ["A3"])),
            ("“A5” is no piece of this paper that could be matched", where, (matched, ["A3", "A5"])),
            ("“A9” is no piece of this paper that could be matched", where, (matched, ["A3", "A9"])),
            ("“3” is no piece of this paper that could be matched", where, (matched, ["A3", 3])),
            ("matched pieces need the same height", where, ("pieces.3.height", "2")),
            ("matched pieces need the same width", where, ("papers.0.matched.0.along", "column")),
            ("matched pieces need the same direction", where, ("pieces.3.direction", "upright")),
            ("matched pieces are wanted in different numbers", where, ("pieces.3.count", 7)),
            ("matched pieces are wanted in different numbers", where, (matched, ["A3", "A4", "A3"])),
            (
                "a matched piece has no hidden middle and does not come out of one",
                where,
                ("pieces.3.from_window", True),
            ),
            (
                "a matched piece has no hidden middle and does not come out of one",
                where,
                ("pieces.3.window", {"x": 0, "y": 0, "width": "1/2", "height": "1/2"}),
            ),
            ("side by side they are larger than every sheet of the paper", where, ("pieces.3.width", "9")),
            ("how many “A2” does one person get?", "papers[0].pool", ("pieces.1.each", GONE)),
            ("“A1”: 6 people with 3 each need more than 12", "papers[0].pool", ("pieces.0.each", 3)),
            (
                "“A1” (9 × 11 in) is larger than every sheet of its paper",
                "pieces[0]",
                ("pieces.0.width", "9"),
                ("pieces.0.height", "11"),
            ),
            ("there is no paper “gold”", "pieces[0].paper", ("pieces.0.paper", "gold")),
            ("there is no paper “3”", "pieces[0].paper", ("pieces.0.paper", 3)),
            ("there is nothing to cut", "pieces", ("pieces", FULL["pieces"][4:])),
            ("not a layout", "papers[0].pins[0]", ("papers.0.pins.0.cuts", [{"part": "0", "axis": "x", "at": "2"}])),
            ("not a layout", "papers[0].pins[0]", ("papers.0.pins.0.copies", True)),
            ("not a layout", "papers[0].pins[0]", ("papers.0.pins.0.parts", [{"part": 1, "piece": 4}])),
            ("not text", "papers[0].name", ("papers.0.name", 3)),
            ("an id must be text", "papers[0].id", ("papers.0.id", " ")),
            ("“A1” is there twice", "pieces[1].id", ("pieces.1.id", "A1")),
            ("“sideways” is not known here", "papers[0].sheets[0].up", ("papers.0.sheets.0.up", "sideways")),
            ("“True” is not a length", "pieces[0].width", ("pieces.0.width", True)),
            ("“1.5” is not a whole number", "people", ("people", 1.5)),
            ("“True” is not a whole number", "people", ("people", True)),
            ("not an object with named fields", "trimmer", ("trimmer", [])),
            ("not a known field", "trimmer.cut", ("trimmer.cut", 1)),
            ("missing", "keep.long", ("keep.long", GONE)),
        ):
            self.refused(words, field, *changes)
        # A row in which one stands twice is cut so often as there are pairs of it.
        read_job(changed((matched, ["A3", "A4", "A3"]), ("pieces.2.count", 12), ("pieces.2.each", 2)))

    def test_a_file_may_be_two_megabytes(self):
        text = json.dumps(FULL)
        read_job(text + " " * (2_000_000 - len(text)))
        with self.assertRaises(JobError) as caught:
            read_job(text + " " * (2_000_001 - len(text)))
        self.assertEqual(caught.exception.what, "the file is larger than 2 MB")


class ReachTests(TestCase):
    """What a trimmer reaches and holds, to the tick."""

    SHEET = Sheet(id="sheet", width=20, height=30)

    def job(self, *pieces: Piece, **more) -> PaperJob:
        return PaperJob(id="p", sheets=(more.pop("sheet", self.SHEET),), pieces=pieces, **more)

    def refused(self, words: str, job: PaperJob, limits: CutLimits, where: str = "sheets") -> JobError:
        with self.assertRaises(JobError) as caught:
            check_reach(job, limits, "mm", where)
        self.assertIn(words, caught.exception.what)
        return caught.exception

    def test_a_sheet_is_cut_across_its_shorter_side(self):
        job = self.job(Piece(id="a", width=5, height=5, count=1))
        check_reach(job, CutLimits(longest=20), "mm", "")
        found = self.refused("does not reach across", job, CutLimits(longest=19))
        self.assertEqual(found.where, "sheets[0]")
        self.assertEqual(self.refused("does not reach", job, CutLimits(longest=19), "").where, "")

    def test_a_sheet_is_held_by_half_of_its_shorter_side(self):
        job = self.job(Piece(id="a", width=20, height=30, count=1))
        check_reach(job, CutLimits(hold=10), "mm", "")
        self.refused("must be so wide to be held", job, CutLimits(hold=11))

    def test_a_piece_is_cut_off_if_any_way_is_short_enough(self):
        # 5 × 25 from 20 × 30: its long side is cut along 25 at least, whichever way it lies.
        job = self.job(Piece(id="a", width=5, height=25, count=1))
        check_reach(job, CutLimits(longest=25), "mm", "")
        self.refused("too long for the trimmer", job, CutLimits(longest=24))
        self.assertTrue(cut_from_sheet(20, 30, self.SHEET, CutLimits(longest=1)))
        self.assertFalse(cut_from_sheet(21, 30, self.SHEET, CutLimits()))
        self.assertFalse(cut_from_sheet(20, 31, self.SHEET, CutLimits()))

    def test_margins_and_the_pattern_s_way_are_minded(self):
        edged = replace(self.SHEET, margins=Margins(1, 2, 3, 4))
        check_reach(self.job(Piece(id="a", width=16, height=24, count=1), sheet=edged), CutLimits(), "mm", "")
        for width, height in ((17, 24), (16, 25)):
            wanted = Piece(id="a", width=width, height=height, count=1)
            found = self.refused("larger than every sheet of p", self.job(wanted, sheet=edged), CutLimits())
            self.assertEqual(found.mend, "Mind the margins")
            self.assertEqual(self.refused("larger", self.job(replace(wanted, width=40)), CutLimits()).mend, "")
        stiff = Piece(id="a", width=30, height=20, count=1, turn=False)
        self.refused("larger", self.job(stiff), CutLimits())
        for up in ("left", "right"):
            check_reach(self.job(stiff, sheet=replace(self.SHEET, up=up)), CutLimits(), "mm", "")
        check_reach(self.job(replace(stiff, turn=True)), CutLimits(), "mm", "")

    def test_matched_pieces_are_cut_apart(self):
        pieces = (Piece(id="a", width=4, height=12, count=1), Piece(id="b", width=6, height=12, count=1))
        job = self.job(*pieces, matched=(Row("doors", "x", ("a", "b")),))
        check_reach(job, CutLimits(longest=20, hold=6), "mm", "")
        self.refused("cannot be cut apart", job, CutLimits(hold=7))
        tall = tuple(replace(piece, height=22) for piece in pieces)
        long = self.job(*tall, matched=(Row("doors", "x", ("a", "b")),))
        check_reach(long, CutLimits(longest=22), "mm", "")
        self.refused("cannot be cut apart", long, CutLimits(longest=21))
        flat = tuple(replace(piece, width=12, height=piece.width) for piece in pieces)
        column = self.job(*flat, matched=(Row("doors", "y", ("a", "b")),))
        check_reach(column, CutLimits(hold=6), "mm", "")
        self.refused("cannot be cut apart", column, CutLimits(hold=7))
