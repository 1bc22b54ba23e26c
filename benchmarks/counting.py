"""How long it takes to count a class of five hundred people and twelve designs, and to answer each of its pages.

Prints milliseconds and queries for the count at the server and for every page of the class and the shelf, and their
ratio to a fixed piece of work timed in the same run. Part of ``make bench``.
"""

from __future__ import annotations

import statistics
import time

import django
from desk import plain_work

PEOPLE, DESIGNS = 500, 12
WANTED_COUNT, WANTED_PAGE, WANTED_PACKING, WANTED_QUERIES = 200, 500, 300, 30
PAGES = ("classes:count", "classes:people", "classes:offers", "classes:instead", "classes:edit", "classes:people_csv")
PAGES += ("fits:needs", "fits:seats", "fits:wall", "bags:pack", "classes:desk")
SHELF = ("shelf:shelf", "shelf:offcuts", "shelf:take_stock", "shelf:ledger", "fits:buying", "classes:list")


def _class():
    """The demo's cards and four more, five hundred people with four offers and choices, a kit list, a substitution."""
    from zester.classes.models import CardClass, Offer, Participant, Substitution
    from zester.classes.people import add_people, keep_offer, take_instead
    from zester.classes.services import add_card, begin_kit_list, recount
    from zester.core.kits.order_lines import OrderLine
    from zester.demo.data import load
    from zester.designs.models import Card
    from zester.plans.needs import begin_class
    from zester.shelf.models import Paper

    evening = load()[0]
    for number in range(DESIGNS - evening.class_cards.exclude(letter="Kit").count()):
        entry = add_card(evening, f"Another {number}")
        first = evening.class_cards.order_by("pk")[number].card
        Card.objects.filter(pk=entry.card_id).update(cut_list=first.cut_list)
    begin_kit_list(evening)
    CardClass.objects.filter(pk=evening.pk).update(capacity=None)
    Participant.objects.filter(card_class=evening).delete()
    papers = list(Paper.objects.of(evening.owner).filter(kind="patterned").values_list("key", flat=True))
    choice = {"choose": 4, "among": papers[:8], "choice_width": 20_000, "choice_height": 20_000}
    keep_offer(Offer(card_class=evening, name="with a choice", price="40.00", **choice))
    offers = [str(pk) for pk in evening.offers.filter(free_above=None).values_list("pk", flat=True)]
    lines = [
        OrderLine(
            name=f"Guest {number}",
            orders=((offers[number % len(offers)], 1 + number % 2),),
            chosen=tuple(papers[: number % 5]),
        )
        for number in range(PEOPLE)
    ]
    add_people(evening, lines)
    brass, ember = (Paper.objects.get(owner=evening.owner, name=name) for name in ("Telescope Brass", "Ember Dust"))
    some = Substitution(card_class=evening, paper=brass, other=ember, who="some")
    take_instead(some, Participant.objects.filter(card_class=evening, name__endswith="7"))
    recount(evening.pk)
    begin_class(CardClass.objects.get(pk=evening.pk))
    return CardClass.objects.get(pk=evening.pk)


def _timed(act, times: int = 5) -> float:
    """The median of the seconds it takes, after once to warm up."""
    act()
    taken = []
    for _ in range(times):
        started = time.perf_counter()
        act()
        taken.append(time.perf_counter() - started)
    return statistics.median(taken)


def main() -> None:
    """Count the class, ask for every page, print what it takes."""
    django.setup()
    from django.conf import settings
    from django.core.management import call_command
    from django.db import connection
    from django.test import Client
    from django.test.utils import CaptureQueriesContext
    from django.urls import reverse

    # Fits are only asked for here, not made: what is measured is the counting.
    settings.TASKS = {"default": {"BACKEND": "django_tasks.backends.dummy.DummyBackend", "QUEUES": []}}
    call_command("migrate", verbosity=0)
    from zester.classes.services import count_class

    card_class = _class()
    client = Client(SERVER_NAME="localhost")
    client.force_login(card_class.owner)
    yardstick = statistics.median(plain_work() for _ in range(5))

    def count() -> int:
        counted = count_class(card_class)
        return sum(entry.count for entry in counted.counts) + len(counted.bits)

    taken = _timed(count)
    print(f"{card_class.n_people} people, {card_class.n_cards} designs, {count():,} pieces and bits")
    print(f"counting {taken * 1000:.1f} ms ({taken / yardstick:.2f} of the yardstick), wanted {WANTED_COUNT} ms")
    for name in (*PAGES, *SHELF):
        url = reverse(name, args=[card_class.pk] if name in PAGES else [])
        taken = _timed(lambda url=url: client.get(url))
        with CaptureQueriesContext(connection) as seen:
            answer = client.get(url)
        if answer.status_code != 200:
            raise SystemExit(f"{url} answered {answer.status_code}")
        late = "  LATE" if taken * 1000 > WANTED_PAGE or len(seen) > WANTED_QUERIES else ""
        print(f"{name:20} {taken * 1000:7.1f} ms ({taken / yardstick:.2f}), {len(seen):3} queries{late}")
    print(f"wanted for a page: {WANTED_PAGE} ms and {WANTED_QUERIES} queries")
    packing(card_class, client, yardstick)


def packing(card_class, client, yardstick: float) -> None:
    """The pages of the Pack station, and a tick."""
    import json
    import uuid

    from django.db import connection
    from django.test.utils import CaptureQueriesContext
    from django.urls import reverse

    from zester.bags.board import board_of

    board = board_of(card_class)
    stack, kit = board.stacks[0].key, board.kits[len(board.kits) // 2].kit.key
    print(f"{len(board.kits)} kits, {len(board.bags):,} bags")
    pages = {"board": ("pack",), "stack": ("stack", stack), "kit": ("kit", kit), "state": ("state",)}
    pages |= {"piles": ("short",), "checks": ("checks",), "labels": ("print",), "hand-out": ("handout",)}
    urls = {name: reverse(f"bags:{view}", args=[card_class.pk, *keys]) for name, (view, *keys) in pages.items()}
    acts = {name: lambda url=url: client.get(url) for name, url in urls.items()}
    ticks = f"{reverse('bags:ticks', args=[card_class.pk])}?stack={stack}"

    def tick():
        entry = {"key": str(uuid.uuid4()), "kind": "stack", "what": stack, "on": True, "device": "x"}
        return client.post(ticks, json.dumps([entry]), content_type="application/json")

    for name, act in {**acts, "tick": tick}.items():
        taken = _timed(act)
        with CaptureQueriesContext(connection) as seen:
            answer = act()
        if answer.status_code != 200:
            raise SystemExit(f"{name} answered {answer.status_code}")
        late = "  LATE" if taken * 1000 > WANTED_PACKING or len(seen) > WANTED_QUERIES else ""
        print(f"pack: {name:14} {taken * 1000:7.1f} ms ({taken / yardstick:.2f}), {len(seen):3} queries{late}")
    print(f"wanted for a page: {WANTED_PACKING} ms and {WANTED_QUERIES} queries")


if __name__ == "__main__":
    main()
