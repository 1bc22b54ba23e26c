"""Notes as people keep them: one a line, in every order and notation that was met (common practice, no source)."""

from unittest import TestCase

from zester.core.cards.tests.cards import INCH, KNOWN
from zester.core.cutlist.notation import read_line
from zester.core.cutlist.paste import read_notes
from zester.core.lengths import MILLIMETRES, SIXTEENTHS, TICKS_PER_MM
from zester.core.pieces import Score

MAT = (1, "Mat", 4 * INCH, 21 * INCH // 4, "Telescope Brass")
STRIPS = (2, "Strips", INCH // 2, 11 * INCH // 2, "Star Chart")


def understood(note: str, ruler=SIXTEENTHS) -> tuple:
    """Count, name, width, height and paper of the line a note makes."""
    found = read_notes(note, KNOWN, ruler)[-1]
    assert not found.problem, found
    piece = read_line(found.line, 1, KNOWN, ruler)
    return piece.count, piece.name.capitalize(), piece.width, piece.height, piece.paper


class EverydayNotesTests(TestCase):
    def test_a_mat_however_it_is_written(self):
        for note in (
            "Mat 4 x 5 1/4 Telescope Brass",
            "mat: 4 x 5-1/4, telescope brass",
            'mat - 4" x 5 1/4" - telescope brass',
            "4 x 5¼ mat, brass",
            "4×5.25 brass mat",
            "Telescope Brass: 4 by 5 1/4 mat",
            "telescope brass - mat (4 x 5 1/4)",
            "• Mat, 4 in. by 5 1/4 in., from telescope brass",
            "1) cut a mat 4 x 5.25 out of telescope brass",
            "[ ] Mat 4 x 5 ¼ telescope brass",
            "mat of telescope brass 4 x 5 1/4",
            "Telescope Brass mat 4'' x 5 1/4''",
            "mat 4” wide x 5 1/4” high telescope brass",
            "qty 1 mat 4 x 5 1/4 telescope brass",
            "(1) mat 4 x 5 1/4 telescope brass",
        ):
            with self.subTest(note=note):
                self.assertEqual(understood(note), MAT)

    def test_two_strips_however_they_are_counted(self):
        for note in (
            "2 strips 1/2 x 5 1/2 star chart",
            "two strips ½ x 5½ star chart",
            "(2) strips 1/2 x 5 1/2, star chart",
            "strips 1/2 x 5 1/2 x2 star chart",
            "strips (2x) .5 x 5.5 star chart",
            'star chart: 2 pcs strips 1/2" x 5 1/2"',
            "strips, star chart, 1/2 by 5 1/2, qty: 2",
            "2 of strips 1/2 x 5 1/2 on star chart",
            "cut 2 strips from star chart at 1/2 x 5 1/2",
        ):
            with self.subTest(note=note):
                self.assertEqual(understood(note), STRIPS)

    def test_a_paper_alone_counts_for_what_follows_until_the_next(self):
        found = read_notes("TELESCOPE BRASS\nmat 4 x 5\nstar chart:\nstrip 1 x 5\ntag 2 x 3 brass", KNOWN, SIXTEENTHS)
        papers = [read_line(each.line, 1, KNOWN).paper for each in found if each.line]
        self.assertEqual(papers, ["Telescope Brass", "Star Chart", "Telescope Brass"])
        self.assertEqual(next(each.why for each in found if not each.line), "Telescope Brass for the lines that follow")

    def test_pieces_on_two_lines_and_columns_made_of_spaces(self):
        notes = """mat
4 x 5 1/4 telescope brass
strip 1/2 x 5 1/2 star chart
Qty: 2
base 8 1/2 x 5 1/2 midnight dome
Score at 4 1/4
Tag        2 x 3      chalk moon     3
Qty: 7"""
        found = read_notes(notes, KNOWN, SIXTEENTHS)
        self.assertEqual([each.problem for each in found[:3]], [False] * 3)
        pieces = [read_line(each.line, 1, KNOWN) for each in found[:3]]
        self.assertEqual([piece.count for piece in pieces], [1, 2, 1])
        self.assertEqual(pieces[2].score, Score("x", (17 * INCH // 4,)))
        # Three and then seven: which of the two is asked.
        self.assertTrue(found[3].problem, found[3])

    def test_several_pieces_in_one_line_are_a_line_each(self):
        found = read_notes("border strips brass 2 @ 1/2 x 4, 2 @ 1/2 x 5\ntag 2 x 3 brass", KNOWN, SIXTEENTHS)
        self.assertEqual([each.problem for each in found], [False] * 3)
        sizes = [read_line(each.line, 1, KNOWN, SIXTEENTHS).height for each in found]
        self.assertEqual(sizes, [4 * INCH, 5 * INCH, 3 * INCH])

    def test_scores_and_rules_are_kept(self):
        for note, wanted in {
            "base 8 1/2 x 5 1/2 brass, scored at 4 1/4": Score("x", (17 * INCH // 4,)),
            "base 8 1/2 x 5 1/2 brass (score 2 1/8 and 6 3/8)": Score("x", (17 * INCH // 8, 51 * INCH // 8)),
            "Base: brass 8.5 x 5.5 then score at 4.25": Score("x", (17 * INCH // 4,)),
            "hills 3 x 2 pine ridge upright": None,
        }.items():
            with self.subTest(note=note):
                found = read_notes(note, KNOWN, SIXTEENTHS)[0]
                self.assertFalse(found.problem, found)
                self.assertEqual(read_line(found.line, 1, KNOWN).score, wanted)

    def test_centimetres_and_millimetres(self):
        wanted = (1, "Mat", 95 * TICKS_PER_MM, 138 * TICKS_PER_MM, "Telescope Brass")
        for note in (
            "mat 95 x 138 brass",
            "mat 9.5 x 13.8 cm brass",
            "mat 9,5 cm x 13,8 cm, brass",
            "95mm x 138mm mat (brass)",
            "brass: mat 9.5cm by 13.8cm",
        ):
            with self.subTest(note=note):
                self.assertEqual(understood(note, MILLIMETRES), wanted)

    def test_what_has_no_size_is_a_remark_and_what_has_no_paper_is_asked_about(self):
        found = read_notes("buy more thread\n\nmat 4 x 5\nmat 4 x 5 cardboard", KNOWN, SIXTEENTHS)
        self.assertEqual(found[0].line, "# buy more thread")
        self.assertEqual([each.problem for each in found], [False, True, True])
        self.assertIn("No paper named", found[1].why)

    def test_a_base_that_is_only_scored_gets_its_name(self):
        self.assertEqual(understood("8 1/2 x 5 1/2, scored at 4 1/4, brass")[1], "Base")
        self.assertEqual(understood("4 x 5 brass")[1], "Piece")

    def test_a_line_without_end_is_asked_about_and_spaces_cost_nothing(self):
        found = read_notes("score 1" + " " * 15_000 + "mat 4 x 5 brass\n" + "a" * 500, KNOWN, SIXTEENTHS)
        self.assertEqual(found[0].line, "Mat  4 x 5  Telescope Brass  score 1")
        self.assertIn("A line holds 200 letters", found[1].why)

    def test_notes_without_end_are_cut_off(self):
        self.assertEqual(len(read_notes("mat 4 x 5 brass\n" * 500, KNOWN, SIXTEENTHS)), 200)
