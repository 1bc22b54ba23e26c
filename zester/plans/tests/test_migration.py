"""A database of the version that kept plans by class and papers by name, taken over by this one.

``data/class-plans.sqlite3.gz`` was made by that version from its demo: a pinned layout, a paper from everybody's own
sheets, portions, advice that was asked for, a class changed since its fit, one whose fit still waited, a removed paper.
"""

import gzip
import json
import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase, skipUnless

from django.db import connection

from zester.core.tests.share import each_of

OLD = Path(__file__).parent / "data" / "class-plans.sqlite3.gz"
ROOT = Path(__file__).parents[3]

LOOK = """
import json, django
django.setup()
from django.contrib.auth import get_user_model
from django.db import connection
from django.test import Client
from django.urls import reverse
from zester.classes.models import CardClass
from zester.plans.models import PaperFit, PaperPlan, Work
from zester.shelf.models import Paper
found = {"classes": {}, "pages": [], "keys": len(set(Paper.objects.values_list("key", flat=True)))}
found["papers"] = Paper.objects.count()
for each in CardClass.objects.all():
    rows = {}
    for fit in PaperFit.objects.filter(class_paper__card_class=each):
        shown = fit.shown
        rows[fit.paper.name] = {
            "answered": fit.answered, "sheets": shown and shown.sheets, "proven": shown and shown.proven,
            "pool": fit.class_paper.pool, "pins": len(fit.class_paper.pins), "advice": bool(shown and shown.advice),
            "work": [work.kind for work in fit.work.filter(status="waiting").exclude(kind="hints")],
        }
    counts = [each.n_cards, each.n_lines, each.n_wrong, each.n_pieces, each.n_bags]
    found["classes"][f"{each.title} {each.pk}"] = {"counts": counts, "papers": rows}
    client = Client(SERVER_NAME="localhost")
    client.force_login(each.owner)
    for name in ("classes:desk", "classes:count", "fits:wall", "bench:steps", "bags:pack", "fits:print"):
        found["pages"].append(client.get(reverse(name, args=[each.pk])).status_code)
    for fit in PaperFit.objects.filter(class_paper__card_class=each):
        page = client.get(reverse("fits:paper", args=[each.pk, fit.paper.key]))
        found["pages"].append(page.status_code)
        if fit.paper.name == "Midnight Dome":
            found["pinned"] = page.content.decode().count('class="pinned"')
        if fit.paper.name == "Kite Tails":
            found["choices"] = "Free seats" in page.content.decode()
found["plans"] = PaperPlan.objects.count()
print(json.dumps(found))
"""


def taken_over(old: Path, look: str) -> dict:
    """What a script prints of a database of an earlier version after this one has taken it over."""
    with tempfile.TemporaryDirectory() as folder:
        with gzip.open(old) as packed, Path(folder, "zester.sqlite3").open("wb") as new:
            shutil.copyfileobj(packed, new)
        variables = {"ZESTER_DATA": folder, "ZESTER_DEBUG": "1", "DJANGO_SETTINGS_MODULE": "zester.site.settings"}
        run = {"cwd": ROOT, "env": os.environ | variables, "capture_output": True, "text": True, "timeout": 120}
        subprocess.run([sys.executable, "-m", "django", "migrate", "--verbosity", "0"], check=True, **run)
        done = subprocess.run([sys.executable, "-c", look], check=False, **run)
    if done.returncode:
        raise AssertionError(done.stderr)
    return json.loads(done.stdout)


