"""Two versions of a card in one class, each with a letter that offers and orders name."""

from django.urls import reverse

from tests.people import SignedInTests, make_class
from zester.classes.models import CardClass, Offer
from zester.classes.people import add_people, keep_offer
from zester.classes.services import copy_class, count_class
from zester.core.kits.order_lines import OrderLine

LIST = "card 4¼ x 5½ side fold\nBase brass\nStar 1 x 1 brass only stepped-up"


WITH = "card 4¼ x 5½ side fold\nBase brass\n+ 2 gems\n+ envelope"


class EnvelopeTests(SignedInTests):
    """Two designs in one envelope."""

    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, WITH, WITH, LIST, participants=4)

    def post(self, **shared):
        data = {"class-participants": 4}
        for each in self.card_class.class_cards.all():
            data |= {f"card{each.pk}-each": 1, f"card{each.pk}-samples": 0, f"card{each.pk}-spares": 0}
            data[f"card{each.pk}-envelope_of"] = shared.get(each.letter, "")
        return self.client.post(reverse("classes:count", args=[self.card_class.pk]), data, follow=True)

    def bits(self) -> dict[str, int]:
        counted = count_class(CardClass.objects.get(pk=self.card_class.pk))
        return {bit.name: bit.count for bit in counted.bits}

    def test_it_is_counted_once_and_told_in_the_steps(self):
        page = self.post()
        self.assertEqual(self.bits(), {"gems": 16, "envelope": 8})
        # What has no envelope shares none.
        self.assertContains(page, "in the envelope of A")
        self.assertNotContains(page, "in the envelope of C")
        page = self.post(B="A")
        self.assertEqual(self.bits(), {"gems": 16, "envelope": 4})
        # Whose envelope it is, is in nobody else's.
        self.assertNotContains(page, "in the envelope of B")
        page = self.client.get(reverse("bags:handout", args=[self.card_class.pk]), {"card": "B"})
        self.assertContains(page, "Slip the card into the envelope of A.")
        self.assertNotContains(page, "Slip the card into its envelope")
        copy = copy_class(self.card_class)
        self.assertEqual(copy.class_cards.get(letter="B").envelope_of, "A")
        self.client.post(reverse("classes:remove_card", args=[self.card_class.pk, "A"]))
        self.assertEqual(self.bits(), {"gems": 8, "envelope": 4})

    def test_two_that_name_each_other_have_their_own(self):
        self.post(B="A", A="B")
        self.assertEqual(self.bits()["envelope"], 8)

    def test_an_offer_without_the_other_card_is_told(self):
        keep_offer(Offer(card_class=self.card_class, name="only the second", cards={"A": 0, "B": 1, "C": 0}))
        self.assertContains(self.post(B="A"), "“only the second” has B without A: there it would have no envelope.")
        self.assertEqual(self.bits()["envelope"], 4)
        self.card_class.offers.all().delete()
        self.post(B="A")
        page = self.client.post(
            reverse("classes:new_offer", args=[self.card_class.pk]), {"name": "second", "card_B": 1, "sets": 1}
        )
        self.assertContains(page, "It goes into the envelope of A, which is not in this offer.")


class VersionTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, LIST, participants=0)

    def also(self, version: str = "stepped-up", letter: str = "A"):
        address = reverse("classes:also", args=[self.card_class.pk, letter])
        return self.client.post(address, {"version": version}, follow=True)

    def counts(self) -> dict[str, int]:
        counted = count_class(CardClass.objects.get(pk=self.card_class.pk))
        return {entry.handle: entry.count for entry in counted.counts}

    def test_who_orders_which_version_gets_its_pieces(self):
        self.assertContains(self.client.get(reverse("classes:count", args=[self.card_class.pk])), "Make it, too")
        self.assertContains(self.also(), "B is Card 1, stepped-up")
        self.assertEqual(self.counts(), {"A1": 0, "B1": 1, "B2": 1})
        for name, cards in (("simple", {"A": 1}), ("stepped", {"B": 1})):
            keep_offer(Offer(card_class=self.card_class, name=name, cards=cards))
        offers = {offer.name: offer.key for offer in self.card_class.offers.all()}
        people = [("Ines", "simple"), ("Odo", "stepped"), ("Tove", "stepped")]
        lines = [OrderLine(name=name, state="paid", orders=((offers[what], 1),)) for name, what in people]
        add_people(self.card_class, lines)
        # One simple and two stepped-up ones, and a sample of those.
        self.assertEqual(self.counts(), {"A1": 1, "B1": 3, "B2": 3})
        # Both are the same design: its list is one.
        page = self.client.get(reverse("classes:card", args=[self.card_class.pk, "B"]))
        self.assertContains(page, "only stepped-up")

    def test_a_version_is_made_once_and_comes_back_as_it_was(self):
        self.also()
        self.assertContains(self.also(), "The class makes that already, as B")
        self.client.post(reverse("classes:remove_card", args=[self.card_class.pk, "B"]))
        self.also()
        self.assertEqual(list(self.card_class.class_cards.values_list("letter", flat=True)), ["A", "B"])
        # Nor by choosing it at the count.
        entry = self.card_class.class_cards.get(letter="A")
        data = {"class-participants": 1}
        for each in self.card_class.class_cards.all():
            data |= {f"card{each.pk}-each": 1, f"card{each.pk}-samples": 1, f"card{each.pk}-spares": 0}
            data[f"card{each.pk}-version"] = "stepped-up"
        page = self.client.post(reverse("classes:count", args=[self.card_class.pk]), data)
        self.assertContains(page, "The class makes that already, as B")
        entry.refresh_from_db()
        self.assertEqual(entry.version, "")

    def test_what_is_no_version_and_whose_class_it_is_not(self):
        self.assertContains(self.also("golden"), "names no such version")
        self.assertEqual(self.also(letter="Z").status_code, 404)
        self.client.force_login(self.stranger)
        self.assertEqual(self.also().status_code, 404)
        self.assertEqual(self.card_class.class_cards.count(), 1)
