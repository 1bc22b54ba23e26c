"""One truth on all pages: random classes are rendered, and every figure of the same thing is compared.

``ZESTER_FIGURES=40-80`` looks at those of these numbers, ``benchmarks/figures.sh`` at a thousand; otherwise a few.
"""

from __future__ import annotations

import csv
import html
import io
import json
import os
import random
import re
import uuid
from collections import Counter
from decimal import Decimal
from unittest import mock

import ezdxf
import pymupdf
from django.urls import reverse

from tests.demo import load_demo
from tests.people import A_GOOD_ORDER, SignedInTests, fitted, make_paper
from zester.bags.board import board_of
from zester.bags.marks import Tick, tick
from zester.classes.models import CardClass, ClassCard, ClassPaper, Offer, Participant, Substitution
from zester.classes.people import add_people, keep_offer, sayable_of, set_state
from zester.classes.services import add_card, recount
from zester.core.kits.order_lines import read_people
from zester.core.kits.packing import BAGGINGS
from zester.core.lengths import TICKS_PER_INCH
from zester.core.tests.share import each_of
from zester.designs.models import Card
from zester.plans.models import PaperFit
from zester.plans.needs import OTHERS
from zester.shelf.models import Bit
from zester.shelf.stock import stock_take

FIRST, LAST = map(int, os.environ.get("ZESTER_FIGURES", "0-3").split("-"))
SIZES = ("4 x 5¼", "3¾ x 5", "2 x 3", "1 x 5", "3 x ¾", "2½ x 2½", "8½ x 5½", "1½ x 2")
NAMES = [
    "Ines",
    "Odo",
    "Tove",
    "Runa",
    "Pell",
    "Amrit",
    "Greta",
    "Jory",
    "Bea",
    "Nils",
    "Wanda",
    "Lio",
    "Hanno",
    "Marla",
]
# The side of what is handed out of a paper that is chosen.
CHOSEN = 4 * TICKS_PER_INCH
POOLS = ("together", "together", "own", "portions", "whole")


class RandomClass:
    """A class with whatever a class may have: offers, choices, versions, other papers, portions, gifts, spares."""

    def __init__(self, owner, papers, seed: int):
        self.dice, self.owner, self.papers = random.Random(seed), owner, papers
        self.to_choose = [paper for paper in papers if paper.kind == "patterned"]
        self.made = CardClass.objects.create(
            owner=owner,
            title=f"Evening {seed}",
            participants=self.dice.randint(0, 4),
            give_aways=self.dice.choice([0, 0, 1, 2]),
            bagging=self.dice.choice(list(BAGGINGS)),
            spare_by=self.dice.choice(["piece", "kit"]),
            spare_number=self.dice.choice([0, 0, 1]),
            spare_percent=0,
            keep_short=8128,
            keep_long=2 * 8128,
        )
        for number in range(self.dice.randint(1, 3)):
            self.card(number)
        self.offers()
        self.people()
        self.wishes()
        recount(self.made.pk)
        self.made = CardClass.objects.get(pk=self.made.pk)

    def card(self, number: int) -> None:
        lines = []
        for _ in range(self.dice.randint(1, 4)):
            paper = self.dice.choice(self.papers).name
            count = self.dice.choice(["", "", "2 "])
            only = self.dice.choice(["", "", "", ", only in fancy"])
            lines.append(f"{count}Piece {self.dice.choice(SIZES)} {paper}{only}")
        lines += self.dice.sample(["+ 2 gems", "+ envelope", "+ 8 in thread"], self.dice.randint(0, 2))
        entry = add_card(self.made, f"Card {number}")
        Card.objects.filter(pk=entry.card_id).update(cut_list="\n".join(lines))
        ClassCard.objects.filter(pk=entry.pk).update(
            each=self.dice.randint(1, 2), samples=self.dice.randint(0, 1), spares=self.dice.choice([0, 0, 2])
        )

    def offers(self) -> None:
        none = {"card": "none", "patterned": "none"}
        kinds = [
            ("full kit", {"extras": "1 pencil", "price": Decimal("12.50")}),
            ("card stock", {"pools": {"patterned": "none"}}),
            ("class only", {"pools": none, "bits": False, "kit_list": False}),
            ("to cut", {"pools": {"patterned": self.dice.choice(["portions", "whole", "own"])}, "sets": 2}),
            (
                "to choose",
                {
                    "choose": 2,
                    "among": [paper.key for paper in self.to_choose],
                    "choice_width": CHOSEN,
                    "choice_height": CHOSEN,
                    "choose_at_home": self.dice.random() < 0.3,
                },
            ),
        ]
        for name, more in self.dice.sample(kinds, self.dice.randint(0, 3)):
            keep_offer(Offer(card_class=self.made, name=name, **more))

    def people(self) -> None:
        offers = [offer.name for offer in self.made.offers.all()]
        lines = []
        for name in self.dice.sample(NAMES, self.dice.randint(0, 6)):
            what = (
                f": {self.dice.choice(offers)} {self.dice.randint(1, 2)}" if offers else f" {self.dice.randint(1, 2)}"
            )
            papers = self.dice.sample([paper.name for paper in self.to_choose], self.dice.randint(0, 2))
            chosen = f", papers {', '.join(papers)}" if papers and "to choose" in what else ""
            lines.append(f"{name}{what}{chosen}, {self.dice.choice(['booked', 'paid', 'waiting', 'cancelled'])}")
        read = read_people("\n".join(lines), sayable_of(self.made))
        add_people(self.made, [row.person for row in read])

    def wishes(self) -> None:
        for paper in self.papers:
            ClassPaper.objects.update_or_create(
                card_class=self.made, paper=paper, defaults={"pool": self.dice.choice(POOLS)}
            )
        if self.dice.random() < 0.5:
            one, other = self.dice.sample(self.papers, 2)
            who = self.dice.choice(["all", "last"])
            Substitution.objects.create(card_class=self.made, paper=one, other=other, who=who, last=2)


