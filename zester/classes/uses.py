"""What the library of designs is told of classes."""

from __future__ import annotations

from collections.abc import Sequence

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import QuerySet
from django.urls import reverse
from django.utils import timezone

from zester.classes.models import CardClass, ClassCard
from zester.designs.models import Card
from zester.designs.uses import Place, Use
from zester.site.owned import Owned
from zester.site.removed import kept_for


def taken_out(user: AbstractBaseUser) -> QuerySet[ClassCard]:
    """Cards that somebody took out of classes that are still there, lately."""
    mine = ClassCard.objects.filter(card_class__owner=user, card_class__removed_at=None, card__removed_at=None)
    return mine.filter(removed_at__gt=timezone.now() - kept_for()).select_related("card", "card_class")


def is_kept(thing: Owned) -> bool:
    """Whether a class keeps its own state of a removed design."""
    return isinstance(thing, Card) and ClassCard.objects.filter(card=thing).exclude(held={}).exists()


class InClasses:
    """Designs are used in classes."""

    put_url = "classes:use"

    def uses(self, cards: Sequence[Card]) -> dict[int, list[Use]]:
        """The classes each card is in."""
        found: dict[int, list[Use]] = {card.pk: [] for card in cards}
        for entry in ClassCard.objects.used().filter(card__in=found).select_related("card_class"):
            url = reverse("classes:card", args=[entry.card_class_id, entry.letter])
            found[entry.card_id].append(
                Use(name=entry.card_class.title, letter=entry.letter, url=url, keeps=bool(entry.held))
            )
        return found

    def places(self, card: Card) -> list[Place]:
        """The classes of its owner that it is not in."""
        others = CardClass.objects.of(card.owner).exclude(
            pk__in=ClassCard.objects.used().filter(card=card).values("card_class")
        )
        return [Place(key=each.pk, name=each.title) for each in others]
