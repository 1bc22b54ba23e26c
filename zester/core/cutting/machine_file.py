"""A layout for a cutting machine, in real units: cut, score and draw lines on layers of their own, as SVG and as DXF.

    cut      the edge-to-edge cuts, outlines of shapes, openings
    score    score lines, where pieces are folded
    draw     the edge of the sheet and the handles of the pieces, for a pen or to be hidden

Millimetres in both, which most machines expect; the SVG says its size in inches where the class measures in inches.
DXF: Autodesk DXF Reference, R2010, by the library ezdxf; $INSUNITS 4 is millimetres. SVG: W3C SVG 1.1.
"""

from __future__ import annotations

import io
import math
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from xml.sax.saxutils import escape

import ezdxf

from zester.core.cards.outlines import corners_of
from zester.core.fitting.jobs.drawing import LaidPart, cut_lines, lay_parts
from zester.core.fitting.jobs.plan import Layout
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM

CUT, SCORE, DRAW = "cut", "score", "draw"
# What XML 1.0 (W3C, section 2.2) has no place for.
_NO_XML = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
LAYERS = {CUT: ("#c0261b", 1), SCORE: ("#1b55c0", 5), DRAW: ("#6b6b6b", 8)}
Point = tuple[int, int]


@dataclass(frozen=True)
class Line:
    """A line of the file."""

    layer: str
    """``cut``, ``score`` or ``draw``."""
    points: tuple[Point, ...]
    """Ticks from the upper left corner of the sheet."""
    closed: bool = False
    """Whether it goes back to its first point."""


@dataclass(frozen=True)
class Words:
    """A handle, drawn in the middle of its piece."""

    text: str
    """What is written."""
    at: Point
    """Its middle, ticks."""
    height: int
    """How high its letters are, ticks."""


@dataclass(frozen=True)
class MachineFile:
    """A layout as lines."""

    name: str
    """What it is called."""
    width: int
    """Of the sheet, ticks."""
    height: int
    """Of the sheet, ticks."""
    lines: tuple[Line, ...]
    """All lines."""
    words: tuple[Words, ...]
    """All handles."""
    unit: str
    """``in`` or ``mm``: only how the SVG says its size."""


@dataclass(frozen=True, kw_only=True)
class Marks:
    """What is scored and cut inside a piece, as it stands upright; ticks."""

    scores: tuple[tuple[str, int], ...] = ()
    """Axis and place of every score line."""
    outlines: tuple[tuple[str, int, int, int, int], ...] = ()
    """Kind, left, top, width and height of what is cut out of it."""


