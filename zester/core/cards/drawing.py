"""The drawings of a card, in ticks: closed, open, lying flat, and with its layers apart.

Nothing here knows of SVG but the outlines' paths; templates draw what a view holds at one millimetre a user unit.
"""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from zester.core.cards.layers import Placed
from zester.core.cards.outlines import path_of, sheet_path
from zester.core.folds import Folded
from zester.core.lengths import TICKS_PER_MM, show_length, with_unit
from zester.core.pieces import CutPiece, Score

MARGIN = 4 * TICKS_PER_MM
SMALLEST_LETTER = 56 * TICKS_PER_MM // 10
GAP = 26 * TICKS_PER_MM
LABEL_ROOM = 58 * TICKS_PER_MM
# How a sheet lying on the table is drawn in the view with the layers apart: its height shortened and slanted.
SLANT, SHORTENED = 45, 50


@dataclass(frozen=True, kw_only=True)
class Line:
    """A line in a view."""

    kind: str
    """What it is: ``score``, ``fold``, ``edge``…: the style sheet knows."""
    x1: int
    """Where it begins, ticks from the left."""
    y1: int
    """Where it begins, ticks from the top."""
    x2: int
    """Where it ends."""
    y2: int
    """Where it ends."""


@dataclass(frozen=True, kw_only=True)
class Measure:
    """A measured distance with what is written beside it."""

    x1: int
    """Where it begins, ticks."""
    y1: int
    """Where it begins, ticks."""
    x2: int
    """Where it ends, ticks."""
    y2: int
    """Where it ends, ticks."""
    text: str
    """The length as it is set on a ruler."""

    @property
    def upwards(self) -> bool:
        """Whether it stands, with its text turned."""
        return self.x1 == self.x2

    @property
    def middle(self) -> tuple[int, int]:
        """Where the text goes."""
        return (self.x1 + self.x2) // 2, (self.y1 + self.y2) // 2

    @property
    def ends(self) -> tuple[tuple[int, int, int, int], ...]:
        """The two short strokes at its ends."""
        tick = TICKS_PER_MM
        if self.upwards:
            return tuple((self.x1 - tick, y, self.x1 + tick, y) for y in (self.y1, self.y2))
        return tuple((x, self.y1 - tick, x, self.y1 + tick) for x in (self.x1, self.x2))


