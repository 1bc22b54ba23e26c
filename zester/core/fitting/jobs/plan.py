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
from typing import Any

from zester.core.errors import PlanError
from zester.core.lengths import read_length, write_length

FORMAT = "fit-plan/1"


@dataclass(frozen=True)
class Cut:
    """A cut right across a part."""

    part: int
    """Its number."""
    axis: str
    """``x``: from its left edge; ``y``: from its upper edge."""
    at: int
    """Ticks from there."""


@dataclass(frozen=True, kw_only=True)
class Named:
    """A part that is a finished piece, or a whole portion."""

    part: int
    """Its number."""
    piece: str
    """The piece's id; empty for a portion."""
    turned: bool
    """Whether it lies a quarter turn round."""
    up: str = ""
    """The edge of the part that is the upper edge of the piece, where that is not its own upper edge or, turned, its
    right one.
    """
    portion: bool = False
    """Whether it is a whole portion."""

    @property
    def edge(self) -> str:
        """The edge of the part at which the top of the piece lies."""
        return self.up or ("right" if self.turned else "top")


@dataclass(frozen=True, kw_only=True)
class Layout:
    """One way of cutting a sheet."""

    sheet: str
    """What it is cut from: a kind of sheet, or the piece whose hidden middle it is."""
    copies: int
    """How often it is done."""
    cuts: tuple[Cut, ...]
    """In order."""
    parts: tuple[Named, ...]
    """What comes out of it."""
    source: str = "sheet"
    """``sheet``, ``window`` (a hidden middle; the cuts only say where the shapes lie) or ``portion`` (cut up at
    home).
    """
    pinned: bool = False
    """Whether it was given with the job."""


@dataclass(frozen=True, kw_only=True)
class PaperPlan:
    """The layouts for one paper."""

    id: str
    """The paper's key."""
    cost: Decimal
    """What the sheets cost."""
    bound: Decimal
    """A proven lower bound on that."""
    proven: bool
    """Whether the two are equal and nothing is short."""
    short: tuple[tuple[str, int], ...]
    """Piece and how many of it are not made."""
    layouts: tuple[Layout, ...]
    """The layouts."""
    portion: tuple[int, int] | None = None
    """Width and height of a portion (ticks), if there are any."""

    @property
    def on_sheets(self) -> tuple[Layout, ...]:
        """The layouts that are cut at the trimmer."""
        return tuple(layout for layout in self.layouts if layout.source == "sheet")

    @property
    def sheets(self) -> int:
        """How many sheets are opened."""
        return sum(layout.copies for layout in self.on_sheets)

    def portions_each(self, people: int) -> int:
        """How many portions, or whole sheets, each of so many people gets to cut up."""
        return sum(layout.copies for layout in self.layouts if layout.source == "portion") // people


@dataclass(frozen=True)
class Plan:
    """A whole plan."""

    unit: str
    """``in`` or ``mm``: only how lengths are written."""
    papers: tuple[PaperPlan, ...]
    """One paper after the other."""

    @property
    def short(self) -> bool:
        """Whether any piece is missing."""
        return any(paper.short for paper in self.papers)


def money(amount: Decimal) -> str:
    """A sum of money with at least two decimals and none dropped."""
    plain, cents = amount.normalize(), amount.quantize(Decimal("0.01"))
    return str(cents if cents == plain else plain)


def write_plan(plan: Plan) -> str:
    """The plan as JSON text."""
    data = {"zester": FORMAT, "unit": plan.unit, "papers": [paper_entry(p, plan.unit) for p in plan.papers]}
    return json.dumps(data, indent=1, ensure_ascii=False)


def paper_entry(paper: PaperPlan, unit: str) -> dict[str, Any]:
    """A paper's plan as JSON data."""
    entry = {
        "id": paper.id,
        "cost": money(paper.cost),
        "bound": money(paper.bound),
        "proven": paper.proven,
        "sheets": paper.sheets,
        "short": [{"piece": piece, "missing": missing} for piece, missing in paper.short],
        "layouts": [layout_entry(layout, unit) for layout in paper.layouts],
    }
    if paper.portion:
        width, height = paper.portion
        entry["portion"] = {"width": write_length(width, unit), "height": write_length(height, unit)}
    return entry


def layout_entry(layout: Layout, unit: str) -> dict[str, Any]:
    """A layout as JSON data."""
    entry = {
        "sheet": layout.sheet,
        "copies": layout.copies,
        "cuts": [{"part": c.part, "axis": c.axis, "at": write_length(c.at, unit)} for c in layout.cuts],
        "parts": [_named_entry(named) for named in layout.parts],
    }
    if layout.source != "sheet":
        entry["source"] = layout.source
    if layout.pinned:
        entry["pinned"] = True
    return entry


def _named_entry(named: Named) -> dict[str, Any]:
    if named.portion:
        return {"part": named.part, "portion": True}
    entry = {"part": named.part, "piece": named.piece, "turned": named.turned}
    return entry | ({"up": named.up} if named.up else {})


def read_plan(text: str | bytes) -> Plan:
    """Read a plan back from JSON; raises PlanError if it is not one."""
    try:
        data = json.loads(text)
        if data["zester"] != FORMAT:
            raise PlanError(f"this is “{data['zester']}”, not “{FORMAT}”", "zester")
        return Plan(data["unit"], tuple(read_paper(paper, data["unit"]) for paper in data["papers"]))
    except (ValueError, KeyError, TypeError) as error:
        raise error if isinstance(error, PlanError) else PlanError("not a fit plan", "plan") from error


def read_paper(data: dict[str, Any], unit: str) -> PaperPlan:
    """A paper's plan from JSON data; raises KeyError, TypeError or ValueError if it is none."""
    short = tuple((entry["piece"], entry["missing"]) for entry in data["short"])
    layouts = tuple(read_layout(entry, unit) for entry in data["layouts"])
    portion = data.get("portion")
    sides = (read_length(portion["width"], unit), read_length(portion["height"], unit)) if portion else None
    return PaperPlan(
        id=data["id"],
        cost=Decimal(data["cost"]),
        bound=Decimal(data["bound"]),
        proven=data["proven"],
        short=short,
        layouts=layouts,
        portion=sides,
    )


def read_layout(data: dict[str, Any], unit: str) -> Layout:
    """A layout from JSON data; raises KeyError, TypeError or ValueError if it is none."""
    cuts = tuple(
        Cut(_of(int, c["part"]), _of(str, c["axis"]), read_length(_of(str, c["at"]), unit)) for c in data["cuts"]
    )
    parts = tuple(
        Named(
            part=_of(int, n["part"]),
            piece=_of(str, n.get("piece", "")),
            turned=_of(bool, n.get("turned", False)),
            up=_of(str, n.get("up", "")),
            portion=_of(bool, n.get("portion", False)),
        )
        for n in data["parts"]
    )
    pinned = _of(bool, data.get("pinned", False))
    return Layout(
        sheet=_of(str, data["sheet"]),
        copies=_of(int, data["copies"]),
        cuts=cuts,
        parts=parts,
        source=_of(str, data.get("source", "sheet")),
        pinned=pinned,
    )


def _of(kind: type, value: object) -> Any:
    """A value of JSON data, if it is of that kind; raises TypeError."""
    if not isinstance(value, kind) or (kind is int and isinstance(value, bool)):
        raise TypeError(f"“{value!r:.40}” is no {kind.__name__}")
    return value
