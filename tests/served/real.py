"""Zester as it is really served: a web process, two workers, a database file, and a browser."""

from __future__ import annotations

import shutil
import sqlite3
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path
from unittest import TestCase

from tests.browser.base import WithChromium
from tests.children import Child
from tests.prepared import in_folder, prepared
from zester.site.context import DEMO_PASSWORD, DEMO_USER

SERVE_DEMO = [sys.executable, "-m", "django", "serve_demo", "--port"]
# What the demo prints when it is there.
ADDRESS = r"Zester is at http://127\.0\.0\.1:(\d+)/"
TO_START = 120.0


class RealServerTests(WithChromium, TestCase):
    """The demo, served by its own command from a folder of its own."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.folder = Path(tempfile.mkdtemp()) / "data"
        cls.addClassCleanup(shutil.rmtree, cls.folder.parent, ignore_errors=True)
        shutil.copytree(prepared() / "data", cls.folder)
        cls.start()

    @classmethod
    def start(cls, port: int = 0) -> None:
        """Serve it; by default at a port that is free."""
        cls.server = Child([*SERVE_DEMO, str(port)], env=in_folder(cls.folder), cwd=cls.folder)
        cls.addClassCleanup(cls.server.end)
        cls.port = int(cls.server.wait_for(ADDRESS, TO_START)[1])
        wait_for_answer(cls.port)

    def setUp(self):
        super().setUp()
        self.base = f"http://127.0.0.1:{self.port}"
        self.sign_in(DEMO_USER, DEMO_PASSWORD)

    def sign_in(self, name: str, password: str) -> None:
        """By the sign-in page."""
        self.page.goto(self.base)
        self.page.fill("#id_username", name)
        self.page.fill("#id_password", password)
        self.page.keyboard.press("Enter")
        self.page.get_by_role("heading", name="Classes").wait_for()

    def wait_for(self, asked: Callable, wanted) -> None:
        """Something in the database is so, soon."""
        until = time.monotonic() + self.patience / 1000
        while (found := asked()) != wanted:
            self.assertLess(time.monotonic(), until, f"{found} instead of {wanted}")
            time.sleep(0.1)

    def rows(self, sql: str, *values) -> list[tuple]:
        """What the database holds."""
        with sqlite3.connect(self.folder / "zester.sqlite3", timeout=20) as database:
            return database.execute(sql, values).fetchall()

    def workers(self) -> list[int]:
        """The process numbers of the workers, from the names they go by."""
        return [int(name.rsplit("-", 2)[1]) for (name,) in self.rows("select name from fits_worker")]


def wait_for_answer(port: int) -> None:
    """Until the server at a port answers, a minute at the most."""
    until = time.monotonic() + 60
    while True:
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in/", timeout=5).close()
            return
        except OSError as error:
            if time.monotonic() > until:
                raise AssertionError("the server does not answer") from error
            time.sleep(0.1)
