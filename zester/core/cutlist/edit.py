"""Changing one written line without touching the rest of it: sizes, rules, places, the table's cells."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from zester.core.care import TIMES
from zester.core.cutlist.lines import RULES, Reading, Written, segments
from zester.core.cutlist.spelled import with_places
from zester.core.cutlist.words import CALLED, is_sure_name
from zester.core.errors import LengthError, sure
from zester.core.lengths import LENGTH, TICKS_PER_MM, Ruler, parse_length, type_length
from zester.core.pieces import BEFORE, HOME, IN_CLASS

_LENGTH = re.compile(LENGTH, re.IGNORECASE)
_UNIT = re.compile(r"[a-z\"]+\.?\s*$", re.IGNORECASE)
HALF_MM = TICKS_PER_MM // 2
# The words of a time, by the time.
_TIMES = {
    when: re.compile(RULES[rule], re.IGNORECASE)
    for when, rule in ((BEFORE, "before_class"), (IN_CLASS, "in_class"), (HOME, "at_home"))
}


def typed_size(width: int, height: int, unit: str) -> str:
    """``4 x 5¼``."""
    return f"{type_length(width, unit)} x {type_length(height, unit)}"


def with_size(written: Written, width: int, height: int, unit: str, keep: bool = False) -> str:
    """The line with another size; one that was a border or was not written becomes a plain size.

    ``keep``: words that stood in its place stay, behind it.
    """
    # Of “Square 2” the word is the name, too.
    start, end = written.places[max(written.size[0], written.head[1])], written.places[written.size[1]]
    text, size = written.text, typed_size(width, height, unit)
    end = start + len(text[start:end].rstrip())
    before, after = text[:start].rstrip(), text[end:].lstrip()
    gap = text[len(before) : start] or " "
    behind = text[end : len(text) - len(after)] or " "
    if keep and text[start : start + 1].isalpha():
        size += f" {text[start:end]}"
    return f"{before}{gap}{size}{behind}{after}"


def with_rule(written: Written, name: str, rule: str) -> str:
    """The line with a rule written in place of those of that name; an empty ``rule`` takes them away."""
    return with_rules(written, {name: rule})


def with_rules(written: Written, rules: dict[str, str]) -> str:
    """The line with these rules, by their names, in place of what it says of them; an empty one takes them away."""
    text = written.text
    typed, sign, note = text.partition("#")
    spans = [span for name in rules for found in written.rules.get(name, []) for span in segments(found, written)]
    for span in sorted(spans, reverse=True):
        start, end = (written.places[at] for at in span)
        typed = f"{typed[:start].rstrip()} {typed[end:].lstrip()}".rstrip()
    typed = "  ".join([typed.rstrip(), *(rule for rule in rules.values() if rule)])
    return f"{typed}  #{note}" if sign else typed


def with_place(
    written: Written, places: dict[str, int], unit: str, more: Mapping[str, str] = MappingProxyType({})
) -> str:
    """The line with these distances from the edges and no others; none at all means centred.

    ``more`` are other rules to be written with them, as ``with_rules`` has them.
    """
    said = " ".join(f"{edge} {type_length(length, unit)}" for edge, length in places.items())
    return with_rules(written, {"place": said, **more})


def step_length(line: str, caret: int, steps: int, ruler: Ruler) -> tuple[str, int]:
    """The line with the length at the caret (or before it) so many marks longer; and where the caret belongs then.

    A mark is the ruler's own, half a millimetre for metric lengths. The count in front of a line goes by ones. A
    length stays above nothing.
    """
    typed = line.partition("#")[0]
    found = _token(typed, caret)
    if not found:
        return line, caret
    start, end, text = found
    if not any(char.isalpha() for char in typed[:start]) and text.isdigit():
        value = str(max(1, int(text) + steps))
    else:
        value = _stepped(text, steps, ruler)
    return line[:start] + value + line[end:], start + len(value)


def _token(typed: str, caret: int) -> tuple[int, int, str] | None:
    """The length the caret is in, or the last before it, or the first."""
    words, places = with_places(typed)
    tokens = []
    for found in _LENGTH.finditer(words):
        text = found.group().rstrip()
        start, end = places[found.start()], places[found.start() + len(text)]
        tokens.append((start, max(end, start + 1), text.strip()))
    at = [token for token in tokens if token[0] <= caret <= token[1]]
    before = [token for token in tokens if token[1] < caret]
    return next(iter(at or before[-1:] or tokens[:1]), None)


def _stepped(text: str, steps: int, ruler: Ruler) -> str:
    try:
        ticks = parse_length(text, ruler)
    except LengthError:
        return text
    unit = _UNIT.search(text)
    kind = unit.group().strip().rstrip(".") if unit else ruler.unit
    metric = kind in ("mm", "cm")
    mark = HALF_MM if metric else ruler.step
    changed = max(mark, ticks + steps * mark)
    if kind == "cm":
        return f"{type_length(changed, 'mm')} mm"
    return type_length(changed, "mm" if metric else "in") + (f" {unit.group().strip()}" if unit else "")


@dataclass(frozen=True, kw_only=True)
class Cells:
    """A line as cells of a table."""

    kind: str
    """``piece``, ``card``, ``bit``, ``remark``, ``blank`` or ``unread``; those but pieces stand in ``name``."""
    count: str = ""
    """How many; empty for one."""
    name: str = ""
    """What it is called."""
    size: str = ""
    """As written."""
    paper: str = ""
    """As written."""
    rules: str = ""
    """Everything else that is said, in order."""
    note: str = ""
    """The remark."""


def cells_of(reading: Reading) -> Cells:
    """The cells of one line."""
    line = reading.text
    if reading.piece:
        return _piece_cells(reading)
    typed, _, note = line.partition("#")
    if reading.card:
        return Cells(kind="card", name=typed.strip(), note=note.strip())
    if reading.bit:
        return Cells(kind="bit", name=typed.strip().removeprefix("+").strip(), note=note.strip())
    if reading.error:
        return Cells(kind="unread", name=line)
    return Cells(kind="remark", note=note.strip()) if "#" in line else Cells(kind="blank")


def _piece_cells(reading: Reading) -> Cells:
    written, piece = sure(reading.written), sure(reading.piece)
    size = written.of(written.size) if written.how not in ("base", "tool") else ""
    said = _said(written)
    count = str(piece.count) if piece.count > 1 else ""
    return Cells(
        kind="piece",
        count=count,
        name=piece.name,
        size=size,
        paper=written.of(written.paper),
        rules=said,
        note=written.note,
    )


def editable_cells(reading: Reading) -> Cells:
    """The cells of one line for somebody who writes in them: a piece that is not right yet has a piece's cells, too."""
    written = reading.written
    if not reading.error or written is None or written.how not in ("size", "border", "round"):
        return cells_of(reading)
    count, name = sure(re.match(r"\s*(\d*)\s*(.*?)[\s,:;]*$", written.of(written.head))).groups()
    paper = f"{written.of(written.paper)} {written.left_over}".strip()
    return Cells(
        kind="piece",
        count=count,
        name=name,
        size=written.of(written.size),
        paper=paper,
        rules=_said(written),
        note=written.note,
    )


