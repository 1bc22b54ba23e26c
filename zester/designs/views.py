"""The Design station: a card at the desk, its list answered as it is typed."""

from __future__ import annotations

from uuid import uuid4

from django.contrib import messages
from django.core.exceptions import BadRequest
from django.forms import Form
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from zester.classes.forms import CardNameForm
from zester.classes.models import CardClass, ClassCard
from zester.classes.services import add_card, read_class, use_card
from zester.core.cards.moving import moved
from zester.core.cutlist.edit import Cells, editable_cells, line_of, step_length
from zester.core.cutlist.paste import read_notes
from zester.core.cutlist.tables import with_sizes_written_out
from zester.core.errors import ZesterError
from zester.core.lengths import RULERS
from zester.designs.desk import desk_of
from zester.designs.forms import CardForm, CellsForm, ListForm, MoveForm, NotesForm, StepForm, TextForm
from zester.designs.models import Card
from zester.designs.services import known_to, read_card, save_list, study_card
from zester.shelf.services import papers_of
from zester.site.stations import thread

# Words that lists are made of, offered for completion beside papers, tools and the pieces above.
LIST_WORDS = (
    *("card", "side fold", "top fold", "gate fold", "tri-fold", "no fold", "with a pocket"),
    *("Base", "Mat", "Panel", "Strip", "Belly band", "Inside panel", "Sentiment", "Door mats", "Door panels"),
    *("border on", "overhang", "upright", "centred", "flush left", "flush right", "flush top", "flush bottom"),
    *("tilted", "raised", "score", "middle", "from a middle", "match", "filler", "side b", "window", "only"),
    *("circle", "oval", "square", "rectangle", "label", "scallop", "banner", "tag"),
    *("embossed", "die-cut", "punched", "stamped", "in class", "on front", "on inside", "on doors", "on base"),
)


def _entry(request: HttpRequest, pk: int, letter: str) -> ClassCard:
    entries = ClassCard.objects.used().filter(card_class__owner=request.user)
    return get_object_or_404(entries.select_related("card", "card_class"), card_class=pk, letter=letter)


def _card(request: HttpRequest, pk: int) -> Card:
    return get_object_or_404(Card.objects.of(request.user), pk=pk)


def _desk_context(request: HttpRequest, card: Card, letter: str, version: str) -> dict:
    papers = list(papers_of(request.user))
    known = known_to(request.user)
    view = request.GET.get("view", "")
    desk = desk_of(card, letter, known, papers, version=request.GET.get("shown", version), view=view)
    words = {
        "papers": [stock.name for stock in known.stocks],
        "tools": [tool.name for tool in known.tools],
        "words": LIST_WORDS,
    }
    return {"desk": desk, "papers": papers, "words": words, "editor": uuid4().hex}


def desk(request: HttpRequest, pk: int, letter: str = "") -> HttpResponse:
    """The design desk of a class: one card's list, what was understood of it, and the card drawn."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    sheet = read_class(card_class)
    open_card = next((card for card in sheet.cards if card.entry.letter == letter), None)
    if letter and open_card is None:
        _entry(request, pk, letter)
    if open_card is None and sheet.cards:
        open_card = sheet.cards[0]
    in_class = {card.entry.card_id for card in sheet.cards}
    context = {
        "card_class": card_class,
        "sheet": sheet,
        "stations": thread(sheet, "design"),
        "entry": open_card.entry if open_card else None,
        "name_form": CardNameForm(),
        "library": [card for card in Card.objects.of(request.user) if card.pk not in in_class],
        "papers": papers_of(request.user),
    }
    if open_card:
        context |= _desk_context(request, open_card.entry.card, open_card.entry.letter, open_card.entry.version)
    return render(request, "designs/desk.html", context)


def alone(request: HttpRequest, pk: int) -> HttpResponse:
    """The design desk for a card of the library, without a class."""
    card = _card(request, pk)
    return render(request, "designs/alone.html", _desk_context(request, card, "", ""))


@require_POST
def new_card(request: HttpRequest, pk: int) -> HttpResponse:
    """Put a new card into the class, or one of the library, and open it."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    chosen = request.POST.get("design", "")
    form = CardNameForm(request.POST)
    if not chosen and not form.is_valid():
        messages.error(request, "A card needs a name of up to 60 letters.")
        return redirect("designs:desk", pk)
    try:
        if chosen:
            card = get_object_or_404(Card.objects.of(request.user), pk=chosen if chosen.isdigit() else 0)
            entry = use_card(card_class, card)
        else:
            entry = add_card(card_class, form.cleaned_data["name"])
    except ZesterError as error:
        messages.error(request, error.advice())
        return redirect("designs:desk", pk)
    return redirect("designs:card", pk, entry.letter)


@require_POST
def read(request: HttpRequest, pk: int, letter: str) -> HttpResponse:
    """Keep what is typed and answer every line, for a card of a class."""
    entry = _entry(request, pk, letter)
    return _answer(request, entry.card, entry)


