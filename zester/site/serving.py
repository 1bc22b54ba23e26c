"""The web server and the workers together: started, started again when they die, stopped within three seconds."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Sequence
from pathlib import Path

from django.conf import settings

# What is still there so long after it was asked to stop is killed; all that matters is in the database.
TO_STOP = 2.2
# A process that dies so often within so many seconds is started only now and then.
OFTEN, WITHIN, PAUSE = 5, 30.0, 10.0
LEAST_SPACE = 50_000_000


class CannotServe(Exception):
    """Why it cannot be served here, and what to do."""


def cores() -> int:
    """How many there are for us."""
    return len(os.sched_getaffinity(0))


def web_command(address: str, processes: int, threads: int = 2) -> list[str]:
    """gunicorn, with as many processes; the application is loaded once and shared by them.

    The address is that of a socket, or ``fd://N`` for one that is bound.
    """
    command = [sys.executable, "-m", "gunicorn", "zester.site.wsgi", "--bind", address, "--preload"]
    command += ["--workers", str(processes), "--threads", str(threads), "--graceful-timeout", "2"]
    return [*command, "--timeout", "120", "--log-level", "warning"]


def worker_commands(long: int = 1) -> list[list[str]]:
    """One worker for short work, so that nobody waits for long work, and some for all work."""
    worker = [sys.executable, "-m", "django", "fit_worker"]
    return [[*worker, "--short"], *[worker] * long]


def check_folder(folder: Path) -> None:
    """Whether the data can lie there; raises CannotServe."""
    choose = "Choose another folder with ZESTER_DATA, or make this one writable."
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe = folder / f".try-{os.getpid()}"
        probe.write_bytes(b"x" * 4096)
        probe.unlink()
    except OSError as error:
        raise CannotServe(f"Nothing can be stored in {folder}: {error.strerror}. {choose}") from error
    free = shutil.disk_usage(folder).free
    if free < LEAST_SPACE:
        raise CannotServe(f"There are only {free / 1_000_000:.0f} MB free in {folder}; Zester wants 50 MB. {choose}")
    database = settings.DATABASES["default"]
    path = Path(str(database["NAME"]))
    if "sqlite" in database["ENGINE"] and path.exists() and not os.access(path, os.W_OK):
        raise CannotServe(f"The database {path} cannot be written. Make it writable for this user.")


class Supervisor:
    """Looks after processes until it is asked to stop.

    Parameters
    ----------
    commands : list
        What to run; the first is the web server.
    say : callable
        Takes a line for whoever looks at the terminal or the log.
    kept_open : sequence of int
        Files that they all find open, such as the socket of the web server.
    """

    def __init__(self, commands: list[list[str]], say: Callable[[str], None], kept_open: Sequence[int] = ()):
        self.commands, self.say, self.kept_open = commands, say, kept_open
        self.running: dict[int, subprocess.Popen] = {}
        self.died: dict[int, list[float]] = {number: [] for number in range(len(commands))}
        self.stopping = False
        for sign in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
            signal.signal(sign, self._stop)
        # A child that dies must wake up the wait below.
        signal.signal(signal.SIGCHLD, lambda *_: None)

    def run(self) -> None:
        """Until SIGTERM or Ctrl-C, which may have come already."""
        try:
            while not self.stopping:
                self._start_missing()
                signal.sigtimedwait([signal.SIGCHLD], 0.2)
        finally:
            self._end()

    def _stop(self, *_) -> None:
        self.stopping = True

    def _start_missing(self) -> None:
        now = time.monotonic()
        for number, command in enumerate(self.commands):
            process, died = self.running.get(number), self.died[number]
            if process and process.poll() is not None:
                died.append(now)
                del died[:-OFTEN]
                del self.running[number]
                self._tell(number, process.returncode)
            if number not in self.running and (not self._too_often(died) or now - died[-1] > PAUSE):
                # In a session of its own: Ctrl-C reaches this process alone, which then stops the others in order.
                self.running[number] = subprocess.Popen(  # noqa: S603
                    command, start_new_session=True, pass_fds=self.kept_open
                )

    @staticmethod
    def _too_often(died: list[float]) -> bool:
        return len(died) == OFTEN and died[-1] - died[0] < WITHIN

    def _tell(self, number: int, code: int) -> None:
        who = "The web server" if number == 0 else "A worker"
        then = (
            "is started again"
            if not self._too_often(self.died[number])
            else f"dies again and again; tried in {PAUSE:.0f} s"
        )
        self.say(f"{who} has ended ({code}) and {then}. Nothing that was saved is lost.")

    def _end(self) -> None:
        for process in self.running.values():
            process.terminate()
        until = time.monotonic() + TO_STOP
        for process in self.running.values():
            try:
                process.wait(timeout=max(0.0, until - time.monotonic()))
            except subprocess.TimeoutExpired:
                # Its children, too: gunicorn's own processes are in its session.
                os.killpg(process.pid, signal.SIGKILL)
                process.wait()
