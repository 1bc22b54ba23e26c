"""Plans worth choosing between, for one paper: ``plans``."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from decimal import Decimal
from fractions import Fraction

from zester.core.cutting.steps import CutSteps, cutting_steps
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.job import PAPER_SECONDS, Bench, PaperJob
from zester.core.fitting.plan import PaperPlan, money, paper_entry, read_paper
from zester.core.fitting.rounding import Depth
from zester.core.fitting.summary import summarise
from zester.core.fitting.supply import full_cost

THRIFTIEST, FEWER, FAR_FEWER, OWN = "thriftiest", "fewer minutes", "far fewer minutes", "own sheets"
MOST_EXTRA = 2
# A plan that opens more sheets must save this share of the minutes for each of them to be worth a choice.
WORTH_A_SHEET = Fraction(1, 12)


@dataclass(frozen=True, kw_only=True)
class Choice:
    """A plan with what it comes to."""

    name: str
    """What it is known by."""
    plan: PaperPlan
    """The plan."""
    sheets: int
    """How many it opens."""
    cost: Decimal
    """What they cost."""
    strokes: int
    """Strokes of the blade."""
    settings: int
    """How many times the rail is moved."""
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
    return Choice(
        name=name,
        plan=plan,
        sheets=plan.sheets,
        cost=full_cost(paper, plan),
        strokes=steps.strokes,
        settings=steps.settings,
        seconds=steps.seconds(),
        layouts=layouts,
        used=used,
    )


def plans(
    paper: PaperJob,
    bench: Bench,
    tell: Callable[[str], None] = lambda _: None,
    seconds: float = PAPER_SECONDS,
    known: dict | None = None,
) -> list[Choice]:
    """A short list of plans for one paper, the thriftiest first.

    The thriftiest; one with fewer minutes at the same cost; one with far fewer for one or two sheets more; and,
    where every piece says how many one person gets, one person's pieces from their own sheets. Only what differs to
    the good is listed. Every plan is checked; ``seconds`` is the budget of each. ``known`` is JSON data in which plans
    are kept as they are found: a question that was interrupted goes on with it where it was.
    """
    known = {} if known is None else known

    def choice(name: str, paper: PaperJob, **how) -> Choice:
        key = f"plan {name} {how.get('extra', '')}"
        if key not in known:
            known[key] = paper_entry(fit_paper(paper, bench, tell, seconds, **how), "in")
        return figures(name, paper, read_paper(known[key], "in"), bench)

    thrifty = choice(THRIFTIEST, replace(paper, pool="together"), depth=Depth.THRIFTY)
    found = [thrifty]
    light = choice(FEWER, replace(paper, pool="together"))
    if light.cost < thrifty.cost:
        found = [replace(light, name=THRIFTIEST)]
    elif light.cost == thrifty.cost and light.seconds < thrifty.seconds:
        found.append(light)
    best = found[-1]
    for extra in range(1, MOST_EXTRA + 1):
        eased = choice(FAR_FEWER, replace(paper, pool="together"), extra=extra)
        saved = best.seconds - eased.seconds
        if not eased.plan.short and eased.sheets > best.sheets and saved >= WORTH_A_SHEET * extra * best.seconds:
            found.append(eased)
            break
    if paper.people > 1 and all(piece.each is not None or piece.filler for piece in paper.pieces):
        own = choice(OWN, replace(paper, pool="own"))
        if not own.plan.short or best.plan.short:
            found.append(own)
    return found


def choice_entry(choice: Choice, unit: str) -> dict:
    """A choice as JSON data, its plan with it."""
    return {
        "name": choice.name,
        "sheets": choice.sheets,
        "cost": money(choice.cost),
        "strokes": choice.strokes,
        "settings": choice.settings,
        "seconds": choice.seconds,
        "layouts": choice.layouts,
        "yield": round(float(choice.used), 4),
        "plan": paper_entry(choice.plan, unit),
    }
