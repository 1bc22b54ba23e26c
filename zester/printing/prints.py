"""Files are made by workers, in turns between people: those to print once for what they are made from.

page as text --key--> there already: at once
                      not there: Print --worker--> file
everything of one's own ---------> Print --worker--> file
"""

from __future__ import annotations

import datetime
import hashlib
import logging
import secrets
import shutil
import tempfile
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import IO

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import Max
from django.utils import timezone
from django_tasks import task

from zester.core.errors import ZesterError
from zester.printing.models import FOLDER, Print
from zester.printing.pdf import NO_PANGO, pdf_of
from zester.site.turns import nobody_else

log = logging.getLogger(__name__)
# After first plans and proofs are asked for; before other plans, seats and polishing.
_QUEUE, _PRIORITY = "prove", 30
# So many at once, waiting or being made, of one person.
MOST_WAITING = 20
# A file nobody has looked at for so long is made anew when it is asked for.
KEPT = datetime.timedelta(days=7)
# What is not made after so long was lost, or nobody works; asked for again it is another.
LONGEST = datetime.timedelta(hours=1)
UNMADE = (Print.State.WAITING, Print.State.MAKING)

# Writes a file of a kind and returns what to know about it, mostly nothing. What is made of other apps' things is said
# here by them.
Maker = Callable[[Print, IO[bytes]], str]


def _page(made: Print, out: IO[bytes]) -> str:
    out.write(pdf_of(made.source.read_text(encoding="utf-8")))
    return ""


MAKERS: dict[str, Maker] = {Print.Kind.PDF: _page}


def asked(user: AbstractBaseUser, text: str, name: str, title: str) -> Print:
    """A file of a page, there already or asked for now. Raises ZesterError where very many are being made."""
    key = hashlib.sha256(text.encode()).hexdigest()
    found = Print.objects.filter(owner=user, key=key).first()
    if found and (found.ready or found.state in UNMADE):
        Print.objects.filter(pk=found.pk).update(used_at=timezone.now())
        return found
    waiting = Print.objects.filter(owner=user, state__in=UNMADE).count()
    if waiting >= MOST_WAITING:
        raise ZesterError(f"{waiting} files are being made for you", mend="Wait for one of them")
    made = Print(owner=user, key=key, name=name, title=title)
    made.folder.mkdir(parents=True, exist_ok=True)
    with _whole(made.source) as out:
        out.write(text.encode())
    fresh = {"name": name, "title": title, "state": Print.State.WAITING, "problem": "", "used_at": timezone.now()}
    # In one transaction: no file is waited for without a task.
    with transaction.atomic():
        made, _ = Print.objects.update_or_create(owner=user, key=key, defaults=fresh)
        print_task.enqueue(made.pk)
    made.refresh_from_db()
    return made


def asked_anew(user: AbstractBaseUser, kind: str, name: str, title: str) -> Print:
    """A file of how things are now, in place of the last of its kind; one that is not made yet serves."""
    mine = Print.objects.filter(owner=user, kind=kind)
    with transaction.atomic():
        unmade = mine.filter(state__in=UNMADE, asked_at__gt=timezone.now() - LONGEST).first()
        if unmade:
            return unmade
        mine.delete()
        made = Print.objects.create(owner=user, kind=kind, key=secrets.token_hex(16), name=name, title=title)
        made.folder.mkdir(parents=True, exist_ok=True)
        print_task.enqueue(made.pk)
    return made


@contextmanager
def _whole(path: Path) -> Iterator[IO[bytes]]:
    """To write all of a file or nothing: who is stopped in the middle leaves no half one."""
    # Its name says whose it is, so that tidying leaves it.
    with tempfile.NamedTemporaryFile(dir=path.parent, prefix=f"{path.stem}.", delete=False) as unfinished:
        there = Path(unfinished.name)
        try:
            yield unfinished
        except BaseException:
            there.unlink()
            raise
    there.replace(path)


@task(queue_name=_QUEUE, priority=_PRIORITY)
def print_task(pk: int) -> None:
    """Make the file with this key, or that of whoever has waited longest for a turn."""
    with ExitStack() as held:
        chosen = _next_turn(held)
        if chosen:
            _make(chosen)


def _make(chosen: Print) -> None:
    try:
        with _whole(chosen.file) as out:
            remark = MAKERS[chosen.kind](chosen, out)
    except OSError as error:
        log.warning("a file could not be made: %s", error)
        _end(chosen, Print.State.FAILED, NO_PANGO if "pango" in str(error).lower() else "Try it once more.")
    except MemoryError:
        log.warning("a file needs more memory than a worker may take")
        _end(chosen, Print.State.FAILED, "It is more than can be made in one file: ask for a part of it.")
    except Exception:
        log.exception("a file could not be made")
        _end(chosen, Print.State.FAILED, "Something went wrong. Try it once more.")
    else:
        _end(chosen, Print.State.DONE, remark)


def _end(made: Print, state: str, problem: str = "") -> None:
    Print.objects.filter(pk=made.pk).update(state=state, problem=problem[:300])
    for path in (made.source, made.lock):
        path.unlink(missing_ok=True)


@transaction.atomic
def _next_turn(held: ExitStack) -> Print | None:
    """One that is not made yet, of whose owner the last turn is longest ago; None if there is none.

    What is being made is locked until it is: one that a dead worker has left is not, and is made again, since its task
    was put back.
    """
    turns = dict(Print.objects.order_by().values_list("owner").annotate(Max("turn")))
    unmade = Print.objects.select_for_update().filter(state__in=UNMADE)
    for chosen in sorted(unmade, key=lambda each: (turns[each.owner_id], each.pk)):
        if not nobody_else(chosen.lock, held):
            continue
        chosen.state, chosen.began_at, chosen.turn = Print.State.MAKING, timezone.now(), max(turns.values()) + 1
        chosen.save(update_fields=["state", "began_at", "turn"])
        return chosen
    return None


def clear_away(instance: Print, **_) -> None:
    """Hears that a file is forgotten."""
    for path in (instance.file, instance.source, instance.lock):
        path.unlink(missing_ok=True)


def before(made: Print) -> int:
    """How many files are made before one that waits, at most."""
    return Print.objects.filter(state__in=UNMADE, pk__lt=made.pk).count()


def tidy(now: datetime.datetime | None = None) -> int:
    """Forget files that nobody uses, and whatever lies there that belongs to none; how many were forgotten."""
    old = Print.objects.filter(used_at__lt=(now or timezone.now()) - KEPT)
    number, _ = old.delete()
    known = {(str(owner), key) for owner, key in Print.objects.values_list("owner", "key")}
    for folder in Path(settings.MEDIA_ROOT, FOLDER).glob("*"):
        owners = {key for owner, key in known if owner == folder.name}
        if not owners:
            shutil.rmtree(folder, ignore_errors=True)
            continue
        for path in folder.iterdir():
            if path.stem not in owners:
                path.unlink(missing_ok=True)
    return number
