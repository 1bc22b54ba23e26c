"""The fit job: which pieces are wanted from which papers, as frozen values and as open JSON (``fit-job/1``)."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from decimal import Decimal, InvalidOperation
from fractions import Fraction
from typing import Any

from zester.core.errors import JobError, LengthError
from zester.core.fitting.parts import ANY_CUT, CutLimits, Part, can_be_cut, peel, rotate, with_margins
from zester.core.fitting.plan import Layout, layout_entry, read_layout
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


NO_MARGINS = Margins()


@dataclass(frozen=True)
class Sheet:
    """A kind of sheet: ticks, how many there are (None: as many as needed), what using one costs.

    ``up`` is the edge at which the top of its pattern lies; they are sold by the ``pack``.
    """

    id: str
    width: int
    height: int
    count: int | None = None
    cost: Decimal = Decimal(1)
    margins: Margins = NO_MARGINS
    up: str = "top"
    pack: int = 1

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

    def can_be_cut(self, sheet: Sheet, limits: CutLimits) -> bool:
        """Whether the trimmer can cut one from the sheet."""
        ways = [(self.width, self.height), (self.height, self.width)][: 1 + self.turn]
        return any(cut_from_sheet(width, height, sheet, limits) for width, height in ways)


def cut_from_sheet(width: int, height: int, sheet: Sheet, limits: CutLimits) -> bool:
    """Whether a part of this size, as the pattern stands upright, can be cut off a sheet within its margins."""
    wide, high = sheet.inner[::-1] if sheet.sideways else sheet.inner
    if width > wide or height > high:
        return False
    alone = rotate(peel(wide, high, Part(width, height, size=0), limits), UPS.index(sheet.up))
    return can_be_cut(with_margins(alone, sheet.margins, limits), limits)


def fits_in(width: int, height: int, turn: bool, wide: int, high: int) -> bool:
    """Whether width × height fits into wide × high, turned a quarter if it may."""
    return (width <= wide and height <= high) or (turn and height <= wide and width <= high)


@dataclass(frozen=True)
class Row:
    """Matched pieces, cut as one strip: side by side from left to right (axis "x") or one below the other ("y")."""

    id: str
    axis: str
    pieces: tuple[str, ...]


def row_strip(row: Row, pieces: dict[str, Piece]) -> Piece:
    """A matched row as one piece, the strip it is cut as; ``pieces`` by id."""
    members = [pieces[name] for name in row.pieces]
    if row.axis == "x":
        return Piece(row.id, sum(piece.width for piece in members), members[0].height, 1, members[0].turn)
    return Piece(row.id, members[0].width, sum(piece.height for piece in members), 1, members[0].turn)


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


ANY_BENCH = Bench()


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
        than every sheet of its paper, the same id twice, a paper nobody listed, rules that contradict each other.
    """
    if len(text) > LARGEST_FILE:
        raise JobError("the file is larger than 2 MB", "job", "A fit job lists sizes, not single pieces")
    try:
        data = json.loads(text, parse_float=Decimal, parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise JobError("not a JSON file", "job", "See docs/formats.md for how a fit job is written") from error
    _keys(data, "job", {"zester", "unit", "papers", "pieces"}, {"trimmer", "keep", "people"})
    if data["zester"] != FORMAT:
        raise JobError(f"this is “{data['zester']}”, not “{FORMAT}”", "zester")
    unit = data["unit"]
    if unit not in ("in", "mm"):
        raise JobError(f"“{unit}” is not a unit", "unit", "Write “in” or “mm”")
    stack, limits = _trimmer(data.get("trimmer", {}), unit)
    keep = _sides(data["keep"], "keep", unit, ("short", "long")) if "keep" in data else None
    people = _whole(data.get("people", 1), "people", 1, MOST_PIECES)
    job = Job(unit, _papers(data, unit, people), stack, limits, keep)
    check_job(job)
    return job


def check_job(job: Job) -> None:
    """Raise JobError if the trimmer cannot cut a sheet or a piece, or matched pieces lie on no sheet."""
    for number, paper in enumerate(job.papers):
        _check_reach(paper, job.limits, f"papers[{number}].sheets", job.unit)


def _no_constant(name: str) -> None:
    raise ValueError(name)


def _trimmer(trimmer: Any, unit: str) -> tuple[int, CutLimits]:
    _keys(trimmer, "trimmer", set(), {"stack", "longest", "narrowest"})
    longest = _length(trimmer["longest"], "trimmer.longest", unit) if "longest" in trimmer else None
    hold = _length(trimmer["narrowest"], "trimmer.narrowest", unit) if "narrowest" in trimmer else 0
    return _whole(trimmer.get("stack", 1), "trimmer.stack", 1, 100), CutLimits(longest, hold)


def _check_reach(paper: PaperJob, limits: CutLimits, where: str, unit: str) -> None:
    for number, sheet in enumerate(paper.sheets):
        shorter, size = min(sheet.width, sheet.height), show_size(sheet.width, sheet.height, unit)
        if not limits.reaches(shorter):
            mend = "Cut the sheet down elsewhere first, and list what you get"
            raise JobError(f"the trimmer's longest cut does not reach across {size}", f"{where}[{number}]", mend)
        if 2 * limits.hold > shorter:
            raise JobError(f"{size} cannot be cut if strips must be so wide to be held", f"{where}[{number}]")
    pieces = {piece.id: piece for piece in paper.pieces}
    for row in paper.matched:
        strip = row_strip(row, pieces)
        lengths = [pieces[name].width if row.axis == "x" else pieces[name].height for name in row.pieces]
        across = strip.height if row.axis == "x" else strip.width
        if max(lengths) < limits.hold or not limits.reaches(across):
            raise JobError(f"the matched pieces of “{row.id}” cannot be cut apart at this trimmer", where)
    strips = [row_strip(row, pieces) for row in paper.matched]
    for piece in (*paper.pieces, *strips):
        if piece.filler:
            continue
        size = show_size(piece.width, piece.height, unit)
        if not any(piece.fits(sheet) for sheet in paper.sheets):
            mend = "Mind the margins" if any(sheet.margins != NO_MARGINS for sheet in paper.sheets) else ""
            raise JobError(f"“{piece.id}” ({size}) is larger than every sheet of {paper.id}", where, mend)
        if not any(piece.can_be_cut(sheet, limits) for sheet in paper.sheets):
            raise JobError(f"“{piece.id}” ({size}) is too long for the trimmer's longest cut", where)


def _papers(data: dict, unit: str, people: int) -> tuple[PaperJob, ...]:
    found: dict[str, tuple[str, dict]] = {}
    sheets: dict[str, tuple[Sheet, ...]] = {}
    for number, paper in enumerate(_list(data["papers"], "papers")):
        where = f"papers[{number}]"
        _keys(paper, where, {"id", "sheets"}, {"pool", "matched", "pins"})
        name = _name(paper["id"], f"{where}.id", sheets)
        sheets[name] = _sheets(paper["sheets"], f"{where}.sheets", unit)
        found[name] = where, paper
    pieces: dict[str, list[Piece]] = {name: [] for name in sheets}
    seen: set[str] = set()
    for number, entry in enumerate(_list(data["pieces"], "pieces")):
        where = f"pieces[{number}]"
        _keys(entry, where, {"id", "paper", "width", "height", "count"}, PIECE_RULES)
        seen.add(_name(entry["id"], f"{where}.id", seen))
        paper = entry["paper"]
        if not isinstance(paper, str) or paper not in sheets:
            raise JobError(f"there is no paper “{paper}”", f"{where}.paper", f"The papers are {', '.join(sheets)}")
        pieces[paper].append(_piece(entry, where, unit, sheets[paper]))
    if not any(not piece.filler for group in pieces.values() for piece in group):
        raise JobError("there is nothing to cut", "pieces", "List at least one piece")
    jobs = []
    for name, (where, paper) in found.items():
        if any(not piece.filler for piece in pieces[name]):
            group = tuple(pieces[name])
            matched = _rows(paper.get("matched", []), f"{where}.matched", group, sheets[name])
            pool = _one_of(paper.get("pool", "together"), f"{where}.pool", POOLS)
            if pool != "together":
                _check_shares(group, people, where)
            pins = _pins(paper.get("pins", []), f"{where}.pins", unit)
            jobs.append(PaperJob(name, sheets[name], group, matched, pool, people, pins))
    return tuple(jobs)


PIECE_RULES = {"turn", "direction", "each", "window", "from_window", "filler"}


def _check_shares(pieces: tuple[Piece, ...], people: int, where: str) -> None:
    for piece in pieces:
        if piece.filler:
            continue
        if piece.each is None:
            raise JobError(f"how many “{piece.id}” does one person get?", f"{where}.pool", "Write “each” at the piece")
        if piece.each * people > piece.count:
            raise JobError(
                f"“{piece.id}”: {people} people with {piece.each} each need more than {piece.count}", f"{where}.pool"
            )


def _rows(entries: Any, where: str, pieces: tuple[Piece, ...], sheets: tuple[Sheet, ...]) -> tuple[Row, ...]:
    known = {piece.id: piece for piece in pieces}
    rows: dict[str, Row] = {}
    taken: set[str] = set()
    for number, entry in enumerate(_list(entries, where)):
        here = f"{where}[{number}]"
        _keys(entry, here, {"id", "pieces"}, {"along"})
        name = _name(entry["id"], f"{here}.id", rows)
        along = _one_of(entry.get("along", "row"), f"{here}.along", ("row", "column"))
        members = tuple(_list(entry["pieces"], f"{here}.pieces"))
        for member in members:
            if member not in known or known[member].filler or member in taken:
                raise JobError(f"“{member}” is no piece of this paper that could be matched", f"{here}.pieces")
        if len(members) < 2:
            raise JobError("one piece alone matches nothing", f"{here}.pieces")
        taken |= set(members)
        rows[name] = Row(name, "x" if along == "row" else "y", members)
        _check_row(rows[name], known, f"{here}.pieces", sheets)
    return tuple(rows.values())


def _check_row(row: Row, known: dict[str, Piece], where: str, sheets: tuple[Sheet, ...]) -> None:
    members = [known[name] for name in row.pieces]
    side = "height" if row.axis == "x" else "width"
    if len({getattr(piece, side) for piece in members}) > 1:
        raise JobError(f"matched pieces need the same {side}", where)
    if len({piece.direction for piece in members}) > 1:
        raise JobError("matched pieces need the same direction", where)
    if any(piece.window or piece.from_window for piece in members):
        raise JobError("a matched piece has no hidden middle and does not come out of one", where)
    rows = {Fraction(piece.count, row.pieces.count(piece.id)) for piece in members}
    if len(rows) > 1:
        raise JobError("matched pieces are wanted in different numbers", where, "A row is cut as one strip")
    if not any(row_strip(row, known).fits(sheet) for sheet in sheets):
        raise JobError("side by side they are larger than every sheet of the paper", where)


def _pins(entries: Any, where: str, unit: str) -> tuple[Layout, ...]:
    pins = []
    for number, entry in enumerate(_list(entries, where)):
        here = f"{where}[{number}]"
        _keys(entry, here, {"sheet", "copies", "cuts", "parts"}, {"source", "pinned"})
        try:
            pin = replace(read_layout(entry, unit), pinned=True)
        except (KeyError, TypeError, ValueError) as error:
            raise JobError("not a layout", here, "Take it from a plan") from error
        _whole(pin.copies, f"{here}.copies", 1, MOST_PIECES)
        pins.append(pin)
    return tuple(pins)


def _sheets(entries: Any, where: str, unit: str) -> tuple[Sheet, ...]:
    found: dict[str, Sheet] = {}
    for number, entry in enumerate(_list(entries, where)):
        here = f"{where}[{number}]"
        _keys(entry, here, {"id", "width", "height"}, {"count", "cost", "margins", "up", "pack"})
        name = _name(entry["id"], f"{here}.id", found)
        count = entry.get("count")
        found[name] = Sheet(
            name,
            _length(entry["width"], f"{here}.width", unit),
            _length(entry["height"], f"{here}.height", unit),
            None if count is None else _whole(count, f"{here}.count", 0, MOST_PIECES),
            _cost(entry.get("cost", 1), f"{here}.cost"),
            _margins(entry.get("margins", {}), f"{here}.margins", unit),
            _one_of(entry.get("up", "top"), f"{here}.up", UPS),
            _whole(entry.get("pack", 1), f"{here}.pack", 1, MOST_PIECES),
        )
        if min(found[name].inner) <= 0:
            raise JobError("the margins leave nothing of the sheet", f"{here}.margins")
    if not found:
        raise JobError("the paper has no sheets", where, "List at least one sheet")
    return tuple(found.values())


def _margins(entry: Any, where: str, unit: str) -> Margins:
    sides = ("left", "top", "right", "bottom")
    _keys(entry, where, set(), set(sides))
    return Margins(*(_length(entry.get(side, 0), f"{where}.{side}", unit, zero=True) for side in sides))


def _sides(entry: Any, where: str, unit: str, names: tuple[str, str]) -> tuple[int, int]:
    _keys(entry, where, set(names), set())
    return _length(entry[names[0]], f"{where}.{names[0]}", unit), _length(entry[names[1]], f"{where}.{names[1]}", unit)


def _one_of(value: Any, where: str, known: tuple[str, ...]) -> str:
    if value not in known:
        raise JobError(f"“{value}” is not known here", where, f"Write {', '.join(known)}")
    return value


def _flag(entry: dict, key: str, where: str, default: bool) -> bool:
    value = entry.get(key, default)
    if not isinstance(value, bool):
        raise JobError(f"“{value}” is neither true nor false", f"{where}.{key}")
    return value


def _piece(entry: dict, where: str, unit: str, sheets: tuple[Sheet, ...]) -> Piece:
    if "turn" in entry and "direction" in entry:
        raise JobError("“turn” and “direction” say the same thing", where, "Write one of them")
    turn = _flag(entry, "turn", where, default=True)
    direction = _one_of(entry.get("direction", "free" if turn else "half"), f"{where}.direction", DIRECTIONS)
    piece = Piece(
        entry["id"],
        _length(entry["width"], f"{where}.width", unit),
        _length(entry["height"], f"{where}.height", unit),
        _whole(entry["count"], f"{where}.count", 1, MOST_PIECES),
        direction == "free",
        direction == "upright",
        _whole(entry["each"], f"{where}.each", 0, MOST_PIECES) if "each" in entry else None,
        _window(entry["window"], f"{where}.window", unit) if "window" in entry else None,
        _flag(entry, "from_window", where, default=False),
        _flag(entry, "filler", where, default=False),
    )
    if piece.filler and (piece.window or piece.from_window):
        raise JobError("a filler has no hidden middle and does not come out of one", where)
    _check_window(piece, where)
    if not any(piece.fits(sheet) for sheet in sheets):
        size = show_size(piece.width, piece.height, unit)
        raise JobError(f"“{piece.id}” ({size}) is larger than every sheet of its paper", where)
    return piece


def _window(entry: Any, where: str, unit: str) -> Window:
    _keys(entry, where, {"x", "y", "width", "height"}, set())
    x, y = (_length(entry[key], f"{where}.{key}", unit, zero=True) for key in ("x", "y"))
    width, height = (_length(entry[key], f"{where}.{key}", unit) for key in ("width", "height"))
    return Window(x, y, width, height)


def _check_window(piece: Piece, where: str) -> None:
    window = piece.window
    if window and (window.x + window.width > piece.width or window.y + window.height > piece.height):
        raise JobError(f"the hidden middle reaches beyond “{piece.id}”", f"{where}.window")


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


def _length(value: Any, where: str, unit: str, zero: bool = False) -> int:
    if isinstance(value, bool) or not isinstance(value, str | int | Decimal):
        raise JobError(f"“{value}” is not a length", where)
    if zero and str(value).strip() in ("0", "0.0"):
        return 0
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
    """The job as JSON text; ``read_job`` gives an equal job back. What means the same as nothing is left out."""
    unit = job.unit
    people = max((paper.people for paper in job.papers), default=1)
    data = {
        "zester": FORMAT,
        "unit": unit,
        "trimmer": {"stack": job.stack}
        | ({"longest": write_length(job.limits.longest, unit)} if job.limits.longest else {})
        | ({"narrowest": write_length(job.limits.hold, unit)} if job.limits.hold else {}),
        **({"keep": _lengths(unit, short=job.keep[0], long=job.keep[1])} if job.keep else {}),
        **({"people": people} if people > 1 else {}),
        "papers": [_paper_entry(paper, unit) for paper in job.papers],
        "pieces": [_piece_entry(piece, paper.id, unit) for paper in job.papers for piece in paper.pieces],
    }
    return json.dumps(data, indent=1, ensure_ascii=False)


def _lengths(unit: str, **lengths: int) -> dict:
    return {name: write_length(length, unit) if length else 0 for name, length in lengths.items()}


def _paper_entry(paper: PaperJob, unit: str) -> dict:
    entry = {"id": paper.id, "sheets": [_sheet_entry(sheet, unit) for sheet in paper.sheets]}
    if paper.pool != "together":
        entry["pool"] = paper.pool
    if paper.matched:
        along = {"x": "row", "y": "column"}
        entry["matched"] = [
            {"id": row.id, "along": along[row.axis], "pieces": list(row.pieces)} for row in paper.matched
        ]
    if paper.pins:
        entry["pins"] = [layout_entry(pin, unit) for pin in paper.pins]
    return entry


def _sheet_entry(sheet: Sheet, unit: str) -> dict:
    size = _lengths(unit, width=sheet.width, height=sheet.height)
    entry = {"id": sheet.id, **size, "count": sheet.count, "cost": str(sheet.cost)}
    if sheet.margins != NO_MARGINS:
        entry["margins"] = _lengths(unit, **{side: length for side, length in vars(sheet.margins).items() if length})
    entry |= {"up": sheet.up} if sheet.up != "top" else {}
    return entry | ({"pack": sheet.pack} if sheet.pack != 1 else {})


def _piece_entry(piece: Piece, paper: str, unit: str) -> dict:
    size = _lengths(unit, width=piece.width, height=piece.height)
    entry = {"id": piece.id, "paper": paper, **size, "count": piece.count}
    entry |= {"direction": "upright"} if piece.upright and not piece.turn else {"turn": piece.turn}
    if piece.each is not None:
        entry["each"] = piece.each
    if piece.window:
        entry["window"] = _lengths(unit, **vars(piece.window))
    return entry | {key: True for key in ("from_window", "filler") if getattr(piece, key)}
