"""An archive brought into an account: made in small transactions, visible only when whole, or not at all."""

from __future__ import annotations

import datetime
import time
from collections import Counter
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from itertools import islice
from typing import IO
from uuid import uuid4

from django import forms
from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser
from django.core.exceptions import ValidationError
from django.core.files.base import ContentFile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, connection, models, transaction
from django.db.models import F

from zester.archive.kit_keys import renamed
from zester.archive.reading import broken, opened_in, rows_in
from zester.archive.rows import KINDS, Kind
from zester.archive.shapes import SHAPES, fits
from zester.bench.models import Run
from zester.classes.models import CardClass
from zester.core.cutting.record import read_steps, read_table
from zester.core.errors import ShapeError, ZesterError
from zester.core.fitting.jobs.check_plan import check_paper
from zester.designs.forms import PHOTO_SIDE
from zester.designs.models import Card, ColumnMap, OwnWord, Photo, Tool
from zester.plans.kept import read_made
from zester.plans.models import PaperPlan
from zester.shelf.models import Bit, Entry, Paper
from zester.site.photos import small_photo

_DESIGNS = next(kind for kind in KINDS if kind.name == "designs")
# So many rows are made in one transaction: some tenth of a second.
AT_ONCE, LONGEST_PAUSE = 20, 0.2


class TwiceError(ZesterError):
    """What an archive holds is here already."""


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
    making = Making(user, begin_hidden())
    try:
        making.go_on(sent, again)
        making.hand_over()
    except BaseException:
        throw_away(making.hidden)
        raise
    return dict(making.counts)


def begin_hidden() -> AbstractBaseUser:
    """Somebody whom nobody can be: whose things are seen by nobody until they are handed over."""
    return get_user_model().objects.create(username=f"(archive {uuid4().hex})", is_active=False, password="!")  # noqa: S106 — no password


def throw_away(hidden: AbstractBaseUser) -> None:
    """All that was made so far, piece by piece, the last first; nobody has seen it."""
    for kind in reversed(KINDS):
        while keys := list(kind.of(hidden).order_by("-pk").values_list("pk", flat=True)[:AT_ONCE]):
            with transaction.atomic():
                kind.model._base_manager.filter(pk__in=keys).delete()
            let_others_in()
    hidden.delete()


def let_others_in(held: float = 0.0) -> None:
    """After a transaction that held the database for so many seconds others get as long."""
    if not connection.in_atomic_block:
        time.sleep(min(LONGEST_PAUSE, held))


