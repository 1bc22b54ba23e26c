"""Work in the background: done, stopped, failed, given way, taken over from a dead worker."""

import datetime
import subprocess
import sys
import time
from dataclasses import replace
from decimal import Decimal
from importlib import import_module
from inspect import signature
from unittest import mock

from django.contrib.auth import get_user_model
from django.db import DatabaseError, transaction
from django.db.models import F
from django.test import SimpleTestCase, TransactionTestCase, override_settings
from django.urls import reverse
from django.utils import timezone
from django_tasks import TaskResultStatus
from django_tasks_db.management.commands.db_worker import Worker as QueueWorker
from django_tasks_db.models import DBTaskResult

from tests.people import IN_THE_DATABASE, make_class, make_paper
from zester.classes.models import CardClass, ClassCard
from zester.classes.services import recount
from zester.core.errors import JobError, PlanError
from zester.core.fitting import offcuts
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.offcuts import OffcutsFirst
from zester.designs.services import save_list
from zester.plans import work as doing
from zester.plans.kept import job_now, keep_plan, read_made, replayed
from zester.plans.models import PaperFit, PaperPlan, Work, Worker
from zester.plans.needs import begin_class
from zester.plans.tests.cases import LIST, PlanTests
from zester.plans.worker import FitWorker, Watch, beat, count_the_uncounted, leave, rescue

# What the worker leans on inside the task library, whose worker is no public interface: another version that has it
# otherwise fails here, by name, before it fails at night.
LEANED_ON = {
    "django_tasks_db.management.commands.db_worker": ("Worker.run_task", "Worker.shutdown", "Worker.__init__"),
    "django_tasks_db.models": ("DBTaskResult.claim", "DBTaskResult.objects", "get_date_max"),
    "django_tasks_db.utils": ("exclusive_transaction", "is_locked_database_exception"),
    "django_tasks_db.backend": ("DatabaseBackend",),
}
WORKER_IS_GIVEN = {
    "queue_names",
    "interval",
    "batch",
    "backend_name",
    "startup_delay",
    "max_tasks",
    "worker_id",
    "excluded_queue_names",
}


