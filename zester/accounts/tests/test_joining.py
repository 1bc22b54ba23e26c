"""Making an account: closed, open, by an invitation that works once; the owner of the house alone decides."""

import datetime
import tempfile
from pathlib import Path

from django.contrib.auth import get_user_model
from django.test import override_settings
from django.urls import reverse
from django.utils import timezone

from tests.people import SignedInTests
from zester.accounts.models import House, Invitation

NEW = {"username": "ines", "email": "", "password1": "harbour-wind-3", "password2": "harbour-wind-3"}


class JoiningTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.client.logout()

    def set_house(self, sign_up: str) -> None:
        House.objects.update_or_create(pk=1, defaults={"sign_up": sign_up})

    def invitation(self, days: int = 3) -> str:
        token = f"t{Invitation.objects.count()}"
        Invitation.objects.create(token=token, ends_at=timezone.now() + datetime.timedelta(days=days))
        return reverse("sign_up_invited", args=[token])

    def test_at_first_it_takes_an_invitation(self):
        self.assertContains(self.client.get(reverse("sign_up")), "by invitation here")
        self.assertEqual(self.client.post(reverse("sign_up"), NEW).status_code, 403)
        self.assertFalse(get_user_model().objects.filter(username="ines").exists())

    def test_an_invitation_works_once(self):
        url = self.invitation()
        self.assertContains(self.client.get(url), "Make an account")
        answer = self.client.post(url, NEW, follow=True)
        self.assertContains(answer, "Welcome, ines")
        self.assertContains(answer, "Plan your first class")
        self.client.logout()
        self.assertContains(self.client.get(url), "This invitation is not open", status_code=403)
        self.assertEqual(self.client.post(url, NEW | {"username": "odile"}).status_code, 403)
        self.assertEqual(self.client.get(self.invitation(days=-1)).status_code, 403)

    def test_closed_closes_invitations_too_and_open_needs_none(self):
        url = self.invitation()
        self.set_house("closed")
        self.assertEqual(self.client.post(url, NEW).status_code, 403)
        self.set_house("open")
        self.assertContains(self.client.post(reverse("sign_up"), NEW, follow=True), "Welcome, ines")

    def test_a_name_is_one_account_and_a_weak_password_is_told_beside_its_field(self):
        self.set_house("open")
        for changed, words in (
            ({"username": "MIRA"}, "Somebody has this name here"),
            ({"password2": "other"}, "didn’t match"),
            ({"password1": "12345678", "password2": "12345678"}, "too common"),
        ):
            with self.subTest(changed=changed):
                page = self.client.post(reverse("sign_up"), NEW | changed)
                self.assertContains(page, words)
                self.assertContains(page, 'aria-invalid="true"')

    def test_only_the_owner_of_the_house_decides(self):
        self.client.force_login(self.user)
        for name, args in (("house", []), ("invite", []), ("take_back", [1])):
            answer = self.client.post(reverse(name, args=args), {"sign_up": "open"})
            self.assertEqual(answer.status_code, 403, name)
        self.user.is_staff = True
        self.user.save()
        refused = self.client.post(reverse("invite"), {"note": "for " + "Odile" * 20}, follow=True)
        self.assertContains(refused, "holds 60 letters, “for OdileOdile")
        self.assertFalse(Invitation.objects.exists())
        self.client.post(reverse("invite"), {"note": "for Odile"})
        page = self.client.get(reverse("house"))
        token = Invitation.objects.get().token
        self.assertContains(page, reverse("sign_up_invited", args=[token]))
        self.client.post(reverse("house"), {"sign_up": "open"})
        self.assertEqual(House.this().sign_up, "open")
        self.client.post(reverse("take_back", args=[Invitation.objects.get().pk]))
        self.assertFalse(Invitation.objects.exists())

    def test_in_the_demo_the_mail_is_shown(self):
        with tempfile.TemporaryDirectory() as folder, override_settings(EMAIL_FILE_PATH=folder):
            Path(folder, "1.log").write_text("Subject: a <link>\nhttp://here/", encoding="utf-8")
            self.assertEqual(self.client.get(reverse("mail")).status_code, 404)
            with override_settings(DEMO=True):
                page = self.client.get(reverse("mail"))
        self.assertContains(page, "a &lt;link&gt;")
        self.assertContains(page, 'href="http://here/"')
