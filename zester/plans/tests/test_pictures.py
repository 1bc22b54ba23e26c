"""Pictures in a class: counted by name, fitted on whole sheets, never cut across."""

from django.urls import reverse

from tests.people import SignedInTests, fitted, make_class, make_paper
from zester.core.fitting.jobs.drawing import lay_parts
from zester.plans.kept import read_made
from zester.plans.models import PaperFit
from zester.plans.needs import OTHERS

OWL = "card 4¼ x 5½ side fold\nBase brass\nOwl one picture of an owl night pictures top 1"
MOON = "Moon picture of a moon night pictures bottom 1"


class PictureTests(SignedInTests):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.night = make_paper(cls.user, "Night Pictures", "6x6", kind="patterned", pictures="3 x 4: 4 owl, 8 moon")

    def fit(self, text: str, people: int) -> PaperFit:
        card_class = make_class(self.user, text, participants=people)
        fitted(card_class)
        return PaperFit.objects.get(class_paper__card_class=card_class, class_paper__paper=self.night)

    def test_a_sheet_gives_only_so_many_of_one(self):
        # Nine owls take three sheets, though these carry 36 pictures.
        fit = self.fit(OWL, 9)
        self.assertEqual(fit.shown.new_sheets, 3)
        self.assertEqual(fit.pieces["A2"]["count"], 9)
        # All parts of all three are cut apart: nobody knows which have the owls.
        self.assertEqual(fit.pieces[OTHERS]["count"], 3 * 12 - 9)
        self.assertIn("picture of owl", fit.pieces["A2"]["care"])

    def test_what_fits_on_the_same_sheets_takes_no_more(self):
        fit = self.fit(f"{OWL}\n{MOON}", 8)
        self.assertEqual(fit.shown.new_sheets, 2)
        self.assertEqual(
            {key: about["count"] for key, about in fit.pieces.items() if key != OTHERS}, {"A2": 8, "A3": 8}
        )

    def test_where_any_will_do_no_others_are_cut(self):
        fit = self.fit("card 4¼ x 5½ side fold\nBase brass\nBird one picture night pictures top 1", 13)
        self.assertEqual((fit.shown.new_sheets, set(fit.pieces)), (2, {"A2"}))

    def test_pictures_lie_where_they_are_printed(self):
        fit = self.fit(f"{OWL}\n{MOON}", 4)
        wide, high = self.night.width // 3, self.night.height // 4
        for layout in read_made(fit.shown).plan.layouts:
            for part in lay_parts(layout, self.night.width, self.night.height):
                if part.piece:
                    self.assertEqual((part.width, part.height, part.x % wide, part.y % high), (wide, high, 0, 0))

    def test_another_piece_of_the_same_paper_would_be_cut_across_them(self):
        fit = self.fit(f"{OWL}\nPanel 3 x 3 night pictures", 4)
        self.assertIn("A3 would be cut across its pictures", fit.problem)

    def test_the_shelf_says_what_is_wrong_with_them(self):
        address = reverse("shelf:edit", args=[self.night.pk])
        form = self.client.get(address).context["form"]
        data = {name: form[name].value() for name in form.fields if form[name].value() is not None}
        page = self.client.post(address, data | {"pictures": "twelve"})
        self.assertContains(page, "Write how many across and down")
        self.assertContains(page, "twelve")
