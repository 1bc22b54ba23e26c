"""What goes wrong while somebody works: a sign-in ends, another window writes, the server goes; starting, stopping."""

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

from playwright.sync_api import expect

from tests.browser.base import BrowserTests
from tests.browser.real import RealServerTests, free_port, in_folder, served
from tests.people import make_class, make_paper
from zester.accounts.models import Session
from zester.classes.models import CardClass
from zester.designs.models import Card
from zester.site.serving import web_command


class ReliableJourneys(BrowserTests):
    def setUp(self):
        super().setUp()
        make_paper(self.user)
        self.card_class = make_class(self.user, "Base 4 x 5 brass")
        self.sign_in()
        self.desk = f"{self.live_server_url}/classes/{self.card_class.pk}/design/A/"

    def stored(self) -> str:
        return Card.objects.get().cut_list

    def saved(self) -> None:
        expect(self.page.locator("#save-state")).to_have_text("Every letter is saved as you type")

    def forget_answers_about_signing_in(self) -> None:
        """The browser notes every refused request on its console; these were meant."""
        self.errors[:] = [
            text for text in self.errors if "401" not in text and "403" not in text and "htmx:" not in text
        ]

    def test_a_sign_in_that_ends_while_typing_is_renewed_in_place_and_nothing_is_lost(self):
        self.page.goto(self.desk)
        self.page.locator("#cut-list").click()
        self.page.keyboard.press("Control+End")
        self.type_lines("\n# one")
        self.saved()
        Session.objects.all().delete()
        self.type_lines(" two")
        again = self.page.get_by_role("button", name="Sign in again")
        expect(again).to_be_in_viewport()
        # Whoever goes on typing goes on typing into the list.
        self.type_lines(" three")
        self.check_accessible()
        again.click()
        self.page.get_by_label("Your password").fill("wrong")
        self.page.keyboard.press("Enter")
        expect(self.page.locator("#sign-in-error")).to_contain_text("do not belong together")
        self.page.get_by_label("Your password").fill("kite-tail-9")
        self.page.keyboard.press("Enter")
        self.saved()
        expect(self.page.locator("#cut-list")).to_be_focused()
        self.type_lines(" four")
        self.saved()
        self.assertEqual(self.stored(), "Base 4 x 5 brass\n# one two three four")
        # The same where one signs in again in another window.
        Session.objects.all().delete()
        other = self.new_page()
        other.goto(self.live_server_url)
        other.get_by_label("Name").fill("mira")
        other.get_by_label("Password").fill("kite-tail-9")
        other.keyboard.press("Enter")
        other.get_by_role("heading", name="Classes").wait_for()
        self.page.bring_to_front()
        self.page.locator("#cut-list").click()
        self.page.keyboard.press("Control+End")
        self.type_lines(" five")
        self.saved()
        self.assertTrue(self.stored().endswith("four five"))
        self.forget_answers_about_signing_in()

    def test_two_windows_of_the_count_and_of_the_list(self):
        count = f"{self.live_server_url}/classes/{self.card_class.pk}/count/"
        other = self.new_page()
        for page in (self.page, other):
            page.goto(count)
        mine, theirs = self.page.get_by_label("Participants"), other.get_by_label("Participants")
        theirs.fill("9")
        other.locator("#tally", has_text="9 cards").wait_for()
        mine.fill("10")
        told = self.page.get_by_text("This was changed in another window, too.")
        told.wait_for()
        self.check_accessible()
        self.page.get_by_label("mine: 10").check()
        self.page.locator("#tally", has_text="10 cards").wait_for()
        expect(told).to_be_hidden()
        # What only one has changed comes together: the other page follows.
        other.get_by_label("Samples of Card 1").fill("2")
        expect(theirs).to_have_value("10")
        card_class = CardClass.objects.get()
        self.assertEqual((card_class.participants, card_class.n_bags), (10, 10))
        for page in (self.page, other):
            page.goto(self.desk)
        for page, word in ((other, "theirs"), (self.page, "mine")):
            page.locator("#cut-list").click()
            page.keyboard.press("Control+End")
            page.keyboard.type(f"\n# {word}")
            page.wait_for_timeout(700)
        expect(self.page.locator(".differs")).to_contain_text("# theirs")
        self.page.get_by_role("button", name="Keep mine").click()
        self.saved()
        self.assertEqual(self.stored(), "Base 4 x 5 brass\n# mine")
        self.assertEqual(Card.objects.get().editions.get().cut_list, "Base 4 x 5 brass\n# theirs")

    def test_offline_is_said_and_what_was_typed_is_sent_later(self):
        for address, type_it in (
            (self.desk, self.type_a_remark),
            (self.desk.replace("design/A", "count"), self.count_on),
        ):
            self.page.goto(address)
            self.page.wait_for_timeout(500)
            self.context.set_offline(True)
            type_it()
            trouble = self.page.locator("#trouble")
            expect(trouble).to_contain_text("Zester cannot be reached. What you typed stays here")
            self.context.set_offline(False)
            expect(trouble).to_be_hidden()
        self.assertTrue(self.stored().endswith("# away"))
        self.assertEqual(CardClass.objects.get().participants, 8)
        self.errors[:] = [text for text in self.errors if "ERR_INTERNET" not in text and "htmx:" not in text]

    def type_a_remark(self) -> None:
        self.page.locator("#cut-list").click()
        self.page.keyboard.press("Control+End")
        self.type_lines("\n# away")

    def count_on(self) -> None:
        self.page.get_by_label("Participants").fill("8")

    def test_account_removed_things_and_error_pages_are_open_to_all(self):
        for page in ("account/", "removed/", "sign-in/forgotten/", "nowhere/"):
            self.page.goto(f"{self.live_server_url}/{page}")
            self.check_accessible()
        self.errors[:] = [text for text in self.errors if "404" not in text]


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
        self.assertEqual(self.server.wait(timeout=20), 0)
        self.assertEqual(self.rows("select count(*) from fits_work where status = 'working'"), [(0,)])
        waiting = self.rows("select count(*) from fits_work where status = 'waiting' and kind = 'advice'")[0][0]
        self.assertGreater(waiting, 0)
        type(self).server = self.serve()
        until = time.monotonic() + 60
        while time.monotonic() < until:
            if self.rows("select count(*) from fits_work where status = 'waiting' and kind = 'advice'")[0][0] < waiting:
                break
            time.sleep(0.5)
        else:
            self.fail("what was in work is not gone on with")

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
                server.wait(timeout=20)
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
                out, err = server.communicate(timeout=20)
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
