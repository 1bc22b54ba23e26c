"""How many people fit on one small machine: ``python benchmarks/load.py [people] [seconds]``, ``short`` or ``knee``.

Serves Zester as the demo does, from a folder of its own, to as many people, each with the demo's evening (seven cards,
eight papers). Everybody does the same over and over, at a human pace and each at their own moment: reads three pages
(classes, count, fit, cut, pack, shelf; four to eight seconds each), opens a card, types ten letters in a burst at three
letters a second into a size, and waits for the sheets; meanwhile the page asks for its strip of papers as its script
does. Prints the median and the 95th percentile of a keystroke's answer, of pages, and of the time from the last letter
to sheets that answer it, with what is wanted, and what went wrong. One of ten readings asks for a file to print, and
at the beginning one of them brings in an archive. The people run on the same machine, which costs it some.

- a number of people (50 where none is said): so many, for so long.
- ``short``: five people for forty seconds, then one alone: what a keystroke, a poll and each page take of the web's
  processor. Figures that hardly depend on what else the machine does.
- ``knee``: the most people with whom a keystroke's 95th percentile stays under 0.3 s and that of sheets under 5 s.
"""

from __future__ import annotations

import http.client
import itertools
import os
import random
import re
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from urllib.parse import urlencode

sys.path.insert(0, str(Path(__file__).parents[1]))
from benchmarks.serving import ROOT, environment, high, manage, print_yardstick, served

PACE, LETTERS = 1 / 3, 10
# How soon after an answer that may change sheets the page asks for them: so many times what the answer took, within.
ASKED_TIMES, ASKED_SOONEST, ASKED_LATEST = 6, 0.18, 0.6
WANTED = {"keystroke": 0.300, "page": 0.500, "sheets": 5.0, "file": 60.0}
KNEE = ("keystroke", "sheets")
FILES = ("cut/cards.pdf", "cut/labels.pdf", "pack/list.pdf", "pack/labels/bags.pdf", "pack/hand-out.pdf")
SHORT_PEOPLE, SHORT_SECONDS, EACH = 5, 40.0, 40
# The knee is looked for in steps, then between the last that went and the first that did not.
FIRST, MOST, LEVEL_SECONDS, NEAR = 20, 80, 60.0, 1.15
REST_SECONDS = 15.0
# Before anything counts so many are there for so long: processes that have just begun read their templates.
WARM_PEOPLE, WARM_SECONDS = 10, 25.0
# Everybody types other sizes each time.
_SEEDS = itertools.count()
TICK = os.sysconf("SC_CLK_TCK")
PAGES = ("/classes/", "/classes/{}/count/", "/classes/{}/fit/", "/classes/{}/cut/", "/classes/{}/pack/", "/shelf/")


@contextmanager
def crowd_of(people: int) -> Iterator[tuple[list[Person], int]]:
    """So many people, made ready, before a server; and its process."""
    with tempfile.TemporaryDirectory() as folder:
        variables = environment(folder)
        manage(variables, "migrate", "--verbosity", "0")
        manage(variables, "load_demo")
        lines = prepare_lines(variables, people)
        with served(variables) as (port, server):
            print_yardstick()
            yield [Person(port, *line.split(), number) for number, line in enumerate(lines)], server.pid
            print_yardstick()


def main(people: int, seconds: float) -> None:
    """Prepare, serve, let them work, print."""
    with crowd_of(people) as (crowd, server):
        before = web_seconds(server)
        together(crowd, seconds)
        report(crowd, seconds, web_seconds(server) - before)


