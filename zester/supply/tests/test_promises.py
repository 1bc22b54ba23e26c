"""Stock and reservations: random histories against a plain model; offcuts that are promised to nobody twice."""

import random
from collections import Counter

from django.urls import reverse

from tests.people import SignedInTests, make_class, make_paper, work_off
from zester.classes.models import CardClass
from zester.classes.services import recount
from zester.core.lengths import TICKS_PER_INCH
from zester.core.stock.offcut_lines import OffcutLine
from zester.core.tests.share import some
from zester.plans.models import PaperFit, Work
from zester.plans.needs import begin_class
from zester.shelf.models import Entry, Paper, Sheet
from zester.shelf.stock import balance, book, put_offcuts, stock_take
from zester.shelf.stock_views import lying_of
from zester.shelf.uses import plan_name
from zester.supply.booking import cut, let_go
from zester.supply.promises import promised_to

INCH = TICKS_PER_INCH
HISTORIES, STEPS = some(12), 14
LISTS = ("Mat 4 x 5 brass", "Mat 4 x 5 brass\nTag 2 x 3 brass", "Panel 8 x 5 brass", "3 Tag 2 x 2¾ brass")


class Counting(SignedInTests):
    def catch_up(self) -> None:
        """What workers do by and by: classes counted, plans found."""
        for _ in range(3):
            for card_class in CardClass.objects.of(self.user):
                recount(card_class.pk)
                begin_class(card_class)
                work_off(card_class, (Work.Kind.QUICK,))

    def fits(self) -> list[PaperFit]:
        rows = PaperFit.objects.filter(class_paper__card_class__removed_at=None, shown__isnull=False)
        return list(
            rows.select_related("class_paper__paper", "class_paper__card_class", "shown", "offered").order_by("pk")
        )


