"""What a class came to, as it is kept when it is closed, and what several of them show together.

Kept as plain data: whole numbers, and amounts and shares as text, so that nothing is rounded twice.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field, fields
from decimal import Decimal
from typing import Any, TypeVar

from zester.core.errors import ZesterError


@dataclass(frozen=True, kw_only=True)
class PaperKept:
    """One paper of a class."""

    name: str
    """What it was called."""
    sheets: int = 0
    """Sheets opened."""
    used: Decimal = Decimal(0)
    """The share of their area that became pieces."""
    kept: Decimal = Decimal(0)
    """The share kept as offcuts."""
    cost: Decimal = Decimal(0)
    """What they cost."""
    waste: Decimal = Decimal(0)
    """What of that went into the bin."""


@dataclass(frozen=True, kw_only=True)
class DesignKept:
    """One design of a class."""

    name: str
    """What it was called."""
    made: int = 0
    """How many cards."""
    cost: Decimal = Decimal(0)
    """What the paper of one cost, with its share of the waste."""
    spoiled: int = 0
    """How many of its pieces were spoiled."""


@dataclass(frozen=True, kw_only=True)
class Record:
    """What one class came to."""

    people: int = 0
    """Who came."""
    kits: int = 0
    """Kits made."""
    handed: int = 0
    """People whose kit was handed over."""
    pieces: int = 0
    """Pieces cut."""
    planned_seconds: int = 0
    """At the trimmer, as reckoned."""
    seconds: int = 0
    """At the trimmer, as timed."""
    hand_planned: int = 0
    """Seconds of jobs by hand that were timed, as they usually take."""
    hand_seconds: int = 0
    """The same as they took."""
    shown: int = 0
    """Cards beside the kits that are shown."""
    given: int = 0
    """Cards beside the kits that were given away."""
    kept_cards: int = 0
    """Cards beside the kits that she keeps."""
    spoiled: Mapping[str, int] = field(default_factory=dict)
    """By the kind of mishap how often it happened."""
    more_sheets: int = 0
    """Sheets opened for what was spoiled."""
    mishaps_cost: Decimal = Decimal(0)
    """What those cost."""
    offcuts: int = 0
    """Offcuts put onto the shelf."""
    offcuts_used: int = 0
    """Offcuts taken from it."""
    brings: Decimal = Decimal(0)
    """What it brought."""
    takes: Decimal = Decimal(0)
    """What it cost."""
    owing: Decimal = Decimal(0)
    """What was still open."""
    papers: tuple[PaperKept, ...] = ()
    """Paper by paper."""
    designs: tuple[DesignKept, ...] = ()
    """Design by design."""

    @property
    def left(self) -> Decimal:
        """What was left."""
        return self.brings - self.takes

    @property
    def sheets(self) -> int:
        """Sheets opened."""
        return sum(paper.sheets for paper in self.papers)

    @property
    def waste(self) -> Decimal:
        """What went into the bin, in money."""
        return sum((paper.waste for paper in self.papers), Decimal(0))

    @property
    def used(self) -> Decimal | None:
        """The yield: the share of all sheets that became pieces; None without sheets."""
        if not self.sheets:
            return None
        return sum((paper.used * paper.sheets for paper in self.papers), Decimal(0)) / self.sheets

    @property
    def mistakes(self) -> int:
        """How often something was spoiled."""
        return sum(self.spoiled.values())

    @property
    def planned_minutes(self) -> int:
        """As reckoned, rounded up."""
        return -(-self.planned_seconds // 60)

    @property
    def minutes(self) -> int:
        """As timed, rounded up."""
        return -(-self.seconds // 60)

    @property
    def hand_minutes(self) -> tuple[int, int]:
        """By hand, of what was timed: as usual, and as it took; rounded up."""
        return -(-self.hand_planned // 60), -(-self.hand_seconds // 60)

    @property
    def seconds_a_piece(self) -> Decimal | None:
        """As timed; None where nothing was."""
        return Decimal(self.seconds) / self.pieces if self.seconds and self.pieces else None


def write_record(record: Record) -> dict[str, Any]:
    """As plain data."""
    plain = asdict(record)
    plain["papers"] = [_texts(paper) for paper in plain["papers"]]
    plain["designs"] = [_texts(design) for design in plain["designs"]]
    return _texts(plain)


def _texts(row: Mapping[str, Any]) -> dict[str, Any]:
    return {name: str(value) if isinstance(value, Decimal) else value for name, value in row.items()}


def read_record(kept: Mapping[str, Any]) -> Record:
    """Back again. Raises ZesterError for what is none."""
    try:
        plain = dict(kept)
        papers = tuple(PaperKept(**_amounts(PaperKept, row)) for row in plain.pop("papers", ()))
        designs = tuple(DesignKept(**_amounts(DesignKept, row)) for row in plain.pop("designs", ()))
        return Record(**_amounts(Record, plain), papers=papers, designs=designs)
    except (TypeError, ValueError, ArithmeticError, AttributeError) as error:
        raise ZesterError("This is no record of a class", mend="Bring in a backup from before") from error


def _amounts(kind: type, row: Mapping[str, Any]) -> dict[str, Any]:
    amounts = {each.name for each in fields(kind) if each.type == "Decimal"}
    return {name: Decimal(value) if name in amounts else value for name, value in row.items()}


Kept = TypeVar("Kept", PaperKept, DesignKept)


def _by_name(things: Iterable[Kept]) -> dict[str, list[Kept]]:
    found: dict[str, list[Kept]] = {}
    for each in things:
        found.setdefault(each.name, []).append(each)
    return found


@dataclass(frozen=True)
class DesignSeen:
    """A design over the classes it was taught in."""

    name: str
    classes: int
    made: int
    cost: Decimal
    """What the paper of one cost on average."""
    spoiled: int


def designs_seen(records: Iterable[Record]) -> list[DesignSeen]:
    """The designs, the thriftiest to teach first."""
    found = []
    for name, mine in _by_name(design for record in records for design in record.designs).items():
        made = sum(each.made for each in mine)
        cost = sum((each.cost * each.made for each in mine), Decimal(0)) / made if made else Decimal(0)
        found.append(DesignSeen(name, len(mine), made, cost, sum(each.spoiled for each in mine)))
    return sorted(found, key=lambda each: (each.cost, each.name))


@dataclass(frozen=True)
class PaperSeen:
    """A paper over the classes."""

    name: str
    classes: int
    sheets: int
    used: Decimal
    kept: Decimal
    waste: Decimal
    """What went into the bin, in money."""


def mistakes_seen(records: Iterable[Record]) -> list[tuple[str, int, int]]:
    """By kind how often something was spoiled, and in how many classes; the most often first."""
    found: dict[str, tuple[int, int]] = {}
    for record in records:
        for kind, count in record.spoiled.items():
            times, classes = found.get(kind, (0, 0))
            found[kind] = times + count, classes + 1
    return sorted(((kind, *both) for kind, both in found.items()), key=lambda row: (-row[1], row[0]))


def papers_seen(records: Iterable[Record]) -> list[PaperSeen]:
    """The papers; those of which most is left come first."""
    rows = _by_name(paper for record in records for paper in record.papers)
    found = [_seen(name, mine) for name, mine in rows.items() if any(each.sheets for each in mine)]
    return sorted(found, key=lambda each: (each.used, each.name))


def _seen(name: str, mine: Sequence[PaperKept]) -> PaperSeen:
    sheets = sum(each.sheets for each in mine)
    used = sum((each.used * each.sheets for each in mine), Decimal(0)) / sheets
    kept = sum((each.kept * each.sheets for each in mine), Decimal(0)) / sheets
    return PaperSeen(name, len(mine), sheets, used, kept, sum((each.waste for each in mine), Decimal(0)))