def together(crowd: list[Person], seconds: float) -> None:
    """All of them at once, from nothing; one brings in an archive."""
    ends = time.monotonic() + seconds
    threads = [threading.Thread(target=person.live, args=[ends]) for person in crowd]
    threads.append(threading.Thread(target=crowd[0].bring_in))
    for person in crowd:
        person.begin()
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def short() -> None:
    """Five people, then each kind of request by one of them alone."""
    with crowd_of(SHORT_PEOPLE) as (crowd, server):
        together(crowd, WARM_SECONDS)
        before = web_seconds(server)
        together(crowd, SHORT_SECONDS)
        report(crowd, SHORT_SECONDS, web_seconds(server) - before)
        # What the last letters asked for is done before the processor's time is looked at.
        time.sleep(10)
        one = crowd[0]
        one.begin()
        print("one alone: ms of the web's processor")
        for name, ask in one.kinds():
            ask()
            before = web_seconds(server)
            for _ in range(EACH):
                ask()
            print(f"{name:40} {(web_seconds(server) - before) / EACH * 1000:6.1f}")


def knee() -> None:
    """More and more people, until it is too many; then between."""
    with crowd_of(MOST) as (crowd, _):
        together(crowd[:WARM_PEOPLE], WARM_SECONDS)
        good, bad, people = 0, MOST + 1, FIRST
        while people <= MOST and bad > max(good + 1, good * NEAR):
            # What a level has left to be done is not the next one's.
            time.sleep(REST_SECONDS)
            together(crowd[:people], LEVEL_SECONDS)
            times = {name: [each for person in crowd[:people] for each in person.times[name]] for name in KNEE}
            highs = {name: high(times[name]) for name in KNEE}
            fits = all(highs[name] < WANTED[name] for name in KNEE)
            print(
                f"{people:4} people: p95 of a keystroke {highs['keystroke']:.3f} s, of sheets {highs['sheets']:.1f} s",
                flush=True,
            )
            good, bad = (people, bad) if fits else (good, people)
            people = people * 2 if bad > MOST and people * 2 <= MOST else (good + bad) // 2
        print(f"the knee: {good} people")


def web_seconds(server: int) -> float:
    """Seconds of processor that the web's processes have had since they began."""
    return sum(_seconds(pid) for pid in _below(server) if "gunicorn" in _read(pid, "cmdline"))


def _below(server: int) -> list[int]:
    parents = {int(path.name): _fields(int(path.name)) for path in Path("/proc").iterdir() if path.name.isdecimal()}
    found = [server]
    for pid in found:
        found += [child for child, fields in parents.items() if fields and int(fields[1]) == pid]
    return found


def _read(pid: int, name: str) -> str:
    try:
        return Path(f"/proc/{pid}/{name}").read_text()
    except OSError:
        return ""


def _fields(pid: int) -> list[str]:
    """What ``/proc/…/stat`` says after the name: state, parent and so on."""
    return _read(pid, "stat").rpartition(")")[2].split()


def _seconds(pid: int) -> float:
    fields = _fields(pid)
    return (int(fields[11]) + int(fields[12])) / TICK if fields else 0.0


def prepare_lines(variables: dict[str, str], people: int) -> list[str]:
    """Everybody made ready in a process of its own; a line each."""
    command = [sys.executable, __file__, "prepare", str(people)]
    done = subprocess.run(command, check=True, env=variables, cwd=ROOT, stdout=subprocess.PIPE, text=True)
    return done.stdout.splitlines()


def report(crowd: list[Person], seconds: float, web: float) -> None:
    """The table."""
    asked = sum(person.asked for person in crowd)
    print(
        f"{len(crowd)} people for {seconds:.0f} s; {web / max(1, asked) * 1000:.1f} ms of the web's processor a request"
    )
    for name, wanted in WANTED.items():
        times = [each for person in crowd for each in person.times[name]]
        if times:
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
    from django_tasks_db.models import DBTaskResult

    from zester.accounts.backends import BACKEND
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
        session[SESSION_KEY], session[BACKEND_SESSION_KEY] = str(user.pk), BACKEND
        session[HASH_SESSION_KEY] = user.get_session_auth_hash()
        session.save()
        card = evening.class_cards.first().card_id
        print(evening.pk, card, session.session_key, _get_new_csrf_string())
    Work.objects.all().delete()
    # Thousands that would only be found to be done, while the people already wait.
    DBTaskResult.objects.all().delete()