def time_of(reading: Reading) -> str | None:
    """When the jobs of a line are done as its words say: one of the times, empty if none does, None if several do.

    None, too, where nothing is done to its piece.
    """
    piece = reading.piece
    if piece is None or not (piece.preparations or piece.window or piece.notch or piece.score or piece.shape):
        return None
    text = _said(sure(reading.written))
    said = [when for when, words in _TIMES.items() for _ in words.findall(text)]
    return None if len(said) > 1 else "".join(said)


def with_time(rules: str, when: str) -> str:
    """What else a line says, with this time for its jobs; empty: none, so that they are done as usual."""
    for words in _TIMES.values():
        rules = words.sub(" ", rules)
    return " ".join([*rules.split(), *([TIMES[when]] if when else [])])


def _said(written: Written) -> str:
    return " ".join(text for _, text in sorted(written.said))


def _is_plain(name: str) -> bool:
    return is_sure_name(name) or bool(CALLED.match(name))


def line_of(cells: Cells, *, asked: bool = False) -> str:
    """The line that the cells make; reading it gives the same piece.

    A name that says more than a name is kept one by “called”; with ``asked`` it is asked about.
    """
    note = f"# {cells.note}" if cells.note else ""
    if cells.kind == "unread":
        return cells.name
    if cells.kind == "remark":
        return note or "#"
    if cells.kind == "bit":
        return "  ".join(filter(None, [f"+ {cells.name}", note]))
    name = cells.name if asked or cells.kind != "piece" or _is_plain(cells.name) else f"called {cells.name}"
    head = f"{cells.count} {name}".strip()
    parts = [head, cells.size, cells.paper, cells.rules, note]
    if cells.kind == "piece" and not cells.size and not cells.name.casefold().startswith("base"):
        # A die's number stands where a size would.
        parts = [head, cells.rules, cells.paper, note]
    return "  ".join(part.strip() for part in parts if part.strip())
