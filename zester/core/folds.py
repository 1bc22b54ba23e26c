"""How a base folds: its faces, the finished size, and the score lines a fold asks for.

A base is measured as it lies open before you, inside up. Score places count from its left or upper edge.

    side fold              top fold        gate fold                      with a pocket
    +--------+--------+    +--------+      +----+--------+----+           +--------+
    | inside | inside |    | inside |      | in | inside | in |           |        |
    |  left  : right  |    |  top   |      | le : middle : ri |           | inside |
    |        :        |    +........+      | ft :        : ght|           |        |
    +--------+--------+    | inside |      +----+--------+----+           +........+
                           | bottom |                                     | pocket |  folded up
                           +--------+                                     +--------+
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from zester.core.errors import sure
from zester.core.pieces import CardLine, CutPiece, Score


@dataclass(frozen=True, kw_only=True)
class Face:
    """A side of the card that pieces sit on."""

    key: str
    """What it is known by."""
    name: str
    """What it is called."""
    x: int
    """Ticks from the left of the view that shows it."""
    y: int
    """Ticks from the top of it."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    closed: bool = False
    """Whether that view is the finished card seen from the front; otherwise it is the open base, inside up."""
    fold: str = ""
    """The edge at the fold: ``left``, ``top``, ``right``, ``bottom``, or empty."""
    upside_down: bool = False
    """Whether the open card shows it upside down."""


@dataclass(frozen=True, kw_only=True)
class Folded:
    """A card: how it is folded, and its faces."""

    fold: str
    """A key of ``FOLDS``."""
    width: int
    """Of the finished card, ticks."""
    height: int
    """Of the finished card, ticks."""
    open_width: int
    """Of the open base, ticks."""
    open_height: int
    """Of the open base, ticks."""
    score: Score | None
    """Its score lines without that of a pocket."""
    pocket: int
    """The pocket's depth, ticks; 0 without one."""
    faces: dict[str, Face]
    """By key."""
    pocket_at: str = ""
    """The end of the open base that is folded over for the pocket; empty without one."""
    base: int | None = None
    """The number of the piece that is the base."""

    @property
    def inner_width(self) -> int:
        """Of the open card with its pocket folded over, ticks."""
        return self.open_width - (self.pocket if self.pocket_at in ("left", "right") else 0)

    @property
    def inner_height(self) -> int:
        """Of the open card with its pocket folded over, ticks."""
        return self.open_height - (self.pocket if self.pocket_at in ("top", "bottom") else 0)

    @property
    def layers(self) -> int:
        """How many thicknesses of the base lie on each other where there are most."""
        return {"side": 2, "top": 2, "gate": 2, "tri": 3}.get(
            self.fold, 1 + len(self.score.places) if self.score and self.fold == "accordion" else 1
        ) + bool(self.pocket)

    def face(self, words: str) -> Face | None:
        """The face that is meant by ``inside``, ``front`` and the like on this card."""
        if words in self.faces:
            return self.faces[words]
        meant = {
            "inside": ("inside middle", "inside right", "inside bottom", "front"),
            "doors": ("left door",),
            "inside middle": ("inside right", "inside bottom"),
        }.get(words, ())
        return next((self.faces[key] for key in meant if key in self.faces), None)


