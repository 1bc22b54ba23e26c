"""The design desk: a card's list answered as it is typed, without a class round it; what the desk's script asks for."""

from __future__ import annotations

from dataclasses import dataclass, replace
from uuid import uuid4

from django.core.exceptions import BadRequest
from django.forms import Form
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from django_htmx.http import trigger_client_event

from zester.core.cards.moving import moved
from zester.core.care import TIMES
from zester.core.cutlist.edit import Cells, editable_cells, line_of, step_length, time_of, with_time
from zester.core.cutlist.list_files import with_sizes_written_out
from zester.core.cutlist.paste import read_notes
from zester.core.errors import ZesterError
from zester.core.lengths import RULERS
from zester.core.paper_lines import read_papers
from zester.designs.desk import Casting, desk_of
from zester.designs.forms import CellsForm, ListForm, MissingPaperForm, MoveForm, NotesForm, StepForm, TextForm
from zester.designs.models import Card
from zester.designs.parts import answer_with
from zester.designs.services import (
    Holdings,
    bring_card_back,
    differences,
    holdings_of,
    known_to,
    read_card,
    save_list,
    study_card,
)
from zester.shelf.services import names_of, put_on
from zester.site.removed import bringing_back
from zester.site.requests import saves_as_one_types

# Words that lists are made of, offered for completion beside papers, tools and the pieces above.
LIST_WORDS = (
    *("card", "side fold", "top fold", "gate fold", "tri-fold", "no fold", "with a pocket"),
    *("Base", "Mat", "Panel", "Strip", "Belly band", "Inside panel", "Sentiment", "Door mats", "Door panels"),
    *("border on", "overhang", "upright", "centred", "flush left", "flush right", "flush top", "flush bottom"),
    *("tilted", "raised", "score", "middle", "from a middle", "match", "filler", "side b", "sheet A", "window", "only"),
    *("circle", "oval", "square", "rectangle", "label", "scallop", "banner", "tag"),
    *("embossed", "die-cut", "punched", "stamped", "in class", "on front", "on inside", "on doors", "on base"),
)


def _card(request: HttpRequest, pk: int) -> Card:
    return get_object_or_404(Card.objects.of(request.user), pk=pk)


def desk_context(
    request: HttpRequest,
    card: Card,
    letter: str = "",
    version: str = "",
    text: str | None = None,
    casting: Casting | None = None,
) -> dict:
    """What the page of the desk shows of a card; ``text`` in place of its saved list, ``casting`` as desks have it."""
    held = holdings_of(request.user)
    papers, known = held.papers, held.known
    view = request.GET.get("view", "")
    version = request.GET.get("shown", version)
    desk = desk_of(card, letter, known, papers, text=text, version=version, view=view, casting=casting)
    words = {
        "papers": [paper.name for paper in known.papers],
        "tools": [tool.name for tool in known.tools],
        "words": LIST_WORDS,
    }
    return {"desk": desk, "papers": papers, "names": names_of(papers), "words": words, "editor": uuid4().hex}


@saves_as_one_types
def alone(request: HttpRequest, pk: int) -> HttpResponse:
    """The design desk for a card of the library, without a class."""
    return render(request, "designs/alone.html", desk_context(request, _card(request, pk)))


@dataclass(frozen=True, kw_only=True)
class Answer:
    """What came of a list that was sent."""

    card: Card
    """The card as it is stored."""
    text: str
    """The list as it was sent."""
    refused: dict
    """Why it was not kept, for templates; empty if it was."""
    parts: dict
    """The answer in parts, for a script that waits for them; empty if none does."""


def answer_list(
    request: HttpRequest,
    card: Card,
    held: Holdings,
    letter: str = "",
    open_in: object = None,
    casting: Casting | None = None,
) -> Answer:
    """Keep what is typed and answer every line.

    ``open_in`` is what the page it is typed on is about, as the signal of a changed card has it; ``casting`` as desks
    have it.
    """
    form = ListForm(request.POST)
    if not form.is_valid():
        problem = form.errors.get("cut_list", ["This page is out of date. Copy your text and load the page again."])[0]
        text = request.POST.get("cut_list", "")
        return Answer(card=card, text=text, refused={"problem": problem}, parts={"problem": problem})
    data = form.cleaned_data
    text = data["cut_list"]
    saved = save_list(card, text, data["saves"], data["editor"], force=data["force"], open_in=open_in)
    refused = {}
    if saved.conflict:
        differs = differences(text, saved.card.cut_list)
        refused = {"conflict": True, "differs": differs, "based_on": data["saves"]}
    if not request.htmx:
        return Answer(card=saved.card, text=text, refused=refused, parts={})
    shown = {"text": text, "version": data["shown"], "view": data["view"]}
    desk = desk_of(saved.card, letter, held.known, held.papers, casting=casting, **shown)
    return Answer(
        card=saved.card, text=text, refused=refused, parts={"desk": desk, "names": names_of(held.papers)} | refused
    )


