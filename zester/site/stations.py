"""The thread of five stations of a class: what is done, what is waiting.

The apps that own a station say how it stands; nothing here knows any of them. Each is asked once for all classes of a
page, and answers from what it has stored.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from django.urls import reverse

from zester.site.dates import number as count_words

# How a station stands, and in a few words what is there: ``done``; ``going``, somebody has begun; ``ready``, it can
# begin; ``wait``, something before it comes first; ``todo``, it needs somebody.
State = tuple[str, str]
WORDS = {
    "done": "done",
    "going": "under way",
    "ready": "can begin",
    "wait": "not yet",
    "todo": "needs you",
    "closed": "closed",
}
SIGNS = {"done": "✓", "going": "…", "ready": "", "wait": "", "todo": "!", "closed": "–"}
States = Callable[[list], dict[int, State]]


@dataclass(frozen=True, kw_only=True)
class Station:
    """One station of one class, as the thread shows it."""

    key: str
    """What it is known by."""
    name: str
    """What it is called."""
    url: str
    """Its page."""
    state: str
    """One of ``WORDS``."""
    words: str
    """What is there, in a few words."""
    here: bool
    """Whether it is the page one is on."""

    @property
    def sign(self) -> str:
        """A sign for the state, so that colour does not stand alone."""
        return SIGNS[self.state]

    @property
    def state_words(self) -> str:
        """The state in words."""
        return WORDS[self.state]


@dataclass(frozen=True, kw_only=True)
class _Owner:
    name: str
    view: str
    states: States


@dataclass(frozen=True, kw_only=True)
class Tab:
    """One page of a station that has several."""

    key: str
    """What it is known by."""
    name: str
    """What it is called."""
    view: str
    """Its page, which takes the class's key."""
    order: int
    """Where it stands among the others."""


_TABS: dict[str, list[Tab]] = {}
_STRIP: list[str] = []
_OWNERS: dict[str, _Owner | None] = dict.fromkeys(("design", "count", "fit", "cut", "pack"))


def register(key: str, name: str, view: str, states: States) -> None:
    """Say how a station stands.

    ``view`` is the name of its page, which takes the class's key; ``states`` takes a list of classes and gives for each
    key the state and its words.
    """
    _OWNERS[key] = _Owner(name=name, view=view, states=states)


def register_tab(station: str, key: str, name: str, view: str, order: int) -> None:
    """Add a page to a station; those of lower order stand first."""
    _TABS.setdefault(station, []).append(Tab(key=key, name=name, view=view, order=order))


def tabs(station: str, pk: int | None) -> list[tuple[Tab, str]]:
    """The pages of a station of the class with this key, with their addresses; the shelf belongs to no class."""
    mine = sorted(_TABS.get(station, ()), key=lambda tab: tab.order)
    return [(tab, reverse(tab.view, args=[] if pk is None else [pk])) for tab in mine]


def register_strip(view: str) -> None:
    """Say which page part, given a class's key, shows how its papers stand."""
    _STRIP.append(view)


def strip_url(pk: int) -> str:
    """Where the strip of papers of a class comes from; empty if nobody shows one."""
    return reverse(_STRIP[0], args=[pk]) if _STRIP else ""


def url_of(stations: Iterable[Station], key: str) -> str:
    """The page of one station of a thread."""
    return next((station.url for station in stations if station.key == key), "")


def threads(classes: Iterable, here: str = "") -> dict[int, list[Station]]:
    """The stations of every class, by its key."""
    classes = list(classes)
    states = {key: owner.states(classes) for key, owner in _OWNERS.items() if owner}
    return {
        each.pk: [
            _station(
                key, owner, each.pk, _closed(states[key][each.pk]) if each.closed_at else states[key][each.pk], here
            )
            for key, owner in _OWNERS.items()
            if owner
        ]
        for each in classes
    }


def _closed(state: State) -> State:
    """Of a class that is handed over nothing can begin and nothing needs anybody any more."""
    return state if state[0] == "done" else ("closed", state[1] if state[0] == "going" else "closed")


def thread(card_class, here: str) -> list[Station]:
    """The stations of one class."""
    return threads([card_class], here)[card_class.pk]


def _station(key: str, owner: _Owner, pk: int, state: State, here: str) -> Station:
    url = reverse(owner.view, args=[pk])
    return Station(key=key, name=owner.name, url=url, state=state[0], words=state[1], here=key == here)


def some(number: int, word: str) -> str:
    """``1 piece``, ``1,200 pieces``."""
    return f"{count_words(number)} {word}{'' if number == 1 else 's'}"
