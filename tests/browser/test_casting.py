"""A guide typed with a mistake and mended, and a class cast by keys: to the sheets, the prints and the bags."""

from __future__ import annotations

import pymupdf
from django.urls import reverse
from playwright.sync_api import expect

from tests.browser.base import BrowserTests
from tests.people import make_class, make_paper
from zester.casting.models import Guide
from zester.classes.models import CardClass, Casting
from zester.classes.services import count_class, recount
from zester.plans.models import PaperFit
from zester.shelf.models import Paper

BASE = "card 4¼ x 5½ side fold\nBase  8½ x 5½  {}"
ONE = f"{BASE}\nSky  4 x 3  sheet A  top ⅛\nInside panel  3 x 4  sheet B"
TWO = f"{BASE}\nSea  4 x 3  sheet A  bottom ⅛\nInside panel  3 x 4  sheet B"
WRONG = "A: 4 x 3 cards 1, 2; 2 x 7 filler\nB: 3 x 4 cards 1, 2; 6 x 2 filler"


class CastingJourney(BrowserTests):
    def setUp(self):
        super().setUp()
        self.stock = make_paper(self.user, "Chalk", "letter")
        make_paper(self.user, "Gravel", "letter")
        self.papers = {
            name: make_paper(self.user, name, "6x6", kind="patterned", back="other", back_colour="#aa3322", **more)
            for name, more in (("Dots", {"look": "calm"}), ("Kites", {"look": "busy"}), ("Ropes", {"look": "calm"}))
        }
        texts = [text.format(self.stock.name) for text in (ONE, TWO)]
        self.card_class = make_class(self.user, *texts, participants=4)
        CardClass.objects.filter(pk=self.card_class.pk).update(participants=4)
        recount(self.card_class.pk)

    def cell(self, letter: str, name: str):
        return self.page.locator(f"#cast-{letter}-{self.papers[name].key}")

    def cut_from(self, handle: str) -> tuple[str, str]:
        """The paper and the side of a piece, as the class counts it now."""
        counted = count_class(CardClass.objects.get(pk=self.card_class.pk))
        entry = next(each for each in counted.counts if each.handle == handle)
        return counted.names[entry.piece.paper], entry.piece.side

    def test_from_a_typed_guide_to_the_bags_by_keys(self):
        self.sign_in()
        self.type_a_guide()
        self.cast_by_keys()
        self.ask_for_others()
        self.print_the_guide()
        self.follow_to_the_bags()

    def type_a_guide(self) -> None:
        """With a mistake, told as it is typed, and mended."""
        page = self.page
        page.goto(self.live_server_url + reverse("casting:new"))
        page.get_by_label("What it is called").fill("Two from two")
        lines = page.get_by_label("One sheet a line")
        lines.fill(WRONG)
        expect(page.locator("#guide-read")).to_contain_text("2 × 7 in is larger than the sheet")
        lines.fill(WRONG.replace("2 x 7", "2 x 6"))
        expect(page.locator("#guide-read")).to_contain_text("each can be cut edge to edge")
        self.check_accessible()
        page.get_by_role("button", name="Save").click()
        page.get_by_role("heading", name="Two from two").wait_for()

    def cast_by_keys(self) -> None:
        """Two letters; a side turned, a piece exchanged for card stock, two letters swapped, that undone by key."""
        page, keys = self.page, self.page.keyboard
        page.goto(self.live_server_url + reverse("casting:table", args=[self.card_class.pk]))
        page.get_by_label("Cut by").select_option("Two from two")
        page.get_by_role("button", name="Set", exact=True).press("Enter")
        page.wait_for_load_state()
        self.cell("A", "Dots").focus()
        keys.press("Space")
        expect(self.cell("A", "Dots")).to_be_checked()
        expect(page.locator("#cast-undo")).to_be_enabled()
        expect(self.cell("A", "Dots")).to_be_focused()
        keys.press("ArrowDown")
        expect(self.cell("A", "Kites")).to_be_checked()
        self.cell("B", "Ropes").press("Space")
        expect(page.locator(".cast-meetings")).to_contain_text("A meets B on cards 1, 2")
        page.locator("#over-B3").press("Enter")
        expect(page.locator("li", has_text="B3").last).to_contain_text("side B, turned")
        page.locator("#piece-A3").select_option(label="Chalk")
        expect(page.locator("#piece-A3")).to_have_value(self.stock.key)
        # The table is drawn anew once more; what is opened before that would be the old one.
        expect(page.locator(".htmx-request")).to_have_count(0)
        page.get_by_text("Its card stock").first.press("Enter")
        page.locator("#piece-A1").select_option(label="Gravel")
        expect(page.get_by_text("Its card stock: A1 Gravel")).to_be_visible()
        page.locator("#swap-one").select_option("A")
        page.locator("#swap-other").select_option("B")
        page.locator("#cast-swap").press("Enter")
        expect(self.cell("A", "Ropes")).to_be_checked()
        keys.press("Control+z")
        expect(self.cell("A", "Kites")).to_be_checked()
        self.assertEqual(self.cut_from("A2"), ("Kites", "a"))
        self.assertEqual(self.cut_from("B3"), ("Ropes", "b"))
        self.assertEqual(self.cut_from("A3")[0], "Chalk")

    def ask_for_others(self) -> None:
        """Locked, others proposed around it; dragging casts, too."""
        page = self.page
        page.locator("#lock-A").press("Enter")
        expect(self.cell("A", "Dots")).to_be_disabled()
        page.locator("#cast-propose").press("Enter")
        expect(page.locator("#proposals li").first).to_contain_text("Kites")
        page.get_by_role("button", name="Take it").first.press("Enter")
        expect(page.locator("#proposals")).to_have_count(0)
        page.locator(f"[data-sheet={self.papers['Dots'].key}]").drag_to(page.locator("[data-letter=B]"))
        expect(self.cell("B", "Dots")).to_be_checked()
        self.check_accessible()
        for width in (820, 390):
            page.set_viewport_size({"width": width, "height": 800})
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), width)
        page.set_viewport_size({"width": 1280, "height": 800})

    def print_the_guide(self) -> None:
        """As it is cast, and to fill in."""
        for words, there, not_there in (("cast", "Kites", "A = _"), ("to fill in", "A = _", "Kites")):
            link = self.page.locator("main").get_by_role("link", name=words, exact=True)
            answer = self.page.request.get(self.live_server_url + link.get_attribute("href"))
            document = pymupdf.open(stream=answer.body(), filetype="pdf")
            text = "".join(page.get_text() for page in document)
            self.assertIn(there, text)
            self.assertNotIn(not_there, text)

    def follow_to_the_bags(self) -> None:
        """On the sheets, in the bags and on the hand-out."""
        page = self.page
        page.goto(self.live_server_url + reverse("fits:wall", args=[self.card_class.pk]))
        expect(page.locator("#wall")).to_contain_text("Dots")
        recount(self.card_class.pk)
        fit = PaperFit.objects.get(class_paper__card_class=self.card_class, class_paper__paper=self.papers["Kites"])
        self.assertIn('"pinned": true', fit.job)
        page.goto(self.live_server_url + reverse("bags:pack", args=[self.card_class.pk]))
        # By the numbers of the guide; its base is of the card stock that is cast.
        expect(page.locator("main")).to_contain_text("card 1, Card 1")
        self.assertEqual(self.cut_from("A1")[0], "Gravel")
        page.goto(self.live_server_url + reverse("bags:handout", args=[self.card_class.pk]))
        expect(page.locator(".ho-card").first).to_contain_text("Kites")
        self.assertEqual((Guide.objects.count(), Casting.objects.count(), Paper.objects.count() > 3), (1, 1, True))