@require_POST
def read_alone(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what is typed and answer every line, for a card of the library."""
    return _answer(request, _card(request, pk), None)


def _answer(request: HttpRequest, card: Card, entry: ClassCard | None) -> HttpResponse:
    form = ListForm(request.POST)
    if not form.is_valid():
        return render(request, "designs/_too_long.html", {"form": form})
    data = form.cleaned_data
    text = data["cut_list"]
    saved = save_list(card, text, data["version"], data["editor"], force=data["force"])
    if not request.htmx:
        if saved.conflict:
            messages.error(request, "Another window changed this list in the meantime; your text was not kept.")
        return (
            redirect("designs:card", entry.card_class_id, entry.letter) if entry else redirect("designs:alone", card.pk)
        )
    letter = entry.letter if entry else ""
    shown, view = data["shown"], data["view"]
    papers = list(papers_of(request.user))
    known = known_to(request.user)
    desk = desk_of(saved.card, letter, known, papers, text=text, version=shown, view=view)
    context = {"desk": desk, "entry": entry, "conflict": saved.conflict}
    if entry:
        sheet = read_class(entry.card_class, known)
        context |= {"card_class": entry.card_class, "sheet": sheet, "stations": thread(sheet, "design")}
    return render(request, "designs/_answer.html", context)


def _cleaned(form: Form) -> dict:
    """What a script sent; it never sends what the form does not take."""
    if not form.is_valid():
        raise BadRequest("The desk's script sent what it should not.")
    return form.cleaned_data


@require_POST
def step(request: HttpRequest, pk: int) -> JsonResponse:
    """A line with the length at the caret stepped by so many marks."""
    ruler = RULERS[_card(request, pk).ruler]
    data = _cleaned(StepForm(request.POST))
    line, caret = step_length(data["line"], data["caret"], data["steps"], ruler)
    return JsonResponse({"line": line, "caret": caret})


@require_POST
def move(request: HttpRequest, pk: int) -> JsonResponse:
    """The line of a piece after it was moved on the card."""
    card = _card(request, pk)
    data = _cleaned(MoveForm(request.POST))
    study = study_card(card, known_to(request.user), data["cut_list"], data["shown"])
    try:
        line, text = moved(study, data["number"], data["across"], data["down"])
    except ZesterError as error:
        return JsonResponse({"error": error.advice()})
    return JsonResponse({"line": line, "text": text})


@require_POST
def cells(request: HttpRequest, pk: int) -> JsonResponse:
    """The line that a row of the table makes."""
    _card(request, pk)
    return JsonResponse({"text": line_of(Cells(**_cleaned(CellsForm(request.POST))))})


@require_POST
def table(request: HttpRequest, pk: int) -> HttpResponse:
    """The list as a table, to be changed in its cells."""
    card = _card(request, pk)
    text = _cleaned(TextForm(request.POST))["cut_list"]
    readings = read_card(card, known_to(request.user), text)
    rows = [{"line": reading.line, "cells": editable_cells(reading), "reading": reading} for reading in readings]
    return render(request, "designs/_table.html", {"card": card, "rows": rows})


@require_POST
def sizes(request: HttpRequest, pk: int) -> JsonResponse:
    """The list with every border written out as the size it makes now."""
    card = _card(request, pk)
    text = _cleaned(TextForm(request.POST))["cut_list"]
    known = known_to(request.user)
    return JsonResponse({"text": with_sizes_written_out(text, known, RULERS[card.ruler])})


@require_POST
def understand(request: HttpRequest, pk: int) -> HttpResponse:
    """Notes, line by line as they were understood, for approval."""
    card = _card(request, pk)
    notes = _cleaned(NotesForm(request.POST))["notes"]
    found = read_notes(notes, known_to(request.user), RULERS[card.ruler])
    return render(request, "designs/_understood.html", {"found": found})


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
    """Take a card out of its class; the design is kept in the library. Can be undone."""
    entry = _entry(request, pk, letter)
    entry.take_out(timezone.now())
    words = f"{entry.card.name} is out of this class; the design is kept in the library."
    messages.info(request, words, extra_tags=f"undo:designs:put_back:{entry.pk}")
    return redirect("designs:desk", pk)


@require_POST
def put_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Undo taking a card out of its class."""
    entries = ClassCard.objects.filter(card_class__in=CardClass.objects.of(request.user), card__removed_at=None)
    entry = get_object_or_404(entries.select_related("card"), pk=pk)
    entry.take_out(None)
    messages.success(request, f"{entry.card.name} is back.")
    return redirect("designs:card", entry.card_class_id, entry.letter)


@require_POST
def restore_card(request: HttpRequest, pk: int) -> HttpResponse:
    """Undo the removal of a design from the library."""
    card = get_object_or_404(Card.objects.removed_of(request.user), pk=pk)
    card.restore()
    messages.success(request, f"{card.name} is back.")
    return redirect("designs:library")


def notation(request: HttpRequest) -> HttpResponse:
    """How a cut list is written, on one screen."""
    return render(request, "designs/notation.html")
