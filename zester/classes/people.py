"""The people of a class: adding them as lines, changing one, their orders, substitutions. The class follows."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from typing import Any

from django.db import models, transaction
from django.utils import timezone

from zester.classes.closed import close_if_handed_over
from zester.classes.held import hold_designs
from zester.classes.kept_shelf import papers_as_kept
from zester.classes.models import CardClass, Offer, Order, Participant, Payment, Substitution
from zester.classes.payments import pay_rest, settle
from zester.classes.services import core_offer, hold_class, recount
from zester.core.errors import ZesterError
from zester.core.kits.offers import COUNTED, MOST_KITS, MOST_PEOPLE, usual_offer
from zester.core.kits.order_lines import OrderLine, Sayable
from zester.core.kits.order_money import PaidPart
from zester.core.money.accounts import OFF
from zester.shelf.models import Paper
from zester.shelf.services import papers_of


def sayable_of(card_class: CardClass) -> Sayable:
    """What lines about people of a class may name."""
    offers = list(card_class.offers.all())
    keys = {key for offer in offers for key in offer.among if not offer.choose_at_home}
    papers = {key: name for key, name in paper_names(card_class).items() if key in keys} if keys else {}
    return Sayable(offers=[core_offer(offer) for offer in offers], papers=papers)


def papers_for(card_class: CardClass) -> list[Paper]:
    """The papers on its owner's shelf, called as the class calls them."""
    return papers_as_kept(papers_of(card_class.owner), card_class.kept_shelf, card_class.owner_id)


def paper_names(card_class: CardClass) -> dict[str, str]:
    """What the class calls papers, by key."""
    return {paper.key: paper.name for paper in papers_for(card_class)}


def as_line(person: Participant) -> OrderLine:
    """Somebody as they would be written; their orders are read with them."""
    return OrderLine(
        name=person.name,
        orders=tuple((str(order.offer_id), order.count) for order in person.orders.all()) or sets_of(person.sets),
        state=person.state,
        contact=person.contact,
        address=person.address,
        note=person.note,
        chosen=tuple(person.chosen),
        ordered_on=person.ordered_on,
        amount=person.amount,
        goods=person.goods,
        own=person.own_share,
        payments=tuple(
            PaidPart(each.amount, each.on, each.kind)
            for each in person.payments.all()
            if each.removed_at is None and each.kind != OFF
        ),
        member=person.member,
        sent=person.sent,
    )


def sets_of(sets: int) -> tuple[tuple[str, int], ...]:
    """So many of everything as an order; one is what is usual."""
    return (("", sets),) if sets > 1 else ()


# What other apps do for people who are added: they say it.
_ADDED_TOO: list[Callable[[CardClass, Sequence[Participant]], list[str]]] = []


def register_added(told: Callable[[CardClass, Sequence[Participant]], list[str]]) -> None:
    """Be told of people who are added to a class, and say in words what follows."""
    _ADDED_TOO.append(told)


@transaction.atomic
def add_people(card_class: CardClass, lines: Sequence[OrderLine]) -> dict[str, Any]:
    """Put people into a class: how many were added, how many of them wait, how many took a place without a name.

    Beyond the seats there are people wait. Those who come take the places of people without a name, so that a class
    of fourteen stays one of fourteen while its list is written.

    Raises
    ------
    ZesterError
        If the class would have more people than Zester keeps lists of.
    """
    card_class = hold_class(card_class.pk)
    there = card_class.people.count()
    if there + len(lines) > MOST_PEOPLE:
        mend = f"{there} are there; make a second class of the rest"
        raise ZesterError(f"A class keeps a list of {MOST_PEOPLE} people at most", mend=mend)
    taken = card_class.people.filter(state__in=COUNTED).count()
    free = None if card_class.capacity is None else max(0, card_class.capacity - taken)
    waiting = seated = 0
    people = []
    for line in lines:
        state = line.state
        if state in COUNTED:
            if free is not None and seated >= free:
                state, waiting = "waiting", waiting + 1
            else:
                seated += 1
        people.append(_person(card_class, line, state))
    Participant.objects.bulk_create(people)
    orders = _bulk_orders(card_class, people, lines)
    named = min(card_class.participants, seated)
    card_class.participants -= named
    card_class.save(update_fields=["participants"])
    _fewer_unnamed(card_class, orders)
    _bulk_payments(card_class, people, lines)
    recount(card_class.pk)
    said = [*_all_sold(card_class), *(words for told in _ADDED_TOO for words in told(card_class, people))]
    return {"added": len(people), "waiting": waiting, "named": named, "said": said}


