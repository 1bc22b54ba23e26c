"""Whether a fit job can be used: the trimmer reaches, every piece goes on a sheet, matched pieces agree."""

from __future__ import annotations

from fractions import Fraction

from zester.core.errors import JobError
from zester.core.fitting.jobs.job import NO_MARGINS, UPS, Job, PaperJob, Piece, Row, Sheet, row_strip
from zester.core.fitting.parts import CutLimits, Part, can_be_cut, peel, rotate, with_margins
from zester.core.lengths import show_size


def check_job(job: Job) -> None:
    """Raise JobError, naming the field, if any paper of the job cannot be cut."""
    for number, paper in enumerate(job.papers):
        check_reach(paper, job.bench.limits, job.unit, f"papers[{number}].sheets")


def check_reach(paper: PaperJob, limits: CutLimits, unit: str, where: str) -> None:
    """Raise JobError if the trimmer cannot cut a sheet or a piece of the paper, or a piece lies on none of its sheets.

    ``where`` is the field of a file that the error names, empty for a job from no file; sizes are shown in ``unit``.
    """
    for number, sheet in enumerate(paper.sheets):
        _check_sheet(sheet, limits, unit, f"{where}[{number}]" if where else "")
    pieces = {piece.id: piece for piece in paper.pieces}
    for row in paper.matched:
        _check_strip(row, pieces, limits, where)
    strips = [row_strip(row, pieces) for row in paper.matched]
    for piece in (*paper.pieces, *strips):
        if not piece.filler:
            _check_piece(piece, paper, limits, unit, where)


def _check_sheet(sheet: Sheet, limits: CutLimits, unit: str, where: str) -> None:
    shorter, size = min(sheet.width, sheet.height), show_size(sheet.width, sheet.height, unit)
    if not limits.reaches(shorter):
        mend = "Cut the sheet down elsewhere first, and list what you get"
        raise JobError(f"the trimmer’s longest cut does not reach across {size}", where, mend)
    if 2 * limits.hold > shorter:
        raise JobError(f"{size} cannot be cut if strips must be so wide to be held", where)


def _check_strip(row: Row, pieces: dict[str, Piece], limits: CutLimits, where: str) -> None:
    strip = row_strip(row, pieces)
    lengths = [pieces[name].width if row.axis == "x" else pieces[name].height for name in row.pieces]
    across = strip.height if row.axis == "x" else strip.width
    if max(lengths) < limits.hold or not limits.reaches(across):
        raise JobError(f"the matched pieces of “{row.id}” cannot be cut apart at this trimmer", where)


def _check_piece(piece: Piece, paper: PaperJob, limits: CutLimits, unit: str, where: str) -> None:
    size = show_size(piece.width, piece.height, unit)
    if not any(piece.fits(sheet) for sheet in paper.sheets):
        mend = "Mind the margins" if any(sheet.margins != NO_MARGINS for sheet in paper.sheets) else ""
        raise JobError(f"“{piece.id}” ({size}) is larger than every sheet of {paper.called}", where, mend)
    ways = [(piece.width, piece.height), (piece.height, piece.width)][: 1 + piece.turn]
    if not any(cut_from_sheet(*way, sheet, limits) for way in ways for sheet in paper.sheets):
        raise JobError(f"“{piece.id}” ({size}) is too long for the trimmer’s longest cut", where)


def cut_from_sheet(width: int, height: int, sheet: Sheet, limits: CutLimits) -> bool:
    """Whether a part of this size, as the pattern stands upright, can be cut off a sheet within its margins."""
    wide, high = sheet.upright
    if width > wide or height > high:
        return False
    alone = rotate(peel(wide, high, Part(width=width, height=height, size=0), limits), UPS.index(sheet.up))
    return can_be_cut(with_margins(alone, sheet.margins, limits), limits)


def check_row(row: Row, known: dict[str, Piece], where: str, sheets: tuple[Sheet, ...]) -> None:
    """Raise JobError unless the pieces of a matched row (``known`` by id) agree and their strip goes on a sheet."""
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


def check_shares(pieces: tuple[Piece, ...], people: int, where: str) -> None:
    """Raise JobError unless every piece says what one person gets, and that times the people is not above its count."""
    for piece in pieces:
        if piece.filler:
            continue
        if piece.each is None:
            raise JobError(f"how many “{piece.id}” does one person get?", f"{where}.pool", "Write “each” at the piece")
        if piece.each * people > piece.count:
            raise JobError(
                f"“{piece.id}”: {people} people with {piece.each} each need more than {piece.count}", f"{where}.pool"
            )


def check_window(piece: Piece, where: str) -> None:
    """Raise JobError if the hidden middle reaches beyond its piece."""
    window = piece.window
    if window and (window.x + window.width > piece.width or window.y + window.height > piece.height):
        raise JobError(f"the hidden middle reaches beyond “{piece.id}”", f"{where}.window")
