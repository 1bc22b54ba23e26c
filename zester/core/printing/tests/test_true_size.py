"""True-size guides: nothing is lost, nothing overlaps, all of it is printed."""

from unittest import TestCase

from zester.core.cutting.machine_file import Marks
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.printing.pages import EDGE, PAGES
from zester.core.printing.true_size import Wanted, guide_pages
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
