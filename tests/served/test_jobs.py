"""A card with jobs at three times, each seen where it is done; steps moved, a class taught, a hand-out printed."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.served.real import RealServerTests

JOBS = "embossed cloud folder before class by Finn, washed in class 3 min, dry first, coloured at home"
LIST = f"""card 4¼ x 5½ side fold
Base  telescope brass
Panel  4 x 5¼  chalk moon  {JOBS}
Bird  1 x 1  ember dust  cut out by hand  left ½
+ envelope"""
PHONE = {"width": 390, "height": 780}


class JobsTests(RealServerTests):
    def go(self, address: str) -> None:
        self.page.goto(f"{self.base}/classes/{self.key}/{address}")

    def test_three_jobs_at_three_times(self):
        self.a_card_is_written()
        self.each_job_stands_where_it_is_done()
        self.a_step_is_moved_by_key_and_by_hand()
        self.the_class_is_taught_and_a_phone_follows()
        self.the_hand_out_is_printed()

    def a_card_is_written(self) -> None:
        page = self.page
        page.goto(f"{self.base}/classes/new/")
        page.get_by_label("What is it called?").fill("Three Jobs")
        page.get_by_label("How many come?").fill("6")
        page.get_by_role("button", name="Go to the cards").click()
        page.wait_for_url("**/classes/*/design/**")
        self.key = re.search(r"/classes/(\d+)/", page.url)[1]
        page.get_by_label("What is the first card called?").fill("Jobs")
        page.keyboard.press("Enter")
        page.wait_for_url("**/design/A/")
        page.locator("#cut-list").fill(LIST)
        expect(page.locator("#drawing [data-piece=A3]")).to_be_visible()
        expect(page.locator("#drawing .cut-out").first).to_be_attached()
        self.wait_for(
            lambda: self.rows("select n_pieces from classes_cardclass where id = ?", self.key)[0][0] > 0, True
        )

    def each_job_stands_where_it_is_done(self) -> None:
        page = self.page
        planned = (
            "select count(*) from fits_paperfit f join classes_classpaper p on p.id = f.class_paper_id"
            " where p.card_class_id = ? and f.shown_id is not null"
        )
        self.wait_for(lambda: self.rows(planned, self.key)[0][0], 3)
        self.go("cut/evening/")
        expect(page.get_by_role("cell", name=re.compile(r"emboss, with Cloud folder: \d+ A2 Panel"))).to_contain_text(
            "by Finn"
        )
        expect(page.get_by_text("wash with colour")).to_have_count(0)
        self.check_accessible()
        self.go("pack/evening/")
        expect(page.get_by_text("A2 Panel: wash with colour")).to_contain_text("dries about 20 min")
        expect(page.get_by_text("Until A is dry")).to_be_visible()
        expect(page.get_by_text("emboss", exact=False)).to_have_count(0)
        at_home = page.get_by_role("heading", name="At home").locator("xpath=following-sibling::ul")
        expect(at_home).to_have_text("A2 Panel: colour")
        self.check_accessible()
        self.go("pack/hand-out/?card=A")
        ready = page.locator(".ho-ready")
        expect(ready).to_contain_text("A2 Panel: emboss, with Cloud folder (by Finn)")
        steps = page.locator(".ho-steps li")
        expect(steps.first).to_contain_text("A2 Panel: wash with colour; set it aside to dry")
        expect(steps.last).to_contain_text("(at home)")
        self.go("pack/")
        page.locator('a[href*="/pack/bags/"]').first.click()
        expect(
            page.get_by_text("embossed before class by Finn · washed in class, dry first · coloured at home").first
        ).to_be_visible()

    def a_step_is_moved_by_key_and_by_hand(self) -> None:
        page = self.page
        self.go("pack/hand-out/A/steps/")
        rows = page.locator("[data-step] .what")
        before = rows.all_inner_texts()
        field = page.get_by_label(re.compile("^Glue A2 Panel"))
        field.focus()
        page.keyboard.press("Alt+ArrowUp")
        moved = rows.all_inner_texts()
        self.assertEqual(
            moved.index("Glue A2 Panel on the front, in the middle") + 1,
            before.index("Glue A2 Panel on the front, in the middle"),
        )
        # Back again with the handle, by hand.
        grip, below = page.locator("[data-grip]"), moved.index("Glue A2 Panel on the front, in the middle")
        box, other = grip.nth(below).bounding_box(), grip.nth(below + 1).bounding_box()
        page.mouse.move(box["x"] + 5, box["y"] + 5)
        page.mouse.down()
        page.mouse.move(other["x"] + 5, other["y"] + other["height"] + 12, steps=6)
        page.mouse.up()
        self.assertEqual(rows.all_inner_texts(), before)
        page.get_by_label(re.compile("^Fold A1 Base")).fill("Fold it sharply")
        page.get_by_role("button", name="Add a step of my own").click()
        page.keyboard.type("Sign it on the back")
        page.get_by_role("button", name="Save").last.click()
        expect(page.get_by_text("Kept with the design.")).to_be_visible()
        self.check_accessible()
        self.go("pack/hand-out/?card=A")
        expect(page.locator(".ho-steps")).to_contain_text("Fold it sharply")
        expect(page.locator(".ho-steps li").last).to_contain_text("Sign it on the back")

    def the_class_is_taught_and_a_phone_follows(self) -> None:
        page = self.page
        page.get_by_role("button", name="Switch it on").click()
        address = page.locator(".ho-address a").inner_text()
        phone = self.new_context(viewport=PHONE)
        theirs = phone.new_page()
        theirs.goto(address)
        self.go("pack/evening/")
        page.get_by_role("link", name="Teach from it").click()
        expect(page.locator(".teach-step")).to_contain_text("wash with colour")
        page.get_by_role("button", name="Start a timer of 20 min").click()
        expect(page.locator("[data-timers] li")).to_contain_text("A dries: 19:")
        self.check_accessible()
        page.keyboard.press("ArrowRight")
        expect(page.locator(".teach-step")).to_contain_text("Wait")
        expect(page.locator("[data-timers] li")).to_have_count(1)
        page.keyboard.press("PageDown")
        expect(page.locator(".teach-step")).to_contain_text("cut out by hand")
        expect(theirs.locator("#now")).to_contain_text("cut out by hand")
        self.assertLessEqual(theirs.evaluate("document.documentElement.scrollWidth"), PHONE["width"])
        page.get_by_label("A note to this step").fill("sharper knives")
        page.get_by_role("button", name="Note it").click()
        expect(page.get_by_text("Noted with A")).to_be_visible()
        page.get_by_role("button", name="The class is over").click()
        page.wait_for_url("**/pack/evening/")
        expect(theirs.locator("#now")).to_be_empty()
        self.leave(phone)
        self.go("design/A/")
        expect(page.get_by_text("sharper knives")).to_be_visible()

    def the_hand_out_is_printed(self) -> None:
        asked = f"{self.base}/classes/{self.key}/pack/hand-out.pdf?page=letter"
        self.page.goto(asked)
        self.page.wait_for_url("**/prints/*/file/")
        answer = self.page.request.get(asked)
        self.assertEqual((answer.status, answer.headers["content-type"]), (200, "application/pdf"))
        self.page.goto(self.base)
