"""People, offers, papers taken in place of others; the calendar file; copying a class."""

import datetime
import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar

from tests.people import SignedInTests, fitted, make_class, make_paper
from zester.bags.board import board_of
from zester.classes.models import CardClass, Offer, Order, Participant, Substitution
from zester.classes.people import add_people, keep_offer
from zester.classes.services import copy_class, count_class, next_date
from zester.core.kits.order_lines import OrderLine
from zester.plans.models import PaperFit
from zester.shelf.services import keep_paper
from zester.site.removed import purge

LIST = "Base 8½ x 5½ brass\n2 Panel 3 x 4 chalk"


class PeopleTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.chalk = make_paper(self.user, "Chalk Moon", "12x12", kind="patterned")
        self.card_class = make_class(self.user, LIST, participants=6)

    def url(self, name: str, *more) -> str:
        return reverse(f"classes:{name}", args=[self.card_class.pk, *more])

    def offer(self, name: str, **more) -> Offer:
        keep_offer(Offer(card_class=self.card_class, name=name, **more))
        return Offer.objects.get(name=name)

    def add(self, lines: str, **more):
        return self.client.post(self.url("add_people"), {"lines": lines, **more}, follow=True)

    def counts(self) -> dict[str, int]:
        counted = count_class(CardClass.objects.get())
        return {entry.handle: entry.count for entry in counted.counts}

    def test_names_take_the_places_of_people_without_one(self):
        page = self.add("Ines\nOdo, paid\nTove, waiting")
        self.assertContains(page, "2 of those who had no name yet have one now")
        self.card_class.refresh_from_db()
        self.assertEqual((self.card_class.participants, self.card_class.n_people), (4, 6))
        self.assertEqual(self.counts()["A1"], 6)
        self.assertContains(page, "1 waiting")

    def test_where_nothing_is_offered_a_number_is_so_many_of_everything(self):
        self.add("Ines 2\nOdo, 3\nTove")
        sets = {person.name: person.sets for person in Participant.objects.all()}
        self.assertEqual(sets, {"Ines": 2, "Odo": 3, "Tove": 1})
        # Three without a name are left.
        self.assertEqual(self.counts()["A1"], 2 + 3 + 1 + 3)
        ines = Participant.objects.get(name="Ines")
        self.assertContains(self.client.get(self.url("people")), "2 sets")
        page = self.client.get(self.url("person", ines.pk))
        self.assertContains(page, "Sets of everything")
        fields = {"name": "Ines", "state": "booked", "sets": "4", "seen": ""}
        self.client.post(self.url("person", ines.pk), fields)
        self.assertEqual(self.counts()["A1"], 4 + 3 + 1 + 3)
        # The first offer is what they had until then.
        self.offer("full kit")
        self.assertEqual(
            dict(Order.objects.values_list("participant__name", "count")), {"Ines": 4, "Odo": 3, "Tove": 1}
        )
        self.assertEqual(self.counts()["A1"], 4 + 3 + 1 + 3)
        self.assertNotContains(self.client.get(self.url("person", ines.pk)), "Sets of everything")

    def test_more_than_there_are_seats_wait_and_the_first_gets_the_seat_that_is_free_again(self):
        CardClass.objects.update(capacity=2, participants=0)
        page = self.add("Ines\nOdo\nTove\nRuna")
        self.assertContains(page, "2 wait: all seats are taken")
        self.assertEqual(list(Participant.objects.values_list("state", flat=True)), ["booked"] * 2 + ["waiting"] * 2)
        ines, _, tove, _ = Participant.objects.all()
        page = self.client.post(self.url("states"), {"who": f"{ines.pk}-booked", "state": "cancelled"}, follow=True)
        self.assertContains(page, "Give the free seat to Tove, who waits")
        self.client.post(self.url("states"), {"who": f"{tove.pk}-waiting", "state": "booked"})
        self.assertEqual(self.counts()["A1"], 2)

    def test_who_was_changed_in_another_window_is_told_and_left(self):
        self.add("Ines\nOdo")
        ines, odo = Participant.objects.all()
        self.client.post(self.url("states"), {"who": f"{ines.pk}-booked", "state": "paid"})
        both = [f"{ines.pk}-booked", f"{odo.pk}-booked"]
        page = self.client.post(self.url("states"), {"who": both, "state": "cancelled"}, follow=True)
        self.assertContains(page, "Ines was set to “paid” in another window, and stays so")
        self.assertContains(page, "1 person: cancelled")
        self.assertEqual(list(Participant.objects.values_list("state", flat=True)), ["paid", "cancelled"])
        self.assertContains(
            self.client.post(self.url("states"), {"state": "paid"}, follow=True), "Tick the people first"
        )

    def test_lines_that_are_not_clear_are_mended_in_the_preview_and_nobody_is_lost(self):
        self.offer("full kit")
        self.offer("paper only", pools={"card": "none"})
        page = self.add("Ines full 2\nOdo 3 of those\nTove paper only, note late")
        self.assertContains(page, "1 to mend")
        self.assertContains(page, "Odo 3 of those")
        self.assertFalse(Participant.objects.exists())
        lines = ["Ines full 2", "Odo full 3", "Tove paper only, note late"]
        self.client.post(self.url("add_people"), {"line": lines})
        found = {each.name: list(each.orders.values_list("offer__name", "count")) for each in Participant.objects.all()}
        self.assertEqual(found, {"Ines": [("full kit", 2)], "Odo": [("full kit", 3)], "Tove": [("paper only", 1)]})
        self.assertEqual(Participant.objects.get(name="Tove").note, "late")

    def test_lines_can_be_left_out_and_the_same_name_is_asked_about(self):
        self.add("Ines")
        page = self.add("Ines\nOdo")
        self.assertContains(page, "Ines is there already")
        self.client.post(self.url("add_people"), {"line": ["Ines", "Odo"], "away": ["0"]})
        self.assertEqual(Participant.objects.count(), 2)
        self.client.post(self.url("add_people"), {"line": ["Ines"], "twice": ["0"]})
        self.assertEqual(Participant.objects.filter(name="Ines").count(), 2)
        self.client.post(self.url("add_people"), {"line": ["Runa"], "away": ["0"]})
        self.assertEqual(Participant.objects.count(), 3)

    def test_a_table_is_shown_first_and_what_is_no_table_is_said_beside_its_field(self):
        self.offer("full kit")
        good = SimpleUploadedFile("people.csv", b"name,orders,address\nInes,full kit 2,Mill Lane 2\n")
        page = self.add("", table=good)
        self.assertContains(page, "Add 1&nbsp;person")
        self.assertFalse(Participant.objects.exists())
        for data, words in (
            (b"first,second\nInes,2\n", "No column is called"),
            ("name\nJosé".encode("latin-1"), "not in UTF-8"),
            (b"name\n" + b"Ines\n" * 100_000, "more than 500 people"),
            (b"PK\x03\x04", "a workbook"),
        ):
            page = self.add("Kept as typed", table=SimpleUploadedFile("people.csv", data))
            self.assertContains(page, words)
            self.assertContains(page, "Kept as typed")
        self.assertContains(self.add(" \n "), "Write at least one name")

    def test_everybody_as_csv_comes_back(self):
        self.offer("full kit")
        self.add("Ines full 2, address Mill Lane 2, note =1+1")
        table = self.client.get(self.url("people_csv")).content
        self.assertIn(b"Ines,full kit 2,booked,,Mill Lane 2,'=1+1", table)
        Participant.objects.all().delete()
        page = self.add("", table=SimpleUploadedFile("people.csv", table))
        self.assertContains(page, "Add 1&nbsp;person")

    def test_a_person_is_changed_and_what_makes_no_sense_is_said(self):
        full = self.offer("full kit")
        choice = {"choose": 1, "among": [self.chalk.key], "choice_width": 9, "choice_height": 9}
        other = self.offer("paper only", **choice)
        self.add("Ines full")
        (ines,) = Participant.objects.all()
        data = {"name": "Ines Falk", "state": "paid", "chosen": [self.chalk.key]}
        data |= {f"offer{full.pk}": "0", f"offer{other.pk}": "3"}
        self.client.post(self.url("person", ines.pk), data)
        ines.refresh_from_db()
        self.assertEqual((ines.name, ines.state, ines.chosen), ("Ines Falk", "paid", [self.chalk.key]))
        self.assertEqual(list(ines.orders.values_list("offer__name", "count")), [("paper only", 3)])
        for wrong, words in (
            ({f"offer{other.pk}": "0"}, "Nothing is ordered"),
            ({f"offer{other.pk}": "0", f"offer{full.pk}": "1"}, "what is ordered has 0"),
            ({f"offer{other.pk}": "-1"}, "Write 0 or more"),
            ({f"offer{other.pk}": "1000"}, "At most 100"),
            ({"name": ""}, "This field is required"),
        ):
            with self.subTest(wrong):
                self.assertContains(self.client.post(self.url("person", ines.pk), data | wrong), words)

    def test_all_that_is_stored_of_somebody_is_saved_and_deleted_for_good(self):
        self.offer("full kit", price="30.00")
        self.add("Ines full 2, contact i@example.org, address Mill Lane 2, note late")
        (ines,) = Participant.objects.all()
        told = json.loads(self.client.get(self.url("person_data", ines.pk)).content)
        self.assertEqual((told["name"], told["address"], told["note"]), ("Ines", "Mill Lane 2", "late"))
        self.assertEqual(told["orders"], [{"offer": "full kit", "count": 2, "price of one": "30.00"}])
        self.client.post(self.url("delete_person", ines.pk), {"name": "somebody else"})
        self.assertTrue(Participant.objects.exists())
        self.client.post(self.url("delete_person", ines.pk), {"name": "ines"})
        self.assertFalse(Participant.objects.exists() or Order.objects.exists())
        self.assertEqual(self.counts()["A1"], 5)

    def test_an_offer_that_is_ordered_is_not_taken_away(self):
        full = self.offer("full kit")
        self.add("Ines full\nOdo full")
        page = self.client.post(self.url("remove_offer", full.pk), follow=True)
        self.assertContains(page, "Ines, Odo ordered full kit. Give them another offer first")
        self.client.post(
            self.url("states"), {"who": Participant.objects.values_list("pk", flat=True), "state": "asked"}
        )
        self.assertTrue(Offer.objects.exists())
        Participant.objects.all().delete()
        self.client.post(self.url("remove_offer", full.pk))
        self.assertFalse(Offer.objects.exists())

    def test_a_class_with_orders_is_purged_and_an_account_with_it_deleted(self):
        self.offer("full kit")
        self.add("Ines full\nOdo full")
        other = make_class(self.user, LIST)
        keep_offer(Offer(card_class=other, name="full kit"))
        add_people(other, [OrderLine(name="Tove")])
        self.card_class.remove()
        purge(timezone.now() + datetime.timedelta(days=1))
        self.assertEqual(list(Participant.objects.values_list("name", flat=True)), ["Tove"])
        self.user.delete()
        self.assertFalse(Participant.objects.exists() or Offer.objects.exists() or CardClass.objects.exists())

    def test_the_first_offer_is_what_those_have_who_are_there_already(self):
        self.add("Ines")
        full = self.offer("full kit")
        self.assertEqual(Order.objects.get().offer, full)

    def fields(self, **changes) -> dict:
        return {"name": "full kit", "price": "30", "sets": "1", "card": "", "patterned": "", "choose": "0"} | changes

    def test_an_offer_says_what_it_holds(self):
        data = self.fields(sets="2", card_A="1", extras="1 bottle of paint\n60 cm ribbon", card="none", kit_list="on")
        self.client.post(self.url("new_offer"), data)
        made = Offer.objects.get()
        self.assertEqual((made.cards, made.pools, made.sets), ({"A": 1}, {"card": "none"}, 2))
        bits = {bit.name: bit.count or bit.length for bit in count_class(CardClass.objects.get()).bits}
        self.assertEqual(bits["bottle of paint"], 6)
        self.assertEqual(self.counts(), {"A1": 0, "A2": 24})

    def test_what_makes_no_sense_in_an_offer_is_said_beside_its_field(self):
        self.offer("gift")
        kites = make_paper(self.user, "Kite Tails", "6x6", kind="patterned")
        for wrong, words in (
            ({"name": ""}, "This field is required"),
            ({"name": "GIFT"}, "an offer of that name already"),
            ({"name": "a, b"}, "no commas"),
            ({"price": "-1"}, "0 or more"),
            ({"price": "9" * 20}, "no more than"),
            ({"sets": "99"}, "At most 20"),
            ({"card_A": "-1"}, "Write 0 or more"),
            ({"extras": "1 2 3"}, "is not understood"),
            ({"free_above": "50", "free_from": "2027-02-01", "free_until": "2027-01-01"}, "before the first day"),
            ({"free_from": "2027-02-01"}, "From which amount on"),
            ({"choose": "2", "among": [self.chalk.key], "choice_size": "6 x 6"}, "tick more papers"),
            ({"choose": "1", "among": [self.chalk.key]}, "How large"),
            ({"choose": "1", "among": [self.chalk.key, kites.key], "choice_size": "20 x 20"}, "is smaller"),
        ):
            with self.subTest(wrong):
                self.assertContains(self.client.post(self.url("new_offer"), self.fields(**wrong)), words)

    def test_sheets_of_a_paper_come_along_counted_planned_and_bought(self):
        for wrong, words in (
            ("6 sheets of Telescop Bras", "Is Telescope Brass meant?"),
            ("900 sheets of Telescope Brass", "1 to 200"),
        ):
            self.assertContains(self.client.post(self.url("new_offer"), self.fields(extras=wrong)), words)
        extras = "1 bottle of paint\n6 sheets of Telescope Brass\n1 sheet of stickers"
        self.client.post(self.url("new_offer"), self.fields(name="with paper", extras=extras))
        self.add("Ines: with paper 2\nOdo: with paper")
        counted = count_class(CardClass.objects.get())
        along = next(entry for entry in counted.counts if entry.card == "Sheets that come along")
        self.assertEqual((along.piece.paper, along.piece.width, along.piece.height), (self.paper.key, 69088, 89408))
        # Three kits by name, and what those without one are taken to order.
        kits = sum(1 for kit in counted.packed.kits if kit.offer == str(Offer.objects.get(name="with paper").pk))
        self.assertEqual(along.count, 6 * kits)
        self.assertIn(f"6 sheets with every kit: {along.count}", along.why)
        ines = next(kit for kit in counted.packed.kits if kit.person)
        self.assertEqual([item.count for item in ines.beside if item.key == along.handle], [6])
        # What is no paper comes along as it always did.
        self.assertEqual({bit.name for bit in counted.bits}, {"bottle of paint", "sheet of stickers"})
        # A whole sheet each: planned, and with that promised and bought, like any other.
        fitted(counted.card_class)
        fit = PaperFit.objects.get(class_paper__paper=self.paper)
        self.assertGreaterEqual(fit.shown.sheets, along.count)
        line = board_of(CardClass.objects.get()).pieces[along.handle]
        self.assertEqual(line.piece.name, "Whole sheet")
        offers = self.client.get(self.url("offers"))
        self.assertContains(offers, "6 sheets of Telescope Brass")
        # A paper that is gone is asked about in the form, and nothing else breaks.
        self.paper.name = "Old Brass"
        keep_paper(self.paper)
        self.assertTrue(any(e.card == "Sheets that come along" for e in count_class(CardClass.objects.get()).counts))

    def test_another_paper_for_some_is_marked_on_pieces_and_bags(self):
        self.add("Ines\nOdo")
        odo = Participant.objects.get(name="Odo")
        ember = make_paper(self.user, "Ember Dust")
        data = {"paper": self.paper.pk, "other": ember.pk, "who": "some", "people": [odo.pk], "reason": "ran out"}
        self.client.post(self.url("instead"), data)
        self.assertEqual((self.counts()["A1"], self.counts()["A1′"]), (5, 1))
        page = self.client.get(reverse("bags:pack", args=[self.card_class.pk]))
        self.assertContains(page, "with A1′")
        (line,) = (line for stack in board_of(self.card_class).stacks for line in stack.lines if line.handle == "A1′")
        self.assertIn("Ember Dust instead of Telescope Brass", line.about)
        self.client.post(self.url("remove_instead", Substitution.objects.get().pk))
        self.assertNotIn("A1′", self.counts())

    def test_a_bit_runs_out_and_late_orders_get_another(self):
        card = self.card_class.class_cards.get(letter="A").card
        self.set_list(f"Mat 4 x 5 {self.paper.name}\n+ 2 gems", card)
        self.add("Ines, ordered 2027-03-01\nOdo, ordered 2027-03-09")
        data = {"bit": "gems", "other_bit": "pearls", "who": "since", "since": "2027-03-05"}
        page = self.client.post(self.url("instead"), data, follow=True)
        self.assertContains(page, "pearls instead of gems")
        counted = count_class(CardClass.objects.get())
        by_person = {kit.person: [i.key for i in kit.items if i.kind == "bit"] for kit in counted.packed.kits}
        ines, odo = (str(Participant.objects.get(name=name).pk) for name in ("Ines", "Odo"))
        self.assertEqual((by_person[ines], by_person[odo]), (["gems"], ["pearls"]))
        board = board_of(CardClass.objects.get())
        odos = next(kit for kit in board.kits if kit.kit.person == odo)
        self.assertEqual(board.instead_words(odos.kit.items), ["pearls in place of gems"])
        handout = self.client.get(reverse("bags:handout", args=[self.card_class.pk]))
        self.assertContains(handout, "pearls in place of gems, in some kits")
        for wrong, words in (
            ({"bit": "gems", "other_bit": "Gems"}, "That is the same bit"),
            ({"bit": "gems", "other_bit": ""}, "Which bit is taken?"),
            ({"bit": "gems", "other_bit": "dots", "paper": self.paper.pk}, "one at a time"),
        ):
            with self.subTest(words):
                self.assertContains(self.client.post(self.url("instead"), {"who": "all"} | wrong), words)
        self.client.post(self.url("remove_instead", Substitution.objects.get().pk))
        self.assertEqual([bit.name for bit in count_class(CardClass.objects.get()).bits], ["gems"])

    def test_what_makes_no_sense_is_asked(self):
        self.add("Ines")
        for wrong, words in (
            ({"other": self.paper.pk, "who": "all"}, "That is the same paper"),
            ({"other": self.chalk.pk, "who": "some"}, "For whom?"),
            ({"other": self.chalk.pk, "who": "last"}, "For how many"),
            ({"other": "", "who": "all"}, "Which paper is taken?"),
            ({"paper": "", "who": "all"}, "In place of what?"),
            ({"other": self.chalk.pk, "who": "since"}, "From which day on?"),
            ({"other": self.chalk.pk, "who": "last", "last": "-3"}, "0 or more"),
        ):
            with self.subTest(wrong):
                page = self.client.post(self.url("instead"), {"paper": self.paper.pk} | wrong)
                self.assertContains(page, words)

    def test_the_kit_list_is_written_like_a_card_and_comes_once_a_person(self):
        page = self.client.post(self.url("kit_list"), follow=True)
        self.assertContains(page, "What comes once a person")
        card = self.card_class.class_cards.get(letter="Kit").card
        self.set_list("White to stamp on 4 x 6 chalk\n+ 2 pencils", card)
        self.assertEqual(self.counts()["Kit1"], 6)
        self.assertEqual({bit.name: bit.count for bit in count_class(CardClass.objects.get()).bits}, {"pencils": 12})
        self.assertContains(
            self.client.get(reverse("bags:pack", args=[self.card_class.pk])), '<b data-sum="kits">0 of 6</b>'
        )
        self.assertNotContains(self.client.get(reverse("designs:library")), "Kit list of")


