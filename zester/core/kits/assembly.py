"""Putting a card together: every step in the order in which it has to be done, worked out from what sits on what.

What has to dry comes first, then what is done to the pieces, then fold and burnish, layers from below, raised parts,
the band, bits, the envelope. Two rules stand above that order:

- Nothing is covered that must still be glued, folded, tied or stamped:

      i lies under j        glue(i) before the last of glue(j), glue(what j sits on)… that brings j over i

- A strip that is cut long is trimmed flush with what it is glued to before that is glued to anything larger, or the
  blade would go into the layer below.

The steps are the topological order of these rules (Kahn 1962), of those that are free the most natural first.
"""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from zester.core.cards.layers import Placed
from zester.core.cards.study import Study
from zester.core.cards.words import place_words
from zester.core.cutting.handwork import FOLDING, LARGEST_PUNCHED, NO_TOOL, TRIM_SECONDS, Work, handwork
from zester.core.errors import sure
from zester.core.folds import Face
from zester.core.kits.bit_words import (
    BOX,
    ENVELOPE,
    FILLING,
    HOLDING,
    TIE,
    TOOL,
    added_words,
    how_much,
    kind_of,
    through_words,
)
from zester.core.kits.bit_words import FOAM as FOAM_BIT
from zester.core.lengths import show_length, with_unit
from zester.core.pieces import BEFORE, BY_HAND, FOAM, FOLDED, HOME, SCORE, Bit, CutPiece

READY, DRY, PREPARE, FOLD, LAYER, RAISED, BAND, FINISH = range(8)
# What comes first where the rules leave a choice.
FACES = {"front": 0, "left door": 0, "right door": 0, "pocket": 1, "back": 3, "around": 4}


@dataclass(frozen=True, kw_only=True)
class AssemblyStep:
    """One step of putting a card together."""

    key: str
    """What it is known by: it stays the same while the piece keeps its number."""
    stage: int
    """``READY`` (done beforehand), ``DRY``, ``PREPARE``, ``FOLD``, ``LAYER``, ``RAISED``, ``BAND`` or ``FINISH``."""
    what: str
    """What is done, in words."""
    pieces: tuple[int, ...] = ()
    """The numbers of the pieces it is done with."""
    placed: tuple[int, ...] = ()
    """Which of the study's placed pieces are glued in it."""
    trims: bool = False
    """Whether they are trimmed flush after gluing."""
    tool: str = ""
    """The tool that can hurt, a key of ``cautions.CAUTIONS``; empty: none."""
    when: str = ""
    """``before`` the class, in ``class``, or at ``home``."""
    by: str = ""
    """Who does it, if somebody is named."""
    seconds: int = 0
    """How long it takes, about."""
    dries: int = 0
    """About how many minutes it then has to dry; 0 if it need not."""


@dataclass
class _Graph:
    """Steps, and which come before which."""

    steps: dict[str, AssemblyStep] = field(default_factory=dict)
    rank: dict[str, tuple[Any, ...]] = field(default_factory=dict)
    after: dict[str, set[str]] = field(default_factory=dict)

    def add(self, step: AssemblyStep, rank: tuple[Any, ...]) -> str:
        self.steps[step.key], self.rank[step.key] = step, rank
        self.after.setdefault(step.key, set())
        return step.key

    def first(self, one: str, other: str) -> None:
        if one != other:
            self.after[one].add(other)

    def in_order(self) -> list[AssemblyStep] | None:
        """All steps; None if the rules go round in a circle."""
        waits = dict.fromkeys(self.steps, 0)
        for later in self.after.values():
            for key in later:
                waits[key] += 1
        free = [(self.rank[key], key) for key, number in waits.items() if not number]
        heapq.heapify(free)
        found = []
        while free:
            _, key = heapq.heappop(free)
            found.append(self.steps[key])
            for other in self.after[key]:
                waits[other] -= 1
                if not waits[other]:
                    heapq.heappush(free, (self.rank[other], other))
        return found if len(found) == len(self.steps) else None


@dataclass(frozen=True)
class Assembled:
    """A card put together."""

    steps: tuple[AssemblyStep, ...]
    """In order, what was done beforehand first."""
    rules: frozenset[tuple[str, str]]
    """Pairs of keys, of which the first has to be done before the second."""


