"""The fit job as open JSON (``fit-job/1``): reading and writing it; docs/formats.md says what every field means."""

from __future__ import annotations

import json
from dataclasses import replace
from decimal import Decimal, InvalidOperation
from typing import Any

from zester.core.errors import JobError, LengthError, storable
from zester.core.fitting.jobs.check_job import check_job, check_row, check_shares, check_window
from zester.core.fitting.jobs.job import (
    DIRECTIONS,
    NO_MARGINS,
    POOLS,
    UPS,
    Bench,
    Job,
    KeepRule,
    Margins,
    PaperJob,
    Piece,
    Row,
    Sheet,
)
from zester.core.fitting.jobs.plan import Layout, layout_entry, read_layout
from zester.core.fitting.parts import CutLimits
from zester.core.geometry import Window
from zester.core.lengths import read_length, show_size, write_length

FORMAT = "fit-job/1"
MOST_PIECES = 10_000_000
LARGEST_FILE = 2_000_000
LONGEST_ID = 200
PIECE_RULES = {"turn", "direction", "each", "window", "from_window", "filler"}


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
    keep = KeepRule(*_sides(data["keep"], "keep", unit, ("short", "long"))) if "keep" in data else None
    people = _whole(data.get("people", 1), "people", 1, MOST_PIECES)
    job = Job(unit, _papers(data, unit, people), Bench(stack, limits, keep))
    check_job(job)
    return job


def _no_constant(name: str) -> None:
    raise ValueError(name)


def _trimmer(trimmer: Any, unit: str) -> tuple[int, CutLimits]:
    _keys(trimmer, "trimmer", set(), {"stack", "longest", "narrowest"})
    longest = _length(trimmer["longest"], "trimmer.longest", unit) if "longest" in trimmer else None
    hold = _length(trimmer["narrowest"], "trimmer.narrowest", unit) if "narrowest" in trimmer else 0
    return _whole(trimmer.get("stack", 1), "trimmer.stack", 1, 100), CutLimits(longest, hold)


def _papers(data: dict[str, Any], unit: str, people: int) -> tuple[PaperJob, ...]:
    found: dict[str, tuple[str, dict[str, Any]]] = {}
    sheets: dict[str, tuple[Sheet, ...]] = {}
    for number, paper in enumerate(_list(data["papers"], "papers")):
        where = f"papers[{number}]"
        _keys(paper, where, {"id", "sheets"}, {"name", "pool", "matched", "pins"})
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
                check_shares(group, people, where)
            jobs.append(
                PaperJob(
                    id=name,
                    sheets=sheets[name],
                    pieces=group,
                    matched=matched,
                    pool=pool,
                    people=people,
                    pins=_pins(paper.get("pins", []), f"{where}.pins", unit),
                    name=_words(paper.get("name", ""), f"{where}.name"),
                )
            )
    return tuple(jobs)


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
            if not isinstance(member, str) or member not in known or known[member].filler or member in taken:
                raise JobError(f"“{member}” is no piece of this paper that could be matched", f"{here}.pieces")
        if len(members) < 2:
            raise JobError("one piece alone matches nothing", f"{here}.pieces")
        taken |= set(members)
        rows[name] = Row(name, "x" if along == "row" else "y", members)
        check_row(rows[name], known, f"{here}.pieces", sheets)
    return tuple(rows.values())


def _pins(entries: Any, where: str, unit: str) -> tuple[Layout, ...]:
    pins = []
    for number, entry in enumerate(_list(entries, where)):
        here = f"{where}[{number}]"
        _keys(entry, here, {"sheet", "copies", "cuts", "parts"}, {"source", "pinned"})
        try:
            pin = replace(read_layout(entry, unit), pinned=True)
        except (KeyError, TypeError, ValueError, AttributeError) as error:
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
            id=name,
            width=_length(entry["width"], f"{here}.width", unit),
            height=_length(entry["height"], f"{here}.height", unit),
            count=None if count is None else _whole(count, f"{here}.count", 0, MOST_PIECES),
            cost=_cost(entry.get("cost", 1), f"{here}.cost"),
            margins=_margins(entry.get("margins", {}), f"{here}.margins", unit),
            up=_one_of(entry.get("up", "top"), f"{here}.up", UPS),
            pack=_whole(entry.get("pack", 1), f"{here}.pack", 1, MOST_PIECES),
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
    return str(value)


def _flag(entry: dict[str, Any], key: str, where: str, default: bool) -> bool:
    value = entry.get(key, default)
    if not isinstance(value, bool):
        raise JobError(f"“{value}” is neither true nor false", f"{where}.{key}")
    return value