class HistoryTests(Counting):
    """Buying, fitting, refitting, cutting, spoiling, counting, giving away; beside it what a person would keep."""

    def test_random_histories(self):
        for seed in range(HISTORIES):
            with self.subTest(seed=seed):
                self.history(random.Random(seed))

    def history(self, dice: random.Random) -> None:
        CardClass.objects.all().delete()
        Paper.objects.all().delete()
        self.paper = make_paper(self.user, "Telescope Brass", price="0.50")
        self.lies: Counter = Counter()
        self.cut_plans: dict[int, Counter] = {}
        self.classes = [make_class(self.user, dice.choice(LISTS), participants=dice.randint(1, 9)) for _ in range(2)]
        stock_take(self.paper, None, 30)
        self.lies[None] = 30
        acts = (
            self.buy,
            self.spoil,
            self.count_it,
            self.give_away,
            self.offcut,
            self.refit,
            self.cut,
            self.cut_back,
            self.away,
        )
        for _ in range(STEPS):
            dice.choice(acts)(dice)
            self.catch_up()
            self.check()

    def kind(self, dice: random.Random) -> Sheet | None:
        return dice.choice([None, *Sheet.objects.filter(on_hand__gt=0)])

    def key(self, sheet: Sheet | None) -> int | None:
        return sheet.pk if sheet else None

    def buy(self, dice: random.Random) -> None:
        number = dice.randint(1, 9)
        book(self.paper, None, "bought", number)
        self.lies[None] += number

    def spoil(self, dice: random.Random) -> None:
        sheet = self.kind(dice)
        book(self.paper, sheet, "spoiled", 1)
        self.lies[self.key(sheet)] -= 1

    def give_away(self, dice: random.Random) -> None:
        sheet, number = self.kind(dice), dice.randint(1, 2)
        book(self.paper, sheet, "given", number)
        self.lies[self.key(sheet)] -= number

    def count_it(self, dice: random.Random) -> None:
        sheet, number = self.kind(dice), dice.randint(0, 25)
        stock_take(self.paper, sheet, number)
        self.lies[self.key(sheet)] = number

    def offcut(self, dice: random.Random) -> None:
        sides = {"width": dice.randint(3, 8) * INCH, "height": dice.randint(3, 11) * INCH}
        line = OffcutLine(paper=self.paper.key, count=dice.randint(1, 3), **sides)
        (sheet,) = put_offcuts(self.user, [line])
        self.lies[sheet.pk] += line.count

    def refit(self, dice: random.Random) -> None:
        CardClass.objects.filter(pk=dice.choice(self.classes).pk).update(participants=dice.randint(1, 12))

    def cut(self, dice: random.Random) -> None:
        waiting = [fit for fit in self.fits() if fit.held != PaperFit.Held.CUT]
        if not waiting:
            return
        fit = dice.choice(waiting)
        kept = [OffcutLine(paper=self.paper.key, width=3 * INCH, height=5 * INCH)] if dice.random() < 0.5 else []
        used = Counter({self.by_name(name): count for name, count in fit.shown.used.items()})
        cut(fit, done=True, kept=kept)
        moved = Counter({key: -count for key, count in used.items()})
        if kept:
            moved[Sheet.objects.get(width=3 * INCH, height=5 * INCH, place="").pk] += 1
        for key, count in moved.items():
            self.lies[key] += count
        self.cut_plans[fit.pk] = moved

    def cut_back(self, dice: random.Random) -> None:
        done = [fit for fit in self.fits() if fit.held == PaperFit.Held.CUT]
        if done:
            fit = dice.choice(done)
            let_go(fit)
            for key, count in self.cut_plans.pop(fit.pk).items():
                self.lies[key] -= count

    def away(self, dice: random.Random) -> None:
        card_class = CardClass.objects.get(pk=dice.choice(self.classes).pk)
        if card_class.removed_at:
            card_class.restore()
        else:
            card_class.remove()

    def by_name(self, name: str) -> int | None:
        return None if name == plan_name(None) else Sheet.objects.get(key=name).pk

    def check(self) -> None:
        self.paper.refresh_from_db()
        for sheet in [None, *Sheet.objects.all()]:
            there = self.paper.on_hand if sheet is None else sheet.on_hand
            self.assertEqual(there, self.lies[self.key(sheet)])
            self.assertEqual(balance(self.paper, sheet), there)
        wanted: Counter = Counter()
        for fit in self.fits():
            if fit.held != PaperFit.Held.CUT and (fit.need or fit.held):
                wanted.update(fit.shown.used)
        told: Counter = Counter()
        for each in promised_to(self.user.pk):
            told[each.sheet] += each.count
        self.assertEqual(told, wanted)
        for sheet in Sheet.objects.all():
            # An offcut is promised to nobody twice, and never one that is not there.
            self.assertLessEqual(told[sheet.key], max(0, sheet.on_hand))
        for each in lying_of(self.user, [self.paper]):
            self.assertEqual(each.held.free, each.held.on_hand - told[plan_name(each.sheet)])
        if any(count < 0 for count in self.lies.values()):
            page = self.client.get(reverse("shelf:shelf")).content.decode()
            # Below nothing is never unseen. An offcut that is below nothing stands there, too.
            self.assertIn('class="wrong">-', page)


