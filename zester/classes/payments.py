"""Payments of a class: written by amount and day, taken back, put back; how everybody stands follows."""

from __future__ import annotations

import datetime
from collections.abc import Iterable
from dataclasses import dataclass, replace
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from zester.classes.models import CardClass, Participant, Payment
from zester.classes.services import core_offer, hold_class, people_of
from zester.core.kits.demand import ClassNeeds
from zester.core.kits.offers import Offer, Person, is_late, usual_offer
from zester.core.money.accounts import ABROAD, INSIDE, PAID, Account, Sums, account_of, open_since, sums_of
from zester.core.money.accounts import Payment as Paid


@dataclass(frozen=True, kw_only=True)
class Standing:
    """How one person stands."""

    person: Person
    """The person."""
    account: Account
    """What is due and paid."""
    late: tuple[str, ...]
    """Offers that were closed when they ordered."""
    since: datetime.date | None
    """Since when something is open."""


@dataclass(frozen=True)
class Standings:
    """How everybody of a class stands."""

    by_person: dict[int, Standing]
    """By key."""

    @property
    def sums(self) -> Sums:
        """All of them added up."""
        return sums_of([each.account for each in self.by_person.values()])

    @property
    def known(self) -> bool:
        """Whether anything has a price or is paid: without that there is nothing to tell."""
        return any(each.account.due or each.account.payments for each in self.by_person.values())


def standings_of(card_class: CardClass, needs: ClassNeeds | None = None, *, as_booked: bool = False) -> Standings:
    """Everybody's account; ``as_booked``: what it would be if all of them were booked.

    ``needs``: what the class needs, where that is known: people and offers are not asked for again.
    """
    rows: dict[int, list[Paid]] = {}
    for row in Payment.objects.filter(participant__card_class=card_class, removed_at=None):
        rows.setdefault(row.participant_id, []).append(Paid(row.amount, row.on, row.kind))
    offers = {each.key: each for each in (needs.offers if needs else map(core_offer, card_class.offers.all()))}
    people = needs.people if needs else people_of(card_class)
    if as_booked:
        people = tuple(replace(who, state="booked") for who in people)
    found = {int(who.key): _standing(who, offers, rows.get(int(who.key), ()), card_class) for who in people}
    return Standings(found)


def _standing(who: Person, offers: dict[str, Offer], payments: Iterable[Paid], card_class: CardClass) -> Standing:
    usual = usual_offer(list(offers.values()))
    account = account_of(who, offers, usual, payments, post_of(card_class))
    ordered = [offers[key] for key, _ in who.orders if key in offers]
    late = tuple(offer.name for offer in ordered if _late(offer, who, card_class)) if who.counted else ()
    return Standing(person=who, account=account, late=late, since=open_since(account, who.ordered_on))


def _late(offer: Offer, who: Person, card_class: CardClass) -> bool:
    """Whether it was closed on that day: by its own last day, else by that of the class."""
    return is_late(replace(offer, closes_on=offer.closes_on or card_class.order_by), who)


def post_of(card_class: CardClass) -> dict[str, Decimal]:
    """By where a kit is sent what that costs more."""
    kept = {INSIDE: card_class.post_inside, ABROAD: card_class.post_abroad}
    return {where: amount for where, amount in kept.items() if amount}


@transaction.atomic
def pay(person: Participant, amount: Decimal, on: datetime.date, kind: str = PAID, words: str = "") -> Payment:
    """Write a payment; whoever has paid all of it is “paid” from now on."""
    hold_class(person.card_class_id)
    made = Payment.objects.create(participant=person, amount=amount, on=on, kind=kind, words=words)
    settle(person.card_class, [person.pk])
    return made


@transaction.atomic
def pay_rest(card_class: CardClass, people: Iterable[int], on: datetime.date | None = None) -> Decimal:
    """Write what each of them still owes as paid, as if they were booked; what that comes to."""
    total = Decimal(0)
    rows = Participant.objects.filter(card_class=card_class, pk__in=list(people)).in_bulk()
    # Who waits and has paid has paid all the same.
    for pk, standing in standings_of(card_class, as_booked=True).by_person.items():
        if pk in rows and standing.account.owing:
            Payment.objects.create(participant=rows[pk], amount=standing.account.owing, on=on or timezone.localdate())
            total += standing.account.owing
    return total


@transaction.atomic
def take_back(payment: Payment) -> None:
    """It was not paid; it can be put back."""
    _marked(payment, timezone.now())


@transaction.atomic
def put_back(payment: Payment) -> None:
    """It was paid after all."""
    _marked(payment, None)


def _marked(payment: Payment, at: datetime.datetime | None) -> None:
    card_class = payment.participant.card_class
    hold_class(card_class.pk)
    payment.removed_at = at
    payment.save(update_fields=["removed_at"])
    settle(card_class, [payment.participant_id])


def settle(card_class: CardClass, people: Iterable[int]) -> None:
    """Booked and all paid is “paid”; “paid” with something open is booked. What is packed or handed over stays."""
    standings = standings_of(card_class).by_person
    for pk in people:
        account = standings[pk].account
        if account.due and not account.owing:
            Participant.objects.filter(pk=pk, state="booked").update(state="paid")
        elif account.owing:
            Participant.objects.filter(pk=pk, state="paid").update(state="booked")
