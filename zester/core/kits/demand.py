"""From people, offers and what else a class makes to demand lines.

people x offers -> kits alike (same offer, same papers taken in place of others) -> a demand line for every card

Kits stand in the order of the people's list, those without a name after them; "the last n kits" counts from the end.
"""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from zester.core.kits.goods import Goods
from zester.core.kits.offers import Offer, Person, is_free_for, usual_offer
from zester.core.pieces import CutPiece
from zester.core.tally import KIT, NO_SPARE, TOGETHER, CardPieces, Demand, Spare, own_demands, paper_and_side, some

# What the pieces of papers that are chosen are called.
CHOSEN = "Papers chosen"
# And those of sheets that come along as they are.
ALONG = "Sheets that come along"
EVERYBODY, SOME, LAST, SINCE = "all", "some", "last", "since"
# Whose a kit is: somebody's with a name, somebody's without one, one to give away, one beyond need.
PERSON, UNNAMED, GIFT, SPARE = "p", "u", "g", "s"
# The letter of a paper that is chosen: P and a small letter for each paper.
_PICK = "P"
_ALPHABET = "abcdefghijklmnopqrstuvwxyz"


@dataclass(frozen=True, kw_only=True)
class Instead:
    """One paper or bit in place of another: for everybody, some people, the last kits, or orders from a day on."""

    paper: str
    """The key of the paper that is written; of a bit see ``tally.bit_key_of``."""
    other: str
    """The key of the paper that is taken; of a bit its name behind the sign."""
    name: str
    """What the other is called."""
    who: str = EVERYBODY
    """``all``, ``some``, ``last`` or ``since``."""
    people: frozenset[str] = frozenset()
    """The keys of the people, if it is for some."""
    last: int = 0
    """How many kits, if it is for the last ones."""
    since: datetime.date | None = None
    """The first day, if it is for orders from a day on; those without a name order yet."""


@dataclass(frozen=True, kw_only=True)
class Counts:
    """How many of one card are made for whom."""

    letter: str
    """The card's letter."""
    each: int
    """How many a set holds."""
    samples: int = 0
    """How many the teacher makes before."""
    spares: int = 0
    """How many more."""


@dataclass(frozen=True, kw_only=True)
class ClassNeeds:
    """All that decides how much a class makes."""

    cards: tuple[Counts, ...]
    """Its cards."""
    unnamed: int = 0
    """People who come and whose names nobody knows yet."""
    unnamed_by: tuple[tuple[str, int], ...] = ()
    """The keys of offers, and how many of those people have each; the others have the usual one."""
    people: tuple[Person, ...] = ()
    """Those with a name, in their order."""
    offers: tuple[Offer, ...] = ()
    """What can be ordered; none: everybody gets a set of all cards."""
    give_aways: int = 0
    """Kits to give away."""
    spare_kits: Spare = NO_SPARE
    """Kits beyond need."""
    instead: tuple[Instead, ...] = ()
    """Papers taken in place of others, in the order in which that was said."""
    pools: Mapping[str, str] = field(default_factory=dict)
    """By a paper's key how the class hands it out."""
    kinds: Mapping[str, str] = field(default_factory=dict)
    """By a paper's key what kind it is."""
    has_kit_list: bool = False
    """Whether there is a kit list."""


@dataclass(frozen=True)
class KitsAlike:
    """Kits in a row that are alike."""

    offer: Offer
    """What was ordered."""
    count: int
    """How many."""
    why: str
    """What they are, in words."""
    person: str = ""
    """The key of the person, where they have a name."""
    handed: bool = True
    """Whether they are people's; give-aways and spares are not."""
    instead: tuple[tuple[str, str], ...] = ()
    """The key of a paper, and of the one that is taken in its place."""
    origin: str = PERSON
    """Whose they are: ``PERSON``, ``UNNAMED``, ``GIFT`` or ``SPARE``."""


