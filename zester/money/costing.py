"""What a class costs, brings and leaves, from its plans, its kits, its people and what is written of it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from fractions import Fraction
from functools import cached_property

from zester.bags.board import Board, board_with
from zester.bags.checks import Weights, weights_of
from zester.bench.models import CutLog
from zester.classes.models import CardClass
from zester.classes.payments import Standings, standings_of
from zester.classes.services import ReadCard, count_class, supplies_in
from zester.core.fitting.jobs.summary import summarise
from zester.core.kits.coverage import bit_key
from zester.core.kits.demand import PERSON, SPARE, UNNAMED
from zester.core.kits.offers import COUNTED, Offer, Person, price_for, usual_offer
from zester.core.kits.packing import BIT, Item, Kit
from zester.core.kits.weights import parcel_of
from zester.core.lengths import TICKS_PER_MM
from zester.core.money.accounts import ABROAD, INSIDE, PICKED
from zester.core.money.cost_lines import CARD, KIT, ONCE, CostLine, PostRate, post_for, read_costs, read_post
from zester.core.money.cost_lines import PERSON as EACH
from zester.core.money.costs import ClassSum, Entry, KitCost, PaperSpent, lines_cost, of_items
from zester.core.money.shares import cents
from zester.core.tally import people as in_words
from zester.core.tally import some
from zester.fits.advised import cheapest_change
from zester.plans.kept import read_made, whole
from zester.plans.models import PaperFit
from zester.plans.standing import Papers, papers_in
from zester.shelf.models import Bit, Pad
from zester.supply.buying import buying_list
from zester.supply.growth import Growth, growth_of

NOBODY = Person(key="", name="")
# What everybody has where nothing can be ordered.
A_SET = "a set of all cards"


@dataclass(frozen=True)
class Saved:
    """What the plans save against cutting every card by itself, from new sheets."""

    sheets: int = 0
    """New sheets fewer."""
    cost: Decimal = Decimal(0)
    """What those cost, as far as papers have prices."""
    seconds: int = 0
    """Time at the trimmer, at the usual pace."""
    known: int = 0
    """For how many papers that is worked out."""

    @property
    def minutes(self) -> int:
        """The time in whole minutes."""
        return self.seconds // 60


@dataclass(frozen=True)
class CardCost:
    """What one card of a design costs, as it is written."""

    letter: str
    """Its letter."""
    name: str
    """Its name."""
    paper: Decimal
    """Its pieces, with their share of what is binned."""
    bits: Decimal
    """Its bits."""
    whole: Decimal
    """Both, rounded once."""
    pieces: tuple[tuple[str, Decimal], ...]
    """What its pieces cost, line by line."""


@dataclass(frozen=True)
class Change:
    """A change of a size that would save sheets of a paper."""

    paper: str
    """The paper."""
    words: str
    """What would be cut smaller, and what it saves."""
    cost: Decimal
    """What the sheets saved cost; nothing without a price."""


class ClassMoney:
    """All of it for one class."""

    def __init__(self, card_class: CardClass):
        self.card_class = card_class
        self.counted = count_class(card_class)
        self.board: Board = board_with(self.counted)
        self.lines: list[CostLine] = read_costs(card_class.costs)
        self.rates: list[PostRate] = read_post(card_class.post_rates)
        self._known: dict[tuple[tuple[Item, ...], bool], Fraction] = {}

    @cached_property
    def offers(self) -> dict[str, Offer]:
        """By key."""
        return {offer.key: offer for offer in self.counted.needs.offers}

    @cached_property
    def usual(self) -> Offer:
        """What most have."""
        return usual_offer(self.counted.needs.offers)

    @cached_property
    def people(self) -> dict[str, Person]:
        """By key."""
        return {person.key: person for person in self.counted.needs.people}

    @cached_property
    def standings(self) -> Standings:
        """What everybody owes and paid."""
        return standings_of(self.card_class, self.counted.needs)

    @cached_property
    def fits(self) -> list[PaperFit]:
        """The papers that have a plan, with all of it."""
        return whole((entry.fit for entry in self.state.entries), pieces=False)

    @cached_property
    def state(self) -> Papers:
        """How its papers stand."""
        return papers_in(self.card_class)

    @cached_property
    def waiting(self) -> list[str]:
        """The papers without one, or with one for something else."""
        return [entry.fit.name for entry in self.state.entries if not entry.fit.answered]

    @cached_property
    def papers(self) -> list[PaperSpent]:
        """What each paper takes."""
        return [_spent(fit, self._of_pads.get(fit.paper.key)) for fit in self.fits]

    @cached_property
    def _of_pads(self) -> dict[str, Decimal]:
        """By the key of a paper that is bought in a pad what one sheet of that costs."""
        pads = Pad.objects.of(self.card_class.owner).exclude(price=None)
        return {key: pad.price / sum(pad.holds.values()) for pad in pads for key in pad.holds}

    @cached_property
    def each(self) -> dict[str, Fraction]:
        """By a piece's handle, or a bit's key, what one of it costs; of a bit by the length a tick of it."""
        found: dict[str, Fraction] = {}
        for paper in self.papers:
            found |= paper.of_each()
        for bit in Bit.objects.of(self.card_class.owner).exclude(price=None):
            found[bit_key(bit.name, bit.by_length)] = Fraction(bit.price) / bit.pack
        return found

    @cached_property
    def unpriced(self) -> list[str]:
        """Papers and bits without a price: they cost nothing here."""
        named = [paper.name for paper in self.papers if paper.cost is None]
        bits = [entry.name for entry in self.counted.bits if bit_key(entry.name, bool(entry.length)) not in self.each]
        return list(dict.fromkeys([*named, *bits]))

    @cached_property
    def weights(self) -> Weights:
        """What everything weighs."""
        return weights_of(self.board)

    @cached_property
    def kits(self) -> list[KitCost]:
        """What one kit of each offer costs, on average over all of them."""
        rows: dict[str, list[Kit]] = {}
        for kit in self.counted.packed.kits:
            rows.setdefault(kit.offer, []).append(kit)
        return [self._kit(self.offers.get(key, self.usual), kits) for key, kits in rows.items()]

    @property
    def usual_kit(self) -> KitCost | None:
        """What a kit of the usual offer costs; None if none is made."""
        return next((kit for kit in self.kits if kit.name == (self.usual.name or A_SET)), None)

    def _kit(self, offer: Offer, kits: list[Kit]) -> KitCost:
        many = len(kits)
        paper = sum((self._of(kit.items, bits=False) for kit in kits), Fraction(0))
        bits = sum((self._of(kit.items, bits=True) for kit in kits), Fraction(0))
        post = sum((Fraction(self.post_of(kit) or 0) for kit in kits), Fraction(0))
        lines = sum((self._lines_of(offer, kit) for kit in kits), Decimal(0))
        price = Decimal(0) if offer.free_above is not None else price_for(offer, NOBODY)
        name = offer.name or A_SET
        shares = {"paper": paper / many, "bits": bits / many, "post": post / many, "lines": Fraction(lines) / many}
        return KitCost(name=name, count=many, price=price, **shares)

    def _lines_of(self, offer: Offer, kit: Kit) -> Decimal:
        """What is written for a kit, and for the person who has it where it is their first."""
        theirs = kit.origin in (PERSON, UNNAMED) and offer.free_above is None and (kit.number == 1 or not kit.person)
        cards = sum(bag.cards for bag in kit.bags)
        times = {KIT: 1, EACH: int(theirs), CARD: cards}
        return sum((line.amount * times.get(line.per, 0) for line in self.lines), Decimal(0))

    def _of(self, items: tuple[Item, ...], *, bits: bool) -> Fraction:
        """What things cost together; most kits hold the same."""
        if (items, bits) not in self._known:
            self._known[items, bits] = self._summed(items, bits=bits)
        return self._known[items, bits]

    def _summed(self, items: Iterable[Item], *, bits: bool) -> Fraction:
        mine = [item for item in items if (item.kind == BIT) == bits]
        if bits:
            return of_items(((bit_key(i.key, bool(i.length)), i.count * (i.length or 1)) for i in mine), self.each)
        return of_items(((item.key, item.count) for item in mine), self.each)

    def goes_by_post(self, kit: Kit) -> bool:
        """Whether a kit is sent."""
        sent = self.people[kit.person].sent if kit.person in self.people else ""
        if sent in (INSIDE, ABROAD) or (kit.offer in self.offers and self.offers[kit.offer].with_post):
            return sent != PICKED
        return sent != PICKED and self.card_class.where == CardClass.Where.POST

    def post_of(self, kit: Kit) -> Decimal | None:
        """What sending a kit costs; None if it is not sent, or no rate takes it."""
        if not self.rates or not self.goes_by_post(kit):
            return None
        grams = self.weights.of_kit(kit).most
        thick = parcel_of(kit.items, self.weights.sides).thick
        rate = post_for(self.rates, grams, -(-thick // TICKS_PER_MM))
        return rate.price if rate else None

    @cached_property
    def posted(self) -> tuple[int, int]:
        """How many kits are sent, and for how many of them no rate is written."""
        sent = [kit for kit in self.counted.packed.kits if self.goes_by_post(kit)]
        return len(sent), sum(self.post_of(kit) is None for kit in sent)

    @cached_property
    def sum(self) -> ClassSum:
        """What it brings, costs and leaves."""
        usual = self.usual_kit
        once = sum((line.amount for line in self.lines if line.per == ONCE), Decimal(0))
        own = cents(self._own())
        return ClassSum(
            income=tuple(self._income()),
            costs=tuple(self._costs(own)),
            fixed=once + own,
            each=usual.left if usual else None,
        )

    def _own(self) -> Fraction:
        """What is in no kit: samples, spares, the papers and bits of them."""
        paper = sum((Fraction(paper.spent) for paper in self.papers), Fraction(0))
        return paper - sum((kit.paper * kit.count for kit in self.kits), Fraction(0))

    def _income(self) -> Iterable[Entry]:
        counted = [each for each in self.standings.by_person.values() if each.person.counted]
        goods = sum((each.person.amount for each in counted), Decimal(0))
        due = self.standings.sums.due - goods
        if counted:
            yield Entry(f"orders of {in_words(len(counted))}", due)
        own = sum(self.card_class.people.filter(state__in=COUNTED).values_list("own_share", flat=True), Decimal(0))
        if own:
            yield Entry("your own share of what they order beside them", own)
        for offer, count in self._unnamed().items():
            price = self.price_of(offer)
            if price is not None:
                yield Entry(f"{count} without a name, {self.offers[offer].name} at {price}", price * count)

    def _unnamed(self) -> dict[str, int]:
        kits = Counter(kit.offer for kit in self.counted.packed.kits if kit.origin == UNNAMED)
        return {offer: count for offer, count in kits.items() if offer in self.offers}

    def price_of(self, offer: str) -> Decimal | None:
        """What one of an offer costs somebody of whom nothing else is known."""
        return price_for(self.offers[offer], NOBODY)

    def _costs(self, own: Decimal) -> Iterable[Entry]:
        kits = sum(kit.count for kit in self.kits)
        papers = sum((paper.spent for paper in self.papers), Decimal(0))
        yield Entry(f"paper in {some(kits, 'kit')}, with its share of what is binned", papers - own)
        if own:
            yield Entry("paper of your samples and spares", own)
        if self.mishaps:
            yield Entry(f"{some(self.more_sheets, 'sheet')} opened for what was spoiled, or torn", self.mishaps)
        bits = cents(sum((kit.bits * kit.count for kit in self.kits), Fraction(0)))
        if bits:
            yield Entry("bits in the kits", bits)
        post = cents(sum((kit.post * kit.count for kit in self.kits), Fraction(0)))
        if post:
            yield Entry(f"post for {some(self.posted[0] - self.posted[1], 'kit')}", post)
        yield from lines_cost(self.lines, self.card_class.n_people, kits, self.cards)

    @cached_property
    def logs(self) -> list[CutLog]:
        """What was written when its papers were cut."""
        rows = CutLog.objects.filter(plan__class_paper__card_class=self.card_class)
        return list(rows.select_related("plan").defer("plan__job", "plan__plan"))

    @property
    def more_sheets(self) -> int:
        """Sheets opened for what was spoiled, or torn themselves."""
        return sum(log.lost_sheets for log in self.logs)

    @cached_property
    def mishaps(self) -> Decimal:
        """What those cost."""
        return cents(sum((_mishap(log) for log in self.logs), Fraction(0)))

    @cached_property
    def to_buy(self) -> Decimal:
        """What has to be bought for it, in whole packs."""
        return buying_list(self.card_class.owner, [self.card_class]).purchase.price

    @cached_property
    def saved(self) -> Saved:
        """What the plans save."""
        found = Saved()
        for fit, paper in zip(self.fits, self.papers, strict=True):
            alone = fit.shown.hints.get("apart") if fit.answered else None
            if alone:
                fewer = alone[0] - fit.shown.new_sheets
                found = Saved(
                    found.sheets + fewer,
                    found.cost + cents(_sheets_cost(paper, fewer)),
                    found.seconds + alone[1] - fit.shown.trimming,
                    found.known + 1,
                )
        return found

    @cached_property
    def cards_cost(self) -> list[CardCost]:
        """What one of each card costs."""
        return [_card_cost(read, self.each) for read in self.counted.designs]

    @cached_property
    def changes(self) -> list[Change]:
        """What would save sheets, the dearest first."""
        found = []
        for fit, paper in zip(self.fits, self.papers, strict=True):
            change = cheapest_change(fit, fit.shown.hints) if fit.answered else None
            if change:
                found.append(Change(paper.name, change[0], cents(_sheets_cost(paper, change[1]))))
        return sorted(found, key=lambda each: -each.cost)

    @cached_property
    def unwritten(self) -> list[str]:
        """Supplies that the designs name and no cost line speaks of: what is used up of them costs nothing here."""
        words = " ".join(line.words.casefold() for line in self.lines)
        named = [supply.name for supply, _ in supplies_in((card.entry for card in self.counted.cards), by_letter=True)]
        return [name for name in named if not any(len(w) > 2 and w in words for w in name.casefold().split())]

    @cached_property
    def cards(self) -> int:
        """How many cards are made."""
        return self.counted.all_cards

    @cached_property
    def growth(self) -> Growth:
        """What more people take of paper."""
        return growth_of(self.card_class, self.state)

    def _spares(self, number: int | None) -> Fraction:
        """What spares cost: as the class has them, or so many of every piece, or so many kits, as it counts them."""
        by_kit = self.card_class.spare_by == CardClass.SpareBy.KIT
        usual = self.usual_kit
        if by_kit:
            made = sum(kit.origin == SPARE for kit in self.counted.packed.kits)
            return (usual.cost if usual else Fraction(0)) * (made if number is None else number)
        if number is None:
            rows = [(item.key, item.count) for item in self.counted.packed.spare]
        else:
            rows = [(each.handle, number) for each in self.counted.counts if each.count and not each.piece.filler]
        return of_items(rows, self.each)

    def tried(self, people: int | None, price: Decimal | None, spares: int | None = None) -> ClassSum | None:
        """The same with another number of people of the usual offer, another price, or spares; None for nothing."""
        usual = self.usual_kit
        if usual is None or (people is None and price is None and spares is None):
            return None
        more = (people if people is not None else self.card_class.n_people) - self.card_class.n_people
        asked = price if price is not None else (usual.price or Decimal(0))
        ordered = sum(
            kit.origin in (PERSON, UNNAMED) for kit in self.counted.packed.kits if kit.offer == self.usual.key
        )
        income = [*self.sum.income]
        if price is not None:
            income.append(
                Entry(
                    f"{ordered} × {self.usual.name} at {asked} in place of {usual.price or 0}",
                    (asked - (usual.price or 0)) * ordered,
                )
            )
        costs = [*self.sum.costs]
        if spares is not None:
            costs.append(
                Entry(f"{spares} spares in place of those now", cents(self._spares(spares) - self._spares(None)))
            )
        if more:
            income.append(Entry(f"{in_words(abs(more))} {'more' if more > 0 else 'fewer'} at {asked}", asked * more))
            costs.append(Entry("their kits, as one costs now", cents(usual.cost * more)))
        return replace(self.sum, income=tuple(income), costs=tuple(costs), each=Fraction(asked) - usual.cost)


def _card_cost(read: ReadCard, each: Mapping[str, Fraction]) -> CardCost:
    letter = read.entry.letter
    lines = [(piece, each.get(f"{letter}{piece.number}", Fraction(0)) * piece.count) for piece in read.made_of.pieces]
    paper = sum((cost for _, cost in lines), Fraction(0))
    bits = of_items(((bit_key(bit.name, bool(bit.length)), bit.count or bit.length) for bit in read.bits), each)
    return CardCost(
        letter=letter,
        name=read.entry.card.name,
        paper=cents(paper),
        bits=cents(bits),
        whole=cents(paper + bits),
        pieces=tuple((f"{piece.count} {letter}{piece.number} {piece.name}", cents(cost)) for piece, cost in lines),
    )


def _sheets_cost(paper: PaperSpent, sheets: int) -> Fraction:
    """What so many more of its sheets cost, as those it takes do."""
    return Fraction(paper.cost) / paper.sheets * sheets if paper.cost and paper.sheets else Fraction(0)


def _by_pack(fit: PaperFit) -> Decimal | None:
    """What its new sheets cost by whole packs, all of its usual size."""
    paper = fit.paper
    if paper.price is None:
        return None
    return paper.price * paper.pack * -(-fit.shown.new_sheets // paper.pack)


def _spent(fit: PaperFit, pad_price: Decimal | None) -> PaperSpent:
    made = read_made(fit.shown)
    found = summarise(made.paper, made.plan, made.job.bench.keep_rule)
    sides = {piece.id: piece.width * piece.height for piece in made.paper.pieces}
    priced = fit.shown.cost if fit.shown.priced else None
    return PaperSpent(
        name=fit.name,
        sheets=fit.shown.sheets,
        cost=pad_price * fit.shown.sheets if priced is None and pad_price is not None else priced,
        used=found.used,
        kept=found.kept,
        areas={piece: sides[piece] * count for piece, count in found.made.items()},
        made=found.made,
        by_pack=_by_pack(fit),
    )


def _mishap(log: CutLog) -> Fraction:
    plan = log.plan
    if not plan.priced or not plan.sheets:
        return Fraction(0)
    return Fraction(plan.cost) / plan.sheets * log.lost_sheets
