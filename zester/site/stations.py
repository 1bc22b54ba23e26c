"""The thread of five stations for the class that is open: what is done, what is waiting."""

from __future__ import annotations

from dataclasses import dataclass

from django.urls import reverse

from zester.classes.services import ClassSheet
from zester.fits.services import is_current, latest_fit, latest_plan, with_plan

NAMES = {"design": "Design", "count": "Count", "fit": "Fit", "cut": "Cut", "pack": "Pack"}


@dataclass(frozen=True)
class Station:
    """One station: ``state`` is done, todo or wait; ``words`` say what is there."""

    key: str
    name: str
    url: str
    state: str
    words: str
    here: bool


def _some(number: int, word: str) -> str:
    return f"{number:,} {word}{'' if number == 1 else 's'}"


def thread(sheet: ClassSheet, here: str) -> list[Station]:
    """The five stations of a class."""
    states = {"design": _design(sheet), "count": _count(sheet)}
    fit_state = _fit(sheet)
    states["fit"] = fit_state
    states["cut"] = _cut(sheet, fit_state)
    states["pack"] = ("done", _some(sheet.all_cards, "bag")) if sheet.all_pieces else ("wait", "after the list")
    return [
        Station(key, name, reverse(f"{_APPS[key]}", args=[sheet.card_class.pk]), *states[key], key == here)
        for key, name in NAMES.items()
    ]


_APPS = {
    "design": "designs:desk",
    "count": "classes:count",
    "fit": "fits:sheets",
    "cut": "bench:steps",
    "pack": "bags:pack",
}


def _design(sheet: ClassSheet) -> tuple[str, str]:
    if sheet.errors:
        return "todo", f"{_some(sheet.errors, 'line')} to mend"
    if not sheet.lines:
        return "todo", "write the first card"
    return "done", f"{_some(len(sheet.cards), 'card')}, {_some(sheet.lines, 'line')}"


def _count(sheet: ClassSheet) -> tuple[str, str]:
    if not sheet.all_pieces:
        return "wait", "after the list"
    return "done", _some(sheet.all_pieces, "piece")


def _cut(sheet: ClassSheet, fit_state: tuple[str, str]) -> tuple[str, str]:
    if latest_plan(sheet.card_class) is None:
        return "wait", "after the fit"
    return ("done", "steps ready") if fit_state[0] == "done" else ("todo", fit_state[1])


def _fit(sheet: ClassSheet) -> tuple[str, str]:
    newest = latest_fit(sheet.card_class)
    if newest and newest.running:
        return "todo", "fitting…"
    found = latest_plan(sheet.card_class)
    if not found:
        return ("todo", "ready to fit") if sheet.all_pieces and not sheet.errors else ("wait", "after the list")
    if not is_current(found, sheet):
        return "todo", "changed, fit again"
    _, plan = with_plan(found)
    if plan.short:
        return "todo", "paper is short"
    return "done", _some(sum(paper.sheets for paper in plan.papers), "sheet")
