"""The wall, the page of a paper, the strip: what they show and what can be done on them."""

import datetime
import json
import random
import re
from decimal import Decimal
from unittest import mock

from django.contrib.auth import get_user_model
from django.urls import reverse
from django.utils import timezone

from tests.people import in_one_line, make_class, make_paper, work_off
from zester.classes.models import CardClass, ClassCard, ClassPaper, Trimmer
from zester.classes.services import add_card, begin_kit_list, recount
from zester.core.choices import OWN
from zester.core.fitting.jobs.job_file import read_job
from zester.core.fitting.jobs.plan import read_plan
from zester.core.lengths import TICKS_PER_INCH
from zester.core.tests.share import each_of
from zester.designs.models import Card
from zester.plans.kept import read_made
from zester.plans.models import PaperFit, PaperPlan, Work, Worker
from zester.plans.tests.cases import LIST, PlanTests

INCH = TICKS_PER_INCH


class WallTests(PlanTests):
    def test_every_layout_stands_on_one_page_and_leads_to_its_paper(self):
        self.work_off()
        page = self.wall()
        self.assertContains(page, "<dd>4</dd><dt>sheets from 1&nbsp;paper")
        self.assertContains(page, "1 of 1")
        self.assertContains(page, 'data-sheets="4" data-state="proven"')
        self.assertContains(page, f'/fit/{self.paper.key}/#layout-1"')
        self.assertContains(page, "On to the trimmer")
        self.assertEqual(page.content.decode().count('class="copies"'), self.fit.shown.layouts)

    def test_a_paper_says_how_few_minutes_any_plan_as_thrifty_takes(self):
        self.work_off()
        fit = PaperFit.objects.exclude(shown=None).first()
        address = reverse("fits:paper", args=[fit.class_paper.card_class_id, fit.key])
        self.assertNotContains(self.client.get(address), "at the usual pace")
        PaperPlan.objects.filter(pk=fit.shown_id).update(trimming=1012, hints={"costs": {}, "near": [], "least": 601})
        # 16.9 minutes are 17; ten minutes and a second are no less than ten.
        self.assertContains(self.client.get(address), "17 min at the usual pace; none as thrifty can take under 10")

    def test_a_class_that_is_being_fitted_says_so_and_can_be_stopped(self):
        self.assertContains(self.wall(), "Fitting…")
        page = self.post_class("stop")
        self.assertContains(page, "Stopped.")
        self.work_off()
        self.assertIsNone(self.fit.shown)
        self.change(auto_fit=False)
        self.assertContains(self.wall(), "Fit onto sheets")
        self.post_class("start")
        self.work_off()
        self.assertContains(self.wall(), "On to the trimmer")

    def test_the_part_is_sent_only_if_it_has_changed(self):
        self.work_off()
        stamp = re.search(r"since=([^\"]+)", self.wall().content.decode())[1]
        url = reverse("fits:wall_part", args=[self.card_class.pk])
        self.assertEqual(self.client.get(f"{url}?since={stamp}").status_code, 204)
        self.set_list("Mat 4 x 5 brass")
        self.assertContains(self.client.get(f"{url}?since={stamp}"), "Fitting…")

    def test_plans_without_a_worker_are_said_to_wait_for_one(self):
        Work.objects.update(due_at=timezone.now() - datetime.timedelta(seconds=9))
        self.assertContains(self.wall(), "No worker is running")
        self.assertIn("No worker is running", self.strip())
        Worker.objects.create(name="one", beat_at=timezone.now())
        self.assertNotContains(self.wall(), "No worker is running")
        Worker.objects.update(beat_at=timezone.now() - datetime.timedelta(seconds=9))
        self.assertContains(self.wall(), "No worker is running")

    def test_job_and_plan_can_be_taken_away_as_open_files_that_go_together(self):
        make_paper(self.user, "Chalk Moon")
        self.set_list(f"{LIST}\nPanel 3 x 4 chalk")
        self.work_off()
        job = read_job(self.client.get(reverse("fits:download", args=[self.card_class.pk, "job"])).content)
        plan = read_plan(self.client.get(reverse("fits:download", args=[self.card_class.pk, "plan"])).content)
        self.assertEqual([paper.id for paper in job.papers], [paper.id for paper in plan.papers])
        self.assertEqual({paper.name for paper in job.papers}, {"Telescope Brass", "Chalk Moon"})
        self.assertEqual(plan.papers[0].sheets + plan.papers[1].sheets, 6)

    def test_everything_is_printed_a_page_a_paper(self):
        make_paper(self.user, "Chalk Moon")
        self.set_list(f"{LIST}\nPanel 3 x 4 chalk")
        self.work_off()
        page = self.client.get(reverse("fits:print", args=[self.card_class.pk]))
        self.assertContains(page, 'class="print-page"', count=2)
        # A swatch shows its own paper, and a plain paper prints without patterns, which browsers make pictures of.
        names = re.findall(r'<pattern id="([^"]+)"', in_one_line(page.content.decode()))
        self.assertTrue(names)
        self.assertEqual(len(names), len(set(names)))
        filled = re.findall(r'<rect [^>]*fill="url[^>]*class="edge-fill', in_one_line(page.content.decode()))
        self.assertEqual(filled, [])
        self.assertContains(page, 'data-piece="A3"')

    def test_the_list_of_many_classes_takes_few_queries(self):
        for number in range(12):
            work_off(make_class(self.user, LIST, participants=number + 2))
        self.work_off()
        # The first page of a day prolongs the session.
        self.client.get(reverse("classes:list"))
        with self.assertNumQueries(12):
            page = self.client.get(reverse("classes:list"))
        self.assertContains(page, "Evening", count=13 * 2)


