"""Closing a class: what it came to is kept as it is on that day."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction

from django.db import transaction

from zester.bench.models import CutLog, HandLog
from zester.classes.closed import close
from zester.classes.models import CardClass
from zester.classes.services import CountedClass, count_class
from zester.core.errors import ZesterError
from zester.core.money.record import DesignKept, PaperKept, Record, read_record, write_record
from zester.core.money.shares import cents
from zester.designs.models import Card
from zester.designs.services import mind
from zester.money.costing import ClassMoney
from zester.money.models import ClassRecord

_SHARE = Decimal("0.0001")


def record_of(money: ClassMoney) -> Record:
    """What a class comes to now."""
    card_class = money.card_class
    logs = money.logs
    timed = list(HandLog.objects.filter(card_class=card_class, seconds__gt=0, usual_seconds__gt=0))
    return Record(
        people=card_class.n_people,
        kits=len(money.counted.packed.kits),
        handed=card_class.people.filter(state="handed").count(),
        pieces=card_class.n_pieces,
        planned_seconds=sum(log.planned_seconds for log in logs),
        seconds=sum(log.seconds for log in logs),
        hand_planned=sum(log.usual_seconds for log in timed),
        hand_seconds=sum(log.seconds for log in timed),
        spoiled=dict(_spoiled(logs)),
        more_sheets=money.more_sheets,
        mishaps_cost=money.mishaps,
        offcuts=sum(log.offcuts for log in logs),
        offcuts_used=sum(fit.shown.offcuts for fit in money.fits),
        brings=money.sum.brings,
        takes=money.sum.takes,
        owing=money.standings.sums.owing,
        papers=tuple(_paper(paper) for paper in money.papers),
        designs=tuple(_designs(money, logs)),
    )


def _spoiled(logs: list[CutLog]) -> Counter[str]:
    """By kind how often something was spoiled."""
    found: Counter[str] = Counter()
    for log in logs:
        for each in log.spoiled:
            found[str(each.get("kind", "piece"))] += int(each.get("count", 1))
    return found


def _paper(paper) -> PaperKept:
    _, _, waste = paper.shares
    shares = {"used": _share(paper.used), "kept": _share(paper.kept)}
    return PaperKept(name=paper.name, sheets=paper.sheets, cost=cents(paper.cost or 0), waste=waste, **shares)


def _share(share: Fraction) -> Decimal:
    return (Decimal(share.numerator) / Decimal(share.denominator)).quantize(_SHARE)


def _designs(money: ClassMoney, logs: list[CutLog]) -> list[DesignKept]:
    spoiled: Counter[str] = Counter()
    for log in logs:
        for each in log.spoiled:
            spoiled[str(each.get("label", "")).partition(" ")[0].rstrip("0123456789′")] += int(each.get("count", 1))
    made: Counter[str] = Counter()
    for demand in money.counted.demands:
        made[demand.card] += demand.count
    return [
        DesignKept(
            name=card.entry.card.name,
            made=made[card.entry.letter],
            cost=cents(sum((_each(money.each, card.entry.letter, piece) for piece in card.pieces), Fraction(0))),
            spoiled=spoiled[card.entry.letter],
        )
        for card in money.counted.designs
    ]


def _each(costs: Mapping[str, Fraction], letter: str, piece) -> Fraction:
    return costs.get(f"{letter}{piece.number}", Fraction(0)) * piece.count


def cards_beside(counted: CountedClass) -> int:
    """How many cards are made that go into nobody's kit: samples and spares."""
    return sum(bag.cards for bag in counted.packed.own)


def keep_record(card_class: CardClass) -> None:
    """Keep what a class came to, once it is closed."""
    about = {"title": card_class.title, "date": card_class.date, "closed_at": card_class.closed_at}
    about |= {"owner": card_class.owner, "kept": write_record(record_of(ClassMoney(card_class)))}
    ClassRecord.objects.update_or_create(card_class=card_class, defaults=about)


def kept_of(card_class: CardClass) -> Record | None:
    """What is kept of a closed class; None of one that is open."""
    row = ClassRecord.objects.filter(card_class=card_class).first() if card_class.closed_at else None
    return read_record(row.kept) if row else None


@transaction.atomic
def close_with(card_class: CardClass, lessons: Mapping[int, str], cards: Mapping[str, int] | None = None) -> None:
    """Close a class, with what to mind by design (its key), and what became of the cards beside the kits.

    Raises
    ------
    ZesterError
        If what is to be minded is longer than a design keeps, or there are not so many cards.
    """
    note(card_class, lessons)
    close(card_class)
    say_cards(card_class, cards or {})


@transaction.atomic
def say_cards(card_class: CardClass, cards: Mapping[str, int]) -> None:
    """Say of a closed class how many of the cards beside its kits are ``shown``, ``given`` away, kept (``kept_cards``).

    Raises
    ------
    ZesterError
        If there are not so many.
    """
    row = ClassRecord.objects.select_for_update(of=("self",)).filter(card_class=card_class).first()
    if row is None or not cards:
        return
    said, there = sum(cards.values()), cards_beside(count_class(card_class))
    if said > there:
        raise ZesterError(
            f"{said} cards are shown, given away or kept, and {there} were made beside the kits",
            mend=f"Write up to {there} in all",
        )
    row.kept = write_record(replace(read_record(row.kept), **cards))
    row.save(update_fields=["kept"])


@transaction.atomic
def note(card_class: CardClass, lessons: Mapping[int, str]) -> int:
    """Write what to mind into the designs of a class: how many have something. Raises what ``close_with`` raises."""
    mine = {entry.card_id for entry in card_class.class_cards.there()}
    said = {pk: " ".join(text.split()) for pk, text in lessons.items() if pk in mine and text.strip()}
    for pk, text in said.items():
        if not mind(pk, f"{text} ({card_class.title})"):
            what = f"What to mind at {Card.objects.get(pk=pk).name} is full"
            raise ZesterError(what, mend="Shorten it on the page of the design first")
    return len(said)
