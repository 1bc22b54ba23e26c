"""Work that needs much memory is done one at a time, by whichever of the web processes has it in hand."""

from __future__ import annotations

import fcntl
from collections.abc import Iterator
from contextlib import contextmanager

from django.conf import settings


@contextmanager
def one_at_a_time(what: str) -> Iterator[None]:
    """Wait for one's turn at something. The lock is the system's: it ends with the process that holds it."""
    settings.DATA_DIR.mkdir(parents=True, exist_ok=True)
    with (settings.DATA_DIR / f"{what}.lock").open("w") as turn:
        fcntl.flock(turn, fcntl.LOCK_EX)
        yield
