"""What the design desk shows of a card: every line answered, the drawing painted, what the checks say."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from django.utils.safestring import mark_safe

from zester.core.cards.checks import Fact, facts_of, yields_of
from zester.core.cards.drawing import LABEL_ROOM, Layer, Measure, View, draw_card
from zester.core.cards.moving import mark_of
from zester.core.cards.study import Finding, Study, versions_of
from zester.core.casting.casting import Casting as CoreCasting
from zester.core.casting.casting import cast_piece
from zester.core.cutlist.lines import Reading
from zester.core.errors import Question
from zester.core.lengths import RULERS, TICKS_PER_MM, show_size
from zester.core.lengths import millimetres as mm
from zester.core.letters import letter_of
from zester.core.pieces import Known
from zester.designs.models import Card
from zester.designs.services import checked, read_card, study_card
from zester.shelf.models import Paper

WHITE_CARD = {"colour": "#fffefb", "ink": "#ddd5c5", "repeat": "plain", "opacity": "1"}
# The sizes beside the layers: the picture is so many letters wide.
LETTERS_WIDE = 25
SEEN_THROUGH = {"window": "0.3", "vellum": "0.72"}


# By the number of a lettered piece the paper it is cast as and the side that shows, None if it is left out.
Cast = Mapping[int, tuple[str, str] | None]
Casting = Callable[[], CoreCasting | None]
LARGEST_LETTER = 14 * TICKS_PER_MM


@dataclass(frozen=True)
class AnsweredLine:
    """A line of the list answered."""

    reading: Reading
    """What was read."""
    from_sheet: int | None
    """How many of its piece come from a sheet; None where nobody can tell."""
    findings: tuple[Finding, ...]
    """What the checks say of it."""

    @property
    def grave(self) -> Finding | None:
        """The first thing that spoils the card."""
        return next((finding for finding in self.findings if finding.grave), None)


@dataclass(frozen=True)
class Asked:
    """A question about a line, or about several that lack the same paper."""

    error: Question
    """What is asked, with the ways to answer."""
    lines: list[int]
    """The lines, from 0."""

    @property
    def where(self) -> str:
        """``Line 4``, ``Lines 4, 5 and 7``."""
        numbers = [str(line + 1) for line in self.lines]
        if len(numbers) == 1:
            return f"Line {numbers[0]}"
        return f"Lines {', '.join(numbers[:-1])} and {numbers[-1]}"


@dataclass(frozen=True, kw_only=True)
class Painted:
    """A layer with its paint and its words.

    Places and paths are made here because a template would take most of an answer's time for them.
    """

    layer: Layer
    """The layer."""
    fill: str
    """The key of its fill."""
    colour: str
    """The paper's colour, which printing lays under its repeat so that no seams are seen."""
    opacity: str
    """How much of what lies under it is hidden, 0 to 1."""
    handle: str
    """The card's letter and the piece's number."""
    words: str
    """What is read out for it."""
    place: str
    """Its SVG transform."""
    path: str
    """Its outline."""
    borders: str
    """The path of its measured borders, in millimetres."""
    texts: tuple[tuple[str, str, str], ...]
    """What stands beside each of them: left, top (millimetres), text."""
    sheet: tuple[()] | tuple[str, str, str, str] = ()
    """The letter of its sheet, where no paper is cast for it, its place and its size in millimetres."""


@dataclass(frozen=True)
class PaintedPlane:
    """A height of the view with the layers apart, painted."""

    layers: tuple[Painted, ...]
    """What lies at this height."""
    at: tuple[int, int]
    """Where it is drawn, ticks."""
    label: str
    """What it is called."""
    label_at: tuple[int, int]
    """Where that stands, ticks."""
    lines: tuple[tuple[int, str], ...] = ()
    """Several lines in place of that: how far down each stands (ticks), and what it says."""


@dataclass(frozen=True, kw_only=True)
class Drawing:
    """A view ready for its template."""

    view: View
    """The view."""
    fills: tuple[dict, ...]
    """The papers it is painted with: id, colour, ink, repeat, opacity."""
    layers: tuple[Painted, ...]
    """What is drawn, the lowest first."""
    planes: tuple[PaintedPlane, ...]
    """The heights, where it shows the layers apart."""
    mark: int
    """How far one press of an arrow key moves a piece, ticks."""
    label_letter: int = 0
    """How high the lines beside its heights are written, ticks; 0 if they have none."""