def _piece(entry: dict[str, Any], where: str, unit: str, sheets: tuple[Sheet, ...]) -> Piece:
    if "turn" in entry and "direction" in entry:
        raise JobError("“turn” and “direction” say the same thing", where, "Write one of them")
    turn = _flag(entry, "turn", where, default=True)
    direction = _one_of(entry.get("direction", "free" if turn else "half"), f"{where}.direction", DIRECTIONS)
    piece = Piece(
        id=entry["id"],
        width=_length(entry["width"], f"{where}.width", unit),
        height=_length(entry["height"], f"{where}.height", unit),
        count=_whole(entry["count"], f"{where}.count", 1, MOST_PIECES),
        turn=direction == "free",
        upright=direction == "upright",
        each=_whole(entry["each"], f"{where}.each", 0, MOST_PIECES) if "each" in entry else None,
        window=_window(entry["window"], f"{where}.window", unit) if "window" in entry else None,
        from_window=_flag(entry, "from_window", where, default=False),
        filler=_flag(entry, "filler", where, default=False),
    )
    if piece.filler and (piece.window or piece.from_window):
        raise JobError("a filler has no hidden middle and does not come out of one", where)
    check_window(piece, where)
    if not any(piece.fits(sheet) for sheet in sheets):
        size = show_size(piece.width, piece.height, unit)
        raise JobError(f"“{piece.id}” ({size}) is larger than every sheet of its paper", where)
    return piece


def _window(entry: Any, where: str, unit: str) -> Window:
    _keys(entry, where, {"x", "y", "width", "height"}, set())
    x, y = (_length(entry[key], f"{where}.{key}", unit, zero=True) for key in ("x", "y"))
    width, height = (_length(entry[key], f"{where}.{key}", unit) for key in ("width", "height"))
    return Window(x, y, width, height)


def _keys(entry: Any, where: str, needed: set[str], allowed: set[str]) -> None:
    if not isinstance(entry, dict):
        raise JobError("not an object with named fields", where)
    for key in sorted(needed - entry.keys()):
        raise JobError("missing", f"{where}.{key}" if where != "job" else key)
    for key in sorted(entry.keys() - needed - allowed):
        known = ", ".join(sorted(needed | allowed))
        raise JobError("not a known field", f"{where}.{key}" if where != "job" else key, f"Known here: {known}")


def _list(entries: Any, where: str) -> list[Any]:
    if not isinstance(entries, list):
        raise JobError("not a list", where)
    return entries


def _name(value: Any, where: str, taken: Any) -> str:
    if not isinstance(value, str) or not value.strip():
        raise JobError("an id must be text", where)
    if len(value) > LONGEST_ID or not storable(value):
        raise JobError(f"this id cannot be printed, or has more than {LONGEST_ID} letters", where)
    if value in taken:
        raise JobError(f"“{value}” is there twice", where)
    return value


def _words(value: Any, where: str) -> str:
    if not isinstance(value, str) or not storable(value):
        raise JobError("not text", where)
    return value


def _length(value: Any, where: str, unit: str, zero: bool = False) -> int:
    if isinstance(value, bool) or not isinstance(value, str | int | Decimal):
        raise JobError(f"“{value}” is not a length", where)
    try:
        return read_length(str(value), unit, zero=zero)
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
    unit, bench = job.unit, job.bench
    people = max((paper.people for paper in job.papers), default=1)
    data = {
        "zester": FORMAT,
        "unit": unit,
        "trimmer": {"stack": bench.stack}
        | ({"longest": write_length(bench.limits.longest, unit)} if bench.limits.longest else {})
        | ({"narrowest": write_length(bench.limits.hold, unit)} if bench.limits.hold else {}),
        **({"keep": _lengths(unit, **vars(bench.keep))} if bench.keep else {}),
        **({"people": people} if people > 1 else {}),
        "papers": [_paper_entry(paper, unit) for paper in job.papers],
        "pieces": [_piece_entry(piece, paper.id, unit) for paper in job.papers for piece in paper.pieces],
    }
    return json.dumps(data, indent=1, ensure_ascii=False)


def _lengths(unit: str, **lengths: int) -> dict[str, Any]:
    return {name: write_length(length, unit) if length else 0 for name, length in lengths.items()}


def _paper_entry(paper: PaperJob, unit: str) -> dict[str, Any]:
    entry = {"id": paper.id, "sheets": [_sheet_entry(sheet, unit) for sheet in paper.sheets]}
    if paper.name:
        entry["name"] = paper.name
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


def _sheet_entry(sheet: Sheet, unit: str) -> dict[str, Any]:
    size = _lengths(unit, width=sheet.width, height=sheet.height)
    entry = {"id": sheet.id, **size, "count": sheet.count, "cost": str(sheet.cost)}
    if sheet.margins != NO_MARGINS:
        entry["margins"] = _lengths(unit, **{side: length for side, length in vars(sheet.margins).items() if length})
    entry |= {"up": sheet.up} if sheet.up != "top" else {}
    return entry | ({"pack": sheet.pack} if sheet.pack != 1 else {})


def _piece_entry(piece: Piece, paper: str, unit: str) -> dict[str, Any]:
    size = _lengths(unit, width=piece.width, height=piece.height)
    entry = {"id": piece.id, "paper": paper, **size, "count": piece.count}
    entry |= {"direction": "upright"} if piece.upright and not piece.turn else {"turn": piece.turn}
    if piece.each is not None:
        entry["each"] = piece.each
    if piece.window:
        entry["window"] = _lengths(unit, **vars(piece.window))
    return entry | {key: True for key in ("from_window", "filler") if getattr(piece, key)}
