"""What a participant has of a class: its cards, in her versions, and the papers she cuts herself, by what she ordered.

The page that everybody opens names nobody: who looks at it says which of the offers is hers.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zester.bags.evenings import card_steps_of
from zester.bags.handouts import names_in, told
from zester.classes.services import CountedClass
from zester.core.fitting.jobs.job import AT_HOME
from zester.core.kits.assembly import AssemblyStep
from zester.core.kits.class_evening import EveningStep
from zester.core.kits.demand import letters_of
from zester.core.kits.offers import Offer


@dataclass(frozen=True, kw_only=True)
class OwnWay:
    """What comes with one of the offers of a class."""

    key: str
    """The offer's key."""
    name: str
    """What the offer is called; without the name of anybody who takes part."""
    letters: frozenset[str]
    """The letters of its cards."""
    at_home: frozenset[str]
    """The keys of the papers that are cut at home."""
    lacks: frozenset[str]
    """The keys of those that do not come with it."""


def own_ways(counted: CountedClass) -> list[OwnWay]:
    """What comes with each offer; nothing where there are not several, as everybody has the same then."""
    offers, names = counted.needs.offers, names_in(counted)
    called = [told(offer.name, names) or f"kit {number}" for number, offer in enumerate(offers, 1)]
    return [_own(counted, *each) for each in zip(offers, called, strict=True)] if len(offers) > 1 else []


def _own(counted: CountedClass, offer: Offer, name: str) -> OwnWay:
    needs = counted.needs
    pools = {paper: offer.pool_of(paper, kind, needs.pools) for paper, kind in needs.kinds.items()}
    return OwnWay(
        key=offer.key,
        name=name,
        letters=letters_of(offer, needs),
        at_home=frozenset(paper for paper, pool in pools.items() if pool in AT_HOME),
        lacks=frozenset(paper for paper, pool in pools.items() if pool == "none"),
    )


def own_way(counted: CountedClass, key: str) -> OwnWay | None:
    """That one; None for everything."""
    return next((each for each in own_ways(counted) if each.key == key), None)


def own_steps(counted: CountedClass, shown: EveningStep, way: OwnWay) -> tuple[str, list[str]]:
    """The card of somebody's and what she does on it, while everybody is shown a step; an empty letter for none.

    With the card: that step. With another version of it: the same step there, and before it what only that version
    has.
    """
    if shown.letter in way.letters:
        return shown.letter, [shown.step.what]
    reads = {read.entry.letter: read for read in counted.designs}
    design = reads[shown.letter].entry.card_id
    letter = next((each for each, read in reads.items() if each in way.letters and read.entry.card_id == design), "")
    if not letter:
        return "", []
    mine, theirs = (card_steps_of(counted, reads[each]).steps for each in (letter, shown.letter))
    return letter, _up_to(shown.step.key, mine, {step.key for step in theirs})


def _up_to(key: str, mine: Sequence[AssemblyStep], theirs: set[str]) -> list[str]:
    """A step by its key, with the steps right before it that another version does not have."""
    at = next((at for at, step in enumerate(mine) if step.key == key), None)
    if at is None:
        return []
    begins = at
    while begins and mine[begins - 1].key not in theirs:
        begins -= 1
    return [step.what for step in mine[begins : at + 1]]
