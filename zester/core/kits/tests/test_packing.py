"""What all kits hold adds up to what is cut and counted; what a kit holds is what was ordered."""

from __future__ import annotations

import random
from collections import Counter
from decimal import Decimal
from unittest import TestCase

from zester.core.kits.demand import ClassNeeds, Counts, Instead, demands_of, picked, picked_cards
from zester.core.kits.offers import Choice, Offer, Person
from zester.core.kits.packing import ALL, BAGGINGS, BY_CARD, BY_DESIGN, BY_KIT, PIECE, Packed, bags_made, pack
from zester.core.pieces import Bit, CutPiece
from zester.core.tally import KIT, NO_SPARE, CardPieces, Demand, Spare, tally, tally_bits
from zester.core.tests.share import some

PAPERS = ("brass", "dome", "stars", "rays", "ember")
KINDS = {"brass": "card", "dome": "card", "stars": "patterned", "rays": "patterned", "ember": "card"}


def piece(number: int, paper: str, count: int = 1, **more) -> CutPiece:
    return CutPiece(number=number, count=count, name=f"piece {number}", width=400, height=500, paper=paper, **more)


CARDS = (
    CardPieces("A", "Moon", (piece(1, "brass"), piece(2, "stars", 2)), (Bit("gems", 2), Bit("envelope", 1))),
    CardPieces("B", "Comet", (piece(1, "dome"), piece(2, "stars")), (Bit("thread", length=2540),)),
)
COUNTS = (Counts(letter="A", each=2, samples=1), Counts(letter="B", each=1))


def packed(needs: ClassNeeds, cards=CARDS, spare: Spare = NO_SPARE, bagging: str = BY_DESIGN) -> Packed:
    """A class packed, with the tally made beside it as the application makes it."""
    chosen = picked(needs)
    more, lines = picked_cards(chosen, {})
    known = {card.letter for card in cards}
    demands = [line for line in demands_of(needs) if line.card in known]
    counts = tally([*cards, *more], [*demands, *lines], spare)
    return pack(needs, cards, counts, chosen, spare=spare, bagging=bagging)


def inside(items) -> dict[str, int]:
    return {item.key: item.count for item in items}


class PackTests(TestCase):
    def test_a_bag_for_every_design_holds_what_its_cards_need_with_their_envelopes(self):
        kit = packed(ClassNeeds(cards=COUNTS, unnamed=3, kinds=KINDS)).kits[0]
        self.assertEqual([bag.name for bag in kit.bags], ["A", "B"])
        self.assertEqual(inside(kit.bags[0].items), {"A1": 2, "A2": 4, "gems": 4, "envelope": 2})
        self.assertEqual([(item.count, item.length) for item in kit.bags[1].items if item.length], [(1, 2540)])
        self.assertEqual(kit.beside, ())

    def test_a_bag_for_every_card_leaves_the_envelopes_beside_them(self):
        kit = packed(ClassNeeds(cards=COUNTS, unnamed=3, kinds=KINDS), bagging=BY_CARD).kits[0]
        self.assertEqual([bag.name for bag in kit.bags], ["A 1", "A 2", "B"])
        self.assertEqual(inside(kit.bags[0].items), {"A1": 1, "A2": 2, "gems": 2})
        self.assertEqual(inside(kit.beside), {"envelope": 2})

    def test_everything_in_one_bag(self):
        kit = packed(ClassNeeds(cards=COUNTS, unnamed=3, kinds=KINDS), bagging=BY_KIT).kits[2]
        (bag,) = kit.bags
        self.assertEqual((bag.letter, bag.cards, bag.key), (ALL, 3, "u-0-3-all"))
        self.assertEqual(inside(bag.items), {"A1": 2, "A2": 4, "B1": 1, "B2": 1, "gems": 4, "envelope": 2, "thread": 1})

    def test_who_cuts_at_home_gets_portions_beside_the_bags(self):
        home = Offer(key="h", name="cut at home", pools={"patterned": "portions"})
        kit = packed(ClassNeeds(cards=COUNTS, unnamed=2, offers=(home,), kinds=KINDS)).kits[0]
        self.assertEqual(inside(kit.bags[0].items), {"A1": 2, "gems": 4, "envelope": 2})
        self.assertEqual([(item.key, item.count, item.how) for item in kit.beside], [
            ("A2", 4, "portions"), ("B2", 1, "portions"),
        ])  # fmt: skip

    def test_who_brings_everything_gets_no_kit_and_a_cancelled_one_is_not_made(self):
        only = Offer(key="o", name="class only", pools={"card": "none", "patterned": "none"}, bits=False)
        people = (
            Person(key="1", name="Ines", orders=(("o", 1),)),
            Person(key="2", name="Odo", state="cancelled", orders=(("o", 1),)),
        )
        (kit,) = packed(ClassNeeds(cards=COUNTS, people=people, offers=(only,), kinds=KINDS)).kits
        self.assertTrue(kit.is_empty)

    def test_another_paper_makes_another_stack_and_keeps_its_handle(self):
        instead = Instead(paper="brass", other="ember", name="Ember", who="last", last=2)
        found = packed(ClassNeeds(cards=COUNTS, unnamed=5, instead=(instead,), kinds=KINDS))
        stacks = [stack for stack in found.stacks if stack.letter == "A"]
        self.assertEqual([len(stack.bags) for stack in stacks], [3, 2])
        self.assertEqual(
            [inside(stack.items)[f"A1{mark}"] for stack, mark in zip(stacks, ("", "′"), strict=True)], [2, 2]
        )
        self.assertEqual([kit.key for kit, _ in stacks[1].bags], ["u-0-4", "u-0-5"])

    def test_a_kit_is_known_by_the_same_key_whoever_else_comes_or_stays_away(self):
        full = Offer(key="7", name="full kit")
        ines, odo = (Person(key=key, name=key, orders=(("7", 2),)) for key in ("11", "12"))
        both = packed(ClassNeeds(cards=COUNTS, people=(ines, odo), offers=(full,), kinds=KINDS))
        alone = packed(ClassNeeds(cards=COUNTS, people=(odo,), offers=(full,), kinds=KINDS))
        self.assertEqual([kit.key for kit in alone.kits], ["p12-7-1", "p12-7-2"])
        self.assertEqual([kit.key for kit in both.kits][2:], ["p12-7-1", "p12-7-2"])
        self.assertEqual(len(both.bags), 8)


