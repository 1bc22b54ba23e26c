"""Jobs of a piece: each with its own time, hands and drying; what could belong to two is asked. By hand."""

from unittest import TestCase

from zester.core.care import care_of
from zester.core.cutlist.notation import read_list
from zester.core.cutting.handwork import handwork
from zester.core.errors import Question
from zester.core.tests.test_piece_words import KNOWN

BEFORE, CLASS = "before", "class"


def piece_of(line: str):
    """The piece a line asks for."""
    (reading,) = read_list(line, KNOWN)
    if reading.error:
        raise reading.error
    return reading.piece


class JobsTests(TestCase):
    def test_each_job_has_what_is_said_of_it(self):
        for line, jobs in {
            "Layer 4 x 5¼ chalk, embossed clouds before class, washed in class, dry first": [
                ("embossed", BEFORE, "", ""),
                ("washed", CLASS, "", "first"),
            ],
            "Tag 1 x 2 chalk die-cut before class, stamped in class": [
                ("die-cut", BEFORE, "", ""),
                ("stamped", CLASS, "", ""),
            ],
            "Tag 1 x 2 chalk die-cut before class by Finn, stamped in class, coloured in class by Orla": [
                ("die-cut", BEFORE, "Finn", ""),
                ("stamped", CLASS, "", ""),
                ("coloured", CLASS, "Orla", ""),
            ],
            # One time for what stands before it; in front of all it is that of the first.
            "Tag 1 x 2 chalk painted and stamped in class": [("painted", CLASS, "", ""), ("stamped", CLASS, "", "")],
            "Sun 2 x 2 chalk dry first painted in class": [("painted", CLASS, "", "first")],
            "Star 1 x 1 brass before class": [("", BEFORE, "", "")],
            "Tag 1 x 2 chalk painted, dry first, stamped": [("painted", "", "", "first"), ("stamped", "", "", "")],
            # What a piece has by its form goes with the job it is written with.
            "Frame 4 x 5 chalk window 2 x 3 before class, stamped in class": [
                ("window", BEFORE, "", ""),
                ("stamped", CLASS, "", ""),
            ],
            "Frame 4 x 5 chalk stamped in class window 2 x 3": [("stamped", CLASS, "", ""), ("window", CLASS, "", "")],
            # The tool that gives the size is used before anything else; a time that no job has is about it.
            "Seal circles no. 3 chalk stamped in class": [("die-cut", "", "", ""), ("stamped", CLASS, "", "")],
            "Seal circles no. 3 chalk in class": [("die-cut", CLASS, "", "")],
            "Seal 2 x 2 chalk stamped, die-cut circles no. 3": [("stamped", "", "", ""), ("die-cut", "", "", "")],
        }.items():
            with self.subTest(line):
                found = [(job.what, job.when, job.by, job.dries) for job in piece_of(line).jobs]
                self.assertEqual(found, jobs)

    def test_in_other_words_the_order_of_the_line_tells(self):
        for line, jobs in {
            "A chalk layer, 4 by 5, die-cut before class and then to be stamped by the participants": [
                ("die-cut", BEFORE),
                ("stamped", CLASS),
            ],
            "A layer of chalk, 4 by 5, washed in class, embossed with clouds before class": [
                ("washed", CLASS),
                ("embossed", BEFORE),
            ],
        }.items():
            (reading,) = read_list(line, KNOWN)
            with self.subTest(line):
                self.assertTrue(reading.meant)
                self.assertEqual([(job.what, job.when) for job in reading.piece.jobs], jobs)
                self.assertEqual(piece_of(reading.meant), reading.piece)

    def test_what_could_belong_to_two_is_asked_with_every_reading(self):
        for line, asked, readings in (
            (
                "Tag 1 x 2 chalk embossed before class in class",
                "Embossed before class or in class?",
                [[("embossed", BEFORE)], [("embossed", CLASS)]],
            ),
            (
                "Tag 1 x 2 chalk embossed before class, stamped",
                "When is it stamped?",
                [[("embossed", BEFORE), ("stamped", BEFORE)], [("embossed", BEFORE), ("stamped", CLASS)]],
            ),
            (
                "Sun 2 x 2 chalk painted, dry first, stamped in class",
                "When is it painted?",
                [[("painted", BEFORE), ("stamped", CLASS)], [("painted", CLASS), ("stamped", CLASS)]],
            ),
            (
                "Layer 4 x 5 chalk washed in class, with clouds",
                "When is it embossed?",
                [[("washed", CLASS), ("embossed", BEFORE)], [("washed", CLASS), ("embossed", CLASS)]],
            ),
            # Only the time that is one too many is taken away, not those of other jobs.
            (
                "Tag 1 x 2 chalk painted in class, stamped before class in class",
                "Stamped before class or in class?",
                [[("painted", CLASS), ("stamped", BEFORE)], [("painted", CLASS), ("stamped", CLASS)]],
            ),
            (
                "Star 1 x 1 brass before class in class",
                "Done before class or in class?",
                [[("", BEFORE)], [("", CLASS)]],
            ),
        ):
            (reading,) = read_list(line, KNOWN)
            with self.subTest(line):
                self.assertIsInstance(reading.error, Question)
                self.assertEqual(reading.error.what, asked)
                pieces = [piece_of(choice.line) for choice in reading.error.choices]
                self.assertEqual([[(job.what, job.when) for job in piece.jobs] for piece in pieces], readings)
        (reading,) = read_list("Tag 1 x 2 chalk stamped by Finn by Orla", KNOWN)
        self.assertIn("Write who after each", reading.error.mend)

    def test_every_job_is_done_at_its_time_and_told_so(self):
        layer = piece_of("Layer 4 x 5¼ chalk, embossed clouds before class by Finn, washed in class, dry first")
        works = [(work.what, work.when, work.by, work.first) for work in handwork(layer, "in", KNOWN.tools)]
        self.assertEqual(works, [("emboss, with Clouds", BEFORE, "Finn", False), ("wash with colour", CLASS, "", True)])
        self.assertEqual(care_of(layer), ["embossed before class by Finn", "washed in class, dry first"])
        frame = piece_of("Frame 4 x 5 chalk window 2 x 3 before class, stamped in class # mind the rim")
        self.assertEqual(care_of(frame), ["opening cut before class", "stamped in class", "mind the rim"])
        self.assertEqual([work.when for work in handwork(frame, "in")], [BEFORE, CLASS])

    def test_a_base_may_come_scored_or_folded(self):
        told = {}
        for line, jobs in {
            "Base brass scored before class": [("score", BEFORE)],
            "Base brass scored and folded before class, stamped in class": [
                ("score", BEFORE),
                ("fold", BEFORE),
                ("stamped", CLASS),
            ],
            "Base 8½ x 5½ brass score 4¼ folded before class": [("score", BEFORE), ("fold", BEFORE)],
            "Base brass stamped in class": [("stamped", CLASS)],
        }.items():
            base = read_list(f"card 4¼ x 5½ side fold\n{line}", KNOWN)[1].piece
            with self.subTest(line):
                self.assertEqual([(job.what, job.when) for job in base.jobs], jobs)
                self.assertEqual(base.score.places, (4 * 8128 + 2032,))
                told[line.partition("brass ")[2]] = care_of(base)
        self.assertEqual(
            told["scored and folded before class, stamped in class"], ["folded before class", "stamped in class"]
        )
        self.assertEqual(told["score 4¼ folded before class"], ["folded before class"])
        (reading,) = read_list("Tag 2 x 2 brass folded", KNOWN)
        self.assertEqual(reading.error.what, "Folded where?")
