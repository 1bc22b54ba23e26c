"""The hand-out, the teacher's words, and the page that participants open without signing in."""

from __future__ import annotations

import base64
import datetime
import io
import random
import re
import string
from unittest import mock

import pymupdf
from django.core.files.base import ContentFile
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from PIL import Image

from tests.people import make_paper
from zester.accounts.models import RegionRow
from zester.bags import sharing
from zester.bags.models import SharedPage
from zester.bags.tests.cases import MOON, PackingTests
from zester.classes.models import CardClass, Offer
from zester.classes.services import count_class, recount
from zester.core.kits.demand import kits_of
from zester.core.tests.share import each_of
from zester.designs.models import Card
from zester.designs.services import keep_photo, keep_words
from zester.shelf.models import Bit, Paper
from zester.site.photos import shown_photo
from zester.site.regions import Region

STEPPED = f"{MOON}\nStar 1 x 1 star chart only stepped-up embossed before class by Finn # for Ines"


class HandoutTests(PackingTests):
    def words(self, letter: str = "A", seen: dict | None = None, **sent):
        data = {f"words-{key}": text for key, text in sent.items()}
        data |= {f"seen-{key}": text for key, text in (seen or {}).items()}
        return self.client.post(self.address("words", letter), data, follow=True)

    def test_supplies_are_named_with_a_link_on_the_hand_out_and_the_buying_list(self):
        card = self.card_class.class_cards.get(letter="A").card
        address = reverse("designs:design", args=[card.pk])
        data = {"name": card.name, "ruler": card.ruler, "notes": "", "went_wrong": ""}
        wrong = self.client.post(address, data | {"supplies": "Pen javascript:alert(1)"})
        self.assertContains(wrong, "A link begins with https://")
        self.assertContains(wrong, "Pen javascript:alert(1)")
        named = "Moon stamps | Lantern Lane, page 12\nGel pen | https://example.org/pen\nkit: glue dots"
        self.client.post(address, data | {"supplies": named})
        page = self.client.get(self.address("handout"), {"card": "A"})
        for words in ("Also in the kit:", "glue dots", "Moon stamps", "(Lantern Lane, page 12)"):
            self.assertContains(page, words)
        self.assertContains(page, '<a href="https://example.org/pen" rel="noopener noreferrer">Gel pen</a>')
        # A stamp by its name stands for stamps in general.
        self.assertNotContains(page, "stamps and ink")
        Paper.objects.filter(name="Star Chart").update(link="https://example.org/chart")
        page = self.client.get(self.address("handout"), {"card": "A"})
        self.assertContains(page, '<a href="https://example.org/chart" rel="noopener noreferrer">Star Chart</a>')
        Bit.objects.create(owner=self.user, name="gems", link="https://example.org/gems")
        buying = self.client.get(reverse("fits:buying"), {"class": self.card_class.pk})
        self.assertContains(buying, "Supplies the designs name")
        self.assertContains(buying, "Lantern Lane, page 12")
        self.assertContains(buying, '<a href="https://example.org/gems" rel="noopener noreferrer">gems</a>')

    def test_a_photo_of_the_finished_card_is_on_the_hand_out_and_the_page(self):
        card, out = self.card_class.class_cards.get(letter="A").card, io.BytesIO()
        Image.new("RGB", (900, 600), "#24304f").save(out, "JPEG")
        keep_photo(card, ContentFile(out.getvalue(), "photo.jpg"))
        shared = sharing.switch(CardClass.objects.get(pk=self.card_class.pk), True, None)
        for page in (
            self.client.get(self.address("handout"), {"card": "A"}),
            self.client.get(reverse("bags:shared", args=[shared.token])),
        ):
            found = re.search(
                r'<img src="data:image/jpeg;base64,([^"]+)"\s+alt="Photo of Card 1"', page.content.decode()
            )
            with Image.open(io.BytesIO(base64.b64decode(found[1]))) as picture:
                self.assertEqual(picture.size, (720, 480))
        keep_photo(card, ContentFile(out.getvalue(), "photo.jpg"), "the moon")
        page = self.client.get(self.address("handout"), {"card": "A"})
        self.assertContains(page, "The finished card</figcaption>")
        self.assertContains(page, "the moon</figcaption>")
        for photo in card.photos.all():
            photo.image.storage.delete(photo.image.name)
        shown_photo.cache_clear()
        page = self.client.get(self.address("handout"), {"card": "A"})
        self.assertNotContains(page, "Photo of Card 1")

    def test_whoever_has_the_address_reads_the_day_as_the_teacher_writes_it(self):
        day = datetime.date(2026, 12, 19)
        CardClass.objects.filter(pk=self.card_class.pk).update(date=day)
        shared = sharing.switch(CardClass.objects.get(pk=self.card_class.pk), True, None)
        RegionRow.objects.create(user=self.user, region=Region(dates="ymd").stored())
        page = Client().get(reverse("bags:shared", args=[shared.token]))
        self.assertContains(page, "2026-12-19")

    def test_remarks_reach_the_page_unless_they_speak_of_somebody(self):
        card = self.card_class.class_cards.get(letter="A").card
        pearls = f"{MOON}\n+ 5 pearls # cut apart in fives"
        self.set_list(f"{pearls}\n# and one for Ines to take home", card)
        page = self.client.get(self.address("handout"), {"card": "A"})
        self.assertContains(page, "(cut apart in fives; and one for Ines to take home)")
        board = self.board()
        said = {line.name: line.care for stack in board.stacks for line in board.stack(stack.key).lines}
        self.assertIn("cut apart in fives", said["pearls"])
        shared = sharing.switch(CardClass.objects.get(pk=self.card_class.pk), True, None)
        theirs = reverse("bags:shared", args=[shared.token])
        self.assertNotContains(self.client.get(theirs), "Ines")
        self.set_list(pearls, card)
        self.assertContains(self.client.get(theirs), "(cut apart in fives)")

    def test_it_is_made_from_the_design_and_nothing_else(self):
        page = self.client.get(self.address("handout"))
        for words in (
            "A4 Sentiment: stamp", "Fold A1 Base along its score line",
            "Glue A3 Panel on A2 Mat, in the middle", "Slip the card into its envelope", "bone folder", "2 gems",
        ):  # fmt: skip
            self.assertContains(page, words)
        self.assertContains(page, 'class="card-drawing front"')
        self.assertContains(page, 'class="card-drawing apart-front"')
        self.assertContains(page, "A3 3¾ × 5 in")

    def test_the_teachers_words_stay_with_the_design(self):
        page = self.words(
            **{"glue-3": "Press for ten seconds", "opening": "Wash your hands"}, seen={"glue-3": "", "opening": ""}
        )
        self.assertContains(page, "Kept with the design.")
        self.assertContains(page, "Press for ten seconds")
        card = Card.objects.get(name="Card 1")
        self.assertEqual(card.teaching, {"glue-3": "Press for ten seconds", "opening": "Wash your hands"})
        # Another class with the same card has them, too; a step that is gone does not take them along.
        Card.objects.filter(pk=card.pk).update(cut_list="card 4¼ x 5½ side fold\nBase brass")
        recount(self.card_class.pk)
        self.assertContains(self.client.get(self.address("handout")), "To a step that is no longer there")
        self.words(**{"glue-3": ""}, seen={"glue-3": "Press for ten seconds"})
        self.assertEqual(Card.objects.get(pk=card.pk).teaching, {"opening": "Wash your hands"})

    def test_two_windows_do_not_overwrite_each_other(self):
        self.words(**{"glue-2": "from the first"}, seen={"glue-2": ""})
        page = self.words(**{"glue-2": "from the second", "glue-3": "kept"}, seen={"glue-2": "", "glue-3": ""})
        self.assertEqual(page.status_code, 409)
        self.assertContains(page, "Another window wrote meanwhile: “from the first”", status_code=409)
        self.assertContains(page, 'value="from the second"', status_code=409)
        card = Card.objects.get(name="Card 1")
        self.assertEqual(card.teaching, {"glue-2": "from the first", "glue-3": "kept"})
        self.assertEqual(keep_words(card, {"glue-2": "from the second"}, {"glue-2": "from the first"}), [])
        long = self.words(**{"glue-2": "x" * 500}, seen={"glue-2": "from the second"})
        self.assertContains(long, "x" * 500, status_code=422)

    def test_versions_stand_side_by_side(self):
        Card.objects.filter(name="Card 1").update(cut_list=STEPPED)
        recount(self.card_class.pk)
        page = self.client.get(self.address("handout"))
        self.assertContains(page, "Only here: A5 Star 1 × 1 in")
        self.assertContains(page, "simple</figcaption>")

    def pdf(self, **query) -> pymupdf.Document:
        answer = self.client.get(self.address("handout_pdf", **query))
        return pymupdf.open(stream=answer.content, filetype="pdf")

    def test_the_pdf_has_a_page_for_every_card_and_is_grey_where_it_is_asked_for(self):
        Paper.objects.update(colour="#a9503c")
        for page, size in (("letter", (612, 792)), ("a4", (595.28, 841.89))):
            document = self.pdf(page=page)
            self.assertEqual(len(document), 2)
            for side, wanted in zip(document[0].rect[2:], size, strict=True):
                self.assertAlmostEqual(side, wanted, delta=0.1)
            for each in document:
                for block in each_of(each.get_text("blocks")):
                    self.assertTrue(block[0] >= 0 and block[2] <= size[0] and block[3] <= size[1], block)
        self.assertIn("Glue A3 Panel on A2 Mat", document[0].get_text())
        self.assertTrue(self.colours(document))
        self.assertEqual(self.colours(self.pdf(ink="grey")), set())

    def colours(self, document: pymupdf.Document) -> set:
        """Whatever on it has a colour; ink is a warm black."""
        used = {d[what] for page in document for d in page.get_drawings() for what in ("color", "fill")} - {None}
        return {each for each in used if max(each) - min(each) > 0.1}

    def test_guides_for_home_show_the_ways_to_cut_a_paper_that_was_chosen(self):
        page = self.client.get(self.address("guides_pdf"), follow=True)
        self.assertContains(page, "No paper of this class is handed out")
        self.assertNotContains(self.client.get(self.address("handout")), "Guides for those")
        stars = Paper.objects.get(name="Star Chart")
        sides = {"choice_width": 6 * 8128, "choice_height": 6 * 8128}
        Offer.objects.filter(name="full kit").update(choose=1, among=[stars.key], **sides)
        recount(self.card_class.pk)
        self.assertContains(self.client.get(self.address("handout")), "Guides for those who cut at home")
        answer = self.client.get(self.address("guides_pdf"))
        text = "".join(each.get_text() for each in pymupdf.open(stream=answer.content, filetype="pdf"))
        for words in ("Star Chart, 6 × 6 in", "A3", "Craft knife: away from the body"):
            self.assertIn(words, text)

    def test_where_one_of_each_paper_is_handed_out_they_choose_at_home(self):
        papers = [make_paper(self.user, name, "12x12", kind="patterned") for name in ("Rope", "Kite", "Sand")]
        sides = {"choice_width": 4 * 8128, "choice_height": 6 * 8128}
        offer = {"choose": 2, "among": [paper.key for paper in papers], "choose_at_home": True}
        Offer.objects.filter(name="full kit").update(**offer, **sides)
        recount(self.card_class.pk)
        card_class = CardClass.objects.get(pk=self.card_class.pk)
        counted = count_class(card_class)
        kits = sum(kits.count for kits in kits_of(counted.needs) if kits.offer.name == "full kit")
        self.assertGreater(kits, 0)
        # One of each with every kit, and nothing is left to choose or to be guessed.
        self.assertEqual([(each.chosen, each.guessed) for each in counted.picked], [(kits, 0)] * 3)
        self.assertEqual([item.key for kit in counted.packed.kits for item in kit.beside if item.kind == "choice"], [])
        self.assertNotContains(self.client.get(self.address("pack")), "not chosen yet")
        text = "".join(
            page.get_text()
            for page in pymupdf.open(stream=self.client.get(self.address("guides_pdf")).content, filetype="pdf")
        )
        self.assertIn("Any 2 of your 3 papers, 4 × 6 in", text)


