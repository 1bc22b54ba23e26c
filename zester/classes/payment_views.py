"""Payments of the people of a class, its open amounts, receipts: their pages."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from zester.classes.closed import leaves_class_alone
from zester.classes.order_forms import PaymentForm, PostForm, UnnamedForm
from zester.classes.order_views import offers_page, people_page, person_or_404, person_page
from zester.classes.payments import pay, put_back, standings_of, take_back
from zester.classes.people import say_unnamed
from zester.classes.services import class_or_404
from zester.printing.choosers import page_asked, page_context
from zester.printing.views import pdf_response
from zester.site.dates import amount as money
from zester.site.dates import day


# Money comes in after the kits are handed over, too.
@leaves_class_alone
@require_POST
def add_payment(request: HttpRequest, pk: int, person: int) -> HttpResponse:
    """Write an amount on a day."""
    found = person_or_404(request, pk, person)
    form = PaymentForm(request.POST)
    if not form.is_valid():
        return person_page(request, found, payment_form=form)
    said = form.cleaned_data
    made = pay(found, said["amount"], said["on"], said["kind"], said["words"])
    messages.success(request, f"{found.name}: {money(made.amount)} {made.get_kind_display()}.")
    return redirect("classes:person", pk, person)


@leaves_class_alone
@require_POST
def mark_payment(request: HttpRequest, pk: int, person: int, payment: int) -> HttpResponse:
    """Take a payment back that was not made, or put it back."""
    found = person_or_404(request, pk, person)
    row = get_object_or_404(found.payments.select_related("participant__card_class"), pk=payment)
    if "back" in request.POST:
        put_back(row)
        messages.success(request, f"{money(row.amount)} is there again.")
    else:
        take_back(row)
        messages.success(
            request, f"{money(row.amount)} of {day(row.on, 'no year')} is taken back; it can be put back below."
        )
    return redirect("classes:person", pk, person)


@require_GET
def receipt(request: HttpRequest, pk: int, person: int) -> HttpResponse:
    """What somebody ordered and paid, to print or to send."""
    found = person_or_404(request, pk, person)
    standing = standings_of(found.card_class).by_person[found.pk]
    rows = found.payments.filter(removed_at=None)
    unit = found.card_class.unit
    about = {"card_class": found.card_class, "person": found, "standing": standing, "payments": rows}
    about |= page_context(page_asked(request, unit), unit)
    name = f"{slugify(found.card_class.title)}-{slugify(found.name) or 'person'}-receipt"
    return pdf_response("classes/pdf/receipt.html", about, name, f"Receipt for {found.name}", request)


@require_POST
def unnamed(request: HttpRequest, pk: int) -> HttpResponse:
    """What those without a name have, by offer."""
    card_class = class_or_404(request.user, pk)
    form = UnnamedForm(request.POST, card_class=card_class, offers=card_class.offers.all())
    if not form.is_valid():
        return people_page(request, card_class, unnamed=form)
    say_unnamed(card_class, form.counts)
    messages.success(request, "That is counted.")
    return redirect("classes:people", pk)


@require_POST
def post(request: HttpRequest, pk: int) -> HttpResponse:
    """What a kit costs more where it is sent."""
    form = PostForm(request.POST, instance=class_or_404(request.user, pk))
    if form.is_valid():
        form.save()
        messages.success(request, "The post is saved.")
        return redirect("classes:offers", pk)
    return offers_page(request, form.instance, form)
