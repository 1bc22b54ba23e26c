"""Making an account, where the owner of the house lets people; invitations; in the demo the mail that would be sent."""

from __future__ import annotations

import datetime
import secrets
from pathlib import Path

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST

from zester.accounts import audit
from zester.accounts.backends import BACKEND
from zester.accounts.forms import HouseForm, SignUpForm
from zester.accounts.models import House, Invitation
from zester.accounts.sessions import note_use

INVITED_FOR = datetime.timedelta(days=14)
MOST_INVITATIONS = 100
LONGEST_NOTE = Invitation._meta.get_field("note").max_length
MAILS_SHOWN = 20


@login_not_required
@never_cache
def sign_up(request: HttpRequest, token: str = "") -> HttpResponse:
    """Make an account."""
    if request.user.is_authenticated:
        return redirect("home")
    form = SignUpForm(request.POST or None)
    if not _may(token):
        status = 403 if request.method == "POST" or token else 200
        return render(request, "accounts/sign_up_closed.html", {"invited": bool(token)}, status=status)
    if request.method == "POST" and form.is_valid():
        user = _join(form, token)
        if user is None:
            return render(request, "accounts/sign_up_closed.html", {"invited": True}, status=403)
        login(request, user, backend=BACKEND)
        note_use(request)
        audit.joined(user, "by an invitation" if token else "freely")
        messages.success(request, f"Welcome, {user.get_username()}. This is yours alone.")
        return redirect("home")
    return render(request, "accounts/sign_up.html", {"form": form})


def _may(token: str) -> bool:
    """Whether an account may be made, freely or with this invitation."""
    house = House.this()
    if house.sign_up == House.SignUp.OPEN:
        return True
    return house.sign_up == House.SignUp.INVITED and bool(token) and _open().filter(token=token).exists()


def _open():
    return Invitation.objects.filter(used_at=None, ends_at__gt=timezone.now())


@transaction.atomic
def _join(form: SignUpForm, token: str):
    """The new account; None if the invitation was used meanwhile."""
    if House.this().sign_up != House.SignUp.OPEN:
        invitation = _open().select_for_update().filter(token=token).first()
        if invitation is None:
            return None
        invitation.used_at = timezone.now()
        invitation.save(update_fields=["used_at"])
    return form.save()


def house(request: HttpRequest) -> HttpResponse:
    """Who may make an account; invitations. For the owner of the house."""
    owner_only(request)
    form = HouseForm(request.POST or None, instance=House.this())
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Saved.")
        return redirect("house")
    links = [
        (invitation, request.build_absolute_uri(reverse("sign_up_invited", args=[invitation.token])))
        for invitation in _open()[:MOST_INVITATIONS]
    ]
    return render(request, "accounts/house.html", {"form": form, "links": links})


@require_POST
def invite(request: HttpRequest) -> HttpResponse:
    """Make an invitation."""
    owner_only(request)
    if _open().count() >= MOST_INVITATIONS:
        messages.error(request, f"{MOST_INVITATIONS} invitations are open. Take some back first.")
        return redirect("house")
    note = " ".join(request.POST.get("note", "").split())
    if len(note) > LONGEST_NOTE:
        messages.error(request, f"Whom it is for holds {LONGEST_NOTE} letters, “{note}” has {len(note)}.")
        return redirect("house")
    ends = timezone.now() + INVITED_FOR
    Invitation.objects.create(token=secrets.token_urlsafe(32), note=note, ends_at=ends)
    messages.success(request, "Here is the link. It works once, for two weeks.")
    return redirect("house")


@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Take an invitation back."""
    owner_only(request)
    get_object_or_404(_open(), pk=pk).delete()
    messages.success(request, "The invitation is taken back.")
    return redirect("house")


def owner_only(request: HttpRequest) -> None:
    if not request.user.is_staff:
        raise PermissionDenied


@login_not_required
def mail_shown(request: HttpRequest) -> HttpResponse:
    """In the demo: the mail that would be sent."""
    if not settings.DEMO:
        raise Http404
    folder = Path(settings.EMAIL_FILE_PATH)
    files = sorted(folder.glob("*.log"), key=lambda path: path.stat().st_mtime, reverse=True) if folder.exists() else []
    mails = [path.read_text(encoding="utf-8", errors="replace") for path in files[:MAILS_SHOWN]]
    return render(request, "accounts/mail.html", {"mails": mails})
