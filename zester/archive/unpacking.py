"""An archive brought into an account: read with suspicion, made in one go or not at all."""

from __future__ import annotations

import datetime
import json
import re
import zipfile
import zlib
from collections import Counter
from collections.abc import Iterator
from contextlib import ExitStack
from lzma import LZMAError
from typing import IO

from django import forms
from django.contrib.auth.models import AbstractBaseUser
from django.core.exceptions import ValidationError
from django.core.files.base import ContentFile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, models, transaction
from django.db.models import F, Q

from zester.archive.kit_keys import renamed
from zester.archive.rows import FORMAT, KINDS, Kind
from zester.archive.shapes import SHAPES, fits
from zester.bench.models import Run
from zester.classes.models import CardClass
from zester.core.cutting.record import read_steps, read_table
from zester.core.errors import ShapeError, ZesterError
from zester.core.fitting.jobs.check_plan import check_paper
from zester.designs.forms import PHOTO_SIDE
from zester.designs.models import Card, Tool
from zester.plans.kept import read_made
from zester.plans.models import PaperPlan
from zester.shelf.models import Bit, Entry, Paper
from zester.site.photos import small_photo

MOST_BYTES = 400_000_000
MOST_ROWS = 50_000
# What some two hundred and fifty classes hold; the worst text of this size takes 330 MB of memory.
MOST_TEXT, MOST_VALUES = 32_000_000, 1_500_000
LARGEST_PHOTO = 20_000_000
_DESIGNS = next(kind for kind in KINDS if kind.name == "designs")
_PHOTO = re.compile(r"photos/([0-9]{1,9})\.jpg")
_HALF_LETTER = re.compile(r"\\u[dD][89a-fA-F]")
_DAMAGED = (
    zipfile.BadZipFile,
    zlib.error,
    LZMAError,
    EOFError,
    KeyError,
    ValueError,
    RecursionError,
    NotImplementedError,
    RuntimeError,
    OSError,
)
_OTHER = ZesterError("This is no archive of Zester’s", mend="Take the ZIP file that “Save everything” makes")


class TwiceError(ZesterError):
    """What an archive holds is here already."""


@transaction.atomic
def unpack(user: AbstractBaseUser, sent: IO[bytes], again: bool = False) -> dict[str, int]:
    """Make everything in the archive the user's; how many of each kind were made.

    A paper that is on the shelf already, by its key, is taken as it is there. Designs that are here already, by when
    they were begun, are made a second time only if that is meant: ``again``.

    Raises
    ------
    TwiceError
        If designs of it are here already and it was not said that they are wanted again.
    ZesterError
        If it is no archive, was changed so that it does not hold together, or names a paper that is another here. Then
        nothing is made.
    """
    with ExitStack() as opened:
        content, photos = _opened(opened, sent)
        if not again:
            _ask_about_designs(user, _rows(content, _DESIGNS))
        made, counts = _make_all(user, content)
        for number, photo in photos:
            _keep_photo(made["designs"].get(number), photo)
    return counts


def _ask_about_designs(user: AbstractBaseUser, rows: list[dict]) -> None:
    began = Card.objects.filter(owner=user).values_list("created_at", flat=True)
    here = {each.isoformat() for each in began}
    number = sum(str(row.get("created_at")) in here for row in rows)
    if number:
        what = f"Of the {len(rows)} designs in it {number} are here already, so nothing was brought in yet"
        raise TwiceError(what, mend="To have them and their classes twice, say so below and choose the file again")


def _make_all(user: AbstractBaseUser, content: dict) -> tuple[dict, dict[str, int]]:
    made: dict[str, dict[int, models.Model]] = {}
    counts: Counter[str] = Counter()
    # What was there already, by kind: what goes with it is there already, too.
    there: set[tuple[str, int]] = set()
    for kind in KINDS:
        made[kind.name] = {}
        for row in _rows(content, kind):
            if kind.goes_with and (kind.refers_to[kind.goes_with], _number(row.get(kind.goes_with))) in there:
                continue
            thing, new = _make(kind, row, user, made)
            made[kind.name][row["id"]] = thing
            counts[kind.name] += new
            if not new:
                there.add((kind.name, row["id"]))
    if "ledger_of_papers" not in content:
        _as_it_was(user, [paper for number, paper in made["papers"].items() if ("papers", number) not in there])
    return made, dict(counts)


def _number(value: object) -> int | None:
    return value if isinstance(value, int) else None


