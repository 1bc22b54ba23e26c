"""The cut list as a table, in and out: CSV, JSON and XLSX beside the text itself.

One row a line: what kind of line it is, then count, name, size, paper, rules, note. What is written out and read in
again gives the same pieces; lines that cannot be read, remarks and empty lines come back as they were typed.

CSV is that of RFC 4180, as ``csv_files`` writes it.

Files come in by one door, ``read_file``. It looks at the size first, reads with bounds on what is unpacked and on how
many lines and letters there are, and knows one error for a person to mend; whatever else a library raises over a broken
file is that error, too.
"""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass, fields
from itertools import islice

from openpyxl import Workbook, load_workbook
from openpyxl.styles import Font

from zester.core.csv_files import dialect_of, unguarded
from zester.core.csv_files import write_csv as write_table
from zester.core.cutlist.edit import Cells, cells_of, line_of, typed_size, with_size
from zester.core.cutlist.lines import plain_lines
from zester.core.cutlist.mapping import Table
from zester.core.cutlist.notation import MOST_LINES, read_list
from zester.core.errors import CutListError, LengthError, storable, sure
from zester.core.lengths import RULERS, Ruler, parse_size
from zester.core.pieces import CutPiece, Known

FORMAT = "zester-cut-list/1"
COLUMNS = tuple(field.name for field in fields(Cells))
LARGEST_FILE = 500_000
LONGEST_CELL = 400
MOST_COLUMNS = 20
_LARGEST_UNPACKED = 8_000_000
_MOST_PARTS = 200
_KINDS = ("piece", "card", "bit", "remark", "blank", "unread")


@dataclass(frozen=True)
class ListFile:
    """A cut list as a file holds it."""

    text: str
    """The list; empty where its columns have to be placed first."""
    name: str = ""
    """The card's name; empty if the file does not say."""
    ruler: str = ""
    """The ruler's key; empty if the file does not say."""
    table: Table | None = None
    """The table of another make that it holds; None for one that Zester has written, and for text."""


def rows_of(text: str, known: Known, ruler: Ruler) -> list[Cells]:
    """The cells of every line; lines beyond the last that a list holds as they were typed."""
    read = [cells_of(reading) for reading in read_list(text, known, ruler)]
    return read + [Cells(kind="unread", name=line) for line in text.splitlines()[len(read) :]]


def text_of(rows: Iterable[Cells]) -> str:
    """The list that the rows make."""
    return "\n".join(line_of(row) for row in rows)


def write_csv(rows: Sequence[Cells]) -> bytes:
    """The rows as CSV (RFC 4180)."""
    return write_table(COLUMNS, (tuple(asdict(row).values()) for row in rows))


def read_csv(data: bytes) -> ListFile:
    """Rows from CSV, with the columns in any order; of a file of another make the table as it is."""
    text = _decoded(data, mend="Save it from the spreadsheet as CSV UTF-8")
    try:
        table = list(
            islice(csv.reader(io.StringIO(text, newline=""), dialect=dialect_of(text), strict=True), MOST_LINES + 2)
        )
    except csv.Error as error:
        raise CutListError("The file is not a CSV table", mend="Save it again, or send it as text") from error
    return _of_table(table)


def write_json(rows: Sequence[Cells], name: str, ruler: str) -> bytes:
    """The list as JSON; the ruler is one of in16, in32, in64, mm."""
    lines = [{key: cell for key, cell in asdict(row).items() if cell} for row in rows]
    data = {"zester": FORMAT, "name": name, "ruler": ruler, "lines": lines}
    return json.dumps(data, ensure_ascii=False, indent=1).encode()


def read_json(data: bytes) -> ListFile:
    """A list from JSON."""
    try:
        entry = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise CutListError("The file is not JSON", mend="Send the file as it was saved") from error
    if not isinstance(entry, dict) or entry.get("zester") != FORMAT or not isinstance(entry.get("lines"), list):
        raise CutListError(f"The file is no {FORMAT}", mend="Send a file that Zester has written, or paste the text")
    rows = []
    for number, line in enumerate(entry["lines"][: MOST_LINES + 1], start=1):
        if not isinstance(line, dict) or not set(line) <= set(COLUMNS):
            raise CutListError(f"Line {number} of the file is not understood", mend=f"It may hold {', '.join(COLUMNS)}")
        rows.append(_row({key: _cell(cell, number) for key, cell in line.items()}, number))
    name, ruler = entry.get("name", ""), entry.get("ruler", "")
    if not isinstance(name, str) or not isinstance(ruler, str):
        raise CutListError("The file’s name or ruler is no text", mend="Send the file as it was saved")
    return ListFile(text_of(rows), name, ruler if ruler in RULERS else "")


def _cell(value: object, number: int) -> str:
    """What a cell of JSON says: text, or a whole number."""
    if isinstance(value, str) or (isinstance(value, int) and not isinstance(value, bool)):
        return str(value)
    raise CutListError(
        f"Line {number} of the file holds something other than text", mend="Send the file as it was saved"
    )


def write_xlsx(rows: Sequence[Cells]) -> bytes:
    """The rows as a workbook of one sheet (ISO/IEC 29500, by openpyxl)."""
    book = Workbook()
    sheet = book.active
    sheet.title = "Cut list"
    sheet.append(COLUMNS)
    for number, row in enumerate(rows, start=2):
        for column, cell in enumerate(asdict(row).values(), start=1):
            # Always text: a size like 1/2 is no date, a name that begins with = no formula.
            sheet.cell(number, column, _printable(cell)).data_type = "s"
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for letter, width in zip("ABCDEFG", (8, 7, 24, 16, 22, 34, 24), strict=True):
        sheet.column_dimensions[letter].width = width
    sheet.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def read_xlsx(data: bytes) -> ListFile:
    """Rows from the first sheet of a workbook. Formulas are not computed; their last values are taken."""
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        parts = packed.infolist()
        if len(parts) > _MOST_PARTS or sum(part.file_size for part in parts) > _LARGEST_UNPACKED:
            raise CutListError("The workbook is too large", mend="Send the cut list alone")
    book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
    rows = book.worksheets[0].iter_rows(max_row=MOST_LINES + 2, max_col=20, values_only=True)
    return _of_table([["" if cell is None else str(cell) for cell in row] for row in rows])


