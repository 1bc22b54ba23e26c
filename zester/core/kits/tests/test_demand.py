"""People, offers and substitutions counted; the same sums made another way, in a spreadsheet."""

import datetime
import io
import random
from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from openpyxl import Workbook, load_workbook

from zester.core.class_job import ShelfPaper, Wishes, paper_job, sharing
from zester.core.kits.demand import (
    ClassNeeds,
    Counts,
    Instead,
    demands_of,
    picked,
    picked_cards,
    seats_taken,
    with_people,
)
from zester.core.kits.offers import COUNTED, STATES, Choice, Offer, Person
from zester.core.kits.packing import pack
from zester.core.pieces import Bit, CutPiece
from zester.core.tally import KIT, CardPieces, Spare, bit_key_of, tally, tally_bits
from zester.core.tests.share import some

FULL = Offer(key="f", name="full kit", price=Decimal(30))
CARD_ONLY = Offer(
    key="c", name="card stock cut", pools={"card": "together", "patterned": "portions"}, price=Decimal(20)
)
CLASS_ONLY = Offer(key="o", name="class only", pools={"card": "none", "patterned": "none"}, kit_list=False)
PAIR = Offer(key="p", name="set of two", sets=2, price=Decimal(55))
KINDS = {"brass": "card", "stars": "patterned", "ember": "card"}


def piece(number: int, paper: str, count: int = 1, width: int = 400, height: int = 500) -> CutPiece:
    return CutPiece(number=number, count=count, name=f"piece {number}", width=width, height=height, paper=paper)


CARDS = [
    CardPieces("A", "Moon", (piece(1, "brass"), piece(2, "stars", 2)), (Bit("gem", 2),)),
    CardPieces("B", "Comet", (piece(1, "brass", 3),)),
]


def person(name: str, *orders: tuple[str, int], **more) -> Person:
    return Person(key=name, name=name, orders=orders, **more)


def needs(**more) -> ClassNeeds:
    base = {"cards": (Counts(letter="A", each=2, samples=1), Counts(letter="B", each=1)), "kinds": KINDS}
    return ClassNeeds(**(base | {"offers": (FULL, CARD_ONLY, CLASS_ONLY, PAIR)} | more))


def counted(of: ClassNeeds, cards=CARDS, **more) -> dict[str, tuple[str, int]]:
    rows = tally(cards, demands_of(of), directions={"ember": "half"}, **more)
    return {row.handle: (row.piece.paper, row.count) for row in rows}


