"""The shelf, as its owner uses it."""

import io
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from PIL import Image

from tests.people import SignedInTests, make_class, make_paper
from zester.classes.services import count_class
from zester.core.cutlist.notation import read_list
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.designs.models import Card, Edition
from zester.designs.services import keep_edition, known_to
from zester.shelf.models import Pad, Paper
from zester.shelf.services import known_papers


def entry(**changes) -> dict:
    """A filled-in form for a paper."""
    data = {"name": "Kite Tail", "kind": "patterned", "sheet": "6x6", "supply": "buy", "colour": "#cc8844"}
    return {**data, "repeat": "kites", "direction": "free", "pack": "1", **changes}


class ShelfTests(SignedInTests):
    def post(self, **changes):
        return self.client.post(reverse("shelf:new"), entry(**changes))

    def test_a_paper_of_a_usual_size(self):
        self.post(price="0.30")
        paper = Paper.objects.get(name="Kite Tail")
        self.assertEqual((paper.width, paper.height), (6 * TICKS_PER_INCH, 6 * TICKS_PER_INCH))
        self.assertEqual((paper.price, paper.on_hand, paper.owner), (Decimal("0.30"), None, self.user))
        self.assertContains(self.client.get(reverse("shelf:shelf")), "6 × 6 in")

    def test_a_typed_size_on_hand(self):
        self.post(sheet="typed", typed_size="210 x 148 mm", supply="on_hand", on_hand="12")
        paper = Paper.objects.get(name="Kite Tail")
        self.assertEqual((paper.width, paper.unit, paper.on_hand), (210 * TICKS_PER_MM, "mm", 12))
        page = self.client.get(reverse("shelf:edit", args=[paper.pk]))
        self.assertContains(page, "210 × 148 mm")
        self.assertContains(page, 'value="12"')

    def test_what_is_wrong_is_said_beside_its_field_and_nothing_typed_is_lost(self):
        wrong = [
            ({"name": ""}, "This field is required"),
            ({"name": "telescope BRASS"}, "on your shelf already"),
            ({"name": "12 x 12"}, None),
            ({"name": "144"}, "needs a letter"),
            ({"name": "Kite # 3"}, "a remark begins at #"),
            ({"sheet": "typed", "typed_size": "0.3 x 4"}, "nearest marks are ¼ and 5⁄16"),
            ({"sheet": "typed", "typed_size": ""}, "How large is the sheet?"),
            ({"sheet": "typed", "typed_size": "-4 x 5"}, "width × height"),
            ({"supply": "on_hand", "on_hand": ""}, "How many sheets are there?"),
            ({"supply": "on_hand", "on_hand": "-3"}, "Write 0 or more"),
            ({"price": "-1"}, "Write 0 or more"),
            ({"price": "free"}, "Enter a number"),
            ({"colour": "red"}, "Choose a colour"),
        ]
        for changes, words in wrong:
            if words is None:
                continue
            with self.subTest(changes=changes):
                page = self.post(
                    price=changes.get("price", "0.77"), **{k: v for k, v in changes.items() if k != "price"}
                )
                self.assertContains(page, words)
                self.assertContains(page, f'value="{changes.get("price", "0.77")}"')
        self.assertEqual(Paper.objects.count(), 1)

    def rename(self, name: str, **more):
        data = entry(name=name, sheet="letter", **more)
        return self.client.post(reverse("shelf:edit", args=[self.paper.pk]), data, follow=True)

    def test_a_new_name_changes_only_what_is_shown(self):
        text = "Mat 4 x 5 brass\nTag 2 x 3 telescope brass # mine"
        card_class = make_class(self.user, text)
        self.assertContains(self.rename("Old Gold"), "Lists that say Telescope Brass still mean it")
        self.assertEqual(Card.objects.get().cut_list, text)
        counted = count_class(card_class)
        self.assertEqual([entry.piece.paper for entry in counted.counts], [self.paper.key] * 2)
        page = self.client.get(reverse("classes:count", args=[card_class.pk]))
        self.assertContains(page, "<td>Old Gold</td>", count=2)
        self.assertNotContains(page, "Telescope Brass")
        # And back again: it has only one name then.
        self.rename("Telescope Brass")
        self.assertEqual(Paper.objects.get(pk=self.paper.pk).former_names, ["Old Gold"])

    def test_kept_lists_and_those_of_removed_cards_read_as_before(self):
        make_class(self.user, "Mat 4 x 5 brass")
        card = Card.objects.get()
        keep_edition(card, "first")
        card.remove()
        self.rename("Old Gold")
        for text in (Card.objects.get().cut_list, Edition.objects.get().cut_list):
            (reading,) = read_list(text, known_to(self.user))
            self.assertEqual(reading.piece.paper, self.paper.key)

    def test_a_name_that_would_make_a_list_unclear_is_asked_about(self):
        make_paper(self.user, "Chalk Moon")
        make_class(self.user, "Mat 4 x 5 chalk\nTag 2 x 3 brass")
        keep_edition(Card.objects.get(), "first")
        page = self.rename("Chalk Dust")
        self.assertContains(page, "Card 1, line 1: “chalk” could be")
        self.assertContains(page, "kept as “first”")
        self.assertContains(page, "Rename it all the same")
        self.assertEqual(Paper.objects.get(pk=self.paper.pk).name, "Telescope Brass")
        self.rename("Chalk Dust", anyway="on")
        self.assertEqual(Paper.objects.get(pk=self.paper.pk).name, "Chalk Dust")

    def test_a_former_name_belongs_to_its_paper_until_it_is_let_go(self):
        self.rename("Old Gold")
        page = self.post(name="telescope brass")
        self.assertContains(page, "Old Gold was once called so")
        page = self.client.get(reverse("shelf:edit", args=[self.paper.pk]))
        self.assertContains(page, "Once called:")
        self.client.post(reverse("shelf:forget", args=[self.paper.pk]), {"name": "Telescope Brass"})
        self.post(name="telescope brass")
        self.assertTrue(Paper.objects.filter(name="telescope brass").exists())

    def test_taking_off_and_undoing(self):
        make_class(self.user, "Mat 4 x 5 brass")
        page = self.client.post(reverse("shelf:remove", args=[self.paper.pk]), follow=True)
        self.assertContains(page, "still named in Card 1")
        self.assertContains(page, "Undo")
        self.client.post(reverse("shelf:restore", args=[self.paper.pk]))
        self.assertTrue(Paper.objects.of(self.user).filter(pk=self.paper.pk).exists())

    def test_undoing_does_not_make_two_papers_of_one_name(self):
        self.client.post(reverse("shelf:remove", args=[self.paper.pk]))
        self.post(name="Telescope Brass")
        page = self.client.post(reverse("shelf:restore", args=[self.paper.pk]), follow=True)
        self.assertContains(page, "Rename that one first")
        self.assertEqual(Paper.objects.of(self.user).count(), 1)

    def test_an_empty_shelf_says_what_to_do(self):
        self.client.force_login(self.stranger)
        self.assertContains(self.client.get(reverse("shelf:shelf")), "Begin with usual papers in inches")

    def test_back_to_the_list_one_came_from_but_never_to_another_site(self):
        desk = reverse("classes:desk", args=[make_class(self.user).pk])
        self.assertRedirects(self.client.post(f"{reverse('shelf:new')}?next={desk}", entry()), desk)
        away = self.client.post(f"{reverse('shelf:new')}?next=https://example.org/", entry(name="Chalk Cliff"))
        self.assertRedirects(away, reverse("shelf:shelf"))

    def test_any_sheet_with_two_sides_a_weight_and_a_thickness(self):
        self.post(
            kind="vellum",
            back="other",
            back_colour="#123456",
            back_repeat="dots",
            weight="80 lb cover",
            thickness="0.25",
        )
        paper = Paper.objects.get(name="Kite Tail")
        self.assertEqual((paper.kind, paper.weight, paper.caliper), ("vellum", 216, 250))
        self.assertEqual((paper.side_b["colour"], paper.side_b["repeat"]), ("#123456", "dots"))
        page = self.client.get(reverse("shelf:edit", args=[paper.pk]))
        self.assertContains(page, 'value="216 gsm"')
        self.assertContains(page, 'value="0.25')
        self.assertContains(self.client.get(reverse("shelf:shelf")), "216 g/m²")
        self.assertContains(self.post(name="Other", weight="80 lb"), "Pounds of cover or of text?")

    def test_what_the_lists_know_of_a_paper(self):
        self.post(back="none", weight="200 gsm")
        found = next(paper for paper in known_papers(Paper.objects.all()) if paper.name == "Kite Tail")
        # About 1.25 cm³ a gram (common practice): 200 g/m² are a quarter of a millimetre.
        self.assertEqual((found.two_sided, found.caliper, found.measured, found.clear), (False, 250, False, False))

    def test_papers_as_lines_are_put_there_all_or_none(self):
        url = reverse("shelf:lines")
        wrong = self.client.post(url, {"lines": "Lagoon, letter\nSand, shiny", "unit": "in"})
        self.assertContains(wrong, "Line 2: Sand, shiny")
        self.assertContains(wrong, "Lagoon, letter")
        twice = self.client.post(url, {"lines": "Lagoon\nlagoon", "unit": "in"})
        self.assertContains(twice, "lagoon is on your shelf already")
        self.assertFalse(Paper.objects.of(self.user).filter(name__iexact="lagoon").exists())
        right = self.client.post(url, {"lines": "Lagoon, letter, 0.42\nSky Dots, patterned", "unit": "in"}, follow=True)
        self.assertContains(right, "2 papers are on the shelf.")
        self.assertEqual(Paper.objects.get(name="Sky Dots").repeat, "dots")

    def test_a_pad_as_lines_is_a_pad_and_its_papers_all_or_none(self):
        url = reverse("shelf:lines")
        lines = "Pad Kite Ends, 6 x 6, 9.25\n8 stripes, one way\n16 small dots"
        done = self.client.post(url, {"lines": lines, "unit": "in"}, follow=True)
        self.assertContains(done, "2 papers are on the shelf. Pads: Kite Ends, 24 sheets.")
        pad = Pad.objects.of(self.user).get()
        names = {paper.key: paper.name for paper in Paper.objects.of(self.user)}
        held = {names[key]: number for key, number in pad.holds.items()}
        self.assertEqual(held, {"Kite Ends Stripes": 8, "Kite Ends Small dots": 16})
        self.assertEqual(pad.price, Decimal("9.25"))
        again = self.client.post(url, {"lines": "Pad Kite Ends, 6 x 6\n8 waves", "unit": "in"})
        self.assertContains(again, "A pad called Kite Ends is on your shelf already")
        self.assertFalse(Paper.objects.of(self.user).filter(name="Kite Ends Waves").exists())

    def test_the_starter_shelf_can_be_taken_as_it_is(self):
        for unit, sheet in (("in", "letter"), ("mm", "a4")):
            page = self.client.get(reverse("shelf:lines"), {"starter": unit})
            lines = page.context["form"].initial["lines"]
            self.client.post(reverse("shelf:lines"), {"lines": lines, "unit": unit})
            self.assertEqual(Paper.objects.of(self.user).get(name="Cream").sheet, sheet)
            Paper.objects.of(self.user).exclude(pk=self.paper.pk).delete()

    def test_a_photo_of_the_sheet_is_its_swatch_until_it_is_taken_away(self):
        out = io.BytesIO()
        Image.new("RGB", (900, 600), "#336699").save(out, "PNG")
        url = reverse("shelf:swatch", args=[self.paper.pk])
        self.client.post(url, {"photo": SimpleUploadedFile("a.png", out.getvalue())})
        paper = Paper.objects.get(pk=self.paper.pk)
        self.assertTrue(paper.photo.startswith("data:image/jpeg;base64,"))
        self.assertLess(len(paper.photo), 20_000)
        channels = [int(paper.colour[k : k + 2], 16) for k in (1, 3, 5)]
        self.assertTrue(all(abs(a - b) < 4 for a, b in zip(channels, (0x33, 0x66, 0x99), strict=True)), paper.colour)
        self.assertContains(self.client.get(reverse("shelf:shelf")), paper.photo)
        wrong = self.client.post(url, {"photo": SimpleUploadedFile("a.png", b"no photo")}, follow=True)
        self.assertContains(wrong, "Upload a valid image")
        self.client.post(url, {"away": "1"})
        self.assertEqual(Paper.objects.get(pk=self.paper.pk).photo, "")

    def test_side_b_has_a_photo_of_its_own_where_it_is_another(self):
        out = io.BytesIO()
        Image.new("RGB", (400, 600), "#aa5511").save(out, "PNG")
        url, page = reverse("shelf:swatch", args=[self.paper.pk]), reverse("shelf:edit", args=[self.paper.pk])
        self.assertNotContains(self.client.get(page), "side B</h2>")
        Paper.objects.filter(pk=self.paper.pk).update(back="other")
        colour = Paper.objects.get(pk=self.paper.pk).colour
        sent = {"photo": SimpleUploadedFile("b.png", out.getvalue()), "side": "b"}
        self.assertContains(self.client.post(url, sent, follow=True), "side B, is drawn by its photo")
        paper = Paper.objects.get(pk=self.paper.pk)
        self.assertEqual((paper.photo, paper.colour), ("", colour))
        self.assertTrue(paper.side_b["photo"].startswith("data:image/jpeg;base64,"))
        self.assertEqual(len(paper.main_colours("b")), 1)
        self.client.post(url, {"away": "1", "side": "b"})
        self.assertEqual(Paper.objects.get(pk=self.paper.pk).side_b["photo"], "")
