"""People written one a line: ``Ines full 2, paid, note allergic to glitter``.

    Ines full 2
    Odo Brackwater, supplies only, waiting
    Marla: 2 full + supplies only; marla@example.org; note comes late
    Tove full, papers star chart, kite tails

    Ines full 2, supplies 62.50, paid 40 on 2026-11-03, member, abroad

The name first; then what is ordered and how many, before or after it. Between commas or semicolons: a state, a mail
address or telephone number, ``address …``, ``papers …``, ``ordered 2026-11-03``, ``note …``, and what ``order_money``
reads. What is not understood is an error of its line: a number that was not used is asked about, never dropped.
"""

from __future__ import annotations

import datetime
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Any

from zester.core.errors import ZesterError
from zester.core.kits.offers import MOST_KITS, MOST_PEOPLE, Offer
from zester.core.kits.order_money import MoneyPart, PaidPart, read_money, with_points

_LEAST_SAID = 3
LONGEST_LINE, LONGEST_NAME, LONGEST_NOTE = 600, 80, 400
STATE_WORDS = {
    "asked": "asked",
    "asks": "asked",
    "interested": "asked",
    "waiting": "waiting",
    "waits": "waiting",
    "waiting list": "waiting",
    "booked": "booked",
    "yes": "booked",
    "paid": "paid",
    "cancelled": "cancelled",
    "canceled": "cancelled",
    "packed": "packed",
    "posted": "handed",
    "handed": "handed",
    "handed over": "handed",
    "handed over or posted": "handed",
}
_MAIL = re.compile(r"[^\s@,;]+@[^\s@,;]+\.[^\s@,;]+")
_PHONE = re.compile(r"\+?[\d][\d\s()/.-]{5,22}\d")
_LABELLED = re.compile(
    r"(note|notes|remark|address|papers?|ordered|contact|tel|phone)\b[:.]?\s+(.+)", re.IGNORECASE | re.DOTALL
)
_COUNT = re.compile(r"(?:[x×]\s*)?(\d{1,30})(?:\s*[x×])?", re.IGNORECASE)


# What nobody is called: less than nothing, or a part of one.
_ODD_NUMBER = re.compile(r"[-−–+]\d|\d+[.,/⁄]\d|\d*[¼½¾⅐-⅞]")


@dataclass(frozen=True, kw_only=True)
class OrderLine:
    """A person as written."""

    name: str
    """What they are called."""
    orders: tuple[tuple[str, int], ...] = ()
    """Keys of offers and how many of each; empty: one of the usual."""
    state: str = "booked"
    """One of the states."""
    contact: str = ""
    """A mail address, a telephone number."""
    address: str = ""
    """Where a kit is posted to."""
    note: str = ""
    """Whatever else."""
    chosen: tuple[str, ...] = ()
    """The keys of the papers chosen."""
    ordered_on: datetime.date | None = None
    """When; None: today."""
    amount: Decimal = Decimal(0)
    """What goods beside the offers come to."""
    goods: str = ""
    """What they are."""
    own: Decimal = Decimal(0)
    """What of that is the teacher's own."""
    payments: tuple[PaidPart, ...] = ()
    """What was paid, and when."""
    member: bool = False
    """Whether members' prices hold."""
    sent: str = ""
    """Where a kit goes: ``inside``, ``abroad``, ``picked``."""


@dataclass(frozen=True)
class ReadPerson:
    """What became of a written line."""

    text: str
    """As it was written."""
    person: OrderLine | None = None
    """The person."""
    error: ZesterError | None = None
    """Why there is none."""


@dataclass(frozen=True, kw_only=True)
class Sayable:
    """What lines may name."""

    offers: Sequence[Offer] = ()
    """What can be ordered."""
    papers: Mapping[str, str] = field(default_factory=dict)
    """By key what the papers that may be chosen are called."""


class _Meant(ZesterError):
    """An offer was meant for certain, but which, or how many, is not clear."""


def read_people(text: str, sayable: Sayable) -> list[ReadPerson]:
    """Every line that is not empty, as it was understood."""
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    out = [read_person(line, sayable) for line in lines[:MOST_PEOPLE]]
    if len(lines) > MOST_PEOPLE:
        more = ZesterError(f"{MOST_PEOPLE} people at once are the most", mend="Send the rest as a second list")
        # None of them is lost: each stands there, to be sent later.
        out += [ReadPerson(line, error=more) for line in lines[MOST_PEOPLE:]]
    return out


def read_person(line: str, sayable: Sayable) -> ReadPerson:
    """One line as it was understood."""
    try:
        if len(line) > LONGEST_LINE:
            raise ZesterError(f"A line of {len(line):,} letters", mend=f"Up to {LONGEST_LINE}; one person a line")
        return ReadPerson(line, person=_person(line, sayable))
    except ZesterError as error:
        return ReadPerson(line, error=error)


