"""How things of the shelf are found by their words."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from django.contrib.auth.models import AbstractBaseUser
from django.urls import reverse

from zester.shelf.models import Bit, Pad, Paper
from zester.site.find import Found, holding


def find_papers(user: AbstractBaseUser, words: Sequence[str]) -> Iterable[Found]:
    """Papers by name, by what they were called, by place and notes."""
    mine = Paper.objects.of(user).order_by("name", "pk")
    for each in holding(mine, words, "name", "former_names", "place"):
        url = reverse("shelf:stock", args=[each.pk])
        yield Found(name=each.name, words=", ".join(filter(None, (each.get_kind_display(), each.place))), url=url)


def find_bits(user: AbstractBaseUser, words: Sequence[str]) -> Iterable[Found]:
    """Bits and pads by name, place and merchant."""
    for each in holding(Bit.objects.of(user).order_by("name", "pk"), words, "name", "place", "merchant"):
        yield Found(name=each.name, words=each.place, url=reverse("shelf:edit_bit", args=[each.pk]))
    for each in holding(Pad.objects.of(user).order_by("name", "pk"), words, "name", "merchant"):
        yield Found(name=each.name, words="pad", url=reverse("shelf:edit_pad", args=[each.pk]))
