"""Closing a class: what it came to is kept, what to mind reaches the designs, the log has classes side by side."""

from __future__ import annotations

import csv
import datetime
import io
import json
import random
from decimal import Decimal

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from tests.people import SignedInTests, fitted, make_class
from zester.bags.models import Shortage
from zester.bench.models import CutLog, HandLog
from zester.classes.models import CardClass, Offer
from zester.classes.people import add_people, keep_offer, set_state
from zester.classes.services import copy_class
from zester.core.kits.order_lines import OrderLine
from zester.core.money.record import read_record, write_record
from zester.core.stock.offcut_lines import OffcutLine
from zester.demo.past import simulated
from zester.designs.desk import desk_of
from zester.designs.models import Card
from zester.designs.services import holdings_of
from zester.money.models import ClassRecord
from zester.plans.models import PaperFit
from zester.shelf.models import Entry, Paper
from zester.shelf.stock import put_offcuts

D = Decimal


class ClosingTests(SignedInTests):
    def setUp(self):
        super().setUp()
        Paper.objects.filter(pk=self.paper.pk).update(price=D("0.50"))
        self.card_class = make_class(self.user, f"Base 8½ x 5½ {self.paper.name}", participants=0)
        CardClass.objects.update(participants=0)
        self.card_class.class_cards.update(samples=0)
        keep_offer(Offer(card_class=self.card_class, name="kit", price=D("12")))
        lines = [OrderLine(name="Ines", state="paid"), OrderLine(name="Odo")]
        add_people(CardClass.objects.get(), lines)
        fit = fitted(self.card_class)
        # The paper was cut: a piece was spoiled, one more sheet opened; nineteen minutes in place of fifteen.
        about = {
            "owner": self.user,
            "plan": fit.shown,
            "paper": fit.name,
            "title": "Evening",
            "cut_at": fit.shown.made_at,
        }
        about |= {"planned_seconds": 900, "seconds": 1140, "sheets": 1, "more_sheets": 1, "offcuts": 2}
        spoiled = [{"kind": "piece", "label": "A1 Base", "count": 1, "reason": "wrong mark"}]
        CutLog.objects.create(**about, spoiled=spoiled)

    def url(self, name: str, *more) -> str:
        return reverse(f"money:{name}", args=[self.card_class.pk, *more])

    def close(self, **sent):
        return self.client.post(self.url("closing"), sent, follow=True)

    def test_it_is_kept_as_it_was_whatever_becomes_of_prices(self):
        page = self.client.get(self.url("closing"))
        # Two bases are one sheet of 0.50; one more was opened. Two kits bring 24.00, one is paid.
        for words in ("15, 19", "1&nbsp;piece; 1&nbsp;more sheet, $0.50", "$24.00, $1.00", "$23.00", "$12.00"):
            self.assertContains(page, words)
        card = Card.objects.get()
        page = self.close(**{f"lesson{card.pk}": "bow too high, 5 mm lower"})
        self.assertContains(page, "is closed. What it came to stands in the log")
        kept = read_record(ClassRecord.objects.get().kept)
        self.assertEqual((kept.left, kept.owing, kept.mistakes, kept.sheets), (D("23.00"), D("12.00"), 1, 1))
        self.assertEqual([(each.name, each.made, each.spoiled) for each in kept.designs], [(card.name, 2, 1)])
        Paper.objects.update(price=D("9"))
        Offer.objects.update(price=D("1"))
        self.assertContains(self.client.get(self.url("closing")), "$23.00")
        self.assertContains(self.client.get(reverse("money:log")), "$23.00")

    def test_a_copy_begins_with_what_was_learnt(self):
        CardClass.objects.update(notes="Bring cake.")
        Shortage.objects.create(card_class=self.card_class, thing="A1", count=2)
        again = copy_class(CardClass.objects.get())
        lines = again.notes.splitlines()
        self.assertEqual(lines[-1], "Bring cake.")
        self.assertIn("19 minutes at the trimmer, 15 reckoned", lines[0])
        self.assertIn("spoiled or missing: 3 A1", lines[1])
        self.assertIn("3 spares of every piece would have been enough", lines[2])
        # A copy of a copy says it once, and of its own class.
        third = copy_class(again)
        self.assertEqual(third.notes, "Bring cake.")

    def test_the_log_tells_mistakes_by_kind_and_offcuts_grown_old(self):
        self.close()
        line = OffcutLine(paper=self.paper.key, width=40640, height=40640, count=3, up="top", place="")
        put_offcuts(self.user, [line])
        page = self.client.get(reverse("money:log"))
        self.assertContains(page, "1&nbsp;piece in 1 class; $0.50 of paper in all")
        self.assertNotContains(page, "unmoved for")
        Entry.objects.update(at=timezone.now() - datetime.timedelta(days=200))
        self.assertContains(self.client.get(reverse("money:log")), "3&nbsp;offcuts lie there unmoved for 180 days")

    def test_a_torn_sheet_is_paid_too(self):
        log = CutLog.objects.get()
        log.spoiled, log.more_sheets = [{"kind": "sheet", "label": "sheet", "count": 2}], 0
        log.save()
        self.close()
        kept = read_record(ClassRecord.objects.get().kept)
        # Two sheets of 0.50 beside the one that is cut.
        self.assertEqual((kept.more_sheets, kept.mishaps_cost, kept.takes), (2, D("1.00"), D("1.50")))

    def test_what_becomes_of_the_cards_beside_the_kits_and_minutes_by_hand(self):
        self.card_class.class_cards.update(samples=3)
        about = {"owner": self.user, "card_class": self.card_class, "title": "Evening", "count": 2}
        HandLog.objects.create(**about, job="Score", usual_seconds=120, seconds=200)
        HandLog.objects.create(**about, job="Emboss", usual_seconds=60)
        self.assertContains(self.client.get(self.url("closing")), "2, 4")
        for wrong, words in (("x", "is no number of cards shown"), ("4", "3 were made beside the kits")):
            self.assertContains(self.close(shown=wrong), words)
            self.assertEqual(ClassRecord.objects.count(), 0)
        self.close(shown="1", given="1")
        # Said later: the third is kept.
        self.close(note="1", shown="1", given="1", kept_cards="1")
        kept = read_record(ClassRecord.objects.get().kept)
        self.assertEqual((kept.shown, kept.given, kept.kept_cards), (1, 1, 1))
        self.assertEqual(kept.hand_minutes, (2, 4))
        rows = list(
            csv.DictReader(io.StringIO(self.client.get(reverse("money:log_file", args=["csv"])).content.decode()))
        )
        self.assertEqual(
            [rows[0][name] for name in ("minutes by hand", "shown", "given away", "kept")], ["4", "1", "1", "1"]
        )

    def test_a_lesson_with_its_mend_is_offered_at_the_desk(self):
        card = Card.objects.get()
        self.close(**{f"lesson{card.pk}": f"too wide for the envelope → Base 8¼ x 5½ {self.paper.name}"})
        card.refresh_from_db()
        held = holdings_of(self.user)
        (lesson,) = desk_of(card, "A", held.known, held.papers).lessons
        self.assertEqual((lesson.line, lesson.text), (0, f"Base 8¼ x 5½ {self.paper.name}"))
        self.assertEqual(lesson.was, card.cut_list.split("\n")[0])
        page = self.client.get(reverse("designs:alone", args=[card.pk]))
        self.assertContains(page, "Write it into the list")
        # Written, it is not offered again; of a piece that is not there nothing is.
        card.cut_list = lesson.text
        self.assertEqual(desk_of(card, "A", held.known, held.papers).lessons[0].text, "")
        card.went_wrong = "bow too high -> Bow 1 x 3 brass\nno arrow"
        self.assertEqual([each.text for each in desk_of(card, "A", held.known, held.papers).lessons], ["", ""])

    def test_the_desk_shows_the_lesson_also_where_the_class_is_planned_once_more(self):
        card = Card.objects.get()
        self.close(**{f"lesson{card.pk}": "bow too high, 5 mm lower"})
        card.refresh_from_db()
        self.assertEqual(card.went_wrong, f"bow too high, 5 mm lower ({self.card_class.title})")
        again = copy_class(CardClass.objects.get(pk=self.card_class.pk))
        page = self.client.get(reverse("classes:card", args=[again.pk, "A"]))
        self.assertContains(page, "bow too high, 5 mm lower")
        # Written twice it stands there once; of a class that is closed it still reaches the design.
        self.close(**{f"lesson{card.pk}": "bow too high, 5 mm lower"})
        page = self.close(**{f"lesson{card.pk}": "thread 2 cm longer"})
        self.assertContains(page, "1 note written to the designs")
        card.refresh_from_db()
        self.assertEqual(card.went_wrong.count("bow too high"), 1)
        self.assertIn("thread 2 cm longer", card.went_wrong)

    def test_a_lesson_too_long_to_keep_closes_nothing_and_is_not_lost(self):
        Card.objects.update(went_wrong="x" * 3990)
        page = self.close(**{f"lesson{Card.objects.get().pk}": "bow too high, 5 mm lower"})
        self.assertContains(page, "is full")
        self.assertContains(page, 'value="bow too high, 5 mm lower"')
        self.assertEqual((CardClass.objects.get().closed_at, ClassRecord.objects.count()), (None, 0))

    def test_the_last_kit_handed_over_keeps_it_too_and_opened_again_it_is_reckoned_anew(self):
        people = {person.pk: person.state for person in self.card_class.people.all()}
        set_state(CardClass.objects.get(), people, "handed")
        self.assertEqual(read_record(ClassRecord.objects.get().kept).handed, 2)
        self.client.post(reverse("classes:open", args=[self.card_class.pk]))
        Paper.objects.update(price=D("1.00"))
        self.assertContains(self.client.get(self.url("closing")), "Close the class")
        self.close()
        self.assertEqual(ClassRecord.objects.count(), 1)

    def test_what_is_not_done_is_told_before_it_is_closed(self):
        page = self.client.get(self.url("closing"))
        self.assertContains(page, "Not cut: ")
        self.assertContains(page, "2&nbsp;bags not packed")
        PaperFit.objects.update(held="cut")
        self.assertNotContains(self.client.get(self.url("closing")), "Not cut: ")

    def test_one_that_was_closed_before_records_were_kept_says_so_and_can_be_kept(self):
        self.close()
        ClassRecord.objects.all().delete()
        self.assertContains(self.client.get(self.url("closing")), "closed before records were kept")
        self.assertContains(self.close(keep="1"), "stands in the log now")
        self.assertNotContains(self.client.get(self.url("closing")), "closed before records were kept")
        self.assertEqual(read_record(ClassRecord.objects.get().kept).left, D("23.00"))

    def test_a_deleted_class_leaves_its_record(self):
        self.close()
        CardClass.objects.all().delete()
        page = self.client.get(reverse("money:log"))
        self.assertContains(page, "Evening")
        self.assertContains(page, "$23.00")