def assembly_of(study: Study, bits: Sequence[Bit] = (), letter: str = "") -> list[AssemblyStep]:
    """The steps of one version of a card, see ``assembled``."""
    return list(assembled(study, bits, letter).steps)


def assembled(study: Study, bits: Sequence[Bit] = (), letter: str = "", envelope_of: str = "") -> Assembled:
    """The steps of one version of a card, and which of them come before which.

    Parameters
    ----------
    study
        The card.
    bits
        What else it takes.
    letter
        Its letter, which stands before the numbers of its pieces.
    envelope_of
        The letter of the card in whose envelope it goes; empty if it has its own, or none.
    """
    # Trimming first is a wish where layers are woven into each other so that it cannot be had.
    for trim_first in (True, False):
        found = _Assembly(study, bits, letter, trim_first=trim_first)
        found.envelope_of = envelope_of
        steps = [replace(step, seconds=step.seconds or _seconds(step)) for step in found.steps() or ()]
        if steps:
            rules = ((first, later) for first, all_later in found.graph.after.items() for later in all_later)
            return Assembled(tuple(steps), frozenset(rules))
    return Assembled((), frozenset())


class _Assembly:
    def __init__(self, study: Study, bits: Sequence[Bit], letter: str, *, trim_first: bool = False):
        self.study, self.bits, self.letter, self.envelope_of = study, bits, letter, ""
        self.placed, self.unit = study.placed, study.unit
        self.graph = _Graph()
        self.of_number: dict[int, list[int]] = {}
        for at, each in enumerate(self.placed):
            self.of_number.setdefault(each.piece.number, []).append(at)
        self.early = self._trimmed_first() if trim_first else set()
        self.itself = self._card_itself()

    def steps(self) -> list[AssemblyStep] | None:
        """All of them in order; None if they cannot be had."""
        for piece in self.study.pieces:
            if not piece.filler:
                self._prepare(piece)
        fold = self._fold()
        self._out_of_scraps()
        for number in self.of_number:
            self._glue(number)
        self._under_each_other()
        self._pocket(fold)
        self._windows()
        self._bits()
        ordered = self.graph.in_order()
        itself = f"glue-{self.itself.number}" if self.itself else ""
        return [step for step in ordered if step.key != itself] if ordered is not None else None

    def _card_itself(self) -> CutPiece | None:
        """Of a tag or a bookmark without a fold the piece that is the card: it is glued to nothing."""
        folded = self.study.folded
        if self.study.base or folded is None or folded.fold != "none":
            return None
        lying = (each for each in self.placed if each.under is None and each.face.key not in ("around", "back"))
        whole = (each.piece for each in lying if (each.width, each.height) == (folded.width, folded.height))
        return next((piece for piece in whole if piece.count == 1), None)

    # what is done to pieces

    def _prepare(self, piece: CutPiece) -> None:
        works = handwork(piece, self.unit, self.study.known.tools, self.study.usual)
        before, on_the_card = "", False
        for number, work in enumerate(works):
            if piece is self.study.base and (work.what == FOLDING or work.what.startswith(SCORE)):
                continue
            # What dries last, and what is left for home, is done on the finished card, and so is what follows it.
            on_the_card = on_the_card or (not piece.loose and (work.last or work.when == HOME))
            key = f"{'after' if on_the_card else 'prepare'}-{piece.number}-{number}"
            rank = (
                (FINISH, 4 if work.when == HOME else 1.5, piece.number) if on_the_card else (_stage(work), piece.number)
            )
            self.graph.add(self._work(key, piece, work), (*rank, number))
            if before:
                self.graph.first(before, key)
            before = key
        if piece.loose:
            self._loose(piece, before)

    def _out_of_scraps(self) -> None:
        """What is done to a scrap is done before something is cut out of it."""
        for piece in self.study.pieces:
            for work in self._works_of(piece.out_of) if piece.out_of else ():
                for key in self._works_of(piece.number):
                    self.graph.first(work, key)

    def _work(self, key: str, piece: CutPiece, work: Work) -> AssemblyStep:
        dry = "; set it aside to dry" if work.first and _stage(work) == DRY else ""
        dry = "; then let the card lie flat to dry" if work.last and key.startswith("after") else dry
        return AssemblyStep(
            key=key,
            stage=FINISH if key.startswith("after") else _stage(work),
            what=f"{self.handle(piece)} {piece.name}: {self._work_words(piece, work)}{dry}",
            pieces=(piece.number,),
            tool=work.tool,
            when=work.when,
            by=work.by,
            seconds=work.seconds * piece.count,
            dries=work.dries,
        )

    def _work_words(self, piece: CutPiece, work: Work) -> str:
        scrap = next((each for each in self.study.pieces if each.number == piece.out_of), None)
        if scrap and work.what.startswith(BY_HAND):
            return f"cut it out of {self.handle(scrap)} {scrap.name}"
        return work.what.removesuffix(NO_TOOL)

    def _loose(self, piece: CutPiece, before: str) -> None:
        """What is handed out but not on the card; what is done with a scrap was said by its work."""
        if piece.loose == "scrap" and before:
            return
        last = piece.loose == "envelope"
        what = _LOOSE_WORDS.get(piece.loose, "{} is not glued on").format(self._named(piece))
        key = f"loose-{piece.number}"
        stage = FINISH if last else PREPARE
        self.graph.add(AssemblyStep(key=key, stage=stage, what=what, pieces=(piece.number,)), (stage, piece.number, 9))
        if before:
            self.graph.first(before, key)

    # the base

    def _fold(self) -> str:
        """Score, fold and burnish; everything that is glued comes after it."""
        base, folded = self.study.base, self.study.folded
        if base is None or folded is None or not base.score:
            return ""
        places, beforehand = self._places(base), self.study.usual.job(base, FOLDED)
        if beforehand.when == BEFORE:
            what = f"{self.handle(base)} {base.name}: scored and folded, {places}"
            ready = AssemblyStep(
                key="fold", stage=READY, what=what, pieces=(base.number,), when=BEFORE, by=beforehand.by
            )
            return self.graph.add(ready, (READY, 0, 1))
        works = handwork(base, self.unit, (), self.study.usual)
        score = next((work for work in works if work.what.startswith(SCORE)), None)
        if score and score.when != BEFORE:
            key = self.graph.add(
                AssemblyStep(
                    key="score",
                    stage=FOLD,
                    what=f"Score {self.handle(base)} {base.name}, inside up, {places}",
                    pieces=(base.number,),
                    when=score.when,
                    by=score.by,
                ),
                (FOLD, 0, 0),
            )
        else:
            key = ""
        lines = "score line" if _scores(base) == 1 else "score lines"
        fold = self.graph.add(
            AssemblyStep(key="fold", stage=FOLD, what=f"Fold {self._named(base)} along its {lines}, and burnish",
                         pieces=(base.number,)),
            (FOLD, 0, 1),
        )  # fmt: skip
        for other in (key, *self._works_of(base.number)):
            if other:
                self.graph.first(other, fold)
        return fold

    def _places(self, base: CutPiece) -> str:
        score = sure(base.score)
        at = " and ".join(show_length(place, self.unit) for place in score.places)
        words = f"at {at} {self.unit} from the {'left' if score.axis == 'x' else 'top'}"
        if score.cross:
            other = " and ".join(show_length(place, self.unit) for place in score.cross)
            words += f", and at {other} {self.unit} from the {'top' if score.axis == 'x' else 'left'}"
        return words

    def _works_of(self, number: int) -> list[str]:
        return [key for key in self.graph.steps if key.startswith(f"prepare-{number}-")]

    def _pocket(self, fold: str) -> None:
        """What lies under a pocket is glued before that is folded over."""
        folded = self.study.folded
        face = folded.faces.get("pocket") if folded else None
        base = self.study.base
        if folded is None or face is None or base is None:
            return
        end = {"bottom": "up", "top": "down", "left": "in from the left", "right": "in from the right"}
        step = AssemblyStep(
            key="pocket",
            stage=LAYER,
            what=f"Fold the pocket {end[folded.pocket_at]} and glue its two sides",
            pieces=(base.number,),
        )
        key = self.graph.add(step, (LAYER, 0.5, 0, 0))
        if fold:
            self.graph.first(fold, key)
        for at, each in enumerate(self.placed):
            if each.face.key == "pocket":
                self.graph.first(key, self._key(self._root(at)))
            elif each.face.closed == face.closed and each.face.key != "back" and _meets(_seen(each), _box_of(face)):
                self._before_it_comes(at, at)
                if each.face.key != "around" and not each.piece.place.over_fold:
                    self.graph.first(self._key(at), key)

    # layers

    def _glue(self, number: int) -> None:
        """The step in which all copies of a piece are glued on."""
        places = self.of_number[number]
        each = self.placed[places[0]]
        piece = each.piece
        around = each.face.key == "around" and each.under is None
        stage = BAND if each.face.key == "around" else RAISED if each.lift else LAYER
        face = 2 if not each.face.closed and each.face.key not in FACES else FACES.get(each.face.key, 0)
        trim = self._long_edges(piece)
        key = self.graph.add(
            AssemblyStep(
                key=f"glue-{number}",
                stage=stage,
                what=self._band_words(piece) if around else self._glue_words(each, places, trim),
                pieces=(number,),
                placed=tuple(places),
                trims=bool(trim),
                tool="knife" if trim else "",
            ),
            (stage, face, each.level, number),
        )
        for work in self._works_of(number):
            self.graph.first(work, key)
        if "fold" in self.graph.steps:
            self.graph.first("fold", key)
        elif self.study.base:
            for work in self._works_of(self.study.base.number):
                self.graph.first(work, key)
        for at in places:
            under = self.placed[at].under
            if under is not None:
                pair = self._key(under), key
                self.graph.first(*(pair[::-1] if number in self.early else pair))

    def _under_each_other(self) -> None:
        """Whatever lies under something else is glued before that comes over it."""
        for j, upper in enumerate(self.placed):
            for i in range(j):
                lower = self.placed[i]
                if lower.piece.number == upper.piece.number or i in self._chain(j) or j in self._chain(i):
                    continue
                if (lower.face.key == "pocket") != (upper.face.key == "pocket"):
                    # The pocket is folded over the one before the other is glued on it, whichever is written first.
                    continue
                if _one_view(lower, upper) and _meets(_seen(lower), _seen(upper)):
                    self._before_it_comes(i, j)

    def _before_it_comes(self, i: int, j: int) -> None:
        """``i`` is glued before the step that brings ``j`` over it: any of those after which ``j`` may be there."""
        if i == j:
            return
        common = set(self._chain(i))
        chain = [j]
        while (under := self.placed[chain[-1]].under) is not None and under not in common:
            chain.append(under)
        early = [self.placed[at].piece.number in self.early for at in chain]
        for place, at in enumerate(chain):
            after_the_one_before = place == 0 or early[place - 1]
            after_the_next = place == len(chain) - 1 or not early[place]
            if after_the_one_before and after_the_next:
                self.graph.first(self._key(i), self._key(at))

    def _chain(self, at: int) -> list[int]:
        """It, what it sits on, what that sits on…"""
        found = [at]
        while (under := self.placed[found[-1]].under) is not None:
            found.append(under)
        return found

    def _root(self, at: int) -> int:
        return self._chain(at)[-1]

    def _key(self, at: int) -> str:
        return f"glue-{self.placed[at].piece.number}"

    def _trimmed_first(self) -> set[int]:
        """Pieces that are glued to their layer before that is glued on: long ones, and what they lie over."""
        early = {
            each.piece.number
            for each in self.placed
            if each.under is not None and any(vars(each.piece.overhang).values())
        }
        for bit in self.bits:
            early |= self._finished(bit, bit.around or bit.through or self._hole_for(kind_of(bit.name)))
        # Copies that lie over each other are glued on in one step, so nothing can be on one of them before.
        late = {each.piece.number for each in self.placed if self._under_a_copy(each)}
        early -= late
        over = [(upper.piece.number, lower.piece.number) for lower, upper in self._over_each_other()]
        changed = True
        while changed:
            changed = False
            for upper, lower in over:
                if upper in early and lower not in early:
                    # What lies below comes first; where that has to wait, so has what lies over it.
                    (late if lower in late else early).add(upper if lower in late else lower)
                    early -= late
                    changed = True
        return early

    def _over_each_other(self) -> Iterator[tuple[Placed, Placed]]:
        """Pairs on one layer of which the second lies over the first."""
        for j, upper in enumerate(self.placed):
            for lower in self.placed[:j]:
                beside = lower.under == upper.under and lower.under is not None
                if beside and lower.piece.number != upper.piece.number and _meets(_seen(lower), _seen(upper)):
                    yield lower, upper

    def _under_a_copy(self, each: Placed) -> bool:
        """Whether another copy of what it sits on lies where it lies."""
        if each.under is None:
            return False
        copies = self.of_number[self.placed[each.under].piece.number]
        others = [self.placed[at] for at in copies if at != each.under]
        return any(_one_view(other, each) and _meets(_seen(other), _seen(each)) for other in others)

    # words

    def _named(self, piece: CutPiece) -> str:
        return f"{self.handle(piece)} {piece.name}"

    def handle(self, piece: CutPiece) -> str:
        """What it is called on piles and bags."""
        return f"{self.letter}{piece.number}"

    def _glue_words(self, each: Placed, places: list[int], trim: str) -> str:
        piece = each.piece
        hosts = dict.fromkeys(self._on(self.placed[at]) for at in places)
        on = " and ".join(hosts)
        many = f"the {len(places)} " if len(places) > 1 else ""
        where = place_words(piece, self.unit)
        anywhere = where or len(places) > 1 or piece.place.over_fold or on.endswith("the middle")
        middle = "" if anywhere else ", in the middle"
        how = f", {', '.join(where)}" if where else middle
        behind = next((each for each in self.study.pieces if f"#{each.number}" == piece.place.behind), None)
        how += f", behind {self._named(behind)}" if behind else ""
        if self._behind_window(places[0]):
            frame = self._named(self.placed[sure(self._behind_window(places[0]))].piece)
            return f"Turn {frame} over and glue {self._named(piece)} behind its hole"
        verb = "Lay" if piece.paper in self.study.papers and self.study.papers[piece.paper].clear else "Glue"
        side = ", side B up" if piece.side == "b" else ""
        if piece.raised:
            verb, how = "Stick", f" {self._foam(piece)}{how}"
        words = f"{verb} {many}{self.handle(piece)} {piece.name} on {on}{how}{side}"
        words += self._match_words(piece, places)
        if piece.place.over_fold:
            words = (
                f"Glue {self.handle(piece)} {piece.name} round the fold, half on the front and half on the back{side}"
            )
        return f"{words}; then turn over and trim flush: {trim}" if trim else words

    def _behind_window(self, at: int) -> int | None:
        """The window that a clear piece is right behind."""
        return next((k for k, each in enumerate(self.placed) if each.piece.window and self._pane_of(k) == at), None)

    def _foam(self, piece: CutPiece) -> str:
        bit = self._foam_name()
        high = "" if piece.raised == FOAM[self.unit] else f" {with_unit(piece.raised, self.unit)} high"
        return f"with {bit}{high} under its {piece.raised_at} side" if piece.raised_at else f"with {bit}{high} under it"

    def _on(self, each: Placed) -> str:
        if each.under is not None:
            host = self.placed[each.under].piece
            return f"{self.handle(host)} {host.name}"
        if self.itself and each.face.key != "back":
            return self._named(self.itself)
        name = each.face.name if each.face.key != "around" else "the band"
        return f"the {name}" if not name.startswith("the ") else name

    def _match_words(self, piece: CutPiece, places: list[int]) -> str:
        """Which copy of a matched piece goes where, so that the pattern runs on."""
        if not piece.match or len(places) < 2:
            return ""
        faces = [self.placed[at].face.name for at in places]
        way = "below each other, from the top" if piece.below else "beside each other, from the left"
        where = " and ".join(faces) if len(set(faces)) > 1 else "in that order"
        return f"; they were cut {way}: {where}"

    def _band_words(self, piece: CutPiece) -> str:
        seam = f", the seam at the {piece.seam}" if piece.seam else ""
        return (
            f"Wrap {self.handle(piece)} {piece.name} round the closed card and glue its ends to each other{seam}:"
            " it has to slide off"
        )

    def _long_edges(self, piece: CutPiece) -> str:
        edges = [
            f"{show_length(over, self.unit)} {self.unit} at the {side}"
            for side, over in vars(piece.overhang).items()
            if over
        ]
        return " and ".join(edges)

    # windows

    def _windows(self) -> None:
        """Film behind a hole, foam round it, what is filled in, then closing."""
        fillings = [number for number, bit in enumerate(self.bits) if kind_of(bit.name) == FILLING]
        for at, frame in enumerate(self.placed):
            pane = self._pane_of(at) if frame.piece.window else None
            if pane is None:
                continue
            close, film = self._key(at), self._key(pane)
            self.graph.first(film, close)
            if frame.piece.raised:
                self._close(frame, close, film, fillings)
                fillings = []

    def _pane_of(self, at: int) -> int | None:
        """The clear piece right behind a window; None if there is none."""
        frame = self.placed[at]
        for k in range(at - 1, -1, -1):
            other = self.placed[k]
            if _one_view(other, frame) and _meets(_seen(other), _hole(frame)):
                paper = self.study.papers.get(other.piece.paper)
                return k if paper and paper.clear and other.piece.number != frame.piece.number else None
        return None

    def _close(self, frame: Placed, close: str, film: str, fillings: list[int]) -> None:
        name, rank = f"{self.handle(frame.piece)} {frame.piece.name}", self.graph.rank[close]
        what = f"Put {self._foam_name()} round the hole of {name}, on its back, and along its edges"
        foam = AssemblyStep(key=f"foam-{frame.piece.number}", stage=RAISED, what=what, pieces=(frame.piece.number,))
        before = self.graph.add(foam, (*rank, 0))
        self.graph.rank[close] = (*rank, 2)
        self.graph.first(film, before)
        for number in fillings:
            what = f"Fill in {how_much(self.bits[number], self.unit)}"
            key = self.graph.add(AssemblyStep(key=f"bit-{number}", stage=RAISED, what=what), (*rank, 1, number))
            for other, later in self.graph.after.items():
                if close in later and other != key:
                    self.graph.first(other, key)
            self.graph.first(before, key)
            self.graph.first(key, close)
        self.graph.first(before, close)
        closing = self.graph.steps[close]
        words = closing.what.replace(f" {self._foam(frame.piece)}", "").replace("Stick ", "press ", 1)
        self.graph.steps[close] = replace(closing, what=f"Close it: {words}")

    def _foam_name(self) -> str:
        return next((bit.name for bit in self.bits if kind_of(bit.name) == FOAM_BIT), "foam")

    # bits

    def _bits(self) -> None:
        for number, bit in enumerate(self.bits):
            key, kind = f"bit-{number}", kind_of(bit.name)
            if key in self.graph.steps or kind in (FOAM_BIT, TOOL):
                continue
            target = bit.around or bit.through or self._hole_for(kind)
            piece = next((each for each in self.study.pieces if each.number == target), None)
            if piece and piece is not self.itself and f"glue-{target}" in self.graph.steps:
                self._round_or_through(key, number, bit, piece)
                continue
            words = self._about(piece, bit) if piece else added_words(bit, self.unit)
            last = {ENVELOPE: 3, BOX: 2, HOLDING: 0}.get(kind, 1)
            self.graph.add(AssemblyStep(key=key, stage=FINISH, what=words), (FINISH, last, number, 0))
            for other in list(self.graph.steps):
                if other.startswith(("glue-", "pocket", "fold")):
                    self.graph.first(other, key)
        if self.envelope_of:
            what = f"Slip the card into the envelope of {self.envelope_of}"
            self.graph.add(AssemblyStep(key="envelope", stage=FINISH, what=what), (FINISH, 3, len(self.bits), 0))
        for key in [key for key in self.graph.steps if key.startswith("after-") or key == "envelope"]:
            for other in list(self.graph.steps):
                if other.startswith(("glue-", "pocket", "fold", "foam-")):
                    self.graph.first(other, key)

    def _about(self, piece: CutPiece, bit: Bit) -> str:
        name = f"{self.handle(piece)} {piece.name}"
        return (
            f"Wind {how_much(bit, self.unit)} round {name} and tie it"
            if bit.around
            else through_words(bit, self.unit, name)
        )

    def _hole_for(self, kind: str) -> int:
        """The only piece with a small hole, which a thread goes through unsaid; 0 if there is none, or several."""
        holed = {
            piece.number
            for piece in self.study.pieces
            if kind == TIE and piece.window and max(piece.window.width, piece.window.height) <= LARGEST_PUNCHED
        }
        return holed.pop() if len(holed) == 1 else 0

    def _round_or_through(self, key: str, number: int, bit: Bit, piece: CutPiece) -> None:
        """Round or through a layer that has on it what is written above, before it is glued on itself."""
        rank = self.graph.rank[f"glue-{piece.number}"]
        step = AssemblyStep(key=key, stage=rank[0], what=self._about(piece, bit), pieces=(piece.number,))
        # Right before it is glued on.
        self.graph.add(step, (*rank[:3], piece.number - 0.5, number))
        self.graph.first(key, f"glue-{piece.number}")
        for work in self._works_of(piece.number):
            self.graph.first(work, key)
        for other in self._finished(bit, piece.number) & self.early:
            self.graph.first(f"glue-{other}", key)

    def _finished(self, bit: Bit, target: int) -> set[int]:
        """The pieces on a layer that are written above what goes round or through it."""
        hosts = set(self.of_number.get(target, ()))
        found = set()
        for at, each in enumerate(self.placed):
            if each.under in hosts and each.piece.number <= bit.after:
                hosts.add(at)
                found.add(each.piece.number)
        return found


