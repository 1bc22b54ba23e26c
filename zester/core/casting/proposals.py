"""Castings worth a look: what is wished is weighed, what must be is kept, her own marks win.

Every rule of ``casting.faults`` holds in each proposal. Of castings that keep them that with the most points is best:

    for every card two letters meet on   busy beside busy -3, calm beside busy +2, a colour shared +2,
                                         one pattern twice -8; her marks: together +40, never together -40
    for every pattern that is used       +1

Where there are few enough castings all are tried, otherwise they are bettered step by step from many starts: one letter
another sheet, one turned over, two swapped (local search). The same seed gives the same.
"""

from __future__ import annotations

import random
import time
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import astuple, dataclass, replace
from itertools import combinations, product

from zester.core.casting.casting import Casting, Face, Slot, Stage, faults, locked_letters

BUSY_BUSY, CALM_BUSY, COLOUR, TWICE, USED, MARK = -3, 2, 2, -8, 1, 40
# Colours are one colour where each of red, green and blue differs by no more than this.
NEAR = 48
# So many castings are all tried; beyond that they are bettered from starts.
FEW = 60_000
STARTS = 40
SECONDS = 2.0
# Proposals differ from each other in at least so many letters.
APART = 2

State = tuple[str, bool]


@dataclass(frozen=True)
class Marks:
    """What she always or never wants on one card: pairs of papers' keys."""

    together: frozenset[frozenset[str]] = frozenset()
    """Pairs that always go together."""
    never: frozenset[frozenset[str]] = frozenset()
    """Pairs that never do."""


NO_MARKS = Marks()


@dataclass(frozen=True)
class Proposal:
    """A casting with what it is worth."""

    casting: Casting
    """Which paper goes where."""
    points: int
    """By the weights above."""
    why: tuple[str, ...]
    """What speaks for it and against it, in words."""


@dataclass(frozen=True)
class Weighed:
    """What a casting is worth."""

    points: int
    """By the weights above."""
    why: tuple[str, ...]
    """In words."""


def weigh(stage: Stage, casting: Casting, marks: Marks) -> Weighed:
    """The points of a casting as it stands, and what they come from."""
    sheets = stage.sheets
    counted: dict[str, int] = {}
    points = 0
    for one, other in _pairs(stage.slots, casting):
        first, second = casting.letters.get(one.letter), casting.letters.get(other.letter)
        if not first or not second or first not in sheets or second not in sheets:
            continue
        faces = sheets[first].face(casting.side(one)), sheets[second].face(casting.side(other))
        for words, worth in _beside(first, second, faces, marks):
            counted[words] = counted.get(words, 0) + 1
            points += worth
    used = len({paper for paper in casting.letters.values() if paper in sheets})
    points += USED * used
    why = (f"{words}: {_cards(number)}" for words, number in counted.items())
    return Weighed(points, (*why, f"{used} of {len(sheets)} patterns are used"))


def _cards(number: int) -> str:
    return "once" if number == 1 else f"{number} times"


def _pairs(slots: Sequence[Slot], casting: Casting) -> Iterator[tuple[Slot, Slot]]:
    """For every card every two of its letters, the first piece of each; pieces of something else meet nothing."""
    cards: dict[int, dict[str, Slot]] = {}
    for slot in slots:
        if slot.handle not in casting.instead:
            cards.setdefault(slot.number, {}).setdefault(slot.letter, slot)
    for mine in cards.values():
        yield from combinations((mine[letter] for letter in sorted(mine)), 2)


def _beside(one: str, other: str, faces: tuple[Face | None, Face | None], marks: Marks) -> Iterator[tuple[str, int]]:
    """What two papers beside each other come to."""
    pair = frozenset((one, other))
    if pair in marks.together:
        yield "together, as you marked them", MARK
    if pair in marks.never:
        yield "together, though you never want that", -MARK
    if one == other:
        yield "one pattern twice on a card", TWICE
        return
    first, second = faces
    if first is None or second is None:
        return
    if first.busy and second.busy:
        yield "busy beside busy", BUSY_BUSY
    elif None not in (first.busy, second.busy) and first.busy != second.busy:
        yield "calm beside busy", CALM_BUSY
    if any(_near(mine, theirs) for mine in first.colours for theirs in second.colours):
        yield "a colour shared", COLOUR


def _near(one: str, other: str) -> bool:
    return all(abs(int(one[k : k + 2], 16) - int(other[k : k + 2], 16)) <= NEAR for k in (1, 3, 5))


