"""What goes wrong while somebody works: a sign-in ends, another window writes, the server goes."""

from __future__ import annotations

import time

from playwright.sync_api import expect

from tests.browser.base import BrowserTests
from tests.people import make_class, make_paper
from zester.accounts.models import Session
from zester.classes.models import CardClass
from zester.designs.models import Card


class ReliableJourneys(BrowserTests):
    def setUp(self):
        super().setUp()
        make_paper(self.user)
        self.card_class = make_class(self.user, "Base 4 x 5 brass")
        self.sign_in()
        self.desk = f"{self.live_server_url}/classes/{self.card_class.pk}/design/A/"

    def stored(self) -> str:
        return Card.objects.get().cut_list

    def wait_stored(self, words: str) -> None:
        until = time.monotonic() + 60
        while words not in self.stored():
            self.assertLess(time.monotonic(), until, f"“{words}” is not saved")
            self.page.wait_for_timeout(50)

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
            # Theirs is there before mine is begun.
            self.wait_stored("# theirs")
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
            self.page.wait_for_load_state()
            self.set_line(self.page, lost=True)
            type_it()
            trouble = self.page.locator("#trouble")
            expect(trouble).to_contain_text("Zester cannot be reached. What you typed stays here")
            self.set_line(self.page)
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
