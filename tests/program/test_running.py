"""How tests are run: what hangs ends and says where, what is killed is missed, what was started is gone."""

from __future__ import annotations

import contextlib
import io
import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from unittest import TestCase

from tests.children import Child
from tests.chunks import Board, Run, all_chunks

ROOT = Path(__file__).parents[2]
STUBBORN = """
import signal, time
signal.signal(signal.SIGTERM, signal.SIG_IGN)
print("deaf", flush=True)
time.sleep(600)
"""
# Starts a child, says its number, and waits to be killed.
PARENT = """
import sys, time
from tests.children import Child
child = Child([sys.executable, "-c", "import time; print('there', flush=True); time.sleep(600)"])
child.wait_for("there", 60)
print(child.pid, flush=True)
time.sleep(600)
"""


def is_there(pid: int) -> bool:
    """Whether a process lives; one that nobody has buried yet does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except FileNotFoundError:
        return False


class ChunkTests(TestCase):
    def run_all(self, *labels: str) -> tuple[Run, str]:
        """These chunks by one process, and what was printed."""
        said = io.StringIO()
        with tempfile.TemporaryDirectory() as folder, contextlib.redirect_stdout(said):
            run = Run(Board(Path(folder)), list(labels), 1)
            run.to_the_end()
        return run, said.getvalue()

    def test_a_test_that_hangs_is_ended_says_where_it_stood_and_the_others_are_run(self):
        run, said = self.run_all("tests.plain.hangs", "tests.plain.passes")
        self.assertEqual((run.counts.passed, run.counts.failed, run.counts.skipped), (1, 1, 1))
        self.assertIn("1 FAILED  tests.plain.hangs", said)
        self.assertIn("Timeout", said)
        self.assertIn("in test_nobody_waits_for_it", said)

    def test_a_chunk_without_any_test_has_failed(self):
        run, _ = self.run_all("tests.plain")
        self.assertEqual((run.counts.passed, run.counts.failed), (0, 1))

    def test_each_chunk_is_taken_once_and_served_journeys_one_at_a_time(self):
        with tempfile.TemporaryDirectory() as folder:
            board = Board(Path(folder))
            board.put(["tests.served.test_one", "tests.served.test_two", "zester.core.tests.test_three"])
            taken = [board.take() for _ in range(4)]
        wanted = ["tests.served.test_one", "zester.core.tests.test_three", "tests.served.test_two", None]
        self.assertEqual(taken, wanted)

    def test_every_module_of_tests_is_a_chunk(self):
        chunks = all_chunks()
        self.assertEqual(len(chunks), len(set(chunks)))
        some = {"tests.served.test_bench", "zester.core.tests.test_sizes", "zester.plans.tests.test_work", __name__}
        self.assertLessEqual(some, set(chunks))


class ChildTests(TestCase):
    def test_much_that_is_said_blocks_nobody(self):
        child = Child([sys.executable, "-c", "print('x' * 3_000_000); print('the end', flush=True)"])
        self.addCleanup(child.end)
        child.wait_for("the end", 60)
        self.assertEqual(child.process.wait(60), 0)
        self.assertGreater(len(child.said()), 3_000_000)

    def test_what_is_not_said_is_not_waited_for(self):
        child = Child([sys.executable, "-c", "print('something else')"])
        self.addCleanup(child.end)
        with self.assertRaisesRegex(AssertionError, "ended with 0:\nsomething else"):
            child.wait_for("never", 60)

    def test_what_does_not_stop_is_killed(self):
        child = Child([sys.executable, "-c", STUBBORN])
        child.wait_for("deaf", 60)
        self.assertEqual(child.end(grace=0.5), -signal.SIGKILL)

    def test_what_was_started_goes_with_whoever_is_killed(self):
        parent = subprocess.Popen([sys.executable, "-c", PARENT], stdout=subprocess.PIPE, text=True, cwd=ROOT)
        self.addCleanup(parent.stdout.close)
        self.addCleanup(parent.wait, 60)
        self.addCleanup(parent.kill)
        child = int(parent.stdout.readline())
        self.assertTrue(is_there(child))
        os.kill(parent.pid, signal.SIGKILL)
        until = time.monotonic() + 30
        while is_there(child):
            self.assertLess(time.monotonic(), until, "the child lives on")
            time.sleep(0.05)