def _person(line: str, sayable: Sayable) -> OrderLine:
    head, *parts = [part.strip() for part in re.split(r"[,;\t|]", with_points(line))]
    name, ordered = _head(head, sayable)
    person, orders = OrderLine(name=name), ordered
    at = 0
    while at < len(parts):
        part, at = parts[at], at + 1
        if not part:
            continue
        labelled = _LABELLED.fullmatch(part)
        if labelled and labelled[1].casefold() in ("note", "notes", "remark", "address"):
            # Nothing after a remark is anything else; an address goes on to what is no part of it.
            rest = parts[at:] if labelled[1].casefold() != "address" else _address(parts[at:], sayable)
            at += len(rest)
            person = _add(person, labelled[1].casefold(), ", ".join([labelled[2], *filter(None, rest)]))
        elif labelled and labelled[1].casefold().startswith("paper"):
            rest = _run_of_papers(parts[at:], sayable)
            at += len(rest)
            person = replace(person, chosen=_papers([labelled[2], *rest], sayable))
        elif labelled:
            person = _add(person, labelled[1].casefold(), labelled[2])
        else:
            person, orders = _part(person, orders, part, sayable)
    if person.own > person.amount:
        what = f"An own share of {person.own} of an amount of {person.amount}"
        raise ZesterError(what, mend="Write the amount, too: supplies 62.50, own 12.50")
    return replace(person, orders=tuple(orders))


def _head(head: str, sayable: Sayable) -> tuple[str, list[tuple[str, int]]]:
    """The name, and what is ordered in the same breath."""
    name, colon, rest = head.partition(":")
    if colon:
        return _name(name), _orders(rest, sayable)
    words = head.split()
    for at in range(1, len(words)):
        rest = " ".join(words[at:])
        if not _looks_ordered(rest, sayable):
            continue
        try:
            orders = _orders(rest, sayable)
        except _Meant:
            raise
        except ZesterError:
            continue
        return _name(" ".join(words[:at])), orders
    digits = re.search(r"\d[\d.,/]*", head)
    if digits:
        number = digits[0]
        if len(sayable.offers) <= 1 and number.isdecimal() and words[-1] == number and len(words) > 1:
            return _name(" ".join(words[:-1])), [_counted(_only(sayable), number)]
        raise ZesterError(f"{number} of what?", mend=_say(sayable))
    return _name(head), []


def _looks_ordered(text: str, sayable: Sayable) -> bool:
    """Whether the end of a name may be an order: an offer's whole name, or at least three small letters of it.

    So an initial or a family name is not taken for an offer.
    """
    names = {offer.name.casefold() for offer in sayable.offers}
    words = [word for word in re.split(r"[\s+&]+", text) if not _COUNT.fullmatch(word) and word.casefold() != "and"]
    bare = " ".join(words)
    return bare.casefold() in names or (len(bare) >= _LEAST_SAID and bare == bare.lower())


def _only(sayable: Sayable) -> str:
    return sayable.offers[0].key if sayable.offers else ""


def _name(text: str) -> str:
    name = " ".join(text.split()).strip(" .-–")
    if not any(char.isalpha() for char in name):
        raise ZesterError("The name comes first", mend="Write it like: Ines full 2, paid")
    odd = next((word for word in text.split() if _ODD_NUMBER.match(word)), None)
    if odd:
        raise ZesterError(f"“{odd}” is no number of kits", mend="Write a whole number after the offer: Ines full 2")
    if len(name) > LONGEST_NAME:
        raise ZesterError(f"A name of {len(name)} letters", mend=f"Up to {LONGEST_NAME}")
    return name


def _orders(text: str, sayable: Sayable) -> list[tuple[str, int]]:
    """``full 2 + supplies only``: keys and counts; raises ZesterError unless all of it is understood."""
    found: dict[str, int] = {}
    for part in re.split(r"\s*(?:\+|&|\band\b)\s*", text.strip(), flags=re.IGNORECASE):
        if not part:
            raise ZesterError("Of what?", mend=_say(sayable))
        key, count = _order(part, sayable)
        found[key] = found.get(key, 0) + count
    return list(found.items())


def _order(part: str, sayable: Sayable) -> tuple[str, int]:
    words = part.split()
    alone = _COUNT.fullmatch(part)
    if alone and len(sayable.offers) <= 1:
        return _counted(_only(sayable), alone[1])
    for number, rest in ((words[-1], words[:-1]), (words[0], words[1:])):
        count = _COUNT.fullmatch(number)
        if count and rest:
            return _counted(_offer(" ".join(rest), sayable), count[1])
    return _offer(part, sayable), 1


def _counted(key: str, number: str) -> tuple[str, int]:
    if not 1 <= int(number) <= MOST_KITS:
        raise _Meant(f"{number} of one offer", mend=f"From 1 to {MOST_KITS} for one person")
    return key, int(number)