def _as_it_was(user: AbstractBaseUser, papers: list[Paper]) -> None:
    """An archive from before there was a ledger: what was on hand is its first entry, and classes are counted anew."""
    for paper in papers:
        if paper.on_hand is not None:
            about = {"kind": "counted", "count": paper.on_hand, "about": "as it was before"}
            Entry.objects.create(owner=user, paper=paper, **about)
    CardClass.objects.filter(owner=user, n_people=0).update(n_people=F("participants"), counted_at=None)


def _opened(opened: ExitStack, sent: IO[bytes]) -> tuple[dict, Iterator[tuple[int, bytes]]]:
    """What it holds, and its photos, each read when it is asked for."""
    try:
        archive = opened.enter_context(zipfile.ZipFile(sent))
        if sum(entry.file_size for entry in archive.infolist()) > MOST_BYTES:
            raise ZesterError("The archive holds more than Zester takes in", mend="Up to 400 MB unpacked")
        content = _parsed(archive.getinfo("zester.json"), archive)
    except ZesterError:
        raise
    except _DAMAGED as error:
        raise _OTHER from error
    if not isinstance(content, dict) or content.get("format") != FORMAT:
        raise _OTHER
    return content, _photos(archive)


def _parsed(entry: zipfile.ZipInfo, archive: zipfile.ZipFile) -> object:
    """The JSON, measured before it is parsed: small text can stand for far more memory than its size."""
    if entry.file_size > MOST_TEXT:
        raise ZesterError("The archive holds more than Zester takes in", mend=f"Up to {MOST_TEXT // 10**6} MB of text")
    text = archive.read(entry).decode("utf-8")
    if sum(text.count(sign) for sign in (",", "[", "{")) > MOST_VALUES:
        raise ZesterError("The archive holds more than Zester takes in", mend=f"Up to {MOST_VALUES:,} values")
    content = json.loads(text)
    # Half a letter, which JSON can name, is none that can be stored or shown.
    if _HALF_LETTER.search(text):
        json.dumps(content, ensure_ascii=False).encode()
    return content


def _photos(archive: zipfile.ZipFile) -> Iterator[tuple[int, bytes]]:
    for entry in archive.infolist():
        named = _PHOTO.fullmatch(entry.filename)
        if named:
            try:
                yield int(named[1]), archive.read(entry) if entry.file_size <= LARGEST_PHOTO else b""
            except _DAMAGED:
                yield int(named[1]), b""


def _rows(content: dict, kind: Kind) -> list[dict]:
    rows = content.get(kind.name, [])
    if not isinstance(rows, list) or len(rows) > MOST_ROWS or not all(isinstance(row, dict) for row in rows):
        raise _broken(kind)
    if len({row.get("id") for row in rows if isinstance(row.get("id"), int)}) != len(rows):
        raise _broken(kind)
    return rows


def _broken(kind: Kind, why: str = "") -> ZesterError:
    about = f": {why}" if why else ""
    return ZesterError(f"The archive does not hold together ({kind.name.replace('_', ' ')}{about})", mend=_OTHER.mend)


def _make(kind: Kind, row: dict, user: AbstractBaseUser, made: dict) -> tuple[models.Model, bool]:
    """The thing of a row; whether it was made or was here."""
    values = {}
    for each in kind.fields:
        if each.name in row:
            values[each.name] = _value(kind, each, row[each.name])
    _name_kits(kind, values, made)
    for name, other in kind.refers_to.items():
        number = row.get(name)
        values[name] = made[other].get(number) if isinstance(number, int) else None
        if values[name] is None and not kind.model._meta.get_field(name).null:
            raise _broken(kind, name)
    here = _here(kind, values, user)
    if here:
        return here, False
    if any(each.name == "owner" for each in kind.model._meta.concrete_fields):
        values["owner"] = user
    thing = kind.model(**values)
    _check(kind, thing)
    _store(kind, thing)
    for name, other in kind.many.items():
        numbers = row.get(name)
        if not isinstance(numbers, list) or not all(isinstance(n, int) and n in made[other] for n in numbers):
            raise _broken(kind, name)
        getattr(thing, name).set([made[other][number] for number in numbers])
    return thing, True


def _name_kits(kind: Kind, values: dict, made: dict) -> None:
    """Keys of kits name the people and offers that were made here."""
    if not kind.keyed:
        return
    named = ("people", "offers")
    keys = {other: {number: thing.pk for number, thing in made[other].items()} for other in named}
    for name in kind.keyed:
        try:
            values[name] = renamed(values.get(name), **keys)
        except KeyError as error:
            raise _broken(kind, name) from error