class PaperPageTests(PlanTests):
    def test_layouts_pieces_and_the_proof(self):
        self.work_off()
        page = self.page()
        self.assertContains(page, 'data-piece="A1"')
        self.assertContains(page, "it is proven that 3 sheets cannot hold these pieces")
        self.assertContains(page, "8 people × 1 = 8 cards; 4 in each card: 8 × 4 = 32")
        self.assertEqual(self.client.get(reverse("fits:paper", args=[self.card_class.pk, "nowhere"])).status_code, 404)

    def test_a_new_name_is_shown_at_once_the_plan_is_the_same(self):
        self.work_off()
        before = self.fit.shown_id
        self.paper.name = "Old Gold"
        self.paper.save()
        for page in (self.wall(), self.page()):
            self.assertContains(page, "Old Gold")
            self.assertNotContains(page, "Telescope Brass")
        self.assertEqual(self.fit.shown_id, before)

    def test_the_page_is_loaded_anew_when_another_plan_is_shown(self):
        self.work_off()
        stamp = re.search(r"state/\?since=([^\"]+)", self.page().content.decode())[1]
        url = f"{reverse('fits:paper_state', args=[self.card_class.pk, self.paper.key])}?since={stamp}"
        self.assertNotIn("HX-Refresh", self.client.get(url).headers)
        self.set_list("Mat 4 x 5 brass")
        self.assertEqual(self.client.get(url)["HX-Refresh"], "true")

    def test_margins_of_a_paper_are_kept_and_drawn(self):
        self.paper.margin_left, self.paper.margin_bottom = INCH // 2, INCH
        self.paper.save()
        recount(self.card_class.pk)
        self.work_off()
        self.assertContains(self.page(), "Within the margins")
        # 8 × 10 in are left, which hold 4 × 5¼ mats two by one and turned no better: no longer four on a sheet.
        self.assertGreater(self.plan.sheets, 4)

    def test_a_paper_with_stripes_is_turned_half_a_turn_only(self):
        self.paper.direction = "half"
        self.paper.save()
        self.set_list("Panel 5½ x 4¼ brass")
        self.work_off()
        self.assertEqual(self.plan.sheets, 4)
        self.assertContains(self.page(), "half a turn only")

    def test_hidden_middles_matched_pieces_and_fillers_come_from_the_list(self):
        self.set_list(
            "Mat 4 x 5¼ brass middle 3 x 4\nMoon 2 x 2 brass from a middle\n"
            "2 Door 1 x 5 brass match doors\nTag ½ x 3 brass filler"
        )
        self.work_off()
        self.assertIn("window", {layout.source for layout in self.plan.layouts})
        page = self.page()
        self.assertContains(page, "taken out after cutting")
        self.assertContains(page, "for free")
        steps = self.client.get(reverse("bench:steps", args=[self.card_class.pk]))
        self.assertContains(steps, "Out of the middles")
        self.assertEqual(read_made(self.fit.shown).paper.matched[0].pieces, ("A3", "A3"))

    def test_fillers_that_kept_offcuts_would_hold_are_told(self):
        self.change(participants=5)
        self.set_list("Panel 5 x 11 brass\nTag 1 x 3 brass filler")
        self.work_off()
        # Five strips of 3½ × 11 in stay, with room for nine tags each.
        self.assertContains(self.page(), "What is kept would hold 5 of A2 Tag, a filler")
        self.set_list("Panel 5 x 11 brass")
        self.work_off()
        self.assertNotContains(self.page(), "a filler")

    def test_offcuts_are_marked_kept_or_waste(self):
        make_paper(self.user, "Star Chart", "12x12")
        self.change(participants=1)
        self.set_list("Panel 5 x 11½ star chart")
        self.work_off()
        chart = PaperFit.objects.get(class_paper__paper__name="Star Chart").paper
        page = self.client.get(reverse("fits:paper", args=[self.card_class.pk, chart.key]))
        # The panel may lie either way; what is left beside it is 7 in wide, and half an inch is too narrow to keep.
        self.assertRegex(in_one_line(page.content.decode()), r"Offcut (7 × 12|12 × 7) in, kept")
        self.assertRegex(in_one_line(page.content.decode()), r"Offcut (½ × \S+|\S+ × ½) in, waste")


