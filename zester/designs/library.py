"""The library of designs and the designer's tools: their pages."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from django.contrib import messages
from django.db import transaction
from django.forms import Form
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from zester.core.cutlist.list_files import LARGEST_FILE, read_file, rows_of, write_csv, write_json, write_xlsx
from zester.core.cutlist.mapping import KINDS, Table, guessed, mapped, troubles
from zester.core.errors import CutListError, ZesterError
from zester.core.lengths import RULERS
from zester.designs.desk import Drawing, desk_of, drawings_of, with_sizes
from zester.designs.forms import CardNameForm, ColumnsForm, DesignForm, EditionForm, ImportForm, PhotoForm, ToolForm
from zester.designs.models import Card, ColumnMap, Edition, OwnWord, Photo, Tool
from zester.designs.services import (
    Holdings,
    copy_card,
    holdings_of,
    keep_card,
    keep_edition,
    keep_photo,
    keep_tool,
    keep_word,
    known_to,
    put_tool_back,
    remove_card,
    replace_list,
    take_tool_off,
    tools_of,
)
from zester.designs.tool_drawings import drawing_of
from zester.designs.uses import places_for, uses_of
from zester.shelf.services import names_of
from zester.site.owned import locked, mine_or_404
from zester.site.regions import current
from zester.site.removed import bringing_back, removing, say_removed

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
TYPES = {"txt": "text/plain; charset=utf-8", "csv": "text/csv; charset=utf-8", "json": "application/json", "xlsx": XLSX}

# So often the same has to be picked for a word to be proposed.
PROPOSED_AFTER = 2


def _card(request: HttpRequest, pk: int) -> Card:
    return get_object_or_404(Card.objects.of(request.user), pk=pk)


def _drawings(request: HttpRequest, card: Card) -> list[Drawing]:
    """All drawings of a card, of the version that is asked for; the layers apart with their sizes."""
    held = holdings_of(request.user)
    found = drawings_of(card, "", held.known, held.papers, request.GET.get("shown", ""))
    return [with_sizes(each, RULERS[card.ruler].unit) if each.planes else each for each in found]


def library(request: HttpRequest) -> HttpResponse:
    """All designs, each with its front drawn."""
    return _library_page(request, CardNameForm())


@dataclass(frozen=True)
class InLibrary:
    """What the library shows of a design."""

    drawing: str
    """Its front, as SVG; empty if nothing is drawn."""
    closed: tuple[str, ...]
    """What it measures closed."""
    errors: int
    """Lines that cannot be read."""
    grave: int
    """What would spoil the card."""


@lru_cache(maxsize=1024)
def _in_library(pk: int, text: str, ruler: str, held: Holdings) -> InLibrary:
    """A design as it stands there: drawn once for a state of its list and of the shelf, since there may be hundreds."""
    desk = desk_of(Card(pk=pk, cut_list=text, ruler=ruler), "", held.known, held.papers)
    drawing = ""
    if desk.drawing:
        drawing = render_to_string("designs/_view.svg", {"drawing": desk.drawing, "still": True, "pid": f"l{pk}-"})
    closed = tuple(fact.value for fact in desk.facts if fact.name == "Closed")
    return InLibrary(drawing, closed, len(desk.errors), len(desk.grave))


def _library_page(request: HttpRequest, form: CardNameForm) -> HttpResponse:
    held = holdings_of(request.user)
    cards = list(Card.objects.of(request.user).filter(is_kit=False))
    uses = uses_of(cards)
    rows = [
        {"card": card, "shown": _in_library(card.pk, card.cut_list, card.ruler, held), "used": uses[card.pk]}
        for card in cards
    ]
    return render(request, "designs/library.html", {"rows": rows, "form": form})


@require_POST
def new_design(request: HttpRequest) -> HttpResponse:
    """A new card that belongs to no class yet."""
    form = CardNameForm(request.POST)
    if not form.is_valid():
        return _library_page(request, form)
    card = Card.objects.create(owner=request.user, name=form.cleaned_data["name"], ruler=current().ruler)
    return redirect("designs:alone", card.pk)


def design(request: HttpRequest, pk: int) -> HttpResponse:
    """All there is to know of one design."""
    if request.method != "POST":
        return _design_page(request, _card(request, pk))
    return _take_photo(request, pk) if "photo_form" in request.POST else _change_design(request, pk)


def _take_photo(request: HttpRequest, pk: int) -> HttpResponse:
    card, form = _card(request, pk), PhotoForm(request.POST, request.FILES)
    if not form.is_valid():
        return _design_page(request, card, photo_form=form)
    try:
        keep_photo(card, form.cleaned_data["photo"], form.cleaned_data["words"])
    except ZesterError as error:
        form.add_error("photo", error.advice())
        return _design_page(request, card, photo_form=form)
    return redirect(_photos_of(card))


def _photos_of(card: Card) -> str:
    return f"{reverse('designs:design', args=[card.pk])}#photos"


def _change_design(request: HttpRequest, pk: int) -> HttpResponse:
    with transaction.atomic():
        form = DesignForm(request.POST, instance=locked(Card.objects.of(request.user), pk=pk))
        if form.is_valid():
            keep_card(form.instance, list(form.fields))
            messages.success(request, f"{form.instance.name} is saved.{form.merged_words}")
            return redirect("designs:design", pk)
    return _design_page(request, _card(request, pk), form=form)


def _design_page(request: HttpRequest, card: Card, **forms: Form) -> HttpResponse:
    """The page of a design; ``forms`` are those that were sent and are not right yet."""
    context = {
        "card": card,
        "form": DesignForm(instance=card),
        "photo_form": PhotoForm(),
        "photos": Photo.objects.filter(card=card, removed_at=None),
        "drawings": _drawings(request, card),
        "used": uses_of([card])[card.pk],
        "places": places_for(card),
        "editions": card.editions.all(),
        "edition_form": EditionForm(),
        "import_form": ImportForm(),
    }
    return render(request, "designs/design.html", context | forms)


@require_POST
def copy(request: HttpRequest, pk: int) -> HttpResponse:
    """A copy to be changed by itself."""
    card = _card(request, pk)
    made = copy_card(card, f"{card.name[:50]}, copy")
    messages.success(request, f"{made.name} is in the library.")
    return redirect("designs:design", made.pk)


# Out of the library, and out of its classes.
remove_design = removing(Card, "designs:library", take_away=remove_card)


@require_POST
def keep(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep the list as it is now."""
    card, form = _card(request, pk), EditionForm(request.POST)
    if not form.is_valid():
        return _design_page(request, card, edition_form=form)
    keep_edition(card, form.cleaned_data["name"])
    messages.success(request, f"The list is kept as “{form.cleaned_data['name']}”.")
    return redirect("designs:design", pk)


