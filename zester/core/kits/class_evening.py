"""The evening of a class over all its cards: what dries first, then the cards in turn, what dries lying flat last.

    wash A3, wash B2      all that has to dry, on all cards, set aside
    fold A1, B1, C1       what is the same on every card, told once
    card C, card A …      a card whose pieces still dry waits while others go on
    paint C4              last, then lying flat

Minutes are for one participant, who makes so many of each card; what a line says of them counts before what is usual.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from zester.core.cutting.evening import minutes_in_words
from zester.core.kits.assembly import DRY, READY, AssemblyStep
from zester.core.pieces import HOME

DRYING, ALIKE, CARD, WAITING, FLAT = "dries", "alike", "card", "waiting", "flat"
# Steps that are told once for all cards, by how their key begins, with what is said of them.
_ALIKE = {"score": "Score, inside up", "fold": "Fold along the score lines and burnish"}
MOST_IDEAS = 3


@dataclass(frozen=True, kw_only=True)
class CardSteps:
    """A card of the class, as a participant makes it."""

    letter: str
    """Its letter."""
    name: str
    """What it is called."""
    each: int
    """How many of it a participant makes."""
    steps: tuple[AssemblyStep, ...]
    """Its steps, in order."""


@dataclass(frozen=True, kw_only=True)
class EveningStep:
    """A step of the evening."""

    letter: str
    """Of which card; empty if it is of several."""
    step: AssemblyStep
    """What is done."""
    seconds: int
    """How long it takes a participant, for all copies of the card."""


@dataclass(frozen=True, kw_only=True)
class Part:
    """A part of the evening."""

    kind: str
    """``dries``, ``alike``, ``card``, ``waiting`` or ``flat``."""
    title: str
    """What it is called."""
    letter: str = ""
    """Of a card its letter."""
    steps: tuple[EveningStep, ...] = ()
    """What is done, in order."""
    wait: int = 0
    """Of waiting how long, seconds."""
    begins: int = 0
    """When it begins, seconds after the class."""

    @property
    def seconds(self) -> int:
        """How long it takes."""
        return self.wait or sum(each.seconds for each in self.steps)

    @property
    def minutes(self) -> int:
        """The same in whole minutes."""
        return -(-self.seconds // 60)


@dataclass(frozen=True)
class ClassEvening:
    """The evening."""

    parts: tuple[Part, ...]
    """In order."""
    at_home: tuple[EveningStep, ...]
    """What is left for home."""

    @property
    def minutes(self) -> int:
        """How long it takes, as the sum of what is shown."""
        return sum(part.minutes for part in self.parts)


def evening_of(cards: Sequence[CardSteps]) -> ClassEvening:
    """The order of work for the participants."""
    told = [
        EveningStep(letter=card.letter, step=step, seconds=step.seconds * card.each)
        for card in cards
        for step in card.steps
        if step.stage != READY
    ]
    home = tuple(each for each in told if each.step.when == HOME)
    told = [each for each in told if each.step.when != HOME]
    parts: list[Part] = []
    dry = tuple(each for each in told if each.step.stage == DRY)
    if dry:
        parts.append(Part(kind=DRYING, title="First, as it has to dry", steps=dry))
    alike = _alike(told, len(cards))
    if alike:
        parts.append(Part(kind=ALIKE, title="The same for several cards", steps=alike))
    flat = tuple(each for each in told if each.step.dries and each.step.stage != DRY)
    gone = {id(each) for each in (*dry, *flat)} | {id(each) for each in told if _kind(each) in _kinds(alike)}
    left = {card.letter: [e for e in told if e.letter == card.letter and id(e) not in gone] for card in cards}
    parts += _in_turn([card for card in cards if left[card.letter]], left, _dry_at(dry), _ends(parts))
    if flat:
        parts.append(Part(kind=FLAT, title="Last, then the cards lie flat to dry", steps=flat))
    return ClassEvening(tuple(_timed(parts)), home)


def _kind(each: EveningStep) -> str:
    return each.step.key.split("-")[0]


def _kinds(alike: Sequence[EveningStep]) -> set[str]:
    return {_kind(each) for each in alike}


def _alike(told: Sequence[EveningStep], cards: int) -> tuple[EveningStep, ...]:
    """Scoring and folding of several cards, each told once, unless a designer has words of her own for one."""
    found = []
    for kind, words in _ALIKE.items() if cards > 1 else ():
        mine = [each for each in told if _kind(each) == kind]
        verb = words.split(" ")[0].rstrip(",")
        ours = all(each.step.what.startswith(verb) and len(each.step.pieces) == 1 for each in mine)
        if len(mine) > 1 and ours:
            names = ", ".join(f"{each.letter}{each.step.pieces[0]}" for each in mine)
            step = replace(mine[0].step, what=f"{words}: {names}", pieces=())
            found.append(EveningStep(letter="", step=step, seconds=sum(each.seconds for each in mine)))
    return tuple(found)


def _dry_at(dry: Sequence[EveningStep]) -> dict[str, int]:
    """By letter when the last of a card's pieces is dry, seconds after the class begins."""
    found: dict[str, int] = {}
    now = 0
    for each in dry:
        now += each.seconds
        found[each.letter] = max(found.get(each.letter, 0), now + 60 * each.step.dries)
    return found


