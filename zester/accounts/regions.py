"""Where somebody lives: kept of the account and of the house, and known to every session."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from zester.accounts.models import RegionRow, Session
from zester.accounts.sessions import SessionStore
from zester.site.regions import HOUSE, Region, guess, read_region, within

# Of a session: the region as JSON, and whether the account was asked for its own.
REGION, ASKED = "region", "region_asked"


def region_of(owner: int) -> tuple[Region, bool]:
    """The account's region, or the house's; and whether the account was asked for its own."""
    row = RegionRow.objects.filter(user=owner).first()
    region = read_region(row.region) if row and row.region else region_of_house()
    return region, row is not None


def region_of_house() -> Region:
    """That of the house; the settings' own if nobody has said."""
    row = RegionRow.objects.filter(user=None).first()
    return read_region(row.region) if row else HOUSE


def keep_region(user: AbstractBaseUser, region: Region) -> None:
    """Store it, and tell every session of the account."""
    RegionRow.objects.update_or_create(user=user, defaults={"region": region.stored()})
    for row in Session.objects.filter(user=user, expire_date__gt=timezone.now()):
        store = SessionStore(row.session_key)
        store[REGION], store[ASKED] = region.stored(), True
        store.save()


def keep_asked(user: AbstractBaseUser) -> None:
    """The account was asked, and has said nothing: it goes on as the house has it."""
    RegionRow.objects.get_or_create(user=user)


def keep_region_of_house(region: Region) -> None:
    """Store it; sessions begun before know it when they are begun anew."""
    RegionRow.objects.update_or_create(user=None, defaults={"region": region.stored()})


def guessed(request: HttpRequest, zone: str = "") -> Region:
    """What a browser's language and time zone say."""
    language = request.headers.get("Accept-Language", "").split(",")[0].split(";")[0].strip()[:20]
    return guess(language, zone)


def to_ask(request: HttpRequest) -> Region | None:
    """What an account is asked about that has not said how it measures; nothing where it has, or was asked."""
    if request.session.get(ASKED):
        return None
    found = guessed(request)
    # A browser that names no country says nothing.
    return found if found != HOUSE else None


def in_region(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: everything is answered as the region of whoever asks has it."""

    def answered(request: HttpRequest) -> HttpResponse:
        if not request.user.is_authenticated:
            return answer(request)
        kept = request.session.get(REGION)
        if kept is None:
            region, asked = region_of(request.user.pk)
            request.session[REGION], request.session[ASKED] = region.stored(), asked
        else:
            region = read_region(kept)
        with within(region):
            return answer(request)

    return answered
