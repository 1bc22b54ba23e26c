"""People and things for tests of the web application."""

from __future__ import annotations

from copy import copy
from unittest import mock

from django.contrib.auth import get_user_model
from django.test import TestCase, override_settings

from zester.classes.models import CardClass, ClassCard
from zester.classes.services import add_card, recount
from zester.core.sizes import SHEET_SIZES
from zester.designs.models import Card
from zester.plans.models import PaperFit, Work
from zester.plans.needs import begin_class
from zester.plans.work import run
from zester.shelf.models import Paper

AT_ONCE = {"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend", "QUEUES": []}}
IN_THE_DATABASE = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend", "QUEUES": []}}
# The best order of steps is searched for by tests of its own; elsewhere a good one will do.
A_GOOD_ORDER = mock.patch("zester.core.cutting.order.MOST", 20)
URGENT = (Work.Kind.QUICK, Work.Kind.PROVE)


def make_paper(owner, name: str = "Telescope Brass", sheet: str = "letter", **more) -> Paper:
    """A paper of a usual size."""
    size = SHEET_SIZES[sheet]
    return Paper.objects.create(
        owner=owner, name=name, sheet=sheet, width=size.width, height=size.height, unit=size.unit, **more
    )


def make_class(owner, *lists: str, participants: int = 4, **more) -> CardClass:
    """A class with a card for each list, one for each participant and no samples; counted."""
    card_class = CardClass.objects.create(owner=owner, title="Evening", participants=participants, **more)
    for number, text in enumerate(lists):
        entry = add_card(card_class, f"Card {number + 1}")
        Card.objects.filter(pk=entry.card.pk).update(cut_list=text)
        ClassCard.objects.filter(pk=entry.pk).update(samples=0)
    recount(card_class.pk)
    return CardClass.objects.get(pk=card_class.pk)


def work_off(card_class: CardClass, kinds: tuple[str, ...] = URGENT) -> None:
    """What a worker would do by and by, here and now."""
    mine = Work.objects.filter(fit__class_paper__card_class=card_class, status=Work.Status.WAITING, kind__in=kinds)
    while waiting := list(mine.all()):
        for work in waiting:
            run(work.pk)


def fitted(card_class: CardClass) -> PaperFit | None:
    """The class counted and fitted, here and now: its first paper, or None if it needs none."""
    recount(card_class.pk)
    begin_class(CardClass.objects.get(pk=card_class.pk))
    work_off(card_class)
    return PaperFit.objects.wanted().filter(class_paper__card_class=card_class).first()


def in_one_line(text: str) -> str:
    """Any white space as one space."""
    return " ".join(text.split())


def as_shown(response):
    """A page with its white space as a browser shows it; other answers as they are."""
    if getattr(response, "streaming", False) or not response.headers.get("Content-Type", "").startswith("text/html"):
        return response
    shown = copy(response)
    shown.content = in_one_line(response.content.decode())
    return shown


@override_settings(TASKS=AT_ONCE, IDLE_WORK=False)
class SignedInTests(TestCase):
    """Somebody signed in, with one paper on the shelf, and a stranger."""

    @classmethod
    def setUpClass(cls):
        # What a class begins with is made there, too.
        cls.enterClassContext(A_GOOD_ORDER)
        super().setUpClass()

    @classmethod
    def setUpTestData(cls):
        users = get_user_model().objects
        cls.user = users.create_user("mira", password="kite-tail-9")
        cls.stranger = users.create_user("odd", password="kite-tail-8")
        cls.paper = make_paper(cls.user)

    def setUp(self):
        self.client.force_login(self.user)

    def assertContains(self, response, text, *args, **kwargs) -> None:  # noqa: N802
        """As a browser shows it: any white space is one space."""
        super().assertContains(as_shown(response), in_one_line(str(text)), *args, **kwargs)

    def shown(self, url: str) -> str:
        """The page at this address, its white space as a browser shows it."""
        return in_one_line(self.client.get(url).content.decode())

    def assertNotContains(self, response, text, *args, **kwargs) -> None:  # noqa: N802
        """The same the other way round."""
        super().assertNotContains(as_shown(response), in_one_line(str(text)), *args, **kwargs)

    def set_list(self, text: str, card: Card | None = None) -> None:
        """Another list for the only card, or this one; its classes follow."""
        cards = Card.objects.filter(pk=card.pk) if card else Card.objects.all()
        cards.update(cut_list=text)
        for pk in ClassCard.objects.filter(card__in=cards).values_list("card_class", flat=True).distinct():
            recount(pk)
