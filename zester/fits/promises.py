"""What classes are planned with: sheets and offcuts that their shown plans take and that are not cut yet.

Nothing of it is stored: it follows from the plans that are shown. Who comes first is served first: the class whose day
is sooner, then the one that was made first.
"""

from __future__ import annotations

from collections.abc import Iterator

from django.db.models import F, QuerySet

from zester.classes.models import CardClass
from zester.core.stock.ledger import Wanted, open_for
from zester.fits.models import PaperFit, PaperPlan
from zester.shelf.models import Paper, Sheet
from zester.shelf.uses import Promised

_CLASS = "class_paper__card_class"


def promised_rows(user: int) -> QuerySet[PaperFit]:
    """The fits whose shown plans wait to be cut, of classes that are not removed."""
    rows = PaperFit.objects.filter(**{f"{_CLASS}__owner": user, f"{_CLASS}__removed_at": None}, shown__isnull=False)
    return rows.exclude(held=PaperFit.Held.CUT).exclude(need="", held="")


def promised_to(user: int) -> Iterator[Promised]:
    """All that the classes of the user with this key are planned with, in the order in which they are served."""
    rows = promised_rows(user).order_by(F(f"{_CLASS}__date").asc(nulls_last=True), f"{_CLASS}_id", "pk")
    columns = "class_paper__paper_id", "shown__used", f"{_CLASS}_id", f"{_CLASS}__title"
    for paper, used, key, title in rows.values_list(*columns):
        for sheet, count in used.items():
            yield Promised(paper=paper, sheet=sheet, count=count, card_class=key, title=title)


def open_offcuts(card_class: CardClass, sheets: dict[int, list[Sheet]]) -> dict[int, dict[str, int]]:
    """How many offcuts, by paper and key, a class may plan with: those that are promised to no other."""
    wants: dict[tuple[int, str], list[Wanted]] = {}
    for each in promised_to(card_class.owner_id):
        row = wants.setdefault((each.paper, each.sheet), [])
        row.append(Wanted(who=str(each.card_class), count=each.count))
    me = str(card_class.pk)
    return {
        paper: {
            sheet.key: open_for(me, sheet.on_hand or 0, wants.get((paper, sheet.key), []))
            for sheet in row
            if sheet.is_offcut
        }
        for paper, row in sheets.items()
    }


def can_be_had(fit: PaperFit, plan: PaperPlan) -> bool:
    """Whether the offcuts a plan takes are there and promised to nobody else; nobody takes them until this ends."""
    Paper.objects.select_for_update(of=("self",)).get(pk=fit.class_paper.paper_id)
    sheets = list(Sheet.objects.filter(paper_id=fit.class_paper.paper_id, removed_at=None, is_offcut=True))
    there = open_offcuts(fit.class_paper.card_class, {fit.class_paper.paper_id: sheets})[fit.class_paper.paper_id]
    whole = {sheet.key for sheet in sheets}
    return all(there.get(key, 0) >= count for key, count in plan.used.items() if key in whole)
