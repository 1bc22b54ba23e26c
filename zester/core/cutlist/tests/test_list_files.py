"""The list in and out, notes understood, lines changed. CSV is that of RFC 4180, XLSX that of ISO/IEC 29500."""

import csv
import io
import json
import zipfile
from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import load_workbook

from zester.core.cards.tests.cards import GATE, KNOWN, card
from zester.core.cutlist.edit import (
    Cells,
    cells_of,
    editable_cells,
    line_of,
    step_length,
    with_place,
    with_rule,
    with_size,
)
from zester.core.cutlist.list_files import (
    read_csv,
    read_file,
    read_json,
    read_xlsx,
    rows_of,
    write_csv,
    write_json,
    write_xlsx,
)
from zester.core.cutlist.mapping import guessed, mapped, troubles
from zester.core.cutlist.notation import read_list, rename_tool
from zester.core.cutlist.paste import read_notes
from zester.core.errors import CutListError
from zester.core.lengths import MILLIMETRES, SIXTEENTHS, TICKS_PER_INCH

HEADS = [
    "Mat 4 x 5¼",
    "2 Strip ½ x 5.5 in",
    "Inside panel 3½ by 4¾",
    "Moon circle 2",
    "Seal circles no. 3",
    "=SUM 1 x 2",
]
PAPERS = ["brass", "Star Chart", "on midnight", "chalk", "chlak", ""]
TAILS = [
    "upright",
    "left ½ flush top",
    "overhang ¼ left and right",
    "middle 1 x 1 at ¼, ¼",
    "score 1, 2",
    "on base",
    "side b",
]
TAILS += [
    "raised",
    "tilted 5 left",
    "stamped in class",
    "embossed before class by Finn, washed in class, dry first",
    "only simple",
    "match doors",
    "circle",
    "as strip",
    "filler",
    "# note",
]
OTHERS = [
    "",
    "# just a remark",
    "card 4 x 4 side fold",
    "+ 6 foam squares",
    "+ 12 in ribbon",
    "Base brass",
    "what is this",
    "  ",
]
OTHERS += ["Base 8½ x 5½ brass score 4¼", "'quoted", "-5 things", "@home 1 x 1 brass"]
piece_line = st.builds(
    lambda head, paper, tails: "  ".join([head, paper, *tails]),
    st.sampled_from(HEADS),
    st.sampled_from(PAPERS),
    st.lists(st.sampled_from(TAILS), max_size=4, unique=True),
)
lists = st.lists(st.one_of(piece_line, st.sampled_from(OTHERS)), min_size=1, max_size=9).map("\n".join)
lists = lists.map(str.rstrip)


def meaning(text: str) -> list:
    """What a list says, line by line; a line that cannot be read is what was typed."""
    return [
        r.text if r.error else (r.piece, r.piece.note if r.piece else "", r.bit, r.card)
        for r in read_list(text, KNOWN, SIXTEENTHS)
    ]