class _Search:
    """The castings of a class that keep the rules, by letter and state (paper, turned over)."""

    def __init__(self, stage: Stage, casting: Casting, marks: Marks):
        self.stage, self.casting, self.marks, self.sheets = stage, casting, marks, stage.sheets
        # Without a guide the fitting says how many sheets it takes.
        self.sets = stage.sets if stage.guide else 0
        self.letters = stage.letters
        fixed = locked_letters(casting, stage.slots)
        self.states = [self._states(letter, letter in fixed) for letter in self.letters]
        index = {letter: at for at, letter in enumerate(self.letters)}
        self.meets: dict[tuple[int, int], list[tuple[Slot, Slot]]] = {}
        for one, other in _pairs(stage.slots, casting):
            self.meets.setdefault((index[one.letter], index[other.letter]), []).append((one, other))
        self._worth: dict[tuple[int, int, State, State], int] = {}

    def _states(self, letter: str, fixed: bool) -> list[State]:
        """What a letter may be: by itself it breaks no rule."""
        now = self.casting.letters.get(letter, ""), letter in self.casting.over
        if fixed and now[0]:
            return [now]
        found, alone = [], replace(self.stage, sets=0)
        for key, sheet in self.sheets.items():
            for over in (False, True) if sheet.b else (letter in self.casting.over,):
                if not faults(alone, self._casting({letter: (key, over)})):
                    found.append((key, over))
        return found

    def _casting(self, states: Mapping[str, State]) -> Casting:
        """The casting at hand with these letters."""
        turned = {letter for letter, (_, over) in states.items() if over}
        over = frozenset((self.casting.over - states.keys()) | turned)
        return replace(self.casting, letters={letter: key for letter, (key, _) in states.items()}, over=over)

    def full(self, chosen: Sequence[State]) -> Casting:
        """The casting with a state for every letter."""
        return self._casting(dict(zip(self.letters, chosen, strict=True)))

    def can_be(self, chosen: Sequence[State]) -> bool:
        """Whether there are sheets enough."""
        used: dict[str, int] = {}
        for key, _ in chosen:
            used[key] = used.get(key, 0) + self.sets
        there = {key: sheet.free for key in used if (sheet := self.sheets.get(key)) and sheet.free is not None}
        return all(used[key] <= count for key, count in there.items())

    def points(self, chosen: Sequence[State]) -> int:
        """What it is worth."""
        total = USED * len({key for key, _ in chosen if key in self.sheets})
        return total + sum(self._pair(one, other, chosen[one], chosen[other]) for one, other in self.meets)

    def _pair(self, one: int, other: int, mine: State, theirs: State) -> int:
        key = one, other, mine, theirs
        if key not in self._worth:
            casting = self._casting({self.letters[one]: mine, self.letters[other]: theirs})
            self._worth[key] = sum(
                worth
                for first, second in self.meets[one, other]
                if mine[0] in self.sheets and theirs[0] in self.sheets
                for _, worth in _beside(
                    mine[0],
                    theirs[0],
                    (
                        self.sheets[mine[0]].face(casting.side(first)),
                        self.sheets[theirs[0]].face(casting.side(second)),
                    ),
                    self.marks,
                )
            )
        return self._worth[key]

    @property
    def number(self) -> int:
        """How many castings there are, rules of single letters kept."""
        total = 1
        for states in self.states:
            total *= len(states)
        return total

    def all(self) -> dict[tuple[State, ...], int]:
        """Every casting that can be, with its points."""
        return {chosen: self.points(chosen) for chosen in product(*self.states) if self.can_be(chosen)}

    def some(self, seconds: float, seed: int) -> dict[tuple[State, ...], int]:
        """Good ones, bettered from many starts."""
        chance, end = random.Random(seed), time.monotonic() + seconds
        found: dict[tuple[State, ...], int] = {}
        for _ in range(STARTS):
            chosen = self._start(chance)
            if chosen is None or time.monotonic() > end:
                break
            self._better(chosen, found, end)
        return found

    def _start(self, chance: random.Random) -> list[State] | None:
        for _ in range(200):
            chosen = [chance.choice(states) for states in self.states]
            if self.can_be(chosen):
                return chosen
        return None

    def _better(self, chosen: list[State], found: dict[tuple[State, ...], int], end: float) -> None:
        """Step by step, always the best step, until none helps; every casting on the way is kept."""
        points = self.points(chosen)
        while time.monotonic() < end:
            found[tuple(chosen)] = points
            steps = [(self.points(step), step) for step in self._steps(chosen) if self.can_be(step)]
            best = max(steps, key=lambda each: each[0], default=(points, chosen))
            if best[0] <= points:
                return
            points, chosen = best

    def _steps(self, chosen: list[State]) -> Iterator[list[State]]:
        for at, states in enumerate(self.states):
            for state in states:
                if state != chosen[at]:
                    yield [*chosen[:at], state, *chosen[at + 1 :]]
        for one, other in combinations(range(len(chosen)), 2):
            if chosen[other] in self.states[one] and chosen[one] in self.states[other]:
                step = list(chosen)
                step[one], step[other] = chosen[other], chosen[one]
                yield step


def proposals(
    stage: Stage,
    casting: Casting,
    marks: Marks = NO_MARKS,
    *,
    most: int = 6,
    seconds: float = SECONDS,
    seed: int = 0,
) -> list[Proposal]:
    """Up to ``most`` castings that keep every rule, the one with the most points first, different from one another.

    What is locked stays; pieces of something else, and pieces turned over by themselves, stay as they are.
    """
    search = _Search(stage, casting, marks)
    if not search.letters or not search.number:
        return []
    found = search.all() if search.number <= FEW else search.some(seconds, seed)
    ranked = sorted(found.items(), key=lambda item: (-item[1], item[0]))
    out: list[tuple[State, ...]] = []
    for chosen, _ in ranked:
        if all(_differ(chosen, other) >= min(APART, len(search.letters)) for other in out):
            out.append(chosen)
        if len(out) == most:
            break
    castings = [search.full(chosen) for chosen in out]
    return [Proposal(each, *astuple(weigh(stage, each, marks))) for each in castings]


def _differ(one: Iterable[State], other: Iterable[State]) -> int:
    return sum(mine != theirs for mine, theirs in zip(one, other, strict=True))
