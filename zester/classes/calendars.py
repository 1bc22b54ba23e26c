"""A class as a calendar file (RFC 5545): the class itself, its repetitions, the day on which orders end."""

from __future__ import annotations

import datetime

from django.utils import timezone
from icalendar import Alarm, Calendar, Event

from zester.classes.models import CardClass, ClassCard
from zester.classes.services import entries
from zester.core.tally import KIT
from zester.site.regions import current

# How a class repeats in the words of a calendar.
_RULES = {
    CardClass.Repeats.WEEK: {"freq": "weekly"},
    CardClass.Repeats.TWO_WEEKS: {"freq": "weekly", "interval": 2},
}
_DAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")


def calendar_of(card_class: CardClass, host: str) -> bytes:
    """The calendar file of a class that has a date; ``host`` makes its names different from other houses'."""
    calendar = Calendar()
    calendar.add("prodid", "-//Zester//Classes//EN")
    calendar.add("version", "2.0")
    for number, card in enumerate(entries(card_class) if card_class.spread else ()):
        if card.letter != KIT:
            calendar.add_component(_of_card(card_class, host, number, card))
    if not card_class.spread:
        calendar.add_component(_class(card_class, host))
    if card_class.order_by:
        calendar.add_component(_deadline(card_class, host))
    # Whoever opens it elsewhere sees it at the hour of the class.
    calendar.add_missing_timezones()
    return calendar.to_ical()


def _event(card_class: CardClass, host: str, what: str) -> Event:
    event = Event()
    event.add("uid", f"{what}-{card_class.pk}@{host}")
    event.add("dtstamp", timezone.now())
    return event


def _class(card_class: CardClass, host: str) -> Event:
    event = _event(card_class, host, "class")
    event.add("summary", card_class.title)
    if card_class.time:
        start = timezone.make_aware(datetime.datetime.combine(card_class.date, card_class.time))
        event.add("dtstart", start)
        event.add("duration", datetime.timedelta(minutes=card_class.minutes))
    else:
        event.add("dtstart", card_class.date)
    place = card_class.place or (card_class.get_where_display() if card_class.where != CardClass.Where.ROOM else "")
    if place:
        event.add("location", place)
    if card_class.notes:
        event.add("description", card_class.notes)
    rule = _rule(card_class)
    if rule:
        event.add("rrule", rule)
    return event


def _of_card(card_class: CardClass, host: str, number: int, card: ClassCard) -> Event:
    """The day, or the week, of one card."""
    event = _event(card_class, host, f"card-{card.letter}")
    event.add("summary", f"{card_class.title}: {card.letter} {card.card.name}")
    day = card_class.date_of(number)
    if card_class.time:
        event.add("dtstart", timezone.make_aware(datetime.datetime.combine(day, card_class.time)))
    else:
        event.add("dtstart", day)
    return event


def _rule(card_class: CardClass) -> dict | None:
    if card_class.repeats != CardClass.Repeats.MONTH:
        rule = _RULES.get(card_class.repeats)
        return rule and rule | {"wkst": current().week[:2].upper()}
    # The same weekday of the month; the fifth is the last.
    which = (card_class.date.day - 1) // 7 + 1
    return {"freq": "monthly", "byday": f"{which if which < 5 else -1}{_DAYS[card_class.date.weekday()]}"}


def _deadline(card_class: CardClass, host: str) -> Event:
    event = _event(card_class, host, "orders")
    event.add("summary", f"{card_class.title}: orders end")
    event.add("dtstart", card_class.order_by)
    event.add("transp", "TRANSPARENT")
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", f"Orders for {card_class.title} end tomorrow")
    alarm.add("trigger", -datetime.timedelta(hours=15))
    event.add_component(alarm)
    return event
