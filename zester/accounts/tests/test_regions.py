"""Regions: guessed from a browser, asked once, and what begins from them."""

import datetime
from decimal import Decimal
from unittest import TestCase as PlainTestCase

from django.urls import reverse
from django.utils import timezone

from tests.people import SignedInTests, make_class
from zester.accounts.regions import region_of
from zester.classes.models import CardClass
from zester.classes.services import add_card
from zester.core.cutlist.notation import read_list
from zester.core.lengths import MILLIMETRES, TICKS_PER_MM
from zester.core.pieces import Known
from zester.designs.models import Card
from zester.site.dates import amount, clock, day
from zester.site.regions import HOUSE, Region, guess, read_region, within
from zester.site.stations import some

DAY = datetime.date(2026, 12, 19)


class GuessTests(PlainTestCase):
    def test_what_a_browser_says(self):
        """Signs, commas and first days are those of Unicode CLDR, by the Babel library."""
        cases = {
            ("en-US", "America/Chicago"): ("in", "letter", "$", "mdy", False, "sunday"),
            ("en-GB", "Europe/London"): ("mm", "a4", "£", "dmy", False, "monday"),
            ("de-AT", "Europe/Vienna"): ("mm", "a4", "€", "dmy", True, "monday"),
            ("fr-CA", "America/Toronto"): ("mm", "letter", "$", "dmy", True, "sunday"),
            ("sv-SE", "Europe/Stockholm"): ("mm", "a4", "kr", "ymd", True, "monday"),
        }
        for (language, zone), wanted in cases.items():
            found = guess(language, zone)
            said = (found.unit, found.paper, found.currency, found.dates, found.comma, found.week)
            self.assertEqual(said, wanted, language)
            self.assertEqual(found.zone, zone)

    def test_what_is_no_language_or_no_zone_is_as_usual(self):
        for language, zone in (
            ("", ""),
            ("de", ""),
            ("xx-YY", "Moon/Crater"),
            ("../..", "../etc/passwd"),
            ("a" * 20, "x"),
        ):
            self.assertEqual(guess(language, zone), HOUSE, language)

    def test_what_was_stored_and_is_none_is_as_usual(self):
        odd = {"unit": "cubit", "paper": 7, "currency": "dollars", "comma": "yes", "zone": "Moon/Crater", "more": 1}
        for kept in (odd, None, [], "x"):
            self.assertEqual(read_region(kept), HOUSE)
        there = Region(unit="mm", paper="a4", currency="€", dates="ymd", comma=True, zone="Europe/Vienna")
        self.assertEqual(read_region(there.stored()), there)

    def test_days_times_and_amounts(self):
        at = datetime.time(18, 30)
        for region, wanted in (
            (Region(), ("19 December 2026", "19 Dec", "18:30", "$1,250.50")),
            (Region(dates="mdy"), ("December 19, 2026", "Dec 19", "6:30 p.m.", "$1,250.50")),
            (Region(dates="ymd", comma=True, currency="kr"), ("2026-12-19", "Dec 19", "18:30", "1.250,50\xa0kr")),
        ):
            with within(region):
                said = (day(DAY), day(DAY, "short no year"), clock(at), amount(Decimal("1250.5")))
            self.assertEqual(said, wanted)
            with within(region):
                self.assertEqual(some(1250, "sheet"), f"1{'.' if region.comma else ','}250 sheets")
        self.assertEqual(day(DAY), "19 December 2026")

    def test_a_list_in_millimetres_is_mended_in_millimetres(self):
        for line in ("Mat brass", "Mat 4..5 x", "Mat x"):
            error = read_list(line, Known((), ()), MILLIMETRES)[0].error
            self.assertNotRegex(error.mend, "4¼ x|4 x 5¼|like 4¼", line)


