"""Rows of a spreadsheet or of a table in a text: cells between tabs, bars or semicolons."""

from __future__ import annotations

import re

from zester.core.errors import Question
from zester.core.lengths import LENGTH, SIZE

_LENGTH = re.compile(rf"\s*{LENGTH}\s*", re.IGNORECASE)
_HAS_SIZE = re.compile(SIZE, re.IGNORECASE)
_HEADINGS = frozenset(
    [
        "piece",
        "pieces",
        "name",
        "what",
        "size",
        "width",
        "height",
        "wide",
        "high",
        "w",
        "h",
        "paper",
        "stock",
        "colour",
        "color",
        "qty",
        "count",
        "number",
        "many",
        "how",
        "no",
        "quantity",
        "note",
        "notes",
        "remark",
        "remarks",
        "score",
        "card",
        "for",
        "cut",
        "in",
        "inches",
        "mm",
        "cm",
        "sheet",
        "length",
    ]
)


def is_heading(line: str) -> bool:
    """Whether the line only says what the columns below hold."""
    words = re.findall(r"[a-z]+", line.casefold())
    return len(words) > 1 and not re.search(r"\d", line) and set(words) <= _HEADINGS


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


def columns_of(heading: str) -> tuple[str, ...]:
    """What each column holds below a line of headings; empty where that is not clear, or no table."""
    cells = _raw_cells(heading)
    kinds = []
    for cell in cells:
        words = re.findall(r"[a-z]+", cell.casefold())
        kinds.append(next((kind for kind, names in _KINDS.items() if set(words) & set(names)), ""))
    known = [kind for kind in kinds if kind]
    return tuple(kinds) if len(cells) > 1 and len(set(known)) == len(known) else ()


def by_columns(line: str, columns: tuple[str, ...]) -> str:
    """The row in everyday words, each cell as its heading says; as it is if it has other columns."""
    cells = _raw_cells(line)
    if len(cells) != len(columns) or not columns:
        return line
    said = dict(zip(columns, cells, strict=True))
    if not (said.get("size") or (said.get("width") and said.get("height"))):
        return line
    size = said.get("size") or f"{said['width']} x {said['height']}"
    count = said.get("count", "")
    parts = [
        f"({count})" if count.isdigit() else count,
        said.get("name", ""),
        size,
        said.get("paper", ""),
        f"score {said['score']}" if said.get("score") else "",
        said.get("", ""),
        said.get("note", ""),
    ]
    return " , ".join(part for part in parts if part)


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
    return [_as_words(row) for row in ([parts] if sized else _paired(parts))]


def _as_words(parts: list[str]) -> str:
    return " , ".join(f"({part})" if part.isdigit() else part for part in parts)


def _cells(line: str) -> list[str]:
    for sign in ("\t", "|", ";"):
        if sign in line:
            return [part.strip() for part in line.split(sign) if part.strip()]
    return [line]


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
