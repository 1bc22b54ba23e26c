"""A hundred classes, two hundred designs, twenty thousand entries of the ledger: ``make bench``.

Prints the slowest pages with their queries, warm, and how they stand to the median page of the same run; then how long
it takes to look through sixty designs for what can be made of forty offcuts.
"""

from __future__ import annotations

import datetime
import os
import random
import statistics
import sys
import time
from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path

import django

sys.path.insert(0, str(Path(__file__).parents[1]))
os.environ.setdefault("ZESTER_DEBUG", "1")
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zester.site.settings")
os.environ["ZESTER_DATABASE"] = ":memory:"

CLASSES, CLOSED, DESIGNS, ENTRIES, OFFCUTS, LOOKED = 100, 88, 200, 20_000, 40, 60
MOST_MS, MOST_QUERIES, SLOWEST = 300, 30, 10
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
LETTER = {"sheet": "letter", "width": 69088, "height": 89408, "unit": "in"}


def account(dice: random.Random):
    """Somebody with all of that; the class that is looked at."""
    from django.contrib.auth import get_user_model
    from django.utils import timezone

    from tests.people import fitted
    from zester.classes.models import CardClass, Offer
    from zester.classes.people import add_people, keep_offer
    from zester.classes.services import open_class, use_card
    from zester.core.kits.order_lines import OrderLine
    from zester.designs.models import Card
    from zester.shelf.models import Entry, Paper

    user = get_user_model().objects.create_user("many")
    about = LETTER | {"owner": user, "price": Decimal("0.50"), "on_hand": 500}
    papers = [Paper.objects.create(name=f"Paper {letter}", **about) for letter in LETTERS]
    Entry.objects.bulk_create(
        Entry(owner=user, paper=dice.choice(papers), kind="bought", count=dice.randint(1, 9)) for _ in range(ENTRIES)
    )
    designs = [Card.objects.create(owner=user, name=f"Card {n}", cut_list=cut_list(dice)) for n in range(DESIGNS)]
    first = datetime.date.today() - datetime.timedelta(days=CLOSED + 2)
    for number in range(CLASSES):
        date = first + datetime.timedelta(days=number)
        made = open_class(CardClass(owner=user, title=f"Class {number}", participants=0, date=date, auto_fit=False))
        for card in dice.sample(designs, 5):
            use_card(made, card)
        keep_offer(Offer(card_class=made, name="kit", price=Decimal(30)))
        if number < CLOSED:
            CardClass.objects.filter(pk=made.pk).update(closed_at=timezone.now())
            record(made, papers, designs, dice)
        else:
            add_people(made, [OrderLine(name=f"Person {each}") for each in range(14)])
    fitted(CardClass.objects.get(pk=made.pk))
    return user, made


def cut_list(dice: random.Random, papers: str = LETTERS) -> str:
    """A card of three papers."""
    one, two, three = dice.sample(papers, 3)
    return "\n".join(
        [
            "card 4¼ x 5½ side fold",
            f"Base 8½ x 5½ paper {one}",
            f"Mat 4 x 5¼ paper {two}",
            f"2 Panel {dice.choice(['3 x 4', '2½ x 3½'])} paper {three}",
            f"Strip 1 x 4 paper {one}",
            "+ 2 gems",
        ]
    )


def record(card_class, papers, designs, dice: random.Random) -> None:
    """What a closed class came to."""
    from zester.core.money.record import DesignKept, PaperKept, Record, write_record
    from zester.money.models import ClassRecord

    mine = [
        PaperKept(name=each.name, sheets=9, used=Decimal("0.8"), cost=Decimal(4)) for each in dice.sample(papers, 8)
    ]
    cards = [DesignKept(name=each.name, made=14, cost=Decimal("0.60")) for each in dice.sample(designs, 5)]
    figures = {"people": 14, "kits": 14, "pieces": 500, "seconds": 4000, "brings": Decimal(300), "takes": Decimal(220)}
    kept = write_record(Record(**figures, papers=tuple(mine), designs=tuple(cards)))
    about = {"owner": card_class.owner, "title": card_class.title, "date": card_class.date}
    ClassRecord.objects.create(card_class=card_class, kept=kept, **about)


