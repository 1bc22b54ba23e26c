"""What a cut list says, as values: papers, tools, pieces, bits, the card's own line. Lengths are ticks."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

from zester.core.geometry import Window
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.pictures import Pictures

# How high foam is where nobody says, and what a die wants round its shape: in round figures of the card's unit.
FOAM = {"in": TICKS_PER_INCH // 16, "mm": 3 * TICKS_PER_MM // 2}
DIE_MARGIN = {"in": TICKS_PER_INCH // 8, "mm": 3 * TICKS_PER_MM}
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
    back: str = ""
    """The same where its side B is seen; empty: as side A."""
    two_sided: bool = True
    """Whether side B may be seen."""
    caliper: int = 0
    """Thickness of one sheet in micrometres; 0 if nobody knows."""
    measured: bool = False
    """Whether the caliper was measured; otherwise it is what such papers usually have."""
    clear: bool = False
    """Whether what lies under it is seen."""
    dark: bool = False
    """Whether its side B, which is the inside of a card made of it, is too dark to write on."""
    former: tuple[str, ...] = ()
    """Names it had before, which lists may still use."""
    pictures: Pictures | None = None
    """The pictures a sheet of it carries, if it is one of pictures."""

    def runs(self, side: str) -> str:
        """How pieces that show this side may lie."""
        return (self.back or self.direction) if side == "b" else self.direction


@dataclass(frozen=True, kw_only=True)
class Tool:
    """A designer's own dies, punch or embossing folder."""

    name: str
    """What lists call it."""
    kind: str
    """``die``, ``punch`` or ``folder``."""
    shape: str = ""
    """One of ``SHAPES``; empty for a folder."""
    sizes: tuple[tuple[int, int], ...] = ()
    """Width and height (ticks) of a nested set from number 1 up."""
    reach: int = 0
    """How far in from the edge of a piece a punch stamps, ticks; 0: that does not matter."""
    largest: tuple[int, int] | None = None
    """Width and height (ticks) of the largest piece a folder takes."""


@dataclass(frozen=True)
class Score:
    """Score lines across a piece."""

    axis: str
    """``x`` counts from its left edge, ``y`` from its upper edge."""
    places: tuple[int, ...]
    """Ticks."""
    cross: tuple[int, ...] = ()
    """Places of score lines the other way, ticks from the other edge: of a pocket on a side fold."""


@dataclass(frozen=True)
class Edges:
    """Something along each of the four edges."""

    left: int = 0
    """Ticks."""
    top: int = 0
    """Ticks."""
    right: int = 0
    """Ticks."""
    bottom: int = 0
    """Ticks."""


@dataclass(frozen=True, kw_only=True)
class Place:
    """Where a piece sits: distances from the edges of what it sits on; None means centred."""

    on: str = ""
    """On what; empty: what its name and role suggest. A face means its topmost layer, ``=front`` the bare face
    itself, ``#3`` the piece of that number.
    """
    left: int | None = None
    """Ticks."""
    top: int | None = None
    """Ticks."""
    right: int | None = None
    """Ticks."""
    bottom: int | None = None
    """Ticks."""
    fold: int | None = None
    """Ticks from the fold."""
    tilt: int = 0
    """Tenths of a degree, to the right."""
    behind: str = ""
    """Behind what: ``#3`` the piece of that number, ``all`` everything on its face; empty: in front."""
    over_fold: bool = False
    """Whether it goes round the fold, half of it on the front and half on the back."""
    gap: int | None = None
    """Ticks between two copies; None: spread evenly."""
    line: str = ""
    """How copies follow each other: ``row``, ``column``; empty: whichever leaves most room."""
    after: int | None = None
    """Ticks below the piece written before it on the same layer or face; None if it does not follow that."""
    spots: tuple[int, ...] = ()
    """Places of the copies after the first, ticks from the edge that is named next."""
    spots_from: str = ""
    """The edge, or ``fold``, that the places of the copies are measured from; empty if there are none."""


