"""The steps of a card as its designer has them: moved, joined, split, in her own words, or left out.

What she changed is kept with the design as words by key, beside her remarks to the steps, so that two windows merge it
as they merge those; keys that begin with ``=`` are of the order:

    =order      fold glue-2+glue-4 own-1 glue-3    + joins steps into one, own-1 is one of her own
    =left-out   prepare-3-0
    =names      2=Mat;3=Panel;4=Star               what pieces were called, for when their numbers change
    =say glue-2  her words in place of ours; by the first of those that are joined

Steps that came since are put in where they belong; those of pieces that are gone go with them.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from zester.core.kits.assembly import PREPARE, AssemblyStep
from zester.core.pieces import CutPiece

MARK, ORDER, LEFT_OUT, NAMES, SAY, OWN = "=", "=order", "=left-out", "=names", "=say ", "own-"
_OF_PIECE = re.compile(r"^(?P<kind>glue|foam|prepare|after|loose)-(?P<number>\d+)(?P<rest>(?:-\d+)?)$")
_KEY = re.compile(r"[a-z]+(?:-\d+){0,2}")
# As many steps of her own, and as many steps in all, as anybody has.
MOST_OWN, MOST_STEPS = 40, 400
OWN_SECONDS = 60


@dataclass(frozen=True)
class OwnSteps:
    """What a designer changed."""

    order: tuple[tuple[str, ...], ...] = ()
    """Her steps, each the keys that are joined in it; empty if she changed nothing of the order."""
    left_out: frozenset[str] = frozenset()
    """The keys of steps that are not told."""
    said: Mapping[str, str] | None = None
    """By the first key of a step her words for it."""


@dataclass(frozen=True)
class Arranged:
    """The steps in her order."""

    steps: tuple[AssemblyStep, ...]
    """In order; one that is joined of several has the key of the first."""
    joined: Mapping[str, tuple[str, ...]]
    """By that key all that is joined in it."""
    left_out: tuple[AssemblyStep, ...]
    """What is not told."""
    against: tuple[str, ...]
    """Where her order contradicts what lies on what, in words."""


def read_own(told: Mapping[str, str], pieces: Sequence[CutPiece]) -> OwnSteps:
    """What she changed, as it is kept; pieces whose number is another now are found by their names."""
    now = _numbers_now(told.get(NAMES, ""), pieces)
    groups = (tuple(_renumbered(key, now) for key in group.split("+")) for group in told.get(ORDER, "").split())
    order = tuple(tuple(filter(None, group)) for group in groups)
    said = {_renumbered(key.removeprefix(SAY), now): words for key, words in told.items() if key.startswith(SAY)}
    left_out = frozenset(filter(None, (_renumbered(key, now) for key in told.get(LEFT_OUT, "").split())))
    return OwnSteps(tuple(filter(None, order)), left_out, {key: words for key, words in said.items() if key and words})


def written(own: OwnSteps, pieces: Iterable[CutPiece]) -> dict[str, str]:
    """The same as it is kept; empty words where nothing is changed."""
    found = {
        ORDER: " ".join("+".join(group) for group in own.order),
        LEFT_OUT: " ".join(sorted(own.left_out)),
        NAMES: ";".join(f"{piece.number}={piece.name.replace(';', ' ')}" for piece in pieces),
    }
    if not (own.order or own.left_out or own.said):
        found[NAMES] = ""
    return found | {f"{SAY}{key}": words for key, words in (own.said or {}).items()}


def is_key(text: str) -> bool:
    """Whether it can be the key of a step."""
    return len(text) <= 40 and _KEY.fullmatch(text) is not None


def _numbers_now(names: str, pieces: Sequence[CutPiece]) -> dict[int, int]:
    """By the number a piece had then the one it has now; without those that are gone."""
    then = dict[int, str]()
    for part in names.split(";"):
        written_number, sign, name = part.partition("=")
        if sign and written_number.isascii() and written_number.isdecimal() and len(written_number) < 6:
            then[int(written_number)] = name
    now = dict[int, int]()
    for number, name in then.items():
        alike = [piece.number for piece in pieces if piece.name.replace(";", " ") == name]
        if number in alike or len(alike) == 1:
            now[number] = number if number in alike else alike[0]
        elif not alike:
            # A piece that is only called otherwise keeps its number, unless another has it that was here before.
            here = next((piece for piece in pieces if piece.number == number), None)
            if here and here.name not in then.values():
                now[number] = number
    return now


def _renumbered(key: str, now: Mapping[int, int]) -> str:
    found = _OF_PIECE.match(key)
    if not found:
        return key if is_key(key) else ""
    number = now.get(int(found["number"])) if now else int(found["number"])
    return f"{found['kind']}-{number}{found['rest']}" if number else ""


def arranged(steps: Sequence[AssemblyStep], rules: Iterable[tuple[str, str]], own: OwnSteps) -> Arranged:
    """The steps in her order, with what contradicts the rules.

    Parameters
    ----------
    steps
        In the order in which they were worked out.
    rules
        Pairs of keys, of which the first has to be done before the second.
    own
        What she changed.
    """
    by_key = {step.key: step for step in steps}
    told = [step for step in steps if step.key not in own.left_out]
    groups = _in_her_order(told, own)
    place = {key: at for at, group in enumerate(groups) for key in group}
    against = []
    for first, later in rules:
        if first in place and later in place and place[first] > place[later]:
            against.append(
                f"“{_short(by_key[later])}” stands before “{_short(by_key[first])}”, which has to be done first"
            )
    return Arranged(
        steps=tuple(_as_one(group, by_key, own) for group in groups),
        joined={group[0]: group for group in groups if len(group) > 1},
        left_out=tuple(step for step in steps if step.key in own.left_out),
        against=tuple(dict.fromkeys(against)),
    )


def _in_her_order(told: Sequence[AssemblyStep], own: OwnSteps) -> list[tuple[str, ...]]:
    """Groups of keys: hers as far as they are there, others where they belong by the order that was worked out."""
    there = {step.key for step in told}
    said = own.said or {}
    groups = []
    for group in own.order:
        keys = tuple(key for key in group if key in there or (key.startswith(OWN) and said.get(key)))
        if keys:
            groups.append(keys)
    known = {key for group in groups for key in group}
    before = ""
    for step in told:
        if step.key not in known:
            at = next((at for at, group in enumerate(groups) if before in group), -1)
            groups.insert(at + 1, (step.key,))
            known.add(step.key)
        before = step.key
    return groups


def _as_one(group: tuple[str, ...], by_key: Mapping[str, AssemblyStep], own: OwnSteps) -> AssemblyStep:
    said = (own.said or {}).get(group[0], "")
    parts = [by_key[key] for key in group if key in by_key]
    if not parts:
        return AssemblyStep(key=group[0], stage=PREPARE, what=said, seconds=OWN_SECONDS)
    words = [(own.said or {}).get(key) or by_key[key].what for key in group if key in by_key or key in (own.said or {})]
    return replace(
        parts[0],
        what=". ".join(each.rstrip(". ") for each in words),
        pieces=tuple(dict.fromkeys(number for part in parts for number in part.pieces)),
        placed=tuple(dict.fromkeys(at for part in parts for at in part.placed)),
        trims=any(part.trims for part in parts),
        tool=next((part.tool for part in parts if part.tool), ""),
        seconds=sum(part.seconds for part in parts),
        dries=max(part.dries for part in parts),
    )


def _short(step: AssemblyStep) -> str:
    """The words up to where they go into detail."""
    return re.split(r"[,;]", step.what)[0]