def _unnamed(needs: ClassNeeds, offers: Mapping[str, Offer], usual: Offer) -> list[KitsAlike]:
    """The kits of those without a name: what she says they have, the usual one for the others."""
    left, out = needs.unnamed, []
    for key, count in (*needs.unnamed_by, (usual.key, needs.unnamed)):
        offer, many = offers.get(key, usual), min(count, left)
        if many:
            words = "not named yet" if needs.people or offer.name else ""
            out.append(KitsAlike(offer, many, words, origin=UNNAMED))
            left -= many
    return out


def kits_of(needs: ClassNeeds) -> list[KitsAlike]:
    """Every kit of the class, in order; those of one person and offer may stand in several rows."""
    offers = {offer.key: offer for offer in needs.offers}
    usual = usual_offer(needs.offers)
    out: list[KitsAlike] = []
    for person in needs.people:
        if not person.counted:
            continue
        ready = person.from_shelf
        for key, count in person.orders or ((usual.key, 1),):
            made = max(0, count - ready)
            ready -= count - made
            if made:
                out.append(KitsAlike(offers.get(key, usual), made, offers.get(key, usual).name, person.key))
        for offer in needs.offers:
            if is_free_for(offer, person, offers):
                out.append(KitsAlike(offer, 1, f"{offer.name} (free from {offer.free_above})", person.key))
    out += _unnamed(needs, offers, usual)
    people = sum(kits.count for kits in out)
    if needs.give_aways:
        out.append(KitsAlike(usual, needs.give_aways, "to give away", handed=False, origin=GIFT))
    spare = needs.spare_kits.of(people)
    if spare:
        words = f"spare kits, {needs.spare_kits.percent} % rounded up" if needs.spare_kits.percent else "spare kits"
        out.append(KitsAlike(usual, spare, words, handed=False, origin=SPARE))
    return _substituted(out, needs)


def _substituted(kits: list[KitsAlike], needs: ClassNeeds) -> list[KitsAlike]:
    days = {person.key: person.ordered_on for person in needs.people}
    for each in needs.instead:
        if each.who == LAST:
            kits = _last(kits, each)
        else:
            kits = [_with(one, each) if _is_for(each, one, days) else one for one in kits]
    return kits


def _is_for(each: Instead, kits: KitsAlike, days: Mapping[str, datetime.date | None]) -> bool:
    if each.who == SINCE:
        on = days.get(kits.person)
        return kits.origin == UNNAMED or bool(each.since and on and on >= each.since)
    return each.who == EVERYBODY or kits.person in each.people


def _with(kits: KitsAlike, each: Instead) -> KitsAlike:
    """The kits with one paper more in place of another: what was taken in its place before is replaced, too."""
    now = {written: _in_its_place(taken, each) for written, taken in kits.instead}
    now.setdefault(each.paper, each.other)
    return replace(kits, instead=tuple(sorted((w, t) for w, t in now.items() if w != t)))


def _in_its_place(taken: str, each: Instead) -> str:
    """What is taken, or, where that has run out, the other paper, with the same side to be seen."""
    paper, side = paper_and_side(taken)
    return taken if paper != each.paper else f"{each.other}|{side}" if side else each.other


def _last(kits: list[KitsAlike], each: Instead) -> list[KitsAlike]:
    left, out = each.last, []
    for one in reversed(kits):
        if not one.handed or not left:
            out.append(one)
            continue
        mine = min(left, one.count)
        left -= mine
        out.append(_with(replace(one, count=mine), each))
        if one.count > mine:
            out.append(replace(one, count=one.count - mine))
    return out[::-1]


