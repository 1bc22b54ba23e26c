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
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

from zester.core.cards.layers import Placed
from zester.core.cards.study import Study
from zester.core.cards.words import place_words
from zester.core.care import LOOSE
from zester.core.cutting.handwork import FOLDING, NO_TOOL, Work, handwork
from zester.core.errors import sure
from zester.core.folds import Face
from zester.core.lengths import show_length, with_unit
from zester.core.pieces import BEFORE, BY_HAND, FOAM, FOLDED, SCORE, Bit, CutPiece

READY, DRY, PREPARE, FOLD, LAYER, RAISED, BAND, FINISH = range(8)
# What comes first where the rules leave a choice.
FACES = {"front": 0, "left door": 0, "right door": 0, "pocket": 1, "back": 3, "around": 4}
TIES = ("thread", "ribbon", "twine", "cord", "rope", "string", "lace")


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


def assembly_of(study: Study, bits: Sequence[Bit] = (), letter: str = "") -> list[AssemblyStep]:
    """The steps of one version of a card, what was done beforehand first.

    Parameters
    ----------
    study
        The card.
    bits
        What else it takes.
    letter
        Its letter, which stands before the numbers of its pieces.
    """
    # Trimming first is a wish where layers are woven into each other so that it cannot be had.
    return _Assembly(study, bits, letter, trim_first=True).steps() or _Assembly(study, bits, letter).steps() or []


