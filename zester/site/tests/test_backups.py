"""Backups: written while others write, read into a second installation, compared."""

import io
import json
import os
import subprocess
import sys
import tempfile
import threading
import zipfile
from pathlib import Path
from unittest import skipUnless

from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TransactionTestCase, override_settings

from tests.people import AT_ONCE, fitted, make_class, make_paper
from zester.designs.models import Card, Photo
from zester.designs.services import keep_photo, save_list
from zester.site.backups import counts

ROOT = Path(__file__).parents[3]


@override_settings(TASKS=AT_ONCE, IDLE_WORK=False)
class BackupTests(TransactionTestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.enterContext(override_settings(MEDIA_ROOT=self.folder / "media", DATA_DIR=self.folder / "media"))
        self.user = get_user_model().objects.create_user("mira", password="kite-tail-9")
        make_paper(self.user)
        fitted(make_class(self.user, "Base 4 x 5 brass"))
        self.card = Card.objects.get()
        keep_photo(self.card, ContentFile(b"a photo", "p.jpg"))
        self.file = self.folder / "kept.zip"

    def second(self, *command: str) -> subprocess.CompletedProcess:
        """A command of another installation, in a folder of its own."""
        variables = os.environ | {"ZESTER_DATA": str(self.folder / "second"), "ZESTER_DEMO": "1"}
        variables |= {"DJANGO_SETTINGS_MODULE": "zester.site.settings", "PYTHONPATH": str(ROOT)}
        variables.pop("DATABASE_URL", None)
        (self.folder / "second").mkdir(exist_ok=True)
        return subprocess.run(
            [sys.executable, "-m", "django", *command],
            env=variables,
            capture_output=True,
            text=True,
            check=False,
            timeout=120,
        )

    @skipUnless(connection.vendor == "sqlite", "the second installation is one of SQLite")
    def test_a_second_installation_holds_the_same(self):
        stop = threading.Event()

        def type_on():
            saves = 0
            while not stop.is_set():
                saves = save_list(self.card, f"Base 4 x 5 brass\n# {saves}", saves, "me").card.saves
            connection.close()

        typing = threading.Thread(target=type_on)
        typing.start()
        call_command("backup", self.file, verbosity=0, stdout=io.StringIO())
        stop.set()
        typing.join(60)
        done = self.second("restore", str(self.file))
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        script = "from zester.site.backups import counts; import json; print(json.dumps(counts()))"
        held = self.second("shell", "--no-imports", "--command", script).stdout
        with zipfile.ZipFile(self.file) as packed:
            self.assertEqual(
                set(packed.namelist()),
                {"about.json", "database", Photo.objects.get().image.name},
            )
        self.assertEqual(json.loads(held.strip().splitlines()[-1]), counts())
        self.assertEqual((self.folder / "second" / Photo.objects.get().image.name).read_bytes(), b"a photo")

    def test_it_comes_back_where_it_was_made(self):
        call_command("backup", self.file, stdout=io.StringIO())
        before = counts()
        save_list(self.card, "spoilt", 0, "other")
        get_user_model().objects.create_user("late")
        with self.assertRaisesMessage(CommandError, "accounts here already"):
            call_command("restore", self.file)
        call_command("restore", self.file, "--replace", stdout=io.StringIO())
        self.assertEqual(counts(), before)
        self.assertEqual(Card.objects.get().cut_list, "Base 4 x 5 brass")

    def test_what_is_no_backup_changes_nothing(self):
        self.file.write_bytes(b"PK nothing")
        for name in (self.file, self.folder / "nowhere.zip"):
            with self.assertRaisesMessage(CommandError, "is no backup of Zester"):
                call_command("restore", name, "--replace")
        self.assertEqual(Card.objects.count(), 1)

    def test_a_backup_that_cannot_be_written_leaves_no_half_file(self):
        with self.assertRaisesMessage(CommandError, "cannot be written"):
            call_command("backup", self.folder / "nowhere" / "kept.zip")
        self.assertEqual(list(self.folder.glob("*.part")), [])