def addresses(patterns, pk: int, space: str = "") -> Iterator[tuple[str, str]]:
    """Every named address that takes nothing, or the key of a class."""
    from django.urls import NoReverseMatch, reverse

    for each in patterns:
        if hasattr(each, "url_patterns"):
            yield from addresses(each.url_patterns, pk, f"{space}{each.namespace}:" if each.namespace else space)
        elif each.name and set(each.pattern.converters) <= {"pk"} and space != "admin:":
            try:
                yield (
                    space + each.name,
                    reverse(space + each.name, kwargs={"pk": pk} if each.pattern.converters else {}),
                )
            except NoReverseMatch:
                continue


def pages(user, card_class) -> list[tuple[float, int, str]]:
    """Milliseconds and queries of every page, asked for the second time."""
    from django.db import connection
    from django.test import Client
    from django.test.utils import CaptureQueriesContext
    from django.urls import get_resolver

    client = Client()
    client.force_login(user)
    rows = []
    for name, address in addresses(get_resolver().url_patterns, card_class.pk):
        first = client.get(address)
        if first.status_code != 200 or not first.headers.get("Content-Type", "").startswith("text/html"):
            continue
        with CaptureQueriesContext(connection) as queries:
            started = time.perf_counter()
            client.get(address)
            taken = (time.perf_counter() - started) * 1000
        rows.append((taken, len(queries), name))
    return sorted(rows, reverse=True)


def making(dice: random.Random) -> None:
    """How long it takes to look through designs for what offcuts give."""
    from django.contrib.auth import get_user_model

    from zester.core.fitting.engine import warm_up
    from zester.core.lengths import TICKS_PER_INCH
    from zester.core.stock.offcut_lines import OffcutLine
    from zester.designs.models import Card
    from zester.making.looking import look_task
    from zester.making.models import Look
    from zester.shelf.models import Paper
    from zester.shelf.stock import put_offcuts

    user = get_user_model().objects.create_user("thrifty")
    papers = [Paper.objects.create(owner=user, name=f"Paper {letter}", **LETTER) for letter in LETTERS[:8]]
    sides = [sorted(dice.randint(low * 4, high * 4) for low, high in ((2, 8), (3, 11))) for _ in range(OFFCUTS)]
    put_offcuts(
        user,
        [
            OffcutLine(
                paper=dice.choice(papers).key,
                width=wide * TICKS_PER_INCH // 4,
                height=high * TICKS_PER_INCH // 4,
                count=1,
                up="top",
                place=f"box {number}",
            )
            for number, (wide, high) in enumerate(sides)
        ],
    )
    for number in range(LOOKED):
        Card.objects.create(owner=user, name=f"Card {number}", cut_list=cut_list(dice, LETTERS[:8]))
    look = Look.objects.create(owner=user)
    warm_up()
    started = time.perf_counter()
    look_task.func(look.pk)
    look.refresh_from_db()
    print(
        f"{LOOKED} designs out of {OFFCUTS} offcuts: {time.perf_counter() - started:.1f} s of 10; "
        f"{len(look.found['cards'])} can be made, {sum(e['exact'] for e in look.found['cards'])} of them proven"
    )


def main() -> None:
    """Print it."""
    django.setup()
    from django.conf import settings
    from django.core.management import call_command

    settings.ALLOWED_HOSTS = ["*"]
    call_command("migrate", verbosity=0)
    dice = random.Random(5)
    rows = pages(*account(dice))
    median = statistics.median(taken for taken, _, _ in rows)
    print(f"{len(rows)} pages of {CLASSES} classes, {DESIGNS} designs, {ENTRIES:,} entries; median {median:.0f} ms")
    for taken, queries, name in rows[:SLOWEST]:
        print(f"{taken:6.0f} ms of {MOST_MS}, {taken / median:4.1f} of the median, {queries:3} queries  {name}")
    most = max(rows, key=lambda row: row[1])
    print(f"most queries: {most[1]} of {MOST_QUERIES}, {most[2]}")
    making(dice)


if __name__ == "__main__":
    main()