@skipUnless(connection.vendor == "sqlite", "the database that is migrated is one of SQLite")
class MigrationTests(TestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.found = taken_over(OLD, LOOK)
        cls.evening, cls.by_post, cls.changed, cls.waiting, cls.empty = (
            next(value for name, value in cls.found["classes"].items() if wanted(name, value))
            for wanted in (
                lambda name, _: name.startswith("Stargazer"),
                lambda name, _: name.startswith("Kite"),
                lambda name, value: name.startswith("Evening") and value["counts"][1] == 2,
                lambda name, value: name.startswith("Evening") and value["counts"][1] == 1,
                lambda name, value: name.startswith("Evening") and value["counts"][1] == 0,
            )
        )

    def test_every_plan_is_there_answers_what_is_needed_and_nothing_is_fitted_again(self):
        sheets = {
            "Chalk Moon": 35,
            "Ember Dust": 26,
            "Midnight Dome": 47,
            "Telescope Brass": 24,
            "Brass Rays": 13,
            "Moon Phases": 29,
            "Pine Ridge": 11,
            "Star Chart": 11,
        }
        self.assertEqual({name: row["sheets"] for name, row in self.evening["papers"].items()}, sheets)
        for name, row in {**self.evening["papers"], **self.by_post["papers"]}.items():
            self.assertEqual((row["answered"], row["proven"], row["work"]), (True, True, []), name)

    def test_pools_pins_and_advice_came_along(self):
        self.assertEqual(self.evening["papers"]["Moon Phases"]["pool"], "own")
        self.assertEqual((self.evening["papers"]["Midnight Dome"]["pins"], self.found["pinned"]), (1, 1))
        for name in ("Kite Tails", "Wind Rope"):
            self.assertEqual(self.by_post["papers"][name]["pool"], "portions")
        self.assertTrue(all(row["advice"] for row in self.by_post["papers"].values()))
        self.assertTrue(self.found["choices"])

    def test_what_had_changed_or_waited_is_begun_anew(self):
        for row in each_of(self.changed["papers"].values()):
            self.assertEqual((row["answered"], row["sheets"], row["work"]), (False, 2, ["quick"]))
        self.assertEqual(self.waiting["papers"]["Telescope Brass"]["work"], ["quick"])
        self.assertEqual(self.empty["papers"], {})

    def test_facts_are_counted_keys_given_and_every_page_opens(self):
        self.assertEqual(self.evening["counts"], [7, 45, 0, 1239, 98])
        self.assertEqual(self.by_post["counts"], [3, 18, 0, 253, 27])
        self.assertEqual(self.found["keys"], self.found["papers"])
        self.assertGreater(len(self.found["pages"]), 40)
        self.assertEqual(set(self.found["pages"]), {200})


BEFORE_THREE_APPS = Path(__file__).parent / "data" / "before-three-apps.sqlite3.gz"
LOOK_AFTER_THREE_APPS = """
import json, django
django.setup()
from django.test import Client
from django.urls import reverse
from django_tasks_db.models import DBTaskResult
from zester.bench.models import Run, Tick
from zester.bench.runs import cutting_of
from zester.classes.models import CardClass
from zester.plans.models import PaperFit, PaperPlan, Work, Worker
from zester.supply.models import Joint
models = (PaperFit, PaperPlan, Work, Worker, Joint, Run, Tick)
found = {"rows": {model.__name__: model.objects.count() for model in models}, "pages": []}
found["tasks"] = sorted({task.task_path for task in DBTaskResult.objects.all()})
for task in DBTaskResult.objects.ready():
    task.task
fit = PaperFit.objects.get(held="cutting")
cutting = cutting_of(fit)
found["cutting"] = [fit.paper.name, cutting.run.number, cutting.steps_done]
found["joint"] = Joint.objects.get().found
for each in CardClass.objects.all():
    client = Client(SERVER_NAME="localhost")
    client.force_login(each.owner)
    pages = [reverse(name, args=[each.pk]) for name in ("fits:wall", "fits:needs", "bench:steps", "bags:pack")]
    pages += [reverse("fits:paper", args=[each.pk, one.paper.key]) for one in PaperFit.objects.wanted()
              if one.class_paper.card_class_id == each.pk]
    found["pages"] += [client.get(page).status_code for page in pages]
print(json.dumps(found))
"""


@skipUnless(connection.vendor == "sqlite", "the database that is migrated is one of SQLite")
class ThreeAppsTests(TestCase):
    """A database of the version before plans, supply and the Fit station's pages were apps of their own.

    Made by that version from its demo: Moon Phases is being cut, two steps are done; a question about several classes
    is kept; a piece of work waits in the queue under the old name of its task.
    """

    def test_no_row_is_lost_and_what_waits_in_the_queue_is_found(self):
        found = taken_over(BEFORE_THREE_APPS, LOOK_AFTER_THREE_APPS)
        rows = {"PaperFit": 15, "PaperPlan": 16, "Work": 41, "Worker": 1, "Joint": 1, "Run": 1, "Tick": 1}
        self.assertEqual(found["rows"], rows)
        self.assertEqual(found["tasks"], ["zester.plans.queue.work_task"])
        self.assertEqual(found["cutting"], ["Moon Phases", 1, 2])
        self.assertEqual(found["joint"], [{"words": "kept"}])
        self.assertGreater(len(found["pages"]), 20)
        self.assertEqual(set(found["pages"]), {200})


BEFORE_SUPPLEMENTS = Path(__file__).parent / "data" / "before-supplements.sqlite3.gz"
LOOK_AFTER_SUPPLEMENTS = """
import json, django
django.setup()
from django.test import Client
from django.urls import reverse
from zester.classes.models import CardClass, ClassCard
from zester.classes.services import recount
from zester.plans.models import PaperFit
made = CardClass.objects.get(title="Cut in November")
def fits():
    rows = PaperFit.objects.filter(class_paper__card_class=made).exclude(need="").order_by("pk")
    return [[fit.name, fit.held, fit.part, fit.answered, fit.offered_id, fit.shown.sheets if fit.shown else 0]
            for fit in rows]
found = {"fits": fits(), "pages": []}
found["held"] = {each.card_class.title: bool(each.held) for each in ClassCard.objects.all()}
client = Client(SERVER_NAME="localhost")
client.force_login(made.owner)
for name in ("fits:wall", "fits:needs", "bench:steps", "bench:evening", "bags:pack", "bags:short", "classes:desk"):
    answer = client.get(reverse(name, args=[made.pk]))
    found["pages"].append(answer.status_code)
    found["new plan"] = found.get("new plan", False) or "new plan" in answer.content.decode()
recount(made.pk)
found["after"] = fits()
print(json.dumps(found))
"""


@skipUnless(connection.vendor == "sqlite", "the database that is migrated is one of SQLite")
class SupplementsTests(TestCase):
    """A database of the version before supplements, with the fault that made them: of a class whose brass is cut and
    booked its own offcuts had entered the need, so that another plan was offered in place of the one that is cut. Its
    ember is being cut; another class has the same design, which was changed since.
    """

    def test_what_was_cut_is_cut_and_nothing_is_offered_in_its_place(self):
        found = taken_over(BEFORE_SUPPLEMENTS, LOOK_AFTER_SUPPLEMENTS)
        cut = [["Telescope Brass", "cut", 1, True, None, 8], ["Ember Dust", "cutting", 1, True, None, 1]]
        self.assertEqual(sorted(found["fits"]), sorted(cut))
        self.assertEqual(found["held"], {"Cut in November": True, "January": False})
        self.assertEqual((set(found["pages"]), found["new plan"]), ({200}, False))
        # Counted anew, what the changed design wants beyond it is a supplement.
        self.assertEqual([row for row in found["after"] if row[2] == 1], found["fits"])
        self.assertEqual([row[:3] for row in found["after"] if row[2] > 1], [["Telescope Brass, supplement", "", 2]])
