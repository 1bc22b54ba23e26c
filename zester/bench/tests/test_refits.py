"""Another way is looked for by a worker: what the page says meanwhile, who is told, what cannot go wrong with it."""

from unittest import mock

from django.test import override_settings
from django_tasks import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from tests.people import IN_THE_DATABASE
from zester.bench import refits
from zester.bench.models import Refit
from zester.bench.tests.cases import CuttingTests
from zester.plans.worker import FitWorker, Watch, rescue


class RefitTests(CuttingTests):
    def setUp(self):
        super().setUp()
        self.enterContext(override_settings(TASKS=IN_THE_DATABASE))
        self.mark("bench")
        self.tick(*(self.entry(n + 1, 20 * n) for n in range(len(self.now().steps) - 1)))
        self.asked = self.spoil(self.spoiled_piece(), 1)

    def work(self) -> None:
        """A worker does what is on the queue."""
        worker = FitWorker(short=True)
        while (task := worker._next()) is not None:
            worker.run_task(task)

    def test_the_page_waits_and_the_answer_is_told_once_to_who_asked(self):
        self.assertContains(self.asked, "looking for another way")
        self.assertEqual(self.now().run.number, 1)
        self.assertNotIn("HX-Refresh", self.client.get(self.address("looking")))
        # The other device at the bench is sent to the same page; the sheet with the steps stays as it is.
        self.assertTrue(self.client.get(self.address("state")).json()["looking"])
        self.assertContains(self.client.get(self.address("paper")), "This paper is being cut:")
        self.work()
        self.assertEqual(self.client.get(self.address("looking"))["HX-Refresh"], "true")
        self.assertFalse(self.client.get(self.address("state")).json()["looking"])
        self.assertContains(self.client.get(self.address("table")), "Noted: 1 × ")
        self.assertNotContains(self.client.get(self.address("table")), "Noted: 1 × ")
        self.assertEqual(self.now().run.number, 2)

    def test_nobody_says_two_things_at_once(self):
        self.assertContains(self.spoil(self.spoiled_piece(), 1), "looking for another way")
        self.assertEqual(Refit.objects.count(), 1)
        self.work()
        self.assertEqual(self.now().run.number, 2)

    def test_it_was_not_so_while_it_is_looked_for(self):
        page = self.client.post(self.address("undo_mishap"), follow=True)
        self.assertContains(page, "Taken back")
        self.work()
        self.assertEqual((self.now().run.number, Refit.objects.count()), (1, 0))

    def test_taken_back_while_a_worker_is_at_it(self):
        def slow(*args, **more):
            self.client.post(self.address("undo_mishap"))
            return found(*args, **more)

        found = refits.go_on
        with mock.patch.object(refits, "go_on", slow):
            self.work()
        self.assertEqual(self.now().run.number, 1)

    def test_somebody_who_went_on_meanwhile_keeps_the_steps(self):
        self.tick(self.entry(len(self.now().steps), 2000))
        self.work()
        self.assertContains(self.client.get(self.address("table")), "Somebody has gone on with this paper meanwhile")
        self.assertEqual(self.now().run.number, 1)

    def test_a_fault_is_said_and_the_steps_stay(self):
        with mock.patch.object(refits, "go_on", side_effect=ZeroDivisionError), self.assertLogs(refits.log):
            self.work()
        self.assertContains(self.client.get(self.address("table")), "Say it once more.")
        self.spoil(self.spoiled_piece(), 1)
        self.work()
        self.assertEqual(self.now().run.number, 2)

    def test_a_worker_that_is_killed_leaves_it_to_the_next(self):
        task = FitWorker(short=True)._next()
        self.assertEqual(task.status, TaskResultStatus.RUNNING)
        rescue(Watch())
        self.assertEqual(DBTaskResult.objects.get(pk=task.pk).status, TaskResultStatus.READY)
        self.work()
        self.assertEqual(self.now().run.number, 2)

    def test_asked_for_twice_it_is_done_once(self):
        refits.refit_task.enqueue(Refit.objects.get().pk)
        self.work()
        self.assertEqual(self.now().run.number, 2)

    def test_a_paper_that_is_not_cut_after_all_needs_no_answer(self):
        self.mark("not", sure="yes")
        self.work()
        self.assertIsNone(self.now())

    def test_a_stranger_sees_nothing_of_it(self):
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.get(self.address("looking")).status_code, 404)