@dataclass
class Person:
    """Somebody at a browser."""

    port: int
    card_class: str
    card: str
    session: str
    token: str
    number: int
    times: dict[str, list[float]] = field(default_factory=dict)
    wrong: list[str] = field(default_factory=list)
    lost: int = 0
    asked: int = 0
    asked_after: float = ASKED_LATEST

    def begin(self) -> None:
        """Nothing done yet."""
        self.times, self.wrong, self.lost, self.asked = {name: [] for name in WANTED}, [], 0, 0
        self.dice = random.Random(next(_SEEDS))
        self.line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)

    def live(self, ends: float) -> None:
        """Read, write, look, again and again."""
        time.sleep(self.dice.uniform(0, 20))
        while time.monotonic() < ends:
            for _ in range(3):
                if self.dice.random() < 0.1:
                    self.print_file(self.dice.choice(FILES))
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

    def print_file(self, name: str) -> None:
        """Ask for a file and wait for it, as its page does."""
        started, page = time.perf_counter(), f"/classes/{self.card_class}/{name}"
        while time.perf_counter() - started < 120:
            self.send("GET", page, whole=True)
            if self.status == 200 and self.kind == "application/pdf":
                self.times["file"].append(time.perf_counter() - started)
                return
            if self.status == 302:
                page = self.onward
            else:
                time.sleep(1.0)
        self.wrong.append("no file")

    def bring_in(self) -> None:
        """Save everything of one's own, and bring it in once more beside it, on a line of its own."""
        mine = Person(self.port, self.card_class, self.card, self.session, self.token, self.number)
        mine.begin()
        page, kept = mine.onward_from("/archive/save/"), b""
        ends = time.perf_counter() + 120
        while not kept and time.perf_counter() < ends:
            time.sleep(1.0)
            mine.line.request("GET", f"{page}file/", headers={"Cookie": mine.cookies})
            answer = mine.line.getresponse()
            read = answer.read()
            kept = read if answer.status == 200 else b""
        fields = {"csrfmiddlewaretoken": mine.token, "again": "on"}
        body = b"".join(
            f'--zz\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n'.encode()
            for name, value in fields.items()
        )
        body += b'--zz\r\nContent-Disposition: form-data; name="archive"; filename="mine.zip"\r\n\r\n' + kept
        headers = {"Cookie": mine.cookies, "Content-Type": "multipart/form-data; boundary=zz"}
        mine.line.request("POST", "/archive/bring-in/", body + b"\r\n--zz--\r\n", headers)
        answer = mine.line.getresponse()
        answer.read()
        if answer.status != 302:
            self.wrong.append(f"{answer.status} for an archive")

    def onward_from(self, url: str) -> str:
        """Press a button; where that leads to."""
        body = urlencode({"csrfmiddlewaretoken": self.token})
        headers = {"Cookie": self.cookies, "Content-Type": "application/x-www-form-urlencoded"}
        self.line.request("POST", url, body, headers)
        answer = self.line.getresponse()
        answer.read()
        return answer.getheader("Location") or ""

    def kinds(self) -> list[tuple[str, Callable[[], object]]]:
        """Every kind of request, to be asked for alone."""
        page = self.read(f"/classes/{self.card_class}/design/A/")
        head, tail, saves = self.open_list(page)
        state = {"saves": saves, "shown": {}, "count": 0}

        def key() -> None:
            state["count"] += 1
            size = f"{1 + state['count'] % 2} {1 + 2 * (state['count'] % 7)}/16 x 7/16"
            text = f"{head}Sentiment  chalk moon  {size}{tail}"
            state["saves"], state["shown"] = self.save(text, state["saves"], state["shown"])

        self.since = ""
        self.strip("design")
        found: list[tuple[str, Callable[[], object]]] = [
            ("keystroke", key),
            ("poll", lambda: self.strip("design")),
            ("strip", lambda: self.strip("design", always=True)),
        ]
        return found + [(page, partial(self.read, page.format(self.card_class))) for page in PAGES]

    def open_list(self, page: str) -> tuple[str, str, str]:
        """What stands before and after the line of the sentiment, and the number of saves."""
        text = re.search(r'<textarea id="cut-list"[^>]*>\n?(.*?)</textarea>', page, re.DOTALL)[1].replace("&amp;", "&")
        saves = re.search(r'id="list-saves" value="(\d+)"', page)[1]
        self.editor = f"{self.number}-{saves}"
        head, _, tail = re.match(r"(.*\n)(Sentiment[^\n]*)(\n.*)", text, re.DOTALL).groups()
        return head, tail, saves

    def look(self, seconds: float, station: str) -> None:
        """Look at a page while its strip asks every three seconds."""
        until = time.monotonic() + seconds
        self.strip(station)
        while time.monotonic() < until:
            time.sleep(min(3.0, max(0.0, until - time.monotonic())))
            self.strip(station)

    def write(self) -> None:
        """A burst of letters in the line of the sentiment, which ends in a size that was not there before."""
        head, tail, saves = self.open_list(self.read(f"/classes/{self.card_class}/design/A/"))
        size = f"{self.dice.randint(1, 2)} {self.dice.randrange(1, 16, 2)}/16 x {self.dice.choice((5, 7, 9, 11))}/16"
        new = f"Sentiment  chalk moon  {size}"
        shown = {}
        for count in range(1, LETTERS + 1):
            now = new[: len(new) - LETTERS + count]
            started = time.perf_counter()
            saves, shown = self.save(f"{head}{now}{tail}", saves, shown)
            took = time.perf_counter() - started
            self.times["keystroke"].append(took)
            self.asked_after = min(ASKED_LATEST, max(ASKED_SOONEST, took * ASKED_TIMES))
            if count < LETTERS:
                if self.counted and took + self.asked_after < PACE:
                    time.sleep(self.asked_after)
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
        wait, strip = self.asked_after, ""
        self.since = ""
        while time.perf_counter() - since < 60:
            time.sleep(wait)
            wait = min(0.8, 0.15 + (time.perf_counter() - since) / 10)
            # Where nothing has changed the answer is empty, and what was shown stands.
            strip = self.strip("design") or strip
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

    @property
    def cookies(self) -> str:
        """Who she is."""
        return f"sessionid={self.session}; csrftoken={self.token}"

    def send(self, method: str, page: str, body: str | None = None, whole: bool = False) -> str:
        """A request of a script, or of the browser where it is for a ``whole`` page; once more where a line is shut."""
        headers = {"Cookie": self.cookies} | ({} if whole else {"HX-Request": "true"})
        self.asked += 1
        if body:
            headers |= {"X-CSRFToken": self.token, "Content-Type": "application/x-www-form-urlencoded"}
        self.parts, self.status, self.kind, self.onward = {}, 0, "", ""
        try:
            try:
                self.line.request(method, page, body, headers)
                answer = self.line.getresponse()
            except (http.client.RemoteDisconnected, BrokenPipeError, ConnectionResetError):
                # A connection that was open too long: browsers, too, open another and say nothing.
                self.line.close()
                self.line.request(method, page, body, headers)
                answer = self.line.getresponse()
            text = answer.read().decode(errors="replace")
        except (OSError, http.client.HTTPException) as error:
            self.wrong.append(f"{type(error).__name__} at {page.partition('?')[0]}")
            self.line.close()
            return ""
        self.status, self.kind = answer.status, answer.getheader("Content-Type", "")
        self.onward = answer.getheader("Location", "")
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
    elif sys.argv[1:2] == ["short"]:
        short()
    elif sys.argv[1:2] == ["knee"]:
        knee()
    else:
        main(int(sys.argv[1]) if len(sys.argv) > 1 else 50, float(sys.argv[2]) if len(sys.argv) > 2 else 120.0)