class RandomClassTests(TestCase):
    """Offers, choices, substitutions, versions of cards and cancellations, thrown together by a seed."""

    def test_all_kits_and_the_teachers_own_add_up_to_the_tally(self):
        seen: Counter = Counter()
        for seed in range(some(300)):
            dice = random.Random(seed)
            cards, needs, spare = random_class(dice)
            bagging = dice.choice(list(BAGGINGS))
            chosen = picked(needs)
            more, lines = picked_cards(chosen, {})
            known = {card.letter for card in cards}
            demands = demands_of(needs)
            made = [line for line in demands if line.card in known]
            counts = tally([*cards, *more], [*made, *lines], spare)
            found = pack(needs, cards, counts, chosen, spare=spare, bagging=bagging)
            wanted: Counter = Counter({(PIECE, each.handle, False): each.count for each in counts if each.count})
            wanted += bits_wanted(cards, needs, made, demands)
            got = Counter({key: count for key, count in found.in_all.items() if key[0] != "choice"})
            self.assertEqual(got, wanted, seed)
            self.undecided(found, chosen, seed)
            keys = [bag.key for kit in found.kits for bag in kit.bags] + [kit.key for kit in found.kits]
            self.assertEqual(len(keys), len(set(keys)), seed)
            self.assertEqual(sum(len(stack.bags) for stack in found.stacks), len(found.bags), seed)
            self.assertEqual(bags_made(needs, cards, counts, chosen, bagging=bagging), len(found.bags), seed)
            seen["home"] += any(item.at_home for kit in found.kits for item in kit.beside)
            seen["other paper"] += any("′" in item.key for kit in found.kits for item in kit.items)
            seen["empty"] += any(kit.is_empty for kit in found.kits)
            seen["chosen"] += bool(chosen)
        # The dice have really thrown what is claimed.
        for what in ("home", "other paper", "chosen"):
            self.assertGreater(seen[what], some(30), what)
        self.assertGreater(seen["empty"], some(10))

    def undecided(self, found: Packed, chosen, seed: int) -> None:
        """Papers still to choose are as many as the tally guesses for."""
        still = {each.offer: each.undecided for each in chosen}
        got = {offer: found.in_all["choice", offer, False] for offer in still}
        self.assertEqual(got, still, seed)


def bits_wanted(cards, needs: ClassNeeds, made: list[Demand], demands: list[Demand]) -> Counter:
    """The tally of bits, in the shape of what is packed."""
    extras = [CardPieces(f"+{offer.key}", offer.name, (), offer.extras) for offer in needs.offers if offer.extras]
    bits = tally_bits([*cards, *extras], [*made, *(line for line in demands if line.card.startswith("+"))])
    return Counter({
        ("bit", bit.name, bool(bit.length)): bit.length or bit.count for bit in bits if bit.length or bit.count
    })  # fmt: skip


