"""What several classes do for each other: planned together, or cut one after the other. Asked in the background."""

from __future__ import annotations

import logging
from collections.abc import Callable, Sequence
from functools import partial

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone
from django_tasks import task

from zester.classes.models import CardClass
from zester.core.errors import JobError, PlanError
from zester.core.fitting.jobs.leftovers import left_over
from zester.core.fitting.sequence import best_order
from zester.core.lengths import show_size
from zester.core.tally import TOGETHER
from zester.plans.kept import read_made
from zester.plans.models import PaperFit
from zester.site.dates import day
from zester.supply.models import Joint

log = logging.getLogger(__name__)
# The queue of what nobody waits for at a keyboard.
_QUEUE = "idle"
_TOLD = 3


def shared_fits(classes: Sequence[CardClass]) -> dict[int, list[PaperFit]]:
    """By paper the fits of classes that share it, with a plan that is not cut yet."""
    fits = PaperFit.objects.filter(class_paper__card_class__in=classes, shown__isnull=False).exclude(need="")
    found: dict[int, list[PaperFit]] = {}
    rows = fits.select_related("class_paper__paper", "class_paper__card_class", "shown").order_by("pk")
    for fit in rows:
        if fit.answered and fit.held != PaperFit.Held.CUT:
            found.setdefault(fit.class_paper.paper_id, []).append(fit)
    return {paper: mine for paper, mine in found.items() if len(mine) > 1}


def joint_of(user: AbstractBaseUser, classes: Sequence[CardClass]) -> tuple[Joint | None, bool]:
    """The last question about these classes, and whether their plans are still those it was asked about."""
    keys = sorted(each.pk for each in classes)
    last = Joint.objects.filter(owner=user, classes=keys).first()
    return last, bool(last) and last.made_of == _plans(classes)


def _plans(classes: Sequence[CardClass]) -> list[int]:
    return sorted(fit.shown_id for fits in shared_fits(classes).values() for fit in fits)


@transaction.atomic
def ask_joint(user: AbstractBaseUser, classes: Sequence[CardClass]) -> Joint:
    """Ask what they do for each other; what is asked already is left as it is."""
    last, current = joint_of(user, classes)
    if last and current and not last.problem:
        return last
    Joint.objects.filter(owner=user, classes=sorted(each.pk for each in classes)).delete()
    made = Joint.objects.create(owner=user, classes=sorted(each.pk for each in classes), made_of=_plans(classes))
    transaction.on_commit(partial(joint_task.using(queue_name=_QUEUE).enqueue, made.pk))
    return made


@task()
def joint_task(pk: int) -> None:
    """Answer the question with this key."""
    joint = Joint.objects.filter(pk=pk, ended_at=None).first()
    if joint is None:
        return
    classes = list(CardClass.objects.filter(pk__in=joint.classes, owner=joint.owner, removed_at=None))
    end: dict = {"ended_at": timezone.now()}
    try:
        answers = (_order(mine, partial(_tell, pk)) for mine in shared_fits(classes).values())
        end["found"] = [answer for answer in answers if answer]
    except (JobError, PlanError) as error:
        end["problem"] = str(error)[:200]
    except Exception:
        log.exception("a question about several classes failed")
        end["problem"] = "Something went wrong. Ask once more."
    Joint.objects.filter(pk=pk).update(**end | {"ended_at": timezone.now()})


def _day(fit: PaperFit) -> str:
    date = fit.class_paper.card_class.date
    return f" ({day(date, 'no year')})" if date else f" (no. {fit.class_paper.card_class_id})"


def _tell(pk: int, words: str) -> None:
    Joint.objects.filter(pk=pk).update(words=words[:120])


def _order(fits: Sequence[PaperFit], tell: Callable[[str], None]) -> dict | None:
    """What one paper's jobs do for each other; None if fewer than two of them come from common sheets."""
    paper = fits[0].paper.name
    # Two classes may have the same title, as a club has.
    made = {f"{fit.class_paper.card_class.title}{_day(fit)}": read_made(fit.shown) for fit in fits}
    made = {title: each for title, each in made.items() if each.paper.pool == TOGETHER}
    if len(made) < 2:
        return None
    found = best_order(
        [(title, each.paper, each.job.bench) for title, each in made.items()], lambda words: tell(f"{paper}: {words}")
    )
    first = made[found.first]
    rows = left_over(first.paper, first.plan, first.job.bench.keep_rule)[:_TOLD] if found.saved else []
    return {
        "paper": paper,
        "apart": found.apart,
        "together": found.together,
        "cheaper": str(found.cost_apart - found.cost_together),
        "order": list(found.order) if found.saved else [],
        "saved": found.saved,
        "leaves": [f"{each.count} of {show_size(each.width, each.height, first.job.unit)}" for each in rows],
    }
