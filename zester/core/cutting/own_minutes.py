"""How long a job takes somebody, by her own log: what is usual for it, times what hers took of the usual so far."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

# So many of the latest entries of a kind count: hands get quicker.
LATEST = 8


@dataclass(frozen=True, kw_only=True)
class Logged:
    """A job that was done."""

    kind: str
    """Which kind of job, see ``kind_of``."""
    usual: int
    """How many seconds all of it usually takes; 0 where its line says its own minutes, which teach nothing."""
    seconds: int
    """How many it took; 0 if nobody timed it."""


def kind_of(what: str) -> str:
    """The kind of a job by its words: ``emboss`` of ``emboss, with Ripple folder``, ``score`` of ``score at 4¼ in``."""
    return re.split(r"\s+(?:at|of)\s|[,:(]", what, maxsplit=1)[0].strip()


def own_shares(log: Iterable[Logged]) -> dict[str, tuple[int, int]]:
    """By kind how many seconds it took in all, and how many are usual for that. The latest come first."""
    found: dict[str, list[Logged]] = {}
    for each in log:
        mine = found.setdefault(each.kind, [])
        if each.usual and each.seconds and len(mine) < LATEST:
            mine.append(each)
    sums = {
        kind: (sum(each.seconds for each in mine), sum(each.usual for each in mine)) for kind, mine in found.items()
    }
    return {kind: share for kind, share in sums.items() if share[1]}


def own_seconds(kind: str, usual: int, shares: Mapping[str, tuple[int, int]]) -> int:
    """How long one takes her, seconds, at least 1; what is usual for a kind that she has not logged."""
    took, reckoned = shares.get(kind, (1, 1))
    return max(1, (2 * usual * took + reckoned) // (2 * reckoned))
