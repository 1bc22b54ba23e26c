"""Weights, coverage, the people's table, what is cut at home and the order of gluing, at their edges."""

from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from zester.core.errors import ZesterError
from zester.core.fitting.jobs.drawing import lay_parts
from zester.core.kits.coverage import BitNeed, SizeNeed, add_bits, area_of, bit_key, least_sheets
from zester.core.kits.demand import picked_letters
from zester.core.kits.lacking import lack_of, wanted_of
from zester.core.kits.offers import Choice, Offer, Person, amount_of, is_free_for, usual_offer
from zester.core.kits.packing import BY_CARD, BY_KIT
from zester.core.kits.people_table import COLUMNS, lines_of_csv
from zester.core.kits.tests.test_assembly import SIDE, steps_of
from zester.core.kits.tests.test_packing import CARDS, COUNTS, KINDS, ClassNeeds, inside, packed, piece
from zester.core.kits.tests.test_ways import INCH
from zester.core.kits.tests.test_ways import piece as part
from zester.core.kits.ways import ways_of
from zester.core.kits.weights import Weight, shows
from zester.core.pieces import Bit
from zester.core.stock.ledger import Held
from zester.core.tally import KIT, CardPieces, PieceCount


class WeightEdgeTests(TestCase):
    def test_what_a_scale_shows(self):
        for milligrams, off, least, most, words in (
            (1400, 0, 0, 2, "1.4 g"),
            (1499, 0, 0, 2, "1.5 g"),
            (1501, 0, 1, 3, "2 g (1 to 3)"),
            (6500, 0, 6, 7, "6 g (6 to 7)"),
            (6499, 0, 5, 7, "6 g (5 to 7)"),
            (6501, 0, 6, 8, "7 g (6 to 8)"),
            (6500, 1, 5, 8, "6 g (5 to 8)"),
            (100, 900, 0, 2, "0.1 g"),
            (123_456, 0, 122, 124, "123 g (122 to 124)"),
        ):
            weight = Weight(milligrams, off)
            self.assertEqual((weight.least, weight.most, weight.words), (least, most, words), milligrams)
        self.assertEqual((Weight(149_949).grams, Weight(150_050).grams), (Decimal("149.9"), Decimal("150.0")))

    def test_sums_keep_what_is_guessed_and_what_nobody_knows(self):
        one, other = Weight(10, 1, True, ("bow",)), Weight(20, 2, False, ("gem", "bow"))
        for both in (one + other, other + one):
            self.assertEqual((both.milligrams, both.off, both.guessed), (30, 3, True))
            self.assertEqual(set(both.unknown), {"bow", "gem"})
        self.assertFalse((other + other).guessed)
        self.assertEqual(one.times(3), Weight(30, 3, True, ("bow",)))
        self.assertEqual([shows(Weight(n), Weight(0)) for n in (1000, 1001)], [False, True])


