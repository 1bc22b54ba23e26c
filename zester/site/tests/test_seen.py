"""Two windows on the same thing: what each saves, what each is told, and that nothing typed is lost."""

import json

from django.urls import reverse

from tests.people import SignedInTests, make_class, make_paper
from tests.windows import Window
from zester.classes.models import CardClass, ClassCard, Offer, Order, Participant, Trimmer
from zester.core.lengths import TICKS_PER_INCH
from zester.core.tests.share import each_of
from zester.designs.models import Card, Tool
from zester.shelf.models import Bit, Pad, Paper, Sheet

TOLD = "This was changed in another window, too."


class TwoWindows(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, "Base 4 x 5 brass")
        self.card, self.entry = Card.objects.get(), ClassCard.objects.get()
        self.tool = Tool.objects.create(owner=self.user, name="Circles", sizes=[[1016, 1016]])

    def two(self, name: str, holds: str, *args) -> tuple[Window, Window]:
        """Two windows on a page, by the name of its address."""
        url = reverse(name, args=args)
        return Window(self.client, url, holds), Window(self.client, url, holds)

    def check(self, windows: tuple[Window, Window], field: str, values: tuple[str, str], stored) -> None:
        """Both change the same field: the second is told, keeps what was typed, and chooses; ``stored`` tells."""
        one, two = windows
        one.send(**{field: values[0]})
        self.assertEqual(str(stored()), values[0])
        answer = two.send(**{field: values[1]})
        self.assertContains(answer, TOLD)
        self.assertContains(answer, values[0])
        self.assertEqual(two.fields[field], values[1])
        self.assertEqual(str(stored()), values[0])
        # Sent once more without choosing it is told again; then each choice does what it says.
        self.assertContains(two.send(), TOLD)
        prefix, _, name = field.rpartition("-")
        choice = f"{prefix}-choose_{name}" if prefix else f"choose_{name}"
        self.assertEqual(two.send(**{choice: "mine"}).status_code, 302)
        self.assertEqual(str(stored()), values[1])
        third = Window(self.client, two.url, two.holds)
        one.load(self.client.get(one.url))
        one.send(**{field: values[0]})
        third.send(**{field: values[1]})
        self.assertEqual(third.send(**{choice: "theirs"}).status_code, 302)
        self.assertEqual(str(stored()), values[0])

    def test_class_settings(self):
        windows = self.two("classes:edit", "title", self.card_class.pk)
        self.check(windows, "title", ("Morning", "Noon"), lambda: CardClass.objects.get().title)

    def test_the_count(self):
        windows = self.two("classes:count", "class-participants", self.card_class.pk)
        self.check(windows, "class-participants", ("11", "12"), lambda: CardClass.objects.get().participants)
        field = f"card{self.entry.pk}-samples"
        windows = self.two("classes:count", field, self.card_class.pk)
        self.check(windows, field, ("3", "4"), lambda: ClassCard.objects.get().samples)

    def test_a_paper(self):
        windows = self.two("shelf:edit", "price", self.paper.pk)
        self.check(windows, "price", ("1.25", "1.50"), lambda: Paper.objects.get().price)

    def test_the_notes_of_a_design(self):
        windows = self.two("designs:design", "notes", self.card.pk)
        self.check(windows, "notes", ("mind the glue", "mind the gap"), lambda: Card.objects.get().notes)

    def test_the_ruler_of_a_card_in_a_class(self):
        windows = self.two("classes:edit_card", "ruler", self.card_class.pk, "A")
        self.check(windows, "ruler", ("mm", "in32"), lambda: Card.objects.get().ruler)

    def test_a_tool(self):
        windows = self.two("designs:edit_tool", "typed_sizes", self.tool.pk)
        self.check(windows, "typed_sizes", ("2", "3"), lambda: Tool.objects.get().sizes[0][0] // TICKS_PER_INCH)

    def test_a_person_and_their_orders(self):
        offer = Offer.objects.create(card_class=self.card_class, name="full kit")
        person = Participant.objects.create(card_class=self.card_class, name="Ines")
        Order.objects.create(participant=person, offer=offer)
        args = self.card_class.pk, person.pk
        windows = self.two("classes:person", "note", *args)
        self.check(windows, "note", ("comes late", "comes early"), lambda: Participant.objects.get().note)
        field = f"offer{offer.pk}"
        windows = self.two("classes:person", field, *args)
        self.check(windows, field, ("2", "3"), lambda: Order.objects.get().count)

    def test_an_offer(self):
        offer = Offer.objects.create(card_class=self.card_class, name="full kit", price="30.00")
        windows = self.two("classes:offer", "price", self.card_class.pk, offer.pk)
        self.check(windows, "price", ("31.00", "32.00"), lambda: Offer.objects.get().price)
        windows = self.two("classes:offer", "card_A", self.card_class.pk, offer.pk)
        self.check(windows, "card_A", ("2", "3"), lambda: Offer.objects.get().cards["A"])

    def test_a_trimmer(self):
        trimmer = Trimmer.objects.create(owner=self.user)
        windows = self.two("classes:edit_trimmer", "stack", trimmer.pk)
        self.check(windows, "stack", ("4", "5"), lambda: Trimmer.objects.get().stack)

    def test_another_size_a_bit_and_a_pad(self):
        sides = {"sheet": "12x12", "width": 12 * TICKS_PER_INCH, "height": 12 * TICKS_PER_INCH}
        sheet = Sheet.objects.create(paper=self.paper, **sides)
        windows = self.two("shelf:edit_sheet", "price", self.paper.pk, sheet.pk)
        self.check(windows, "price", ("1.25", "1.50"), lambda: Sheet.objects.get().price)
        bit = Bit.objects.create(owner=self.user, name="gems", pack=100)
        windows = self.two("shelf:edit_bit", "pack_text", bit.pk)
        self.check(windows, "pack_text", ("200", "300"), lambda: Bit.objects.get().pack)
        kites = make_paper(self.user, "Kites", "6x6", kind="patterned")
        pad = Pad.objects.create(owner=self.user, name="Harbour pad", holds={kites.key: 2})
        field = f"holds_{kites.key}"
        windows = self.two("shelf:edit_pad", field, pad.pk)
        self.check(windows, field, ("3", "4"), lambda: Pad.objects.get().holds[kites.key])

    def test_fields_that_only_one_has_changed_come_together_and_that_is_said(self):
        one, two = self.two("classes:edit", "title", self.card_class.pk)
        one.send(title="Morning")
        two.send(participants="9")
        saved = CardClass.objects.get()
        self.assertEqual((saved.title, saved.participants), ("Morning", 9))
        self.assertContains(self.client.get(two.url), "As saved in another window: Title.")

    def test_an_unticked_box_is_a_change_like_any_other(self):
        one, two = self.two("classes:edit", "title", self.card_class.pk)
        del one.fields["auto_fit"]
        one.send()
        two.send(title="Noon")
        self.assertFalse(CardClass.objects.get().auto_fit)

    def test_both_to_the_same_is_no_conflict(self):
        one, two = self.two("classes:edit", "title", self.card_class.pk)
        one.send(title="Noon")
        self.assertEqual(two.send(title="Noon").status_code, 302)

    def test_a_page_that_stays_open_learns_what_is_stored(self):
        one, two = self.two("classes:count", "class-participants", self.card_class.pk)
        one.send(script=True, **{"class-participants": "9"})
        samples = f"card{self.entry.pk}-samples"
        answer = two.send(script=True, **{samples: "5"})
        told = json.loads(answer["HX-Trigger"])["zester:stored"]
        self.assertEqual(told["fields"], {"id_class-participants": "9"})
        two.fields |= {name.removeprefix("id_"): value for name, value in told["seen"].items()}
        two.fields["class-participants"] = "9"
        two.send(script=True, **{samples: "6"})
        self.assertEqual((CardClass.objects.get().participants, ClassCard.objects.get().samples), (9, 6))

    def test_a_script_is_told_of_a_conflict_beside_the_field(self):
        one, two = self.two("classes:count", "class-participants", self.card_class.pk)
        one.send(script=True, **{"class-participants": "9"})
        answer = two.send(script=True, **{"class-participants": "10"})
        self.assertContains(answer, TOLD)
        self.assertContains(answer, 'name="class-choose_participants"')
        self.assertEqual(CardClass.objects.get().participants, 9)

    def test_what_a_page_says_it_has_seen_may_be_nonsense(self):
        window = Window(self.client, reverse("classes:edit", args=[self.card_class.pk]), "title")
        for nonsense in ("", "{", "[1]", '{"title": 5}', "[" * 100_000, "x" * 200_000):
            self.assertEqual(window.send(seen=nonsense, title="Noon").status_code, 302, nonsense[:9])


class TheList(SignedInTests):
    """The same for the cut list, where nobody has scripts."""

    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, "Base 4 x 5 brass")
        self.urls = {
            "class": reverse("classes:card", args=[self.card_class.pk, "A"]),
            "library": reverse("designs:alone", args=[Card.objects.get().pk]),
        }

    def test_the_second_window_sees_both_lists_and_chooses(self):
        for where, url in each_of(self.urls.items()):
            with self.subTest(where):
                one, two = (Window(self.client, url, "cut_list") for _ in range(2))
                one.send(cut_list="Base 4 x 5 brass\n# one")
                answer = two.send(cut_list="Base 4 x 5 brass\n# two")
                self.assertContains(answer, "changed in another window")
                self.assertContains(answer, "# one")
                self.assertEqual(two.fields["cut_list"], "Base 4 x 5 brass\n# two")
                self.assertEqual(two.send(force="1").status_code, 302)
                self.assertEqual(Card.objects.get().cut_list, "Base 4 x 5 brass\n# two")
                # What the other window was told is saved lies among the kept lists.
                kept = Card.objects.get().editions.get()
                self.assertEqual((kept.name, kept.cut_list), ("from another window", "Base 4 x 5 brass\n# one"))
                kept.delete()

    def test_a_list_that_is_too_long_comes_back_whole(self):
        for text in ("x" * 41_000, "\n" * 1_200, "\u2028" * 1_200):
            window = Window(self.client, self.urls["class"], "cut_list")
            answer = window.send(cut_list=text)
            self.assertContains(answer, "Make a second card of the rest.")
            self.assertContains(answer, text[-500:], html=False)
            self.assertEqual(Card.objects.get().cut_list, "Base 4 x 5 brass")

    def test_names_that_are_too_long_come_back_whole_beside_what_is_wrong(self):
        name = "n" * 70
        for url, field in ((self.urls["class"], "name"), (reverse("designs:library"), "name")):
            answer = Window(self.client, url, field).send(name=name)
            self.assertContains(answer, "A name has up to 60 letters; this one has 70.")
            self.assertContains(answer, name)
        answer = self.client.post(reverse("designs:keep", args=[Card.objects.get().pk]), {"name": name})
        self.assertContains(answer, name)

    def test_a_very_long_list_is_answered_briefly(self):
        Card.objects.update(cut_list="\n" * 30_000)
        answer = self.client.get(self.urls["class"])
        self.assertLess(len(answer.content), 120_000)
        self.assertContains(answer, "A card’s list holds 200 lines")
