"""How the Fit station of classes stands."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from django.urls import reverse

from zester.classes.models import CardClass
from zester.plans.standing import Papers, papers_in, stated
from zester.site.stations import State, some
from zester.site.today import Need


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


def next_to_fit(card_class: CardClass) -> Need | None:
    """What is next at Fit; while plans are looked for nothing has to be done."""
    papers = papers_in(card_class)
    wall = reverse("fits:wall", args=[card_class.pk])
    problem = next((entry for entry in papers.entries if entry.fit.problem), None)
    if problem:
        return Need(words=f"see why {problem.fit.name} cannot be fitted", url=wall)
    return Need(words="fit it", url=wall) if papers.to_fit and not papers.working else None


def papers_short(card_class: CardClass) -> Iterator[Need]:
    """The papers that there is not enough of."""
    for fit in papers_in(card_class).short:
        url = f"{reverse('fits:buying')}?class={card_class.pk}"
        yield Need(words=f"{fit.name}: {some(fit.short, 'sheet')} short", url=url, grave=True)
