"""How the Cut station of classes stands."""

from __future__ import annotations

from collections.abc import Iterable

from django.core.cache import cache
from django.urls import reverse

from zester.bench import runs
from zester.bench.services import paper_steps
from zester.classes.models import CardClass
from zester.plans.models import PaperFit
from zester.plans.standing import Papers, papers_in, stated
from zester.site.stations import State, some
from zester.site.today import Need


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


def next_to_cut(card_class: CardClass) -> Need | None:
    """The paper that is being cut, else the first that can be, with its minutes as its page says them."""
    there = [fit for fit in papers_in(card_class).shown if fit.held != PaperFit.Held.CUT]
    begun = next((fit for fit in there if fit.held == PaperFit.Held.CUTTING), None)
    if begun:
        return Need(words=f"go on cutting {begun.name}", url=reverse("bench:table", args=[card_class.pk, begun.key]))
    first = next((fit for fit in there if fit.answered and not fit.short), None)
    if first is None:
        return None
    url = reverse("bench:paper", args=[card_class.pk, first.key])
    return Need(words=f"cut {first.name}, about {_minutes(first, card_class)} min", url=url)


def _minutes(first: PaperFit, card_class: CardClass) -> int:
    """What the page of its steps says; a plan never changes, so it is worked out once for each way of cutting."""
    trimmer = card_class.cut_with
    habits = [card_class.habit(name) for name in ("stack", "longest_cut", "narrowest", "keep_short", "keep_long")]
    known_by = hash((first.shown_id, first.shown.made_at, trimmer.pace, trimmer.most_piles, *habits))

    def found() -> int:
        fit = PaperFit.objects.select_related(*runs.WITH_ALL).get(pk=first.pk)
        fit.class_paper.card_class = card_class
        return paper_steps(fit, None).minutes

    return cache.get_or_set(f"minutes-{known_by}", found, 86400)
