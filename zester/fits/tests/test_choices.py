"""The rules of the fit and the choices between plans, from the web page."""

import datetime
import json

from django.urls import reverse
from django.utils import timezone

from zester.classes.models import CardClass
from zester.core.choices import OWN
from zester.core.fitting.job import read_job
from zester.core.lengths import TICKS_PER_INCH
from zester.designs.models import Card
from zester.fits.models import Advice, Fit
from zester.site.tests.people import SignedInTests, fitted, make_class

INCH = TICKS_PER_INCH


class PageTests(SignedInTests):
    LIST = "Mat 4 x 5¼ brass\n4 Tag 2⅛ x 2¾ brass"

    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, self.LIST, participants=8)

    def open(self):
        return self.client.get(reverse("fits:sheets", args=[self.card_class.pk]))

    def post(self, view: str, key: int | None = None, **data):
        """What the page says after posting; what was queued has run by then."""
        with self.captureOnCommitCallbacks(execute=True):
            answer = self.client.post(reverse(f"fits:{view}", args=[key or self.card_class.pk]), data)
        return self.client.get(answer["Location"]) if answer.status_code == 302 else answer

    def fit(self, **changes) -> dict:
        """The class changed, then fitted: the first paper's plan as plain data."""
        if changes:
            CardClass.objects.filter(pk=self.card_class.pk).update(**changes)
        found = fitted(CardClass.objects.get(pk=self.card_class.pk))
        self.assertEqual(found.problem, "")
        return json.loads(found.plan)["papers"][0]


