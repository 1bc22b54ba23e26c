"""Zester as it is really served: a web process, two workers, a database file, and a browser."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path
from unittest import TestCase

from tests.browser.base import WithChromium
from zester.site.context import DEMO_PASSWORD, DEMO_USER

ROOT = Path(__file__).parents[2]
# The served demo has a database of its own, whatever the tests run on.
LEFT_OUT = ("ZESTER_DEBUG", "DATABASE_URL")


class RealServerTests(WithChromium, TestCase):
    """The demo, served by its own command from a folder of its own."""

    patience = 30_000

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.folder = Path(tempfile.mkdtemp())
        cls.port = free_port()
        cls.server = cls.serve()

    @classmethod
    def serve(cls) -> subprocess.Popen:
        """Start it; it answers."""
        variables = {"ZESTER_DEMO": "1", "ZESTER_DATA": str(cls.folder), "PYTHONPATH": str(ROOT)}
        variables |= {"DJANGO_SETTINGS_MODULE": "zester.site.settings"}
        server = subprocess.Popen(
            [sys.executable, "-m", "django", "serve_demo", "--port", str(cls.port)],
            env={key: value for key, value in os.environ.items() if key not in LEFT_OUT} | variables,
            cwd=cls.folder,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        _wait_for(cls.port)
        return server

    @classmethod
    def tearDownClass(cls):
        cls.server.send_signal(signal.SIGTERM)
        cls.server.wait(timeout=30)
        shutil.rmtree(cls.folder, ignore_errors=True)
        super().tearDownClass()

    def setUp(self):
        super().setUp()
        self.base = f"http://127.0.0.1:{self.port}"
        self.page.goto(self.base)
        self.page.fill("#id_username", DEMO_USER)
        self.page.fill("#id_password", DEMO_PASSWORD)
        self.page.keyboard.press("Enter")
        self.page.get_by_role("heading", name="Classes").wait_for()

    def rows(self, sql: str, *values) -> list[tuple]:
        """What the database holds."""
        with sqlite3.connect(self.folder / "zester.sqlite3", timeout=20) as database:
            return database.execute(sql, values).fetchall()

    def workers(self) -> list[int]:
        """The process numbers of the workers, from the names they go by."""
        return [int(name.rsplit("-", 2)[1]) for (name,) in self.rows("select name from fits_worker")]


def free_port() -> int:
    """A port nobody has."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def _wait_for(port: int) -> None:
    for _ in range(240):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in/", timeout=2).close()
            return
        except OSError:
            time.sleep(0.25)
    raise AssertionError("the demo did not start")
