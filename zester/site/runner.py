"""Django's test runner with one plain closing line."""

from __future__ import annotations

import logging
import unittest

from django.conf import settings
from django.test.runner import DiscoverRunner


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
        """Run everything, then print the closing line after all other output."""
        failures = super().run_tests(test_labels, **kwargs)
        outcome = self.outcome
        failed = len(outcome.failures) + len(outcome.errors) + len(outcome.unexpectedSuccesses)
        skipped = len(outcome.skipped)
        passed = outcome.testsRun - failed - skipped
        print(f"{max(passed, 0)} passed, {failed} failed, {skipped} skipped", flush=True)
        return failures
