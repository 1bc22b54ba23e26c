"""Fifty people at once on one small machine: ``python benchmarks/load.py [people] [seconds]``.

Serves Zester as the demo does, from a folder of its own, to as many people, each with the demo's evening (seven cards,
eight papers). Everybody does the same over and over, at a human pace and each at their own moment: reads three pages
(classes, count, fit, cut, pack, shelf; four to eight seconds each), opens a card, types ten letters in a burst at three
letters a second into a size, and waits for the sheets; meanwhile the page asks for its strip of papers as its script
does. Prints the median and the 95th percentile of a keystroke's answer, of pages, and of the time from the last letter
to sheets that answer it, with what is wanted, and what went wrong. The people run on the same
machine, which costs it some.
"""

from __future__ import annotations

import http.client
import os
import random
import re
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import urlencode

sys.path.insert(0, str(Path(__file__).parents[1]))
from benchmarks.serving import ROOT, environment, high, manage, print_yardstick, served

PACE, LETTERS = 1 / 3, 10
# How soon after an answer that may change sheets the page asks for them.
ASKED_AFTER = 0.34
WANTED = {"keystroke": 0.300, "page": 0.500, "sheets": 5.0}
PAGES = ("/classes/", "/classes/{}/count/", "/classes/{}/fit/", "/classes/{}/cut/", "/classes/{}/pack/", "/shelf/")


def main(people: int, seconds: float) -> None:
    """Prepare, serve, let them work, print."""
    with tempfile.TemporaryDirectory() as folder:
        variables = environment(folder)
        manage(variables, "migrate", "--verbosity", "0")
        manage(variables, "load_demo")
        lines = prepare_lines(variables, people)
        with served(variables) as (port, _):
            print_yardstick()
            crowd = [Person(port, *line.split(), number) for number, line in enumerate(lines)]
            ends = time.monotonic() + seconds
            threads = [threading.Thread(target=person.live, args=[ends]) for person in crowd]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            print_yardstick()
    report(crowd, people, seconds)


def prepare_lines(variables: dict[str, str], people: int) -> list[str]:
    """Everybody made ready in a process of its own; a line each."""
    command = [sys.executable, __file__, "prepare", str(people)]
    done = subprocess.run(command, check=True, env=variables, cwd=ROOT, stdout=subprocess.PIPE, text=True)
    return done.stdout.splitlines()


def report(crowd: list[Person], people: int, seconds: float) -> None:
    """The table."""
    print(f"{people} people for {seconds:.0f} s")
    for name, wanted in WANTED.items():
        times = [each for person in crowd for each in person.times[name]]
        print(
            f"{name:10} {len(times):6} times, median {statistics.median(times):6.3f} s, p95 {high(times):6.3f} s = "
            f"{high(times) / wanted:.2f} of {wanted} s, longest {max(times):6.3f} s"
        )
    wrong = [each for person in crowd for each in person.wrong]
    print(f"errors: {len(wrong)} {sorted(set(wrong))[:5]}; texts that are not as typed: {sum(p.lost for p in crowd)}")


def prepare(people: int) -> None:
    """Everybody with the demo's evening, fitted as the demo's is; a line each: class, card, session, token."""
    import django

    django.setup()
    from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY, get_user_model
    from django.middleware.csrf import _get_new_csrf_string

    from zester.accounts.sessions import SessionStore
    from zester.classes.models import CardClass, ClassPaper
    from zester.demo.data import TITLE, load
    from zester.plans.models import PaperFit, PaperPlan, Work
    from zester.plans.needs import begin_class

    first = CardClass.objects.get(title=TITLE)
    fits = PaperFit.objects.filter(class_paper__card_class=first).select_related("class_paper__paper", "shown")
    plans = {fit.class_paper.paper.name: fit.shown for fit in fits}
    for number in range(people):
        (evening, _) = load(f"person{number}")
        for wish in ClassPaper.objects.filter(card_class=evening).select_related("paper"):
            plan = plans[wish.paper.name]
            old = plan.class_paper.paper.key
            job, text = (each.replace(old, wish.paper.key) for each in (plan.job, plan.plan))
            copied = PaperPlan.objects.get(pk=plan.pk)
            copied.pk, copied.class_paper, copied.job, copied.plan = None, wish, job, text
            copied.save()
        Work.objects.all().delete()
        begin_class(evening)
        user = get_user_model().objects.get(username=f"person{number}")
        session = SessionStore()
        session[SESSION_KEY], session[BACKEND_SESSION_KEY] = str(user.pk), "django.contrib.auth.backends.ModelBackend"
        session[HASH_SESSION_KEY] = user.get_session_auth_hash()
        session.save()
        card = evening.class_cards.first().card_id
        print(evening.pk, card, session.session_key, _get_new_csrf_string())
    Work.objects.all().delete()


