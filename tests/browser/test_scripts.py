"""The browser's scripts by themselves, on a page of nothing else: what waits is sent once, in order, and never lost."""

from __future__ import annotations

import json
from pathlib import Path
from unittest import TestCase

from playwright.sync_api import Route, expect

from tests.browser.base import WithChromium

SCRIPTS = Path(__file__).parents[2] / "zester" / "site" / "static" / "zester"
HERE = "http://zester.test"
PAGE = """<!doctype html><html lang="en"><head><title>Scripts</title><meta name="csrf-token" content="a key">
<meta name="viewport" content="width=device-width"></head><body>{body}<script>{script}</script></body></html>"""
LINE = """
window.said = [];
window.line = window.kept.line({
  shelf: "shelf", ticks: "/ticks", state: "/state", every: 100000,
  say: (words) => window.said.push(words), heard: (answer, queue) => window.said.push(`heard ${queue.length}`),
});
"""


class ScriptTests(WithChromium, TestCase):
    """Each script in a page whose answers are made here."""

    def setUp(self):
        super().setUp()
        self.sent: list[list[dict]] = []
        self.status = 200
        self.context.route(f"{HERE}/**", self.answer)

    def answer(self, route: Route) -> None:
        """A page, or what a server would say to ticks and to looks."""
        path = route.request.url.removeprefix(HERE)
        if path == "/ticks":
            queue = json.loads(route.request.post_data)
            if self.status == 200:
                self.sent.append(queue)
            route.fulfill(status=self.status, json={"done": len(queue)})
        elif path == "/state":
            route.fulfill(status=self.status, json={"done": 0})
        elif path == "/piece":
            route.fulfill(status=self.status, body="<p>a piece</p>", content_type="text/html")
        else:
            route.fulfill(body=self.html, content_type="text/html")

    def open(self, script: str, body: str = "", then: str = "") -> None:
        """A page with one of the scripts."""
        source = (SCRIPTS / script).read_text()
        self.html = PAGE.format(body=body, script=f"{source}\n{then}")
        self.page.goto(HERE)

    def ticks(self) -> list[int]:
        """What has arrived, in order."""
        return [tick["done"] for queue in self.sent for tick in queue]

    def refused(self) -> None:
        """What the browser notes of refused requests is meant."""
        self.errors[:] = [text for text in self.errors if "Failed to load resource" not in text]

    def push(self, *numbers: int) -> None:
        """Ticks, one after the other."""
        for number in numbers:
            self.page.evaluate("done => window.line.push({run: 1, done})", number)

    def test_ticks_arrive_once_and_in_order_whatever_happens_on_the_way(self):
        self.open("kept.js", then=LINE)
        self.push(1, 2)
        self.assertEqual(self.page.evaluate("window.line.settle()"), "")
        # The server is away: they wait, and go with the next, first in, first out.
        self.status = 503
        self.push(3, 4)
        self.assertIn("no line", self.page.evaluate("window.line.settle()"))
        self.assertEqual(self.page.evaluate("window.line.waiting().length"), 2)
        self.status = 200
        self.push(5)
        self.assertEqual(self.page.evaluate("window.line.settle()"), "")
        self.assertEqual(self.ticks(), [1, 2, 3, 4, 5])
        self.assertEqual(len({tick["key"] for queue in self.sent for tick in queue}), 5)
        self.assertIn("Back on the line; everything is sent.", self.page.evaluate("window.said"))
        self.refused()

    def test_what_waits_outlives_the_page_and_what_is_refused_is_not_sent_for_ever(self):
        self.open("kept.js", then=LINE)
        self.status = 503
        self.push(7)
        self.page.evaluate("window.line.settle()")
        self.open("kept.js", then=LINE)
        self.assertEqual([tick["done"] for tick in self.page.evaluate("window.line.waiting()")], [7])
        # What the server cannot read it says so once.
        self.status = 400
        self.assertEqual(self.page.evaluate("window.line.settle()"), "")
        self.assertEqual((self.page.evaluate("window.line.waiting()"), self.ticks()), ([], []))
        self.refused()

    def test_who_is_signed_out_is_told_so_and_loses_nothing(self):
        self.open("kept.js", then=LINE)
        self.status = 401
        self.push(9)
        self.assertIn("You are signed out here", self.page.evaluate("window.line.settle()"))
        self.assertEqual(self.page.evaluate("window.line.waiting().length"), 1)
        self.assertIn(
            "You are signed out here", self.page.evaluate("window.kept.piece('/piece').then(([, why]) => why)")
        )
        self.status = 500
        self.assertIn("could not answer", self.page.evaluate("window.kept.piece('/piece').then(([, why]) => why)"))
        self.status = 200
        self.assertEqual(self.page.evaluate("window.kept.piece('/piece')"), ["<p>a piece</p>", ""])
        self.refused()

    def test_a_dialog_that_is_closed_keeps_no_key_from_the_next_step(self):
        body = """<button id="open">Something went wrong</button><dialog id="it" aria-label="It">
        <button id="close">Close</button></dialog>"""
        then = """const it = document.getElementById("it");
        document.getElementById("open").addEventListener("click", (event) => window.kept.open(it, event));
        document.getElementById("close").addEventListener("click", () => window.kept.close(it));"""
        self.open("kept.js", body, then)
        self.page.get_by_role("button", name="Something went wrong").click()
        expect(self.page.get_by_role("button", name="Close")).to_be_focused()
        # At once, before another frame is drawn.
        left = "() => { document.getElementById('close').click(); return document.activeElement.tagName; }"
        self.assertEqual(self.page.evaluate(left), "BODY")
        # By keys the focus goes back to the button.
        self.page.get_by_role("button", name="Something went wrong").press("Enter")
        self.page.keyboard.press("Escape")
        expect(self.page.get_by_role("button", name="Something went wrong")).to_be_focused()

    def test_single_keys_can_be_switched_off_and_stay_so(self):
        body = """<ol class="thread"><li><a href="#one">1</a></li><li><a href="#two">2</a></li></ol>
        <input type="checkbox" id="single-keys" aria-label="Single keys"><input aria-label="Something">
        <dialog id="keys">Keys</dialog>"""
        self.open("zester.js", body)
        self.page.locator("body").press("2")
        self.assertEqual(self.page.evaluate("location.hash"), "#two")
        # Whoever types, types.
        self.page.get_by_label("Something").press("1")
        self.assertEqual(self.page.evaluate("location.hash"), "#two")
        self.page.get_by_label("Single keys").uncheck()
        self.open("zester.js", body)
        expect(self.page.get_by_label("Single keys")).not_to_be_checked()
        self.page.locator("body").press("1")
        self.page.locator("body").press("?")
        expect(self.page.locator("#keys")).to_be_hidden()
        self.assertEqual(self.page.evaluate("location.hash"), "")