class ManyPeopleTests(SignedInTests):
    def test_five_hundred_people_take_few_queries(self):
        card_class = make_class(self.user, *[LIST] * 4)
        keep_offer(Offer(card_class=card_class, name="full kit"))
        add_people(card_class, [OrderLine(name=f"Person {number}") for number in range(500)])
        for name, most in (("people", 16), ("count", 25), ("offers", 15), ("instead", 20)):
            self.client.get(reverse(f"classes:{name}", args=[card_class.pk]))
            with self.subTest(name), self.assertNumQueries(self.fewer(most)):
                self.client.get(reverse(f"classes:{name}", args=[card_class.pk]))

    def fewer(self, most: int):
        """Equal to any number of queries up to the most."""

        class AtMost(int):
            def __eq__(self, other):
                return other <= int(self)

            __hash__ = int.__hash__

        return AtMost(most)

    def test_more_than_a_class_keeps_a_list_of_are_refused(self):
        card_class = make_class(self.user, LIST)
        add_people(card_class, [OrderLine(name=f"Person {number}") for number in range(499)])
        page = self.client.post(
            reverse("classes:add_people", args=[card_class.pk]), {"lines": "Ines\nOdo"}, follow=True
        )
        self.assertContains(page, "a list of 500 people at most")
        self.assertContains(page, "Odo")
        self.assertEqual(Participant.objects.count(), 499)


