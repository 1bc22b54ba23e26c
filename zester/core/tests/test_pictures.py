"""Sheets of pictures: what is written of them, and how many give what is wanted. By hand."""

from unittest import TestCase

from zester.core.care import care_of
from zester.core.cutlist.notation import read_list
from zester.core.cutting.handwork import handwork
from zester.core.errors import ZesterError
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.pictures import Pictures, read_pictures
from zester.core.pieces import KnownPaper

NIGHT = KnownPaper(
    key="night", name="Night Pictures", width=6 * INCH, height=8 * INCH, pictures=read_pictures("3 x 4: 4 owl, 8 moons")
)
PLAIN = KnownPaper(key="plain", name="Chalk Moon", width=6 * INCH, height=6 * INCH)


class PicturesTests(TestCase):
    def test_what_is_written(self):
        for text, pictures in {
            "3 x 4": Pictures(3, 4),
            "3×4: 4 owl, 4 moon; 4 star": Pictures(3, 4, (("owl", 4), ("moon", 4), ("star", 4))),
            "2 by 2: owl, Owl": Pictures(2, 2, (("owl", 2),)),
            "": None,
        }.items():
            self.assertEqual(read_pictures(text), pictures)
        for text, said in {
            "12": "How do the pictures lie?",
            "0 x 4": "How do the pictures lie?",
            "20 x 20": "400 pictures, and a sheet has room for 100",
            "2 x 2: 5 owl": "5 pictures are named, and a sheet has room for 4",
            "2 x 2: 4": "“4” names no pictures",
        }.items():
            with self.assertRaises(ZesterError) as found:
                read_pictures(text)
            self.assertIn(said, found.exception.advice())

    def test_a_sheet_gives_only_so_many_of_each(self):
        sheet = read_pictures("3 x 4: 4 owl, 8 moon")
        for wanted, sheets in (
            ({"owl": 4}, 1),
            ({"owl": 5}, 2),
            ({"owl": 4, "moon": 8}, 1),
            ({"owl": 9, "moon": 3}, 3),
            ({"*": 13}, 2),
            # Any will do of what is left of those that are named.
            ({"owl": 9, "*": 27}, 3),
            ({"owl": 9, "*": 28}, 4),
            ({}, 0),
        ):
            self.assertEqual(sheet.sheets(wanted), sheets, wanted)

    def test_a_piece_may_ask_for_a_picture(self):
        for line, picture in {
            "Owl one picture of an owl night pictures top 1": "owl",
            "Moon picture of the moon night pictures": "moons",
            "2 Bird picture night pictures raised": "*",
        }.items():
            (reading,) = read_list(line, [NIGHT, PLAIN])
            self.assertIsNone(reading.error, reading)
            piece = reading.piece
            self.assertEqual(
                (piece.picture, piece.width, piece.height, piece.turn), (picture, 2 * INCH, 2 * INCH, False)
            )
        (owl,) = read_list("Owl one picture of an owl night pictures", [NIGHT])
        self.assertEqual([work.what for work in handwork(owl.piece, "in")], ["cut out the picture of owl"])
        self.assertEqual(care_of(owl.piece), ["picture of owl"])

    def test_what_is_no_picture_is_said(self):
        for line, said in {
            "Owl picture of a fox night pictures": "No picture of Night Pictures is “fox”",
            "Owl one picture chalk moon": "Chalk Moon carries no pictures",
        }.items():
            (reading,) = read_list(line, [NIGHT, PLAIN])
            self.assertIn(said, reading.error.text())
        # Without such a paper the word is one as any other.
        (reading,) = read_list("Picture 3 x 4 chalk moon", [PLAIN])
        self.assertEqual((reading.piece.name, reading.piece.picture), ("Picture", ""))
        (reading,) = read_list("Picture frame 3 x 4 chalk moon", [NIGHT, PLAIN])
        self.assertEqual(reading.piece.picture, "")
