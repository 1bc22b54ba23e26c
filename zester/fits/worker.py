"""A worker: takes work off the queue, says that it lives, and takes over what a dead one has left.

It is the task library's own worker with three things more: it looks before it locks the database, so that many may
wait without getting in each other's way; a thread says every second that the worker lives; and work of one that has
not said so for a while is put back, so that somebody else does it.
"""

from __future__ import annotations

import datetime
import logging
import socket
import threading
import time
from functools import partial
from os import getpid

from django.db import OperationalError, close_old_connections, connection, transaction
from django.utils import timezone
from django_tasks import TaskResultStatus
from django_tasks_db.management.commands.db_worker import Worker as QueueWorker
from django_tasks_db.models import DBTaskResult
from django_tasks_db.utils import exclusive_transaction, is_locked_database_exception

from zester.core.fitting.engine import warm_up
from zester.fits import work as doing
from zester.fits.models import PaperFit, Work, Worker
from zester.fits.queue import IDLE, PROVE, QUICK, put

log = logging.getLogger(__name__)
BEAT = 1.0
# A worker that has not said for so long that it lives is dead.
DEAD = datetime.timedelta(seconds=5)
LOOK_AFTER = 1.0
# Ended work and its tasks are forgotten after so long.
KEPT = datetime.timedelta(days=2)
TIDY = 600.0


class FitWorker(QueueWorker):
    """A worker of fits. One for ``short`` work only takes first plans and proofs, so that these never wait long."""

    def __init__(self, *, short: bool = False, interval: float = 0.05):
        name = f"{socket.gethostname()}-{getpid()}-{int(time.time())}"[-64:]
        super().__init__(
            queue_names=[QUICK, PROVE] if short else [QUICK, PROVE, IDLE, "default"],
            interval=interval,
            batch=False,
            backend_name="default",
            startup_delay=False,
            max_tasks=None,
            worker_id=name,
            excluded_queue_names=[],
        )
        self._looked_after = self._tidied = 0.0

    def shutdown(self, signum: int, frame) -> None:
        """Stop: what is being done gives way at its next step and is put back."""
        doing.stopping.set()
        if not self.running:
            # Asked twice: at once.
            super().shutdown(signum, frame)
        # Not in the middle of a transaction: the loop ends at its next turn.
        self.running = False

    def run(self) -> None:
        """Work until stopped."""
        doing.here.name = self.worker_id
        _beat(self.worker_id)
        threading.Thread(target=_keep_beating, args=[self.worker_id], daemon=True).start()
        # Whatever this costs is paid before anybody waits.
        warm_up()
        try:
            while self.running:
                close_old_connections()
                task = self._next()
                if task is not None:
                    self.run_task(task)
                elif self.running:
                    time.sleep(self.interval)
                self._look_after(idle=task is None)
        finally:
            Worker.objects.filter(name=self.worker_id).delete()

    def _next(self) -> DBTaskResult | None:
        """The most urgent task that is due, now this worker's; None if there is none."""
        ready = DBTaskResult.objects.ready().filter(backend_name=self.backend_name, queue_name__in=self.queue_names)
        if not ready.exists():
            return None
        try:
            with exclusive_transaction(ready.db):
                task = ready.get_locked()
                if task is not None:
                    task.claim(self.worker_id)
                return task
        except OperationalError as error:
            if is_locked_database_exception(error):
                return None
            raise

    def _look_after(self, idle: bool) -> None:
        """Now and then: put back what dead workers have left; forget what ended long ago."""
        now = time.monotonic()
        if now - self._looked_after >= LOOK_AFTER:
            self._looked_after = now
            rescue(idle)
        if idle and now - self._tidied >= TIDY:
            self._tidied = now
            old = timezone.now() - KEPT
            Work.objects.filter(ended_at__lt=old).delete()
            DBTaskResult.objects.finished().filter(finished_at__lt=old).delete()


def _beat(name: str) -> None:
    Worker.objects.update_or_create(name=name, defaults={"beat_at": timezone.now()})


def _keep_beating(name: str) -> None:
    """Runs beside the work, in a thread with a connection of its own."""
    while not doing.stopping.wait(BEAT):
        try:
            Worker.objects.filter(name=name).update(beat_at=timezone.now())
        except OperationalError:
            # The database is busy; the next beat is soon enough.
            log.warning("a beat was missed")
    connection.close()


def rescue(idle: bool = True) -> int:
    """Put back the work of workers that are dead; the number of pieces. ``idle``: nothing due was on the queue.

    What has killed its worker several times is given up, and says so.
    """
    living = list(Worker.objects.filter(beat_at__gte=timezone.now() - DEAD).values_list("name", flat=True))
    lost = Work.objects.filter(status=Work.Status.WORKING).exclude(worker__in=[*living, ""])
    tasks = DBTaskResult.objects.filter(status=TaskResultStatus.RUNNING)
    dead_tasks = [task for task in tasks if not task.worker_ids or task.worker_ids[-1] not in living]
    overdue = Work.objects.filter(status=Work.Status.WAITING, due_at__lt=timezone.now() - DEAD)
    if not dead_tasks and not lost.exists() and not (idle and overdue.exists()):
        return 0
    with transaction.atomic():
        for task in dead_tasks:
            # A task of ours may be run again as it is; one for work finds that work put back.
            DBTaskResult.objects.filter(pk=task.pk, status=TaskResultStatus.RUNNING).update(
                status=TaskResultStatus.READY, started_at=None
            )
        found = list(lost.select_for_update())
        for work in found:
            _put_back(work)
        if idle:
            for work in overdue:
                work.due_at = timezone.now()
                work.save(update_fields=["due_at"])
                put(work)
        Worker.objects.exclude(name__in=living).delete()
    return len(found)


def _put_back(work: Work) -> None:
    work.tries += 1
    if work.tries >= doing.MOST_TRIES:
        work.status, work.ended_at = Work.Status.FAILED, timezone.now()
        work.problem = "The work was interrupted several times. Try once more."
        PaperFit.objects.filter(pk=work.fit_id, need=work.need).update(failed=work.problem, changed_at=timezone.now())
    else:
        work.status, work.worker, work.due_at = Work.Status.WAITING, "", timezone.now()
        transaction.on_commit(partial(put, work))
    work.save(update_fields=["status", "worker", "tries", "problem", "ended_at", "due_at"])
