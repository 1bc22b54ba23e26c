"""Who goes without when a pile runs out."""

from unittest import TestCase

from zester.core.kits.demand import ClassNeeds, Counts
from zester.core.kits.lacking import lack_of, wanted_of
from zester.core.kits.offers import Offer, Person
from zester.core.kits.tests.test_packing import CARDS, KINDS, packed
from zester.core.tally import Spare


class LackTests(TestCase):
    def setUp(self):
        full = Offer(key="7", name="full kit")
        people = tuple(Person(key=str(n), name=f"person {n}", orders=(("7", 1),)) for n in range(1, 4))
        counts = (Counts(letter="A", each=2, samples=1, spares=1), Counts(letter="B", each=1))
        needs = ClassNeeds(cards=counts, people=people, offers=(full,), give_aways=1, kinds=KINDS)
        self.packed = packed(needs, CARDS, Spare(number=1))

    def words(self, key: str, missing: int, done=()) -> list:
        lack = lack_of(self.packed, key, missing, done)
        own = [(bag.key, much) for bag, much in lack.own]
        return [lack.spare, own, [(kit.key, bag and bag.name, much) for kit, bag, much in lack.kits], lack.unknown]

    def test_the_spare_piece_goes_first_then_the_teachers_own_then_the_kit_to_give_away(self):
        self.assertEqual(wanted_of(self.packed, "A1"), 1 + 1 + 1 + 2 + 3 * 2)
        self.assertEqual(self.words("A1", 1), [1, [], [], 0])
        self.assertEqual(self.words("A1", 3), [1, [("spares-A", 1), ("samples-A", 1)], [], 0])
        self.assertEqual(
            self.words("A1", 6), [1, [("spares-A", 1), ("samples-A", 1)], [("g-7-1", "A", 2), ("p3-7-1", "A", 1)], 0]
        )

    def test_what_is_packed_already_keeps_what_it_has(self):
        done = {"g-7-1-A", "p3-7-1-A"}
        self.assertEqual(self.words("A1", 4, done)[2], [("p2-7-1", "A", 1)])
        self.assertEqual(self.words("thread", 1, {"g-7-1"})[2], [("p3-7-1", "B", 1)])

    def test_more_than_there_should_be_is_asked_about(self):
        self.assertEqual(self.words("B1", 9)[3], 9 - 5)
