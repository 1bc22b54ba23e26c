"""The board and the packing table: who gets what, ticks of several people, orders that change in between."""

from __future__ import annotations

import threading
import uuid

from django.db import connection, connections
from django.test import TransactionTestCase, override_settings
from django.test.utils import CaptureQueriesContext

from tests.people import AT_ONCE, make_class, make_paper
from zester.bags.board import board_of
from zester.bags.marks import Tick, tick
from zester.bags.models import Mark
from zester.bags.tests.cases import PackingTests
from zester.classes.models import CardClass, ClassCard, Participant, Substitution
from zester.classes.people import keep_person, set_state, take_instead
from zester.classes.services import recount
from zester.designs.models import Card
from zester.shelf.models import Paper


class BoardTests(PackingTests):
    def test_the_board_says_what_is_to_pack_for_whom(self):
        page = self.client.get(self.address("pack"))
        self.assertContains(page, '<b data-sum="bags">0 of 8</b> bags')
        self.assertContains(page, "0 of 4")
        self.assertContains(page, "Odo Brackwater, kit 2 of 2")
        self.assertContains(page, "Nothing to pack for Pell Aster.")
        self.assertContains(page, "without A3")

    def test_a_stack_is_read_from_afar_and_a_kit_says_whose_it_is(self):
        first = self.board().stacks[0]
        page = self.client.get(self.address("stack", first.key))
        for words in (
            "A · Card 1",
            "for 2 cards",
            "Ines Falk",
            "8½ × 5½ in · Telescope Brass",
            "stamped in class",
            "A bag weighs",
        ):
            self.assertContains(page, words)
        Participant.objects.filter(name="Ines Falk").update(address="Tidewater 4", note="allergic to glitter")
        page = self.client.get(self.address("kit", self.kit("Ines")))
        for words in ("Tidewater 4", "allergic to glitter", "bottle of paint", "8 in"):
            self.assertContains(page, words)
        self.assertContains(self.client.get(self.address("kit", self.kit("Odo"))), "Not paid yet")
        for view in ("stack", "kit", "bag"):
            self.assertEqual(self.client.get(self.address(view, "p1-nowhere")).status_code, 404)

    def test_the_code_on_a_bag_opens_its_kit(self):
        kit = self.kit("Ines")
        answer = self.client.get(self.address("bag", f"{kit}-A"))
        self.assertRedirects(answer, f"{self.address('kit', kit)}#{kit}-A", fetch_redirect_response=False)

    def test_ticks_of_a_stack_take_one_bag_after_the_other_and_each_counts_once(self):
        first = self.board().stacks[0]
        again = self.entry("stack", first.key)
        told = self.tick(again, self.entry("stack", first.key), stack=first.key).json()
        self.assertEqual(told["stack"], [2, 3])
        self.assertEqual(told["next"]["for"], "Odo Brackwater, kit 2 of 2")
        # What did not seem to arrive is sent again.
        told = self.tick(again, stack=first.key).json()
        self.assertEqual((told["stack"], told["took"][again["key"]]), ([2, 3], f"{self.kit('Ines')}-A"))
        told = self.tick(self.entry("thing", f"{self.kit('Ines')}-A", on=False), stack=first.key).json()
        self.assertEqual((told["stack"], told["next"]["for"]), ([1, 3], "Ines Falk"))
        for _ in range(4):
            told = self.tick(self.entry("stack", first.key), stack=first.key).json()
        self.assertEqual((told["stack"], told["next"]), ([3, 3], None))

    def test_whoever_has_paid_is_packed_for_with_their_last_kit_and_not_when_it_is_opened_again(self):
        ines, odo = self.kit("Ines"), self.kit("Odo")
        self.pack_kit(ines)
        self.pack_kit(odo)
        self.assertEqual((self.person("Ines").state, self.person("Odo").state), ("packed", "booked"))
        self.tick(self.entry("thing", f"{ines}-A", on=False))
        self.assertEqual(self.person("Ines").state, "paid")
        self.tick(self.entry("thing", f"{ines}-A"))
        self.assertEqual(self.person("Ines").state, "packed")
        self.tick(self.entry("thing", ines, on=False))
        self.assertEqual(self.person("Ines").state, "paid")
        # Said by hand it stays what was said.
        set_state(self.card_class, {self.person("Tove").pk: "paid"}, "packed")
        self.pack_kit(self.kit("Tove"))
        self.tick(self.entry("thing", self.kit("Tove"), on=False))
        self.assertEqual(self.person("Tove").state, "packed")

    def test_a_bag_whose_order_changed_is_looked_at_again(self):
        ines = self.kit("Ines")
        self.pack_kit(ines)
        ember = make_paper(self.user, "Ember Dust")
        row = Substitution(card_class=self.card_class, paper=self.paper, other=ember, who="some")
        take_instead(row, [self.person("Ines")])
        shown = self.board().kits_by_key[ines]
        self.assertEqual((shown.state, [bag.changed for bag in shown.bags]), ("changed", [True, True]))
        page = self.client.get(self.address("kit", ines))
        self.assertContains(page, "Its order changed after it was packed", 2)
        self.assertContains(page, "A1′")
        self.tick(*(self.entry("thing", bag.bag.key) for bag in shown.bags))
        self.assertEqual(self.board().kits_by_key[ines].state, "done")

    def test_what_is_packed_for_nobody_is_taken_apart_or_handed_on(self):
        odo = self.kit("Odo", 2)
        self.tick(self.entry("thing", f"{odo}-A"), self.entry("thing", f"{odo}-B"))
        orders = {order.offer_id: 1 for order in self.person("Odo").orders.all()}
        keep_person(self.person("Odo"), orders)
        page = self.client.get(self.address("pack"))
        self.assertContains(page, "Packed, but its order is gone", 2)
        self.assertContains(page, "Odo Brackwater, bag A")
        self.assertContains(page, "it is for Ines Falk now, who gets the same")
        # It is none of the bags that are packed: not in the thread, nor on the list of classes.
        bags = self.board().packed.bags_in_all
        self.assertNotContains(page, f"2 of {bags} bags")
        ines = self.kit("Ines")
        self.client.post(self.address("surplus"), {"what": f"{odo}-A", "to": ines})
        self.assertTrue(self.board().bags[f"{ines}-A"].done)
        self.assertContains(self.client.get(self.address("pack")), f"1 of {bags} bags")
        # Wanted again it is packed again.
        keep_person(self.person("Odo"), dict.fromkeys(orders, 2))
        self.assertContains(self.client.get(self.address("pack")), f"2 of {bags + 2} bags")
        keep_person(self.person("Odo"), orders)
        refused = self.client.post(self.address("surplus"), {"what": f"{odo}-B", "to": self.kit("Tove")}, follow=True)
        self.assertContains(refused, "holds something else")
        self.client.post(self.address("surplus"), {"what": f"{odo}-B", "to": ""})
        self.assertEqual(self.board().surplus, [])

    def test_what_is_packed_stands_there_too_when_nobody_comes_any_more(self):
        ines = self.kit("Ines")
        self.pack_kit(ines)
        for person in self.card_class.people.all():
            set_state(self.card_class, {person.pk: person.state}, "cancelled")
        page = self.client.get(self.address("pack"))
        self.assertContains(page, "Nobody gets a kit")
        self.assertContains(page, "Packed, but its order is gone", 3)
        self.client.post(self.address("surplus"), {"what": ines, "to": ""})
        self.assertContains(self.client.get(self.address("pack")), "Packed, but its order is gone", 2)

    def test_how_a_kit_is_packed_is_chosen_before_anything_is_packed(self):
        self.client.post(self.address("how"), {"bagging": "card"})
        self.assertEqual(self.board().card_class.n_bags, 3 * 3 + 3)
        self.assertEqual([bag.bag.name for bag in self.board().kits[0].bags], ["A 1", "A 2", "B"])
        self.client.post(self.address("how"), {"bagging": "kit"})
        self.assertEqual(CardClass.objects.get(pk=self.card_class.pk).n_bags, 4)
        self.tick(self.entry("thing", f"{self.kit('Ines')}-all"))
        page = self.client.post(self.address("how"), {"bagging": "design"}, follow=True)
        self.assertContains(page, "1 bag or kit is packed already. Begin the packing again, then choose")
        self.client.post(self.address("again"))
        self.client.post(self.address("how"), {"bagging": "design"})
        self.assertEqual((Mark.objects.count(), self.board().card_class.bagging), (0, "design"))
        self.assertContains(self.client.post(self.address("how"), {"bagging": "x"}, follow=True), "no way to pack")

    def test_a_version_goes_into_the_bags_that_is_made(self):
        Card.objects.filter(name="Card 2").update(cut_list=f"{COMET_VERSIONS}")
        ClassCard.objects.filter(letter="B").update(version="stepped-up")
        recount(self.card_class.pk)
        names = [line.name for line in self.board().stacks[2].lines]
        self.assertIn("Star", names)
        ClassCard.objects.filter(letter="B").update(version="")
        recount(self.card_class.pk)
        self.assertNotIn("Star", [line.name for line in self.board().stacks[2].lines])

    def test_nonsense_is_refused_and_changes_nothing(self):
        for body in (
            b"",
            b"[",
            b"{}",
            b"[1]",
            b'[{"key": "x", "kind": "thing", "what": "p", "on": true}]',
            b"[" * 9000,
        ):
            answer = self.client.post(self.address("ticks"), body, content_type="application/json")
            self.assertEqual(answer.status_code, 400, body[:40])
        entry = self.entry("thing", "p9999-1-1")
        for change in (
            {"kind": "x"},
            {"what": 7},
            {"what": "x" * 99},
            {"what": "\ud83d"},
            {"on": "yes"},
            {"device": {"a": 1}},
            {"device": "half \udc00"},
            {"device": "\0"},
        ):
            self.assertEqual(self.tick(entry | change).status_code, 400, change)
        told = self.tick(entry, self.entry("stack", "A-gone"), stack="A-gone").json()
        self.assertEqual((told["took"], told["gone"]), ({}, True))
        self.assertEqual(Mark.objects.count(), 0)

    def test_the_thread_says_how_far_the_packing_is(self):
        self.assertContains(self.client.get(self.address("pack")), "8 bags")
        self.pack_kit(self.kit("Ines"))
        self.assertContains(self.client.get("/classes/"), "2 of 8 bags")

    def test_an_empty_class_says_what_comes_first(self):
        empty = make_class(self.user)
        self.assertContains(self.client.get(f"/classes/{empty.pk}/pack/"), "nothing to pack yet")
        for page in ("short", "checks", "labels", "hand-out"):
            self.assertEqual(self.client.get(f"/classes/{empty.pk}/pack/{page}/").status_code, 200)


