"""Orders with amounts, limits and dates, payments by amount and day, what is open, by whom and since when."""

from __future__ import annotations

import datetime
import json
from decimal import Decimal
from importlib import import_module

import pymupdf
from django.apps import apps
from django.urls import reverse
from django.utils import timezone

from tests.people import SignedInTests, make_class
from zester.classes.models import CardClass, Offer, Participant, Payment
from zester.classes.payments import standings_of
from zester.classes.people import keep_offer
from zester.classes.services import copy_class, count_class
from zester.core.kits.demand import kits_of

LIST = "Base 8½ x 5½ brass\n2 Panel 3 x 4 brass"
PRICE = Decimal("34.50")


class PaymentTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, LIST, participants=10)
        for name, price in (("full kit", PRICE), ("supplies only", Decimal("12"))):
            keep_offer(Offer(card_class=self.card_class, name=name, price=price))
        self.full = Offer.objects.get(name="full kit")

    def url(self, name: str, *more) -> str:
        return reverse(f"classes:{name}", args=[self.card_class.pk, *more])

    def add(self, lines: str):
        return self.client.post(self.url("add_people"), {"lines": lines}, follow=True)

    def pay(self, who: str, **sent):
        person = Participant.objects.get(name=who)
        about = {"amount": "10", "kind": "paid", "on": "2026-11-20", "words": ""} | sent
        return self.client.post(self.url("payment", person.pk), about, follow=True)

    def account(self, who: str):
        pk = Participant.objects.get(name=who).pk
        return standings_of(CardClass.objects.get(pk=self.card_class.pk)).by_person[pk].account

    def state(self, who: str) -> str:
        return Participant.objects.get(name=who).state

    def test_an_order_with_an_amount_and_a_part_payment(self):
        page = self.add("Ines full kit 2, supplies 62.50, paid 40 on 2026-11-03\nOdo full kit, paid 34.50\nTove, paid")
        self.assertContains(page, "2 full kit, supplies $62.50")
        ines = self.account("Ines")
        # Worked by hand: 2 × 34.50 + 62.50 = 131.50, less 40.
        self.assertEqual((ines.due, ines.paid, ines.owing), (Decimal("131.50"), Decimal("40"), Decimal("91.50")))
        self.assertEqual([self.state(who) for who in ("Ines", "Odo", "Tove")], ["booked", "paid", "paid"])
        # “Paid” without an amount is all that is due, today.
        self.assertEqual(self.account("Tove").paid, PRICE)
        self.assertContains(page, "due $200.50, paid $109.00")
        self.assertContains(page, "open $91.50")

    def test_what_is_paid_is_written_taken_back_and_put_back_and_the_state_follows(self):
        self.add("Ines full kit")
        page = self.pay("Ines", amount="34.50", words="by hand")
        self.assertContains(page, "34.50 paid")
        self.assertEqual((self.state("Ines"), self.account("Ines").owing), ("paid", 0))
        row = Payment.objects.get()
        address = self.url("mark_payment", row.participant_id, row.pk)
        self.assertContains(self.client.post(address, follow=True), "put it back")
        self.assertEqual((self.state("Ines"), self.account("Ines").owing), ("booked", PRICE))
        self.client.post(address, {"back": "1"})
        self.assertEqual(self.state("Ines"), "paid")
        # What is packed stays packed, whatever is paid.
        Participant.objects.update(state="packed")
        self.client.post(address)
        self.assertEqual((self.state("Ines"), self.account("Ines").owing), ("packed", PRICE))
        self.pay("Ines", amount="30")
        page = self.pay("Ines", amount="4.50", kind="off", words="a present")
        self.assertEqual((self.account("Ines").owing, self.account("Ines").written_off), (0, Decimal("4.50")))
        self.assertContains(page, "written off: a present")

    def test_a_wrong_amount_is_told_beside_its_field_and_nothing_is_lost(self):
        self.add("Ines full kit")
        for sent in (
            {"amount": "0"},
            {"amount": "-5"},
            {"amount": "ten"},
            {"on": ""},
            {"kind": "x"},
            {"amount": "12.345"},
        ):
            page = self.pay("Ines", words="in an envelope", **sent)
            self.assertContains(page, "invalid-feedback", msg_prefix=str(sent))
            self.assertContains(page, "in an envelope")
        self.assertEqual(Payment.objects.count(), 0)

    def test_more_ordered_after_paying_is_open_again(self):
        self.add("Ines full kit, paid")
        ines = Participant.objects.get()
        form = {"name": "Ines", "state": "paid", f"offer{self.full.pk}": "2", "seen": "", "amount": "", "own_share": ""}
        self.client.post(self.url("person", ines.pk), form)
        self.assertEqual((self.state("Ines"), self.account("Ines").owing), ("booked", PRICE))
        wrong = self.client.post(self.url("person", ines.pk), form | {"amount": "5", "own_share": "6"})
        self.assertContains(wrong, "more than the goods come to")

    def test_the_line_to_send_and_the_receipt_say_what_the_page_says(self):
        CardClass.objects.update(date=datetime.date(2026, 12, 12))
        self.add("Ines full kit, ordered 2026-11-01, paid 10 on 2026-11-03")
        pk = Participant.objects.get().pk
        page = self.client.get(self.url("person", pk))
        told = "(12 December 2026): $24.50 is open since 1 November 2026; $10.00 of $34.50 is paid."
        self.assertContains(page, told)
        answer = self.client.get(self.url("receipt", pk))
        text = "".join(each.get_text() for each in pymupdf.open(stream=answer.content, filetype="pdf"))
        for words in ("Ines", "1 full kit", "34.50", "10.00", "24.50", "Open"):
            self.assertIn(words, text)
        data = json.loads(self.client.get(self.url("person_data", pk)).content)
        self.assertEqual(data["payments"][0]["amount"], "10.00")

    def test_a_late_order_is_flagged_and_taken_and_a_number_that_is_all_ordered_is_told(self):
        Offer.objects.filter(pk=self.full.pk).update(closes_on=datetime.date(2026, 11, 12), limit=1)
        page = self.add("Ines full kit, ordered 2026-11-13\nOdo full kit, ordered 2026-11-12")
        self.assertContains(page, "late: full kit was closed", count=1)
        self.assertContains(page, "Of full kit there are 1, and 2 are ordered.")
        # Without a day of its own an offer closes with the class.
        CardClass.objects.update(order_by=datetime.date(2026, 11, 10))
        Offer.objects.filter(pk=self.full.pk).update(closes_on=None)
        self.assertContains(self.client.get(self.url("people")), "late: full kit was closed", count=2)
        self.assertContains(self.client.get(self.url("offers")), "there are 1, 2 are ordered")

    def test_offers_refuse_what_contradicts_itself(self):
        base = {"name": "full kit", "price": "30", "sets": "1", "card": "", "patterned": "", "choose": "0", "seen": ""}
        for more, words in (
            ({"free_above": "50", "free_below": "50"}, "more than the amount it begins with"),
            ({"later_price": "40"}, "has an amount and a first day"),
            ({"later_from": "2026-11-10"}, "has an amount and a first day"),
        ):
            self.assertContains(self.client.post(self.url("offer", self.full.pk), base | more), words)

    def test_those_without_a_name_are_counted_as_she_says(self):
        supplies = Offer.objects.get(name="supplies only")
        page = self.client.get(self.url("people"))
        self.assertContains(page, "10 of them counted as full kit, which is a guess")
        sent = {f"unnamed{self.full.pk}": "6", f"unnamed{supplies.pk}": "4"}
        page = self.client.post(self.url("unnamed"), sent, follow=True)
        self.assertNotContains(page, "which is a guess")
        self.assertEqual(self.unnamed(), {"full kit": 6, "supplies only": 4})
        page = self.client.post(self.url("unnamed"), sent | {f"unnamed{self.full.pk}": "7"}, follow=True)
        self.assertContains(page, "11 are more than the 10 without a name")
        for odd in ("six", "-1", "1.5", "99999"):
            page = self.client.post(self.url("unnamed"), {f"unnamed{self.full.pk}": odd}, follow=True)
            self.assertContains(page, "invalid-feedback", msg_prefix=odd)
            self.assertContains(page, f'value="{odd}"')
        self.assertEqual(self.unnamed(), {"full kit": 6, "supplies only": 4})
        # Who gets a name was one of them.
        self.add("Ines supplies only")
        self.assertEqual(self.unnamed(), {"full kit": 6, "supplies only": 3})
        again = copy_class(CardClass.objects.get(pk=self.card_class.pk))
        self.assertEqual(sum(offer.unnamed for offer in again.offers.all()), 9)

    def unnamed(self) -> dict[str, int]:
        needs = count_class(CardClass.objects.get(pk=self.card_class.pk)).needs
        return {kits.offer.name: kits.count for kits in kits_of(needs) if kits.origin == "u"}

    def test_post_beside_the_price_goes_by_where_a_kit_is_sent(self):
        self.client.post(self.url("post"), {"post_inside": "4.20", "post_abroad": "11.75"})
        self.add("Ines full kit, abroad\nOdo full kit, picked up")
        self.assertEqual((self.account("Ines").due, self.account("Odo").due), (PRICE + Decimal("11.75"), PRICE))
        wrong = self.client.post(self.url("post"), {"post_inside": "-1"})
        self.assertContains(wrong, "invalid-feedback")

    def test_who_has_paid_and_waits_has_paid_all_the_same(self):
        CardClass.objects.update(capacity=1, participants=0)
        self.add("Ines full kit\nOdo full kit, paid")
        odo = self.account("Odo")
        self.assertEqual((self.state("Odo"), odo.due, odo.paid, odo.over), ("waiting", 0, PRICE, PRICE))

    def test_nobody_sees_or_writes_a_strangers_payments(self):
        self.add("Ines full kit, paid 10")
        row = Payment.objects.get()
        self.client.force_login(self.stranger)
        for name, more in (("payment", ()), ("mark_payment", (row.pk,)), ("receipt", ())):
            address = self.url(name, row.participant_id, *more)
            answer = self.client.get(address) if name == "receipt" else self.client.post(address, {"amount": "5"})
            self.assertEqual(answer.status_code, 404, name)

    def test_who_had_paid_before_amounts_were_kept_has_a_payment(self):
        self.add("Ines full kit 2\nOdo full kit\nTove supplies only")
        Participant.objects.filter(name__in=("Ines", "Tove")).update(state="paid")
        import_module("zester.classes.migrations.0024_paid_before").write_payments(apps, None)
        found = dict(Payment.objects.values_list("participant__name", "amount"))
        self.assertEqual(found, {"Ines": 2 * PRICE, "Tove": Decimal("12")})
        self.assertEqual(Payment.objects.first().on, timezone.localdate())