class CoverageEdgeTests(TestCase):
    def test_bits_of_several_classes(self):
        rows = [("gem", 3, 0, "A"), ("Gems", 4, 0, "B"), ("thread", 0, 500, "C")]
        there = {bit_key("gem", False): 5, bit_key("thread", True): None}
        gems, thread = add_bits(rows, there)
        self.assertEqual((gems.name, gems.needed, gems.why, gems.lacking, gems.others), ("gem", 7, "A + B", 2, 0))
        self.assertEqual((thread.by_length, thread.needed, thread.lacking), (True, 500, 500))
        gems, _ = add_bits(rows, there, [("GEM", 1, 0, ""), ("gems", 3, 0, ""), ("thread", 0, 9, "")])
        self.assertEqual((gems.others, gems.free, gems.lacking), (4, 1, 6))
        self.assertEqual(BitNeed(name="x", by_length=False, needed=3, why="", on_hand=3).lacking, 0)

    def test_sheets_of_a_kind_in_words(self):
        def need(on_hand, planned: int, others: int, lacking: int) -> SizeNeed:
            held = Held(on_hand=on_hand, reserved=planned + others)
            return SizeNeed(
                key="sheet", size="letter", is_offcut=False, planned=planned, held=held, others=others, lacking=lacking
            )

        self.assertEqual((need(9, 4, 3, 0).free, need(9, 4, 12, 4).free, need(None, 4, 0, 4).free), (6, 0, None))
        self.assertEqual(need(9, 4, 0, 0).why, "4 planned, 9 on hand: enough")
        self.assertEqual(need(9, 7, 3, 1).why, "7 planned, 9 on hand, 3 promised to other classes: 1 sheet to buy")
        self.assertIn("nobody counts this paper", need(None, 4, 0, 4).why)

    def test_the_least_number_of_sheets_is_that_of_the_area(self):
        def count(number: int, **more) -> PieceCount:
            return PieceCount(handle="A1", card="", piece=piece(1, "x", **more), count=number, why="")

        # Pieces of 400 × 500 on a sheet of 1000 × 1000: five fill it.
        for number, least in ((0, 0), (1, 1), (5, 1), (6, 2), (10, 2), (11, 3)):
            self.assertEqual(least_sheets([count(number)], 1000, 1000), least, number)
        self.assertEqual(least_sheets([count(6), count(90, filler=True), count(90, from_middle=True)], 1000, 1000), 2)
        self.assertEqual((least_sheets([count(6)], 0, 1000), area_of([count(2)])), (0, 400_000))


class PickedTests(TestCase):
    def test_letters_of_papers_to_choose_never_run_out(self):
        letters = picked_letters(60)
        self.assertEqual([letters[at] for at in (0, 25, 26, 27, 52)], ["Pa", "Pz", "Paa", "Pab", "Pba"])
        self.assertEqual(len(set(letters)), 60)

    def test_what_is_free_from_an_amount_between_two_days(self):
        import datetime

        day = datetime.date(2026, 3, 10)
        gift = Offer(key="g", name="gift", free_above=Decimal(50), free_from=day, free_until=day)
        full = Offer(key="f", name="full", price=Decimal(25))
        offers = {"g": gift, "f": full}

        def gets(count: int, on: datetime.date | None, state: str = "booked") -> bool:
            person = Person(key="1", name="", orders=(("f", count), ("x", 9)), ordered_on=on, state=state)
            self.assertEqual(amount_of(person, offers), 25 * count)
            return is_free_for(gift, person, offers)

        one = datetime.timedelta(1)
        self.assertEqual([gets(1, day), gets(2, day), gets(3, day)], [False, True, True])
        self.assertEqual([gets(2, day - one), gets(2, day + one), gets(2, None)], [False, False, False])
        self.assertFalse(gets(2, day, "cancelled"))
        self.assertFalse(is_free_for(full, Person(key="1", name=""), offers))
        self.assertEqual((usual_offer([gift, full]).key, usual_offer([gift]).key), ("f", ""))