class DemandTests(TestCase):
    def test_a_class_without_offers_gives_everybody_a_set(self):
        of = needs(offers=(), unnamed=14)
        self.assertEqual(counted(of), {"A1": ("brass", 29), "A2": ("stars", 58), "B1": ("brass", 42)})
        (row, *_) = tally(CARDS, demands_of(of))
        self.assertEqual(row.why, "14 people × 2 + 1 sample = 29 cards; 1 in each card: 29 × 1 = 29")

    def test_offers_say_which_papers_and_how_many_sets(self):
        people = (person("Ines", ("f", 1)), person("Odo", ("c", 1)), person("Pell", ("o", 1)), person("Eda", ("p", 1)))
        rows = {row.handle: row for row in tally(CARDS, demands_of(needs(people=people)))}
        # A: full 2, card stock 2, class only nothing, set of two 4, and the sample.
        self.assertEqual([rows[name].count for name in ("A1", "A2", "B1")], [9, 18, 12])
        self.assertIn(
            "full kit: 1 × 2 + card stock cut: 1 × 2 + set of two: 1 × 4 + 1 sample = 9 cards", rows["A1"].why
        )

    def test_only_some_designs(self):
        only = replace(FULL, cards={"B": 3})
        self.assertEqual(
            counted(needs(offers=(only,), unnamed=2)), {"A1": ("brass", 1), "A2": ("stars", 2), "B1": ("brass", 18)}
        )

    def test_who_is_counted_and_who_takes_a_seat(self):
        people = tuple(person(state, ("f", 1), state=state) for state in STATES)
        of = needs(people=people, unnamed=3)
        self.assertEqual(seats_taken(of), len(COUNTED) + 3)
        self.assertEqual(counted(of)["B1"], ("brass", 3 * (len(COUNTED) + 3)))

    def test_give_aways_and_spares_as_a_number_or_a_share_rounded_up_by_piece_or_by_kit(self):
        of = needs(offers=(), unnamed=13, give_aways=2)
        self.assertEqual(counted(of)["B1"], ("brass", 45))
        # 10 % of 13 kits is 1.3: two kits more.
        self.assertEqual(counted(replace(of, spare_kits=Spare(percent=10)))["B1"], ("brass", 51))
        self.assertEqual(counted(replace(of, spare_kits=Spare(number=1)))["B1"], ("brass", 48))
        # 10 % of 45 pieces is 4.5: five pieces more.
        self.assertEqual(counted(of, spare=Spare(percent=10))["B1"], ("brass", 50))
        self.assertEqual(counted(of, spare=Spare(number=3))["B1"], ("brass", 48))

    def test_the_kit_list_comes_once_a_person_not_once_a_set(self):
        cards = [*CARDS, CardPieces(KIT, "kit", (piece(1, "brass"),), (Bit("catalogue", 1),))]
        people = (person("Ines", ("f", 1)), person("Eda", ("p", 2)), person("Pell", ("o", 1)))
        of = needs(people=people, has_kit_list=True)
        self.assertEqual(counted(of, cards)["Kit1"], ("brass", 3))
        bits = {bit.name: bit.count for bit in tally_bits(cards, demands_of(of))}
        self.assertEqual(bits["catalogue"], 3)

    def test_without_bits_an_offer_takes_none(self):
        people = (person("Ines", ("f", 1)), person("Pell", ("o", 1)))
        offers = (FULL, replace(CLASS_ONLY, bits=False))
        bits = tally_bits(CARDS, demands_of(needs(offers=offers, people=people)))
        # Two gems in each of her two cards, and in the sample.
        self.assertEqual([(bit.name, bit.count) for bit in bits], [("gem", 6)])

    def test_more_people_have_no_name_and_of_fewer_the_last_stay_away(self):
        of = needs(
            people=(person("Ines", ("f", 1)), person("Odo", ("f", 1)), person("Runa", state="waiting")), unnamed=1
        )
        self.assertEqual([seats_taken(with_people(of, more)) for more in (2, 0, -1, -2, -9)], [5, 3, 2, 1, 0])
        self.assertEqual([each.name for each in with_people(of, -2).people], ["Ines", "Runa"])

    def test_a_gift_is_free_from_an_amount_between_two_dates(self):
        day = datetime.date
        dates = {"free_from": day(2026, 11, 1), "free_until": day(2026, 11, 30)}
        gift = Offer(key="g", name="gift", cards={"B": 1}, free_above=Decimal(55), **dates)
        people = (
            person("enough", ("f", 2), ordered_on=day(2026, 11, 1)),
            person("exactly", ("p", 1), ordered_on=day(2026, 11, 30)),
            person("too little", ("f", 1), ordered_on=day(2026, 11, 5)),
            person("too late", ("f", 2), ordered_on=day(2026, 12, 1)),
            person("cancelled", ("f", 2), ordered_on=day(2026, 11, 2), state="cancelled"),
        )
        lines = [line for line in demands_of(needs(offers=(FULL, PAIR, gift), people=people)) if "gift" in line.why]
        self.assertEqual([(line.card, line.count) for line in lines], [("B", 2)])
        self.assertIn("free from 55", lines[0].why)

    def test_choices_are_counted_and_the_rest_is_guessed_in_equal_shares(self):
        choice = Choice(number=2, among=("s1", "s2", "s3"), width=600, height=600)
        of = needs(
            offers=(replace(FULL, choice=choice),),
            people=(person("Ines", ("f", 1), chosen=("s1", "s2")), person("Odo", ("f", 2), chosen=("s1",))),
            unnamed=3,
        )
        # Ines 1 + 1, Odo twice s1; open: Odo 2, the unnamed 6: 8 choices over 3 papers, rounded up.
        found = {each.paper: (each.chosen, each.guessed) for each in picked(of)}
        self.assertEqual(found, {"s1": (3, 3), "s2": (1, 3), "s3": (0, 3)})
        cards, lines = picked_cards(picked(of), {"s2": "half"})
        rows = tally(cards, lines)
        self.assertEqual([(row.handle, row.count) for row in rows], [("Pa1", 6), ("Pb1", 4), ("Pc1", 3)])
        self.assertFalse(rows[1].piece.turn)
        self.assertIn("a guess of 3: 8 choices open, an equal share of 3 papers", rows[0].why)


