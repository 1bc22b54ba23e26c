"""Pages, sheets of labels and guides for home: everything stands on the page, at its size, in its order."""

from unittest import TestCase

from zester.core.fitting.jobs.plan import Cut, Layout, Named
from zester.core.lengths import RULERS, parse_size
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.lengths import TICKS_PER_MM as MM
from zester.core.printing.home_guides import guide_for
from zester.core.printing.label_sheets import CODE_SIDE, LABEL_SHEETS, label_pages, usual_label_sheet
from zester.core.printing.pages import EDGE, FOOT, PAGES, proof_line, usual_page


class PageTests(TestCase):
    def test_pages_are_letter_and_a4(self):
        # ANSI/ASME Y14.1, size A; ISO 216, A4.
        self.assertEqual(PAGES, {"letter": (17 * INCH // 2, 11 * INCH), "a4": (210 * MM, 297 * MM)})
        self.assertEqual((usual_page("in"), usual_page("mm")), ("letter", "a4"))

    def test_the_line_that_proves_the_scale_stands_in_the_foot_and_says_its_length(self):
        for page, (length, words) in {"letter": (5 * INCH, "5 in"), "a4": (120 * MM, "120 mm")}.items():
            line, (wide, high) = proof_line(page), PAGES[page]
            self.assertEqual((line.length, line.words, line.x), (length, words, EDGE))
            self.assertLessEqual(line.x + line.length, wide - EDGE)
            self.assertTrue(high - EDGE - FOOT < line.y < high - EDGE)


class LabelTests(TestCase):
    def test_every_label_lies_on_its_page_and_none_on_another(self):
        for key, sheet in LABEL_SHEETS.items():
            (page,) = label_pages(list(range(sheet.each)), sheet, 1)
            wide, high = sheet.page
            with self.subTest(key):
                self.assertEqual([label for _, _, label in page], list(range(sheet.columns * sheet.rows)))
                corners = {(left, top) for left, top, _ in page}
                self.assertEqual(len(corners), sheet.each)
                for left, top in corners:
                    self.assertTrue(
                        left >= 0 and left + sheet.width <= wide and top >= 0 and top + sheet.height <= high
                    )
                self.assertGreaterEqual(sheet.across, sheet.width)
                # A code stands in the middle of a label, within it.
                self.assertEqual(2 * sheet.code_top + CODE_SIDE, sheet.height - (sheet.height - CODE_SIDE) % 2)
                self.assertGreater(sheet.code_top, 0)
        self.assertEqual(
            [key for key, sheet in LABEL_SHEETS.items() if sheet.is_tall], ["letter-10", "a4-24", "a4-21", "plain"]
        )

    def test_the_labels_stand_in_the_middle_of_the_page_at_the_size_their_name_says(self):
        for key, sheet in LABEL_SHEETS.items():
            (wide, high), spare = sheet.page, MM // 10
            right = wide - sheet.left - (sheet.columns - 1) * sheet.across - sheet.width
            below = high - sheet.top - sheet.rows * sheet.height
            with self.subTest(key):
                self.assertAlmostEqual(sheet.left, right, delta=spare)
                self.assertAlmostEqual(sheet.top, below, delta=spare)
                if not sheet.cut_lines:
                    count, _, size = sheet.name.partition(", ")[2].partition(" labels of ")
                    ruler = RULERS["in16" if sheet.paper == "letter" else "mm"]
                    self.assertEqual((int(count), parse_size(size, ruler)), (sheet.each, (sheet.width, sheet.height)))

    def test_a_begun_sheet_is_gone_on_with_at_any_label(self):
        sheet = LABEL_SHEETS["letter-30"]
        pages = label_pages(list(range(32)), sheet, 29)
        self.assertEqual([len(page) for page in pages], [2, 30])
        first = label_pages(list(range(30)), sheet, 1)[0]
        self.assertEqual([place[:2] for place in pages[0]], [place[:2] for place in first[28:]])
        # Labels go row by row: the second stands beside the first, the fourth below it.
        self.assertEqual(first[1][:2], (sheet.left + sheet.across, sheet.top))
        self.assertEqual(first[3][:2], (sheet.left, sheet.top + sheet.height))
        for odd in (-5, 0, 1):
            self.assertEqual(label_pages([1], sheet, odd), label_pages([1], sheet, 1))
        self.assertEqual(label_pages([1], sheet, 99), label_pages([1], sheet, 30))

    def test_the_usual_sheet_is_that_of_the_unit(self):
        self.assertEqual([LABEL_SHEETS[usual_label_sheet(unit)].paper for unit in ("in", "mm")], ["letter", "a4"])


class HomeGuideTests(TestCase):
    """A 4 × 6 in portion halved to two 3 × 4, one of them halved again."""

    def setUp(self):
        cuts = (Cut(0, "y", 3 * INCH), Cut(1, "x", 2 * INCH))
        parts = tuple(Named(part=part, piece=piece, turned=False) for part, piece in ((2, "A1"), (3, "A2"), (4, "A2")))
        layout = Layout(sheet="portion", copies=1, cuts=cuts, parts=parts, source="portion")
        self.guide = guide_for("Star Chart", (4 * INCH, 6 * INCH), layout, {"A1": "Panel", "A2": "Strip"}, "in")

    def test_the_pieces_are_named_and_counted(self):
        self.assertEqual(self.guide.size, "4 × 6 in")
        counted = {part.piece: (part.name, part.width, part.height, count) for part, count in self.guide.counted}
        self.assertEqual(counted, {"A1": ("Panel", 4 * INCH, 3 * INCH, 1), "A2": ("Strip", 2 * INCH, 3 * INCH, 2)})

    def test_the_cuts_are_numbered_and_say_what_is_measured(self):
        words = [(cut.number, cut.words) for cut in self.guide.cuts]
        self.assertEqual(
            words,
            [
                (1, "the part of 4 × 6 in at 3 in from its upper edge"),
                (2, "the part of 4 × 3 in at 2 in from its left edge"),
            ],
        )
        first = self.guide.cuts[0]
        self.assertEqual((first.x1, first.y1, first.x2, first.y2), (0, 3 * INCH, 4 * INCH, 3 * INCH))
        # Its number stands on it, not in the middle, where cuts cross.
        self.assertEqual((first.cx, first.cy), (f"{4 * 25.4 * 0.38:.3f}", f"{3 * 25.4:.3f}"))
        second = self.guide.cuts[1]
        self.assertEqual((second.x1, second.x2), (2 * INCH, 2 * INCH))
        across = (second.y1 + (second.y2 - second.y1) * 0.38) / INCH * 25.4
        self.assertEqual((second.cx, second.cy), (f"{2 * 25.4:.3f}", f"{across:.3f}"))
        self.assertEqual(abs(second.y2 - second.y1), 3 * INCH)

    def test_it_is_drawn_as_large_as_the_page_has_room_for(self):
        # 4 × 6 in within 165 × 130 mm: the height decides.
        self.assertEqual((self.guide.shown_width, self.guide.shown_height), ("86.67", "130.00"))
        left, top, wide, high = map(float, self.guide.box.split())
        self.assertAlmostEqual(left + wide, 101.6 - left, places=2)
        self.assertAlmostEqual(top + high, 152.4 - top, places=2)

    def test_a_wide_one_is_as_wide_as_the_room(self):
        layout = Layout(sheet="portion", copies=1, cuts=(), parts=(Named(part=0, piece="A1", turned=False),))
        wide = guide_for("Star Chart", (12 * INCH, 6 * INCH), layout, {"A1": "Panel"}, "in")
        self.assertEqual((wide.shown_width, wide.shown_height), ("165.00", "82.50"))