@dataclass(frozen=True)
class Lesson:
    """What went wrong, with what mends it."""

    words: str
    """As it was written: ``bow too high → Bow 1 x 3 brass (Evening)``."""
    line: int = 0
    """The line of the list that is mended."""
    was: str = ""
    """What that says now."""
    text: str = ""
    """What it shall say; empty where nothing is to be mended."""


# Behind an arrow stands the line as it shall be; a class that is closed puts its name in brackets after it.
_MENDED = re.compile(r"(?:→|=>|->)\s*(?P<line>(?:\d+\s+)?(?P<name>[^\W\d_][^\d]*?)\s+\d.*?)\s*(?:\([^()]*\))?\s*$")


def _lesson(words: str, there: Sequence[Reading], lines: Sequence[str]) -> Lesson:
    """A lesson with its mend, if the list has just one piece of that name and says it otherwise."""
    found = _MENDED.search(words)
    if not found:
        return Lesson(words)
    mine = [each for each in there if each.piece and each.piece.name.casefold() == found["name"].strip().casefold()]
    if len(mine) != 1 or lines[mine[0].line].strip() == found["line"]:
        return Lesson(words)
    return Lesson(words, mine[0].line, lines[mine[0].line], found["line"])


@dataclass(frozen=True, kw_only=True)
class Desk:
    """One card at the desk."""

    card: Card
    """The card."""
    letter: str
    """Its letter in the class; empty without one."""
    text: str
    """The list that is answered."""
    unit: str
    """The unit its lengths are shown in."""
    version: str
    """The version that is shown."""
    versions: tuple[str, ...]
    """The versions its list names."""
    rows: tuple[AnsweredLine, ...]
    """Every line answered."""
    grave: tuple[Finding, ...]
    """What spoils the card."""
    notes: tuple[Finding, ...]
    """What is worth a look."""
    facts: tuple[Fact, ...]
    """What a designer wants to know."""
    views: tuple[tuple[str, str], ...]
    """Keys and names of the drawings there are."""
    drawing: Drawing | None
    """The one that is shown."""

    @property
    def questions(self) -> list[Asked]:
        """What is asked about lines: which of several readings is meant, what a paper is that nobody knows.

        A paper that several lines name is asked about once.
        """
        found: dict[object, Asked] = {}
        for reading in self.errors:
            error = reading.error
            if not isinstance(error, Question) or not (error.choices or error.missing):
                continue
            key = reading.line if error.choices else error.missing.casefold()
            asked = found.setdefault(key, Asked(error, []))
            asked.lines.append(reading.line)
        return list(found.values())

    @property
    def lessons(self) -> list[Lesson]:
        """What went wrong last time, line by line, with the line of the list that mends it where one was written."""
        lines = self.text.split("\n")
        there = [row.reading for row in self.rows if row.reading.piece and row.reading.line < len(lines)]
        return [_lesson(words, there, lines) for words in self.card.went_wrong.splitlines() if words.strip()]

    @property
    def ready(self) -> bool:
        """Whether there is something to count and nothing that cannot be read."""
        return any(row.reading.piece or row.reading.bit for row in self.rows) and not self.errors

    @property
    def errors(self) -> list[Reading]:
        """The lines that cannot be read."""
        return [row.reading for row in self.rows if row.reading.error]


