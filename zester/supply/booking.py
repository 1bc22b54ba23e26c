"""A plan that is being cut, or is cut: held, and booked on the shelf; and all of it taken back."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from django.db import transaction
from django.utils import timezone

from zester.classes.services import hold_class
from zester.core.class_job import SHEET_ID
from zester.core.fitting.jobs.supply import on_shelf_too
from zester.core.stock.offcut_lines import OffcutLine
from zester.plans.models import PaperFit, PaperPlan
from zester.plans.needs import begin
from zester.shelf.models import Entry
from zester.shelf.stock import BY_PLAN, book, correct, put_offcuts

_WITH = ("class_paper__paper", "class_paper__card_class", "shown", "offered")


@dataclass(frozen=True)
class Opened:
    """What was really opened: by the plan's names of sheets, how many, and how many more were torn."""

    used: dict[str, int]
    """Sheets that were cut."""
    torn: dict[str, int] = field(default_factory=dict)
    """Sheets that could not be."""


def _about(fit: PaperFit) -> dict[str, str]:
    return {"about": fit.class_paper.card_class.title, "by": BY_PLAN, "source": f"plan:{fit.shown_id}"}


def _book(fit: PaperFit, kept: Iterable[OffcutLine], opened: Opened | None = None) -> None:
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


def _take_back(fit: PaperFit) -> None:
    """Take back all that was booked when the shown plan was cut."""
    mine = Entry.objects.filter(source=f"plan:{fit.shown_id}", corrects=None, corrected_by=None)
    for entry in mine.exclude(owner=None).order_by("pk"):
        correct(entry)


@transaction.atomic
def let_go(fit: PaperFit) -> None:
    """Hold the shown plan no longer; what was offered takes its place."""
    hold_class(fit.class_paper.card_class_id)
    fit = PaperFit.objects.select_for_update(of=("self",)).select_related(*_WITH).get(pk=fit.pk)
    if fit.held == PaperFit.Held.CUT and fit.shown:
        _take_back(fit)
        PaperPlan.objects.filter(pk=fit.shown_id).update(cut_at=None)
    fit.held = PaperFit.Held.NO
    if fit.offered_id:
        fit.shown, fit.offered = fit.offered, None
    fit.save(update_fields=["held", "shown", "offered", "changed_at"])
    begin([fit])


@transaction.atomic
def cut(fit: PaperFit, done: bool, kept: Iterable[OffcutLine] = (), opened: Opened | None = None) -> None:
    """The shown plan is being cut, or is cut: it is held, and kept for good.

    What is cut is booked: its sheets and offcuts as used, or what was really ``opened``, and what is kept of it
    (``kept``) as left over.
    """
    hold_class(fit.class_paper.card_class_id)
    fit = PaperFit.objects.select_for_update(of=("self",)).select_related(*_WITH).get(pk=fit.pk)
    was = fit.held
    now = timezone.now()
    fit.shown.cutting_at = fit.shown.cutting_at or now
    fit.shown.cut_at = now if done else None
    fit.shown.save(update_fields=["cutting_at", "cut_at"])
    fit.held = PaperFit.Held.CUT if done else PaperFit.Held.CUTTING
    fit.save(update_fields=["held", "changed_at"])
    if done and was != PaperFit.Held.CUT:
        _book(fit, kept, opened)
    elif was == PaperFit.Held.CUT and not done:
        _take_back(fit)
