"""Processes that tests start: each is ended whatever comes of the test, also when the run itself is killed."""

from __future__ import annotations

import atexit
import contextlib
import os
import re
import shutil
import signal
import subprocess
import tempfile
import time
from collections.abc import Mapping, Sequence
from pathlib import Path

# Seconds until what was asked to stop is killed.
GRACE = 20.0
_running: set[Child] = set()


class Child:
    """A process of its own session whose output goes into a file, so that no pipe fills up.

    Parameters
    ----------
    command : sequence of str
        What is run.
    env, cwd
        Its variables and folder.
    keep : sequence of int
        Files that stay open for it.
    """

    def __init__(
        self,
        command: Sequence[str],
        env: Mapping[str, str] | None = None,
        cwd: Path | str | None = None,
        keep: Sequence[int] = (),
    ):
        self.out = tempfile.TemporaryFile()  # noqa: SIM115
        # The kernel tells it when whoever started it is no more, however that came.
        dies_with = ["setpriv", "--pdeathsig", "TERM", "--"] if shutil.which("setpriv") else []
        both = {"stdout": self.out, "stderr": subprocess.STDOUT, "stdin": subprocess.DEVNULL}
        self.process = subprocess.Popen(
            [*dies_with, *command], env=env, cwd=cwd, start_new_session=True, pass_fds=keep, **both
        )
        _running.add(self)

    @property
    def pid(self) -> int:
        """Its process number."""
        return self.process.pid

    def said(self) -> str:
        """What it has printed so far."""
        end = self.out.seek(0, os.SEEK_END)
        return os.pread(self.out.fileno(), end, 0).decode(errors="replace")

    def wait_for(self, pattern: str, seconds: float) -> re.Match:
        """Wait until it has printed this; AssertionError with all it said if it does not, or ends."""
        until = time.monotonic() + seconds
        while True:
            over = self.process.poll()
            if found := re.search(pattern, self.said()):
                return found
            if over is not None or time.monotonic() > until:
                state = "is still there" if over is None else f"ended with {over}"
                raise AssertionError(f"“{pattern}” was not said in {seconds} s; it {state}:\n{self.said()}")
            time.sleep(0.05)

    def end(self, grace: float = GRACE) -> int:
        """Ask it to stop, wait, kill it with all that it started; how it ended."""
        if self.process.poll() is None:
            self.process.terminate()
        try:
            return self.process.wait(timeout=grace)
        except subprocess.TimeoutExpired:
            return self.kill()
        finally:
            _running.discard(self)

    def kill(self) -> int:
        """At once, with all that it started."""
        with contextlib.suppress(ProcessLookupError):
            os.killpg(self.process.pid, signal.SIGKILL)
        _running.discard(self)
        return self.process.wait(timeout=GRACE)


@atexit.register
def end_all() -> None:
    """Nothing that was started is left."""
    for child in list(_running):
        child.end(grace=3.0)
