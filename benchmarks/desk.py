"""How long the server takes to answer a keystroke at the design desk: ``make bench``.

A list of sixty pieces on a gate fold, every one with borders, places and papers, in a class with seven more cards. Each
answer saves the list, reads it, checks and draws the card, counts the class and renders the page's parts. Prints
milliseconds for each drawing, and their ratio to a fixed piece of work (one tenth of a second of plain arithmetic)
timed in the same run, so that runs on other machines can be compared.
"""

from __future__ import annotations

import gc
import os
import statistics
import sys
import time
from pathlib import Path

import django

sys.path.insert(0, str(Path(__file__).parents[1]))
os.environ.setdefault("ZESTER_DEBUG", "1")
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zester.site.settings")
os.environ["ZESTER_DATABASE"] = ":memory:"

PAPERS = ("Midnight Dome", "Telescope Brass", "Star Chart", "Chalk Moon")
HEAD = ["card 4¼ x 5½ gate fold", "Base telescope brass", "2 Door mats ⅛ border midnight dome"]
HEAD += ["2 Door panels ⅛ border star chart match doors", "Middle mat ⅛ border midnight dome"]
WANTED = 150


def sixty_pieces() -> str:
    """The list: 61 lines, 60 pieces."""
    lines = list(HEAD)
    for number in range(60 - (len(HEAD) - 1)):
        size = f"{2 + number % 3}/16" if number % 5 == 0 else f"{1 + number % 2}¼ x {1 + number % 3}½"
        paper = PAPERS[number % len(PAPERS)].lower()
        place = f"left {1 + number % 7}/16 top {1 + number % 9}/8"
        name = f"{('Inside panel', 'Star', 'Tag', 'Strip', 'Sentiment')[number % 5]} no{number}"
        lines.append(f"{name}  {f'{size} border on middle mat' if number % 5 == 0 else size}  {paper}  {place} raised")
    return "\n".join(lines)


def plain_work() -> float:
    """Seconds of a fixed sum in plain Python."""
    started = time.perf_counter()
    sum(k * k % 7 for k in range(1_000_000))
    return time.perf_counter() - started


def text_kept(card: int) -> str:
    """The list of a card as it is stored."""
    from zester.designs.models import Card

    return Card.objects.values_list("cut_list", flat=True).get(pk=card)


def main() -> None:
    """Thirty keystrokes at the end of the list for every drawing, and thirty in the card's own size."""
    django.setup()
    from django.core.management import call_command
    from django.test import Client

    call_command("migrate", verbosity=0)
    from django.contrib.auth import get_user_model
    from django.urls import reverse

    from zester.classes.services import add_card
    from zester.core.cards.yields import most_of_one
    from zester.core.cutlist.notation import read_list
    from zester.demo.data import load
    from zester.designs.services import known_to
    from zester.site.context import DEMO_USER

    # As the server does when it starts.
    most_of_one(2, 3, 17, 22, True)
    gc.collect()
    gc.freeze()
    evening = load()[0]
    client = Client(SERVER_NAME="localhost")
    user = get_user_model().objects.get(username=DEMO_USER)
    client.force_login(user)
    entry = add_card(evening, "Sixty pieces")
    text = sixty_pieces()
    readings = read_list(text, known_to(user))
    pieces = sum(reading.piece is not None for reading in readings)
    url = reverse("classes:read", args=[evening.pk, entry.letter])
    yardstick = statistics.median(plain_work() for _ in range(5))
    print(f"{pieces} pieces, {sum(r.error is not None for r in readings)} wrong lines, 8 cards in the class")
    worst = 0.0
    for view in ("front", "inside", "flat", "apart-front", "apart-inside", "card's size"):
        taken = []
        for stroke in range(31):
            typed = f"{text} # {'x' * stroke}"
            if view == "card's size":
                # Every border follows, so that pieces of sizes not met before are counted on their sheets.
                typed = text.replace("card 4¼ x", f"card {3 + stroke // 8} {1 + stroke % 8}/8 x")
            data = {"cut_list": typed, "editor": "bench", "saves": 0, "view": view.partition("'")[0]}
            started = time.perf_counter()
            answer = client.post(url, data, headers={"HX-Request": "true"})
            taken.append(time.perf_counter() - started)
            if answer.status_code != 200 or text_kept(entry.card_id).strip() != typed.strip():
                raise SystemExit(f"The desk answered {answer.status_code} and did not keep the list")
        first, rest = taken[0], taken[1:]
        middle, high = statistics.median(rest), max(rest)
        worst = max(worst, high)
        print(
            f"{view:13} first {first * 1000:6.1f} ms, then median {middle * 1000:6.1f} ms, worst {high * 1000:6.1f} ms"
            f"  ({middle / yardstick:.2f} of the yardstick's {yardstick * 1000:.0f} ms)"
        )
    print(f"wanted: under {WANTED} ms; worst of all {worst * 1000:.1f} ms, {worst * 1000 / WANTED:.2f} of that")


if __name__ == "__main__":
    main()
