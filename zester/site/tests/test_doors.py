"""What comes in and goes out: errors and their pages, limits, the policy for scripts, the log, what is removed."""

import datetime
import logging
from unittest import mock

from django.contrib.auth import get_user_model
from django.db import OperationalError
from django.test import override_settings
from django.urls import reverse
from django.utils import timezone

from tests.people import SignedInTests, make_class, make_paper
from zester.classes.models import CardClass
from zester.designs.models import Card, Edition
from zester.plans.models import Worker
from zester.shelf.models import Paper
from zester.site.removed import purge

LIST_URL = "/classes/"


class ErrorPages(SignedInTests):
    def test_a_page_that_is_not_there_keeps_what_was_typed(self):
        page = self.client.post(
            reverse("classes:edit", args=[987]), {"title": "Long <typed>", "password": "secret", "seen": "{}"}
        )
        self.assertEqual(page.context["typed"], [("title", "Long <typed>")])
        self.assertContains(page, "There is nothing here", status_code=404)
        self.assertContains(page, "Long &lt;typed&gt;", status_code=404)
        self.assertNotContains(page, "secret", status_code=404)

    def test_a_form_that_is_out_of_date_keeps_what_was_typed(self):
        strict = self.client_class(enforce_csrf_checks=True)
        strict.force_login(self.user)
        page = strict.post(reverse("shelf:new"), {"name": "Typed at length"})
        self.assertContains(page, "This page is out of date", status_code=403)
        self.assertContains(page, "Typed at length", status_code=403)

    def broken(self, error: Exception, **more):
        self.client.raise_request_exception = False
        with mock.patch("zester.classes.views.classes_of", side_effect=error):
            return self.client.get(LIST_URL, **more)

    def test_an_error_of_ours_says_so_with_the_number_that_stands_in_the_log(self):
        with self.assertLogs("django.request", "ERROR") as told:
            page = self.broken(RuntimeError("kaputt"))
        self.assertContains(page, "Something went wrong here", status_code=500)
        self.assertContains(page, f"request {page['X-Request-Number']}", status_code=500)
        self.assertIsNotNone(told.records[0].exc_info)
        self.assertNotContains(page, "kaputt", status_code=500)
        with self.assertLogs("django.request", "ERROR"):
            line = self.broken(RuntimeError("kaputt"), headers={"HX-Request": "true"})
        self.assertEqual(line["Content-Type"], "text/plain; charset=utf-8")

    def test_a_full_disk_is_said_and_nothing_is_lost(self):
        with self.assertLogs("zester.site.limits", "ERROR"):
            page = self.broken(OperationalError("database or disk is full"))
        self.assertContains(page, "Zester is busy", status_code=503)
        with self.assertLogs("zester.site.limits", "ERROR"):
            page = self.broken(OSError(28, "No space left on device"))
        self.assertContains(page, "Zester is busy", status_code=503)

    def test_the_number_stands_in_every_line_of_the_log(self):
        from zester.site.requests import WithNumber

        records = []
        log = logging.getLogger("zester.site.limits")
        handler = logging.Handler()
        handler.addFilter(WithNumber())
        handler.emit = records.append
        log.addHandler(handler)
        self.addCleanup(log.removeHandler, handler)
        with self.assertLogs("zester.site.limits", "ERROR"):
            log.addHandler(handler)
            page = self.broken(OperationalError("locked"))
        self.assertEqual({record.number for record in records}, {page["X-Request-Number"]})

    def test_odd_requests_are_turned_away_not_tripped_over(self):
        card_class = make_class(self.user)
        new = reverse("classes:new")
        many_parts = "multipart/form-data; boundary=x"
        odd = b"--x\r\nContent-Disposition: form-data; name*=nonesuch'en'a\r\n\r\nb\r\n--x--\r\n"
        for body, kind in ((odd, many_parts), (b"no parts", many_parts), (b"a=b", "multipart/form-data")):
            answer = self.client.generic("POST", new, body, content_type=kind)
            self.assertIn(answer.status_code, (200, 400), kind)
        kind = "application/x-www-form-urlencoded; charset=nonesuch"
        latin = self.client.generic("POST", new, b"title=%E9", content_type=kind)
        self.assertIn(latin.status_code, (200, 400))
        for length in ("²", "9" * 5000, "-1", "1e3", "٣"):
            self.assertEqual(self.client.post(new, {"title": "x"}, CONTENT_LENGTH=length).status_code, 413, length[:9])
        long = "9" * 5000
        use = reverse("classes:use", args=[1])
        for url, data in (
            (reverse("fits:unpin", args=[card_class.pk, "nowhere"]), {"layout": long}),
            (reverse("classes:new_card", args=[card_class.pk]), {"design": long}),
            (reverse("classes:new_card", args=[card_class.pk]), {"design": "²"}),
            (reverse("classes:new_card", args=[card_class.pk]), {"design": "9" * 40}),
            (use, {"class": long}),
            (f"/classes/{long}/", {"title": "x"}),
            (reverse("shelf:new"), {"name": "x", "on_hand": long, "price": long, "pack": long, "thickness": long}),
            (reverse("shelf:new"), {"name": "x", "typed_size": f"{long} x 5", "sheet": "typed", "weight": long}),
        ):
            self.assertIn(self.client.post(url, data).status_code, (200, 302, 400, 404), url[:60])

    def test_an_address_with_a_sign_that_is_none_is_not_there(self):
        for address in ("/classes/%00/", "/with/%00%00/", "/shelf/?q=%00", "/designs/?q=a%00b"):
            answer = self.client.get(address)
            self.assertEqual(answer.status_code, 404, address)
            self.assertContains(answer, "That could not be read", status_code=404)

    def test_odd_places_to_go_on_to(self):
        data = {"kind": "card", "sheet": "a4", "direction": "free", "pack": "1", "supply": "buy"}
        data |= {"colour": "#112233", "repeat": "dots"}
        odd = ("x", "a:b", "//elsewhere.example", "http://[", "/a\r\nX: y", "javascript:alert(1)", "/\u2028", "\\\\x")
        for number, target in enumerate(odd):
            answer = self.client.post(
                f"{reverse('shelf:new')}", data | {"name": f"Odd {'abcdefghij'[number]}"}, query_params={"next": target}
            )
            self.assertEqual(answer.status_code, 302, target)
            self.assertTrue(answer["Location"].startswith("/"), target)
            self.assertFalse(answer["Location"].startswith("//"), target)
            self.client.logout()
            signed = {"username": "mira", "password": "kite-tail-9", "next": target}
            self.assertEqual(self.client.post(reverse("sign_in"), signed).status_code, 302, target)

    def test_a_list_of_endless_lines_costs_little(self):
        card_class = make_class(self.user, "Base 4 x 5 brass")
        url = reverse("classes:read", args=[card_class.pk, "A"])
        for end in ("\n", "\r", "\x0b", "\x85", "\u2028"):
            data = {"cut_list": end * 39_000, "saves": 0, "editor": "me"}
            answer = self.client.post(url, data, headers={"HX-Request": "true"})
            self.assertContains(answer, "A cut list holds 1,000 lines, this one has 3")
            self.assertLess(len(answer.content), 3_000)


