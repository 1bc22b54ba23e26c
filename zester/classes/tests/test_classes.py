"""Planning a class and counting."""

from dataclasses import replace
from decimal import Decimal

from django.core.management import call_command
from django.urls import reverse

from tests.demo import load_demo
from tests.people import SignedInTests, make_class
from zester.bags.board import board_of
from zester.classes.models import CardClass, ClassCard, Trimmer
from zester.classes.services import count_class
from zester.core.cards.checks import check_card
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.tests.share import each_of
from zester.designs.services import known_to, study_card
from zester.plans.kept import read_made
from zester.plans.models import PaperFit

HTMX = {"headers": {"HX-Request": "true"}}


def entry(**changes) -> dict:
    """A filled-in class form."""
    data = {"title": "Kite Post", "date": "2027-03-06", "participants": "9", "ruler": "in16", "stack": "3"}
    data |= {"minutes": "150", "where": "room", "give_aways": "0", "spare_by": "kit", "spare_number": "0"}
    return {**data, "spare_percent": "0", "keep_short": "1", "keep_long": "3", **changes}


NEW = {"title": "Kite Post", "date": "2027-03-06", "participants": "9"}


class ClassTests(SignedInTests):
    def test_planning_a_class_leads_to_its_cards(self):
        response = self.client.post(reverse("classes:new"), NEW)
        card_class = CardClass.objects.get()
        self.assertRedirects(response, reverse("classes:desk", args=[card_class.pk]))
        self.assertEqual((card_class.owner, card_class.habit("keep_long")), (self.user, 3 * TICKS_PER_INCH))
        self.assertEqual((card_class.n_people, card_class.trimmer), (9, Trimmer.objects.get()))

    def test_a_metric_class_measures_in_millimetres_and_the_next_one_too(self):
        card_class = make_class(self.user)
        edit = reverse("classes:edit", args=[card_class.pk])
        self.client.post(edit, entry(ruler="mm", keep_short="25", keep_long="80"))
        self.assertEqual(CardClass.objects.get().keep_short, 25 * TICKS_PER_MM)
        self.client.post(reverse("classes:new"), NEW)
        self.assertEqual(CardClass.objects.latest("pk").ruler, "mm")

    def test_what_is_wrong_is_said_and_nothing_typed_is_lost(self):
        wrong = [
            ({"title": ""}, "This field is required"),
            ({"participants": "1000000"}, "up to 10000 people"),
            ({"participants": "0"}, "at least 1 person"),
            ({"participants": "-3"}, "Write 0 or more"),
            ({"participants": "many"}, "whole number"),
            ({"stack": "0"}, "At least 1 sheet"),
            ({"stack": "99"}, "make no clean cut"),
            ({"keep_short": "0.3"}, "nearest marks are ¼ and 5⁄16"),
            ({"date": "tomorrow"}, "valid date"),
            ({"order_by": "2027-03-07"}, "The class is on 6 March 2027"),
            ({"capacity": "0"}, "room for at least 1"),
            ({"minutes": "0"}, "Write 5 or more."),
            ({"minutes": "99999"}, "At most 1440."),
            ({"stack": "-1"}, "At least 1 sheet is cut at a time."),
            ({"spare_number": "2", "spare_percent": "5"}, "so many or a share"),
            ({"spare_percent": "200"}, "At most 100 per cent"),
        ]
        card_class = make_class(self.user)
        edit = reverse("classes:edit", args=[card_class.pk])
        for changes, words in wrong:
            with self.subTest(changes=changes):
                page = self.client.post(edit, entry(**changes))
                self.assertContains(page, words)
                for value in each_of(changes.values()):
                    self.assertContains(page, value)
        self.assertEqual((CardClass.objects.get().title, CardClass.objects.get().stack), ("Evening", None))
        for changes, words in wrong[:5]:
            self.assertContains(self.client.post(reverse("classes:new"), NEW | changes), words)

    def test_a_first_class_is_asked_for_little_and_wrong_answers_stay_in_their_fields(self):
        few = {"first": "1", "title": "Lagoon Evening", "participants": "12", "ruler": "mm"}
        for changes, words in (({"participants": "many"}, "whole number"), ({"title": ""}, "This field is required")):
            page = self.client.post(reverse("classes:new"), few | changes)
            self.assertContains(page, words)
            self.assertContains(page, "Plan your first class")
        self.assertFalse(CardClass.objects.exists())
        self.client.post(reverse("classes:new"), few)
        made = CardClass.objects.get()
        self.assertEqual((made.participants, made.unit, made.habit("stack"), made.auto_fit), (12, "mm", 3, True))

    def test_removing_and_undoing(self):
        card_class = make_class(self.user)
        page = self.client.post(reverse("classes:remove", args=[card_class.pk]), follow=True)
        self.assertContains(page, "Undo")
        self.assertEqual(self.client.get(reverse("classes:desk", args=[card_class.pk])).status_code, 404)
        self.client.post(reverse("classes:restore", args=[card_class.pk]))
        self.assertEqual(self.client.get(reverse("classes:desk", args=[card_class.pk])).status_code, 200)

    def test_a_class_has_its_trimmers_habits_until_it_says_otherwise(self):
        trimmer = Trimmer.objects.create(owner=self.user, stack=5, keep_short=2 * TICKS_PER_INCH)
        card_class = make_class(self.user, trimmer=trimmer)
        self.assertContains(self.client.get(reverse("classes:edit", args=[card_class.pk])), 'placeholder="2 in"')
        self.assertEqual((card_class.habit("stack"), card_class.habit("keep_short")), (5, 2 * TICKS_PER_INCH))
        self.client.post(reverse("classes:edit", args=[card_class.pk]), entry(stack="2", trimmer=trimmer.pk))
        self.assertEqual(CardClass.objects.get().habit("stack"), 2)


class CountTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, "Base 8½ x 5½ brass\n3 Tag 2 x 3 brass", participants=14)
        self.entry = ClassCard.objects.get()
        self.url = reverse("classes:count", args=[self.card_class.pk])

    def count(self, participants="14", each="2", samples="1", spares="0", **how):
        prefix = f"card{self.entry.pk}"
        data = {"class-participants": participants, f"{prefix}-each": each, f"{prefix}-samples": samples}
        return self.client.post(self.url, {**data, f"{prefix}-spares": spares}, **how)

    def test_the_tally_follows_and_says_how(self):
        page = self.count(**HTMX)
        self.assertContains(page, "14 people × 2 + 1 sample = 29 cards; 3 in each card: 29 × 3 = 87")
        self.assertContains(page, "116&nbsp;pieces")

    def test_what_is_wrong_is_said_beside_its_field_and_the_old_count_stays(self):
        for wrong, words in [
            ({"participants": "1000000"}, "up to 10000 people"),
            ({"participants": ""}, "This field is required"),
            ({"each": "-1"}, "Write 0 or more"),
            ({"each": "9999"}, "At most 100"),
            ({"spares": "x"}, "whole number"),
        ]:
            with self.subTest(wrong=wrong):
                page = self.count(**wrong, **HTMX)
                self.assertContains(page, words)
                self.assertContains(page, "14 people × 1 = 14 cards")
        self.card_class.refresh_from_db()
        self.assertEqual(self.card_class.participants, 14)

    def test_without_scripts_wrong_numbers_stay_in_their_fields(self):
        page = self.count(participants="1000000")
        self.assertContains(page, 'value="1000000"')
        self.assertRedirects(self.count(spares="2"), self.url)

    def test_lines_to_mend_are_not_counted_and_that_is_said(self):
        self.entry.card.cut_list += "\nBad 0.3 x 4 brass"
        self.entry.card.save()
        self.assertContains(self.client.get(self.url), "1&nbsp;line cannot be read and is not counted")

    def test_the_packing_list_has_every_piece_of_a_bag(self):
        page = self.client.get(reverse("bags:pack", args=[self.card_class.pk]))
        self.assertContains(page, '<b data-sum="bags">0 of 14</b>')
        (stack,) = board_of(self.card_class).stacks
        self.assertIn("Tag", [line.name for line in stack.lines])


