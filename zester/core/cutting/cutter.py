"""A simulated cutting machine: it reads the SVG that Zester writes, "cuts" it, and says which pieces it got.

It stands in for a machine that nobody has at hand, with faults that such machines have: a sheet put in askew, a line
that was not cut through. It knows nothing of plans and pieces: it follows the lines of the layer ``cut`` on a sheet of
the size the file says, and measures what falls apart.

Planar subdivision by the library shapely (GEOS): the faces between all cut lines and the edge of the sheet.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException
from shapely import affinity
from shapely.geometry import LineString, Polygon
from shapely.ops import polygonize, unary_union

from zester.core.errors import JobError

LARGEST_FILE = 5_000_000
# Slivers smaller than this (square millimetres) are dust.
DUST = 0.5
_SVG = "{http://www.w3.org/2000/svg}"
_NUMBER = re.compile(r"[-+]?\d*\.?\d+(?:[eE][-+]?\d+)?")


@dataclass(frozen=True, kw_only=True)
class Faults:
    """What the machine does wrong."""

    askew: float = 0.0
    """Degrees the sheet was put in askew."""
    shifted: float = 0.0
    """Millimetres it lies too far to the right."""
    not_cut: tuple[int, ...] = ()
    """Which cut lines, counted from 0, were not cut through."""


NO_FAULTS = Faults()


@dataclass(frozen=True)
class CutOut:
    """A piece that fell out."""

    width: float
    """Millimetres, across its own box as it lies."""
    height: float
    """Millimetres."""
    area: float
    """Square millimetres."""
    square: bool
    """Whether it is a rectangle."""


def cut_out(svg: str | bytes, faults: Faults = NO_FAULTS) -> list[CutOut]:
    """Cut a file; the pieces from the upper left. Raises JobError if it is no file that the machine can read."""
    width, height, lines = _read(svg)
    sheet = Polygon([(0, 0), (width, 0), (width, height), (0, height)])
    cut = [line for index, line in enumerate(lines) if index not in faults.not_cut]
    if faults.askew or faults.shifted:
        # The machine cuts true; it is the sheet that lies askew under it.
        sheet = affinity.translate(affinity.rotate(sheet, faults.askew, origin=(0, 0)), faults.shifted, 0)
    inside = [line.intersection(sheet) for line in cut]
    faces = polygonize(unary_union([sheet.boundary, *(line for line in inside if not line.is_empty)]))
    found = [_measured(face) for face in faces if face.area > DUST and sheet.buffer(0.01).contains(face)]
    return [piece for _, piece in sorted(found, key=lambda entry: entry[0])]


def _measured(face: Polygon) -> tuple[tuple[float, float], CutOut]:
    left, top, right, bottom = face.bounds
    square = abs(face.area - (right - left) * (bottom - top)) < 0.01 * face.area
    piece = CutOut(round(right - left, 3), round(bottom - top, 3), round(face.area, 2), square)
    return (round(top, 2), round(left, 2)), piece


def _read(svg: str | bytes) -> tuple[float, float, list[LineString]]:
    """Width and height of the sheet and the cut lines, in millimetres."""
    if len(svg) > LARGEST_FILE:
        raise JobError("This file is too large for the machine")
    try:
        root = ElementTree.fromstring(svg)
        _, _, width, height = (float(each) for each in root.attrib["viewBox"].split())
        layer = next(each for each in root.iter(f"{_SVG}g") if each.attrib.get("id") == "cut")
        lines = [LineString(_points(path.attrib["d"])) for path in layer.iter(f"{_SVG}path")]
    except (ElementTree.ParseError, DefusedXmlException, KeyError, ValueError, StopIteration) as error:
        raise JobError("The machine cannot read this file", mend="Give it a layout that Zester wrote as SVG") from error
    return width, height, lines


def _points(path: str) -> Sequence[tuple[float, float]]:
    """The corners of a path of straight lines."""
    if not re.fullmatch(r"M[-+.\deE\s]+(L[-+.\deE\s]+)+Z?", path):
        raise ValueError("not only straight lines")
    numbers = [float(each) for each in _NUMBER.findall(path)]
    points = list(zip(numbers[::2], numbers[1::2], strict=True))
    return [*points, points[0]] if path.endswith("Z") else points
