"""Labels, the packing list and the checks: read back from the PDFs by other libraries."""

from __future__ import annotations

import json
from unittest import mock

import pymupdf
import zxingcpp
from PIL import Image

from tests.people import make_paper
from zester.bags.checks import weights_of
from zester.bags.printed import bag_labels, parts_of
from zester.bags.sharing import switch
from zester.bags.tests.cases import MOON, PackingTests
from zester.classes.models import Participant, Substitution
from zester.classes.services import recount
from zester.core.printing.label_sheets import LABEL_SHEETS
from zester.core.tests.share import each_of
from zester.designs.models import Card
from zester.shelf.models import Bit, Paper


class PrintTests(PackingTests):
    def test_another_paper_is_named_on_labels_and_hand_outs_and_drawn(self):
        ember = make_paper(self.user, "Ember Dust", colour="#b5452c")
        tove = self.person("Tove")
        some = Substitution.objects.create(card_class=self.card_class, paper=self.paper, other=ember, who="some")
        some.people.add(tove)
        recount(self.card_class.pk)
        labels = bag_labels(self.board(), "person", lambda *_: "x")
        words = {label.title: label.lines for label in labels}
        self.assertIn("Ember Dust in place of Telescope Brass", words["Tove Lind"])
        self.assertNotIn("Ember Dust in place of Telescope Brass", words["Ines Falk"])
        page = self.shown(self.address("handout"))
        self.assertIn("Ember Dust in place of Telescope Brass, in some kits.", page)
        stacks = {shown.key: self.shown(self.address("stack", shown.key)) for shown in self.board().stacks}
        drawn = [key for key, text in stacks.items() if "#b5452c" in text]
        self.assertTrue(0 < len(drawn) < len(stacks), stacks.keys())
        # For everybody: the hand-out names and draws the other paper, and no more the written one.
        Substitution.objects.update(who="all")
        recount(self.card_class.pk)
        page = self.shown(self.address("handout"))
        self.assertIn("Ember Dust in place of Telescope Brass.", page)
        self.assertIn("#b5452c", page)
        self.assertEqual(page.count("Telescope Brass"), page.count("in place of Telescope Brass"))

    def pdf(self, view: str, *args, **query) -> pymupdf.Document:
        answer = self.client.get(self.address(view, *args, **query))
        self.assertEqual(answer["Content-Type"], "application/pdf")
        return pymupdf.open(stream=answer.content, filetype="pdf")

    def codes(self, page: pymupdf.Page) -> list[str]:
        """What a reader reads off the page as it is printed."""
        shot = page.get_pixmap(dpi=300)
        image = Image.frombytes("RGB", (shot.width, shot.height), shot.samples)
        return [found.text for found in zxingcpp.read_barcodes(image, formats=zxingcpp.BarcodeFormat.QRCode)]

    def test_every_bag_has_a_label_whose_code_opens_it(self):
        for key, sheet in LABEL_SHEETS.items():
            document = self.pdf("labels_pdf", "bags", sheet=key)
            self.assertEqual(len(document), 1, key)
            codes = self.codes(document[0])
            wanted = {f"http://testserver{self.address('bag', bag)}" for bag in self.board().bags}
            self.assertEqual(set(codes), wanted, key)
            self.assertEqual(len(codes), 8)
            text = document[0].get_text()
            for words in ("Ines Falk", "Card 1", "2 × A1–A4, 4 gems"):
                self.assertIn(words, text, key)
            for block in each_of(document[0].get_text("blocks")):
                self.assertTrue(
                    block[2] <= document[0].rect.width and block[3] <= document[0].rect.height, (key, block)
                )
            self.assertEqual(sheet.each >= 8, True)

    def test_labels_begin_where_one_says_and_stand_in_the_order_of_packing(self):
        by_design = self.pdf("labels_pdf", "bags", sheet="letter-30", start=4)[0]
        (first, *_) = by_design.search_for("Ines Falk")
        sheet = LABEL_SHEETS["letter-30"]
        self.assertGreater(first.y0, (sheet.top + sheet.height) / 8128 * 72)
        design = self.codes_in_order(by_design)
        person = self.codes_in_order(self.pdf("labels_pdf", "bags", sheet="letter-30", order="person")[0])
        self.assertEqual([code.rsplit("-", 1)[1] for code in design], ["A/"] * 4 + ["B/"] * 4)
        self.assertEqual([code.rsplit("-", 1)[1] for code in person], ["A/", "B/"] * 4)

    def codes_in_order(self, page: pymupdf.Page) -> list[str]:
        shot = page.get_pixmap(dpi=300)
        image = Image.frombytes("RGB", (shot.width, shot.height), shot.samples)
        found = zxingcpp.read_barcodes(image, formats=zxingcpp.BarcodeFormat.QRCode)
        found.sort(key=lambda code: (round(code.position.top_left.y / 150), code.position.top_left.x))
        return [code.text for code in found]

    def test_other_labels_there_are_none(self):
        self.assertEqual(self.client.get(self.address("labels_pdf", "boxes")).status_code, 404)

    def test_many_labels_come_in_several_files(self):
        with mock.patch("zester.bags.printed.MOST_LABELS", 5):
            self.assertEqual(parts_of(8), [(1, "1 to 5"), (2, "6 to 8")])
            self.assertContains(self.client.get(self.address("print")), "6 to 8</option>")
            texts = [self.pdf("labels_pdf", "bags", part=part)[0].get_text() for part in (1, 2)]
        self.assertEqual([text.count("Card") for text in texts], [5, 3])

    def test_a_kit_s_label_has_name_address_and_order_and_opens_the_kit(self):
        Participant.objects.filter(name="Ines Falk").update(address="Tidewater 4")
        page = self.pdf("labels_pdf", "kits", sheet="plain")[0]
        text = page.get_text()
        for words in ("Ines Falk", "Tidewater 4", "full kit 2 of 2", "Bags A, B", "bottle of paint"):
            self.assertIn(words, text)
        self.assertIn(f"http://testserver{self.address('kit', self.kit('Ines'))}", self.codes(page))

    def test_a_kit_s_code_may_lead_to_the_page_for_participants_while_that_is_open(self):
        kits = {f"http://testserver{self.address('kit', kit.kit.key)}" for kit in self.board().kits}
        self.assertEqual(set(self.codes(self.pdf("labels_pdf", "kits", code="page")[0])), kits)
        page = switch(self.card_class, True, None)
        codes = self.codes(self.pdf("labels_pdf", "kits", code="page")[0])
        self.assertEqual(set(codes), {f"http://testserver/with/{page.token}/"})
        self.assertContains(self.client.get(self.address("print")), "the page for participants</option>")

    def test_the_packing_list_has_a_box_for_every_bag_in_black_and_white(self):
        document = self.pdf("list_pdf")
        text = "".join(page.get_text() for page in document).replace("\n", " ")
        for words in ("A · Card 1: 3\xa0bags", "Odo Brackwater, kit 2 of 2", "4¼ × 11 in", "stamped in class", "Kits"):
            self.assertIn(words, text)
        colours = {d["color"] or d["fill"] for page in document for d in page.get_drawings()} - {None}
        self.assertTrue(all(max(c) - min(c) < 0.01 for c in colours), colours)

    def test_the_middle_of_a_mat_stays_in_its_bag_unless_the_plan_takes_shapes_out_of_it(self):
        moon = f"{MOON}\nMat 4 x 5¼ brass middle 3 x 4\nMoon 2 x 2 brass from a middle"
        Card.objects.filter(name="Card 1").update(cut_list=moon)
        kept = self.fit().shown
        hollow = weights_of(self.board()).pieces["A5"].milligrams
        plan = json.loads(kept.plan)
        layouts = plan["papers"][0]["layouts"]
        self.assertIn("window", {layout.get("source") for layout in layouts})
        plan["papers"][0]["layouts"] = [each for each in layouts if each.get("source") != "window"]
        kept.plan = json.dumps(plan)
        kept.save()
        whole = weights_of(self.board()).pieces["A5"].milligrams
        # 3 × 4 of 4 × 5¼ in are gone, so that three of seven parts are left.
        self.assertAlmostEqual(hollow / whole, 3 / 7, places=2)

    def test_checks_weigh_bags_and_kits(self):
        Paper.objects.filter(name="Telescope Brass").update(weight=216)
        Bit.objects.create(owner=self.user, name="Envelopes", grams="6.2")
        page = self.client.get(self.address("checks"))
        # Two bases of 6.515 g, two mats of 2.926, sentiments of 0.314, envelopes of 6.2; panels of 160 g/m², 1.935.
        grams = round(2 * (6.515 + 2.926 + 0.314 + 6.2 + 1.935))
        self.assertContains(page, f"<b>{grams} g (")
        self.assertContains(page, "A1 Base, 6.5 g")
        self.assertContains(page, "Nobody wrote what gems, thread, bottle of paint weigh")
        self.assertContains(page, "Taken for the usual weight: Star Chart.")
        self.assertContains(page, "ask your carrier")
        self.assertContains(page, "11 × 5½ in")