def _offer(text: str, sayable: Sayable) -> str:
    """The offer that is meant: its name, or the beginning of it or of one of its words, if only one has that."""
    said = " ".join(text.casefold().split())
    exact = [offer for offer in sayable.offers if offer.name.casefold() in (said, f"{said}s", said.removesuffix("s"))]
    enough = len(said) >= _LEAST_SAID
    begun = [offer for offer in sayable.offers if enough and offer.name.casefold().startswith(said)]
    within = [offer for offer in sayable.offers if enough and f" {said}" in f" {offer.name.casefold()}"]
    for found in (exact, begun, within):
        if len(found) == 1:
            return found[0].key
        if found:
            names = " or ".join(offer.name for offer in found)
            raise _Meant(f"“{text}” may be {names}", mend="Write it out")
    raise ZesterError(f"“{text}” is nothing that can be ordered", mend=_say(sayable))


def _say(sayable: Sayable) -> str:
    names = ", ".join(offer.name for offer in sayable.offers)
    return f"Offers of this class: {names}" if names else "Write only the name: this class has no offers yet"


def _part(
    person: OrderLine, orders: list[tuple[str, int]], part: str, sayable: Sayable
) -> tuple[OrderLine, list[tuple[str, int]]]:
    """What one part between commas says."""
    words = " ".join(part.casefold().split())
    if words in STATE_WORDS:
        return replace(person, state=STATE_WORDS[words]), orders
    money = read_money(part, read_date, {offer.name.casefold() for offer in sayable.offers})
    if money:
        return _with_money(person, money, part), orders
    if _MAIL.fullmatch(part) or _PHONE.fullmatch(part):
        return _add(person, "contact", part), orders
    try:
        more = _orders(part, sayable)
    except _Meant:
        raise
    except ZesterError as error:
        mend = f"{error.mend}. Anything else goes after “note”"
        raise ZesterError(f"“{part[:60]}” is not understood", mend=mend) from error
    return person, [*orders, *more]


def _with_money(person: OrderLine, said: MoneyPart, part: str) -> OrderLine:
    if said.payment:
        return replace(person, payments=(*person.payments, said.payment))
    if (said.amount and person.amount) or (said.own and person.own):
        raise ZesterError(f"“{part}” is a second amount", mend="Write one amount, or the sum of both")
    if said.amount:
        return replace(person, amount=said.amount, goods=said.goods)
    if said.own:
        return replace(person, own=said.own)
    return replace(person, member=person.member or said.member, sent=said.sent or person.sent)


def _add(person: OrderLine, label: str, text: str) -> OrderLine:
    text = " ".join(text.split())
    if label == "ordered":
        return replace(person, ordered_on=read_date(text))
    name = {"note": "note", "notes": "note", "remark": "note", "address": "address"}.get(label, "contact")
    whole = ", ".join(filter(None, [getattr(person, name), text]))
    if len(whole) > LONGEST_NOTE:
        raise ZesterError(f"The {name} has {len(whole)} letters", mend=f"Up to {LONGEST_NOTE}")
    said: dict[str, Any] = {name: whole}
    return replace(person, **said)


def read_date(text: str) -> datetime.date:
    """``2026-11-03``. Raises ZesterError."""
    try:
        return datetime.date.fromisoformat(text.strip())
    except ValueError as error:
        raise ZesterError(f"“{text[:30]}” is no date", mend="Write it like 2026-11-03") from error


def _address(parts: list[str], sayable: Sayable) -> list[str]:
    """The parts that belong to an address: up to the first that says something else."""
    for number, part in enumerate(parts):
        known = " ".join(part.casefold().split()) in STATE_WORDS or _LABELLED.fullmatch(part) or _MAIL.fullmatch(part)
        if known or read_money(part, read_date, set()):
            return parts[:number]
    return parts


def _run_of_papers(parts: list[str], sayable: Sayable) -> list[str]:
    for number, part in enumerate(parts):
        try:
            _papers([part], sayable)
        except ZesterError:
            return parts[:number]
    return parts


def _papers(texts: Sequence[str], sayable: Sayable) -> tuple[str, ...]:
    """The keys of the papers named, each once."""
    keys = []
    for text in (word for part in texts for word in re.split(r"\s*(?:\+|&|/)\s*", part)):
        said = " ".join(text.casefold().split())
        found = [key for key, name in sayable.papers.items() if name.casefold() == said]
        found = found or [key for key, name in sayable.papers.items() if said and said in name.casefold()]
        if len(found) != 1:
            names = ", ".join(sayable.papers.values())
            mend = f"To choose from: {names}" if names else "No offer of this class lets papers be chosen"
            what = "is no paper to choose" if not found else "may be several papers"
            raise ZesterError(f"“{text}” {what}", mend=mend)
        keys.append(found[0])
    return tuple(dict.fromkeys(keys))
