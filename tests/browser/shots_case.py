"""The pictures themselves; not found by test discovery, run by shots.py."""

from __future__ import annotations

from django.core.management import call_command

from tests.browser.base import BrowserTests
from tests.browser.shots import FOLDER
from zester.classes.models import CardClass
from zester.designs.models import Card
from zester.shelf.models import Paper
from zester.site.context import DEMO_PASSWORD, DEMO_USER


class Shots(BrowserTests):
    def shoot(self, name: str, address: str | None = None) -> None:
        if address:
            self.page.goto(self.live_server_url + address)
        self.page.evaluate("document.fonts.ready")
        self.page.wait_for_timeout(1200 if address and "#" in address else 200)
        self.page.screenshot(path=FOLDER / f"{name}.png")

    def test_all(self):
        call_command("load_demo", verbosity=0)
        # Other plans are looked for while the page waits.
        self.page.set_default_timeout(240_000)
        key = CardClass.objects.get(title="Stargazer Card Evening").pk
        star = Paper.objects.get(name="Star Chart").pk
        self.sign_in(DEMO_USER, DEMO_PASSWORD)
        self.shoot("classes", "/classes/")
        self.shoot("class-settings", f"/classes/{key}/")
        self.shoot("design", f"/classes/{key}/design/A/")
        self.shoot("design-layers", f"/classes/{key}/design/C/?view=apart-front")
        self.shoot("library", "/designs/")
        self.shoot("tools", "/tools/")
        self.shoot("count", f"/classes/{key}/count/")
        self.shoot("sheets", f"/classes/{key}/fit/#paper-4")
        self.shoot("sheets-top", f"/classes/{key}/fit/")
        self.page.get_by_role("button", name="Look for other plans").click()
        self.page.get_by_text("stand with each paper below").wait_for()
        self.page.locator("#paper-6 .plans").scroll_into_view_if_needed()
        self.shoot("plans")
        self.page.goto(f"{self.live_server_url}/classes/{key}/fit/")
        self.page.locator("figure.layout", has_text="hidden middle").first.scroll_into_view_if_needed()
        self.shoot("middles")
        self.page.select_option("#pool-7", "portions")
        self.page.locator("#paper-7 form.pool button").click()
        self.page.get_by_text("portion a person").or_(self.page.get_by_text("portions a person")).wait_for()
        self.shoot("portions", f"/classes/{key}/fit/#paper-7")
        self.page.select_option("#pool-7", "together")
        self.page.locator("#paper-7 form.pool button").click()
        self.shoot("cut", f"/classes/{key}/cut/5/")
        self.shoot("pack", f"/classes/{key}/pack/")
        self.shoot("shelf", "/shelf/")
        self.shoot("paper", f"/shelf/{star}/")
        self.shoot("writing-a-cut-list", "/help/cut-list/")
        card = Card.objects.get(name="Brass Telescope")
        right = card.cut_list
        card.cut_list = right.replace("9½ x 1 ", "8½ x 1 ").replace("Middle panel  ⅛ border", "Middle panel  4½ x 5")
        card.save()
        self.shoot("design-mend", f"/classes/{key}/design/C/?view=inside")
        card.cut_list = right
        card.save()
        Paper.objects.filter(name="Brass Rays").update(on_hand=9)
        self.page.goto(f"{self.live_server_url}/classes/{key}/fit/")
        self.page.get_by_role("button", name="Fit again").click()
        self.page.get_by_text("Brass Rays runs out").wait_for()
        self.shoot("shelf-short")