def desk_of(
    card: Card,
    letter: str,
    known: Known,
    papers: Sequence[Paper],
    *,
    text: str | None = None,
    version: str = "",
    view: str = "",
    casting: Casting | None = None,
) -> Desk:
    """Everything the desk shows of a card; ``text`` in place of its saved list, the drawing called ``view``.

    ``casting`` gives what the class casts its lettered sheets as; it is asked where there are any.
    """
    readings = read_card(card, known, text)
    versions = tuple(versions_of(readings))
    shown = version if version in versions else ""
    # A kit list is no card: nothing sits on anything.
    study, found = Study(tuple(readings), known, RULERS[card.ruler], shown), ()
    if not card.is_kit:
        study, found = checked(card.cut_list if text is None else text, known, card.ruler, shown)
    yields = yields_of(study)
    drawn = study.folded and not card.is_kit
    views = draw_card(study.pieces, study.folded, study.placed, study.unit) if drawn else []
    open_view = next((each for each in views if each.key == view), views[0] if views else None)
    return Desk(
        card=card,
        letter=letter,
        text=card.cut_list if text is None else text,
        unit=study.unit,
        version=shown,
        versions=versions,
        rows=tuple(_row(reading, yields, found) for reading in readings),
        grave=tuple(finding for finding in found if finding.grave),
        notes=tuple(finding for finding in found if not finding.grave),
        facts=() if card.is_kit else tuple(facts_of(study)),
        views=tuple((each.key, each.name) for each in views),
        drawing=paint(cast_view(open_view, _cast(study, letter, casting)), study, letter, papers)
        if open_view
        else None,
    )


def _drawn(view: View, study: Study, letter: str, papers: Sequence[Paper], casting: Casting | None) -> Drawing:
    return paint(cast_view(view, _cast(study, letter, casting)), study, letter, papers)


def _cast(study: Study, letter: str, casting: Casting | None) -> Cast:
    lettered = [piece for piece in study.pieces if letter_of(piece.paper)] if casting else []
    now = casting() if casting and lettered else None
    if now is None:
        return {}
    cast = {piece.number: cast_piece(letter, piece, now, {}) for piece in lettered}
    return {number: (piece.paper, piece.side) if piece else None for number, piece in cast.items()}


def _row(reading: Reading, yields: dict[int, int], found: Sequence[Finding]) -> AnsweredLine:
    count = yields.get(reading.piece.number) if reading.piece else None
    mine = tuple(each for each in found if reading.line in (each.line, *each.alike))
    return AnsweredLine(reading, count, mine)


def drawings_of(
    card: Card,
    letter: str,
    known: Known,
    papers: Sequence[Paper],
    version: str = "",
    instead: Mapping[str, str] | None = None,
    cast: Cast | None = None,
) -> list[Drawing]:
    """All drawings of a card, painted; ``instead``: by a paper's key the one that is taken in its place.

    ``cast``: by the number of a lettered piece the paper it is cast as and the side that shows, None if it is left out.
    """
    study = study_card(card, known, version=version)
    if not study.folded:
        return []
    views = draw_card(study.pieces, study.folded, study.placed, study.unit)
    return [paint(cast_view(view, cast or {}), study, letter, papers, instead) for view in views]


def cast_view(view: View, cast: Cast) -> View:
    """The view with lettered pieces of the papers they are cast as, without those that are left out."""
    if not cast:
        return view
    planes = tuple(replace(plane, layers=_cast_layers(plane.layers, cast)) for plane in view.planes)
    return replace(view, layers=_cast_layers(view.layers, cast), planes=planes)


def _cast_layers(layers: Sequence[Layer], cast: Cast) -> tuple[Layer, ...]:
    found = []
    for layer in layers:
        shown = cast.get(layer.number, ("", "")) if layer.number is not None else ("", "")
        if shown:
            found.append(replace(layer, paper=shown[0], side=shown[1]) if shown[0] else layer)
    return tuple(found)


def paint(
    view: View, study: Study, letter: str, papers: Sequence[Paper], instead: Mapping[str, str] | None = None
) -> Drawing:
    """The view with the look of every paper in it, or of the one that is taken in its place."""
    looks = {paper.key: paper for paper in papers}
    looks |= {written: looks[other] for written, other in (instead or {}).items() if other in looks}
    fills: dict[tuple[str, str], dict] = {}
    layers = tuple(_painted(layer, study, letter, looks, fills) for layer in view.layers)
    planes = tuple(
        PaintedPlane(
            tuple(_painted(layer, study, letter, looks, fills) for layer in plane.layers),
            plane.at,
            plane.label,
            plane.label_at,
        )
        for plane in view.planes
    )
    return Drawing(view=view, fills=tuple(fills.values()), layers=layers, planes=planes, mark=mark_of(study))


