"""Lines in the manner of fifty writers, with what is meant beside each: how they are read, compared field by field.

    ^Base 8½ x 5½ midnight dome, score 4¼ => 1 base; 8 1/2 x 5 1/2; Midnight Dome; score x 4 1/4

Before ``;`` the count and the words of the name (``-``: any), then size and paper, then all that is said beyond them;
everything else must be as if nothing were said. ``ask``: the line can be read in several ways or lacks something, and
has to be asked about. ``ask-or`` in front: asked about, or this. ``^``: nothing is written above the line.
"""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass
from fractions import Fraction
from itertools import groupby
from pathlib import Path

from zester.core.cutlist.lines import Reading
from zester.core.cutlist.notation import read_list
from zester.core.cutlist.paste import read_notes
from zester.core.lengths import MILLIMETRES, SIXTEENTHS, TICKS_PER_INCH, TICKS_PER_MM, Ruler
from zester.core.pieces import BEFORE, FOAM, IN_CLASS, CutPiece, Known, KnownPaper, Tool

INCH = TICKS_PER_INCH
# The open half, the half put aside and looked at only to measure, and lines written when those before them were done.
FILES = (
    "writers_open.txt",
    "writers_aside.txt",
    "writers_later.txt",
    "writers_last.txt",
    "thirty_open.txt",
    "thirty_aside.txt",
    "fourth_look.txt",
    "fifth_look.txt",
    "sixth_look.txt",
)
# Whole notes of thirty writers, likewise.
NOTES = ("notes_open.txt", "notes_aside.txt")
DATA = Path(__file__).parent / "data"
METRIC = ("millimetres", "centimetres")