class WorkTests(PlanTests):
    def work(self) -> Work:
        return Work.objects.get()

    def test_a_first_plan_is_checked_kept_and_shown(self):
        self.work_off()
        self.assertEqual(self.work().status, "done")
        shown = self.fit.shown
        self.assertEqual((shown.sheets, shown.proven, shown.used, shown.missing), (4, True, {"sheet": 4}, 0))
        self.assertGreater(shown.strokes, 0)

    def test_work_is_done_once_whoever_asks(self):
        doing.ask(self.fit, Work.Kind.QUICK)
        self.assertEqual(Work.objects.count(), 1)
        doing.run(self.work().pk)
        doing.run(self.work().pk)
        self.assertEqual(PaperPlan.objects.count(), 1)

    def test_work_that_waits_stops_at_once_and_is_not_begun(self):
        doing.stop(fit=self.fit)
        self.assertEqual(self.work().status, "stopped")
        self.work_off()
        self.assertIsNone(self.fit.shown)

    def test_work_that_is_being_done_stops_at_its_next_step_and_the_plan_there_was_stays(self):
        self.work_off()
        before = self.fit.shown_id
        self.set_list("Mat 4 x 5 brass")

        def stopped(paper, bench, tell, *_, **__):
            doing.stop_class(self.card_class)
            with mock.patch.object(doing, "TELL_EVERY", 0):
                tell("a step")

        with mock.patch.object(offcuts, "fit_sizes", stopped):
            self.work_off()
        self.assertEqual(Work.objects.latest("pk").status, "stopped")
        self.assertEqual(self.fit.shown_id, before)
        self.assertContains(self.wall(), "Stopped.")

    def test_a_plan_that_nobody_needs_any_more_is_not_shown(self):
        def late(paper, bench, tell, *_, **__):
            self.set_list("Mat 3 x 3 brass")
            return real(paper, bench, tell, 4)

        real = offcuts.fit_sizes
        with mock.patch.object(offcuts, "fit_sizes", late):
            doing.run(self.work().pk)
        self.assertIsNone(self.fit.shown)
        self.work_off()
        self.assertEqual(self.plan.sheets, 2)

    def test_what_goes_wrong_is_said_and_shows_nothing(self):
        for error, words in (
            (PlanError("wrong"), "did not pass its check and is not shown (wrong)"),
            (JobError("too long", "A1"), "This cannot be fitted: A1: too long"),
            (RuntimeError("oh"), "Something went wrong while fitting"),
        ):
            with self.subTest(words):
                Work.objects.all().delete()
                begin_class(self.card_class)
                logs = self.assertLogs("zester.plans.work") if not isinstance(error, JobError) else mock.MagicMock()
                with mock.patch.object(offcuts, "fit_sizes", side_effect=error), logs:
                    self.work_off()
                self.assertContains(self.wall(), words)
                self.assertIsNone(self.fit.shown)
                self.assertContains(self.wall(), "Fit onto sheets")

    def test_a_plan_that_fails_its_check_when_it_is_stored_is_never_shown(self):
        with (
            mock.patch("zester.plans.kept.check_paper", side_effect=PlanError("wrong")),
            self.assertLogs("zester.plans.work"),
        ):
            self.work_off()
        self.assertEqual((PaperPlan.objects.count(), self.work().status), (0, "failed"))

    def test_work_gives_way_and_is_asked_for_again(self):
        with mock.patch.object(doing, "_quick", side_effect=doing.GaveWay), mock.patch.dict(doing.DOES, clear=False):
            doing.DOES[Work.Kind.QUICK] = mock.Mock(side_effect=doing.GaveWay)
            doing.run(self.work().pk)
        work = self.work()
        self.assertEqual((work.status, work.gave_way, work.worker), ("waiting", 1, ""))
        self.work_off()
        self.assertEqual(self.fit.shown.sheets, 4)

    def test_a_worker_that_stops_puts_its_work_back(self):
        doing.stopping.set()
        try:
            doing.run(self.work().pk)
        finally:
            doing.stopping.clear()
        self.assertEqual(self.work().status, "waiting")

    def test_a_polished_plan_opens_no_more_sheets_and_keeps_the_proof(self):
        with self.settings(IDLE_WORK=True):
            self.set_list("Mat 4 x 5¼ brass\n3 Tag 2 x 2½ brass\n2 Strip ½ x 5 brass")
            self.work_off()
            first = self.fit.shown
            self.assertEqual(self.waiting(), ["polish"])
            self.work_off(Work.Kind.POLISH)
        shown = self.fit.shown
        self.assertEqual((shown.stage, shown.sheets, shown.proven), ("polished", first.sheets, True))

    def test_polishing_keeps_the_proven_plan_where_that_takes_fewer_minutes(self):
        with self.settings(IDLE_WORK=True):
            self.set_list("Mat 4 x 5¼ brass\n3 Tag 2 x 2½ brass\n2 Strip ½ x 5 brass")
            self.work_off()
            first = read_made(self.fit.shown).plan
            # The same, with the copies of a layout written apart: as thrifty, and said to be slower.
            one, *others = first.layouts
            apart = (replace(one, copies=1), replace(one, copies=one.copies - 1), *others)
            found = OffcutsFirst(replace(first, layouts=apart), 0, Decimal(0), 0)
            judge = mock.Mock(side_effect=lambda _job, plan, _bench: 300 if plan.layouts == first.layouts else 600)
            with (
                mock.patch("zester.plans.work.fit_offcuts_first", return_value=found),
                mock.patch("zester.plans.work.minutes_judge", return_value=judge),
            ):
                self.work_off(Work.Kind.POLISH)
        self.assertEqual(judge.call_count, 2)
        self.assertEqual(self.fit.shown.stage, "polished")
        self.assertEqual(read_made(self.fit.shown).plan.layouts, first.layouts)

    def an_open_plan(self) -> PaperPlan:
        """The paper shown with a plan of a sheet more, with nothing proven."""
        self.set_list("Mat 4 x 5¼ brass\n3 Tag 2 x 2½ brass\n2 Strip ½ x 5 brass")
        self.work_off()
        job, fit = job_now(self.fit), self.fit
        plan = read_made(fit.shown).plan
        one, *others = plan.layouts
        more = replace(plan, layouts=(replace(one, copies=1), replace(one, copies=one.copies), *others))
        more = replace(more, cost=plan.cost + job.papers[0].sheets[0].cost, proven=False)
        kept = keep_plan(fit, job, replayed(fit, job, more, "polished"), "polished")
        PaperPlan.objects.exclude(pk=kept.pk).delete()
        PaperFit.objects.filter(pk=fit.pk).update(shown=kept)
        return kept

    def test_where_there_is_room_a_sheet_fewer_is_looked_for_longer_and_taken(self):
        kept = self.an_open_plan()
        with self.settings(IDLE_WORK=True), mock.patch.object(doing, "room_of", return_value=Decimal("0.25")):
            doing.ask(self.fit, Work.Kind.HINTS)
            self.work_off(Work.Kind.HINTS)
        shown = self.fit.shown
        self.assertEqual((shown.sheets, shown.proven), (kept.sheets - 1, True))
        # It goes on as any plan does.
        self.assertIn("polish", self.waiting())

    def test_where_there_is_none_the_page_says_so_and_nobody_looks_longer(self):
        self.an_open_plan()
        with (
            mock.patch.object(doing, "room_of", return_value=Decimal("0.02")),
            mock.patch.object(doing, "fit_offcuts_first") as looked,
        ):
            doing.ask(self.fit, Work.Kind.HINTS)
            self.work_off(Work.Kind.HINTS)
        looked.assert_not_called()
        self.assertEqual(self.fit.shown.hints["room"], "0.02")
        page = self.client.get(reverse("fits:paper", args=[self.fit.class_paper.card_class_id, self.fit.key]))
        self.assertContains(page, "One sheet fewer could lose 0.02 of a sheet in all: seldom there.")


