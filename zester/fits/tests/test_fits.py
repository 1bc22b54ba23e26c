"""Fitting from the web page: start, progress, stop, shortage, change."""

import datetime
import json
from unittest import mock

from django.core.management import call_command
from django.test import TransactionTestCase, override_settings
from django.urls import reverse
from django.utils import timezone

from zester.core.errors import PlanError
from zester.core.fitting.job import read_job
from zester.designs.models import Card
from zester.fits.models import Fit
from zester.fits.services import ask_to_stop, run_fit, start_fit
from zester.fits.tasks import fit_task
from zester.site.tests.people import SignedInTests, fitted, make_class, make_paper


class FitTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, "Mat 4 x 5¼ brass\n4 Tag 2⅛ x 2¾ brass", participants=8)
        self.url = reverse("fits:sheets", args=[self.card_class.pk])

    def start(self):
        with self.captureOnCommitCallbacks(execute=True):
            self.client.post(reverse("fits:start", args=[self.card_class.pk]))
        return self.client.get(self.url)

    def test_one_button_lays_every_piece_on_sheets(self):
        self.assertContains(self.client.get(self.url), "40&nbsp;pieces are waiting")
        page = self.start()
        self.assertContains(page, 'data-piece="A1"')
        self.assertContains(page, "4&nbsp;sheets")
        self.assertContains(page, "it is proven that 3 sheets cannot hold these pieces")
        self.assertContains(page, "On to the trimmer")

    def test_the_job_and_plan_can_be_taken_away_as_open_files(self):
        self.start()
        found = Fit.objects.get()
        job = self.client.get(reverse("fits:download", args=[found.pk, "job"]))
        self.assertEqual(read_job(job.content).papers[0].id, "Telescope Brass")
        plan = self.client.get(reverse("fits:download", args=[found.pk, "plan"]))
        self.assertEqual(json.loads(plan.content)["zester"], "fit-plan/1")

    def test_lines_to_mend_stand_in_the_way_and_are_named(self):
        Card.objects.update(cut_list="Mat 0.3 x 4 brass")
        page = self.start()
        self.assertContains(page, "1 line to mend first")
        self.assertContains(page, "A Card 1")
        self.assertFalse(Fit.objects.exists())

    def test_an_empty_list_stands_in_the_way(self):
        Card.objects.update(cut_list="")
        self.assertContains(self.start(), "There is nothing to cut yet")

    def test_a_short_shelf_says_which_pieces_and_what_to_buy(self):
        self.paper.on_hand, self.paper.price = 3, "0.50"
        self.paper.save()
        page = self.start()
        self.assertContains(page, "Telescope Brass runs out")
        self.assertContains(page, "Buy 1&nbsp;more sheet")
        self.assertContains(page, "$0.50")
        missing = sum(entry["missing"] for entry in json.loads(Fit.objects.get().plan)["papers"][0]["short"])
        self.assertContains(page, f"{missing}&nbsp;piece")

    def test_paper_that_costs_nothing_still_gets_the_fewest_sheets_and_adds_no_money(self):
        self.paper.price = "0.00"
        self.paper.save()
        page = self.start()
        self.assertContains(page, "fewest possible, proven")
        self.assertContains(page, "<dd>$0.00</dd>")

    def test_a_changed_class_says_so(self):
        self.start()
        Card.objects.update(cut_list="Mat 4 x 5 brass")
        self.assertContains(self.client.get(self.url), "The class has changed since this fit")
        steps = self.client.get(reverse("bench:steps", args=[self.card_class.pk]))
        self.assertContains(steps, "Fit again first")

    def test_starting_twice_makes_one_fit(self):
        first = start_fit(self.card_class)
        self.assertEqual(start_fit(self.card_class), first)
        self.assertContains(self.client.get(self.url), "You can leave this page")
        self.assertContains(self.client.get(reverse("fits:progress", args=[first.pk])), "About to begin")

    def test_a_waiting_fit_can_be_stopped(self):
        found = start_fit(self.card_class)
        page = self.client.post(reverse("fits:stop", args=[found.pk]), follow=True)
        self.assertContains(page, "The last fit was stopped")
        run_fit(found.pk)
        found.refresh_from_db()
        self.assertEqual(found.status, Fit.Status.STOPPED)

    def test_a_fit_at_work_stops_when_asked(self):
        found = start_fit(self.card_class)
        Fit.objects.filter(pk=found.pk).update(stop_asked=True)
        run_fit(found.pk)
        found.refresh_from_db()
        self.assertEqual((found.status, found.plan), (Fit.Status.STOPPED, ""))

    def test_stopping_keeps_the_plan_there_was(self):
        fitted(self.card_class)
        ask_to_stop(start_fit(self.card_class))
        self.assertContains(self.client.get(self.url), 'data-piece="A1"')

    def test_a_plan_that_fails_its_check_is_never_shown(self):
        found = start_fit(self.card_class)
        with (
            mock.patch("zester.fits.services.check_plan", side_effect=PlanError("wrong")),
            self.assertLogs("zester.fits.services"),
        ):
            run_fit(found.pk)
        page = self.client.get(self.url)
        self.assertContains(page, "did not pass its check")
        self.assertNotContains(page, 'data-piece="A1"')

    def test_a_fit_whose_worker_died_does_not_block_the_next(self):
        dead = start_fit(self.card_class)
        Fit.objects.filter(pk=dead.pk).update(
            status=Fit.Status.WORKING, created_at=timezone.now() - datetime.timedelta(minutes=10)
        )
        self.assertContains(self.client.get(self.url), "The fit was interrupted. Try once more.")
        self.assertContains(self.start(), 'data-piece="A1"')

    def test_when_a_fit_has_ended_the_page_is_loaded_anew(self):
        found = fitted(self.card_class)
        answer = self.client.get(reverse("fits:progress", args=[found.pk]))
        self.assertEqual((answer.status_code, answer["HX-Refresh"]), (204, "true"))

    def test_offcuts_are_marked_kept_or_waste(self):
        make_paper(self.user, "Star Chart", "12x12")
        Card.objects.update(cut_list="Panel 5 x 11½ star chart")
        self.card_class.participants = 1
        self.card_class.save()
        page = self.start()
        # The panel may lie either way; what is left beside it is 7 in wide, and half an inch is too narrow to keep.
        self.assertRegex(page.content.decode(), r"Offcut (7 × 12|12 × 7) in, kept")
        self.assertRegex(page.content.decode(), r"Offcut (½ × \S+|\S+ × ½) in, waste")

    def test_the_steps_follow_the_plan(self):
        self.start()
        page = self.client.get(reverse("bench:steps", args=[self.card_class.pk]))
        self.assertContains(page, "Rail to")
        self.assertContains(page, "Take <strong>")
        self.assertContains(page, "blade parked and locked")
        self.assertContains(page, "Count the piles out")
        self.assertEqual(self.client.get(reverse("bench:paper", args=[self.card_class.pk, 9])).status_code, 404)

    def test_without_a_plan_the_bench_points_to_the_fit(self):
        self.assertContains(
            self.client.get(reverse("bench:steps", args=[self.card_class.pk])), "No plan to cut from yet"
        )


@override_settings(TASKS={"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}})
class WorkerTests(TransactionTestCase):
    def test_the_background_worker_runs_a_queued_fit(self):
        from django.contrib.auth import get_user_model

        user = get_user_model().objects.create_user("mira")
        make_paper(user)
        found = start_fit(make_class(user, "Mat 4 x 5 brass"), fit_task.enqueue)
        self.assertEqual(Fit.objects.get().status, Fit.Status.WAITING)
        call_command("db_worker", batch=True, verbosity=0, startup_delay=False, reload=False, interval=0)
        found.refresh_from_db()
        self.assertEqual(found.status, Fit.Status.DONE)
