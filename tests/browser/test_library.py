"""Designs over several classes, the designer's tools, files and photos, by the pages themselves."""

import io
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.test import override_settings
from PIL import Image
from playwright.sync_api import expect

from tests.browser.base import BrowserTests
from tests.people import make_class, make_paper
from zester.classes.models import ClassCard
from zester.designs.models import Card

LIST = (
    "card 4¼ x 5½ side fold\nBase telescope brass\nMat ⅛ border chalk moon\nStar 1 x 1 telescope brass only stepped-up"
)


class LibraryJourneys(BrowserTests):
    def setUp(self):
        super().setUp()
        make_paper(self.user)
        make_paper(self.user, "Chalk Moon")
        self.sign_in()

    def open(self, address: str) -> None:
        self.page.goto(self.live_server_url + address)

    @contextmanager
    def scripts_held(self) -> Iterator[None]:
        """Within it no script arrives; at its end all do, one after the other."""
        held, page = [], self.page

        def hold(route) -> None:
            held.append(route)

        page.route("**/*.js", hold)
        yield
        until = time.monotonic() + 60
        while held or page.evaluate("document.readyState") == "loading":
            self.assertLess(time.monotonic(), until, "the scripts do not come")
            if held:
                held.pop().continue_()
            page.wait_for_timeout(20)
        page.unroute("**/*.js")

    def test_what_is_typed_before_the_scripts_are_there_is_saved(self):
        card_class = make_class(self.user, "Base 4 x 5 brass", participants=3)
        card, page = Card.objects.get(), self.page
        with self.scripts_held():
            page.goto(f"{self.live_server_url}/classes/{card_class.pk}/count/", wait_until="commit")
            page.get_by_label("Participants").fill("9")
        expect(page.locator("#tally")).to_contain_text("9 cards")
        with self.scripts_held():
            page.goto(f"{self.live_server_url}/designs/{card.pk}/desk/", wait_until="commit")
            expect(page.locator("#cut-list")).to_be_focused()
            page.keyboard.press("Control+End")
            page.keyboard.insert_text("\nMat 3 x 4 chalk")
        expect(page.locator("#save-state")).to_have_text("Every letter is saved as you type")
        expect(page.locator("#readings")).to_contain_text("Mat")
        card.refresh_from_db()
        self.assertIn("Mat 3 x 4 chalk", card.cut_list)

    def test_a_design_is_begun_in_the_library_and_used_in_a_class(self):
        card_class = make_class(self.user, participants=5)
        page = self.page
        page.get_by_role("link", name="Designs").click()
        expect(page.get_by_role("heading", name="No designs yet")).to_be_visible()
        page.get_by_label("Name of a new design").fill("Harbour Lights")
        page.get_by_role("button", name="Begin it").press("Enter")
        self.at_the_list()
        page.keyboard.insert_text(LIST)
        expect(page.locator("#drawing svg").get_by_label("2 Mat, 4 × 5¼ in")).to_be_visible()
        # Two versions share the list; each is drawn on request.
        expect(page.locator("#drawing svg").get_by_label("3 Star, 1 × 1 in")).to_have_count(0)
        page.get_by_label("Version").select_option("stepped-up")
        expect(page.locator("#drawing svg").get_by_label("3 Star, 1 × 1 in")).to_be_visible()
        self.check_accessible()
        page.get_by_role("link", name="notes, photos, files").click()
        page.get_by_role("button", name="Use it there").click()
        page.get_by_role("heading", name="A · Harbour Lights").wait_for()
        page.get_by_role("link", name="On to the count").click()
        expect(page.locator("#tally")).to_contain_text("6 cards, 12 pieces")
        page.get_by_label("Version of Harbour Lights").select_option("stepped-up")
        expect(page.locator("#tally")).to_contain_text("6 cards, 18 pieces")
        self.check_accessible()
        self.assertEqual(ClassCard.objects.get(card_class=card_class).version, "stepped-up")
        # Another class takes it from its own desk.
        other = make_class(self.user)
        self.open(f"/classes/{other.pk}/design/")
        page.get_by_label("or take one of your designs").select_option("Harbour Lights")
        page.get_by_role("button", name="Take it", exact=True).click()
        expect(page.locator("#cut-list")).to_have_value(LIST)

    def test_lists_are_kept_taken_in_and_brought_back(self):
        make_class(self.user, LIST)
        page = self.page
        card = Card.objects.get()
        self.open(f"/designs/{card.pk}/")
        with page.expect_download() as saved:
            page.get_by_role("link", name="XLSX").click()
        self.assertEqual(saved.value.suggested_filename, "card-1.xlsx")
        page.get_by_placeholder("Keep this list as…").fill("as taught in spring")
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.get_by_text("as taught in spring").last).to_be_visible()
        page.get_by_label("A cut list as TXT, CSV, JSON or XLSX").set_input_files(
            {"name": "other.csv", "mimeType": "text/csv", "buffer": b"name,size,paper,shine\nTag,2 x 3,brass,gloss\n"}
        )
        page.get_by_role("button", name="Take it in").click()
        # A table of another make is looked at first: a column that nobody knows has to be placed.
        expect(page.get_by_role("heading", name="What other.csv says")).to_be_visible()
        expect(page.get_by_role("cell", name="Tag, 2 × 3 in")).to_be_visible()
        self.check_accessible()
        page.get_by_role("button", name="Take it in").click()
        expect(page.get_by_text("Say what “shine” holds, or leave it out.")).to_be_visible()
        page.get_by_label("shine").select_option("remark")
        page.get_by_role("button", name="Take it in").click()
        expect(page.get_by_text("The list of other.csv is taken in")).to_be_visible()
        card.refresh_from_db()
        self.assertEqual(card.cut_list, "Tag  2 x 3  brass  # gloss")
        self.check_accessible()
        page.get_by_role("button", name="Bring back as taught in spring").click()
        card.refresh_from_db()
        self.assertEqual(card.cut_list, LIST)
        # A file that is none says so and changes nothing.
        page.get_by_label("A cut list as TXT, CSV, JSON or XLSX").set_input_files(
            {"name": "list.xlsx", "mimeType": "text/plain", "buffer": b"no workbook"}
        )
        page.get_by_role("button", name="Take it in").click()
        expect(page.get_by_text("The file is broken, or not a workbook")).to_be_visible()
        # The workbook that was saved first comes in again as the same card.
        book = Path(saved.value.path()).read_bytes()
        page.get_by_label("A cut list as TXT, CSV, JSON or XLSX").set_input_files(
            {"name": "card-1.xlsx", "mimeType": "application/octet-stream", "buffer": book}
        )
        page.get_by_role("button", name="Take it in").click()
        expect(page.get_by_text("The list of card-1.xlsx is taken in")).to_be_visible()
        card.refresh_from_db()
        self.assertEqual(card.cut_list.split(), LIST.split())

    def test_a_list_replaced_in_the_library_does_not_vanish_under_an_open_desk(self):
        card_class = make_class(self.user, LIST)
        card = Card.objects.get()
        page = self.page
        self.open(f"/classes/{card_class.pk}/design/A/")
        other = self.new_page()
        other.goto(f"{self.live_server_url}/designs/{card.pk}/")
        other.get_by_label("A cut list as TXT, CSV, JSON or XLSX").set_input_files(
            {"name": "new.txt", "mimeType": "text/plain", "buffer": b"Tag 2 x 3 brass"}
        )
        other.get_by_role("button", name="Take it in").click()
        expect(other.get_by_text("is taken in")).to_be_visible()
        page.locator("#cut-list").press("Control+End")
        page.keyboard.type(" # mine")
        expect(page.get_by_text("changed in another window")).to_be_visible()
        expect(page.locator("#cut-list")).to_have_value(LIST + " # mine")
        page.get_by_role("link", name="Take the other").click()
        expect(page.locator("#cut-list")).to_have_value("Tag 2 x 3 brass")

    def test_a_photo_and_what_went_wrong_are_remembered(self):
        card_class = make_class(self.user, LIST)
        card = Card.objects.get()
        out = io.BytesIO()
        Image.new("RGB", (300, 200), "#3f6b78").save(out, "PNG")
        page = self.page
        with tempfile.TemporaryDirectory() as folder, override_settings(MEDIA_ROOT=folder):
            self.open(f"/designs/{card.pk}/")
            page.get_by_label("A photo of the finished card, or of a part").set_input_files(
                {"name": "card.png", "mimeType": "image/png", "buffer": out.getvalue()}
            )
            page.get_by_role("button", name="Keep the photo").click()
            shown = page.get_by_role("img", name="Card 1: the finished card")
            expect(shown).to_have_js_property("naturalWidth", 300)
            page.get_by_label("What went wrong last time").fill("The foam made it too thick for the letter rate")
            page.get_by_role("button", name="Save", exact=True).click()
            self.open(f"/classes/{card_class.pk}/design/A/")
            expect(page.get_by_text("The foam made it too thick")).to_be_visible()

    def test_a_nested_set_is_listed_and_named_at_the_desk(self):
        card_class = make_class(self.user, "card 4 x 4 side fold\nBase telescope brass\n")
        page = self.page
        page.get_by_role("link", name="Tools").click()
        page.get_by_role("link", name="List the first tool").click()
        page.get_by_label("Name", exact=True).fill("Ring dies")
        page.get_by_label("Sizes, the smallest first").fill("1, 1½, 0.3")
        page.get_by_role("button", name="List it").press("Enter")
        expect(page.get_by_text("“0.3” is not on the ruler")).to_be_visible()
        self.check_accessible()
        page.get_by_label("Sizes, the smallest first").fill("1, 1½, 2¼")
        page.get_by_role("button", name="List it").press("Enter")
        expect(page.get_by_text("Ring dies is listed")).to_be_visible()
        self.check_accessible()
        self.open(f"/classes/{card_class.pk}/design/A/")
        page.locator("#cut-list").press("Control+End")
        page.keyboard.type("Moon ring d")
        page.keyboard.press("Tab")
        page.keyboard.type("3 chalk")
        expect(page.locator("#readings")).to_contain_text("circle 2¼ × 2¼ in")
        expect(page.locator("#drawing svg").get_by_label("A2 Moon, 2½ × 2½ in")).to_be_visible()

    def test_papers_have_two_sides_and_a_weight(self):
        page = self.page
        self.open("/shelf/new/")
        page.get_by_label("Name", exact=True).fill("Kite Tails")
        page.get_by_label("Kind").select_option("vellum")
        expect(page.get_by_label("Its repeat")).to_be_hidden()
        page.get_by_label("another colour or pattern").check()
        page.get_by_label("Its repeat").select_option("dots")
        page.get_by_label("Weight").fill("80 lb")
        page.get_by_role("button", name="Put it on the shelf").click()
        expect(page.get_by_text("Pounds of cover or of text?")).to_be_visible()
        self.check_accessible()
        page.get_by_label("Weight").fill("80 lb cover")
        page.get_by_role("button", name="Put it on the shelf").click()
        expect(page.get_by_text("216 g/m²")).to_be_visible()
        expect(page.get_by_role("heading", name="vellum")).to_be_visible()