COMET_VERSIONS = "card 4¼ x 5½ top fold\nBase star chart\nStar 1 x 1 brass only stepped-up"


class ManyKitsTests(PackingTests):
    """Five hundred people: what the database is asked does not grow with them."""

    def test_pages_of_500_kits_ask_the_database_30_times_at_most(self):
        orders = list(self.person("Ines").orders.all())
        people = [Participant(card_class=self.card_class, name=f"Person {n}", state="booked") for n in range(496)]
        Participant.objects.bulk_create(people)
        made = type(orders[0]).objects
        made.bulk_create([type(orders[0])(participant=each, offer=orders[0].offer) for each in people])
        recount(self.card_class.pk)
        self.fit()
        board = self.board()
        self.assertEqual(len(board.kits), 500)
        kit, stack = board.kits[250].kit.key, board.stacks[0].key
        marks = [Mark(card_class=self.card_class, what=bag, holds="x") for bag in list(board.bags)[:600]]
        Mark.objects.bulk_create(marks)
        for address in (
            self.address("pack"), self.address("stack", stack), self.address("kit", kit), self.address("short"),
            self.address("checks"), self.address("print"), self.address("handout"), self.address("state"),
        ):  # fmt: skip
            with CaptureQueriesContext(connection) as seen:
                self.assertEqual(self.client.get(address).status_code, 200)
            self.assertLessEqual(len(seen), 30, address)
        with CaptureQueriesContext(connection) as seen:
            self.tick(self.entry("stack", stack))
        # One more for what is sent: whether the class is closed.
        self.assertLessEqual(len(seen), 31)


@override_settings(TASKS=AT_ONCE, IDLE_WORK=False)
class TogetherTests(TransactionTestCase):
    """Four people at one pile at the same time."""

    def test_no_bag_is_taken_twice_and_none_is_lost(self):
        from django.contrib.auth import get_user_model

        user = get_user_model().objects.create_user("mira", password="kite-tail-9")
        make_paper(user)
        card_class = make_class(user, "Base 8½ x 5½ brass score 4¼", participants=12)
        self.assertEqual(Paper.objects.count(), 1)
        stack = board_of(card_class).stacks[0].key
        took: list[str] = []

        def pack() -> None:
            try:
                for _ in range(4):
                    each = Tick(uuid.uuid4(), "stack", stack, True, "x")
                    took.extend(tick(card_class, [each])[0].values())
            finally:
                connections.close_all()

        people = [threading.Thread(target=pack) for _ in range(4)]
        for each in people:
            each.start()
        for each in people:
            each.join()
        self.assertEqual(len(took), 12)
        self.assertEqual(len(set(took)), 12)
        self.assertEqual(Mark.objects.count(), 12)