class LosslessTests(TestCase):
    @given(lists)
    @settings(max_examples=60)
    def test_what_is_written_out_is_read_in_again(self, text):
        rows = rows_of(text, KNOWN, SIXTEENTHS)
        wanted = meaning(text)
        for write, read in ((write_csv, read_csv), (write_xlsx, read_xlsx)):
            self.assertEqual(meaning(read(write(rows)).text), wanted)
        found = read_json(write_json(rows, "Kite", "in16"))
        self.assertEqual((meaning(found.text), found.name, found.ruler), (wanted, "Kite", "in16"))

    def test_a_spreadsheet_takes_no_name_for_a_formula(self):
        rows = rows_of("=SUM(A1) 4 x 5 brass", KNOWN, SIXTEENTHS)
        table = list(csv.reader(io.StringIO(write_csv(rows).decode("utf-8-sig"))))
        self.assertEqual(table[1][2], "'=SUM(A1)")
        cell = load_workbook(io.BytesIO(write_xlsx(rows))).active["C2"]
        self.assertEqual((cell.value, cell.data_type), ("=SUM(A1)", "s"))

    def test_of_tables_of_another_make_no_column_is_lost(self):
        for table, wanted in (
            ("Size;Name;Paper;Count\n4 x 5¼;Mat;brass;2", ["2 Mat  4 x 5¼  brass"]),
            ("name,size,paper,qty\nStrip,1 x 4,star chart,3", ["3 Strip  1 x 4  star chart"]),
            (
                "Piece,How many,Width,Height,Card stock,Score at,Position,Notes\n"
                "Base,1,8½,5½,midnight,4¼,,\nStrip,2.0,1,4,star chart,,bottom ½,tie it",
                ["Base  8½ x 5½  midnight  score 4¼", "2 Strip  1 x 4  star chart  bottom ½  # tie it"],
            ),
            ("Layer;Cut size (cm);Paper colour;No. of pieces\nMat;10 x 13;brass;1", ["Mat  10 x 13 cm  brass"]),
        ):
            found = read_csv(table.encode()).table
            kinds = guessed(found)
            with self.subTest(table=table):
                self.assertEqual(troubles(found, kinds), [])
                self.assertEqual([row.line for row in mapped(found, kinds, KNOWN, SIXTEENTHS)], wanted)

    def test_a_column_nobody_knows_has_to_be_placed_or_left_out(self):
        found = read_csv(b"name,size,paper,shine,shade,\nMat,4 x 5,brass,gloss,,\n").table
        kinds = guessed(found)
        self.assertEqual(kinds, ["name", "size", "paper", "", "skip"])
        self.assertEqual(troubles(found, kinds), ["Say what “shine” holds, or leave it out."])
        noted = mapped(found, ["name", "size", "paper", "note", "skip"], KNOWN, SIXTEENTHS)
        self.assertEqual(noted[0].line, "Mat  4 x 5  brass  # gloss")
        self.assertEqual(
            troubles(found, ["name", "name", "paper", "skip", "skip"])[0],
            "Two columns say name: choose one.",
        )
        self.assertIn("Which column holds the size?", troubles(found, ["name", "width", "paper", "skip", "skip"])[0])
        # What has no size may be a bit, and is asked about rather than dropped.
        bits = read_csv(b"name,size,paper,qty\nchocolates,,,6\n,,,\n").table
        (row,) = mapped(bits, ["name", "size", "paper", "count"], KNOWN, SIXTEENTHS)
        self.assertEqual(row.line, "6 chocolates")

    def test_a_list_of_ours_with_a_column_more_is_placed_like_others(self):
        rows = rows_of("Mat 4 x 5 brass\n+ 6 gems\n# mind the gap", KNOWN, SIXTEENTHS)
        table = write_csv(rows).decode("utf-8-sig").splitlines()
        more = "\r\n".join(f"{line},{word}" for line, word in zip(table, ("sheet", "", "", ""), strict=True))
        found = read_csv(more.encode()).table
        kinds = guessed(found)
        lines = [row.line for row in mapped(found, kinds, KNOWN, SIXTEENTHS)]
        self.assertEqual(lines, ["Mat  4 x 5  brass", "+ 6 gems", "# mind the gap"])

    def test_files_that_cannot_be_read_say_why(self):
        bomb = io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as packed:
            packed.writestr("xl/workbook.xml", b" " * 30_000_000)
        for name, data, wanted in (
            ("list.doc", b"", "none of the kinds"),
            ("list.csv", b"\xff\xfe\x00", "not text in UTF-8"),
            ("list.csv", b"a," * 30 + b"\r\n" + b"1," * 30, "The table has 31 columns"),
            ("list.csv", b"", "empty"),
            ("list.json", b"{", "not JSON"),
            ("list.json", b'{"zester": "other"}', "is no zester-cut-list/1"),
            ("list.json", json.dumps({"zester": "zester-cut-list/1", "lines": [{"colour": 1}]}).encode(), "Line 1"),
            ("list.xlsx", b"PK nothing", "not a workbook"),
            ("list.xlsx", bomb.getvalue(), "too large"),
            ("list.txt", b"x" * 600_000, "larger than"),
            ("list.txt", b"\n" * 300, "200 lines"),
        ):
            with self.subTest(name=name, wanted=wanted):
                with self.assertRaises(CutListError) as caught:
                    read_file(name, data)
                self.assertIn(wanted, caught.exception.text())

    def test_files_are_taken_to_their_limits(self):
        line = "# a remark that says nothing at all about the pieces of this card, and goes on for quite a while"
        for ending in ("txt", "csv", "json", "xlsx"):
            for lines, fits in ((200, True), (201, False)):
                rows = rows_of("\n".join([line] * lines), KNOWN, SIXTEENTHS)
                write = {"csv": write_csv, "xlsx": write_xlsx, "json": lambda rows: write_json(rows, "", "in16")}
                data = "\n".join([line] * lines).encode() if ending == "txt" else write[ending](rows)
                with self.subTest(ending=ending, lines=lines):
                    if fits:
                        self.assertEqual(read_file(f"list.{ending}", data).text.count("\n"), lines - 1)
                        continue
                    with self.assertRaisesRegex(CutListError, "200 lines"):
                        read_file(f"list.{ending}", data)
        read_file("list.txt", b"#" * 500_000)
        with self.assertRaisesRegex(CutListError, "larger than"):
            read_file("list.txt", b"#" * 500_001)
        cell = "name,size,paper\r\n{},4 x 5,brass".format
        self.assertEqual("a" * 400, read_file("list.csv", cell("a" * 400).encode()).table.rows[0][0])
        with self.assertRaisesRegex(CutListError, "over 400"):
            read_file("list.csv", cell("a" * 401).encode())


