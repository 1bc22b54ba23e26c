"""Where somebody lives: kept of the account and of the house, and known to every session."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from zester.accounts.models import RegionRow, Session
from zester.accounts.sessions import SessionStore
from zester.site.regions import HOUSE, Region, guess, read_region, within

# Of a session: the region as JSON, whether it is the account's own, whether it was asked for.
REGION, OWN, ASKED = "region", "region_own", "region_asked"


def region_of(owner: int) -> tuple[Region, bool]:
    """The account's region, or the house's; and whether it is the account's own."""
    kept = {row.user_id: row.region for row in RegionRow.objects.filter(user__in=[owner])}
    if owner in kept:
        return read_region(kept[owner]), True
    return region_of_house(), False


def region_of_house() -> Region:
    """That of the house; the settings' own if nobody has said."""
    row = RegionRow.objects.filter(user=None).first()
    return read_region(row.region) if row else HOUSE


def keep_region(user: AbstractBaseUser, region: Region) -> None:
    """Store it, and tell every session of the account."""
    RegionRow.objects.update_or_create(user=user, defaults={"region": region.stored()})
    for row in Session.objects.filter(user=user, expire_date__gt=timezone.now()):
        store = SessionStore(row.session_key)
        store[REGION], store[OWN] = region.stored(), True
        store.save()


def keep_region_of_house(region: Region) -> None:
    """Store it; sessions begun before know it when they are begun anew."""
    RegionRow.objects.update_or_create(user=None, defaults={"region": region.stored()})


def guessed(request: HttpRequest, zone: str = "") -> Region:
    """What a browser's language and time zone say."""
    language = request.headers.get("Accept-Language", "").split(",")[0].split(";")[0].strip()[:20]
    return guess(language, zone)


def to_ask(request: HttpRequest) -> Region | None:
    """What an account is asked about that has not said how it measures; nothing where it has, or was asked."""
    if request.session.get(OWN) or request.session.get(ASKED):
        return None
    found = guessed(request)
    # A browser that names no country says nothing.
    return found if found != Region() else None


def in_region(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: everything is answered as the region of whoever asks has it."""

    def answered(request: HttpRequest) -> HttpResponse:
        if not request.user.is_authenticated:
            return answer(request)
        kept = request.session.get(REGION)
        if kept is None:
            region, own = region_of(request.user.pk)
            request.session[REGION], request.session[OWN] = region.stored(), own
        else:
            region = read_region(kept)
        with within(region):
            return answer(request)

    return answered
