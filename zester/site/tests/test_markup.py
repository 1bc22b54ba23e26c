"""Names that are written like a page's own markup stay words, on every page and in every file."""

from html.parser import HTMLParser

from django.urls import reverse

from tests.people import SignedInTests, fitted, make_class, make_paper
from zester.bags.board import board_of
from zester.bags.shortages import report
from zester.classes.models import CardClass, Offer, Participant, Substitution, Trimmer
from zester.classes.services import recount
from zester.core.tests.share import each_of
from zester.designs.models import Card, Edition, Tool
from zester.printing.models import Print
from zester.shelf.models import Bit, Pad

MARK = "q<b id=evil>w</b><script>alert(7)</script>\"'&amp;{{ 7 }}{% x %}"
PAGES = (
    "classes:list", "classes:trimmers", "designs:library", "designs:tools", "shelf:shelf", "shelf:bits", "fits:buying",
    "shelf:ledger", "fits:together", "removed", "account",
)  # fmt: skip
CLASS_PAGES = (
    "count/", "count/people/", "people/", "offers/", "fit/", "papers/", "cut/", "cut/evening/", "pack/", "pack/print/",
    "pack/checks/", "pack/hand-out/", "pack/short/", "design/A/", "settings/", "edit/", "instead/",
)  # fmt: skip
FILES = (
    "pack/list.pdf",
    "pack/labels/bags.pdf",
    "pack/labels/kits.pdf",
    "pack/hand-out.pdf",
    "cut/cards.pdf",
    "cut/labels.pdf",
)


class Elements(HTMLParser):
    """What a browser would take for elements of somebody's name."""

    def __init__(self, page: str):
        super().__init__()
        self.evil: list[str] = []
        self.feed(page)

    def handle_starttag(self, tag, attrs):
        if dict(attrs).get("id") == "evil":
            self.evil.append(tag)


class MarkupTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, "card 4¼ x 5½ side fold\nBase brass\nMat 4 x 5 brass\n+ 2 gems")
        Card.objects.update(name=MARK[:40], notes=MARK, went_wrong=MARK)
        Edition.objects.create(card=Card.objects.first(), name=MARK[:40], cut_list="Mat 4 x 5 brass")
        Tool.objects.create(owner=self.user, name=MARK[:40], sizes=[[1016, 1016]])
        offer = Offer.objects.create(card_class=self.card_class, name=MARK[:40], price=3, extras="1 <i>pencil</i>")
        person = Participant.objects.create(
            card_class=self.card_class, name=MARK[:40], address=MARK, contact=MARK, note=MARK
        )
        person.orders.create(offer=offer)
        other = make_paper(self.user, f"Chalk {MARK}"[:40])
        Substitution.objects.create(card_class=self.card_class, paper=self.paper, other=other, who="all")
        Bit.objects.create(owner=self.user, name=MARK[:40])
        Pad.objects.create(owner=self.user, name=MARK[:40], holds={self.paper.key: 2})
        trimmer = Trimmer.objects.create(owner=self.user, name=MARK[:40], place=MARK[:40])
        CardClass.objects.update(title=MARK[:60], place=MARK[:40], notes=MARK, trimmer=trimmer)
        recount(self.card_class.pk)
        self.card_class.refresh_from_db()
        fitted(self.card_class)
        report(self.card_class, board_of(self.card_class).kits[0].kit.items[0].key, 1)

    def check(self, page: str, where: str) -> None:
        self.assertEqual(Elements(page).evil, [], where)
        self.assertNotIn("<script>alert(7)", page, where)
        self.assertNotIn("q<b", page, where)

    def test_pages_and_files(self):
        named, pk = 0, self.card_class.pk
        addresses = [reverse(name) for name in PAGES] + [f"/classes/{pk}/{page}" for page in CLASS_PAGES]
        opened = []
        for address in each_of(addresses):
            answer = self.client.get(address, follow=True)
            if answer.status_code == 200:
                opened.append(address)
                page = answer.content.decode()
                self.check(page, address)
                named += "q&lt;b id=evil&gt;w" in page
        self.assertGreater(len(opened), 18, opened)
        self.assertGreater(named, 12)
        for name in each_of(FILES):
            self.client.get(f"/classes/{pk}/{name}")
        for made in each_of(Print.objects.all()):
            if made.source.exists():
                self.check(made.source.read_text(), made.title)
