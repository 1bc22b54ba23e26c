"""Six classes of the last half year that never took place: simulated from seeds, so that the log has something to show.

A class draws its people, an evening its mishaps and its pace; sheets follow from the pieces, money from both.
"""

from __future__ import annotations

import datetime
import math
import random
from decimal import Decimal

from django.contrib.auth.models import AbstractBaseUser
from django.utils import timezone

from zester.core.money.record import DesignKept, PaperKept, Record, write_record
from zester.core.money.shares import cents
from zester.money.models import ClassRecord

CLASSES = ("Lantern Evening", "Paper Harvest", "Owls and Oaks", "Frost Letters", "Quiet Tides", "First Snow Cards")
# By name what a sheet costs, how many pieces it gives at best, and how many a card takes of it.
PAPERS = {
    "Chalk Moon": (Decimal("0.32"), 4, 2),
    "Midnight Dome": (Decimal("0.42"), 3, 1),
    "Ember Dust": (Decimal("0.42"), 6, 2),
    "Pine Ridge": (Decimal("0.30"), 8, 3),
    "Star Chart": (Decimal("1.10"), 9, 2),
}
DESIGNS = ("Rising Moon", "Comet Trail", "Night Walk", "Pine Hill")
SECONDS_A_PIECE, PRICE, ROOM = 4.2, Decimal(30), Decimal(60)


def write_past(user: AbstractBaseUser) -> None:
    """Put them into somebody's log; each says that it is made up."""
    today = timezone.localdate()
    for number, title in enumerate(CLASSES):
        date = today - datetime.timedelta(days=30 * (len(CLASSES) - number) + 11)
        closed = timezone.now() - (today - date) + datetime.timedelta(days=1)
        kept = write_record(simulated(random.Random(1000 + number)))
        ClassRecord.objects.create(owner=user, title=title, date=date, closed_at=closed, made_up=True, kept=kept)


def simulated(dice: random.Random) -> Record:
    """One class."""
    people = dice.randint(8, 16)
    kits = people + dice.randint(0, 2)
    designs = dice.sample(DESIGNS, 3)
    cards = kits * len(designs)
    papers = tuple(_paper(dice, name, cards) for name in dice.sample(sorted(PAPERS), 4))
    pieces = sum(PAPERS[paper.name][2] * cards for paper in papers)
    spoiled = sum(dice.random() < 0.006 for _ in range(pieces))
    more, harmed = -(-spoiled // 4), dice.choices(designs, k=spoiled)
    planned = round(SECONDS_A_PIECE * pieces)
    cost = sum((paper.cost for paper in papers), Decimal(0))
    mishaps = cents(cost / sum(paper.sheets for paper in papers) * more)
    return Record(
        people=people,
        kits=kits,
        handed=people,
        pieces=pieces,
        planned_seconds=planned,
        seconds=round(planned * dice.lognormvariate(0.05, 0.12)),
        spoiled={"piece": spoiled} if spoiled else {},
        more_sheets=more,
        mishaps_cost=mishaps,
        offcuts=dice.randint(1, 9),
        brings=PRICE * people,
        takes=cost + mishaps + ROOM + cents(Decimal("3.20") * people),
        owing=Decimal(0),
        papers=papers,
        designs=tuple(_design(name, kits, cost / cards, harmed.count(name)) for name in designs),
        offcuts_used=dice.randint(0, 6),
    )


def _paper(dice: random.Random, name: str, cards: int) -> PaperKept:
    price, best, each = PAPERS[name]
    pieces = cards * each
    # How well they fit is not the same every time.
    fit = best if dice.random() < 0.6 else best - 1
    sheets = math.ceil(pieces / fit)
    used = Decimal(pieces) / (sheets * best) * Decimal("0.96")
    kept = (1 - used) * Decimal(dice.randint(20, 60)) / 100
    cost = price * sheets
    rounded = {"used": round(used, 4), "kept": round(kept, 4)}
    return PaperKept(name=name, sheets=sheets, cost=cost, waste=cents(cost * (1 - used - kept)), **rounded)


def _design(name: str, kits: int, cost: Decimal, spoiled: int) -> DesignKept:
    own = Decimal(80 + 10 * DESIGNS.index(name)) / 100
    return DesignKept(name=name, made=kits, cost=cents(cost * own), spoiled=spoiled)
