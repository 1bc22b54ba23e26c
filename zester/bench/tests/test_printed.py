"""PDFs are what they say, to the tenth of a millimetre, as another library reads them; files and the cutter."""

import pymupdf
from django.urls import reverse

from tests.people import SignedInTests, fitted, make_class
from zester.bench.printed import labels_of
from zester.classes.models import ClassPaper, Trimmer
from zester.core.printing.label_sheets import LABEL_SHEETS, label_pages
from zester.core.tests.share import each_of

CARD = "card 4¼ x 5½ side fold\nBase brass\nMat 4 x 5 brass\nTag 2 x 3 brass, tied before class"
# Half of the 0.2 mm that a guide may be off by, in points.
NEAR = 0.1 / 25.4 * 72


class PaperTests(SignedInTests):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.card_class = make_class(cls.user, CARD, participants=6)
        cls.fit = fitted(cls.card_class)

    def pdf(self, name: str, **query) -> pymupdf.Document:
        answer = self.client.get(reverse(f"bench:{name}", args=[self.card_class.pk]), query)
        self.assertEqual(answer["Content-Type"], "application/pdf")
        return pymupdf.open(stream=answer.content, filetype="pdf")

    def test_a_cutting_card_for_every_paper_on_one_page(self):
        for page, size in (("letter", (612, 792)), ("a4", (595.28, 841.89))):
            document = self.pdf("cards_pdf", page=page)
            self.assertEqual(len(document), 1)
            for side, wanted in zip(document[0].rect[2:], size, strict=True):
                self.assertAlmostEqual(side, wanted, delta=0.1)
        text = document[0].get_text()
        for words in ("Telescope Brass", "rail", "A1", "Count the piles out", "Hand behind the guard"):
            self.assertIn(words, text)
        # Readable in black and white: nothing on it has a colour.
        colours = {d["color"] or d["fill"] for d in document[0].get_drawings()} - {None}
        self.assertTrue(all(max(c) - min(c) < 0.01 for c in colours), colours)

    def test_guides_are_true_to_a_tenth_of_a_millimetre(self):
        document = self.pdf("guides_pdf", page="letter")
        boxes, dashed, long = [], 0, []
        for page in document:
            for drawn in page.get_drawings():
                rect = drawn["rect"]
                boxes.append(sorted((rect.width, rect.height)))
                dashed += drawn["dashes"] not in ("", "[] 0")
                long += [rect.width] * (abs(rect.width - 360) < NEAR)
        for sides in ((8.5, 5.5), (4, 5), (2, 3)):
            wanted = sorted(72 * side for side in sides)
            near = [box for box in boxes if all(abs(a - b) < NEAR for a, b in zip(box, wanted, strict=True))]
            self.assertTrue(near, (sides, boxes))
        self.assertGreaterEqual(dashed, 1, "the base is scored")
        self.assertGreaterEqual(len(long), len(document), "every page has its line of 5 in")
        self.assertIn("This line must measure 5 in", document[0].get_text())

    def test_pile_labels_begin_where_one_says_and_stay_on_the_sheet(self):
        labels = labels_of(self.card_class)
        for key, sheet in LABEL_SHEETS.items():
            wide, high = sheet.page
            for page in each_of(label_pages(labels * 20, sheet, 4)):
                for left, top, _ in page:
                    self.assertTrue(left >= 0 and left + sheet.width <= wide and top + sheet.height <= high, key)
        first = label_pages(labels, LABEL_SHEETS["letter-30"], 5)[0][0]
        sheet = LABEL_SHEETS["letter-30"]
        self.assertEqual(first[:2], (sheet.left + sheet.across, sheet.top + sheet.height))
        self.assertIn("tied before class", self.pdf("labels_pdf", sheet="a4-24")[0].get_text())
        document = self.pdf("labels_pdf", sheet="letter-30", start=5)
        (place,) = document[0].search_for("A1")
        self.assertTrue(72 * 2.9 < place.x0 < 72 * 5.6 and 72 * 1.5 < place.y0 < 72 * 2.5, place)

    def test_guides_for_home_number_the_cuts(self):
        page = self.client.get(reverse("bench:self_cut_pdf", args=[self.card_class.pk]), follow=True)
        self.assertContains(page, "No paper of this class is handed out")
        ClassPaper.objects.update(pool="portions")
        fitted(self.card_class)
        text = "".join(page.get_text() for page in self.pdf("self_cut_pdf"))
        for words in ("Cut in the order of the numbers", "from its", "A1", "Craft knife: away from the body"):
            self.assertIn(words, text)

    def test_the_practice_sheet_has_its_marks_where_they_belong(self):
        trimmer = Trimmer.objects.create(owner=self.user)
        answer = self.client.get(reverse("bench:practice_pdf", args=[trimmer.pk]))
        (page,) = pymupdf.open(stream=answer.content, filetype="pdf")
        lefts = [drawn["rect"].x0 for drawn in page.get_drawings() if drawn["rect"].width < 0.1]
        rim = 12.7 / 25.4 * 72
        for mark in (1, 2.5, 4.25):
            self.assertTrue(any(abs(left - rim - 72 * mark) < NEAR for left in lefts), mark)

    def test_files_and_the_simulated_cutter(self):
        key = self.paper.key
        page = self.client.get(reverse("bench:print", args=[self.card_class.pk]))
        for ending, start in (("svg", b"<?xml"), ("dxf", b"  0\nSECTION")):
            address = reverse(f"bench:{ending}", args=[self.card_class.pk, key, 1])
            self.assertContains(page, address)
            answer = self.client.get(address)
            self.assertTrue(answer.content.startswith(start))
            self.assertIn("attachment", answer["Content-Disposition"])
        self.assertEqual(self.client.get(reverse("bench:svg", args=[self.card_class.pk, key, 99])).status_code, 404)
        cutter = reverse("bench:try_cutter", args=[self.card_class.pk, key, 1])
        self.assertContains(self.client.post(cutter), "every piece came out as it should")
        for fault in ("askew", "shifted", "not-cut"):
            self.assertContains(self.client.post(cutter, {"fault": fault}), "not every piece came out")
