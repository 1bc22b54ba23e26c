"""Signing in slowed, prolonged, ended and gone on with; passwords; what the log says of it."""

import datetime
import json
import re
import tempfile
from pathlib import Path
from unittest import mock

from django.contrib.auth import BACKEND_SESSION_KEY, get_user_model
from django.core import mail
from django.db import OperationalError
from django.test import override_settings
from django.urls import reverse
from django.utils import timezone

from tests.people import SignedInTests, make_class
from zester.accounts.models import Session
from zester.designs.models import Card

RIGHT, WRONG = "kite-tail-9", "kite-tail-0"
FETCH = {"X-Requested-With": "fetch"}


class Slowed(SignedInTests):
    def setUp(self):
        super().setUp()
        self.client.logout()

    def try_with(self, password: str, name: str = "mira", **more):
        return self.client.post(reverse("sign_in"), {"username": name, "password": password}, **more)

    def forget_device(self):
        self.client.cookies.clear()

    def know_device(self):
        self.try_with(RIGHT, REMOTE_ADDR="10.0.0.1")
        self.client.post(reverse("sign_out"))

    def test_many_wrong_passwords_for_one_name_from_one_place_slow_down_that_name_there(self):
        self.forget_device()
        for _ in range(8):
            self.try_with(WRONG, REMOTE_ADDR="10.0.0.9")
        answer = self.try_with(RIGHT, REMOTE_ADDR="10.0.0.9")
        self.assertContains(answer, "Please wait five minutes", status_code=429)
        self.assertRedirects(self.try_with("kite-tail-8", "odd", REMOTE_ADDR="10.0.0.9"), reverse("classes:list"))
        self.client.logout()
        self.forget_device()
        self.assertRedirects(self.try_with(RIGHT, REMOTE_ADDR="10.0.0.8"), reverse("classes:list"))

    def test_a_device_that_was_signed_in_before_is_kept_out_by_nobody_near_it_or_far(self):
        self.know_device()
        known = self.client.cookies["device"].value
        self.forget_device()
        for number in range(30):
            for _ in range(7):
                self.try_with(WRONG, REMOTE_ADDR=f"10.0.1.{number}")
        for _ in range(8):
            self.try_with(WRONG, REMOTE_ADDR="10.0.0.9")
        far = self.try_with(RIGHT, REMOTE_ADDR="10.0.2.1")
        self.assertEqual(far.status_code, 429, "two hundred tries for one account, from wherever")
        self.client.cookies["device"] = known
        self.assertRedirects(self.try_with(RIGHT, REMOTE_ADDR="10.0.0.9"), reverse("classes:list"))

    def test_a_known_device_is_slowed_by_its_own_mistakes_and_for_its_own_account_only(self):
        self.know_device()
        for _ in range(8):
            self.try_with(WRONG, REMOTE_ADDR="10.0.0.9")
        self.assertEqual(self.try_with(RIGHT, REMOTE_ADDR="10.0.0.9").status_code, 429)
        self.assertEqual(self.try_with(RIGHT, REMOTE_ADDR="10.0.0.7").status_code, 429, "it is the same device")
        for _ in range(8):
            self.try_with(WRONG, "odd", REMOTE_ADDR="10.0.0.9")
        self.assertEqual(self.try_with("kite-tail-8", "odd", REMOTE_ADDR="10.0.0.9").status_code, 429)

    def test_a_note_of_a_device_that_was_tampered_with_is_none(self):
        self.know_device()
        for odd in ("", "x" * 9000, self.client.cookies["device"].value[:-1], "W10:1:x"):
            self.client.cookies["device"] = odd
            self.assertEqual(self.try_with(WRONG, REMOTE_ADDR="10.0.0.9").status_code, 200)
        from axes.models import AccessAttempt

        self.assertEqual({str(one.ip_address) for one in AccessAttempt.objects.all()}, {"10.0.0.9"})

    def test_a_place_with_far_too_many_wrong_passwords_waits_for_a_minute(self):
        self.forget_device()
        for number in range(80):
            self.try_with(WRONG, f"nobody{number}", REMOTE_ADDR="10.0.0.9")
        self.assertEqual(self.try_with(RIGHT, REMOTE_ADDR="10.0.0.9").status_code, 429)
        from axes.models import AccessAttempt

        AccessAttempt.objects.update(attempt_time=timezone.now() - datetime.timedelta(seconds=61))
        self.assertRedirects(self.try_with(RIGHT, REMOTE_ADDR="10.0.0.9"), reverse("classes:list"))

    def test_signing_in_oneself_does_not_clear_what_was_tried_of_others(self):
        self.forget_device()
        for _ in range(8):
            self.try_with(WRONG, REMOTE_ADDR="10.0.0.9")
        self.try_with("kite-tail-8", "odd", REMOTE_ADDR="10.0.0.9")
        self.client.logout()
        self.assertEqual(self.try_with(RIGHT, REMOTE_ADDR="10.0.0.9").status_code, 429)

    def test_after_five_minutes_it_goes_on(self):
        for _ in range(8):
            self.try_with(WRONG)
        self.assertEqual(self.try_with(RIGHT).status_code, 429)
        from axes.models import AccessAttempt

        AccessAttempt.objects.update(attempt_time=timezone.now() - datetime.timedelta(minutes=6))
        self.assertRedirects(self.try_with(RIGHT), reverse("classes:list"))

    def test_the_log_tells_by_key_and_without_names_or_addresses(self):
        with self.assertLogs("zester.audit") as told:
            for _ in range(8):
                self.try_with(WRONG, REMOTE_ADDR="10.9.8.7")
            self.try_with(WRONG, "nobody at all", REMOTE_ADDR="10.9.8.6")
            self.try_with("kite-tail-8", "odd", REMOTE_ADDR="10.9.8.5")
            self.client.post(reverse("sign_out"))
        text = "\n".join(told.output)
        self.assertIn(f"sign-in refused: account {self.user.pk}", text)
        self.assertIn(f"sign-in slowed: account {self.user.pk}", text)
        self.assertIn("sign-in refused: account unknown", text)
        self.assertIn(f"signed in: account {self.stranger.pk}", text)
        self.assertIn(f"signed out: account {self.stranger.pk}", text)
        for secret in ("mira", "odd,", "nobody", "10.9.8", WRONG):
            self.assertNotIn(secret, text)

    @override_settings(BEHIND_PROXY=True)
    def test_behind_a_proxy_nobody_can_choose_where_they_come_from(self):
        for number in range(8):
            self.try_with(WRONG, HTTP_X_FORWARDED_FOR=f"1.1.1.{number}, 10.0.0.9")
        answer = self.try_with(RIGHT, HTTP_X_FORWARDED_FOR="2.2.2.2, 10.0.0.9")
        self.assertEqual(answer.status_code, 429)


class SessionTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, "Base 4 x 5 brass")
        self.read = reverse("classes:read", args=[self.card_class.pk, "A"])

    def test_a_session_that_is_used_is_prolonged_once_a_day(self):
        self.client.get(reverse("classes:list"))
        soon = timezone.now() + datetime.timedelta(days=2)
        yesterday = timezone.now().date() - datetime.timedelta(days=1)
        store = self.client.session
        store["used_on"] = yesterday.isoformat()
        store.save()
        Session.objects.update(expire_date=soon)
        self.client.get(reverse("classes:list"))
        self.assertGreater(Session.objects.get().expire_date, soon + datetime.timedelta(days=10))
        self.assertEqual(Session.objects.get().used_on, timezone.now().date())
        with self.assertNumQueries(12):
            self.client.get(reverse("classes:list"))

    def test_a_session_that_a_version_before_has_begun_goes_on(self):
        session = self.client.session
        session[BACKEND_SESSION_KEY] = "django.contrib.auth.backends.ModelBackend"
        session.save()
        self.assertContains(self.client.get("/classes/"), "Classes")
        self.user.is_active = False
        self.user.save()
        self.assertRedirects(self.client.get("/classes/"), "/sign-in/?next=/classes/")

    def test_a_full_disk_does_not_sign_out(self):
        with (
            mock.patch.object(Session, "save", side_effect=OperationalError("database or disk is full")),
            self.assertLogs("zester.accounts.middleware", "ERROR"),
        ):
            # It is stored, so that is what is said; only the message is lost.
            page = self.client.post(reverse("designs:keep", args=[Card.objects.get().pk]), {"name": "kept"})
        self.assertEqual((page.status_code, Card.objects.get().editions.count()), (302, 1))
        self.assertEqual(self.client.get(reverse("classes:list")).status_code, 200)

    def test_scripts_are_told_in_their_own_way_and_go_on_after_signing_in_in_place(self):
        self.client.logout()
        data = {"cut_list": "Base 4 x 6 brass", "saves": 0, "editor": "me"}
        answer = self.client.post(self.read, data, headers={"HX-Request": "true"})
        self.assertEqual((answer.status_code, answer.content), (401, b"Sign in first."))
        self.assertEqual(self.client.get(reverse("sign_in_state")).json()["user"], "")
        wrong = self.client.post(reverse("sign_in"), {"username": "mira", "password": WRONG}, headers=FETCH)
        self.assertIn("do not belong together", wrong.json()["error"])
        right = self.client.post(reverse("sign_in"), {"username": "mira", "password": RIGHT}, headers=FETCH).json()
        self.assertEqual(right["user"], "mira")
        self.assertTrue(right["token"])
        self.client.post(self.read, data, headers={"HX-Request": "true"})
        self.assertEqual(Card.objects.get().cut_list, "Base 4 x 6 brass")

    def test_in_place_one_can_sign_in_as_oneself_where_another_has(self):
        self.client.force_login(self.stranger)
        right = self.client.post(reverse("sign_in"), {"username": "mira", "password": RIGHT}, headers=FETCH).json()
        self.assertEqual(right["user"], "mira")

    def test_without_scripts_a_form_is_kept_and_sent_after_signing_in(self):
        self.client.logout()
        url = reverse("classes:edit", args=[self.card_class.pk])
        data = {"title": "Typed “long” & <hard>", "participants": "9", "ruler": "in16", "stack": "3"}
        data |= {"keep_short": "1", "keep_long": "3", "narrowest": "0", "minutes": "90", "where": "room"}
        data |= {"give_aways": "0", "spare_by": "kit", "spare_number": "0", "spare_percent": "0"}
        page = self.client.post(url, data)
        self.assertContains(page, "What you typed is kept here", status_code=401)
        kept = json.loads(page.context["kept"])
        self.assertEqual(dict(kept), data)
        signed = {"username": "mira", "password": WRONG, "next": url, "kept": page.context["kept"]}
        again = self.client.post(reverse("sign_in"), signed)
        self.assertEqual(json.loads(again.context["kept"]), kept)
        page = self.client.post(reverse("sign_in"), signed | {"password": RIGHT})
        self.assertContains(page, f'action="{url}"')
        self.assertEqual([list(pair) for pair in page.context["kept"]], kept)
        self.client.post(url, dict(page.context["kept"]))
        self.card_class.refresh_from_db()
        self.assertEqual(self.card_class.title, data["title"])

    def test_what_is_kept_leads_to_no_other_place_and_holds_no_password(self):
        self.client.logout()
        page = self.client.post(reverse("change_password"), {"old_password": RIGHT, "new_password1": "x"})
        self.assertNotContains(page, RIGHT, status_code=401)
        signed = {"username": "mira", "password": RIGHT, "next": "https://elsewhere.example/", "kept": '[["a", "b"]]'}
        self.assertContains(self.client.post(reverse("sign_in"), signed), f'action="{reverse("classes:list")}"')

    def test_nonsense_in_what_is_kept_is_let_go(self):
        for nonsense in ("{", "5", "[[1]]", '[["a"]]', "[" * 100_000):
            self.client.logout()
            signed = {"username": "mira", "password": RIGHT, "kept": nonsense}
            self.assertEqual(self.client.post(reverse("sign_in"), signed).status_code, 302, nonsense[:5])

    def test_one_sees_where_one_is_signed_in_and_ends_it(self):
        self.client.get(reverse("classes:list"))
        phone = self.client_class(headers={"User-Agent": "Something (Linux; Mobile) Mobi"})
        phone.force_login(self.user)
        phone.get(reverse("classes:list"))
        other = self.client_class()
        other.force_login(self.stranger)
        other.get(reverse("classes:list"))
        page = self.client.get(reverse("account"))
        self.assertContains(page, "a phone or tablet")
        self.assertContains(page, "(here)", count=1)
        self.assertEqual(page.content.count(b"sign out there"), 1)
        self.client.post(reverse("end_sessions"))
        self.assertEqual(phone.get(reverse("classes:list")).status_code, 302)
        self.assertEqual(self.client.get(reverse("classes:list")).status_code, 200)
        self.assertEqual(other.get(reverse("classes:list")).status_code, 200)
        theirs = Session.objects.get(user=self.stranger).pk
        self.assertEqual(self.client.post(reverse("end_sessions"), {"session": theirs}).status_code, 404)


