"""How guides are found by their words, and what of a class waits to be cast."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from django.contrib.auth.models import AbstractBaseUser
from django.urls import reverse

from zester.casting.models import Guide
from zester.classes.models import CardClass
from zester.site.find import Found, holding
from zester.site.today import Need


def find_guides(user: AbstractBaseUser, words: Sequence[str]) -> Iterable[Found]:
    """Guides by name and lines."""
    for each in holding(Guide.objects.of(user).order_by("name", "pk"), words, "name", "lines"):
        yield Found(name=each.name, words="guide", url=reverse("casting:guide", args=[each.pk]))


def next_to_cast(card_class: CardClass) -> Need | None:
    """What is next where lettered sheets have no paper yet."""
    url = reverse("casting:table", args=[card_class.pk])
    return Need(words="say which sheet is which letter", url=url) if card_class.n_uncast else None
