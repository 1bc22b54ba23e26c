"""Sessions that know whose they are, so that somebody can see where they are signed in, and end it."""

from __future__ import annotations

from django.conf import settings
from django.contrib.sessions.base_session import AbstractBaseSession
from django.db import models


class Session(AbstractBaseSession):
    """A session as Django keeps it; of somebody signed in also whose, on what, since when, and when last used."""

    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="zester_sessions"
    )
    browser = models.CharField(max_length=60, blank=True)
    began_at = models.DateTimeField(auto_now_add=True)
    used_on = models.DateField(null=True)

    class Meta:
        ordering = ["-began_at"]

    @classmethod
    def get_session_store_class(cls):
        """Django asks for it."""
        from zester.accounts.sessions import SessionStore

        return SessionStore
