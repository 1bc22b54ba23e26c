"""The sheets are always current: with the real server, its workers, two tabs, and a worker that is killed."""

from __future__ import annotations

import os
import re
import signal
import time

from playwright.sync_api import expect

from tests.served.real import RealServerTests
from zester.core.tests.share import each_of

EVENING = "Stargazer Card Evening"
# Sizes in thirty-seconds that no one could prove quickly.
HARD = [(2 + k % 3, 3 + 2 * k, 1 + k % 4, 5 + 3 * k) for k in range(14)]
WORKING = (
    "select w.worker from fits_work w join fits_paperfit f on f.id = w.fit_id join classes_classpaper p on"
    " p.id = f.class_paper_id join classes_cardclass c on c.id = p.card_class_id"
    " where c.title = 'Hard Evening' and w.status = 'working'"
)


class CurrentTests(RealServerTests):
    def open_desk(self, page=None, card: str = "A"):
        """The desk of a card of the evening, once its strip is settled."""
        page = page or self.page
        (key,) = self.rows("select id from classes_cardclass where title = ?", EVENING)[0]
        page.goto(f"{self.base}/classes/{key}/design/{card}/")
        page.wait_for_function(
            "() => { const all = [...document.querySelectorAll('#strip [data-paper]')];"
            " return all.length && all.every((p) => ['proven', 'polished', 'short'].includes(p.dataset.state)); }"
        )
        return page

    def wait_for_quiet(self) -> None:
        """No better plan is on its way for any paper."""
        waiting = (
            "select 1 from fits_work where kind in ('quick', 'prove', 'polish') and status in ('waiting', 'working')"
        )
        self.wait_for(lambda: self.rows(waiting), [])

    def entry(self, name: str, page=None):
        """A paper of the strip."""
        return (page or self.page).locator("#strip [data-paper]", has_text=name)

    def replace(self, old: str, new: str) -> None:
        """Select something in the list and type over it."""
        self.page.evaluate(
            "(old) => { const list = document.getElementById('cut-list'); list.focus();"
            " const at = list.value.indexOf(old); list.setSelectionRange(at, at + old.length); }",
            old,
        )
        self.page.keyboard.type(new, delay=30)

    def test_typing_changes_the_strip_undo_brings_it_back_and_both_tabs_see_it(self):
        page = self.open_desk()
        other = self.open_desk(self.new_page())
        moon, rays = self.entry("Chalk Moon"), self.entry("Brass Rays")
        before, rays_before = moon.get_attribute("data-plan"), rays.get_attribute("data-plan")
        sheets = int(moon.get_attribute("data-sheets"))
        # The inside panels of twenty-nine cards, twice as many: seven more come to a few sheets more.
        self.replace("Inside panel  3½ x 4¾", "3 Inside panel  3½ x 4¾")
        expect(moon).not_to_have_attribute("data-plan", before)
        expect(moon).to_have_attribute("data-state", re.compile("proven|polished"))
        more = int(moon.get_attribute("data-sheets")) - sheets
        self.assertGreater(more, 5)
        expect(moon.locator("[data-delta]")).to_have_text(f"+{more}")
        # Another paper was not touched; the other tab shows the same sheets.
        self.assertEqual(rays.get_attribute("data-plan"), rays_before)
        expect(self.entry("Chalk Moon", other)).to_have_attribute("data-sheets", str(sheets + more))
        expect(page.locator("#thread")).to_contain_text("sheets")
        self.check_accessible()
        for _ in range(40):
            if "\nInside panel  3½ x 4¾" in page.locator("#cut-list").input_value():
                break
            page.keyboard.press("Control+z")
        expect(moon).to_have_attribute("data-plan", before)
        expect(moon.locator("[data-delta]")).to_have_text("")

    def test_a_count_changes_all_papers_and_a_page_left_alone_follows(self):
        page = self.open_desk()
        wall = self.new_page()
        wall.goto(page.url.replace("design/A/", "fit/"))
        before = int(wall.locator(".totals dd").first.inner_text())
        page.goto(page.url.replace("design/A/", "count/"))
        page.get_by_label("Participants").fill("1")
        expect(page.locator("#tally")).to_contain_text("not named yet: 1 × 2")
        expect(wall.locator(".totals dd").first).not_to_have_text(str(before))
        expect(wall.locator(".wall-paper.waiting")).to_have_count(0)
        self.assertGreater(int(wall.locator(".totals dd").first.inner_text()), before)
        page.get_by_label("Participants").fill("0")
        expect(wall.locator(".totals dd").first).to_have_text(str(before))

    def test_a_new_name_and_another_stock_make_no_plan_old(self):
        page = self.open_desk()
        self.wait_for_quiet()
        self.open_desk()
        papers = page.locator("#strip li").all()[:8]
        plans = {each.get_attribute("data-paper"): each.get_attribute("data-plan") for each in papers}
        (pk, key) = self.rows("select id, key from shelf_paper where name = 'Ember Dust'")[0]
        try:
            self.rename_and_stock(page, pk)
            self.see_it_short(page, key, plans)
        finally:
            self.as_it_was(page, pk)

    def rename_and_stock(self, page, pk: int) -> None:
        """Ember Dust has another name, and only twenty sheets."""
        page.goto(f"{self.base}/shelf/{pk}/")
        page.get_by_label("Name", exact=True).fill("Glowing Ash")
        page.get_by_label("only what is on hand").check()
        page.get_by_label("Sheets on hand").fill("20")
        page.get_by_role("button", name="Save").click()

    def see_it_short(self, page, key: str, plans: dict) -> None:
        """It is said to be short under its new name, and every plan is the one it was."""
        expect(page.get_by_text("Lists that say Ember Dust still mean it")).to_be_visible()
        (class_key,) = self.rows("select id from classes_cardclass where title = ?", EVENING)[0]
        page.goto(f"{self.base}/classes/{class_key}/design/B/")
        ash = self.entry("Glowing Ash")
        expect(ash).to_have_attribute("data-state", "short")
        self.wait_for_quiet()
        for entry in each_of(page.locator("#strip [data-paper]").all()):
            paper = entry.get_attribute("data-paper")
            self.assertEqual(entry.get_attribute("data-plan"), plans[paper], paper)
        expect(page.locator("#readings")).to_contain_text("Glowing Ash")
        self.assertIn("ember dust", page.locator("#cut-list").input_value())
        page.goto(f"{self.base}/classes/{class_key}/fit/{key}/")
        expect(page.get_by_role("alert")).to_contain_text("Glowing Ash runs out: 6 sheets short")
        self.check_accessible()

    def as_it_was(self, page, pk: int) -> None:
        """Its first name, bought as needed: for the other journeys, whatever came of this one."""
        page.goto(f"{self.base}/shelf/{pk}/")
        page.get_by_label("Name", exact=True).fill("Ember Dust")
        page.get_by_label("buy as needed").check()
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_text("Lists that say Glowing Ash still mean it")).to_be_visible()

    def test_a_worker_killed_in_the_middle_of_a_fit_leaves_nothing_working(self):
        page = self.page
        page.get_by_role("link", name="Plan a class").first.click()
        page.get_by_label("What is it called?").fill("Hard Evening")
        page.get_by_role("button", name="Go to the cards").click()
        page.get_by_role("link", name="class settings").click()
        page.get_by_label("Measured in").select_option("in32")
        page.get_by_role("button", name="Save", exact=True).click()
        page.get_by_label("What is the first card called?").fill("Many sizes")
        page.keyboard.press("Enter")
        self.at_the_list()
        lines = [
            f"{7 + k % 5} Tag {a} {b % 31 + 1}/32 x {c} {d % 31 + 1}/32 star chart"
            for k, (a, b, c, d) in enumerate(HARD)
        ]
        page.keyboard.insert_text("\n".join(lines))
        chart = self.entry("Star Chart")
        expect(chart).to_have_attribute("data-plan", re.compile(r"\d"))
        # Whoever works on it is killed.
        until = time.monotonic() + 60
        while not (working := self.rows(WORKING)):
            self.assertLess(time.monotonic(), until, "nobody works on it")
            time.sleep(0.05)
        dead = working[0][0]
        os.kill(int(dead.rsplit("-", 2)[1]), signal.SIGKILL)
        # Nothing is said to be worked on by the dead one.
        left = "select 1 from fits_work where status = 'working' and worker = ?"
        self.wait_for(lambda: self.rows(left, dead), [])
        expect(chart).to_have_attribute("data-state", re.compile("proven|polished"))
        # A new one has come in its place.
        self.wait_for(lambda: len(self.workers()), 2)

    def test_the_wall_on_a_tablet_and_everything_printed_a_page_a_paper(self):
        page = self.open_desk()
        page.set_viewport_size({"width": 820, "height": 1180})
        page.goto(page.url.replace("design/A/", "fit/"))
        expect(page.locator(".wall-paper")).to_have_count(8)
        self.assertLess(page.evaluate("document.documentElement.scrollHeight"), 1900)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 820)
        self.check_accessible()
        page.goto(page.url.replace("fit/", "fit/print/"))
        expect(page.locator(".print-page")).to_have_count(8)
        self.check_accessible()
        pages = re.findall(rb"/Type\s*/Page\b", page.pdf(format="Letter", print_background=True))
        self.assertEqual(len(pages), 8)