class Headers(SignedInTests):
    def test_no_script_runs_that_is_not_a_file_of_ours(self):
        for url in (LIST_URL, reverse("sign_in"), reverse("account")):
            page = self.client.get(url, follow=True)
            policy = page["Content-Security-Policy"]
            self.assertIn("script-src 'self'", policy)
            self.assertNotIn("unsafe-eval", policy)
            self.assertIn("frame-ancestors 'none'", policy)
            self.assertNotIn(b"onclick", page.content)
            self.assertNotRegex(page.content.decode(), r"<script(?![^>]*\b(src|type=\"application/json\"))")

    def test_health(self):
        self.client.logout()
        ill = self.client.get(reverse("health"))
        self.assertEqual((ill.status_code, ill.json()["workers"]), (503, "no worker lives; plans wait"))
        Worker.objects.create(name="w", beat_at=timezone.now())
        well = self.client.get(reverse("health"))
        self.assertEqual(well.json(), {"well": True, "database": "ok", "workers": "1 worker"})
        Worker.objects.update(beat_at=timezone.now() + datetime.timedelta(hours=2))
        self.assertEqual(self.client.get(reverse("health")).status_code, 503)


class Removed(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, "Base 4 x 5 brass")
        self.card = Card.objects.get()

    def test_what_was_removed_is_listed_and_comes_back(self):
        theirs = make_paper(self.stranger, "Secret Foil")
        theirs.remove()
        with self.assertLogs("zester.audit") as told:
            for thing in (self.card_class, self.card, self.paper):
                thing.remove()
        self.assertIn(f"removed: class {self.card_class.pk} of account {self.user.pk}", told.output[0])
        page = self.client.get(reverse("removed"))
        for name in ("Evening", "Card 1", "Telescope Brass"):
            self.assertContains(page, name)
        self.assertContains(page, "kept here for 30 days")
        self.assertNotContains(page, "Secret Foil")
        self.client.post(reverse("classes:restore", args=[self.card_class.pk]))
        self.assertEqual(CardClass.objects.of(self.user).count(), 1)

    def test_after_thirty_days_it_is_gone_with_all_that_belongs_to_it(self):
        Edition.objects.create(card=self.card, name="first")
        for thing in (self.card, self.paper):
            thing.remove()
        Card.objects.update(removed_at=timezone.now() - datetime.timedelta(days=31))
        Paper.objects.update(removed_at=timezone.now() - datetime.timedelta(days=29))
        with self.assertLogs("zester.audit") as told:
            self.assertEqual(purge(), 1)
        self.assertIn("purged: 1 removed things", told.output[0])
        self.assertFalse(Card.objects.exists() or Edition.objects.exists())
        self.assertEqual(Paper.objects.count(), 1)

    def test_the_photos_of_deleted_cards_and_accounts_leave_the_disk(self):
        import tempfile
        from pathlib import Path

        from django.core.files.base import ContentFile

        from zester.designs.services import keep_photo

        with tempfile.TemporaryDirectory() as folder, override_settings(MEDIA_ROOT=folder):
            photos = Path(folder, "photos")
            with self.captureOnCommitCallbacks(execute=True):
                keep_photo(self.card, ContentFile(b"photo", "p.jpg"))
            self.assertEqual(len(list(photos.iterdir())), 1)
            with self.captureOnCommitCallbacks(execute=True), self.assertLogs("zester.audit") as told:
                get_user_model().objects.get(pk=self.user.pk).delete()
            self.assertEqual(list(photos.iterdir()), [])
            self.assertIn(f"account deleted: {self.user.pk}", told.output[0])
