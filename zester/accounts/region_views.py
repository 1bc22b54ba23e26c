"""The page that says how somebody measures and writes, and the first question about it."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from zester.accounts.forms import RegionForm
from zester.accounts.joining import owner_only
from zester.accounts.regions import (
    ASKED,
    REGION,
    guessed,
    keep_asked,
    keep_region,
    keep_region_of_house,
    region_of_house,
)
from zester.site.regions import Region, current


def region(request: HttpRequest) -> HttpResponse:
    """One's own."""
    form = RegionForm(request.POST or None, initial=current().stored())
    if request.method == "POST" and form.is_valid():
        _keep(request, form.region())
        messages.success(request, "Saved. What is new begins so; what is there stays as it is, amounts too.")
        return redirect("region")
    return render(request, "accounts/region.html", {"form": form, "house": False})


@require_POST
def as_guessed(request: HttpRequest) -> HttpResponse:
    """As the browser says, or another time."""
    if "later" in request.POST:
        keep_asked(request.user)
        request.session[ASKED] = True
    else:
        _keep(request, guessed(request, request.POST.get("zone", "")[:60]))
        messages.success(request, "Saved. You find it under your account.")
    return redirect("classes:list")


def _keep(request: HttpRequest, said: Region) -> None:
    # This session is saved with the answer; all others are told.
    keep_region(request.user, said)
    request.session[REGION], request.session[ASKED] = said.stored(), True


def region_of_all(request: HttpRequest) -> HttpResponse:
    """What accounts begin with that have said nothing."""
    owner_only(request)
    form = RegionForm(request.POST or None, initial=region_of_house().stored())
    if request.method == "POST" and form.is_valid():
        keep_region_of_house(form.region())
        messages.success(request, "Saved, for whoever has said nothing else and signs in from now on.")
        return redirect("house")
    return render(request, "accounts/region.html", {"form": form, "house": True})
