"""The loops that fill a knapsack table, in plain Python: as they stand for small tables, compiled for others.

Compiled (``kernels.py``) they are a hundred times as fast, but loading the compiler takes longer than a small fit.

Numbers are 64-bit floats that hold whole numbers below 2**53, so sums and comparisons are exact; floats because the
processor compares several of them at once. Arrays of cuts come from ``cut_pairs``: for position p the cuts
``begin[p]`` to ``begin[p + 1]`` with their near and far sides (indices of positions) and how many cuts they take.
"""

from __future__ import annotations

import numpy as np

NO_CHOICE, AN_ITEM = -1, -2
EMPTY, FROM_LEFT, FROM_ABOVE, A_SIZE = -1, -2, -3, -4
LISTED, TOO_MANY = 0, 1


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
    words, across = len(limits), len(near_x)
    # A cell is known by its number here.
    flat, flat_counts, flat_choice = values.reshape(-1), counts.reshape((-1, words)), choice.reshape(-1)
    for i in range(1, columns):
        for j in range(1, rows):
            cell = i * rows + j
            best, chosen, one, other = flat[cell], flat_choice[cell], 0, 0
            for smaller in (cell - rows, cell - 1):
                # Trimmed further it is still one cut, so only the first is paid for.
                trimmed = flat[smaller] - (price if flat_choice[smaller] != NO_CHOICE else 0.0)
                if trimmed > best:
                    best, chosen, one, other = trimmed, NO_CHOICE, smaller, 0
            first = begin_x[i] if may_x[j] else begin_x[i + 1]
            last = begin_y[j + 1] if may_y[i] else begin_y[j]
            for number in range(begin_x[i + 1] - first + last - begin_y[j]):
                k = first + number
                sideways = k < begin_x[i + 1]
                if sideways:
                    near, far, cuts = near_x[k] * rows + j, far_x[k] * rows + j, cuts_x[k]
                else:
                    k += begin_y[j] - begin_x[i + 1]
                    near, far, cuts = i * rows + near_y[k], i * rows + far_y[k], cuts_y[k]
                both = flat[near] + flat[far] - price * cuts
                if both > best:
                    fits = True
                    for w in range(words):
                        fits = (
                            fits and ((limits[w] - flat_counts[near, w] - flat_counts[far, w]) & guards[w]) == guards[w]
                        )
                    if fits:
                        best, chosen, one, other = both, k if sideways else across + k, near, far
            if chosen != flat_choice[cell] or one:
                flat[cell], flat_choice[cell] = best, chosen
                for w in range(words):
                    flat_counts[cell, w] = flat_counts[one, w] + flat_counts[other, w]
