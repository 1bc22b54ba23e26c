"""Starting, stopping, and all of it in a second installation."""

from __future__ import annotations

import json
import signal
import subprocess
import sys
import tempfile
import time
import zipfile
from pathlib import Path
from unittest import TestCase

from tests.served.real import RealServerTests, free_port, in_folder, served
from zester.site.serving import web_command


class Served(RealServerTests):
    """The demo as it is really served."""

    def test_it_stops_in_order_in_the_middle_of_a_fit_and_goes_on_at_the_next_start(self):
        self.page.get_by_role("link", name="Stargazer Card Evening", exact=True).first.click()
        self.page.goto(self.page.url.replace("/design/", "/fit/"))
        self.page.get_by_role("button", name="Look for other plans for all papers").click()
        self.page.get_by_text("Looking for other plans").wait_for()
        self.page.goto("about:blank")
        time.sleep(1.5)
        # How long it takes is measured by benchmarks/kills.py.
        self.server.send_signal(signal.SIGTERM)
        self.assertEqual(self.server.wait(timeout=60), 0)
        self.assertEqual(self.rows("select count(*) from fits_work where status = 'working'"), [(0,)])
        still = "select count(*) from fits_work where status = 'waiting' and kind = 'advice'"
        waiting = self.rows(still)[0][0]
        self.assertGreater(waiting, 0)
        type(self).server = self.serve()
        # What was in work is gone on with.
        self.wait_for(lambda: self.rows(still)[0][0] < waiting, True)

    def test_all_of_it_goes_along_to_a_second_installation_object_by_object(self):
        first = self.everything()
        # Another folder, another database, another web server; nobody is there but somebody new.
        with tempfile.TemporaryDirectory() as place:
            folder, port = Path(place), free_port()
            (folder / "static").mkdir()
            django = [sys.executable, "-m", "django"]
            person = {"DJANGO_SUPERUSER_PASSWORD": "kite-tail-9"}
            make = ["createsuperuser", "--noinput", "--username", "mira", "--email", "mira@example.org"]
            for command in (["migrate", "-v", "0"], make):
                subprocess.run([*django, *command], env=in_folder(folder) | person, cwd=folder, check=True)
            server = served(folder, port, *web_command(f"127.0.0.1:{port}", 1)[2:])
            try:
                self.context.clear_cookies()
                self.base = f"http://127.0.0.1:{port}"
                self.sign_in("mira", "kite-tail-9")
                self.page.goto(f"{self.base}/archive/")
                self.page.get_by_label("The ZIP file").set_input_files(first)
                self.page.get_by_role("button", name="Bring it in").press("Enter")
                self.page.get_by_text("Brought in: 2 classes").wait_for()
                mine, theirs = (written_in(file) for file in (first, self.everything()))
            finally:
                server.send_signal(signal.SIGTERM)
                server.wait(timeout=60)
        self.assertEqual(mine.keys(), theirs.keys())
        self.assertGreater(len(mine["plans"]), 10)
        for kind, things in mine.items():
            with self.subTest(kind=kind):
                self.assertEqual(theirs[kind], things)

    def everything(self) -> Path:
        """The file that "Save everything" makes."""
        self.page.goto(f"{self.base}/archive/")
        with self.page.expect_download() as saved:
            self.page.get_by_role("link", name="Save everything").click()
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

    def start(self, folder: str, *more: str) -> subprocess.Popen:
        command = [sys.executable, "-m", "django", "serve_demo", "--port", str(free_port()), *more]
        pipes = {"stdout": subprocess.PIPE, "stderr": subprocess.PIPE}
        return subprocess.Popen(command, env=in_folder(folder), cwd=folder, text=True, **pipes)

    def test_two_first_starts_at_once_prepare_one_demo(self):
        with tempfile.TemporaryDirectory() as folder:
            both = [self.start(folder) for _ in range(2)]
            for server in both:
                line = next(line for line in server.stdout if "Zester is at" in line)
                self.assertIn("http://127.0.0.1:", line)
            for server in both:
                server.send_signal(signal.SIGTERM)
            for server in both:
                out, err = server.communicate(timeout=60)
                self.assertNotIn("Traceback", out + err)
                self.assertEqual(server.returncode, 0)

    def test_a_folder_that_cannot_be_written_is_named(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder, "file")
            path.write_text("in the way")
            done = subprocess.run(
                [sys.executable, "-m", "django", "serve_demo", "--port", str(free_port())],
                env=in_folder(path),
                capture_output=True,
                text=True,
                check=False,
            )
            self.assertEqual(done.returncode, 1)
            self.assertIn("Nothing can be stored in", done.stderr)
            self.assertIn("ZESTER_DATA", done.stderr)
            self.assertNotIn("Traceback", done.stderr)
