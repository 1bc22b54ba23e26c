"""The papers of a class cut in one order: found by a worker, begun, led through, mended, left."""

from unittest import mock

from django.test import override_settings
from django.urls import reverse

from tests.people import SignedInTests, fitted, make_class, make_paper
from zester.bench import one_order
from zester.bench.models import OneOrder, Run
from zester.bench.one_order import InOrder, in_order_of
from zester.bench.refits import ask_mishap
from zester.bench.runs import begin, cutting_of, fits_of
from zester.classes.models import CardClass
from zester.core.cutting.mishap import Spoiled
from zester.core.cutting.steps import PIECE
from zester.plans.models import PaperFit, PaperPlan
from zester.plans.standing import papers_in

CARDS = """card 4¼ x 5½ side fold
Base brass
Mat 4 x 5¼ moss
Panel 3¾ x 5 sky
Strip 1 x 5¼ moss
Tag 2 x 3 sky"""


class OneOrderTests(SignedInTests):
    """A class of nine with one card in three papers."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        make_paper(cls.user, "Moss")
        make_paper(cls.user, "Sky")
        cls.card_class = make_class(cls.user, CARDS, participants=9)
        fitted(cls.card_class)

    def address(self, name: str) -> str:
        return reverse(f"bench:{name}", args=[self.card_class.pk])

    def look(self, **data):
        return self.client.post(self.address("together_look"), {"act": "look", **data}, follow=True)

    def begin(self):
        return self.client.post(self.address("together_begin"), follow=True)

    def shared(self) -> InOrder:
        card_class = CardClass.objects.get(pk=self.card_class.pk)
        found = in_order_of(card_class, papers_in(card_class).shown)
        assert found is not None
        return found

    def tick(self, fit: PaperFit, done: int) -> None:
        Run.objects.filter(pk=cutting_of(fit).run.pk).update(done=done)

    def test_it_is_looked_for_begun_and_led_through_to_the_end(self):
        page = self.client.get(self.address("together"))
        self.assertContains(page, "Look for one order")
        page = self.look(room="24")
        self.assertContains(page, "Begin in this order")
        order = OneOrder.objects.get()
        (sitting,) = order.found["sittings"]
        self.assertLess(sitting["settings"], sitting["settings_apart"])
        self.assertLess(sitting["seconds"], sitting["apart"])
        self.assertLessEqual(sitting["places"], sitting["settings"])
        # The summary's minutes are those of the papers' own pages.
        for fit in fits_of(self.card_class):
            own = self.client.get(reverse("bench:paper", args=[self.card_class.pk, fit.key])).context["paper"].minutes
            sitting["minutes"] -= own
        self.assertEqual(sitting["minutes"], 0)
        page = self.begin()
        self.assertEqual(set(PaperFit.objects.values_list("held", flat=True)), {PaperFit.Held.CUTTING})
        self.assertContains(page, "On to ")
        turns = 0
        while (fit := self.shared().next) is not None:
            shared = self.shared()
            leg = next(
                leg for leg in shared.legs if shared.fits[leg.paper] == fit and leg.last > shared.done(leg.paper)
            )
            # Where to set the rail is said at the first step of every leg, and there only.
            rail = shared.rail(fit)
            self.assertTrue(rail[leg.first])
            self.assertFalse(any(rail[number] for number in range(leg.first + 1, leg.last + 1)))
            bench = self.client.get(reverse("bench:table", args=[self.card_class.pk, fit.key]))
            self.assertContains(bench, f'data-done="{leg.first - 1}"')
            self.tick(fit, leg.last)
            turns += 1
            self.assertLess(turns, 100)
        self.assertContains(self.client.get(self.address("together")), "Every step is done")
        self.assertEqual(len(self.shared().stops), sitting["settings"])

    def test_the_bench_says_which_paper_comes_before_its_next_step(self):
        self.look()
        self.begin()
        shared = self.shared()
        first, second = shared.legs[0], next(leg for leg in shared.legs if leg.paper != shared.legs[0].paper)
        other = shared.fits[second.paper]
        turns = shared.turns(shared.fits[first.paper])
        self.assertEqual(turns[0].legs[0].fit, other)
        page = self.client.get(reverse("bench:table", args=[self.card_class.pk, shared.fits[first.paper].key]))
        self.assertContains(page, f"On to {other.name}")
        self.assertContains(page, f'data-until="{second.last}"')
        self.assertContains(self.client.get(self.address("steps")), f"next comes <strong>{shared.next.name}</strong>")

    def test_after_a_mishap_the_new_steps_come_where_the_rail_comes_anyhow(self):
        self.look()
        self.begin()
        while True:
            shared = self.shared()
            fit = shared.next
            leg = next(
                leg for leg in shared.legs if shared.fits[leg.paper] == fit and leg.last > shared.done(leg.paper)
            )
            self.tick(fit, leg.last)
            cutting = cutting_of(fit)
            if cutting.table.of(PIECE):
                break
        piece = cutting.table.of(PIECE)[0]
        spoiled = [Spoiled(kind=PIECE, label=piece.label, count=piece.count, size=(piece.width, piece.height))]
        ask_mishap(fit, 1, cutting.run.done, spoiled, "slipped")
        shared = self.shared()
        mine = shared.keys.index(fit.key)
        self.assertEqual(cutting_of(fit).run.number, 2)
        # Every new step comes once and in turn; the other papers' legs are as they were.
        for n, each in enumerate(shared.cuttings):
            numbers = [k for leg in shared.legs if leg.paper == n for k in range(leg.first, leg.last + 1)]
            self.assertEqual(numbers, list(range(1, len(each.steps) + 1)), shared.fits[n].name)
        for leg in shared.legs:
            steps = shared.cuttings[leg.paper].steps[leg.first - 1 : leg.last]
            self.assertEqual({step.at for step in steps}, {shared.place_of(leg)})
        self.assertTrue(any(leg.paper == mine for leg in shared.legs))
        # Shown by the numbers that the paper's own page gives its steps.
        shown = [n for stop in shared.stops for each, a, b, _ in stop.legs if each == fit for n in range(a, b + 1)]
        self.assertEqual(shown, [step.number for step in cutting_of(fit).steps])
        self.assertContains(self.client.get(self.address("together")), "To the bench")

    def test_a_paper_that_changed_since_is_not_begun_in_it(self):
        self.look()
        self.card_class.participants = 12
        self.card_class.save()
        fitted(self.card_class)
        self.assertContains(self.client.get(self.address("together")), "since this order was found")
        self.assertContains(self.begin(), "has changed since this order was found")
        self.assertFalse(Run.objects.exists())

    def test_one_begun_alone_and_an_order_begun_twice(self):
        self.look()
        fits = fits_of(self.card_class)
        begin(fits[0])
        self.assertContains(self.begin(), "has changed since this order was found")
        self.look()
        self.assertEqual(len(OneOrder.objects.get().found["plans"]), len(fits) - 1)
        self.begin()
        self.assertContains(self.begin(), "There is no order to begin")
        self.assertEqual(Run.objects.count(), len(fits))

    def test_no_paper_lies_half_cut_at_the_end_of_a_sitting(self):
        longest = max(one_order._to_cut(fit).alone.seconds() for fit in fits_of(self.card_class))
        self.look(minutes=str(max(15, -(-longest // 60))))
        with mock.patch.object(one_order, "in_sittings", return_value=[[0, 1], [2]]):
            self.look(minutes="20")
        order = OneOrder.objects.get()
        self.assertEqual([len(each["keys"]) for each in order.found["sittings"]], [2, 1])
        self.begin()
        self.assertEqual(Run.objects.count(), 2)
        self.assertNotContains(self.client.get(self.address("together")), "Begin sitting 2")
        for fit in self.shared().fits:
            self.tick(fit, len(cutting_of(fit).steps))
        self.assertContains(self.client.get(self.address("together")), "Begin sitting 2")
        self.begin()
        self.assertEqual(Run.objects.count(), 3)

    def test_when_all_is_booked_the_next_order_can_be_looked_for(self):
        self.look()
        self.begin()
        self.assertContains(
            self.client.post(self.address("together_look"), {"act": "look"}, follow=True), "Leave it first"
        )
        PaperFit.objects.update(held=PaperFit.Held.CUT)
        card_class = CardClass.objects.get(pk=self.card_class.pk)
        self.assertIsNone(in_order_of(card_class, papers_in(card_class).shown))
        self.assertContains(self.client.get(self.address("together")), "There is nothing to cut yet")

    @override_settings(IDLE_WORK=True)
    def test_what_was_wished_once_stays_when_the_class_changes(self):
        self.look(room="12")
        self.card_class.participants = 12
        self.card_class.save()
        fitted(self.card_class)
        PaperPlan.objects.update(stage=PaperPlan.Stage.POLISHED)
        self.client.get(self.address("steps"))
        order = OneOrder.objects.get()
        self.assertEqual((order.room, order.asked), (12, False))

    def test_left_every_paper_goes_on_by_itself(self):
        self.look()
        self.begin()
        fit = self.shared().next
        self.tick(fit, 1)
        page = self.client.post(self.address("together_look"), {"act": "leave"}, follow=True)
        self.assertContains(page, "goes on by itself")
        self.assertEqual((cutting_of(fit).run.done, OneOrder.objects.count()), (1, 0))
        bench = self.client.get(reverse("bench:table", args=[self.card_class.pk, fit.key]))
        self.assertNotContains(bench, "On to ")

    def test_what_is_typed_wrong_is_said(self):
        for minutes in ("5", "601", "soon", "-3", "²"):
            self.assertContains(self.look(minutes=minutes), "write a number from 15 to 600")
        self.assertFalse(OneOrder.objects.exists())
        self.look(room="99999999")
        self.look(room="x")
        self.assertIsNone(OneOrder.objects.get().room)

    def test_one_paper_has_nothing_to_share_the_rail_with(self):
        alone = make_class(self.user, "Mat 4 x 5¼ moss", participants=3)
        fitted(alone)
        page = self.client.get(reverse("bench:together", args=[alone.pk]))
        self.assertContains(page, "Only Moss is left to be cut")
        empty = make_class(self.user, participants=3)
        page = self.client.get(reverse("bench:together", args=[empty.pk]))
        self.assertContains(page, "There is nothing to cut yet")

    def test_an_order_that_saves_nothing_is_not_begun(self):
        self.look(room="8")
        order = OneOrder.objects.get()
        for each in order.found["sittings"]:
            each |= {"seconds": each["apart"], "settings": each["settings_apart"]}
        order.save()
        page = self.client.get(self.address("together"))
        self.assertContains(page, "Allow more piles, and look again.")
        self.assertNotContains(page, "Begin in this order")

    def test_stopped_and_failed_are_said(self):
        with mock.patch.object(one_order, "share_rail", side_effect=ZeroDivisionError), self.assertLogs(one_order.log):
            self.assertContains(self.look(), "Ask for it once more")
        OneOrder.objects.update(state=OneOrder.State.LOOKING, told="trying orders")
        self.assertContains(self.client.get(self.address("together_looking")), "trying orders")
        page = self.client.post(self.address("together_look"), {"act": "stop"}, follow=True)
        self.assertContains(page, "Stopped before an order was found")

    def test_stopped_while_a_worker_is_at_it_nothing_is_kept(self):
        found = one_order.share_rail

        def slow(*args, **more):
            self.client.post(self.address("together_look"), {"act": "stop"})
            return found(*args, **more)

        with mock.patch.object(one_order, "share_rail", slow):
            self.look()
        order = OneOrder.objects.get()
        self.assertEqual((order.state, order.found), (OneOrder.State.STOPPED, {}))

    @override_settings(IDLE_WORK=True)
    def test_it_is_offered_unasked_where_it_saves_enough(self):
        PaperPlan.objects.update(stage=PaperPlan.Stage.POLISHED)
        self.client.get(self.address("steps"))
        self.assertFalse(OneOrder.objects.get().asked)
        with mock.patch.object(one_order, "WORTH", 0.001):
            page = self.client.get(self.address("steps"))
        self.assertContains(page, "Cut in one order, all papers take")
        with mock.patch.object(one_order, "WORTH", 0.9):
            self.assertNotContains(self.client.get(self.address("steps")), "Cut in one order, all papers take")
