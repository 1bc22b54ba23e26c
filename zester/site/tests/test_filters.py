"""What templates say that the core does not."""

from unittest import TestCase

from zester.site.templatetags.zester import pair


class FilterTests(TestCase):
    def test_a_size_that_is_the_same_both_ways_is_said_once(self):
        self.assertEqual((pair([8128, 8128]), pair([8128, 16256])), ("1 in", "1 × 2 in"))
