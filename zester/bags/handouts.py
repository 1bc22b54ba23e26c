"""The hand-out of a class, made from its designs: pictures, pieces, steps, supplies, cautions, the teacher's words."""

from __future__ import annotations

import datetime
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from enum import Enum

from zester.classes.services import CountedClass, ReadCard
from zester.core.cards.study import Study, study
from zester.core.care import TIMES
from zester.core.cautions import CAUTIONS
from zester.core.errors import ZesterError
from zester.core.kits.assembly import READY, Assembled, AssemblyStep, assembled, supplies_for
from zester.core.kits.coverage import bit_key
from zester.core.kits.demand import EVERYBODY
from zester.core.kits.own_steps import Arranged, arranged, read_own
from zester.core.kits.supplies import Supply, of_tools, read_supplies, to_bring
from zester.core.lengths import RULERS, show_size
from zester.core.papers import luminance
from zester.core.pieces import FOLDS, IN_CLASS, Bit, CutPiece, without_hands
from zester.core.tally import BIT_SIGN, bit_for, bit_key_of, paper_and_side, some
from zester.designs.desk import Drawing, Painted, drawings_of, with_sizes
from zester.designs.models import Card, Photo, Tool
from zester.shelf.models import Bit as ShelfBit
from zester.site.photos import shown_photo

# A photo on the hand-out, pixels: sharp at some three inches.
PHOTO_SIDE = 720


class Ink(Enum):
    """What pictures are made for."""

    SCREEN = "screen"
    COLOUR = "colour"
    GREY = "grey"


OPENING, ENDING = "opening", "ending"


@dataclass(frozen=True, kw_only=True)
class ShownStep:
    """A step of putting a card together."""

    key: str
    """What it is known by."""
    what: str
    """What is done."""
    who: str
    """When, and by whom, if that is said."""
    caution: str
    """The caution that belongs to it, where its tool comes up first."""
    words: str
    """The teacher's own words."""


@dataclass(frozen=True, kw_only=True)
class OtherVersion:
    """A version of a card beside the one that is made."""

    name: str
    """What it is called."""
    picture: Drawing | None
    """The finished card."""
    more: tuple[CutPiece, ...]
    """The pieces that only this one has."""
    bits: tuple[Bit, ...]
    """The bits that only this one has."""


@dataclass(frozen=True, kw_only=True)
class HandoutCard:
    """A card of the hand-out."""

    card: Card
    """The design."""
    letter: str
    """Its letter."""
    version: str
    """The version that is made."""
    unit: str
    """The unit its lengths are shown in."""
    size: str
    """Of the finished card, and how it folds."""
    pictures: tuple[Drawing, ...]
    """The finished card: closed, open, its back."""
    apart: tuple[Drawing, ...]
    """Its layers apart."""
    pieces: tuple[CutPiece, ...]
    """The pieces of one card."""
    instead: tuple[str, ...]
    """Papers in place of others, in words."""
    bits: tuple[Bit, ...]
    """The bits of one card."""
    ready: tuple[ShownStep, ...]
    """What was done beforehand."""
    steps: tuple[ShownStep, ...]
    """What is done in class, in order."""
    supplies: tuple[str, ...]
    """What is needed beside the pieces, in general."""
    named: tuple[Supply, ...]
    """What is needed by name, the tools that have a source among it."""
    versions: tuple[OtherVersion, ...]
    """All versions, if there are several."""
    opening: str
    """The teacher's own words before the first step."""
    ending: str
    """After the last."""
    photos: tuple[tuple[str, str], ...] = ()
    """Its photos: each as a data URL, with what it shows; no words for the finished card."""
    day: datetime.date | None = None
    """When it is made, if the cards of the class are spread over several days."""

    @property
    def in_kit(self) -> list[Supply]:
        """The supplies that come with the kit."""
        return [supply for supply in self.named if supply.in_kit]

    @property
    def to_bring(self) -> list[Supply]:
        """Those that everybody brings."""
        return [supply for supply in self.named if not supply.in_kit]

    @property
    def has_tools(self) -> bool:
        """Whether a step has a tool that can hurt."""
        return any(step.caution for step in self.steps)


def handout_of(
    counted: CountedClass, letters: Iterable[str] | None = None, *, ink: Ink = Ink.SCREEN, named: bool = True
) -> list[HandoutCard]:
    """The cards of a class, or some of them by letter.

    ``ink`` is what it is for; without ``named`` nobody is named: not who prepares something, nor who takes part in a
    remark.
    """
    wanted = None if letters is None else set(letters)
    cards = [card for card in counted.designs if wanted is None or card.entry.letter in wanted]
    made = [_card(counted, card, ink) for card in cards]
    if named:
        return made
    names = names_in(counted)
    return [_without_names(each, names) for each in made]


