"""What the pages of the Fit station show: every layout drawn, every piece listed, everything added up."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from fractions import Fraction
from functools import cached_property, lru_cache

from zester.core.cutting.steps import natural
from zester.core.fitting.jobs.drawing import SHARES, Label, LaidPart, fit_label, lay_parts
from zester.core.fitting.jobs.job import AT_HOME, NO_MARGINS, KeepRule, PaperJob
from zester.core.fitting.jobs.plan import Layout
from zester.core.fitting.jobs.plan import PaperPlan as Plan
from zester.core.fitting.jobs.summary import Offcut, Summary, bound_in_words, room_in_words, source_size, summarise
from zester.core.fitting.jobs.supply import cheapest, missing_pieces
from zester.core.lengths import TICKS_PER_INCH, show_size
from zester.core.questions import fillers_held
from zester.plans.kept import Made, names_for, read_made
from zester.plans.models import PaperFit, PaperPlan
from zester.plans.needs import pins_of
from zester.plans.standing import Entry

Shares = Callable[[int], tuple[int, ...]]
SMALL_SHEET = 9 * TICKS_PER_INCH


@dataclass(frozen=True, kw_only=True)
class DrawnPart:
    """A part of a layout with its label."""

    placed: LaidPart
    """Where it lies."""
    label: Label | None
    """What is written on it, if that can be read."""
    size: str
    """Its size in words."""
    name: str
    """The piece's name; empty for an offcut."""
    kept: bool
    """Whether it is worth keeping; only matters for offcuts."""
    top: str = ""
    """The edge its top lies at, if that is not above."""


@dataclass(frozen=True, kw_only=True)
class DrawnLayout:
    """A layout ready to draw."""

    number: int
    """From 1."""
    copies: int
    """How many sheets are cut like this."""
    width: int
    """Of what it is cut from, in ticks."""
    height: int
    """Of what it is cut from, in ticks."""
    parts: tuple[DrawnPart, ...]
    """All whole parts."""
    source: str = "sheet"
    """``sheet``, ``window`` (a hidden middle) or ``portion``."""
    of: str = ""
    """The piece whose hidden middle it is; that piece is drawn, with the shapes where they come out."""
    pin: int | None = None
    """Its place among the layouts pinned now."""
    usable: tuple[int, int, int, int] | None = None
    """The box within the sheet's margins, if it has any: left, top, width, height in ticks."""
    kind: str = ""
    """What kind of sheet it is, in words, where the plan takes several."""
    share: int = 100
    """Its width in per cent of the paper's widest sheet, so that all are drawn to one scale."""


@dataclass(frozen=True, kw_only=True)
class PieceRow:
    """A piece in the list beside the sheets."""

    handle: str
    """Card letter and number."""
    name: str
    """What it is called."""
    card: str
    """Its card's name."""
    size: str
    """Its size in words."""
    count: int
    """How many are wanted."""
    made: int
    """How many the plan makes."""
    missing: int
    """How many cannot be made from the sheets on the shelf."""
    why: str
    """The sum behind the count."""
    filler: bool
    """Whether it is only made where it costs nothing."""