@A_GOOD_ORDER
@mock.patch("zester.plans.work.PAPER_SECONDS", 0.3)
class FiguresTests(SignedInTests):
    """Several classes share papers and bits."""

    def setUp(self):
        super().setUp()
        self.papers = [
            self.paper,
            make_paper(self.user, "Chalk Moon", price=Decimal("0.40")),
            make_paper(self.user, "Star Chart", "12x12", kind="patterned", price=Decimal("0.95")),
            make_paper(self.user, "Kite Tails", "12x12", kind="patterned", price=Decimal("0.95")),
            make_paper(self.user, "Moon Rays", "12x12", kind="patterned"),
        ]
        for paper, count in zip(self.papers, (None, 6, 40, 3, None), strict=True):
            if count is not None:
                stock_take(paper, None, count)
        Bit.objects.create(owner=self.user, name="gem", on_hand=9, pack=20, price=Decimal("2.40"))

    def text(self, name: str, *args, **query) -> str:
        """A page of the class as a reader sees it."""
        answer = self.client.get(reverse(name, args=[self.made.pk, *args], query=query or None))
        self.assertEqual(answer.status_code, 200, name)
        page = re.sub(r"(?s)<(script|style|svg|head|dialog)\b.*?</\1>", " ", answer.content.decode())
        return re.sub(r"\s+", " ", html.unescape(re.sub(r"<[^>]+>", " ", page))).replace("\xa0", " ")

    def number(self, pattern: str, page: str) -> int:
        """The number a page gives; its first group."""
        found = re.search(pattern, page)
        self.assertIsNotNone(found, f"{pattern} in {page[:3000]}")
        return int(found[1].replace(",", ""))

    def test_every_page_says_the_same(self):
        for seed in range(FIRST, LAST):
            # Those before stay: they share the shelf. After ten of them it is begun anew.
            if seed % 10 == 0:
                CardClass.objects.all().delete()
            with self.subTest(seed=seed):
                self.made = RandomClass(self.user, self.papers, seed).made
                if not self.all_say_the_same():
                    continue
                if seed == FIRST:
                    self.on_paper()
                if self.somebody_cancels_who_is_packed_for():
                    self.all_say_the_same()

    def test_every_page_of_the_demo_says_the_same(self):
        load_demo()
        for self.made in each_of(list(CardClass.objects.filter(removed_at=None).select_related("owner"))):
            with self.subTest(self.made.title):
                self.client.force_login(self.made.owner)
                self.assertTrue(self.all_say_the_same())
                self.on_paper()

    def all_say_the_same(self) -> bool:
        """Whether there is something to say; all pages are read."""
        fitted(self.made)
        self.made = CardClass.objects.get(pk=self.made.pk)
        self.board = board_of(self.made)
        if not self.board.counted.all_pieces:
            return False
        self.cards_and_pieces()
        self.sheets_and_money()
        self.minutes()
        self.bags_and_kits()
        self.bits()
        self.exports()
        return True

    def somebody_cancels_who_is_packed_for(self) -> bool:
        """Whether there is somebody: what was packed for them is told to be nobody's, and is counted no more."""
        named = [shown for shown in self.board.kits if shown.kit.person]
        if not named:
            return False
        person = Participant.objects.get(pk=named[0].kit.person)
        packed = [bag.bag.key for shown in named for bag in shown.bags if shown.kit.person == str(person.pk)]
        answers, _ = tick(self.made, [Tick(uuid.uuid4(), "thing", bag, True, "x") for bag in packed])
        set_state(self.made, {person.pk: Participant.objects.get(pk=person.pk).state}, "cancelled")
        self.assertEqual([each.mark.what for each in board_of(self.made).surplus], packed, answers)
        page = self.text("bags:pack")
        self.assertEqual(page.count("Packed, but its order is gone"), len(packed))
        return True

    def printed(self, name: str, *args) -> str:
        """The words of a PDF."""
        answer = self.client.get(reverse(name, args=[self.made.pk, *args]))
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"), name)
        with pymupdf.open(stream=answer.content) as pages:
            return re.sub(r"\s+", " ", " ".join(page.get_text() for page in pages))

    def on_paper(self) -> None:
        """The PDFs say what the pages say."""
        bags, kits = self.board.packed.bags_in_all, self.board.packed.kits_in_all
        listed = self.printed("bags:list_pdf")
        self.assertEqual(self.number(r"(\d+) bags? in", listed), bags)
        self.assertEqual(self.number(r"in (\d+) kits?", listed), kits)
        cards = self.printed("bench:cards_pdf")
        steps = json.loads(self.client.get(reverse("bench:steps_json", args=[self.made.pk])).content)["papers"]
        for fit in PaperFit.objects.wanted().filter(class_paper__card_class=self.made):
            mine = next((paper for paper in steps if paper["id"] == fit.key), None)
            # Sheets that are pieces as they come have no card, and no steps.
            self.assertEqual(fit.name in cards, mine is not None, fit.name)
            page = self.text("bench:paper", fit.key)
            self.assertEqual(self.number(r"(\d+) steps? ·", page), len(mine["steps"]) if mine else 0)

        for what, number in (("kits", kits), ("bags", bags)):
            answer = self.client.get(reverse("bags:labels_pdf", args=[self.made.pk, what]))
            self.assertEqual(sum(len(labels) for labels in answer.context["pages"]), number, what)

    def exports(self) -> None:
        """What is taken along to other programs has the figures of the pages."""
        people = self.client.get(reverse("classes:people_csv", args=[self.made.pk])).content.decode("utf-8-sig")
        rows = list(csv.DictReader(io.StringIO(people)))
        self.assertEqual([row["name"] for row in rows], [person.name for person in self.made.people.all()])
        counted = sum(row["state"] in ("booked", "paid", "packed", "handed") for row in rows)
        self.assertEqual(counted + self.made.participants, self.board.counted.people)
        fits = list(PaperFit.objects.wanted().filter(class_paper__card_class=self.made))
        if any(fit.shown is None for fit in fits):
            return
        files = [
            json.loads(self.client.get(reverse("fits:download", args=[self.made.pk, what])).content)
            for what in ("job", "plan")
        ]
        wanted = Counter({(each["paper"], each["id"]): each["count"] for each in files[0]["pieces"]})
        papers = [entry.piece.paper for entry in self.board.counted.counts if entry.count]
        self.assertEqual({paper["id"] for paper in files[0]["papers"]}, set(papers))
        for entry in self.board.counted.counts:
            self.assertEqual(wanted[entry.piece.paper, entry.handle], entry.count, entry.handle)
        for paper in files[1]["papers"]:
            layouts = [each for each in paper["layouts"] if "source" not in each]
            self.assertEqual(paper["sheets"], sum(each["copies"] for each in layouts))
            for number, layout in enumerate(layouts, start=1):
                self.cutter_files(paper["id"], number, layout)

    def cutter_files(self, key: str, number: int, layout: dict) -> None:
        """A layout as SVG and as DXF: every cut once, every piece with its name."""
        address = [self.made.pk, key, number]
        named = Counter(part.get("piece") or "portion" for part in layout["parts"])
        answer = self.client.get(reverse("bench:svg", args=address))
        if answer.status_code == 404:
            # Handed out as it comes: there is nothing to cut.
            self.assertEqual(layout["cuts"], [])
            return
        drawn = answer.content.decode()
        self.assertEqual(Counter(re.findall(r"<text[^>]*>([^<]+)</text>", drawn)), named)
        cut = drawn.split('id="cut"')[1].split("</g>")[0]
        self.assertGreaterEqual(cut.count("<path"), len(layout["cuts"]))
        drawing = ezdxf.read(io.StringIO(self.client.get(reverse("bench:dxf", args=address)).content.decode()))
        entities = list(drawing.modelspace())
        names = Counter(each.dxf.text for each in entities if each.dxftype() == "TEXT")
        self.assertEqual(names, named)

    def cards_and_pieces(self) -> None:
        page = self.text("classes:count")
        pieces = self.number(r"([\d,]+) pieces?", page)
        self.assertEqual(self.number(r"cards?, ([\d,]+) pieces?", page), pieces)
        rows = re.findall(r"title=\"How this is counted\">(\d+)<", self.client.get(
            reverse("classes:count", args=[self.made.pk])).content.decode())  # fmt: skip
        self.assertEqual(sum(map(int, rows[: len(rows) - sum(not b.length for b in self.board.counted.bits)])), pieces)
        # By paper what the page of papers says.
        wanted: Counter[str] = Counter()
        for entry in self.board.counted.counts:
            wanted[entry.piece.paper] += entry.count
        fits = PaperFit.objects.filter(class_paper__card_class=self.made).exclude(need="")
        for fit in each_of(list(fits.select_related("class_paper__paper"))):
            # Pictures that only come along are no pieces of the class.
            mine = (about["count"] for handle, about in fit.pieces.items() if handle != OTHERS)
            self.assertEqual(sum(mine), wanted[fit.paper.key])

    def sheets_and_money(self) -> None:
        fits = list(PaperFit.objects.wanted().filter(class_paper__card_class=self.made))
        if any(fit.shown is None for fit in fits):
            # Something is larger than its sheet, or than its portion: every page says so, and has no figures.
            self.assertIn("something in the way", self.text("classes:count"))
            return
        wall = self.text("fits:wall")
        sheets = self.number(r"(\d+) sheets? from", wall)
        self.assertEqual(sheets, sum(fit.shown.new_sheets for fit in fits))
        strip = self.client.get(reverse("fits:strip", args=[self.made.pk])).content.decode()
        self.assertEqual(sum(map(int, re.findall(r'data-sheets="(\d+)"', strip))), sheets)
        evening = self.text("bench:evening")
        self.assertEqual(
            sum(map(int, re.findall(r": (\d+) sheets?, \d+ steps?", evening.split("Sitting 1")[0]))), sheets
        )
        plan = json.loads(self.client.get(reverse("fits:download", args=[self.made.pk, "plan"])).content)
        layouts = [layout for paper in plan["papers"] for layout in paper["layouts"] if "source" not in layout]
        opened = sum(layout["copies"] for layout in layouts)
        self.assertEqual(opened, sheets + sum(fit.shown.offcuts for fit in fits))
        # Only what is short is said to be short.
        for fit in fits:
            page = self.text("fits:paper", fit.key)
            self.assertEqual(bool(re.search(r"\d+ (sheets? )?short", page)), bool(fit.short), fit.name)
        listed = self.client.get(reverse("fits:buying_csv"), {"class": self.made.pk}).content.decode("utf-8-sig")
        rows = list(csv.DictReader(io.StringIO(listed)))
        total = sum(Decimal(row["price"]) for row in rows if row["price"])
        page = self.client.get(reverse("fits:buying"), {"class": self.made.pk})
        if page.context["list"].articles:
            self.assertEqual(page.context["total"], total)
        for row in rows:
            self.assertLess(len(row["in a pack"]), 9, "no raw unit")

    def minutes(self) -> None:
        if PaperFit.objects.wanted().filter(class_paper__card_class=self.made, shown=None).exists():
            return
        page = self.text("bench:evening")
        said = re.search(r"About (?:(\d+) h ?)?(?:(\d+)(?: min)?)?[,.]", page)
        minutes = 60 * int(said[1] or 0) + int(said[2] or 0)
        tasks = page.split("A sitting lasts")[0]
        each = [60 * int(h or 0) + int(m or 0) for h, m in re.findall(r"(?:(\d+) h ?)?\b(\d\d?)(?: min)", tasks)]
        context = self.client.get(reverse("bench:evening", args=[self.made.pk])).context
        self.assertEqual(sum(task.minutes for phase in context["phases"] for task, _ in phase.rows), minutes)
        self.assertEqual(sum(group.minutes for group, _ in context["sittings"]), minutes)
        self.assertTrue(each)
        for fit in PaperFit.objects.wanted().filter(class_paper__card_class=self.made):
            mine = next(task.minutes for phase in context["phases"] for task, _ in phase.rows if task.key == fit.key)
            self.assertEqual(self.number(r"about (\d+) min", self.text("bench:paper", fit.key)), mine)

    def bags_and_kits(self) -> None:
        page = self.text("bags:pack")
        if "Nobody gets a kit" in page or "There is nothing to pack" in page:
            self.assertEqual(self.board.packed.kits_in_all, 0)
            return
        bags = self.number(r"0 of (\d+) bags", page)
        kits = self.number(r"· 0 of (\d+) kits", page)
        self.assertEqual(self.number(r"Pack , [^:]*: (\d+) bags?", self.text("classes:count")), bags)
        self.assertEqual(sum(len(shown.rows) for shown in self.board.stacks), bags)
        evening = self.text("bench:evening")
        if bags:
            inside = self.number(r"([\d,]+) pieces? into", evening)
            self.assertEqual(self.number(r"pieces? into (\d+) bag", evening), bags)
            counted = sum(
                item.count * len(shown.rows)
                for shown in self.board.stacks
                for item in shown.stack.items
                if item.kind == "piece" and item.is_counted
            )
            self.assertEqual(inside, counted)
        self.assertEqual(self.number(r"into (\d+) kits?", evening), kits)
        self.assertEqual(self.number(r"(\d+) labels?: the name", self.text("bags:print")), kits)
        checks = self.client.get(reverse("bags:checks", args=[self.made.pk])).context["checks"]
        self.assertEqual(sum(each.count for each in checks.kits), kits)
        # Every pile is what was counted, as far as it is cut here.
        home = Counter(
            {item.key: 0 for kit in self.board.packed.kits for item in kit.items if item.at_home or not item.is_counted}
        )
        piles = {row["pile"].line.key: row["pile"].there for row in self.client.get(
            reverse("bags:short", args=[self.made.pk])).context["piles"]}  # fmt: skip
        for entry in self.board.counted.counts:
            if entry.handle in piles and entry.handle not in home:
                self.assertEqual(piles[entry.handle], entry.count, entry.handle)

    def bits(self) -> None:
        needs = {
            need.name: need for need in self.client.get(reverse("fits:needs", args=[self.made.pk])).context["bits"]
        }
        for bit in self.board.counted.bits:
            self.assertEqual(needs[bit.name].needed, bit.length or bit.count, bit.name)
        short = self.client.get(reverse("bags:short", args=[self.made.pk])).context["piles"]
        piles = {row["pile"].line.name: row["pile"].there for row in short if not row["pile"].line.handle}
        for bit in self.board.counted.bits:
            if bit.name in piles and not bit.length:
                self.assertEqual(piles[bit.name], bit.count, bit.name)
        found = self.client.get(reverse("fits:buying"), {"class": self.made.pk}).context["list"]
        lacking = {article.name: article.lacking for article in found.articles if article.bit}
        self.assertEqual(lacking, {name: need.lacking for name, need in needs.items() if need.lacking})
