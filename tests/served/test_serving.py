"""Starting, stopping, and all of it in a second installation."""

from __future__ import annotations

import json
import socket
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path
from unittest import TestCase

from tests.children import Child
from tests.prepared import in_folder
from tests.served.real import ADDRESS, SERVE_DEMO, TO_START, RealServerTests, wait_for_answer
from zester.core.tests.share import each_of
from zester.site.serving import web_command, worker_commands


class Served(RealServerTests):
    """The demo as it is really served."""

    def test_it_stops_in_order_in_the_middle_of_a_fit_and_goes_on_at_the_next_start(self):
        self.page.get_by_role("link", name="Stargazer Card Evening", exact=True).first.click()
        self.page.goto(self.page.url.replace("/design/", "/fit/"))
        self.page.get_by_role("button", name="Look for other plans for all papers").click()
        self.page.get_by_text("Looking for other plans").wait_for()
        self.page.goto("about:blank")
        working = "select count(*) from fits_work where status = 'working' and kind = 'advice'"
        self.wait_for(lambda: self.rows(working)[0][0] > 0, True)
        # How long it takes is measured by benchmarks/kills.py.
        self.assertEqual(self.server.end(grace=60), 0)
        self.assertEqual(self.rows("select count(*) from fits_work where status = 'working'"), [(0,)])
        still = "select count(*) from fits_work where status = 'waiting' and kind = 'advice'"
        waiting = self.rows(still)[0][0]
        self.assertGreater(waiting, 0)
        self.start(self.port)
        # What was in work is gone on with.
        self.wait_for(lambda: self.rows(still)[0][0] < waiting, True)

    def test_all_of_it_goes_along_to_a_second_installation_object_by_object(self):
        first = self.everything()
        # Another folder, another database, another web server; nobody is there but somebody new.
        with tempfile.TemporaryDirectory() as place:
            folder, door = Path(place), self.enterContext(socket.socket())
            door.bind(("127.0.0.1", 0))
            (folder / "static").mkdir()
            django = [sys.executable, "-m", "django"]
            person = {"DJANGO_SUPERUSER_PASSWORD": "kite-tail-9"}
            make = ["createsuperuser", "--noinput", "--username", "mira", "--email", "mira@example.org"]
            for command in (["migrate", "-v", "0"], make):
                subprocess.run([*django, *command], env=in_folder(folder) | person, cwd=folder, check=True, timeout=120)
            serve = web_command(f"fd://{door.fileno()}", 1)
            server = Child(serve, env=in_folder(folder), cwd=folder, keep=[door.fileno()])
            worker = Child(worker_commands()[0], env=in_folder(folder), cwd=folder)
            try:
                self.context.clear_cookies()
                port = door.getsockname()[1]
                wait_for_answer(port)
                self.base = f"http://127.0.0.1:{port}"
                self.sign_in("mira", "kite-tail-9")
                self.page.goto(f"{self.base}/archive/")
                self.page.get_by_label("The ZIP file").set_input_files(first)
                self.page.get_by_role("button", name="Bring it in").press("Enter")
                self.page.get_by_text("Brought in: 2 classes").wait_for()
                mine, theirs = (written_in(file) for file in (first, self.everything()))
            finally:
                server.end()
                worker.end()
        self.assertEqual(mine.keys(), theirs.keys())
        self.assertGreater(len(mine["plans"]), 10)
        for kind, things in each_of(mine.items()):
            with self.subTest(kind=kind):
                self.assertEqual(theirs[kind], things)

    def everything(self) -> Path:
        """The file that "Save everything" makes."""
        self.page.goto(f"{self.base}/archive/")
        self.page.get_by_role("button", name="Save everything", exact=True).click()
        with self.page.expect_download() as saved:
            self.page.get_by_role("link", name="Save it").click()
        # Coming back it is a page, not the part of it that was asked for last.
        self.page.goto(f"{self.base}/archive/")
        self.page.go_back()
        self.page.get_by_role("heading", name="Everything in one file").wait_for()
        return saved.value.path()


def written_in(file: Path) -> dict:
    """What the archive holds, but for when it was counted and written down last."""
    with zipfile.ZipFile(file) as archive:
        content = json.loads(archive.read("zester.json"))
    for things in content.values():
        for thing in things if isinstance(things, list) else ():
            thing.pop("counted_at", None)
            thing.pop("changed_at", None)
    return content


class Starting(TestCase):
    """The first start, where something is in the way."""

    def test_two_first_starts_at_once_prepare_one_demo(self):
        with tempfile.TemporaryDirectory() as folder:
            both = [Child([*SERVE_DEMO, "0"], env=in_folder(Path(folder)), cwd=folder) for _ in range(2)]
            for server in both:
                self.addCleanup(server.end)
                server.wait_for(ADDRESS, TO_START)
            for server in both:
                self.assertEqual(server.end(grace=60), 0)
                self.assertNotIn("Traceback", server.said())

    def test_a_folder_that_cannot_be_written_is_named(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder, "file")
            path.write_text("in the way")
            done = subprocess.run(
                [*SERVE_DEMO, "0"], env=in_folder(path), capture_output=True, text=True, check=False, timeout=120
            )
            self.assertEqual(done.returncode, 1)
            self.assertIn("Nothing can be stored in", done.stderr)
            self.assertIn("ZESTER_DATA", done.stderr)
            self.assertNotIn("Traceback", done.stderr)
