"""The page for participants: switched on and off, and found by nothing but its address."""

from __future__ import annotations

import datetime

from django.db import transaction

from zester.bags.models import SharedPage, new_token
from zester.classes.models import CardClass

SHORTEST = 24


def shared_of(card_class: CardClass) -> SharedPage:
    """The page of a class; one that is not stored yet is switched off."""
    return SharedPage.objects.filter(card_class=card_class).first() or SharedPage(card_class=card_class)


def found_by(token: str) -> SharedPage | None:
    """The page with this address, if it is open now and its class is still there."""
    if len(token) < SHORTEST:
        return None
    wanted = {"token": token, "is_on": True, "card_class__removed_at": None}
    page = SharedPage.objects.filter(**wanted).select_related("card_class__owner").first()
    # The database may compare letters of both cases as one; an address is what it is to the letter.
    return page if page and page.token == token and page.is_open else None


@transaction.atomic
def switch(card_class: CardClass, on: bool, until: datetime.date | None) -> SharedPage:
    """Switch it on, until a day, or off. Its address stays."""
    page, _ = SharedPage.objects.get_or_create(card_class=card_class)
    page = SharedPage.objects.select_for_update().get(pk=page.pk)
    page.is_on, page.until = on, until
    page.save(update_fields=["is_on", "until"])
    return page


@transaction.atomic
def readdress(card_class: CardClass) -> None:
    """Another address: the old one shows nothing any more."""
    SharedPage.objects.filter(card_class=card_class).update(token=new_token())
