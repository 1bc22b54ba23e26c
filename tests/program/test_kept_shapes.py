"""What earlier versions kept opens in this one: one file of every version there has been, and rows of the database.

``tests/kept/`` holds a file for each format and version, as that version wrote it; they are not written anew. A format
that gets another version gets another file beside it. The databases of earlier versions are in ``zester/plans/tests``.
"""

import io
import json
import re
import tempfile
import zipfile
from pathlib import Path
from unittest import mock

from django.contrib.auth import get_user_model
from django.db import connection
from django.test import SimpleTestCase, override_settings
from django.urls import reverse

from tests.people import SignedInTests, fitted, make_class
from zester.archive import rows
from zester.archive.unpacking import unpack
from zester.bench.models import Run
from zester.bench.runs import begin, cutting_of
from zester.core.cutlist import list_files
from zester.core.cutting.record import read_steps
from zester.core.errors import ShapeError, ZesterError
from zester.core.fitting.jobs import job_file, plan
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.proofs import proof
from zester.plans.models import PaperPlan

KEPT = Path(__file__).parents[1] / "kept"
FORMATS = (job_file.FORMAT, plan.FORMAT, proof.FORMAT, list_files.FORMAT, rows.FORMAT)


def kept(name: str) -> bytes:
    """A file that was kept."""
    return (KEPT / name).read_bytes()


class FilesTests(SimpleTestCase):
    def test_there_is_a_file_of_every_version_there_has_been(self):
        named = [each.split("/") for each in FORMATS]
        versions = {f"{name}-{number}" for name, last in named for number in range(1, int(last) + 1)}
        self.assertEqual({path.stem for path in KEPT.iterdir()}, versions)

    def test_a_job_its_plan_and_its_proof(self):
        job, made = job_file.read_job(kept("fit-job-1.json")), plan.read_plan(kept("fit-plan-1.json"))
        (paper,), (planned,) = job.papers, made.papers
        check_paper(paper, planned, job.bench)
        (shown,) = proof.read_proofs(kept("fit-proof-1.json"))
        proof.check_proof(paper, planned, shown)
        self.assertEqual((planned.proven, shown.cost), (True, planned.cost))

    def test_a_cut_list(self):
        read = list_files.read_file("list.json", kept("zester-cut-list-1.json"))
        self.assertEqual((read.name, read.ruler), ("Moth Lantern", "in16"))
        self.assertEqual(len(read.text.splitlines()), 3)
        self.assertIn("2 Mat  4 x 5 1/4", read.text)

    def test_another_version_is_named(self):
        readers = {
            "fit-job-1.json": job_file.read_job,
            "fit-plan-1.json": plan.read_plan,
            "fit-proof-1.json": proof.read_proofs,
            "zester-cut-list-1.json": list_files.read_json,
        }
        for name, read in readers.items():
            later = re.sub(rb'(": "[a-z-]+)/1"', rb'\1/9"', kept(name), count=1)
            self.assertNotEqual(later, kept(name))
            with self.subTest(name), self.assertRaisesRegex(ZesterError, rf"{name[:-7]}/"):
                read(later)


class ArchiveTests(SignedInTests):
    def test_an_archive_with_a_paper_that_is_being_cut(self):
        newcomer = get_user_model().objects.create_user("newcomer", password="harbour-wind-3")
        photos = self.enterContext(tempfile.TemporaryDirectory())
        with override_settings(MEDIA_ROOT=photos), (KEPT / "zester-archive-1.zip").open("rb") as sent:
            made = unpack(newcomer, sent)
        self.assertEqual((made["classes"], made["plans"], made["runs"]), (2, 18, 1))
        cutting = cutting_of(Run.objects.get().fit)
        self.assertEqual((cutting.fit.paper.name, cutting.steps_done), ("Moon Phases", 3))
        self.client.force_login(newcomer)
        address = reverse("bench:paper", args=[cutting.fit.class_paper.card_class_id, cutting.fit.paper.key])
        self.assertContains(self.client.get(address), "Rail to")

    def test_nobody_is_sent_to_the_trimmer_with_steps_that_cannot_be_read(self):
        with zipfile.ZipFile(KEPT / "zester-archive-1.zip") as archive:
            content = json.loads(archive.read("zester.json"))
        content["runs"][0]["steps"][0] = {"mark": 3}
        damaged = io.BytesIO()
        with zipfile.ZipFile(damaged, "w") as archive:
            archive.writestr("zester.json", json.dumps(content))
        newcomer = get_user_model().objects.create_user("newcomer", password="harbour-wind-3")
        with self.assertRaisesRegex(ZesterError, "Step 1 of those that were kept"):
            unpack(newcomer, damaged)
        self.assertEqual(Run.objects.count(), 0)


class RowsTests(SignedInTests):
    """Columns of JSON, as they stand in the database."""

    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, "Mat 4 x 5 brass", participants=4)
        self.run_ = begin(fitted(self.card_class))
        self.page = reverse("bench:paper", args=[self.card_class.pk, self.paper.key])

    def stored(self, table: str, column: str, value: object = None) -> object:
        """What stands there; with a value, put that there."""
        with connection.cursor() as cursor:
            if value is not None:
                cursor.execute(f"UPDATE {table} SET {column} = %s", [json.dumps(value)])
            cursor.execute(f"SELECT {column} FROM {table}")
            found = cursor.fetchone()[0]
        return json.loads(found) if isinstance(found, str) else found

    def test_they_say_their_shape_and_those_from_before_are_read_alike(self):
        steps, pieces = Run.objects.get().steps, PaperPlan.objects.get().pieces
        self.assertTrue(steps and pieces)
        self.assertEqual(self.stored("bench_run", "steps"), {"format": "bench-steps/1", "kept": steps})
        self.assertEqual(self.stored("fits_paperplan", "pieces"), {"format": "plan-pieces/1", "kept": pieces})
        before = self.client.get(self.page).content
        self.stored("bench_run", "steps", steps)
        self.stored("fits_paperplan", "pieces", pieces)
        self.assertEqual((Run.objects.get().steps, PaperPlan.objects.get().pieces), (steps, pieces))
        self.assertIn(b"Rail to", before)
        self.assertContains(self.client.get(self.page), "Rail to")

    def test_changed_by_a_query_they_keep_it(self):
        Run.objects.update(taken=[["A", "B", 1]])
        self.assertEqual(self.stored("bench_run", "taken"), {"format": "bench-taken/1", "kept": [["A", "B", 1]]})
        Run.objects.update(taken=[])
        self.assertEqual(Run.objects.filter(taken=[]).count(), 1)

    def test_one_of_a_newer_version_or_damaged_is_said_on_the_page(self):
        steps = self.run_.steps
        newer = {"format": "bench-steps/2", "kept": steps}
        with mock.patch("zester.site.limits.log"):
            self.stored("bench_run", "steps", newer)
            page = self.client.get(self.page)
            self.assertContains(page, "this version reads bench-steps/1", status_code=500)
            self.stored("bench_run", "steps", [*steps[:-1], {"mark": 3}])
            page = self.client.get(self.page)
            self.assertContains(page, f"Step {len(steps)} of those that were kept", status_code=500)
        with self.assertRaisesRegex(ShapeError, "Step 1 of"):
            read_steps([{}])
