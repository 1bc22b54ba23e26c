"""Every page from a phone to a wide screen, and with letters twice as large: nothing too wide, clipped, small, tiny."""

from __future__ import annotations

import datetime
import time
from pathlib import Path

from django.contrib.auth import get_user_model
from django.urls import reverse
from django.utils import timezone
from playwright.sync_api import Page

from tests.browser.base import AXE, BrowserTests, faults_on
from tests.demo import load_demo
from tests.people import fitted, make_class, make_paper
from zester.bags.models import ReadyKit
from zester.casting.models import Guide
from zester.classes.models import CardClass, Offer, Order, Participant
from zester.classes.services import begin_kit_list, recount
from zester.designs.models import Card, Tool
from zester.making.looking import look_task
from zester.making.models import Look
from zester.plans.models import PaperFit

LOOK = Path(__file__).with_name("everywhere.js").read_text()
WIDTHS = (1280, 1920, 820, 640, 390, 320)
LONG = "Overcast Afternoon with a Promise of Rain"
OF_NOBODY = (
    *(f"classes:{name}" for name in ("list", "new", "trimmers", "new_trimmer")),
    *("find", "region", "account", "archive:archive", "help", "removed", "fits:buying", "bench:log", "printing:files"),
    *(
        f"shelf:{name}"
        for name in ("shelf", "new", "lines", "take_stock", "offcuts", "bits", "new_bit", "new_pad", "ledger")
    ),
    *(f"designs:{name}" for name in ("library", "tools", "new_tool", "notation")),
    *(f"casting:{name}" for name in ("guides", "new")),
    *("making:page", "bags:ready", "money:log"),
)
OF_CLASS = (
    *(f"classes:{name}" for name in ("edit", "desk", "count", "people", "offers", "new_offer", "instead")),
    *(f"fits:{name}" for name in ("needs", "seats", "wall", "tradeoff")),
    "casting:table",
    "money:sums",
    "money:closing",
    *(f"bench:{name}" for name in ("steps", "evening", "together", "print")),
    *(f"bags:{name}" for name in ("pack", "short", "checks", "print", "handout", "evening")),
)


class Everywhere(BrowserTests):
    """How a page is looked at, and which there are."""

    def look(self, page: Page, where: str, least: int = 24) -> list[str]:
        found = page.evaluate(LOOK, least)
        if found:
            # Scripts lay rows beside each other anew a moment after the width has changed; what is wrong stays wrong.
            page.wait_for_timeout(500)
            found = page.evaluate(LOOK, least)
        return [f"{where}: {each}" for each in found]

    def faults(self, page: Page) -> list[str]:
        """What axe finds, and finds again when scripts have followed the new width."""
        page.evaluate(AXE)
        found = faults_on(page)
        if found:
            page.wait_for_timeout(500)
            found = faults_on(page)
        return found

    def walk(self, address: str, least: int = 24) -> list[str]:
        """What is wrong at any width; the page is asked for once."""
        page, found = self.page, []
        page.set_viewport_size({"width": 1280, "height": 800})
        page.goto(self.live_server_url + address)
        page.wait_for_load_state("load")
        for width in WIDTHS:
            page.set_viewport_size({"width": width, "height": 800})
            found += self.look(page, f"{address} at {width} px", least)
            if width == 390:
                found += [f"{address}: {each}" for each in self.faults(page)]
        page.evaluate("document.documentElement.style.fontSize = '200%'")
        for width in (1280, 640):
            page.set_viewport_size({"width": width, "height": 800})
            found += self.look(page, f"{address} at {width} px, letters twice as large", least)
        return found

    def walk_all(self, addresses: list[str]) -> list[str]:
        """What is wrong on any of them."""
        began = time.perf_counter()
        found = [each for address in addresses for each in self.walk(address)]
        print(f"{len(addresses)} pages in {time.perf_counter() - began:.0f} s")
        return found

    def of_class(self, made: CardClass) -> list[str]:
        """The pages of one class, with one of its people and the first of its papers."""
        addresses = [reverse(name, args=[made.pk]) for name in OF_CLASS]
        first = PaperFit.objects.filter(class_paper__card_class=made).first()
        addresses.append(reverse("classes:person", args=[made.pk, made.people.first().pk]))
        return [*addresses, reverse("fits:paper", args=[made.pk, first.key])]


