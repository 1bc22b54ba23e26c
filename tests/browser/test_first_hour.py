"""A newcomer's first hour: an account, a card of one's own to the printed steps; everything taken along to another."""

import datetime
import re
import tempfile
from pathlib import Path

from django.contrib.auth import get_user_model
from django.test import override_settings
from django.utils import timezone
from playwright.sync_api import expect

from tests.browser.base import BrowserTests
from tests.people import fitted, make_class, make_paper
from zester.accounts.models import Invitation
from zester.archive.rows import KINDS
from zester.archive.tests.test_archive import photo, rows
from zester.classes.models import CardClass
from zester.core.tests.share import each_of
from zester.designs.models import Card
from zester.designs.services import keep_photo
from zester.shelf.models import Paper

CARD = (
    "card 4¼ x 5½, opens at the side",
    "Base lagoon",
    "Mat ⅛ border sand",
    "Panel 3¾ x 5 shell waves",
    "two strips ½ x 3½, lagoon, left and right ½",
    "Greeting 3 x 1 sand, ½ from the bottom",
    "liner 4 x 5 1/4 sand",
    "4 foam squares",
)
NAME, PASSWORD = "ines", "harbour-wind-3"


class FirstHourJourneys(BrowserTests):
    def setUp(self):
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(MEDIA_ROOT=folder.name))
        self.actions = 0

    def press(self, *keys: str) -> None:
        """Keys beyond the text itself; all are counted."""
        for key in keys:
            self.actions += 1
            self.page.keyboard.press(key)

    def click(self, name: str, role: str = "link") -> None:
        self.actions += 1
        self.page.get_by_role(role, name=name).click()

    def sign_up(self) -> None:
        token = "t" * 30
        Invitation.objects.create(token=token, ends_at=timezone.now() + datetime.timedelta(days=1))
        self.page.goto(f"{self.live_server_url}/sign-up/{token}/")
        self.check_accessible()
        for label, text in (("Your name here", NAME), ("A password", PASSWORD), ("The same once more", PASSWORD)):
            self.page.get_by_label(label, exact=True).fill(text)
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_text(f"Welcome, {NAME}")).to_be_visible()

    def test_from_an_empty_account_to_the_steps_with_a_card_of_ones_own(self):
        self.sign_up()
        page = self.page
        self.check_accessible()
        # From here on every key and click beyond the text counts.
        page.keyboard.type("Lagoon Evening")
        self.press("Enter")
        expect(page.get_by_label("What is the first card called?")).to_be_focused()
        self.check_accessible()
        page.keyboard.type("Wave")
        self.press("Enter")
        self.at_the_list()
        for number, line in enumerate(CARD):
            if number:
                self.press("Enter")
            page.keyboard.type(line)
        asked = page.locator("#questions")
        expect(asked).to_contain_text("3 things to ask about")
        expect(asked).to_contain_text("Lines 2 and 5: No paper is called “lagoon”")
        self.check_accessible()
        self.press("Alt+s")
        expect(asked).to_contain_text("2 things to ask about")
        self.press("Alt+s")
        expect(asked).to_contain_text("1 thing to ask about")
        self.press("Alt+p")
        expect(asked).to_be_empty()
        expect(page.locator("#checks")).to_contain_text("Everything fits together")
        expect(page.locator("#card-tabs")).not_to_contain_text("to mend")
        (shelf,) = [{paper.name: (paper.sheet, paper.kind) for paper in Paper.objects.filter(owner__username=NAME)}]
        letter = ("letter", "card")
        self.assertEqual(shelf, {"Lagoon": letter, "Sand": letter, "Shell waves": ("12x12", "patterned")})
        self.click("On to the count")
        page.get_by_label("Participants").fill("12")
        self.actions += 1
        expect(page.locator("#tally")).to_contain_text("13 cards")
        self.click("On to the fit")
        expect(page.locator("main")).to_contain_text("proven")
        expect(page.get_by_role("link", name="On to the trimmer")).to_be_visible()
        self.click("On to the trimmer")
        expect(page.locator(".steps li").first).to_contain_text("Rail to")
        expect(page.get_by_role("button", name="Print this page")).to_be_visible()
        self.assertLess(self.actions, 60)
        print(f"\nFrom an empty account to the steps: {self.actions} keys and clicks beyond the text")

    def test_everything_goes_along_to_an_empty_zester_object_by_object(self):
        make_paper(self.user)
        card_class = make_class(self.user, "card 4¼ x 5½ side fold\nBase brass\nMat 4 x 5 brass # keep", participants=3)
        fitted(card_class)
        keep_photo(Card.objects.get(), photo())
        before = rows(self.user)
        self.sign_in()
        page = self.page
        page.get_by_title("Your account").click()
        page.get_by_role("link", name="Save everything you have here").click()
        self.check_accessible()
        page.get_by_role("button", name="Save everything", exact=True).click()
        with page.expect_download() as saved:
            page.get_by_role("link", name="Save it").click()
        file = Path(tempfile.mkdtemp()) / saved.value.suggested_filename
        saved.value.save_as(file)
        # Another house: nobody and nothing is there but somebody new.
        get_user_model().objects.all().delete()
        self.assertFalse(any(kind.model._base_manager.exists() for kind in KINDS))
        other = get_user_model().objects.create_user("mira", password="kite-tail-9")
        page.goto(f"{self.live_server_url}/sign-in/")
        expect(page.get_by_label("Name", exact=True)).to_be_focused()
        self.sign_in()
        page.goto(f"{self.live_server_url}/archive/")
        page.get_by_label("The ZIP file").set_input_files(file)
        page.get_by_role("button", name="Bring it in").press("Enter")
        expect(page.get_by_text("Brought in: 1 class, 1 design, 1 paper, 0 tools")).to_be_visible()
        after = rows(other)
        for name, things in each_of(before.items()):
            with self.subTest(kind=name):
                # When it was counted and written down last is another thing here.
                for thing in (*things, *after[name]):
                    thing.pop("counted_at", None)
                    thing.pop("changed_at", None)
                self.assertEqual(after[name], things)
        page.get_by_role("link", name="Your classes").click()
        page.get_by_role("link", name="Evening").first.click()
        expect(page.locator("#strip [data-paper]")).to_have_attribute("data-state", re.compile("proven|polished"))

    def test_a_forgotten_password_is_mended_by_the_mail_and_the_account_deleted(self):
        self.user.email = "mira@example.org"
        self.user.save()
        make_class(self.user, "Base 8½ x 5½ brass")
        mails = tempfile.mkdtemp()
        backend = "django.core.mail.backends.filebased.EmailBackend"
        page = self.page
        with override_settings(DEMO=True, EMAIL_BACKEND=backend, EMAIL_FILE_PATH=mails):
            page.goto(f"{self.live_server_url}/sign-in/")
            page.get_by_role("link", name="Forgotten your password?").click()
            page.get_by_label("Mail address").fill("mira@example.org")
            page.keyboard.press("Enter")
            page.get_by_role("link", name="the mail is shown here").click()
            self.check_accessible()
            page.locator("main a[href*='/sign-in/forgotten/']").first.click()
            for field in page.locator("input[type=password]").all():
                field.fill("chalk-cliff-77")
            page.keyboard.press("Enter")
            expect(page.get_by_text("The password is changed")).to_be_visible()
        self.sign_in(password="chalk-cliff-77")
        page.get_by_title("Your account").click()
        page.get_by_text("Delete this account").click()
        page.get_by_role("group").get_by_label("Your password").fill("chalk-cliff-77")
        page.get_by_role("button", name="Delete everything").press("Enter")
        expect(page.get_by_text("Your account and everything in it are gone")).to_be_visible()
        self.assertFalse(CardClass.objects.exists())