# What is told of pieces that are handed out and not glued on.
_LOOSE_WORDS = {
    "scrap": "Have {} ready to cut out of by hand",
    "mask": "Have {} ready: it masks, and does not go on the card",
    "spare": "{} is to spare",
    "envelope": "Put {} into the envelope",
}


# Seconds a step takes, about, by how its key begins: common practice without a source, to plan an evening by.
_SECONDS = {"envelope": 40, "fold": 25, "score": 20, "glue": 45, "pocket": 60, "foam": 90, "bit": 40, "loose": 15}
_BAND_SECONDS = 90


def _seconds(step: AssemblyStep) -> int:
    kind = step.key.split("-")[0]
    if step.stage == BAND and step.what.startswith("Wrap"):
        return _BAND_SECONDS
    return _SECONDS.get(kind, 30) * max(1, len(step.placed)) + (TRIM_SECONDS if step.trims else 0)


def _scores(piece: CutPiece) -> int:
    return len(piece.score.places) + len(piece.score.cross) if piece.score else 0


def _stage(work: Work) -> int:
    return READY if work.when == BEFORE else DRY if work.first else PREPARE


def _box_of(face: Face) -> tuple[int, int, int, int]:
    return face.x, face.y, face.x + face.width, face.y + face.height


def _seen(each: Placed) -> tuple[int, int, int, int]:
    """The rectangle in which something of a piece is on the card."""
    return each.box if each.tilt else each.seen


