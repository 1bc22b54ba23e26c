"""A worker: takes work off the queue, says that it lives, and takes over what a dead one has left.

It is the task library's own worker with four things more: it looks before it locks the database, so that many may
wait without getting in each other's way; a thread counts on every second as a sign that the worker lives; work of one
whose count has stood still for a while, by the clock that never jumps, is put back, so that somebody else does it; and
where the database cannot be used for a time, the worker waits until it can.
"""

from __future__ import annotations

import datetime
import logging
import os
import resource
import socket
import threading
import time
from contextlib import suppress
from functools import partial
from os import getpid
from pathlib import Path

from django.db import DatabaseError, OperationalError, close_old_connections, connection, transaction
from django.db.models import F, Q
from django.utils import timezone
from django_tasks import TaskResultStatus
from django_tasks_db.management.commands.db_worker import Worker as QueueWorker
from django_tasks_db.models import DBTaskResult
from django_tasks_db.utils import exclusive_transaction, is_locked_database_exception

from zester.classes.services import count_awaited, uncounted
from zester.core.fitting.engine import warm_up
from zester.plans import work as doing
from zester.plans.models import PaperFit, Work, Worker
from zester.plans.queue import IDLE, PROVE, QUICK, put
from zester.printing.prints import tidy
from zester.site.removed import purge

log = logging.getLogger(__name__)
BEAT = 1.0
# Seconds after which a worker that has not counted on is dead.
DEAD = 5.0
LOOK_AFTER = 1.0
# Nothing is put off for longer than this; what is due later was put off before the clock was set back.
AHEAD = datetime.timedelta(seconds=10)
# Work that is being stopped has so long to notice; then it is put back for another and the process ends.
TO_STOP = 1.5
TROUBLE_PAUSE = 2.0
# For so long the two clocks have to agree before anything is deleted because of its age.
STEADY = 3600.0
# Ended work and its tasks are forgotten after so long.
KEPT = datetime.timedelta(days=2)
TIDY = 600.0
# How often classes are looked for that no page has asked to be counted, or whose counting was lost.
COUNT_AFTER = 3.0
AUTOGROUP = Path("/proc/self/autogroup")


def limit_memory(megabytes: int) -> None:
    """Take no more than so much from now on: what would need more fails and says so, and harms nobody else."""
    if megabytes:
        _, most = resource.getrlimit(resource.RLIMIT_DATA)
        resource.setrlimit(resource.RLIMIT_DATA, (megabytes * 1_000_000, most))


def give_way(niceness: int) -> None:
    """Let others have the processor first.

    Linux shares it between sessions before it looks at the niceness of a process, where its automatic grouping is on:
    a session has a niceness of its own, which a worker that leads one sets, too.
    """
    os.nice(niceness)
    if os.getsid(0) == getpid():
        with suppress(OSError):
            AUTOGROUP.write_text(str(niceness))


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
        self._counted = time.monotonic()
        self._watch, self._clock = Watch(), SteadyClock()
        self._short = short

    def shutdown(self, signum: int, frame) -> None:
        """Stop: what is being done gives way at its next step and is put back."""
        doing.stopping.set()
        if not self.running:
            # Asked twice: at once.
            super().shutdown(signum, frame)
        # Not in the middle of a transaction: the loop ends at its next turn.
        self.running = False
        threading.Thread(target=_end_soon, args=[self.worker_id], daemon=True).start()

    def run(self) -> None:
        """Work until stopped."""
        doing.here.name = self.worker_id
        beat(self.worker_id)
        threading.Thread(target=_keep_beating, args=[self.worker_id], daemon=True).start()
        # Whatever this costs is paid before anybody waits.
        warm_up()
        while self.running:
            try:
                self._turn()
            except DatabaseError:
                # A full disk, a database that is being moved: everything stays as it is, and is gone on with later.
                log.exception("the database cannot be used; the worker waits")
                connection.close()
                time.sleep(TROUBLE_PAUSE)
        leave(self.worker_id)

    def _turn(self) -> None:
        close_old_connections()
        task = self._next()
        if task is not None:
            self.run_task(task)
        elif self.running:
            time.sleep(self.interval)
        self._look_after(idle=task is None)

    def _next(self) -> DBTaskResult | None:
        """The most urgent task that is due, now this worker's; None if there is none."""
        ready = DBTaskResult.objects.ready().filter(backend_name=self.backend_name, queue_name__in=self.queue_names)
        if not ready.exists():
            return None
        if self._short and doing.first_plans_wait():
            # One is due in a moment: nothing is begun that would be in its way, however many proofs wait.
            ready = ready.filter(queue_name=QUICK)
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
            rescue(self._watch, me=self.worker_id, idle=idle)
        if idle and now - self._counted >= COUNT_AFTER:
            self._counted = now
            count_the_uncounted()
        if idle and now - self._tidied >= TIDY:
            self._tidied = now
            old = timezone.now() - KEPT
            Work.objects.filter(ended_at__lt=old).delete()
            DBTaskResult.objects.finished().filter(finished_at__lt=old).delete()
            if self._clock.steady():
                purge()
                tidy()


