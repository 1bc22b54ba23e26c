"""What is cut is cut: who comes later gets a supplement, who goes leaves pieces over, and undoing asks."""

from django.urls import reverse

from tests.people import fitted
from zester.bench.models import CutLog, Run
from zester.bench.runs import cutting_of
from zester.classes.held import take_design
from zester.classes.models import CardClass
from zester.core.tests.share import each_of
from zester.designs.models import Card
from zester.plans.kept import read_made
from zester.plans.models import PaperFit
from zester.plans.tests.cases import PlanTests
from zester.shelf.models import Entry, Sheet
from zester.shelf.stock import stock_take


class SupplementTests(PlanTests):
    """Eight people, a mat and four tags each; the brass is cut, then the class changes."""

    def setUp(self):
        super().setUp()
        CardClass.objects.filter(pk=self.card_class.pk).update(keep_short=4000, keep_long=8000)
        stock_take(self.paper, None, 20)
        self.fit_now()

    def address(self, name: str, part: int = 1) -> str:
        key = self.paper.key if part == 1 else f"{self.paper.key}--{part}"
        return reverse(f"bench:{name}", args=[self.card_class.pk, key])

    def mark(self, state: str, part: int = 1, **data):
        return self.client.post(self.address("mark", part), {"state": state, **data}, follow=True)

    def cut(self, part: int = 1, **data):
        """All of it, and booked; the offcuts go back on the shelf."""
        self.mark("cutting", part)
        return self.mark("cut", part, **{"keep0": 99, "keep1": 99} | data)

    def parts(self) -> dict[int, PaperFit]:
        """What is needed of the paper, part by part."""
        return {
            fit.part: fit for fit in PaperFit.objects.exclude(need="").select_related("shown", "class_paper__paper")
        }

    def wanted(self, part: int) -> dict[str, int]:
        made = read_made(self.parts()[part].shown)
        return {piece.id: piece.count for piece in made.paper.pieces}

    def on_hand(self) -> int:
        self.paper.refresh_from_db()
        return self.paper.on_hand

    def grow(self, people: int) -> None:
        self.change(participants=people)
        fitted(self.card_class)

    def test_what_is_cut_is_never_offered_another_plan(self):
        self.cut()
        self.assertGreater(Entry.objects.filter(kind="left").count(), 0, "its own offcuts lie on the shelf")
        self.change(offcuts_first=True)
        fitted(self.card_class)
        fit = self.parts()[1]
        self.assertEqual((len(self.parts()), fit.answered, fit.offered, fit.short), (1, True, None, 0))
        for page in (self.page(), self.wall(), self.client.get(self.address("paper"))):
            self.assertNotContains(page, "Take the new plan")
            self.assertNotContains(page, "The class has changed")
        self.assertContains(self.page(), "what is cut is cut")
        # Nor is it taken back from there.
        self.assertContains(self.post("release", sure="yes"), "say at Cut that it is not after all")
        self.assertEqual(self.parts()[1].held, "cut")

    def test_two_people_more_are_two_peoples_pieces_more(self):
        self.cut()
        before = self.on_hand()
        self.grow(10)
        made = read_made(self.parts()[1].shown)
        there = {"A1": 0, "A2": 0}
        for layout in made.plan.layouts:
            for named in layout.parts:
                there[named.piece] += layout.copies
        more = {name: count - there[name] for name, count in {"A1": 10, "A2": 40}.items() if count > there[name]}
        self.assertTrue(more)
        self.assertEqual(self.wanted(2), more)
        supplement = self.parts()[2]
        self.assertEqual(supplement.name, "Telescope Brass, supplement")
        # It has its place on every page.
        address = [self.card_class.pk]
        for name in ("fits:wall", "bench:steps", "bench:evening", "bench:print", "classes:list"):
            page = self.client.get(reverse(name, args=address if name != "classes:list" else []))
            self.assertEqual(page.status_code, 200)
            if name != "classes:list":
                self.assertContains(page, "Telescope Brass, supplement", msg_prefix=name)
        self.assertContains(self.client.get(reverse("fits:paper", args=[*address, supplement.key])), "supplement")
        self.assertContains(self.client.get(reverse("bench:steps_json", args=address)), supplement.key)
        self.assertContains(self.client.get(reverse("fits:needs", args=address)), f"{self.paper.key}--2")
        short = self.client.get(reverse("bags:short", args=address))
        self.assertContains(short, "Still to be cut: Telescope Brass, supplement")
        for name, count in each_of(more.items()):
            self.assertContains(short, f"{count} still to be cut")
            self.assertContains(self.client.get(reverse("bags:pack", args=address)), f"{count} × {name}")
        # It is cut and booked for itself.
        self.assertEqual(Run.objects.count(), 1)
        self.cut(2)
        self.assertEqual((self.parts()[1].held, self.parts()[2].held, CutLog.objects.count()), ("cut", "cut", 2))
        self.assertEqual(before - self.on_hand(), supplement.shown.new_sheets)
        self.assertNotContains(self.client.get(reverse("bags:short", args=address)), "still to be cut")
        # What is cut is promised to nobody, and to be bought no more.
        (row,) = self.client.get(reverse("fits:needs", args=address)).context["rows"]
        self.assertEqual({(size.is_cut, size.others, size.lacking) for size in row.sizes}, {(True, 0, 0)})
        # Once more, and less again.
        self.grow(14)
        self.assertIn(3, self.parts())
        self.grow(10)
        self.assertNotIn(3, self.parts())

    def write(self, text: str) -> None:
        """The list of the card is another one, and the class takes it."""
        entry = self.card_class.class_cards.get()
        Card.objects.filter(pk=entry.card_id).update(cut_list=text)
        if entry.held:
            take_design(self.card_class.class_cards.get())
        fitted(self.card_class)

    def test_a_supplement_is_cut_from_what_is_left_of_the_paper(self):
        self.change(offcuts_first=True)
        self.write("Front 8½ x 6 brass")
        self.cut()
        self.assertEqual(Sheet.objects.get(is_offcut=True).on_hand, 8)
        self.write("Front 8½ x 6 brass\nTag 2 x 3 brass")
        self.assertEqual((self.wanted(2), self.parts()[2].shown.new_sheets), ({"A2": 8}, 0))
        self.assertGreater(self.parts()[2].shown.offcuts, 0)

    def test_a_supplement_that_is_like_the_one_before_has_steps_of_its_own(self):
        self.cut()
        self.grow(20)
        first = self.wanted(2)
        self.cut(2)
        more = max(first.values()) // 4
        self.grow(20 + more)
        third = self.parts()[3]
        self.assertNotEqual(third.shown_id, self.parts()[2].shown_id)
        self.assertIsNone(cutting_of(PaperFit.objects.get(pk=third.pk)))

    def test_who_comes_no_more_leaves_pieces_over_that_count_when_somebody_comes(self):
        self.cut()
        self.grow(6)
        self.assertEqual(list(self.parts()), [1])
        self.assertEqual(dict(self.parts()[1].over), {"A1": 2, "A2": 8})
        page = self.client.get(self.address("paper"))
        self.assertContains(page, "Cut, and wanted no more:")
        self.assertContains(page, "2 × A1 Mat")
        self.grow(8)
        self.assertEqual(self.parts()[1].over, [])
        self.assertNotContains(self.client.get(self.address("paper")), "wanted no more")

    def test_another_size_after_cutting_is_to_be_cut_and_the_old_one_is_over(self):
        self.cut()
        self.write("Mat 4 x 5 brass\n4 Tag 2⅛ x 2¾ brass")
        self.assertEqual(self.wanted(2), {"A1": 8})
        self.assertEqual(dict(self.parts()[1].over), {"A1": 8})

    def test_while_it_is_being_cut_more_people_are_a_supplement_too(self):
        self.mark("bench")
        shown = self.parts()[1].shown_id
        self.grow(30)
        self.assertEqual((self.parts()[1].shown_id, self.parts()[1].offered), (shown, None))
        self.assertIn(2, self.parts())
        # The sheets of both are promised.
        held = self.parts()[1].promised["sheet"]
        self.assertEqual([each.part for each in held], [1, 2])

    def test_taking_a_cut_back_says_what_follows_and_asks(self):
        before = self.on_hand()
        self.cut()
        self.grow(12)
        page = self.client.get(self.address("paper"))
        self.assertContains(page, "What was booked is taken back")
        self.assertContains(self.mark("not"), "read below what is given up")
        self.assertEqual(self.parts()[1].held, "cut")
        self.mark("not", sure="yes")
        fitted(self.card_class)
        self.assertEqual((list(self.parts()), self.parts()[1].held, self.on_hand()), ([1], "", before))
        self.assertEqual(self.wanted(1), {"A1": 12, "A2": 48})
        self.assertEqual((CutLog.objects.count(), Run.objects.count()), (0, 0))

    def test_a_first_plan_that_is_taken_back_makes_what_its_supplement_does_not(self):
        self.cut()
        self.grow(14)
        self.cut(2)
        made = self.wanted(2)
        self.mark("not", sure="yes")
        fitted(self.card_class)
        parts = self.parts()
        self.assertEqual((parts[1].held, parts[2].held), ("", "cut"))
        both = {name: self.wanted(1).get(name, 0) + made.get(name, 0) for name in ("A1", "A2")}
        self.assertLessEqual(both["A1"], 14)
        self.assertLessEqual(both["A2"], 56)
        self.assertGreater(sum(self.wanted(1).values()), 0)

    def test_what_could_not_be_made_is_made_by_a_supplement(self):
        self.mark("cutting")
        run = Run.objects.get()
        run.short = [["A1", 3]]
        run.save()
        self.mark("cut")
        fitted(self.card_class)
        self.assertEqual(self.wanted(2), {"A1": 3})

    def test_pins_and_pools_are_for_what_is_not_cut(self):
        self.cut()
        self.grow(20)
        address = [self.card_class.pk, self.parts()[2].key]
        self.client.post(reverse("fits:pin", args=address), {"layout": 0})
        self.assertEqual(self.parts()[2].class_paper.pins, [])
        page = self.client.post(reverse("fits:pool", args=address), {"pool": "own"}, follow=True)
        self.assertContains(page, "is cut")

    def test_a_stranger_has_no_supplement_of_mine(self):
        self.cut()
        self.grow(20)
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.get(self.address("paper", 2)).status_code, 404)
        self.client.force_login(self.user)
        for odd in (
            "--",
            f"{self.paper.key}--",
            f"{self.paper.key}--0",
            f"{self.paper.key}--9",
            f"{self.paper.key}--x",
        ):
            page = self.client.get(reverse("bench:paper", args=[self.card_class.pk, odd]))
            self.assertEqual(page.status_code, 404, odd)


