"""The time of a line's jobs, chosen in the table: the words of the line follow."""

from unittest import TestCase

from zester.core.cards.tests.cards import KNOWN
from zester.core.cutlist.edit import cells_of, line_of, time_of, with_time
from zester.core.cutlist.notation import read_list


class TimeTests(TestCase):
    def test_what_a_line_says(self):
        for line, when in {
            "Tag 2 x 3 chalk stamped": "",
            "Tag 2 x 3 chalk stamped in class, left ½": "class",
            "Tag 2 x 3 chalk beforehand stamped": "before",
            "Moon circles no. 4 chalk at home": "home",
            "Tag 2 x 3 chalk embossed before class, stamped in class": None,
            "Tag 2 x 3 chalk": None,
            "+ 3 gems": None,
        }.items():
            (reading,) = read_list(line, KNOWN)
            self.assertEqual(time_of(reading), when, line)

    def test_another_time_is_chosen_and_read_again(self):
        for line in ("Tag 2 x 3 chalk stamped in class, left ½ # mind", "2 Tag 2 x 3 chalk stamped top 1 beforehand"):
            for when in ("before", "class", "home", ""):
                (reading,) = read_list(line, KNOWN)
                cells = cells_of(reading)
                anew = line_of(type(cells)(**(vars(cells) | {"rules": with_time(cells.rules, when)})))
                (again,) = read_list(anew, KNOWN)
                self.assertIsNone(again.error, anew)
                self.assertEqual([job.when for job in again.piece.jobs], [when])
                self.assertEqual((again.piece.place, again.piece.note, again.piece.count), (
                    reading.piece.place, reading.piece.note, reading.piece.count))  # fmt: skip
