"""Classes follow what they are made of: a list, a design, a paper, a tool that changes counts them anew.

The class whose page waits is counted as soon as that asks for it, others in the background.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import partial

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from zester.classes.held import hold_design, hold_shelf
from zester.classes.kept_shelf import named
from zester.classes.models import CardClass, ClassCard, Trimmer
from zester.classes.services import await_count
from zester.classes.tasks import recount_task
from zester.core.cutlist.lines import Reading
from zester.core.pieces import Known
from zester.designs.models import Card
from zester.designs.services import Holdings, holdings_of, read_card
from zester.shelf.models import Paper
from zester.site.prepared import prepared


def later(keys: Iterable[int]) -> None:
    """Count classes anew in the background, once what changed them is stored.

    Until then they are uncounted: where the task is lost or fails, a worker finds them by that.
    """
    keys = sorted(set(keys))
    if not keys:
        return
    CardClass.objects.filter(pk__in=keys).update(counted_at=None, touched=[])
    for key in keys:
        transaction.on_commit(partial(recount_task.enqueue, key))


@dataclass
class OpenClass:
    """The class whose page waits for what follows a change."""

    pk: int
    """Its key."""
    held: Holdings
    """The papers and tools that its lists are read with."""
    waits: bool = False
    """Whether something has changed that counts: it is counted when its page asks for the sheets."""


@prepared
def _following(card: int) -> QuerySet:
    used = ClassCard.objects.filter(card=card, held={}, removed_at=None, card_class__removed_at=None)
    return used.values_list("pk", "card_class_id", "card_class__date")


def follow_card(sender: type, card: Card, open_in: OpenClass | None, before: str | None = None, **_) -> None:
    """A card has changed; where only its list has, classes follow if that means anything else than before.

    Those that keep their own state of it do not, nor do those whose day has passed: they keep it from now on.
    """
    today, keys = timezone.localdate(), set()
    for entry, key, date in _following(card.pk):
        if date and date < today:
            hold_design(ClassCard.objects.select_related("card").get(pk=entry), before)
        else:
            keys.add(key)
    if not keys:
        return
    papers = None
    if before is not None:
        held = open_in.held if open_in else holdings_of(card.owner)
        papers = changed_papers(read_card(card, held.known, before), read_card(card, held.known))
        if papers == set():
            return
    if open_in and open_in.pk in keys:
        await_count(open_in.pk, papers)
        open_in.waits = True
        keys.remove(open_in.pk)
    later(keys)


def changed_papers(before: Sequence[Reading], now: Sequence[Reading]) -> set[str] | None:
    """The papers of pieces that differ between two readings of a list; empty if all that counts is the same.

    None where it cannot be said for single papers: lines that could or can not be read, bits, versions.
    """
    old, new = ({reading.piece for reading in readings if reading.piece} for readings in (before, now))
    bits = [[reading.bit for reading in readings if reading.bit] for readings in (before, now)]
    wrong = [sum(reading.error is not None for reading in readings) for readings in (before, now)]
    if (old, bits[0], wrong[0]) == (new, bits[1], wrong[1]):
        return set()
    if bits[0] != bits[1] or any(wrong):
        return None
    return {piece.paper for piece in old ^ new}


def follow_paper(sender: type, paper: Paper, was_called: str | None = None, **_) -> None:
    """A paper has changed: it may be in any class that uses it, or that has a line which cannot be read.

    Classes whose day has passed go on calling it as it was called.
    """
    classes = CardClass.objects.of(paper.owner)
    if was_called and was_called != paper.name:
        before = holdings_of(paper.owner)
        papers = (named(each, {"papers": {paper.key: was_called}}) for each in before.papers)
        _past_keep(paper.owner, replace(before, papers=tuple(papers)))
    concerned = classes.filter(Q(papers__paper=paper) | Q(n_wrong__gt=0)).distinct()
    later(concerned.values_list("pk", flat=True))


def follow_tools(sender: type, owner: AbstractBaseUser, before: Known, **_) -> None:
    """A tool has changed, and with it what lists say that name it; not in classes whose day has passed."""
    _past_keep(owner, replace(holdings_of(owner), known=before))
    later(CardClass.objects.of(owner).values_list("pk", flat=True))


def _past_keep(owner: AbstractBaseUser, before: Holdings) -> None:
    """Classes whose day has passed keep the shelf as it was."""
    for card_class in CardClass.objects.of(owner).filter(date__lt=timezone.localdate(), kept_shelf={}):
        hold_shelf(card_class, before)


@transaction.atomic
def keep_trimmer(trimmer: Trimmer, fields: list[str] | None) -> None:
    """Store a trimmer, new or changed; the classes that are cut with it are counted anew."""
    trimmer.save(update_fields=fields)
    later(trimmer.classes.filter(removed_at=None).values_list("pk", flat=True))