class PasswordTests(SignedInTests):
    def test_another_password_ends_all_other_sessions(self):
        other = self.client_class()
        other.force_login(self.user)
        other.get(reverse("classes:list"))
        new = "a-longer-tail-7"
        data = {"old_password": WRONG, "new_password1": new, "new_password2": new}
        self.assertContains(self.client.post(reverse("change_password"), data), "entered incorrectly")
        weak = {"old_password": RIGHT, "new_password1": "password", "new_password2": "password"}
        self.assertContains(self.client.post(reverse("change_password"), weak), "too common")
        self.assertRedirects(
            self.client.post(reverse("change_password"), data | {"old_password": RIGHT}), reverse("account")
        )
        self.assertEqual(other.get(reverse("classes:list")).status_code, 302)
        self.user.refresh_from_db()
        self.assertTrue(self.user.check_password(new))

    def test_a_forgotten_password_is_replaced_by_a_link_that_works_once(self):
        wrong = {"contact-email": "mira@example.org", "contact-current": WRONG}
        self.assertContains(self.client.post(reverse("account"), wrong), "This is not your password.")
        self.client.post(reverse("account"), wrong | {"contact-current": RIGHT})
        there = self.client_class()
        there.force_login(self.user)
        there.get(reverse("classes:list"))
        self.client.logout()
        for address in ("nobody@example.org", "mira@example.org"):
            sent = self.client.post(reverse("forgotten"), {"email": address}, follow=True)
            self.assertContains(sent, "If there is an account with that address")
        (message,) = mail.outbox
        link = re.search(r"https?://testserver(\S+)", message.body)[1]
        page = self.client.get(link, follow=True)
        where = page.redirect_chain[-1][0]
        new = {"new_password1": "a-longer-tail-7", "new_password2": "a-longer-tail-7"}
        self.assertRedirects(self.client.post(where, new), reverse("sign_in"))
        self.assertEqual(there.get(reverse("classes:list")).status_code, 302)
        self.assertContains(self.client.get(link, follow=True), "used already, or is over an hour old")
        self.assertIn("was just changed", mail.outbox[-1].body)
        self.assertEqual(mail.outbox[-1].to, ["mira@example.org"])

    def test_an_account_is_deleted_by_its_owner_who_knows_the_password(self):
        theirs = make_class(self.stranger)
        make_class(self.user, "Base 4 x 5 brass")
        answer = self.client.post(reverse("delete_account"), {"delete-current": WRONG})
        self.assertContains(answer, "This is not your password.")
        with self.assertLogs("zester.audit") as told:
            answer = self.client.post(reverse("delete_account"), {"delete-current": RIGHT}, follow=True)
        self.assertContains(answer, "are gone")
        self.assertIn(f"account deleted: {self.user.pk}", "".join(told.output))
        self.assertFalse(get_user_model().objects.filter(pk=self.user.pk).exists())
        self.assertEqual(list(type(theirs).objects.all()), [theirs])
        self.assertFalse(Card.objects.exists())

    def test_without_a_mail_server_mail_lies_in_a_folder(self):
        with tempfile.TemporaryDirectory() as folder:
            backend = "django.core.mail.backends.filebased.EmailBackend"
            get_user_model().objects.update(email="mira@example.org")
            with override_settings(EMAIL_BACKEND=backend, EMAIL_FILE_PATH=folder):
                self.client.post(reverse("forgotten"), {"email": "mira@example.org"})
            self.assertTrue(list(Path(folder).iterdir()))