def read_text(data: bytes) -> ListFile:
    """The list as it is written."""
    return ListFile(plain_lines(_decoded(data, mend="Save it again as plain text")).removesuffix("\n"))


def _decoded(data: bytes, mend: str) -> str:
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise CutListError("The file is not text in UTF-8", mend=mend) from error


READERS = {"txt": read_text, "csv": read_csv, "json": read_json, "xlsx": read_xlsx}


def read_file(name: str, data: bytes) -> ListFile:
    """Read a file by the ending of its name. Raises CutListError for what is too large, unknown or unreadable."""
    ending = name.rpartition(".")[2].lower()
    if ending not in READERS:
        raise CutListError(f"“{name}” is none of the kinds Zester reads", mend=f"It reads {', '.join(READERS)}")
    if len(data) > LARGEST_FILE:
        raise CutListError("The file is larger than a cut list can be", mend="Send the cut list alone")
    try:
        found = READERS[ending](data)
    except CutListError:
        raise
    except Exception as error:
        # A broken workbook makes the libraries raise nearly anything; each time it means the same to who sent it.
        kind = {"xlsx": "a workbook", "json": "JSON", "csv": "a CSV table", "txt": "text"}[ending]
        raise CutListError(f"The file is broken, or not {kind}", mend="Save it again, or as another kind") from error
    if len(found.text.splitlines()) > MOST_LINES:
        raise CutListError(f"A card’s list holds {MOST_LINES} lines", mend="Make a second card of the rest")
    if not storable(found.text) or not storable(found.name):
        raise CutListError("The file holds signs that are no letters", mend="Save it again as text in UTF-8")
    return found


def _printable(cell: str) -> str:
    """Without control characters, which a workbook cannot hold."""
    return "".join(char for char in cell if char >= " ")


def _of_table(table: Sequence[Sequence[str]]) -> ListFile:
    """A table that Zester has written as its list, another one as the table it is."""
    if not table or not any(table[0]):
        raise CutListError("The table is empty", mend="Its first row names the columns: count, name, size, paper")
    heads = [head.strip().casefold() for head in table[0]]
    while heads and not heads[-1] and not any(row[len(heads) - 1 :] and row[len(heads) - 1] for row in table):
        heads.pop()
    if "kind" not in heads or not set(heads) <= set(COLUMNS):
        return _of_another_make(table)
    rows = []
    for number, cells in enumerate(table[1:], start=2):
        rows.append(_row({head: unguarded(cell) for head, cell in zip(heads, cells, strict=False)}, number))
    return ListFile(text_of(rows))


def _of_another_make(table: Sequence[Sequence[str]]) -> ListFile:
    width = max(len(row) for row in table)
    if width > MOST_COLUMNS:
        raise CutListError(f"The table has {width} columns", mend=f"Send one of up to {MOST_COLUMNS}")
    full = [[*row, *[""] * (width - len(row))] for row in table]
    used = [at for at in range(width) if any(row[at].strip() for row in full)]
    rows = [tuple(unguarded(row[at]).strip()[:LONGEST_CELL] for at in used) for row in full]
    if any(len(cell.strip()) > LONGEST_CELL for row in table for cell in row):
        raise CutListError(f"A cell has over {LONGEST_CELL} letters", mend="Send the cut list alone")
    body = tuple(row for row in rows[1:] if any(row))
    return ListFile("", table=Table(tuple(" ".join(head.split()) for head in rows[0]), body))


def _row(row: dict[str, str], number: int) -> Cells:
    kind = row.pop("kind", "").strip() or ("piece" if any(row.values()) else "blank")
    if kind not in _KINDS:
        raise CutListError(f"Row {number} is of no known kind", mend=f"It is one of {', '.join(_KINDS)}")
    if any(len(cell) > LONGEST_CELL and kind != "unread" for cell in row.values()):
        raise CutListError(f"Row {number} has a cell of over {LONGEST_CELL} letters", mend="Send the cut list alone")
    # A cell may hold no line end: it would become a line of its own.
    row = {key: " ".join(cell.splitlines()) if kind != "unread" else cell for key, cell in row.items()}
    if kind == "piece" and row.get("count", "").endswith(".0"):
        row["count"] = row["count"].removesuffix(".0")
    return Cells(kind=kind, **row)


def _on_marks(piece: CutPiece, ruler: Ruler) -> bool:
    try:
        parse_size(typed_size(piece.shown_width, piece.shown_height, ruler.unit), ruler)
    except LengthError:
        return False
    return True


def with_sizes_written_out(text: str, known: Known, ruler: Ruler) -> str:
    """The list with every border replaced by the size it makes now, so that the mats no longer follow their base.

    One whose size lies on no mark, an inch’s border on millimetres, stays one: the size could not be read.
    """
    lines = text.split("\n")
    for reading in read_list(text, known, ruler):
        piece = reading.piece
        if piece and piece.border and _on_marks(piece, ruler):
            lines[reading.line] = with_size(sure(reading.written), piece.shown_width, piece.shown_height, ruler.unit)
    return "\n".join(lines)
