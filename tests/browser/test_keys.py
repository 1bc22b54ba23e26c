"""A class from nothing to the packing table, and no hand leaves the keys."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTests
from tests.people import fitted, make_class, make_paper
from zester.plans.models import PaperFit


class KeysTests(BrowserTests):
    def tab_to(self, words: str) -> None:
        """Tab until what has the focus is called so."""
        told = "(at => at.matches('a, button, input, summary') ? at.getAttribute('aria-label') || at.textContent : '')"
        told = f"({told})(document.activeElement)"
        for _ in range(150):
            if words in " ".join(self.page.evaluate(told).split()):
                return
            self.page.keyboard.press("Tab")
        self.fail(f"no key leads to “{words}” on {self.page.url}")

    def press(self, words: str) -> None:
        self.tab_to(words)
        self.page.keyboard.press("Enter")

    def test_from_nothing_to_the_packing_table(self):
        page, keys = self.page, self.page.keyboard
        make_paper(self.user, "Moss", on_hand=20)
        self.sign_in()
        expect(page.get_by_label("What is it called?")).to_be_focused()
        keys.type("Quiet Evening")
        keys.press("Tab")
        keys.type("2")
        keys.press("Enter")
        expect(page.get_by_label("What is the first card called")).to_be_focused()
        keys.type("Leaf")
        keys.press("Enter")
        self.at_the_list()
        keys.type("card 4¼ x 5½ side fold\nBase moss\nMat 4 x 5¼ moss")
        expect(page.locator("#strip")).to_contain_text("Moss")
        keys.press("Tab")
        keys.press("4")
        page.wait_for_url("**/cut/")
        self.press("Begin at the bench")
        page.wait_for_url("**/bench/")
        steps = page.locator(".bench-step:not(.bench-end)").count()
        for number in range(1, steps + 1):
            expect(page.locator("#where")).to_contain_text(f"Step {number} of {steps}")
            keys.press("Space")
        expect(page.locator(".bench-end")).to_be_visible()
        self.press("Count out and book")
        page.wait_for_url(re.compile(r"/cut/[\w-]+/#count$"))
        self.press("All of it is cut")
        expect(page.get_by_text("is cut, and booked")).to_be_visible()
        self.assertEqual(PaperFit.objects.get().held, PaperFit.Held.CUT)
        self.press("All is cut: to the packing")
        page.wait_for_url("**/pack/")
        self.press("Pack A,")
        page.wait_for_url("**/pack/bags/**")
        bags = int(page.locator("[data-total]").first.get_attribute("data-total") or 0)
        for _ in range(bags):
            expect(page.locator("#now")).to_be_visible()
            keys.press("Space")
        expect(page.get_by_text("are packed.")).to_be_visible()
        self.check_accessible()

    def test_three_papers_in_one_order_with_the_space_bar_alone(self):
        """The bench leads from paper to paper until every step is done."""
        page, keys = self.page, self.page.keyboard
        for name in ("Moss", "Sky", "Clay"):
            make_paper(self.user, name)
        lines = "card 4¼ x 5½ side fold\nBase moss\nMat 4 x 5¼ sky\nPanel 4 x 5¼ clay\nStrip 1 x 5¼ sky\nTag 1 x 4 clay"
        made = make_class(self.user, lines, participants=9)
        fitted(made)
        self.sign_in()
        page.goto(f"{self.live_server_url}/classes/{made.pk}/cut/together/")
        self.press("Look for one order")
        expect(page.get_by_role("button", name="Begin in this order")).to_be_visible()
        self.check_accessible()
        self.press("Begin in this order")
        papers, turns = set(), 0
        for _ in range(120):
            expect(page.locator("#where")).not_to_be_empty()
            papers.add(page.locator("h1").inner_text())
            turn = page.locator("[data-until]:visible")
            if turn.count():
                if not turns:
                    self.check_accessible()
                turns, here = turns + 1, page.url
                keys.press("Space")
                page.wait_for_url(lambda url, here=here: url != here)
            elif page.locator(".bench-end").is_visible():
                break
            else:
                keys.press("Space")
        self.assertEqual(papers, {"Moss", "Sky", "Clay"})
        self.assertGreaterEqual(turns, 2)
        self.press("On in the order")
        expect(page.get_by_text("Every step is done")).to_be_visible()
        self.check_accessible()