class BoughtForItTests(PlanTests):
    """Sheets that the shelf does not have are asked about, and leave what was bought and used in the ledger."""

    def setUp(self):
        super().setUp()
        self.fit_now()
        self.address = reverse("bench:mark", args=[self.card_class.pk, self.paper.key])

    def mark(self, state: str, **data):
        return self.client.post(self.address, {"state": state, **data}, follow=True)

    def ledger(self) -> list[tuple[str, int]]:
        return list(Entry.objects.filter(paper=self.paper).order_by("pk").values_list("kind", "count"))

    def on_hand(self) -> int | None:
        self.paper.refresh_from_db()
        return self.paper.on_hand

    def test_nobody_counts_it(self):
        self.assertIsNone(self.on_hand())
        page = self.mark("cutting")
        self.assertContains(page, "Sheets that the shelf does not have")
        self.assertContains(page, "nobody counts them; bought for it:")
        asked = "4 sheets of letter, 8½ × 11 in did not come from the shelf: how many were bought?"
        self.assertContains(self.mark("cut"), asked)
        self.assertContains(self.mark("cut", bought0="four"), asked)
        self.mark("cut", bought0="4")
        self.assertEqual((self.ledger(), self.on_hand()), ([("bought", 4), ("used", -4)], None))
        self.mark("not", sure="yes")
        self.assertEqual((sum(count for _, count in self.ledger()), self.on_hand()), (0, None))

    def test_nobody_counts_it_and_nobody_bought_it(self):
        self.mark("cutting")
        self.mark("cut", bought0="0")
        self.assertEqual((self.ledger(), self.on_hand()), ([], None))

    def test_a_pack_was_opened_for_it(self):
        self.mark("cutting")
        self.mark("cut", bought0="20")
        self.assertEqual((self.ledger(), self.on_hand()), ([("bought", 20), ("used", -4)], 16))

    def test_there_are_too_few(self):
        stock_take(self.paper, None, 1)
        self.assertContains(self.mark("cutting"), "1 on the shelf; bought for it:")
        self.mark("cut", bought0="3")
        self.assertEqual((self.ledger()[1:], self.on_hand()), ([("bought", 3), ("used", -4)], 0))
        self.mark("not", sure="yes")
        self.assertEqual(self.on_hand(), 1)

    def test_more_lay_there_than_was_counted(self):
        stock_take(self.paper, None, 1)
        self.mark("cutting")
        self.mark("cut", bought0="0")
        self.assertEqual((self.ledger()[1:], self.on_hand()), ([("counted", 3), ("used", -4)], 0))

    def test_there_are_enough_and_nothing_is_asked(self):
        stock_take(self.paper, None, 9)
        self.assertNotContains(self.mark("cutting"), "Sheets that the shelf does not have")
        self.mark("cut")
        self.assertEqual((self.ledger()[1:], self.on_hand()), ([("used", -4)], 5))
