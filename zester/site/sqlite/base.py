"""Django's SQLite; whoever wants to write waits for a turn that is looked at every few milliseconds.

SQLite itself looks again after up to a tenth of a second, by chance just when somebody else writes: with forty people
at once a few keystrokes waited for a second that way.
"""

from __future__ import annotations

import fcntl
import time
from io import TextIOWrapper
from pathlib import Path

from django.db.backends.sqlite3 import base
from django.db.backends.sqlite3.creation import DatabaseCreation

# How often it is looked, and how long at most; after that SQLite says that it is locked, as it did before.
LOOK, LONGEST = 0.002, 10.0


class Creation(DatabaseCreation):
    """Takes the file of turns away with the database of the tests."""

    def _destroy_test_db(self, test_database_name: str, verbosity: int) -> None:
        super()._destroy_test_db(test_database_name, verbosity)
        _file_of(test_database_name).unlink(missing_ok=True)


def _file_of(name: str | Path) -> Path:
    # Not the database itself: closing it would let go of SQLite's own locks.
    return Path(f"{name}.turn")


class DatabaseWrapper(base.DatabaseWrapper):
    """As Django's, with turns for transactions."""

    creation_class = Creation
    # Opened for each turn: a file that was open before a process split in two would be held by both.
    _turn: TextIOWrapper | None = None

    def _start_transaction_under_autocommit(self) -> None:
        self._take_turn()
        try:
            super()._start_transaction_under_autocommit()
        except BaseException:
            self._give_back()
            raise

    def _take_turn(self) -> None:
        """The system lets it go when its holder dies. Without it everything is right, too, only slower."""
        name = self.settings_dict["NAME"]
        if self.transaction_mode != "IMMEDIATE" or self.is_in_memory_db():
            return
        try:
            turn = _file_of(name).open("w")
        except OSError:
            return
        ends = time.monotonic() + LONGEST
        while True:
            try:
                fcntl.flock(turn, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except BlockingIOError:
                if time.monotonic() > ends:
                    turn.close()
                    return
                time.sleep(LOOK)
        self._turn = turn

    def _give_back(self) -> None:
        if self._turn is not None:
            self._turn.close()
            self._turn = None

    def _commit(self) -> None:
        try:
            super()._commit()
        finally:
            self._give_back()

    def _rollback(self) -> None:
        try:
            super()._rollback()
        finally:
            self._give_back()

    def _close(self) -> None:
        try:
            super()._close()
        finally:
            self._give_back()
