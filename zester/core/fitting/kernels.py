"""The compiled loops of the fitting, and the only module that knows the compiler (numba).

Numbers are 64-bit floats that hold whole numbers below 2**53, so sums and comparisons are exact; floats because the
processor compares several of them at once. Arrays of cuts come from ``cut_pairs``: for position p the cuts
``begin[p]`` to ``begin[p + 1]`` with their near and far sides (indices of positions) and how many cuts they take.
"""

from __future__ import annotations

import numpy as np
from numba import njit

NO_CHOICE, AN_ITEM = -1, -2


@njit(cache=True, nogil=True)
def fill_table(
    values, begin_x, near_x, far_x, cuts_x, begin_y, near_y, far_y, cuts_y, may_x, may_y, xs, ys, hold, price
):
    """The knapsack table (see ``knapsack.py``) in place: ``values[i, j]`` starts with the best size that fits exactly.

    ``may_x[j]`` and ``may_y[i]`` tell whether a part of that height (width) can be cut across at all; ``price`` is
    what a cut costs. A part narrower than twice ``hold`` is trimmed only if one of the strips can be held.
    """
    columns, rows = values.shape
    narrower, anywhere = np.zeros(rows), may_x.all()
    for i in range(1, columns):
        row, before = values[i], values[i - 1]
        for j in range(1, rows):
            narrower[j] = max(narrower[j], before[j])
            trimmed = narrower[j] - price
            if xs[i] < 2 * hold:
                trimmed = 0.0
                for k in range(1, i):
                    if max(xs[k], xs[i] - xs[k]) >= hold:
                        trimmed = max(trimmed, values[k, j] - price)
            row[j] = max(row[j], trimmed)
        for k in range(begin_x[i], begin_x[i + 1]):
            one, other, cost = values[near_x[k]], values[far_x[k]], price * cuts_x[k]
            # A plain loop is what the processor can do several steps of at once.
            if anywhere:
                for j in range(1, rows):
                    both = one[j] + other[j] - cost
                    row[j] = both if both > row[j] else row[j]
            else:
                for j in range(1, rows):
                    if may_x[j] and one[j] + other[j] - cost > row[j]:
                        row[j] = one[j] + other[j] - cost
        lower = 0.0
        for j in range(1, rows):
            lower = max(lower, row[j - 1])
            trimmed = lower - price
            if ys[j] < 2 * hold:
                trimmed = 0.0
                for k in range(1, j):
                    if max(ys[k], ys[j] - ys[k]) >= hold:
                        trimmed = max(trimmed, row[k] - price)
            best = row[j] if row[j] > trimmed else trimmed
            if may_y[i]:
                for k in range(begin_y[j], begin_y[j + 1]):
                    both = row[near_y[k]] + row[far_y[k]] - price * cuts_y[k]
                    best = both if both > best else best
            row[j] = best


