"""The core's own errors: what is wrong, where, and how to mend it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeVar

T = TypeVar("T")


def sure(value: T | None) -> T:
    """What must be there by what was looked at before. Raises RuntimeError where it is not, rather than go on."""
    if value is None:
        raise RuntimeError("something that must be there is not")
    return value


def storable(text: str) -> bool:
    """Whether it can be stored and shown: half a letter (a lone surrogate) or a zero byte cannot."""
    return "\0" not in text and not any("\ud800" <= char <= "\udfff" for char in text)


class ZesterError(ValueError):
    """Input that cannot be used.

    Parameters
    ----------
    what : str
        What is wrong, as one plain sentence without a full stop.
    where : str
        The field, line or file it is wrong in; may be empty.
    mend : str
        What to write or do instead; may be empty.
    """

    def __init__(self, what: str, where: str = "", mend: str = ""):
        self.what, self.where, self.mend = what, where, mend
        super().__init__(self.text())

    def text(self) -> str:
        """One line: where, what and the mend."""
        head = f"{self.where}: {self.what}" if self.where else self.what
        return f"{head}{self._stop} {self.mend}" if self.mend else head

    def advice(self) -> str:
        """What and the mend, for a message that already stands beside its field."""
        return f"{self.what}{self._stop} {self.mend}" if self.mend else f"{self.what}{self._stop}"

    @property
    def _stop(self) -> str:
        """Nothing after a question."""
        return "" if self.what.endswith("?") else "."


class LengthError(ZesterError):
    """Text that is no length, or a length that is on no ruler."""


class CutListError(ZesterError):
    """A line of a cut list that cannot be read."""


class NotInForm(CutListError):
    """A line that is not written as a list is; it may still be understood as an everyday one."""


@dataclass(frozen=True)
class Choice:
    """One way to read a line that can be read in several."""

    words: str
    """What a person picks."""
    line: str
    """The line written so that it has this meaning alone."""


class Question(NotInForm):
    """A line that could mean several things, or holds something that was not used.

    ``choices`` are the readings to pick from; ``missing`` is the name of a paper that nobody knows yet;
    ``of_people``: it is about a count that speaks of people, kits or sets.
    """

    def __init__(
        self,
        what: str,
        where: str = "",
        mend: str = "",
        *,
        choices: tuple[Choice, ...] = (),
        missing: str = "",
        of_people: bool = False,
    ):
        super().__init__(what, where, mend)
        self.choices, self.missing, self.of_people = choices, missing, of_people


class JobError(ZesterError):
    """A fit job that cannot be used."""


class PlanError(ZesterError):
    """A plan that does not do what its job asks; always a defect of the solver."""


class GuideError(ZesterError):
    """A line of a typed guide, or a casting, that cannot be used."""


class ShapeError(ZesterError):
    """Something that was kept and cannot be read: by a newer version, or damaged."""


class Cancelled(Exception):
    """Raised by a progress callback to stop a fit."""