def _letter(name: str, **more) -> KnownPaper:
    return KnownPaper(key=name, name=name, width=17 * INCH // 2, height=11 * INCH, **more)


def _large(name: str, **more) -> KnownPaper:
    return KnownPaper(key=name, name=name, width=12 * INCH, height=12 * INCH, **more)


CIRCLES = tuple((k * INCH // 2, k * INCH // 2) for k in range(1, 7))
_STOCK = ("Telescope Brass", "Midnight Dome", "Chalk Moon")
_PATTERNED = (_large("Star Chart"), _large("Pine Ridge", direction="upright"))
SHELF = Known(
    (*(_letter(name) for name in _STOCK), *_PATTERNED),
    (
        Tool(name="Moon circles", kind="die", shape="circle", sizes=CIRCLES),
        Tool(name="Disc punch", kind="punch", shape="circle", sizes=((2 * INCH, 2 * INCH),), reach=2 * INCH),
        Tool(name="Clouds", kind="folder", largest=(17 * INCH // 4, 11 * INCH // 2)),
    ),
)
# Who writes in millimetres has A4 card stock.
_A4 = {"width": 210 * TICKS_PER_MM, "height": 297 * TICKS_PER_MM}
METRIC_SHELF = Known((*(KnownPaper(key=name, name=name, **_A4) for name in _STOCK), *_PATTERNED), SHELF.tools)
ABOVE = {
    "in": "card 4¼ x 5½ side fold\nBase midnight dome\nMat ⅛ border telescope brass\nPanel ⅛ border chalk moon\n",
    "mm": "card 105 x 148 side fold\nBase midnight dome\n"
    "Mat 3 mm border telescope brass\nPanel 3 mm border chalk moon\n",
}


@dataclass(frozen=True)
class Line:
    """One written line."""

    writer: str
    text: str
    meant: str

    @property
    def ruler(self) -> Ruler:
        """The card's ruler for this writer."""
        return MILLIMETRES if self.writer in METRIC else SIXTEENTHS

    def read(self) -> Reading:
        """The line as it is read below a base, a mat and a panel, or by itself."""
        alone = self.text.startswith("^")
        above = "" if alone else ABOVE[self.ruler.unit]
        return read_list(
            above + self.text.removeprefix("^"), METRIC_SHELF if self.writer in METRIC else SHELF, self.ruler
        )[-1]


def lines_of(name: str) -> list[Line]:
    """The lines of a file beside the tests."""
    found, writer = [], ""
    for line in (DATA / name).read_text(encoding="utf-8").splitlines():
        if line.startswith("# "):
            writer = line[2:]
        elif " => " in line:
            text, _, meant = line.rpartition(" => ")
            found.append(Line(writer, text, meant))
    return found


def verdict(line: Line) -> tuple[str, str]:
    """``meant``, ``asked`` or ``wrong``; and how it was read."""
    reading = line.read()
    wanted = line.meant.removeprefix("ask-or ")
    if reading.error:
        fine = line.meant == "ask" or line.meant.startswith("ask-or ")
        return "meant" if fine else "asked", f"{reading.error}"
    read = said(reading, line.ruler)
    return ("meant" if wanted != "ask" and _same(wanted, read) else "wrong"), "; ".join(map(str, read))


def notes_of(name: str) -> list[list[tuple[str, str]]]:
    """The notes of a file beside the tests, each with its lines and what they mean; ``head``: nothing is made of it."""
    blocks = re.split(r"(?m)^(?=## )", (DATA / name).read_text(encoding="utf-8"))[1:]
    rows = ([line.rpartition(" => ") for line in block.splitlines()[1:]] for block in blocks)
    return [[(text, meant) for text, _, meant in lines] for lines in rows]


def verdict_of_note(rows: list[tuple[str, str]]) -> list[tuple[str, str, str, str]]:
    """Every line of a note pasted whole: as written, what is meant, the verdict, what was read."""
    found = read_notes("\n".join(text for text, _ in rows), SHELF, SIXTEENTHS)
    # Several pieces in one line are as many lines, each of which is looked at before it is taken.
    alike = [list(group) for _, group in groupby(found, key=lambda each: each.note)]
    split = [len(group) > 1 for group in alike]
    found = [group[0] for group in alike]
    readings = read_list("\n".join(each.line or "#" for each in found), SHELF, SIXTEENTHS)
    out = []
    for (text, meant), each, reading, several in zip(rows, found, readings, split, strict=True):
        wanted, asked = meant.removeprefix("ask-or "), each.problem or reading.error or several
        # What a remark on a line of its own is about is another test’s matter.
        read = [part for part in said(reading, SIXTEENTHS) if not part.startswith("note ") or "note " in meant]
        if asked:
            how = "meant" if meant.startswith("ask") else "asked"
        elif wanted in ("head", "remark"):
            how = "meant" if read == ["remark"] else "wrong"
        else:
            how = "meant" if read != ["remark"] and wanted != "ask" and _same(wanted, read) else "wrong"
        out.append((text, meant, how, "; ".join(read)))
    return out


def said(reading: Reading, ruler: Ruler) -> list[str]:
    """All that was read, in the words of the files."""
    piece = reading.piece
    if reading.card:
        return [f"card {_size(reading.card.width, reading.card.height, ruler)} {reading.card.fold}"]
    if reading.bit:
        bit = reading.bit
        name = re.split(r",|\s[\d/.]+ in wide", bit.name.casefold())[0]
        if not bit.length:
            return [f"bit {bit.count} {name}"]
        return [f"bit {name} {'length-of mat' if bit.around == 2 else f'length {_length(bit.length, ruler)}'}"]
    if piece is None:
        return ["remark"]
    return [
        f"{piece.count} {piece.name.casefold()}",
        _size(piece.width, piece.height, ruler),
        piece.paper,
        *_more(piece, ruler),
    ]


def _more(piece: CutPiece, ruler: Ruler) -> list[str]:
    def length(ticks: int) -> str:
        return _length(ticks, ruler)

    more, place, shape = [], piece.place, piece.shape
    if piece.score:
        more.append(f"score {piece.score.axis} {', '.join(map(length, piece.score.places))}")
    if place.on:
        more.append(f"on {place.on}")
    more += [f"behind {place.behind}"] if place.behind else []
    for edge in ("left", "top", "right", "bottom", "fold"):
        at = getattr(place, edge)
        if at is not None:
            more.append(f"{edge} {length(at)}" if at or edge == "fold" else f"flush {edge}")
    more += [f"tilt {Fraction(place.tilt, 10)}"] if place.tilt else []
    more += [f"gap {length(place.gap)}"] if place.gap is not None else []
    more += (
        [f"raised {length(piece.raised)}" if piece.raised not in FOAM.values() else "raised"] if piece.raised else []
    )
    more += [f"shape {shape.kind} {_shape(shape, ruler)}"] if shape else []
    more += [f"hole {piece.window.kind} {_shape(piece.window, ruler)}"] if piece.window else []
    more += [f"notch {piece.notch.kind} {_shape(piece.notch, ruler)} {_edge(piece)}"] if piece.notch else []
    over = {edge: getattr(piece.overhang, edge) for edge in ("left", "top", "right", "bottom")}
    if any(over.values()):
        more.append(f"overhang {length(max(over.values()))} {' '.join(edge for edge, much in over.items() if much)}")
    more += [f"border {length(piece.border.width)}"] if piece.border else []
    more += ["side either"] if piece.either_side else (["side b"] if piece.side == "b" else [])
    words = [word for word in piece.preparations if word not in ("die-cut", "cut out by hand", "corners rounded")]
    tool_done = {"Disc punch": "punched"}.get(piece.tool)
    words = [word for word in words if word != tool_done]
    more += [f"prep {' '.join(words)}"] if words else []
    more += [f"tool {piece.tool}"] if piece.tool else []
    said_so = {
        "corners": "corners rounded" in piece.preparations,
        "upright": piece.upright and "Pine" not in piece.paper,
        "filler": piece.filler,
        "first": piece.first,
        "in class": any(job.when == IN_CLASS for job in piece.jobs),
        "before class": any(job.when == BEFORE for job in piece.jobs),
        **{f"by {job.by}": bool(job.by) for job in piece.jobs},
        "loose": bool(piece.loose),
        f"only {piece.only}": bool(piece.only),
        f"seam {piece.seam}": bool(piece.seam),
        f"match {piece.match}": bool(piece.match),
        f"note {piece.note}": bool(piece.note),
    }
    return more + [words for words, is_so in said_so.items() if is_so]


def _edge(piece: CutPiece) -> str:
    return "left" if piece.notch.x < 0 else "top" if piece.notch.y < 0 else "right or bottom"


def _shape(shape, ruler: Ruler) -> str:
    if shape.width == shape.height:
        return _length(shape.width, ruler)
    return _size(shape.width, shape.height, ruler)


def _length(ticks: int, ruler: Ruler) -> str:
    value = Fraction(ticks, TICKS_PER_MM if ruler.unit == "mm" else INCH)
    if ruler.unit == "mm":
        return f"{float(value):g}"
    whole, part = divmod(value, 1)
    return " ".join(text for text in (str(whole) if whole else "", str(part) if part else "") if text) or "0"


def _size(width: int, height: int, ruler: Ruler) -> str:
    return f"{_length(width, ruler)} x {_length(height, ruler)}"


def _same(wanted: str, read: list[str]) -> bool:
    """Whether everything meant was read, and nothing else; a tool's hole is compared by its size."""
    parts = [part.strip() for part in wanted.split(";")]
    parts = [part for part in parts if part not in ("upright", "hole tool Moon circles")]
    if parts[0].startswith(("bit", "card", "remark")):
        return parts[0].rstrip("s") == re.sub(r"\s+", " ", read[0]).strip().rstrip("s")
    count, _, words = parts[0].partition(" ")
    found_count, _, name = read[0].partition(" ")
    named = words == "-" or all(word.rstrip("s") in name for word in words.split())
    # A piece called “Inside …” is on the inside without more words.
    known = {"upright", "on inside"} if re.search("inside|liner|lining|insert", name) else {"upright"}
    wanted_more, more = ([part for part in each[2:] if part not in known] for each in (parts, read))
    same = count == found_count and named and sorted(wanted_more) == sorted(more)
    return same and parts[1] in ("-", read[1])


def table() -> str:
    """How many lines of each writer are read as meant, asked about, and read as something else, for every file."""
    rows = []
    for name in FILES:
        found: dict[str, Counter] = {}
        for line in lines_of(name):
            found.setdefault(line.writer, Counter())[verdict(line)[0]] += 1
        rows.append(f"{name:24} meant asked wrong")
        rows += [f"  {writer:22} {c['meant']:5} {c['asked']:5} {c['wrong']:5}" for writer, c in found.items()]
        total = sum(found.values(), Counter())
        rows.append(f"  {'all':22} {total['meant']:5} {total['asked']:5} {total['wrong']:5}")
    return "\n".join(rows)


if __name__ == "__main__":
    print(table())