class RuleTests(PageTests):
    def test_margins_of_a_paper_are_kept_and_drawn(self):
        self.paper.margin_left, self.paper.margin_bottom = INCH // 2, INCH
        self.paper.save()
        self.fit()
        page = self.open()
        self.assertContains(page, "Within the margins")
        # 8 × 10 in are left, which hold 4 × 5¼ mats two by one and turned no better: no longer four on a sheet.
        self.assertGreater(json.loads(Fit.objects.first().plan)["papers"][0]["sheets"], 4)

    def test_margins_that_leave_nothing_are_refused_beside_the_field(self):
        data = {"name": "X", "kind": "card", "sheet": "letter", "supply": "buy", "direction": "free", "pack": "1"}
        data |= {"colour": "#112233", "repeat": "dots", "margin_left": "4 1/4", "margin_right": "4.25"}
        page = self.client.post(reverse("shelf:new"), data)
        self.assertContains(page, "The margins leave nothing of the sheet")
        self.assertContains(page, 'value="4 1/4"')

    def test_a_pack_of_nothing_is_refused_in_plain_words(self):
        data = {"name": "X", "kind": "card", "sheet": "letter", "supply": "buy", "direction": "free", "pack": "0"}
        page = self.client.post(reverse("shelf:new"), data | {"colour": "#112233", "repeat": "dots"})
        self.assertContains(page, "A pack holds at least 1 sheet.")

    def test_a_piece_that_the_margins_leave_no_room_for_is_named(self):
        self.paper.margin_left = self.paper.margin_top = 4 * INCH
        self.paper.save()
        Card.objects.update(cut_list="Base 5½ x 8½ brass")
        page = self.open()
        self.assertContains(page, "“A1” (5½ × 8½ in) is larger than every sheet of Telescope Brass")
        self.assertContains(page, "Mind the margins")

    def test_a_trimmer_too_short_for_a_sheet_stands_in_the_way(self):
        CardClass.objects.update(longest_cut=8 * INCH)
        page = self.open()
        self.assertContains(page, "does not reach across 8½ × 11 in")
        self.assertContains(page, "Telescope Brass: the trimmer")
        self.assertNotContains(page, "sheets[0]")

    def test_the_trimmer_is_set_with_the_class(self):
        data = {"title": "E", "participants": 8, "ruler": "in16", "stack": 3, "keep_short": "1", "keep_long": "3"}
        self.client.post(
            reverse("classes:edit", args=[self.card_class.pk]), data | {"longest_cut": "8½", "narrowest": ""}
        )
        self.card_class.refresh_from_db()
        self.assertEqual((self.card_class.longest_cut, self.card_class.narrowest), (17 * INCH // 2, 0))
        self.assertEqual(self.fit()["short"], [])

    def test_a_paper_with_stripes_is_turned_half_a_turn_only(self):
        self.paper.direction = "half"
        self.paper.save()
        Card.objects.update(cut_list="Panel 5½ x 4¼ brass")
        self.assertEqual(self.fit()["sheets"], 4)
        self.assertContains(self.open(), "half a turn only")

    def test_hidden_middles_matched_pieces_and_fillers_come_from_the_list(self):
        Card.objects.update(
            cut_list="Mat 4 x 5¼ brass middle 3 x 4\nMoon 2 x 2 brass from a middle\n"
            "2 Door 1 x 5 brass match doors\nTag ½ x 3 brass filler"
        )
        plan = self.fit()
        self.assertIn("window", {layout.get("source") for layout in plan["layouts"]})
        page = self.open()
        self.assertContains(page, "hidden middle")
        self.assertContains(page, "for free")
        steps = self.client.get(reverse("bench:steps", args=[self.card_class.pk]))
        self.assertContains(steps, "Out of the hidden middles")
        job = read_job(Fit.objects.first().job).papers[0]
        self.assertEqual(job.matched[0].pieces, ("A3", "A3"))


class PoolTests(PageTests):
    def test_everybodys_own_sheets(self):
        self.fit()
        page = self.post("pool", paper="Telescope Brass", pool="own")
        self.assertContains(page, '<option value="own" selected>')
        # One mat and four tags a person take a sheet each.
        self.assertContains(page, "8&nbsp;sheets</strong> like this")

    def test_portions_cut_up_at_home(self):
        self.fit()
        page = self.post("pool", paper="Telescope Brass", pool="portions")
        self.assertContains(page, "cut up at home like this")
        self.assertContains(page, "1&nbsp;portion a person")

    def test_no_other_way_to_pool(self):
        self.assertContains(self.post("pool", paper="Telescope Brass", pool="lottery"), "no way to pool")


class PinTests(PageTests):
    def test_a_pinned_layout_stays_when_the_rest_is_fitted_anew(self):
        plan = self.fit()
        page = self.post("pin", Fit.objects.get().pk, paper="Telescope Brass", layout=0)
        self.assertContains(page, '<span class="pinned">pinned</span>')
        self.assertContains(page, "On to the trimmer")
        again = self.fit(participants=9)
        kept = [layout for layout in again["layouts"] if layout.get("pinned")]
        self.assertEqual([layout["cuts"] for layout in kept], [plan["layouts"][0]["cuts"]])
        page = self.post("unpin", paper="Telescope Brass", layout=0)
        self.assertNotContains(page, '<span class="pinned">pinned</span>')

    def test_a_pin_that_no_longer_goes_with_the_list_says_so_and_can_be_let_go(self):
        self.fit()
        self.post("pin", Fit.objects.get().pk, paper="Telescope Brass", layout=0)
        Card.objects.update(cut_list="Mat 3 x 3 brass")
        page = self.open()
        self.assertContains(page, "pinned layout 1")
        page = self.post("unpin")
        self.assertNotContains(page, "pinned layout 1")

    def test_pins_and_pools_follow_a_paper_that_is_renamed(self):
        self.fit()
        self.post("pin", Fit.objects.get().pk, paper="Telescope Brass", layout=0)
        data = {"name": "Dome Brass", "kind": "card", "sheet": "letter", "supply": "buy", "direction": "free"}
        data |= {"pack": "1", "colour": "#112233", "repeat": "dots"}
        self.client.post(reverse("shelf:edit", args=[self.paper.pk]), data)
        self.card_class.refresh_from_db()
        self.assertEqual(list(self.card_class.pins), ["Dome Brass"])

    def test_a_layout_that_is_not_there_cannot_be_pinned(self):
        self.fit()
        self.assertEqual(self.post("pin", Fit.objects.get().pk, paper="Telescope Brass", layout=99).status_code, 404)


class AdviceTests(PageTests):
    def setUp(self):
        super().setUp()
        self.plan = self.fit()
        self.found = Fit.objects.get()

    def test_other_plans_free_seats_and_near_misses(self):
        self.assertContains(self.open(), "Look for other plans")
        page = self.post("ask", self.found.pk)
        self.assertContains(page, "Plans to choose from")
        self.assertContains(page, "Everybody’s own sheets")
        self.assertContains(page, "Free seats:")
        self.assertContains(page, "9 people need")
        self.assertContains(page, "Near misses:")

    def test_another_plan_is_taken(self):
        self.post("ask", self.found.pk)
        page = self.post("take", self.found.pk, paper="Telescope Brass", plan=OWN)
        self.assertContains(page, "the other plan is taken")
        self.assertContains(page, "8&nbsp;sheets</strong> like this")
        self.assertContains(page, "✓ this one")
        newest = Fit.objects.first()
        self.assertEqual(read_job(newest.job).papers[0].pool, "own")
        self.assertContains(page, "On to the trimmer")

    def test_a_plan_for_a_class_that_has_changed_is_not_taken(self):
        self.post("ask", self.found.pk)
        CardClass.objects.update(participants=20)
        page = self.post("take", self.found.pk, paper="Telescope Brass", plan=OWN)
        self.assertContains(page, "has changed since these plans were made")
        self.assertEqual(Fit.objects.count(), 1)

    def test_progress_is_shown_and_a_dead_worker_does_not_block(self):
        Advice.objects.create(fit=self.found, status=Fit.Status.WORKING, words="Brass: 12 people")
        page = self.client.get(reverse("fits:advice", args=[self.found.pk]))
        self.assertContains(page, "Brass: 12 people")
        Advice.objects.update(told_at=timezone.now() - datetime.timedelta(minutes=5))
        self.assertContains(self.open(), "Try once more")
        self.assertContains(self.post("ask", self.found.pk), "Free seats:")

    def test_when_it_is_done_the_page_is_loaded_anew(self):
        Advice.objects.create(fit=self.found, status=Fit.Status.DONE)
        answer = self.client.get(reverse("fits:advice", args=[self.found.pk]))
        self.assertEqual((answer.status_code, answer["HX-Refresh"]), (204, "true"))

    def test_nobody_elses_plans_can_be_asked_about_pinned_or_taken(self):
        self.client.force_login(self.stranger)
        for view in ("ask", "pin", "take"):
            self.assertEqual(
                self.post(view, self.found.pk, paper="Telescope Brass", layout=0, plan=OWN).status_code, 404
            )
        for view in ("pool", "unpin"):
            self.assertEqual(self.post(view, paper="Telescope Brass", pool="own").status_code, 404)
        self.assertEqual(self.client.get(reverse("fits:advice", args=[self.found.pk])).status_code, 404)