@njit(cache=True, nogil=True)
def fill_bounded(
    values,
    counts,
    choice,
    limits,
    guards,
    begin_x,
    near_x,
    far_x,
    cuts_x,
    begin_y,
    near_y,
    far_y,
    cuts_y,
    may_x,
    may_y,
    price,
):
    """The same table with the counts of every size kept a cell, no count above its limit (a heuristic).

    ``counts[i, j, w]`` are 64-bit words of packed counts; ``limits`` and ``guards`` tell in one subtraction whether any
    is too high. ``choice[i, j]`` becomes the number of the cut taken (cuts along y after all those along x), stays
    ``AN_ITEM`` where a size lies, or is ``NO_CHOICE`` where a smaller part's content is taken over.
    """
    columns, rows = values.shape
    words = len(limits)
    across = len(near_x)
    for i in range(1, columns):
        for j in range(1, rows):
            best, chosen, one, other = values[i, j], choice[i, j], 0, 0
            for smaller in (i * rows + j - rows, i * rows + j - 1):
                a, b = smaller // rows, smaller % rows
                # Trimmed further it is still one cut, so only the first is paid for.
                trimmed = values[a, b] - (price if choice[a, b] != NO_CHOICE else 0.0)
                if trimmed > best:
                    best, chosen, one, other = trimmed, NO_CHOICE, smaller, 0
            if may_x[j]:
                for k in range(begin_x[i], begin_x[i + 1]):
                    n, f = near_x[k], far_x[k]
                    both = values[n, j] + values[f, j] - price * cuts_x[k]
                    if both > best and _fits(counts[n, j], counts[f, j], limits, guards, words):
                        best, chosen, one, other = both, k, n * rows + j, f * rows + j
            if may_y[i]:
                for k in range(begin_y[j], begin_y[j + 1]):
                    n, f = near_y[k], far_y[k]
                    both = values[i, n] + values[i, f] - price * cuts_y[k]
                    if both > best and _fits(counts[i, n], counts[i, f], limits, guards, words):
                        best, chosen, one, other = both, across + k, i * rows + n, i * rows + f
            if chosen != choice[i, j] or one:
                values[i, j], choice[i, j] = best, chosen
                for w in range(words):
                    counts[i, j, w] = counts[one // rows, one % rows, w] + counts[other // rows, other % rows, w]


@njit(cache=True, nogil=True)
def _fits(first, second, limits, guards, words):
    for w in range(words):
        if ((limits[w] - first[w] - second[w]) & guards[w]) != guards[w]:
            return False
    return True


@njit(cache=True, nogil=True)
def needs_below(values, least, begin_x, near_x, far_x, begin_y, near_y, far_y, may_x, may_y):
    """The least value of any use in every cell, in place: ``least`` holds what the sheets need, infinity elsewhere."""
    columns, rows = values.shape
    for i in range(columns - 1, 0, -1):
        for j in range(rows - 1, 0, -1):
            need = least[i, j]
            if need == np.inf:
                continue
            for a, b in ((i - 1, j), (i, j - 1)):
                if values[a, b] >= need and values[a, b] > 0:
                    least[a, b] = min(least[a, b], need)
            if may_x[j]:
                for k in range(begin_x[i], begin_x[i + 1]):
                    one, other = values[near_x[k], j], values[far_x[k], j]
                    if one + other >= need:
                        if one > 0:
                            least[near_x[k], j] = min(least[near_x[k], j], max(0.0, need - other))
                        if other > 0:
                            least[far_x[k], j] = min(least[far_x[k], j], max(0.0, need - one))
            if may_y[i]:
                for k in range(begin_y[j], begin_y[j + 1]):
                    one, other = values[i, near_y[k]], values[i, far_y[k]]
                    if one + other >= need:
                        if one > 0:
                            least[i, near_y[k]] = min(least[i, near_y[k]], max(0.0, need - other))
                        if other > 0:
                            least[i, far_y[k]] = min(least[i, far_y[k]], max(0.0, need - one))


EMPTY, FROM_LEFT, FROM_ABOVE, A_SIZE = -1, -2, -3, -4
LISTED, TOO_MANY = 0, 1


@njit(cache=True, nogil=True)
def list_vectors(
    values, least, begin_x, near_x, far_x, begin_y, near_y, far_y, may_x, may_y, items, worth, demands, most
):
    """The undominated count vectors of every cell that reach its least value (see ``closing.py``).

    ``items[:, 0:3]`` are cells and sizes; ``most`` are the limits: vectors a cell, vectors in all, merges.

    Returns
    -------
    status, first, vectors, totals, origins
        The vectors of cell (i, j) are rows ``first[c]`` to ``first[c + 1]`` with c = i * rows + j, most valuable first.
        ``origins`` are rows (how, one, other): ``how`` is a cut's number with the rows of both sides, or ``EMPTY``,
        ``FROM_LEFT``, ``FROM_ABOVE`` (with the row there), ``A_SIZE`` (with the size).
    """
    columns, rows = values.shape
    sizes, across = len(worth), len(near_x)
    cap, total, budget = most[0], most[1], most[2]
    first = np.zeros(columns * rows + 1, dtype=np.int64)
    vectors = np.zeros((total, sizes), dtype=np.int16)
    totals = np.zeros(total)
    origins = np.zeros((total, 3), dtype=np.int64)
    raw = np.zeros((4 * cap, sizes), dtype=np.int16)
    raw_total = np.zeros(4 * cap)
    raw_origin = np.zeros((4 * cap, 3), dtype=np.int64)
    places = 16 * cap
    slots = np.zeros(places, dtype=np.int64)
    stamps = np.zeros(places, dtype=np.int64)
    used = 0
    for cell in range(rows, columns * rows):
        first[cell] = used
        i, j = cell // rows, cell % rows
        need = least[i, j]
        if j == 0 or need == np.inf:
            continue
        found = 0
        if need <= 0:
            raw[0] = 0
            found = _offer(raw, raw_total, raw_origin, 0, slots, stamps, cell, worth, 0.0, EMPTY, -1, -1)
        for n in range(len(items)):
            if items[n, 0] == i and items[n, 1] == j and worth[items[n, 2]] >= need and found < 4 * cap:
                raw[found] = 0
                raw[found, items[n, 2]] = 1
                found = _offer(
                    raw, raw_total, raw_origin, found, slots, stamps, cell, worth, need, A_SIZE, items[n, 2], -1
                )
        for way in range(2):
            other_cell = cell - rows if way == 0 else cell - 1
            for row in range(first[other_cell], first[other_cell + 1]):
                if totals[row] < need:
                    break
                if found == 4 * cap:
                    return TOO_MANY, first, vectors, totals, origins
                raw[found] = vectors[row]
                how = FROM_LEFT if way == 0 else FROM_ABOVE
                found = _offer(raw, raw_total, raw_origin, found, slots, stamps, cell, worth, need, how, row, -1)
        for axis in range(2):
            if (axis == 0 and not may_x[j]) or (axis == 1 and not may_y[i]):
                continue
            begin, end = (begin_x[i], begin_x[i + 1]) if axis == 0 else (begin_y[j], begin_y[j + 1])
            for k in range(begin, end):
                if axis == 0:
                    one, other = near_x[k] * rows + j, far_x[k] * rows + j
                else:
                    one, other = i * rows + near_y[k], i * rows + far_y[k]
                if values[one // rows, one % rows] + values[other // rows, other % rows] < need:
                    continue
                how = k if axis == 0 else across + k
                # A side that is worth nothing has no rows; it counts as one empty row, number -1.
                start_one = first[one] if values[one // rows, one % rows] > 0 else -1
                end_one = first[one + 1] if start_one >= 0 else 0
                start_other = first[other] if values[other // rows, other % rows] > 0 else -1
                end_other = first[other + 1] if start_other >= 0 else 0
                for p in range(start_one, end_one):
                    here = totals[p] if p >= 0 else 0.0
                    for q in range(start_other, end_other):
                        both = here + (totals[q] if q >= 0 else 0.0)
                        if both < need:
                            break
                        budget -= 1
                        if found == 4 * cap or budget < 0:
                            return TOO_MANY, first, vectors, totals, origins
                        for s in range(sizes):
                            count = (vectors[p, s] if p >= 0 else 0) + (vectors[q, s] if q >= 0 else 0)
                            raw[found, s] = min(count, demands[s])
                        found = _offer(raw, raw_total, raw_origin, found, slots, stamps, cell, worth, need, how, p, q)
        order = np.argsort(-raw_total[:found], kind="mergesort")
        start = used
        for n in order:
            dominated = False
            for row in range(start, used):
                dominated = True
                for s in range(sizes):
                    if vectors[row, s] < raw[n, s]:
                        dominated = False
                        break
                if dominated:
                    break
            if dominated:
                continue
            if used - start == cap or used == total:
                return TOO_MANY, first, vectors, totals, origins
            vectors[used], totals[used], origins[used] = raw[n], raw_total[n], raw_origin[n]
            used += 1
        first[cell + 1] = used
    first[columns * rows] = used
    return LISTED, first, vectors[:used].copy(), totals[:used].copy(), origins[:used].copy()


@njit(cache=True, nogil=True)
def _offer(raw, raw_total, raw_origin, found, slots, stamps, stamp, worth, need, how, one, other):
    """Keep the vector in row ``found`` if it reaches ``need`` and is new; the number of rows then."""
    sizes = raw.shape[1]
    value, key = 0.0, 1469598103
    for s in range(sizes):
        value += raw[found, s] * worth[s]
        key = (key * 1000003) ^ (raw[found, s] + 7)
    if value < need:
        return found
    place = key % len(slots)
    while stamps[place] == stamp:
        same = True
        for s in range(sizes):
            if raw[slots[place], s] != raw[found, s]:
                same = False
                break
        if same:
            return found
        place = (place + 1) % len(slots)
    stamps[place], slots[place] = stamp, found
    raw_total[found] = value
    raw_origin[found, 0], raw_origin[found, 1], raw_origin[found, 2] = how, one, other
    return found + 1
