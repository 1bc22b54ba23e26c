"""A plan that is being cut, or is cut: held, and booked on the shelf; and all of it taken back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from contextlib import ExitStack
from dataclasses import dataclass, field

from django.db import transaction
from django.utils import timezone

from zester.classes.held import follow_again, hold_designs
from zester.classes.services import hold_class
from zester.core.class_job import SHEET_ID
from zester.core.fitting.jobs.supply import on_shelf_too
from zester.core.stock.offcut_lines import OffcutLine
from zester.plans.models import PaperFit, PaperPlan
from zester.plans.needs import begin, note_anew, settle
from zester.shelf.models import Entry, Sheet
from zester.shelf.stock import BY_PLAN, book, correct, put_offcuts, stays_uncounted

_WITH = ("class_paper__paper", "class_paper__card_class", "shown", "offered")


@dataclass(frozen=True)
class Opened:
    """What was really opened: by the plan's names of sheets, how many, and how many more were torn."""

    used: dict[str, int]
    """Sheets that were cut."""
    torn: dict[str, int] = field(default_factory=dict)
    """Sheets that could not be."""
    bought: dict[str, int] = field(default_factory=dict)
    """Sheets that were bought for it and are not booked yet."""

    @property
    def in_all(self) -> dict[str, int]:
        """Sheets that left the shelf, by the names the shelf knows."""
        return on_shelf_too(Counter(self.used) + Counter(self.torn))


@dataclass(frozen=True, kw_only=True)
class Unbooked:
    """Sheets that were opened though the shelf knows nothing of them."""

    key: str
    """What plans call the kind of sheet."""
    size: str
    """Its size in words."""
    opened: int
    """How many were opened."""
    there: int | None
    """How many the shelf has; None: nobody counts them."""

    @property
    def count(self) -> int:
        """How many came from elsewhere."""
        return self.opened - (self.there or 0)


def unbooked(fit: PaperFit, opened: Opened) -> list[Unbooked]:
    """What has to be asked before a paper is booked: sheets that it took and that the shelf does not have."""
    found = []
    for key, count in opened.in_all.items():
        sheet, there = _sheet(fit, key)
        if (key == SHEET_ID or (sheet and not sheet.is_offcut)) and (there or 0) < count:
            size = sheet.size_text if sheet else fit.paper.size_text
            found.append(Unbooked(key=key, size=size, opened=count, there=there))
    return found


def _sheet(fit: PaperFit, key: str) -> tuple[Sheet | None, int | None]:
    """A kind of sheet of the paper by the plan's name, and how many lie there."""
    if key == SHEET_ID:
        return None, fit.paper.on_hand
    sheet = next((each for each in fit.paper.sheets.all() if each.key == key), None)
    return sheet, sheet.on_hand if sheet else None


def _about(fit: PaperFit) -> dict[str, str]:
    return {"about": fit.class_paper.card_class.title, "by": BY_PLAN, "source": f"plan:{fit.shown_id}"}


def _book(fit: PaperFit, kept: Iterable[OffcutLine], opened: Opened | None = None) -> None:
    """Book what the shown plan uses, or what was really opened, and what is kept of it as left over."""
    opened = opened or Opened(fit.shown.used)
    for key in opened.in_all:
        _book_sheets(fit, key, opened)
    put_offcuts(fit.class_paper.card_class.owner, kept, kind="left", **_about(fit))


def _book_sheets(fit: PaperFit, key: str, opened: Opened) -> None:
    """One kind of sheet: what was bought, what more lay there than was counted, what is gone.

    Sheets that nobody counts and nobody bought are not booked.
    """
    sheet, there = _sheet(fit, key)
    bought = opened.bought.get(key, 0)
    if (there is None and not bought) or (sheet is None and key != SHEET_ID):
        return
    gone = opened.in_all[key]
    entries = {"bought": bought, "counted": max(0, gone - bought - (there or 0))}
    for kind, counts in (("used", opened.used), ("spoiled", opened.torn)):
        entries[kind] = on_shelf_too(counts).get(key, 0)
    with stays_uncounted(fit.paper, sheet):
        for kind, count in entries.items():
            if count:
                book(fit.paper, sheet, kind, count, **_about(fit))


def _take_back(fit: PaperFit) -> None:
    """Take back all that was booked when the shown plan was cut."""
    mine = Entry.objects.filter(source=f"plan:{fit.shown_id}", corrects=None, corrected_by=None)
    # The last first, so that nothing is ever below nothing.
    entries = list(mine.exclude(owner=None).select_related("paper", "sheet").order_by("-pk"))
    things = {(each.paper_id, each.sheet_id): (each.paper, each.sheet) for each in entries}
    with ExitStack() as stack:
        for paper, sheet in things.values():
            stack.enter_context(stays_uncounted(paper, sheet))
        for entry in entries:
            correct(entry)


@transaction.atomic
def let_go(fit: PaperFit) -> None:
    """Hold the shown plan no longer; what was offered takes its place."""
    card_class = hold_class(fit.class_paper.card_class_id)
    fit = PaperFit.objects.select_for_update(of=("self",)).select_related(*_WITH).get(pk=fit.pk)
    was_done = fit.done
    if fit.held == PaperFit.Held.CUT and fit.shown:
        _take_back(fit)
        PaperPlan.objects.filter(pk=fit.shown_id).update(cut_at=None)
    fit.held, fit.lost, fit.over = PaperFit.Held.NO, {}, []
    if fit.offered_id:
        fit.shown, fit.offered = fit.offered, None
    fit.save(update_fields=["held", "shown", "offered", "lost", "over", "changed_at"])
    if was_done:
        note_anew(card_class, {fit.paper.key})
        follow_again(card_class)
        fit.refresh_from_db(fields=["need", "labels", "job", "problem"])
    begin([fit])


@transaction.atomic
def cut(
    fit: PaperFit,
    done: bool,
    kept: Iterable[OffcutLine] = (),
    opened: Opened | None = None,
    lost: Mapping[str, int] | None = None,
) -> None:
    """The shown plan is being cut, or is cut: it is held, and kept for good.

    What is cut is booked: its sheets and offcuts as used, or what was really ``opened``, and what is kept of it
    (``kept``) as left over. What the class wants beyond it, pieces that were ``lost`` too, becomes a supplement.
    """
    card_class = hold_class(fit.class_paper.card_class_id)
    fit = PaperFit.objects.select_for_update(of=("self",)).select_related(*_WITH).get(pk=fit.pk)
    was = fit.held
    now = timezone.now()
    fit.shown.cutting_at = fit.shown.cutting_at or now
    fit.shown.cut_at = now if done else None
    fit.shown.save(update_fields=["cutting_at", "cut_at"])
    if not fit.done:
        settle(fit)
        hold_designs(card_class)
    fit.held = PaperFit.Held.CUT if done else PaperFit.Held.CUTTING
    fit.lost = dict(lost or {})
    fit.save()
    if done and was != PaperFit.Held.CUT:
        _book(fit, kept, opened)
    elif was == PaperFit.Held.CUT and not done:
        _take_back(fit)
    note_anew(card_class, {fit.paper.key})