class NotesTests(TestCase):
    NOTES = """\
Telescope Brass:
 - base 8-1/2" by 5-1/2", scored at 4 1/4
 * (2) strips - 1/2 x 5 1/2
10.5 x 14.8 cm mat (midnight dome)
cut two 1 7/8 by 5 door panels from star chart
3 7/8" wide x 5 1/8" tall panel, chalk moon (qty 2)
remember ribbon
midnight: 4.25×5.5 inside panel x2
Star Chart - 1,5 x 3 - 3 pcs tail
Sentiment 0.3 x 2 chalk
2 1/8 x 2 3/4 tag of star"""

    def test_everyday_notes_become_lines(self):
        found = read_notes(self.NOTES, KNOWN, SIXTEENTHS)
        self.assertEqual(
            [each.line for each in found],
            [
                "",
                'Base  8½" by 5½"  Telescope Brass  score 4¼',
                "2 Strips  ½ x 5½  Telescope Brass",
                "Mat  10.5 x 14.8 cm  Midnight Dome",
                "2 Door panels  1 7/8 by 5  Star Chart",
                '2 Panel  3 7/8" x 5 1/8"  Chalk Moon',
                "# remember ribbon",
                "2 Inside panel  4.25x5.5  Midnight Dome",
                "3 Tail  1,5 x 3  Star Chart",
                "Sentiment 0.3 x 2 chalk",
                "Tag  2 1/8 x 2¾  Star Chart",
            ],
        )
        self.assertEqual([each.problem for each in found], [False] * 9 + [True, False])
        self.assertIn("nearest marks", found[9].why)

    def test_every_line_without_a_problem_is_one_the_reader_takes(self):
        lines = [each.line for each in read_notes(self.NOTES, KNOWN, SIXTEENTHS) if each.line and not each.problem]
        self.assertEqual([r.error for r in read_list("\n".join(lines), KNOWN)], [None] * len(lines))

    def test_a_paper_that_could_be_two_is_asked_about(self):
        many = type(KNOWN)((*KNOWN.papers, replace(KNOWN.papers[0], key="rays", name="Brass Rays")))
        found = read_notes("Telescope Brass:\nmat 4 x 5 (brass)", many, SIXTEENTHS)[1]
        self.assertTrue(found.problem)
        self.assertIn("could be", found.why)

    @given(st.text(alphabet="ab 0123456789/¼½x×#.,-()\n\"'scoreqtybrass", max_size=150))
    def test_no_notes_break_it(self, notes):
        for each in read_notes(notes, KNOWN, SIXTEENTHS):
            # Several spaces are one.
            self.assertIn(" ".join(each.note.split()), " ".join(notes.split()))


