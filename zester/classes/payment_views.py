"""Payments of the people of a class, its open amounts, receipts: their pages."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from zester.classes.closed import leaves_class_alone
from zester.classes.models import CardClass, Participant
from zester.classes.order_forms import PaymentForm, PostForm
from zester.classes.order_views import offers_page, person_page
from zester.classes.payments import pay, put_back, standings_of, take_back
from zester.classes.people import say_unnamed
from zester.classes.services import class_or_404
from zester.core.errors import ZesterError
from zester.printing.choosers import page_asked, page_context
from zester.printing.views import pdf_response
from zester.site.templatetags.zester import money

LONGEST_COUNT = 4


def _person(request: HttpRequest, pk: int, person: int) -> Participant:
    mine = Participant.objects.filter(card_class__in=CardClass.objects.of(request.user)).select_related("card_class")
    return get_object_or_404(mine, card_class=pk, pk=person)


# Money comes in after the kits are handed over, too.
@leaves_class_alone
@require_POST
def add_payment(request: HttpRequest, pk: int, person: int) -> HttpResponse:
    """Write an amount on a day."""
    found = _person(request, pk, person)
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
    found = _person(request, pk, person)
    row = get_object_or_404(found.payments.select_related("participant__card_class"), pk=payment)
    if "back" in request.POST:
        put_back(row)
        messages.success(request, f"{money(row.amount)} is there again.")
    else:
        take_back(row)
        messages.success(request, f"{money(row.amount)} of {row.on:%-d %B} is taken back; it can be put back below.")
    return redirect("classes:person", pk, person)


@require_GET
def receipt(request: HttpRequest, pk: int, person: int) -> HttpResponse:
    """What somebody ordered and paid, to print or to send."""
    found = _person(request, pk, person)
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
    sent = {offer.pk: request.POST.get(f"unnamed{offer.pk}", "").strip() or "0" for offer in card_class.offers.all()}
    try:
        odd = next((text for text in sent.values() if not text.isdecimal() or len(text) > LONGEST_COUNT), None)
        if odd is not None:
            raise ZesterError(f"“{odd[:20]}” is no number of people", mend="Write a whole number, or nothing")
        say_unnamed(card_class, {pk: int(text) for pk, text in sent.items()})
        messages.success(request, "That is counted.")
    except ZesterError as error:
        messages.error(request, error.advice())
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
