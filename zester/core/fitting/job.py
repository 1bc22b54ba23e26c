"""The fit job: which pieces are wanted from which papers, as frozen values and as open JSON (``fit-job/1``)."""

from __future__ import annotations

import json
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from typing import Any

from zester.core.errors import JobError, LengthError
from zester.core.fitting.parts import ANY_CUT, CutLimits
from zester.core.fitting.plan import Layout
from zester.core.lengths import MILLIMETRES, SIXTY_FOURTHS, Ruler, parse_length, show_size, write_length

FORMAT = "fit-job/1"
MOST_PIECES = 10_000_000
LARGEST_FILE = 2_000_000
# Inches written inside a metric job go by sixty-fourths too.
MILLIMETRES_FINE = Ruler(MILLIMETRES.name, "mm", SIXTY_FOURTHS.step)


UPS = ("top", "right", "bottom", "left")
DIRECTIONS = ("free", "half", "upright")
POOLS = ("together", "own", "portions")


@dataclass(frozen=True)
class Margins:
    """What cannot be used along the sides of a sheet, in ticks: a printed edge, a ragged side."""

    left: int = 0
    top: int = 0
    right: int = 0
    bottom: int = 0


@dataclass(frozen=True)
class Sheet:
    """A kind of sheet: ticks, how many there are (None: as many as needed), what using one costs.

    ``up`` is the edge at which the top of its pattern lies.
    """

    id: str
    width: int
    height: int
    count: int | None = None
    cost: Decimal = Decimal(1)
    margins: Margins = Margins()
    up: str = "top"

    @property
    def inner(self) -> tuple[int, int]:
        """Width and height within the margins."""
        margins = self.margins
        return self.width - margins.left - margins.right, self.height - margins.top - margins.bottom

    @property
    def sideways(self) -> bool:
        """Whether its pattern lies on its side."""
        return self.up in ("left", "right")


@dataclass(frozen=True)
class Window:
    """A rectangle inside a piece that another layer will hide: ticks from the piece's left and upper edge."""

    x: int
    y: int
    width: int
    height: int


@dataclass(frozen=True)
class Piece:
    """A piece wanted ``count`` times: ticks; ``turn`` says whether it may lie a quarter turn round.

    One that may not turn may still lie upside down, unless it is ``upright``. ``each`` is one person's share of the
    count. ``window`` is its hidden middle, if it has one; ``from_window`` says that it may be taken out of one. A
    ``filler`` is wanted only if it costs nothing.
    """

    id: str
    width: int
    height: int
    count: int
    turn: bool = True
    upright: bool = False
    each: int | None = None
    window: Window | None = None
    from_window: bool = False
    filler: bool = False

    @property
    def direction(self) -> str:
        """``free``, ``half`` (half a turn only) or ``upright``."""
        return "free" if self.turn else "upright" if self.upright else "half"

    def fits(self, sheet: Sheet) -> bool:
        """Whether one can be cut from the sheet at all."""
        width, height = sheet.inner[::-1] if sheet.sideways else sheet.inner
        return fits_in(self.width, self.height, self.turn, width, height)


def fits_in(width: int, height: int, turn: bool, wide: int, high: int) -> bool:
    """Whether width × height fits into wide × high, turned a quarter if it may."""
    return (width <= wide and height <= high) or (turn and height <= wide and width <= high)


@dataclass(frozen=True)
class Row:
    """Matched pieces, cut as one strip: side by side from left to right (axis "x") or one below the other ("y")."""

    id: str
    axis: str
    pieces: tuple[str, ...]


@dataclass(frozen=True)
class PaperJob:
    """All that is wanted from one paper. Papers do not mix, so each is fitted on its own.

    ``pool`` is together, own (everybody's pieces from sheets of their own) or portions (whole sheets cut into equal
    portions that are cut up at home) for ``people`` participants. ``pins`` are layouts that stay as they are.
    """

    id: str
    sheets: tuple[Sheet, ...]
    pieces: tuple[Piece, ...]
    matched: tuple[Row, ...] = ()
    pool: str = "together"
    people: int = 1
    pins: tuple[Layout, ...] = ()


