"""A piece that was cut is missing when bags are packed: it is cut again, out of what is left over if that goes."""

from __future__ import annotations

from dataclasses import asdict, replace

from django.db import transaction

from zester.bench.models import Run
from zester.bench.runs import WITH_ALL, Cutting, cutting_of, offcut_size
from zester.core.cutting.mishap import Spoiled, go_on, of_windows
from zester.core.cutting.record import steps_data, table_data
from zester.core.cutting.steps import KEEP, PIECE, PILE, WASTE
from zester.core.cutting.table import Table
from zester.core.errors import JobError
from zester.plans.kept import habits_of, names_for
from zester.plans.models import PaperFit
from zester.shelf.models import Entry
from zester.supply.booking import cut

REASON = "missing when the bags were packed"


def cut_again(fit: PaperFit, handle: str, count: int) -> Run:
    """New steps that make so many of a piece once more; a paper that was booked as cut is being cut again.

    What is left over on the table, or went back on the shelf, is used before a sheet is opened. Raises JobError if the
    piece is not cut yet, or there are not so many.
    """
    cutting = cutting_of(fit)
    if cutting is None:
        raise JobError(f"{fit.paper.name} is not cut yet", mend="Cut it at the bench; then count the pile once more")
    booked = fit.held == PaperFit.Held.CUT
    # Booked without having been ticked off, all its steps were done.
    stand = replace(cutting.stand, done=len(cutting.steps)) if booked else cutting.stand
    gone = _gone(cutting, stand.table, handle, count)
    lost = [*gone, *(_binned(cutting) if booked else ())]
    # The fit takes seconds: nobody is kept from writing meanwhile.
    mended = go_on(stand, lost, cutting.made.job.bench, habits_of(fit, names_for(fit)))
    with transaction.atomic():
        fit = PaperFit.objects.select_for_update(of=("self",)).select_related(*WITH_ALL).get(pk=fit.pk)
        now = cutting_of(fit)
        if now is None or (now.run.pk, now.run.done) != (cutting.run.pk, cutting.run.done):
            raise JobError("Somebody has gone on with this paper meanwhile", mend="Say it once more")
        if booked:
            cut(fit, False)
            Run.objects.filter(pk=cutting.run.pk).update(done=stand.done)
        return Run.objects.create(
            fit=fit,
            plan_id=fit.shown_id,
            number=cutting.run.number + 1,
            steps=steps_data(mended.steps),
            places=mended.places,
            before=table_data(mended.table),
            taken=[list(each) for each in mended.taken],
            spoiled=[asdict(each) for each in gone],
            reason=REASON,
            more=mended.more,
            short=[list(each) for each in mended.short],
        )


def _gone(cutting: Cutting, table: Table, handle: str, count: int) -> list[Spoiled]:
    """The missing ones among the finished pieces; piles that can be nothing else first."""
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


def _binned(cutting: Cutting) -> list[Spoiled]:
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
