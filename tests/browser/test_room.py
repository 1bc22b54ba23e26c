"""Room to work: the work begins at the top."""

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
BEGINS = {
    "design/A/": ("#cut-list", 330),
    "count/": ("#tally", 260),
    "fit/": (".wall-head", 260),
    "cut/": ("button[value=bench]", 260),
    "pack/": (".pack-sums", 260),
}


class RoomTests(BrowserTests):
    def setUp(self):
        super().setUp()
        papers = [make_paper(self.user, name) for name in PAPERS]
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

    def test_ten_lines_of_the_list_stand_beside_the_drawing(self):
        self.page.set_viewport_size({"width": 1280, "height": 800})
        self.open("design/A/")
        rows = self.page.locator("#readings li")
        lines = self.card_class.class_cards.first().card.cut_list.count("\n") + 1
        self.assertEqual(rows.count(), lines)
        # Each has its 36 px, or as much as its line takes on the left.
        heights = rows.evaluate_all("all => all.map((each) => each.offsetHeight)")
        self.assertEqual({height % 36 for height in heights}, {0})
        begins = self.page.locator("#cut-list").bounding_box()["y"]
        self.assertGreaterEqual((800 - begins) // 36, 10)
