"""Papers and bits against what is there; the buying list and the merchant; seats; classes planned together."""

import json
import tempfile
from decimal import Decimal
from pathlib import Path

from django.test import override_settings
from django.urls import reverse

from tests.people import SignedInTests, fitted, make_class, make_paper, work_off
from zester.classes.models import CardClass, Offer
from zester.classes.people import add_people, keep_offer
from zester.core.kits.order_lines import OrderLine
from zester.core.lengths import TICKS_PER_INCH
from zester.core.stock.offcut_lines import OffcutLine
from zester.plans.models import PaperPlan, Work
from zester.shelf.merchant import Refused, SimulatedMerchant
from zester.shelf.models import Bit, Entry, Pad, Paper, Sheet
from zester.shelf.stock import count_bit, put_offcuts, stock_take
from zester.supply.buying import buying_list
from zester.supply.joint import joint_task
from zester.supply.models import Joint

INCH = TICKS_PER_INCH
LIST = "Mat 4 x 5 brass\n+ 2 gems\n+ 8 in thread"


class NeedsTests(SignedInTests):
    def page(self, card_class: CardClass):
        return self.client.get(reverse("fits:needs", args=[card_class.pk]))

    def test_one_screen_says_whether_the_class_can_be_made_and_why_not(self):
        card_class = make_class(self.user, "Mat 4 x 5 brass", participants=6)
        self.assertContains(self.page(card_class), "Still being fitted: Telescope Brass")
        fitted(card_class)
        self.assertContains(self.page(card_class), "Bought as needed, so all of it is on the list: Telescope Brass")
        stock_take(self.paper, None, 1)
        page = self.page(card_class)
        self.assertContains(page, "Telescope Brass runs out.")
        self.assertContains(page, "2 planned, 1 on hand: 1 sheet to buy")
        stock_take(self.paper, None, 2)
        self.assertContains(self.page(card_class), "This class can be made from what is there")
        self.assertContains(self.page(make_class(self.user)), "Nothing to count yet")

    def test_pieces_area_and_the_least_sheets_are_said_with_their_sums(self):
        card_class = make_class(self.user, "Mat 4 x 5 brass\n2 Tag 2 x 3 brass", participants=5)
        fitted(card_class)
        page = self.page(card_class)
        # 5 × 20 in² + 10 × 6 in² = 160 in², on letter sheets of 93½ in² at least 2.
        self.assertContains(page, "160 in²")
        self.assertContains(page, "2&nbsp;sheets")
        self.assertContains(page, "5 people × 1 = 5 cards; 2 in each card: 5 × 2 = 10")

    def test_bits_are_there_once_for_classes_that_share_them_and_who_comes_first_is_served_first(self):
        later = make_class(self.user, LIST, participants=6, date="2099-05-02")
        sooner = make_class(self.user, LIST, participants=5, date="2099-05-01")
        past = make_class(self.user, LIST, participants=50, date="2020-05-01")
        count_bit(Bit.objects.create(owner=self.user, name="Gems", pack=100), 15)
        need = {each.pk: self.page(each).context["bits"][0] for each in (later, sooner)}
        self.assertEqual((need[sooner.pk].others, need[sooner.pk].lacking), (0, 0))
        self.assertEqual((need[later.pk].others, need[later.pk].needed, need[later.pk].lacking), (10, 12, 7))
        self.assertNotContains(self.page(sooner), "needed by classes whose day is sooner")
        self.assertContains(self.page(later), "needed by classes whose day is sooner")
        # Together they lack the same as one after the other.
        both = buying_list(self.user, [later, sooner])
        self.assertEqual(next(each.lacking for each in both.articles if each.name == "gems"), 7)
        self.assertEqual(self.page(past).context["bits"][0].others, 0)

    def test_bits_are_needed_there_and_to_buy(self):
        card_class = make_class(self.user, LIST, participants=6)
        gems = Bit.objects.create(owner=self.user, name="Gems", pack=100)
        count_bit(gems, 5)
        page = self.page(card_class)
        self.assertContains(page, "Too few: gems")
        self.assertContains(page, "Bits nobody counts: thread")
        self.assertContains(page, "48 in")

    def test_the_part_is_sent_only_when_something_has_changed(self):
        card_class = make_class(self.user, "Mat 4 x 5 brass", participants=6)
        fitted(card_class)
        url = reverse("fits:needs_part", args=[card_class.pk])
        stamp = self.page(card_class).context["stamp"]
        self.assertEqual(self.client.get(url, {"since": stamp}).status_code, 204)
        stock_take(self.paper, None, 1)
        self.assertContains(self.client.get(url, {"since": stamp}), "runs out")


