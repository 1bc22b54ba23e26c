"""kill -9, again and again, while somebody types, fits and imports: ``python benchmarks/kills.py [times]``.

Serves Zester as the demo does, from a folder of its own. One thread types into a cut list and notes every save that was
acknowledged, one takes in lists from files into another card, one changes the count. Meanwhile a web process is killed,
then a worker, so often each, in turn with gunicorn's own master now and then; the supervisor starts them again. After
every kill it looks whether the last acknowledged save is still there; at the end that everything is answered by plans,
that no work is open, and that the database is whole. Prints what was acknowledged, what was lost (it must be nothing),
and how long it took until a page answered again and until the sheets were current again.
"""

from __future__ import annotations

import http.client
import os
import random
import re
import signal
import sqlite3
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
from benchmarks.load import Person, prepare_lines
from benchmarks.serving import environment, high, manage, served

PATIENCE = 30.0
EVERY_MASTER = 10


@dataclass
class Kept:
    """What a thread was told is stored: the last of it, and how much in all."""

    last: str = ""
    acknowledged: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)

    def note(self, what: str) -> None:
        """One more that was acknowledged."""
        with self.lock:
            self.last, self.acknowledged = what, self.acknowledged + 1


class Journey(Person):
    """Somebody who types, takes in and counts, and asks again where nothing answers, as the page's script does."""

    def insist(self, method: str, page: str, body: str | bytes | None = None, kind: str = "") -> str:
        """The answer, however often it takes."""
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until:
            headers = {"Cookie": f"sessionid={self.session}; csrftoken={self.token}", "X-CSRFToken": self.token}
            headers["HX-Request"] = "true"
            if body is not None:
                headers["Content-Type"] = kind or "application/x-www-form-urlencoded"
            line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=10)
            try:
                line.request(method, page, body, headers)
                answer = line.getresponse()
                text = answer.read().decode()
                if answer.status < 400:
                    return text
                self.wrong.append(f"{answer.status} at {page}")
                if answer.status not in (502, 503):
                    return ""
            except (OSError, http.client.HTTPException):
                pass
            finally:
                line.close()
            time.sleep(0.1)
        self.wrong.append(f"no answer in {PATIENCE:.0f} s at {page}")
        return ""

    def type_on(self, kept: Kept, stop: threading.Event) -> None:
        """Letter after letter; each save that was answered is noted."""
        dice, saves, number = random.Random(1), "0", 0
        while not stop.is_set():
            number += 1
            size = f"{dice.randint(1, 2)} {dice.randrange(1, 16, 2)}/16 x {dice.choice((5, 7, 9, 11))}/16"
            text = f"card 4¼ x 5½ side fold\nBase midnight dome\nSentiment {size} chalk moon\n# {number}"
            data = {"cut_list": text, "saves": saves, "editor": "typing", "force": ""}
            answer = self.insist("POST", f"/classes/{self.card_class}/design/A/read/", urlencode(data))
            found = re.search(r'id="list-saves" value="(\d+)"', answer)
            if found:
                saves = found[1]
                kept.note(text)
            time.sleep(0.12)

    def take_in(self, card: str, kept: Kept, stop: threading.Event) -> None:
        """Lists from files into another card."""
        number = 0
        while not stop.is_set():
            number += 1
            text = f"Mat 4 x 5 telescope brass\n# file {number}"
            body = (
                f'--x\r\nContent-Disposition: form-data; name="file"; filename="l.txt"\r\n\r\n{text}\r\n--x--\r\n'
            ).encode()
            self.insist("POST", f"/designs/{card}/take-in/", body, "multipart/form-data; boundary=x")
            # A redirect is no promise that can be read from here; the list itself is.
            if self.insist("GET", f"/designs/{card}/list.txt").strip() == text:
                kept.note(text)
            time.sleep(0.5)

    def count(self, entry: str, kept: Kept, stop: threading.Event) -> None:
        """Another number of samples of a third card."""
        number = 0
        while not stop.is_set():
            number = number % 40 + 1
            page = self.insist("GET", f"/classes/{self.card_class}/count/")
            data = dict(re.findall(r'<input type="number" name="([^"]+)" value="(\d+)"', page))
            data[f"card{entry}-samples"] = str(number)
            answer = self.insist("POST", f"/classes/{self.card_class}/count/", urlencode(data))
            if "tally" in answer:
                kept.note(str(number))
            time.sleep(0.4)


