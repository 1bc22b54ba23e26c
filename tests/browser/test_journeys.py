"""Whole journeys of the people Zester is for."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTests
from tests.demo import load_demo
from tests.people import fitted, make_class, make_paper
from zester.core.tests.share import each_of
from zester.site.context import DEMO_PASSWORD, DEMO_USER


class DesignerTests(BrowserTests):
    def test_another_plan_is_asked_for_taken_and_a_layout_pinned(self):
        paper = make_paper(self.user)
        card_class = make_class(
            self.user,
            "Mat 4 x 5¼ brass middle 3 x 4\n3 Tag 2⅛ x 2¾ brass\nMoon 2 x 2 brass from a middle",
            participants=7,
        )
        fitted(card_class)
        self.sign_in()
        page = self.page
        page.goto(f"{self.live_server_url}/classes/{card_class.pk}/fit/")
        page.locator(".thumbs a").first.press("Enter")
        page.wait_for_url(f"**/fit/{paper.key}/#layout-1")
        # Some twenty fits run before this page comes back; on a slow machine that takes a while.
        page.set_default_timeout(90_000)
        page.get_by_role("button", name="Look for other plans").press("Enter")
        page.get_by_text("Free seats:").wait_for()
        expect(page.get_by_role("img", name="Minutes at the trimmer by sheets")).to_be_visible()
        self.check_accessible()
        page.get_by_role("button", name="Take this plan: Everybody’s own sheets").click()
        # The page says so for good; the words that it is done now may be gone again with what comes in meanwhile.
        expect(page.get_by_text("This plan is taken by hand")).to_be_visible()
        expect(page.locator(".plans tr.here")).to_contain_text("Everybody’s own sheets")
        # What is drawn of a hidden middle is to the scale of the sheets.
        sheet = page.locator("figure.layout svg").first.bounding_box()["width"]
        for drawing in each_of(page.locator("figure.layout", has_text="taken out af").locator("svg").all()):
            self.assertAlmostEqual(drawing.bounding_box()["width"] / sheet, 4 / 8.5, delta=0.02)
        page.get_by_role("button", name="Pin layout 1").press("Enter")
        expect(page.locator(".pinned")).to_have_count(1)
        self.check_accessible()

    def test_from_a_new_card_to_the_first_cut(self):
        load_demo()
        page = self.page
        self.sign_in(DEMO_USER, DEMO_PASSWORD)
        page.get_by_role("link", name="Stargazer Card Evening").click()
        self.add_card("Meteor Night")
        # Typed by the keys, one line wrong.
        self.type_lines("Base 8½ x 5½ midnight dome score 4 1/4\n2 Tail ½ x 5.3 brass rays\nMat 4 by 5-1/4 chalk moon")
        expect(page.locator("#readings li")).to_have_count(3)
        # Of a list one: until the last line is whole it asks for its paper, too.
        expect(page.locator("#readings .bad")).to_contain_text(["“5.3” is not on the ruler"])
        expect(page.locator("#readings .bad")).to_contain_text("5¼ and 5\u200a5⁄16 in")
        expect(page.locator("#thread")).to_contain_text("1 line to mend")
        expect(page.locator("#card-tabs")).to_contain_text("1 to mend")
        # Mended by the keys: up one line, to where 5.3 ends, and over it.
        page.keyboard.press("ArrowUp")
        page.keyboard.press("Home")
        for _ in "2 Tail ½ x 5.3":
            page.keyboard.press("ArrowRight")
        page.keyboard.press("Backspace")
        self.type_lines("25")
        expect(page.locator("#readings .bad")).to_have_count(0)
        expect(page.locator("#readings li").nth(1)).to_contain_text("H2")
        expect(page.locator("#readings li").nth(1)).to_contain_text("2 × Tail, ½ × 5¼ in")
        self.check_accessible()
        # What was typed survives leaving the page.
        page.reload()
        expect(page.locator("#cut-list")).to_have_value(
            "Base 8½ x 5½ midnight dome score 4 1/4\n2 Tail ½ x 5.25 brass rays\nMat 4 by 5-1/4 chalk moon"
        )
        # Count: two in each of sixteen sets and the sample, as the other cards say.
        page.get_by_role("link", name="On to the count").click()
        expect(page.locator("#tally")).to_contain_text("191 cards")
        page.get_by_label("Each of Meteor Night").fill("1")
        expect(page.locator("#tally")).to_contain_text("177 cards")
        page.get_by_role("row", name=re.compile("^H3")).locator("summary").click()
        words = "full kit: 10 × 1 + card stock cut: 3 × 1 + to give away: 1 × 1 + 1 sample = 15 cards"
        expect(page.locator("#tally")).to_contain_text(words)
        self.check_accessible()
        # The sheets are simply there; the new pieces are on them.
        page.get_by_role("link", name="On to the fit").click()
        page.get_by_role("link", name="On to the trimmer").wait_for()
        self.check_accessible()
        page.get_by_role("link", name="Brass Rays", exact=True).click()
        expect(page.locator('svg [data-piece="H2"]').first).to_be_attached()
        row = page.locator('.piece-list [data-piece="H2"]')
        row.hover()
        expect(page.locator('svg [data-piece="H2"]').first).to_have_class("sheet-part lit")
        piece = page.locator('svg [data-piece="C3"]').first
        piece.focus()
        expect(page.locator('.piece-list [data-piece="C3"]')).to_have_class("lit")
        expect(row).not_to_have_class("lit")
        self.check_accessible()
        # The steps.
        page.locator(".thread a", has_text="Cut").click()
        expect(page.locator(".step").first).to_contain_text("Rail to")
        expect(page.locator(".step").first).to_contain_text("Take")
        self.check_accessible()
        page.get_by_role("link", name="Brass Rays").click()
        expect(page.get_by_role("heading", name="Cut Brass Rays")).to_be_visible()
        expect(page.locator("main")).to_contain_text("H2")

    def test_in_millimetres_on_a4(self):
        page = self.page
        self.sign_in()
        # The shelf may come first.
        page.get_by_role("link", name="Shelf").click()
        page.get_by_role("link", name="or with one of your own").click()
        page.get_by_label("Name", exact=True).fill("Chalk Cliff")
        page.get_by_label("Sheet size").select_option("a4")
        self.check_accessible()
        page.get_by_role("button", name="Put it on the shelf").click()
        page.get_by_role("link", name="Classes").click()
        page.get_by_role("link", name="Plan a class").first.click()
        page.get_by_label("What is it called?").fill("Kite Post")
        page.get_by_label("How many come?").fill("9")
        page.get_by_role("button", name="Go to the cards").click()
        page.get_by_role("link", name="class settings").click()
        page.get_by_label("Measured in").select_option("mm")
        page.get_by_label("Keep offcuts at least this wide").fill("2.5 cm")
        page.get_by_label("and at least this long").fill("80.03")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.locator("main")).to_contain_text("nearest marks are 80 and 80.1 mm")
        expect(page.get_by_label("Keep offcuts at least this wide")).to_have_value("2.5 cm")
        self.check_accessible()
        page.get_by_label("and at least this long").fill("80")
        page.get_by_role("button", name="Save", exact=True).click()
        self.add_card("Harbour Wind")
        # A4 halves to A5, which folds to A6 (ISO 216).
        self.type_lines("Base 148 x 210 chalk score 105\nMat 9.5 cm x 13.8 cm chalk\n")
        expect(page.locator("#readings li").first).to_contain_text("Base, 148 × 210 mm")
        expect(page.locator("#readings li").first).to_contain_text("scored at 105 mm from the top")
        expect(page.locator("#readings li").nth(1)).to_contain_text("95 × 138 mm")
        page.get_by_role("link", name="On to the count").click()
        page.get_by_role("link", name="On to the fit").click()
        # Ten bases are five sheets, and four mats fit a sheet: ten of them need three.
        expect(page.locator(".totals")).to_contain_text("8")
        page.get_by_role("link", name="Chalk Cliff", exact=True).click()
        expect(page.locator(".paper-block")).to_contain_text("8 sheets")
        expect(page.locator(".paper-block")).to_contain_text("fewest possible, proven")
        page.keyboard.press("4")
        expect(page.locator(".step").first).to_contain_text("mm")
        expect(page.locator("main")).to_contain_text("148 × 210 mm")

    def test_two_windows_on_one_list(self):
        make_paper(self.user)
        page = self.page
        self.sign_in()
        page.get_by_role("link", name="Plan a class").first.click()
        page.get_by_label("What is it called?").fill("Evening")
        page.get_by_role("button", name="Go to the cards").click()
        self.add_card("Comet")
        other = self.new_page()
        other.goto(page.url)
        self.type_lines("Mat 4 x 5 brass")
        expect(page.locator("#readings")).to_contain_text("Mat, 4 × 5 in")
        other.locator("#cut-list").press_sequentially("Tag 2 x 3 brass")
        expect(other.get_by_text("changed in another window")).to_be_visible()
        expect(other.locator("#cut-list")).to_have_value("Tag 2 x 3 brass")
        other.get_by_role("button", name="Keep mine").click()
        expect(other.get_by_text("changed in another window")).to_have_count(0)
        page.reload()
        expect(page.locator("#cut-list")).to_have_value("Tag 2 x 3 brass")

    def test_keys_and_undo(self):
        load_demo()
        page = self.page
        self.sign_in(DEMO_USER, DEMO_PASSWORD)
        self.check_accessible()
        page.get_by_role("link", name="Stargazer Card Evening").click()
        self.at_the_list()
        # What was typed stands there after going away and back, too, whatever the browser has kept of the page.
        page.keyboard.press("Control+End")
        page.keyboard.type(" # mine")
        expect(page.locator("#save-state")).to_have_text("Every letter is saved as you type")
        page.goto(f"{self.live_server_url}/shelf/")
        page.go_back()
        expect(page.locator("#cut-list")).to_have_value(re.compile(r"# mine\s*$"))
        self.at_the_list()
        page.keyboard.press("Alt+PageDown")
        page.get_by_role("heading", name="B · Dome at Night").wait_for()
        page.get_by_role("button", name="take it out of this class").click()
        expect(page.locator("#card-tabs")).not_to_contain_text("Dome at Night")
        page.locator(".notice").get_by_role("button", name="Undo").click()
        expect(page.locator("#card-tabs")).to_contain_text("Dome at Night")
        page.wait_for_load_state()
        page.locator("h1").click()
        page.keyboard.press("Escape")
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_be_visible()
        self.check_accessible()
        page.keyboard.press("Escape")
        page.keyboard.press("3")
        page.get_by_role("link", name="On to the trimmer").wait_for()
        page.get_by_role("link", name="Chalk Moon", exact=True).press("Enter")
        page.wait_for_url("**/fit/p*/")
        # Tab stops once a sheet; the arrow keys walk over its pieces.
        page.locator(".sheet-part").first.focus()
        page.keyboard.press("ArrowRight")
        self.assertTrue(page.evaluate("document.activeElement.previousElementSibling.matches('.sheet-part')"))
        for key, station in (("5", "pack"), ("2", "count")):
            page.keyboard.press(key)
            page.wait_for_url(f"**/{station}/")
            self.check_accessible()
        for address in ("/shelf/", "/shelf/new/", "/help/cut-list/", "/classes/new/"):
            page.goto(self.live_server_url + address)
            self.check_accessible()