class StripTests(PlanTests):
    def test_it_tells_scripts_the_sheets_and_the_state_of_each_paper(self):
        self.assertIn(f'data-paper="{self.paper.key}" data-sheets="" data-state="waiting"', self.strip())
        self.work_off()
        self.assertIn(f'data-paper="{self.paper.key}" data-sheets="4" data-state="proven"', self.strip())
        self.work_off(Work.Kind.POLISH)
        with self.settings(IDLE_WORK=True):
            self.set_list("Mat 4 x 5 brass\nTag 2 x 3 brass\n3 Strip ½ x 4 brass")
            self.work_off(*Work.Kind.values)
        self.assertIn('data-state="polished"', self.strip())

    def test_a_plan_that_could_not_be_proven_in_the_first_moment_is_quick(self):
        with mock.patch("zester.plans.work.QUICK_SECONDS", 0.0):
            dice = random.Random(0)
            sizes = [(dice.randint(12, 70), dice.randint(12, 90), dice.choice((3, 7, 8, 9, 16))) for _ in range(14)]
            self.set_list("\n".join(f"{count} Mat {wide}/16 x {high}/16 brass" for wide, high, count in sizes))
            self.change(participants=1)
            self.work_off(Work.Kind.QUICK)
        self.assertEqual((self.fit.shown.stage, self.fit.shown.missing), ("quick", 0))
        self.assertIn('data-state="quick"', self.strip())
        self.assertEqual(self.waiting(), ["prove"])
        self.work_off()
        self.assertIn('data-state="proven"', self.strip())

    def test_desk_and_count_show_it_and_it_is_sent_only_if_it_has_changed(self):
        url = reverse("fits:strip", args=[self.card_class.pk])
        for name in ("classes:desk", "classes:count"):
            self.assertContains(self.client.get(reverse(name, args=[self.card_class.pk])), f'hx-get="{url}')
        self.work_off()
        stamp = re.search(r"since=([^&]+)&", self.strip())[1]
        self.assertEqual(self.client.get(f"{url}?since={stamp}").status_code, 204)

    def test_what_a_line_costs_is_told_once_it_was_looked_for(self):
        make_paper(self.user, "Chalk Moon")
        # Eight mats 4⅛ wide go two to a sheet; 4¼ would be too much, 4 in would give four.
        self.set_list("Mat 4⅜ x 5¼ brass\nTag 2 x 2 chalk")
        with self.settings(IDLE_WORK=True):
            self.work_off(*Work.Kind.values)
        text = self.client.get(f"{reverse('fits:strip', args=[self.card_class.pk])}?card=A").content.decode()
        costs = dict(re.findall(r'data-cost="(\w+)">([^<]+)<', text))
        self.assertEqual(costs["A1"], "this line: 4 sheets of Telescope Brass; cut 4¼ wide it would save 2 sheets")
        self.assertEqual(costs["A2"], "this line: 1 sheet of Chalk Moon")

    def test_lines_of_the_kit_list_are_not_those_of_a_card_k(self):
        make_paper(self.user, "Chalk Moon")
        entry = begin_kit_list(self.card_class)
        self.set_list("White 4 x 5 chalk", entry.card)
        with self.settings(IDLE_WORK=True):
            self.work_off(*Work.Kind.values)
        url = reverse("fits:strip", args=[self.card_class.pk])
        self.assertIn('data-cost="Kit1"', self.client.get(f"{url}?card=Kit").content.decode())
        self.assertNotIn("data-cost", self.client.get(f"{url}?card=K").content.decode())

    def test_a_class_whose_day_has_passed_asks_what_was_cut(self):
        self.work_off()
        wall = reverse("fits:wall", args=[self.card_class.pk])
        self.assertNotContains(self.client.get(wall), "has passed")
        CardClass.objects.filter(pk=self.card_class.pk).update(date=timezone.localdate() - datetime.timedelta(days=1))
        self.assertContains(self.client.get(wall), "The day of this class has passed")
        self.assertContains(
            self.client.get(reverse("shelf:stock", args=[self.paper.pk])), "whose day has passed: was it cut?"
        )
        PaperFit.objects.update(held=PaperFit.Held.CUT)
        self.assertNotContains(self.client.get(wall), "has passed")


