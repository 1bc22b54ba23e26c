"""How the Fit station of classes stands."""

from __future__ import annotations

from collections.abc import Iterable

from zester.classes.models import CardClass
from zester.plans.standing import Papers, stated
from zester.site.stations import State, some


def fit_states(classes: Iterable[CardClass]) -> dict[int, State]:
    """The Fit station of each class, by key."""
    return {key: _fit_state(papers) for key, papers in stated(classes).items()}


def _fit_state(papers: Papers) -> State:
    if not papers.entries:
        return "wait", "after the list"
    if papers.working:
        return "going", "fitting…"
    if any(entry.fit.problem for entry in papers.entries):
        return "todo", "something in the way"
    if papers.to_fit:
        return ("todo", "changed, fit again") if papers.shown else ("ready", "ready to fit")
    if papers.card_class.n_wrong:
        return "todo", f"{some(papers.card_class.n_wrong, 'line')} to mend"
    return ("todo", "paper is short") if papers.short else ("done", some(papers.sheets, "sheet"))
