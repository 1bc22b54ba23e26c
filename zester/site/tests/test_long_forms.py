"""Forms with very many rows: three thousand are taken, more are refused in words with what was typed."""

from django.conf import settings
from django.urls import reverse

from tests.people import SignedInTests, make_class
from zester.classes.models import Participant
from zester.core.kits.offers import MOST_PEOPLE
from zester.core.tests.share import each_of
from zester.shelf.models import Entry, Paper
from zester.shelf.stock_views import lying_of

ROWS = 3_000


class LongFormTests(SignedInTests):
    def papers(self, number: int) -> None:
        """So many papers on the shelf."""
        size = {"owner": self.user, "width": 320, "height": 320}
        Paper.objects.bulk_create([Paper(name=f"Paper {each:04}", **size) for each in range(number)])

    def test_a_shelf_of_three_thousand_rows_is_counted(self):
        self.papers(ROWS - 1)
        rows = lying_of(self.user, list(Paper.objects.of(self.user).prefetch_related("sheets")))
        self.assertEqual(len(rows), ROWS)
        # Each has what was seen of it beside what was counted; most were not counted now.
        data = {row.name: "7" if place % 300 == 0 else "" for place, row in enumerate(rows)}
        data |= {f"seen-{row.name}": "" for row in rows}
        answer = self.client.post(reverse("shelf:take_stock"), data, follow=True)
        self.assertContains(answer, "Counted: 10 differences are booked.")
        self.assertEqual(Entry.objects.filter(count=7).count(), 10)

    def test_a_wrong_number_among_them_keeps_all_others(self):
        self.papers(400)
        rows = lying_of(self.user, list(Paper.objects.of(self.user).prefetch_related("sheets")))
        data = {row.name: str(place) for place, row in enumerate(rows)} | {rows[7].name: "many"}
        page = self.client.post(reverse("shelf:take_stock"), data)
        self.assertContains(page, "Write a whole number from 0 to", count=1)
        for place in (0, 100, 400):
            self.assertContains(page, f'value="{place}" autocomplete="off"')
        self.assertEqual(Entry.objects.count(), 0)

    def test_more_fields_than_a_form_can_have_are_refused_with_what_was_typed(self):
        data = {f"n{number}": "7" for number in range(settings.DATA_UPLOAD_MAX_NUMBER_FIELDS)} | {"last": "typed here"}
        page = self.client.post(
            reverse("shelf:take_stock"),
            "&".join(f"{name}={value}" for name, value in data.items()),
            content_type="application/x-www-form-urlencoded",
        )
        self.assertContains(page, "too many rows at once", status_code=413)
        self.assertContains(page, "20,000", status_code=413)
        self.assertContains(page, "typed here", status_code=413)

    def test_all_people_of_a_large_class_are_ticked_at_once(self):
        made = make_class(self.user, "Mat 4 x 5¼ brass", participants=0)
        people = [Participant(card_class=made, name=f"Guest {number}") for number in range(MOST_PEOPLE)]
        Participant.objects.bulk_create(people)
        who = [f"{person.pk}-booked" for person in each_of(made.people.all())]
        answer = self.client.post(reverse("classes:states", args=[made.pk]), {"state": "paid", "who": who}, follow=True)
        self.assertContains(answer, f"{MOST_PEOPLE} people: paid.")

    def test_a_preview_of_more_people_than_a_class_has_loses_none_of_them(self):
        made = make_class(self.user, "Mat 4 x 5¼ brass", participants=0)
        lines = [f"Guest {number}" for number in range(MOST_PEOPLE + 120)]
        page = self.client.post(reverse("classes:add_people", args=[made.pk]), {"line": lines})
        self.assertContains(page, f"{MOST_PEOPLE} people at once are the most")
        for line in (lines[0], lines[MOST_PEOPLE], lines[-1]):
            self.assertContains(page, f'value="{line}"')
        self.assertEqual(made.people.count(), 0)
