"""A piece a sixteenth short: where it can be used, and what to trim; worked by hand on small cards."""

from unittest import TestCase

from zester.core.cards.bearing import Bearing, bear_short
from zester.core.cards.tests.cards import INCH, card

CARD = """card 4¼ x 5½ side fold
Base midnight
Mat 4 x 5¼ brass
Panel 3¾ x 5 star chart
Hills 3¾ x 1 pine ridge flush bottom
Strip ½ x 5 brass overhang ¼"""


class BearingTests(TestCase):
    def bearing(self, number: int) -> Bearing:
        return bear_short(card(CARD), number, INCH // 16)

    def test_an_edge_under_another_layer_is_not_seen(self):
        found = self.bearing(3)
        self.assertEqual(found.hidden, ("its bottom edge lies under Hills",))
        self.assertIn("trim Mat, which it lies on, by the same 1⁄16 in: the border stays even", found.instead)

    def test_a_layer_with_a_border_all_round_is_seen_everywhere(self):
        found = self.bearing(2)
        self.assertFalse(found.can)
        self.assertIn("trim Panel, which lies on it, by the same 1⁄16 in", found.instead)
        grows = "on the card itself the border grows by 1⁄16 in on one side, or half of that on two"
        self.assertIn(grows, found.instead)

    def test_what_is_trimmed_flush_can_bear_it(self):
        self.assertTrue(any("trimmed flush anyway" in words for words in self.bearing(5).hidden))

    def test_a_short_base_is_a_smaller_card(self):
        self.assertTrue(self.bearing(1).instead[0].startswith("the card gets 1⁄16 in smaller"))
