"""Lines in the manner of twenty writers: read as meant, or asked about, and never read as something else."""

from collections import Counter
from dataclasses import replace
from unittest import TestCase

from zester.core.cutlist.notation import read_list
from zester.core.cutlist.tests.writers import (
    ABOVE,
    FILES,
    INCH,
    NOTES,
    SHELF,
    Line,
    lines_of,
    notes_of,
    verdict,
    verdict_of_note,
)
from zester.core.errors import Question
from zester.core.lengths import MILLIMETRES, SIXTEENTHS, TICKS_PER_MM
from zester.core.pieces import Known
from zester.core.tests.share import each_of


def question(text: str) -> Question:
    """What is asked of a line below a base, a mat and a panel."""
    return read_list(ABOVE["in"] + text, SHELF, SIXTEENTHS)[-1].error


class WritersTests(TestCase):
    def test_no_line_is_read_as_something_else_and_nearly_all_as_meant(self):
        for name in FILES:
            found = Counter()
            for line in each_of(lines_of(name)):
                what, how = verdict(line)
                found[what] += 1
                with self.subTest(writer=line.writer, text=line.text):
                    self.assertNotEqual(what, "wrong", f"{line.meant} was meant, read: {how}")
            self.assertGreaterEqual(found["meant"] / found.total(), 0.95, name)

    def test_whole_notes_are_read_as_meant_or_asked_about(self):
        for name in NOTES:
            lines = [row for note in notes_of(name) for row in verdict_of_note(note)]
            for text, meant, how, read in each_of(lines):
                with self.subTest(text=text):
                    self.assertNotEqual(how, "wrong", f"{meant} was meant, read: {read}")
            self.assertGreaterEqual(sum(how == "meant" for _, _, how, _ in lines) / len(lines), 0.95, name)

    def test_a_line_that_is_asked_about_can_be_read_in_every_way_that_is_offered(self):
        for name in FILES:
            for line in lines_of(name):
                reading = line.read()
                for choice in reading.error.choices if isinstance(reading.error, Question) else ():
                    for text in choice.line.split("\n"):
                        picked = Line(line.writer, ("^" if line.text.startswith("^") else "") + text, "").read()
                        with self.subTest(text=line.text, choice=text):
                            # Picked, it may ask one thing more.
                            self.assertTrue(picked.error is None or getattr(picked.error, "choices", ()))

    def test_both_readings_are_offered(self):
        for text, wanted in {
            "2 strips ½ x 4 star chart x 3": {2, 3, 6},
            "4 x 5¼ brass or midnight dome": {"Telescope Brass", "Midnight Dome"},
            "Mat 4 x 5¼ telescope brass 3½ x 4": {"3½ x 4", "4 x 5¼"},
            "Panel 2 4 x 3 brass": {"2"},
            "Oval 2 chalk moon": {"oval 2 x 1½", "oval 1½ x 2"},
            "Tag 3 x 3 brass oval 2": {"Tag  3 x 3  Telescope Brass  oval 2 x 1½"},
        }.items():
            lines = [choice.line for choice in question(text).choices]
            with self.subTest(text=text, lines=lines):
                self.assertTrue(all(any(str(each) in line for line in lines) for each in wanted))

    def test_what_is_offered_follows_what_stands_above_and_loses_no_length(self):
        for name in ("Strip", "Tag"):
            text = f'{name} 1 x 4 brass\n" 2 x 3 brass'
            self.assertEqual(read_list(text, SHELF, SIXTEENTHS)[-1].error.choices[0].line, f"{name}  2 x 3 brass")
        for ruler in (MILLIMETRES, SIXTEENTHS):
            for text in ("20 cm ribbon for the kids", "+ 20 cm ribbon, extra", "20 cm ribbon per kit"):
                (reading,) = read_list(text, SHELF, ruler)
                line = reading.error.choices[0].line
                with self.subTest(text=text, line=line):
                    self.assertEqual(read_list(line, SHELF, ruler)[0].bit.length, 200 * TICKS_PER_MM)

    def test_a_paper_may_be_called_after_a_word_that_is_asked_about(self):
        kids = replace(SHELF.papers[0], key="kids", name="Kids Corner")
        (reading,) = read_list("Mat 4 x 5 kids", Known((kids,)), SIXTEENTHS)
        self.assertEqual(reading.piece.paper, "kids")

    def test_headings_say_what_the_columns_below_hold(self):
        for heading, row in (
            ("Qty\tPiece\tW\tH\tPaper", "2\tPanel\t3\t5\tStar Chart"),
            ("Piece;Paper;Width;Height;How many", "Panel;star chart;3;5;2"),
            ("| Paper | W | H | Qty | Name |", "| Star Chart | 3 | 5 | 2 | Panel |"),
        ):
            with self.subTest(heading=heading):
                piece = read_list(f"{heading}\n{row}", SHELF, SIXTEENTHS)[-1].piece
                self.assertEqual((piece.count, piece.name, piece.width, piece.height), (2, "Panel", 3 * INCH, 5 * INCH))
        inches = read_list("Piece;Size (mm);Paper\nPanel;80 x 100;star chart", SHELF, SIXTEENTHS)[-1].piece
        self.assertEqual(inches.width, 80 * TICKS_PER_MM)
        noted = read_list("Qty|Piece|Size|Paper|Notes|for\n1|Tag|2 x 3|star chart|tie it|raised", SHELF, SIXTEENTHS)[-1]
        self.assertEqual((noted.piece.note, noted.piece.raised > 0), ("tie it", True), "no cell is dropped")
        # Without headings three numbers in a row could be read in two ways.
        self.assertIn("Which of the numbers", question("Panel\t2\t3\t5\tStar Chart").what)

    def test_a_line_of_many_sizes_is_asked_about_at_once(self):
        for text in ("1/2 x " * 33, "4 x 5 " * 33, "1 " * 99, "left 1/2, " * 20):
            with self.subTest(text=text[:12]):
                self.assertIsNotNone(question(text[:199]))

    def test_a_paper_that_nobody_knows_is_named_so_that_it_can_be_put_on_the_shelf(self):
        self.assertEqual(question("Mat 4 x 5¼ lagoon").missing, "lagoon")
        self.assertEqual(question("Lagoon blue: mat 4 x 5¼").missing, "Lagoon blue")
        self.assertEqual(question("Mat 4 x 5¼ midnite dome").choices[0].line, "Mat 4 x 5¼ Midnight Dome")
