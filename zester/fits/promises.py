"""What classes are planned with: sheets and offcuts that their shown plans take and that are not cut yet.

Nothing of it is stored: it follows from the plans that are shown. Who comes first is served first: the class whose day
is sooner, then the one that was made first.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from django.db.models import F, QuerySet
from django.utils import timezone

from zester.classes.models import CardClass
from zester.core.class_job import SHEET_ID
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
    columns = "class_paper__paper_id", "shown__used", f"{_CLASS}_id", f"{_CLASS}__title", f"{_CLASS}__date"
    today = timezone.localdate()
    for paper, used, key, title, date in rows.values_list(*columns):
        # Nobody but who was there knows whether it was cut.
        named = f"{title}, whose day has passed: was it cut?" if date and date < today else title
        for sheet, count in used.items():
            yield Promised(paper=paper, sheet=sheet, count=count, card_class=key, title=named)


def open_stock(
    card_class: CardClass, papers: Iterable[Paper], sheets: Mapping[int, list[Sheet]]
) -> dict[int, dict[str, int]]:
    """What a class may plan with of papers that have several sizes or offcuts: what is promised to no other.

    By paper and by what plans call the kind of sheet.
    """
    if not sheets:
        return {}
    wants: dict[tuple[int, str], list[Wanted]] = {}
    for each in promised_to(card_class.owner_id):
        wants.setdefault((each.paper, each.sheet), []).append(each.wanted)
    me, found = str(card_class.pk), {}
    for paper in papers:
        if paper.pk in sheets:
            lying = {SHEET_ID: paper.on_hand} | {sheet.key: sheet.on_hand for sheet in sheets[paper.pk]}
            found[paper.pk] = {
                key: open_for(me, max(0, count or 0), wants.get((paper.pk, key), [])) for key, count in lying.items()
            }
    return found


def can_be_had(fit: PaperFit, plan: PaperPlan) -> bool:
    """Whether the offcuts a plan takes are there and promised to nobody else; nobody takes them until this ends."""
    paper = Paper.objects.select_for_update(of=("self",)).get(pk=fit.class_paper.paper_id)
    offcuts = list(Sheet.objects.filter(paper=paper, removed_at=None, is_offcut=True))
    there = open_stock(fit.class_paper.card_class, [paper], {paper.pk: offcuts})[paper.pk]
    known = {sheet.key for sheet in offcuts}
    whole = {SHEET_ID, *paper.sheets.filter(is_offcut=False).values_list("key", flat=True)}
    return all(there.get(key, 0) >= count for key, count in plan.used.items() if key in known or key not in whole)
