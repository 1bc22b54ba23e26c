"""How the Pack station of classes stands."""

from __future__ import annotations

from collections.abc import Iterable

from zester.classes.models import CardClass
from zester.site.stations import State, some


def pack_states(classes: Iterable[CardClass]) -> dict[int, State]:
    """The Pack station of each class, by key."""
    return {
        each.pk: ("done", some(each.n_bags, "bag")) if each.n_pieces else ("wait", "after the list") for each in classes
    }
