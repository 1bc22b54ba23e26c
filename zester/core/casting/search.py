"""A guide for few sheets: which pieces of N cards come out of which lettered sheet, letters given out anew.

What a list says with letters is kept as far as a card goes: what has one letter there comes out of one sheet, what has
two comes out of two (two patterns that meet). Which cards share a sheet is what is looked for.

    pieces --fit, cards forgotten--> the fewest sheets at all (a proven bound) and layouts that reach it
           --alike pieces exchanged between sheets--> the same layouts with every card's letters apart: proven
           --else: card by card into sheets that have room--> more sheets, and the gap is said

The first is the engine's set covering with its bound; the second min-conflicts (Minton, Johnston, Philips, Laird 1992)
over pieces of one size; the third first fit decreasing for bin packing with conflicts (Jansen 1999).
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from zester.core.casting.casting import Slot
from zester.core.casting.guide import Guide, GuidePiece, LetterGuide, check_guide, lay_out
from zester.core.errors import GuideError, ZesterError
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.job import ANY_BENCH, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.plan import Layout, Named
from zester.core.geometry import goes_in
from zester.core.lengths import show_size
from zester.core.letters import LETTERS

SHEET = "sheet"
# Of the seconds the fit that forgets cards gets this share.
FIT_SHARE = 0.4
# After so much of them sheets are packed card by card, however near exchanging may be.
EXCHANGE_SHARE = 0.7
STEPS, RESTARTS = 400, 40

# A card's number and the letter its list says: what of it comes out of one sheet.
Unit = tuple[int, str]


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
    for each in wanted:
        if not goes_in(each.width, each.height, width, height, turn=True):
            size = show_size(each.width, each.height, unit)
            raise GuideError(f"{size} is larger than the sheet", mend="Take a larger sheet")
    end = time.monotonic() + seconds
    tell("how many sheets at least")
    layouts, bound = _forgetting_cards(wanted, width, height, FIT_SHARE * seconds, tell)
    bound = max(bound, *_meeting(wanted).values())
    tell(f"at least {bound} sheets")
    sheets = _exchanged(wanted, layouts, random.Random(seed), end - (1 - EXCHANGE_SHARE) * seconds)
    if sheets is not None:
        return _found(sheets, width, height, unit, bound)
    best: Found | None = None
    for sheets in _packed(wanted, width, height, unit, random.Random(seed), end):
        if best is None or len(sheets) < best.sheets:
            best = _found(sheets, width, height, unit, bound)
            keep(best)
        tell(f"{best.sheets} sheets, at least {bound}")
        if best.proven:
            break
    if best is None:
        raise GuideError("Nothing was found in that time", mend="Give it more time, or larger sheets")
    return best


def _found(sheets: Sequence[tuple[Layout, list[_Wanted]]], width: int, height: int, unit: str, bound: int) -> Found:
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


def _exchanged(
    wanted: Sequence[_Wanted], layouts: Sequence[Layout], chance: random.Random, end: float
) -> list[tuple[Layout, list[_Wanted]]] | None:
    """The layouts with a piece for every part, units whole and a card's units apart; None if none was found."""
    by_size: dict[str, list[_Wanted]] = {}
    for each in wanted:
        by_size.setdefault(f"{each.width}x{each.height}", []).append(each)
    parts = [(at, part) for at, layout in enumerate(layouts) for part in layout.parts]
    for _ in range(RESTARTS):
        if time.monotonic() > end:
            break
        pools = {size: chance.sample(mine, len(mine)) for size, mine in by_size.items()}
        # More parts of a size than pieces: those left over are offcuts.
        held = [(at, part, pools[part.piece].pop() if pools[part.piece] else None) for at, part in parts]
        if _settle(held, chance):
            return [_sheet(layout, [row for row in held if row[0] == at]) for at, layout in enumerate(layouts)]
    return None


Held = tuple[int, Named, "_Wanted | None"]


