"""Two papers of the demo cut to the end on a tablet: taps and keys, a closed browser, a lost line, a spoiled piece."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.served.real import RealServerTests

EVENING = "Stargazer Card Evening"
TABLET = {"width": 1180, "height": 820}


class TabletTests(RealServerTests):
    """Star Chart and Pine Ridge."""

    def open_tablet(self) -> None:
        """A tablet, signed in; what a browser kept is kept only within it."""
        self.leave(self.context)
        self.context = self.new_context(viewport=TABLET, has_touch=True, storage_state=self.kept)
        self.page = self.new_page()

    def bench(self, name: str) -> None:
        """The bench of a paper, begun if it is not."""
        page = self.page
        page.goto(f"{self.base}/classes/{self.class_key}/cut/{self.key_of(name)}/")
        begin = page.get_by_role("button", name="Begin at the bench")
        if begin.count():
            begin.tap()
        else:
            page.get_by_role("link", name="To the bench").tap()
        expect(page.get_by_role("button", name="Done, next")).to_be_enabled()

    def key_of(self, name: str) -> str:
        return self.rows("select key from shelf_paper where name = ?", name)[0][0]

    def on_hand(self, name: str) -> int:
        return self.rows("select on_hand from shelf_paper where name = ?", name)[0][0]

    def run_of(self, name: str) -> tuple[int, int, int]:
        """Number of the newest run, how many of its steps are done, how many it has."""
        return self.rows(
            "select r.number, r.done, json_array_length(r.steps, '$.kept') from bench_run r"
            " join fits_paperfit f on f.id = r.fit_id join classes_classpaper c on c.id = f.class_paper_id"
            " join shelf_paper p on p.id = c.paper_id"
            " where p.name = ? order by r.number desc limit 1",
            name,
        )[0]

    def wait_done(self, name: str, done: int) -> None:
        """The server knows that so many steps are done."""
        self.wait_for(lambda: self.run_of(name)[1], done)

    def steps_on(self, number: int) -> None:
        """So many steps on, by keys; the page's scripts are there when its button can be pressed."""
        expect(self.page.get_by_role("button", name="Done, next")).to_be_enabled()
        for _ in range(number):
            self.page.keyboard.press("Space")

    def close(self, name: str) -> None:
        """Put a dialog away; a tap becomes a click by and by, and what is pressed before goes to the dialog."""
        self.page.get_by_role("button", name=name, exact=True).tap()
        expect(self.page.locator("dialog[open]")).to_have_count(0)

    def where(self):
        return self.page.locator("#where")

    def test_two_papers_are_cut_to_the_end(self):
        self.class_key = self.rows("select id from classes_cardclass where title = ?", EVENING)[0][0]
        self.kept = self.context.storage_state()
        self.open_tablet()
        self.by_keys_and_taps_with_a_closed_browser()
        self.with_a_lost_line_and_a_second_tab()
        self.something_is_spoiled()
        self.book("Star Chart")
        self.the_other_paper_by_keys()
        self.book("Pine Ridge")
        self.the_log_is_right()
        self.page.goto(self.base)

    def by_keys_and_taps_with_a_closed_browser(self) -> None:
        page = self.page
        self.bench("Star Chart")
        expect(self.where()).to_have_text(f"Step 1 of {self.run_of('Star Chart')[2]}")
        self.check_accessible()
        page.get_by_role("button", name="Done, next").tap()
        expect(self.where()).to_contain_text("Step 2 of")
        page.keyboard.press("ArrowRight")
        self.steps_on(2)
        page.keyboard.press("ArrowLeft")
        expect(self.where()).to_contain_text("Step 4 of")
        self.wait_done("Star Chart", 3)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), TABLET["width"])
        # A pedal is a key, chosen by pressing it.
        page.get_by_role("button", name="Pedal and voice").tap()
        page.get_by_role("button", name="Choose a pedal for next").tap()
        page.keyboard.press("b")
        expect(page.locator("#pedal-next")).to_have_text("key “b”")
        self.close("Close")
        page.keyboard.press("b")
        self.wait_done("Star Chart", 4)
        # The tapped button does not have the focus again: Space is the next step.
        page.keyboard.press("Space")
        self.wait_done("Star Chart", 5)
        page.keyboard.press("ArrowLeft")
        self.wait_done("Star Chart", 4)
        # The browser is closed in the middle; another one goes on where this one was.
        self.open_tablet()
        self.bench("Star Chart")
        expect(self.where()).to_contain_text("Step 5 of")

    def with_a_lost_line_and_a_second_tab(self) -> None:
        page = self.page
        other = self.new_page()
        other.goto(page.url)
        expect(other.locator("#where")).to_contain_text("Step 5 of")
        self.set_line(page, other, lost=True)
        self.steps_on(3)
        expect(self.where()).to_contain_text("Step 8 of")
        expect(page.locator("#line")).to_contain_text("kept here")
        self.assertEqual(self.run_of("Star Chart")[1], 4)
        self.set_line(page, other)
        self.wait_done("Star Chart", 7)
        # Who looks from another tab sees it.
        expect(other.locator("#where")).to_contain_text("Step 8 of")
        other.close()
        # What waits outlives the browser: closed without a line, opened with one.
        self.set_line(page, lost=True)
        self.steps_on(1)
        expect(page.locator("#line")).to_contain_text("kept here")
        self.kept = self.context.storage_state()
        self.open_tablet()
        self.bench("Star Chart")
        expect(self.where()).to_contain_text("Step 9 of")
        self.wait_done("Star Chart", 8)
        # What the browser says about a lost line is no fault of the page.
        self.errors = [error for error in self.errors if "ERR_INTERNET_DISCONNECTED" not in error]

    def something_is_spoiled(self) -> None:
        page = self.page
        # Whoever was signed out meanwhile is told so.
        cookies = self.context.cookies()
        self.context.clear_cookies(name="sessionid")
        page.get_by_role("button", name="Something went wrong").tap()
        expect(page.locator("#wrong")).to_contain_text("You are signed out here: sign in again in another tab.")
        self.context.add_cookies(cookies)
        self.close("Nothing, close")
        self.errors = [error for error in self.errors if "401" not in error]
        number, done, of = self.run_of("Star Chart")
        # Three taps, on a slow line the first while the last steps are still on their way.
        self.set_line(page, late=1500)
        self.steps_on(of - done - 1)
        page.get_by_role("button", name="Something went wrong").tap()
        expect(page.locator("#wrong fieldset").first).to_be_visible()
        self.assertEqual(self.run_of("Star Chart")[1], of - 1)
        self.set_line(page)
        self.check_accessible()
        page.locator("#wrong .tap", has_text="Panel").first.tap()
        page.locator("#wrong .numbers .tap").first.tap()
        page.get_by_role("button", name="3. Find another way").tap()
        expect(page.get_by_text("Noted:")).to_be_visible(timeout=60_000)
        self.assertEqual(self.run_of("Star Chart")[0], number + 1)
        _, _, of = self.run_of("Star Chart")
        self.assertGreater(of, 0)
        self.steps_on(of)
        self.wait_done("Star Chart", of)
        expect(page.get_by_role("heading", name="Star Chart: every step is done")).to_be_visible()

    def the_other_paper_by_keys(self) -> None:
        self.bench("Pine Ridge")
        of = self.run_of("Pine Ridge")[2]
        self.steps_on(of)
        self.wait_done("Pine Ridge", of)

    def book(self, name: str) -> None:
        """Counted out and booked: the sheets are gone, the offcuts are there."""
        page = self.page
        page.get_by_role("link", name="Count out and book").tap()
        expect(page.get_by_role("button", name="All of it is cut")).to_be_visible()
        kept = page.locator(".keep-offcuts input[type=number]")
        wanted = sum(int(each.input_value()) for each in kept.all())
        before = self.on_hand(name)
        lay = self.left_over(name)
        page.get_by_role("button", name="All of it is cut").tap()
        expect(page.get_by_text(f"{name} is cut, and booked on the shelf.")).to_be_visible()
        used = before - self.on_hand(name)
        self.assertEqual(used, self.rows("select sheets from bench_cutlog where paper = ?", name)[0][0])
        self.assertGreaterEqual(used, 10)
        self.assertEqual(self.left_over(name) - lay, wanted)

    def left_over(self, name: str) -> int:
        """How many offcuts of a paper went back on the shelf so far."""
        rows = self.rows(
            "select sum(e.count) from shelf_entry e join shelf_paper p on p.id = e.paper_id"
            " where p.name = ? and e.kind = 'left'",
            name,
        )
        return rows[0][0] or 0

    def the_log_is_right(self) -> None:
        page = self.page
        page.goto(f"{self.base}/cut/log/")
        rows = page.locator("main table tbody tr")
        expect(rows.filter(has_text="Star Chart")).to_contain_text("1 ×")
        expect(rows.filter(has_text="Pine Ridge")).to_contain_text("–")
        self.check_accessible()
        for address in ("cut/evening/", "cut/together/", "cut/print/", f"cut/{self.key_of('Brass Rays')}/rehearsal/"):
            page.goto(f"{self.base}/classes/{self.class_key}/{address}")
            self.check_accessible()
