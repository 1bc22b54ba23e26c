"""A guide for few sheets: which pieces of N cards come out of which lettered sheet, letters given out anew.

What a list says with letters is kept as far as a card goes: what has one letter there comes out of one sheet, what has
two comes out of two (two patterns that meet). Which cards share a sheet is what is looked for.

    pieces --fit, cards forgotten--> the fewest sheets at all (a proven bound) and layouts that reach it
           --two sheets' pieces shared out anew--> as many sheets with every card's letters apart: proven
           --else: card by card into sheets that have room--> more sheets, and the gap is said

The first is the engine's set covering with its bound, the second a local search (``sharing``), the third first fit
decreasing for bin packing with conflicts (Jansen 1999).
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import count as counting

from zester.core.casting.casting import Slot
from zester.core.casting.guide import Guide, GuidePiece, LetterGuide, check_guide, lay_out
from zester.core.casting.sharing import Unit, comes_out, share_out
from zester.core.errors import GuideError, ZesterError, sure
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.job import ANY_BENCH, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.plan import Layout
from zester.core.geometry import goes_in
from zester.core.lengths import show_size
from zester.core.letters import LETTERS

SHEET = "sheet"
# Of the seconds the fit that forgets cards gets this share.
FIT_SHARE = 0.4
# And for as many sheets as that says, and for each one more, pieces are shared out anew for so much of what is left.
SHARING_SHARE = 0.5
RESTARTS = 40


@dataclass(frozen=True)
class Found:
    """A guide, and how good it is known to be."""

    guide: Guide
    """The guide."""
    bound: int
    """So many sheets are needed in any case."""

    @property
    def sheets(self) -> int:
        """How many it takes."""
        return len(self.guide.letters)

    @property
    def proven(self) -> bool:
        """Whether none takes fewer."""
        return self.sheets == self.bound


@dataclass(frozen=True)
class _Wanted:
    """One piece that is wanted."""

    id: str
    unit: Unit
    name: str
    width: int
    height: int

    @property
    def size(self) -> tuple[int, int]:
        return self.width, self.height


def search_guide(
    slots: Sequence[Slot],
    width: int,
    height: int,
    unit: str,
    tell: Callable[[str], None] = lambda _: None,
    *,
    keep: Callable[[Found], None] = lambda _: None,
    seconds: float = 10.0,
    seed: int = 0,
) -> Found:
    """A guide for sheets of this size (ticks) that makes every slot once.

    Parameters
    ----------
    slots
        The lettered pieces of the cards.
    width, height, unit
        Of a sheet, ticks; ``in`` or ``mm``: how lengths are written.
    tell
        Hears a few words now and then; may raise to stop.
    keep
        Is given the best so far whenever there is a better one.
    seconds
        The budget; what is best by then is taken.

    Raises
    ------
    GuideError
        If a piece, or what one card takes of one letter, does not come out of one sheet; or there are too many letters.
    """
    wanted = _wanted(slots)
    if not wanted:
        raise GuideError("No lettered piece", mend="Write a letter in place of a paper: Panel 4 x 3 sheet A")
    _possible(wanted, width, height, unit)
    end = time.monotonic() + seconds
    tell("how many sheets at least")
    layouts, bound = _forgetting_cards(wanted, width, height, FIT_SHARE * seconds, tell)
    bound = max(bound, *_meeting(wanted).values())
    tell(f"at least {bound} sheets")
    dealt, chance = _dealt(wanted, layouts), random.Random(seed)
    best: Found | None = None
    for many in counting(max(bound, len(dealt))):
        if best and many >= best.sheets:
            break
        until = time.monotonic() + SHARING_SHARE * (end - time.monotonic())
        empty: list[list[_Wanted]] = [[] for _ in range(many - len(dealt))]
        sheets = share_out([*map(list, dealt), *empty], width, height, chance, until, tell)
        if sheets is not None:
            return _found(sheets, width, height, unit, bound)
        # What is sure to be found comes before a long look for one sheet less.
        if best is None:
            packed = min(_packed(wanted, width, height, unit, chance, until), key=len)
            best = _found(packed, width, height, unit, bound)
            keep(best)
            tell(f"{best.sheets} sheets, at least {bound}")
    return sure(best)


def _possible(wanted: Sequence[_Wanted], width: int, height: int, unit: str) -> None:
    """Raise GuideError where no guide can be."""
    for each in wanted:
        if not goes_in(each.width, each.height, width, height, turn=True):
            size = show_size(each.width, each.height, unit)
            raise GuideError(f"{size} is larger than the sheet", mend="Take a larger sheet")
    for mine in _units(wanted).values():
        if comes_out((each.size for each in mine), width, height) is not True:
            _laid(mine, width, height, unit)


def _found(sheets: Sequence[Sequence[_Wanted]], width: int, height: int, unit: str, bound: int) -> Found:
    if len(sheets) > len(LETTERS):
        raise GuideError(f"{len(sheets)} sheets are more than there are letters", mend="Take larger sheets")
    guide = Guide(unit, width, height, tuple(_lettered(sheets, width, height, unit)))
    check_guide(guide)
    return Found(guide, bound)


def _wanted(slots: Iterable[Slot]) -> list[_Wanted]:
    return [
        _Wanted(f"{slot.handle}.{copy}", (slot.number, slot.letter), slot.name, slot.width, slot.height)
        for slot in slots
        for copy in range(1, slot.count + 1)
    ]


def _units(wanted: Iterable[_Wanted]) -> dict[Unit, list[_Wanted]]:
    units: dict[Unit, list[_Wanted]] = {}
    for each in wanted:
        units.setdefault(each.unit, []).append(each)
    return units


def _meeting(wanted: Iterable[_Wanted]) -> dict[int, int]:
    """By card how many letters it has: as many sheets are needed."""
    found: dict[int, set[Unit]] = {}
    for each in wanted:
        found.setdefault(each.unit[0], set()).add(each.unit)
    return {card: len(units) for card, units in found.items()}


def _forgetting_cards(
    wanted: Sequence[_Wanted], width: int, height: int, seconds: float, tell: Callable[[str], None]
) -> tuple[list[Layout], int]:
    """The fewest sheets that make the pieces whatever their cards, one layout each, and how many it takes at least."""
    sizes: dict[tuple[int, int], int] = {}
    for each in wanted:
        sizes[each.size] = sizes.get(each.size, 0) + 1
    pieces = tuple(
        Piece(id=f"{wide}x{high}", width=wide, height=high, count=count) for (wide, high), count in sizes.items()
    )
    job = PaperJob(id=SHEET, sheets=(Sheet(id=SHEET, width=width, height=height),), pieces=pieces)
    plan = fit_paper(job, ANY_BENCH, tell, seconds)
    layouts = [replace(layout, copies=1) for layout in plan.on_sheets for _ in range(layout.copies)]
    return layouts, -int(-plan.bound // 1)


def _dealt(wanted: Sequence[_Wanted], layouts: Sequence[Layout]) -> list[list[_Wanted]]:
    """A piece for every part of the layouts, whichever card it is for."""
    by_size: dict[str, list[_Wanted]] = {}
    for each in wanted:
        by_size.setdefault(f"{each.width}x{each.height}", []).append(each)
    # More parts of a size than pieces: those left over are offcuts.
    return [[by_size[part.piece].pop() for part in layout.parts if by_size[part.piece]] for layout in layouts]


def _packed(
    wanted: Sequence[_Wanted], width: int, height: int, unit: str, chance: random.Random, end: float
) -> Iterator[list[list[_Wanted]]]:
    """Unit by unit, the largest first, into the first sheet that has room and nothing of its card; once and again."""
    units = _units(wanted)
    for number in range(RESTARTS):
        if number and time.monotonic() > end:
            return
        shake = 1.0 + 0.4 * bool(number)
        order = sorted(units.values(), key=lambda mine: -_area(mine) * chance.uniform(1.0, shake))
        # The first is made whatever it takes.
        bins = _first_fit(order, width, height, unit, end if number else end + 60.0)
        if bins:
            yield bins


def _first_fit(
    order: Sequence[list[_Wanted]], width: int, height: int, unit: str, end: float
) -> list[list[_Wanted]] | None:
    bins: list[list[_Wanted]] = []
    for mine in order:
        for each in sorted(bins, key=lambda held: -_area(held)):
            if time.monotonic() > end:
                return None
            alone = all(held.unit[0] != mine[0].unit[0] for held in each)
            if alone and _area(each) + _area(mine) <= width * height and _fits([*each, *mine], width, height, unit):
                each.extend(mine)
                break
        else:
            bins.append(list(mine))
    return bins


def _fits(mine: Sequence[_Wanted], width: int, height: int, unit: str) -> bool:
    try:
        _laid(mine, width, height, unit)
    except GuideError:
        return False
    return True


def _laid(mine: Sequence[_Wanted], width: int, height: int, unit: str) -> LetterGuide:
    """One sheet's pieces laid out; raises GuideError if they do not come out of one."""
    pieces = _pieces(mine)
    letter = mine[0].unit[1]
    try:
        return lay_out(letter, pieces, width, height, unit)
    except GuideError as error:
        card = mine[0].unit[0]
        if all(each.unit == mine[0].unit for each in mine):
            raise GuideError(
                f"What card {card} takes of {letter} does not come out of one sheet", mend=error.mend
            ) from None
        raise
    except ZesterError as error:
        raise GuideError(error.what, mend=error.mend) from error


def _area(mine: Iterable[_Wanted]) -> int:
    return sum(each.width * each.height for each in mine)


def _lettered(sheets: Sequence[Sequence[_Wanted]], width: int, height: int, unit: str) -> Iterable[LetterGuide]:
    """Letters in the order of the cards: what card 1 has of the first sheet is A; upright where a sheet can be."""
    order = sorted(sheets, key=lambda sheet: min(mine.unit for mine in sheet))
    for letter, mine in zip(LETTERS, order, strict=False):
        yield lay_out(letter, _pieces(mine), width, height, unit)


def _pieces(mine: Iterable[_Wanted]) -> list[GuidePiece]:
    return [
        GuidePiece(id=each.id, card=each.unit[0], name=each.name, width=each.width, height=each.height) for each in mine
    ]
