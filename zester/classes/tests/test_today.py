"""The page one begins with, and finding anything."""

import datetime

from django.urls import reverse
from django.utils import timezone

from tests.people import SignedInTests, fitted, in_one_line, make_class, make_paper
from zester.classes.models import CardClass, Offer, Order, Participant
from zester.plans.models import PaperFit


class TodayTests(SignedInTests):
    def begin(self) -> str:
        return in_one_line(self.client.get(reverse("classes:list")).content.decode())

    def on(self, card_class: CardClass, days: int, **more) -> CardClass:
        CardClass.objects.filter(pk=card_class.pk).update(date=timezone.localdate() + datetime.timedelta(days), **more)
        return CardClass.objects.get(pk=card_class.pk)

    def test_the_class_that_comes_next_stands_first_and_past_ones_are_folded(self):
        for title, days in (("Far", 30), ("Near", 3), ("Gone", -5)):
            self.on(make_class(self.user, "Mat 4 x 5 brass"), days, title=title)
        make_class(self.user, "Mat 4 x 5 brass")
        page = self.begin()
        order = [
            page.index(words) for words in (">Near<", "After that", ">Far<", ">Evening<", "Past and closed", ">Gone<")
        ]
        self.assertEqual(order, sorted(order))
        self.assertIn("in 3 days", page)
        self.assertIn("5 days ago", page)
        self.assertEqual(page.count("Next:"), 1)

    def test_what_is_next_goes_from_the_list_to_the_bags(self):
        card_class = self.on(make_class(self.user, "Mat 4 x 5 brass\nStrip 1 x"), 3)
        self.assertIn("Mend 1 line", self.begin())
        self.assertNotIn("Cut Telescope Brass", self.begin())
        card_class = self.on(make_class(self.user, "Mat 4 x 5 brass"), 1)
        fitted(card_class)
        page = self.begin()
        self.assertIn("Cut Telescope Brass, about", page)
        # The minutes are those of the page it leads to.
        minutes = page.split("Cut Telescope Brass, about ")[1].split(" min")[0]
        self.assertContains(self.client.get(reverse("bench:steps", args=[card_class.pk])), f"about {minutes} min")
        PaperFit.objects.filter(class_paper__card_class=card_class).update(held=PaperFit.Held.CUT)
        self.assertIn("Pack 4 bags", self.begin())

    def test_who_has_not_paid_or_chosen_and_when_orders_close(self):
        close = timezone.localdate() + datetime.timedelta(2)
        card_class = self.on(make_class(self.user, "Mat 4 x 5 brass", participants=0), 9, order_by=close, capacity=1)
        offer = Offer.objects.create(card_class=card_class, name="kit", price=12, choose=2)
        for name, state, chosen in (("Ada", "booked", []), ("Bo", "paid", ["x", "y"]), ("Cy", "cancelled", [])):
            person = Participant.objects.create(card_class=card_class, name=name, state=state, chosen=chosen)
            Order.objects.create(participant=person, offer=offer)
        CardClass.objects.filter(pk=card_class.pk).update(n_people=2)
        page = self.begin()
        self.assertIn("1 person has not paid", page)
        self.assertIn("1 person has not chosen their papers", page)
        self.assertIn("1 seat too few", page)
        self.assertIn(", in 2 days", page)

    def test_a_paper_that_is_short_is_said(self):
        make_paper(self.user, "Rare", on_hand=0)
        card_class = self.on(make_class(self.user, "Mat 4 x 5 rare"), 4)
        fitted(card_class)
        self.assertIn("Rare: 1 sheet short", self.begin())

    def test_who_has_nothing_sees_three_ways_to_begin(self):
        page = self.begin()
        for words in ("Plan your first class", "Or begin with your papers", "Or look around first"):
            self.assertIn(words, page)

    def test_a_card_is_drawn_small_for_its_owner_only(self):
        card = make_class(self.user, "card 4¼ x 5½ side fold\nBase brass").class_cards.get().card
        url = reverse("designs:cover", args=[card.pk])
        page = self.client.get(url)
        self.assertEqual((page.status_code, page["Content-Type"]), (200, "image/svg+xml"))
        self.assertIn("<path", page.content.decode())
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.get(url).status_code, 404)


class FindTests(SignedInTests):
    def find(self, words: str) -> str:
        return in_one_line(self.client.get(reverse("find"), {"q": words}).content.decode())

    def test_everything_of_ones_own_is_found_by_parts_of_words(self):
        card_class = make_class(self.user, "Mat 4 x 5 brass")
        Participant.objects.create(card_class=card_class, name="Ada Quill", contact="ada@example.org")
        self.assertIn(reverse("shelf:stock", args=[self.paper.pk]), self.find("scope bra"))
        self.assertIn(">Ada Quill<", self.find("quill"))
        self.assertIn(reverse("classes:desk", args=[card_class.pk]), self.find("even"))
        # A design by what its list says.
        self.assertIn(">Card 1<", self.find("4 x 5"))
        self.assertIn("Nothing of yours holds", self.find("quill zebra"))

    def test_nobody_finds_what_is_anothers_and_odd_words_harm_nothing(self):
        card_class = make_class(self.user, "Mat 4 x 5 brass")
        Participant.objects.create(card_class=card_class, name="Ada Quill")
        # Signs of the database's own stand for themselves, and of a page's own, too.
        for words in ("%", "_", "'", "x" * 5000, "<script>"):
            self.assertIn("Nothing of yours holds", self.find(words), words)
        self.assertIn("“&lt;script&gt;”", self.find("<script>"))
        for words in ("\0", " "):
            self.assertNotIn("Nothing of yours", self.find(words))
        self.client.force_login(self.stranger)
        for words in ("quill", "scope", "even", "card", "4 x 5"):
            self.assertIn("Nothing of yours holds", self.find(words))
