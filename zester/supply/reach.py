"""How far what is on hand reaches: for how many people of a class, and what runs out first.

Of papers what was worked out for fewer and more people (``growth``) against the sheets that are free; of bits what one
more kit of the usual offer takes against what is left of them.
"""

from __future__ import annotations

from dataclasses import dataclass

from zester.classes.models import CardClass
from zester.classes.services import CountedClass, count_class
from zester.core.class_job import SHEET_ID
from zester.core.kits.coverage import BitNeed, bit_key
from zester.core.kits.offers import usual_offer
from zester.core.kits.packing import BIT
from zester.core.tally import some
from zester.plans.models import PaperFit, PaperPlan
from zester.plans.standing import Papers
from zester.shelf.models import Bit
from zester.supply.buying import bits_of_classes


@dataclass(frozen=True, kw_only=True)
class Reach:
    """How far one thing reaches."""

    name: str
    """A paper or a bit."""
    people: int
    """For so many it is enough."""
    lacking: str = ""
    """What lacks for one more, in words; empty where it is enough for all that was looked at."""
    least: bool = False
    """Whether it is not enough for the fewest that were looked at."""


def reach_of(card_class: CardClass, papers: Papers) -> list[Reach]:
    """What is counted on the shelf, what runs out first first; what nobody counts is bought as needed."""
    shown = {entry.fit.shown_id: entry.fit for entry in papers.entries if entry.fit.answered and not entry.fit.done}
    rows = PaperPlan.objects.filter(pk__in=shown).exclude(growth={}).values_list("pk", "growth")
    found = [_of_paper(shown[pk], growth["runs"]) for pk, growth in rows]
    found += _of_bits(count_class(card_class))
    return sorted((each for each in found if each), key=lambda each: (not each.lacking, each.people, each.name))


def _of_paper(fit: PaperFit, runs: list[dict]) -> Reach | None:
    there = fit.shelf[SHEET_ID].on_hand
    if there is None:
        return None
    enough = [run["last"] for run in runs if run["sheets"] <= there]
    more = next((run for run in runs if run["sheets"] > there), None)
    lacking = some(more["sheets"] - there, "sheet") if more else ""
    first = runs[0]["first"]
    return Reach(name=fit.name, people=max(enough, default=first - 1), lacking=lacking, least=not enough)


def _of_bits(counted: CountedClass) -> list[Reach]:
    usual = usual_offer(counted.needs.offers)
    kit = next((kit for kit in counted.packed.kits if kit.offer == usual.key), None)
    each: dict[str, int] = {}
    for item in kit.items if kit else ():
        if item.kind == BIT:
            key = bit_key(item.key, bool(item.length))
            each[key] = each.get(key, 0) + item.count * (item.length or 1)
    needs = bits_of_classes([counted.card_class], Bit.objects.of(counted.card_class.owner))
    mine = {bit_key(need.name, need.by_length): need for need in needs if need.on_hand is not None}
    return [_of_bit(need, each[key], counted.people) for key, need in mine.items() if each.get(key)]


def _of_bit(need: BitNeed, each: int, people: int) -> Reach:
    reach = max(0, people + (need.free - need.needed) // each)
    lacking = (reach + 1 - people) * each + need.needed - need.free
    return Reach(name=need.name, people=reach, lacking="some of it" if need.by_length else f"{lacking} of them")
