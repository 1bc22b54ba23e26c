"""Booking what comes and goes. What is there is the sum of the entries, kept beside the paper so that no list adds.

Every change locks the paper (or bit) first, writes an entry, and changes the sum by as much.
"""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Iterator
from contextlib import contextmanager

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import Max, Sum
from django.utils import timezone

from zester.core.errors import ZesterError
from zester.core.stock.ledger import difference, signed
from zester.core.stock.offcut_lines import OffcutLine
from zester.shelf.models import Bit, Entry, Pad, Paper, Sheet
from zester.shelf.signals import CHANGED, paper_changed
from zester.site.dates import day

# After so long without a move an offcut has grown old.
OLD_DAYS = 180
BY_HAND, BY_STOCK_TAKE, BY_PLAN, BY_LIST, BY_FILE = "by hand", "stock-take", "by a plan", "buying list", "from a file"


def _locked(paper: Paper, sheet: Sheet | None) -> Paper | Sheet:
    """The paper or the size with what is there now; nobody else books it until the transaction ends."""
    Paper.objects.select_for_update(of=("self",)).get(pk=paper.pk)
    fresh = sheet or paper
    fresh.refresh_from_db(fields=["on_hand"])
    return fresh


@transaction.atomic
def book(paper: Paper, sheet: Sheet | None, kind: str, number: int, **about) -> Entry:
    """Book sheets of a paper in one size (None: its usual one): ``number`` as people say it, 3 spoiled are 3.

    What nobody counts begins to be counted with what is bought, left over or counted; what goes from it is not booked.
    ``about`` are further fields of the entry. Raises ZesterError for a number that makes no sense.
    """
    thing = _locked(paper, sheet)
    count = signed(kind, number)
    entry = Entry.objects.create(owner=paper.owner, paper=paper, sheet=sheet, kind=kind, count=count, **about)
    if thing.on_hand is None:
        # Whatever was booked before somebody stopped counting was taken out again then, so the sum is right.
        thing.on_hand = balance(paper, sheet)
    else:
        thing.on_hand += count
    thing.save(update_fields=["on_hand"])
    _tell(paper, sheet)
    return entry


@contextmanager
def stays_uncounted(paper: Paper, sheet: Sheet | None) -> Iterator[None]:
    """What nobody counts stays so, if what is booked meanwhile comes out even: as many came as went."""
    was_counted = _locked(paper, sheet).on_hand is not None
    yield
    thing = _locked(paper, sheet)
    if not was_counted and thing.on_hand == 0:
        thing.on_hand = None
        thing.save(update_fields=["on_hand"])


def _tell(paper: Paper, sheet: Sheet | None) -> None:
    """What lies there of whole sheets changes no plan; offcuts do."""
    if sheet is not None and sheet.is_offcut:
        paper_changed.send(Paper, paper=paper, kind=CHANGED)


def balance(paper: Paper, sheet: Sheet | None) -> int:
    """The sum of the entries."""
    return Entry.objects.of_sheet(paper, sheet).aggregate(sum=Sum("count"))["sum"] or 0


@transaction.atomic
def stock_take(paper: Paper, sheet: Sheet | None, counted: int, **about) -> Entry | None:
    """Book the difference between what is there and what was counted; None if there is none.

    Raises ZesterError for a number nobody counts.
    """
    thing = _locked(paper, sheet)
    more = difference(balance(paper, sheet), counted)
    if thing.on_hand is not None and not more:
        return None
    words = {"by": BY_STOCK_TAKE} | about
    entry = Entry.objects.create(owner=paper.owner, paper=paper, sheet=sheet, kind="counted", count=more, **words)
    thing.on_hand = counted
    thing.save(update_fields=["on_hand"])
    _tell(paper, sheet)
    return entry


@transaction.atomic
def stop_counting(paper: Paper, sheet: Sheet | None = None) -> None:
    """Buy as needed from now on: what was counted is taken out of the ledger, and nothing is said to be there."""
    thing = _locked(paper, sheet)
    if thing.on_hand is None:
        return
    there = balance(paper, sheet)
    if there:
        words = {"about": "not counted any more", "kind": "corrected", "count": -there}
        Entry.objects.create(owner=paper.owner, paper=paper, sheet=sheet, **words)
    thing.on_hand = None
    thing.save(update_fields=["on_hand"])