def _ends(parts: Sequence[Part]) -> int:
    return sum(60 * part.minutes for part in parts)


def _in_turn(
    cards: Sequence[CardSteps], left: dict[str, list[EveningStep]], dry_at: dict[str, int], now: int
) -> list[Part]:
    """The cards in their order, but those that still dry after others; waiting where nothing else can be done."""
    parts, waiting = [], list(cards)
    while waiting:
        card = next((card for card in waiting if dry_at.get(card.letter, 0) <= now), None)
        if card is None:
            card = min(waiting, key=lambda each: dry_at[each.letter])
            wait = dry_at[card.letter] - now
            parts.append(Part(kind=WAITING, title=f"Until {card.letter} is dry", letter=card.letter, wait=wait))
            now += 60 * parts[-1].minutes
        many = f", {card.each} of it" if card.each > 1 else ""
        title = f"{card.letter} · {card.name}{many}"
        parts.append(Part(kind=CARD, title=title, letter=card.letter, steps=tuple(left[card.letter])))
        now += 60 * parts[-1].minutes
        waiting.remove(card)
    return parts


def _timed(parts: Sequence[Part]) -> list[Part]:
    found, now = [], 0
    for part in parts:
        found.append(replace(part, begins=now))
        now += 60 * part.minutes
    return found


def against_length(evening: ClassEvening, minutes: int) -> str:
    """How long it takes against the length of the class; where it is too long, what could be done beforehand."""
    words = f"The class lasts {minutes_in_words(minutes)}; this takes about {minutes_in_words(evening.minutes)}"
    over = evening.minutes - minutes
    if over <= 0:
        return f"{words}."
    return f"{words}. {' '.join(ideas(evening, over)) or 'Fewer cards, or another evening.'}"


def ideas(evening: ClassEvening, over: int) -> list[str]:
    """What would save most if it were done beforehand, until so many minutes are saved or there is no more."""
    waits = {part.letter: part.minutes for part in evening.parts if part.kind == WAITING}
    found = []
    for part in evening.parts:
        for each in part.steps:
            if each.step.key.startswith("prepare") and each.letter:
                saved = -(-each.seconds // 60) + (waits.get(each.letter, 0) if each.step.dries else 0)
                found.append(
                    (
                        saved,
                        f"“{each.step.what.split(';')[0]}” could be done beforehand: {minutes_in_words(saved)} less.",
                    )
                )
    said, saved_in_all = [], 0
    for saved, words in sorted(found, key=lambda each: -each[0])[:MOST_IDEAS]:
        if saved_in_all >= over:
            break
        said.append(words)
        saved_in_all += saved
    return said
