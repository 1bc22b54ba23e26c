"""What is done before the class, chosen in its settings: for it alone, for all to come, for the next new one."""

import datetime

from django.urls import reverse
from django.utils import timezone

from tests.people import SignedInTests, fitted, make_class
from zester.classes.models import CardClass, usually_before
from zester.classes.services import count_class, open_class
from zester.plans.models import PaperFit

LIST = "card 4¼ x 5½ side fold\nBase brass\nTag 2 x 3 brass, stamped\nSun 1 x 1 brass die-cut, circle"


class UsualTimesTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card_class = self.class_called("Spring")

    def class_called(self, title: str, owner=None, **more) -> CardClass:
        card_class = make_class(owner or self.user, LIST, **more)
        card_class.title = title
        card_class.save()
        return card_class

    def save(self, *kinds: str, **more):
        address = reverse("classes:edit", args=[self.card_class.pk])
        form = self.client.get(address).context["form"]
        data = {name: form[name].value() for name in form.fields if form[name].value() is not None}
        return self.client.post(address, data | {"beforehand": kinds} | more, follow=True)

    def times(self, card_class: CardClass) -> dict[str, list[str]]:
        """By the name of a piece when its jobs are done, as it was noted for the bench."""
        (fit,) = PaperFit.objects.filter(class_paper__card_class=card_class)
        return {about["name"]: [work["when"] for work in about["work"]] for about in fit.pieces.values()}

    def test_the_form_decides_what_lines_do_not(self):
        fitted(self.card_class)
        self.assertEqual(self.times(self.card_class), {"Base": ["before"], "Tag": ["class"], "Sun": ["before"]})
        self.assertContains(self.save("stamped"), "The class is saved")
        self.assertEqual(self.times(self.card_class), {"Base": ["class"], "Tag": ["before"], "Sun": ["class"]})
        self.save()
        self.assertEqual({when for each in self.times(self.card_class).values() for when in each}, {"class"})
        self.assertContains(self.save("juggled"), "Select a valid choice")

    def test_for_all_classes_to_come_but_not_for_those_that_are_over(self):
        today = timezone.localdate()
        coming = self.class_called("Summer", date=today + datetime.timedelta(days=30))
        over = self.class_called("Winter", date=today - datetime.timedelta(days=30))
        theirs = self.class_called("Theirs", self.stranger)
        self.save("stamped", everywhere="on")
        found = {each.title: each.beforehand for each in CardClass.objects.all()}
        self.assertEqual((found["Spring"], found["Summer"]), (["stamped"], ["stamped"]))
        self.assertEqual((found["Winter"], found["Theirs"]), (usually_before(), usually_before()))
        self.assertTrue(over.pk and theirs.pk and coming.pk)

    def test_a_new_class_begins_as_the_newest(self):
        self.save("stamped")
        new = open_class(CardClass(owner=self.user, title="Autumn"))
        self.assertEqual(new.beforehand, ["stamped"])

    def test_paper_that_people_cut_is_worked_by_them(self):
        self.card_class.papers.filter(paper=self.paper).update(pool="whole")
        usual = count_class(CardClass.objects.get(pk=self.card_class.pk)).usual
        self.assertIn(self.paper.key, usual.by_people)