def _here(kind: Kind, values: dict, user: AbstractBaseUser) -> models.Model | None:
    """The same paper or tool, if it is in the account already."""
    if kind.model is Paper:
        return Paper.objects.filter(owner=user, key=values.get("key", "")).first()
    if kind.model is Bit and not values.get("removed_at"):
        return Bit.objects.of(user).filter(name__iexact=str(values.get("name", ""))).first()
    if kind.model is not Tool or values.get("removed_at"):
        return None
    here = Tool.objects.of(user).filter(name__iexact=values.get("name", "")).first()
    same = ("kind", "shape", "sizes", "reach", "largest_width", "largest_height")
    if here and any(getattr(here, name) != values.get(name) for name in same):
        raise ZesterError(f"Another tool is called {here.name} here", mend="Give that one another name first")
    return here


def _value(kind: Kind, each: models.Field, value: object) -> object:
    if isinstance(each, models.JSONField):
        if not fits(value, SHAPES[kind.name][each.name]):
            raise _broken(kind, each.name)
        return value
    if isinstance(value, (list, dict)):
        raise _broken(kind, each.name)
    try:
        if isinstance(each, models.BooleanField) and not isinstance(value, bool):
            raise _broken(kind, each.name)
        cleaned = each.to_python(value)
    except (ValidationError, ValueError, TypeError, OverflowError) as error:
        raise _broken(kind, each.name) from error
    if isinstance(cleaned, datetime.datetime) and cleaned.tzinfo is None:
        raise _broken(kind, each.name)
    return cleaned


def _check(kind: Kind, thing: models.Model) -> None:
    try:
        thing.full_clean(
            validate_unique=False, validate_constraints=False, exclude=["owner", *kind.refers_to, *_may_be_empty(kind)]
        )
    except ValidationError as error:
        raise _broken(kind, next(iter(error.message_dict))) from error
    if isinstance(thing, Paper):
        _check_name(thing)
    if isinstance(thing, PaperPlan):
        _replay(kind, thing)
    if isinstance(thing, Run):
        _read_run(kind, thing)


def _may_be_empty(kind: Kind) -> list[str]:
    """Fields that Django asks for in a form but that a thing may lack."""
    return [each.name for each in kind.fields if isinstance(each, models.JSONField) or each.blank or each.null]


def _check_name(paper: Paper) -> None:
    """A paper of that name that is another one: what lists mean would no longer be clear."""
    named = Paper.objects.of(paper.owner).filter(Q(name__iexact=paper.name))
    if paper.removed_at is None and named.exists():
        raise ZesterError(
            f"Another paper is called {paper.name} here",
            mend="Give that one another name first, or take it off the shelf",
        )


def _replay(kind: Kind, plan: PaperPlan) -> None:
    """No plan is shown that was not replayed here."""
    try:
        kept = read_made(plan)
        check_paper(kept.paper, kept.plan, kept.job.bench)
    except (ZesterError, LookupError, ValueError, TypeError) as error:
        raise _broken(kind, "a plan that does not do what its job asks") from error


def _read_run(kind: Kind, run: Run) -> None:
    """Nobody is sent to the trimmer with steps that cannot be read."""
    try:
        read_steps(run.steps)
        read_table(run.before)
    except ShapeError as error:
        raise _broken(kind, error.what) from error


def _store(kind: Kind, thing: models.Model) -> None:
    """Store a thing with the times it had."""
    times = {
        each.name: getattr(thing, each.name)
        for each in kind.fields
        if isinstance(each, models.DateTimeField) and (each.auto_now or each.auto_now_add)
    }
    try:
        with transaction.atomic():
            thing.save()
            known = {name: value for name, value in times.items() if value is not None}
            if known:
                kind.model._base_manager.filter(pk=thing.pk).update(**known)
    except IntegrityError as error:
        raise _broken(kind, str(thing)) from error


def _keep_photo(card: Card | None, photo: bytes) -> None:
    """Written anew as every photo that is sent: smaller, upright, without what it tells of."""
    if card is None:
        return
    try:
        sent = forms.ImageField().clean(SimpleUploadedFile("photo.jpg", photo))
        small = small_photo(sent, PHOTO_SIDE)
    except ValidationError as error:
        what = f"The photo of “{card.name}” in the archive cannot be read"
        raise ZesterError(what, mend="Take it out of the ZIP file, then bring that in") from error
    card.photo.save("photo.jpg", ContentFile(small), save=False)
    card.save(update_fields=["photo"])
