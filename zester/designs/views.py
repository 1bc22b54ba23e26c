"""The Design station: cards and their cut lists."""

from __future__ import annotations

from uuid import uuid4

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from zester.classes.forms import CardNameForm
from zester.classes.models import CardClass, ClassCard
from zester.classes.services import add_card, read_class
from zester.core.errors import ZesterError
from zester.designs.forms import CardForm, ListForm
from zester.designs.models import Card
from zester.designs.services import read_card, save_list, stocks_of
from zester.shelf.services import papers_of
from zester.site.stations import thread


def _entry(request: HttpRequest, pk: int, letter: str) -> ClassCard:
    entries = ClassCard.objects.filter(card_class__in=CardClass.objects.of(request.user), card__removed_at=None)
    return get_object_or_404(entries.select_related("card", "card_class"), card_class=pk, letter=letter)


def desk(request: HttpRequest, pk: int, letter: str = "") -> HttpResponse:
    """The design desk: one card's list beside what was understood of it."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    sheet = read_class(card_class)
    open_card = next((card for card in sheet.cards if card.entry.letter == letter), None)
    if letter and open_card is None:
        _entry(request, pk, letter)
    if open_card is None and sheet.cards:
        open_card = sheet.cards[0]
    context = {
        "card_class": card_class,
        "sheet": sheet,
        "stations": thread(sheet, "design"),
        "open": open_card,
        "papers": papers_of(request.user),
        "name_form": CardNameForm(),
        "editor": uuid4().hex,
    }
    return render(request, "designs/desk.html", context)


@require_POST
def new_card(request: HttpRequest, pk: int) -> HttpResponse:
    """Put a new card into the class and open it."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    form = CardNameForm(request.POST)
    if not form.is_valid():
        messages.error(request, "A card needs a name of up to 60 letters.")
        return redirect("designs:desk", pk)
    try:
        entry = add_card(card_class, form.cleaned_data["name"])
    except ZesterError as error:
        messages.error(request, error.advice())
        return redirect("designs:desk", pk)
    return redirect("designs:card", pk, entry.letter)


@require_POST
def read(request: HttpRequest, pk: int, letter: str) -> HttpResponse:
    """Keep what is typed and answer every line."""
    entry = _entry(request, pk, letter)
    form = ListForm(request.POST)
    if not form.is_valid():
        return render(request, "designs/_too_long.html", {"form": form})
    text = form.cleaned_data["cut_list"]
    force = form.cleaned_data["force"]
    saved = save_list(entry.card, text, form.cleaned_data["version"], form.cleaned_data["editor"], force=force)
    if not request.htmx:
        if saved.conflict:
            messages.error(request, "Another window changed this list in the meantime; your text was not kept.")
        return redirect("designs:card", pk, letter)
    readings = read_card(saved.card, stocks_of(request.user), text)
    sheet = read_class(entry.card_class)
    context = {
        "card_class": entry.card_class,
        "entry": entry,
        "card": saved.card,
        "readings": readings,
        "errors": [reading for reading in readings if reading.error],
        "conflict": saved.conflict,
        "sheet": sheet,
        "stations": thread(sheet, "design"),
    }
    return render(request, "designs/_answer.html", context)


def edit_card(request: HttpRequest, pk: int, letter: str) -> HttpResponse:
    """A card's name and ruler."""
    entry = _entry(request, pk, letter)
    form = CardForm(request.POST or None, instance=entry.card)
    if request.method == "POST" and form.is_valid():
        form.save()
        return redirect("designs:card", pk, letter)
    return render(request, "designs/card.html", {"form": form, "entry": entry, "card_class": entry.card_class})


@require_POST
def remove_card(request: HttpRequest, pk: int, letter: str) -> HttpResponse:
    """Take a card out; can be undone."""
    entry = _entry(request, pk, letter)
    entry.card.remove()
    messages.info(request, f"{entry.card.name} is removed.", extra_tags=f"undo:designs:restore:{entry.card.pk}")
    return redirect("designs:desk", pk)


@require_POST
def restore_card(request: HttpRequest, pk: int) -> HttpResponse:
    """Undo the removal of a card."""
    card = get_object_or_404(Card.objects.removed_of(request.user), pk=pk)
    card.restore()
    entry = card.class_cards.first()
    messages.success(request, f"{card.name} is back.")
    return redirect("designs:card", entry.card_class_id, entry.letter) if entry else redirect("classes:list")


def notation(request: HttpRequest) -> HttpResponse:
    """How a cut list is written, on one screen."""
    return render(request, "designs/notation.html")
