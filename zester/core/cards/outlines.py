"""Outlines of shapes and pieces as SVG paths in millimetres, and as polygons for whoever measures them.

A path begins at the upper left corner of the shape's own box. Corners lie on exact ticks; only points of a curve that
is no circle (scallops) are rounded to the nearest tick, which is 1/320 mm.

       label            scallop          banner             tag
    +-(      )-+         _(''')_       +---------+         /----\\
    )          (        (       )      |        <         |  o   |
    +-(      )-+         (_____)       +---------+        +------+
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from zester.core.lengths import TICKS_PER_INCH, millimetres
from zester.core.pieces import Outline

Point = tuple[int, int]
BUMPS_AN_INCH = 3


def path_of(kind: str, width: int, height: int, x: int = 0, y: int = 0) -> str:
    """The SVG path of a shape whose box has its upper left corner at ``x, y``; sizes in ticks."""
    if kind in ("circle", "oval"):
        return _ellipse(width, height, x, y)
    if kind == "label":
        return _label(width, height, x, y)
    path = _closed([(x + px, y + py) for px, py in corners_of(kind, width, height)])
    return path + _tag_hole(width, height, x, y) if kind == "tag" else path


ROUNDED = TICKS_PER_INCH // 4


def sheet_path(
    width: int, height: int, x: int = 0, y: int = 0, *, rounded: bool = False, notch: Outline | None = None
) -> str:
    """A piece with straight sides, its corners rounded or half a round hole stamped over an edge, or both."""
    bow = min(ROUNDED, width // 4, height // 4) if rounded else 0
    sides = (
        ((x + bow, y), (x + width - bow, y)),
        ((x + width, y + bow), (x + width, y + height - bow)),
        ((x + width - bow, y + height), (x + bow, y + height)),
        ((x, y + height - bow), (x, y + bow)),
    )
    bitten = _bitten_side(notch, width, height) if notch else None
    path = ""
    for k, (start, end) in enumerate(sides):
        path += f"{'M' if not k else 'L'}{_at(*start)}" if not bow or not k else f"A{_at(bow, bow)} 0 0 1 {_at(*start)}"
        if notch and k == bitten:
            path += _bite(notch, x, y, width, height, k)
        path += f"L{_at(*end)}"
    return path + (f"A{_at(bow, bow)} 0 0 1 {_at(*sides[0][0])}Z" if bow else "Z")


def _at(x: int, y: int) -> str:
    return f"{millimetres(x)} {millimetres(y)}"


def _bitten_side(notch: Outline, width: int, height: int) -> int:
    """The side that a notch is on, clockwise from the upper one."""
    if notch.y < 0:
        return 0
    if notch.x < 0:
        return 3
    return 1 if notch.x + notch.width > width else 2


def _bite(notch: Outline, x: int, y: int, width: int, height: int, side: int) -> str:
    """From one end of the notch along its edge to the other, walking clockwise round the piece."""
    left, top = x + notch.x, y + notch.y
    right, bottom = left + notch.width, top + notch.height
    ends = (
        ((left, y), (right, y)),
        ((x + width, top), (x + width, bottom)),
        ((right, y + height), (left, y + height)),
        ((x, bottom), (x, top)),
    )[side]
    radii = _at(notch.width // 2, notch.height // 2)
    return f"L{_at(*ends[0])}A{radii} 0 0 0 {_at(*ends[1])}"


def corners_of(kind: str, width: int, height: int) -> list[Point]:
    """The shape as a polygon in ticks from its upper left corner; curves by points close enough to draw."""
    if kind == "banner":
        return _banner(width, height)
    if kind == "tag":
        clip = min(width, height) // 4
        return [(clip, 0), (width - clip, 0), (width, clip), (width, height), (0, height), (0, clip)]
    if kind == "scallop":
        return _scallop(width, height)
    if kind in ("circle", "oval"):
        return _round([math.tau * k / 96 for k in range(96)], width / 2, height / 2, lambda _: 1.0)
    return [(0, 0), (width, 0), (width, height), (0, height)]


def _closed(points: Sequence[Point]) -> str:
    return "M" + "L".join(f"{millimetres(px)} {millimetres(py)}" for px, py in points) + "Z"


def _ellipse(width: int, height: int, x: int, y: int) -> str:
    rx, ry = width // 2, height // 2
    half = f"{millimetres(rx)} {millimetres(ry)} 0 1 0"
    left, right, middle = (millimetres(at) for at in (x, x + 2 * rx, y + ry))
    return f"M{left} {middle}A{half} {right} {middle}A{half} {left} {middle}Z"


def _label(width: int, height: int, x: int, y: int) -> str:
    """A rectangle whose corners are rounded inwards."""
    bite = min(width, height) // 5
    right, bottom = x + width, y + height
    arc = f"A{millimetres(bite)} {millimetres(bite)} 0 0 0 "
    steps = [
        ("M", x + bite, y),
        ("L", right - bite, y),
        (arc, right, y + bite),
        ("L", right, bottom - bite),
        (arc, right - bite, bottom),
        ("L", x + bite, bottom),
        (arc, x, bottom - bite),
        ("L", x, y + bite),
        (arc, x + bite, y),
    ]
    return "".join(f"{verb}{millimetres(px)} {millimetres(py)}" for verb, px, py in steps) + "Z"


def _banner(width: int, height: int) -> list[Point]:
    """A fishtail at the right end, or at the lower end of one that hangs."""
    if width >= height:
        return [(0, 0), (width, 0), (width - height // 2, height // 2), (width, height), (0, height)]
    return [(0, 0), (width, 0), (width, height), (width // 2, height - width // 2), (0, height)]


def _scallop(width: int, height: int) -> list[Point]:
    bumps = max(8, round(math.pi * (width + height) / 2 / TICKS_PER_INCH * BUMPS_AN_INCH))
    angles = [math.tau * k / (bumps * 8) for k in range(bumps * 8)]
    return _round(angles, width / 2, height / 2, lambda angle: 0.93 + 0.07 * abs(math.sin(bumps * angle / 2)))


def _round(angles: Sequence[float], rx: float, ry: float, reach: Callable[[float], float]) -> list[Point]:
    return [
        (round(rx + rx * reach(angle) * math.cos(angle)), round(ry + ry * reach(angle) * math.sin(angle)))
        for angle in angles
    ]


def _tag_hole(width: int, height: int, x: int, y: int) -> str:
    hole = min(width, height) // 6
    return _ellipse(hole, hole, x + (width - hole) // 2, y + hole)
