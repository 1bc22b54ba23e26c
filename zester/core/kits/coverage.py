"""What a class needs of a paper against what there is: pieces, area, the least number of sheets, what is missing."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from zester.core.lengths import on_inch_marks
from zester.core.stock.ledger import Held
from zester.core.tally import PieceCount, some


@dataclass(frozen=True, kw_only=True)
class SizeNeed:
    """One kind of sheet of a paper that a class is planned with."""

    key: str
    """What plans call it."""
    size: str
    """In words."""
    is_offcut: bool
    """Whether it is an offcut."""
    planned: int
    """How many the plan takes."""
    held: Held
    """What there is, and what is promised to all classes that wait to be cut, this one with them."""
    others: int
    """How many are promised to other classes."""
    lacking: int
    """How many are not there for this class, once those before it are served; all, where nobody counts."""
    is_cut: bool = False
    """Whether it is cut: then it is gone, and nothing is promised or bought for it."""

    @property
    def free(self) -> int | None:
        """What there is without what other classes have reserved; None where nobody counts."""
        return None if self.held.on_hand is None else max(0, self.held.on_hand - self.others)

    @property
    def why(self) -> str:
        """What is missing, as a sum in words."""
        if self.held.on_hand is None:
            return f"{self.planned} planned; nobody counts this paper, so all of them are on the list"
        words = f"{self.planned} planned, {self.held.on_hand} on hand"
        if self.others:
            words += f", {self.others} promised to other classes"
        return f"{words}: {some(self.lacking, 'sheet')} to buy" if self.lacking else f"{words}: enough"


def area_of(counts: Iterable[PieceCount]) -> int:
    """Square ticks that pieces take, fillers left out."""
    return sum(entry.piece.width * entry.piece.height * entry.count for entry in counts if not entry.piece.filler)


def least_sheets(counts: Sequence[PieceCount], width: int, height: int) -> int:
    """How many sheets of this size (ticks, what can be used of it) the area of the pieces takes at the very least.

    Shapes out of hidden middles may cost nothing, so they are left out.
    """
    outside = [entry for entry in counts if not entry.piece.from_middle]
    return -(-area_of(outside) // (width * height)) if width * height else 0


@dataclass(frozen=True, kw_only=True)
class BitNeed:
    """What classes need of one bit against what there is."""

    name: str
    """What it is."""
    by_length: bool
    """Whether it goes by the length; then all numbers are ticks."""
    needed: int
    """How much."""
    why: str
    """The sum in words."""
    on_hand: int | None = None
    """How much is there; None: nobody counts it."""
    others: int = 0
    """How much other classes need that are served before."""

    @property
    def free(self) -> int:
        """How much of what is there is left for these."""
        return max(0, (self.on_hand or 0) - self.others)

    @property
    def lacking(self) -> int:
        """How much is to be bought."""
        return max(0, self.needed - self.free)

    @property
    def metric(self) -> bool:
        """Whether one of its lengths lies on no mark of an inch, so that all are told in metres."""
        return self.by_length and not all(on_inch_marks(length) for length in (self.needed, self.on_hand or 0))


def bit_key(name: str, by_length: bool) -> str:
    """Bits of one name are the same, in the plural too: ``gem`` and ``Gems``."""
    plain = " ".join(name.casefold().split())
    return f"{plain.removesuffix('s')}|{'length' if by_length else 'count'}"


def add_bits(
    rows: Iterable[tuple[str, int, int, str]],
    there: dict[str, int | None],
    others: Iterable[tuple[str, int, int, str]] = (),
) -> list[BitNeed]:
    """Bits of several classes or lists added up by name: each row is name, count, length, why.

    ``others`` are rows of classes that are served before.
    """
    before_us: dict[str, int] = {}
    for name, count, length, _ in others:
        key = bit_key(name, bool(length))
        before_us[key] = before_us.get(key, 0) + (length or count)
    found: dict[str, BitNeed] = {}
    for name, count, length, why in rows:
        key = bit_key(name, bool(length))
        before = found.get(key)
        found[key] = BitNeed(
            name=before.name if before else name,
            by_length=bool(length),
            needed=(before.needed if before else 0) + (length or count),
            why=f"{before.why} + {why}" if before else why,
            on_hand=there.get(key),
            others=before_us.get(key, 0),
        )
    return list(found.values())
