"""What more people would take of all papers of a class, from what was worked out for each."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from zester.classes.models import CardClass
from zester.fits.models import PaperPlan
from zester.fits.states import Papers


@dataclass(frozen=True, kw_only=True)
class Point:
    """So many people and what they take."""

    people: int
    """How many come."""
    sheets: int
    """Sheets of all papers."""
    cost: Decimal
    """What the packs of all papers cost that have a price."""


@dataclass(frozen=True, kw_only=True)
class Growth:
    """How sheets and cost of a class grow with the people."""

    points: tuple[Point, ...]
    """One for every number of people, from those who come on."""
    known: int
    """For how many papers it is worked out."""
    papers: int
    """Of how many."""

    @property
    def free(self) -> int:
        """How many more people the same sheets serve."""
        same = [point for point in self.points if point.sheets == self.points[0].sheets]
        return len(same) - 1 if same else 0

    @property
    def next_step(self) -> Point | None:
        """The first number of people that takes more; None if none does."""
        return next((point for point in self.points if point.sheets > self.points[0].sheets), None)

    @property
    def more_sheets(self) -> int:
        """How many sheets more that is."""
        return self.next_step.sheets - self.points[0].sheets if self.next_step else 0

    @property
    def more_cost(self) -> Decimal:
        """How much more that costs."""
        return self.next_step.cost - self.points[0].cost if self.next_step else Decimal(0)

    @property
    def chart(self) -> dict:
        """The same as data for the chart."""
        return {
            "people": [point.people for point in self.points],
            "sheets": [point.sheets for point in self.points],
            "cost": [str(point.cost) for point in self.points],
            "free": self.free,
        }


def growth_of(card_class: CardClass, papers: Papers) -> Growth:
    """Add up what is known for the shown plans."""
    shown = {entry.fit.shown_id: entry.fit for entry in papers.entries if entry.fit.answered}
    rows = dict(PaperPlan.objects.filter(pk__in=shown).exclude(growth=[]).values_list("pk", "growth"))
    priced = {pk for pk in rows if shown[pk].shown.priced}
    runs = [(pk, growth) for pk, growth in rows.items() if growth]
    length = min((growth[-1]["last"] - growth[0]["first"] for _, growth in runs), default=-1)
    points = []
    for more in range(length + 1):
        sheets, cost = 0, Decimal(0)
        for pk, growth in runs:
            step = next(each for each in growth if each["last"] >= growth[0]["first"] + more)
            sheets += step["sheets"]
            cost += Decimal(step["price"]) if pk in priced else Decimal(0)
        points.append(Point(people=card_class.n_people + more, sheets=sheets, cost=cost))
    return Growth(points=tuple(points), known=len(runs), papers=len(shown))