def names_in(counted: CountedClass) -> set[str]:
    """The words that people of the class are called by."""
    return {word.casefold() for person in counted.needs.people for word in person.name.split() if len(word) > 1}


def told(note: str, names: set[str]) -> str:
    """A remark, unless it speaks of somebody who takes part."""
    return "" if names & set(re.findall(r"[^\W\d_]+", note.casefold())) else note


def _without_names(each: HandoutCard, names: set[str]) -> HandoutCard:
    return replace(
        each,
        pieces=tuple(replace(without_hands(piece), note=told(piece.note, names)) for piece in each.pieces),
        bits=tuple(replace(bit, note=told(bit.note, names)) for bit in each.bits),
        ready=tuple(replace(step, who="") for step in each.ready),
        steps=tuple(replace(step, who=step.who.split(" by ")[0]) for step in each.steps),
    )


def supplies_of(card: Card) -> list[Supply]:
    """What its designer names; nothing of a list that cannot be read."""
    try:
        return read_supplies(card.supplies)
    except ZesterError:
        return []


def named_supplies(counted: CountedClass, read: ReadCard) -> list[Supply]:
    """The supplies a card names, tools of which somebody said where they are had, papers and bits that have a link."""
    card, owner = read.entry.card, counted.card_class.owner
    tools = Tool.objects.of(owner).exclude(merchant="", link="")
    known = {tool.name: (tool.merchant, tool.link) for tool in tools}
    found = [*supplies_of(card), *of_tools((piece.tool for piece in read.pieces if piece.tool), known)]
    papers = {paper.key: paper for paper in counted.held.papers if paper.link}
    used = dict.fromkeys(counted.instead.get(piece.paper, piece.paper) for piece in read.pieces)
    bits = {bit_key(bit.name, bit.by_length): bit for bit in ShelfBit.objects.of(owner).exclude(link="")}
    named = [papers.get(key) for key in used] + [bits.get(bit_key(bit.name, bool(bit.length))) for bit in read.bits]
    return [*found, *(Supply(name=e.name, where=e.merchant, link=e.link, in_kit=True) for e in named if e)]


def put_together(counted: CountedClass, read: ReadCard) -> tuple[Study, Assembled]:
    """A card of the class looked at, and how it is put together."""
    card = read.entry.card
    looked = study(read.readings, counted.known, RULERS[card.ruler], read.entry.version, counted.usual)
    return looked, assembled(looked, read.bits, read.entry.letter, read.envelope_of)


def _card(counted: CountedClass, read: ReadCard, ink: Ink) -> HandoutCard:
    card, letter, version = read.entry.card, read.entry.letter, read.entry.version
    looked, steps = put_together(counted, read)
    drawings = _drawings(counted, read, version, ink)
    named = {each.view.key: each for each in drawings}
    own = own_steps_of(card, looked, steps)
    shown = _shown([*ready_of(steps), *own.steps], card.teaching, own.joined)
    return HandoutCard(
        card=card,
        letter=letter,
        version=version,
        unit=looked.unit,
        size=_size(looked),
        pictures=tuple(named[key] for key in ("front", "inside", "back") if key in named),
        apart=tuple(with_sizes(named[key], looked.unit) for key in ("apart-front", "apart-inside") if key in named),
        pieces=tuple(_as_given(piece, counted.instead) for piece in read.pieces if not piece.filler),
        instead=tuple(_instead(counted, read)),
        bits=tuple(bit_for(counted.instead, bit) for bit in read.bits),
        ready=tuple(each for step, each in shown if step.stage == READY),
        steps=tuple(each for step, each in shown if step.stage != READY),
        supplies=tuple(to_bring(supplies_for(steps.steps, read.bits), supplies_of(card))),
        named=tuple(named_supplies(counted, read)),
        versions=tuple(_versions(counted, read, ink)),
        opening=card.teaching.get(OPENING, ""),
        ending=card.teaching.get(ENDING, ""),
        photos=tuple(_photos(card, ink)),
        day=counted.card_class.date_of([each.entry.letter for each in counted.designs].index(letter)),
    )


def _instead(counted: CountedClass, read: ReadCard) -> Iterable[str]:
    """What other papers are in some kits, or in all, in place of those the list says."""
    used = {piece.paper for piece in read.pieces} | {bit_key_of(bit.name) for bit in read.bits}
    handles = {f"{read.entry.letter}{piece.number}": piece.name for piece in read.written}
    for each in counted.needs.instead:
        if each.paper in handles:
            taken, side = paper_and_side(each.other)
            shows = ", side B" if side == "b" else ""
            what = f"{counted.names.get(taken, 'another paper')}{shows}" if taken else "left out"
            yield f"{each.paper} {handles[each.paper]}: {what} in the last {some(each.last, 'kit')}"
        if each.paper in used:
            other, paper = (_named(counted, key) for key in (each.other, each.paper))
            yield f"{other} in place of {paper}{'' if each.who == EVERYBODY else ', in some kits'}"