@dataclass
class Person:
    """Somebody at a browser."""

    port: int
    card_class: str
    card: str
    session: str
    token: str
    number: int
    times: dict[str, list[float]] = field(default_factory=lambda: {name: [] for name in WANTED})
    wrong: list[str] = field(default_factory=list)
    lost: int = 0

    def live(self, ends: float) -> None:
        """Read, write, look, again and again."""
        self.dice = random.Random(self.number)
        self.line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)
        time.sleep(self.dice.uniform(0, 20))
        while time.monotonic() < ends:
            for _ in range(3):
                self.read(self.dice.choice(PAGES).format(self.card_class))
                self.look(self.dice.uniform(4, 8), "count")
            self.write()
            self.look(self.dice.uniform(3, 6), "design")

    def read(self, page: str) -> str:
        """Open a page."""
        started = time.perf_counter()
        text = self.send("GET", page)
        self.times["page"].append(time.perf_counter() - started)
        return text

    def look(self, seconds: float, station: str) -> None:
        """Look at a page while its strip asks every three seconds."""
        until = time.monotonic() + seconds
        self.strip(station)
        while time.monotonic() < until:
            time.sleep(min(3.0, max(0.0, until - time.monotonic())))
            self.strip(station)

    def write(self) -> None:
        """A burst of letters in the line of the sentiment, which ends in a size that was not there before."""
        page = self.read(f"/classes/{self.card_class}/design/A/")
        text = re.search(r'<textarea id="cut-list"[^>]*>\n?(.*?)</textarea>', page, re.DOTALL)[1].replace("&amp;", "&")
        saves = re.search(r'id="list-saves" value="(\d+)"', page)[1]
        self.editor = f"{self.number}-{saves}"
        head, _, tail = re.match(r"(.*\n)(Sentiment[^\n]*)(\n.*)", text, re.DOTALL).groups()
        size = f"{self.dice.randint(1, 2)} {self.dice.randrange(1, 16, 2)}/16 x {self.dice.choice((5, 7, 9, 11))}/16"
        new = f"Sentiment  chalk moon  {size}"
        shown = {}
        for count in range(1, LETTERS + 1):
            now = new[: len(new) - LETTERS + count]
            started = time.perf_counter()
            saves, shown = self.save(f"{head}{now}{tail}", saves, shown)
            self.times["keystroke"].append(time.perf_counter() - started)
            if count < LETTERS:
                if self.counted and ASKED_AFTER < PACE:
                    time.sleep(ASKED_AFTER)
                    self.strip("design")
                time.sleep(max(0.0, PACE - (time.perf_counter() - started)))
        self.wait_for_sheets(time.perf_counter())
        kept = self.send("GET", f"/designs/{self.card}/list.txt")
        self.lost += kept.splitlines() != f"{head}{new}{tail}".splitlines()

    def save(self, text: str, saves: str, shown: dict) -> tuple[str, dict]:
        """One letter's request; what its answer says of the save and of the parts."""
        data = {"cut_list": text, "saves": saves, "editor": self.editor, "shown_parts": str(shown).replace("'", '"')}
        answer = self.send("POST", f"/classes/{self.card_class}/design/A/read/", urlencode(data))
        found = re.search(r'id="list-saves" value="(\d+)"', answer)
        return (found[1] if found else saves), self.parts or shown

    def wait_for_sheets(self, since: float) -> None:
        """Ask as the page does until the sheets answer what was typed."""
        wait = ASKED_AFTER
        while time.perf_counter() - since < 60:
            time.sleep(wait)
            wait = min(0.8, 0.15 + (time.perf_counter() - since) / 10)
            strip = self.strip("design", always=True)
            if strip and 'data-state="waiting"' not in strip:
                self.times["sheets"].append(time.perf_counter() - since)
                return
        self.wrong.append("no sheets in a minute")

    def strip(self, station: str, always: bool = False) -> str:
        """The strip of papers, if it has changed."""
        since = "" if always else getattr(self, "since", "")
        page = f"/classes/{self.card_class}/strip/?since={since}&card=A&station={station}"
        text = self.send("GET", page)
        found = re.search(r"since=([^&]*)&", text)
        self.since = found[1] if found else since
        return text

    def send(self, method: str, page: str, body: str | None = None) -> str:
        """A request of a script or of the browser; tried again while nothing answers or Zester is busy."""
        headers = {"Cookie": f"sessionid={self.session}; csrftoken={self.token}", "HX-Request": "true"}
        if body:
            headers |= {"X-CSRFToken": self.token, "Content-Type": "application/x-www-form-urlencoded"}
        self.parts = {}
        try:
            try:
                self.line.request(method, page, body, headers)
                answer = self.line.getresponse()
            except (http.client.RemoteDisconnected, BrokenPipeError, ConnectionResetError):
                # A connection that was open too long: browsers, too, open another and say nothing.
                self.line.close()
                self.line.request(method, page, body, headers)
                answer = self.line.getresponse()
            text = answer.read().decode()
        except (OSError, http.client.HTTPException) as error:
            self.wrong.append(f"{type(error).__name__} at {page.partition('?')[0]}")
            self.line.close()
            return ""
        if answer.status not in (200, 204, 302):
            self.wrong.append(f"{answer.status} at {page.partition('?')[0]}")
        told = answer.getheader("HX-Trigger")
        self.counted = "zester:uncounted" not in (told or "")
        if told:
            import json

            self.parts = {k: v for k, v in json.loads(told)["zester:parts"].items() if k != "state"}
        return text


if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zester.site.settings")
    if sys.argv[1:2] == ["prepare"]:
        prepare(int(sys.argv[2]))
    else:
        main(int(sys.argv[1]) if len(sys.argv) > 1 else 50, float(sys.argv[2]) if len(sys.argv) > 2 else 120.0)