class CalendarTests(SignedInTests):
    def test_the_class_its_repetition_and_its_deadline_are_in_the_file(self):
        date = datetime.date(2027, 3, 12)
        card_class = make_class(self.user, LIST, date=date, place="Reading room, north", repeats="month")
        CardClass.objects.update(time=datetime.time(18, 30), minutes=90, order_by=datetime.date(2027, 3, 5))
        data = self.client.get(reverse("classes:calendar", args=[card_class.pk])).content
        # RFC 5545: read by the library again, and by the lines themselves.
        evening, deadline = Calendar.from_ical(data).walk("VEVENT")
        self.assertEqual(evening["SUMMARY"], "Evening")
        self.assertEqual(evening["LOCATION"], "Reading room, north")
        self.assertEqual((evening["DTSTART"].dt.hour, evening["DURATION"].dt), (18, datetime.timedelta(minutes=90)))
        self.assertEqual(deadline["DTSTART"].dt, datetime.date(2027, 3, 5))
        self.assertIn(b"RRULE:FREQ=MONTHLY;BYDAY=2FR", data)
        self.assertTrue(all(len(line) <= 75 for line in data.split(b"\r\n")))

    def test_cards_spread_over_weeks_have_their_own_dates_there_and_on_the_hand_out(self):
        date = datetime.date(2027, 3, 12)
        card_class = make_class(self.user, LIST, LIST, date=date, spread="week")
        data = self.client.get(reverse("classes:calendar", args=[card_class.pk])).content
        found = {str(event["SUMMARY"]): event["DTSTART"].dt for event in Calendar.from_ical(data).walk("VEVENT")}
        self.assertEqual(found, {"Evening: A Card 1": date, "Evening: B Card 2": date + datetime.timedelta(days=7)})
        page = self.client.get(reverse("bags:handout", args=[card_class.pk]), {"card": "B"})
        self.assertContains(page, "Friday 19 March")
        card_class.spread = "day"
        self.assertEqual(card_class.date_of(2), date + datetime.timedelta(days=2))
        card_class.spread = ""
        self.assertIsNone(card_class.date_of(2))

    def test_without_a_date_there_is_none_and_that_is_said(self):
        card_class = make_class(self.user, LIST)
        page = self.client.get(reverse("classes:calendar", args=[card_class.pk]), follow=True)
        self.assertContains(page, "no date yet")

    def test_the_next_date(self):
        for date, repeats, after in (
            ("2027-03-12", "week", "2027-03-19"),
            ("2027-03-12", "two", "2027-03-26"),
            ("2027-03-12", "month", "2027-04-09"),
            ("2027-01-29", "month", "2027-02-26"),
            ("2027-12-10", "month", "2028-01-14"),
        ):
            found = next_date(datetime.date.fromisoformat(date), repeats)
            self.assertEqual(found, datetime.date.fromisoformat(after), (date, repeats))
        self.assertIsNone(next_date(None, "week"))


class CopyTests(SignedInTests):
    def test_a_club_is_planned_once_more_with_its_offers_and_its_people_asked_again(self):
        card_class = make_class(
            self.user, LIST, date=datetime.date(2027, 3, 12), order_by=datetime.date(2027, 3, 5), repeats="month"
        )
        keep_offer(Offer(card_class=card_class, name="full kit", price="30.00"))
        add_people(card_class, [OrderLine(name="Ines", state="paid"), OrderLine(name="Odo", state="cancelled")])
        card_class.refresh_from_db()
        new = copy_class(card_class, people=True)
        self.assertEqual((new.date, new.order_by), (datetime.date(2027, 4, 9), datetime.date(2027, 4, 2)))
        self.assertEqual(
            list(new.class_cards.values_list("card", "letter")),
            list(card_class.class_cards.values_list("card", "letter")),
        )
        self.assertEqual(list(new.people.values_list("name", "state")), [("Ines", "asked")])
        self.assertEqual(Order.objects.get(participant__card_class=new).offer, new.offers.get())
        self.assertEqual(card_class.people.count(), 2)
        page = self.client.post(reverse("classes:copy", args=[card_class.pk]), follow=True)
        self.assertContains(page, "planned once more, on 9 April 2027")
