"""What a class needs of every paper and bit against what there is, for the Count station."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property

from zester.classes.models import CardClass
from zester.classes.services import CountedClass, count_class
from zester.core.class_job import SHEET_ID, sharing
from zester.core.kits.coverage import BitNeed, SizeNeed, area_of, least_sheets
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.stock.ledger import Held
from zester.core.tally import PieceCount
from zester.plans.standing import Entry, papers_in
from zester.shelf.models import Bit, Paper
from zester.supply.buying import BuyingList, bits_of_classes, buying_list, lacking_of


@dataclass(frozen=True, kw_only=True)
class PaperRow:
    """One paper of a class."""

    paper: Paper
    """The paper."""
    entries: tuple[Entry, ...]
    """How its plan stands, and those of its supplements; empty where there is none yet."""
    counts: tuple[PieceCount, ...]
    """Its pieces."""
    sizes: tuple[SizeNeed, ...]
    """The kinds of sheets its plan takes."""
    unit: str
    """The unit of the class."""

    @property
    def entry(self) -> Entry | None:
        """The plan that is not cut yet, or the last one."""
        still = [entry for entry in self.entries if not entry.fit.done]
        return next(iter(still or self.entries[::-1]), None)

    @property
    def pieces(self) -> int:
        """How many pieces."""
        return sum(entry.count for entry in self.counts if not entry.piece.filler)

    @property
    def area(self) -> str:
        """What they take, in words."""
        ticks = area_of(self.counts)
        if self.unit == "mm":
            return f"{ticks / (10 * TICKS_PER_MM) ** 2:,.0f} cm²"
        return f"{ticks / TICKS_PER_INCH**2:,.0f} in²"

    @cached_property
    def least(self) -> int:
        """How many sheets of its usual size that is at the very least."""
        margins = self.paper.margins
        width = self.paper.width - margins.left - margins.right
        return least_sheets(self.counts, width, self.paper.height - margins.top - margins.bottom)

    @property
    def lacking(self) -> int:
        """How many sheets are missing, over its sizes, as far as somebody counts them."""
        return sum(size.lacking for size in self.sizes if size.held.on_hand is not None)

    @property
    def uncounted(self) -> bool:
        """Whether nobody counts it."""
        return any(size.held.on_hand is None for size in self.sizes if not size.is_cut)

    @property
    def others(self) -> int:
        """Kits that should get it whole or as portions, but whose pieces are cut: they hold other pieces."""
        return sharing(self.counts).others


def needs_page(card_class: CardClass) -> dict:
    """What the page shows."""
    counted = count_class(card_class)
    papers = papers_in(card_class)
    rows = _rows(counted, papers.entries)
    bits = bits_of_classes([card_class], Bit.objects.of(card_class.owner))
    to_buy = buying_list(card_class.owner, [card_class])
    return {
        "others_too": any(bit.others for bit in bits),
        "card_class": card_class,
        "counted": counted,
        "papers": papers,
        "rows": rows,
        "bits": bits,
        "to_buy": to_buy,
        "verdict": _verdict(rows, bits, to_buy),
    }


def _rows(counted: CountedClass, entries: Iterable[Entry]) -> list[PaperRow]:
    plans: dict[str, list[Entry]] = {}
    for entry in entries:
        plans.setdefault(entry.fit.paper.key, []).append(entry)
    by_paper: dict[str, list[PieceCount]] = {}
    for count in counted.counts:
        if count.count:
            by_paper.setdefault(count.piece.paper, []).append(count)
    return [
        PaperRow(
            paper=paper,
            entries=tuple(plans.get(paper.key, ())),
            counts=tuple(by_paper[paper.key]),
            sizes=tuple(size for entry in plans.get(paper.key, ()) for size in _sizes(entry)),
            unit=counted.card_class.unit,
        )
        for paper in counted.held.papers
        if paper.key in by_paper
    ]


def _sizes(entry: Entry) -> tuple[SizeNeed, ...]:
    if entry.fit.shown is None:
        return ()
    fit, found = entry.fit, []
    sheets = {sheet.key: sheet for sheet in fit.paper.sheets.all()}
    is_cut, me = fit.held == fit.Held.CUT, fit.class_paper.card_class_id
    lacking = {} if is_cut else lacking_of(fit)
    for key, planned in fit.shown.used.items():
        sheet = sheets.get(key)
        on_hand = fit.paper.on_hand if key == SHEET_ID else sheet.on_hand if sheet else 0
        promised = fit.promised.get(key, ())
        reserved = sum(each.count for each in promised)
        size = fit.paper.size_text if key == SHEET_ID else sheet.size_text if sheet else "no longer there"
        found.append(
            SizeNeed(
                key=key,
                size=size,
                is_offcut=bool(sheet and sheet.is_offcut),
                planned=planned,
                held=Held(on_hand=on_hand, reserved=reserved),
                others=sum(each.count for each in promised if each.card_class != me),
                is_cut=is_cut,
                lacking=lacking.get(key, 0),
            )
        )
    return tuple(found)


def _verdict(rows: list[PaperRow], bits: list[BitNeed], to_buy: BuyingList) -> dict:
    """Whether the class can be made from what is there, in words."""
    short = [row.paper.name for row in rows if row.lacking]
    uncounted = [row.paper.name for row in rows if row.uncounted and not row.lacking]
    waiting = [row.paper.name for row in rows if not row.sizes]
    few = [bit.name for bit in bits if bit.on_hand is not None and bit.lacking]
    unknown = [bit.name for bit in bits if bit.on_hand is None]
    price = to_buy.purchase.price
    return {
        "short": short,
        "few": few,
        "uncounted": uncounted,
        "unknown": unknown,
        "waiting": waiting,
        "price": price if price > Decimal(0) else None,
        "can": not (short or few or uncounted or unknown or waiting) and bool(rows),
    }