class EverywhereTests(Everywhere):
    """A class of six cards in papers with long names, five hundred people, forty papers."""

    def setUp(self):
        super().setUp()
        papers = [make_paper(self.user, f"{LONG} {k}"[:60], place="the lower drawer at the window") for k in range(40)]
        self.paper = papers[0]
        Tool.objects.create(owner=self.user, name="Circles in a tin box with a blue lid", sizes=[[8128, 8128]])
        lines = "\n".join(f"Mat no. {k}  {k + 1} x 3  {paper.name}" for k, paper in enumerate(papers[:5], start=1))
        text = f"card 5½ x 8½ side fold\nBase  11 x 8½  {papers[0].name}\n{lines}\n+ 12 in ribbon  # from the blue tin"
        day = datetime.date.today() + datetime.timedelta(days=9)
        self.made = make_class(self.user, *[text] * 6, date=day, order_by=day, capacity=400, place=LONG * 2)
        CardClass.objects.filter(pk=self.made.pk).update(title=f"{LONG}, the second evening")
        offer = Offer.objects.create(card_class=self.made, name=f"the whole of it, {LONG}", price=1250)
        names = (f"{LONG.split()[k % 3]} Featherstonehaugh-Cholmondeley {k}" for k in range(500))
        people = Participant.objects.bulk_create(Participant(card_class=self.made, name=name) for name in names)
        Order.objects.bulk_create(Order(participant=each, offer=offer) for each in people)
        fitted(self.made)
        recount(self.made.pk)
        kit = {"owner": self.user, "title": LONG * 2, "name": LONG * 2, "lines": [f"2 A1 {LONG}"]}
        ReadyKit.objects.create(place="the lower drawer", **kit)
        ReadyKit.objects.create(state="sold", words=LONG, gone_at=timezone.now(), **kit)
        self.sign_in()

    def test_every_page_at_every_width(self):
        addresses = [reverse(name) for name in OF_NOBODY] + self.of_class(self.made)
        addresses += [reverse(f"shelf:{name}", args=[self.paper.pk]) for name in ("edit", "stock", "new_sheet")]
        addresses.append(reverse("classes:card", args=[self.made.pk, begin_kit_list(self.made).letter]))
        addresses.append(reverse("designs:design", args=[self.made.class_cards.first().card_id]))
        found = self.walk_all(addresses)
        # With one hand, at the trimmer and between piles.
        self.page.set_viewport_size({"width": 1280, "height": 800})
        self.page.goto(self.live_server_url + reverse("bench:steps", args=[self.made.pk]))
        self.page.get_by_role("button", name="Begin at the bench").click()
        self.page.locator("#where").wait_for()
        for address in (self.page.url.removeprefix(self.live_server_url), self.first_stack()):
            found += self.walk(address, 44)
        self.assertFalse(found, "\n".join(["", *found]))

    def first_stack(self) -> str:
        self.page.goto(self.live_server_url + reverse("bags:pack", args=[self.made.pk]))
        return self.page.locator("a[data-keep]").first.get_attribute("href")


class DemoEverywhereTests(Everywhere):
    """What somebody sees who tries Zester out: both of the demo's classes, its designs, and the account without any."""

    def setUp(self):
        super().setUp()
        load_demo()
        self.owner = get_user_model().objects.get(username="orla")

    def test_every_page_of_its_classes_and_designs(self):
        self.sign_in("orla", "stargazer")
        addresses = [reverse("designs:design", args=[card.pk]) for card in Card.objects.filter(owner=self.owner)]
        addresses += [reverse("casting:guide", args=[guide.pk]) for guide in Guide.objects.filter(owner=self.owner)]
        for made in CardClass.objects.filter(owner=self.owner):
            addresses += self.of_class(made)
        self.assertFalse(self.walk_all(addresses))

    def test_every_other_page_and_an_empty_account(self):
        found = []
        look_task.func(Look.objects.create(owner=self.owner, of=Look.Of.ALL).pk)
        for name in ("orla", "wren"):
            self.context.clear_cookies()
            self.sign_in(name, "stargazer")
            found += self.walk_all([reverse(name) for name in OF_NOBODY])
        self.assertFalse(found, "\n".join(["", *found]))