class WishTests(PlanTests):
    def setUp(self):
        super().setUp()
        self.work_off()

    def test_everybodys_own_sheets_and_portions_cut_up_at_home(self):
        self.post("pool", pool="own")
        self.work_off()
        page = self.page()
        self.assertContains(page, '<option value="own" selected>')
        # One mat and four tags a person take a sheet each.
        self.assertContains(page, "8&nbsp;sheets</strong> like this")
        self.post("pool", pool="portions")
        self.work_off()
        page = self.page()
        self.assertContains(page, "cut up at home like this")
        self.assertContains(page, "1&nbsp;portion a person")
        self.assertContains(self.post("pool", pool="lottery"), "no way to pool")

    def test_a_pinned_layout_stays_and_no_plan_takes_its_place_unasked(self):
        layout = self.plan.layouts[0]
        page = self.post("pin", layout=0)
        self.assertContains(page, '<span class="pinned">pinned</span>')
        # The plan with the layout pinned answers what is needed now, proof and all: nothing is looked for.
        self.assertEqual((self.fit.answered, self.fit.shown.proven, self.waiting()), (True, True, []))
        pinned = self.fit.shown_id
        self.change(participants=9)
        self.work_off()
        self.assertEqual(self.fit.shown_id, pinned)
        self.assertEqual(self.fit.offered.need, self.fit.need)
        self.assertContains(self.page(), "A new plan takes")
        self.post("release")
        kept = [each for each in self.plan.layouts if each.pinned]
        self.assertEqual([(each.cuts, each.copies) for each in kept], [(layout.cuts, layout.copies)])
        page = self.post("unpin", layout=0)
        self.work_off()
        self.assertNotContains(self.page(), '<span class="pinned">pinned</span>')
        self.assertTrue(self.fit.answered)

    def test_a_pin_that_no_longer_goes_with_the_list_says_so_and_can_be_let_go(self):
        self.post("pin", layout=0)
        self.set_list("Mat 3 x 3 brass")
        self.assertContains(self.wall(), "pinned layout 1")
        page = self.post_class("unpin_class")
        self.assertNotContains(page, "pinned layout 1")
        self.assertEqual(ClassPaper.objects.get().pins, [])

    def test_a_layout_that_is_not_there_cannot_be_pinned(self):
        for wrong in ("99", "-1", "x", ""):
            self.assertEqual(self.post("pin", layout=wrong).status_code, 404)

    def test_what_is_being_cut_does_not_change_under_the_hands(self):
        mark = reverse("bench:mark", args=[self.card_class.pk, self.paper.key])
        self.client.post(mark, {"state": "cutting"})
        before = self.fit.shown
        self.assertIsNotNone(before.cutting_at)
        self.change(participants=9)
        self.work_off()
        first = PaperFit.objects.get(part=1)
        self.assertEqual((first.shown_id, first.offered), (before.pk, None))
        steps = self.client.get(reverse("bench:paper", args=[self.card_class.pk, self.paper.key]))
        self.assertNotContains(steps, "The class has changed")
        self.assertContains(steps, "blade parked and locked")
        self.client.post(mark, {"state": "cut", "bought0": "0"})
        self.assertContains(self.client.get(reverse("classes:list")), "4 of 5 sheets cut")
        self.client.post(mark, {"state": "not", "sure": "yes"})
        self.work_off()
        first.refresh_from_db()
        self.assertEqual((first.held, first.shown.sheets), ("", 5))

    def test_the_steps_say_how_long_they_take_at_the_trimmers_own_pace(self):
        page = reverse("bench:paper", args=[self.card_class.pk, self.paper.key])
        usual = int(re.search(r"about (\d+) min", self.shown(page))[1])
        slow = Trimmer.objects.create(owner=self.user, setting_seconds=120, stack_seconds=80, stroke_seconds=40)
        self.change(trimmer=slow)
        said = int(re.search(r"about (\d+) min", self.shown(page))[1])
        self.assertIn(said, range(usual * 10 - 10, usual * 10 + 1))

    def test_undoing_the_change_takes_the_offer_back(self):
        self.post("pin", layout=0)
        pinned = self.fit.shown_id
        self.change(participants=9)
        self.work_off()
        self.change(participants=8)
        self.assertEqual((self.fit.shown_id, self.fit.offered, self.fit.answered), (pinned, None, True))


