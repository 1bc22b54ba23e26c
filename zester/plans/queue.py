"""The door to the background task library: putting work in, and asking whether somebody waits."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from functools import partial

from django.db import transaction
from django.db.models import Max, Q
from django.utils import timezone
from django_tasks import task, task_backends
from django_tasks_db.backend import DatabaseBackend
from django_tasks_db.models import DBTaskResult, get_date_max

from zester.plans.models import Work

# How urgent each kind of work is (counting a class anew has 60), and the queue it goes through: a worker may be kept
# for what is short.
PRIORITIES = {
    Work.Kind.QUICK: 50,
    Work.Kind.PROVE: 20,
    Work.Kind.ADVICE: 10,
    Work.Kind.FRONT: 9,
    Work.Kind.SEATS: 8,
    Work.Kind.POLISH: -10,
    Work.Kind.HINTS: -20,
}
OWNER = "fit__class_paper__card_class__owner"
QUICK, PROVE, IDLE = "quick", "prove", "idle"
QUEUES = {Work.Kind.QUICK: QUICK, Work.Kind.PROVE: PROVE}
# Another worker that is free takes what is due at once; what nobody has taken after this waits for somebody.
PATIENCE = datetime.timedelta(seconds=0.2)


# What does the work with a key. Doing it may ask for more, so it stands above this door and says so here.
_DOERS: list[Callable[[int], None]] = []


def register(do: Callable[[int], None]) -> None:
    """Be called with the key of work whose turn it is."""
    _DOERS.append(do)


@task()
def work_task(pk: int) -> None:
    """Do the work with this key."""
    for do in _DOERS:
        do(pk)


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


def take_turn(pk: int, worker: str) -> int | None:
    """Begin the work with this key, or one of its kind whose owner has waited longer for a turn; its key.

    Each piece of work has put one task into the queue; which of them is done is settled here, one of everybody's after
    the other, so that ten papers of one person do not keep another's waiting. None if there is nothing left to do.
    """
    while True:
        chosen = _next_turn(pk)
        if chosen is None or _begin(chosen, worker):
            return chosen


def _next_turn(pk: int) -> int | None:
    kinds = Work.objects.filter(pk=pk).values("kind")
    due = Q(due_at__lte=timezone.now()) | Q(pk=pk)
    waiting = list(Work.objects.filter(due, status=Work.Status.WAITING, kind__in=kinds).values_list("pk", OWNER))
    owners = Work.objects.exclude(turn=None).filter(**{f"{OWNER}__in": {owner for _, owner in waiting}})
    turns = dict(owners.values_list(OWNER).annotate(Max("turn")))
    return min(waiting, key=lambda each: (turns.get(each[1], 0), each[0]), default=(None,))[0]


@transaction.atomic
def _begin(pk: int, worker: str) -> bool:
    """Whether it was still there to be begun: another worker may have been quicker."""
    last = Work.objects.aggregate(last=Max("turn"))["last"] or 0
    claim = {"status": Work.Status.WORKING, "worker": worker, "told_at": timezone.now(), "turn": last + 1}
    return bool(Work.objects.filter(pk=pk, status=Work.Status.WAITING).update(**claim))
