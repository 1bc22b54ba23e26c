"""Django's test runner with one plain closing line."""

from __future__ import annotations

import logging
import os
import re
import subprocess
import sys
import tempfile
import unittest
from collections.abc import Sequence

from django.conf import settings
from django.test.runner import DiscoverRunner

# What is run beside each other: the journeys wait most of the time.
PARTS = (("zester", "tests.program"), ("tests.browser",), ("tests.served",))


class CountingRunner(DiscoverRunner):
    """Ends with ``N passed, N failed, N skipped``."""

    def run_suite(self, suite: unittest.TestSuite, **kwargs) -> unittest.TestResult:
        """Run the tests and remember what came of them."""
        self.outcome = super().run_suite(suite, **kwargs)
        return self.outcome

    def setup_test_environment(self, **kwargs) -> None:
        """Quick password hashes: the tests sign in hundreds of times."""
        super().setup_test_environment(**kwargs)
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
        # Refusals are what many tests are about; those that look at the log set its level themselves.
        for name in ("zester", "django"):
            logging.getLogger(name).setLevel(logging.CRITICAL)

    def run_tests(self, test_labels, **kwargs) -> int:
        """Run everything, then print the closing line after all other output.

        Where there is a core for it, all of it is run in parts, each but the last by another process.
        """
        in_parts = not test_labels and _may_run_beside()
        beside = [_Beside(part) for part in PARTS[:-1]] if in_parts else []
        failures = super().run_tests(PARTS[-1] if in_parts else test_labels, **kwargs)
        outcome = self.outcome
        failed = len(outcome.failures) + len(outcome.errors) + len(outcome.unexpectedSuccesses)
        skipped = len(outcome.skipped)
        counts = [max(outcome.testsRun - failed - skipped, 0), failed, skipped]
        for part in beside:
            other = part.wait()
            counts = [mine + theirs for mine, theirs in zip(counts, other, strict=True)]
            failures += other[1]
        print("{} passed, {} failed, {} skipped".format(*counts), flush=True)
        return failures


def _may_run_beside() -> bool:
    """Whether there is a core for it, and a database of its own."""
    sqlite = settings.DATABASES["default"]["ENGINE"].endswith("sqlite3")
    return sqlite and (os.cpu_count() or 1) > 1


class _Beside:
    """Some of the tests, run by another process; what they print comes afterwards."""

    def __init__(self, labels: Sequence[str]):
        # It is read after everything has ended.
        self.out = tempfile.TemporaryFile("w+")  # noqa: SIM115
        command = [sys.executable, "-m", "django", "test", "--noinput", "--parallel", "1", *labels]
        self.process = subprocess.Popen(command, stdout=self.out, stderr=subprocess.STDOUT)  # noqa: S603

    def wait(self) -> list[int]:
        """How many passed, failed and were skipped; one that ended without saying so has failed."""
        code = self.process.wait()
        self.out.seek(0)
        printed = self.out.read()
        print(printed, flush=True)
        found = re.findall(r"^(\d+) passed, (\d+) failed, (\d+) skipped$", printed, re.MULTILINE)
        counts = [int(number) for number in found[-1]] if found else [0, 0, 0]
        if code and not counts[1]:
            counts[1] = 1
        return counts