class SharedPageTests(PackingTests):
    def share(self, act: str, **more):
        return self.client.post(self.address("share"), {"act": act, **more}, follow=True)

    def open_it(self) -> str:
        """Switched on; its address."""
        self.share("on")
        return f"/with/{SharedPage.objects.get().token}/"

    def test_whoever_has_the_address_sees_steps_and_no_names(self):
        Card.objects.filter(name="Card 1").update(cut_list=STEPPED)
        recount(self.card_class.pk)
        self.card_class.offers.filter(name="card stock").update(name="for Tove")
        self.card_class.notes = "call the observatory"
        self.card_class.save()
        address = self.open_it()
        self.assertContains(self.client.get(self.address("handout")), address)
        self.client.logout()
        page = self.client.get(address)
        self.assertContains(page, "Glue A3 Panel on A2 Mat")
        # What was ordered is told by the name of the offer, unless that is somebody's.
        self.assertContains(page, ">full kit</a>")
        self.assertContains(page, ">kit 2</a>")
        for name in ("Ines", "Tove", "Odo", "Finn", "mira", "observatory", "Falk", "Sign in", "/classes/", "csrf"):
            self.assertNotContains(page, name)
        self.assertEqual(page.headers["Referrer-Policy"], "no-referrer")
        self.assertIn("noindex", page.headers["X-Robots-Tag"])
        self.assertIn("no-store", page.headers["Cache-Control"])
        self.assertEqual(page.cookies, {})
        self.assertEqual(self.client.post(address).status_code, 405)

    def test_nothing_links_from_it_into_the_account(self):
        address = self.open_it()
        self.client.logout()
        html = self.client.get(address).content.decode()
        links = {part.split('"')[0] for part in html.split('href="')[1:]}
        self.assertTrue(all(link.startswith(("#", "/static/", "?mine=")) or link == "?" for link in links), links)

    def test_switched_off_over_or_readdressed_it_shows_nothing(self):
        address = self.open_it()
        self.share("off")
        self.assertEqual(self.client.get(address).status_code, 404)
        self.share("on", until=str(timezone.localdate()))
        self.assertEqual(self.client.get(address).status_code, 200)
        tomorrow = timezone.localdate() + datetime.timedelta(days=1)
        with mock.patch("zester.bags.models.timezone.localdate", return_value=tomorrow):
            self.assertEqual(self.client.get(address).status_code, 404)
        self.share("new")
        self.assertEqual(self.client.get(address).status_code, 404)
        new = f"/with/{SharedPage.objects.get().token}/"
        self.assertEqual(self.client.get(new).status_code, 200)
        CardClass.objects.get(pk=self.card_class.pk).remove()
        self.assertEqual(self.client.get(new).status_code, 404)

    def test_a_thousand_guesses_find_nothing(self):
        address = self.open_it()
        token = SharedPage.objects.get().token
        # 24 random bytes: of 2 to the 192 addresses one is right.
        self.assertEqual(len(token), 32)
        self.client.logout()
        dice = random.Random(1)
        letters = string.ascii_letters + string.digits + "-_"
        guesses = ["".join(dice.choice(letters) for _ in token) for _ in range(700)]
        guesses += [token[:at] + dice.choice(letters.replace(token[at], "")) + token[at + 1 :] for at in range(32)]
        guesses += [token[:length] for length in range(1, 32)] + [token + letter for letter in letters]
        guesses += [
            token.swapcase(),
            token.upper(),
            token.lower(),
            token[::-1],
            "%",
            "_" * 32,
            f"{token}%00",
            "' or 1=1 --",
        ]
        guesses += ["".join(dice.sample(token, 32)) for _ in range(200)]
        self.assertGreater(len(guesses), 1000)
        for guess in guesses:
            page = self.client.get(f"/with/{guess}/")
            self.assertEqual(page.status_code, 404, guess)
        self.assertNotContains(page, "Card 1", status_code=404)
        self.assertEqual(self.client.get(address).status_code, 200)

    def test_a_day_that_is_over_or_none_is_refused(self):
        self.assertContains(self.share("on", until="2020-01-01"), "That day is over")
        self.assertContains(self.share("on", until="2027-02-31"), "That is no day")
        self.assertContains(self.share("on", until="soon"), "That is no day")
        self.assertEqual(SharedPage.objects.count(), 0)
