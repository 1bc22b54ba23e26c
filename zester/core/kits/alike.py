"""Pieces that look alike in one bag, and pieces that belong to a side: pointed out before they are mixed up."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import combinations

from zester.core.lengths import TICKS_PER_INCH, show_length, with_unit
from zester.core.pieces import CutPiece

# Reading 1/16 in for 1/8 in is the classic slip; 1.5 mm is hardly less.
HARDLY = TICKS_PER_INCH // 16


def looks_alike(pieces: Mapping[str, CutPiece], unit: str) -> list[str]:
    """Pairs that differ by 1/16 in or less, or by their side only, one sentence each; ``pieces`` by handle."""
    found = []
    for (one, a), (other, b) in combinations(pieces.items(), 2):
        if a.paper != b.paper or a.shape or b.shape:
            continue
        differ = _difference(a, b)
        if 0 < differ <= HARDLY:
            larger, smaller = (one, other) if a.width * a.height > b.width * b.height else (other, one)
            much = with_unit(differ, unit)
            found.append(f"{larger} {pieces[larger].name} is only {much} larger than {smaller} {pieces[smaller].name}.")
        elif not differ and a.side != b.side:
            found.append(f"{one} {a.name} and {other} {b.name} are one size: only the side that is seen differs.")
    return found


def _difference(one: CutPiece, other: CutPiece) -> int:
    """The larger of what two sizes differ by, laid on each other as well as they go; ticks."""
    straight = max(abs(one.width - other.width), abs(one.height - other.height))
    turned = max(abs(one.width - other.height), abs(one.height - other.width))
    return min(straight, turned)


def sides_of(pieces: Sequence[tuple[str, CutPiece]], unit: str) -> list[str]:
    """Matched pieces: in which order they go, to be written on their backs; one sentence for every row."""
    rows: dict[str, list[tuple[str, CutPiece]]] = {}
    for handle, piece in pieces:
        if piece.match:
            rows.setdefault(piece.match, []).append((handle, piece))
    found = []
    for row in rows.values():
        names = [handle for handle, piece in row for _ in range(piece.count)]
        if len(names) > 1:
            way = "from the top" if row[0][1].below else "from the left"
            numbers = ", ".join(str(number) for number in range(1, len(names) + 1))
            called = ", ".join(dict.fromkeys(names))
            wide = show_length(sum(piece.width * piece.count for _, piece in row), unit)
            across = "" if row[0][1].below else f" (together {wide} {unit} wide)"
            found.append(f"{called}{across}: number the backs {numbers} {way} as they were cut, the pattern runs on.")
    return found