class Making:
    """Things of an archive being made for somebody, in small transactions, visible only when all are there.

    Until then they belong to ``hidden``. It can stop after every few and be gone on with from what ``state`` says.
    """

    def __init__(self, user: AbstractBaseUser, hidden: AbstractBaseUser, state: dict | None = None):
        state = state or {}
        self.user, self.hidden = user, hidden
        self.made: dict[str, dict[int, int]] = {
            kind.name: {int(number): pk for number, pk in state.get("made", {}).get(kind.name, {}).items()}
            for kind in KINDS
        }
        self.counts: Counter[str] = Counter(state.get("counts", {}))
        # What was there already, by kind: what goes with it is there already, too.
        self.there: set[tuple[str, int]] = {(name, number) for name, number in state.get("there", [])}
        # How many rows of all kinds are done, and how many photos.
        self.done, self.photos = state.get("done", 0), state.get("photos", 0)
        self.total, self.from_before_the_ledger = 0, False

    @property
    def state(self) -> dict:
        """All that has to be known to go on, as JSON takes it."""
        return {
            "made": self.made,
            "counts": self.counts,
            "there": sorted(self.there),
            "done": self.done,
            "photos": self.photos,
        }

    def go_on(
        self,
        sent: IO[bytes],
        again: bool = False,
        seconds: float = float("inf"),
        tell: Callable[[], None] = lambda: None,
    ) -> bool:
        """Go on for so long; whether all is made, so that it can be handed over. ``tell`` is called now and then."""
        with ExitStack() as opened:
            content, photos = opened_in(opened, sent)
            # Of a large archive reading takes a while, too.
            ends = time.monotonic() + seconds
            if not again and not self.done:
                self._ask_about_designs(rows_in(content, _DESIGNS))
            waiting = [(kind, row) for kind in KINDS for row in rows_in(content, kind)]
            self.total = len(waiting)
            while self.done < self.total:
                if time.monotonic() > ends:
                    return False
                self._make_some(waiting[self.done : self.done + AT_ONCE])
                tell()
            for kind_name, number, read in islice(photos, self.photos, None):
                if time.monotonic() > ends:
                    return False
                self._keep_photo(self.made[kind_name].get(number), kind_name, read())
        self.from_before_the_ledger = "ledger_of_papers" not in content
        return True

    def _ask_about_designs(self, rows: list[dict]) -> None:
        began = Card.objects.filter(owner=self.user).values_list("created_at", flat=True)
        here = {each.isoformat() for each in began}
        number = sum(str(row.get("created_at")) in here for row in rows)
        if number:
            what = f"Of the {len(rows)} designs in it {number} are here already, so nothing was brought in yet"
            raise TwiceError(what, mend="Say whether you want them and their classes twice")

    def _make_some(self, rows: Sequence[tuple[Kind, dict]]) -> None:
        began = time.monotonic()
        with transaction.atomic():
            for kind, row in rows:
                self._make_row(kind, row)
        self.done += len(rows)
        let_others_in(time.monotonic() - began)

    def _make_row(self, kind: Kind, row: dict) -> None:
        if kind.goes_with and (kind.refers_to[kind.goes_with], _number(row.get(kind.goes_with))) in self.there:
            return
        pk, new = self._make(kind, row)
        self.made[kind.name][row["id"]] = pk
        self.counts[kind.name] += new
        if not new:
            self.there.add((kind.name, row["id"]))

    def _make(self, kind: Kind, row: dict) -> tuple[int, bool]:
        """The key of the thing of a row; whether it was made or was here."""
        values = {}
        for each in kind.fields:
            if each.name in row:
                values[each.name] = _value(kind, each, row[each.name])
        self._name_kits(kind, values)
        for name, other in kind.refers_to.items():
            number = row.get(name)
            values[f"{name}_id"] = self.made[other].get(number) if isinstance(number, int) else None
            if values[f"{name}_id"] is None and not kind.model._meta.get_field(name).null:
                raise broken(kind, name)
        here = _here(kind, values, self.user) or _here(kind, values, self.hidden)
        if here:
            return here.pk, False
        if any(each.name == "owner" for each in kind.model._meta.concrete_fields):
            values["owner"] = self.hidden
        thing = kind.model(**values)
        _check(kind, thing, self.user)
        _store(kind, thing)
        for name, other in kind.many.items():
            numbers = row.get(name)
            if not isinstance(numbers, list) or not all(isinstance(n, int) and n in self.made[other] for n in numbers):
                raise broken(kind, name)
            getattr(thing, name).set([self.made[other][number] for number in numbers])
        return thing.pk, True

    def _name_kits(self, kind: Kind, values: dict) -> None:
        """Keys of kits name the people and offers that were made here."""
        keys = {other: self.made[other] for other in ("people", "offers")}
        for name in kind.keyed:
            try:
                values[name] = renamed(values.get(name), **keys)
            except KeyError as error:
                raise broken(kind, name) from error

    def _keep_photo(self, pk: int | None, kind_name: str, image: bytes) -> None:
        """Written anew as every photo that is sent: smaller, upright, without what it tells of.

        ``pk`` is of the photo, or, from when a design had one at most, of its design.
        """
        self.photos += 1
        photo = self._photo(pk, kind_name)
        if photo is None:
            return
        try:
            sent = forms.ImageField().clean(SimpleUploadedFile("photo.jpg", image))
            small = small_photo(sent, PHOTO_SIDE)
        except ValidationError as error:
            what = f"The photo of “{photo.card.name}” in the archive cannot be read"
            raise ZesterError(what, mend="Take it out of the ZIP file, then bring that in") from error
        photo.image.save("photo.jpg", ContentFile(small))

    def _photo(self, pk: int | None, kind_name: str) -> Photo | None:
        if kind_name == "photos":
            return Photo.objects.filter(pk=pk, owner=self.hidden).select_related("card").first()
        card = Card.objects.filter(pk=pk, owner=self.hidden).first()
        return Photo(owner=self.hidden, card=card) if card else None

    @transaction.atomic
    def hand_over(self) -> None:
        """All of it is the user's from now on. Raises ZesterError where it cannot be any more."""
        if self.from_before_the_ledger:
            self._as_it_was()
        # Photos whose files were not in it.
        Photo.objects.filter(owner=self.hidden, image="").delete()
        # What came onto the shelf here meanwhile may be called the same.
        for paper in Paper.objects.filter(owner=self.hidden):
            _check_name(paper, self.user)
        try:
            for kind in KINDS:
                if any(each.name == "owner" for each in kind.model._meta.concrete_fields):
                    kind.model._base_manager.filter(owner=self.hidden).update(owner=self.user)
        except IntegrityError as error:
            what = "Something of it was made here meanwhile, so nothing was brought in"
            raise ZesterError(what, mend="Bring it in once more") from error
        self.hidden.delete()

    def _as_it_was(self) -> None:
        """An archive from before there was a ledger: what was on hand is its first entry, classes are counted anew."""
        for number, pk in self.made["papers"].items():
            paper = Paper.objects.get(pk=pk)
            if ("papers", number) not in self.there and paper.on_hand is not None:
                about = {"kind": "counted", "count": paper.on_hand, "about": "as it was before"}
                Entry.objects.create(owner=self.hidden, paper=paper, **about)
        CardClass.objects.filter(owner=self.hidden, n_people=0).update(n_people=F("participants"), counted_at=None)


