"""What the page of a person shows of money."""

from __future__ import annotations

from zester.classes.models import Participant, Payment
from zester.classes.order_forms import PaymentForm
from zester.classes.payments import Standing, standings_of
from zester.site.dates import amount as money
from zester.site.dates import day


def reminder_of(person: Participant, standing: Standing) -> str:
    """A line to send: what is open, and since when; empty where nothing is."""
    if not standing.account.owing:
        return ""
    card_class = person.card_class
    when = f" ({day(card_class.date)})" if card_class.date else ""
    paid = f"; {money(standing.account.paid)} of {money(standing.account.due)} is paid" if standing.account.paid else ""
    since = f" since {day(standing.since)}" if standing.since else ""
    return f"{person.name}, {card_class.title}{when}: {money(standing.account.owing)} is open{since}{paid}."


def shown_payments(person: Participant, form: PaymentForm | None = None) -> dict:
    """What a person's page shows of money; ``form`` where an amount that was sent is not right yet."""
    standing = standings_of(person.card_class).by_person[person.pk]
    rows: list[Payment] = list(person.payments.all())
    return {
        "standing": standing,
        "payments": [row for row in rows if row.removed_at is None],
        "taken_back": [row for row in rows if row.removed_at is not None],
        "payment_form": form or PaymentForm(initial={"amount": standing.account.owing or None}),
        "reminder": reminder_of(person, standing),
    }