class OffcutsInPlansTests(Counting):
    def setUp(self):
        super().setUp()
        self.first = make_class(self.user, "Mat 4 x 5 brass", participants=5)
        (self.offcut,) = put_offcuts(self.user, [OffcutLine(paper=self.paper.key, width=5 * INCH, height=6 * INCH)])
        self.catch_up()

    def fit_of(self, card_class: CardClass) -> PaperFit:
        return next(fit for fit in self.fits() if fit.class_paper.card_class_id == card_class.pk)

    def test_an_offcut_saves_a_sheet_and_is_reserved(self):
        shown = self.fit_of(self.first).shown
        # Four mats come out of a letter sheet, the fifth out of the offcut.
        self.assertEqual((shown.new_sheets, shown.offcuts, shown.saved_sheets, shown.proven), (1, 1, 1, True))
        page = self.client.get(reverse("shelf:offcuts"))
        self.assertContains(page, "reserved: 1 for Evening")
        wall = self.client.get(reverse("fits:wall", args=[self.first.pk]))
        self.assertContains(wall, "1 offcut saves 1 sheet")

    def test_another_class_is_not_promised_the_same_one(self):
        second = make_class(self.user, "Mat 4 x 5 brass", participants=5)
        self.catch_up()
        self.assertEqual((self.fit_of(second).shown.offcuts, self.fit_of(second).shown.new_sheets), (0, 2))
        self.first.remove()
        self.catch_up()
        self.assertEqual(self.fit_of(second).shown.offcuts, 1)

    def test_a_plan_found_while_another_class_took_the_offcut_is_not_shown(self):
        second = make_class(self.user, "Mat 4 x 5 brass", participants=5)
        # Counted before the first class was planned: both may take it, the first comes first.
        PaperFit.objects.update(shown=None)
        recount(second.pk)
        recount(self.first.pk)
        for card_class in (self.first, second):
            begin_class(card_class)
        work_off(self.first, (Work.Kind.QUICK,))
        work_off(second, (Work.Kind.QUICK,))
        self.assertEqual(self.fit_of(self.first).shown.offcuts, 1)
        shown = PaperFit.objects.get(class_paper__card_class=second).shown
        self.assertTrue(shown is None or shown.offcuts == 0)
        self.catch_up()
        self.assertEqual(self.fit_of(second).shown.offcuts, 0)

    def test_without_offcuts_first_none_is_taken_and_one_that_is_spoiled_is_planned_around(self):
        CardClass.objects.update(offcuts_first=False)
        self.catch_up()
        self.assertEqual(self.fit_of(self.first).shown.offcuts, 0)
        CardClass.objects.update(offcuts_first=True)
        self.catch_up()
        book(self.paper, self.offcut, "spoiled", 1)
        self.catch_up()
        self.assertEqual(self.fit_of(self.first).shown.new_sheets, 2)

    def test_a_plan_that_is_being_cut_stays_and_says_what_is_missing(self):
        fit = self.fit_of(self.first)
        cut(fit, done=False)
        book(self.paper, self.offcut, "spoiled", 1)
        self.catch_up()
        fit = self.fit_of(self.first)
        self.assertEqual((fit.shown.offcuts, fit.short), (1, 1))

    def test_cutting_books_what_was_used_and_keeps_what_is_left_over(self):
        stock_take(self.paper, None, 10)
        mark = reverse("bench:mark", args=[self.first.pk, self.paper.key])
        self.client.post(mark, {"state": "cutting"})
        page = self.client.get(reverse("bench:paper", args=[self.first.pk, self.paper.key]))
        self.assertContains(page, "Offcuts that go back on the shelf")
        self.client.post(mark, {"state": "cut", "keep0": "1", "place": "drawer"})
        self.paper.refresh_from_db()
        self.offcut.refresh_from_db()
        self.assertEqual((self.paper.on_hand, self.offcut.on_hand), (9, 0))
        left = Sheet.objects.get(place="drawer")
        entry = Entry.objects.filter(sheet=left).get()
        self.assertEqual((entry.kind, entry.by, entry.about), ("left", "by a plan", "Evening"))
        self.client.post(mark, {"state": "not", "sure": "yes"})
        self.paper.refresh_from_db()
        left.refresh_from_db()
        self.assertEqual((self.paper.on_hand, left.on_hand), (10, 0))

    def test_cut_twice_is_booked_once(self):
        stock_take(self.paper, None, 10)
        for _ in range(2):
            cut(self.fit_of(self.first), done=True)
        self.paper.refresh_from_db()
        self.assertEqual(self.paper.on_hand, 9)


class ServedInTurnTests(Counting):
    def test_who_comes_first_is_served_first(self):
        stock_take(self.paper, None, 3)
        late = make_class(self.user, "Mat 4 x 5 brass", participants=8, date="2027-05-01")
        soon = make_class(self.user, "Mat 4 x 5 brass", participants=8, date="2027-04-01")
        self.catch_up()
        shorts = {fit.class_paper.card_class_id: fit.short for fit in self.fits()}
        self.assertEqual(shorts, {soon.pk: 0, late.pk: 1})
        page = self.client.get(reverse("fits:needs", args=[late.pk]))
        self.assertContains(page, "2 planned, 3 on hand, 2 promised to other classes: 1 sheet to buy")
