"""A paper that somebody chose can be cut up in several ways: which pieces of the cards come out of one piece of it.

Every card's pieces, every two cards' together, and as many as go of one piece are tried; ways that make nothing which
another way does not make, too, are left out. What none of the best three makes gets ways of its own, so that together
all of them make every card. Each is told in as few cuts as its parts allow.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

from zester.core.errors import ZesterError
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.fewest_cuts import fewest_cuts
from zester.core.fitting.jobs.job import ANY_BENCH, Bench, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.plan import Layout
from zester.core.geometry import goes_in

SECONDS = 1.0
MOST_WAYS, MOST_TRIES, MOST_OF_ONE = 3, 16, 6
SHEET = "sheet"


@dataclass(frozen=True)
class Way:
    """A way to cut a paper up."""

    layout: Layout
    """The cuts and what each part is."""
    made: tuple[tuple[str, int], ...]
    """The handles of the pieces that come out, and how many of each."""


def ways_of(
    width: int, height: int, cards: Sequence[Sequence[Piece]], bench: Bench = ANY_BENCH, *, turn: bool = True
) -> list[Way]:
    """The best three ways, that which uses most of the paper first, and those that make what they leave out.

    Parameters
    ----------
    width, height
        Of the paper that was chosen, ticks.
    cards
        For every card what one of it takes of such a paper; pieces that are too large are left out.
    bench
        What it is cut with.
    turn
        Whether pieces may lie a quarter turn round on that paper.
    """
    fitting = [
        [piece for piece in card if goes_in(piece.width, piece.height, width, height, turn=piece.turn and turn)]
        for card in cards
    ]
    fitting = [card for card in fitting if card]
    area = width * height
    tries = [*map(list, fitting), *([*one, *other] for one, other in combinations(fitting, 2))]
    tries = [pieces for pieces in tries if sum(p.width * p.height * p.count for p in pieces) <= area]
    tries += [[_as_many(piece, width, height, turn)] for card in fitting for piece in card]
    tries.sort(key=lambda pieces: -sum(p.width * p.height * p.count for p in pieces))
    found: list[Way] = []
    for pieces in tries[:MOST_TRIES]:
        way = _way(width, height, pieces, bench, turn)
        if way and not any(_within(way, other) for other in found):
            found.append(way)
        if len(found) == MOST_WAYS:
            break
    return [*found, *_of_the_rest(width, height, fitting, found, bench, turn=turn)]


def _of_the_rest(
    width: int, height: int, cards: Sequence[Sequence[Piece]], found: Sequence[Way], bench: Bench, *, turn: bool
) -> list[Way]:
    """Ways, as few as can be, for the pieces that none of those found makes."""
    made = {piece for way in found for piece, _ in way.made}
    rest = {
        piece.id: replace(piece, turn=piece.turn and turn) for card in cards for piece in card if piece.id not in made
    }
    if not rest:
        return []
    sheet = Sheet(id=SHEET, width=width, height=height)
    try:
        plan = fit_paper(
            PaperJob(id="rest", sheets=(sheet,), pieces=tuple(rest.values())), bench, lambda _: None, SECONDS
        )
    except ZesterError:
        # The trimmer cannot cut them.
        return []
    return [_as_way(layout, width, height) for layout in plan.on_sheets]


def _as_way(layout: Layout, width: int, height: int) -> Way:
    made = Counter(named.piece for named in layout.parts)
    return Way(fewest_cuts(layout, width, height), tuple(sorted(made.items())))


def _as_many(piece: Piece, width: int, height: int, turn: bool) -> Piece:
    """As many of a piece as a grid has room for, up to a number that somebody would cut out by hand."""
    straight = (width // piece.width) * (height // piece.height)
    turned = (width // piece.height) * (height // piece.width) if piece.turn and turn else 0
    return Piece(
        id=piece.id,
        width=piece.width,
        height=piece.height,
        count=min(MOST_OF_ONE, max(straight, turned)),
        turn=piece.turn,
    )


def _way(width: int, height: int, pieces: Sequence[Piece], bench: Bench, turn: bool) -> Way | None:
    added: dict[str, Piece] = {}
    for piece in pieces:
        count = piece.count + (added[piece.id].count if piece.id in added else 0)
        added[piece.id] = Piece(
            id=piece.id, width=piece.width, height=piece.height, count=count, turn=piece.turn and turn
        )
    job = PaperJob(
        id="chosen", sheets=(Sheet(id=SHEET, width=width, height=height, count=1),), pieces=tuple(added.values())
    )
    try:
        plan = fit_paper(job, bench, lambda _: None, SECONDS)
    except ZesterError:
        # The trimmer cannot cut it: then it is no way.
        return None
    if plan.short or plan.sheets != 1:
        return None
    return _as_way(plan.on_sheets[0], width, height)


def _within(way: Way, other: Way) -> bool:
    """Whether a way makes nothing that the other does not make, too."""
    more = dict(other.made)
    return all(more.get(piece, 0) >= count for piece, count in way.made)