class LogTests(SignedInTests):
    def records(self, count: int, **more) -> None:
        ClassRecord.objects.bulk_create(
            ClassRecord(owner=self.user, title=f"Class {at}", kept=write_record(simulated(random.Random(at))), **more)
            for at in range(count)
        )

    def test_nothing_closed_says_what_will_stand_there(self):
        self.assertContains(self.client.get(reverse("money:log")), "No class is closed yet")

    def test_a_hundred_classes_take_few_queries_and_the_files_say_what_the_page_says(self):
        self.records(100)
        with CaptureQueriesContext(connection) as asked:
            page = self.client.get(reverse("money:log"))
        self.assertLess(len(asked), 12)
        rows = list(csv.DictReader(io.StringIO(self.client.get("/log.csv").content.decode("utf-8-sig"))))
        self.assertEqual(len(rows), 100)
        told = json.loads(self.client.get("/log.json").content)
        self.assertEqual({row["class"] for row in told}, {row["class"] for row in rows})
        for row in rows[:5]:
            self.assertContains(page, f"${row['left']}")
            self.assertContains(page, f"{row['yield %']} %")
            self.assertEqual(D(row["brings"]) - D(row["costs"]), D(row["left"]))

    def test_what_is_made_up_says_so_and_nobody_sees_anothers(self):
        self.records(2, made_up=True)
        self.assertContains(self.client.get(reverse("money:log")), "never took place")
        self.client.force_login(self.stranger)
        self.assertContains(self.client.get(reverse("money:log")), "No class is closed yet")
        self.assertEqual(json.loads(self.client.get("/log.json").content), [])

    def test_a_simulated_class_holds_together(self):
        for seed in range(60):
            record = simulated(random.Random(seed))
            for paper in record.papers:
                self.assertLessEqual(paper.used + paper.kept, 1)
                self.assertLessEqual(paper.waste, paper.cost)
            self.assertGreaterEqual(record.kits, record.people)
            self.assertEqual(sum(design.spoiled for design in record.designs), record.mistakes)
            self.assertEqual(record, read_record(write_record(record)))
