"""Signing in, and that nobody sees or changes another's things."""

from django.test import override_settings
from django.urls import reverse

from zester.classes.models import CardClass
from zester.designs.models import Card
from zester.shelf.models import Paper
from zester.site.tests.people import SignedInTests, fitted, make_class


class SignInTests(SignedInTests):
    def test_the_demo_sign_in_is_told_only_in_the_demo(self):
        self.client.logout()
        self.assertNotContains(self.client.get(reverse("sign_in")), "stargazer")
        with override_settings(DEMO=True):
            self.assertContains(self.client.get(reverse("sign_in")), "stargazer")

    def test_every_page_asks_for_a_sign_in_first(self):
        self.client.logout()
        for name in ("classes:list", "classes:new", "shelf:shelf", "shelf:new", "designs:notation"):
            response = self.client.get(reverse(name))
            self.assertRedirects(response, f"{reverse('sign_in')}?next={reverse(name)}")

    def test_signing_in_and_out(self):
        self.client.logout()
        wrong = self.client.post(reverse("sign_in"), {"username": "mira", "password": "no"})
        self.assertContains(wrong, "correct username and password")
        self.assertContains(wrong, 'value="mira"')
        right = self.client.post(reverse("sign_in"), {"username": "mira", "password": "kite-tail-9"})
        self.assertRedirects(right, reverse("classes:list"))
        self.assertRedirects(self.client.post(reverse("sign_out")), reverse("sign_in"))


class OwnerTests(SignedInTests):
    def test_a_stranger_finds_nothing_at_any_address(self):
        card_class = make_class(self.user, "Mat 4 x 5 brass")
        found = fitted(card_class)
        card = Card.objects.get()
        pages = [
            reverse("classes:edit", args=[card_class.pk]),
            reverse("classes:count", args=[card_class.pk]),
            reverse("designs:desk", args=[card_class.pk]),
            reverse("designs:card", args=[card_class.pk, "A"]),
            reverse("designs:edit", args=[card_class.pk, "A"]),
            reverse("fits:sheets", args=[card_class.pk]),
            reverse("fits:progress", args=[found.pk]),
            reverse("fits:download", args=[found.pk, "plan"]),
            reverse("bench:steps", args=[card_class.pk]),
            reverse("bench:paper", args=[card_class.pk, 1]),
            reverse("bags:pack", args=[card_class.pk]),
            reverse("shelf:edit", args=[self.paper.pk]),
        ]
        changes = [
            reverse("classes:remove", args=[card_class.pk]),
            reverse("classes:restore", args=[card_class.pk]),
            reverse("classes:count", args=[card_class.pk]),
            reverse("designs:new", args=[card_class.pk]),
            reverse("designs:read", args=[card_class.pk, "A"]),
            reverse("designs:remove", args=[card_class.pk, "A"]),
            reverse("designs:restore", args=[card.pk]),
            reverse("fits:start", args=[card_class.pk]),
            reverse("fits:stop", args=[found.pk]),
            reverse("shelf:edit", args=[self.paper.pk]),
            reverse("shelf:remove", args=[self.paper.pk]),
            reverse("shelf:restore", args=[self.paper.pk]),
        ]
        for address in pages[:-1]:
            self.assertIn(self.client.get(address).status_code, (200, 204), address)
        self.client.force_login(self.stranger)
        for address in pages:
            self.assertEqual(self.client.get(address).status_code, 404, address)
        for address in changes:
            self.assertEqual(self.client.post(address, {"cut_list": "x"}).status_code, 404, address)
        self.assertNotContains(self.client.get(reverse("classes:list")), "Evening")
        self.assertNotContains(self.client.get(reverse("shelf:shelf")), "Telescope Brass")
        for kept in (CardClass, Card, Paper):
            self.assertTrue(kept.objects.of(self.user).exists())

    def test_a_stranger_may_use_the_same_name_for_a_paper_of_their_own(self):
        self.client.force_login(self.stranger)
        data = {
            "name": "Telescope Brass",
            "kind": "card",
            "sheet": "a4",
            "direction": "free",
            "pack": "1",
            "supply": "buy",
            "colour": "#112233",
            "repeat": "dots",
        }
        self.assertRedirects(self.client.post(reverse("shelf:new"), data), reverse("shelf:shelf"))

    def test_forms_are_protected_against_forgery(self):
        strict = self.client_class(enforce_csrf_checks=True)
        strict.force_login(self.user)
        self.assertEqual(strict.post(reverse("shelf:new"), {"name": "x"}).status_code, 403)
