"""Signing in by name and password: Django's own, whose question of every request is put together once."""

from __future__ import annotations

from django.contrib.auth import get_user_model
from django.contrib.auth.backends import ModelBackend
from django.contrib.auth.models import User
from django.db.models import QuerySet

from zester.site.prepared import prepared

# What sessions say they were begun by.
BACKEND = "zester.accounts.backends.ByPassword"


@prepared
def _account(pk: int) -> QuerySet:
    return get_user_model().objects.filter(pk=pk)


class ByPassword(ModelBackend):
    """Django's."""

    def get_user(self, user_id: int) -> User | None:
        """Whose session it is, unless the account is gone or shut."""
        found = _account(user_id)
        return found[0] if found and self.user_can_authenticate(found[0]) else None
