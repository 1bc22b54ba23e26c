"""How long a move at the casting table takes: ``make bench``.

Fifteen cards, six letters, twelve patterns of a pad, a guide of six sheets. Each move is stored, the class is cast and
counted anew for its page, and the whole table rendered. Prints milliseconds, the ratio of a move to a letter typed into
one of the lists in the same run, and how long proposals take.
"""

from __future__ import annotations

import os
import random
import statistics
import sys
import time
from pathlib import Path

import django

sys.path.insert(0, str(Path(__file__).parents[1]))
os.environ.setdefault("ZESTER_DEBUG", "1")
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zester.site.settings")
os.environ["ZESTER_DATABASE"] = ":memory:"

MOVES, KEYS = 60, 30


def write_cards(card_class, reading, stock: str) -> None:
    """Fifteen cards whose lists take just what the guide cuts."""
    from zester.classes.services import add_card
    from zester.core.lengths import TICKS_PER_INCH

    for number in range(1, 16):
        lines = ["card 5½ x 5½ side fold", f"Base  11 x 5½  {stock}"]
        for sheet in reading.guide.letters:
            for piece in sheet.pieces:
                if piece.card == number:
                    size = f"{piece.width // TICKS_PER_INCH} x {piece.height // TICKS_PER_INCH}"
                    lines.append(f"{piece.name}  {size}  sheet {sheet.letter}")
        entry = add_card(card_class, f"Card {number}")
        entry.card.cut_list = "\n".join(lines)
        entry.card.save()


def searched() -> None:
    """How long guides of fifteen cards from six sheets without any waste take to be found again."""
    from zester.casting.searching import SECONDS
    from zester.core.casting.search import search_guide
    from zester.core.casting.tests.test_search import hidden
    from zester.core.lengths import TICKS_PER_INCH

    taken, sheets = [], []
    for slots in hidden(random.Random(6), 6):
        started = time.perf_counter()
        found = search_guide(slots, 6 * TICKS_PER_INCH, 6 * TICKS_PER_INCH, "in", seconds=SECONDS)
        taken.append(time.perf_counter() - started)
        sheets.append((found.sheets, found.bound))
    median = statistics.median(taken)
    print(
        f"a searched guide of fifteen cards: median {median:.1f} s, worst {max(taken):.1f} s; sheets and bound {sheets}"
    )


def main() -> None:
    """Moves of every kind in turn, letters typed, proposals asked for."""
    django.setup()
    from django.contrib.auth import get_user_model
    from django.core.management import call_command
    from django.test import Client
    from django.urls import reverse

    call_command("migrate", verbosity=0)
    from zester.casting.guides import keep_guide, use_guide
    from zester.casting.models import Guide
    from zester.classes.models import CardClass, Casting
    from zester.classes.services import open_class, recount
    from zester.core.casting.tests.test_guide import FIFTEEN
    from zester.core.lengths import TICKS_PER_INCH
    from zester.shelf.models import Paper

    user = get_user_model().objects.create_user("mira")
    six = 6 * TICKS_PER_INCH
    stock = Paper.objects.create(owner=user, name="Chalk", width=17 * six // 12, height=11 * TICKS_PER_INCH)
    chance = random.Random(31)
    papers = [
        Paper.objects.create(
            owner=user, name=f"Pattern {k}", kind="patterned", sheet="6x6", width=six, height=six,
            look=chance.choice(("busy", "calm")), colour=f"#{chance.randrange(1 << 24):06x}", repeat="dots",
        )
        for k in "abcdefghijkl"
    ]  # fmt: skip
    guide = Guide(owner=user, name="Fifteen from six", width=six, height=six, lines=FIFTEEN)
    reading = keep_guide(guide)
    card_class = open_class(CardClass(owner=user, title="Fifteen cards", participants=4))
    write_cards(card_class, reading, stock.name)
    recount(card_class.pk)
    use_guide(card_class, guide)
    row = Casting.objects.create(
        card_class=card_class,
        name="First",
        cast={"letters": {x: p.key for x, p in zip("ABCDEF", papers, strict=False)}},
    )
    client = Client(SERVER_NAME="localhost", headers={"HX-Request": "true"})
    client.force_login(user)
    move = reverse("casting:move", args=[card_class.pk, row.pk])

    def timed(address: str, sent: dict) -> float:
        started = time.perf_counter()
        answer = client.post(address, sent)
        assert answer.status_code == 200, (address, answer.status_code)
        return 1000 * (time.perf_counter() - started)

    moves = []
    for k in range(MOVES):
        sent = (
            {"act": "letter", "letter": "ABCDEF"[k % 6], "paper": papers[k % 12].key},
            {"act": "swap", "letter": "A", "with": "BCDEF"[k % 5]},
            {"act": "over", "what": "ABCDEF"[k % 6]},
            {"act": "piece", "handle": "A2", "paper": stock.key if k % 8 < 4 else "own"},
        )[k % 4]
        moves.append(timed(move, sent))
    desk = reverse("classes:read", args=[card_class.pk, "A"])
    text = card_class.class_cards.get(letter="A").card.cut_list
    letters = (f"{text}\nTag 1 x 1 chalk # {'x' * k}" for k in range(KEYS))
    keys = [timed(desk, {"cut_list": typed, "editor": "bench", "saves": 0, "view": "front"}) for typed in letters]
    asked = [timed(reverse("casting:propose", args=[card_class.pk, row.pk]), {}) for _ in range(3)]
    p95 = statistics.quantiles(moves[4:], n=20)[-1]
    print(f"a move: median {statistics.median(moves):.0f} ms, p95 {p95:.0f} ms")
    key = statistics.median(keys)
    print(f"a letter typed into a list: median {key:.0f} ms; the p95 of a move is {p95 / key:.1f} of it")
    print(f"six proposals: {max(asked) / 1000:.1f} s")
    searched()


if __name__ == "__main__":
    main()
