"""Zester as it is really served: a web process, two workers, a database file, and a browser."""

from __future__ import annotations

import atexit
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
from collections.abc import Callable
from functools import cache
from pathlib import Path
from unittest import TestCase

from tests.browser.base import WithChromium
from zester.site.context import DEMO_PASSWORD, DEMO_USER

ROOT = Path(__file__).parents[2]
# The served demo has a database of its own, whatever the tests run on.
LEFT_OUT = ("ZESTER_DEBUG", "DATABASE_URL")


class RealServerTests(WithChromium, TestCase):
    """The demo, served by its own command from a folder of its own."""

    # Journeys that do nothing to the server, and touch different papers, share one.
    shares = False

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        if cls.shares:
            cls.folder, cls.port, cls.server = shared_server()
            return
        cls.folder = a_copy()
        cls.port = free_port()
        cls.server = cls.serve()

    @classmethod
    def serve(cls) -> subprocess.Popen:
        """Start it; it answers."""
        return served(cls.folder, cls.port, "django", "serve_demo", "--port", str(cls.port))

    @classmethod
    def tearDownClass(cls):
        if not cls.shares:
            stop(cls.server, cls.folder)
        super().tearDownClass()

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


@cache
def prepared() -> Path:
    """A folder with the demo's data, made once a run; nothing runs on it."""
    folder = Path(tempfile.mkdtemp()) / "data"
    folder.mkdir()
    atexit.register(shutil.rmtree, folder.parent, ignore_errors=True)
    for command in (("migrate", "--verbosity", "0"), ("load_demo",)):
        work = [sys.executable, "-m", "django", *command]
        subprocess.run(work, env=in_folder(folder), cwd=folder, check=True, stdout=subprocess.DEVNULL)
    return folder


def a_copy() -> Path:
    """A folder with the demo's data of its own."""
    folder = Path(tempfile.mkdtemp()) / "data"
    shutil.copytree(prepared(), folder)
    return folder


def stop(server: subprocess.Popen, folder: Path) -> None:
    """In order, and nothing is left."""
    server.send_signal(signal.SIGTERM)
    server.wait(timeout=60)
    shutil.rmtree(folder.parent, ignore_errors=True)


@cache
def shared_server() -> tuple[Path, int, subprocess.Popen]:
    """The demo served until the end of the run: its folder, its port."""
    folder, port = a_copy(), free_port()
    server = served(folder, port, "django", "serve_demo", "--port", str(port))
    atexit.register(stop, server, folder)
    return folder, port, server


def in_folder(folder: Path) -> dict[str, str]:
    """What Zester finds around it when its data lie in this folder."""
    variables = {"ZESTER_DEMO": "1", "ZESTER_DATA": str(folder), "PYTHONPATH": str(ROOT)}
    # What nobody waits for would take half of the machine while the journeys run; its own tests ask for it.
    variables |= {"DJANGO_SETTINGS_MODULE": "zester.site.settings", "ZESTER_IDLE_WORK": "0"}
    return {key: value for key, value in os.environ.items() if key not in LEFT_OUT} | variables


def served(folder: Path, port: int, *command: str) -> subprocess.Popen:
    """A server started in this folder; it answers at the port."""
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    server = subprocess.Popen([sys.executable, "-m", *command], env=in_folder(folder), cwd=folder, **quiet)
    _wait_for(port)
    return server


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
    raise AssertionError("the server did not start")
