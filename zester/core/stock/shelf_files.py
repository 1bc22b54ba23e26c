"""Papers, stock and offcuts as tables: CSV in as lines that can be mended, and out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal, InvalidOperation

from zester.core.csv_files import open_csv, unguarded
from zester.core.errors import ZesterError

MOST_ROWS = 500
PAPER_COLUMNS = ("name", "size", "kind", "price", "on hand", "pack", "weight", "repeat", "way", "colour")
OFFCUT_COLUMNS = ("paper", "size", "count", "place", "top")
STOCK_COLUMNS = ("paper", "size", "on hand")
# How a cell of each column is written in a line.
_WORDS = {
    "on hand": "{} on hand",
    "pack": "pack of {}",
    "weight": "{} gsm",
    "top": "top on the {}",
}
_OTHER_HEADS = {"paper name": "paper", "how many": "count", "number": "count", "kept in": "place", "counted": "on hand"}


def _rows(data: bytes, columns: Sequence[str], needed: Sequence[str]) -> list[dict[str, str]]:
    rows = open_csv(data, MOST_ROWS + 1)
    if not rows:
        raise ZesterError("The table is empty", mend=f"Its first row names the columns: {', '.join(columns)}")
    heads = [" ".join(head.casefold().split()) for head in rows[0]]
    heads = [_OTHER_HEADS.get(head, head) for head in heads]
    missing = [head for head in needed if head not in heads]
    if missing:
        told = ", ".join(head[:30] or "(empty)" for head in rows[0][:8])
        raise ZesterError(
            f"No column is called “{missing[0]}”; the first row says: {told}",
            mend=f"Name the columns in the first row: {', '.join(columns)}",
        )
    unknown = [head for head in heads if head and head not in columns]
    if unknown:
        raise ZesterError(f"The column “{unknown[0][:40]}” is not known", mend=f"There are {', '.join(columns)}")
    if len(rows) - 1 > MOST_ROWS:
        raise ZesterError(f"The table has more than {MOST_ROWS} rows", mend="Send the rest as a second file")
    cells = ({head: _plain(cell) for head, cell in zip(heads, row, strict=False) if head} for row in rows[1:])
    return [row for row in cells if any(row.values())]


def _plain(cell: str) -> str:
    return " ".join(unguarded(cell).replace(";", ",").split())


def _said(head: str, cell: str) -> str:
    """A cell as a part of a line."""
    if head == "price":
        try:
            return f"{Decimal(cell.replace(',', '.').lstrip('$€£')):.2f} a sheet"
        except InvalidOperation:
            return cell
    plain = head == "weight" and not cell.isdigit()
    return cell if plain else _WORDS.get(head, "{}").format(cell)


def paper_lines(data: bytes) -> str:
    """The lines that a table of papers is, to be looked at and mended. Raises ZesterError."""
    rows = _rows(data, PAPER_COLUMNS, ("name",))
    return "\n".join("; ".join(_said(head, cell) for head, cell in row.items() if cell) for row in _first(rows, "name"))


def offcut_lines(data: bytes) -> str:
    """The lines that a table of offcuts is. Raises ZesterError."""
    rows = _rows(data, OFFCUT_COLUMNS, ("paper", "size"))
    lines = []
    for row in rows:
        more = [_said(head, row[head]) for head in ("count", "place", "top") if row.get(head)]
        lines.append("; ".join([f"{row.get('paper', '')} {row.get('size', '')}", *more]))
    return "\n".join(lines)


def stock_rows(data: bytes) -> list[tuple[str, str, str]]:
    """Paper, size and what was counted, row by row; the size may be empty. Raises ZesterError."""
    rows = _rows(data, STOCK_COLUMNS, ("paper", "on hand"))
    return [(row.get("paper", ""), row.get("size", ""), row.get("on hand", "")) for row in rows]


def _first(rows: Sequence[Mapping[str, str]], head: str) -> list[dict[str, str]]:
    return [{head: row.get(head, ""), **{key: cell for key, cell in row.items() if key != head}} for row in rows]
