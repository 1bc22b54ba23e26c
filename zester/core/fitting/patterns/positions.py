"""Where a cut can usefully lie: normal patterns.

Any edge-to-edge layout can be pushed left and up until every cut lies at a sum of piece lengths, so only these sums
need trying (Herz 1972; Christofides & Whitlock 1977). A layout never needs more of a piece than the job asks for,
which bounds how often each length enters a sum.
"""

from __future__ import annotations

from collections.abc import Iterable
from math import gcd

import numpy as np


def normal_positions(lengths: Iterable[tuple[int, int]], limit: int) -> np.ndarray:
    """All sums of the lengths up to ``limit``.

    Parameters
    ----------
    lengths : iterable of (length, at_most)
        Ticks, and how often that length may enter a sum.
    limit : int
        The longest sum wanted, in ticks.

    Returns
    -------
    numpy.ndarray of int64, ascending, starting with 0.
    """
    wanted = [(length, most) for length, most in lengths if length <= limit]
    if not wanted:
        return np.zeros(1, dtype=np.int64)
    unit = gcd(*(length for length, _ in wanted))
    top = limit // unit
    mask = (1 << (top + 1)) - 1
    reach = 1
    for length, most in wanted:
        step = length // unit
        for _ in range(min(most, top // step)):
            further = (reach | (reach << step)) & mask
            if further == reach:
                break
            reach = further
    bits = np.frombuffer(reach.to_bytes(top // 8 + 1, "little"), dtype=np.uint8)
    return np.flatnonzero(np.unpackbits(bits, bitorder="little")).astype(np.int64) * unit
