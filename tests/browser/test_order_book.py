"""The order book, the shelf and the shopping list of one class, as a designer goes through them."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTests
from tests.people import make_class, make_paper
from zester.classes.models import CardClass, Offer, Participant
from zester.classes.people import keep_offer
from zester.core.lengths import TICKS_PER_INCH
from zester.core.stock.offcut_lines import OffcutLine
from zester.plans.models import PaperFit
from zester.shelf.models import Entry, Paper
from zester.shelf.stock import put_offcuts, stock_take

LISTS = (
    "card 4¼ x 5½ side fold\nBase midnight\nMat 4 x 5¼ brass\n+ envelope",
    "card 4¼ x 5½ side fold\nBase brass\nTag 2⅛ x 2¾ midnight",
)
ORDERS = ["full kit", "full kit", "full kit", "paper only"]
# Two faults: a number of nothing, and a state that nobody knows.
PEOPLE = "name,orders,state,note\n" + "\n".join(
    f"Guest {number:02},{'7 of those' if number == 9 else ORDERS[number % 4]},"
    f"{'perhaps' if number == 23 else 'booked'},{'aisle seat' if number == 5 else ''}"
    for number in range(1, 41)
)


class OrderBookTests(BrowserTests):
    def setUp(self):
        super().setUp()
        self.brass = make_paper(self.user, "Telescope Brass", price="0.42", pack=10)
        self.night = make_paper(self.user, "Midnight Dome", price="0.42", pack=10)
        self.ember = make_paper(self.user, "Ember Dust", price="0.45", pack=10)
        small = {"sheet": "6x6", "kind": "patterned", "price": "0.30"}
        self.stars = [make_paper(self.user, f"Star {n}", **small) for n in ("One", "Two", "Three")]
        for paper, count in ((self.brass, 12), (self.night, 40)):
            stock_take(paper, None, count)
        sides = {"width": 9 * TICKS_PER_INCH // 2, "height": 6 * TICKS_PER_INCH}
        put_offcuts(self.user, [OffcutLine(paper=self.brass.key, count=4, **sides)])
        self.card_class = make_class(self.user, *LISTS, participants=40, capacity=45)
        keys = [paper.key for paper in self.stars]
        side = 3 * TICKS_PER_INCH
        choice = {"choose": 1, "among": keys, "choice_width": side, "choice_height": side}
        for name, more in (("full kit", choice), ("paper only", {}), ("class only", {"pools": {"card": "none"}})):
            keep_offer(Offer(card_class=self.card_class, name=name, **more))

    def go(self, path: str) -> None:
        self.page.goto(f"{self.live_server_url}{path}")

    def tab(self, name: str) -> None:
        self.page.get_by_role("navigation", name="Pages of this station").get_by_role("link", name=name).click()

    def shown(self, paper: Paper):
        fits = PaperFit.objects.select_related("shown")
        return fits.get(class_paper__paper=paper, class_paper__card_class=self.card_class)

    def test_from_the_table_to_the_shopping_list(self):
        self.sign_in()
        pk = self.card_class.pk
        self.people_from_a_table(pk)
        self.other_orders_and_choices()
        self.tally_with_reasons()
        self.offcuts_first_and_reserved(pk)
        self.another_paper_for_five()
        self.one_cancels_while_a_paper_is_being_cut(pk)
        self.buying(pk)

    def people_from_a_table(self, pk: int) -> None:
        """Forty people from CSV with two faults, mended in the preview."""
        page = self.page
        self.go(f"/classes/{pk}/people/")
        self.check_accessible()
        page.get_by_label("or a CSV table").set_input_files(
            {"name": "people.csv", "mimeType": "text/csv", "buffer": PEOPLE.encode()}
        )
        page.get_by_role("button", name="Add them").click()
        expect(page.get_by_role("heading", name="40 lines, 2 to mend")).to_be_visible()
        self.check_accessible()
        for line, words in (("Line 9", "is nothing that can be ordered"), ("Line 23", "“perhaps” is not understood")):
            row = page.get_by_role("row").filter(has=page.get_by_label(line, exact=True))
            expect(row).to_contain_text(words)
        page.get_by_label("Line 9", exact=True).fill("Guest 09: full kit 7")
        mended = page.get_by_label("Line 23", exact=True)
        mended.fill(mended.input_value().replace("perhaps", "paid"))
        # By the keys, from the last field on.
        page.keyboard.press("Enter")
        said = "40 people are in the list. 40 of those who had no name yet have one now."
        expect(page.get_by_text(said)).to_be_visible()
        self.assertEqual(Participant.objects.get(name="Guest 09").orders.get().count, 7)
        self.assertEqual(CardClass.objects.get().n_people, 40)

    def other_orders_and_choices(self) -> None:
        """Three get other orders, four choose their papers."""
        page = self.page
        for number, offer, count in ((1, "class only", "1"), (2, "paper only", "2"), (3, "full kit", "3")):
            page.get_by_role("link", name=f"Guest {number:02}").click()
            for name in ("full kit", "paper only", "class only"):
                page.get_by_label(name, exact=True).fill(count if name == offer else "0")
            page.get_by_role("button", name="Save", exact=True).click()
        for number, paper in ((5, "Star One"), (6, "Star One"), (10, "Star Two"), (9, "Star Three")):
            page.get_by_role("link", name=f"Guest {number:02}").click()
            page.get_by_label(paper).check()
            if number == 5:
                self.check_accessible()
            page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_role("row", name=re.compile("Guest 02"))).to_contain_text("2 paper only")
        expect(page.get_by_role("row", name=re.compile("Guest 05"))).to_contain_text("Star One · aisle seat")

    def tally_with_reasons(self) -> None:
        """Thirty full kits, six more of one person, two fewer, three more; ten of paper only, two more, one fewer."""
        self.tab("Sums")
        page = self.page
        full, paper = 37, 11
        row = page.get_by_role("row", name=re.compile("^A2 Mat"))
        row.get_by_title("How this is counted").click()
        expect(row).to_contain_text(f"full kit: {full} × 1 + paper only: {paper} × 1")
        chosen = page.get_by_role("row", name=re.compile("^Pa1"))
        chosen.get_by_title("How this is counted").click()
        expect(chosen).to_contain_text("chosen: 2 + a guess of")
        self.check_accessible()

    def offcuts_first_and_reserved(self, pk: int) -> None:
        """The plan takes offcuts where they save sheets, and what it takes is reserved."""
        page, shown = self.page, self.shown(self.brass).shown
        self.assertGreater(shown.offcuts, 0)
        self.assertGreater(shown.saved_sheets, 0)
        self.tab("Papers and bits")
        expect(page.get_by_text("Telescope Brass run")).to_be_visible()
        brass = page.get_by_role("row", name=re.compile("Telescope Brass"))
        expect(brass).to_contain_text(re.compile(r"offcuts? saves? [1-9]"))
        self.check_accessible()
        self.go("/shelf/offcuts/")
        expect(page.get_by_text(f"reserved: {shown.offcuts} for Evening")).to_be_visible()
        self.check_accessible()
        self.go("/shelf/")
        expect(page.get_by_role("listitem").filter(has_text="Midnight Dome").first).to_contain_text("reserved")

    def another_paper_for_five(self) -> None:
        """Ember Dust in place of Telescope Brass for five people."""
        page = self.page
        self.go(f"/classes/{self.card_class.pk}/instead/")
        page.get_by_label("In place of", exact=True).select_option(label="Telescope Brass")
        page.get_by_label("take", exact=True).select_option(label="Ember Dust")
        page.get_by_label("Why").fill("the brass runs out")
        page.get_by_label("some people").check()
        for number in (10, 13, 14, 17, 18):
            page.get_by_label(f"Guest {number}").check()
        self.check_accessible()
        page.get_by_role("button", name="Take it instead").click()
        expect(page.get_by_role("heading", name="Ember Dust instead of Telescope Brass")).to_be_visible()
        self.tab("Sums")
        expect(page.get_by_role("row", name=re.compile("^A2′ Mat"))).to_contain_text("Ember Dust")
        self.go(f"/classes/{self.card_class.pk}/pack/")
        expect(page.get_by_role("row").filter(has_text="with A2′")).to_contain_text("of 5")
        self.go(f"/classes/{self.card_class.pk}/fit/")
        expect(page.locator(".wall-paper", has_text="Ember Dust")).to_contain_text(re.compile(r"[1-9]\ssheets"))

    def one_cancels_while_a_paper_is_being_cut(self, pk: int) -> None:
        """Of the paper that is being cut the plan stays, and it says what is over; the others follow by themselves."""
        page = self.page
        self.go(f"/classes/{pk}/cut/{self.night.key}/")
        page.get_by_role("button", name="Begin, with this list").click()
        held, brass = self.shown(self.night).shown_id, self.shown(self.brass).shown_id
        self.go(f"/classes/{pk}/people/")
        page.get_by_label("Guest 09", exact=True).check()
        page.get_by_label("how their orders stand").select_option(label="cancelled")
        page.get_by_role("button", name="Say so").click()
        expect(page.get_by_text("1 person: cancelled.")).to_be_visible()
        self.assertEqual(self.shown(self.night).shown_id, held)
        self.assertNotEqual(self.shown(self.brass).shown_id, brass)
        papers = PaperFit.objects.filter(class_paper__card_class=pk).exclude(need="")
        self.go(f"/classes/{pk}/fit/")
        expect(page.locator(".wall-paper", has_text="Midnight Dome")).to_contain_text("being cut")
        expect(page.locator(".wall-paper")).to_have_count(len(papers))
        page.locator(".wall-paper", has_text="Midnight Dome").get_by_role("link").first.click()
        page.get_by_role("link", name="To its steps").click()
        expect(page.get_by_text("Cut, and wanted no more:")).to_be_visible()
        self.check_accessible()
        # Planned anew when somebody says so, which asks first.
        page.get_by_text("Not after all…").click()
        page.get_by_role("button", name="Take it back").click()
        expect(page.get_by_role("button", name="Begin at the bench")).to_be_visible()
        self.assertNotEqual(self.shown(self.night).shown_id, held)

    def buying(self, pk: int) -> None:
        """The list in packs, printed, and what was bought booked."""
        page = self.page
        self.go(f"/classes/{pk}/papers/")
        page.get_by_role("link", name=re.compile("Buying list, ")).click()
        row = page.get_by_role("row", name=re.compile("^Telescope Brass"))
        expect(row).to_contain_text("of 10")
        self.check_accessible()
        page.emulate_media(media="print")
        expect(page.get_by_role("button", name="Book these as bought")).to_be_hidden()
        expect(page.get_by_text("For Evening", exact=True)).to_be_visible()
        page.emulate_media(media="screen")
        page.get_by_role("button", name="Book these as bought").click()
        expect(page.get_by_text("booked as bought")).to_be_visible()
        expect(page.get_by_role("heading", name="Nothing to buy")).to_be_visible()
        self.assertTrue(Entry.objects.filter(paper=self.brass, kind="bought", by="buying list").exists())
        self.go(f"/classes/{pk}/papers/")
        expect(page.get_by_text("This class can be made from what is there.")).to_be_visible()

    def to(self, target) -> None:
        """By the Tab key alone to something on the page."""
        for _ in range(80):
            self.page.keyboard.press("Tab")
            if target.evaluate("it => it === document.activeElement"):
                return
        self.fail(f"the keys do not lead to {target}")

    def test_people_offcuts_counts_and_another_paper_by_the_keys_alone(self):
        self.sign_in()
        page, pk = self.page, self.card_class.pk
        keys = page.keyboard
        self.go(f"/classes/{pk}/people/")
        self.to(page.get_by_label("Add people, one a line"))
        keys.type("Ines Falk full kit 2, paid")
        self.to(page.get_by_role("button", name="Add them"))
        keys.press("Enter")
        self.to(page.get_by_label("Ines Falk", exact=True))
        keys.press("Space")
        self.to(page.get_by_label("how their orders stand"))
        keys.type("cancelled")
        self.to(page.get_by_role("button", name="Say so"))
        keys.press("Enter")
        expect(page.get_by_text("1 person: cancelled.")).to_be_visible()
        self.go(f"/classes/{pk}/instead/")
        for label, words in (("In place of", "Midnight"), ("take", "Ember")):
            self.to(page.get_by_label(label, exact=True))
            keys.type(words)
        self.to(page.get_by_role("button", name=re.compile("instead|Take|Save")))
        keys.press("Enter")
        expect(page.get_by_text("Ember Dust is taken instead of Midnight Dome.")).to_be_visible()
        self.go("/shelf/offcuts/")
        self.to(page.get_by_label("Offcuts, one a line"))
        keys.type("brass 3 x 6, 2, blue box")
        self.to(page.get_by_role("button", name="Put them on the shelf"))
        keys.press("Enter")
        expect(page.get_by_text("blue box").first).to_be_visible()
        self.go("/shelf/count/")
        self.to(page.get_by_label(re.compile("Telescope Brass .*booked", re.DOTALL)).first)
        keys.type("9")
        keys.press("Enter")
        expect(page.get_by_text("Counted: 1 difference is booked.")).to_be_visible()
