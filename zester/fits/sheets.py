"""What the sheets view shows: every layout drawn, every piece listed, everything added up."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from fractions import Fraction

from zester.core.cutting.steps import natural
from zester.core.fitting.drawing import Label, Placed, fit_label, place_parts
from zester.core.fitting.job import NO_MARGINS, PaperJob
from zester.core.fitting.plan import Layout, PaperPlan
from zester.core.fitting.summary import KeepRule, Offcut, Summary, bound_in_words, source_size, summarise
from zester.core.lengths import TICKS_PER_INCH, show_size
from zester.fits.models import Fit
from zester.fits.services import keep_rule, pinned_in, with_plan

SMALL_SHEET = 9 * TICKS_PER_INCH


@dataclass(frozen=True)
class DrawnPart:
    """A part of a layout with its label; ``kept`` only matters for offcuts, ``top`` where its top lies if not above."""

    placed: Placed
    label: Label | None
    size: str
    name: str
    kept: bool
    top: str = ""


@dataclass(frozen=True)
class DrawnLayout:
    """A layout ready to draw: what it is cut from, in ticks, its parts, copies.

    ``of`` names the piece whose hidden middle it is; that piece is drawn, with the shapes where they come out.
    ``share`` is the width in per cent of the paper's widest sheet, so that all are drawn to one scale. ``pin`` is its
    place among the layouts pinned now; ``usable`` the box within the sheet's margins, if it has any.
    """

    number: int
    copies: int
    width: int
    height: int
    parts: tuple[DrawnPart, ...]
    source: str = "sheet"
    of: str = ""
    pin: int | None = None
    usable: tuple[int, int, int, int] | None = None
    share: int = 100


@dataclass(frozen=True)
class PieceRow:
    """A piece in the list beside the sheets."""

    handle: str
    name: str
    card: str
    size: str
    count: int
    made: int
    missing: int
    why: str
    filler: bool


@dataclass(frozen=True)
class PaperSheets:
    """One paper of the sheets view."""

    number: int
    look: dict
    job: PaperJob
    plan: PaperPlan
    summary: Summary
    layouts: tuple[DrawnLayout, ...]
    pieces: tuple[PieceRow, ...]
    bound_words: str
    priced: bool
    to_buy: int
    portions_each: int = 0

    @property
    def small(self) -> bool:
        """Whether its sheets are small enough for three drawings in a row."""
        return max(self.job.sheets[0].width, self.job.sheets[0].height) <= SMALL_SHEET

    @property
    def keeps(self) -> tuple[Offcut, ...]:
        """The offcuts worth keeping."""
        return tuple(offcut for offcut in self.summary.offcuts if offcut.kept)

    @property
    def to_buy_cost(self) -> Decimal:
        """What the sheets to buy cost."""
        return self.job.sheets[0].cost * self.to_buy

    @property
    def missing(self) -> int:
        """How many pieces are short in all."""
        return sum(count for _, count in self.plan.short)

    @property
    def used_percent(self) -> str:
        """The yield."""
        return percent(self.summary.used)

    @property
    def kept_percent(self) -> str:
        """The share kept as offcuts."""
        return percent(self.summary.kept)

    @property
    def waste_percent(self) -> str:
        """The share binned: what the other two leave of a hundred, so that the three add up."""
        tenths = 1000 - int(self.summary.used * 1000) - int(self.summary.kept * 1000)
        return percent(Fraction(tenths, 1000))


@dataclass(frozen=True)
class AllSheets:
    """The whole sheets view."""

    unit: str
    papers: tuple[PaperSheets, ...]

    @property
    def sheets(self) -> int:
        """Sheets opened."""
        return sum(paper.plan.sheets for paper in self.papers)

    @property
    def cost(self) -> Decimal:
        """What the sheets with a price cost."""
        return sum((paper.plan.cost for paper in self.papers if paper.priced), Decimal(0))

    @property
    def unpriced(self) -> int:
        """Papers without a price."""
        return sum(not paper.priced for paper in self.papers)

    @property
    def proven(self) -> int:
        """Papers whose plan is proven the best."""
        return sum(paper.plan.proven for paper in self.papers)

    @property
    def short(self) -> tuple[PaperSheets, ...]:
        """Papers that run out."""
        return tuple(paper for paper in self.papers if paper.plan.short)

    @property
    def used_percent(self) -> str:
        """The yield over all papers, by area."""
        opened = used = 0
        for paper in self.papers:
            areas = {sheet.id: sheet.width * sheet.height for sheet in paper.job.sheets}
            area = sum(areas[layout.sheet] * layout.copies for layout in paper.plan.on_sheets)
            opened, used = opened + area, used + area * paper.summary.used
        return percent(used / opened) if opened else "0 %"


def percent(share) -> str:
    """A share as whole per cent, and never 100 unless it is all."""
    tenths = int(share * 1000)
    return f"{tenths // 10} %" if tenths % 10 == 0 else f"{tenths // 10}.{tenths % 10} %"


def draw_sheets(found: Fit) -> AllSheets:
    """Everything the sheets view shows of a finished fit."""
    job, plan = with_plan(found)
    keep = keep_rule(found.card_class)
    papers = [
        _paper(found, number, paper, paper_plan, job.unit, keep)
        for number, (paper, paper_plan) in enumerate(zip(job.papers, plan.papers, strict=True))
    ]
    return AllSheets(job.unit, tuple(papers))


def _paper(found: Fit, number: int, job: PaperJob, plan: PaperPlan, unit: str, keep: KeepRule) -> PaperSheets:
    look = found.context["papers"][job.id]
    names = found.context["pieces"]
    summary = summarise(job, plan, keep)
    pinned = [_bare_layout(layout) for layout in pinned_in(found.card_class, job.id)]
    layouts = tuple(
        draw_layout(k + 1, layout, job, plan, names, unit, keep, pinned) for k, layout in enumerate(plan.layouts)
    )
    missing = dict(plan.short)
    rows = [
        PieceRow(
            piece.id,
            names[piece.id]["name"],
            names[piece.id]["card"],
            show_size(piece.width, piece.height, unit),
            piece.count,
            summary.made.get(piece.id, 0),
            missing.get(piece.id, 0),
            names[piece.id]["why"],
            piece.filler,
        )
        for piece in sorted(job.pieces, key=lambda piece: natural(piece.id))
    ]
    # A sheet that costs nothing counts 1 in the fit, like one without a price; neither adds to the money.
    priced = Decimal(look["price"] or 0) > 0
    words = bound_in_words(job, plan)
    to_buy = found.to_buy.get(job.id, 0)
    at_home = sum(layout.copies for layout in plan.layouts if layout.source == "portion")
    each = at_home // job.people
    return PaperSheets(number, look, job, plan, summary, layouts, tuple(rows), words, priced, to_buy, each)


def _bare_layout(layout: Layout) -> Layout:
    return replace(layout, copies=1, pinned=False)


def draw_layout(
    number: int,
    layout: Layout,
    job: PaperJob,
    plan: PaperPlan,
    names: dict,
    unit: str,
    keep: KeepRule,
    pinned: Sequence[Layout] = (),
) -> DrawnLayout:
    """A layout with labels that fit on its parts."""
    width, height = source_size(job, plan, layout)
    spots = place_parts(layout, width, height)
    if layout.source == "window":
        # The host is drawn around it; what is left of its middle stays in it.
        host = next(piece for piece in job.pieces if piece.id == layout.sheet)
        spots = [replace(p, x=p.x + host.window.x, y=p.y + host.window.y) for p in spots if not p.offcut]
        width, height = host.width, host.height
    widest = max(sheet.width for sheet in job.sheets)
    side = max(max(sheet.width, sheet.height) for sheet in job.sheets)
    parts = tuple(_draw_part(placed, names, unit, keep, side) for placed in spots)
    bare = _bare_layout(layout)
    place = pinned.index(bare) if bare in pinned else None
    of = layout.sheet if layout.source == "window" else ""
    usable = _usable(job, layout) if layout.source == "sheet" else None
    share = 100 * width // widest
    return DrawnLayout(number, layout.copies, width, height, parts, layout.source, of, place, usable, share)


def _usable(job: PaperJob, layout: Layout) -> tuple[int, int, int, int] | None:
    sheet = next(sheet for sheet in job.sheets if sheet.id == layout.sheet)
    margins = sheet.margins
    return (margins.left, margins.top, *sheet.inner) if margins != NO_MARGINS else None


def _draw_part(placed: Placed, names: dict, unit: str, keep: KeepRule, side: int) -> DrawnPart:
    kept = keep.keeps(placed.width, placed.height)
    size = show_size(placed.width, placed.height, unit)
    handle = placed.piece or ("portion" if placed.portion else "keep" if kept else "waste")
    label = fit_label(placed, handle, size.removesuffix(f" {unit}"), side)
    name = names[placed.piece]["name"] if placed.piece else ""
    return DrawnPart(placed, label, size, name, kept, placed.up if placed.up != "top" else "")
