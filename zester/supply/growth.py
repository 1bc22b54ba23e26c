"""What more people would take of all papers of a class, from what was worked out for each."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from zester.classes.models import CardClass
from zester.plans.models import PaperPlan
from zester.plans.standing import Papers
from zester.site.regions import current


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
    """One for every number of people, from some fewer than come."""
    at: int
    """The place among them of those who come."""
    known: int
    """For how many papers it is worked out."""
    papers: int
    """Of how many."""

    @property
    def now(self) -> Point:
        """What those take who come."""
        return self.points[self.at]

    @property
    def free(self) -> int:
        """How many more people the same sheets serve."""
        return sum(point.sheets == self.now.sheets for point in self.points[self.at :]) - 1

    @property
    def next_step(self) -> Point | None:
        """The first number of people that takes more; None if none does."""
        return next((point for point in self.points[self.at :] if point.sheets > self.now.sheets), None)

    @property
    def more_sheets(self) -> int:
        """How many sheets more that is."""
        return self.next_step.sheets - self.now.sheets if self.next_step else 0

    @property
    def more_cost(self) -> Decimal:
        """How much more that costs."""
        return self.next_step.cost - self.now.cost if self.next_step else Decimal(0)

    @property
    def chart(self) -> dict:
        """The same as data for the chart."""
        return {
            "people": [point.people for point in self.points],
            "sheets": [point.sheets for point in self.points],
            "cost": [str(point.cost) for point in self.points],
            "currency": current().sign,
            "now": self.at,
            "free": self.free,
        }


def growth_of(card_class: CardClass, papers: Papers) -> Growth:
    """Add up what is known for the shown plans."""
    shown = {entry.fit.shown_id: entry.fit for entry in papers.entries if entry.fit.answered}
    rows = dict(PaperPlan.objects.filter(pk__in=shown).exclude(growth={}).values_list("pk", "growth"))
    fewer = min((row["at"] - row["runs"][0]["first"] for row in rows.values()), default=0)
    more = min((row["runs"][-1]["last"] - row["at"] for row in rows.values()), default=-1)
    points = []
    for step in range(-fewer, more + 1):
        sheets, cost = 0, Decimal(0)
        for pk, row in rows.items():
            run = next(each for each in row["runs"] if each["last"] >= row["at"] + step)
            sheets += run["sheets"]
            cost += Decimal(run["price"]) if shown[pk].shown.priced else Decimal(0)
        points.append(Point(people=card_class.n_people + step, sheets=sheets, cost=cost))
    return Growth(points=tuple(points), at=fewer, known=len(rows), papers=len(shown))
