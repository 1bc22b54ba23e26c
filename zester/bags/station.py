"""How the Pack station of classes stands."""

from __future__ import annotations

from collections.abc import Iterable

from django.db.models import Count, QuerySet, Value
from django.urls import reverse

from zester.bags.models import Mark, Shortage
from zester.classes.models import CardClass
from zester.site.prepared import prepared
from zester.site.stations import State, some
from zester.site.today import Need


def pack_states(classes: Iterable[CardClass]) -> dict[int, State]:
    """The Pack station of each class, by key."""
    classes = list(classes)
    counts = {(key, what): number for key, what, number in _counts([each.pk for each in classes])}
    return {
        each.pk: _state(each, counts.get((each.pk, "packed"), 0), counts.get((each.pk, "short"), 0)) for each in classes
    }


@prepared
def _counts(classes: list[int]) -> QuerySet:
    """One question for both: the list of classes asks few."""
    open_states = (Shortage.State.OPEN, Shortage.State.BENCH)
    marks = Mark.objects.filter(card_class__in=classes, wanted=True, what__regex=r"-[A-Za-z][A-Za-z0-9]*$")
    packed = _counted(marks, "packed")
    short = _counted(Shortage.objects.filter(card_class__in=classes, state__in=open_states), "short")
    return packed.union(short, all=True)


def _counted(things: QuerySet, what: str) -> QuerySet:
    """By class how many there are."""
    return things.order_by().values_list("card_class", Value(what)).annotate(Count("pk"))


def _state(card_class: CardClass, packed: int, short: int) -> State:
    if not card_class.n_pieces:
        return "wait", "after the list"
    if short:
        return "todo", f"{short} short"
    if packed:
        done = packed >= card_class.n_bags
        return ("done", "all packed") if done else ("going", f"{packed} of {some(card_class.n_bags, 'bag')}")
    return "ready", some(card_class.n_bags, "bag")


def next_to_pack(card_class: CardClass) -> Need | None:
    """What is next at Pack: what is short, then the bags."""
    state, words = pack_states([card_class])[card_class.pk]
    if state == "todo":
        return Need(words=f"see to what is {words}", url=reverse("bags:short", args=[card_class.pk]))
    if state in ("wait", "done"):
        return None
    begun = f"go on packing, {words}" if state == "going" else f"pack {words}"
    return Need(words=begun, url=reverse("bags:pack", args=[card_class.pk]))
