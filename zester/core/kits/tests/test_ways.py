"""Several ways to cut a paper up: the rules of the trade as check values."""

from unittest import TestCase

from zester.core.fitting.jobs.drawing import lay_parts
from zester.core.fitting.jobs.job import Piece
from zester.core.kits.ways import ways_of
from zester.core.lengths import TICKS_PER_INCH as INCH


def piece(name: str, width: float, height: float, count: int = 1, **more) -> Piece:
    return Piece(id=name, width=int(width * INCH), height=int(height * INCH), count=count, **more)


class WayTests(TestCase):
    def ways(self, *cards, turn: bool = True) -> list[dict[str, int]]:
        found = ways_of(4 * INCH, 6 * INCH, cards, turn=turn)
        for way in found:
            parts = [part for part in lay_parts(way.layout, 4 * INCH, 6 * INCH) if part.piece]
            self.assertEqual(sum(count for _, count in way.made), len(parts))
        return [dict(way.made) for way in found]

    def test_a_4_by_6_portion_gives_two_3_by_4_or_two_2_by_5_and_a_half_or_narrow_strips(self):
        # Common practice, no source: what comes out of a 4 × 6 portion.
        found = self.ways(
            [piece("A1", 3, 4)], [piece("B1", 2, 5.5)], [piece("C1", 1, 5.5, 2), piece("C2", 0.5, 5.5, 4)]
        )
        self.assertCountEqual(found, [{"A1": 2}, {"B1": 2}, {"C1": 2, "C2": 4}])

    def test_two_cards_together_and_nothing_that_another_way_makes_too(self):
        found = self.ways([piece("A1", 4, 3)], [piece("B1", 4, 2.5)])
        self.assertIn({"A1": 1, "B1": 1}, found)
        self.assertNotIn({"A1": 1}, found)

    def test_what_is_too_large_and_a_paper_that_runs_one_way(self):
        self.assertEqual(self.ways([piece("A1", 5, 6)]), [])
        self.assertEqual(self.ways([piece("A1", 6, 3)]), [{"A1": 1}])
        self.assertEqual(self.ways([piece("A1", 6, 3)], turn=False), [])

    def test_all_ways_together_make_every_card(self):
        cards = [[piece(f"{card}1", 3 + k / 4, 4), piece(f"{card}2", 2 + k / 4, 5)] for k, card in enumerate("ABCD")]
        made = {name for way in self.ways(*cards) for name in way}
        self.assertEqual(made, {each.id for card in cards for each in card})
