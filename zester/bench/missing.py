"""A piece that was cut is missing when bags are packed: which piles it was in, and what went to the bin since."""

from __future__ import annotations

from zester.bench.runs import Cutting, offcut_size
from zester.core.cutting.mishap import Spoiled, of_windows
from zester.core.cutting.steps import KEEP, PIECE, PILE, WASTE
from zester.core.cutting.table import Table
from zester.core.errors import JobError
from zester.shelf.models import Entry


def missing_among(cutting: Cutting, table: Table, handle: str, count: int) -> list[Spoiled]:
    """The missing ones among the finished pieces; piles that can be nothing else first. Raises JobError."""
    piles = [each for each in table.of(PIECE) if handle in each.label.split(", ")]
    found, left = [], count
    for each in sorted(piles, key=lambda each: each.label.count(",")):
        much = min(left, each.count)
        if much:
            found.append(Spoiled(PIECE, each.label, much, (each.width, each.height)))
            left -= much
    if left and of_windows(cutting.made.plan)[handle]:
        mend = "Cut it out of what is left over, then say that it is there"
        raise JobError(f"{handle} comes out of a hidden middle, not from the trimmer", mend=mend)
    if left:
        mend = "Go on with its steps at the bench; then count the pile once more"
        raise JobError(f"Only {count - left} of {handle} {'is' if count - left == 1 else 'are'} cut yet", mend=mend)
    return found


def binned(cutting: Cutting) -> list[Spoiled]:
    """What was left over and did not go back on the shelf when the paper was booked."""
    kept: dict[tuple[int, int, str], int] = {}
    source = f"plan:{cutting.fit.shown_id}"
    entries = Entry.objects.filter(source=source, kind="left", corrects=None, corrected_by=None).select_related("sheet")
    for entry in entries:
        size = entry.sheet.width, entry.sheet.height, entry.sheet.up
        kept[size] = kept.get(size, 0) + entry.count
    table = cutting.table_at_the_end
    found = [Spoiled(WASTE, each.label, each.count) for each in table.of(WASTE)]
    for each in table.of(KEEP, PILE):
        size = offcut_size(cutting, each)
        stays = min(each.count, kept.get(size, 0))
        kept[size] = kept.get(size, 0) - stays
        if each.count > stays:
            found.append(Spoiled(each.kind, each.label, each.count - stays))
    return found