def demands_of(needs: ClassNeeds) -> list[Demand]:
    """The demand lines of a class: for every card its kits alike, then samples and spares."""
    alike = _alike(needs)
    everybody = everybodys_papers(needs.instead)
    pools = {one.offer.key: pools_of(one.offer, needs) for one in alike}
    lines = []
    for card in needs.cards:
        for group, one in enumerate(alike):
            lines += _line(card, one, group, pools[one.offer.key])
        own = own_demands(card.letter, samples=card.samples, spares=card.spares)
        lines += [replace(line, instead=everybody) for line in own]
    for group, one in enumerate(alike):
        if needs.has_kit_list and one.offer.kit_list:
            lines.append(_kit_line(one, group, pools[one.offer.key]))
        if one.offer.extras:
            lines.append(Demand(f"+{one.offer.key}", one.count, one.why, instead=dict(one.instead)))
    return lines


def _alike(needs: ClassNeeds) -> list[KitsAlike]:
    """Kits of one offer with the same papers together: offer by offer, what is handed out first."""
    alike: dict[tuple[Any, ...], KitsAlike] = {}
    for one in kits_of(needs):
        key = one.offer.key, one.why, one.instead
        before = alike.get(key)
        alike[key] = replace(one, count=one.count + (before.count if before else 0), person="")
    place = {offer.key: number for number, offer in enumerate(needs.offers)}
    return sorted(alike.values(), key=lambda one: (not one.handed, place.get(one.offer.key, 0), len(one.instead)))


def letters_of(offer: Offer, needs: ClassNeeds) -> frozenset[str]:
    """The letters of the cards that come with an offer."""
    each = {card.letter: card.each for card in needs.cards} if offer.cards is None else offer.cards
    return frozenset(letter for letter, count in each.items() if count)


def everybodys_papers(substitutions: Iterable[Instead]) -> Mapping[str, str]:
    """By the key of a paper the one that is taken in its place for everybody."""
    kits = KitsAlike(Offer(key="", name=""), 1, "")
    for each in substitutions:
        kits = _with(kits, each) if each.who == EVERYBODY else kits
    return dict(kits.instead)


def _line(card: Counts, kits: KitsAlike, group: int, pools: dict[str, str]) -> list[Demand]:
    offer = kits.offer
    a_set = card.each if offer.cards is None else offer.cards.get(card.letter, 0)
    if not a_set and offer.cards is not None:
        return []
    each = a_set * offer.sets
    line = Demand(
        card.letter,
        kits.count * each,
        _words(kits, each),
        each,
        kits.count,
        pools,
        dict(kits.instead),
        group,
        offer.bits,
    )
    return [line]


def _kit_line(kits: KitsAlike, group: int, pools: dict[str, str]) -> Demand:
    return Demand(KIT, kits.count, _words(kits, 1), 1, kits.count, pools, dict(kits.instead), group)


def _words(kits: KitsAlike, each: int) -> str:
    if not kits.why:
        return f"{kits.count:,} {'person' if kits.count == 1 else 'people'} × {each}"
    return f"{kits.why}: {kits.count:,} × {each}"


def pools_of(offer: Offer, needs: ClassNeeds) -> dict[str, str]:
    """By paper how such a kit gets it, where that is not from common sheets."""
    found = {paper: offer.pool_of(paper, kind, needs.pools) for paper, kind in needs.kinds.items()}
    return {paper: pool for paper, pool in found.items() if pool != TOGETHER}


