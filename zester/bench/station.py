"""How the Cut station of classes stands."""

from __future__ import annotations

from collections.abc import Iterable

from zester.classes.models import CardClass
from zester.plans.models import PaperFit
from zester.plans.standing import Papers, stated
from zester.site.stations import State


def cut_states(classes: Iterable[CardClass]) -> dict[int, State]:
    """The Cut station of each class, by key."""
    return {key: _state(papers) for key, papers in stated(classes).items()}


def _state(papers: Papers) -> State:
    if not papers.shown:
        return "wait", "after the fit"
    cut = sum(fit.held == PaperFit.Held.CUT for fit in papers.shown)
    if cut == len(papers.shown):
        return "done", "all cut"
    if cut or any(fit.held == PaperFit.Held.CUTTING for fit in papers.shown):
        return "todo", f"{cut} of {len(papers.shown)} cut"
    return ("done", "steps ready") if papers.current else ("todo", "after the fit")