def _painted(layer: Layer, study: Study, letter: str, looks: dict[str, Paper], fills: dict) -> Painted:
    key = layer.paper, layer.side
    if key not in fills:
        fills[key] = _look(looks.get(layer.paper), layer.side) | {"id": f"{len(fills)}"}
    fill = fills[key]
    handle = f"{letter}{layer.number}" if layer.number is not None else ""
    words = f"{handle} {layer.name}, {show_size(layer.width, layer.height, study.unit)}".strip()
    words += ": is this its place?" if layer.guessed else ""
    borders = "".join(_stroke(measure) for measure in layer.borders)
    texts = tuple((*(mm(at) for at in measure.middle), measure.text) for measure in layer.borders)
    # Paths are made of numbers only; saying so spares escaping each of them.
    path, borders = mark_safe(layer.path), mark_safe(borders)  # noqa: S308
    return Painted(
        layer=layer,
        fill=fill["id"],
        colour=fill["colour"],
        opacity=fill["opacity"],
        handle=handle,
        words=words,
        sheet=_letter(layer),
        place=_place(layer),
        path=path,
        borders=borders,
        texts=texts,
    )


def _letter(layer: Layer) -> tuple[()] | tuple[str, str, str, str]:
    """The letter of its sheet where nothing is cast: what, where (millimetres), how large; empty if it has a paper."""
    letter = letter_of(layer.paper)
    if not letter:
        return ()
    side = min(layer.width, layer.height) // 2
    return letter, mm(layer.width // 2), mm(layer.height // 2 + side * 35 // 100), mm(min(side, LARGEST_LETTER))


def _place(layer: Layer) -> str:
    """Turned about its middle, from its corner."""
    x, y = layer.start
    turn = ""
    if layer.tilt:
        turn = f"rotate({layer.turn} {mm(layer.x + layer.width // 2)} {mm(layer.y + layer.height // 2)}) "
    return f"{turn}translate({mm(x)} {mm(y)})"


def _stroke(measure: Measure) -> str:
    """A measured distance with its two ends, as a path."""
    lines = ((measure.x1, measure.y1, measure.x2, measure.y2), *measure.ends)
    return "".join(f"M{mm(x1)} {mm(y1)}L{mm(x2)} {mm(y2)}" for x1, y1, x2, y2 in lines)


def _look(paper: Paper | None, side: str) -> dict[str, str]:
    if paper is None:
        return WHITE_CARD
    look = (
        {"colour": paper.colour, "ink": paper.ink, "repeat": paper.repeat, "photo": paper.photo}
        if side == "a"
        else paper.side_b
    )
    return look | {"opacity": SEEN_THROUGH.get(paper.kind, "1")}


def with_sizes(drawing: Drawing, unit: str) -> Drawing:
    """The layers apart, each height labelled with handles and sizes."""
    labels = []
    for plane in drawing.planes:
        # In a class a piece is known by its letter and number, else by its name.
        sizes = {
            painted.handle if painted.handle[0].isalpha() else painted.layer.name: show_size(
                painted.layer.width, painted.layer.height, unit
            )
            for painted in plane.layers
            if painted.handle
        }
        words = [f"{called} {size}" for called, size in sizes.items()]
        labels.append([words[0], f"and {len(words) - 1} more"] if len(words) > 2 else words or [plane.label])
    # Letters are as high as the view is wide, and the view as wide as its longest line needs.
    longest = max((len(line) for lines in labels for line in lines), default=0)
    view = drawing.view
    view = replace(view, width=(view.width - LABEL_ROOM) * 40 // (40 - min(longest, 24)))
    letter = view.width // LETTERS_WIDE
    planes = (
        replace(plane, lines=_stacked(lines, plane.label_at[1], letter))
        for plane, lines in zip(drawing.planes, labels, strict=True)
    )
    return replace(drawing, planes=tuple(planes), view=view, label_letter=letter)


def _stacked(lines: Sequence[str], middle: int, letter: int) -> tuple[tuple[int, str], ...]:
    """Lines below each other, about a height: how far down each stands."""
    first = middle - (len(lines) - 1) * letter // 2
    return tuple((first + number * letter, words) for number, words in enumerate(lines))
