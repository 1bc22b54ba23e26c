"""Tables, lines and entries at their limits: the last that is taken whole, and the first that is refused."""

import csv
import io
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from zester.core.csv_files import guarded, open_csv, unguarded, write_csv
from zester.core.errors import ZesterError
from zester.core.kits.people_table import lines_of_csv
from zester.core.lengths import SIXTEENTHS, TICKS_PER_INCH, parse_length, show_length
from zester.core.paper_lines import read_papers
from zester.core.stock.ledger import KINDS, MOST, difference, signed
from zester.core.stock.offcut_lines import read_offcuts
from zester.core.stock.shelf_files import offcut_lines, paper_lines, stock_rows
from zester.core.stock.tests.test_stock import PAPERS


class OffcutLimitTests(TestCase):
    def one(self, line: str):
        (read,) = read_offcuts(line, PAPERS)
        return read.error.what if read.error else read.offcut

    def test_lines_counts_and_places(self):
        self.assertEqual(len(read_offcuts("telescope 4 x 6\n" * 200, PAPERS)), 200)
        read = read_offcuts("telescope 4 x 6\n" * 201, PAPERS)
        self.assertEqual((len(read), read[200].error.what), (201, "200 lines at once are the most"))
        self.assertIsNone(read[199].error)
        self.assertEqual(self.one("telescope 4 x 6, 1000").count, 1000)
        self.assertEqual(self.one("telescope 4 x 6, 1001"), "1,001 offcuts of one size")
        self.assertEqual(self.one("telescope 4 x 6, 1").count, 1)
        self.assertEqual(self.one(f"telescope 4 x 6, {'a' * 80}").place, "a" * 80)
        self.assertEqual(self.one(f"telescope 4 x 6, {'a' * 81}"), "A place of 81 letters")

    def test_sizes_and_units(self):
        self.assertEqual(self.one("telescope 8½ x 11").width, TICKS_PER_INCH * 17 // 2)
        self.assertEqual(self.one("telescope 11 x 8½").width, TICKS_PER_INCH * 11)
        self.assertIn("larger than a sheet", self.one("telescope 8 9/16 x 11"))
        self.assertIn("larger than a sheet", self.one("telescope 8½ x 11 1/16"))
        for text in ("harbour 100 x 148 mm", "harbour 10 x 14.8 cm", "2 harbour 100 x 148 mm"):
            self.assertEqual(self.one(text).height, 148 * 320, text)
        self.assertEqual(self.one('telescope 4 x 6"').height, 6 * TICKS_PER_INCH)
        for edge in ("top", "left", "right", "bottom"):
            self.assertEqual(self.one(f"telescope 4 x 6, top on the {edge}").up, edge)
        self.assertIn("said twice", self.one("telescope 4 x 6, top on the left, up at the right"))
        self.assertIn("said twice", self.one("telescope 4 x 6, box one, box two"))
        self.assertIn("not understood", self.one("telescope 4 x 6, ??"))


class LedgerLimitTests(TestCase):
    def test_every_kind_of_entry_has_its_sign(self):
        signs = {"bought": 1, "left": 1, "found": 1, "used": -1, "spoiled": -1, "given": -1}
        self.assertEqual(set(KINDS), {*signs, "counted", "corrected"})
        for kind, sign in signs.items():
            self.assertEqual(signed(kind, 1), sign)
            with self.assertRaises(ZesterError):
                signed(kind, -1)
        for number in (-3, 3):
            self.assertEqual((signed("counted", number), signed("corrected", number)), (number, number))
        self.assertEqual((difference(0, 0), difference(3, MOST)), (0, MOST - 3))
        with self.assertRaises(ZesterError):
            difference(0, MOST + 1)


class TableLimitTests(TestCase):
    def table(self, rows: int, head: str = "name", cell: str = "Moss") -> bytes:
        return (f"{head}\n" + f"{cell}\n" * rows).encode()

    def test_rows(self):
        self.assertEqual(len(open_csv(self.table(9), 10)), 10)
        # One more than there may be is read, so that it can be said.
        self.assertEqual(len(open_csv(self.table(40), 10)), 11)
        self.assertEqual(paper_lines(self.table(500)).count("\n"), 499)
        for read, head, cell in (
            (paper_lines, "name", "Moss"),
            (offcut_lines, "paper,size", "Moss,4 x 6"),
            (stock_rows, "paper,on hand", "Moss,3"),
        ):
            read(self.table(500, head, cell))
            with self.assertRaisesRegex(ZesterError, "more than 500 rows"):
                read(self.table(501, head, cell))
        self.assertEqual(len(lines_of_csv(self.table(500))), 500)
        with self.assertRaisesRegex(ZesterError, "more than 500 people"):
            lines_of_csv(self.table(501))

    def test_bytes(self):
        rest = b"a,b\n" + b"x" * (1_000_000 - 4)
        with self.assertRaises(ZesterError) as caught:
            open_csv(rest + b"x", 10)
        self.assertEqual((caught.exception.what, caught.exception.mend), ("The file has 1,000 kB", "Up to 1,000 kB"))
        self.assertEqual(len(open_csv(b"a\n" * 500_000, 10)), 11)

    def test_cells_that_look_like_formulas_come_back_as_they_were(self):
        for cell in ("=1+1", "+4", "-2", "@home", "'quoted", "\tx", "'", "plain", "'plain"):
            self.assertEqual(unguarded(guarded(cell)), cell)
        self.assertEqual((guarded("=1"), guarded(-3)), ("'=1", -3))
        self.assertEqual((unguarded("'plain"), unguarded("''plain")), ("'plain", "'plain"))
        self.assertEqual(write_csv(("a",), [(None,), ("=x",)]), b'\xef\xbb\xbfa\r\n""\r\n\'=x\r\n')

    @settings(max_examples=400)
    @given(st.lists(st.lists(st.text(alphabet="=+-@'\";\t|, \na1", max_size=8), min_size=2, max_size=2), max_size=3))
    def test_no_cell_is_a_formula_with_any_separator_and_all_come_back(self, rows):
        written = write_csv(("a", "b"), rows)
        for separator in ",;\t|":
            opened = csv.reader(io.StringIO(written.decode("utf-8-sig"), newline=""), delimiter=separator)
            found = [cell for row in opened for cell in row if cell.lstrip(" ").startswith(("=", "+", "-", "@"))]
            # What begins with a space at the start of its own cell is text: a spreadsheet takes it as it is written.
            self.assertEqual([cell for cell in found if not cell.startswith(" ")], [], (separator, written))
        back = csv.reader(io.StringIO(written.decode("utf-8-sig"), newline=""))
        self.assertEqual([[unguarded(cell) for cell in row] for row in back][1:], rows)

    def test_papers_written_in_a_line(self):
        def told(line: str):
            (read,) = read_papers(line)
            return read.error.what if read.error else read.paper

        self.assertEqual(told("Moss; letter; pack of 1").pack, 1)
        self.assertIn("pack of 0", str(told("Moss; letter; pack of 0")))


class LengthTests(TestCase):
    def test_fractions_are_written_close_to_a_number_and_apart_from_nothing(self):
        for text, eighths in (("4¼", 34), ("¼", 2), ("4 ¼", 34), ("4-1/4", 34), ("0.25", 2), (",5", 4), ("4,5", 36)):
            self.assertEqual(parse_length(text, SIXTEENTHS), eighths * TICKS_PER_INCH // 8, text)
        shown = [show_length(sixteenths * TICKS_PER_INCH // 16, "in") for sixteenths in (1, 2, 16, 17)]
        self.assertEqual(shown, ["1⁄16", "1⁄8", "1", "1\u200a1⁄16"])
