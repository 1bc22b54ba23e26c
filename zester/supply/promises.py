"""What classes are planned with: sheets and offcuts that their shown plans take and that are not cut yet.

Nothing of it is stored: it follows from the plans that are shown. Who comes first is served first: the class whose day
is sooner, then the one that was made first.
"""

from __future__ import annotations

from collections.abc import Iterator

from django.db.models import F, QuerySet
from django.utils import timezone

from zester.plans.models import PaperFit
from zester.shelf.uses import Promised
from zester.site.prepared import prepared

_CLASS = "class_paper__card_class"


@prepared
def _planned(user: int) -> QuerySet:
    rows = PaperFit.objects.promised(user).order_by(F(f"{_CLASS}__date").asc(nulls_last=True), f"{_CLASS}_id", "part")
    columns = "class_paper__paper_id", "shown__used", f"{_CLASS}_id", f"{_CLASS}__title", f"{_CLASS}__date", "part"
    return rows.values_list(*columns)


def promised_to(user: int) -> Iterator[Promised]:
    """All that the classes of the user with this key are planned with, in the order in which they are served."""
    today = timezone.localdate()
    for paper, used, key, title, date, part in _planned(user):
        # Nobody but who was there knows whether it was cut.
        named = f"{title}, whose day has passed: was it cut?" if date and date < today else title
        for sheet, count in used.items():
            yield Promised(paper=paper, sheet=sheet, count=count, card_class=key, title=named, part=part)