def count_the_uncounted() -> None:
    """Count classes whose task was lost or has failed; one that fails again waits for the next time."""
    for key in uncounted():
        try:
            count_awaited(key)
        except DatabaseError:
            raise
        except Exception:
            log.exception("class %s could not be counted", key)


class SteadyClock:
    """Whether the clock on the wall has gone like the one that never jumps, for an hour at least."""

    def __init__(self):
        self._wall, self._ticks = time.time(), time.monotonic()

    def steady(self) -> bool:
        """A clock that was set begins its hour anew."""
        wall, ticks = time.time(), time.monotonic()
        if abs((wall - self._wall) - (ticks - self._ticks)) > 60:
            self._wall, self._ticks = wall, ticks
        return ticks - self._ticks >= STEADY


class Watch:
    """Tells which workers live, from when each was last seen to count on."""

    def __init__(self):
        self._seen: dict[str, tuple[int, float]] = {}

    def living(self) -> set[str]:
        """Their names; one that is seen for the first time has a while to prove it."""
        now, beats = time.monotonic(), dict(Worker.objects.values_list("name", "beats"))
        before = self._seen
        self._seen = {
            name: before[name] if name in before and before[name][0] == beat else (beat, now)
            for name, beat in beats.items()
        }
        return {name for name, (_, at) in self._seen.items() if now - at < DEAD}


def beat(name: str) -> None:
    """Say that a worker lives; one that was held up, and that others took for dead, is listed again."""
    now = timezone.now()
    if not Worker.objects.filter(name=name).update(beat_at=now, beats=F("beats") + 1):
        Worker.objects.update_or_create(name=name, defaults={"beat_at": now})


def leave(name: str) -> None:
    """A worker ends: what it has in hand is put back for others, and it lives no more."""
    rescue(None, me=name, idle=False)
    Worker.objects.filter(name=name).delete()


def _end_soon(name: str) -> None:
    """Runs beside work that does not notice that it should stop: computation in a library cannot be interrupted."""
    time.sleep(TO_STOP)
    try:
        leave(name)
    finally:
        os._exit(0)


def _keep_beating(name: str) -> None:
    """Runs beside the work, in a thread with a connection of its own."""
    while not doing.stopping.wait(BEAT):
        try:
            beat(name)
        except DatabaseError:
            # The database is busy; the next beat is soon enough.
            log.warning("a beat was missed")
            connection.close()
    connection.close()


def rescue(watch: Watch | None = None, me: str = "", idle: bool = True) -> int:
    """Put back the work of workers that are dead, and of ``me`` that has none in hand; the number of pieces.

    ``idle``: nothing due was on the queue. Without a watch only my own. What has killed its worker several times is
    given up, and says so.
    """
    living = watch.living() if watch else set(Worker.objects.values_list("name", flat=True))
    living.discard(me)
    lost = Work.objects.filter(status=Work.Status.WORKING).exclude(worker__in=[*living, ""])
    tasks = DBTaskResult.objects.filter(status=TaskResultStatus.RUNNING)
    dead_tasks = [task for task in tasks if not task.worker_ids or task.worker_ids[-1] not in living]
    now = timezone.now()
    late = Q(due_at__lt=now - datetime.timedelta(seconds=DEAD)) | Q(due_at__gt=now + AHEAD)
    overdue = Work.objects.filter(late, status=Work.Status.WAITING)
    if not dead_tasks and not lost.exists() and not (idle and overdue.exists()):
        return 0
    with transaction.atomic():
        for task in dead_tasks:
            # A task of ours may be run again as it is; one for work finds that work put back.
            DBTaskResult.objects.filter(pk=task.pk, status=TaskResultStatus.RUNNING).update(
                status=TaskResultStatus.READY, started_at=None
            )
        found = list(lost.select_for_update(of=("self",)))
        for work in found:
            _put_back(work, interrupted=work.worker != me)
        if idle:
            for work in overdue:
                work.due_at = timezone.now()
                work.save(update_fields=["due_at"])
                put(work)
        Worker.objects.exclude(name__in=[*living, me]).delete()
    return len(found)


def _put_back(work: Work, *, interrupted: bool) -> None:
    work.tries += interrupted
    if work.stop_asked:
        work.status, work.ended_at = Work.Status.STOPPED, timezone.now()
    elif work.tries >= doing.MOST_TRIES:
        work.status, work.ended_at = Work.Status.FAILED, timezone.now()
        work.problem = "The work was interrupted several times. Try once more."
        PaperFit.objects.filter(pk=work.fit_id, need=work.need).update(failed=work.problem, changed_at=timezone.now())
    else:
        work.status, work.worker, work.due_at = Work.Status.WAITING, "", timezone.now()
        transaction.on_commit(partial(put, work))
    work.save(update_fields=["status", "worker", "tries", "problem", "ended_at", "due_at"])
