"""The door to the background task library: putting work in, and asking whether somebody waits."""

from __future__ import annotations

import datetime
from functools import partial

from django.db import transaction
from django.db.models import Q
from django.utils import timezone
from django_tasks import task, task_backends
from django_tasks_db.backend import DatabaseBackend
from django_tasks_db.models import DBTaskResult, get_date_max

from zester.fits.models import Work

# How urgent each kind of work is (counting a class anew has 60), and the queue it goes through: a worker may be kept
# for what is short.
PRIORITIES = {
    Work.Kind.QUICK: 50,
    Work.Kind.PROVE: 20,
    Work.Kind.ADVICE: 10,
    Work.Kind.POLISH: -10,
    Work.Kind.HINTS: -20,
}
QUICK, PROVE, IDLE = "quick", "prove", "idle"
QUEUES = {Work.Kind.QUICK: QUICK, Work.Kind.PROVE: PROVE}
# Another worker that is free takes what is due at once; what nobody has taken after this waits for somebody.
PATIENCE = datetime.timedelta(seconds=0.2)


@task()
def work_task(pk: int) -> None:
    """Do the work with this key."""
    from zester.fits.work import run

    run(pk)


def put(work: Work) -> None:
    """Hand work to the workers, once it is stored, to be done when it is due."""
    transaction.on_commit(partial(_enqueue, work.pk, work.kind, work.due_at))


def _enqueue(pk: int, kind: str, due_at: datetime.datetime) -> None:
    options = {"queue_name": QUEUES.get(kind, IDLE), "priority": PRIORITIES[kind]}
    if task_backends["default"].supports_defer:
        options["run_after"] = due_at
    work_task.using(**options).enqueue(pk)


def somebody_waits(kind: str) -> bool:
    """Whether more urgent work is due and no other worker has taken it."""
    if not isinstance(task_backends["default"], DatabaseBackend):
        return False
    late = timezone.now() - PATIENCE
    due = Q(run_after__lte=late) | Q(run_after=get_date_max(), enqueued_at__lte=late)
    return DBTaskResult.objects.ready().filter(due, priority__gt=PRIORITIES[kind]).exists()
