"""What can I make of these: asked, found by a worker, planned as a class."""

from __future__ import annotations

from unittest.mock import patch

from django.urls import reverse

from tests.people import SignedInTests, fitted, make_class, make_paper
from zester.classes.models import CardClass
from zester.classes.services import count_class
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.stock.offcut_lines import OffcutLine
from zester.designs.models import Card
from zester.making import looking
from zester.making.models import Look
from zester.shelf.models import Paper
from zester.shelf.stock import put_offcuts, stock_take

LIST = "Base 8½ x 5½ brass\nMat 4 x 5¼ brass"


class MakingTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card = Card.objects.create(owner=self.user, name="Moon gate", cut_list=LIST)

    def put(self, *sizes: tuple[float, float, int]):
        lines = [
            OffcutLine(
                paper=self.paper.key, width=int(w * INCH), height=int(h * INCH), count=count, up="top", place="box 2"
            )
            for w, h, count in sizes
        ]
        return put_offcuts(self.user, lines)

    def look(self, of: str = "offcuts"):
        """Asked for, looked through by a worker; the page."""
        self.client.post(reverse("making:look"), {"act": "ask", "of": of})
        looking.look_task.func(Look.objects.get(owner=self.user).pk)
        return self.client.get(reverse("making:page"))

    def test_a_design_out_of_offcuts_with_its_steps(self):
        self.put((8.5, 5.5, 2), (4, 5.25, 1), (4.25, 5.5, 1))
        page = self.look()
        self.assertContains(page, "Moon gate")
        self.assertContains(page, "1 design looked through")
        (entry,) = Look.objects.get().found["cards"]
        self.assertEqual((entry["count"], entry["exact"]), (2, True))
        (paper,) = entry["papers"]
        # Both half sheets whole, the mats out of the other two: no step for what has its size already.
        self.assertEqual(sum(layout["copies"] for layout in paper["layouts"]), 4)
        self.assertContains(page, "Rail to")
        self.assertContains(page, "Hand behind the guard")
        # The same out of an opened pack: the sheets of a full one stay.
        Paper.objects.filter(pk=self.paper.pk).update(pack=10)
        stock_take(self.paper, None, 12)
        self.assertEqual(self.look("odd").context["cards"][0]["count"], 4)

    def test_what_lacks_a_paper_what_is_small_and_what_waits_to_be_mended(self):
        make_paper(self.user, "Chalk Moon")
        Card.objects.create(owner=self.user, name="Two papers", cut_list="Mat 4 x 5 brass\nPanel 3 x 4 chalk moon")
        Card.objects.create(owner=self.user, name="Not read", cut_list="Mat 4 by brass, or so")
        self.put((4.25, 11, 1))
        page = self.look()
        self.assertContains(page, "a sheet of Chalk Moon would have to be")
        self.assertContains(page, "wait to be mended: Not read")
        # Common practice: a half sheet of 4¼ × 11 is eight tags of 2⅛ × 2¾.
        tags = page.context["small"][0]["things"][0]
        self.assertEqual((tags["name"], tags["count"]), ("tags", 8))
        self.card.remove()
        self.assertNotContains(self.client.get(reverse("making:page")), "Moon gate")

    def test_what_a_class_is_planned_with_is_not_used_twice_and_the_class_to_cut_first_is_named(self):
        self.put((8.5, 5.5, 2), (4, 5.25, 2))
        card_class = make_class(self.user, LIST, participants=2)
        card_class.class_cards.update(samples=0)
        fitted(card_class)
        page = self.look()
        self.assertContains(page, "Cut first")
        (row,) = page.context["first"]
        self.assertEqual((row["card_class"], row["offcuts"], row["sheets"]), (card_class, 4, 2))
        self.assertEqual(page.context["cards"], [])

    def test_planned_as_a_class_of_kits_for_the_shelf(self):
        self.put((8.5, 5.5, 2), (4, 5.25, 2))
        self.look()
        address = reverse("making:plan", args=[self.card.pk])
        self.assertContains(self.client.post(address, {"count": "0"}, follow=True), "1 to 100")
        self.client.post(address, {"count": "2"})
        made = CardClass.objects.get(title__startswith="Moon gate")
        counted = count_class(made)
        self.assertEqual((counted.cards_of("A"), counted.people), (2, 0))
        fit = fitted(made)
        self.assertEqual((fit.shown.new_sheets, fit.shown.offcuts), (0, 4))
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.post(address, {"count": "2"}).status_code, 404)
        self.assertNotContains(self.client.get(reverse("making:page")), "Moon gate")

    def test_stopped_asked_twice_and_gone_wrong(self):
        self.put((8.5, 5.5, 2))
        with self.captureOnCommitCallbacks() as asked:
            for _ in range(2):
                self.client.post(reverse("making:look"), {"act": "ask", "of": "eaten"})
        self.assertEqual(len(asked), 1)
        self.assertEqual(Look.objects.get().of, "offcuts")
        self.assertContains(self.client.get(reverse("making:looking")), "every 1s")
        self.client.post(reverse("making:look"), {"act": "stop"})
        looking.look_task.func(Look.objects.get().pk)
        self.assertEqual(Look.objects.get().state, "stopped")
        self.client.post(reverse("making:look"), {"act": "ask"})
        with patch.object(looking, "lying_on", side_effect=OSError), self.assertLogs("zester.making", "ERROR"):
            looking.look_task.func(Look.objects.get().pk)
        self.assertContains(self.client.get(reverse("making:page")), "Ask for it once more")

    def test_the_page_of_somebody_who_has_nothing(self):
        self.assertContains(self.client.get(reverse("making:page")), "No offcuts lie on your")
        self.assertContains(self.look(), "No design comes out of it whole")