class RescueTests(PlanTests):
    """What a dead worker leaves."""

    def setUp(self):
        super().setUp()
        self.watch = Watch()
        for name in ("living", "dead"):
            Worker.objects.create(name=name, beat_at=timezone.now())
        Work.objects.update(status="working", worker="dead")

    def rescue_after(self, seconds: float) -> int:
        """Look, and again after a while in which one worker has counted on and the other has not."""
        self.watch.living()
        Worker.objects.filter(name="living").update(beats=F("beats") + 1)
        later = time.monotonic() + seconds
        with mock.patch("zester.plans.worker.time.monotonic", return_value=later):
            return rescue(self.watch)

    def test_its_work_is_put_back_and_done_by_another(self):
        self.assertEqual(self.rescue_after(1), 0)
        self.assertEqual(self.rescue_after(6), 1)
        work = Work.objects.get()
        self.assertEqual((work.status, work.tries, work.worker), ("waiting", 1, ""))
        self.assertEqual(list(Worker.objects.values_list("name", flat=True)), ["living"])
        self.work_off()
        self.assertTrue(self.fit.answered)

    def test_one_that_was_only_held_up_is_listed_again(self):
        self.rescue_after(6)
        beat("dead")
        self.assertEqual(sorted(Worker.objects.values_list("name", flat=True)), ["dead", "living"])
        # It goes on to be known by its beats.
        beat("dead")
        self.assertEqual(Worker.objects.get(name="dead").beats, 1)

    def test_the_work_of_one_that_lives_is_left_alone(self):
        Work.objects.update(worker="living")
        self.assertEqual(self.rescue_after(6), 0)
        self.assertEqual(Work.objects.get().status, "working")

    def test_a_clock_that_is_set_makes_nobody_dead_and_keeps_nobody_alive(self):
        for hours in (-5, 5):
            Work.objects.update(status="working", worker="living")
            Worker.objects.update(beat_at=timezone.now() + datetime.timedelta(hours=hours))
            self.assertEqual(self.rescue_after(1), 0)
        Work.objects.update(worker="dead")
        self.assertEqual(self.rescue_after(6), 1)

    def test_work_that_was_put_off_before_the_clock_was_set_back_is_done_now(self):
        Work.objects.update(status="waiting", worker="", due_at=timezone.now() + datetime.timedelta(hours=3))
        rescue(self.watch)
        self.assertLess(Work.objects.get().due_at, timezone.now() + datetime.timedelta(seconds=1))

    def test_a_worker_that_leaves_puts_back_what_it_has_in_hand_and_it_counts_as_no_failure(self):
        leave("dead")
        work = Work.objects.get()
        self.assertEqual((work.status, work.tries, work.worker), ("waiting", 0, ""))
        self.assertFalse(Worker.objects.filter(name="dead").exists())

    def test_work_somebody_stopped_while_its_worker_died_is_stopped(self):
        Work.objects.update(stop_asked=True)
        self.rescue_after(6)
        self.assertEqual(Work.objects.get().status, "stopped")

    def test_what_kills_its_workers_again_and_again_is_given_up_and_says_so(self):
        for _ in range(doing.MOST_TRIES):
            Work.objects.filter(status="waiting").update(status="working", worker="dead")
            Worker.objects.get_or_create(name="dead", defaults={"beat_at": timezone.now()})
            self.watch = Watch()
            self.rescue_after(6)
        self.assertEqual(Work.objects.get().status, "failed")
        self.assertContains(self.wall(), "The work was interrupted several times. Try once more.")
        self.post_class("start")
        self.work_off()
        self.assertTrue(self.fit.answered)