class RegionTests(SignedInTests):
    BROWSER = {"Accept-Language": "de-AT,de;q=0.9"}

    def live_there(self, **more) -> None:
        self.client.post(reverse("as_guessed"), {"zone": "Europe/Vienna"} | more, headers=self.BROWSER)

    def test_it_is_asked_once_and_what_is_new_begins_from_it(self):
        page = self.client.get(reverse("classes:list"), headers=self.BROWSER)
        self.assertContains(page, "millimetres, A4, amounts in €, days like 19 December 2026")
        self.live_there()
        self.assertNotContains(self.client.get(reverse("classes:list"), headers=self.BROWSER), "Your browser says")
        self.assertContains(self.client.get(reverse("shelf:new")), '<option value="a4" selected>')
        self.client.post(reverse("classes:new"), {"title": "Abend", "participants": 4, "date": "2026-12-19"})
        made = CardClass.objects.get(title="Abend")
        self.assertEqual((made.ruler, made.trimmer.unit), ("mm", "mm"))
        # In round figures: 25 by 75 mm, and 1 mm.
        sizes = [made.trimmer.keep_short, made.trimmer.keep_long, made.trimmer.error]
        self.assertEqual(sizes, [25 * TICKS_PER_MM, 75 * TICKS_PER_MM, TICKS_PER_MM])
        self.client.post(reverse("designs:new_design"), {"name": "Karte"})
        self.assertEqual(Card.objects.get(name="Karte").ruler, "mm")

    def test_not_now_is_not_asked_again_and_nobody_is_asked_whose_browser_says_nothing(self):
        self.assertNotContains(self.client.get(reverse("classes:list")), "Your browser says")
        self.live_there(later="1")
        self.assertNotContains(self.client.get(reverse("classes:list"), headers=self.BROWSER), "Your browser says")
        self.assertEqual(region_of(self.user.pk), (HOUSE, True))
        # Nor in the next one.
        self.client.force_login(self.user)
        self.assertNotContains(self.client.get(reverse("classes:list"), headers=self.BROWSER), "Your browser says")

    def test_every_session_of_the_account_knows_and_nobody_elses(self):
        other, strange = self.client_class(), self.client_class()
        other.force_login(self.user)
        strange.force_login(self.stranger)
        for client in (other, strange):
            client.get(reverse("classes:list"))
        self.live_there()
        for client, sign in ((self.client, "€"), (other, "€"), (strange, "$")):
            self.assertContains(client.get(reverse("shelf:new")), f"Price of a sheet ({sign})")

    def test_it_is_changed_on_its_page_and_of_the_house_by_its_owner_only(self):
        fields = Region(unit="mm", paper="a4", currency="Fr.", comma=True).stored()
        self.assertEqual(self.client.post(reverse("region"), fields | {"unit": "cubit"}).status_code, 200)
        long = self.client.post(reverse("region"), fields | {"currency": "dollars"})
        self.assertContains(long, "Write the sign alone, like € or kr: at most 5 letters.")
        self.assertRedirects(self.client.post(reverse("region"), fields), reverse("region"))
        self.assertEqual(region_of(self.user.pk)[0].currency, "Fr.")
        self.assertEqual(self.client.post(reverse("region_of_all"), fields).status_code, 403)
        self.stranger.is_staff = True
        self.stranger.save()
        self.client.force_login(self.stranger)
        self.assertRedirects(self.client.post(reverse("region_of_all"), fields), reverse("house"))
        self.assertEqual(
            region_of(self.stranger.pk), (Region(unit="mm", paper="a4", currency="Fr.", comma=True), False)
        )

    def test_the_hour_of_a_class_is_that_of_the_place(self):
        self.live_there()
        card_class = make_class(self.user, "Mat 4 x 5 brass", date=DAY, time=datetime.time(18, 30), repeats="week")
        text = self.client.get(reverse("classes:calendar", args=[card_class.pk])).content.decode()
        self.assertIn("BEGIN:VTIMEZONE", text)
        self.assertIn("DTSTART;TZID=Europe/Vienna:20261219T183000", text)
        self.assertIn("WKST=MO", text)
        self.assertEqual(str(timezone.get_current_timezone()), "UTC")

    def test_a_class_in_millimetres_without_a_trimmer_shows_round_figures(self):
        card_class = make_class(self.user, ruler="mm")
        entry = add_card(card_class, "Karte")
        Card.objects.filter(pk=entry.card_id).update(
            cut_list="card 105 x 148 side fold\nBase brass\nTag 40 x 60 brass raised"
        )
        for view in ("classes:edit", "classes:desk"):
            page = self.shown(reverse(view, args=[card_class.pk]))
            for odd in ("25.4", "76.2", "1.5875", "0.79375"):
                self.assertNotIn(odd, page)