@require_POST
def bring_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Put a kept list back in place of the present one, which is kept."""
    edition = get_object_or_404(Edition.objects.filter(card__in=Card.objects.of(request.user)), pk=pk)
    replace_list(edition.card, edition.cut_list, edition.ruler, f"before “{edition.name[:45]}”")
    messages.success(request, f"“{edition.name}” is back; the list that was there is kept.")
    return redirect("designs:design", edition.card_id)


def photo(request: HttpRequest, pk: int) -> FileResponse:
    """A photo, to its owner."""
    try:
        return FileResponse(mine_or_404(Photo, request.user, pk).image.open("rb"), content_type="image/jpeg")
    except (FileNotFoundError, ValueError) as error:
        raise Http404 from error


@require_POST
def photo_words(request: HttpRequest, pk: int) -> HttpResponse:
    """What a photo shows, in words."""
    shown = mine_or_404(Photo, request.user, pk, "card")
    words = " ".join(request.POST.get("words", "").split())
    longest = Photo._meta.get_field("words").max_length
    if len(words) > longest:
        messages.error(request, f"What a photo shows has up to {longest} letters. It was not kept: “{words[:400]}”")
    else:
        shown.words = words
        shown.save(update_fields=["words"])
    return redirect(_photos_of(shown.card))


@require_POST
def remove_photo(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a photo off its design; can be undone."""
    shown = mine_or_404(Photo, request.user, pk, "card")
    shown.remove()
    say_removed(request, shown, f"The photo of {shown} is removed.")
    return redirect(_photos_of(shown.card))


restore_photo = bringing_back(Photo, "designs:library", words="The photo of {} is back with its design.")


