"""The kits of the demo class packed to the end by two people at once; what is short; what the participants get."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.served.real import RealServerTests

EVENING = "Stargazer Card Evening"
PHONE = {"width": 390, "height": 780}


# A scanner types within milliseconds, which a browser driven from outside on a busy machine does not.
SCAN = """text => [...text, "Enter"].forEach((key) =>
  document.body.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true })))"""


class PackingTests(RealServerTests):
    """All kits; Moon Phases is cut."""

    def go(self, address: str, page: Page | None = None) -> None:
        (page or self.page).goto(f"{self.base}/classes/{self.class_key}/{address}")

    def key_of(self, name: str) -> str:
        return self.rows("select key from shelf_paper where name = ?", name)[0][0]

    def packed(self) -> int:
        return self.rows("select count(*) from bags_mark")[0][0]

    def test_the_kits_are_packed_by_two_people(self):
        self.class_key = self.rows("select id from classes_cardclass where title = ?", EVENING)[0][0]
        self.one_paper_for_three_people()
        self.a_paper_is_cut()
        self.a_pile_is_short_and_cut_again()
        self.two_people_fill_the_bags()
        self.a_bow_is_missing()
        self.every_kit_is_closed()
        self.labels_and_hand_outs()
        self.participants_open_their_page_on_a_phone()
        self.page.goto(self.base)

    def one_paper_for_three_people(self) -> None:
        page = self.page
        self.go("instead/")
        page.get_by_label("In place of", exact=True).select_option(label="Ember Dust")
        page.get_by_label("take", exact=True).select_option(label="Telescope Brass")
        page.get_by_label("some people").check()
        for name in ("Ines Falk", "Marla Quist", "Hanno Reyl"):
            page.get_by_label(name).check()
        page.get_by_role("button", name="Take it instead").click()
        expect(page.get_by_text("Telescope Brass instead of Ember Dust")).to_be_visible()
        self.go("pack/")
        row = page.get_by_role("row").filter(has_text="with B8′")
        expect(row).to_contain_text("0 of 3")
        self.check_accessible()

    def a_paper_is_cut(self) -> None:
        """Moon Phases, to the end, and booked."""
        page, key = self.page, self.key_of("Moon Phases")
        self.go(f"cut/{key}/")
        page.get_by_role("button", name="Begin at the bench").click()
        self.steps_to_the_end()
        page.get_by_role("link", name="Count out and book").click()
        page.get_by_role("button", name="All of it is cut").click()
        expect(page.get_by_text("Moon Phases is cut, and booked on the shelf.")).to_be_visible()

    def steps_to_the_end(self) -> None:
        page = self.page
        expect(page.get_by_role("button", name="Done, next")).to_be_enabled()
        end = page.get_by_role("heading", name=re.compile("every step is done"))
        steps = self.rows("select json_array_length(steps, '$.kept') from bench_run order by id desc")[0][0]
        self.assertGreater(steps, 0)
        for _ in range(steps):
            page.keyboard.press("Space")
        expect(end).to_be_visible()
        expect(page.locator("#line")).to_have_text("")
        self.wait_for(
            lambda: self.rows("select done - json_array_length(steps, '$.kept') from bench_run order by id desc")[0][0],
            0,
        )

    def a_pile_is_short_and_cut_again(self) -> None:
        page = self.page
        self.go("pack/short/")
        self.check_accessible()
        row = page.get_by_role("row").filter(has=page.locator(".handle", has_text=re.compile(r"^B4$")))
        there = int(row.locator("td").first.inner_text().split()[0])
        row.get_by_role("textbox").fill(str(there - 1))
        page.get_by_role("button", name="Compare").click()
        expect(page.get_by_role("heading", name=f"B4 Horizon: {there - 1} of {there}")).to_be_visible()
        expect(page.get_by_text("your sample of B goes without")).to_be_visible()
        page.get_by_role("button", name="Cut it again at the bench").click()
        self.steps_to_the_end()
        self.go("pack/short/")
        expect(page.get_by_text("Cut again.")).to_be_visible()
        page.get_by_role("button", name="It is there now").click()
        expect(page.get_by_text("There again.")).to_be_visible()

    def two_people_fill_the_bags(self) -> None:
        """Each with a browser of their own, both at the pile of A, then each at other designs."""
        other_context = self.new_context(storage_state=self.context.storage_state(), viewport=PHONE)
        other, page = other_context.new_page(), self.page
        self.go("pack/")
        first = page.locator(".pack-stacks tbody tr").first
        of = int(first.locator("[data-words]").inner_text().split()[-1])
        with page.expect_navigation():
            first.get_by_role("link").click()
        other.goto(page.url)
        for each in (page, other):
            expect(each.get_by_role("button", name="Packed, next")).to_be_enabled()
        self.check_accessible()
        self.check_accessible(other)
        self.assertLessEqual(other.evaluate("document.documentElement.scrollWidth"), PHONE["width"])
        for number in range(of):
            (page, other)[number % 2].keyboard.press("Space")
        self.wait_for(self.packed, of)
        expect(page.get_by_text(f"All {of} are packed.")).to_be_visible()
        expect(other.get_by_text(f"All {of} are packed.")).to_be_visible()
        # One is taken back, and packed again.
        page.keyboard.press("ArrowLeft")
        self.wait_for(self.packed, of - 1)
        expect(other.locator("#where")).to_have_text(f"{of - 1} of {of}")
        other.keyboard.press("Space")
        self.wait_for(self.packed, of)
        self.leave(other_context)
        for _ in range(40):
            expect(page.locator("#end")).to_be_visible()
            onward = page.locator("#end [data-onward]")
            last = onward.inner_text() == "To the kits"
            onward.click()
            if last:
                break
            expect(page.get_by_role("button", name="Packed, next")).to_be_enabled()
            for _ in range(int(page.locator("#where").inner_text().split()[-1])):
                page.keyboard.press("Space")
        bags = self.rows("select n_bags from classes_cardclass where id = ?", self.class_key)[0][0]
        self.wait_for(self.packed, bags)
        expect(page.locator("[data-sum=bags]")).to_have_text(f"{bags} of {bags}")

    def a_bow_is_missing(self) -> None:
        """Found by a scan of a bag's label; a knot of thread goes in instead."""
        page = self.page
        (bag,) = self.rows("select what from bags_mark where what like 'p%-C' order by id desc limit 1")[0]
        # What a scanner types is caught by the page's scripts.
        page.wait_for_load_state()
        page.evaluate(SCAN, f"{self.base}/classes/{self.class_key}/pack/bag/{bag}/")
        expect(page.locator(f"#{bag}")).to_be_visible()
        self.check_accessible()
        self.go("pack/")
        with page.expect_navigation():
            page.locator(".pack-stacks tbody tr").filter(has_text="Brass Telescope").first.get_by_role("link").click()
        page.get_by_role("button", name="Missing tied bow").click()
        self.check_accessible()
        page.get_by_role("button", name="It is missing").click()
        expect(page.get_by_role("heading", name=re.compile(r"^tied bow: \d+ of \d+"))).to_be_visible()
        page.get_by_label("What instead").fill("a knot of brass thread")
        page.get_by_role("button", name="Put that in instead").click()
        expect(page.get_by_text("a knot of brass thread instead")).to_be_visible()

    def every_kit_is_closed(self) -> None:
        page = self.page
        self.go("pack/")
        number = page.locator(".pack-tiles li").count()
        # The gift kit is one bag, and packed with it.
        kits = page.locator(".pack-tiles li:not(.done)")
        open_kits = kits.count()
        self.assertEqual(open_kits, number - 1)
        kits.first.get_by_role("link").click()
        for closed in range(1, open_kits + 1):
            expect(page.locator("[data-kit]")).to_be_enabled()
            page.keyboard.press("Space")
            expect(page.locator("#where [data-onward]")).to_be_visible()
            if closed == 1:
                self.check_accessible()
            self.wait_for(
                lambda: self.rows("select count(*) from bags_mark where what not glob '*-[A-Z]'")[0][0], closed
            )
            # Until the next kit is there, this one's button is, too.
            with page.expect_navigation():
                page.locator("#where [data-onward]").click()
        expect(page.locator("[data-sum=kits]")).to_have_text(f"{number} of {number}")
        expect(page.locator(".thread li").last).to_contain_text("all packed")
        states = self.rows(
            "select distinct state from classes_participant where name in ('Ines Falk', 'Odo Brackwater')"
        )
        self.assertEqual(states, [("packed",)])

    def labels_and_hand_outs(self) -> None:
        for address in (
            "labels/kits.pdf?sheet=plain",
            "hand-out.pdf?ink=grey",
        ):
            # The page waits while a worker makes the file, and goes on to it by itself.
            asked = f"{self.base}/classes/{self.class_key}/pack/{address}"
            self.page.goto(asked)
            self.page.wait_for_url("**/prints/*/file/")
            # The next time it is there at once.
            answer = self.page.request.get(asked)
            self.assertEqual((answer.status, answer.headers["content-type"]), (200, "application/pdf"), address)
        for address in ("checks/", "labels/", "hand-out/?card=C"):
            self.go(f"pack/{address}")
            self.check_accessible()

    def participants_open_their_page_on_a_phone(self) -> None:
        page = self.page
        page.get_by_role("button", name="Switch it on").click()
        address = page.locator(".ho-address a").inner_text()
        phone = self.new_context(viewport=PHONE)
        theirs = phone.new_page()
        theirs.goto(address)
        expect(theirs.get_by_role("heading", name=re.compile("Rising Moon"))).to_be_visible()
        expect(theirs.get_by_text("Fold A1 Base along its score line")).to_be_visible()
        self.assertNotIn("Ines", theirs.content())
        self.assertLessEqual(theirs.evaluate("document.documentElement.scrollWidth"), PHONE["width"])
        self.check_accessible(theirs)
        self.assertEqual(phone.cookies(), [])
        page.get_by_role("button", name="Switch it off").click()
        expect(page.get_by_text("Switched off: its address shows nothing")).to_be_visible()
        self.assertEqual(theirs.reload().status, 404)
        expect(theirs.get_by_text("Rising Moon")).to_have_count(0)
        self.leave(phone)
