"""Cutting a plan, booked on the shelf: what it used, what it left over; and all of it taken back."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from zester.core.class_job import SHEET_ID
from zester.core.fitting.supply import on_shelf_too
from zester.core.stock.offcut_lines import OffcutLine
from zester.fits.models import PaperFit
from zester.shelf.models import Entry
from zester.shelf.stock import BY_PLAN, book, correct, put_offcuts


@dataclass(frozen=True)
class Opened:
    """What was really opened: by the plan's names of sheets, how many, and how many more were torn."""

    used: dict[str, int]
    """Sheets that were cut."""
    torn: dict[str, int] = field(default_factory=dict)
    """Sheets that could not be."""


def _about(fit: PaperFit) -> dict[str, str]:
    return {"about": fit.class_paper.card_class.title, "by": BY_PLAN, "source": f"plan:{fit.shown_id}"}


def book_cut(fit: PaperFit, kept: Iterable[OffcutLine], opened: Opened | None = None) -> None:
    """Book what the shown plan uses, or what was really opened, and what is kept of it as left over.

    Sheets that nobody counts are not booked.
    """
    paper = fit.paper
    sheets = {sheet.key: sheet for sheet in paper.sheets.all()}
    opened = opened or Opened(fit.shown.used)
    for kind, counts in (("used", opened.used), ("spoiled", opened.torn)):
        for name, count in on_shelf_too(counts).items():
            sheet = sheets.get(name)
            counted = paper.on_hand if name == SHEET_ID else sheet and sheet.on_hand
            if counted is not None and (name == SHEET_ID or sheet):
                book(paper, sheet, kind, count, **_about(fit))
    put_offcuts(fit.class_paper.card_class.owner, kept, kind="left", **_about(fit))


def take_cut_back(fit: PaperFit) -> None:
    """Take back all that was booked when the shown plan was cut."""
    mine = Entry.objects.filter(source=f"plan:{fit.shown_id}", corrects=None, corrected_by=None)
    for entry in mine.exclude(owner=None).order_by("pk"):
        correct(entry)
