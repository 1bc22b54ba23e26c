"""The compiled loops of ``shared_rail.py``: what an order over papers takes, making it shorter, one paper fitted in.

An *item* is what is done of one paper at one place of the rail. ``items`` are tables, one entry an item, paper after
paper, each paper's in its own order: its place (ticks), its paper's number, whether a stack of it can stay in the hand
for the next item of its paper, how many groups it has, how many piles of its paper lie there after it. An order is a
sequence of items; items of one place that follow each other are one stop of the rail.

Import it only where something is compiled, as with ``fitting.patterns.kernels``.
"""

from __future__ import annotations

import numpy as np

from zester.core.fitting.patterns.kernels import compiled


@compiled
def order_seconds(order, items, room, prices, stop_of):
    """Seconds for setting the rail, less the stacks that stay in the hand; more for piles beyond the room (0: any).

    ``prices``: a setting, a fetch, a pile too many; ``stop_of`` is filled with the stop of every item.
    """
    places, papers, hands, groups, piles = items
    setting, fetch, too_many = prices
    many = len(order)
    stop, last = -1, -1
    for index in range(many):
        if places[order[index]] != last:
            stop += 1
            last = places[order[index]]
        stop_of[order[index]] = stop
    held, begin, came = 0, 0, -1
    for stop_here in range(stop + 1):
        end, there = begin, 0
        while end < many and stop_of[order[end]] == stop_here:
            there += groups[order[end]]
            end += 1
        goes = -1
        for index in range(begin, end):
            item = order[index]
            if hands[item] and stop_of[item + 1] == stop_here + 1:
                # What came in the hand is cut first, what stays in it last: not the same, if there is anything else.
                if item == came and groups[item] == 1 and there > 1:
                    continue
                goes = item
                if item != came:
                    break
        held += goes >= 0
        came = goes + 1 if goes >= 0 else -1
        begin = end
    over = 0
    if room > 0:
        lying = 0
        for index in range(many):
            item = order[index]
            before = piles[item - 1] if item > 0 and papers[item - 1] == papers[item] else 0
            lying += piles[item] - before
            over += max(0, lying - room)
    return setting * (stop + 1) - fetch * held + too_many * over


@compiled
def shorten(seed, order, items, room, prices, moves, warmth):
    """Simulated annealing: an item goes elsewhere between its neighbours of the same paper, mostly beside its like.

    ``order`` is changed, and left at the end as the best that was met; its seconds.
    """
    np.random.seed(seed)
    places, papers = items[0], items[1]
    many = len(order)
    stop_of, at, new = np.zeros(many + 1, np.int64), np.zeros(many, np.int64), order.copy()
    for index in range(many):
        at[order[index]] = index
    now = order_seconds(order, items, room, prices, stop_of)
    best, best_order = now, order.copy()
    for move in range(moves):
        item = np.random.randint(many)
        here = at[item]
        low = at[item - 1] + 1 if item > 0 and papers[item - 1] == papers[item] else 0
        high = at[item + 1] - 1 if item < many - 1 and papers[item + 1] == papers[item] else many - 1
        there, alike = -1, 0
        if np.random.random() < 0.8:
            for index in range(low, high + 1):
                if index != here and places[order[index]] == places[item]:
                    alike += 1
                    if np.random.randint(alike) == 0:
                        there = index
        elif high > low:
            there = np.random.randint(low, high + 1)
        if there < 0 or there == here:
            continue
        _shift(order, new, here, there)
        seconds = order_seconds(new, items, room, prices, stop_of)
        warm = warmth * 0.02 ** (move / moves)
        if seconds <= now or np.random.random() < np.exp((now - seconds) / warm):
            for index in range(min(here, there), max(here, there) + 1):
                order[index] = new[index]
                at[order[index]] = index
            now = seconds
            if now < best:
                best = now
                best_order[:] = order
        else:
            for index in range(min(here, there), max(here, there) + 1):
                new[index] = order[index]
    order[:] = best_order
    return best


@compiled
def _shift(order, new, here, there):
    """What stands here goes there, in ``new``; all between moves up."""
    step = 1 if there > here else -1
    for index in range(here, there, step):
        new[index] = order[index + step]
    new[there] = order[here]


@compiled
def fit_in(stops, bridged, places, hands, setting, fetch):
    """Where a paper's items go best between the stops of the others: dynamic programming over items and spots.

    Spot ``2 n + 1`` is stop n, spot ``2 n`` a stop of its own before that. ``bridged``: after which stops of the others
    a stack stays in the hand. The seconds that come to it, and every item's spot.
    """
    many, spots = len(places), 2 * len(stops) + 1
    least, origin = np.full((many, spots), np.inf), np.zeros((many, spots), np.int64)
    for item in range(many):
        # The best of the spots so far for the item before: from those further back no stack stays in the hand.
        back = 0
        for spot in range(spots):
            if item and spot and least[item - 1, spot - 1] < least[item - 1, back]:
                back = spot - 1
            stop = spot // 2
            inside = spot % 2 == 1
            if inside and stops[stop] != places[item]:
                continue
            price = 0.0 if inside else setting
            if not inside and 0 < stop < len(stops) and bridged[stop - 1]:
                price += fetch
            if item == 0:
                least[item, spot] = price
                continue
            for before in (back, spot - 2, spot - 1, spot):
                # Two items of a paper are never at the same stop of the others.
                if before < 0 or (inside and before == spot):
                    continue
                value = least[item - 1, before] + price
                next_to = before >= spot - 1 or (inside and before == spot - 2 and not bridged[stop - 1])
                if hands[item - 1] and next_to:
                    value -= fetch
                if value < least[item, spot]:
                    least[item, spot] = value
                    origin[item, spot] = before
    spot = np.argmin(least[many - 1])
    seconds, found = least[many - 1, spot], np.zeros(many, np.int64)
    for item in range(many - 1, -1, -1):
        found[item] = spot
        spot = origin[item, spot]
    return seconds, found
