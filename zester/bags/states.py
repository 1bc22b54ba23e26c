"""How the Pack station of classes stands."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from django.db.models import Count

from zester.bags.models import Mark, Shortage
from zester.classes.models import CardClass
from zester.site.stations import State, some


def pack_states(classes: Iterable[CardClass]) -> dict[int, State]:
    """The Pack station of each class, by key."""
    classes = list(classes)
    keys = [each.pk for each in classes]
    packed = _counts(Mark.objects.filter(card_class__in=keys, what__regex=r"-[A-Za-z][A-Za-z0-9]*$"))
    open_states = (Shortage.State.OPEN, Shortage.State.BENCH)
    short = _counts(Shortage.objects.filter(card_class__in=keys, state__in=open_states))
    return {each.pk: _state(each, packed[each.pk], short[each.pk]) for each in classes}


def _counts(things) -> Counter:
    return Counter(dict(things.order_by().values_list("card_class").annotate(Count("pk"))))


def _state(card_class: CardClass, packed: int, short: int) -> State:
    if not card_class.n_pieces:
        return "wait", "after the list"
    if short:
        return "todo", f"{short} short"
    if packed:
        done = packed >= card_class.n_bags
        return ("done", "all packed") if done else ("todo", f"{packed} of {some(card_class.n_bags, 'bag')}")
    return "done", some(card_class.n_bags, "bag")
