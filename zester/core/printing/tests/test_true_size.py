"""True-size guides: nothing is lost, nothing overlaps, all of it is printed."""

from unittest import TestCase

from zester.core.cutting.machine_file import Marks
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.lengths import TICKS_PER_MM as MM
from zester.core.printing.pages import EDGE, FOOT, PAGES
from zester.core.printing.true_size import GAP, Guide, Wanted, guide_pages
from zester.core.tests.share import each_of

MARKS = {"P1": Marks(scores=(("x", 2 * INCH),), outlines=(("circle", INCH, INCH, INCH, INCH),))}


class GuideTests(TestCase):
    def test_every_piece_is_there_at_its_size_and_nothing_overlaps(self):
        sizes = [(4, 5), (3, 3), (1, 9), (8, 5), (12, 12), (2, 2), (7, 9)]
        pieces = [
            Wanted(handle=f"A{k}", name="", width=w * INCH, height=h * INCH, marks=MARKS["P1"])
            for k, (w, h) in enumerate(sizes)
        ]
        for page_size, (wide, high) in PAGES.items():
            pages = guide_pages(pieces, page_size, "in")
            area = 0
            for page in each_of(pages):
                boxes = [(g.x, g.y, g.x + g.width, g.y + g.height) for g in page.guides]
                for k, box in enumerate(boxes):
                    self.assertTrue(
                        box[0] >= EDGE and box[1] >= EDGE and box[2] <= wide - EDGE and box[3] <= high - EDGE
                    )
                    for other in boxes[k + 1 :]:
                        apart = box[2] <= other[0] or other[2] <= box[0] or box[3] <= other[1] or other[3] <= box[1]
                        self.assertTrue(apart)
                area += sum(g.width * g.height for g in page.guides)
            # A piece larger than the page is there in parts, with nothing left out.
            self.assertEqual(area, sum(w * h for w, h in sizes) * INCH * INCH)

    def test_a_piece_larger_than_the_page_is_put_together_from_numbered_parts(self):
        panel = Wanted(handle="A1", name="Panel", width=12 * INCH, height=12 * INCH, marks=MARKS["P1"])
        parts = [guide for page in guide_pages([panel], "letter", "in") for guide in page.guides]
        self.assertEqual([part.title for part in parts], [f"A1 Panel, part {number} of 4" for number in (1, 2, 3, 4)])
        self.assertEqual({part.size for part in parts}, {"12 × 12 in"})
        # Each says where it goes on.
        self.assertEqual([part.open_sides for part in parts], ["rb", "lb", "tr", "lt"])
        wide, high = PAGES["letter"][0] - 2 * EDGE, PAGES["letter"][1] - 2 * EDGE - FOOT
        self.assertEqual([part.width for part in parts], [wide, 12 * INCH - wide] * 2)
        self.assertEqual([part.height for part in parts], [high, high, 12 * INCH - high, 12 * INCH - high])
        # The score line at 2 in runs down the left parts, the hole lies in the first.
        at = EDGE + 2 * INCH
        scores = [[line.points for line in part.lines if line.layer == "score"] for part in parts]
        self.assertEqual([sorted(map(sorted, each)) for each in scores][1::2], [[], []])
        for part, found in zip(parts[::2], scores[::2], strict=True):
            self.assertEqual(sorted(found[0]), [(at, EDGE), (at, EDGE + part.height)])
        self.assertEqual([len(part.lines) for part in parts], [2, 0, 1, 0])

    def test_a_banner_has_a_part_for_every_width_of_the_page(self):
        banner = Wanted(handle="D1", name="Banner", width=20 * INCH, height=8 * INCH, marks=Marks())
        titles = [guide.title for page in guide_pages([banner], "letter", "in") for guide in page.guides]
        self.assertEqual(titles, [f"D1 Banner, part {number} of 3" for number in (1, 2, 3)])

    def test_rows_that_just_fit_share_a_page(self):
        # An A4 page has 10 mm of edge all round and 16 mm of foot: 261 mm are two of 128 with 5 between them.
        self.assertEqual((EDGE, FOOT, GAP), (10 * MM, 16 * MM, 5 * MM))
        for height, pages in ((128, 1), (129, 2)):
            tall = [Wanted(handle=f"E{k}", name="", width=190 * MM, height=height * MM, marks=Marks()) for k in (1, 2)]
            self.assertEqual(len(guide_pages(tall, "a4", "mm")), pages)

    def test_a_piece_as_large_as_the_room_stands_upright_and_whole(self):
        wide, high = PAGES["a4"][0] - 2 * EDGE, PAGES["a4"][1] - 2 * EDGE - FOOT
        for width, height, drawn in ((wide, high, (wide, high)), (high, wide, (wide, high))):
            piece = Wanted(handle="B1", name="Base", width=width, height=height, marks=Marks())
            (page,) = guide_pages([piece], "a4", "mm")
            self.assertEqual([(each.width, each.height) for each in page.guides], [drawn])
            self.assertEqual([each.open_sides for each in page.guides], [""])
        (page, after) = guide_pages([piece, piece], "a4", "mm")
        self.assertEqual((len(page.guides), len(after.guides)), (1, 1))

    def test_pieces_of_a_row_stand_apart(self):
        small = [Wanted(handle=f"C{k}", name="Tag", width=30 * MM, height=20 * MM, marks=Marks()) for k in (1, 2)]
        (page,) = guide_pages(small, "a4", "mm")
        self.assertEqual([(each.x, each.y) for each in page.guides], [(EDGE, EDGE), (EDGE + 30 * MM + GAP, EDGE)])


class WordsTests(TestCase):
    """Their letters have room, or there are none."""

    def guide(self, width: int, height: int) -> Guide:
        return Guide(0, 0, width * MM, height * MM, (), "A1 Mat", "4 × 5 in", "")

    def test_letters_are_as_high_as_there_is_room_for(self):
        # 0.6 of the strip; a line of 6 + 8 + 4 letters of 0.55; 3.2 mm at the most; nothing under 1.4 mm.
        tried = {(100, 4): "2.40", (30, 29): "3.03", (100, 100): "3.20", (100, 2): "", (10, 12): ""}
        for (width, height), letter in tried.items():
            self.assertEqual(self.guide(width, height).letter, letter, (width, height))
        self.assertEqual(self.guide(100, 4).down, "3.00")

    def test_in_a_narrow_piece_they_run_down(self):
        narrow = {(20, 90): True, (60, 90): False, (59, 60): True, (50, 50): False, (90, 20): False}
        self.assertEqual({size: self.guide(*size).on_side for size in narrow}, narrow)
        self.assertEqual(self.guide(4, 100).letter, "2.40")
