"""Questions that are prepared give what Django gives for the same question, whatever is asked."""

from unittest import mock

from django.contrib.auth import get_user_model
from django.db import models
from django.test import TestCase
from django.urls import reverse

from zester.classes.models import CardClass
from zester.demo.data import TITLE, load
from zester.site.owned import mine_or_404
from zester.site.prepared import Prepared, prepared

PLAIN = Prepared.__call__


def told(row: object) -> object:
    """All that is known of a row, with what was read with it."""
    if not isinstance(row, models.Model):
        return row
    related = {name: told(other) for name, other in row._state.fields_cache.items() if other is not None}
    return type(row), {name: value for name, value in row.__dict__.items() if not name.startswith("_")}, related


class PreparedTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        load("orla")
        cls.user = get_user_model().objects.get(username="orla")
        cls.card_class = CardClass.objects.get(owner=cls.user, title=TITLE)

    def setUp(self):
        self.client.force_login(self.user)
        self.asked: dict[str, int] = {}

    def compared(self, question: Prepared, *values):
        """As without this, compared with the same question put together anew."""
        rows = PLAIN(question, *values)
        if all(value != [] for value in values):
            expected = [told(row) for row in question.build(*values)]
            self.assertEqual([told(row) for row in rows], expected, question.__name__)
        self.asked[question.__name__] = self.asked.get(question.__name__, 0) + bool(rows)
        return rows

    def test_all_that_pages_and_keystrokes_ask(self):
        pk = self.card_class.pk
        pages = ("design/A", "count", "fit", "papers", "cut", "pack", "people", "pack/hand-out", "strip")

        def compare(question: Prepared, *values):
            return self.compared(question, *values)

        with mock.patch.object(Prepared, "__call__", compare):
            for _ in range(2):
                for page in pages:
                    self.assertEqual(self.client.get(f"/classes/{pk}/{page}/").status_code, 200, page)
            self.client.get("/classes/")
            text = self.card_class.class_cards.get(letter="A").card.cut_list.replace("3⅞ x 1¾", "3¾ x 1¾")
            data = {"cut_list": text, "saves": 0, "editor": "one-1", "shown_parts": "{}"}
            answer = self.client.post(reverse("classes:read", args=[pk, "A"]), data, headers={"HX-Request": "true"})
            self.assertEqual(answer.status_code, 200)
        with_rows = {name for name, number in self.asked.items() if number}
        self.assertGreater(len(self.asked), 20)
        self.assertGreater(len(with_rows), 12, with_rows)

    def test_the_same_question_with_other_values_lists_of_other_lengths_and_words(self):
        titled = prepared(lambda owner, titles: CardClass.objects.filter(owner=owner, title__in=titles).order_by("pk"))
        both = [each.title for each in CardClass.objects.filter(owner=self.user).order_by("pk")]
        self.assertEqual([each.title for each in titled(self.user.pk, both)], both)
        self.assertEqual([each.title for each in titled(self.user.pk, [TITLE])], [TITLE])
        self.assertEqual(titled(self.user.pk + 1, both), [])
        with self.assertNumQueries(0):
            self.assertEqual(titled(self.user.pk, []), [])
            self.assertEqual(titled(10**20, both), [])

    def test_what_is_compared_in_another_way_is_refused(self):
        dated = prepared(lambda date: CardClass.objects.filter(date=date))
        with self.assertRaises(TypeError):
            dated(None)
        like = prepared(lambda word: CardClass.objects.filter(title__contains=word))
        with self.assertRaises(TypeError):
            like("Star")

    def test_numbers_no_column_holds_and_others_things_are_not_found(self):
        for number in (10**30, 2**63, 0):
            self.assertEqual(self.client.get(f"/classes/{number}/count/").status_code, 404, number)
        stranger = get_user_model().objects.create_user("ines")
        self.client.force_login(stranger)
        self.assertEqual(self.client.get(f"/classes/{self.card_class.pk}/count/").status_code, 404)
        self.assertEqual(mine_or_404(CardClass, self.user, str(self.card_class.pk)), self.card_class)