# What is tested here is asking and taking, not how good the plans are.
@mock.patch("zester.core.fitting.minutes.easing.MOVES", 10_000)
@mock.patch("zester.core.fitting.minutes.easing.SHARES", (0.0, 0.25))
@mock.patch("zester.core.fitting.minutes.easy_columns.MOST_TABLES", 6)
class AdviceTests(PlanTests):
    def setUp(self):
        super().setUp()
        self.work_off()

    def ask(self):
        self.post_class("ask", paper=self.paper.key)
        self.work_off(Work.Kind.ADVICE)

    def test_other_plans_free_seats_and_near_misses(self):
        self.assertContains(self.page(), "Look for other plans")
        self.ask()
        page = self.page()
        for words in ("Plans to choose from", "Everybody’s own sheets", "Free seats:", "9 people need", "Near misses:"):
            self.assertContains(page, words)

    def test_a_middle_that_would_save_a_sheet_is_offered_with_what_to_write(self):
        self.change(participants=8)
        make_paper(self.user, "Star Chart", "12x12")
        base, panel = "Base 8½ x 5½ star chart score 4¼", "Panel 3¾ x 5 star chart on mat"
        self.set_list(f"{base}\nMat 4 x 5¼ brass\n{panel}")
        add_card(self.card_class, "Tags")
        ClassCard.objects.update(samples=0)
        Card.objects.filter(name="Tags").update(cut_list="Tag 3 x 3 brass")
        recount(self.card_class.pk)
        self.work_off()
        self.ask()
        page = self.page()
        self.assertContains(page, "B1 out of what is hidden of A2 (3¼ × 4½ in) would save 1&nbsp;sheet")
        self.assertContains(page, "middle 3¼ x 4½<")
        before = self.plan.sheets
        self.set_list(f"{base}\nMat 4 x 5¼ brass middle 3¼ x 4½\n{panel}")
        Card.objects.filter(name="Tags").update(cut_list="Tag 3 x 3 brass from a middle")
        recount(self.card_class.pk)
        self.work_off()
        self.assertEqual(self.plan.sheets, before - 1)

    def test_a_question_is_stopped_in_any_state_and_asked_again(self):
        advice = Work.objects.filter(kind=Work.Kind.ADVICE)
        for status in ("waiting", "working"):
            self.post_class("ask", paper=self.paper.key)
            advice.filter(status="waiting").update(status=status, worker="dead" if status == "working" else "")
            waits = int(status == "waiting")
            self.assertContains(self.page(), "waits: no worker runs just now", count=waits)
            self.post_class("stop", paper=self.paper.key)
            # Asked again at once, whatever has become of the first.
            self.post_class("ask", paper=self.paper.key)
            self.assertEqual(advice.filter(status__in=Work.OPEN, stop_asked=False).count(), 1)
            self.work_off(Work.Kind.ADVICE)
            self.assertContains(self.page(), "Plans to choose from")
            PaperPlan.objects.update(advice={})

    def test_another_plan_is_taken_and_held(self):
        self.ask()
        page = self.post("take", plan=OWN)
        self.assertContains(page, "the other plan is taken")
        self.assertContains(page, "8&nbsp;sheets</strong> like this")
        self.assertContains(page, "✓ this one")
        self.assertEqual((self.fit.class_paper.pool, self.fit.held, self.waiting()), ("own", "taken", []))
        self.assertTrue(self.fit.answered)
        self.change(participants=9)
        self.work_off()
        self.assertEqual((self.fit.shown.sheets, self.fit.offered.sheets), (8, 9))

    def test_the_whole_class_is_looked_at_a_plan_proposed_and_taken(self):
        trimmer = Trimmer.objects.create(owner=self.user, hour_worth=600)
        self.paper.price = Decimal("0.40")
        self.paper.save()
        self.change(trimmer=trimmer, participants=9)
        self.work_off()
        here = reverse("fits:tradeoff", args=[self.card_class.pk])
        page = self.client.get(here)
        self.assertContains(page, "Nobody has looked for easier plans yet.")
        self.client.post(reverse("fits:look", args=[self.card_class.pk]))
        self.assertContains(self.client.get(here), "This waits: no worker runs just now.")
        state = reverse("fits:tradeoff_state", args=[self.card_class.pk])
        self.assertNotIn("HX-Refresh", self.client.get(state, {"looking": "1"}))
        self.work_off(Work.Kind.FRONT)
        self.assertIn("HX-Refresh", self.client.get(state, {"looking": "1"}))
        page = self.client.get(here)
        self.assertContains(page, "An hour at the trimmer is worth $600.00 to you")
        self.assertContains(page, '<span class="tag">proposed</span>', count=1)
        front = self.fit.shown.front
        easiest = [entry for entry in front if entry["name"] != OWN][-1]
        done = self.client.post(
            reverse("fits:take_all", args=[self.card_class.pk]),
            {"takes": f"{self.paper.key} {easiest['name']}"},
            follow=True,
        )
        self.assertContains(done, "✓ these")
        self.assertEqual(self.fit.shown.sheets, easiest["sheets"])

    def test_looking_for_easier_plans_is_stopped_and_a_paper_left_out_says_why(self):
        self.work_off()
        here = reverse("fits:tradeoff", args=[self.card_class.pk])
        # Without a price paper and minutes cannot be weighed.
        self.assertContains(self.client.get(here), "Telescope Brass (it has no price)")
        self.paper.price = Decimal("0.40")
        self.paper.save()
        self.change(participants=9)
        self.work_off()
        self.assertNotContains(self.client.get(here), "Not in these sums")
        self.client.post(reverse("fits:look", args=[self.card_class.pk]))
        stopped = self.post_class("stop", kind="front")
        self.assertEqual((stopped.redirect_chain[-1][0], self.waiting()), (here, []))
        self.assertContains(stopped, "Nobody has looked for easier plans yet.")

    def test_plans_that_are_not_there_and_papers_of_others_are_not_taken(self):
        take = reverse("fits:take_all", args=[self.card_class.pk])
        shown = self.fit.shown_id
        self.assertContains(
            self.client.post(take, {"takes": f"{self.paper.key} easier 7"}, follow=True), "not there any more"
        )
        self.assertEqual(self.client.post(take, {"takes": "nothing x;;"}).status_code, 404)
        self.assertEqual(self.fit.shown_id, shown)
        self.client.force_login(get_user_model().objects.create_user("another"))
        for name in ("tradeoff", "tradeoff_state"):
            self.assertEqual(self.client.get(reverse(f"fits:{name}", args=[self.card_class.pk])).status_code, 404)
        for name in ("look", "take_all"):
            self.assertEqual(self.client.post(reverse(f"fits:{name}", args=[self.card_class.pk])).status_code, 404)

    def test_a_plan_for_a_class_that_has_changed_is_not_taken(self):
        self.ask()
        shown = self.fit.shown_id
        self.change(participants=20)
        page = self.post("take", plan=OWN)
        self.assertContains(page, "has changed since these plans were found")
        self.assertEqual((self.fit.shown_id, self.fit.held), (shown, ""))
        self.assertContains(self.post("take", plan="nothing"), "not there any more")

    def test_progress_is_shown_and_then_the_page_is_loaded_anew(self):
        self.post_class("ask", paper=self.paper.key)
        url = reverse("fits:advice", args=[self.card_class.pk, self.paper.key])
        Work.objects.filter(kind="advice").update(words="12 people", status="working")
        self.assertContains(self.client.get(url), "12 people")
        Work.objects.filter(kind="advice").update(status="done")
        self.assertEqual(self.client.get(url)["HX-Refresh"], "true")

    def test_the_plans_are_open_json(self):
        self.ask()
        for entry in each_of(self.fit.shown.front):
            self.assertEqual(entry["sheets"], json.loads(json.dumps(entry["plan"]))["sheets"])


class BenchTests(PlanTests):
    def test_the_steps_follow_the_plan(self):
        self.work_off()
        page = self.client.get(reverse("bench:steps", args=[self.card_class.pk]))
        for words in ("Rail to", "Take <strong>", "Count the piles out", "Begin at the bench"):
            self.assertContains(page, words)
        self.assertEqual(self.client.get(reverse("bench:paper", args=[self.card_class.pk, "pxx"])).status_code, 404)

    def test_without_a_plan_the_bench_points_to_the_fit(self):
        self.assertContains(
            self.client.get(reverse("bench:steps", args=[self.card_class.pk])), "No plan to cut from yet"
        )