class InsteadTests(TestCase):
    def test_for_everybody_samples_too(self):
        of = needs(offers=(), unnamed=5, instead=(Instead(paper="brass", other="ember", name="Ember"),))
        found = counted(of)
        self.assertEqual((found["A1"], found["A1′"], found["A2"]), (("brass", 0), ("ember", 11), ("stars", 22)))
        self.assertEqual((found["B1"], found["B1′"]), (("brass", 0), ("ember", 15)))

    def test_for_some_people_and_for_the_last_kits(self):
        people = tuple(person(name, ("f", 1)) for name in ("Ines", "Odo", "Tove"))
        some = Instead(paper="brass", other="ember", name="Ember", who="some", people=frozenset({"Odo"}))
        self.assertEqual(counted(needs(people=people, instead=(some,)))["A1′"], ("ember", 2))
        last = Instead(paper="brass", other="ember", name="Ember", who="last", last=2)
        found = counted(needs(people=people, unnamed=1, give_aways=1, instead=(last,)))
        # The last two kits of people: the one without a name and Tove's; the give-away is nobody's.
        self.assertEqual((found["A1"], found["A1′"]), (("brass", 7), ("ember", 4)))

    def test_one_after_the_other_and_back(self):
        to_ember = Instead(paper="brass", other="ember", name="Ember")
        back = Instead(paper="ember", other="brass", name="Brass")
        self.assertEqual(counted(needs(offers=(), unnamed=2, instead=(to_ember, back)))["A1"], ("brass", 5))

    def test_for_orders_from_a_day_on(self):
        early, late = datetime.date(2027, 3, 1), datetime.date(2027, 3, 2)
        people = (
            replace(person("Ines", ("f", 1)), ordered_on=early),
            replace(person("Odo", ("f", 1)), ordered_on=late),
            person("Tove", ("f", 1)),
        )
        since = Instead(paper="brass", other="ember", name="Ember", who="since", since=late)
        # Odo's, and that of the one without a name, who has not ordered yet; nobody knows when Tove did.
        self.assertEqual(counted(needs(people=people, unnamed=1, instead=(since,)))["A1′"], ("ember", 4))

    def test_a_bit_for_some_kits_and_none_is_lost(self):
        people = tuple(person(name, ("f", 1)) for name in ("Ines", "Odo"))
        cards = [
            replace(card, bits=(Bit(name="Gems", count=3), Bit(name="thread", count=0, length=500))) for card in CARDS
        ]
        plain = needs(people=people)
        some_of = Instead(
            paper=bit_key_of("gems"), other="+pearls", name="pearls", who="some", people=frozenset({"Odo"})
        )
        mixed = replace(plain, instead=(some_of,))
        before = {row.name: (row.count, row.length) for row in tally_bits(cards, demands_of(plain))}
        after = {row.name: (row.count, row.length) for row in tally_bits(cards, demands_of(mixed))}
        self.assertEqual(before["thread"], after["thread"])
        self.assertEqual(before["Gems"][0], after["Gems"][0] + after["pearls"][0])
        self.assertGreater(after["pearls"][0], 0)
        packed = pack(mixed, cards, tally(cards, demands_of(mixed)))
        theirs = {kit.person: {item.key for item in kit.items if item.kind == "bit"} for kit in packed.kits}
        self.assertTrue({"Gems", "pearls"} & theirs["Ines"] == {"Gems"} and "Gems" not in theirs["Odo"])
        self.assertIn("pearls", theirs["Odo"])

    def test_pieces_lie_as_the_other_paper_asks(self):
        of = needs(offers=(), unnamed=2, instead=(Instead(paper="brass", other="ember", name="Ember"),))
        row = next(row for row in tally(CARDS, demands_of(of), directions={"ember": "upright"}) if row.written)
        self.assertEqual((row.piece.turn, row.piece.upright, row.written), (False, True, "brass"))

    def test_no_piece_is_lost_whatever_is_taken_instead(self):
        for seed in range(some(60)):
            of = random_needs(random.Random(seed))
            plain = tally(CARDS, demands_of(replace(of, instead=())))
            mixed = tally(CARDS, demands_of(of))
            self.assertEqual(sum(row.count for row in plain), sum(row.count for row in mixed), seed)