def _number(value: object) -> int | None:
    return value if isinstance(value, int) else None


def _here(kind: Kind, values: dict, user: AbstractBaseUser) -> models.Model | None:
    """The same paper or tool, if it is in the account already."""
    if kind.model is Paper:
        return Paper.objects.filter(owner=user, key=values.get("key", "")).first()
    if kind.model is Bit and not values.get("removed_at"):
        return Bit.objects.of(user).filter(name__iexact=str(values.get("name", ""))).first()
    if kind.model is OwnWord and values.get("is_used"):
        return OwnWord.objects.of(user).filter(word__iexact=values.get("word", ""), is_used=True).first()
    if kind.model is ColumnMap:
        return ColumnMap.objects.filter(owner=user, heads=values.get("heads", "")).first()
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
            raise broken(kind, each.name)
        return value
    if isinstance(value, (list, dict)):
        raise broken(kind, each.name)
    try:
        if isinstance(each, models.BooleanField) and not isinstance(value, bool):
            raise broken(kind, each.name)
        cleaned = each.to_python(value)
    except (ValidationError, ValueError, TypeError, OverflowError) as error:
        raise broken(kind, each.name) from error
    if isinstance(cleaned, datetime.datetime) and cleaned.tzinfo is None:
        raise broken(kind, each.name)
    return cleaned


def _check(kind: Kind, thing: models.Model, user: AbstractBaseUser) -> None:
    try:
        thing.full_clean(
            validate_unique=False, validate_constraints=False, exclude=["owner", *kind.refers_to, *_empty(kind, thing)]
        )
    except ValidationError as error:
        raise broken(kind, next(iter(error.message_dict))) from error
    if isinstance(thing, Paper):
        _check_name(thing, user)
    if isinstance(thing, PaperPlan):
        _replay(kind, thing)
    if isinstance(thing, Run):
        _read_run(kind, thing)


def _empty(kind: Kind, thing: models.Model) -> list[str]:
    """Fields that Django asks for in a form but that a thing may lack and does; shapes are read apart."""
    return [
        each.name
        for each in kind.fields
        if isinstance(each, models.JSONField)
        or ((each.blank or each.null) and getattr(thing, each.name) in each.empty_values)
    ]


def _check_name(paper: Paper, user: AbstractBaseUser) -> None:
    """A paper of that name that is another one: what lists mean would no longer be clear."""
    named = Paper.objects.filter(owner__in=(user, paper.owner), removed_at=None, name__iexact=paper.name)
    named = named.exclude(pk=paper.pk)
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
        raise broken(kind, "a plan that does not do what its job asks") from error


def _read_run(kind: Kind, run: Run) -> None:
    """Nobody is sent to the trimmer with steps that cannot be read."""
    try:
        read_steps(run.steps)
        read_table(run.before)
    except ShapeError as error:
        raise broken(kind, error.what) from error


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
        raise broken(kind, str(thing)) from error