def scores_for(line: CardLine) -> tuple[int, int, Score | None]:
    """The base that makes this card: its width, height and score lines, without a pocket.

    Gate doors are each half as wide as the card, so an odd number of ticks cannot be halved; every ruler's marks can.
    """
    width, height = sure(line.width), sure(line.height)
    if line.fold == "side":
        return 2 * width, height, Score("x", (width,))
    if line.fold == "top":
        return width, 2 * height, Score("y", (height,))
    if line.fold == "gate":
        return 2 * width, height, Score("x", (width // 2, width // 2 + width))
    if line.fold in ("tri", "accordion"):
        return 3 * width, height, Score("x", (width, 2 * width))
    return width, height, None


def pocket_scores_for(line: CardLine, deep: int) -> tuple[int, int, Score]:
    """The base of a card with a pocket so many ticks deep at its end: its width, height and score lines."""
    width, height, score = scores_for(line)
    end = line.pocket_at or "bottom"
    axis = "x" if end in ("left", "right") else "y"
    near = end in ("left", "top")
    size = (width + deep, height) if axis == "x" else (width, height + deep)
    place = deep if near else (width if axis == "x" else height)
    if score and score.axis != axis:
        return *size, Score(score.axis, score.places, (place,))
    folds = score.places if score else ()
    return *size, Score(axis, tuple(sorted((*(each + deep if near else each for each in folds), place))))


def fold_of(base: CutPiece | None, line: CardLine | None) -> Folded | None:
    """The card that a base and the card's own line make; None if there is neither a base nor a size.

    Without the line the fold is read off the score lines: one across the width is a side fold, one across the height
    a top fold, two a gate fold if the outer panels cover the middle one, otherwise a tri-fold.
    """
    if base is None:
        if line is None or line.width is None:
            return None
        width, height, score = scores_for(line)
        return _folded(line.fold, width, height, score, 0, None)
    score, width, height = base.score, base.shown_width, base.shown_height
    if line and line.width and base.turn and _is_turned(base, line):
        width, height, score = scores_for(line)
    pocket, end = 0, (line.pocket_at or "bottom") if line and line.pocket else ""
    if end and score:
        pocket, score = _without_pocket(score, width, height, end)
    folds_over = width - (pocket if end in ("left", "right") else 0)
    return _folded(_kind(score, folds_over, line), width, height, score, pocket, base.number, end if pocket else "")


def _is_turned(base: CutPiece, line: CardLine) -> bool:
    """Whether a base is that of the card’s line, written a quarter turn the other way: it is turned to be folded."""
    wide, high, wanted = scores_for(line)
    if line.pocket or base.score is None or wanted is None or wide == high or base.score.cross or wanted.cross:
        return False
    places = base.score.places
    mirrored = tuple(sorted(wide - place for place in places))
    same = (base.shown_width, base.shown_height) == (high, wide) and base.score.axis != wanted.axis
    if wanted.axis == "y":
        mirrored = tuple(sorted(high - place for place in places))
    return same and wanted.places in (places, mirrored)


def _without_pocket(score: Score, width: int, height: int, end: str) -> tuple[int, Score | None]:
    """How deep a pocket at that end is, and the score lines without its own, from the corner of what is left."""
    axis = "x" if end in ("left", "right") else "y"
    same = score.axis == axis
    places = score.places if same else score.cross
    if not places:
        return 0, score
    far = end in ("right", "bottom")
    side = width if axis == "x" else height
    depth = side - places[-1] if far else places[0]
    rest = places[:-1] if far else tuple(place - depth for place in places[1:])
    if not same:
        return depth, Score(score.axis, score.places, rest)
    if rest:
        return depth, Score(axis, rest, score.cross)
    return depth, Score("y" if axis == "x" else "x", score.cross) if score.cross else None


def _kind(score: Score | None, width: int, line: CardLine | None) -> str:
    """The fold that the scores make; the card's line decides where they leave a choice."""
    if score is None:
        return "none"
    if len(score.places) == 1:
        return "side" if score.axis == "x" else "top"
    if len(score.places) == 2 and score.axis == "x":
        if line and line.fold in ("gate", "tri", "accordion"):
            return line.fold
        first, second = score.places
        # Doors are about half as wide as the middle; thirds make a tri-fold.
        return "gate" if 4 * (first + width - second) < 5 * (second - first) else "tri"
    return "accordion"


def _folded(
    fold: str, width: int, height: int, score: Score | None, pocket: int, base: int | None, end: str = ""
) -> Folded:
    made = {"side": _side, "top": _top, "gate": _gate, "tri": _panels, "accordion": _panels, "none": _flat}[fold]
    sideways = end in ("left", "right")
    inner = (width - pocket, height) if sideways else (width, height - pocket)
    closed_width, closed_height, faces = made(*inner, score)  # type: ignore[arg-type]  # Only a flat one has none.
    if pocket:
        faces = [*faces, _pocket_face(fold, {face.key: face for face in faces}, inner, pocket, end)]
    return Folded(
        fold=fold,
        width=closed_width,
        height=closed_height,
        open_width=width,
        open_height=height,
        score=score,
        pocket=pocket,
        faces={face.key: face for face in faces},
        pocket_at=end,
        base=base,
    )


def _pocket_face(fold: str, faces: dict[str, Face], inner: tuple[int, int], pocket: int, end: str) -> Face:
    """The pocket, folded over the open card along the whole of that end; no deeper than the face under it."""
    width, height = inner
    under = {"top": "inside bottom", "bottom": "inside bottom", "left": "inside left", "right": "inside right"}[end]
    if end == "top" and fold == "top":
        under = "inside top"
    face = faces.get(under)
    sideways = end in ("left", "right")
    depth = min(pocket, (face.width if sideways else face.height) if face else (width if sideways else height))
    return Face(
        key="pocket",
        name="pocket",
        x=width - depth if end == "right" else 0,
        y=height - depth if end == "bottom" else 0,
        width=depth if sideways else width,
        height=height if sideways else depth,
        closed=fold == "none",
        fold=end,
    )


Made = tuple[int, int, list[Face]]


def _side(width: int, height: int, score: Score) -> Made:
    at = score.places[0]
    closed = max(at, width - at)
    return (
        closed,
        height,
        [
            Face(key="front", name="front", x=0, y=0, width=at, height=height, closed=True, fold="left"),
            Face(key="back", name="back", x=0, y=0, width=width - at, height=height, closed=True, fold="right"),
            Face(
                key="inside left",
                name="inside of the front",
                x=0,
                y=0,
                width=at,
                height=height,
                closed=False,
                fold="right",
            ),
            Face(
                key="inside right", name="inside", x=at, y=0, width=width - at, height=height, closed=False, fold="left"
            ),
        ],
    )


def _top(width: int, height: int, score: Score) -> Made:
    at = score.places[0]
    closed = max(at, height - at)
    return (
        width,
        closed,
        [
            Face(key="front", name="front", x=0, y=0, width=width, height=at, closed=True, fold="top"),
            Face(key="back", name="back", x=0, y=0, width=width, height=height - at, closed=True, fold="top"),
            Face(
                key="inside top",
                name="inside of the front",
                x=0,
                y=0,
                width=width,
                height=at,
                closed=False,
                fold="bottom",
                upside_down=True,
            ),
            Face(
                key="inside bottom", name="inside", x=0, y=at, width=width, height=height - at, closed=False, fold="top"
            ),
        ],
    )


def _gate(width: int, height: int, score: Score) -> Made:
    left, middle, right = score.places[0], score.places[1] - score.places[0], width - score.places[1]
    return (
        middle,
        height,
        [
            Face(key="front", name="front", x=0, y=0, width=middle, height=height, closed=True),
            Face(key="left door", name="left door", x=0, y=0, width=left, height=height, closed=True, fold="left"),
            Face(
                key="right door",
                name="right door",
                x=middle - right,
                y=0,
                width=right,
                height=height,
                closed=True,
                fold="right",
            ),
            Face(key="back", name="back", x=0, y=0, width=middle, height=height, closed=True),
            Face(
                key="inside left",
                name="inside of the left door",
                x=0,
                y=0,
                width=left,
                height=height,
                closed=False,
                fold="right",
            ),
            Face(key="inside middle", name="middle", x=left, y=0, width=middle, height=height, closed=False),
            Face(
                key="inside right",
                name="inside of the right door",
                x=left + middle,
                y=0,
                width=right,
                height=height,
                closed=False,
                fold="left",
            ),
        ],
    )


def _panels(width: int, height: int, score: Score) -> Made:
    if score.axis == "y":
        score = Score("x", score.places)
        closed, tall, faces = _panels(height, width, score)
        return tall, closed, [_on_its_side(face) for face in faces]
    marks = (0, *score.places, width)
    sides = [after - before for before, after in itertools.pairwise(marks)]
    names = ["inside left", *["inside middle"] * (len(sides) > 2), "inside right"]
    where = [0, *[len(sides) // 2] * (len(sides) > 2), len(sides) - 1]
    inside = [
        Face(
            key=name,
            name=name,
            x=marks[k],
            y=0,
            width=sides[k],
            height=height,
            closed=False,
            fold="" if name == "inside middle" else "left",
        )
        for name, k in zip(names, where, strict=True)
    ]
    closed = max(sides)
    front = Face(key="front", name="front", x=0, y=0, width=sides[0], height=height, closed=True, fold="left")
    return (
        closed,
        height,
        [
            front,
            Face(key="back", name="back", x=0, y=0, width=sides[len(sides) // 2], height=height, closed=True),
            *inside,
        ],
    )


def _on_its_side(face: Face) -> Face:
    names = {"inside left": "inside top", "inside right": "inside bottom"}
    key = names.get(face.key, face.key)
    fold = {"left": "top", "right": "bottom"}.get(face.fold, face.fold)
    return Face(
        key=key, name=key, x=face.y, y=face.x, width=face.height, height=face.width, closed=face.closed, fold=fold
    )


def _flat(width: int, height: int, _: Score | None) -> Made:
    return (
        width,
        height,
        [
            Face(key="front", name="front", x=0, y=0, width=width, height=height, closed=True),
            Face(key="back", name="back", x=0, y=0, width=width, height=height, closed=True),
        ],
    )


def base_of(pieces: Sequence[CutPiece]) -> CutPiece | None:
    """The piece that is the card's base: the first with that role."""
    return next((piece for piece in pieces if piece.role == "base" and not piece.loose), None)
