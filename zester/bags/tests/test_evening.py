"""The evening of a class: its order, teaching from it, the page that follows, notes that are there afterwards."""

from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from zester.bags import sharing
from zester.bags.evenings import class_evening_of, moments_of
from zester.bags.models import SharedPage
from zester.bags.tests.cases import PackingTests
from zester.classes.models import Offer
from zester.classes.people import keep_offer
from zester.classes.services import also_make, count_class, recount
from zester.designs.models import Card

WASHED = """card 4¼ x 5½ side fold
Base brass
Mat 4 x 5¼ brass embossed before class
Panel 3¾ x 5 star chart washed, dry first
Sentiment 3 x ¾ brass bottom ¼ stamped 3 min
+ envelope"""


class EveningTests(PackingTests):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        Card.objects.filter(classes=cls.card_class, class_cards__letter="A").update(cut_list=WASHED)
        recount(cls.card_class.pk)

    def teach(self, at: int = 0):
        return self.client.get(f"{self.address('teach')}?at={at}")

    def followed(self) -> str:
        page = SharedPage.objects.get(card_class=self.card_class)
        return self.client.get(reverse("bags:now", args=[page.token])).content.decode()

    def test_the_order_of_the_evening_against_its_length(self):
        page = self.client.get(self.address("evening"))
        for words in ("First, as it has to dry", "A3 Panel: wash with colour", "dries about 20 min"):
            self.assertContains(page, words)
        for words in ("Fold along the score lines", "A · Card 1, 2 of it", "The class lasts 2 h 30; this takes about"):
            self.assertContains(page, words)
        self.assertNotContains(page, "emboss")
        self.card_class.minutes = 10
        self.card_class.save()
        page = self.client.get(self.address("evening"))
        self.assertContains(page, "could be done beforehand")

    def test_one_step_at_a_time_with_what_is_glued_so_far(self):
        first = self.teach()
        self.assertContains(first, "Step 1 of")
        self.assertContains(first, "Start a timer of 20 min")
        of = first.context["moment"].of
        drawn = []
        for at in range(of):
            page = self.teach(at)
            drawing = page.context["drawing"]
            drawn.append(len(drawing.layers) if drawing else 0)
        self.assertGreater(max(drawn), min(each for each in drawn if each))
        self.assertContains(self.teach(9999), f"Step {of} of {of}")
        self.assertContains(self.teach(of - 1), "The class is over")
        self.assertEqual(self.client.get(f"{self.address('teach')}?at=x").status_code, 200)

    def test_the_page_of_the_participants_follows_and_stops(self):
        sharing.switch(self.card_class, True, None)
        page = SharedPage.objects.get(card_class=self.card_class)
        address = reverse("bags:now", args=[page.token])
        self.assertEqual(self.client.get(address).status_code, 204)
        self.client.post(self.address("teach"), {"at": "0"})
        self.client.logout()
        self.assertIn("A3 Panel: wash with colour", self.followed())
        # Who has seen it is not sent it again.
        self.assertEqual(self.client.get(f"{address}?at=0").status_code, 204)
        self.assertContains(self.client.get(reverse("bags:shared", args=[page.token])), 'id="now"')
        SharedPage.objects.update(step_at=timezone.now() - timedelta(hours=9))
        self.assertEqual(self.client.get(address).status_code, 204)
        self.client.force_login(self.user)
        self.client.post(self.address("teach"), {"over": "1"})
        self.assertIsNone(SharedPage.objects.get(pk=page.pk).step)
        sharing.switch(self.card_class, False, None)
        self.assertEqual(self.client.get(address).status_code, 404)

    def test_everybody_sees_her_own_way(self):
        card = Card.objects.get(classes=self.card_class, class_cards__letter="A")
        Card.objects.filter(pk=card.pk).update(cut_list=f"{WASHED}\nStar 1 x 1 brass only stepped-up")
        also_make(self.card_class.class_cards.get(letter="A"), "stepped-up")
        steps = {"cards": {"C": 1}, "pools": {"patterned": "whole"}}
        keep_offer(Offer(card_class=self.card_class, name="stepped-up kit", **steps))
        recount(self.card_class.pk)
        sharing.switch(self.card_class, True, None)
        page = SharedPage.objects.get(card_class=self.card_class)
        keys = {offer.name: str(offer.pk) for offer in self.card_class.offers.all()}
        address = reverse("bags:shared", args=[page.token])
        mine = self.client.get(address, {"mine": keys["stepped-up kit"]})
        self.assertContains(mine, 'id="card-C"')
        self.assertNotContains(mine, 'id="card-A"')
        self.assertContains(mine, "you cut it at home", 1)
        self.assertContains(self.client.get(address, {"mine": keys["card stock"]}), "not in your kit")
        for other in ("", "none", "9" * 50):
            self.assertContains(self.client.get(address, {"mine": other}), 'id="card-A"')
        moments = moments_of(class_evening_of(count_class(self.card_class)))
        at = next(each.at for each in moments if each.step and each.step.letter == "A" and "A4" in each.step.step.what)
        self.client.post(self.address("teach"), {"at": at})
        followed = reverse("bags:now", args=[page.token])
        theirs = self.client.get(followed, {"mine": keys["stepped-up kit"]})
        self.assertContains(theirs, "On yours, card C:")
        self.assertContains(theirs, "#card-C")
        only = next(each.at for each in moments if each.step and each.step.letter == "B")
        self.client.post(self.address("teach"), {"at": only})
        self.assertContains(
            self.client.get(followed, {"mine": keys["stepped-up kit"]}), "Card B does not come with “stepped-up kit”"
        )
        self.assertNotContains(self.client.get(followed, {"mine": keys["full kit"]}), "does not come with")

    def test_a_note_is_with_the_design_afterwards(self):
        sent = {"at": "2", "letter": "A", "what": "Glue A2 Mat", "note": "glue  too early"}
        page = self.client.post(self.address("note"), sent, follow=True)
        self.assertContains(page, "Noted with A")
        design = self.card_class.class_cards.get(letter="A").card
        self.assertIn("Glue A2 Mat: glue too early", design.went_wrong)
        self.assertContains(self.client.get(reverse("classes:card", args=[self.card_class.pk, "A"])), "glue too early")
        page = self.client.post(self.address("note"), sent | {"note": "x" * 201}, follow=True)
        self.assertContains(page, "It was not kept")
        design.went_wrong = "y" * 4000
        design.save()
        self.assertContains(self.client.post(self.address("note"), sent, follow=True), "are full")
        page = self.client.post(self.address("note"), sent | {"letter": "Z"}, follow=True)
        self.assertContains(page, "not in this class any more")

    def test_nobody_else_teaches_from_it(self):
        self.client.force_login(self.stranger)
        for view in ("evening", "teach"):
            self.assertEqual(self.client.get(self.address(view)).status_code, 404)
        self.assertEqual(self.client.post(self.address("note"), {"letter": "A", "note": "x"}).status_code, 404)
