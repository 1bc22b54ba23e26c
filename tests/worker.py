"""A process that takes one chunk of tests after the other: ``python -m tests.worker FOLDER``.

The core's tests, and the benchmarks', are run without Django; a database is made for the first that wants one.
"""

from __future__ import annotations

import os
import signal
import sys
import time
import unittest
from pathlib import Path

from tests import profile, watch
from tests.children import end_all
from tests.chunks import Board

# Run without Django and a database.
PLAIN = ("zester.core.", "benchmarks.", "tests.plain")


class Taker:
    """What a process needs for the chunks it takes."""

    def __init__(self):
        self._django = None

    def run(self, label: str) -> unittest.TestResult:
        """The tests of one module."""
        if label.startswith(PLAIN):
            suite = unittest.defaultTestLoader.loadTestsFromName(label)
            return unittest.TextTestRunner(resultclass=watch.WatchedResult).run(suite)
        if self._django is None:
            self._django = _WithDatabase()
        return self._django.run(label)

    def put_away(self) -> None:
        """The database is thrown away."""
        if self._django is not None:
            self._django.put_away()


class _WithDatabase:
    def __init__(self):
        os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zester.site.settings")
        import django
        from django.conf import settings

        django.setup()
        # Of its own: several processes may be at one server.
        test = settings.DATABASES["default"].setdefault("TEST", {})
        if not test.get("NAME"):
            test["NAME"] = f"test_zester_{os.getpid()}"

        from tests.runner import CountingRunner

        self.runner = CountingRunner(verbosity=0, interactive=False)
        self.runner.setup_test_environment()
        self.databases = self.runner.setup_databases()

    def run(self, label: str) -> unittest.TestResult:
        return self.runner.run_suite(self.runner.build_suite([label]))

    def put_away(self) -> None:
        self.runner.teardown_databases(self.databases)
        self.runner.teardown_test_environment()


def outcome_of(result: unittest.TestResult, seconds: float) -> dict:
    """What is kept of a chunk; one without any test has failed."""
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    if not result.testsRun and not skipped:
        failed += 1
    passed = max(result.testsRun - failed - skipped, 0)
    took = {"seconds": seconds, "took": result.took}
    return {"passed": passed, "failed": failed, "skipped": skipped} | took


def into(path: Path) -> None:
    """Whatever this process prints from now on goes there."""
    sys.stdout.flush()
    sys.stderr.flush()
    file = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND)
    for standard in (1, 2):
        os.dup2(file, standard)
    os.close(file)


def _stop(*_) -> None:
    # In the middle of a test: no exception would get past it.
    end_all()
    os._exit(128 + signal.SIGTERM)


def main(folder: str) -> None:
    """Until no chunk is left."""
    signal.signal(signal.SIGTERM, _stop)
    profile.load()
    board, taker = Board(Path(folder)), Taker()
    while label := board.take():
        into(board.folder / "said" / label)
        watch.arm()
        began = time.monotonic()
        result = taker.run(label)
        board.finish(label, outcome_of(result, time.monotonic() - began))
    watch.arm()
    taker.put_away()
    watch.disarm()


if __name__ == "__main__":
    main(sys.argv[1])