@dataclass(frozen=True, kw_only=True)
class Layer:
    """Something of paper to draw at ``x, y``: a path in its own millimetres, turned about its middle.

    ``number`` is its piece's (None for the bare base's faces), ``run`` how far its pattern has run on from the piece
    it is matched to, so that ``path`` starts there. ``lift`` is the foam under it. ``borders`` are measured to what
    it sits on, in the view's own ticks.
    """

    number: int | None
    """The piece's number; None for the base where nothing is written."""
    name: str
    """The piece's name."""
    paper: str
    """The key of its paper."""
    side: str
    """The side that is seen: ``a`` or ``b``."""
    x: int
    """Ticks from the left of the view."""
    y: int
    """Ticks from the top of the view."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    path: str
    """Its outline and its holes as an SVG path in millimetres, from its own corner."""
    run: tuple[int, int] = (0, 0)
    """Ticks by which its pattern is shifted, so that matched pieces run on."""
    tilt: int = 0
    """Tenths of a degree, to the right, about its middle."""
    lift: int = 0
    """Ticks of foam under it."""
    copy: int = 0
    """Which copy of the piece it is, from 0."""
    borders: tuple[Measure, ...] = ()
    """What is measured beside it while it is lit."""
    movable: bool = False
    """Whether it can be moved by hand."""
    guessed: bool = False
    """Whether it is drawn somewhere else than on the layer above it in the list, which nobody said."""
    cut_out: bool = False
    """Whether it is only the box round a figure that is cut out by hand."""

    @property
    def turn(self) -> str:
        """Degrees for a rotation."""
        return f"{self.tilt / 10:g}"

    @property
    def start(self) -> tuple[int, int]:
        """Where the group of the layer begins."""
        return self.x - self.run[0], self.y - self.run[1]


@dataclass(frozen=True)
class Plane:
    """In the view of layers apart: what lies at one height. ``at`` is where its upper left corner is drawn."""

    layers: tuple[Layer, ...]
    """What lies at this height."""
    at: tuple[int, int]
    """Where it is drawn: ticks to the right and down."""
    label: str
    """What it is called."""
    label_at: tuple[int, int]
    """Where that stands, ticks."""


@dataclass(frozen=True, kw_only=True)
class View:
    """One drawing: from ``left, top``, so wide and high, with all there is to draw in painting order."""

    key: str
    """What it is known by."""
    name: str
    """What it is called."""
    left: int
    """Of its box, ticks."""
    top: int
    """Of its box, ticks."""
    width: int
    """Of its box, ticks."""
    height: int
    """Of its box, ticks."""
    layers: tuple[Layer, ...] = ()
    """What is drawn, the lowest first."""
    lines: tuple[Line, ...] = ()
    """Score lines, folds and edges."""
    measures: tuple[Measure, ...] = ()
    """What is measured."""
    planes: tuple[Plane, ...] = ()
    """The heights, where it shows the layers apart."""

    @property
    def letter(self) -> int:
        """How high measures are written, ticks: to be read where the drawing fills a third of a screen."""
        return letter_of(self.width)


def letter_of(width: int) -> int:
    """The height of letters in a drawing so wide."""
    return max(SMALLEST_LETTER, width * 10 // 290)


def draw_card(pieces: Sequence[CutPiece], folded: Folded, placed: Sequence[Placed], unit: str) -> list[View]:
    """All drawings of a card: front, inside (unless it has none), back if something is on it, flat, layers apart."""
    base = next((piece for piece in pieces if piece.number == folded.base), None)
    runs = _runs(pieces)
    drawn = [_layer(each, placed, runs, unit) for each in placed]
    views = [_front(folded, base, placed, drawn)]
    if folded.fold != "none":
        views.append(_inside(folded, base, placed, drawn))
    if any(each.face.key == "back" for each in placed):
        views.append(_back(folded, base, placed, drawn))
    if base:
        views.append(_flat(folded, base, unit))
    for name in ("front", "inside"):
        if any(each.face.closed == (name == "front") and each.face.key != "back" for each in placed):
            views.append(_apart(name, folded, base, placed, drawn))
    return views


def _runs(pieces: Sequence[CutPiece]) -> dict[tuple[int, int], tuple[int, int]]:
    """For each copy of a matched piece how far along its row or column it begins."""
    runs: dict[tuple[int, int], tuple[int, int]] = {}
    ends: dict[str, int] = {}
    for piece in pieces:
        for copy in range(piece.count if piece.match else 0):
            at = ends.get(piece.match, 0)
            runs[piece.number, copy] = (0, at) if piece.below else (at, 0)
            ends[piece.match] = at + (piece.height if piece.below else piece.width)
    return runs


def _layer(each: Placed, placed: Sequence[Placed], runs: Mapping[tuple[int, int], tuple[int, int]], unit: str) -> Layer:
    piece = each.piece
    run = runs.get((piece.number, each.copy), (0, 0))
    return Layer(
        number=piece.number,
        name=piece.name,
        paper=piece.paper,
        side=piece.side,
        x=each.x,
        y=each.y,
        width=each.width,
        height=each.height,
        path=_path(each, run),
        run=run,
        tilt=each.tilt,
        lift=each.lift,
        copy=each.copy,
        borders=_borders(each, placed, unit) if not each.tilt else (),
        movable=piece.role != "band" and not piece.place.over_fold,
        guessed=each.passed is not None,
        cut_out=piece.by_hand,
    )


def _path(each: Placed, run: tuple[int, int]) -> str:
    """The piece's outline, or its shape's in the middle of it; a window goes through."""
    piece, (x, y) = each.piece, run
    if piece.shape:
        shape = piece.shape
        x, y = x + (each.width - shape.width) // 2, y + (each.height - shape.height) // 2
        path = path_of(shape.kind, shape.width, shape.height, x, y)
    else:
        rounded = "corners rounded" in piece.preparations
        path = (
            sheet_path(each.width, each.height, x, y, rounded=rounded, notch=piece.notch)
            if rounded or piece.notch
            else path_of("rectangle", each.width, each.height, x, y)
        )
    if piece.window:
        hole = piece.window
        path += path_of(hole.kind, hole.width, hole.height, run[0] + hole.x, run[1] + hole.y)
    return path


def _borders(each: Placed, placed: Sequence[Placed], unit: str) -> tuple[Measure, ...]:
    """The distances to the four edges of what it sits on, where there are any; of a shape, its outline's."""
    left, top, right, bottom = each.seen
    if each.under is not None:
        near, above, far, below = placed[each.under].seen
    else:
        face = each.face
        near, above, far, below = face.x, face.y, face.x + face.width, face.y + face.height
    middle_x, middle_y = (left + right) // 2, (top + bottom) // 2
    ends = (
        (near, middle_y, left, middle_y),
        (right, middle_y, far, middle_y),
        (middle_x, above, middle_x, top),
        (middle_x, bottom, middle_x, below),
    )
    return tuple(
        Measure(x1=x1, y1=y1, x2=x2, y2=y2, text=show_length(x2 - x1 + y2 - y1, unit))
        for x1, y1, x2, y2 in ends
        if x2 > x1 or y2 > y1
    )


