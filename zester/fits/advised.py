"""What the sheets view says of other plans, free seats and near misses."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

from zester.core.choices import FAR_FEWER, FEWER, OWN, THRIFTIEST
from zester.core.fitting.plan import layout_entry
from zester.core.lengths import with_unit
from zester.fits.models import Advice
from zester.fits.services import with_plan
from zester.fits.sheets import percent

WORDS = {
    THRIFTIEST: "Thriftiest",
    FEWER: "Fewer strokes, as thrifty",
    FAR_FEWER: "Far fewer strokes",
    OWN: "Everybody’s own sheets",
}


@dataclass(frozen=True)
class ShownChoice:
    """A plan to choose; ``more`` is what it costs more than the thriftiest."""

    key: str
    name: str
    sheets: int
    cost: Decimal
    more: Decimal
    strokes: int
    settings: int
    layouts: int
    used: str
    taken: bool


@dataclass(frozen=True)
class PaperAdvice:
    """The advice on one paper; ``now`` and ``then`` are this number of people's step and the next one."""

    choices: tuple[ShownChoice, ...]
    now: dict | None
    then: dict | None
    more_sheets: int
    more_price: Decimal
    misses: tuple[dict, ...]


def shown_advice(advice: Advice) -> dict[str, PaperAdvice]:
    """The advice by paper, as far as it is worked out."""
    job, plan = with_plan(advice.fit)
    return {
        paper.id: _paper_advice(advice, paper.id, plan_, job.unit, paper.people)
        for paper, plan_ in zip(job.papers, plan.papers, strict=True)
        if paper.id in advice.near
    }


def _paper_advice(advice: Advice, paper: str, plan, unit: str, people: int) -> PaperAdvice:
    entries = advice.plans.get(paper, [])
    current = [layout_entry(layout, unit) for layout in plan.layouts]
    choices = tuple(_choice(entry, entries[0], current) for entry in entries)
    steps = advice.seats[paper]
    now = next((step for step in steps if step["first"] <= people <= step["last"]), None)
    then = next((step for step in steps if step["first"] > people), None) if now else None
    sheets = then["sheets"] - now["sheets"] if then else 0
    price = Decimal(then["price"]) - Decimal(now["price"]) if then else Decimal(0)
    misses = tuple(
        {**miss, "by": with_unit(miss["smaller"], unit), "money": Decimal(miss["money"])} for miss in advice.near[paper]
    )
    return PaperAdvice(choices, now, then, sheets, price, misses)


def _choice(entry: dict, first: dict, current: list[dict]) -> ShownChoice:
    return ShownChoice(
        entry["name"],
        WORDS[entry["name"]],
        entry["sheets"],
        Decimal(entry["cost"]),
        Decimal(entry["cost"]) - Decimal(first["cost"]),
        entry["strokes"],
        entry["settings"],
        entry["layouts"],
        percent(Fraction(str(entry["yield"]))),
        entry["plan"]["layouts"] == current,
    )