@dataclass(frozen=True, kw_only=True)
class PaperSheets:
    """One paper of a class with its plan drawn."""

    entry: Entry
    """How it stands."""
    made: Made
    """The shown plan and what it was made for."""
    layouts: tuple[DrawnLayout, ...]
    """Its layouts."""
    summary: Summary
    """What it comes to."""
    names: dict
    """The pieces by handle: name, card, why."""

    @property
    def fit(self) -> PaperFit:
        """What is needed."""
        return self.entry.fit

    @property
    def kept(self) -> PaperPlan:
        """The shown plan as it is kept."""
        return self.fit.shown

    @property
    def minutes(self) -> tuple[int, int] | None:
        """What it takes at the trimmer at the usual pace, rounded up, and what no plan as thrifty can take less than.

        The latter is rounded down, so that it stays true. None where that was not worked out yet.
        """
        least = self.kept.hints.get("least", 0)
        if not least or not self.kept.trimming:
            return None
        return -(-self.kept.trimming // 60), least // 60

    @property
    def plan(self) -> Plan:
        """The shown plan."""
        return self.made.plan

    @property
    def job(self) -> PaperJob:
        """What it was made for."""
        return self.made.paper

    @property
    def unit(self) -> str:
        """The unit its lengths are shown in."""
        return self.made.job.unit

    @property
    def keep(self) -> KeepRule:
        """Which offcuts were kept when it was made."""
        return self.made.job.bench.keep_rule

    @property
    def columns(self) -> int:
        """How many of its layouts stand beside each other on a printed page."""
        return print_columns(len(self.layouts))

    @property
    def small(self) -> bool:
        """Whether its sheets are small enough for three drawings in a row."""
        return max(self.job.sheets[0].width, self.job.sheets[0].height) <= SMALL_SHEET

    @property
    def keeps(self) -> tuple[Offcut, ...]:
        """The offcuts worth keeping."""
        return tuple(offcut for offcut in self.summary.offcuts if offcut.kept)

    @property
    def held_by_keeps(self) -> list[tuple[str, str, int]]:
        """Handle and name of each filler that the offcuts worth keeping would hold, and how many of it at most."""
        held = fillers_held(self.job, self.summary)
        return [(piece, self.names.get(piece, {}).get("name", ""), count) for piece, count in held.items()]

    @property
    def proven_for(self) -> str:
        """What a proof speaks for, where that is not all of the paper."""
        if self.fit.part > 1:
            return " for this supplement"
        if self.entry.has_supplement:
            return " for what was cut first"
        if self.job.pool in AT_HOME:
            return " to hand out (what is cut at home is not in it)"
        return "" if self.job.pool == "together" else " handed out so"

    @property
    def bound_words(self) -> str:
        """Why no plan can use less; of one that is not proven how much room there is."""
        words, room = bound_in_words(self.job, self.plan), self.kept.hints.get("room")
        if self.plan.proven or room is None:
            return words
        return f"{words} {room_in_words(Decimal(room))}"

    @cached_property
    def missing(self) -> dict[str, int]:
        """The pieces that cannot be made from the sheets on the shelf; at home nothing is short, sheets are."""
        if self.job.pool in AT_HOME:
            return {}
        return missing_pieces(self.job, self.plan, self.fit.judgement.lacking)

    @property
    def to_buy_cost(self) -> Decimal | None:
        """What the sheets that are not there cost today; None where a price is missing."""
        lacking = self.fit.judgement.lacking
        prices = {key: there.price for key, there in self.fit.shelf.items() if key in lacking}
        if not all(prices.values()):
            return None
        return sum((price * lacking[key] for key, price in prices.items()), Decimal(0))

    @property
    def there_words(self) -> str:
        """How many of the sheets that run out are there for this class."""
        used, kinds = self.kept.used, self.fit.kinds
        words = []
        for key, count in self.fit.judgement.lacking.items():
            what = f" ({kinds[key][2]})" if len(used) > 1 and key in kinds else ""
            words.append(f"{used[key] - count} of {used[key]}{what} are on the shelf for it.")
        return " ".join(words)

    @property
    def cost_now(self) -> Decimal | None:
        """What it would cost at today's price, if that is another than it was made with and it is not cut."""
        if self.fit.done:
            return None
        now = self.fit.judgement.cost
        return now if self.kept.priced and now is not None and now != self.kept.cost else None

    @property
    def saved_elsewhere(self) -> Decimal | None:
        """What another plan known for the same need would save at today's prices, if it is not cut."""
        if self.fit.done:
            return None
        plans = list(PaperPlan.objects.filter(class_paper=self.fit.class_paper_id, need=self.fit.need, missing=0))
        shelf = self.fit.shelf
        best = cheapest([plan.used for plan in plans], shelf)
        now = self.fit.judgement.cost
        if best is None or now is None:
            return None
        saved = now - self.fit.judged(plans[best].used).cost
        return saved if saved > 0 else None

    @cached_property
    def pieces(self) -> list[PieceRow]:
        """Every piece."""
        return [
            PieceRow(
                handle=piece.id,
                name=self.names.get(piece.id, {}).get("name", ""),
                card=self.names.get(piece.id, {}).get("card", ""),
                size=show_size(piece.width, piece.height, self.unit),
                count=piece.count,
                made=self.summary.made.get(piece.id, 0),
                missing=self.missing.get(piece.id, 0),
                why=self.names.get(piece.id, {}).get("why", ""),
                filler=piece.filler,
            )
            for piece in sorted(self.job.pieces, key=lambda piece: natural(piece.id))
        ]

    @property
    def portions_each(self) -> int:
        """How many portions one person gets."""
        return self.plan.portions_each(self.job.people)

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


def percent(share) -> str:
    """A share as whole per cent, and never 100 unless it is all."""
    tenths = int(share * 1000)
    return f"{tenths // 10} %" if tenths % 10 == 0 else f"{tenths // 10}.{tenths % 10} %"


def draw_paper(entry: Entry, shares: Shares | None = None) -> PaperSheets:
    """One paper with its shown plan drawn; ``shares`` gives the size of its letters for so many layouts."""
    fit = entry.fit
    made = read_made(fit.shown)
    names = names_for(fit)
    pinned = [_bare_layout(layout) for layout in pins_of(fit.class_paper)]
    letters = shares(len(made.plan.layouts)) if shares else SHARES
    layouts = tuple(
        draw_layout(k + 1, layout, made, names, pinned, letters) for k, layout in enumerate(made.plan.layouts)
    )
    summary = summarise(made.paper, made.plan, made.job.bench.keep_rule)
    return PaperSheets(entry=entry, made=made, layouts=layouts, summary=summary, names=names)


def _bare_layout(layout: Layout) -> Layout:
    return replace(layout, copies=1, pinned=False)


def print_columns(layouts: int) -> int:
    """How many layouts stand beside each other so that so many go on one printed page."""
    return next((columns for columns in range(2, 12) if columns * columns * 3 // 4 >= layouts), 12)


def print_shares(layouts: int) -> tuple[int, ...]:
    """The letters on a printed page on which so many layouts stand: about 2 mm high, however small the sheets get."""
    share = max(9, 36 * 3 // (print_columns(layouts) + 1))
    return share, share * 5 // 4, share * 8 // 5


def draw_layout(
    number: int,
    layout: Layout,
    made: Made,
    names: dict,
    pinned: Sequence[Layout] = (),
    shares: tuple[int, ...] = SHARES,
) -> DrawnLayout:
    """A layout with labels that fit on its parts."""
    job = made.paper
    width, height = source_size(job, made.plan, layout)
    spots = lay_parts(layout, width, height)
    if layout.source == "window":
        # The host is drawn around it; what is left of its middle stays in it.
        host = next(piece for piece in job.pieces if piece.id == layout.sheet)
        spots = [replace(p, x=p.x + host.window.x, y=p.y + host.window.y) for p in spots if not p.offcut]
        width, height = host.width, host.height
    widest = max(sheet.width for sheet in job.sheets)
    side = max(max(sheet.width, sheet.height) for sheet in job.sheets)
    keep, unit = made.job.bench.keep_rule, made.job.unit
    bare = _bare_layout(layout)
    return DrawnLayout(
        number=number,
        copies=layout.copies,
        width=width,
        height=height,
        parts=tuple(_draw_part(placed, names, unit, keep, side, shares) for placed in spots),
        source=layout.source,
        of=layout.sheet if layout.source == "window" else "",
        pin=pinned.index(bare) if bare in pinned else None,
        usable=_usable(job, layout) if layout.source == "sheet" else None,
        share=100 * width // widest,
        kind=_kind_of(job, layout, made.job.unit),
    )


def _kind_of(job: PaperJob, layout: Layout, unit: str) -> str:
    """``offcut, 4¼ × 6 in`` or the size, where the job has several kinds of sheets."""
    if len(job.sheets) == 1 or layout.source != "sheet":
        return ""
    sheet = next(sheet for sheet in job.sheets if sheet.id == layout.sheet)
    size = show_size(sheet.width, sheet.height, unit)
    return f"offcut, {size}" if sheet.is_offcut else size


def _usable(job: PaperJob, layout: Layout) -> tuple[int, int, int, int] | None:
    sheet = next(sheet for sheet in job.sheets if sheet.id == layout.sheet)
    margins = sheet.margins
    return (margins.left, margins.top, *sheet.inner) if margins != NO_MARGINS else None


def _draw_part(
    placed: LaidPart, names: dict, unit: str, keep: KeepRule, side: int, shares: tuple[int, ...]
) -> DrawnPart:
    kept = keep.keeps(placed.width, placed.height)
    size = show_size(placed.width, placed.height, unit)
    handle = placed.piece or ("portion" if placed.portion else "keep" if kept else "waste")
    label = fit_label(placed, handle, size.removesuffix(f" {unit}"), side, shares)
    name = names.get(placed.piece, {}).get("name", "")
    top = placed.up if placed.up != "top" else ""
    return DrawnPart(placed=placed, label=label, size=size, name=name, kept=kept, top=top)


@dataclass(frozen=True, kw_only=True)
class Thumb:
    """A layout on the wall: small, to scale, without words."""

    number: int
    """From 1."""
    copies: int
    """How many sheets are cut like this."""
    width: int
    """Of what it is cut from, in ticks."""
    height: int
    """Of what it is cut from, in ticks."""
    is_offcut: bool
    """Whether it is an offcut."""
    parts: tuple[tuple[str, int, int, int, int], ...]
    """A part each: ``piece``, ``keep`` or ``waste``; left, top, width and height in ticks."""


@lru_cache(maxsize=256)
def _thumbs(pk: int, _: datetime.datetime) -> tuple[Thumb, ...]:
    """The layouts of a kept plan, by its key and when it was made; it never changes what it says."""
    made = read_made(PaperPlan.objects.get(pk=pk))
    keep = made.job.bench.keep_rule
    offcuts = {sheet.id for sheet in made.paper.sheets if sheet.is_offcut}
    found = []
    for number, layout in enumerate(made.plan.layouts, start=1):
        if layout.source != "sheet":
            continue
        width, height = source_size(made.paper, made.plan, layout)
        parts = tuple(
            (_kind(part, keep), part.x, part.y, part.width, part.height) for part in lay_parts(layout, width, height)
        )
        offcut = layout.sheet in offcuts
        found.append(
            Thumb(number=number, copies=layout.copies, width=width, height=height, is_offcut=offcut, parts=parts)
        )
    return tuple(found)


def _kind(part: LaidPart, keep: KeepRule) -> str:
    if not part.offcut:
        return "piece"
    return "keep" if keep.keeps(part.width, part.height) else "waste"


@dataclass(frozen=True)
class WallPaper:
    """One paper on the wall."""

    entry: Entry
    """How it stands."""
    thumbs: tuple[Thumb, ...]
    """Its layouts, small; empty where there is no plan yet."""

    @property
    def used_percent(self) -> str:
        """The yield."""
        return percent(self.entry.fit.shown.yielded)


def wall_of(entries: Sequence[Entry]) -> list[WallPaper]:
    """Every layout of a class, by paper."""
    shown = ((entry, entry.fit.shown) for entry in entries)
    return [WallPaper(entry, _thumbs(plan.pk, plan.made_at) if plan else ()) for entry, plan in shown]


# The wall's room on a screen of 1280 × 800, and what stands round the drawings on it, in CSS pixels.
ROOM, LINE, BETWEEN = (1232, 520), 34, (26, 8)
THUMB_ROUND = (8, 17)
LEAST_BLOCK = 400
SCALES = (18, 15, 13, 11, 10, 9, 8, 7, 6, 5, 4)


def scale_of(wall: Sequence[WallPaper]) -> int:
    """CSS pixels an inch at which all layouts go on one screen, the same for all; the least there is if none does."""
    return next((scale for scale in SCALES if _height(wall, scale) <= ROOM[1]), SCALES[-1])


def _height(wall: Sequence[WallPaper], scale: int) -> int:
    """How high the wall gets: blocks beside each other as long as there is room, drawings within them likewise."""
    height = across = tallest = 0
    for each in wall:
        sizes = [(side(t.width, scale) + THUMB_ROUND[0], side(t.height, scale) + THUMB_ROUND[1]) for t in each.thumbs]
        wide = min(ROOM[0], max(LEAST_BLOCK, sum(width for width, _ in sizes)))
        rows = -(-sum(width for width, _ in sizes) // wide)
        high = LINE + rows * max((height for _, height in sizes), default=0)
        if across and across + wide > ROOM[0]:
            height, across, tallest = height + tallest + BETWEEN[1], 0, 0
        across, tallest = across + wide + BETWEEN[0], max(tallest, high)
    return height + tallest


def side(ticks: int, scale: int) -> int:
    """A length in whole CSS pixels at so many an inch."""
    return round(ticks * scale / TICKS_PER_INCH)


def yield_of(entries: Sequence[Entry]) -> str:
    """The yield over all papers, by area."""
    opened = used = Fraction(0)
    for entry in entries:
        if entry.fit.shown:
            area = entry.fit.opened_area
            opened, used = opened + area, used + area * Fraction(entry.fit.shown.yielded)
    return percent(used / opened) if opened else "0 %"
