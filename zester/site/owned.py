"""Things that belong to somebody and can be taken back after they were removed."""

from __future__ import annotations

import logging
from functools import cache
from typing import TypeVar

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.db import models
from django.shortcuts import get_object_or_404
from django.utils import timezone

from zester.site.prepared import Prepared

log = logging.getLogger("zester.audit")
Thing = TypeVar("Thing", bound=models.Model)


class OwnedQuerySet(models.QuerySet):
    """Queries that never show one person another's things."""

    def of(self, user: AbstractBaseUser) -> OwnedQuerySet:
        """The user's own that are not removed."""
        return self.filter(owner=user, removed_at=None)

    def removed_of(self, user: AbstractBaseUser) -> OwnedQuerySet:
        """The user's own that were removed and can be brought back."""
        return self.filter(owner=user).exclude(removed_at=None)


def key_of(text: str) -> int:
    """A key as a form sends it; 0, which nothing has, for what is none."""
    return int(text) if text.isascii() and text.isdecimal() and len(text) <= 18 else 0


def mine_or_404(model: type[Thing], user: AbstractBaseUser, pk: int | str, *related: str) -> Thing:
    """The user's own with this key that is not removed, with what it is read with; 404 if there is none."""
    # Where an address is a regular expression its key is text.
    return _mine(model, related).one_or_404(user.pk, int(pk))


@cache
def _mine(model: type[models.Model], related: tuple[str, ...]) -> Prepared:
    def mine(owner: int, pk: int) -> models.QuerySet:
        things = model._default_manager.filter(owner=owner, removed_at=None, pk=pk)
        return things.select_related(*related) if related else things

    return Prepared(mine)


def locked(things: models.QuerySet, **which) -> models.Model:
    """One of the things, to be changed: read now and nobody else's until the transaction ends. 404 if there is none."""
    return get_object_or_404(things.select_for_update(of=("self",)), **which)


class Owned(models.Model):
    """An object with an owner; removing only marks it, so that it can be undone.

    ``what`` it is in a word, and ``restore_view``, the address that brings it back, are each kind's own.
    """

    what = ""
    restore_view = ""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    removed_at = models.DateTimeField(null=True, blank=True, editable=False, db_index=True)

    objects = OwnedQuerySet.as_manager()

    class Meta:
        abstract = True

    def remove(self) -> None:
        """Mark as removed."""
        self.removed_at = timezone.now()
        self.save(update_fields=["removed_at"])
        log.info("removed: %s %s of account %s", self.what, self.pk, self.owner_id)

    def restore(self) -> None:
        """Take the removal back."""
        self.removed_at = None
        self.save(update_fields=["removed_at"])
        log.info("brought back: %s %s of account %s", self.what, self.pk, self.owner_id)
