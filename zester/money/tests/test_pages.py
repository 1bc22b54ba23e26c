"""The page of the money: worked by hand, the same figures as on other pages, tried without being kept."""

from __future__ import annotations

import csv
import io
from decimal import Decimal
from fractions import Fraction

from django.urls import reverse

from tests.demo import load_demo
from tests.people import SignedInTests, fitted, make_class
from zester.classes.models import CardClass, Offer
from zester.classes.people import keep_offer
from zester.core.money.shares import cents
from zester.core.tests.share import each_of
from zester.money.costing import ClassMoney
from zester.shelf.models import Bit, Paper

D = Decimal


class MoneyTests(SignedInTests):
    def setUp(self):
        super().setUp()
        # Letter sheets at 0.50: a base is half of one.
        Paper.objects.filter(pk=self.paper.pk).update(price=D("0.50"))
        self.card_class = make_class(self.user, f"Base 8½ x 5½ {self.paper.name}\n+ 2 gems", participants=6)
        self.card_class.class_cards.update(samples=2)
        Bit.objects.create(owner=self.user, name="gems", pack=100, price=D("3.00"))
        keep_offer(Offer(card_class=self.card_class, name="kit", price=D("12")))
        self.write("room 20\ntea 1.50 a person\nbags 0.25 a kit\n2 h at 15", "100 g: 1.60")
        fitted(self.card_class)

    def url(self, name: str = "sums") -> str:
        return reverse(f"money:{name}", args=[self.card_class.pk])

    def write(self, costs: str, rates: str = ""):
        sent = {"costs": costs, "post_rates": rates, "seen": ""}
        return self.client.post(self.url("costs"), sent, follow=True)

    def money(self) -> ClassMoney:
        return ClassMoney(CardClass.objects.get(pk=self.card_class.pk))

    def test_what_is_used_up_by_the_card_and_spares_tried(self):
        self.write("glue 0.05 a card")
        found = self.money()
        # Six in kits and two samples.
        self.assertIn(("glue, 8 cards at 0.05", D("0.40")), [(e.words, e.amount) for e in found.sum.costs])
        self.assertEqual(cents(found.kits[0].lines), D("0.05"))
        # Two spares of the one piece: half a sheet each.
        tried = found.tried(None, None, 2)
        self.assertEqual(tried.left - found.sum.left, D("-0.50"))
        CardClass.objects.filter(pk=self.card_class.pk).update(spare_by="kit", spare_number=1)
        found = self.money()
        self.assertEqual(found.tried(None, None, 1).left, found.sum.left)
        page = self.client.get(self.url(), {"spares": "3"})
        self.assertContains(page, "Nothing of this is kept")
        self.assertContains(self.client.get(self.url(), {"spares": "-1"}), "Spares:")

    def test_supplies_without_a_cost_are_named_and_what_the_plans_save_is_worked_out(self):
        card = self.card_class.class_cards.get().card
        card.supplies = "Dark blue ink\nkit: glue dots, 6"
        card.save()
        self.write("glue 0.05 a card")
        self.assertEqual(self.money().unwritten, ["Dark blue ink"])
        self.assertContains(self.client.get(self.url()), "is worked out while nobody waits")
        fit = self.money().fits[0]
        hints = {"costs": {}, "near": [], "apart": [fit.shown.sheets + 2, fit.shown.trimming + 130]}
        type(fit.shown).objects.filter(pk=fit.shown_id).update(hints=hints)
        saved = self.money().saved
        self.assertEqual((saved.sheets, saved.cost, saved.minutes, saved.known), (2, D("1.00"), 2, 1))

    def test_a_card_and_its_pieces(self):
        (card,) = self.money().cards_cost
        # Half a sheet of 0.50, two gems at 0.03.
        self.assertEqual((card.paper, card.bits, card.whole), (D("0.25"), D("0.06"), D("0.31")))
        self.assertEqual(card.pieces, (("1 A1 Base", D("0.25")),))
        self.assertContains(self.client.get(self.url()), "1 A1 Base: $0.25")

    def test_whole_packs_stand_beside_what_is_used(self):
        Paper.objects.filter(pk=self.paper.pk).update(pack=10)
        (paper,) = self.money().papers
        self.assertEqual((paper.cost, paper.by_pack), (D("2.00"), D("5.00")))

    def test_a_class_worked_by_hand(self):
        # Eight bases from four sheets, 2.00; six of them in kits, 1.50; twelve gems at 0.03.
        found = self.money()
        self.assertEqual([(entry.words, entry.amount) for entry in found.sum.costs], [
            ("paper in 6 kits, with its share of what is binned", D("1.50")),
            ("paper of your samples and spares", D("0.50")),
            ("bits in the kits", D("0.36")),
            ("room", D("20.00")),
            ("tea, 6 people at 1.50", D("9.00")),
            ("bags, 6 kits at 0.25", D("1.50")),
            ("2 h at 15.00", D("30.00")),
        ])  # fmt: skip
        self.assertEqual((found.sum.brings, found.sum.takes, found.sum.left), (D("72.00"), D("62.86"), D("9.14")))
        (kit,) = found.kits
        # 0.25 + 0.06 + 1.50 + 0.25
        self.assertEqual((cents(kit.cost), cents(kit.left)), (D("2.06"), D("9.94")))
        # 50.50 that do not grow with the people, at 9.94 each: five are 49.70, six are enough.
        self.assertEqual((found.sum.fixed, found.sum.pays_from), (D("50.50"), 6))
        page = self.client.get(self.url())
        for words in ("leaves $9.14", "It pays from 6&nbsp;people on", "−$62.86", "$9.94"):
            self.assertContains(page, words)

    def test_post_is_of_kits_that_are_sent_by_their_weight(self):
        CardClass.objects.update(where="post")
        found = self.money()
        # A base of 216 g/m² weighs 6.5 g: the first rate.
        self.assertEqual([e.amount for e in found.sum.costs if e.words == "post for 6 kits"], [D("9.60")])
        self.write("room 20", "5 g: 1.10")
        self.assertContains(self.client.get(self.url()), "6&nbsp;kits are sent for which no post rate is written")

    def test_what_is_tried_is_told_and_not_kept(self):
        before = CardClass.objects.values().get()
        page = self.client.get(self.url(), {"people": "10", "price": "15"})
        # Six pay 3 more, four more come: 72 + 18 + 60 brought; four kits more at 2.06 are 8.24.
        self.assertContains(page, "It would bring $150.00, cost $71.10 and <b>leave $78.90</b>")
        self.assertEqual(CardClass.objects.values().get(), before)
        Offer.objects.all().delete()
        page = self.client.get(self.url(), {"people": "10"})
        self.assertContains(page, "It would bring")
        for wrong in ({"people": "-1"}, {"people": "x"}, {"price": "-2"}):
            self.assertContains(self.client.get(self.url(), wrong), "wrong small")

    def test_a_line_that_is_not_understood_is_told_beside_the_field_and_nothing_is_lost(self):
        page = self.write("room 20\nfrogs", "100 g")
        self.assertContains(page, "“frogs” is not understood")
        self.assertContains(page, "“100 g” is not understood")
        self.assertContains(page, "room 20\nfrogs")
        self.assertIn("tea 1.50", CardClass.objects.get().costs)

    def test_without_plan_people_or_prices_it_says_what_is_missing(self):
        other = make_class(self.user, "Base 8½ x 5½ brass", participants=3)
        page = self.client.get(reverse("money:sums", args=[other.pk]))
        self.assertContains(page, "Not planned yet")
        Paper.objects.update(price=None)
        Bit.objects.update(price=None)
        page = self.client.get(self.url())
        self.assertContains(page, "Without a price: ")

    def test_the_table_is_the_page_and_nobody_else_sees_it(self):
        rows = list(csv.reader(io.StringIO(self.client.get(self.url("csv")).content.decode("utf-8-sig"))))
        self.assertEqual(rows[-1], ["left", "", "9.14"])
        self.assertEqual(sum(D(row[2]) for row in rows if row[0] == "costs"), D("62.86"))
        self.client.force_login(self.stranger)
        for name in ("sums", "csv"):
            self.assertEqual(self.client.get(self.url(name)).status_code, 404)
        self.assertEqual(self.client.post(self.url("costs"), {"costs": "x 5"}).status_code, 404)


class DemoMoney(SignedInTests):
    def test_kits_and_samples_are_all_the_papers_and_nothing_is_counted_twice(self):
        load_demo()
        for card_class in each_of(CardClass.objects.all()):
            fitted(card_class)
            found = ClassMoney(CardClass.objects.get(pk=card_class.pk))
            spent = sum((paper.spent for paper in found.papers), D(0))
            kits = sum((kit.paper * kit.count for kit in found.kits), Fraction(0))
            told = sum(entry.amount for entry in found.sum.costs if entry.words.startswith("paper "))
            self.assertEqual(told, spent)
            self.assertLess(kits, Fraction(spent))
            # Samples and spares take less than the kits.
            self.assertLess(Fraction(spent) - kits, kits)
            self.assertEqual(sum(kit.count for kit in found.kits), len(found.counted.packed.kits))
            for paper in found.papers:
                self.assertEqual(sum(paper.shares), cents(paper.cost or 0))
