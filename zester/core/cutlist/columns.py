"""Rows of a spreadsheet or of a table in a text: cells between tabs, bars or semicolons."""

from __future__ import annotations

import re
from dataclasses import dataclass

from zester.core.errors import Question
from zester.core.lengths import LENGTH, SIZE

_LENGTH = re.compile(rf"\s*{LENGTH}\s*", re.IGNORECASE)
_HAS_SIZE = re.compile(SIZE, re.IGNORECASE)
# What the words of a heading say of their column.
_KINDS = {
    "name": ("piece", "pieces", "name", "what", "part"),
    "count": ("qty", "count", "number", "many", "no", "quantity"),
    "width": ("width", "wide", "w"),
    "height": ("height", "high", "h", "length"),
    "size": ("size", "cut"),
    "paper": ("paper", "stock", "colour", "color", "sheet"),
    "score": ("score",),
    "note": ("note", "notes", "remark", "remarks"),
}
_UNITS = {"in": "in", "inch": "in", "inches": "in", "mm": "mm", "cm": "cm"}
_HEADINGS = frozenset((*(word for words in _KINDS.values() for word in words), *_UNITS, "how", "for", "card"))
_MEASURED = ("width", "height", "size", "score")


@dataclass(frozen=True)
class Column:
    """A column of a table, as its heading says."""

    kind: str
    """A key of ``_KINDS``; empty where that is not clear."""
    unit: str
    """The unit of its numbers that have none; empty: the card's own."""


def is_heading(line: str) -> bool:
    """Whether the line only says what the columns below hold."""
    words = re.findall(r"[a-z]+", line.casefold())
    return len(words) > 1 and not re.search(r"\d", line) and set(words) <= _HEADINGS


def columns_of(heading: str) -> tuple[Column, ...]:
    """The columns below a line of headings; none where two hold the same, or where there is no table."""
    cells = _raw_cells(heading)
    found = tuple(_column(set(re.findall(r"[a-z]+", cell.casefold()))) for cell in cells)
    known = [column.kind for column in found if column.kind]
    return found if len(cells) > 1 and len(set(known)) == len(known) else ()


def _column(words: set[str]) -> Column:
    kind = next((kind for kind, names in _KINDS.items() if words & set(names)), "")
    return Column(kind, next((unit for word, unit in _UNITS.items() if word in words), ""))


def by_columns(line: str, columns: tuple[Column, ...]) -> str:
    """The row in everyday words, each cell as its heading says; as it is if it has other columns.

    A cell whose heading says nothing stands among the words, so that it is understood or asked about.
    """
    row, sign, remark = line.partition("#")
    cells = _raw_cells(row)
    if len(cells) != len(columns) or not columns:
        return line
    said = {column.kind: _with_unit(cell, column) for column, cell in zip(columns, cells, strict=True) if column.kind}
    others = [cell for column, cell in zip(columns, cells, strict=True) if not column.kind]
    size = said.get("size") or " x ".join(filter(None, (said.get("width"), said.get("height"))))
    if not size:
        return line
    count, score = said.get("count", ""), said.get("score")
    parts = [
        f"({count})" if count.isdigit() else count,
        said.get("name", ""),
        size,
        said.get("paper", ""),
        f"score {score}" if score else "",
        *others,
    ]
    notes = [note.strip() for note in (said.get("note", ""), remark) if note.strip()]
    words = " , ".join(part for part in parts if part)
    return f"{words}  # {', '.join(notes)}" if notes or sign else words


def _with_unit(cell: str, column: Column) -> str:
    """The cell with its column's unit, if it is a length without one."""
    bare = column.unit and column.kind in _MEASURED and re.search(r"\d\s*$", cell)
    return f"{cell} {column.unit}" if bare else cell


def _raw_cells(line: str) -> list[str]:
    """The cells with the empty ones, without the bars at both ends."""
    for sign in ("\t", "|", ";"):
        if sign in line:
            inner = line.strip().removeprefix("|").removesuffix("|") if sign == "|" else line
            return [part.strip() for part in inner.split(sign)]
    return [line.strip()]


def is_row(line: str) -> bool:
    """Whether the line is one of a table."""
    return len(_cells(line)) > 2


def cells_in_a_row(line: str) -> list[str]:
    """The line with its cells as words between commas; two numbers beside each other are a width and a height.

    A row for every way to read its numbers: one, if there are no two ways.

    Raises
    ------
    Question
        If a number could be a size or a count.
    """
    parts = _cells(line)
    if len(parts) < 2:
        return [line]
    sized = any(_HAS_SIZE.search(part) for part in parts)
    counts = [at for at, part in enumerate(parts) if part.isdigit()]
    if sized and len(counts) > 1 and "#" not in line:
        # One of them is how many; the others are not lost.
        return [_with_one_count(parts, at, counts) for at in counts]
    return [_as_words(row) for row in ([parts] if sized else _paired(parts))]


def _with_one_count(parts: list[str], at: int, counts: list[int]) -> str:
    kept = [part for place, part in enumerate(parts) if place == at or place not in counts]
    return f"{_as_words(kept)}  # {', '.join(parts[each] for each in counts if each != at)}"


def _as_words(parts: list[str]) -> str:
    return " , ".join(f"({part})" if part.isdigit() else part for part in parts)


def _cells(line: str) -> list[str]:
    return [cell for cell in _raw_cells(line) if cell]


def _paired(parts: list[str]) -> list[list[str]]:
    numbers = [k for k, part in enumerate(parts) if _LENGTH.fullmatch(part)]
    beside = [k for k in numbers if k + 1 in numbers]
    if not beside:
        others = " ".join(part for k, part in enumerate(parts) if k not in numbers)
        if re.search(r"\d", others):
            return [parts]
        if (
            len(numbers) == 1
            and parts[numbers[0]].isdigit()
            and re.search(r"circle|scallop|square", others, re.IGNORECASE)
            and "foam" not in others.casefold()
        ):
            raise Question(
                f"Is {parts[numbers[0]]} the size or how many?", mend="Write it like: circle 2 in, or 2 circles 1½ in"
            )
        return [parts]
    # Of three numbers one is how many, the first or the last.
    left = {at: [k for k in numbers if k not in (at, at + 1)] for at in beside}
    possible = [at for at in beside if all(parts[k].isdigit() for k in left[at])]
    return [[*parts[:at], f"{parts[at]} x {parts[at + 1]}", *parts[at + 2 :]] for at in possible or beside[:1]]
