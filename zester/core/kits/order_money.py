"""What a part of a person's line says of money: ``supplies 62.50``, ``paid 40 on 2026-11-03``, ``own share 12.50``.

    paid 40 · paid 40 on 2026-11-03 · deposit 20 · paid back 5      payments
    supplies 62.50 · amount 62                                      goods beside the offers
    own 12.50                                                       what of it is the teacher's
    member · abroad · in the country · picks it up                  whose price, where the kit goes

A number without cents is only an amount behind one of these words: ``supplies 2`` are two of an offer.
"""

from __future__ import annotations

import datetime
import re
from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

from zester.core.errors import ZesterError
from zester.core.numbers import read_decimal

MOST = Decimal("99999.99")
SENT_WORDS = {
    "abroad": "abroad",
    "sent abroad": "abroad",
    "posted abroad": "abroad",
    "in the country": "inside",
    "inland": "inside",
    "posted in the country": "inside",
    "picked up": "picked",
    "picks up": "picked",
    "picks it up": "picked",
}
MEMBER_WORDS = ("member", "is a member")
_AMOUNT = r"(?P<amount>[^\w\s+-]?\s?\d[\d ]*(?:[.,]\d{1,2})?\s?[^\w\s]?)"
_PAID = re.compile(
    rf"(?P<word>paid\s+back|paid|deposit|has\s+paid)\s+(?:of\s+)?{_AMOUNT}(?:\s+on\s+(?P<on>\S+))?", re.IGNORECASE
)
_OWN = re.compile(rf"(?:my\s+)?own(?:\s+share)?\s+(?:of\s+)?{_AMOUNT}", re.IGNORECASE)
_LABELLED = re.compile(rf"(?P<words>amount|goods|order|for)\s+(?:of\s+)?{_AMOUNT}", re.IGNORECASE)
_GOODS = re.compile(
    r"(?P<words>\D*?[^\W\d_]\D*?)\s+(?:for\s+)?(?P<amount>[^\w\s+-]?\s?\d[\d ]*[.,]\d\d\s?[^\w\s]?)", re.IGNORECASE
)
# What begins so and has a figure speaks of money, whatever else it says.
_ABOUT_MONEY = re.compile(r"(?:has\s+)?(?:paid(?:\s+back)?|deposit|own(?:\s+share)?|amount)\s+\D{0,3}\d", re.IGNORECASE)
# ``paid 62,50``: behind these words a comma before two digits is that of an amount.
_COMMA = re.compile(r"\b((?:paid|back|deposit|own|share|amount|goods|order)\s+\d+),(?=\d\d(?!\d))", re.IGNORECASE)


@dataclass(frozen=True)
class PaidPart:
    """A payment as written."""

    amount: Decimal
    """How much."""
    on: datetime.date | None = None
    """When; None: today."""
    kind: str = "paid"
    """``paid`` or ``back``."""


@dataclass(frozen=True, kw_only=True)
class MoneyPart:
    """What one part says."""

    payment: PaidPart | None = None
    """Money that came or went back."""
    amount: Decimal | None = None
    """What goods come to."""
    goods: str = ""
    """What they are."""
    own: Decimal | None = None
    """The teacher's own share."""
    member: bool = False
    """Whether members' prices hold."""
    sent: str = ""
    """Where the kit goes."""


def with_points(line: str) -> str:
    """The line with points in its amounts: a comma parts what is said."""
    return _COMMA.sub(r"\1.", line)


def read_money(part: str, read_date: Callable[[str], datetime.date], names: set[str]) -> MoneyPart | None:
    """What a part says of money; None if it speaks of something else.

    ``names``: what the offers are called, in small letters.

    Raises
    ------
    ZesterError
        If it is about money, and not clear.
    """
    words = " ".join(part.casefold().split())
    if words in MEMBER_WORDS or words in SENT_WORDS:
        return MoneyPart(member=words in MEMBER_WORDS, sent=SENT_WORDS.get(words, ""))
    found: MoneyPart | None = None
    if paid := _PAID.fullmatch(part.strip()):
        kind = "back" if "back" in paid["word"].casefold() else "paid"
        on = read_date(paid["on"]) if paid["on"] else None
        found = MoneyPart(payment=PaidPart(amount_in(paid["amount"]), on, kind))
    elif own := _OWN.fullmatch(part.strip()):
        found = MoneyPart(own=amount_in(own["amount"]))
    elif labelled := _LABELLED.fullmatch(part.strip()):
        found = MoneyPart(amount=amount_in(labelled["amount"]))
    elif _ABOUT_MONEY.match(part.strip()):
        raise ZesterError(
            f"“{part[:60]}”: how much?", mend="Write it like: paid 40, paid 40 on 2026-11-03, amount 62.50"
        )
    elif goods := _GOODS.fullmatch(part.strip()):
        found = _goods(" ".join(goods["words"].split()), goods["amount"], names)
    return found


def _goods(words: str, amount: str, names: set[str]) -> MoneyPart:
    if words.casefold() in names:
        what = f"Is {amount.strip()} what {words} costs, or goods beside it?"
        raise ZesterError(what, mend=f"An offer has its own price. Write “amount {amount.strip()}” for goods beside it")
    return MoneyPart(amount=amount_in(amount), goods=words[:80])


def amount_in(text: str) -> Decimal:
    """An amount to the cent. Raises ZesterError."""
    amount = read_decimal(text).quantize(Decimal("0.01"))
    if not 0 < amount <= MOST:
        raise ZesterError(f"An amount of {text.strip()}", mend=f"Amounts are from 0.01 to {MOST:,}")
    return amount
