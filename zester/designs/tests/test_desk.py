"""The design desk: reading, keeping, conflicts."""

import json
from html import unescape

from django.urls import reverse

from tests.people import SignedInTests, make_class, make_paper
from zester.classes.models import CardClass, ClassCard
from zester.classes.services import use_card
from zester.designs.models import Card
from zester.site.regions import Region

HTMX = {"headers": {"HX-Request": "true"}}


class DeskTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, "Mat 4 x 5¼ brass")
        self.card = Card.objects.get()

    def read(self, text: str, editor: str = "one", saves: int | None = None, **more):
        self.card.refresh_from_db()
        data = {"cut_list": text, "editor": editor, "saves": self.card.saves if saves is None else saves}
        return self.client.post(reverse("classes:read", args=[self.card_class.pk, "A"]), data | more, **HTMX)

    def test_every_line_is_answered(self):
        page = self.read("Base 8½ x 5½ brass score 4¼\n2 Tag 2⅛ x 2¾ brass\nStrip 0.3 x 4 brass")
        self.assertContains(page, "A1")
        self.assertContains(page, "scored at 4¼ in from the left")
        self.assertContains(page, "2 ×")
        self.assertContains(page, "nearest marks are ¼ and 5⁄16 in")
        self.assertContains(page, "1&nbsp;line to mend")

    def test_what_the_page_has_already_is_not_sent_again(self):
        text = "Base 8½ x 5½ brass score 4¼\nMat 4 x 5 brass"
        first = self.read(text)
        shown = first["HX-Trigger"]
        parts = json.loads(shown)["zester:parts"]
        self.assertLessEqual({"readings", "drawing", "checks", "state", "tab"}, set(parts))
        again = self.read(text + "\n# remark", shown_parts=json.dumps(parts))
        for part in ('id="drawing"', 'id="checks"', 'id="mend-A"'):
            self.assertContains(first, part)
            self.assertNotContains(again, part)
        self.assertContains(again, 'id="readings"')
        same = self.read(text + "\n# remark", shown_parts=json.dumps(json.loads(again["HX-Trigger"])["zester:parts"]))
        self.assertNotContains(same, 'id="readings"')
        self.assertEqual(same["HX-Reswap"], "none")
        # Where something else stood in the place of the lines they are sent again.
        refused = self.read("\n" * 2_000)
        self.assertEqual(json.loads(refused["HX-Trigger"])["zester:parts"], {})
        for nonsense in ("{", "[]", "5", "[" * 9_000, '{"readings": []}'):
            self.assertContains(self.read(text, shown_parts=nonsense), 'id="readings"')

    def test_a_letter_that_changes_nothing_that_counts_counts_nothing_anew(self):
        counted = CardClass.objects.get().counted_at
        answer = self.read("Mat 4 x 5¼ brass\n# remark")
        self.assertIn("zester:uncounted", answer["HX-Trigger"])
        self.assertEqual(CardClass.objects.get().counted_at, counted)
        for text in ("Mat 4 x 5 brass", "Mat 4 x", "Mat 4 x 5 brass\n+ 3 gems", "2 Mat 4 x 5 brass"):
            self.assertNotIn("zester:uncounted", self.read(text)["HX-Trigger"])
            self.assertIsNone(CardClass.objects.get().counted_at, text)
            self.client.get(reverse("fits:strip", args=[self.card_class.pk]))
            self.assertGreater(CardClass.objects.get().counted_at, counted, text)
            counted = CardClass.objects.get().counted_at

    def test_a_count_of_people_is_asked_about_with_those_who_come(self):
        for text in ("12 sets: Mat 4 x 5 brass", "for the ladies 3 Tags 2 x 3 brass", "Tag 2 x 3 brass for 12 people"):
            self.assertContains(self.read(text), "To Evening 4 people come, and the count makes it for each of them")
        self.assertNotContains(self.read("Tag 2 x 3 brass 12"), "people come")

    def test_what_is_typed_is_kept_right_or_wrong(self):
        text = "  odd   spacing\r\nMat 0.3 x\n\n"
        self.read(text)
        self.card.refresh_from_db()
        self.assertEqual(self.card.cut_list, text.replace("\r\n", "\n"))
        self.assertContains(self.client.get(reverse("classes:card", args=[self.card_class.pk, "A"])), "Mat 0.3 x")

    def test_two_windows_do_not_overwrite_each_other_unseen(self):
        saves = self.card.saves
        self.read("Mat 4 x 5 brass", editor="one", saves=saves)
        page = self.read("Mat 3 x 3 brass", editor="two", saves=saves)
        self.assertContains(page, "changed in another window")
        self.card.refresh_from_db()
        self.assertEqual(self.card.cut_list, "Mat 4 x 5 brass")
        self.read("Mat 3 x 3 brass", editor="two", saves=saves, force="1")
        self.card.refresh_from_db()
        self.assertEqual(self.card.cut_list, "Mat 3 x 3 brass")

    def test_one_window_may_save_ahead_of_its_answers(self):
        saves = self.card.saves
        self.read("M", editor="one", saves=saves)
        page = self.read("Ma", editor="one", saves=saves)
        self.assertNotContains(page, "another window")

    def test_a_list_without_end_is_refused_and_the_kept_one_stays(self):
        page = self.read("x" * 40_001)
        self.assertContains(page, "40,000 letters")
        self.card.refresh_from_db()
        self.assertEqual(self.card.cut_list, "Mat 4 x 5¼ brass")

    def test_markup_in_a_list_is_shown_as_text(self):
        page = self.read("<script>alert(1)</script> 4 x 5 brass")
        self.assertNotContains(page, "<script>alert")
        self.assertContains(page, "&lt;script&gt;")

    def test_new_cards_get_the_next_free_letter_and_the_counts_of_the_others(self):
        ClassCard.objects.update(each=2)
        self.client.post(reverse("classes:new_card", args=[self.card_class.pk]), {"name": "Comet"})
        self.assertEqual(ClassCard.objects.get(card__name="Comet").letter, "B")
        self.assertEqual(ClassCard.objects.get(card__name="Comet").each, 2)
        page = self.client.post(reverse("classes:new_card", args=[self.card_class.pk]), {"name": " "}, follow=True)
        self.assertContains(page, "A card needs a name")

    def test_a_class_holds_26_cards(self):
        for number in range(25):
            self.client.post(reverse("classes:new_card", args=[self.card_class.pk]), {"name": f"Card {number}"})
        page = self.client.post(
            reverse("classes:new_card", args=[self.card_class.pk]), {"name": "One more"}, follow=True
        )
        self.assertContains(page, "A class holds 26 cards")

    def test_a_card_is_taken_out_of_one_class_and_put_back(self):
        other = make_class(self.user)
        use_card(other, self.card)
        entry = ClassCard.objects.get(card_class=self.card_class)
        ClassCard.objects.filter(pk=entry.pk).update(each=3)
        page = self.client.post(reverse("classes:remove_card", args=[self.card_class.pk, "A"]), follow=True)
        self.assertContains(page, "Undo")
        self.assertContains(page, "kept in the library")
        self.assertContains(page, "What is the first card called?")
        # The other class and the library keep it.
        self.assertContains(self.client.get(reverse("classes:desk", args=[other.pk])), "Mat 4 x 5¼ brass")
        self.assertContains(self.client.get(reverse("designs:library")), "in Evening (A)")
        self.assertEqual(self.client.get(reverse("classes:card", args=[self.card_class.pk, "A"])).status_code, 404)
        self.client.post(reverse("classes:put_back", args=[entry.pk]))
        self.assertContains(self.client.get(reverse("classes:desk", args=[self.card_class.pk])), "Mat 4 x 5¼ brass")
        # Taken from the library instead, it has its letter and counts again.
        self.client.post(reverse("classes:remove_card", args=[self.card_class.pk, "A"]))
        self.client.post(reverse("classes:new_card", args=[self.card_class.pk]), {"design": self.card.pk})
        entry.refresh_from_db()
        self.assertEqual((entry.removed_at, entry.letter, entry.each), (None, "A", 3))
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.post(reverse("classes:put_back", args=[entry.pk])).status_code, 404)

    def test_the_ruler_decides_what_a_bare_number_means(self):
        self.client.post(reverse("classes:edit_card", args=[self.card_class.pk, "A"]), {"name": "Kite", "ruler": "mm"})
        self.assertContains(self.read("Mat 105 x 148 brass"), "105 × 148 mm")

    def test_without_scripts_the_form_saves_too(self):
        data = {"cut_list": "Tag 2 x 3 brass", "editor": "e", "saves": self.card.saves}
        page = self.client.post(reverse("classes:read", args=[self.card_class.pk, "A"]), data, follow=True)
        self.assertContains(page, "Tag 2 x 3 brass")

    def test_a_letter_nobody_has_is_not_found(self):
        self.assertEqual(self.client.get(reverse("classes:card", args=[self.card_class.pk, "Z"])).status_code, 404)

    def test_the_help_is_in_the_readers_unit(self):
        self.client.post(reverse("region"), Region(unit="mm", paper="a4").stored())
        page = self.client.get(reverse("designs:notation")).content.decode()
        example = page.split("<pre", 1)[1].split(">", 1)[1].split("</pre>", 1)[0]
        words = unescape(page.split('<main id="main">')[1].split("</main>")[0].replace(example, ""))
        # All ways to write a length are told to everybody.
        words = words.replace("4¼ · 4 1/4 · 4-1/4 · 4.25 · 4.25&quot; ·", "").split("Lengths</h2>")
        self.assertNotRegex(words[0] + words[1].split("</p>", 1)[1], "[⅛¼½¾⅜]|1/16")
        for name in ("Star Chart", "Midnight Dome", "Chalk Moon"):
            make_paper(self.user, name, "a4")
        Card.objects.update(ruler="mm")
        answer = self.read(example)
        self.assertNotContains(answer, "to mend")
        self.assertContains(answer, "Everything fits together")

    def test_the_help_fits_the_reader(self):
        # Every example line of the help page is one the reader understands.
        page = self.client.get(reverse("designs:notation")).content.decode()
        example = page.split("<pre", 1)[1].split(">", 1)[1].split("</pre>", 1)[0]
        for name in ("Star Chart", "Midnight Dome", "Chalk Moon"):
            make_paper(self.user, name)
        answer = self.read(example)
        self.assertNotContains(answer, "to mend")
        self.assertContains(answer, "A7")
        self.assertContains(answer, "Everything fits together")
