"""What is missing: counted, for whom, back at the bench, something else instead, there again."""

from __future__ import annotations

from django.urls import reverse

from tests.people import fitted, make_paper
from zester.bags.models import Shortage
from zester.bags.shortages import piles_of
from zester.bags.tests.cases import PackingTests
from zester.bench.models import Run
from zester.bench.runs import cutting_of, finish, left_now
from zester.classes.models import CardClass
from zester.core.cutting.record import read_steps
from zester.core.cutting.steps import KEEP, PILE, SHEET, WASTE
from zester.core.geometry import goes_in
from zester.plans.models import PaperFit
from zester.shelf.models import Entry
from zester.shelf.stock import stock_take


class ShortTests(PackingTests):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        stock_take(cls.paper, None, 40)
        # Narrow strips are worth keeping here.
        CardClass.objects.update(keep_short=4000, keep_long=8000)
        fitted(cls.card_class)
        cls.brass = PaperFit.objects.get(class_paper__paper=cls.paper)

    def count(self, **counted):
        data = {f"pile-{key}": number for key, number in counted.items()}
        return self.client.post(self.address("short"), data, follow=True)

    def act(self, act: str, **more):
        row = Shortage.objects.get()
        return self.client.post(self.address("shortage", row.pk), {"act": act, **more}, follow=True)

    def fresh(self) -> PaperFit:
        found = PaperFit.objects.select_related("class_paper__card_class__trimmer", "class_paper__paper", "shown")
        return found.get(pk=self.brass.pk)

    def cut_all(self, keep: bool = True) -> None:
        """The brass is cut to the end and booked."""
        self.client.post(reverse("bench:mark", args=[self.card_class.pk, self.paper.key]), {"state": "bench"})
        run = Run.objects.get()
        run.done = len(run.steps)
        run.save()
        left = left_now(cutting_of(self.fresh()))
        finish(self.fresh(), left if keep else {})

    def test_a_pile_that_is_counted_says_what_is_missing_and_for_whom(self):
        piles = {pile.line.key: pile.there for pile in piles_of(self.board())}
        # Two cards for three full kits and one of card stock, and a sample.
        self.assertEqual((piles["A1"], piles["A3"], piles["gems"], piles["thread"]), (9, 7, 18, 4))
        page = self.count(A1=8, A3=7, gems=20)
        self.assertContains(page, "More than needed: gems: 20, 2 more than needed")
        self.assertContains(page, "A1 Base: 8 of 9")
        self.assertContains(page, "All kits are whole; your sample of A goes without.")
        self.count(A1=6)
        page = self.client.get(self.address("short"))
        self.assertContains(page, "Tove Lind, bag A (2) goes without.")
        self.assertContains(self.client.get(self.address("pack")), "<b>2</b> short")
        self.assertContains(self.count(A2=9), "Counted: nothing is short.")

    def test_a_number_that_is_none_is_asked_about_and_nothing_typed_is_lost(self):
        page = self.count(A1="eight", A2=13, A3="3.5")
        self.assertContains(page, "2 numbers cannot be read. Nothing was compared yet", status_code=422)
        self.assertContains(page, "Write a whole number, like 28.", 2, status_code=422)
        self.assertContains(page, 'value="eight"', status_code=422)
        self.assertContains(page, 'value="13"', status_code=422)
        self.assertEqual(Shortage.objects.count(), 0)

    def test_the_bag_that_lacks_something_comes_last_and_says_so(self):
        self.client.post(self.address("missing"), {"thing": "A1", "count": "1"})
        self.client.post(self.address("missing"), {"thing": "A1", "count": "1"})
        first = self.board().stacks[1]
        self.assertEqual([row.notes for row in first.rows], [("1 × A1 missing",)])
        page = self.client.get(self.address("kit", self.kit("Tove")))
        self.assertContains(page, "1 × A1 missing")

    def test_what_cannot_be_missing_is_refused(self):
        for data, words in (
            ({"thing": "A1", "count": "0"}, "How many are missing?"),
            ({"thing": "A1", "count": "99"}, "Only 9 of A1 are needed"),
            ({"thing": "Z9", "count": "1"}, "No bag holds"),
            ({}, "How many are missing?"),
        ):
            page = self.client.post(self.address("missing"), data, follow=True)
            self.assertContains(page, words)
        for odd in (
            "https://elsewhere.invalid/",
            "//elsewhere.invalid",
            "http://[",
            "no-page",
            "classes:list",
            "/" + "x" * 9000,
        ):
            elsewhere = self.client.post(self.address("missing"), {"thing": "Z9", "count": 1, "next": odd})
            self.assertEqual(elsewhere["Location"], self.address("short"), odd[:30])
        self.assertEqual(Shortage.objects.count(), 0)

    def test_a_missing_piece_goes_back_to_the_bench_and_comes_back(self):
        self.cut_all()
        before = self.paper_on_hand()
        self.count(A2=8)
        page = self.act("bench")
        self.assertContains(page, "1 × A2, B2 is cut again here")
        self.assertContains(page, "Rail to")
        again = cutting_of(self.fresh())
        self.assertEqual((again.run.number, self.fresh().held), (2, PaperFit.Held.CUTTING))
        # The mats of both cards are one pile.
        self.assertEqual([(entry["label"], entry["count"]) for entry in again.run.spoiled], [("A2, B2", 1)])
        self.assertContains(self.client.get(self.address("short")), "At the bench.")
        Run.objects.filter(pk=again.run.pk).update(done=len(again.steps))
        self.assertContains(self.client.get(self.address("short")), "Cut again.")
        self.act("there")
        self.assertContains(self.client.get(self.address("short")), "There again.")
        self.assertEqual(self.board().open_shortages, [])
        # Booked once more: what was opened in all has left the shelf, once.
        finish(self.fresh(), {})
        opened = sum(step.count for step in read_steps(again.run.steps) if step.source == SHEET)
        self.assertEqual(self.paper_on_hand(), before - opened)

    def paper_on_hand(self) -> int:
        self.paper.refresh_from_db()
        return self.paper.on_hand

    def test_what_was_binned_is_not_cut_from_and_what_was_kept_is(self):
        for keep in (True, False):
            Shortage.objects.all().delete()
            Run.objects.all().delete()
            PaperFit.objects.filter(pk=self.brass.pk).update(held="")
            Entry.objects.filter(kind="left").delete()
            self.cut_all(keep)
            self.count(A4=8)
            self.act("bench")
            table = cutting_of(self.fresh()).stand.before
            self.assertEqual(bool(table.of(KEEP, PILE, WASTE)), keep)
            large = [
                each for each in table.of(KEEP, PILE) if goes_in(3 * 8128, 6096, each.width, each.height, turn=True)
            ]
            opened = [step for step in cutting_of(self.fresh()).steps if step.source == SHEET]
            self.assertEqual(bool(opened), not large, "what was kept is used before a sheet is opened")

    def test_a_paper_that_was_booked_without_a_tick_can_be_cut_again_too(self):
        self.client.post(reverse("bench:mark", args=[self.card_class.pk, self.paper.key]), {"state": "cut"})
        self.assertEqual(self.fresh().held, PaperFit.Held.CUT)
        self.count(A2=8)
        self.assertContains(self.act("bench"), "1 × A2, B2 is cut again here")
        self.assertTrue(cutting_of(self.fresh()).steps)

    def test_who_goes_without_is_worked_out_anew_when_kits_have_other_bags(self):
        self.count(A1=7)
        self.client.post(self.address("how"), {"bagging": "kit"})
        page = self.client.get(self.address("short"))
        self.assertContains(page, "Your sample of A and Tove Lind go without")

    def test_a_piece_that_is_not_cut_yet_cannot_be_missing_at_the_bench(self):
        self.count(A2=8)
        self.assertContains(self.act("bench"), "is not cut yet")
        self.client.post(reverse("bench:mark", args=[self.card_class.pk, self.paper.key]), {"state": "bench"})
        self.assertContains(self.act("bench"), "Only 0 of A2 are cut yet")
        self.assertEqual(Shortage.objects.get().state, "open")

    def test_something_else_instead_is_said_on_the_bag_and_can_be_taken_back(self):
        ember = make_paper(self.user, "Ember Dust")
        self.count(A1=7)
        self.assertContains(self.act("instead"), "What is put in instead?")
        page = self.act("instead", paper=ember.pk)
        self.assertContains(page, "Ember Dust instead")
        tove = self.kit("Tove")
        self.assertContains(self.client.get(self.address("kit", tove)), "1 × A1: Ember Dust instead")
        self.assertFalse(self.board().kits_by_key[tove].is_short)
        self.assertEqual(self.board().open_shortages, [])
        self.act("open")
        self.assertContains(self.client.get(self.address("kit", tove)), "1 × A1 missing")
        self.act("instead", words="a strip of the offcuts")
        self.assertContains(self.client.get(self.address("kit", tove)), "a strip of the offcuts instead")
        self.assertContains(self.act("instead", words="x" * 130), "too long for a label")
        self.act("open")
        self.act("wrong")
        self.assertEqual(Shortage.objects.count(), 0)

    def test_a_missing_bit_is_bought_or_replaced(self):
        self.count(thread=3)
        page = self.client.get(self.address("short"))
        self.assertContains(page, "thread: 3 of 4")
        self.assertNotContains(page, "Cut it again at the bench")
        self.assertContains(page, "Tove Lind, bag B goes without.")
        self.act("there")
        self.assertEqual(self.board().open_shortages, [])