def export(request: HttpRequest, pk: int, ending: str) -> HttpResponse:
    """The list as a file."""
    card = _card(request, pk)
    if ending not in TYPES:
        raise Http404
    rows = rows_of(card.cut_list, known_to(request.user), RULERS[card.ruler])
    data = {
        "txt": card.cut_list.encode,
        "csv": lambda: write_csv(rows),
        "json": lambda: write_json(rows, card.name, card.ruler),
        "xlsx": lambda: write_xlsx(rows),
    }[ending]()
    return _download(data, TYPES[ending], f"{slugify(card.name) or 'card'}.{ending}")


def _download(data: bytes | str, kind: str, name: str) -> HttpResponse:
    response = HttpResponse(data, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@require_POST
def take_in(request: HttpRequest, pk: int) -> HttpResponse:
    """A list from a file in place of the present one, which is kept."""
    card, form = _card(request, pk), ImportForm(request.POST, request.FILES)
    if not form.is_valid():
        messages.error(request, "Choose a file first: TXT, CSV, JSON or XLSX.")
        return redirect("designs:design", pk)
    sent = form.cleaned_data["file"]
    try:
        found = read_file(sent.name, sent.read(LARGEST_FILE + 1))
        if found.table:
            return _columns_page(request, card, sent.name[:200], found.table, _kinds_for(request, found.table))
        replace_list(card, found.text, found.ruler, f"before {sent.name[:45]}")
    except CutListError as error:
        messages.error(request, error.advice())
        return redirect("designs:design", pk)
    messages.success(request, f"The list of {sent.name} is taken in; the one before is kept below.")
    return redirect("designs:design", pk)


def _kinds_for(request: HttpRequest, table: Table) -> list[str]:
    """What the columns held when such a table was sent last, else what their headings say."""
    before = ColumnMap.objects.filter(owner=request.user, heads="\n".join(table.heads)).first()
    kinds = before.kinds.split(",") if before else []
    return kinds if len(kinds) == len(table.heads) else guessed(table)


def _columns_page(
    request: HttpRequest, card: Card, file: str, table: Table, kinds: list[str], said: Sequence[str] = ()
) -> HttpResponse:
    """What was understood of a table of another make, row by row, before anything is replaced."""
    rows = mapped(table, kinds, known_to(request.user), RULERS[card.ruler])
    context = {
        "card": card,
        "file": file,
        "table": json.dumps([table.heads, *table.rows]),
        "columns": list(zip(table.heads, kinds, strict=True)),
        "kinds": KINDS,
        "rows": rows,
        "wrong": sum(row.reading.error is not None for row in rows),
        "said": said,
        "unit": RULERS[card.ruler].unit,
        "names": names_of(holdings_of(request.user).papers),
    }
    return render(request, "designs/columns.html", context)


@require_POST
def columns(request: HttpRequest, pk: int) -> HttpResponse:
    """Look at a table once more with its columns placed otherwise, or take it in."""
    card, form = _card(request, pk), ColumnsForm(request.POST)
    if not form.is_valid():
        messages.error(request, "The table did not come through. Send the file again.")
        return redirect("designs:design", pk)
    table, file = form.cleaned_data["table"], form.cleaned_data["file"]
    kinds = form.kinds(table)
    said = troubles(table, kinds) if "take" in request.POST else []
    try:
        if said or "take" not in request.POST:
            return _columns_page(request, card, file, table, kinds, said)
        text = "\n".join(row.line for row in mapped(table, kinds, known_to(request.user), RULERS[card.ruler]))
        replace_list(card, text, "", f"before {file[:45]}")
    except CutListError as error:
        messages.error(request, error.advice())
        return redirect("designs:design", pk)
    about = {"owner": request.user, "heads": "\n".join(table.heads)}
    ColumnMap.objects.update_or_create(**about, defaults={"kinds": ",".join(kinds)})
    messages.success(request, f"The list of {file} is taken in; the one before is kept below.")
    return redirect("designs:design", pk)


def cover(request: HttpRequest, pk: int) -> HttpResponse:
    """The card as it lies there, drawn small for lists; its address says which save it is of, so it may be kept."""
    card = _card(request, pk)
    context = {"drawing": next(iter(_drawings(request, card)), None), "pid": "c", "alone": True, "still": True}
    page = render(request, "designs/_view.svg" if context["drawing"] else "designs/no_view.svg", context)
    page["Content-Type"] = "image/svg+xml"
    page["Cache-Control"] = "private, max-age=300"
    return page


def drawing(request: HttpRequest, pk: int, view: str) -> HttpResponse:
    """One drawing as an SVG file, in true millimetres."""
    card = _card(request, pk)
    drawings = _drawings(request, card)
    found = next((each for each in drawings if each.view.key == view), None)
    if found is None:
        raise Http404
    context = {"drawing": found, "pid": "d", "alone": True}
    page = render(request, "designs/_view.svg", context, content_type="image/svg+xml")
    page["Content-Disposition"] = f'attachment; filename="{slugify(card.name) or "card"}-{view}.svg"'
    return page


def print_card(request: HttpRequest, pk: int) -> HttpResponse:
    """All drawings true to size, to be printed."""
    card = _card(request, pk)
    drawings = _drawings(request, card)
    return render(request, "designs/print.html", {"card": card, "drawings": drawings})


def tools(request: HttpRequest) -> HttpResponse:
    """The designer's dies, punches and folders, and words of her own."""
    return _tools_page(request)


def _tools_page(request: HttpRequest, wrong: str = "") -> HttpResponse:
    """The page; ``wrong`` is why a word that was sent is none, which is shown beside what was typed."""
    words = OwnWord.objects.of(request.user)
    context = {
        "tools": [(tool, drawing_of(tool)) for tool in tools_of(request.user)],
        "words": words.filter(is_used=True),
        "proposed": words.filter(is_used=False, seen__gte=PROPOSED_AFTER),
        "wrong": wrong,
        "word": request.POST.get("word", ""),
        "means": request.POST.get("means", ""),
    }
    return render(request, "designs/tools.html", context)


@require_POST
def own_word(request: HttpRequest) -> HttpResponse:
    """Use a word of one's own from now on."""
    try:
        kept = keep_word(request.user, request.POST.get("word", ""), request.POST.get("means", ""))
    except ZesterError as error:
        return _tools_page(request, error.advice())
    messages.success(request, f"{kept} stands for “{kept.means}” in your lists from now on.")
    return redirect(f"{reverse('designs:tools')}#words")


remove_word = removing(OwnWord, "designs:tools", words="{} stands for nothing any more.", take_away=take_tool_off)


def _same_word(word: OwnWord) -> str:
    other = OwnWord.objects.of(word.owner).filter(word__iexact=word.word, is_used=True).first()
    return f"{word} stands for “{other.means}” now. Remove that first." if other and word.is_used else ""


restore_word = bringing_back(OwnWord, "designs:tools", put_back=put_tool_back, in_the_way=_same_word)


def new_tool(request: HttpRequest) -> HttpResponse:
    """List a tool."""
    return _tool_page(request, None)


def edit_tool(request: HttpRequest, pk: int) -> HttpResponse:
    """Change a tool."""
    return _tool_page(request, pk)


def _tool_page(request: HttpRequest, pk: int | None) -> HttpResponse:
    mine = tools_of(request.user)
    if request.method == "POST":
        with transaction.atomic():
            form = ToolForm(request.POST, instance=locked(mine, pk=pk) if pk else None, owner=request.user)
            if form.is_valid():
                saved = keep_tool(form.save(commit=False))
                messages.success(request, f"{saved.name} is listed.{form.merged_words}")
                return redirect("designs:tools")
    else:
        form = ToolForm(instance=get_object_or_404(mine, pk=pk) if pk else None, owner=request.user)
    return render(request, "designs/tool.html", {"form": form, "tool": mine.get(pk=pk) if pk else None})


remove_tool = removing(Tool, "designs:tools", words="{} is off the list.", take_away=take_tool_off)


def _same_name(tool: Tool) -> str:
    if tools_of(tool.owner).filter(name__iexact=tool.name).exists():
        return f"Another tool is called {tool.name} now. Rename that one first."
    return ""


restore_tool = bringing_back(Tool, "designs:tools", put_back=put_tool_back, in_the_way=_same_name)
