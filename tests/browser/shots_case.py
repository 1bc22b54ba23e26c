"""The pictures themselves; not found by test discovery, run by shots.py."""

from __future__ import annotations

from django.core.management import call_command

from tests.browser.base import BrowserTests
from tests.browser.shots import FOLDER
from zester.bags.models import Mark
from zester.classes.models import CardClass, Trimmer
from zester.designs.models import Card
from zester.plans.models import PaperFit, Work
from zester.plans.work import ask
from zester.shelf.models import Paper
from zester.site.context import DEMO_PASSWORD, DEMO_USER

# Lines that want to be asked about.
ASKED = "two strips ½ x 4, telescope brass or midnight dome\nTag 2 x 3 lagoon, hole ⅛\nLabel 3 x 1 chalk moon 2"


def polish() -> None:
    """What the workers do when nobody waits, and what the plans from paper to minutes are."""
    for kind in (Work.Kind.POLISH, Work.Kind.FRONT):
        for fit in PaperFit.objects.wanted():
            ask(fit, kind)
    Trimmer.objects.update(hour_worth=12)


class Shots(BrowserTests):
    def shoot(self, name: str, address: str | None = None) -> None:
        if address:
            self.page.goto(self.live_server_url + address)
        self.page.evaluate("document.fonts.ready")
        self.page.wait_for_timeout(1200 if address and "#" in address else 200)
        self.page.screenshot(path=FOLDER / f"{name}.png")

    def test_all(self):
        call_command("load_demo", verbosity=0)
        # Fewer minutes, as a worker finds it by and by; other plans are looked for while the page waits.
        polish()
        self.page.set_default_timeout(240_000)
        key = CardClass.objects.get(title="Stargazer Card Evening").pk
        self.sign_in(DEMO_USER, DEMO_PASSWORD)
        self.shoot("classes", "/classes/")
        self.shoot("design", f"/classes/{key}/design/A/")
        self.shoot("library", "/designs/")
        self.shoot("people", f"/classes/{key}/people/")
        self.shoot("count", f"/classes/{key}/count/")
        self.shoot("money", f"/classes/{key}/money/")
        self.shoot("wall", f"/classes/{key}/fit/")
        self.shoot("minutes", f"/classes/{key}/fit/minutes/")
        self.shoot("sheets", self.fit_page(key, "Brass Rays"))
        self.shoot("cut", f"/classes/{key}/cut/{Paper.objects.get(name='Brass Rays').key}/")
        self.bench(key)
        self.packing(key)
        self.shoot("shelf", "/shelf/")
        self.shoot("offcuts", "/shelf/offcuts/")
        by_post = CardClass.objects.get(title="Kite Post").pk
        self.shoot("casting", f"/classes/{by_post}/casting/")
        card = Card.objects.get(name="Brass Telescope")
        right = card.cut_list
        card.cut_list = f"{right}\n{ASKED}"
        card.save()
        self.shoot("design-asks", f"/classes/{key}/design/C/")
        card.cut_list = right
        card.save()

    def bench(self, key: int) -> None:
        """The order of work, and the bench a few steps on; afterwards nothing is being cut."""
        self.shoot("order-of-work", f"/classes/{key}/cut/evening/")
        cut = f"{self.live_server_url}/classes/{key}/cut/{Paper.objects.get(name='Brass Rays').key}/"
        self.page.goto(cut)
        self.page.get_by_role("button", name="Begin at the bench").click()
        self.page.get_by_role("button", name="Done, next").wait_for()
        self.page.wait_for_load_state("networkidle")
        for _ in range(3):
            self.page.keyboard.press("Space")
        self.page.wait_for_timeout(600)
        self.shoot("bench")
        self.page.goto(cut)
        self.page.get_by_text("Not after all…").click()
        self.page.get_by_role("button", name="Take it back").click()

    def packing(self, key: int) -> None:
        """The board, the table a few bags on, the hand-out; afterwards nothing is packed."""
        self.page.goto(f"{self.live_server_url}/classes/{key}/pack/")
        self.page.locator(".pack-stacks a").first.click()
        # Keys before the table is there would go to the board.
        self.page.get_by_role("button", name="Packed, next").wait_for()
        self.page.wait_for_load_state()
        for _ in range(4):
            self.page.keyboard.press("Space")
        self.page.wait_for_timeout(1500)
        self.shoot("pack", f"/classes/{key}/pack/")
        self.shoot("hand-out", f"/classes/{key}/pack/hand-out/?card=A")
        self.shoot("teach", f"/classes/{key}/pack/teach/?at=25")
        Mark.objects.all().delete()

    def fit_page(self, key: int, paper: str) -> str:
        """The address of a paper's sheets."""
        return f"/classes/{key}/fit/{Paper.objects.get(name=paper).key}/"
