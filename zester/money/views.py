"""What a class costs, brings and leaves: its page."""

from __future__ import annotations

from decimal import Decimal

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from zester.classes.models import CardClass
from zester.classes.services import class_or_404
from zester.core.csv_files import write_csv
from zester.core.money.shares import cents
from zester.money.costing import ClassMoney
from zester.money.forms import CostsForm, TryForm
from zester.site.owned import locked
from zester.site.regions import current
from zester.site.stations import thread


@require_GET
def sums(request: HttpRequest, pk: int) -> HttpResponse:
    """What it costs and brings, with what is tried out."""
    return _page(request, class_or_404(request.user, pk))


def _page(request: HttpRequest, card_class: CardClass, form: CostsForm | None = None) -> HttpResponse:
    found = ClassMoney(CardClass.objects.get(pk=card_class.pk))
    trying = TryForm(request.GET) if request.GET else TryForm()
    said = trying.cleaned_data if trying.is_bound and trying.is_valid() else {}
    context = {
        "card_class": card_class,
        "stations": thread(card_class, "count"),
        "money": found,
        "kits": [_shown_kit(kit) for kit in found.kits],
        "form": form or CostsForm(instance=card_class),
        "trying": trying,
        "tried": found.tried(said.get("people"), said.get("price")),
        "chart": _chart(found),
    }
    return render(request, "money/sums.html", context)


def _shown_kit(kit) -> dict:
    """A kit's cost in cents; what it comes to is rounded once, from all of it."""
    parts = {name: cents(getattr(kit, name)) for name in ("paper", "bits", "post", "lines", "cost")}
    left = None if kit.left is None else cents(kit.left)
    return {"kit": kit, "left": left} | parts


def _chart(found: ClassMoney) -> dict:
    """Where the money goes, as data for the chart; the same figures stand in the table beside it."""
    rows = [(entry.words, entry.amount) for entry in found.sum.costs]
    rows.append(("left" if found.sum.left >= 0 else "lacking", abs(found.sum.left)))
    return {"names": [name for name, _ in rows], "amounts": [str(a) for _, a in rows], "currency": current().sign}


@require_POST
def costs(request: HttpRequest, pk: int) -> HttpResponse:
    """Write what it costs beside papers and bits."""
    with transaction.atomic():
        form = CostsForm(request.POST, instance=locked(CardClass.objects.of(request.user), pk=pk))
        if form.is_valid():
            form.save()
            messages.success(request, f"The costs are saved.{form.merged_words}")
            return redirect("money:sums", pk)
    return _page(request, class_or_404(request.user, pk), form)


@require_GET
def sums_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The same as a table."""
    card_class = class_or_404(request.user, pk)
    found = ClassMoney(card_class)
    rows: list[tuple[str, str, Decimal]] = [("brings", entry.words, entry.amount) for entry in found.sum.income]
    rows += [("costs", entry.words, entry.amount) for entry in found.sum.costs]
    rows.append(("left", "", found.sum.left))
    response = HttpResponse(write_csv(("what", "words", "amount"), rows), content_type="text/csv; charset=utf-8")
    name = slugify(card_class.title) or "class"
    response["Content-Disposition"] = f'attachment; filename="{name}-money.csv"'
    return response
