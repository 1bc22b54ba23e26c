"""How far what is on hand reaches: by hand."""

from __future__ import annotations

from django.urls import reverse

from tests.people import SignedInTests, fitted, make_class, work_off
from zester.classes.models import CardClass
from zester.plans.models import Work
from zester.plans.standing import papers_in
from zester.shelf.models import Bit
from zester.shelf.stock import book_bit, stock_take
from zester.supply.reach import reach_of


class ReachTests(SignedInTests):
    def setUp(self):
        super().setUp()
        # A base is half a letter sheet; a kit takes three gems.
        self.card_class = make_class(self.user, f"Base 8½ x 5½ {self.paper.name}\n+ 3 gems", participants=4)
        self.card_class.class_cards.update(samples=0)
        self.fit = fitted(self.card_class)
        self.client.post(reverse("fits:ask_seats", args=[self.card_class.pk]))
        work_off(self.card_class, (Work.Kind.SEATS,))

    def reach(self):
        card_class = CardClass.objects.get(pk=self.card_class.pk)
        return [(each.name, each.people, each.lacking) for each in reach_of(card_class, papers_in(card_class))]

    def test_what_nobody_counts_is_bought_as_needed(self):
        self.assertEqual(self.reach(), [])

    def test_what_runs_out_first(self):
        stock_take(self.paper, None, 3)
        gems = Bit.objects.create(owner=self.user, name="gems", pack=100)
        book_bit(gems, "bought", 16)
        # Sixteen gems are five kits, three sheets six; a sixth kit lacks two gems.
        self.assertEqual(self.reach(), [("gems", 5, "2 of them"), (self.paper.name, 6, "1 sheet")])
        page = self.client.get(reverse("fits:seats", args=[self.card_class.pk]))
        self.assertContains(page, "gems runs out first")
        self.assertContains(page, "one more takes 1 sheet more than there is")

    def test_not_enough_for_the_fewest(self):
        stock_take(self.paper, None, 0)
        ((name, people, lacking),) = self.reach()
        self.assertEqual((name, people, lacking), (self.paper.name, 0, "1 sheet"))
