"""Tests that hang end, and say where: all stacks are printed, and the process is over.

The timer is Python's own (``faulthandler``), in a thread that needs no lock of the interpreter.
"""

from __future__ import annotations

import faulthandler
import os
import sys
import time
import traceback
import unittest

# Seconds for one test, and for what is between two: a class may begin with the demo.
A_TEST = BETWEEN = 300
# Journeys in a browser made slow take longer.
SLOW = int(os.environ.get("ZESTER_SLOW", "1"))


def arm(seconds: float = BETWEEN) -> None:
    """From now on so long, anew; then this process prints where it stands, and ends."""
    faulthandler.dump_traceback_later(seconds * SLOW, exit=True, file=sys.__stderr__)


def disarm() -> None:
    """Nothing is waited for."""
    faulthandler.cancel_dump_traceback_later()


class WatchedResult(unittest.TextTestResult):
    """What came of the tests: each failure printed when it happens, and how long each test took."""

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.took: list[tuple[float, str]] = []

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        """The watch begins anew."""
        super().startTest(test)
        self.began = time.monotonic()
        arm(getattr(test, "longest", A_TEST))

    def stopTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        """How long it took is kept."""
        self.took.append((round(time.monotonic() - self.began, 2), test.id()))
        arm()
        super().stopTest(test)

    def addError(self, test: unittest.TestCase, err) -> None:  # noqa: N802
        """Said at once: a later test may end the process."""
        super().addError(test, err)
        self._say(test, self.errors[-1][1])

    def addFailure(self, test: unittest.TestCase, err) -> None:  # noqa: N802
        """The same for what is not as it should be."""
        super().addFailure(test, err)
        self._say(test, self.failures[-1][1])

    def addSubTest(self, test, subtest, err) -> None:  # noqa: N802
        """The same for a part of a test."""
        super().addSubTest(test, subtest, err)
        if err is not None:
            self._say(subtest, "".join(traceback.format_exception(*err)))

    def printErrors(self) -> None:  # noqa: N802
        """They are printed already."""

    def _say(self, test: unittest.TestCase, words: str) -> None:
        self.stream.writeln(f"\n{self.separator1}\nFAIL: {test.id()}\n{self.separator2}\n{words}")
        self.stream.flush()