class HomeTests(TestCase):
    """Who cuts at home gets a portion only where it is made for just what the kit holds."""

    LIST = (*CARDS, CardPieces(KIT, "Kit", (piece(1, "stars", 3),), (Bit("sticker", 2),)))

    def kit(self, *offers: Offer, orders=("h",), cards=LIST, bagging: str = BY_KIT, **more):
        people = tuple(Person(key=str(k), name="", orders=((key, 1),)) for k, key in enumerate(orders))
        needs = ClassNeeds(cards=COUNTS, people=people, offers=offers, kinds=KINDS, has_kit_list=True, **more)
        return packed(needs, cards=cards, bagging=bagging).kits

    def test_the_kit_list_is_part_of_a_portion(self):
        home = Offer(key="h", name="at home", pools={"patterned": "portions"})
        (kit,) = self.kit(home)
        self.assertEqual(inside(item for item in kit.beside if item.at_home), {"A2": 4, "B2": 1, "Kit1": 3})
        self.assertEqual(inside(item for item in kit.beside if not item.at_home), {"sticker": 2})
        (bare,) = self.kit(replace(home, kit_list=False))
        self.assertEqual(inside(bare.beside), {"A2": 4, "B2": 1})

    def test_two_sets_hold_twice_as_much_but_one_kit_list(self):
        home = Offer(key="h", name="at home", pools={"patterned": "whole"}, sets=2)
        (kit,) = self.kit(home)
        self.assertEqual(inside(item for item in kit.beside if item.at_home), {"A2": 8, "B2": 2, "Kit1": 3})

    def test_a_kit_with_other_cards_is_cut(self):
        home = Offer(key="h", name="at home", pools={"patterned": "portions"})
        only = Offer(key="b", name="only B", pools={"patterned": "portions"}, cards={"B": 2})
        first, second, third = self.kit(home, only, orders=("h", "h", "b"))
        for kit in (first, second):
            self.assertEqual(inside(item for item in kit.beside if item.at_home), {"A2": 4, "B2": 1, "Kit1": 3})
        self.assertFalse(any(item.at_home for item in third.items))
        self.assertEqual(inside(third.bags[0].items), {"B1": 2, "B2": 2, "thread": 2})

    def test_bags_for_every_card_are_numbered_where_there_are_several(self):
        (kit,) = self.kit(Offer(key="f", name="full"), orders=("f",), bagging=BY_CARD)
        self.assertEqual([(bag.key, bag.name, bag.number) for bag in kit.bags], [
            ("p0-f-1-A1", "A 1", 1), ("p0-f-1-A2", "A 2", 2), ("p0-f-1-B", "B", 0),
        ])  # fmt: skip

    def test_what_is_chosen_and_what_is_still_open(self):
        choice = Choice(number=3, among=("stars", "rays"), width=100, height=100)
        full = Offer(key="f", name="full", choice=choice)
        people = (
            Person(key="1", name="", orders=(("f", 1),), chosen=("rays", "dome", "rays", "stars", "stars")),
            Person(key="2", name="", orders=(("f", 2),), chosen=("stars",)),
        )
        kits = packed(ClassNeeds(cards=COUNTS, people=people, offers=(full,), kinds=KINDS)).kits
        self.assertEqual(inside(kits[0].beside), {"Pb1": 2, "Pa1": 1})
        self.assertEqual([inside(kit.beside) for kit in kits[1:]], [{"Pa1": 1, "f": 2}] * 2)

    def test_who_goes_without_when_a_pile_runs_out(self):
        found = packed(ClassNeeds(cards=COUNTS, unnamed=3, kinds=KINDS))
        self.assertEqual((wanted_of(found, "A1"), wanted_of(found, "gems")), (7, 14))
        lack = lack_of(found, "A1", 4)
        self.assertEqual([(bag.letter, many) for bag, many in lack.own], [("A", 1)])
        self.assertEqual([(kit.key, many) for kit, _, many in lack.kits], [("u-0-3", 2), ("u-0-2", 1)])
        self.assertEqual((lack.spare, lack.unknown), (0, 0))
        self.assertEqual(lack_of(found, "A1", 9).unknown, 2)
        done = lack_of(found, "A1", 2, {"u-0-3-A"})
        self.assertEqual([(kit.key, many) for kit, _, many in done.kits], [("u-0-2", 1)])