@transaction.atomic
def correct(entry: Entry) -> Entry:
    """Take an entry back by another; raises ZesterError if that was done already."""
    entry = Entry.objects.select_for_update(of=("self",)).get(pk=entry.pk)
    if entry.corrected_by.exists():
        raise ZesterError("This entry was taken back already", mend="Look at the entry above it")
    if entry.corrects_id:
        raise ZesterError("A correction is not taken back", mend="Book anew what is right")
    about = f"takes back “{entry.get_kind_display()}” of {day(timezone.localtime(entry.at), 'no year')}"
    if entry.bit_id:
        return book_bit(entry.bit, "corrected", -entry.count, about=about, corrects=entry)
    return book(entry.paper, entry.sheet, "corrected", -entry.count, about=about, corrects=entry)


@transaction.atomic
def put_offcuts(user: AbstractBaseUser, lines: Iterable[OffcutLine], kind: str = "found", **about) -> list[Sheet]:
    """Put offcuts on the shelf; those of a size and a place that are there already are added to.

    Papers are named by key.
    """
    lines = list(lines)
    papers = {paper.key: paper for paper in Paper.objects.of(user).filter(key__in={line.paper for line in lines})}
    found = []
    for line in lines:
        paper = papers[line.paper]
        Paper.objects.select_for_update(of=("self",)).get(pk=paper.pk)
        sides = {"width": line.width, "height": line.height, "up": line.up, "place": line.place}
        sheet, _ = Sheet.objects.get_or_create(
            paper=paper, is_offcut=True, removed_at=None, **sides, defaults={"unit": paper.unit, "on_hand": 0}
        )
        book(paper, sheet, kind, line.count, **about)
        found.append(sheet)
    return found


def offcuts_of(user: AbstractBaseUser) -> list[Sheet]:
    """The offcuts that are there, by paper, the largest first."""
    rows = Sheet.objects.filter(paper__owner=user, paper__removed_at=None, is_offcut=True, removed_at=None)
    return list(rows.exclude(on_hand=0).select_related("paper").order_by("paper__kind", "paper__name", "-width", "pk"))


def old_offcuts(user: AbstractBaseUser) -> int:
    """How many offcuts lie there to which nothing was added, and from which nothing taken, for ``OLD_DAYS`` days."""
    since = timezone.now() - datetime.timedelta(days=OLD_DAYS)
    rows = Sheet.objects.filter(paper__owner=user, paper__removed_at=None, is_offcut=True, removed_at=None)
    old = rows.annotate(last=Max("entries__at")).filter(last__lt=since)
    return sum(old.values_list("on_hand", flat=True))


def _held_bit(bit: Bit) -> Bit:
    return Bit.objects.select_for_update(of=("self",)).get(pk=bit.pk)


@transaction.atomic
def book_bit(bit: Bit, kind: str, number: int, **about) -> Entry:
    """Book a bit: pieces, or ticks of what goes by the length."""
    bit = _held_bit(bit)
    count = number if kind in ("counted", "corrected") else signed(kind, 1) * number
    entry = Entry.objects.create(owner=bit.owner, bit=bit, kind=kind, count=count, **about)
    bit.on_hand = (bit.on_hand or 0) + count
    bit.save(update_fields=["on_hand"])
    return entry


@transaction.atomic
def count_bit(bit: Bit, counted: int) -> Entry | None:
    """A stock-take of a bit."""
    if counted < 0:
        raise ZesterError("Less than nothing cannot be there", mend="Write 0 or more")
    bit = _held_bit(bit)
    more = counted - (bit.on_hand or 0)
    if bit.on_hand is not None and not more:
        return None
    return book_bit(bit, "counted", more, by=BY_STOCK_TAKE)


@transaction.atomic
def stop_counting_bit(bit: Bit) -> None:
    """Nobody counts a bit from now on: what was counted is taken out of the ledger."""
    bit = _held_bit(bit)
    if bit.on_hand:
        book_bit(bit, "corrected", -bit.on_hand, about="not counted any more")
    Bit.objects.filter(pk=bit.pk).update(on_hand=None)


@transaction.atomic
def buy_pad(pad: Pad, number: int, **about) -> None:
    """Book pads: so many of each of its papers. Raises ZesterError if one of them is on the shelf no more."""
    papers = {paper.key: paper for paper in Paper.objects.of(pad.owner).filter(key__in=pad.holds)}
    if set(papers) != set(pad.holds):
        raise ZesterError(f"{pad.name} holds a paper that is not on the shelf", mend="Look at what it holds first")
    for key, sheets in pad.holds.items():
        book(papers[key], None, "bought", sheets * number, **about)
