"""What a class costs beside its papers and bits, written one a line; and what post costs, by weight and thickness.

room 40                 once for the class
drinks 2.50 a person    for everybody who comes
bags 0.30 a kit         for every kit
glue 0.05 a card        for every card, samples and spares too: what is used up
6 h at 18               hours at what one is worth

100 g, 10 mm: 1.60      a kit of up to 100 g that is up to 10 mm thick
500 g: 4.20             of up to 500 g, as thick as it likes
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from zester.core.errors import ZesterError
from zester.core.kits.order_money import amount_in
from zester.core.money.shares import CENT

ONCE, PERSON, KIT, CARD = "once", "person", "kit", "card"
MOST_LINES = 40
_AMOUNT = r"(?P<amount>[^\w\s+-]?\s?\d+(?:[.,]\d{1,2})?\s?[^\w\s]?)"
_PER = {
    PERSON: r"each|(?:a|per|for\s+(?:a|each|every))\s+(?:person|head|participant|seat)",
    KIT: r"(?:a|per|for\s+(?:a|each|every))\s+kit",
    CARD: r"(?:a|per|for\s+(?:a|each|every))\s+card",
}
_LINE = re.compile(
    rf"(?P<words>\D*?[^\W\d_]\D*?)[\s:]+{_AMOUNT}(?:\s+(?:(?P<person>{_PER[PERSON]})|(?P<kit>{_PER[KIT]})|(?P<card>{_PER[CARD]})))?",
    re.IGNORECASE,
)
_HOURS = re.compile(
    rf"(?:(?P<words>[^\d]*?)[\s:]+)?(?P<hours>\d{{1,3}}(?:[.,]\d{{1,2}})?)\s*(?:h|hours?)\s+(?:at|of|à|x|×)\s+{_AMOUNT}(?:\s+an?\s+hour)?",
    re.IGNORECASE,
)
_POST = re.compile(
    rf"(?:up\s+to\s+)?(?P<grams>\d{{1,5}})\s*g(?:rams?)?(?:\s*[, ]\s*(?P<mm>\d{{1,3}})\s*mm)?\s*[:=\s]\s*{_AMOUNT}",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class CostLine:
    """What something costs."""

    words: str
    """What it is, with its sum where it is one."""
    amount: Decimal
    """How much: once, or for each."""
    per: str = ONCE
    """``once``, ``person``, ``kit`` or ``card``."""


@dataclass(frozen=True)
class PostRate:
    """What a kit costs to send."""

    grams: int
    """Up to so heavy."""
    mm: int | None
    """Up to so thick; None: whatever it is."""
    price: Decimal
    """What that costs."""


def read_costs(text: str) -> list[CostLine]:
    """Every line that is not empty. Raises ZesterError for the first that is not understood."""
    return [_cost(line) for line in _lines(text)]


def _lines(text: str) -> list[str]:
    lines = [" ".join(line.split()) for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_LINES:
        raise ZesterError(f"{len(lines)} lines", mend=f"Up to {MOST_LINES}")
    return lines


def _cost(line: str) -> CostLine:
    hours = _HOURS.fullmatch(line)
    if hours:
        number, worth = Decimal(hours["hours"].replace(",", ".")), amount_in(hours["amount"])
        words = " ".join(filter(None, [(hours["words"] or "").strip(" :"), f"{number:g} h at {worth}"]))
        return CostLine(words, (number * worth).quantize(CENT))
    found = _LINE.fullmatch(line)
    if not found:
        raise ZesterError(f"“{line[:60]}” is not understood", mend="Write it like: room 40, or drinks 2.50 a person")
    per = next((each for each in (PERSON, KIT, CARD) if found[each]), ONCE)
    return CostLine(found["words"].strip(" :,"), amount_in(found["amount"]), per)


def read_post(text: str) -> list[PostRate]:
    """The rates, the lightest first. Raises ZesterError for the first line that is not understood."""
    rates = []
    for line in _lines(text):
        found = _POST.fullmatch(line)
        if not found:
            raise ZesterError(f"“{line[:60]}” is not understood", mend="Write it like: 100 g, 10 mm: 1.60")
        rates.append(
            PostRate(int(found["grams"]), int(found["mm"]) if found["mm"] else None, amount_in(found["amount"]))
        )
    return sorted(rates, key=lambda rate: (rate.price, rate.grams))


def post_for(rates: Sequence[PostRate], grams: int, mm: int) -> PostRate | None:
    """The cheapest rate that takes a kit; None if none does."""
    return next((rate for rate in rates if grams <= rate.grams and (rate.mm is None or mm <= rate.mm)), None)