class PeopleTableTests(TestCase):
    def test_columns_by_other_names_make_the_same_lines(self):
        head = "Participant;Kit;How many;Status;E-mail;Address;Choice;Date;Remark\n"
        row = "Ines, the first;full kit;2.0;paid;ines@example.org;12 Mill Lane;Rays;2026-03-04;by the window\n"
        self.assertEqual(
            lines_of_csv((head + row + ";;;;;;;;\n").encode()),
            ["Ines  the first: full kit 2, paid, contact ines@example.org, address 12 Mill Lane, papers Rays, "
             "ordered 2026-03-04, note by the window"],
        )  # fmt: skip
        self.assertEqual(lines_of_csv(b"name,orders,kits\nOdo,full kit,pair\n"), ["Odo: full kit, pair"])
        self.assertEqual(lines_of_csv(b"name\n'=Odo\n"), ["=Odo"])
        for table, words in (
            (b"", "empty"),
            (b"orders\nfull\n", "the first row says: orders"),
            (b"name," + b"x" * 50 + b"\nOdo,1\n", f"“{'x' * 40}” is not known"),
        ):
            with self.assertRaises(ZesterError) as caught:
                lines_of_csv(table)
            self.assertIn(words, caught.exception.what)
            self.assertTrue(any(column in caught.exception.mend for column in COLUMNS))


class WayEdgeTests(TestCase):
    def test_a_paper_that_runs_one_way_keeps_its_pieces_upright(self):
        # 5 × 3 goes on 4 × 6 only lying; 3 × 5 both ways.
        lying, standing = [part("A1", 5, 3)], [part("B1", 3, 5)]
        self.assertEqual(ways_of(4 * INCH, 6 * INCH, [lying], turn=False), [])
        self.assertEqual(ways_of(4 * INCH, 6 * INCH, [[part("A1", 5, 3, turn=False)]]), [])
        self.assertEqual([dict(way.made) for way in ways_of(4 * INCH, 6 * INCH, [lying])], [{"A1": 1}])
        (way,) = ways_of(4 * INCH, 6 * INCH, [standing], turn=False)
        self.assertEqual(dict(way.made), {"B1": 1})
        laid = [each for each in lay_parts(way.layout, 4 * INCH, 6 * INCH) if each.piece]
        self.assertFalse(laid[0].turned)

    def test_the_fullest_way_comes_first(self):
        found = ways_of(6 * INCH, 6 * INCH, [[part("A1", 2, 2)], [part("B1", 6, 5)], [part("C1", 1, 1)]])
        areas = {"A1": 4, "B1": 30, "C1": 1}
        used = [sum(areas[name] * count for name, count in way.made) for way in found]
        self.assertEqual(used, sorted(used, reverse=True))
        self.assertEqual(used[0], 31)


class GluingTests(TestCase):
    def test_what_is_painted_before_the_class_does_not_dry_in_it(self):
        steps = steps_of(SIDE + "Sun 2 x 2 chalk painted dry first before class\nMoon 2 x 2 chalk painted dry first")
        self.assertEqual(steps[:2], ["A2 Sun: paint", "A3 Moon: paint; set it aside to dry"])

    def test_what_a_pocket_hides_is_glued_before_it_in_whatever_order_it_is_written(self):
        text = "card top fold with a pocket\nBase 4 x 10½ brass score 4, 8\n"
        pieces = ("Back mat 3 x 3 chalk", "Pocket mat 3 x 2 chalk", "Inside mat 3 x 3 chalk", "Mat 3 x 3 chalk")
        for order in (pieces, pieces[::-1]):
            steps = [step.split(",")[0].split(" on the ")[-1] for step in steps_of(text + "\n".join(order))][1:]
            pocket = "Fold the pocket up and glue its two sides"
            self.assertEqual(steps, ["front", "inside", pocket, "pocket", "back"])

    def test_a_long_strip_is_trimmed_with_its_mat_and_with_what_it_lies_over(self):
        text = SIDE + "Mat 4 x 5 chalk\nStar 1 x 1 brass left 1 top 1\n"
        text += "Strip 4 x 2 midnight top ½ overhang ¼\nDot ½ x ½ brass bottom ½"
        steps = [step.split(";")[0].split(",")[0] for step in steps_of(text)[1:]]
        wanted = ["A3 Star on A2 Mat", "A4 Strip on A2 Mat", "A2 Mat on the front", "A5 Dot on A2 Mat"]
        self.assertEqual(steps, [f"Glue {each}" for each in wanted])