def main(times: int) -> None:
    """Serve, kill, look."""
    with tempfile.TemporaryDirectory() as folder:
        variables = environment(folder)
        manage(variables, "migrate", "--verbosity", "0")
        manage(variables, "load_demo")
        (line,) = prepare_lines(variables, 1)
        with served(variables) as (port, server):
            person = Journey(port, *line.split(), 0)
            database = Path(folder, "zester.sqlite3")
            rows = read(
                database,
                "select id, card_id from classes_classcard where card_class_id = ? order by letter",
                person.card_class,
            )
            (_, typed), (_, taken), (counted, _) = rows[:3]
            keeps, stop = {"typing": Kept(), "taking in": Kept(), "count": Kept()}, threading.Event()
            jobs = [
                threading.Thread(target=person.type_on, args=[keeps["typing"], stop]),
                threading.Thread(target=person.take_in, args=[str(taken), keeps["taking in"], stop]),
                threading.Thread(target=person.count, args=[str(counted), keeps["count"], stop]),
            ]
            for job in jobs:
                job.start()
            looks = Looks(database, typed, taken, counted)
            lost, away = kill_all(server, person, keeps, looks, times)
            stop.set()
            for job in jobs:
                job.join()
            lost += looks.lost(keeps)
            settled = looks.settle(person.card_class)
            stopped = stop_in_a_fit(server, person)
            whole = read(database, "pragma integrity_check")[0][0]
        told = ", ".join(f"{name} {kept.acknowledged}" for name, kept in keeps.items())
        print(f"{2 * times} kills, half of them of web processes, half of workers; acknowledged saves: {told}")
        print(f"acknowledged and lost: {lost}; answers that were errors: {sorted(set(person.wrong)) or 'none'}")
        print(f"until a page answers again: median {statistics.median(away):.2f} s, p95 {high(away):.2f} s")
        print(f"SIGTERM in the middle of a question about eight papers: all ended after {stopped:.2f} s")
        print(f"until all sheets answer the class after the last kill: {settled}; database: {whole}")


def stop_in_a_fit(server, person: Journey) -> float:
    """Ask for other plans of all papers, then end everything: how long that takes."""
    person.insist("POST", f"/classes/{person.card_class}/fit/ask/", "")
    time.sleep(2)
    started = time.monotonic()
    server.send_signal(signal.SIGTERM)
    server.wait(timeout=30)
    return time.monotonic() - started


def kill_all(server, person: Journey, keeps: dict[str, Kept], looks: Looks, times: int) -> tuple[int, list[float]]:
    """Kill, and look after each what was lost and how long nobody answered."""
    dice, lost, away = random.Random(2), 0, []
    for number in range(times):
        for what in ("gunicorn", "fit_worker"):
            time.sleep(dice.uniform(0.3, 1.2))
            victims = processes(server.pid, what)
            if what == "gunicorn":
                # The master, which is its children's parent, only now and then: all web processes end with it.
                victims = victims[:1] if number % EVERY_MASTER == EVERY_MASTER - 1 else victims[1:] or victims
            if victims:
                os.kill(dice.choice(victims), signal.SIGKILL)
            started = time.monotonic()
            person.insist("GET", "/sign-in/state/")
            away.append(time.monotonic() - started)
            lost += looks.lost(keeps)
    return lost, away


@dataclass
class Looks:
    """Looks into the database from beside."""

    database: Path
    typed: int
    taken: int
    counted: int

    def lost(self, keeps: dict[str, Kept]) -> int:
        """How much of what was acknowledged last is not there; what came after it may be."""
        found = 0
        with keeps["typing"].lock:
            told, stored = number_in(keeps["typing"].last), number_in(self.list_of(self.typed))
            found += told > stored
        with keeps["taking in"].lock:
            found += number_in(keeps["taking in"].last) > number_in(self.list_of(self.taken))
        return found

    def list_of(self, card: int) -> str:
        return read(self.database, "select cut_list from designs_card where id = ?", card)[0][0]

    def settle(self, card_class: str) -> str:
        """Wait until every paper is answered and no urgent work is open."""
        started = time.monotonic()
        open_work = (
            "select count(*) from fits_work w join fits_paperfit f on w.fit_id = f.id join classes_classpaper p on "
            "f.class_paper_id = p.id where p.card_class_id = ? and w.status in ('waiting', 'working') "
            "and w.kind in ('quick', 'prove')"
        )
        unanswered = (
            "select count(*) from fits_paperfit f join classes_classpaper p on f.class_paper_id = p.id left join "
            "fits_paperplan l on f.shown_id = l.id where p.card_class_id = ? and f.need != '' and "
            "(l.need is null or l.need != f.need)"
        )
        while time.monotonic() - started < 120:
            if (
                not read(self.database, open_work, card_class)[0][0]
                and not read(self.database, unanswered, card_class)[0][0]
            ):
                return f"{time.monotonic() - started:.1f} s"
            time.sleep(0.2)
        return "NOT IN TWO MINUTES"


def number_in(text: str) -> int:
    """The number of the save in its remark."""
    found = re.search(r"# (?:file )?(\d+)", text)
    return int(found[1]) if found else 0


def read(database: Path, sql: str, *values) -> list[tuple]:
    """What the database holds."""
    with sqlite3.connect(database, timeout=30) as found:
        return found.execute(sql, values).fetchall()


def processes(parent: int, what: str) -> list[int]:
    """The processes below one whose command names something, the oldest first."""
    listed = subprocess.run(["ps", "-eo", "pid,ppid,args"], capture_output=True, text=True, check=True).stdout
    rows = [line.split(None, 2) for line in listed.splitlines()[1:]]
    below, found = {parent}, []
    for _ in range(4):
        below |= {int(pid) for pid, ppid, _ in rows if int(ppid) in below}
    for pid, _, args in rows:
        if int(pid) in below and what in args and "ps -eo" not in args:
            found.append(int(pid))
    return sorted(found)


if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zester.site.settings")
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 50)
