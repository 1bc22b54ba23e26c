"""A real browser on the real application."""

from __future__ import annotations

import os
import re
import signal
import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path

from django.contrib.auth import get_user_model
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import override_settings
from playwright.sync_api import BrowserContext, CDPSession, Page, Playwright, expect, sync_playwright
from playwright.sync_api import Error as PlaywrightError

from tests.people import A_GOOD_ORDER, AT_ONCE
from tests.watch import SLOW

STARTED_BY = Path(__file__).with_name("chromium.sh")
# Seconds after which a browser that does not close is killed.
TO_CLOSE = 20 * SLOW
AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text()
CHROMIUM_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
# How many milliseconds later all answers come where the browser's processor is so many times slower (``SLOW``): whoever
# types before a page is ready, or looks at the one before, is found out.
LATE = 75 * SLOW if SLOW > 1 else 0
# Playwright's own event loop runs in this thread; Django would refuse the database otherwise.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
# Machines are shared and at times slow; what is awaited does not take longer for it where they are not.
expect.set_options(timeout=60_000)


class WithChromium:
    """Debian's Chromium, 1280 × 800, for a test case; any error on a page's console fails the test."""

    patience = 60_000
    # Seconds for one journey with what goes before and after it.
    longest = 420

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        # Also where what follows fails.
        cls.addClassCleanup(cls.playwright.stop)
        cls.browser = None
        cls.addClassCleanup(cls.close_browser)
        cls.open_browser()

    @classmethod
    def open_browser(cls) -> None:
        """Start it, and learn its process number."""
        cls.browser = Browser(cls.playwright)
        cls.chromium = cls.browser.chromium

    @classmethod
    def close_browser(cls) -> None:
        """At the end."""
        if cls.browser:
            cls.browser.close("all is done", cls.chromium.close)

    def setUp(self):
        super().setUp()
        if not self.chromium.is_connected():
            # The journey before could not close it.
            self.open_browser()
        self.errors: list[str] = []
        self.lines: dict[Page, CDPSession] = {}
        self.context = self.new_context(viewport={"width": 1280, "height": 800})
        self.page = self.new_page()

    def tearDown(self):
        errors = list(self.errors)
        if self.chromium.is_connected():
            for context in list(self.chromium.contexts):
                self.leave(context)
        self.assertEqual(errors, [])
        super().tearDown()

    def new_context(self, **options) -> BrowserContext:
        """As a browser of somebody's own: nothing is shared with the others."""
        # A worker asks by itself, past the lines that are lost here; a test of its own has one.
        # A browser that names no country is not asked whether that is right.
        usual = {"service_workers": "block", "locale": "en"}
        context = self.chromium.new_context(**(usual | options))
        context.set_default_timeout(self.patience)
        return context

    def leave(self, context: BrowserContext) -> None:
        """Close it with its pages, each of them empty and at rest."""
        where = f"{self.id()} at {[page.url for page in context.pages]}"
        self.browser.close(where, lambda: _rest_and_close(context))

    def new_page(self) -> Page:
        """Another tab of the same browser."""
        page = self.context.new_page()
        self.lines[page] = self.context.new_cdp_session(page)
        if SLOW > 1:
            self.lines[page].send("Emulation.setCPUThrottlingRate", {"rate": SLOW})
            self.set_line(page)
        page.on("console", lambda message: self.errors.append(message.text) if message.type == "error" else None)
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        return page

    def at_the_list(self) -> None:
        """The desk is there, and its script: the list has the focus before the script hears its keys."""
        expect(self.page.locator("#cut-list")).to_be_focused()
        self.page.wait_for_load_state()

    def set_line(self, *pages: Page, late: int = LATE, lost: bool = False) -> None:
        """From now on every answer to these tabs comes so many milliseconds later, or none comes."""
        line = {"offline": lost, "latency": late, "downloadThroughput": -1, "uploadThroughput": -1}
        for page in pages:
            self.lines[page].send("Network.emulateNetworkConditions", line)

    def check_accessible(self, page: Page | None = None) -> None:
        """No fault that axe finds against WCAG 2.2 A and AA."""
        page = page or self.page
        page.evaluate(AXE)
        self.assertEqual(faults_on(page), [], page.url)


class Browser:
    """Chromium with a process number of its own.

    Closing a page that is on its way to another hangs now and then, and knows no time-out: after some seconds all of
    it is killed, and it is said where that was.
    """

    def __init__(self, playwright: Playwright):
        with tempfile.NamedTemporaryFile("r") as number:
            self.chromium = playwright.chromium.launch(
                executable_path=STARTED_BY,
                headless=True,
                args=CHROMIUM_FLAGS,
                env={**os.environ, "ZESTER_CHROMIUM_PID": number.name},
            )
            self.pid = int(number.read())

    def close(self, where: str, close: Callable[[], None]) -> None:
        """Close something of it, or else kill it."""
        killed = threading.Event()

        def kill() -> None:
            killed.set()
            print(f"Chromium did not close within {TO_CLOSE} s and is killed: {where}", file=sys.stderr, flush=True)
            os.killpg(os.getpgid(self.pid), signal.SIGKILL)

        timer = threading.Timer(TO_CLOSE, kill)
        timer.start()
        try:
            close()
        except PlaywrightError:
            if not killed.is_set():
                raise
        finally:
            timer.cancel()


def _rest_and_close(context: BrowserContext) -> None:
    for page in context.pages:
        page.goto("about:blank")
    context.close()


@override_settings(TASKS=AT_ONCE, IDLE_WORK=False)
class BrowserTests(WithChromium, StaticLiveServerTestCase):
    """The application in this process, with somebody to sign in."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.enterClassContext(A_GOOD_ORDER)

    def setUp(self):
        super().setUp()
        self.user = get_user_model().objects.create_user("mira", password="kite-tail-9")

    def sign_in(self, name: str = "mira", password: str = "kite-tail-9") -> None:
        """By the sign-in page, with the keys."""
        self.page.goto(self.live_server_url)
        # The field has the focus by itself, but not always before the first key.
        expect(self.page.get_by_label("Name", exact=True)).to_be_focused()
        self.page.keyboard.type(name)
        self.page.keyboard.press("Tab")
        self.page.keyboard.type(password)
        self.page.keyboard.press("Enter")
        self.page.get_by_role("heading", name="Classes").wait_for()

    def add_card(self, name: str) -> None:
        """Another card of the class, by the keys, and on to its list."""
        box = self.page.get_by_label(re.compile("Another card|What is the first card called"))
        box.focus()
        self.page.keyboard.type(name)
        self.page.keyboard.press("Enter")
        self.page.get_by_role("heading", name=name).wait_for()
        self.at_the_list()

    def type_lines(self, text: str) -> None:
        """Into whatever has the focus, key by key."""
        self.page.keyboard.type(text)


def faults_on(page: Page) -> list[str]:
    """What axe, loaded into the page, finds against WCAG 2.2 A and AA."""
    tags = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
    found = page.evaluate("(tags) => axe.run(document, {runOnly: {type: 'tag', values: tags}})", tags)
    return [
        f"{fault['id']}: {fault['help']} — {node['html'][:120]} {node['any'][0]['message'] if node['any'] else ''}"
        for fault in found["violations"]
        for node in fault["nodes"][:3]
    ]