class BuyingTests(SignedInTests):
    def setUp(self):
        super().setUp()
        Paper.objects.update(price="0.50", pack=5, merchant="Lantern Lane")
        self.evening = make_class(self.user, LIST, participants=6)
        self.morning = make_class(self.user, "Mat 4 x 5 brass", participants=10)
        for card_class in (self.evening, self.morning):
            fitted(card_class)

    def list(self):
        return buying_list(self.user, list(CardClass.objects.of(self.user)))

    def test_over_several_classes_in_packs_with_the_price(self):
        stock_take(self.paper, None, 1)
        page = self.client.get(reverse("fits:buying"))
        # 2 and 3 sheets are planned, 1 is there: 4 are missing, a pack of 5.
        (line, *_) = self.list().purchase.lines
        self.assertEqual((line.count, line.price, dict(line.unused)), (1, Decimal("2.50"), {line.pack.key: 1}))
        self.assertContains(page, "4 sheets")
        self.assertContains(page, "Lantern Lane")
        one = self.client.get(reverse("fits:buying"), {"class": self.evening.pk})
        self.assertNotContains(one, "4 sheets")

    def test_what_was_bought_is_booked_and_leaves_the_list(self):
        stock_take(self.paper, None, 1)
        keys = [line.pack.key for line in self.list().purchase.lines]
        counts = [line.count for line in self.list().purchase.lines]
        data = {"class": [self.evening.pk, self.morning.pk], "key": keys, "count": counts}
        page = self.client.post(reverse("fits:bought"), data, follow=True)
        self.assertContains(page, "Nothing to buy")
        self.paper.refresh_from_db()
        self.assertEqual(self.paper.on_hand, 6)
        self.assertEqual(Entry.objects.filter(by="buying list", kind="bought").count(), len(keys))
        self.assertEqual(Bit.objects.get(name="gems").on_hand, 12)

    def test_nonsense_books_nothing(self):
        stock_take(self.paper, None, 1)
        before = Entry.objects.count()
        for count in ("", "-1", "many", "0"):
            keys = [line.pack.key for line in self.list().purchase.lines]
            data = {"key": keys, "count": [count] * len(keys)}
            self.assertContains(self.client.post(reverse("fits:bought"), data, follow=True), "Nothing is booked")
        self.client.post(reverse("fits:bought"), {"key": ["sheet:1:other", "x"], "count": ["3", "3"]})
        self.assertEqual(Entry.objects.count(), before)

    def test_papers_without_a_price_come_from_the_pad_they_are_in(self):
        Paper.objects.update(price=None)
        other = make_paper(self.user, "Wind Rope", "6x6", kind="patterned")
        Pad.objects.create(owner=self.user, name="Harbour pad", holds={self.paper.key: 2, other.key: 2}, price="6.40")
        line = next(line for line in self.list().purchase.lines if line.pack.name == "Harbour pad")
        self.assertEqual((line.count, line.price), (3, Decimal("19.20")))
        page = self.client.get(reverse("fits:buying"))
        self.assertContains(page, "1 Telescope Brass, 6 Wind Rope")

    def test_as_csv(self):
        text = self.client.get(reverse("fits:buying_csv")).content.decode("utf-8-sig")
        self.assertIn('Lantern Lane,Telescope Brass,"letter, 8½ × 11 in",1,5,2.50,2.50', text)

    def test_offcuts_and_what_is_cut_are_not_on_the_list(self):
        put_offcuts(self.user, [OffcutLine(paper=self.paper.key, width=5 * INCH, height=6 * INCH, count=9)])
        for card_class in (self.evening, self.morning):
            fitted(card_class)
        self.assertFalse([article for article in self.list().articles if article.sheet and article.sheet.is_offcut])

    def test_several_sizes_are_bought_by_the_size(self):
        Sheet.objects.create(paper=self.paper, sheet="12x12", width=12 * INCH, height=12 * INCH, price="0.40")
        fitted(self.morning)
        fit = fitted(self.morning)
        self.assertEqual(list(fit.shown.used), [Sheet.objects.get().key])
        names = {article.size for article in self.list().articles if article.paper}
        self.assertIn("12 × 12 in", names)


class MerchantTests(SignedInTests):
    def goods(self, **changes) -> Path:
        data = {
            "name": "Lantern Lane",
            "delay": 0,
            "goods": [{"article": "Telescope Brass", "pack": 20, "price": "7.60"}],
        }
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / "goods.json"
        path.write_text(json.dumps(data | changes))
        return path

    def ask(self, path: Path):
        with override_settings(MERCHANT_FILE=str(path)):
            return self.client.post(reverse("fits:ask_merchant"))

    def setUp(self):
        super().setUp()
        fitted(make_class(self.user, "Mat 4 x 5 brass", participants=6))

    def test_packs_prices_and_what_is_there_are_the_merchants(self):
        page = self.ask(self.goods())
        self.assertContains(page, "$7.60")
        self.assertContains(page, "18 Telescope Brass")

    def test_what_cannot_be_had_is_said(self):
        goods = [{"article": "Telescope Brass", "pack": 1, "price": "0.40", "there": 1}]
        page = self.ask(self.goods(goods=goods))
        self.assertContains(page, "Cannot be had now: 1 of Telescope Brass")

    def test_a_refusal_and_a_broken_answer_are_said_and_the_list_stays(self):
        broken = [{"article": "Telescope Brass", "pack": 0, "price": "x"}]
        for path, words in (
            (self.goods(refuses=["telescope brass"]), "says nothing about Telescope Brass today"),
            (self.goods(goods=broken), "makes no sense"),
            (Path("/nowhere.json"), "cannot be read"),
        ):
            page = self.ask(path)
            self.assertContains(page, words)
            self.assertContains(page, "What stands here are your own prices")
            self.assertContains(page, "2 sheets")

    def test_the_file_that_ships_with_it_is_sound(self):
        from django.conf import settings

        sold = SimulatedMerchant(Path(settings.MERCHANT_FILE))
        sold.delay = 0
        quotes = sold.ask([name for name in sold.goods if name not in sold.refuses])
        self.assertEqual(len(quotes), len(sold.goods))
        with self.assertRaises(Refused):
            sold.ask(list(sold.refuses))


