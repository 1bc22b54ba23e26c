"""What is done stays done: more people after cutting, a shared design changed, a cut taken back, a second tab."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.base import BrowserTests
from tests.people import fitted, make_class
from zester.classes.models import CardClass
from zester.classes.services import use_card
from zester.plans.models import PaperFit
from zester.shelf.models import Paper

LIST = "card 4¼ x 5½ side fold\nBase white\nMat 4 x 5¼ white\nStrip 1 x 4 white"


class DoneTests(BrowserTests):
    """A class whose only paper is cut, though the shelf counts none of it; another class has the same design."""

    def setUp(self):
        super().setUp()
        self.white = Paper.objects.create(
            owner=self.user, name="Chalk White", sheet="letter", width=69088, height=89408, unit="in"
        )
        self.made = make_class(self.user, LIST, participants=8)
        self.other = CardClass.objects.create(owner=self.user, title="January", participants=5)
        use_card(self.other, self.made.class_cards.get().card)
        for each in (self.made, self.other):
            fitted(each)

    def go(self, path: str, page: Page | None = None) -> None:
        (page or self.page).goto(f"{self.live_server_url}/classes/{self.made.pk}/{path}")

    def fits(self) -> list[PaperFit]:
        mine = PaperFit.objects.filter(class_paper__card_class=self.made).exclude(need="")
        return list(mine.select_related("shown", "class_paper__paper").order_by("part"))

    def test_what_is_done_stays_done(self):
        self.sign_in()
        self.cut_and_booked()
        self.two_people_more()
        self.the_design_is_changed_in_another_tab()
        self.the_cut_is_taken_back()
        self.a_card_is_taken_out_and_comes_back_by_a_key()
        self.page.goto(self.live_server_url)

    def cut_and_booked(self) -> None:
        page = self.page
        self.go(f"cut/{self.white.key}/")
        page.get_by_role("button", name="Begin, with this list").click()
        # Nobody counts it: it is asked how many were bought.
        bought = page.get_by_label(re.compile("nobody counts them; bought for it"))
        expect(bought).to_have_value(str(self.fits()[0].shown.sheets))
        bought.fill("some")
        page.get_by_role("button", name="All of it is cut").click()
        expect(page.get_by_text("how many were bought?")).to_be_visible()
        page.get_by_role("button", name="All of it is cut").click()
        expect(page.get_by_text("Chalk White is cut, and booked on the shelf.")).to_be_visible()
        expect(page.get_by_role("link", name="All is cut: to the packing")).to_be_visible()
        self.check_accessible()

    def two_people_more(self) -> None:
        page, cut = self.page, self.fits()[0].shown_id
        self.go("count/")
        page.get_by_label("Participants").fill("12")
        expect(page.locator(".thread")).to_contain_text("sheets cut")
        fitted(self.made)
        first, more = self.fits()
        self.assertEqual((first.shown_id, first.offered, more.part), (cut, None, 2))
        self.go("fit/")
        expect(page.locator(".wall-paper")).to_have_count(2)
        expect(page.get_by_role("link", name="Chalk White, supplement", exact=True)).to_be_visible()
        # The wall is put in anew when something changes: the focus stays, and a screen reader is told.
        link = page.get_by_role("link", name="Chalk White, supplement", exact=True)
        link.focus()
        CardClass.objects.filter(pk=self.made.pk).update(participants=14)
        fitted(self.made)
        expect(page.locator("#told")).to_contain_text("sheets from 1 paper")
        expect(link).to_be_focused()
        CardClass.objects.filter(pk=self.made.pk).update(participants=12)
        fitted(self.made)
        self.go("pack/")
        expect(page.get_by_text("Still to be cut: Chalk White, supplement")).to_be_visible()
        self.check_accessible()
        page.get_by_role("link", name="Cut it").click()
        expect(page.get_by_role("heading", name="Cut Chalk White, supplement")).to_be_visible()
        page.get_by_role("button", name="Begin at the bench").click()
        # By keys the button keeps the focus, and the next step is told.
        after = page.get_by_role("button", name="Done, next")
        expect(after).to_be_enabled()
        expect(page.locator("#told")).to_contain_text("Step 1 of")
        after.focus()
        page.keyboard.press("Enter")
        expect(page.locator("#told")).to_contain_text(re.compile(r"Step 2 of|All steps done"))
        expect(page.locator("#told")).to_contain_text(re.compile("Rail|Count the piles"))

    def the_design_is_changed_in_another_tab(self) -> None:
        page = self.page
        self.go("design/A/")
        expect(page.get_by_text("it keeps this list")).to_be_visible()
        other = self.new_page()
        other.goto(f"{self.live_server_url}/classes/{self.other.pk}/design/A/")
        self.type_in(other, "Strip 1½ x 4 white")
        expect(other.locator("#readings")).to_contain_text("1½ × 4 in")
        for _ in range(100):
            if "1½" in self.made.class_cards.get().card.cut_list:
                break
            other.wait_for_timeout(50)
        other.close()
        page.reload()
        expect(page.get_by_text("This class keeps the list it was cut with.")).to_be_visible()
        expect(page.locator("#held")).to_contain_text("A3 Strip, 1½ × 4 in of Chalk White: 12 more to cut")
        self.check_accessible()
        # Typed in this tab the notice follows.
        self.type_in(page, "Strip 1 x 4 white")
        expect(page.get_by_text("it keeps this list")).to_be_visible()
        self.type_in(page, "Strip 1½ x 4 white")
        page.get_by_role("button", name="Take it into this class").click()
        expect(page.get_by_text("Taken into this class.")).to_be_visible()
        fitted(self.made)
        self.assertIn("A3", dict(self.fits()[1].over))

    def type_in(self, page: Page, strip: str) -> None:
        """The last line of the list is another one."""
        field = page.locator("#cut-list")
        field.fill(field.input_value().rsplit("\n", 1)[0] + f"\n{strip}")

    def the_cut_is_taken_back(self) -> None:
        page = self.page
        self.go(f"cut/{self.white.key}--2/")
        expect(page.get_by_text("Cut, and wanted no more:")).to_be_visible()
        self.go(f"cut/{self.white.key}/")
        page.get_by_text("It is not cut after all…").click()
        expect(page.get_by_text("What was booked is taken back")).to_be_visible()
        page.get_by_role("button", name="Take it back").click()
        expect(page.get_by_role("button", name="Begin at the bench")).to_be_visible()
        self.assertEqual(self.fits()[0].held, "")

    def a_card_is_taken_out_and_comes_back_by_a_key(self) -> None:
        page = self.page
        self.go("design/A/")
        page.get_by_role("button", name="take it out of this class").click()
        expect(page.get_by_text("is out of this class")).to_be_visible()
        page.goto(f"{self.live_server_url}/removed/")
        expect(page.get_by_text("card of Evening")).to_be_visible()
        page.go_back()
        expect(page.get_by_text("is out of this class")).to_be_visible()
        page.keyboard.press("Control+z")
        expect(page.get_by_text("is back.")).to_be_visible()
