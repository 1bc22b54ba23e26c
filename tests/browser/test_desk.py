"""The design desk as a designer uses it: by the keys, in the table, in the drawing."""

from pathlib import Path

from PIL import Image
from playwright.sync_api import expect

from tests.browser.base import BrowserTests
from tests.demo import load_demo
from tests.people import make_class, make_paper
from zester.classes.models import ClassCard
from zester.designs.models import Card
from zester.site.context import DEMO_PASSWORD, DEMO_USER

LIST = "card 4¼ x 5½ side fold\nBase telescope brass\nMat ⅛ border chalk moon\nStar 1 x 1 telescope brass"


class DeskJourneys(BrowserTests):
    def setUp(self):
        super().setUp()
        self.chords = 0

    def press(self, *keys: str) -> None:
        """Keys beyond the text itself; all are counted."""
        for key in keys:
            self.chords += 1
            self.page.keyboard.press(key)

    def write(self, *lines: str) -> None:
        """Lines of text; the Enter between them counts as a chord."""
        for number, line in enumerate(lines):
            if number:
                self.press("Enter")
            self.page.keyboard.type(line)

    def open_desk(self, text: str = LIST):
        make_paper(self.user)
        make_paper(self.user, "Chalk Moon")
        card_class = make_class(self.user, text, participants=3)
        self.sign_in()
        self.page.goto(f"{self.live_server_url}/classes/{card_class.pk}/design/A/")
        self.at_the_list()
        return self.page

    def saved(self) -> str:
        """The list as it is kept, once the page says so."""
        expect(self.page.locator("#save-state")).to_have_text("Every letter is saved as you type")
        return Card.objects.get().cut_list

    def test_a_gate_fold_card_is_written_by_the_keys_mended_and_fitted(self):
        load_demo()
        page = self.page
        self.sign_in(DEMO_USER, DEMO_PASSWORD)
        page.get_by_role("link", name="Stargazer Card Evening").click()
        self.at_the_list()
        self.add_card("Observatory Doors")
        # From here on every chord beyond the text counts. Papers are taken from what is offered.
        self.write("card 4¼ x 5½ gate fold", "Base midn")
        self.press("Tab")
        self.write("", "2 Door mats ⅛ border tele")
        self.press("Tab")
        self.write("", "2 Door panels ⅛ border star")
        self.press("Tab")
        self.write("match doors", "Middle mat 4½ x 5¼ tele")
        self.press("Tab")
        self.write("", "Middle panel ⅛ border star")
        self.press("Tab")
        self.write("", "Belly band 8½ x 1 emb")
        self.press("Tab")
        self.write("", "Seal circle 2 chalk m")
        self.press("Tab")
        self.write("on band raised", "Latch 1 x 1 tele")
        self.press("Tab")
        self.write("on band left ½")
        drawing = page.locator("#drawing svg")
        expect(drawing.get_by_label("Seal, 2¼ × 2¼ in")).to_be_visible()
        checks = page.locator("#checks")
        expect(checks).to_contain_text("2 things to mend on the card")
        expect(checks).to_contain_text("Middle mat is larger than the middle it sits on")
        expect(checks).to_contain_text("Belly band is too short to go round the card")
        # The first mend of the line the caret is on, or else of the card.
        self.press("Alt+Enter")
        expect(checks).to_contain_text("1 thing to mend")
        self.press("Alt+Enter")
        expect(checks).to_contain_text("Everything fits together")
        expect(page.locator("#cut-list")).to_have_value(
            "card 4¼ x 5½ gate fold\nBase Midnight Dome \n2 Door mats ⅛ border Telescope Brass \n"
            "2 Door panels ⅛ border Star Chart match doors\nMiddle mat 4 x 5¼ Telescope Brass \n"
            "Middle panel ⅛ border Star Chart \nBelly band 9½ x 1 Ember Dust \n"
            "Seal circle 2 Chalk Moon on band raised\n"
            "Latch 1 x 1 Telescope Brass on band left ½"
        )
        # The one key for a hidden middle, and the other drawings.
        self.press("Alt+m")
        expect(page.locator("#readings [data-piece='H4']")).to_contain_text("of it are hidden")
        self.assertIn("Telescope Brass  middle 3¼ x 4½", page.locator("#cut-list").input_value())
        for label in ("Open", "Flat", "Front apart"):
            self.press("Alt+v")
            expect(page.get_by_role("button", name=label, exact=True)).to_have_attribute("aria-pressed", "true")
        expect(page.locator("#drawing")).to_contain_text("Door panels")
        self.assertLess(self.chords, 40)
        self.check_accessible()
        # The Fit station uses it.
        page.get_by_role("link", name="On to the count").press("Enter")
        page.get_by_role("link", name="On to the fit").press("Enter")
        expect(page.get_by_role("link", name="On to the trimmer")).to_be_visible()
        page.get_by_role("link", name="Star Chart", exact=True).press("Enter")
        expect(page.locator('svg [data-piece="H3"]').first).to_be_attached()
        self.assertEqual(ClassCard.objects.get(card__name="Observatory Doors").letter, "H")

    def test_lines_are_copied_moved_stepped_and_undone(self):
        page = self.open_desk()
        box = page.locator("#cut-list")
        self.press("Control+End", "Alt+Shift+ArrowDown")
        expect(box).to_have_value(f"{LIST}\nStar 1 x 1 telescope brass")
        self.press("Alt+ArrowUp", "Alt+ArrowUp")
        expect(box).to_have_value(
            "card 4¼ x 5½ side fold\nBase telescope brass\nStar 1 x 1 telescope brass\n"
            "Mat ⅛ border chalk moon\nStar 1 x 1 telescope brass"
        )
        # At the end of the line the length before the caret is stepped.
        self.press("End", "Control+ArrowUp")
        expect(page.locator("#readings [data-line='2']")).to_contain_text("1 × 1\u200a1⁄16 in")
        self.press("Control+ArrowDown", "Control+ArrowDown")
        expect(page.locator("#readings [data-line='2']")).to_contain_text("1 × 15⁄16 in")
        for _ in range(12):
            self.press("Control+z")
        expect(box).to_have_value(LIST)
        self.press("Control+y")
        expect(box).to_have_value(f"{LIST}\nStar 1 x 1 telescope brass")
        self.assertEqual(self.saved(), f"{LIST}\nStar 1 x 1 telescope brass")

    def test_words_are_offered_and_taken_or_put_away(self):
        page = self.open_desk("")
        self.write("card 4 x 4 side fold", "Base te")
        offers = page.locator("#offers")
        expect(offers.get_by_role("option")).to_have_text(["Telescope Brass"])
        self.press("Escape")
        expect(offers).to_be_hidden()
        self.write("l")
        self.press("Tab")
        expect(page.locator("#cut-list")).to_have_value("card 4 x 4 side fold\nBase Telescope Brass ")
        self.press("Control+Space")
        expect(offers.get_by_role("option")).to_have_count(2)
        self.press("ArrowDown", "ArrowDown", "ArrowUp")
        self.check_accessible()
        self.press("Escape", "Tab")
        expect(page.locator("#cut-list")).not_to_be_focused()

    def test_list_and_drawing_light_each_other_and_a_piece_is_moved_by_keys_and_by_dragging(self):
        page = self.open_desk()
        box, star = page.locator("#cut-list"), page.locator("#drawing .layer[data-piece='A3']")
        self.press("Control+End")
        expect(star).to_have_class("layer lit")
        expect(page.locator("#readings [data-piece='A3']")).to_have_class("lit")
        star.focus()
        self.press("ArrowRight", "ArrowRight", "Shift+ArrowUp")
        expect(box).to_have_value(LIST + "  left 1 5/8 top 1 5/8")
        expect(star).to_be_focused()
        self.press("Control+z")
        expect(box).to_have_value(LIST + "  left 1 5/8")
        self.press("Control+y")
        expect(box).to_have_value(LIST + "  left 1 5/8 top 1 5/8")
        expect(star).to_be_focused()
        # Whoever goes on to the list while the answer is under way stays there.
        page.evaluate(
            "document.addEventListener('htmx:afterSwap',"
            " () => document.getElementById('cut-list').focus(), {once: true})"
        )
        self.press("Control+z")
        self.assertEqual(self.saved(), LIST + "  left 1 5/8")
        expect(box).to_be_focused()
        star.focus()
        self.press("Control+y")
        expect(box).to_have_value(LIST + "  left 1 5/8 top 1 5/8")
        expect(star).to_be_focused()
        self.press("PageUp")
        expect(page.locator("#drawing .layer[data-piece='A2']")).to_be_focused()
        self.press("Enter")
        expect(box).to_be_focused()
        # Dragged a quarter of an inch to the left and half an inch down, at the drawing's own scale.
        self.saved()
        scale = page.evaluate("document.querySelector('#drawing svg').getScreenCTM().a")
        place = star.bounding_box()
        x, y = place["x"] + 10, place["y"] + 10
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x - 3 * scale, y + 6 * scale)
        page.mouse.move(x - 6.35 * scale, y + 12.7 * scale, steps=4)
        page.mouse.up()
        expect(box).to_have_value(LIST + "  left 1 3/8")
        self.assertEqual(self.saved(), LIST + "  left 1 3/8")
        self.check_accessible()

    def test_the_table_and_the_lines_stay_in_step(self):
        page = self.open_desk()
        page.get_by_role("button", name="As a table").press("Enter")
        size = page.get_by_label("Size, line 4")
        size.fill("1½ x 1½")
        size.press("Tab")
        expect(page.locator("#drawing svg").get_by_label("A3 Star, 1½ × 1½ in")).to_be_visible()
        page.get_by_label("Remark, line 4").fill("glitter it")
        page.get_by_label("Remark, line 4").press("Tab")
        self.check_accessible()
        page.get_by_role("button", name="Add a line").press("Enter")
        page.get_by_label("Paper, line 5").fill("chalk moon")
        page.get_by_label("Paper, line 5").press("Tab")
        expect(page.locator("#drawing svg").get_by_label("A4 Piece, 1 × 1 in")).to_be_visible()
        page.get_by_role("button", name="Remove line 3").press("Enter")
        expect(page.get_by_label("Name, line 4")).to_have_value("Piece")
        # Undo and redo by their keys, in a cell.
        page.get_by_label("Name, line 4").press("Control+z")
        expect(page.get_by_label("Name, line 3")).to_have_value("Mat")
        page.get_by_label("Name, line 3").press("Control+y")
        expect(page.get_by_label("Name, line 4")).to_have_value("Piece")
        page.get_by_role("button", name="As a table").press("Enter")
        wanted = LIST.replace("Star 1 x 1 telescope brass", "Star  1½ x 1½  telescope brass  # glitter it")
        wanted = wanted.replace("Mat ⅛ border chalk moon\n", "") + "\nPiece  1 x 1  chalk moon"
        expect(page.locator("#cut-list")).to_have_value(wanted)
        self.assertEqual(self.saved(), wanted)

    def test_notes_are_pasted_approved_and_taken(self):
        page = self.open_desk("")
        page.get_by_role("button", name="Paste notes…").press("Enter")
        page.get_by_label("Notes as they are").fill(
            "Telescope Brass:\n- base 8-1/2 by 5-1/2, scored at 4 1/4\n(2) mats 4 x 5.3, chalk moon\nribbon!"
        )
        expect(page.locator(".understood tbody tr")).to_have_count(4)
        expect(page.get_by_label("Take line 3")).not_to_be_checked()
        expect(page.locator(".understood")).to_contain_text("is not on the ruler")
        self.check_accessible()
        page.get_by_label("The line that line 3 makes").fill("2 Mats  4 x 5¼  Chalk Moon")
        page.get_by_label("Take line 3").check()
        page.get_by_label("Take line 4").uncheck()
        page.get_by_role("button", name="Take the ticked lines").press("Enter")
        expect(page.locator("#cut-list")).to_have_value(
            "Base  8½ by 5½  Telescope Brass  score 4¼\n2 Mats  4 x 5¼  Chalk Moon"
        )
        expect(page.locator("#drawing svg").get_by_label("A2 Mats, 4 × 5¼ in").first).to_be_visible()

    def test_a_question_is_answered_by_its_number_and_long_lines_are_read_in_full(self):
        page = self.open_desk(LIST + "\nPanel 2 x 2 star chart or telescope brass or chalk moon")
        asked = page.locator("#questions")
        expect(asked).to_contain_text("Which paper?")
        self.check_accessible()
        page.keyboard.press("Control+End")
        page.keyboard.press("Alt+2")
        expect(asked).to_be_empty()
        self.assertIn("Panel  2 x 2  from Chalk Moon", page.locator("#cut-list").input_value())
        page.keyboard.press("Enter")
        page.keyboard.insert_text(
            "Tag with a long name 1½ x 2¾ chalk moon on star left ½ bottom ¼ tilted 5 raised ⅛ "
            "stamped before class by Ines"
        )
        row = page.locator("#readings [data-piece='A5']")
        expect(row).to_contain_text("stamped before class by Ines")
        cut_off = (
            "() => [...document.querySelectorAll('#readings li, #readings .what, #readings .two, #cut-list')]"
            ".filter((e) => e.scrollWidth > e.clientWidth + 1 || e.scrollHeight > e.clientHeight + 2)"
            ".map((e) => e.textContent.trim().slice(0, 40))"
        )
        self.assertEqual(page.evaluate(cut_off), [])
        # Every answer begins where its line begins.
        tops = "(line) => document.querySelector(`#readings [data-line='${line}']`).getBoundingClientRect().top"
        high = page.evaluate("() => parseFloat(getComputedStyle(document.getElementById('cut-list')).lineHeight)")
        first, last = page.evaluate(tops, "0"), page.evaluate(tops, "5")
        self.assertAlmostEqual(last - first, 5 * high, delta=2)

    def test_keys_of_one_letter_can_be_switched_off(self):
        page = self.open_desk()
        page.get_by_role("button", name="This page").click()
        page.get_by_label("Single letters and digits are keys").uncheck()
        self.check_accessible()
        page.get_by_role("button", name="Close", exact=True).click()
        page.locator("h1").click()
        address = page.url
        page.keyboard.press("2")
        page.keyboard.press("?")
        expect(page.locator("#keys")).to_be_hidden()
        self.assertEqual(page.url, address)
        page.get_by_role("button", name="This page").click()
        page.get_by_label("Single letters and digits are keys").check()
        page.get_by_role("button", name="Close", exact=True).click()
        page.locator("h1").click()
        page.keyboard.press("2")
        expect(page.locator("#tally")).to_be_visible()

    def test_the_help_is_searched(self):
        self.sign_in()
        page = self.page
        page.get_by_role("link", name="Help").click()
        self.check_accessible()
        page.get_by_label("Look for").press_sequentially("free seats")
        expect(page.locator(".topic:visible")).to_have_count(1)
        page.get_by_label("Look for").fill("nonesuch")
        expect(page.locator("#help-found")).to_contain_text("Nothing holds all of these words")

    def test_a_drawing_is_saved_as_svg_and_as_a_picture(self):
        page = self.open_desk()
        with page.expect_download() as saved:
            page.get_by_role("link", name="SVG").click()
        self.assertIn('width="115.95mm"', Path(saved.value.path()).read_text())
        with page.expect_download() as saved:
            page.get_by_role("button", name="PNG").click()
        with Image.open(saved.value.path()) as picture:
            # 115.95 × 147.7 mm at 300 dots an inch.
            self.assertEqual(picture.size, (1369, 1744))
            middle = picture.getpixel((684, 872))
        self.assertGreater(middle[3], 0)
        self.assertEqual(saved.value.suggested_filename, "card-1-front.png")

    def test_the_library_the_tools_and_the_print_are_open_to_all(self):
        page = self.open_desk()
        card = Card.objects.get()
        for address in (
            "/designs/",
            f"/designs/{card.pk}/",
            f"/designs/{card.pk}/desk/",
            f"/designs/{card.pk}/print/",
            "/tools/",
            "/tools/new/",
        ):
            page.goto(self.live_server_url + address)
            self.check_accessible()
        # True to size on paper: the printed page is laid out in millimetres.
        page.goto(f"{self.live_server_url}/designs/{card.pk}/print/")
        page.emulate_media(media="print")
        width = page.locator(".true-size svg").first.bounding_box()["width"]
        self.assertAlmostEqual(width / 96 * 25.4, 115.95, delta=0.3)