def _sheet(layout: Layout, rows: Sequence[Held]) -> tuple[Layout, list[_Wanted]]:
    named = [(replace(part, piece=mine.id), mine) for _, part, mine in rows if mine]
    return replace(layout, parts=tuple(part for part, _ in named)), [mine for _, mine in named]


def _settle(held: list[Held], chance: random.Random) -> bool:
    """Exchange pieces of one size between sheets until nothing is against a rule; whether that was reached."""
    for _ in range(STEPS):
        wrong = _wrong(held)
        if not wrong:
            return True
        at = chance.choice(wrong)
        best, now = None, len(wrong)
        for other, row in enumerate(held):
            if row[0] == held[at][0] or row[1].piece != held[at][1].piece:
                continue
            _swap(held, at, other)
            count = len(_wrong(held))
            if best is None or count < best[0] or (count == best[0] and chance.random() < 0.5):
                best = count, other
            _swap(held, at, other)
        if best is None:
            return False
        # Sideways, too, and now and then uphill: else it stands still where nothing is better.
        if best[0] <= now or chance.random() < 0.1:
            _swap(held, at, best[1])
    return False


def _swap(held: list[Held], one: int, other: int) -> None:
    mine, theirs = held[one], held[other]
    held[one], held[other] = (mine[0], mine[1], theirs[2]), (theirs[0], theirs[1], mine[2])


def _wrong(held: Sequence[Held]) -> list[int]:
    """The places of pieces whose unit is on two sheets, or whose card has another unit on their sheet."""
    where: dict[Unit, set[int]] = {}
    on: dict[tuple[int, int], set[Unit]] = {}
    for at, _, mine in held:
        if mine:
            where.setdefault(mine.unit, set()).add(at)
            on.setdefault((at, mine.unit[0]), set()).add(mine.unit)
    return [
        place
        for place, (at, _, mine) in enumerate(held)
        if mine and (len(where[mine.unit]) > 1 or len(on[at, mine.unit[0]]) > 1)
    ]


def _packed(
    wanted: Sequence[_Wanted], width: int, height: int, unit: str, chance: random.Random, end: float
) -> Iterator[list[tuple[Layout, list[_Wanted]]]]:
    """Unit by unit, the largest first, into the first sheet that has room and nothing of its card; once and again."""
    units: dict[Unit, list[_Wanted]] = {}
    for each in wanted:
        units.setdefault(each.unit, []).append(each)
    for number in range(RESTARTS):
        if number and time.monotonic() > end:
            return
        shake = 1.0 + 0.4 * bool(number)
        order = sorted(units.values(), key=lambda mine: -_area(mine) * chance.uniform(1.0, shake))
        # The first is made whatever it takes.
        bins = _first_fit(order, width, height, unit, end if number else end + 60.0)
        if bins:
            yield [(_laid(mine, width, height, unit).layout, mine) for mine in bins]


def _first_fit(
    order: Sequence[list[_Wanted]], width: int, height: int, unit: str, end: float
) -> list[list[_Wanted]] | None:
    bins: list[list[_Wanted]] = []
    for mine in order:
        _laid(mine, width, height, unit)
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


def _lettered(
    sheets: Sequence[tuple[Layout, list[_Wanted]]], width: int, height: int, unit: str
) -> Iterable[LetterGuide]:
    """Letters in the order of the cards: what card 1 has of the first sheet is A; upright where a sheet can be."""
    order = sorted(sheets, key=lambda sheet: min((mine.unit for mine in sheet[1]), default=(0, "")))
    for letter, (layout, mine) in zip(LETTERS, order, strict=False):
        pieces = _pieces(mine)
        try:
            yield lay_out(letter, pieces, width, height, unit)
        except GuideError:
            yield LetterGuide(letter, layout, tuple(pieces))


def _pieces(mine: Iterable[_Wanted]) -> list[GuidePiece]:
    return [
        GuidePiece(id=each.id, card=each.unit[0], name=each.name, width=each.width, height=each.height) for each in mine
    ]
