"""People and things for tests of the web application."""

from __future__ import annotations

from django.contrib.auth import get_user_model
from django.test import TestCase, override_settings

from zester.classes.models import CardClass, ClassCard
from zester.classes.services import add_card
from zester.core.sizes import SHEET_SIZES
from zester.designs.models import Card
from zester.fits.models import Fit
from zester.fits.services import run_fit, start_fit
from zester.shelf.models import Paper


def make_paper(owner, name: str = "Telescope Brass", sheet: str = "letter", **more) -> Paper:
    """A paper of a usual size."""
    size = SHEET_SIZES[sheet]
    return Paper.objects.create(
        owner=owner, name=name, sheet=sheet, width=size.width, height=size.height, unit=size.unit, **more
    )


def make_class(owner, *lists: str, participants: int = 4, **more) -> CardClass:
    """A class with a card for each list, one for each participant and no samples."""
    card_class = CardClass.objects.create(owner=owner, title="Evening", participants=participants, **more)
    for number, text in enumerate(lists):
        entry = add_card(card_class, f"Card {number + 1}")
        Card.objects.filter(pk=entry.card.pk).update(cut_list=text)
        ClassCard.objects.filter(pk=entry.pk).update(samples=0)
    return card_class


def fitted(card_class: CardClass) -> Fit:
    """The class fitted, here and now."""
    found = start_fit(card_class)
    run_fit(found.pk)
    found.refresh_from_db()
    return found


@override_settings(TASKS={"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend"}})
class SignedInTests(TestCase):
    """Somebody signed in, with one paper on the shelf, and a stranger."""

    def setUp(self):
        users = get_user_model().objects
        self.user = users.create_user("mira", password="kite-tail-9")
        self.stranger = users.create_user("odd", password="kite-tail-8")
        self.client.force_login(self.user)
        self.paper = make_paper(self.user)
