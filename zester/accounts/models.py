"""Sessions that know whose they are, so that somebody can see where they are signed in, and end it."""

from __future__ import annotations

from importlib import import_module

from django.conf import settings
from django.contrib.sessions.base_session import AbstractBaseSession
from django.db import models


class House(models.Model):
    """The one Zester that all share: who may make an account in it. There is one row."""

    class SignUp(models.TextChoices):
        """Who may make an account."""

        CLOSED = "closed", "nobody"
        INVITED = "invited", "whoever has an invitation"
        OPEN = "open", "everybody"

    sign_up = models.CharField(max_length=7, choices=SignUp, default=SignUp.INVITED)

    def __str__(self) -> str:
        return self.get_sign_up_display()

    @classmethod
    def this(cls) -> House:
        """The row."""
        return cls.objects.get_or_create(pk=1)[0]


class RegionRow(models.Model):
    """How an account measures and writes, or, of nobody, the house; ``zester.site.regions`` reads it."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="+")
    region = models.JSONField(default=dict)

    def __str__(self) -> str:
        return f"region of {self.user or 'the house'}"


class Invitation(models.Model):
    """A link with which one account may be made, once, within two weeks."""

    token = models.CharField(max_length=43, unique=True)
    note = models.CharField(max_length=60, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)
    ends_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at"]

    def __str__(self) -> str:
        return self.note or "an invitation"


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
        """Django asks for it; the engine that the settings name knows this model, not the other way round."""
        return import_module(settings.SESSION_ENGINE).SessionStore