def machine_file(
    name: str, layout: Layout, width: int, height: int, marks: Mapping[str, Marks], unit: str
) -> MachineFile:
    """The lines of a layout on a sheet of this size; ``marks`` by the handles of the pieces that have some."""
    lines = [Line(DRAW, ((0, 0), (width, 0), (width, height), (0, height)), closed=True)]
    lines += [Line(CUT, (each.start, each.end)) for each in cut_lines(layout, width, height)]
    words = []
    for part in lay_parts(layout, width, height):
        if part.offcut:
            continue
        letter = min(TICKS_PER_INCH // 4, part.width // 6, part.height // 3)
        words.append(Words(part.piece or "portion", (part.x + part.width // 2, part.y + part.height // 2), letter))
        lines += inside(part, marks.get(part.piece, Marks()))
    return MachineFile(name, width, height, tuple(lines), tuple(words), unit)


def inside(part: LaidPart, marks: Marks) -> Iterable[Line]:
    """What is scored and cut inside a piece, where it lies."""
    wide, high = (part.height, part.width) if part.up in ("left", "right") else (part.width, part.height)
    for axis, place in marks.scores:
        ends = ((place, 0), (place, high)) if axis == "x" else ((0, place), (wide, place))
        yield Line(SCORE, tuple(_on_sheet(point, part) for point in ends))
    for kind, x, y, width, height in marks.outlines:
        corners = [(x + px, y + py) for px, py in _polygon(kind, width, height)]
        yield Line(CUT, tuple(_on_sheet(point, part) for point in corners), closed=True)


def _on_sheet(point: Point, part: LaidPart) -> Point:
    """A point of an upright piece where it lies on the sheet."""
    x, y = point
    if part.up == "right":
        x, y = part.width - y, x
    elif part.up == "bottom":
        x, y = part.width - x, part.height - y
    elif part.up == "left":
        x, y = y, part.height - x
    return part.x + x, part.y + y


def _polygon(kind: str, width: int, height: int) -> Sequence[Point]:
    if kind != "label":
        return corners_of(kind, width, height)
    bite = min(width, height) // 5
    quarter = [math.pi / 2 * k / 12 for k in range(13)]
    corners = (((0, 0), 0), ((width, 0), 1), ((width, height), 2), ((0, height), 3))

    def arc(cx: int, cy: int, angle: float) -> Point:
        return round(cx + bite * math.cos(angle)), round(cy + bite * math.sin(angle))

    # Around every corner from the edge before it to the edge after it.
    return [arc(*corner, math.pi / 2 * (turn + 1) - angle) for corner, turn in corners for angle in quarter]


def to_svg(file: MachineFile) -> str:
    """The file as SVG; a user unit is a millimetre."""
    unit, per = ("in", TICKS_PER_INCH) if file.unit == "in" else ("mm", TICKS_PER_MM)
    size = f'width="{file.width / per:.6g}{unit}" height="{file.height / per:.6g}{unit}"'
    box = f'viewBox="0 0 {_mm(file.width)} {_mm(file.height)}"'
    out = [f'<?xml version="1.0" encoding="UTF-8"?>\n<svg xmlns="http://www.w3.org/2000/svg" {size} {box}>']
    out.append(f"<title>{escape(_NO_XML.sub('', file.name))}</title>")
    for layer, (colour, _) in LAYERS.items():
        out.append(f'<g id="{layer}" fill="none" stroke="{colour}" stroke-width="0.1">')
        for line in file.lines:
            if line.layer == layer:
                path = "L".join(f"{_mm(x)} {_mm(y)}" for x, y in line.points)
                out.append(f'<path d="M{path}{"Z" if line.closed else ""}"/>')
        if layer == DRAW:
            out += [_svg_words(words, colour) for words in file.words]
        out.append("</g>")
    out.append("</svg>")
    return "\n".join(out) + "\n"


def _svg_words(words: Words, colour: str) -> str:
    place = f'x="{_mm(words.at[0])}" y="{_mm(words.at[1])}" font-size="{_mm(words.height)}"'
    look = f'font-family="sans-serif" text-anchor="middle" stroke="none" fill="{colour}"'
    return f"<text {place} {look}>{escape(words.text)}</text>"


def to_dxf(file: MachineFile) -> str:
    """The file as DXF; y goes up there."""
    document = ezdxf.new("R2010")
    document.units = ezdxf.units.MM
    for layer, (_, colour) in LAYERS.items():
        document.layers.add(layer.upper(), color=colour)
    space = document.modelspace()
    for line in file.lines:
        points = [(x / TICKS_PER_MM, (file.height - y) / TICKS_PER_MM) for x, y in line.points]
        if len(points) == 2:
            space.add_line(points[0], points[1], dxfattribs={"layer": line.layer.upper()})
        else:
            space.add_lwpolyline(points, close=line.closed, dxfattribs={"layer": line.layer.upper()})
    for words in file.words:
        x, y = words.at[0] / TICKS_PER_MM, (file.height - words.at[1]) / TICKS_PER_MM
        text = space.add_text(words.text, height=words.height / TICKS_PER_MM, dxfattribs={"layer": "DRAW"})
        text.set_placement((x, y), align=ezdxf.enums.TextEntityAlignment.MIDDLE_CENTER)
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _mm(ticks: int) -> str:
    """Millimetres, to 1/320 of one exactly."""
    whole, part = divmod(ticks, TICKS_PER_MM)
    return f"{whole + part / TICKS_PER_MM:.6f}".rstrip("0").rstrip(".")
