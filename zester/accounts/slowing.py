"""Wrong passwords slow down whoever tries, and nobody else who happens to be behind the same router.

Eight wrong ones for one account from one place are followed by five minutes in which it is not tried there. A place
alone, whatever names are tried from it, waits only after far more, and for a minute; an account alone, wherever it is
tried from, after more still. A device that has been signed in to an account before is a place of its own for that
account: what others try, next to it or elsewhere, never keeps it out.
"""

from __future__ import annotations

from datetime import timedelta
from ipaddress import IPv6Address
from uuid import uuid4

from axes.handlers.database import AxesDatabaseHandler
from django.conf import settings
from django.contrib.auth import get_user_model
from django.core import signing
from django.db.models import QuerySet, Sum
from django.http import HttpRequest, HttpResponse
from django.utils.crypto import salted_hmac

from zester.accounts.audit import address_of

SALT = "zester.accounts.device"
KEPT_FOR = timedelta(days=400)
MOST_ACCOUNTS = 20
PLACE_LIMIT, PLACE_PAUSE = 80, timedelta(minutes=1)
ACCOUNT_LIMIT = 200
# An address of the block that stands for no host of any network (RFC 4193), so that no real one can be taken for it.
_NO_HOST = b"\xfd"


class Slowing(AxesDatabaseHandler):
    """Axes' handler in the database, with a limit for each of the settings' parameters."""

    def get_failures(self, request: HttpRequest, credentials: dict | None = None) -> int:
        """Failures as a share of the limit of each, in units of ``AXES_FAILURE_LIMIT``."""
        both, place, account = self.get_user_attempts(request, credentials)
        limit, now = settings.AXES_FAILURE_LIMIT, request.axes_attempt_time
        shares = [_number(both), _number(place.filter(attempt_time__gte=now - PLACE_PAUSE)) * limit // PLACE_LIMIT]
        if not knows(request, request.POST.get("username", "")):
            shares.append(_number(account) * limit // ACCOUNT_LIMIT)
        return max(shares)

    def reset_user_attempts(self, request: HttpRequest, credentials: dict | None = None) -> int:
        """Whoever signs in has their own mistakes forgotten, not what else was tried from where they are."""
        number, _ = self.filter_user_attempts(request, credentials)[0].delete()
        return int(number)


def place_of(request: HttpRequest, *_) -> str:
    """Where a try comes from: the device, if it was signed in to the account before, else the address."""
    if not knows(request, request.POST.get("username", "")):
        return address_of(request)
    mark = salted_hmac(SALT, _device(request)["mark"], algorithm="sha256").digest()
    return str(IPv6Address(_NO_HOST + mark[:15]))


def knows(request: HttpRequest, name: str) -> bool:
    """Whether somebody was signed in to the account of this name on this device before."""
    accounts = _device(request)["accounts"]
    return bool(accounts) and get_user_model().objects.filter(username=name, pk__in=accounts).exists()


def remember(request: HttpRequest, response: HttpResponse) -> None:
    """Note on the device, signed and readable to no script, that its user has been signed in on it."""
    device = _device(request)
    if request.user.pk in device["accounts"]:
        return
    accounts = [*device["accounts"], request.user.pk][-MOST_ACCOUNTS:]
    response.set_cookie(
        settings.DEVICE_COOKIE_NAME,
        signing.dumps({"mark": device["mark"] or uuid4().hex, "accounts": accounts}, salt=SALT),
        max_age=KEPT_FOR,
        httponly=True,
        secure=bool(settings.SESSION_COOKIE_SECURE),
        samesite="Lax",
    )


def _device(request: HttpRequest) -> dict:
    found = request.COOKIES.get(settings.DEVICE_COOKIE_NAME, "")
    try:
        return signing.loads(found, salt=SALT, max_age=KEPT_FOR)
    except signing.BadSignature:
        return {"mark": "", "accounts": []}


def _number(attempts: QuerySet) -> int:
    return attempts.aggregate(sum=Sum("failures_since_start"))["sum"] or 0