@require_POST
def read_alone(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what is typed and answer every line, for a card of the library."""
    answer = answer_list(request, _card(request, pk), holdings_of(request.user))
    if request.htmx:
        return answer_parts(request, answer, {})
    if not answer.refused:
        return redirect("designs:alone", pk)
    context = desk_context(request, answer.card, text=answer.text)
    return render(request, "designs/alone.html", context | answer.refused)


# The parts of an answer, what htmx swaps first; the number of the save is always sent.
PARTS = {
    "readings": "designs/_readings.html",
    "drawing": "designs/_drawing.html",
    "questions": "designs/_questions.html",
    "checks": "designs/_checks.html",
    "state": "designs/_state.html",
    "saves": "designs/_saves.html",
}


def answer_parts(request: HttpRequest, answer: Answer, more_parts: dict[str, str], **more) -> HttpResponse:
    """The answer to a script: every line, or why nothing was kept."""
    if "problem" in answer.parts:
        # It stands where the lines were, so the page has none of them any more.
        return trigger_client_event(render(request, "designs/_too_long.html", answer.parts), "zester:parts", {})
    desk = answer.parts["desk"]
    keys = {"drawing": (desk.drawing, desk.views, desk.version, desk.versions, desk.card.pk)}
    return answer_with(request, PARTS | more_parts, answer.parts | more, keys)


def _cleaned(form: Form) -> dict:
    """What a script sent; it never sends what the form does not take."""
    if not form.is_valid():
        raise BadRequest("The desk’s script sent what it should not.")
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
    form = CellsForm(request.POST)
    if not form.is_valid():
        return JsonResponse({"error": next(iter(form.errors.values()))[0]})
    data = form.cleaned_data
    when = data.pop("when")
    row = Cells(**data)
    if when:
        row = replace(row, rules=with_time(row.rules, when.replace("usual", "")))
    return JsonResponse({"text": line_of(row)})


@require_POST
def table(request: HttpRequest, pk: int) -> HttpResponse:
    """The list as a table, to be changed in its cells."""
    card = _card(request, pk)
    text = _cleaned(TextForm(request.POST))["cut_list"]
    readings = read_card(card, known_to(request.user), text)
    rows = [
        {"line": reading.line, "cells": editable_cells(reading), "reading": reading, "when": time_of(reading)}
        for reading in readings
    ]
    return render(request, "designs/_table.html", {"card": card, "rows": rows, "times": TIMES.items()})


@require_POST
def sizes(request: HttpRequest, pk: int) -> JsonResponse:
    """The list with every border written out as the size it makes now."""
    card = _card(request, pk)
    text = _cleaned(TextForm(request.POST))["cut_list"]
    known = known_to(request.user)
    return JsonResponse({"text": with_sizes_written_out(text, known, RULERS[card.ruler])})


@require_POST
def put_on_shelf(request: HttpRequest, pk: int) -> JsonResponse:
    """Put a paper that a line names on the shelf, with the sheet that is usual for it; details come later."""
    card = _card(request, pk)
    form = MissingPaperForm(request.POST)
    if not form.is_valid():
        return JsonResponse({"error": next(iter(form.errors.values()))[0]})
    data = form.cleaned_data
    name = " ".join(data["name"].split())
    metric = RULERS[card.ruler].unit == "mm"
    try:
        (line,) = read_papers(f"{name[:1].upper()}{name[1:]}; {data['kind']}", metric=metric)
        if line.error:
            raise line.error
        (paper,) = put_on(request.user, [line.paper])
    except ZesterError as error:
        return JsonResponse({"error": error.advice()})
    said = f"{paper.name} is on the shelf: {paper.size_text}, {paper.get_kind_display()}"
    return JsonResponse({"name": paper.name, "said": said, "page": reverse("shelf:edit", args=[paper.pk])})


@require_POST
def understand(request: HttpRequest, pk: int) -> HttpResponse:
    """Notes, line by line as they were understood, for approval."""
    card = _card(request, pk)
    form = NotesForm(request.POST)
    if not form.is_valid():
        return render(request, "designs/_understood.html", {"problem": form.errors["notes"][0]})
    found = read_notes(form.cleaned_data["notes"], known_to(request.user), RULERS[card.ruler])
    return render(request, "designs/_understood.html", {"found": found})


restore_card = bringing_back(Card, "designs:library", put_back=bring_card_back)


def notation(request: HttpRequest) -> HttpResponse:
    """How a cut list is written, on one screen."""
    return render(request, "designs/notation.html")