def random_class(dice: random.Random) -> tuple[tuple[CardPieces, ...], ClassNeeds, Spare]:
    """A class nobody would hold."""
    letters = "ABCD"[: dice.randint(1, 4)]
    cards = [CardPieces(letter, letter, random_pieces(dice), random_bits(dice)) for letter in letters]
    if dice.random() < 0.5:
        cards.append(CardPieces(KIT, "Kit list", random_pieces(dice), (Bit("pencil", 1),)))
    offers = tuple(random_offer(dice, key, letters) for key in range(dice.randint(0, 3)))
    keys = [offer.key for offer in offers if offer.free_above is None]
    people = tuple(random_person(dice, number, keys) for number in range(dice.randint(0, 6)))
    by_kit = dice.random() < 0.4
    spare = Spare(number=dice.randint(0, 2)) if dice.random() < 0.5 else Spare(percent=dice.randint(0, 20))
    needs = ClassNeeds(
        cards=tuple(
            Counts(letter=letter, each=dice.randint(0, 3), samples=dice.randint(0, 1), spares=dice.randint(0, 2))
            for letter in letters
        ),
        unnamed=dice.randint(0, 5),
        people=people,
        offers=offers,
        give_aways=dice.randint(0, 2),
        spare_kits=spare if by_kit else NO_SPARE,
        instead=tuple(random_instead(dice, people) for _ in range(dice.randint(0, 3))),
        pools={paper: dice.choice(("together", "own", "portions", "whole")) for paper in dice.sample(PAPERS, 2)},
        kinds=KINDS,
        has_kit_list=any(card.letter == KIT for card in cards),
    )
    return tuple(cards), needs, NO_SPARE if by_kit else spare


def random_pieces(dice: random.Random) -> tuple[CutPiece, ...]:
    """Those of the version that is made, of a list for two."""
    written = (
        piece(
            number,
            dice.choice(PAPERS),
            dice.randint(1, 3),
            filler=dice.random() < 0.1,
            only="stepped-up" if dice.random() < 0.2 else "",
        )
        for number in range(1, dice.randint(1, 5) + 1)
    )
    version = dice.choice(("", "stepped-up"))
    return tuple(each for each in written if each.only in ("", version))


def random_bits(dice: random.Random) -> tuple[Bit, ...]:
    known = (Bit("gems", 3), Bit("envelope", 1), Bit("thread", length=2540), Bit("thread", length=1270))
    return tuple(dice.sample(known, dice.randint(0, 3)))


def random_offer(dice: random.Random, key: int, letters: str) -> Offer:
    ways = ("together", "own", "portions", "whole", "none")
    pools = {kind: dice.choice(ways) for kind in ("card", "patterned") if dice.random() < 0.5}
    choice = None
    if dice.random() < 0.4:
        among = tuple(dice.sample(PAPERS, dice.randint(1, 3)))
        at_home = dice.random() < 0.3
        choice = Choice(number=dice.randint(1, len(among)), among=among, width=300, height=300, at_home=at_home)
    return Offer(
        key=str(key),
        name=f"offer {key}",
        sets=dice.randint(1, 2),
        cards={letter: dice.randint(0, 2) for letter in letters} if dice.random() < 0.3 else None,
        pools=pools,
        extras=(Bit("paint", 1),) if dice.random() < 0.3 else (),
        kit_list=dice.random() < 0.7,
        bits=dice.random() < 0.7,
        price=Decimal(20),
        free_above=Decimal(30) if key and dice.random() < 0.3 else None,
        choice=choice,
    )


def random_person(dice: random.Random, number: int, keys: list[str]) -> Person:
    state = dice.choice(("booked", "paid", "packed", "cancelled", "waiting"))
    chosen = tuple(dice.sample(PAPERS, dice.randint(0, 3)))
    orders = tuple((key, dice.randint(1, 3)) for key in dice.sample(keys, dice.randint(0, len(keys))))
    return Person(key=str(number), name=f"person {number}", state=state, orders=orders, chosen=chosen)


def random_instead(dice: random.Random, people: tuple[Person, ...]) -> Instead:
    paper, other = dice.sample(PAPERS, 2)
    who = dice.choice(("all", "some", "last"))
    some = frozenset(person.key for person in people if dice.random() < 0.5)
    return Instead(paper=paper, other=other, name=other, who=who, people=some, last=dice.randint(1, 4))