@dataclass(frozen=True, kw_only=True)
class Outline:
    """The outline of a shape, or of a hole in a piece."""

    kind: str
    """One of ``SHAPES``."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    x: int = 0
    """Of a hole: ticks from the left edge of its piece."""
    y: int = 0
    """Of a hole: ticks from its upper edge."""


@dataclass(frozen=True)
class Border:
    """A size that was written as a border around something."""

    width: int
    """How wide, ticks."""
    on: str
    """What it is around, as in ``Place.on``."""


# When a job is done, where that is said; whether it comes first, as it has to dry, or last, and then lies flat to dry.
BEFORE, IN_CLASS, HOME, OPEN = "before", "class", "home", ""
FIRST, LAST = "first", "last"
# Jobs that a piece has by what is cut out of it or scored.
SCORE, FOLDED, WINDOW, NOTCH, SHAPE = "score", "fold", "window", "notch", "shape"
# The job after which a figure has an outline that nobody measured.
BY_HAND = "cut out by hand"
OF_ITS_FORM = (SCORE, FOLDED, WINDOW, NOTCH, SHAPE)


@dataclass(frozen=True, kw_only=True)
class PieceJob:
    """One thing that is done to a piece."""

    what: str
    """The word: ``die-cut``, ``embossed``…, one of ``OF_ITS_FORM``, or empty: whatever is done to it."""
    when: str = OPEN
    """``before`` the class, in ``class``, at ``home``, or empty: nobody said, see ``usual_times``."""
    by: str = ""
    """Who does it; empty if nobody is named."""
    dries: str = ""
    """``first`` if it has to dry and so comes first, ``last`` if it comes last and dries on a card that lies flat."""
    seconds: int = 0
    """How long one piece takes, if somebody said so."""


NO_EDGES = Edges()
CENTRED = Place()


@dataclass(frozen=True, kw_only=True)
class CutPiece:
    """One line of a cut list, as the piece stands on the upright card."""

    number: int
    """Its number on the card, from 1."""
    count: int
    """How many for one card."""
    name: str
    """What it is called."""
    width: int
    """Ticks as it is cut."""
    height: int
    """Ticks as it is cut."""
    paper: str
    """The paper's key."""
    turn: bool = True
    """Whether it may lie a quarter turn round on the sheet."""
    score: Score | None = None
    """Where it is scored."""
    upright: bool = False
    """Whether its pattern has to stand upright."""
    filler: bool = False
    """Whether it is cut only where that costs nothing."""
    match: str = ""
    """The word of the row or column that it is cut in; empty if it is in none."""
    below: bool = False
    """Whether that is a column."""
    middle: Window | None = None
    """Its hidden middle."""
    from_middle: bool = False
    """Whether it may come out of a hidden middle."""
    role: str = "other"
    """One of ``ROLES``."""
    side: str = "a"
    """The side of the paper that is seen: ``a`` or ``b``."""
    overhang: Edges = NO_EDGES
    """How much of it is trimmed off after gluing."""
    place: Place = CENTRED
    """Where it sits."""
    raised: int = 0
    """Ticks of foam under it."""
    raised_at: str = ""
    """The side that has foam under it, where not all of it has: ``left``, ``top``…"""
    shape: Outline | None = None
    """What it is die-cut or punched to."""
    window: Outline | None = None
    """The hole in it."""
    tool: str = ""
    """The tool's name."""
    jobs: tuple[PieceJob, ...] = ()
    """What is done to it, in the order written."""
    loose: str = ""
    """Why it is handed out but not on the card: ``scrap``, ``mask``, ``spare`` or ``loose``; empty: it is on it."""
    out_of: int = 0
    """The number of the scrap it is cut out of, so that the trimmer cuts nothing for it; 0 if it is of none."""
    picture: str = ""
    """Which picture of its paper it is, ``*`` if any will do; empty if it is none."""
    notch: Outline | None = None
    """A hole over an edge: half of it is stamped away. Its corner may lie outside the piece."""
    either_side: bool = False
    """Whether it does not matter which side of the paper is seen."""
    seam: str = ""
    """Where a band is closed: ``front``, ``back`` or ``inside``."""
    may: str = ""
    """What a casting may put in place of its lettered sheet: ``stock`` card stock, ``nothing`` nothing at all."""
    only: str = ""
    """The version it belongs to; empty: all."""
    border: Border | None = None
    """How its size was written, if that was as a border."""
    note: str = field(default="", compare=False)
    """The remark."""

    @property
    def preparations(self) -> tuple[str, ...]:
        """What is done to it, as words: ``die-cut``, ``embossed``…; not what follows from its form."""
        return tuple(job.what for job in self.jobs if job.what and job.what not in OF_ITS_FORM)

    @property
    def by_hand(self) -> bool:
        """Whether its outline is cut by hand, so that its size is only the box round it."""
        return BY_HAND in self.preparations or bool(self.picture)

    @property
    def first(self) -> bool:
        """Whether something of it has to dry and so comes first."""
        return any(job.dries == FIRST for job in self.jobs)

    def job(self, what: str) -> PieceJob:
        """The job of that name; where the line does not speak of it, as whatever is done to the piece."""
        found = next((job for job in self.jobs if job.what in (what, "")), None)
        return replace(found, what=what) if found else PieceJob(what=what)

    @property
    def shown_width(self) -> int:
        """What is left of its width on the finished card."""
        return self.width - self.overhang.left - self.overhang.right

    @property
    def shown_height(self) -> int:
        """What is left of its height on the finished card."""
        return self.height - self.overhang.top - self.overhang.bottom


