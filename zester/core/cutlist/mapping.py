"""Tables of another make: what each column holds, guessed from its heading, and the line of a list that each row makes.

    Part      | How many | Cut size | Card stock | Score at | Grain
    name        count      size       paper        score      (asked)

No column is dropped unseen: one whose heading says nothing known has to be placed, or left out, by whoever sends it.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from zester.core.cutlist.edit import Cells, line_of
from zester.core.cutlist.lines import Reading
from zester.core.cutlist.notation import read_list
from zester.core.errors import CutListError
from zester.core.lengths import Ruler
from zester.core.pieces import Known

# What a column may hold, as people choose it.
KINDS = {
    "name": "name",
    "count": "how many",
    "size": "size",
    "width": "width",
    "height": "height",
    "paper": "paper",
    "score": "scored at",
    "rules": "other words",
    "note": "remark",
    "kind": "kind of line",
    "skip": "leave it out",
}
# Which kinds may be there several times.
_SEVERAL = ("rules", "note", "skip")
# Words of headings, the surest first; a heading in several words holds them all, or one of them.
_HEADS = (
    ("kind", r"kind"),
    ("count", r"qty|quantity|count|how\s+many|pieces\s+per\s+card|number\s+of|no\.?\s+of|amount|pcs|ea(?:ch)?|x|#"),
    ("score", r"scor(?:e|ed|ing)|fold(?:ed)?\s+at|crease"),
    ("width", r"width|wide|w|across"),
    ("height", r"height|high|h|length|long|down|l"),
    ("size", r"size|dimensions?|measure(?:ments?|s)?|cut\s+(?:size|to|at)|w\s*x\s*h|inches|mm|cm"),
    ("paper", r"paper|card\s*stock|stock|colou?r|material|sheet|from"),
    ("note", r"notes?|remarks?|comments?|instructions?"),
    ("rules", r"place|position|where|rules?|edge|prep(?:aration)?|finish|side|job|tool|dies?"),
    ("name", r"name|pieces?|part|item|layer|what|description|element|label"),
)
_UNITS = {"in": r"in|inch(?:es)?|\"", "mm": "mm|millimet(?:er|re)s?", "cm": "cm|centimet(?:er|re)s?"}
LONGEST_ROW = 400


@dataclass(frozen=True)
class Table:
    """A table as it was sent: its headings, and its rows of as many cells."""

    heads: tuple[str, ...]
    """The headings, as typed."""
    rows: tuple[tuple[str, ...], ...]
    """The rows."""

    def is_empty(self, column: int) -> bool:
        """Whether a column holds nothing."""
        return not any(row[column].strip() for row in self.rows)


@dataclass(frozen=True)
class MappedRow:
    """A row and what became of it."""

    cells: tuple[str, ...]
    """As it was sent."""
    line: str
    """The line it makes."""
    reading: Reading
    """How that is read."""


def kind_of(head: str) -> str:
    """What a column of this heading holds; empty if that is not clear."""
    words = re.sub(r"\([^)]*\)", " ", head.casefold()).strip(" :.*")
    for kind, signs in _HEADS:
        if re.fullmatch(rf"(?:{signs})s?", words):
            return kind
    found = [kind for kind, signs in _HEADS if re.search(rf"(?<!\w)(?:{signs})(?!\w)", words)]
    return found[0] if found else ""


def guessed(table: Table) -> list[str]:
    """The kind of every column; empty for one that has to be placed, and for the second of a kind."""
    found: list[str] = []
    for column, head in enumerate(table.heads):
        kind = kind_of(head)
        twice = kind in found and kind not in _SEVERAL
        found.append("skip" if table.is_empty(column) else "" if twice else kind)
    return found


def troubles(table: Table, kinds: Sequence[str]) -> list[str]:
    """What stands in the way of taking the table in, in words."""
    found = [
        f"Say what “{head or f'column {at}'}” holds, or leave it out."
        for at, (head, kind) in enumerate(zip(table.heads, kinds, strict=True), 1)
        if kind not in KINDS
    ]
    found += [
        f"Two columns say {KINDS[kind]}: choose one."
        for kind in KINDS
        if kind not in _SEVERAL and list(kinds).count(kind) > 1
    ]
    if "size" not in kinds and not {"width", "height"} <= set(kinds):
        found.append("Which column holds the size? Choose it, or a width and a height.")
    return found


def mapped(table: Table, kinds: Sequence[str], known: Known, ruler: Ruler) -> list[MappedRow]:
    """Every row as a line of a list, and how that is read.

    Raises
    ------
    CutListError
        If a row is longer than a line can be.
    """
    lines = [_line(table, row, kinds) for row in table.rows]
    for number, line in enumerate(lines, start=2):
        if len(line) > LONGEST_ROW:
            raise CutListError(f"Row {number} has over {LONGEST_ROW} letters", mend="Send the cut list alone")
    readings = read_list("\n".join(lines), known, ruler)
    # Lines beyond the last that a list holds are not read.
    return [MappedRow(row, line, reading) for row, line, reading in zip(table.rows, lines, readings, strict=False)]


def _line(table: Table, row: Sequence[str], kinds: Sequence[str]) -> str:
    said: dict[str, list[str]] = {}
    for head, cell, kind in zip(table.heads, row, kinds, strict=True):
        text = " ".join(cell.split())
        if text and kind in KINDS and kind != "skip":
            said.setdefault(kind, []).append(_with_unit(text, head, kind))
    if not said:
        return ""
    one = {kind: values[0] for kind, values in said.items()}
    if one.get("kind", "piece") in ("card", "bit", "remark", "blank", "unread"):
        return line_of(Cells(kind=one["kind"], name=one.get("name", ""), note=", ".join(said.get("note", ()))))
    size = one.get("size") or " x ".join(filter(None, (one.get("width"), one.get("height"))))
    rules = [f"score {one['score']}"] if "score" in one and not one["score"].lower().startswith("score") else []
    rules += [one["score"]] if "score" in one and not rules else []
    return line_of(
        Cells(
            kind="piece" if size else "unread",
            count=_count(one) if size else "",
            name=one.get("name", "") if size else _without_size(one),
            size=size,
            paper=one.get("paper", ""),
            rules="  ".join([*rules, *said.get("rules", ())]),
            note=", ".join(said.get("note", ())),
        ),
        asked=True,
    )


def _count(one: Mapping[str, str]) -> str:
    count = one.get("count", "").removesuffix(".0")
    return "" if count == "1" else count


def _without_size(one: Mapping[str, str]) -> str:
    """A row without a size: what it counts as a bit is asked about when it is read."""
    return " ".join(filter(None, (one.get("count", "").removesuffix(".0"), one.get("name", ""))))


def _with_unit(text: str, head: str, kind: str) -> str:
    """A bare number with the unit that the heading has."""
    if kind not in ("size", "width", "height", "score") or not re.search(r"\d\s*$", text):
        return text
    words = head.casefold()
    unit = next((unit for unit, signs in _UNITS.items() if re.search(rf"(?<!\w)(?:{signs})(?!\w)", words)), "")
    return f"{text} {unit}".strip()
