"""Tables of other programs: CSV (RFC 4180) read with bounds, cells that are no formulas.

What a spreadsheet would take for a formula is written with an apostrophe before it, which reading takes away again: at
the beginning of a cell, and within one after whatever begins a cell elsewhere, since the file may be opened with
another separator.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence
from itertools import islice

from zester.core.errors import ZesterError

LARGEST_TABLE = 1_000_000
_FORMULA = ("=", "+", "-", "@", "'", "\t", "\r", "\n")
# Quotes that stand doubled in the file are none to whoever opens it with another separator.
_INNER = re.compile(r"([;\t|\r\n][ \"]*)(?=[=+\-@'])")
_INNER_GUARDED = re.compile(r"([;\t|\r\n][ \"]*)'(?=[=+\-@'])")


class _Semicolons(csv.excel):
    """As spreadsheets write it where the comma is the decimal sign."""

    delimiter = ";"


class _Tabs(csv.excel):
    delimiter = "\t"


def dialect_of(text: str) -> type[csv.Dialect]:
    """What separates the cells of a table, by its first line: the comma, unless there is more of another sign."""
    first = text.splitlines()[0] if text.strip() else ""
    return max((csv.excel, _Semicolons, _Tabs), key=lambda dialect: first.count(dialect.delimiter))


def guarded(cell: object) -> object:
    """A cell that no spreadsheet takes for a formula, whichever separator it opens the file with."""
    if not isinstance(cell, str):
        return cell
    cell = _INNER.sub(r"\1'", cell)
    return f"'{cell}" if cell.startswith(_FORMULA) else cell


def unguarded(cell: str) -> str:
    """The cell as it was before ``guarded``."""
    cell = cell[1:] if cell.startswith("'") and cell[1:].startswith(_FORMULA) else cell
    return _INNER_GUARDED.sub(r"\1", cell)


def open_csv(data: bytes, most: int) -> list[list[str]]:
    """The rows of a table, at most ``most`` and one: commas, semicolons or tabs, UTF-8. Raises ZesterError."""
    if len(data) > LARGEST_TABLE:
        raise ZesterError(f"The file has {len(data) // 1000:,} kB", mend=f"Up to {LARGEST_TABLE // 1000:,} kB")
    if data.startswith(b"PK"):
        raise ZesterError("This is a workbook, not a CSV table", mend="Save it from the spreadsheet as CSV UTF-8")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        mend = "Save it from the spreadsheet as CSV UTF-8"
        raise ZesterError("The file’s letters are not in UTF-8", mend=mend) from error
    if "\0" in text:
        raise ZesterError("The file holds signs that are no letters", mend="Save it as CSV UTF-8")
    try:
        rows = list(islice(csv.reader(io.StringIO(text, newline=""), dialect=dialect_of(text), strict=True), most + 1))
    except csv.Error as error:
        raise ZesterError("The file is not a CSV table", mend="Save it again as CSV UTF-8") from error
    return rows


def write_csv(head: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    """Rows as CSV, with a byte order mark so that spreadsheets know it is UTF-8."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(head)
    table.writerows([guarded("" if cell is None else cell) for cell in row] for row in rows)
    return b"\xef\xbb\xbf" + out.getvalue().encode()
