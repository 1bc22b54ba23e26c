"""Reading cut lists."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from zester.core.cutlist.notation import OVERLAP, read_line, read_list
from zester.core.errors import CutListError, ZesterError
from zester.core.lengths import MILLIMETRES, TICKS_PER_INCH, TICKS_PER_MM
from zester.core.pieces import Known, KnownPaper, Score

INCH = TICKS_PER_INCH
STOCKS = [
    KnownPaper(key="brass", name="Telescope Brass", width=17 * INCH // 2, height=11 * INCH),
    KnownPaper(key="night", name="Midnight Dome", width=17 * INCH // 2, height=11 * INCH),
    KnownPaper(key="chart", name="Star Chart", width=12 * INCH, height=12 * INCH),
    KnownPaper(key="pines", name="Pine Ridge", width=6 * INCH, height=6 * INCH, direction="upright"),
    KnownPaper(key="dust", name="Star Dust", width=6 * INCH, height=6 * INCH),
]


def read(line: str):
    return read_line(line, 1, STOCKS)


class LineTests(TestCase):
    def test_a_whole_line(self):
        piece = read("2 Door mats  1⅞ x 5¼  midnight dome  score 2⅛, 4¼")
        self.assertEqual((piece.count, piece.name, piece.paper), (2, "Door mats", "night"))
        self.assertEqual((piece.width, piece.height), (15 * INCH // 8, 21 * INCH // 4))
        self.assertEqual(piece.score, Score("y", (17 * INCH // 8, 17 * INCH // 4)))

    def test_the_same_line_written_in_everyday_ways(self):
        wanted = read("2 Strip ½ x 5½ telescope brass")
        for line in [
            "2 x Strip ½ × 5½ Telescope Brass",
            "2 of Strip, 1/2 by 5 1/2 in, on brass",
            "2x Strip: .5x5.5 from tele br",
            '2 Strip 0.5" x 5.5" TELESCOPE BRASS # a remark',
        ]:
            with self.subTest(line=line):
                self.assertEqual(read(line), wanted)

    def test_one_is_meant_when_no_count_is_written(self):
        self.assertEqual(read("Mat 4 x 5¼ brass").count, 1)
        self.assertEqual(read("Mat no. 2 4 x 5¼ brass").name, "Mat no. 2")

    def test_scores_run_along_the_longer_side_unless_said(self):
        self.assertEqual(read("Base 8½ x 5½ brass score 4¼").score, Score("x", (17 * INCH // 4,)))
        self.assertEqual(read("Base 5½ x 8½ brass scored at 4¼").score, Score("y", (17 * INCH // 4,)))
        self.assertEqual(read("Base 5½ x 8½ brass score across 2¾").score.axis, "x")
        self.assertEqual(read("Base 8½ x 5½ brass score 6⅜ and 2⅛").score.places, (17 * INCH // 8, 51 * INCH // 8))

    def test_upright_and_one_way_papers_are_not_turned(self):
        self.assertTrue(read("Mat 4 x 5 brass").turn)
        self.assertFalse(read("Mat 4 x 5 brass upright").turn)
        self.assertFalse(read("Mat 4 x 5 brass score 2 upright").turn)
        self.assertFalse(read("Mat 4 x 5 pine").turn)

    def test_empty_lines_and_remarks_are_no_pieces(self):
        self.assertIsNone(read("   "))
        self.assertIsNone(read("# side fold"))

    def test_each_mistake_says_what_and_how_to_mend_it(self):
        mistakes = {
            "Mat 0.3 x 4 brass": "nearest marks are ¼ and 5⁄16",
            "Mat 0 x 4 brass": "more than zero",
            "-2 Mat 4 x 4 brass": "Write 1 to 500",
            "0 Mat 4 x 4 brass": "Write 1 to 500",
            "1000000 Mat 4 x 4 brass": "Write 1 to 500",
            "Mat brass": "No size found",
            "Mat 4 brass": "width × height",
            "Mat 4 x -5 brass": "width × height",
            "Mat 4 x 5": "No paper named",
            "Mat 4 x 5 bras": None,
            "Mat 4 x 5 midnite dome": "Did you mean “Midnight Dome”?",
            "Mat 4 x 5 star": "“Star Chart” or “Star Dust”",
            "Mat 4 x 5 cardboard": "Put it on the shelf first",
            "Mat 9 x 9 brass": "The sheet is 8½ × 11 in",
            "Mat 1 x 7 pine": "larger than a sheet of Pine Ridge",
            "Base 4 x 5 brass score": "score 4¼",
            "Base 4 x 5 brass score 5": "off the piece",
            "Base 4 x 5 brass score 2 3": "Write it like",
        }
        for line, wanted in mistakes.items():
            with self.subTest(line=line):
                if wanted is None:
                    self.assertEqual(read(line).paper, "brass")
                    continue
                with self.assertRaises(ZesterError) as caught:
                    read(line)
                self.assertIn(wanted, caught.exception.advice())

    def test_a_piece_that_only_fits_turned_is_fine_where_it_may_be_turned(self):
        self.assertEqual(read("Band 11 x 1 brass").paper, "brass")
        with self.assertRaises(CutListError) as caught:
            read("Band 11 x 1 brass upright")
        self.assertIn("without turning it", caught.exception.what)

    def test_millimetres(self):
        piece = read_line("Mat 105 x 148 brass score 74", 1, STOCKS, MILLIMETRES)
        self.assertEqual((piece.width, piece.score.places), (105 * TICKS_PER_MM, (74 * TICKS_PER_MM,)))


class ListTests(TestCase):
    def test_pieces_are_numbered_and_wrong_lines_keep_their_place_and_number(self):
        readings = read_list("Mat 4 x 5 brass\n# note\nMat 0.3 x 4 brass\n\nTag 2 x 3 brass", STOCKS)
        self.assertEqual([r.piece.number if r.piece else None for r in readings], [1, None, None, None, 3])
        self.assertEqual([bool(r.error) for r in readings], [False, False, True, False, False])
        self.assertEqual(readings[2].text, "Mat 0.3 x 4 brass")

    def test_a_list_without_end_is_refused_line_by_line(self):
        readings = read_list("Tag 2 x 3 brass\n" * 201, STOCKS)
        self.assertIsNone(readings[199].error)
        self.assertIn("200 lines", readings[200].error.what)

    @given(st.text(alphabet="ab 0123456789/¼½x×#.,-\n\"'scoreupightbrass", max_size=120))
    def test_no_text_breaks_the_reader(self, text):
        readings = read_list(text, STOCKS)
        self.assertEqual([r.text for r in readings], text.splitlines())
        for reading in readings:
            self.assertFalse(reading.piece and reading.error)


class RuleTests(TestCase):
    """What a line may say beyond its size and paper."""

    def one(self, line: str):
        return read_line(line, 1, STOCKS)

    def error(self, text: str) -> str:
        return " ".join(reading.error.text() for reading in read_list(text, STOCKS) if reading.error)

    def test_a_filler_and_a_shape_from_a_middle(self):
        self.assertTrue(self.one("Tag 1 x 3 brass filler").filler)
        piece = self.one("Moon 2 x 2 brass from a middle upright")
        self.assertEqual((piece.from_middle, piece.upright, piece.turn), (True, True, False))

    def test_a_middle_lies_in_the_centre_or_where_it_is_said(self):
        middle = self.one("Mat 4 x 5¼ brass middle 3 x 4").middle
        self.assertEqual((middle.x, middle.y), (INCH // 2, 5 * INCH // 8))
        middle = self.one("Mat 4 x 5¼ middle 3 x 4 at ½, 1 brass").middle
        self.assertEqual((middle.x, middle.y, middle.width, middle.height), (INCH // 2, INCH, 3 * INCH, 4 * INCH))
        self.assertIn("reaches beyond", self.error("Mat 4 x 5¼ brass middle 3 x 4 at 2, 1"))

    def test_matched_pieces_add_up_or_say_why_not(self):
        first, second = (
            r.piece for r in read_list("2 Door 1⅝ x 5 brass match doors\nPanel 2 x 5 brass match Doors", STOCKS)
        )
        self.assertEqual((first.match, second.match, first.below), ("doors", "doors", False))
        self.assertTrue(self.one("Door 2 x 3 brass match doors below").below)
        self.assertIn("Nothing else is matched", self.error("Door 1⅝ x 5 brass match doors"))
        self.assertIn("Matched with what", self.error("Door 1⅝ x 5 brass match"))
        self.assertIn("same height", self.error("Door 1 x 5 brass match d\nPanel 2 x 4 brass match d"))
        self.assertIn("one sheet", self.error("Door 1 x 5 brass match d\nPanel 2 x 5 pine match d"))
        self.assertIn("only filled in", self.error("Door 1 x 5 brass match d filler"))

    def test_the_paper_is_found_beside_all_that(self):
        line = "Mat 4 x 5¼ middle 3 x 4 at ½, 1 telescope brass score 2 # telescope brass"
        self.assertEqual(self.one(line).paper, self.one("Mat 4 x 5¼ telescope brass").paper)


class RoundTests(TestCase):
    """A ribbon round a layer, holes, and where the words “on …” stand."""

    def test_a_ribbon_goes_there_and_back_and_is_tied(self):
        # Twice the width of the layer, and what is left to tie or glue: 4 + 4 and the overlap, nothing more.
        readings = read_list("Base 8½ x 5½ brass\nMat 4 x 5¼ brass\n+ ribbon round mat", Known(tuple(STOCKS)))
        bit = readings[-1].bit
        self.assertEqual((bit.name, bit.around), ("ribbon", 2))
        self.assertEqual(bit.length, 8 * TICKS_PER_INCH + OVERLAP)

    def test_a_second_hole_in_one_piece_is_refused_with_the_mend(self):
        one, other = "window 2 x 3", "hole ⅛"
        for line in (f"Mat 4 x 5 brass {one}", f"Mat 4 x 5 brass {other}"):
            self.assertIsNone(read_list(line, Known(tuple(STOCKS)))[0].error, line)
        error = read_list(f"Mat 4 x 5 brass {one} {other}", Known(tuple(STOCKS)))[0].error
        self.assertIn("Two holes in one piece", error.text())
        self.assertIn("the other goes into a piece of its own", error.text())

    def test_what_a_piece_is_on_stands_where_it_is_written(self):
        for line, said in {
            "Star 1 x 1 brass on mat": "on mat",
            "Star 1 x 1 brass on the mat": "on the mat",
            "Star 1 x 1 brass on  mat  raised": "on  mat",
        }.items():
            written = read_list(f"Mat 4 x 5 brass\n{line}", Known(tuple(STOCKS)))[1].written
            self.assertEqual((written.on, written.of(written.on_span).strip()), ("mat", said), line)

    def test_a_line_of_spaces_is_none_and_one_lost_among_them_is_told_so(self):
        kept, empty, lost, remark = read_list(
            f"Mat 4 x 5 brass{' ' * 150}\n{' ' * 10_000}\n2{' ' * 10_000}\nMat 4 x 5 brass #{' ' * 10_000}keep", STOCKS
        )
        self.assertEqual((kept.piece.name, empty.error, remark.piece.name), ("Mat", None, "Mat"))
        self.assertEqual(lost.error.what, "10,000 spaces stand around these words")
