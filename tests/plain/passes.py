"""Tests that end, for the tests of how tests are run; the second only says that it is skipped."""

from unittest import TestCase, skip


class Passing(TestCase):
    def test_it_passes(self):
        self.assertTrue(True)

    @skip("for the count")
    def test_it_is_skipped(self):
        self.fail("skipped")
