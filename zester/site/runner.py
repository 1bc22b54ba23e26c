"""Django's test runner with one plain closing line."""

from __future__ import annotations

import logging
import os
import re
import subprocess
import sys
import unittest
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from django.conf import settings
from django.test.runner import DiscoverRunner

ROOT = Path(__file__).parents[2]
# What is run beside each other, the longest first; the journeys wait for a good part of their time.
PARTS = (("tests.served",), ("tests.browser",), ("zester.core",), ("zester.fits", "zester.site"))
# More at once starve what depends on the clock.
AT_ONCE = 3


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

        Where there is a core for it, all of it is run in parts, each by a process of its own.
        """
        if not test_labels and _may_run_beside():
            return _in_parts()
        failures = super().run_tests(test_labels, **kwargs)
        outcome = self.outcome
        failed = len(outcome.failures) + len(outcome.errors) + len(outcome.unexpectedSuccesses)
        skipped = len(outcome.skipped)
        _say(max(outcome.testsRun - failed - skipped, 0), failed, skipped)
        return failures


def _say(passed: int, failed: int, skipped: int) -> None:
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)


def _may_run_beside() -> bool:
    """Whether there is a core for it, and a database of its own."""
    sqlite = settings.DATABASES["default"]["ENGINE"].endswith("sqlite3")
    return sqlite and (os.cpu_count() or 1) > 1


def _in_parts() -> int:
    """All tests, some parts at once; how many failed."""
    with ThreadPoolExecutor(AT_ONCE) as lanes:
        passed, failed, skipped = map(sum, zip(*lanes.map(_part, [*PARTS, _the_rest()]), strict=True))
    _say(passed, failed, skipped)
    return failed


def _the_rest() -> tuple[str, ...]:
    """The packages of tests that no part names."""
    named = {label for part in PARTS for label in part}
    packages = [found.parent for place in ("tests", "zester") for found in (ROOT / place).glob("*/__init__.py")]
    found = {".".join(package.relative_to(ROOT).parts) for package in packages}
    return tuple(sorted(found - named))


def _part(labels: Sequence[str]) -> tuple[int, int, int]:
    """How many passed, failed, were skipped in a process of their own; one that ends without saying so has failed."""
    command = [sys.executable, "-m", "django", "test", "--noinput", "--parallel", "1", *labels]
    both = {"stdout": subprocess.PIPE, "stderr": subprocess.STDOUT}
    done = subprocess.run(command, check=False, cwd=ROOT, text=True, **both)  # noqa: S603
    print(f"{' '.join(labels)}\n{done.stdout}", flush=True)
    found = re.findall(r"^(\d+) passed, (\d+) failed, (\d+) skipped$", done.stdout, re.MULTILINE)
    passed, failed, skipped = map(int, found[-1]) if found else (0, 0, 0)
    return passed, failed or int(done.returncode != 0), skipped
