"""Locks of the system: work that needs much memory is done one at a time, and nothing is done by two at once."""

from __future__ import annotations

import fcntl
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

from django.conf import settings


def nobody_else(path: Path, held: ExitStack) -> bool:
    """Whether nobody else is at something, by its lock; then nobody else is until what is held is let go."""
    lock = held.enter_context(path.open("w"))
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True


@contextmanager
def one_at_a_time(what: str) -> Iterator[None]:
    """Wait for one's turn at something. The lock is the system's: it ends with the process that holds it."""
    settings.DATA_DIR.mkdir(parents=True, exist_ok=True)
    with (settings.DATA_DIR / f"{what}.lock").open("w") as turn:
        fcntl.flock(turn, fcntl.LOCK_EX)
        yield
