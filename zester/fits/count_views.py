"""Pages of the Count station that need plans: papers and bits of a class, what to buy, what more people would take."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_POST

from zester.classes.models import CardClass
from zester.classes.services import class_or_404, supplies_named
from zester.core.csv_files import write_csv
from zester.core.errors import ZesterError
from zester.plans.models import Work
from zester.plans.standing import papers_in, stamp_of
from zester.plans.work import ask as ask_for
from zester.shelf.merchant import Refused, merchant
from zester.site.owned import key_of
from zester.site.stations import thread
from zester.supply.buying import book_bought, buying_list, coming_classes, price_of
from zester.supply.growth import growth_of
from zester.supply.joint import ask_joint, joint_of, shared_fits
from zester.supply.needed import needs_page
from zester.supply.reach import reach_of


def _class(request: HttpRequest, pk: int) -> CardClass:
    return class_or_404(request.user, pk, "trimmer")


def needs(request: HttpRequest, pk: int) -> HttpResponse:
    """Every paper and bit of a class against what there is: can it be made from that?"""
    card_class = _class(request, pk)
    context = {"stations": thread(card_class, "count"), "stamp": stamp_of(card_class)}
    return render(request, "fits/needs.html", context | needs_page(card_class))


def needs_part(request: HttpRequest, pk: int) -> HttpResponse:
    """The same alone, if it has changed since the page has it."""
    card_class = _class(request, pk)
    stamp = stamp_of(card_class)
    if request.GET.get("since") == stamp:
        return HttpResponse(status=204)
    return render(request, "fits/_needs.html", {"stamp": stamp} | needs_page(card_class))


def seats(request: HttpRequest, pk: int) -> HttpResponse:
    """Sheets and cost against participants, from those who come up to the seats there are."""
    card_class = _class(request, pk)
    papers = papers_in(card_class)
    open_work = Work.objects.filter(
        fit__class_paper__card_class=card_class, kind=Work.Kind.SEATS, status__in=Work.OPEN, stop_asked=False
    ).select_related("fit__class_paper__paper")
    working = list(open_work)
    context = {
        "card_class": card_class,
        "papers": papers,
        "growth": growth_of(card_class, papers),
        "reach": reach_of(card_class, papers),
        "working": working,
        "stations": thread(card_class, "count"),
    }
    template = "fits/_seats.html" if request.htmx else "fits/seats.html"
    return render(request, template, context)


@require_POST
def ask_seats(request: HttpRequest, pk: int) -> HttpResponse:
    """Work it out, in the background, for every paper that has a plan."""
    for entry in papers_in(_class(request, pk)).entries:
        if entry.fit.answered:
            ask_for(entry.fit, Work.Kind.SEATS)
    return redirect("fits:seats", pk)


def _chosen(request: HttpRequest) -> tuple[list[CardClass], list[CardClass]]:
    """The classes that can be chosen, and those that are; all of them if none is named."""
    coming = coming_classes(request.user)
    data = request.POST if request.method == "POST" else request.GET
    keys = {key_of(each) for each in data.getlist("class")}
    named = list(CardClass.objects.of(request.user).filter(pk__in=keys)) if keys else []
    return coming + [each for each in named if each not in coming], named or coming


def buying(request: HttpRequest) -> HttpResponse:
    """What has to be bought for one class or several."""
    return _buying_page(request)


def _buying_page(request: HttpRequest, quotes: dict | None = None, refused: Refused | None = None) -> HttpResponse:
    there, chosen = _chosen(request)
    found = buying_list(request.user, chosen, quotes)
    joint, current = joint_of(request.user, chosen)
    total = sum((price_of(lines) for _, lines in found.by_merchant), start=price_of(()))
    context = {
        "there": there,
        "chosen": {each.pk for each in chosen},
        "list": found,
        "supplies": supplies_named(chosen),
        "total": total,
        "refused": refused,
        "asked": quotes is not None,
        "shared": len(shared_fits(chosen)) if len(chosen) > 1 else 0,
        "joint": joint,
        "joint_current": current,
    }
    return render(request, "fits/buying.html", context)


@require_POST
def ask_merchant(request: HttpRequest) -> HttpResponse:
    """What the merchant says of what is missing: prices, packs, whether it can be had."""
    _, chosen = _chosen(request)
    names = sorted({article.name for article in buying_list(request.user, chosen).articles})
    try:
        return _buying_page(request, merchant().ask(names) if names else {})
    except Refused as error:
        return _buying_page(request, refused=error)


@require_POST
def together(request: HttpRequest) -> HttpResponse:
    """Ask what the classes do for each other."""
    _, chosen = _chosen(request)
    ask_joint(request.user, chosen)
    query = urlencode([("class", each.pk) for each in chosen])
    return redirect(f"{reverse('fits:buying')}?{query}#together")


def joint_part(request: HttpRequest) -> HttpResponse:
    """How far that is; when it has ended the page is loaded anew."""
    _, chosen = _chosen(request)
    joint, _ = joint_of(request.user, chosen)
    if joint is None or joint.ended_at:
        response = HttpResponse(status=204)
        response["HX-Refresh"] = "true"
        return response
    return render(request, "fits/_joint.html", {"joint": joint, "chosen": {each.pk for each in chosen}})


def buying_csv(request: HttpRequest) -> HttpResponse:
    """The list as a CSV table."""
    _, chosen = _chosen(request)
    found = buying_list(request.user, chosen)
    head = ("merchant", "what", "size", "packs", "in a pack", "price of a pack", "price", "for", "comes along unused")
    rows = [
        (
            name,
            line.bought.pack.name,
            ", ".join(article.size for article in line.articles if article.size),
            line.bought.count,
            line.in_pack.replace(",", "") or 1,
            line.bought.pack.price,
            line.bought.price,
            "; ".join(article.why for article in line.articles),
            "; ".join(line.unused),
        )
        for name, lines in found.by_merchant
        for line in lines
    ]
    response = HttpResponse(write_csv(head, rows), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="buying-list.csv"'
    return response


@require_POST
def bought(request: HttpRequest) -> HttpResponse:
    """Book what was bought of the list: as many packs of each as the form says."""
    _, chosen = _chosen(request)
    found = buying_list(request.user, chosen)
    keys = request.POST.getlist("key")
    counts = dict(zip(keys, (key_of(each) for each in request.POST.getlist("count")), strict=False))
    try:
        done = book_bought(request.user, found, counts)
    except ZesterError as error:
        messages.error(request, error.advice())
    else:
        if done:
            messages.success(request, f"{done} {'line is' if done == 1 else 'lines are'} booked as bought.")
        else:
            messages.error(request, "Nothing is booked: write how many packs were bought.")
    return redirect("fits:buying")