class EditTests(TestCase):
    def written(self, line: str):
        return read_list("card 4 x 4 side fold\nBase brass\n" + line, KNOWN, SIXTEENTHS)[-1].written

    def test_a_length_is_stepped_by_a_mark_at_the_caret(self):
        line = "2 Strips ½ x 5½ brass"
        for caret, steps, wanted in (
            (9, 1, "2 Strips 9/16 x 5½ brass"),
            (14, -1, "2 Strips ½ x 5 7/16 brass"),
            (21, 2, "2 Strips ½ x 5 5/8 brass"),
            (0, 1, "3 Strips ½ x 5½ brass"),
            (0, -9, "1 Strips ½ x 5½ brass"),
            (9, -99, "2 Strips 1/16 x 5½ brass"),
        ):
            self.assertEqual(step_length(line, caret, steps, SIXTEENTHS)[0], wanted)
        text, caret = step_length("Mat 105 x 148 mm brass", 6, 1, MILLIMETRES)
        self.assertEqual((text, text[:caret]), ("Mat 105.5 x 148 mm brass", "Mat 105.5"))
        self.assertEqual(step_length("# nothing 4", 8, 1, SIXTEENTHS)[0], "# nothing 4")
        # The last length before the caret; before all of them the first.
        line = "Mat 4 x 5¼ brass flush left ½"
        self.assertEqual(step_length(line, 20, 1, SIXTEENTHS), ("Mat 4 x 5 5/16 brass flush left ½", 14))
        self.assertEqual(step_length(line, 0, 1, SIXTEENTHS), ("Mat 4 1/16 x 5¼ brass flush left ½", 10))

    def test_a_remark_without_words_stays_a_remark(self):
        empty = Cells(kind="remark")
        self.assertEqual(line_of(empty), "#")
        self.assertEqual(line_of(replace(empty, note="cut first")), "# cut first")
        (reading,) = read_list("#", KNOWN)
        self.assertIsNone(reading.piece)

    def test_a_tool_is_renamed_where_it_is_the_tool_and_nowhere_else(self):
        text = "Circles panel 4 x 4 chalk\nCircles dot 1 x 1 chalk die circles 1 # circles, as before"
        lines = rename_tool(text, "Circles", "Round dies", KNOWN, SIXTEENTHS).split("\n")
        self.assertEqual(lines[0], text.split("\n", maxsplit=1)[0])
        self.assertEqual(lines[1], "Circles dot 1 x 1 chalk die Round dies 1 # circles, as before")
        self.assertEqual(rename_tool(text, "Disc punch", "Hole punch", KNOWN, SIXTEENTHS), text)

    def test_size_rule_and_place_are_changed_and_nothing_else(self):
        written = self.written("2 Star  1½ x 1½   Telescope Brass  left ½ tilted 5 top 1 # keep me")
        one = TICKS_PER_INCH
        self.assertEqual(
            with_size(written, 2 * one, one * 5 // 4, "in"),
            "2 Star  2 x 1¼   Telescope Brass  left ½ tilted 5 top 1 # keep me",
        )
        self.assertEqual(with_place(written, {}, "in"), "2 Star  1½ x 1½   Telescope Brass tilted 5  # keep me")
        self.assertTrue(with_place(written, {"left": one}, "in").endswith("tilted 5  left 1  # keep me"))
        self.assertIn("tilted 9", with_rule(written, "tilt", "tilted 9"))
        self.assertEqual(with_size(self.written("Mat ⅛ border on base chalk"), one, one, "in"), "Mat 1 x 1 chalk")

    def test_a_piece_that_is_not_right_yet_has_cells_to_mend(self):
        reading = read_list("2 Mat 4 x 5¼ chlak upright # soon", KNOWN)[0]
        self.assertEqual(cells_of(reading).kind, "unread")
        cells = editable_cells(reading)
        self.assertEqual((cells.count, cells.name, cells.size, cells.paper), ("2", "Mat", "4 x 5¼", "chlak"))
        self.assertEqual((cells.rules, cells.note), ("upright", "soon"))

    def test_a_whole_card_survives_the_table(self):
        rows = rows_of(GATE, KNOWN, SIXTEENTHS)
        self.assertEqual([row.kind for row in rows], ["card", *["piece"] * 7])
        self.assertEqual(rows[2].size, "⅛ border")
        self.assertEqual(card(read_csv(write_csv(rows)).text).pieces, card(GATE).pieces)
