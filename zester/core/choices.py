"""Plans worth choosing between, for one paper: ``plans``."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from decimal import Decimal
from fractions import Fraction
from typing import Any

from zester.core.cutting.steps import CutSteps, cutting_steps, minutes_judge
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.job import PAPER_SECONDS, Bench, PaperJob
from zester.core.fitting.jobs.plan import PaperPlan, money, paper_entry, read_paper
from zester.core.fitting.jobs.summary import summarise
from zester.core.fitting.jobs.supply import full_cost
from zester.core.fitting.offcuts import fit_offcuts_first
from zester.core.fitting.size_mix import sizes_front

THRIFTIEST, EASIER, OWN = "thriftiest", "easier", "own sheets"
# How many times the seconds of one fit the plans from the thriftiest to the easiest may take together.
FRONT = 3


@dataclass(frozen=True, kw_only=True)
class Choice:
    """A plan with what it comes to."""

    name: str
    """What it is known by."""
    plan: PaperPlan
    """The plan."""
    sheets: int
    """How many it opens that are no offcuts."""
    cost: Decimal
    """What they cost."""
    strokes: int
    """Strokes of the blade."""
    settings: int
    """How many times the rail is moved."""
    stacks: int
    """How many stacks are fetched."""
    seconds: int
    """What cutting it takes at the usual pace."""
    layouts: int
    """Different layouts."""
    used: Fraction
    """The share of the opened paper that becomes pieces."""


def figures(name: str, paper: PaperJob, plan: PaperPlan, bench: Bench, steps: CutSteps | None = None) -> Choice:
    """Add a plan up; ``steps`` are those that cut it, if somebody knows them."""
    keep = bench.keep_rule
    steps = steps or cutting_steps(paper, plan, bench)
    used = summarise(paper, plan, keep).used
    layouts = len(plan.on_sheets)
    offcuts = {sheet.id for sheet in paper.sheets if sheet.is_offcut}
    return Choice(
        name=name,
        plan=plan,
        sheets=plan.sheets - sum(lay.copies for lay in plan.on_sheets if lay.sheet in offcuts),
        cost=full_cost(paper, plan),
        strokes=steps.strokes,
        settings=steps.settings,
        stacks=steps.stacks,
        seconds=steps.seconds(),
        layouts=layouts,
        used=used,
    )


def plans(
    paper: PaperJob,
    bench: Bench,
    tell: Callable[[str], None] = lambda _: None,
    seconds: float = PAPER_SECONDS,
    known: dict[str, Any] | None = None,
    shown: PaperPlan | None = None,
) -> list[Choice]:
    """Plans for one paper of which none is beaten in both cost and minutes, the thriftiest first.

    And, where every piece says how many one person gets, one person's pieces from their own sheets. Every plan is
    checked; ``seconds`` is the budget of a fit. ``known`` is JSON data in which plans are kept as they are found: a
    question that was interrupted goes on with it where it was. ``shown`` is a plan that is there already.
    """
    known = {} if known is None else known
    together, judge = replace(paper, pool="together"), minutes_judge()
    if "best" not in known:
        known["best"] = paper_entry(fit_offcuts_first(together, bench, tell, seconds).plan, "in")
    if "front" not in known:
        best = read_paper(known["best"], "in")
        front = sizes_front(together, bench, tell, FRONT * seconds, judge, best)
        known["front"] = [paper_entry(plan, "in") for plan, _ in front]
    every = [read_paper(entry, "in") for entry in known["front"]]
    if shown is not None and paper.pool == "together":
        every.append(shown)
    found = _unbeaten([figures("", together, plan, bench) for plan in every])
    if paper.people > 1 and all(piece.each is not None or piece.filler for piece in paper.pieces):
        alone = replace(paper, pool="own")
        if OWN not in known:
            known[OWN] = paper_entry(fit_paper(alone, bench, tell, seconds, judge), "in")
        own = figures(OWN, alone, read_paper(known[OWN], "in"), bench)
        if not own.plan.short or found[0].plan.short:
            found.append(own)
    return found


def _unbeaten(choices: list[Choice]) -> list[Choice]:
    """Those that none is as cheap and as quick as, the thriftiest first, with their names."""
    kept: list[Choice] = []
    for choice in sorted(choices, key=lambda each: (bool(each.plan.short), each.cost, each.sheets, each.seconds)):
        if not kept or choice.seconds < kept[-1].seconds:
            kept.append(choice)
    return [replace(each, name=f"{EASIER} {n}" if n else THRIFTIEST) for n, each in enumerate(kept)]


def choice_entry(choice: Choice, unit: str) -> dict[str, Any]:
    """A choice as JSON data, its plan with it."""
    return {
        "name": choice.name,
        "sheets": choice.sheets,
        "cost": money(choice.cost),
        "strokes": choice.strokes,
        "settings": choice.settings,
        "stacks": choice.stacks,
        "seconds": choice.seconds,
        "layouts": choice.layouts,
        "yield": round(float(choice.used), 4),
        "plan": paper_entry(choice.plan, unit),
    }
