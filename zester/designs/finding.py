"""How designs and tools are found by their words."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from django.contrib.auth.models import AbstractBaseUser
from django.urls import reverse

from zester.designs.models import Card, Tool
from zester.site.find import Found, holding


def find_designs(user: AbstractBaseUser, words: Sequence[str]) -> Iterable[Found]:
    """Designs by name, list and notes."""
    mine = Card.objects.of(user).filter(is_kit=False).order_by("name", "pk")
    for each in holding(mine, words, "name", "cut_list", "notes"):
        yield Found(name=each.name, words="", url=reverse("designs:design", args=[each.pk]))


def find_tools(user: AbstractBaseUser, words: Sequence[str]) -> Iterable[Found]:
    """Tools by name and kind."""
    for each in holding(Tool.objects.of(user).order_by("name", "pk"), words, "name", "kind"):
        yield Found(name=each.name, words=each.get_kind_display(), url=reverse("designs:edit_tool", args=[each.pk]))
