"""Who owes what: what an order comes to, what was paid and when, what is written off. Amounts are exact decimals."""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from zester.core.kits.offers import Offer, Person, is_free_for, price_for

NOTHING = Decimal(0)
# What a payment is: money that came, money that went back, an amount nobody asks for any more.
PAID, BACK, OFF = "paid", "back", "off"
KINDS = {PAID: "paid", BACK: "paid back", OFF: "written off"}
# Where a kit goes.
INSIDE, ABROAD, PICKED = "inside", "abroad", "picked"
SENT = {"": "not said", INSIDE: "posted in the country", ABROAD: "posted abroad", PICKED: "picked up"}


@dataclass(frozen=True)
class Payment:
    """An amount on a day."""

    amount: Decimal
    """More than nothing."""
    on: datetime.date
    """When."""
    kind: str = PAID
    """``paid``, ``back`` or ``off``."""


@dataclass(frozen=True)
class DueLine:
    """One line of what an order comes to."""

    words: str
    """What for."""
    amount: Decimal
    """How much."""
    each: Decimal | None = None
    """What one of several costs."""


@dataclass(frozen=True)
class Account:
    """How one person stands."""

    lines: tuple[DueLine, ...]
    """What the order comes to, line by line."""
    payments: tuple[Payment, ...]
    """What was paid, paid back and written off, the first first."""

    @property
    def due(self) -> Decimal:
        """What the order comes to."""
        return sum((line.amount for line in self.lines), NOTHING)

    @property
    def paid(self) -> Decimal:
        """What came, without what went back."""
        return self._of(PAID) - self._of(BACK)

    @property
    def written_off(self) -> Decimal:
        """What nobody asks for any more."""
        return self._of(OFF)

    @property
    def balance(self) -> Decimal:
        """What is open; below nothing where too much was paid."""
        return self.due - self.paid - self.written_off

    @property
    def owing(self) -> Decimal:
        """What is still to be paid."""
        return max(NOTHING, self.balance)

    @property
    def over(self) -> Decimal:
        """What was paid beyond it."""
        return max(NOTHING, -self.balance)

    def _of(self, kind: str) -> Decimal:
        return sum((each.amount for each in self.payments if each.kind == kind), NOTHING)


def account_of(
    person: Person, offers: Mapping[str, Offer], usual: Offer, payments: Iterable[Payment], post: Mapping[str, Decimal]
) -> Account:
    """How somebody stands.

    Parameters
    ----------
    person, offers, usual
        Who, what can be ordered (by key), and what everybody has of whom nothing is said.
    payments
        Theirs.
    post
        By where a kit is sent what that costs more; nothing for a kit with the post in its price.
    """
    lines = tuple(_lines(person, offers, usual, post)) if person.counted else ()
    return Account(lines, tuple(sorted(payments, key=lambda each: each.on)))


def _lines(person: Person, offers: Mapping[str, Offer], usual: Offer, post: Mapping[str, Decimal]) -> Iterable[DueLine]:
    ordered = [(offers.get(key, usual), count) for key, count in person.orders or ((usual.key, 1),)]
    for offer, count in ordered:
        price = price_for(offer, person)
        if price is not None:
            yield DueLine(f"{count} {offer.name or 'set'}", price * count, price if count > 1 else None)
    if person.amount:
        yield DueLine(person.goods or "goods", person.amount)
    for offer in offers.values():
        if is_free_for(offer, person, offers):
            yield DueLine(f"1 {offer.name}, free", NOTHING)
    surcharge = post.get(person.sent, NOTHING)
    if surcharge and not all(offer.with_post for offer, _ in ordered):
        yield DueLine(SENT[person.sent], surcharge)


@dataclass(frozen=True)
class Sums:
    """Accounts added up."""

    due: Decimal
    paid: Decimal
    written_off: Decimal
    owing: Decimal
    over: Decimal


def sums_of(accounts: Sequence[Account]) -> Sums:
    """All of them together; owing and over are not set against each other, as they are different people's."""
    names = ("due", "paid", "written_off", "owing", "over")
    return Sums(*(sum((getattr(account, name) for account in accounts), NOTHING) for name in names))


def open_since(account: Account, ordered_on: datetime.date | None) -> datetime.date | None:
    """Since when something is open: the day of the order."""
    return ordered_on if account.owing else None
