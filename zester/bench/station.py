"""How the Cut station of classes stands."""

from __future__ import annotations

from collections.abc import Iterable

from zester.classes.models import CardClass
from zester.plans.models import PaperFit
from zester.plans.standing import Papers, stated
from zester.site.stations import State, some


def cut_states(classes: Iterable[CardClass]) -> dict[int, State]:
    """The Cut station of each class, by key."""
    return {key: _state(papers) for key, papers in stated(classes).items()}


def _state(papers: Papers) -> State:
    if not papers.shown:
        return "wait", "after the fit"
    cut = [fit for fit in papers.shown if fit.held == PaperFit.Held.CUT]
    if len(cut) == len(papers.shown):
        return "done", "all cut"
    if cut or any(fit.held == PaperFit.Held.CUTTING for fit in papers.shown):
        return "going", f"{sum(fit.shown.new_sheets for fit in cut)} of {some(papers.sheets, 'sheet')} cut"
    return ("ready", "steps ready") if papers.current else ("wait", "after the fit")