def _person(card_class: CardClass, line: OrderLine, state: str) -> Participant:
    return Participant(
        card_class=card_class,
        name=line.name,
        contact=line.contact,
        address=line.address,
        state=state,
        note=line.note,
        chosen=list(line.chosen),
        # Of an offer they are an order.
        sets=min(MOST_KITS, sum(count for key, count in line.orders if not key) or 1),
        ordered_on=line.ordered_on or timezone.localdate(),
        amount=line.amount,
        goods=line.goods,
        own_share=line.own,
        member=line.member,
        sent=line.sent,
    )


def _bulk_payments(card_class: CardClass, people: Sequence[Participant], lines: Sequence[OrderLine]) -> None:
    """What is written as paid; “paid” without an amount is all that is due."""
    today = timezone.localdate()
    rows, settled = [], []
    for person, line in zip(people, lines, strict=True):
        rows += [Payment(participant=person, amount=p.amount, on=p.on or today, kind=p.kind) for p in line.payments]
        settled += [person.pk] if line.payments else []
    Payment.objects.bulk_create(rows)
    pay_rest(
        card_class,
        [person.pk for person, line in zip(people, lines, strict=True) if line.state == "paid" and not line.payments],
    )
    settle(card_class, settled)


def _all_sold(card_class: CardClass) -> list[str]:
    """Offers of which more are ordered than there are, in words."""
    counted = models.Sum("orders__count", filter=models.Q(orders__participant__state__in=COUNTED))
    rows = card_class.offers.exclude(limit=None).annotate(ordered=counted).values_list("name", "ordered", "limit")
    return [
        f"Of {name} there are {limit}, and {ordered} are ordered."
        for name, ordered, limit in rows
        if (ordered or 0) > limit
    ]


def _fewer_unnamed(card_class: CardClass, orders: Iterable[Order]) -> None:
    """Those who have a name now are not among the offers of those without one: first of what they ordered."""
    offers = [offer for offer in card_class.offers.all() if offer.unnamed]
    came = Counter(order.offer_id for order in orders)
    over = sum(offer.unnamed for offer in offers) - card_class.participants
    for offer in sorted(offers, key=lambda each: -came[each.pk]):
        less = min(max(over, 0), offer.unnamed)
        over -= less
        Offer.objects.filter(pk=offer.pk).update(unnamed=offer.unnamed - less)


def _bulk_orders(card_class: CardClass, people: Sequence[Participant], lines: Sequence[OrderLine]) -> list[Order]:
    offers = {str(offer.pk): offer for offer in card_class.offers.all()}
    usual = usual_offer([core_offer(offer) for offer in offers.values()]).key
    orders = []
    for person, line in zip(people, lines, strict=True):
        counts: Counter = Counter()
        for key, count in line.orders or ((usual, 1),):
            counts[key] += count
        orders += [Order(participant=person, offer=offers[key], count=n) for key, n in counts.items() if key in offers]
    return Order.objects.bulk_create(orders)


@transaction.atomic
def keep_person(person: Participant, orders: dict[int, int], fields: Iterable[str] | None = None) -> None:
    """Store somebody with their orders: by an offer's key how many."""
    hold_class(person.card_class_id)
    was = Participant.objects.filter(pk=person.pk).values_list("state", flat=True).first()
    person.save(update_fields=list(fields) if fields is not None else None)
    offers = person.card_class.offers.in_bulk([pk for pk, count in orders.items() if count])
    person.orders.exclude(offer__in=offers).delete()
    for pk, offer in offers.items():
        Order.objects.update_or_create(participant=person, offer=offer, defaults={"count": orders[pk]})
    if person.state == "handed":
        hold_designs(person.card_class)
    if person.state == "paid" != was:
        pay_rest(person.card_class, [person.pk])
    settle(person.card_class, [person.pk])
    recount(person.card_class_id)
    close_if_handed_over(person.card_class)