class SharingTests(TestCase):
    def job(self, of: ClassNeeds):
        rows = [row for row in tally(CARDS, demands_of(of)) if row.piece.paper == "stars" and row.count]
        return sharing(rows), paper_job(ShelfPaper(key="stars", name="Stars", width=1200, height=1200), rows, Wishes())

    def test_those_who_cut_themselves_get_portions_and_the_others_pieces(self):
        people = (person("Ines", ("f", 1)), person("Odo", ("c", 1)), person("Tove", ("c", 2)))
        shared, job = self.job(needs(people=people))
        self.assertEqual((shared.pool, shared.kits, shared.others), ("portions", 3, 0))
        # Three kits with four pieces each, and four pieces for Ines and two for the sample.
        self.assertEqual((job.pool, job.people, job.pieces[0].each, job.pieces[0].count), ("portions", 3, 4, 18))

    def test_kits_that_hold_other_pieces_are_cut_for_them_and_that_is_said(self):
        other = replace(CARD_ONLY, key="x", name="half", cards={"A": 1})
        people = (person("Odo", ("c", 1)), person("Tove", ("c", 1)), person("Ines", ("x", 1)))
        shared, _ = self.job(needs(offers=(FULL, CARD_ONLY, other), people=people))
        self.assertEqual((shared.pool, shared.kits, shared.others), ("portions", 2, 1))


def random_needs(dice: random.Random) -> ClassNeeds:
    """A class with all that can be said of it."""
    names = [f"P{number}" for number in range(dice.randint(0, 12))]
    offers = dice.sample([FULL, CARD_ONLY, CLASS_ONLY, PAIR], dice.randint(1, 4))
    people = tuple(
        person(name, (dice.choice(offers).key, dice.randint(1, 3)), state=dice.choice(sorted(STATES))) for name in names
    )
    instead = tuple(
        Instead(
            paper=dice.choice(["brass", "stars"]),
            other="ember",
            name="Ember",
            who=dice.choice(["all", "some", "last"]),
            people=frozenset(dice.sample(names, len(names) // 2)),
            last=dice.randint(1, 5),
        )
        for _ in range(dice.randint(0, 2))
    )
    return ClassNeeds(
        cards=(
            Counts(letter="A", each=dice.randint(0, 3), samples=dice.randint(0, 2), spares=dice.randint(0, 2)),
            Counts(letter="B", each=dice.randint(0, 3)),
        ),
        unnamed=dice.randint(0, 9),
        people=people,
        offers=tuple(offers),
        give_aways=dice.randint(0, 2),
        instead=instead,
        kinds=KINDS,
    )


class SpreadsheetTests(TestCase):
    """The tally against a table of one row a kit and card, written with openpyxl and added up from the file."""

    def test_random_classes(self):
        for seed in range(some(40)):
            dice = random.Random(1000 + seed)
            of = replace(random_needs(dice), instead=())
            book = load_workbook(io.BytesIO(self.export(of)), read_only=True)
            sums: dict[str, int] = {}
            for handle, count in book.active.iter_rows(min_row=2, values_only=True):
                sums[handle] = sums.get(handle, 0) + count
            found = {row.handle: row.count for row in tally(CARDS, demands_of(of))}
            self.assertEqual({name: count for name, count in found.items() if count}, sums, seed)

    def export(self, of: ClassNeeds) -> bytes:
        """Every kit written out piece by piece."""
        book = Workbook()
        book.active.append(("piece", "count"))
        offers = {offer.key: offer for offer in of.offers}
        kits = [offers[key] for one in of.people if one.state in COUNTED for key, n in one.orders for _ in range(n)]
        kits += [of.offers[0]] * (of.unnamed + of.give_aways)
        for offer in kits:
            for card, counts in zip(CARDS, of.cards, strict=True):
                self.rows(book, card, counts.each * offer.sets, offer)
        for card, counts in zip(CARDS, of.cards, strict=True):
            self.rows(book, card, counts.samples + counts.spares, None)
        out = io.BytesIO()
        book.save(out)
        return out.getvalue()

    def rows(self, book: Workbook, card: CardPieces, cards: int, offer: Offer | None) -> None:
        for _ in range(cards):
            for each in card.pieces:
                if offer is None or offer.pools.get(KINDS[each.paper]) != "none":
                    book.active.append((f"{card.letter}{each.number}", each.count))
