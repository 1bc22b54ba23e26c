"""Counting pieces for a class."""

from unittest import TestCase

from zester.core.class_job import ShelfPaper, Wishes, class_job
from zester.core.cutlist.pieces import CutPiece
from zester.core.errors import JobError
from zester.core.tally import CardCount, tally


def piece(number: int, count: int, paper: str = "brass") -> CutPiece:
    return CutPiece(number, count, f"piece {number}", 4000, 5000, paper)


class TallyTests(TestCase):
    def test_people_samples_and_spares_are_added_and_said(self):
        card = CardCount("B", "Comet", 2, 1, 3, (piece(1, 1), piece(2, 4)))
        first, second = tally([card], 14)
        self.assertEqual((first.handle, first.count), ("B1", 32))
        self.assertEqual((second.handle, second.count), ("B2", 128))
        self.assertEqual(second.why, "14 people × 2 + 1 sample + 3 spares = 32 cards; 4 in each card: 32 × 4 = 128")

    def test_what_is_nothing_is_left_out_of_the_sum(self):
        self.assertEqual(CardCount("A", "x", 1, 0, 0, ()).sum_in_words(1), "1 person × 1 = 1 card")

    def test_a_card_nobody_makes_needs_nothing_cut(self):
        counts = tally([CardCount("A", "x", 0, 0, 0, (piece(1, 1),))], 14)
        with self.assertRaises(JobError):
            class_job("in", [ShelfPaper("brass", 10_000, 10_000)], counts, Wishes())

    def test_papers_without_pieces_are_left_out_of_the_job(self):
        counts = tally([CardCount("A", "x", 1, 0, 0, (piece(1, 2),))], 5)
        job = class_job("in", [ShelfPaper("chalk", 9, 9), ShelfPaper("brass", 10_000, 10_000)], counts, Wishes())
        self.assertEqual([paper.id for paper in job.papers], ["brass"])
        self.assertEqual(job.papers[0].pieces[0].count, 10)
