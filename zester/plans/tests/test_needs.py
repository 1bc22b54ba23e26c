"""What makes a plan old, what does not, and what is begun."""

from io import StringIO

from django.core.management import call_command
from django.urls import reverse

from tests.people import make_class, make_paper
from zester.classes.models import CardClass
from zester.classes.services import recount
from zester.core.lengths import TICKS_PER_INCH
from zester.designs.models import Card
from zester.plans.models import PaperFit, PaperPlan, Work
from zester.plans.standing import papers_in
from zester.plans.tests.cases import LIST, PlanTests
from zester.shelf.services import keep_paper
from zester.shelf.stock import stock_take

INCH = TICKS_PER_INCH


class NeedTests(PlanTests):
    def test_a_change_begins_a_first_plan_of_the_papers_it_concerns_alone(self):
        chalk = make_paper(self.user, "Chalk Moon")
        self.set_list(f"{LIST}\nPanel 3 x 4 chalk")
        self.work_off()
        shown = {fit.paper.pk: fit.shown_id for fit in PaperFit.objects.all()}
        self.assertEqual(len(shown), 2)
        self.set_list(f"{LIST}\nPanel 3 x 5 chalk")
        self.assertEqual([work.fit.paper for work in Work.objects.filter(status="waiting")], [chalk])
        self.work_off()
        self.assertEqual(self.fit.shown_id, shown[self.paper.pk])
        self.assertNotEqual(PaperFit.objects.get(class_paper__paper=chalk).shown_id, shown[chalk.pk])

    def test_work_for_an_older_need_is_stopped(self):
        self.set_list("Mat 4 x 5 brass")
        self.set_list("Mat 4 x 6 brass")
        works = Work.objects.order_by("pk")
        self.assertEqual([work.status for work in works][-2:], ["stopped", "waiting"])
        self.assertEqual(works.last().need, self.fit.need)

    def test_the_same_need_is_never_fitted_twice(self):
        self.work_off()
        first = self.fit.shown
        self.set_list("Mat 4 x 5 brass")
        self.work_off()
        self.set_list(LIST)
        # Undone: the plan is there at once, without any work.
        self.assertEqual((self.fit.shown, self.waiting()), (first, []))

    def test_names_prices_and_stock_do_not_make_a_plan_old(self):
        self.paper.price = "0.50"
        keep_paper(self.paper)
        recount(self.card_class.pk)
        self.work_off()
        before = self.fit.shown_id
        stock_take(self.paper, None, 3)
        for field, value in (("price", "0.90"), ("pack", 20), ("colour", "#112233"), ("name", "Gold")):
            setattr(self.paper, field, value)
            keep_paper(self.paper)
            recount(self.card_class.pk)
            self.assertEqual((self.fit.shown_id, self.waiting()), (before, []), field)
            self.assertTrue(self.fit.answered, field)
        Card.objects.update(name="Another")
        recount(self.card_class.pk)
        self.assertEqual((self.fit.shown_id, self.waiting()), (before, []))

    def test_what_has_to_be_made_and_from_what_does(self):
        self.work_off()
        for field, value in (("participants", 9), ("stack", 4), ("keep_short", 2 * INCH), ("narrowest", INCH)):
            self.change(**{field: value})
            self.assertFalse(self.fit.answered, field)
            self.work_off()
            self.assertTrue(self.fit.answered, field)
        self.paper.margin_left = INCH // 4
        keep_paper(self.paper)
        recount(self.card_class.pk)
        self.assertFalse(self.fit.answered)

    def test_a_line_more_above_renames_the_pieces_of_the_plan_that_is_known(self):
        make_paper(self.user, "Chalk Moon")
        self.work_off()
        before = self.fit.shown
        self.set_list(f"Panel 3 x 4 chalk\n{LIST}")
        # The tags are A3 now; the plan of brass is the same, told by its new names, and nobody had to look for it.
        self.assertEqual([work.fit.paper.name for work in Work.objects.filter(status="waiting")], ["Chalk Moon"])
        self.assertNotEqual(self.fit.shown, before)
        self.assertEqual((self.fit.shown.sheets, self.fit.shown.proven), (before.sheets, True))
        self.assertEqual({named.piece for layout in self.plan.layouts for named in layout.parts}, {"A2", "A3"})

    def test_while_a_line_cannot_be_read_everything_stays_as_it_is(self):
        self.work_off()
        before = self.fit.shown_id
        self.set_list(f"{LIST}\nPanel 3 x 4 chal")
        self.assertEqual((self.fit.shown_id, self.waiting()), (before, []))
        self.assertIn("The sheets wait for 1&nbsp;line to mend", self.strip())
        self.assertContains(self.wall(), "1&nbsp;line to mend first")

    def test_a_paper_that_is_needed_no_more_leaves_and_comes_back_at_once(self):
        self.work_off()
        shown = self.fit.shown_id
        self.set_list("")
        self.assertEqual(papers_in(self.card_class).entries, ())
        self.assertContains(self.wall(), "There is nothing to cut yet")
        self.set_list(LIST)
        self.assertEqual((self.fit.shown_id, self.waiting()), (shown, []))

    def test_a_class_whose_plans_do_not_follow_waits_for_the_button(self):
        self.work_off()
        self.post_class("auto")
        before = self.fit.shown_id
        self.set_list("Mat 4 x 5 brass")
        self.assertEqual((self.fit.shown_id, self.waiting()), (before, []))
        self.assertIn('data-state="off"', self.strip())
        self.assertContains(self.wall(), "Fit again")
        self.post_class("start")
        self.work_off()
        self.assertTrue(self.fit.answered)
        self.post_class("auto", auto="on")
        self.assertTrue(CardClass.objects.get(pk=self.card_class.pk).auto_fit)

    def test_lengths_that_no_ruler_has_are_fitted_all_the_same(self):
        # A border in millimetres on a card in inches, and one that halves to a twentieth.
        for ruler, text in (
            ("in16", "card 4¼ x 5½ side fold\nBase brass\nMat 3 mm border brass"),
            ("mm", "card 100.1 x 120 side fold\nBase brass\nMat 3.3 border brass\n2 Strip 33.3 x 10.1 brass"),
        ):
            with self.subTest(ruler):
                card_class = make_class(self.user, text, ruler=ruler)
                self.card_class = card_class
                self.work_off()
                fit = PaperFit.objects.get(class_paper__card_class=card_class)
                self.assertEqual((fit.problem, fit.answered, fit.shown.proven), ("", True, True))

    def test_what_stands_in_the_way_is_said_with_the_paper_and_no_file_field(self):
        self.change(longest_cut=8 * INCH)
        page = self.wall()
        self.assertContains(page, "Telescope Brass:</strong> the trimmer’s longest cut does not reach across 8½ × 11")
        self.assertNotContains(page, "sheets[0]")
        self.change(longest_cut=None)
        self.paper.margin_left = self.paper.margin_top = 4 * INCH
        keep_paper(self.paper)
        self.set_list("Base 5½ x 8½ brass")
        self.assertContains(
            self.wall(), "“A1” (5½ × 8½ in) is larger than every sheet of Telescope Brass. Mind the margins"
        )

    def test_old_plans_are_let_go_but_never_one_that_was_cut(self):
        self.work_off()
        cut = self.fit.shown
        mark = reverse("bench:mark", args=[self.card_class.pk, self.paper.key])
        for state in ("cut", "not"):
            self.client.post(mark, {"state": state, "bought0": 0, "sure": "yes"})
        PaperPlan.objects.filter(pk=cut.pk).update(made_at="2020-01-01T00:00Z")
        for count in range(35):
            PaperPlan.objects.create(
                class_paper=cut.class_paper, need=str(count), labels="x", job=cut.job, plan=cut.plan, sheets=1,
                cost=1, bound=1,
            )  # fmt: skip
        self.set_list("Mat 4 x 5 brass")
        self.work_off()
        self.assertTrue(PaperPlan.objects.filter(pk=cut.pk).exists())
        self.assertLess(PaperPlan.objects.count(), 34)


