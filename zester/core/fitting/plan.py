"""The fit plan: layouts of edge-to-edge cuts, as frozen values and as open JSON (``fit-plan/1``).

+--------+----+     cuts: part 0 at x = 4 -> parts 1 and 2
|   3    |    |           part 1 at y = 5 1/4 -> parts 3 and 4
+--------+  2 |     Part 0 is the sheet; the two parts a cut makes take the next two numbers, the left or upper
|   4    |    |     one first. ``at`` counts from the left or upper edge of the part that is cut.
+--------+----+
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from decimal import Decimal

from zester.core.errors import PlanError
from zester.core.lengths import MILLIMETRES, SIXTY_FOURTHS, parse_length, write_length

FORMAT = "fit-plan/1"


@dataclass(frozen=True)
class Cut:
    """A cut right across ``part``, ``at`` ticks from its left ("x") or upper ("y") edge."""

    part: int
    axis: str
    at: int


@dataclass(frozen=True)
class Named:
    """A part that is a finished piece; ``turned`` if it lies a quarter turn round."""

    part: int
    piece: str
    turned: bool


@dataclass(frozen=True)
class Layout:
    """One way of cutting a sheet, done ``copies`` times."""

    sheet: str
    copies: int
    cuts: tuple[Cut, ...]
    parts: tuple[Named, ...]


@dataclass(frozen=True)
class PaperPlan:
    """The layouts for one paper, what they cost, and a proven lower bound on that."""

    id: str
    cost: Decimal
    bound: Decimal
    proven: bool
    short: tuple[tuple[str, int], ...]
    layouts: tuple[Layout, ...]

    @property
    def sheets(self) -> int:
        """How many sheets are opened."""
        return sum(layout.copies for layout in self.layouts)


@dataclass(frozen=True)
class Plan:
    """A whole plan; ``unit`` ("in" or "mm") is only how lengths are written."""

    unit: str
    papers: tuple[PaperPlan, ...]

    @property
    def short(self) -> bool:
        """Whether any piece is missing."""
        return any(paper.short for paper in self.papers)


def money(amount: Decimal) -> str:
    """A sum of money with at least two decimals and none dropped."""
    plain = amount.normalize()
    return str(plain.quantize(Decimal("0.01")) if plain.as_tuple().exponent > -2 else plain)


def write_plan(plan: Plan) -> str:
    """The plan as JSON text."""
    data = {"zester": FORMAT, "unit": plan.unit, "papers": [_paper_entry(p, plan.unit) for p in plan.papers]}
    return json.dumps(data, indent=1, ensure_ascii=False)


def _paper_entry(paper: PaperPlan, unit: str) -> dict:
    return {
        "id": paper.id,
        "cost": money(paper.cost),
        "bound": money(paper.bound),
        "proven": paper.proven,
        "sheets": paper.sheets,
        "short": [{"piece": piece, "missing": missing} for piece, missing in paper.short],
        "layouts": [_layout_entry(layout, unit) for layout in paper.layouts],
    }


def _layout_entry(layout: Layout, unit: str) -> dict:
    return {
        "sheet": layout.sheet,
        "copies": layout.copies,
        "cuts": [{"part": c.part, "axis": c.axis, "at": write_length(c.at, unit)} for c in layout.cuts],
        "parts": [{"part": n.part, "piece": n.piece, "turned": n.turned} for n in layout.parts],
    }


def read_plan(text: str | bytes) -> Plan:
    """Read a plan back from JSON; raises PlanError if it is not one."""
    try:
        data = json.loads(text)
        if data["zester"] != FORMAT:
            raise PlanError(f"this is “{data['zester']}”, not “{FORMAT}”", "zester")
        return Plan(data["unit"], tuple(_read_paper(paper, data["unit"]) for paper in data["papers"]))
    except (ValueError, KeyError, TypeError) as error:
        raise error if isinstance(error, PlanError) else PlanError("not a fit plan", "plan") from error


def _read_paper(data: dict, unit: str) -> PaperPlan:
    short = tuple((entry["piece"], entry["missing"]) for entry in data["short"])
    layouts = tuple(_read_layout(entry, unit) for entry in data["layouts"])
    return PaperPlan(data["id"], Decimal(data["cost"]), Decimal(data["bound"]), data["proven"], short, layouts)


def _read_layout(data: dict, unit: str) -> Layout:
    cuts = tuple(Cut(c["part"], c["axis"], _read_cut(c["at"], unit)) for c in data["cuts"])
    parts = tuple(Named(n["part"], n["piece"], n["turned"]) for n in data["parts"])
    return Layout(data["sheet"], data["copies"], cuts, parts)


def _read_cut(text: str, unit: str) -> int:
    if text.endswith("mm"):
        return _ticks_of_mm(text.removesuffix("mm"))
    return _ticks_of_mm(text) if unit == "mm" else parse_length(text, SIXTY_FOURTHS)


def _ticks_of_mm(text: str) -> int:
    # Sums of inch and metric pieces may lie between tenths; they are still whole ticks.
    ticks = Decimal(text.strip()) * (MILLIMETRES.marks("mm") * 10)
    if ticks != int(ticks):
        raise PlanError(f"“{text}” is no whole number of ticks", "at")
    return int(ticks)