class DemoTests(SignedInTests):
    def test_the_demo_is_loaded_once_and_every_paper_is_proven(self):
        load_demo()
        call_command("load_demo", verbosity=0)
        evening, by_post = (
            CardClass.objects.get(title="Stargazer Card Evening"),
            CardClass.objects.get(title="Kite Post"),
        )
        # Seven designs and the kit list; fourteen people who come, two who wait; nine homes.
        self.assertEqual((evening.n_people, evening.class_cards.count(), evening.people.count()), (14, 8, 16))
        self.assertEqual((by_post.n_people, by_post.unit, by_post.class_cards.count()), (9, "mm", 7))
        fits = PaperFit.objects.all()
        self.assertEqual(len(fits), 22)
        short = set()
        for fit in fits:
            self.assertTrue(fit.answered, fit)
            self.assertTrue(fit.shown.proven, fit)
            self.assertEqual(fit.shown.missing, 0, fit)
            short |= {fit.paper.name} if fit.short else set()
        # There is something to buy, so that there is a list to look at; offcuts save something.
        self.assertEqual(short, {"Kite Tails"})
        self.assertTrue(any(fit.shown.saved_sheets for fit in fits))

    def test_the_demo_has_cards_of_many_constructions_and_none_with_a_fault(self):
        load_demo()
        folds, pockets, bands, middles, matched = set(), 0, 0, 0, 0
        for card_class in each_of(CardClass.objects.all()):
            for card in each_of(count_class(card_class).designs):
                with self.subTest(card=card.entry.card.name):
                    study = study_card(card.entry.card, known_to(card_class.owner))
                    self.assertEqual(card.errors, [])
                    self.assertEqual([finding.what for finding in check_card(study) if finding.grave], [])
                    folds.add(study.folded.fold)
                    pockets += bool(study.folded.pocket)
                    bands += any(piece.role == "band" for piece in study.pieces)
                    middles += any(piece.middle for piece in study.pieces)
                    matched += any(piece.match for piece in study.pieces)
        self.assertEqual(folds, {"side", "top", "gate", "none"})
        self.assertTrue(pockets and bands and middles and matched)

    def test_no_paper_of_the_demo_needs_more_sheets_than_rectpack_finds(self):
        from zester.core.fitting.tests.test_engine import rectpack_sheets

        load_demo()
        for fit in each_of(PaperFit.objects.filter(class_paper__card_class__title="Stargazer Card Evening")):
            made = read_made(fit.shown)
            if made.paper.pool != "together":
                # What is handed out whole is not packed for the class.
                continue
            with self.subTest(paper=fit.paper.name):
                usual = replace(made.paper, sheets=made.paper.sheets[:1])
                self.assertLessEqual(fit.shown.new_sheets, rectpack_sheets(usual))


class BitsAndVersionsTests(SignedInTests):
    def setUp(self):
        super().setUp()
        text = "Mat 4 x 5 brass\nStar 1 x 1 brass only stepped\n+ 6 foam squares\n+ 12 in thread only stepped"
        self.card_class = make_class(self.user, text, participants=10)
        self.url = reverse("classes:count", args=[self.card_class.pk])

    def test_a_version_decides_which_lines_are_counted_and_packed(self):
        self.assertNotContains(self.client.get(self.url), "Star")
        entry = self.card_class.class_cards.get()
        prefix = f"card{entry.pk}"
        data = {"class-participants": "10", f"{prefix}-each": "1", f"{prefix}-samples": "0", f"{prefix}-spares": "0"}
        page = self.client.post(self.url, data | {f"{prefix}-version": "stepped"}, follow=True)
        self.assertContains(page, "A2</span> Star")
        self.assertContains(page, "120 in")
        (stack,) = board_of(CardClass.objects.get()).stacks
        self.assertIn(("thread", "1 × 12 in"), [(line.name, line.count) for line in stack.lines])
        wrong = self.client.post(self.url, data | {f"{prefix}-version": "other"})
        self.assertContains(wrong, "other is not one of the available choices")

    def test_bits_are_added_up_over_the_cards(self):
        page = self.client.get(self.url)
        self.assertContains(page, "foam squares")
        self.assertContains(page, ">60<")


class HourTests(SignedInTests):
    """What an hour at the trimmer is worth: asked beside its other habits."""

    def test_nothing_means_nothing_and_what_is_none_says_how(self):
        trimmer = Trimmer.objects.create(owner=self.user, hour_worth=5)
        url = reverse("classes:edit_trimmer", args=[trimmer.pk])
        page = self.client.get(url)
        fields = {field.html_name: field.value() for field in page.context["form"]}
        fields = {name: "" if value is None else value for name, value in fields.items()}
        for written, words in (
            ("-3", "Write 0 or more"),
            ("999999999", "Write an amount up to 9,999.99."),
            ("12.345", "at most two places after the point"),
            ("soon", "Enter a number"),
        ):
            with self.subTest(written):
                self.assertContains(self.client.post(url, fields | {"hour_worth": written}), words)
                trimmer.refresh_from_db()
                self.assertEqual(trimmer.hour_worth, 5)
        for written, worth in (("", 0), ("12.50", Decimal("12.50"))):
            self.assertRedirects(self.client.post(url, fields | {"hour_worth": written}), reverse("classes:trimmers"))
            trimmer.refresh_from_db()
            self.assertEqual(trimmer.hour_worth, worth)