class SeatsTests(SignedInTests):
    def test_free_seats_and_the_next_step_are_worked_out_in_the_background(self):
        card_class = make_class(self.user, "Mat 4 x 5 brass", participants=6, capacity=10)
        url = reverse("fits:seats", args=[card_class.pk])
        self.assertContains(self.client.get(url), "First there has to be a plan")
        Paper.objects.update(price="0.50")
        fitted(card_class)
        self.client.post(reverse("fits:ask_seats", args=[card_class.pk]))
        self.assertContains(self.client.get(url), "0 of 1 papers worked out")
        work_off(card_class, (Work.Kind.SEATS,))
        page = self.client.get(url)
        # Four mats come out of a sheet: six people take two, so do seven and eight; the ninth takes a third.
        self.assertContains(page, "<strong>2 more people</strong> can come on the same 2&nbsp;sheets")
        self.assertContains(page, "Person 9 takes <strong>1&nbsp;more sheet</strong>, $0.50 more")
        chart = page.context["growth"].chart
        self.assertEqual((chart["people"], chart["sheets"]), (list(range(1, 11)), [1] * 4 + [2] * 4 + [3] * 2))
        self.assertEqual((chart["now"], chart["free"]), (5, 2))
        asked = [plan for plan in PaperPlan.objects.all() if plan.growth.get("at") == 6]
        self.assertEqual([plan.sheets for plan in asked], [2])

    def test_who_comes_more_gets_the_usual_offer(self):
        card_class = make_class(self.user, "Mat 4 x 5 brass", participants=1, capacity=4)
        keep_offer(Offer(card_class=card_class, name="set of two", sets=2))
        keep_offer(Offer(card_class=card_class, name="class only", pools={"card": "none"}))
        add_people(card_class, [OrderLine(name="Ines", orders=((str(Offer.objects.get(sets=1).pk), 1),))])
        fitted(card_class)
        # Ines alone takes nothing; whoever comes beside her takes two mats of the four in a sheet.
        self.assertFalse(PaperPlan.objects.exists())
        CardClass.objects.update(participants=1)
        fitted(card_class)
        self.client.post(reverse("fits:ask_seats", args=[card_class.pk]))
        work_off(card_class, (Work.Kind.SEATS,))
        growth = self.client.get(reverse("fits:seats", args=[card_class.pk])).context["growth"]
        self.assertEqual((growth.chart["people"], growth.chart["sheets"]), ([1, 2, 3, 4], [0, 1, 1, 2]))


class TogetherTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.classes = []
        for title, people in (("Evening", 6), ("Morning", 6)):
            card_class = make_class(self.user, "Mat 4 x 5 brass", participants=people)
            CardClass.objects.filter(pk=card_class.pk).update(title=title)
            self.classes.append(card_class)
            fitted(card_class)

    def ask(self):
        data = {"class": [each.pk for each in self.classes]}
        with self.captureOnCommitCallbacks(execute=True):
            self.client.post(reverse("fits:together"), data)
        return self.client.get(reverse("fits:buying"), data)

    def test_what_is_saved_by_planning_two_classes_as_one(self):
        page = self.ask()
        # Six mats take two sheets, twelve take three.
        self.assertContains(page, "4&nbsp;sheets")
        self.assertContains(page, "3&nbsp;sheets")
        (row,) = Joint.objects.get().found
        self.assertEqual((row["apart"], row["together"]), (4, 3))

    def test_an_answer_is_kept_until_the_plans_change(self):
        self.ask()
        first = Joint.objects.get()
        self.ask()
        self.assertEqual(Joint.objects.get(), first)
        CardClass.objects.filter(pk=self.classes[0].pk).update(participants=9)
        fitted(self.classes[0])
        page = self.client.get(reverse("fits:buying"), {"class": [each.pk for each in self.classes]})
        self.assertContains(page, "The plans have changed since")
        self.ask()
        self.assertNotEqual(Joint.objects.get().pk, first.pk)

    def test_a_question_that_is_gone_is_nobodys(self):
        joint_task.func(12345)
        part = self.client.get(reverse("fits:joint_part"), {"class": [each.pk for each in self.classes]})
        self.assertEqual(part["HX-Refresh"], "true")
