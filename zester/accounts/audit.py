"""What the log says of sign-ins, refusals, passwords and deletions: by key, without names, words or addresses.

An address is written as a short mark that is the same for the same address and says nothing else, so that one can see
that many refusals come from one place.
"""

from __future__ import annotations

import logging
from ipaddress import ip_address
from smtplib import SMTPException

from axes.signals import user_locked_out
from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed
from django.db.models.signals import post_delete
from django.http import HttpRequest
from django.template.loader import render_to_string
from django.utils.crypto import salted_hmac

log = logging.getLogger("zester.audit")
NOWHERE = "0.0.0.0"  # noqa: S104


def listen() -> None:
    """Begin to write."""
    user_logged_in.connect(_signed_in)
    user_logged_out.connect(_signed_out)
    user_login_failed.connect(_refused)
    user_locked_out.connect(_slowed)
    post_delete.connect(_account_deleted, sender=get_user_model())


def address_of(request: HttpRequest, *_) -> str:
    """The address a request comes from: what the proxy in front says if there is one, else the other end."""
    found = request.META.get("REMOTE_ADDR", "")
    if settings.BEHIND_PROXY:
        # The last entry is the proxy's own; what stands before it anybody can send.
        found = request.META.get("HTTP_X_FORWARDED_FOR", "").rpartition(",")[2].strip()
    try:
        return str(ip_address(found))
    except ValueError:
        return NOWHERE


def mark_of(request: HttpRequest | None) -> str:
    """The address as a mark."""
    return salted_hmac("zester.audit", address_of(request)).hexdigest()[:8] if request else "none"


def password_changed(user, how: str) -> None:
    """Say that a password was changed: in the log, and to its owner, who may know nothing of it."""
    log.info("password changed: account %s, %s", user.pk, how)
    try:
        user.email_user("Your password for Zester was changed", render_to_string("accounts/changed_mail.txt"))
    except (OSError, SMTPException):
        log.warning("mail could not be sent: account %s", user.pk)


def joined(user, how: str) -> None:
    """Say that an account was made."""
    log.info("account made: account %s, %s", user.pk, how)


def sessions_ended(user, number: int) -> None:
    """Say that somebody has signed out elsewhere."""
    log.info("sessions ended: account %s, %s of them", user.pk, number)


def _signed_in(sender, request, user, **_) -> None:
    log.info("signed in: account %s, from %s", user.pk, mark_of(request))


def _signed_out(sender, request, user, **_) -> None:
    log.info("signed out: account %s", user.pk if user else "none")


def _refused(sender, credentials, request=None, **_) -> None:
    name = credentials.get("username") or ""
    known = get_user_model().objects.filter(username=name).values_list("pk", flat=True).first()
    log.warning("sign-in refused: account %s, from %s", known or "unknown", mark_of(request))


def _slowed(sender, request, username="", **_) -> None:
    known = get_user_model().objects.filter(username=username or "").values_list("pk", flat=True).first()
    log.warning("sign-in slowed: account %s, from %s", known or "unknown", mark_of(request))


def _account_deleted(sender, instance, **_) -> None:
    # Somebody nobody can be, whom an archive was brought in under, was no account.
    if instance.has_usable_password():
        log.info("account deleted: %s", instance.pk)