@dataclass(frozen=True, kw_only=True)
class Picked:
    """How many of one paper that can be chosen are planned."""

    offer: str
    """The key of the offer with which it can be chosen."""
    paper: str
    """The paper's key."""
    chosen: int
    """How many are chosen."""
    guessed: int
    """An equal share for those who have not chosen, rounded up."""
    undecided: int
    """How many choices are still open, over all papers."""
    among: int
    """How many papers there are to choose from."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    at_home: bool = False
    """Whether one of each comes with every kit."""
    each: int = 0
    """Of sheets that come along as they are how many with every kit; 0 for papers that are chosen."""

    @property
    def key(self) -> tuple[str, str, bool]:
        """What it is told from others by."""
        return self.offer, self.paper, bool(self.each)

    @property
    def why(self) -> str:
        """The sum in words."""
        if self.each:
            return f"{some(self.each, 'sheet')} with every kit: {self.chosen}"
        words = f"one of each with every kit: {self.chosen}" if self.at_home else f"chosen: {self.chosen}"
        if self.guessed:
            words += (
                f" + a guess of {self.guessed}: {self.undecided} choices open, an equal share of {self.among} papers"
            )
        return words


def picked(needs: ClassNeeds) -> list[Picked]:
    """For every offer with papers to choose and every such paper how many are planned."""
    people = {person.key: person for person in needs.people}
    all_kits, found = kits_of(needs), []
    for offer in needs.offers:
        many = sum(one.count for one in all_kits if one.offer.key == offer.key)
        found += [_with_every_kit(offer, goods, many) for goods in offer.goods]
        if offer.choice is None:
            continue
        chosen = dict.fromkeys(offer.choice.among, 0)
        undecided = 0
        for kits in all_kits:
            if kits.offer.key != offer.key:
                continue
            mine = people[kits.person].chosen if kits.person else ()
            for paper in offer.choice.of(mine):
                chosen[paper] += kits.count
            undecided += kits.count * offer.choice.open(mine)
        guess = -(-undecided // len(chosen)) if chosen else 0
        found += [
            Picked(
                offer=offer.key,
                paper=paper,
                chosen=count,
                guessed=guess,
                undecided=undecided,
                among=len(chosen),
                width=offer.choice.width,
                height=offer.choice.height,
                at_home=offer.choice.at_home,
            )
            for paper, count in chosen.items()
        ]
    return found


def _with_every_kit(offer: Offer, goods: Goods, kits: int) -> Picked:
    return Picked(
        offer=offer.key,
        paper=goods.paper,
        chosen=goods.count * kits,
        guessed=0,
        undecided=0,
        among=1,
        width=goods.width,
        height=goods.height,
        each=goods.count,
    )


def picked_letters(number: int) -> list[str]:
    """The letters under which so many papers to choose are counted: ``Pa``, ``Pb``…"""
    return [_PICK + (_ALPHABET[each // 26 - 1] if each >= 26 else "") + _ALPHABET[each % 26] for each in range(number)]


def picked_cards(found: Sequence[Picked], directions: Mapping[str, str]) -> tuple[list[CardPieces], list[Demand]]:
    """The papers that are chosen as something the tally counts: a card of one piece for each."""
    cards, lines = [], []
    for letter, each in zip(picked_letters(len(found)), found, strict=True):
        way = directions.get(each.paper, "free")
        piece = CutPiece(
            number=1,
            count=1,
            name="Whole sheet" if each.each else "Paper to choose",
            width=each.width,
            height=each.height,
            paper=each.paper,
            turn=way == "free",
            upright=way == "upright",
        )
        cards.append(CardPieces(letter, ALONG if each.each else CHOSEN, (piece,)))
        lines.append(Demand(letter, each.chosen + each.guessed, each.why))
    return cards, lines


def with_people(needs: ClassNeeds, more: int) -> ClassNeeds:
    """The same with so many people more, who have no name yet; or fewer: those without one first, then the last."""
    if more >= 0:
        return replace(needs, unnamed=needs.unnamed + more)
    unnamed = max(0, needs.unnamed + more)
    away = -more - (needs.unnamed - unnamed)
    people = list(needs.people)
    for person in reversed(needs.people):
        if away and person.counted:
            people.remove(person)
            away -= 1
    return replace(needs, unnamed=unnamed, people=tuple(people))


def seats_taken(needs: ClassNeeds) -> int:
    """How many people come: those counted by name, and those without."""
    return sum(person.counted for person in needs.people) + needs.unnamed


def kits_in_all(needs: ClassNeeds) -> str:
    """What is made, in words: ``9 full kit, 3 supplies only, 1 to give away``."""
    sums: dict[str, int] = {}
    for one in _alike(needs):
        sums[one.why or "kits"] = sums.get(one.why or "kits", 0) + one.count
    return ", ".join(f"{count:,} {name}" for name, count in sums.items()) or some(0, "kit")