def _named(counted: CountedClass, key: str) -> str:
    """What a paper or a bit is called, by its key among what is taken in place of others."""
    if key.startswith(BIT_SIGN):
        return key.removeprefix(BIT_SIGN)
    return counted.names.get(key, "another paper")


def _photos(card: Card, ink: Ink) -> Iterable[tuple[str, str]]:
    for photo in Photo.objects.filter(card=card, removed_at=None).exclude(image=""):
        shown = shown_photo(photo.image.path, PHOTO_SIDE, grey=ink is Ink.GREY)
        if shown:
            yield shown, photo.words


def _as_given(piece: CutPiece, instead: Mapping[str, str]) -> CutPiece:
    """A piece without what only its designer and the trimmer have to know, and without its foam, which its step has."""
    piece = replace(piece, paper=instead.get(piece.paper, piece.paper))
    return replace(piece, border=None, middle=None, from_middle=False, either_side=False, raised=0)


def _size(looked: Study) -> str:
    folded = looked.folded
    return f"{show_size(folded.width, folded.height, looked.unit)}, {FOLDS[folded.fold]}" if folded else ""


def _drawings(counted: CountedClass, read: ReadCard, version: str, ink: Ink) -> list[Drawing]:
    card, letter = read.entry.card, read.entry.letter
    papers = counted.held.papers
    found = drawings_of(card, letter, counted.known, papers, version, counted.instead, read.shown)
    if ink is Ink.SCREEN:
        return found
    return [on_paper(in_grey(each) if ink is Ink.GREY else each) for each in found]


def on_paper(drawing: Drawing) -> Drawing:
    """For a PDF: repeats without their ground, which is painted below them, so that no seams are seen."""
    return replace(
        drawing, fills=tuple(fill | {"under": "" if fill.get("photo") else "none"} for fill in drawing.fills)
    )


def in_grey(drawing: Drawing) -> Drawing:
    """The same for a printer without colours: light enough for dark lines, patterns as they are."""
    greys = {fill["id"]: _grey(fill) for fill in drawing.fills}
    return replace(
        drawing,
        fills=tuple(greys.values()),
        layers=tuple(_in_grey(each, greys) for each in drawing.layers),
        planes=tuple(
            replace(plane, layers=tuple(_in_grey(each, greys) for each in plane.layers)) for plane in drawing.planes
        ),
    )


def _in_grey(painted: Painted, greys: Mapping[str, dict]) -> Painted:
    return replace(painted, colour=greys[painted.fill]["colour"])


def _grey(fill: Mapping) -> dict:
    light = round(168 + 87 * luminance(fill["colour"]))
    ink = max(70, light - 80)
    # A photo of a swatch would be in colours: its paper is drawn plain.
    return (
        dict(fill)
        | {"photo": ""}
        | {"colour": f"#{light:02x}{light:02x}{light:02x}", "ink": f"#{ink:02x}{ink:02x}{ink:02x}"}
    )


def ready_of(made: Assembled) -> list[AssemblyStep]:
    """What was done beforehand."""
    return [step for step in made.steps if step.stage == READY]


def own_steps_of(card: Card, looked: Study, made: Assembled) -> Arranged:
    """The steps of the class in the order its designer wants them."""
    told = [step for step in made.steps if step.stage != READY]
    return arranged(told, made.rules, read_own(card.teaching, looked.pieces))


def _shown(
    steps: Iterable[AssemblyStep], words: Mapping[str, str], joined: Mapping[str, tuple[str, ...]]
) -> list[tuple[AssemblyStep, ShownStep]]:
    told: set[str] = set()
    found = []
    for step in steps:
        caution = "" if step.stage == READY or step.tool in told else CAUTIONS.get(step.tool, "")
        told.add(step.tool if caution else "")
        # What is done in class is what a hand-out is about, and what lies ready was done before; other times are said.
        when = "" if step.when == IN_CLASS or step.stage == READY else TIMES.get(step.when, "")
        who = " ".join(filter(None, (when, f"by {step.by}" if step.by else "")))
        mine = " ".join(filter(None, (words.get(key, "") for key in joined.get(step.key, (step.key,)))))
        shown = ShownStep(key=step.key, what=step.what, who=who, caution=caution, words=mine)
        found.append((step, shown))
    return found


def _versions(counted: CountedClass, read: ReadCard, ink: Ink) -> Iterable[OtherVersion]:
    """The simple and the stepped-up one, side by side."""
    if not read.versions:
        return
    for name in ("", *read.versions):
        drawn = _drawings(counted, read, name, ink)
        yield OtherVersion(
            name=name or "simple",
            picture=drawn[0] if drawn else None,
            more=tuple(r.piece for r in read.readings if r.piece and name and r.piece.only == name),
            bits=tuple(r.bit for r in read.readings if r.bit and name and r.bit.only == name),
        )
