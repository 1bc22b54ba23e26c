"""The bench and the packing table open without a line, where they were opened on this device before."""

from __future__ import annotations

from django.urls import reverse
from playwright.sync_api import expect

from tests.browser.base import BrowserTests
from tests.people import fitted, make_class, make_paper
from zester.plans.models import PaperFit

LIST = "card 4¼ x 5½ side fold\nBase moss\nMat 4 x 5¼ moss"


class OfflineTests(BrowserTests):
    def setUp(self):
        super().setUp()
        # The browser of a device, with its worker.
        self.leave(self.context)
        self.context = self.new_context(viewport={"width": 820, "height": 1100}, service_workers="allow")
        self.page = self.new_page()
        make_paper(self.user, "Moss", on_hand=40)
        self.made = make_class(self.user, LIST, participants=6)
        fitted(self.made)
        self.fit = PaperFit.objects.get(class_paper__card_class=self.made)

    def at(self, view: str, *args: object) -> str:
        return self.live_server_url + reverse(view, args=[self.made.pk, *args])

    def until(self, truth: str) -> None:
        """Wait for what a promise comes to."""
        for _ in range(600):
            if self.page.evaluate(truth):
                return
            self.page.wait_for_timeout(100)
        self.fail(truth)

    def until_kept(self, url: str) -> None:
        self.until(f"caches.match('{url}', {{ cacheName: 'zester-pages', ignoreVary: true }}).then(Boolean)")

    def test_the_evening_goes_on_without_a_line_and_nothing_stays_after_signing_out(self):
        page = self.page
        self.sign_in()
        page.goto(self.at("bench:steps"))
        page.get_by_role("button", name="Begin at the bench").click()
        bench = self.at("bench:table", self.fit.key)
        page.wait_for_url(bench)
        self.until_kept(bench)
        # What draws it, too.
        self.until("caches.open('zester-assets').then((all) => all.keys()).then((all) => all.length > 4)")
        page.goto(self.at("bags:pack"))
        stack = page.locator("a[data-keep]").first.get_attribute("href")
        self.until_kept(self.live_server_url + stack)
        self.context.set_offline(True)
        page.goto(bench)
        expect(page.locator("#where")).to_contain_text("Step 1 of")
        page.get_by_role("button", name="Done, next").click()
        expect(page.locator("#where")).to_contain_text("Step 2 of")
        expect(page.locator("#line")).to_contain_text("kept here, sent later")
        expect(page.locator("#line")).to_contain_text("What is shown is 0 min old")
        # Loaded anew it is where it was.
        page.reload()
        expect(page.locator("#where")).to_contain_text("Step 2 of")
        # Drawn as ever: the big button is not the browser's own.
        self.assertGreater(page.get_by_role("button", name="Done, next").bounding_box()["height"], 43)
        page.goto(self.live_server_url + stack)
        expect(page.get_by_text("Now for")).to_be_visible()
        # Any other page says what there is.
        page.goto(self.at("classes:count"))
        expect(page.get_by_role("heading", name="No line")).to_be_visible()
        expect(page.get_by_role("link", name="Cutting Moss")).to_be_visible()
        self.errors.clear()
        self.context.set_offline(False)
        page.goto(bench)
        expect(page.locator("#where")).to_contain_text("Step 2 of")
        expect(page.locator("#line")).not_to_contain_text("kept here")
        page.wait_for_function(
            "() => !JSON.parse(localStorage.getItem(`bench-${document.body.dataset.plan}-waiting`) || '[]').length"
        )
        page.goto(self.live_server_url)
        page.get_by_role("button", name="Sign out").click()
        expect(page.get_by_label("Name", exact=True)).to_be_visible()
        self.until("caches.open('zester-pages').then((all) => all.keys()).then((all) => !all.length)")
        self.errors.clear()
