"""What a cut list says, as values: papers, tools, pieces, bits, the card's own line. Lengths are ticks."""

from __future__ import annotations

from dataclasses import dataclass, field

from zester.core.geometry import Window

ROLES = ("base", "mat", "panel", "strip", "band", "inside panel", "shape", "topper", "other")
SHAPES = ("circle", "oval", "square", "rectangle", "label", "scallop", "banner", "tag")
FOLDS = {
    "side": "side fold",
    "top": "top fold",
    "gate": "gate fold",
    "tri": "tri-fold",
    "accordion": "accordion",
    "none": "no fold",
}
FACE_WORDS = {
    "front": "front",
    "inside": "inside",
    "inside left": "inside left",
    "inside right": "inside right",
    "inside top": "inside top",
    "inside bottom": "inside bottom",
    "middle": "inside middle",
    "inside middle": "inside middle",
    "door": "doors",
    "doors": "doors",
    "left door": "left door",
    "right door": "right door",
    "pocket": "pocket",
    "back": "back",
    "band": "band",
}


@dataclass(frozen=True, kw_only=True)
class KnownPaper:
    """A paper as a cut list knows it."""

    key: str
    """What it is known by; never shown."""
    name: str
    """What people call it now."""
    width: int
    """Of its sheet, in ticks."""
    height: int
    """Of its sheet, in ticks."""
    direction: str = "free"
    """How its pieces may lie: ``free``, ``half`` (half a turn only) or ``upright``."""
    two_sided: bool = True
    """Whether side B may be seen."""
    caliper: int = 0
    """Thickness of one sheet in micrometres; 0 if nobody knows."""
    measured: bool = False
    """Whether the caliper was measured; otherwise it is what such papers usually have."""
    clear: bool = False
    """Whether what lies under it is seen."""
    former: tuple[str, ...] = ()
    """Names it had before, which lists may still use."""


@dataclass(frozen=True, kw_only=True)
class Tool:
    """A designer's own dies, punch or embossing folder, named once.

    ``sizes`` are the (width, height) of a nested set from number 1 up. ``reach`` is how far in from the edge of a
    piece a punch stamps; ``largest`` the largest piece a folder takes; 0 and None where that does not matter.
    """

    name: str
    kind: str
    shape: str = ""
    sizes: tuple[tuple[int, int], ...] = ()
    reach: int = 0
    largest: tuple[int, int] | None = None


@dataclass(frozen=True)
class Score:
    """Score lines across a piece: ``axis`` "x" counts from its left edge, "y" from its upper edge; places in ticks."""

    axis: str
    places: tuple[int, ...]


@dataclass(frozen=True)
class Edges:
    """Something along each of the four edges, in ticks."""

    left: int = 0
    top: int = 0
    right: int = 0
    bottom: int = 0


@dataclass(frozen=True, kw_only=True)
class Place:
    """Where a piece sits: ``on`` what (empty: what its name and role suggest).

    ``on`` is a face, and then its topmost layer; ``=front`` the bare face itself; ``#3`` the piece of that number.

    The distances are from the edges of what it sits on, or from its fold; None means centred. ``tilt`` is in tenths
    of a degree, to the right.
    """

    on: str = ""
    left: int | None = None
    top: int | None = None
    right: int | None = None
    bottom: int | None = None
    fold: int | None = None
    tilt: int = 0


@dataclass(frozen=True, kw_only=True)
class Outline:
    """The outline of a shape, or of a hole at ``x, y`` from the left and upper edge of its piece."""

    kind: str
    width: int
    height: int
    x: int = 0
    y: int = 0


@dataclass(frozen=True)
class Border:
    """A size that was written as a border around something: how wide, and what it is on (as in ``Place.on``)."""

    width: int
    on: str


NO_EDGES = Edges()
CENTRED = Place()


@dataclass(frozen=True, kw_only=True)
class CutPiece:
    """One line of a cut list: ticks as the piece stands on the upright card.

    ``width`` and ``height`` are what is cut, ``overhang`` how much of that is trimmed off after gluing. ``match`` is
    the word of the row or, if ``below``, the column it is cut in; ``middle`` its hidden middle.
    """

    number: int
    count: int
    name: str
    width: int
    height: int
    paper: str
    turn: bool = True
    score: Score | None = None
    upright: bool = False
    filler: bool = False
    match: str = ""
    below: bool = False
    middle: Window | None = None
    from_middle: bool = False
    role: str = "other"
    side: str = "a"
    overhang: Edges = NO_EDGES
    place: Place = CENTRED
    raised: int = 0
    shape: Outline | None = None
    window: Outline | None = None
    tool: str = ""
    preparations: tuple[str, ...] = ()
    in_class: bool = False
    only: str = ""
    border: Border | None = None
    note: str = field(default="", compare=False)

    @property
    def shown_width(self) -> int:
        """What is left of its width on the finished card."""
        return self.width - self.overhang.left - self.overhang.right

    @property
    def shown_height(self) -> int:
        """What is left of its height on the finished card."""
        return self.height - self.overhang.top - self.overhang.bottom


@dataclass(frozen=True)
class CardLine:
    """What the line ``card …`` says: the finished size (None if not written), the fold, whether it has a pocket."""

    width: int | None
    height: int | None
    fold: str
    pocket: bool = False


@dataclass(frozen=True)
class Bit:
    """Something small that is not cut from a sheet: by the count, or by the length in ticks."""

    name: str
    count: int = 0
    length: int = 0
    only: str = ""


@dataclass(frozen=True)
class Known:
    """What a list may name: the papers of the shelf and the designer's own tools."""

    papers: tuple[KnownPaper, ...] = ()
    tools: tuple[Tool, ...] = ()

    def name_of(self, key: str) -> str:
        """What the paper with this key is called; empty if there is none."""
        return next((paper.name for paper in self.papers if paper.key == key), "")