def _bare(base: CutPiece | None, name: str, x: int, y: int, width: int, height: int) -> Layer:
    """A part of the base, as a layer; without a base a white card."""
    # A tag or another flat shape is its own base.
    shape = base.shape if base and (width, height) == (base.shown_width, base.shown_height) else None
    path = path_of(shape.kind if shape else "rectangle", width, height)
    number = base.number if base else None
    side = base.side if base else "a"
    return Layer(
        number=number,
        name=name,
        paper=base.paper if base else "",
        side=side,
        x=x,
        y=y,
        width=width,
        height=height,
        path=path,
    )


def _other_side(layer: Layer) -> Layer:
    return replace(layer, side="b" if layer.side == "a" else "a")


def _front(folded: Folded, base: CutPiece | None, placed: Sequence[Placed], drawn: Sequence[Layer]) -> View:
    faces = folded.faces
    doors = [faces[key] for key in ("left door", "right door") if key in faces]
    sheets = doors or [faces["front"]]
    layers = [_bare(base, face.name, face.x, face.y, face.width, face.height) for face in sheets]
    if "pocket" in faces and faces["pocket"].closed:
        pocket = faces["pocket"]
        layers.append(_other_side(_bare(base, "pocket", pocket.x, pocket.y, pocket.width, pocket.height)))
    shown = [k for k, each in enumerate(placed) if each.face.closed and each.face.key != "back"]
    # What goes round the card lies over all else, whatever the order of the list.
    shown.sort(key=lambda k: placed[k].face.key == "around")
    layers += [drawn[k] for k in shown]
    return _view("front", "Closed", folded.width, folded.height, layers)


def _inside(folded: Folded, base: CutPiece | None, placed: Sequence[Placed], drawn: Sequence[Layer]) -> View:
    width, height = folded.inner_width, folded.inner_height
    layers = [_other_side(_bare(base, "inside", 0, 0, width, height))]
    behind = [k for k, each in enumerate(placed) if not each.face.closed and each.face.key != "pocket"]
    layers += [drawn[k] for k in behind]
    pocket = folded.faces.get("pocket")
    if pocket and not pocket.closed:
        layers.append(_bare(base, "pocket", pocket.x, pocket.y, pocket.width, pocket.height))
        layers += [drawn[k] for k, each in enumerate(placed) if each.face.key == "pocket"]
    lines = _scores("fold", folded.score, width, height)
    return _view("inside", "Open", width, height, layers, lines)


def _back(folded: Folded, base: CutPiece | None, placed: Sequence[Placed], drawn: Sequence[Layer]) -> View:
    back = folded.faces["back"]
    layers = [_bare(base, "back", 0, 0, back.width, back.height)]
    layers += [drawn[k] for k, each in enumerate(placed) if each.face.key == "back"]
    return _view("back", "Back", back.width, back.height, layers)