@dataclass(frozen=True)
class Bench:
    """What the cutting is done with: sheets cut at once, the trimmer's limits, the smallest offcut worth keeping."""

    stack: int = 1
    limits: CutLimits = ANY_CUT
    keep: tuple[int, int] | None = None

    def keeps(self, width: int, height: int) -> bool:
        """Whether an offcut of this size is worth keeping, so that no filler may use it up."""
        return bool(self.keep) and min(width, height) >= self.keep[0] and max(width, height) >= self.keep[1]


@dataclass(frozen=True)
class Job:
    """A whole fit job; ``unit`` ("in" or "mm") is only how lengths are written, ``stack`` the sheets cut at once.

    ``keep`` is the shorter and longer side (ticks) from which an offcut is worth keeping.
    """

    unit: str
    papers: tuple[PaperJob, ...]
    stack: int = 1
    limits: CutLimits = ANY_CUT
    keep: tuple[int, int] | None = None

    @property
    def bench(self) -> Bench:
        """What the cutting is done with."""
        return Bench(self.stack, self.limits, self.keep)


def read_job(text: str | bytes) -> Job:
    """Read a job from JSON.

    Raises
    ------
    JobError
        Naming the field and what is wrong: not JSON, an unknown key, a length that is none, a piece that is larger
        than every sheet of its paper, the same id twice, a paper nobody listed.
    """
    if len(text) > LARGEST_FILE:
        raise JobError("the file is larger than 2 MB", "job", "A fit job lists sizes, not single pieces")
    try:
        data = json.loads(text, parse_float=Decimal, parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise JobError("not a JSON file", "job", "See docs/formats.md for how a fit job is written") from error
    _keys(data, "job", {"zester", "unit", "papers", "pieces"}, {"trimmer"})
    if data["zester"] != FORMAT:
        raise JobError(f"this is “{data['zester']}”, not “{FORMAT}”", "zester")
    unit = data["unit"]
    if unit not in ("in", "mm"):
        raise JobError(f"“{unit}” is not a unit", "unit", "Write “in” or “mm”")
    return Job(unit, _papers(data, unit), _stack(data.get("trimmer", {})))


def _no_constant(name: str) -> None:
    raise ValueError(name)


def _stack(trimmer: Any) -> int:
    _keys(trimmer, "trimmer", set(), {"stack"})
    return _whole(trimmer.get("stack", 1), "trimmer.stack", 1, 100)


def _papers(data: dict, unit: str) -> tuple[PaperJob, ...]:
    sheets: dict[str, tuple[Sheet, ...]] = {}
    for number, paper in enumerate(_list(data["papers"], "papers")):
        where = f"papers[{number}]"
        _keys(paper, where, {"id", "sheets"}, set())
        name = _name(paper["id"], f"{where}.id", sheets)
        sheets[name] = _sheets(paper["sheets"], f"{where}.sheets", unit)
    pieces: dict[str, list[Piece]] = {name: [] for name in sheets}
    seen: set[str] = set()
    for number, entry in enumerate(_list(data["pieces"], "pieces")):
        where = f"pieces[{number}]"
        _keys(entry, where, {"id", "paper", "width", "height", "count"}, {"turn"})
        seen.add(_name(entry["id"], f"{where}.id", seen))
        paper = entry["paper"]
        if not isinstance(paper, str) or paper not in sheets:
            raise JobError(f"there is no paper “{paper}”", f"{where}.paper", f"The papers are {', '.join(sheets)}")
        pieces[paper].append(_piece(entry, where, unit, sheets[paper]))
    if not seen:
        raise JobError("there is nothing to cut", "pieces", "List at least one piece")
    return tuple(PaperJob(name, sheets[name], tuple(pieces[name])) for name in sheets if pieces[name])


def _sheets(entries: Any, where: str, unit: str) -> tuple[Sheet, ...]:
    found: dict[str, Sheet] = {}
    for number, entry in enumerate(_list(entries, where)):
        here = f"{where}[{number}]"
        _keys(entry, here, {"id", "width", "height"}, {"count", "cost"})
        name = _name(entry["id"], f"{here}.id", found)
        count = entry.get("count")
        found[name] = Sheet(
            name,
            _length(entry["width"], f"{here}.width", unit),
            _length(entry["height"], f"{here}.height", unit),
            None if count is None else _whole(count, f"{here}.count", 0, MOST_PIECES),
            _cost(entry.get("cost", 1), f"{here}.cost"),
        )
    if not found:
        raise JobError("the paper has no sheets", where, "List at least one sheet")
    return tuple(found.values())


def _piece(entry: dict, where: str, unit: str, sheets: tuple[Sheet, ...]) -> Piece:
    turn = entry.get("turn", True)
    if not isinstance(turn, bool):
        raise JobError(f"“{turn}” is neither true nor false", f"{where}.turn")
    piece = Piece(
        entry["id"],
        _length(entry["width"], f"{where}.width", unit),
        _length(entry["height"], f"{where}.height", unit),
        _whole(entry["count"], f"{where}.count", 1, MOST_PIECES),
        turn,
    )
    if not any(piece.fits(sheet) for sheet in sheets):
        size = show_size(piece.width, piece.height, unit)
        raise JobError(f"“{piece.id}” ({size}) is larger than every sheet of its paper", where)
    return piece


def _keys(entry: Any, where: str, needed: set[str], allowed: set[str]) -> None:
    if not isinstance(entry, dict):
        raise JobError("not an object with named fields", where)
    for key in sorted(needed - entry.keys()):
        raise JobError("missing", f"{where}.{key}" if where != "job" else key)
    for key in sorted(entry.keys() - needed - allowed):
        known = ", ".join(sorted(needed | allowed))
        raise JobError("not a known field", f"{where}.{key}" if where != "job" else key, f"Known here: {known}")


def _list(entries: Any, where: str) -> list:
    if not isinstance(entries, list):
        raise JobError("not a list", where)
    return entries


def _name(value: Any, where: str, taken: Any) -> str:
    if not isinstance(value, str) or not value.strip():
        raise JobError("an id must be text", where)
    if value in taken:
        raise JobError(f"“{value}” is there twice", where)
    return value


def _length(value: Any, where: str, unit: str) -> int:
    if isinstance(value, bool) or not isinstance(value, str | int | Decimal):
        raise JobError(f"“{value}” is not a length", where)
    try:
        return parse_length(str(value), SIXTY_FOURTHS if unit == "in" else MILLIMETRES_FINE)
    except LengthError as error:
        raise JobError(error.what, where, error.mend) from error


def _whole(value: Any, where: str, least: int, most: int) -> int:
    if isinstance(value, bool) or not isinstance(value, int):
        raise JobError(f"“{value}” is not a whole number", where)
    if not least <= value <= most:
        raise JobError(f"{value} is out of range", where, f"Write {least} to {most:,}")
    return value


def _cost(value: Any, where: str) -> Decimal:
    try:
        cost = Decimal(str(value)) if isinstance(value, str | int | Decimal) and not isinstance(value, bool) else None
    except InvalidOperation:
        cost = None
    if cost is None or not cost.is_finite() or not 0 <= cost <= 10**6 or cost != round(cost, 6):
        raise JobError(f"“{value}” is not a cost", where, "Write 0 to 1000000, with at most six decimals")
    return cost


def write_job(job: Job) -> str:
    """The job as JSON text; ``read_job`` gives an equal job back."""
    unit = job.unit
    papers = [{"id": paper.id, "sheets": [_sheet_entry(s, unit) for s in paper.sheets]} for paper in job.papers]
    pieces = [_piece_entry(piece, paper.id, unit) for paper in job.papers for piece in paper.pieces]
    data = {"zester": FORMAT, "unit": unit, "trimmer": {"stack": job.stack}, "papers": papers, "pieces": pieces}
    return json.dumps(data, indent=1, ensure_ascii=False)


def _sheet_entry(sheet: Sheet, unit: str) -> dict:
    size = {"width": write_length(sheet.width, unit), "height": write_length(sheet.height, unit)}
    return {"id": sheet.id, **size, "count": sheet.count, "cost": str(sheet.cost)}


def _piece_entry(piece: Piece, paper: str, unit: str) -> dict:
    size = {"width": write_length(piece.width, unit), "height": write_length(piece.height, unit)}
    return {"id": piece.id, "paper": paper, **size, "count": piece.count, "turn": piece.turn}
