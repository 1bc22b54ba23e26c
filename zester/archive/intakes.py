"""Archives are brought in by workers, a few seconds at a time, so that others have their turn between.

file --asked--> Intake --worker, again and again--> hidden things --all there--> the account's
                   asks <-- what is here already         fails --> thrown away
"""

from __future__ import annotations

import datetime
import logging
import shutil
import tempfile
from contextlib import ExitStack
from pathlib import Path
from typing import IO

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone
from django_tasks import task

from zester.archive.models import FOLDER, Intake
from zester.archive.unpacking import Making, TwiceError, begin_hidden, throw_away
from zester.classes.follow import later
from zester.classes.models import CardClass
from zester.core.errors import ZesterError
from zester.site.turns import nobody_else

log = logging.getLogger(__name__)
# After whatever somebody waits for at the list; whoever is at it gives the worker back after so many seconds.
_QUEUE, _PRIORITY, SECONDS = "prove", 25, 2.0
# An archive that is not there after so long never will be: whoever was to bring it in is gone.
LONGEST = datetime.timedelta(hours=2)
_WRONG = ZesterError("Something went wrong, so nothing was brought in", mend="Try it once more")


def asked(user: AbstractBaseUser, sent: IO[bytes]) -> Intake:
    """An archive to bring in. Raises ZesterError where one of the user's is on its way already."""
    mine = Intake.objects.filter(owner=user)
    if mine.filter(stage__in=Intake.OPEN, asked_at__gt=timezone.now() - LONGEST).exists():
        raise ZesterError("An archive is being brought in already", mend="Wait until it is there")
    folder = Path(settings.MEDIA_ROOT, FOLDER)
    folder.mkdir(parents=True, exist_ok=True)
    # Written before the database is held: it may be large.
    with tempfile.NamedTemporaryFile(dir=folder, delete=False) as kept:
        shutil.copyfileobj(sent, kept)
    with transaction.atomic():
        # One whose task was lost, and what is over.
        mine.delete()
        intake = Intake.objects.create(owner=user)
        Path(kept.name).replace(intake.file)
        intake_task.enqueue(intake.pk)
    return intake


def answer(intake: Intake, again: bool) -> None:
    """Somebody was asked whether they want things twice: bring it in all the same, or leave it."""
    with transaction.atomic():
        asks = Intake.objects.filter(pk=intake.pk, stage=Intake.Stage.ASKS)
        if again and asks.update(again=True, stage=Intake.Stage.WAITING):
            intake_task.enqueue(intake.pk)
        elif not again:
            asks.delete()


def clear_away(sender: type, instance: Intake, **_) -> None:
    """An archive was forgotten, or its account deleted: its file goes, and what was made of it so far."""
    for path in (instance.file, instance.lock):
        path.unlink(missing_ok=True)
    hidden = get_user_model().objects.filter(pk=instance.hidden_id).first()
    if hidden:
        throw_away(hidden)


@task(queue_name=_QUEUE, priority=_PRIORITY)
def intake_task(pk: int) -> None:
    """Go on with an archive for a while."""
    with ExitStack() as held:
        intake = _mine(pk, held)
        if intake is None or _go_on(intake):
            return
    # Whoever dies before this line is missed, and the task is put back.
    intake_task.enqueue(pk)


def _mine(pk: int, held: ExitStack) -> Intake | None:
    """The archive, if it is not done and nobody else is at it."""
    intake = Intake.objects.select_related("owner", "hidden").filter(pk=pk, stage__in=Intake.OPEN).first()
    return intake if intake and nobody_else(intake.lock, held) else None


def _go_on(intake: Intake) -> bool:
    """Go on for a while; whether that was all."""
    try:
        if intake.under_way or intake.hidden is None:
            _begin(intake)
        making = Making(intake.owner, intake.hidden, intake.state)
        _note(intake, stage=Intake.Stage.MAKING, under_way=True)
        with intake.file.open("rb") as sent:
            if not making.go_on(sent, intake.again, SECONDS, lambda: _tell(intake, making)):
                # Others have their turn; then it goes on from here.
                _note(intake, under_way=False, state=making.state)
                return False
        _arrived(intake, making)
    except TwiceError as question:
        _end(intake, Intake.Stage.ASKS, question)
    except ZesterError as problem:
        _end(intake, Intake.Stage.FAILED, problem)
    except Exception:
        log.exception("an archive could not be brought in")
        _end(intake, Intake.Stage.FAILED, _WRONG)
    return True


def _begin(intake: Intake) -> None:
    """From nothing: also where whoever was at it has died."""
    if intake.hidden:
        throw_away(intake.hidden)
    _note(intake, hidden=begin_hidden(), state={}, done=0)


def _tell(intake: Intake, making: Making) -> None:
    Intake.objects.filter(pk=intake.pk).update(done=making.done, total=making.total)


def _arrived(intake: Intake, making: Making) -> None:
    """In one transaction: whoever dies here has either brought it in or not."""
    facts = {"counts": dict(making.counts), "ended_at": timezone.now(), "state": {}, "under_way": False, "hidden": None}
    with transaction.atomic():
        making.hand_over()
        _note(intake, stage=Intake.Stage.DONE, **facts)
        later(CardClass.objects.of(intake.owner).values_list("pk", flat=True))
    intake.file.unlink(missing_ok=True)


def _end(intake: Intake, stage: str, why: ZesterError) -> None:
    """It is not brought in: what was made of it is thrown away."""
    if intake.hidden:
        throw_away(intake.hidden)
    _note(intake, stage=stage, problem=why.advice(), ended_at=timezone.now(), under_way=False, state={}, hidden=None)
    if stage == Intake.Stage.FAILED:
        intake.file.unlink(missing_ok=True)


def _note(intake: Intake, **facts) -> None:
    for name, value in facts.items():
        setattr(intake, name, value)
    intake.save(update_fields=list(facts))
