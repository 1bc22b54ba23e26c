"""Ready kits: a paid kit that is cancelled lies on the shelf, and the next order of the same takes it."""

from __future__ import annotations

import json

from django.urls import reverse
from django.utils import timezone

from tests.people import make_class
from zester.bags.board import board_of
from zester.bags.models import Mark, ReadyKit
from zester.bags.ready import take
from zester.bags.tests.cases import PackingTests
from zester.classes.models import CardClass, Offer, Participant
from zester.classes.payments import standings_of
from zester.classes.services import count_class, recount
from zester.core.errors import ZesterError


class ReadyKitTests(PackingTests):
    def cancelled(self, place: str = "shelf 3") -> ReadyKit:
        """Ines' kit is packed, her order cancelled, the kit put onto the shelf."""
        self.pack_kit(self.kit("Ines"))
        ines = self.person("Ines")
        self.client.post(
            reverse("classes:states", args=[self.card_class.pk]),
            {"state": "cancelled", "who": f"{ines.pk}-{ines.state}"},
        )
        page = self.client.get(self.address("pack"))
        self.assertContains(page, "Ines Falk. All of it may lie ready for the next order")
        kit = next(row.kit for row in self.board().surplus)
        self.client.post(self.address("shelve"), {"kit": kit, "place": place})
        return ReadyKit.objects.get()

    def add(self, line: str):
        address = reverse("classes:add_people", args=[self.card_class.pk])
        return self.client.post(address, {"lines": line}, follow=True)

    def test_a_cancelled_paid_kit_lies_ready_and_the_next_order_takes_it_and_says_so(self):
        made = self.cancelled()
        self.assertEqual((made.name, made.place, made.state), ("full kit", "shelf 3", "there"))
        # Two of card A, as everybody has.
        self.assertIn("2 A1 Base", made.lines)
        self.assertIn("1 bottle of paint", made.lines)
        self.assertEqual(self.board().surplus, [])
        page = self.client.get(reverse("bags:ready"))
        self.assertContains(page, "shelf 3")
        # Who orders something else does not take it.
        page = self.add("Runa Tarn: card stock")
        self.assertNotContains(page, "has the ready kit")
        page = self.add("Wanda Kestrel: full kit, paid")
        self.assertContains(page, "Wanda Kestrel has the ready kit of full kit, which is packed. It lies: shelf 3.")
        made.refresh_from_db()
        self.assertEqual((made.state, made.taken_by.name), ("taken", "Wanda Kestrel"))
        self.assertEqual(self.person("Wanda").state, "packed")
        shown = next(each for each in self.board().kits if each.kit.person == str(self.person("Wanda").pk))
        self.assertTrue(shown.done)

    def test_who_cancelled_after_paying_is_owed_it(self):
        Offer.objects.filter(name="full kit").update(price=20)
        Participant.objects.filter(name__startswith="Ines").update(state="booked")
        ines = self.person("Ines")
        address = reverse("classes:states", args=[self.card_class.pk])
        self.client.post(address, {"state": "paid", "who": f"{ines.pk}-booked"})
        self.cancelled()
        standing = standings_of(CardClass.objects.get(pk=self.card_class.pk)).by_person[ines.pk]
        self.assertEqual((standing.account.due, standing.account.over), (0, 20))

    def test_it_is_sold_and_there_after_all_and_what_an_order_took_stays_taken(self):
        made = self.cancelled()
        address = reverse("bags:let_go", args=[made.pk])
        page = self.client.post(address, {"state": "sold", "words": "a neighbour"}, follow=True)
        self.assertContains(page, "a neighbour")
        self.assertNotContains(self.add("Wanda Kestrel: full kit"), "has the ready kit")
        self.client.post(address, {"state": "there"})
        for wrong in ("", "taken", "eaten"):
            self.assertContains(self.client.post(address, {"state": wrong}, follow=True), "What became of it?")
        kit = self.kit("Wanda")
        page = self.client.get(self.address("pack"))
        self.assertContains(page, "A ready kit lies there:")
        self.client.post(self.address("take_ready", made.pk), {"kit": kit})
        made.refresh_from_db()
        self.assertEqual(made.state, "taken")
        self.assertContains(self.client.post(address, {"state": "apart"}, follow=True), "was taken by an order")
        self.assertRaises(ZesterError, take, CardClass.objects.get(pk=self.card_class.pk), made.pk, kit)

    def test_two_orders_at_once_take_one_kit_once(self):
        self.cancelled()
        page = self.add("Wanda Kestrel: full kit\nBea Callow: full kit")
        self.assertContains(page, "Wanda Kestrel has the ready kit")
        self.assertNotContains(page, "Bea Callow has the ready kit")
        self.assertEqual(Mark.objects.filter(what__startswith=f"p{self.person('Bea').pk}-").count(), 0)

    def test_two_ready_kits_go_to_two_orders(self):
        self.cancelled()
        odo = self.person("Odo")
        for number in (1, 2):
            self.pack_kit(self.kit("Odo", number))
        Participant.objects.filter(pk=odo.pk).update(state="cancelled")
        for kit in dict.fromkeys(row.kit for row in self.board().surplus):
            self.client.post(self.address("shelve"), {"kit": kit, "place": ""})
        self.assertEqual(ReadyKit.objects.count(), 3)
        page = self.add("Wanda Kestrel: full kit\nBea Callow: full kit")
        for name in ("Wanda Kestrel", "Bea Callow"):
            self.assertContains(page, f"{name} has the ready kit")
        self.assertEqual(ReadyKit.objects.filter(state="there").count(), 1)

    def test_kits_made_for_the_shelf_are_taken_by_orders_of_another_class(self):
        # A class of sets for stock: nobody comes, two kits are given away.
        stock = make_class(self.user, f"2 Tag 2 x 3 {self.paper.name}", participants=0)
        stock.give_aways = 2
        stock.save()
        stock.class_cards.update(samples=0)
        recount(stock.pk)
        address = reverse("bags:shelve_made", args=[stock.pk])
        self.client.post(address, {"place": "box 4"})
        self.assertEqual(ReadyKit.objects.count(), 0)
        things = [key for kit in board_of(stock).kits for key in (*(bag.bag.key for bag in kit.bags), kit.kit.key)]
        ticks = json.dumps([self.entry("thing", key) for key in things])
        self.client.post(reverse("bags:ticks", args=[stock.pk]), ticks, content_type="application/json")
        page = self.client.get(reverse("bags:pack", args=[stock.pk]))
        self.assertContains(page, "for nobody yet")
        for _ in range(2):
            self.client.post(address, {"place": "box 4"})
        made, other = ReadyKit.objects.order_by("pk")
        self.assertEqual((made.name, made.place, made.lines), ("Card 1", "box 4", ["2 A1 Tag"]))
        # What the class has made stays made.
        self.assertEqual(count_class(stock).all_pieces, 4)

        self.add("Wanda Kestrel: full kit, paid")
        wanda = self.person("Wanda")
        before = len(self.board().kits)
        page = self.client.get(reverse("bags:ready"))
        self.assertContains(page, "Wanda Kestrel")
        take = reverse("bags:hand_out", args=[made.pk])
        page = self.client.post(take, {"person": wanda.pk}, follow=True)
        self.assertContains(page, "a kit less is made for them")
        self.assertEqual(len(self.board().kits), before - 1)
        self.assertNotIn(str(wanda.pk), {each.kit.person for each in self.board().kits})
        # She has it all; what she ordered is what it was.
        self.assertEqual(self.person("Wanda").state, "packed")
        self.assertEqual(wanda.orders.get().count, 1)
        self.assertContains(self.client.get(self.address("pack")), "has a ready kit: Card 1, box 4")
        again = reverse("bags:hand_out", args=[other.pk])
        self.assertContains(self.client.post(again, {"person": wanda.pk}, follow=True), "Nothing is left to be made")
        self.assertContains(self.client.post(take, {"person": wanda.pk}, follow=True), "not there any more")
        # Of a class that is closed nothing changes.
        CardClass.objects.filter(pk=self.card_class.pk).update(closed_at=timezone.now())
        page = self.client.post(reverse("bags:let_go", args=[made.pk]), {"state": "there"}, follow=True)
        self.assertContains(page, "is handed over and closed")
        CardClass.objects.filter(pk=self.card_class.pk).update(closed_at=None)
        # There after all: a kit is made for her again.
        self.client.post(reverse("bags:let_go", args=[made.pk]), {"state": "there"})
        self.assertEqual(len(self.board().kits), before)
        # Taken apart its pieces lie in the piles of its class again; it is packed anew, not just said to be there.
        packed = sum(kit.done for kit in board_of(CardClass.objects.get(pk=stock.pk)).kits)
        address = reverse("bags:let_go", args=[other.pk])
        self.assertContains(self.client.post(address, {"state": "apart"}, follow=True), "lie in their piles again")
        self.assertEqual(sum(kit.done for kit in board_of(CardClass.objects.get(pk=stock.pk)).kits), packed - 1)
        self.assertContains(self.client.post(address, {"state": "there"}, follow=True), "Pack its kit again")
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.post(take, {"person": wanda.pk}).status_code, 404)

    def test_what_is_not_there_is_told_and_nobody_takes_anothers(self):
        page = self.client.post(self.address("shelve"), {"kit": "p0-1", "place": ""}, follow=True)
        self.assertContains(page, "not there any more")
        made = self.cancelled()
        self.client.force_login(self.stranger)
        self.assertContains(self.client.get(reverse("bags:ready")), "No kit lies ready")
        for address in (
            reverse("bags:let_go", args=[made.pk]),
            self.address("take_ready", made.pk),
            self.address("shelve"),
        ):
            self.assertEqual(self.client.post(address, {"state": "sold", "kit": "x"}).status_code, 404)
        made.refresh_from_db()
        self.assertEqual(made.state, "there")
