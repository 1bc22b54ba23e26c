"""Bits and pads on the shelf: what is not cut from sheets, and what several patterns are sold in."""

from __future__ import annotations

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from zester.core.errors import ZesterError
from zester.shelf.models import Bit, Pad
from zester.shelf.services import papers_of
from zester.shelf.stock import (
    buy_pad,
    count_bit,
    stop_counting_bit,
)
from zester.shelf.stock_forms import BitForm, PadForm
from zester.site.owned import key_of, locked
from zester.site.removed import bringing_back, removing


def bits(request: HttpRequest) -> HttpResponse:
    """Ribbon, gems, envelopes: what is not cut from sheets; and pads of several patterns."""
    papers = dict(papers_of(request.user).values_list("key", "name"))
    pads = [
        {"pad": pad, "holds": sorted((papers.get(key, "a paper that is gone"), n) for key, n in pad.holds.items())}
        for pad in Pad.objects.of(request.user)
    ]
    return render(request, "shelf/bits.html", {"bits": Bit.objects.of(request.user), "pads": pads})


def bit(request: HttpRequest, pk: int = 0) -> HttpResponse:
    """A bit, new or changed."""
    mine = Bit.objects.of(request.user)
    if request.method != "POST":
        instance = get_object_or_404(mine, pk=pk) if pk else Bit(owner=request.user, name=request.GET.get("name", ""))
        form = BitForm(instance=instance)
    else:
        with transaction.atomic():
            form = BitForm(request.POST, instance=locked(mine, pk=pk) if pk else Bit(owner=request.user))
            if form.is_valid():
                made = form.save()
                if form.counted is None:
                    stop_counting_bit(made)
                else:
                    count_bit(made, form.counted)
                messages.success(request, f"{made.name} is saved.{form.merged_words}")
                return redirect("shelf:bits")
    return render(request, "shelf/bit.html", {"form": form, "bit": mine.filter(pk=pk).first()})


remove_bit = removing(Bit, "shelf:bits", words="{} is off the shelf.")


def _same_name(bit: Bit) -> str:
    if Bit.objects.of(bit.owner).filter(name__iexact=bit.name).exists():
        return f"Another bit is called {bit.name} now. Rename that one first."
    return ""


restore_bit = bringing_back(Bit, "shelf:bits", words="{} is back on the shelf.", in_the_way=_same_name)


def pad(request: HttpRequest, pk: int = 0) -> HttpResponse:
    """A pad of several patterns, new or changed."""
    mine = Pad.objects.of(request.user)
    papers = list(papers_of(request.user).exclude(kind="card"))
    if request.method != "POST":
        form = PadForm(instance=get_object_or_404(mine, pk=pk) if pk else Pad(owner=request.user), papers=papers)
    else:
        with transaction.atomic():
            instance = locked(mine, pk=pk) if pk else Pad(owner=request.user)
            form = PadForm(request.POST, instance=instance, papers=papers)
            if form.is_valid():
                made = form.save()
                messages.success(request, f"{made.name} is saved: {made.sheets} sheets.{form.merged_words}")
                return redirect("shelf:bits")
    return render(request, "shelf/pad.html", {"form": form, "pad": mine.filter(pk=pk).first()})


@require_POST
def pad_bought(request: HttpRequest, pk: int) -> HttpResponse:
    """Book pads that were bought: so many sheets of each of their papers."""
    found = get_object_or_404(Pad.objects.of(request.user), pk=pk)
    count = key_of(request.POST.get("count", ""))
    if not 1 <= count <= 1000:
        messages.error(request, "How many pads? From 1 to 1,000.")
    else:
        try:
            buy_pad(found, count, about=f"{count} × {found.name}")
            messages.success(request, f"{count} × {found.name} booked: {count * found.sheets} sheets.")
        except ZesterError as error:
            messages.error(request, error.advice())
    return redirect("shelf:bits")


# Its sheets stay.
remove_pad = removing(Pad, "shelf:bits")


restore_pad = bringing_back(Pad, "shelf:bits")
