"""All tests as chunks, a module each, and the processes that take them.

    todo/012-zester.core.tests.test_tally      a chunk nobody has taken
    doing/4711-zester.core.tests.test_tally    process 4711 is at it
    said/zester.core.tests.test_tally          what it prints
    done/zester.core.tests.test_tally          what came of it, as JSON

A chunk is taken by renaming it, which only one process can do. A process that ends in the middle has failed its chunk,
what it printed says where, and another takes the rest.
"""

from __future__ import annotations

import json
import os
import sys
import time
from dataclasses import dataclass, field
from pathlib import Path

from tests.children import Child

ROOT = Path(__file__).parents[1]
# The longest first, so that at the end no process is alone for long; what is not named comes last.
FIRST = ("tests.served", "tests.browser", "zester.core.fitting", "zester.fits", "tests.program", "zester.site")
# A served journey has a browser, a web server and two workers of its own: one at a time, while there are others.
ALONE = "-tests.served."
# Seconds after which nobody waits any longer, whatever hangs; more than anybody should.
LONGEST_RUN = 2400
SLOWEST = 15


def all_chunks() -> list[str]:
    """Every module of tests, the longest first."""
    found = [
        ".".join(path.relative_to(ROOT).with_suffix("").parts)
        for place in ("tests", "zester", "benchmarks")
        for path in (ROOT / place).rglob("test_*.py")
    ]
    return sorted(found, key=lambda label: (_turn(label), label))


def _turn(label: str) -> int:
    return next((turn for turn, start in enumerate(FIRST) if label.startswith(start)), len(FIRST))


@dataclass
class Counts:
    """What came of all chunks so far."""

    passed: int = 0
    failed: int = 0
    skipped: int = 0
    took: list[tuple[float, str]] = field(default_factory=list)
    rooms: dict[str, float] = field(default_factory=dict)
    """Seconds by the first two names of the modules."""


class Board:
    """The folder in which chunks lie."""

    def __init__(self, folder: Path):
        self.folder = folder
        for name in ("todo", "doing", "said", "done"):
            (folder / name).mkdir(exist_ok=True)

    def put(self, labels: list[str]) -> None:
        """All that is to be done, in this order."""
        for number, label in enumerate(labels):
            (self.folder / "todo" / f"{number:03}-{label}").touch()

    def take(self) -> str | None:
        """The next chunk for this process, or None if none is left."""
        left = sorted((self.folder / "todo").iterdir(), key=lambda path: (self._must_wait(path.name), path.name))
        for path in left:
            label = path.name.split("-", 1)[1]
            try:
                path.rename(self.folder / "doing" / f"{os.getpid()}-{label}")
            except FileNotFoundError:
                # Somebody else was quicker.
                continue
            return label
        return None

    def _must_wait(self, name: str) -> bool:
        """Whether it is one of those that starve each other, and another is under way: others first."""
        return ALONE in name and any(ALONE in path.name for path in (self.folder / "doing").iterdir())

    def finish(self, label: str, outcome: dict) -> None:
        """What came of a chunk that this process has taken."""
        ready = self.folder / f"{os.getpid()}.json"
        ready.write_text(json.dumps(outcome))
        ready.rename(self.folder / "done" / label)
        (self.folder / "doing" / f"{os.getpid()}-{label}").unlink()

    def blame(self, pid: int, why: str) -> None:
        """A process has ended: the chunk it was at has failed."""
        for path in (self.folder / "doing").glob(f"{pid}-*"):
            label = path.name.split("-", 1)[1]
            (self.folder / "done" / label).write_text(json.dumps(_failed(why)))
            path.unlink()

    def said(self, label: str) -> str:
        """What a chunk has printed."""
        path = self.folder / "said" / label
        return path.read_text(errors="replace") if path.exists() else ""

    @property
    def is_left(self) -> bool:
        """Whether there is a chunk that nobody has taken."""
        return any((self.folder / "todo").iterdir())


def _failed(why: str) -> dict:
    return {"passed": 0, "failed": 1, "skipped": 0, "seconds": 0.0, "took": [], "why": why}


class Run:
    """All chunks, by as many processes as there are cores; shown as they end."""

    def __init__(self, board: Board, labels: list[str], processes: int):
        self.board, self.labels, self.counts = board, labels, Counts()
        self.processes = processes
        self.shown: set[str] = set()
        self.children: list[Child] = []
        board.put(labels)

    def to_the_end(self) -> Counts:
        """Run everything; what came of it."""
        until = time.monotonic() + LONGEST_RUN
        try:
            self.children = [self._child() for _ in range(self.processes)]
            while self.children:
                if time.monotonic() > until:
                    self._give_up()
                self._look_after()
                self._show_new()
                time.sleep(0.1)
        finally:
            for child in self.children:
                child.end(grace=5.0)
        self._show_missing()
        return self.counts

    def _child(self) -> Child:
        return Child([sys.executable, "-m", "tests.worker", str(self.board.folder)], cwd=ROOT)

    def _look_after(self) -> None:
        for child in list(self.children):
            code = child.process.poll()
            if code is None:
                continue
            self.children.remove(child)
            # It has ended by itself; what it started may not have.
            child.kill()
            if code:
                self.board.blame(child.pid, f"its process ended with {code}\n{child.said()}")
                if self.board.is_left:
                    self.children.append(self._child())

    def _give_up(self) -> None:
        for child in self.children:
            child.kill()
            self.board.blame(child.pid, f"the whole run took longer than {LONGEST_RUN} s")
        self.children = []

    def _show_new(self) -> None:
        for label in self.labels:
            path = self.board.folder / "done" / label
            if label not in self.shown and path.exists():
                self.shown.add(label)
                self._show(label, json.loads(path.read_text()))

    def _show(self, label: str, outcome: dict) -> None:
        counts = self.counts
        counts.passed += outcome["passed"]
        counts.failed += outcome["failed"]
        counts.skipped += outcome["skipped"]
        counts.took += [(seconds, name) for seconds, name in outcome["took"]]
        room = ".".join(label.split(".")[:2])
        counts.rooms[room] = counts.rooms.get(room, 0.0) + outcome["seconds"]
        failed = f", {outcome['failed']} FAILED" if outcome["failed"] else ""
        print(f"{outcome['seconds']:6.1f} s  {outcome['passed']:3} passed{failed}  {label}", flush=True)
        if outcome["failed"]:
            print(f"{self.board.said(label)}\n{outcome.get('why', '')}", flush=True)

    def _show_missing(self) -> None:
        """What nobody has done has failed."""
        self._show_new()
        for label in self.labels:
            if label not in self.shown:
                self._show(label, _failed("nobody has run it"))


def show_times(counts: Counts) -> None:
    """Where the time went: by room, and the slowest tests."""
    rooms = sorted(counts.rooms.items(), key=lambda each: -each[1])
    print("\nSeconds by room: " + ", ".join(f"{room} {seconds:.0f}" for room, seconds in rooms))
    print("The slowest tests:")
    for seconds, name in sorted(counts.took, reverse=True)[:SLOWEST]:
        print(f"{seconds:6.1f} s  {name}")
