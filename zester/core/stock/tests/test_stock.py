"""The ledger's rules, offcuts as lines, tables."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from zester.core.errors import ZesterError
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.pieces import KnownPaper
from zester.core.stock.ledger import MOST, Held, Wanted, difference, open_for, signed, taken_before
from zester.core.stock.offcut_lines import OffcutLine, read_offcuts
from zester.core.stock.shelf_files import offcut_lines, paper_lines, stock_rows

INCH, MM = TICKS_PER_INCH, TICKS_PER_MM
PAPERS = [
    KnownPaper(key="b", name="Telescope Brass", width=17 * INCH // 2, height=11 * INCH),
    KnownPaper(key="r", name="Brass Rays", width=12 * INCH, height=12 * INCH),
    KnownPaper(key="h", name="Harbour Wind", width=210 * MM, height=297 * MM),
]


def off(paper: str, width: int, height: int, **more) -> OffcutLine:
    return OffcutLine(paper=paper, width=width, height=height, **more)


class LedgerTests(TestCase):
    def test_an_entry_has_its_kinds_sign(self):
        self.assertEqual(
            [signed(kind, 3) for kind in ("bought", "left", "spoiled", "used", "given")], [3, 3, -3, -3, -3]
        )
        self.assertEqual(signed("corrected", -4), -4)
        for kind, number in (("bought", 0), ("spoiled", -1), ("bought", 10**9)):
            with self.assertRaises(ZesterError):
                signed(kind, number)

    def test_an_entry_has_its_limits(self):
        self.assertEqual((signed("bought", MOST), signed("corrected", -MOST)), (MOST, -MOST))
        for kind, number, words in (
            ("bought", 0, "0 sheets"),
            ("corrected", -MOST - 1, "at once"),
            ("used", -1, "-1 were"),
        ):
            with self.assertRaisesRegex(ZesterError, words):
                signed(kind, number)
        self.assertEqual(signed("counted", 0), 0)

    def test_a_stock_take_books_what_differs(self):
        self.assertEqual((difference(7, 5), difference(-2, 0), difference(5, 5)), (-2, 2, 0))
        with self.assertRaises(ZesterError):
            difference(5, -1)

    @given(
        st.integers(-5, 60),
        st.lists(st.tuples(st.sampled_from("abcd"), st.integers(0, 30)), max_size=6),
    )
    def test_who_stands_first_is_served_first_and_nobody_plans_with_what_others_have(self, on_hand, rows):
        wants = [Wanted(who=who, count=count) for who, count in rows]
        names = [who for who, _ in rows]
        for who in "abcd":
            place = names.index(who) if who in names else len(names)
            self.assertEqual(taken_before(who, wants), sum(count for _, count in rows[:place]))
            others = sum(count for name, count in rows if name != who)
            self.assertEqual(open_for(who, on_hand, wants), max(0, on_hand - others))

    def test_what_is_free_may_be_less_than_nothing_and_is_then_said(self):
        self.assertEqual((Held(on_hand=3, reserved=5).free, Held(on_hand=3, reserved=5).lacking), (-2, 2))
        self.assertEqual((Held(on_hand=None, reserved=5).free, Held(on_hand=None, reserved=5).lacking), (None, 0))


class OffcutLineTests(TestCase):
    def test_what_is_written_is_read_as_meant(self):
        for line, meant in [
            ("telescope 4¼ x 6, 2", off("b", 17 * INCH // 4, 6 * INCH, count=2)),
            (
                "rays 3 x 11, top on the left, box by the window",
                off("r", 3 * INCH, 11 * INCH, up="left", place="box by the window"),
            ),
            ("3 harbour wind 100 x 148 mm", off("h", 100 * MM, 148 * MM, count=3)),
            ("4 x 5, harbour", off("h", 4 * INCH, 5 * INCH)),
            ("harbour 10 x 14.8 cm; x4", off("h", 100 * MM, 148 * MM, count=4)),
        ]:
            with self.subTest(line):
                (read,) = read_offcuts(line, PAPERS)
                self.assertEqual((read.error and read.error.advice(), read.offcut), (None, meant))

    def test_what_is_not_clear_is_asked(self):
        for line, words in [
            ("telescope", "No size is written"),
            ("brass 4 x 6", "could be"),
            ("moon 4 x 6", "No paper is called"),
            ("telescope 4 x 6, 2, 3", "said twice"),
            ("telescope 4 x 6, 0", "From 1"),
            ("telescope 9 x 12", "larger than a sheet"),
            ("telescope 4.3 x 6", "nearest marks"),
            ("telescope 4 x 6 and 3 x 3", "Two sizes"),
            ("telescope 4 x 6, 99999", "From 1"),
        ]:
            with self.subTest(line):
                (read,) = read_offcuts(line, PAPERS)
                self.assertIn(words, read.error.advice())

    @given(st.text(max_size=80))
    def test_no_line_breaks_the_reader(self, text):
        for read in read_offcuts(text, PAPERS):
            self.assertNotEqual(read.offcut is None, read.error is None)


class StockTableTests(TestCase):
    def test_a_table_of_offcuts_is_lines(self):
        data = b"paper,size,count,place,top\nTelescope Brass,4 1/4 x 6,2,drawer one,left\n"
        (read,) = read_offcuts(offcut_lines(data), PAPERS)
        self.assertEqual(
            read.offcut,
            off("b", 17 * INCH // 4, 6 * INCH, count=2, up="left", place="drawer one"),
        )

    def test_tables_of_papers_and_of_stock(self):
        data = b"Name;Size;Kind;Price;On hand;Pack;Weight\nLagoon;letter;card;0,4;20;25;216\n"
        self.assertEqual(paper_lines(data), "Lagoon; letter; card; 0.40 a sheet; 20 on hand; pack of 25; 216 gsm")
        self.assertEqual(stock_rows(b"paper,on hand\nLagoon,7\n"), [("Lagoon", "", "7")])
        for read, heads in (
            (paper_lines, b"size\n1 x 1\n"),
            (offcut_lines, b"paper\nx\n"),
            (stock_rows, b"a,b\n1,2\n"),
            (stock_rows, b""),
        ):
            with self.assertRaises(ZesterError):
                read(heads)