def _view(key: str, name: str, width: int, height: int, layers: Sequence[Layer], lines: Sequence[Line] = ()) -> View:
    """A view with a margin all round, wide enough for what hangs over."""
    left = min([0, *(layer.x for layer in layers)]) - MARGIN
    top = min([0, *(layer.y for layer in layers)]) - MARGIN
    right = max([width, *(layer.x + layer.width for layer in layers)]) + MARGIN
    bottom = max([height, *(layer.y + layer.height for layer in layers)]) + MARGIN
    return View(
        key=key,
        name=name,
        left=left,
        top=top,
        width=right - left,
        height=bottom - top,
        layers=tuple(layers),
        lines=tuple(lines),
    )


def _scores(kind: str, score: Score | None, width: int, height: int) -> list[Line]:
    if not score:
        return []
    ways = ((score.places, score.cross), (score.cross, score.places))[score.axis == "y"]
    across = [Line(kind=kind, x1=at, y1=0, x2=at, y2=height) for at in ways[0]]
    return across + [Line(kind=kind, x1=0, y1=at, x2=width, y2=at) for at in ways[1]]


def _flat(folded: Folded, base: CutPiece, unit: str) -> View:
    """The base inside up, its score lines, and every distance between edges and score lines."""
    width, height = folded.open_width, folded.open_height
    lines = _scores("score", base.score, width, height)
    across = sorted({0, width, *(line.x1 for line in lines if line.x1 == line.x2)})
    down = sorted({0, height, *(line.y1 for line in lines if line.y1 == line.y2)})
    letter = letter_of(width * 12 // 10)
    near, far = letter * 6 // 10, letter * 21 // 10
    measures = [
        Measure(x1=a, y1=-near, x2=b, y2=-near, text=show_length(b - a, unit)) for a, b in itertools.pairwise(across)
    ]
    measures += [
        Measure(x1=-near, y1=a, x2=-near, y2=b, text=show_length(b - a, unit)) for a, b in itertools.pairwise(down)
    ]
    if len(across) > 2:
        measures.append(Measure(x1=0, y1=-far, x2=width, y2=-far, text=with_unit(width, unit)))
    if len(down) > 2:
        measures.append(Measure(x1=-far, y1=0, x2=-far, y2=height, text=with_unit(height, unit)))
    layer = _other_side(_bare(base, base.name, 0, 0, width, height))
    room = letter * 36 // 10
    return View(
        key="flat",
        name="Flat",
        left=-room,
        top=-room,
        width=width + room + MARGIN,
        height=height + room + MARGIN,
        layers=(layer,),
        lines=tuple(lines),
        measures=tuple(measures),
    )


def _apart(name: str, folded: Folded, base: CutPiece | None, placed: Sequence[Placed], drawn: Sequence[Layer]) -> View:
    """Every height of the layers of the front or the inside by itself, the base lowest."""
    closed = name == "front"
    heights = _heights(closed, placed)
    width = folded.width if closed else folded.inner_width
    height = folded.height if closed else folded.inner_height
    slanted, deep = height * SLANT // 100, height * SHORTENED // 100
    planes = [Plane((_bare(base, "base", 0, 0, width, height),), (slanted, 0), f"{name[0].upper()}{name[1:]}", (0, 0))]
    for rise, (_, numbers) in enumerate(heights, start=1):
        names = list(dict.fromkeys(drawn[k].name for k in numbers))
        label = ", ".join(names[:2]) + (f" +{len(names) - 2}" if len(names) > 2 else "")
        planes.append(Plane(tuple(drawn[k] for k in numbers), (slanted, -rise * GAP), label, (0, 0)))
    beside = slanted + width + 3 * TICKS_PER_MM
    planes = [replace(plane, label_at=(beside, plane.at[1] + deep // 3)) for plane in planes]
    tall = len(heights) * GAP
    wide = beside + LABEL_ROOM
    return View(
        key=f"apart-{name}",
        name=f"{name[0].upper()}{name[1:]} apart",
        left=-MARGIN,
        top=-tall - MARGIN,
        width=wide,
        height=tall + deep + 2 * MARGIN,
        planes=tuple(planes),
    )


def _heights(closed: bool, placed: Sequence[Placed]) -> list[tuple[int, list[int]]]:
    """What lies at each height above the base, lowest first."""
    found: dict[int, list[int]] = {}
    for k, each in enumerate(placed):
        if each.face.closed == closed and each.face.key != "back":
            found.setdefault(each.level, []).append(k)
    return sorted(found.items())