def _hole(each: Placed) -> tuple[int, int, int, int]:
    """The rectangle round the hole of a piece."""
    hole = sure(each.piece.window)
    left, top = each.x + hole.x, each.y + hole.y
    return left, top, left + hole.width, top + hole.height


def _one_view(one: Placed, other: Placed) -> bool:
    """Whether two pieces lie on the same side of the card, so that one can cover the other."""
    return one.face.closed == other.face.closed and (one.face.key == "back") == (other.face.key == "back")


def _meets(box: tuple[int, int, int, int], other: tuple[int, int, int, int]) -> bool:
    return box[0] < other[2] and other[0] < box[2] and box[1] < other[3] and other[1] < box[3]


# What is needed for a kind of work, by how its words begin.
_NEEDED_FOR = {
    "stamp": "stamps and ink",
    "paint": "paint and a brush",
    "wash": "colour for the wash and a brush",
    "ink the edges": "an ink pad",
    "attach tape": "adhesive tape",
    "snip": "scissors",
}
# The same, by the tool that can hurt.
_NEEDED = {
    "knife": "craft knife, metal ruler and cutting mat",
    "rollers": "die-cutting machine",
    "punch": "punch",
    "heat": "heat tool on a heat-proof rest",
    "solvent": "inks or markers",
}


def supplies_for(steps: Iterable[AssemblyStep], bits: Iterable[Bit] = ()) -> list[str]:
    """What somebody who makes the card in class needs beside its pieces, in the order in which it is needed."""
    found: dict[str, None] = {}
    for step in steps:
        if step.stage == READY:
            continue
        found |= {needed: None for words, needed in _NEEDED_FOR.items() if f": {words}" in step.what}
        if step.key == "score":
            found["scoring board or tool"] = None
        if step.key == "fold":
            found["bone folder"] = None
        if step.tool:
            found[_NEEDED.get(step.tool, step.tool)] = None
        if step.key.startswith(("glue-", "pocket")):
            found["foam squares or tape" if step.what.startswith("Stick") else "glue"] = None
    names = [bit.name for bit in bits]
    if any(kind_of(name) == FOAM_BIT for name in names):
        found.pop("foam squares or tape", None)
    return [*found, *(name for name in names if kind_of(name) == TOOL)]
