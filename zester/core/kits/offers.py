"""What can be ordered, who ordered what, and in which state that is; as values."""

from __future__ import annotations

import datetime
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal

from zester.core.kits.goods import Goods
from zester.core.pieces import Bit
from zester.core.tally import TOGETHER

# The states of a person in a class; those that are counted, and those that keep a seat.
STATES = {
    "asked": "asked",
    "waiting": "waiting",
    "booked": "booked",
    "paid": "paid",
    "packed": "packed",
    "handed": "handed over or posted",
    "cancelled": "cancelled",
}
COUNTED = ("booked", "paid", "packed", "handed")
MOST_KITS = 100
MOST_PEOPLE = 500
# How a kit gets a paper, in the words of an offer; empty: as the class has it for that paper.
WAYS = {
    "": "as the class has it",
    TOGETHER: "cut",
    "whole": "as whole sheets, with a guide",
    "portions": "as portions, with a guide",
    "own": "cut, each kit from its own sheets",
    "none": "not at all",
}


@dataclass(frozen=True, kw_only=True)
class Choice:
    """Papers that whoever orders may choose."""

    number: int
    """How many are chosen."""
    among: tuple[str, ...]
    """The keys of the papers to choose from."""
    width: int
    """Of what is handed out of each, ticks."""
    height: int
    """Of what is handed out of each, ticks."""
    at_home: bool = False
    """Whether one of each comes with the kit, and whoever gets it chooses when cutting."""

    def of(self, chosen: Sequence[str]) -> list[str]:
        """Which papers come with a kit of somebody who has chosen these."""
        return list(self.among) if self.at_home else [paper for paper in chosen if paper in self.among][: self.number]

    def open(self, chosen: Sequence[str]) -> int:
        """How many are still to be chosen before it can be packed."""
        return 0 if self.at_home else self.number - len(self.of(chosen))


@dataclass(frozen=True, kw_only=True)
class Offer:
    """Something that can be ordered."""

    key: str
    """What it is known by."""
    name: str
    """What people call it."""
    sets: int = 1
    """How many sets of cards one of it holds."""
    cards: Mapping[str, int] | None = None
    """By letter how many of each card a set holds; None: as the class says."""
    pools: Mapping[str, str] = field(default_factory=dict)
    """How it gets its papers: by a paper's key, or by its kind. What is missing is as the class has it."""
    goods: tuple[Goods, ...] = ()
    """Sheets that come with it as they are, once a kit."""
    extras: tuple[Bit, ...] = ()
    """What comes with it that is not cut, once a kit."""
    kit_list: bool = True
    """Whether the kit list goes with it."""
    bits: bool = True
    """Whether the bits of its cards go with it: thread, gems, envelopes."""
    price: Decimal | None = None
    """Of one."""
    free_above: Decimal | None = None
    """The amount of an order from which one is given for nothing; None: it is ordered."""
    free_from: datetime.date | None = None
    """The first day on which such orders count."""
    free_until: datetime.date | None = None
    """The last day."""
    free_below: Decimal | None = None
    """The amount from which on it is not given any more."""
    closes_on: datetime.date | None = None
    """The last day on which it is sold; later orders are late."""
    limit: int | None = None
    """How many there are of it; None: as many as are ordered."""
    later_price: Decimal | None = None
    """Of one, from a day on."""
    later_from: datetime.date | None = None
    """That day."""
    member_price: Decimal | None = None
    """Of one, for members."""
    with_post: bool = False
    """Whether the post is in its price."""
    choice: Choice | None = None
    """The papers that are chosen with it."""

    def pool_of(self, paper: str, kind: str, usual: Mapping[str, str]) -> str:
        """How it gets a paper."""
        return self.pools.get(paper) or self.pools.get(kind) or usual.get(paper, TOGETHER)


@dataclass(frozen=True, kw_only=True)
class Person:
    """Somebody of a class."""

    key: str
    """What they are known by."""
    name: str
    """What they are called."""
    state: str = "booked"
    """One of ``STATES``."""
    orders: tuple[tuple[str, int], ...] = ()
    """The keys of offers and how many of each."""
    chosen: tuple[str, ...] = ()
    """The keys of the papers chosen so far."""
    ordered_on: datetime.date | None = None
    """When the order came in."""
    amount: Decimal = Decimal(0)
    """What goods beside the offers come to."""
    goods: str = ""
    """What they are."""
    member: bool = False
    """Whether members' prices are theirs."""
    sent: str = ""
    """Where a kit goes; see ``core.money.accounts``."""
    from_shelf: int = 0
    """How many of their kits lie ready on the shelf: the first of what they ordered, for which nothing is cut."""

    @property
    def counted(self) -> bool:
        """Whether their kits are made."""
        return self.state in COUNTED


def amount_of(person: Person, offers: Mapping[str, Offer]) -> Decimal:
    """What a person's order comes to, without what is free and without post."""
    priced = ((price_for(offers[key], person) or Decimal(0)) * count for key, count in person.orders if key in offers)
    return sum(priced, person.amount)


def price_for(offer: Offer, person: Person) -> Decimal | None:
    """What one of an offer costs somebody: the least of what holds for them; None if it has no price."""
    later = offer.later_from and person.ordered_on and person.ordered_on >= offer.later_from
    price = offer.later_price if later and offer.later_price is not None else offer.price
    if person.member and offer.member_price is not None:
        return offer.member_price if price is None else min(price, offer.member_price)
    return price


def is_late(offer: Offer, person: Person) -> bool:
    """Whether somebody ordered after an offer was closed; it is taken all the same."""
    return bool(offer.closes_on and person.ordered_on and person.ordered_on > offer.closes_on)


def is_free_for(offer: Offer, person: Person, offers: Mapping[str, Offer]) -> bool:
    """Whether a person gets one of an offer for nothing: the order is between the amounts and the dates."""
    if offer.free_above is None or not person.counted:
        return False
    amount = amount_of(person, offers)
    if amount < offer.free_above or (offer.free_below is not None and amount >= offer.free_below):
        return False
    on = person.ordered_on
    early = offer.free_from and (on is None or on < offer.free_from)
    late = offer.free_until and (on is None or on > offer.free_until)
    return not (early or late)


def usual_offer(offers: Sequence[Offer]) -> Offer:
    """What somebody gets of whom nothing else is said: the first offer that is ordered, or one of everything."""
    return next((offer for offer in offers if offer.free_above is None), Offer(key="", name=""))
