"""The compiled loops of the fitting, and the only module that knows the compiler (numba).

Import it only where something is compiled: loading it takes longer than a small fit. For the numbers see ``loops.py``.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from zester.core.fitting.patterns import loops
from zester.core.fitting.patterns.loops import A_SIZE, EMPTY, FROM_ABOVE, FROM_LEFT, LISTED, TOO_MANY

# What compiles a loop elsewhere.
compiled = njit(cache=True, nogil=True)
fill_table = njit(cache=True, nogil=True)(loops.fill_table)
fill_bounded = njit(cache=True, nogil=True)(loops.fill_bounded)


@njit(cache=True, nogil=True)
def fill_in_blocks(
    values, begin_x, near_x, far_x, cuts_x, begin_y, near_y, far_y, cuts_y, may_x, may_y, price, first, wide
):
    """``loops.fill_table`` for large tables, if nothing has to be held: several columns at once.

    Block n are the columns from ``first[n]`` to ``first[n + 1]``, at most ``wide``, none of which is a side of a cut of
    another. Cuts along y are compared for all of them in one loop, so the processor can do several steps of it at once.
    """
    rows = values.shape[1]
    narrower, lower, anywhere = np.zeros(rows), np.zeros(wide), may_x.all()
    block, barred = np.zeros((rows, wide)), np.zeros(wide)
    for n in range(len(first) - 1):
        start, many = first[n], first[n + 1] - first[n]
        for b in range(many):
            i = start + b
            row = values[i]
            barred[b] = 0.0 if may_y[i] else np.inf
            for k in range(begin_x[i], begin_x[i + 1]):
                one, other, cost = values[near_x[k]], values[far_x[k]], price * cuts_x[k]
                if anywhere:
                    for j in range(1, rows):
                        both = one[j] + other[j] - cost
                        row[j] = both if both > row[j] else row[j]
                else:
                    for j in range(1, rows):
                        if may_x[j] and one[j] + other[j] - cost > row[j]:
                            row[j] = one[j] + other[j] - cost
            for j in range(rows):
                block[j, b] = row[j]
        lower[:] = 0.0
        for j in range(1, rows):
            line, before = block[j], block[j - 1]
            for b in range(wide):
                lower[b] = before[b] if before[b] > lower[b] else lower[b]
                trimmed = lower[b] - price
                line[b] = trimmed if trimmed > line[b] else line[b]
            for k in range(begin_y[j], begin_y[j + 1]):
                one, other, cost = block[near_y[k]], block[far_y[k]], price * cuts_y[k]
                for b in range(wide):
                    both = one[b] + other[b] - cost - barred[b]
                    line[b] = both if both > line[b] else line[b]
            for b in range(many):
                line[b] = max(line[b], narrower[j] - price)
                narrower[j] = max(narrower[j], line[b])
        for b in range(many):
            values[start + b] = block[:, b]


@njit(cache=True, nogil=True)
def fill_rows(
    values,
    begin_x,
    near_x,
    times_x,
    far_x,
    exact_x,
    begin_y,
    near_y,
    times_y,
    far_y,
    exact_y,
    may_x,
    may_y,
    fetch_x,
    fetch_y,
    stroke,
):
    """The table over rows (see ``rows.py``) in place: ``values[i, j]`` starts with the best size that fits exactly.

    Gives back, for every cell, the best of the cells up to it along x and along y, the setting for trimming to it paid
    for.
    """
    columns, rows = values.shape
    trimmed_x, trimmed_y = np.full((columns, rows), -np.inf), np.full((columns, rows), -np.inf)
    across, down = (begin_x, near_x, times_x, far_x, exact_x), (begin_y, near_y, times_y, far_y, exact_y)
    for i in range(1, columns):
        for j in range(1, rows):
            best = values[i, j]
            if may_x[j]:
                best = max(best, _best_row(i, values[:, j], trimmed_x[:, j], across, fetch_x, stroke))
            if may_y[i]:
                best = max(best, _best_row(j, values[i], trimmed_y[i], down, fetch_y, stroke))
            values[i, j] = best
            trimmed_x[i, j] = max(trimmed_x[i - 1, j], best - fetch_x[i])
            trimmed_y[i, j] = max(trimmed_y[i, j - 1], best - fetch_y[j])
    return trimmed_x, trimmed_y


@njit(cache=True, nogil=True)
def _best_row(place, values, trimmed, cuts, fetch, stroke):
    """The most that a part gives if it is cut along one axis first."""
    begin, nears, many, fars, exact = cuts
    best = trimmed[place - 1] - stroke
    for k in range(begin[place], begin[place + 1]):
        near, far = nears[k], fars[k]
        if values[near] <= 0:
            continue
        value = values[far] + (stroke if far == 0 else 0.0) if exact[k] else max(0.0, trimmed[far] - stroke)
        best = max(best, value + many[k] * (values[near] - stroke) - fetch[near])
    return max(0.0, best)


@njit(cache=True, nogil=True)
def fill_in_hand(base, across, down, may, same, prices):
    """The table of ``hand_table.py``: values, best first cuts by place along x and along y, those between positions.

    ``base`` holds what the sizes are worth, ``same[0][i]`` the row whose position is that of column i, or -1;
    ``prices`` are fetch and stroke. Values that no cut gives are minus infinity.
    """
    columns, rows = base.shape
    fetch = prices[0]
    values = np.zeros((columns, rows))
    first_x, first_y = np.full((columns, rows, columns), -np.inf), np.full((columns, rows, rows), -np.inf)
    # The same for the best cell up to this one along the other side.
    up_x, up_y = np.full((columns, rows, columns), -np.inf), np.full((columns, rows, rows), -np.inf)
    most_x, most_y = np.full((columns, rows), -np.inf), np.full((columns, rows), -np.inf)
    for i in range(1, columns):
        for j in range(1, rows):
            cut = -np.inf
            if may[0][j]:
                lines = values[:, j], first_y[:, j], up_y[:, j], most_x[:, j], same[0]
                cut = max(cut, _cut_in_hand(first_x[i, j], across, i, lines, prices))
            if may[1][i]:
                lines = values[i], first_x[i], up_x[i], most_y[i], same[1]
                cut = max(cut, _cut_in_hand(first_y[i, j], down, j, lines, prices))
            values[i, j] = max(0.0, base[i, j], cut)
            most_x[i, j] = max(most_x[i - 1, j], cut, base[i, j] - fetch)
            most_y[i, j] = max(most_y[i, j - 1], cut, base[i, j] - fetch)
            up_y[i, j] = np.maximum(up_y[i - 1, j], first_y[i, j])
            up_x[i, j] = np.maximum(up_x[i, j - 1], first_x[i, j])
    return values, first_x, first_y, up_x, up_y, most_x, most_y


@njit(cache=True, nogil=True)
def _cut_in_hand(first, cuts, place, lines, prices):
    """The best of a part that is cut along one axis first, for every place, into ``first``; the best of all."""
    begin, near, _, _, _ = cuts
    best = -np.inf
    for k in range(begin[place], begin[place + 1]):
        value = row_in_hand(k, cuts, lines, prices)
        first[near[k]] = max(first[near[k]], value)
        best = max(best, value)
    return best


@njit(cache=True, nogil=True)
def row_in_hand(k, cuts, lines, prices):
    """What row k is worth, with its fetch paid; ``lines`` are, along its axis, the values, the first cuts along the
    other axis, those between positions, the best between positions, and the place there that is the same."""
    _, near, times, far, exact = cuts
    values, other, between, most, same = lines
    fetch, stroke = prices
    at, rest, again = near[k], far[k], same[near[k]]
    strip = values[at]
    if again >= 0:
        strip = max(strip, other[at, again] + fetch)
    # A strip that is worth nothing may be a piece all the same, and what remains is in the hand then.
    value = times[k] * (strip - stroke) - fetch
    if rest == 0 and exact[k]:
        return value + stroke
    if exact[k]:
        remains = values[rest]
        if again >= 0:
            remains = max(remains, other[rest, again] + fetch)
        return value + remains
    remains = most[rest]
    if again >= 0:
        remains = max(remains, between[rest, again] + fetch)
    return value + max(0.0, remains - stroke)


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


@njit(cache=True, nogil=True)
def anneal(
    seed,
    moves,
    warmth,
    copies,
    counts,
    demands,
    short_prices,
    costs,
    kinds,
    there,
    where,
    prices,
    cap,
    over_price,
    buckets,
    best_seconds,
    best_copies,
):
    """Simulated annealing over whole copies of columns (see ``easing.py``), from ``copies``, which are changed.

    Column c makes ``counts[c]``, costs ``costs[c]`` and is cut from stock ``kinds[c]``, of which there are ``there``
    (-1: any number). ``where``: begin, groups, times; it has ``times[k]`` parts in group ``groups[k]`` for k from
    ``begin[c]`` on.
    ``prices``: the seconds of a stack of every group, its place of the rail, the stack, what the first stack of a group
    takes less, the seconds of a place. What is short and what costs more than ``cap`` has a price. The best seconds and
    copies with nothing short are kept for every bucket of costs: bucket b holds what costs at most ``buckets[b]``.
    """
    np.random.seed(seed)
    begin, groups, times = where
    group_seconds, group_places, stack, first_stack, place_seconds = prices
    columns = len(counts)
    state = _amounts(copies, counts, costs, kinds, len(there), begin, groups, times, group_places)
    made, in_group, at_place, used, cost = state
    active, place_of = np.zeros(columns, np.int64), np.full(columns, -1, np.int64)
    many, seconds = 0, 0.0
    for c in range(columns):
        if copies[c]:
            active[many], place_of[c], many = c, many, many + 1
    for g in range(len(in_group)):
        if in_group[g]:
            seconds += (in_group[g] + stack - 1) // stack * group_seconds[g] - first_stack
    for p in range(len(at_place)):
        seconds += place_seconds * (at_place[p] > 0)
    price = _price(made, demands, short_prices, cost, cap, over_price)
    changed, by = np.zeros(4, np.int64), np.zeros(4, np.int64)
    for move in range(moves):
        heat = warmth * (0.03 ** (move / moves))
        dice = np.random.random()
        fewer = 2 if 0.7 <= dice < 0.8 or dice >= 0.9 else (0 if 0.15 <= dice < 0.3 else 1)
        more = 0 if dice < 0.15 else (2 if dice >= 0.8 else 1)
        done, gone, after, fits = 0, 0, seconds, True
        for turn in range(fewer + more):
            if turn < fewer:
                if many == 0:
                    continue
                c = active[np.random.randint(many)]
                if copies[c] == 0:
                    continue
                change = -_how_many_fewer(copies[c], stack)
                gone -= change
            else:
                c, change = _what_more(copies, counts, made, demands, active, many, gone, stack)
            after += _change(c, change, copies, counts, made, in_group, at_place, where, prices)
            used[kinds[c]] += change
            cost += change * costs[c]
            fits = fits and (there[kinds[c]] < 0 or used[kinds[c]] <= there[kinds[c]])
            changed[done], by[done], done = c, change, done + 1
        new_price = _price(made, demands, short_prices, cost, cap, over_price)
        worse = after + new_price - seconds - price
        if fits and (worse <= 0 or np.random.random() < np.exp(-worse / heat)):
            seconds, price = after, new_price
            for k in range(done):
                c = changed[k]
                if copies[c] and place_of[c] < 0:
                    active[many], place_of[c], many = c, many, many + 1
                elif copies[c] == 0 and place_of[c] >= 0:
                    last = active[many - 1]
                    active[place_of[c]], place_of[last] = last, place_of[c]
                    place_of[c], many = -1, many - 1
            if _all_made(made, demands):
                bucket = np.searchsorted(buckets, cost)
                if bucket < len(buckets) and seconds < best_seconds[bucket] - 1e-6:
                    best_seconds[bucket] = seconds
                    best_copies[bucket] = copies
        else:
            for k in range(done - 1, -1, -1):
                c = changed[k]
                _change(c, -by[k], copies, counts, made, in_group, at_place, where, prices)
                used[kinds[c]] -= by[k]
                cost -= by[k] * costs[c]


@njit(cache=True, nogil=True)
def _amounts(copies, counts, costs, kinds, stocks, begin, groups, times, group_places):
    """What so many copies make, have in every group and place, take of every stock, and cost."""
    made, used = np.zeros(counts.shape[1], np.int64), np.zeros(stocks, np.int64)
    in_group, at_place = np.zeros(len(group_places), np.int64), np.zeros(group_places.max() + 1, np.int64)
    cost = 0
    for c in range(len(copies)):
        if copies[c] == 0:
            continue
        made += copies[c] * counts[c]
        used[kinds[c]] += copies[c]
        cost += copies[c] * costs[c]
        for k in range(begin[c], begin[c + 1]):
            if in_group[groups[k]] == 0:
                at_place[group_places[groups[k]]] += 1
            in_group[groups[k]] += copies[c] * times[k]
    return made, in_group, at_place, used, cost


@njit(cache=True, nogil=True)
def _price(made, demands, short_prices, cost, cap, over_price):
    price = over_price * max(0, cost - cap)
    for s in range(len(demands)):
        if made[s] < demands[s]:
            price += (demands[s] - made[s]) * short_prices[s]
    return price


@njit(cache=True, nogil=True)
def _all_made(made, demands):
    for s in range(len(demands)):
        if made[s] < demands[s]:
            return False
    return True


@njit(cache=True, nogil=True)
def _how_many_fewer(copies, stack):
    """One, what is beyond full stacks, a stack, all, or any number of copies."""
    dice = np.random.random()
    if dice < 0.35:
        fewer = 1
    elif dice < 0.5:
        fewer = copies % stack if copies % stack else stack
    elif dice < 0.65:
        fewer = stack
    elif dice < 0.8:
        fewer = copies
    else:
        fewer = 1 + np.random.randint(copies)
    return min(fewer, copies)


@njit(cache=True, nogil=True)
def _what_more(copies, counts, made, demands, active, many, gone, stack):
    """A column that makes a size that is short, if one is, and how many copies more of it."""
    columns, sizes = counts.shape
    begin, short = np.random.randint(sizes), -1
    for k in range(sizes):
        s = (begin + k) % sizes
        if made[s] < demands[s]:
            short = s
            break
    c, most = np.random.randint(columns), 1
    if short >= 0 and np.random.random() < 0.9:
        if many and np.random.random() < 0.5:
            c = active[np.random.randint(many)]
        for _ in range(columns):
            if counts[c, short]:
                break
            c = np.random.randint(columns)
        if counts[c, short]:
            most = -(-(demands[short] - made[short]) // counts[c, short])
    dice, more = np.random.random(), most
    if dice < 0.3:
        more = 1
    elif dice < 0.5:
        more = min(gone, most) if gone else most
    elif dice < 0.65:
        more = stack - copies[c] % stack
    elif dice < 0.85:
        more = 1 << 40
        for s in range(sizes):
            if counts[c, s]:
                more = min(more, (demands[s] - made[s]) // counts[c, s])
    return c, max(1, more)


@njit(cache=True, nogil=True)
def _change(c, change, copies, counts, made, in_group, at_place, where, prices):
    """So many copies more of a column (or fewer); how many seconds more that is."""
    begin, groups, times = where
    group_seconds, group_places, stack, first_stack, place_seconds = prices
    copies[c] += change
    for s in range(len(made)):
        made[s] += change * counts[c, s]
    seconds = 0.0
    for k in range(begin[c], begin[c + 1]):
        g = groups[k]
        before, after = in_group[g], in_group[g] + change * times[k]
        in_group[g] = after
        stacks = (after + stack - 1) // stack - (before + stack - 1) // stack
        seconds += stacks * group_seconds[g]
        if (before == 0) != (after == 0):
            sign = 1 if before == 0 else -1
            p = group_places[g]
            at_place[p] += sign
            seconds -= sign * first_stack
            if at_place[p] == (1 if sign > 0 else 0):
                seconds += sign * place_seconds
    return seconds