class _Assembly:
    def __init__(self, study: Study, bits: Sequence[Bit], letter: str, *, trim_first: bool = False):
        self.study, self.bits, self.letter = study, bits, letter
        self.placed, self.unit = study.placed, study.unit
        self.graph = _Graph()
        self.of_number: dict[int, list[int]] = {}
        for at, each in enumerate(self.placed):
            self.of_number.setdefault(each.piece.number, []).append(at)
        self.early = self._trimmed_first() if trim_first else set()

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
        self._bits()
        return self.graph.in_order()

    # what is done to pieces

    def _prepare(self, piece: CutPiece) -> None:
        works = handwork(piece, self.unit, self.study.known.tools, self.study.usual)
        before = ""
        for number, work in enumerate(works):
            if piece is self.study.base and (work.what == FOLDING or work.what.startswith(SCORE)):
                continue
            key = f"prepare-{piece.number}-{number}"
            self.graph.add(self._work(key, piece, work), (_stage(work), piece.number, number))
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
        return AssemblyStep(
            key=key,
            stage=_stage(work),
            what=f"{self.handle(piece)} {piece.name}: {self._work_words(piece, work)}{dry}",
            pieces=(piece.number,),
            tool=work.tool,
            when=work.when,
            by=work.by,
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
        what = f"{self.handle(piece)} {piece.name}: {LOOSE.get(piece.loose, piece.loose)}"
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
        lines = "line" if _scores(base) == 1 else "lines"
        said = f"along the score {lines}" if key else f"along the {lines} scored beforehand, {places}"
        fold = self.graph.add(
            AssemblyStep(key="fold", stage=FOLD, what=f"Fold {self.handle(base)} {base.name} {said}, and burnish",
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
        # Copies that lie over each other are glued on in one step, so nothing can be on one of them before.
        early -= {each.piece.number for each in self.placed if self._under_a_copy(each)}
        grown = True
        while grown:
            grown = False
            for j, upper in enumerate(self.placed):
                for i in range(j):
                    lower = self.placed[i]
                    beside = lower.under == upper.under and lower.under is not None
                    new = upper.piece.number in early and lower.piece.number not in early
                    if beside and new and _meets(_seen(lower), _seen(upper)):
                        early.add(lower.piece.number)
                        grown = True
        return early

    def _under_a_copy(self, each: Placed) -> bool:
        """Whether another copy of what it sits on lies where it lies."""
        if each.under is None:
            return False
        copies = self.of_number[self.placed[each.under].piece.number]
        others = [self.placed[at] for at in copies if at != each.under]
        return any(_one_view(other, each) and _meets(_seen(other), _seen(each)) for other in others)

    # words

    def handle(self, piece: CutPiece) -> str:
        """What it is called on piles and bags."""
        return f"{self.letter}{piece.number}"

    def _glue_words(self, each: Placed, places: list[int], trim: str) -> str:
        piece = each.piece
        hosts = dict.fromkeys(self._on(self.placed[at]) for at in places)
        on = " and ".join(hosts)
        many = f"the {len(places)} " if len(places) > 1 else ""
        where = place_words(piece, self.unit)
        middle = "" if where or len(places) > 1 or piece.place.over_fold else ", in the middle"
        how = f", {', '.join(where)}" if where else middle
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

    def _foam(self, piece: CutPiece) -> str:
        bit = next((bit.name for bit in self.bits if "foam" in bit.name.casefold()), "foam")
        high = "" if piece.raised == FOAM else f" {with_unit(piece.raised, self.unit)} high"
        return f"with {bit}{high} under it"

    def _on(self, each: Placed) -> str:
        if each.under is not None:
            host = self.placed[each.under].piece
            return f"{self.handle(host)} {host.name}"
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

    # bits

    def _bits(self) -> None:
        for number, bit in enumerate(self.bits):
            name = bit.name.casefold()
            much = f"{with_unit(bit.length, self.unit)} of {bit.name}" if bit.length else f"{bit.count} {bit.name}"
            key = f"bit-{number}"
            if bit.around and bit.around in self.of_number:
                piece = self.placed[self.of_number[bit.around][0]].piece
                words = f"Wind {much} round {self.handle(piece)} {piece.name} and tie it"
                self.graph.add(
                    AssemblyStep(key=key, stage=LAYER, what=words, pieces=(bit.around,)), (LAYER, -1, 0, number)
                )
                self.graph.first(key, f"glue-{bit.around}")
                continue
            if "foam" in name:
                continue
            last = 2 if "envelope" in name else 1 if "bag" in name else 0
            words = f"Slip the card into its {bit.name.removesuffix('s')}" if last else self._bit_words(name, much)
            self.graph.add(AssemblyStep(key=key, stage=FINISH, what=words), (FINISH, last, number, 0))
            for other in list(self.graph.steps):
                if other.startswith(("glue-", "pocket", "fold")):
                    self.graph.first(other, key)

    def _bit_words(self, name: str, much: str) -> str:
        return f"Tie on {much}" if any(tie in name for tie in TIES) else f"Add {much}"


def _scores(piece: CutPiece) -> int:
    return len(piece.score.places) + len(piece.score.cross) if piece.score else 0


def _stage(work: Work) -> int:
    return READY if work.when == BEFORE else DRY if work.first else PREPARE


def _box_of(face: Face) -> tuple[int, int, int, int]:
    return face.x, face.y, face.x + face.width, face.y + face.height


def _seen(each: Placed) -> tuple[int, int, int, int]:
    """The rectangle in which something of a piece is on the card."""
    return each.box if each.tilt else each.seen


def _one_view(one: Placed, other: Placed) -> bool:
    """Whether two pieces lie on the same side of the card, so that one can cover the other."""
    return one.face.closed == other.face.closed and (one.face.key == "back") == (other.face.key == "back")


def _meets(box: tuple[int, int, int, int], other: tuple[int, int, int, int]) -> bool:
    return box[0] < other[2] and other[0] < box[2] and box[1] < other[3] and other[1] < box[3]


# What is needed for a kind of work, by the tool that can hurt.
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
        if ": stamp" in step.what:
            found["stamps and ink"] = None
        if step.key == "score":
            found["scoring board or tool"] = None
        if step.key == "fold":
            found["bone folder"] = None
        if step.tool:
            found[_NEEDED.get(step.tool, step.tool)] = None
        if step.key.startswith(("glue-", "pocket")):
            found["foam squares or tape" if step.what.startswith("Stick") else "glue"] = None
    names = [bit.name for bit in bits]
    if any("foam" in name.casefold() for name in names):
        found.pop("foam squares or tape", None)
    return list(found)
