"""Every form takes what it shows: each is sent as it stands, on the demo and on odd but allowed values."""

from __future__ import annotations

import datetime
import re
from decimal import Decimal
from html.parser import HTMLParser

from django.test import override_settings
from django.urls import reverse

from tests.demo import load_demo
from tests.people import SignedInTests, make_class, make_paper
from zester.classes.models import CardClass, ClassCard, Offer, Participant, Trimmer
from zester.classes.people import keep_offer
from zester.core.lengths import TICKS_PER_MM
from zester.core.tests.share import each_of
from zester.designs.models import Card, Tool
from zester.shelf.models import Bit, Pad, Paper, Sheet
from zester.shelf.stock import stock_take

# Buttons that do something else than keep what the fields hold.
OF_A_CLASS = ("classes:edit", "classes:count", "bags:pack", "bench:evening")
NOT_SAVING = (
    *("remove", "copy", "delete", "restore", "gone", "close", "open", "start", "ask", "again", "sign-out", "keep"),
    # It writes one more each time.
    "payment",
    "/plan/",
)


class Forms(HTMLParser):
    """The forms of a page with what their fields hold."""

    def __init__(self, page: str):
        super().__init__()
        self.found: list[dict] = []
        self.form = self.select = self.area = None
        self.feed(page)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        about = {name: value or "" for name, value in attrs}
        if tag == "form":
            self.form = {"action": about.get("action", ""), "post": about.get("method", "").lower() == "post",
                         "fields": [], "typed": 0, "files": 0}  # fmt: skip
            self.found.append(self.form)
        if self.form is None or "disabled" in about:
            return
        kind, name = about.get("type", "text"), about.get("name", "")
        if tag == "input" and kind == "file":
            self.form["files"] += 1
        elif tag == "input" and name and (kind not in ("checkbox", "radio") or "checked" in about):
            self.form["fields"].append((name, about.get("value", "on" if kind == "checkbox" else "")))
            self.form["typed"] += kind in ("text", "number", "date", "time", "email")
        elif tag == "textarea" and name:
            self.area = [name, ""]
        elif tag == "select" and name:
            self.select = [name, None]
        elif tag == "option" and self.select and ("selected" in about or self.select[1] is None):
            self.select[1] = about.get("value", "")

    def handle_data(self, data: str) -> None:
        if self.area:
            self.area[1] += data

    def handle_endtag(self, tag: str) -> None:
        if tag == "textarea" and self.area and self.form:
            # A line end right after the tag belongs to the page.
            self.form["fields"].append((self.area[0], self.area[1].removeprefix("\n")))
            self.form["typed"] += 1
            self.area = None
        if tag == "select" and self.select and self.form:
            self.form["fields"].append((self.select[0], self.select[1] or ""))
            self.form["typed"] += 1
            self.select = None
        if tag == "form":
            self.form = None


@override_settings(DEMO=True)
class UnchangedTests(SignedInTests):
    """Pages with forms, for every thing there is."""

    def send_all(self, least: int) -> None:
        sent = 0
        for address in each_of(self.addresses()):
            page = self.client.get(address)
            self.assertEqual(page.status_code, 200, address)
            for form in Forms(page.content.decode()).found:
                if not form["post"] or form["files"] or not form["typed"]:
                    continue
                if any(word in form["action"] for word in NOT_SAVING):
                    continue
                data: dict[str, list[str]] = {}
                for name, value in form["fields"]:
                    data.setdefault(name, []).append(value)
                with self.subTest(address=address, form=form["action"]):
                    answer = self.client.post(form["action"] or address, data)
                    self.assertIn(answer.status_code, (200, 302), answer.content[:300])
                    refused = re.findall(r'invalid-feedback d-block"[^>]*>([^<]*)', answer.content.decode())
                    self.assertEqual(refused, [])
                    sent += 1
        self.assertGreater(sent, least)

    def addresses(self) -> list[str]:
        user = self.user
        found = [
            *(("shelf:edit", each.pk) for each in Paper.objects.of(user)),
            *(("shelf:edit_sheet", each.paper_id, each.pk)
              for each in Sheet.objects.filter(paper__owner=user, is_offcut=False)),
            *(("shelf:edit_bit", each.pk) for each in Bit.objects.of(user)),
            *(("shelf:edit_pad", each.pk) for each in Pad.objects.of(user)),
            *(("designs:edit_tool", each.pk) for each in Tool.objects.of(user)),
            *(("classes:edit_trimmer", each.pk) for each in Trimmer.objects.of(user)),
            *((name, each.pk) for each in CardClass.objects.of(user) for name in OF_A_CLASS),
            *(("classes:offer", each.card_class_id, each.pk) for each in Offer.objects.filter(card_class__owner=user)),
            *(("classes:person", each.card_class_id, each.pk)
              for each in Participant.objects.filter(card_class__owner=user)[:12]),
            *(("classes:edit_card", each.card_class_id, each.letter)
              for each in ClassCard.objects.filter(card_class__owner=user, removed_at=None)),
            *(("designs:design", each.pk) for each in Card.objects.of(user).filter(is_kit=False)),
        ]  # fmt: skip
        return [reverse(name, args=args) for name, *args in found] + [reverse("shelf:take_stock")]

    def test_the_demo(self):
        load_demo()
        self.user = CardClass.objects.first().owner
        self.client.force_login(self.user)
        self.send_all(60)

    def test_odd_but_allowed_values(self):
        metre = 1000 * TICKS_PER_MM
        for name, pack, unit in (("ribbon", 10 * metre, "mm"), ("twine", 914 * metre, "in"), ("cord", 2 * metre, "mm")):
            Bit.objects.create(owner=self.user, name=name, by_length=True, pack=pack, unit=unit, on_hand=3 * metre // 2)
        Bit.objects.create(
            owner=self.user, name="gems " * 10, pack=100_000, on_hand=0, price=Decimal("0.01"), grams=None
        )
        odd = make_paper(self.user, "x;=1+1 “quoted” & <b>", price=Decimal("9999.99"), pack=1000, weight=900)
        stock_take(odd, None, 100_000)
        Sheet.objects.create(paper=odd, width=320, height=999_999, is_offcut=True, on_hand=1)
        Tool.objects.create(
            owner=self.user, name="Nested", kind="die", shape="oval", sizes=[[k * 320, k * 640] for k in range(1, 41)]
        )
        Trimmer.objects.create(owner=self.user, unit="mm", longest_cut=123_457, narrowest=1, keep_short=1, keep_long=1)
        made = make_class(self.user, "Mat 4 x 5¼ brass", participants=9_999, notes="x" * 4000, ruler="mm")
        CardClass.objects.filter(pk=made.pk).update(minutes=1440, capacity=10_000, date=datetime.date(2031, 2, 28))
        Participant.objects.create(card_class=made, name="O’Neil; Jr.", note="comes\nlate", contact="=1+1", sets=9)
        keep_offer(
            Offer(card_class=made, name="full “kit”", price=Decimal("0.05"), sets=20, extras="1 pencil\n10 cm twine")
        )
        self.send_all(12)
