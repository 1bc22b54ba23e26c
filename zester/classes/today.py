"""The page one begins with: the class that comes next and what it needs, then the others."""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Iterator, Sequence

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import Max, Q, QuerySet
from django.urls import reverse
from django.utils import timezone

from zester.classes.models import CardClass, ClassCard, Participant
from zester.classes.services import entries
from zester.core.kits.offers import COUNTED
from zester.site.dates import day
from zester.site.dates import number as number_words
from zester.site.find import Found, holding
from zester.site.prepared import prepared
from zester.site.stations import some, threads
from zester.site.today import Need, needs_of, next_step

# So many of the classes after the next one are drawn.
MOST_DRAWN = 8
# So many of those that are past are shown unasked.
MOST_PAST = 24


def begin_page(classes: Sequence[CardClass], *, all_past: bool = False) -> dict:
    """What the page shows of somebody's classes, as they are stored; of many that are past the last ones."""
    today = timezone.localdate()
    gone = [each for each in classes if each.closed_at or (each.date is not None and each.date < today)]
    coming = sorted((each for each in classes if each not in gone), key=_by_date)
    shown = gone if all_past else gone[:MOST_PAST]
    stations = threads([*coming, *shown])
    first = coming[0] if coming else None
    drawn = _drawn([each.pk for each in coming[1 : 1 + MOST_DRAWN]])
    return {
        "first": _row(first, stations, today) | _of_first(first) if first else None,
        "coming": [
            _row(each, stations, today) | {"cards": [card for card in drawn if card.card_class_id == each.pk]}
            for each in coming[1:]
        ],
        "gone": [_row(each, stations, today) for each in shown],
        "past": len(gone),
    }


@prepared
def _drawn(classes: list[int]) -> QuerySet[ClassCard]:
    cards = ClassCard.objects.there().filter(card_class__in=classes, card__is_kit=False).select_related("card")
    return cards.order_by("card_class", "letter").only("card_class", "letter", "card__name", "card__saves")


def _by_date(card_class: CardClass) -> tuple:
    # Those without a day come after all others, what was begun last first.
    return card_class.date is None, card_class.date or datetime.date.max, -card_class.pk


def _row(card_class: CardClass, stations: dict, today: datetime.date) -> dict:
    return {"card_class": card_class, "stations": stations[card_class.pk], "when": in_days(card_class.date, today)}


def _of_first(card_class: CardClass) -> dict:
    return {"cards": entries(card_class), "next": next_step(card_class), "needs": list(needs_of(card_class))}


def in_days(date: datetime.date | None, today: datetime.date) -> str:
    """``today``, ``tomorrow``, ``in 18 days``, ``3 days ago``; empty without a date."""
    if date is None:
        return ""
    days = (date - today).days
    if abs(days) < 2:
        return {0: "today", 1: "tomorrow", -1: "yesterday"}[days]
    return f"in {days} days" if days > 0 else f"{-days} days ago"


def next_of(card_class: CardClass) -> Need | None:
    """What is next at Design."""
    desk = reverse("classes:desk", args=[card_class.pk])
    if card_class.n_wrong:
        return Need(words=f"mend {some(card_class.n_wrong, 'line')}", url=desk)
    if card_class.n_faults:
        return Need(words=f"mend {some(card_class.n_faults, 'fault')}", url=desk)
    return None if card_class.n_lines else Need(words="write the first card", url=desk)


def needs_people(card_class: CardClass) -> Iterator[Need]:
    """Orders that close, seats, who has not paid or chosen."""
    people = reverse("classes:people", args=[card_class.pk])
    today = timezone.localdate()
    if card_class.date is None:
        yield Need(words="It has no day yet", url=reverse("classes:edit", args=[card_class.pk]))
    if card_class.order_by and card_class.order_by >= today:
        words = f"Orders close on {day(card_class.order_by)}, {in_days(card_class.order_by, today)}"
        yield Need(words=words, url=people)
    rows = _people(card_class.pk)
    seats = None if card_class.capacity is None else card_class.capacity - card_class.n_people
    if seats is not None and seats < 0:
        yield Need(words=f"{some(-seats, 'seat')} too few", url=people, grave=True)
    waiting = sum(state == "waiting" for state, *_ in rows)
    if waiting and (seats or 0) > 0:
        yield Need(words=f"{waiting} waiting, {some(seats, 'seat')} free", url=people)
    unpaid = sum(state == "booked" and bool(price) for state, _, _, price in rows)
    if unpaid:
        yield Need(words=f"{_people_have(unpaid)} not paid", url=people)
    unchosen = sum(state in COUNTED and len(chosen) < (choose or 0) for state, chosen, choose, _ in rows)
    if unchosen:
        yield Need(words=f"{_people_have(unchosen)} not chosen their papers", url=people)


def _people_have(number: int) -> str:
    return "1 person has" if number == 1 else f"{number_words(number)} people have"


@prepared
def _people(card_class: int) -> QuerySet:
    """Of everybody how the order stands, the papers chosen, how many are to be chosen, the dearest price."""
    asked = Q(orders__offer__choose_at_home=False)
    most = {"choose": Max("orders__offer__choose", filter=asked), "price": Max("orders__offer__price")}
    people = Participant.objects.filter(card_class=card_class).order_by()
    return people.annotate(**most).values_list("state", "chosen", "choose", "price")


def find_classes(user: AbstractBaseUser, words: Sequence[str]) -> Iterable[Found]:
    """Classes by title, place and notes."""
    for each in holding(CardClass.objects.of(user), words, "title", "place", "notes"):
        yield Found(name=each.title, words=_when(each), url=reverse("classes:desk", args=[each.pk]))


def find_people(user: AbstractBaseUser, words: Sequence[str]) -> Iterable[Found]:
    """People of one's classes by name, contact and note."""
    mine = Participant.objects.filter(card_class__owner=user, card_class__removed_at=None)
    for each in holding(mine.select_related("card_class").order_by("name", "pk"), words, "name", "contact", "note"):
        where = ", ".join(filter(None, (each.card_class.title, _when(each.card_class), each.get_state_display())))
        yield Found(name=each.name, words=where, url=reverse("classes:person", args=[each.card_class_id, each.pk]))


def find_cards(user: AbstractBaseUser, words: Sequence[str]) -> Iterable[Found]:
    """Cards in classes by name and list."""
    mine = ClassCard.objects.used().filter(card_class__owner=user).select_related("card", "card_class")
    for each in holding(mine.order_by("card__name", "pk"), words, "card__name", "card__cut_list"):
        url = reverse("classes:card", args=[each.card_class_id, each.letter])
        yield Found(name=f"{each.letter} {each.card.name}", words=each.card_class.title, url=url)


def _when(card_class: CardClass) -> str:
    return day(card_class.date) if card_class.date else ""
