"""Room to work: the work begins at the top, and no page of a class is wider than the screen it is on."""

from tests.browser.base import BrowserTests
from tests.people import make_class, make_paper, work_off
from zester.classes.models import CardClass

PAPERS = (
    "Midnight Harbour Promenade",
    "Chalk Cliff at Low Tide",
    "Star Chart of the Southern Sky",
    "Pine Ridge",
    "Moss",
)
# Where the work begins on a screen of 1280 × 800, px from the top: with the drawing beside it ten lines go below it.
BEGINS = {"design/A/": ("#cut-list", 330), "count/": ("#tally", 260), "fit/": (".wall-head", 260)}
PAGES = ("design/A/", "count/", "papers/", "people/", "offers/", "fit/", "cut/", "cut/print/", "cut/evening/", "pack/")


class RoomTests(BrowserTests):
    def setUp(self):
        super().setUp()
        papers = [make_paper(self.user, name) for name in PAPERS]
        self.key = papers[0].key
        lines = "\n".join(f"Mat no. {k}  {k + 1} x 3  {paper.name}" for k, paper in enumerate(papers, start=1))
        text = f"card 5½ x 8½ side fold\nBase  11 x 8½  Moss\n{lines}"
        self.card_class = make_class(self.user, *[text] * 6)
        CardClass.objects.update(title="A long evening of cards by the harbour, with friends")
        work_off(self.card_class)
        self.sign_in()

    def open(self, page: str) -> None:
        self.page.goto(f"{self.live_server_url}/classes/{self.card_class.pk}/{page}")
        if page in ("design/A/", "count/"):
            self.page.locator("#strip li").first.wait_for()

    def test_the_work_begins_at_the_top(self):
        self.page.set_viewport_size({"width": 1280, "height": 800})
        for page, (work, most) in BEGINS.items():
            self.open(page)
            begins = self.page.locator(work).first.bounding_box()["y"]
            print(f"{page}: {begins:.0f} px")
            self.assertLessEqual(begins, most, page)

    def test_no_page_of_a_class_is_wider_than_its_screen(self):
        for width in (320, 390, 820):
            self.page.set_viewport_size({"width": width, "height": 844})
            for page in (*PAGES, f"fit/{self.key}/"):
                self.open(page)
                wide = self.page.evaluate("document.documentElement.scrollWidth")
                self.assertLessEqual(wide, width, page)
