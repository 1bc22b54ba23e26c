"""A test that never ends, for the tests of how tests are run."""

import time
from unittest import TestCase


class Hanging(TestCase):
    longest = 1

    def test_nobody_waits_for_it(self):
        time.sleep(600)
