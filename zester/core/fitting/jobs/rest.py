"""What is still to be made of a paper that is cut already: nothing, or a supplement; and what is over.

What is cut is cut. A class that grew, or a list that was changed, after its paper was cut wants pieces that are not
there yet: a job for those alone, fitted on its own.

    wanted now   12 × A1  8½ × 5½      made   10 × A1      to be made   2 × A1
                 10 × A2  4 × 5¼              10 × A2      over         4 × A3, for whoever comes later
                  6 × A3  1 × 3               10 × A3

Pieces of one size and direction are the same piece whatever they are called: what was made under a name goes to that
name first, what is left of it to any other.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from zester.core.fitting.jobs.job import PaperJob, Piece, Row
from zester.core.fitting.jobs.plan import PaperPlan

# What makes two pieces the same: their size, how they may lie, and the matched row they come in.
Kind = tuple[int, int, str, tuple[tuple[str, tuple[tuple[int, int], ...]], ...]]


@dataclass(frozen=True)
class WasMade:
    """A plan that was cut, or is being cut."""

    job: PaperJob
    """What it was made for."""
    plan: PaperPlan
    """The plan."""
    lost: Mapping[str, int] = field(default_factory=dict)
    """By piece how many could not be made after all."""

    @property
    def pieces(self) -> Counter[str]:
        """By piece how many there are, those that are cut out of portions at home included."""
        found: Counter[str] = Counter()
        for layout in self.plan.layouts:
            for named in layout.parts:
                if not named.portion:
                    found[named.piece] += layout.copies
        found.subtract(self.lost)
        return +found

    @property
    def beyond(self) -> Counter[str]:
        """By piece how many more there are than the job wanted: a sheet that was opened anyway was filled."""
        return self.pieces - Counter({piece.id: piece.count for piece in self.job.pieces})


def _kinds(job: PaperJob) -> dict[str, Kind]:
    """The kind of every piece, by name."""
    sizes = {piece.id: (piece.width, piece.height) for piece in job.pieces}
    rows = {
        piece.id: tuple(
            (row.axis, tuple(sizes[name] for name in row.pieces)) for row in job.matched if piece.id in row.pieces
        )
        for piece in job.pieces
    }
    return {piece.id: (piece.width, piece.height, piece.direction, rows[piece.id]) for piece in job.pieces}


@dataclass(frozen=True)
class Rest:
    """How what was made stands against what is wanted."""

    job: PaperJob | None
    """What is still to be made; None if nothing is."""
    over: tuple[tuple[str, int], ...]
    """Pieces that nobody wants any more, by the name they were made under, and how many. What a plan made beyond its
    job from the beginning is not among them.
    """


def rest_of(wanted: PaperJob, made: Sequence[WasMade]) -> Rest:
    """What of a job is still to be made when some plans are cut; ``over`` is what they made beyond it.

    Fillers are not wanted for their own sake: they are no rest. Pins belong to the plan they were set in.
    """
    missing, over = _compared(wanted, made)
    if not missing:
        return Rest(None, over)
    kits = _kits_left(wanted, made)
    counts = _whole_rows(wanted.matched, missing)
    pieces = tuple(_left(piece, counts[piece.id], kits) for piece in wanted.pieces if counts[piece.id])
    names = {piece.id for piece in pieces}
    rows = tuple(row for row in wanted.matched if names.issuperset(row.pieces))
    pool = wanted.pool if kits else "together"
    people = kits if kits else wanted.people
    return Rest(replace(wanted, pieces=pieces, matched=rows, pool=pool, people=people, pins=()), over)


def _compared(wanted: PaperJob, made: Sequence[WasMade]) -> tuple[Counter[str], tuple[tuple[str, int], ...]]:
    """By name how many are missing; and how many are over, by the name they were made under."""
    there: dict[Kind, Counter[str]] = {}
    for each in made:
        kinds, fillers = _kinds(each.job), {piece.id for piece in each.job.pieces if piece.filler}
        for name, count in each.pieces.items():
            if name not in fillers:
                there.setdefault(kinds[name], Counter())[name] += count
    missing = Counter({piece.id: piece.count for piece in wanted.pieces if not piece.filler})
    mine = _kinds(wanted)
    # Under its own name first, so that what is over is said of the piece there is too much of.
    for own in (True, False):
        for piece in wanted.pieces:
            lying = there.get(mine[piece.id], Counter())
            for name in (piece.id,) if own else tuple(lying):
                used = min(missing[piece.id], lying[name])
                missing[piece.id] -= used
                lying[name] -= used
    over: Counter[str] = Counter()
    for lying in there.values():
        over.update(+lying)
    for each in made:
        over.subtract(each.beyond)
    return +missing, tuple(sorted((+over).items()))


def _kits_left(wanted: PaperJob, made: Sequence[WasMade]) -> int:
    """Kits that get the paper as portions, whole or on sheets of their own, and have not got it yet."""
    if wanted.pool == "together":
        return 0
    served = sum(each.job.people for each in made if each.job.pool == wanted.pool)
    return max(0, wanted.people - served)


def _whole_rows(rows: Sequence[Row], missing: Counter[str]) -> Counter[str]:
    """The same with matched pieces as often as their whole row is cut."""
    counts = Counter(missing)
    for row in rows:
        times = Counter(row.pieces)
        wanted = max(-(-missing[name] // each) for name, each in times.items())
        for name, each in times.items():
            counts[name] = wanted * each
    return counts


def _left(piece: Piece, count: int, kits: int) -> Piece:
    """So many of a piece, of which each kit that is left gets its share."""
    each = piece.each or 0
    return replace(piece, count=max(count, each * kits), each=each if kits else 0)
