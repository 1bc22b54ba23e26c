"""Django's test runner: everything in chunks by as many processes as there are cores; some labels here."""

from __future__ import annotations

import logging
import os
import signal
import sys
import tempfile
import unittest
from pathlib import Path

from django.conf import settings
from django.test.runner import DiscoverRunner

from tests import profile, watch
from tests.chunks import Board, Run, all_chunks, show_times


class CountingRunner(DiscoverRunner):
    """Ends with ``N passed, N failed, N skipped``."""

    def get_resultclass(self) -> type[unittest.TestResult]:
        """Tests that hang end."""
        return watch.WatchedResult

    def run_suite(self, suite: unittest.TestSuite, **kwargs) -> unittest.TestResult:
        """Run the tests and remember what came of them."""
        self.outcome = super().run_suite(suite, **kwargs)
        return self.outcome

    def setup_test_environment(self, **kwargs) -> None:
        """Quick password hashes: the tests sign in hundreds of times."""
        super().setup_test_environment(**kwargs)
        # What tests write lies nowhere near what people have.
        self.folder = tempfile.TemporaryDirectory()
        settings.MEDIA_ROOT = Path(self.folder.name)
        # Whitenoise says for every client that it is not there.
        settings.STATIC_ROOT.mkdir(parents=True, exist_ok=True)
        # The demo's people come with the usual ones.
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher", *settings.PASSWORD_HASHERS]
        # Refusals are what many tests are about; those that look at the log set its level themselves.
        for name in ("zester", "django"):
            logging.getLogger(name).setLevel(logging.CRITICAL)

    def teardown_test_environment(self, **kwargs) -> None:
        """Nothing is left."""
        super().teardown_test_environment(**kwargs)
        self.folder.cleanup()

    def run_tests(self, test_labels, **kwargs) -> int:
        """Run everything, or what is named; print the closing line after all other output."""
        print(profile.load(), flush=True)
        if not test_labels:
            return _all_of_it()
        failures = super().run_tests(test_labels, **kwargs)
        watch.disarm()
        outcome = self.outcome
        failed = len(outcome.failures) + len(outcome.errors) + len(outcome.unexpectedSuccesses)
        skipped = len(outcome.skipped)
        _say(max(outcome.testsRun - failed - skipped, 0), failed, skipped)
        return failures


def _all_of_it() -> int:
    """How many tests failed."""
    # Whoever stops the run stops what it started.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(128 + signal.SIGTERM))
    # A journey has a browser and a server of its own: more at once take longer, together, than one after the other.
    processes = len(os.sched_getaffinity(0))
    with tempfile.TemporaryDirectory() as folder:
        counts = Run(Board(Path(folder)), all_chunks(), processes).to_the_end()
    show_times(counts)
    _say(counts.passed, counts.failed, counts.skipped)
    return counts.failed


def _say(passed: int, failed: int, skipped: int) -> None:
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