def without_hands(piece: CutPiece) -> CutPiece:
    """The same without who does what to it."""
    return replace(piece, jobs=tuple(replace(job, by="") for job in piece.jobs))


@dataclass(frozen=True)
class CardLine:
    """What the line ``card …`` says."""

    width: int | None
    """Of the finished card, ticks; None if not written."""
    height: int | None
    """Of the finished card, ticks; None if not written."""
    fold: str
    """A key of ``FOLDS``."""
    pocket: bool = False
    """Whether it has a pocket."""
    pocket_at: str = ""
    """The end of the open base that is folded over for it; empty: the lower one."""


@dataclass(frozen=True)
class Bit:
    """Something small that is not cut from a sheet."""

    name: str
    """What it is."""
    count: int = 0
    """How many; 0 where it goes by the length."""
    length: int = 0
    """Ticks; 0 where it goes by the count."""
    only: str = ""
    """The version it belongs to; empty: all."""
    around: int = 0
    """The number of the piece it goes round, if it goes round one."""
    through: int = 0
    """The number of the piece it goes through, if its line says so."""
    after: int = field(default=0, compare=False)
    """The number of the last piece that is written above it."""
    note: str = field(default="", compare=False)
    """The remark."""


@dataclass(frozen=True)
class Known:
    """What a list may name."""

    papers: tuple[KnownPaper, ...] = ()
    """The papers of the shelf."""
    tools: tuple[Tool, ...] = ()
    """The designer's own tools."""
    words: tuple[tuple[str, str], ...] = ()
    """Words of her own, each with what it stands for in a line."""

    def __hash__(self) -> int:
        """Reckoned once: what was read of a list is looked up by it at every keystroke."""
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.papers, self.tools, self.words))

    def name_of(self, key: str) -> str:
        """What the paper with this key is called; empty if there is none."""
        return next((paper.name for paper in self.papers if paper.key == key), "")


# How much of the width and the height of a hole a rectangle inside it may have: all of one with straight sides, of a
# circle and an oval 1 / √2, of a scallop, whose bays reach inwards, five eighths.
_STRAIGHT, _ROUND, _BAYS = (1, 1), (70, 99), (5, 8)
_INNER = {
    **dict.fromkeys(("square", "rectangle"), _STRAIGHT),
    **dict.fromkeys(("circle", "oval"), _ROUND),
    "scallop": _BAYS,
}


def drops_out(piece: CutPiece) -> Window | None:
    """The rectangle of a piece out of which others can be cut: its hidden middle, or what drops out of its window."""
    hole = piece.window
    if piece.middle or not hole or hole.kind not in _INNER or piece.match or piece.filler or piece.from_middle:
        return piece.middle
    times, of = _INNER[hole.kind]
    width, height = hole.width * times // of, hole.height * times // of
    return Window(hole.x + (hole.width - width) // 2, hole.y + (hole.height - height) // 2, width, height)