class SupplyTests(PlanTests):
    def test_what_the_shelf_lacks_is_said_beside_the_plan_which_stays(self):
        self.work_off()
        before = self.fit.shown_id
        self.paper.price = "0.50"
        keep_paper(self.paper, 3)
        self.assertIn('data-state="short"', self.strip())
        page = self.page()
        self.assertContains(page, "Telescope Brass runs out: 1&nbsp;sheet short")
        self.assertContains(page, "3 of 4 are on the shelf for it")
        self.assertContains(page, "Buy 1&nbsp;more sheet")
        self.assertContains(page, "$0.50")
        self.assertContains(page, " missing. ")
        self.assertContains(self.client.get(reverse("classes:list")), "paper is short")
        keep_paper(self.paper, 4)
        self.assertIn('data-state="proven"', self.strip())
        self.assertEqual(self.fit.shown_id, before)

    def test_the_price_it_was_made_with_stays_and_todays_is_said(self):
        self.paper.price = "0.50"
        keep_paper(self.paper)
        self.set_list("Mat 4 x 5 brass")
        self.work_off()
        self.assertContains(self.page(), "$1.00")
        self.paper.price = "0.75"
        keep_paper(self.paper)
        recount(self.card_class.pk)
        self.assertContains(self.page(), "$1.50 at today’s price")
        self.assertContains(self.wall(), "<dd>$1.00</dd>")

    def test_paper_that_costs_nothing_still_gets_the_fewest_sheets_and_adds_no_money(self):
        self.paper.price = "0.00"
        keep_paper(self.paper)
        self.work_off()
        self.assertContains(self.page(), "fewest possible, proven")
        self.assertContains(self.wall(), "<dd>$0.00</dd>")

    def test_a_list_that_is_asked_about_since_a_new_version_is_told_when_that_comes(self):
        Card.objects.update(cut_list=f"{LIST}\nSun 2 x 2 brass embossed before class, stamped")
        CardClass.objects.update(counted_at=None)
        said = StringIO()
        call_command("migrate", verbosity=0, stdout=said)
        words = f"{CardClass.objects.get().title}: 1 line of its lists cannot be counted any more without an answer."
        self.assertIn(f"{words} Open A Card 1.", said.getvalue())
        self.assertEqual(CardClass.objects.get().n_wrong, 1)

    def test_a_plan_is_shown_by_what_it_was_made_with(self):
        self.change(keep_short=INCH, keep_long=3 * INCH)
        self.set_list("Panel 5 x 7 brass")
        self.work_off()
        self.client.post(reverse("bench:mark", args=[self.card_class.pk, self.paper.key]), {"state": "cutting"})
        self.change(keep_short=5 * INCH, keep_long=6 * INCH, stack=5)
        # Held, since it is being cut: its keep-size and its stack are those it was made with.
        self.assertContains(self.page(), "smaller than 1 × 3 in")
        steps = self.client.get(reverse("bench:paper", args=[self.card_class.pk, self.paper.key]))
        self.assertContains(steps, "up to 3 in a stack")
