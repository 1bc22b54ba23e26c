"""Which page, and which sheet of labels, somebody wants to print on: as asked, or as she measures."""

from __future__ import annotations

from django.http import HttpRequest

from zester.core.printing.label_sheets import LABEL_SHEETS, LabelSheet, usual_label_sheet
from zester.core.printing.pages import PAGES, usual_page
from zester.site.owned import key_of
from zester.site.regions import HOUSE, current


def page_asked(request: HttpRequest, unit: str) -> str:
    """A key of ``PAGES``."""
    asked = request.GET.get("page", "")
    return asked if asked in PAGES else _usual(unit)


def _usual(unit: str) -> str:
    # Who has not said what she prints on has what goes with the unit.
    return usual_page(unit) if current() == HOUSE else current().paper


def label_sheet_asked(request: HttpRequest, unit: str) -> tuple[LabelSheet, int]:
    """The sheet of labels, and the label it begins at, counted from 1."""
    sheet = LABEL_SHEETS.get(
        request.GET.get("sheet", ""), LABEL_SHEETS[usual_label_sheet("mm" if _usual(unit) == "a4" else "in")]
    )
    return sheet, key_of(request.GET.get("start", "")) or 1


def page_context(page: str, unit: str) -> dict:
    """What every template of a PDF is told of its page."""
    return {"page": page, "page_size": PAGES[page], "unit": unit}