@override_settings(TASKS=IN_THE_DATABASE, IDLE_WORK=False)
class QueueTests(TransactionTestCase):
    """The queue in the database, with the worker's own loop."""

    def setUp(self):
        user = get_user_model().objects.create_user("mira")
        make_paper(user)
        self.card_class = make_class(user, LIST, participants=8)

    def run_worker(self, rounds: int = 40, **options) -> FitWorker:
        """A worker that looks so often, without its thread and its clock."""
        worker = FitWorker(interval=0.0, **options)
        doing.here.name = worker.worker_id
        Worker.objects.update_or_create(name=worker.worker_id, defaults={"beat_at": timezone.now()})
        for _ in range(rounds):
            task = worker._next()
            if task:
                worker.run_task(task)
        return worker

    def due(self) -> None:
        DBTaskResult.objects.filter(status=TaskResultStatus.READY).update(run_after=timezone.now())
        Work.objects.filter(status="waiting").update(due_at=timezone.now())

    def test_a_worker_takes_what_is_due(self):
        self.run_worker(3)
        self.assertIsNone(PaperFit.objects.get().shown)
        self.due()
        self.run_worker()
        self.assertTrue(PaperFit.objects.get().answered)

    def test_a_worker_for_short_work_leaves_long_work_to_others(self):
        self.due()
        self.run_worker()
        fit = PaperFit.objects.get()
        with transaction.atomic():
            doing.ask(fit, Work.Kind.POLISH)
        self.due()
        self.run_worker(short=True)
        self.assertEqual(Work.objects.get(kind="polish").status, "waiting")
        self.run_worker()
        self.assertEqual(Work.objects.get(kind="polish").status, "done")

    def test_long_work_gives_way_to_a_first_plan_that_nobody_takes(self):
        self.due()
        self.run_worker()
        fit = PaperFit.objects.get()
        with transaction.atomic():
            polish = doing.ask(fit, Work.Kind.POLISH)
        other = make_class(fit.class_paper.card_class.owner, "Mat 3 x 3 brass")
        DBTaskResult.objects.filter(status=TaskResultStatus.READY, priority=50).update(
            run_after=timezone.now() - datetime.timedelta(seconds=1)
        )
        with mock.patch.object(doing, "TELL_EVERY", 0.0):
            doing.run(polish.pk)
        polish.refresh_from_db()
        self.assertEqual((polish.status, polish.gave_way), ("waiting", 1))
        self.run_worker(5)
        self.assertTrue(PaperFit.objects.get(class_paper__card_class=other).answered)

    def test_ten_papers_of_one_person_do_not_keep_anothers_waiting(self):
        begun = []
        stranger = get_user_model().objects.create_user("odd")
        papers = [make_paper(stranger, f"Sheet {word}") for word in ("alpha", "beta", "gamma", "delta")]
        many = make_class(stranger, "\n".join(f"Mat 3 x 3 sheet {p.name.split()[1]}" for p in papers), participants=3)
        mine = make_class(get_user_model().objects.get(username="mira"), "Mat 2 x 2 brass", participants=3)
        Work.objects.exclude(fit__class_paper__card_class__in=(many, mine)).delete()

        def note(work, tell):
            begun.append(work.fit.class_paper.card_class.owner.username)

        self.due()
        with mock.patch.dict(doing.DOES, {Work.Kind.QUICK: note}):
            self.run_worker()
        self.assertEqual(begun, ["odd", "mira", "odd", "odd", "odd"])

    def test_the_worker_for_short_work_begins_no_proof_when_a_first_plan_is_due_in_a_moment(self):
        self.due()
        self.run_worker(1)
        doing.ask(PaperFit.objects.get(), Work.Kind.PROVE)
        self.due()
        stranger = get_user_model().objects.create_user("odd")
        make_paper(stranger)
        make_class(stranger, "Mat 2 x 2 brass", participants=3)
        self.run_worker(3, short=True)
        waiting = Work.objects.filter(status="waiting").order_by("kind")
        self.assertEqual(list(waiting.values_list("kind", flat=True)), ["prove", "quick"])
        self.due()
        self.run_worker(4, short=True)
        self.assertFalse(waiting.exists())

    def test_where_others_wait_a_first_plan_is_begun_when_somebody_has_stopped_typing(self):
        Work.objects.all().delete()
        # At three letters a second.
        letter = datetime.timedelta(seconds=1 / 3)

        def after_a_change_of(card_class, participants):
            CardClass.objects.filter(pk=card_class.pk).update(participants=participants)
            recount(card_class.pk)
            work = Work.objects.get(fit__class_paper__card_class=card_class, status="waiting")
            return work.due_at - work.asked_at

        mine = CardClass.objects.get(owner__username="mira")
        self.assertLess(after_a_change_of(mine, 11), letter)
        # Her own typing holds nothing up.
        self.assertLess(after_a_change_of(mine, 12), letter)
        stranger = get_user_model().objects.create_user("odd")
        make_paper(stranger)
        other = make_class(stranger, "Mat 2 x 2 brass", participants=3)
        self.assertGreater(after_a_change_of(other, 4), letter)
        self.assertGreater(after_a_change_of(mine, 13), letter)
        Work.objects.filter(fit__class_paper__card_class=other).delete()
        self.assertLess(after_a_change_of(mine, 14), letter)

    def test_a_question_that_gives_way_goes_on_where_it_was(self):
        self.due()
        self.run_worker()
        fit = PaperFit.objects.get()
        fitted = []

        def fit_once(paper, *args, **more):
            fitted.append(len(paper.pieces))
            return fit_paper(paper, *args, **more)

        with transaction.atomic():
            advice = doing.ask(fit, Work.Kind.ADVICE)
        with (
            mock.patch("zester.core.questions.fit_paper", fit_once),
            mock.patch("zester.core.choices.fit_paper", fit_once),
            mock.patch.object(doing, "TELL_EVERY", 0.0),
        ):
            for _ in range(300):
                # Somebody waits whenever one more step is done and the next is begun.
                steps = len(fitted)
                with mock.patch.object(doing, "somebody_waits", lambda _, steps=steps: len(fitted) > steps + 4):
                    doing.run(advice.pk)
                if Work.objects.get(pk=advice.pk).status == "done":
                    break
        advice.refresh_from_db()
        self.assertEqual(advice.status, "done")
        self.assertGreater(advice.gave_way, 3)
        # Every step at most twice: once broken off, once done.
        self.assertLessEqual(len(fitted), 2 * len(advice.found))

    def test_a_class_whose_counting_was_lost_is_counted_all_the_same(self):
        card = ClassCard.objects.get().card
        lost = mock.patch("zester.classes.tasks.count_awaited", side_effect=RuntimeError)
        with lost, transaction.atomic():
            save_list(card, "Mat 3 x 3 brass\nMat 2 x 2 brass", card.saves, "me")
        self.due()
        with lost, self.assertLogs("django_tasks"):
            self.run_worker()
        self.assertIsNone(CardClass.objects.get().counted_at)
        count_the_uncounted()
        self.assertEqual(CardClass.objects.get().n_lines, 2)
        self.due()
        self.run_worker()
        self.assertTrue(PaperFit.objects.get().answered)

    def test_a_worker_waits_while_the_database_cannot_be_used_and_then_goes_on(self):
        self.due()
        worker = FitWorker(interval=0.0)
        turns = iter([DatabaseError("disk is full"), None, None])

        def turn():
            trouble = next(turns, StopIteration)
            if trouble is StopIteration:
                worker.running = False
            elif trouble:
                raise trouble
            else:
                task = worker._next()
                if task:
                    worker.run_task(task)

        with (
            mock.patch.object(worker, "_turn", turn),
            mock.patch("zester.plans.worker.TROUBLE_PAUSE", 0),
            mock.patch("zester.plans.worker._keep_beating"),
            self.assertLogs("zester.plans.worker", "ERROR"),
        ):
            worker.run()
        self.assertTrue(PaperFit.objects.get().answered)

    def test_a_task_whose_worker_died_before_it_began_is_done_by_another(self):
        self.due()
        DBTaskResult.objects.first().claim("dead")
        self.run_worker(2)
        self.assertIsNone(PaperFit.objects.get().shown)
        rescue()
        self.run_worker()
        self.assertTrue(PaperFit.objects.get().answered)

    def test_work_that_was_lost_on_its_way_to_the_queue_is_put_there_again(self):
        DBTaskResult.objects.all().delete()
        Work.objects.update(due_at=timezone.now() - datetime.timedelta(seconds=9))
        rescue()
        self.run_worker()
        self.assertTrue(PaperFit.objects.get().answered)