@transaction.atomic
def set_state(card_class: CardClass, seen: dict[int, str], state: str) -> tuple[int, list[Participant]]:
    """Say how people's orders stand, from what was seen of each: how many were changed, and who was not.

    Whoever was changed in another window meanwhile is left as they are now. The class is counted once.
    """
    hold_class(card_class.pk)
    mine = list(card_class.people.filter(pk__in=seen))
    others = [person for person in mine if person.state not in (seen[person.pk], state)]
    todo = [person.pk for person in mine if person not in others and person.state != state]
    if todo:
        card_class.people.filter(pk__in=todo).update(state=state)
        if state == "paid":
            pay_rest(card_class, todo)
        if state == "handed":
            hold_designs(card_class)
        recount(card_class.pk)
        close_if_handed_over(card_class)
    return len(todo), others


@transaction.atomic
def delete_person(person: Participant) -> None:
    """Delete all that is stored of somebody, for good."""
    hold_class(person.card_class_id)
    pk = person.card_class_id
    person.delete()
    recount(pk)


def all_of(person: Participant) -> dict:
    """All that is stored of one person, as plain data, in words."""
    papers = paper_names(person.card_class)
    return {
        "class": person.card_class.title,
        "name": person.name,
        "contact": person.contact,
        "address": person.address,
        "state": person.get_state_display(),
        "note": person.note,
        "ordered on": person.ordered_on and person.ordered_on.isoformat(),
        "papers chosen": [papers.get(key, key) for key in person.chosen],
        "sets": person.sets,
        "goods": person.goods,
        "amount of goods": str(person.amount or ""),
        "own share": str(person.own_share or ""),
        "member": person.member,
        "sent": person.get_sent_display(),
        "payments": [
            {
                "on": each.on.isoformat(),
                "amount": str(each.amount),
                "kind": each.get_kind_display(),
                "words": each.words,
            }
            for each in person.payments.filter(removed_at=None)
        ],
        "orders": [
            {"offer": order.offer.name, "count": order.count, "price of one": str(order.offer.price or "")}
            for order in person.orders.select_related("offer")
        ],
        "papers taken in place of others": [str(each) for each in person.substitutions.all()],
    }


@transaction.atomic
def keep_offer(offer: Offer, fields: list[str] | None = None) -> None:
    """Store an offer, new or changed."""
    hold_class(offer.card_class_id)
    first = offer.pk is None and not offer.card_class.offers.exists()
    offer.save(update_fields=fields)
    if first:
        # Those who are there already had one of everything: it is this now.
        people = offer.card_class.people.filter(orders=None)
        Order.objects.bulk_create([Order(participant=each, offer=offer, count=each.sets) for each in people])
    recount(offer.card_class_id)


@transaction.atomic
def say_unnamed(card_class: CardClass, counts: dict[int, int]) -> None:
    """By an offer's key how many of those without a name have it; more than there are of them count for nothing."""
    card_class = hold_class(card_class.pk)
    for offer in card_class.offers.all():
        Offer.objects.filter(pk=offer.pk).update(unnamed=counts.get(offer.pk, 0))
    recount(card_class.pk)


@transaction.atomic
def delete_offer(offer: Offer) -> None:
    """Take an offer away; raises ZesterError while somebody has ordered it."""
    hold_class(offer.card_class_id)
    names = list(offer.orders.order_by("participant__name").values_list("participant__name", flat=True)[:4])
    if names:
        count = offer.orders.count()
        who = ", ".join(names[:3]) + (f" and {count - 3} more" if count > 3 else "")
        raise ZesterError(f"{who} ordered {offer.name}", mend="Give them another offer first")
    pk = offer.card_class_id
    offer.delete()
    recount(pk)


@transaction.atomic
def take_instead(substitution: Substitution, people: Iterable[Participant] = ()) -> None:
    """Take one paper in place of another from now on."""
    hold_class(substitution.card_class_id)
    substitution.save()
    substitution.people.set(people)
    recount(substitution.card_class_id)


@transaction.atomic
def take_back_instead(substitution: Substitution) -> None:
    """Use the written paper again."""
    hold_class(substitution.card_class_id)
    pk = substitution.card_class_id
    substitution.delete()
    recount(pk)


def papers_in_lists(card_class: CardClass) -> list[Paper]:
    """The papers a class uses."""
    used = set(card_class.papers.values_list("paper_id", flat=True))
    return [paper for paper in papers_for(card_class) if paper.pk in used]
