"""Something was spoiled, or is missing: a worker looks for another way, from where one stands.

ask --> Refit --worker--> a new run that goes on from there, or why there is none

Nobody's page waits for the fit: it says that one is being looked for, and goes on when it is there.
"""

from __future__ import annotations

import logging
from collections.abc import Sequence
from dataclasses import asdict, replace

from django.db import IntegrityError, transaction
from django.dispatch import Signal
from django.utils import timezone
from django_tasks import task

from zester.bench.missing import binned, missing_among
from zester.bench.models import LONGEST_REASON, Refit, Run
from zester.bench.runs import WITH_ALL, Cutting, cutting_of
from zester.core.cutting.mishap import Mended, Spoiled, Stand, go_on, lay_aside
from zester.core.cutting.record import steps_data, table_data
from zester.core.errors import JobError
from zester.plans.kept import habits_of, names_for
from zester.plans.models import PaperFit
from zester.supply.booking import cut

log = logging.getLogger(__name__)
# In the session: the key of what was asked last, so that its answer is told to who asked.
ASKED = "asked-refit"
MISSING = "missing when the bags were packed"
# Another way was found, within the transaction that stores it. ``refit``: a Refit with its new run.
refitted = Signal()
# Somebody stands at the trimmer: before first plans, after the counting of a class.
_QUEUE, _PRIORITY = "quick", 55
_MOVED_ON = "Somebody has gone on with this paper meanwhile"


def ask_mishap(fit: PaperFit, number: int, done: int, spoiled: Sequence[Spoiled], reason: str) -> Refit:
    """Something was spoiled at the bench: ask for another way from here.

    ``number`` and ``done`` say where the page stood on which it was said. Raises JobError if somebody has gone on
    meanwhile, or what was spoiled is not there.
    """
    cutting = cutting_of(fit)
    if cutting is None or fit.held != PaperFit.Held.CUTTING:
        raise JobError("This paper is not being cut", mend="Begin cutting it first")
    if (cutting.run.number, cutting.steps_done) != (number, done):
        raise JobError(_MOVED_ON, mend="Look at the step again, then say it")
    reason = " ".join(reason.split())
    if len(reason) > LONGEST_REASON:
        mend = "Shorten it; nothing is asked yet"
        raise JobError(f"What happened holds {LONGEST_REASON} letters, “{reason}” has {len(reason)}", mend=mend)
    return _ask(cutting, spoiled, reason)


def ask_again(fit: PaperFit, handle: str, count: int) -> Refit:
    """So many of a piece are missing: ask for steps that make them once more; a paper that was booked is cut again.

    What is left over on the table, or went back on the shelf, is used before a sheet is opened. Raises JobError if the
    piece is not cut yet, or there are not so many.
    """
    cutting = cutting_of(fit)
    if cutting is None:
        raise JobError(f"{fit.name} is not cut yet", mend="Cut it at the bench; then count the pile once more")
    return _ask(cutting, missing_among(cutting, _stand(cutting).table, handle, count), MISSING)


def _stand(cutting: Cutting) -> Stand:
    """Where one stands; of a paper that was booked without having been ticked off, all steps were done."""
    booked = cutting.fit.held == PaperFit.Held.CUT
    return replace(cutting.stand, done=len(cutting.steps)) if booked else cutting.stand


def _ask(cutting: Cutting, spoiled: Sequence[Spoiled], reason: str) -> Refit:
    lay_aside(_stand(cutting).table, spoiled)
    said = {"spoiled": [asdict(each) for each in spoiled], "reason": reason}
    try:
        # In one transaction: no question without a task.
        with transaction.atomic():
            refit = Refit.objects.create(run=cutting.run, done=cutting.run.done, held=cutting.fit.held, **said)
            refit_task.enqueue(refit.pk)
    except IntegrityError as error:
        mend = "Wait for its steps; then say what else went wrong"
        raise JobError("Another way is being looked for already", mend=mend) from error
    refit.refresh_from_db()
    return refit


def open_refit(fit: PaperFit) -> Refit | None:
    """What is being looked for, for a paper."""
    return Refit.objects.filter(run__fit=fit, run__plan=fit.shown_id, ended_at=None).first()


@task(queue_name=_QUEUE, priority=_PRIORITY)
def refit_task(pk: int) -> None:
    """Answer the question with this key; answered or taken back it is left as it is."""
    refit = Refit.objects.select_related("run").filter(pk=pk, ended_at=None).first()
    if refit is None:
        return
    try:
        _answer(refit)
    except JobError as error:
        _no_way(refit, error.text())
    except Exception:
        log.exception("looking for another way failed")
        _no_way(refit, "Another way was looked for, and something went wrong. Say it once more.")


def _no_way(refit: Refit, problem: str) -> None:
    Refit.objects.filter(pk=refit.pk, ended_at=None).update(problem=problem[:300], ended_at=timezone.now())


def _answer(refit: Refit) -> None:
    fit = PaperFit.objects.select_related(*WITH_ALL).get(pk=refit.run.fit_id)
    cutting = _as_it_was(refit, fit)
    stand = _stand(cutting)
    spoiled = [Spoiled(**each | {"size": each["size"] and tuple(each["size"])}) for each in refit.spoiled]
    gone = [*spoiled, *(binned(cutting) if fit.held == PaperFit.Held.CUT else ())]
    # The fit takes seconds: nobody is kept from writing meanwhile.
    mended = go_on(stand, gone, cutting.made.job.bench, habits_of(fit, names_for(fit)))
    with transaction.atomic():
        fit = PaperFit.objects.select_for_update(of=("self",)).select_related(*WITH_ALL).get(pk=fit.pk)
        cutting = _as_it_was(refit, fit)
        if not Refit.objects.select_for_update().filter(pk=refit.pk, ended_at=None).exists():
            return
        if fit.held == PaperFit.Held.CUT:
            cut(fit, False)
            Run.objects.filter(pk=cutting.run.pk).update(done=stand.done)
        refit.made, refit.ended_at = _new_run(refit, mended), timezone.now()
        refit.save(update_fields=["made", "ended_at"])
        refitted.send(sender=Refit, refit=refit)


def _as_it_was(refit: Refit, fit: PaperFit) -> Cutting:
    """The paper, if it still stands where the question was asked. Raises JobError."""
    now = cutting_of(fit)
    if now is None or (now.run.pk, now.run.done, fit.held) != (refit.run_id, refit.done, refit.held):
        raise JobError(_MOVED_ON, mend="Look at the step again, then say it once more")
    return now


def _new_run(refit: Refit, mended: Mended) -> Run:
    return Run.objects.create(
        fit_id=refit.run.fit_id,
        plan_id=refit.run.plan_id,
        number=refit.run.number + 1,
        steps=steps_data(mended.steps),
        places=mended.places,
        before=table_data(mended.table),
        taken=[list(each) for each in mended.taken],
        spoiled=refit.spoiled,
        reason=refit.reason,
        more=mended.more,
        short=[list(each) for each in mended.short],
    )


@transaction.atomic
def take_back(fit: PaperFit) -> None:
    """It was not so: the steps go on as before. Raises JobError if some of the new ones are done already."""
    waiting = open_refit(fit)
    if waiting:
        waiting.delete()
        return
    cutting = cutting_of(fit)
    if cutting is None or cutting.run.number == 1:
        raise JobError("Nothing was said to be spoiled")
    if cutting.run.done or cutting.run.ticks.exists():
        raise JobError("The new steps are begun already", mend="Go back to the first of them, or go on")
    cutting.run.delete()