class MemoryTests(SimpleTestCase):
    def test_what_needs_more_than_a_worker_may_take_fails_and_the_worker_does_not(self):
        """In a process of its own: a limit that is set stays."""
        program = (
            "from zester.plans.worker import limit_memory\n"
            "limit_memory(600)\n"
            "try:\n    bytearray(900_000_000)\n"
            "except MemoryError:\n    print('refused', len(bytearray(1_000_000)))\n"
        )
        program = f"import django\ndjango.setup()\n{program}"
        done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, timeout=60, check=True)
        self.assertEqual(done.stdout.strip(), "refused 1000000")


class GivesWayTests(SimpleTestCase):
    """Seen from a process of its own: what has given way does not come back."""

    def niceness(self, session: bool) -> list[str]:
        """Its own, and its session's where the system has such a thing, once it has given way."""
        program = (
            "import os, django\ndjango.setup()\nfrom zester.plans.worker import AUTOGROUP, give_way\n"
            "before = AUTOGROUP.read_text().split()[-1] if AUTOGROUP.exists() else '0'\ngive_way(7)\n"
            "print(os.nice(0), before, AUTOGROUP.read_text().split()[-1] if AUTOGROUP.exists() else 'none')"
        )
        done = subprocess.run(
            [sys.executable, "-c", program], capture_output=True, text=True, timeout=60, check=True,
            start_new_session=session,
        )  # fmt: skip
        return done.stdout.split()

    def test_a_worker_with_a_session_of_its_own_lowers_that_too(self):
        own, before, after = self.niceness(session=True)
        self.assertGreaterEqual(int(own), 7)
        self.assertIn((before, after), [("0", "7"), ("0", "none")])

    def test_one_started_by_hand_leaves_the_others_of_its_session_alone(self):
        own, before, after = self.niceness(session=False)
        self.assertGreaterEqual(int(own), 7)
        self.assertIn(after, (before, "none"))


class LibraryTests(SimpleTestCase):
    """The task library's inside that the worker leans on."""

    def test_what_is_leaned_on_is_there(self):
        for module, names in LEANED_ON.items():
            for name in names:
                found = import_module(module)
                for part in name.split("."):
                    self.assertTrue(hasattr(found, part), f"{module} has no {name}")
                    found = getattr(found, part)

    def test_the_worker_takes_what_it_is_given(self):
        given = set(signature(QueueWorker.__init__).parameters) - {"self"}
        self.assertEqual(given, WORKER_IS_GIVEN)

    def test_a_queue_gives_the_most_urgent_that_is_ready(self):
        for name in ("ready", "finished", "get_locked"):
            self.assertTrue(hasattr(DBTaskResult.objects.get_queryset(), name), name)
        fields = {field.name for field in DBTaskResult._meta.get_fields()}
        self.assertLessEqual({"run_after", "enqueued_at", "priority", "queue_name", "backend_name"}, fields)
