"""The casting table of a class: letters, sheets, cards, who meets whom, one move at a time."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from zester.casting.guide_views import shown_search
from zester.casting.guides import drawn, use_guide, use_of
from zester.casting.models import ClassGuide, Guide, GuideSearch
from zester.casting.printed import guide_pages
from zester.casting.table import Table, make, move_of, said
from zester.classes.castings import add_casting, redo, undo
from zester.classes.models import CardClass, Casting
from zester.classes.services import await_count, class_or_404
from zester.core.errors import GuideError, ZesterError
from zester.designs.desk import drawings_of
from zester.printing.choosers import page_asked, page_context
from zester.printing.views import pdf_response
from zester.shelf.models import Pad
from zester.site.owned import key_of, mine_or_404
from zester.site.stations import thread

TOGETHER, NEVER = "together", "never"


def _table(request: HttpRequest, pk: int, row: int = 0) -> Table:
    """The table with one casting open; the class is counted when its page asks for the sheets."""
    card_class = mine_or_404(CardClass, request.user, pk, "trimmer")
    mine = Casting.objects.filter(card_class=card_class)
    return Table(card_class, get_object_or_404(mine, pk=row) if row else None)


@require_GET
def table(request: HttpRequest, pk: int) -> HttpResponse:
    """The table."""
    card_class = class_or_404(request.user, pk)
    row = key_of(request.GET.get("cast", ""))
    mine = Casting.objects.filter(card_class=card_class)
    shown = Table(card_class, get_object_or_404(mine, pk=row) if row else None)
    return _page(request, shown)


def _page(request: HttpRequest, shown: Table, **more) -> HttpResponse:
    context = _context(shown, **more) | {"stations": thread(shown.card_class, "count")}
    search = GuideSearch.objects.filter(card_class=shown.card_class).first()
    context |= {"search": search} | shown_search(search)
    context |= {"guides": Guide.objects.of(request.user), "pads": Pad.objects.of(request.user)}
    return render(request, "casting/table.html", context)


def _context(shown: Table, **more) -> dict:
    pk, row = shown.card_class.pk, shown.row
    args, names = ([pk, row.pk], ("move", "propose")) if row else ([pk], ("begin", "propose_first"))
    moves, propose_url = (reverse(f"casting:{name}", args=args) for name in names)
    urls = {"moves_url": moves, "propose_url": propose_url}
    return {"card_class": shown.card_class, "table": shown, "counted": shown.counted} | urls | more


def _answer(request: HttpRequest, shown: Table, error: ZesterError | None = None, **more) -> HttpResponse:
    """The table as a part for a script, or a way back to its page."""
    if request.htmx:
        return render(request, "casting/_table.html", _context(shown, error=error, **more))
    if error:
        messages.error(request, error.advice())
    row = f"?cast={shown.row.pk}" if shown.row else ""
    return redirect(reverse("casting:table", args=[shown.card_class.pk]) + row)


@require_POST
def move(request: HttpRequest, pk: int, row: int = 0) -> HttpResponse:
    """One move on the table: a letter's sheet, two swapped, a side turned, a piece exchanged, something locked."""
    shown = _table(request, pk, row)
    try:
        made = make(shown, move_of(request.POST, shown))
    except (GuideError, ZesterError) as error:
        return _answer(request, shown, error)
    return _answer(request, Table(shown.card_class, made))


@require_POST
def step(request: HttpRequest, pk: int, row: int) -> HttpResponse:
    """Undo the last move, or do it again."""
    shown = _table(request, pk, row)
    ways: dict[str, Callable[[Casting], bool]] = {"undo": undo, "redo": redo}
    way = ways.get(request.POST.get("way", ""))
    if way and shown.row and way(shown.row):
        await_count(pk, None)
    return _answer(request, _table(request, pk, row))


@require_POST
def propose(request: HttpRequest, pk: int, row: int = 0) -> HttpResponse:
    """Castings worth a look."""
    shown = _table(request, pk, row)
    found = [
        {"proposal": each, "letters": shown.named(each.casting), "said": said(each.casting, shown.stage.letters)}
        for each in shown.proposals()
    ]
    more = {"proposed": True, "proposals": found}
    if request.htmx:
        return render(request, "casting/_table.html", _context(shown, **more))
    return _page(request, shown, **more)


@require_POST
def castings(request: HttpRequest, pk: int) -> HttpResponse:
    """Another casting, one called otherwise, for the last kits, or taken away."""
    shown = _table(request, pk, key_of(request.POST.get("row", "")))
    act, row = request.POST.get("act", ""), shown.row
    try:
        if act == "add":
            row = add_casting(shown.card_class, request.POST.get("name", ""), shown.row)
        elif act == "last" and row and row != shown.rows[0]:
            row.last = min(key_of(request.POST.get("last", "")), 10_000)
            row.save(update_fields=["last"])
        elif act == "remove" and row:
            row.delete()
            messages.success(request, f"{row.name} is taken away.")
            row = None
    except ZesterError as error:
        return _answer(request, shown, error)
    await_count(pk, None)
    return redirect(reverse("casting:table", args=[pk]) + (f"?cast={row.pk}" if row else ""))


@require_POST
def uses(request: HttpRequest, pk: int) -> HttpResponse:
    """The guide a class is cut by, and the pad it is cast from."""
    card_class = class_or_404(request.user, pk)
    if "guide" in request.POST:
        key = key_of(request.POST["guide"])
        use_guide(card_class, get_object_or_404(Guide.objects.of(request.user), pk=key) if key else None)
    if "pad" in request.POST:
        key = key_of(request.POST["pad"])
        pad = get_object_or_404(Pad.objects.of(request.user), pk=key) if key else None
        ClassGuide.objects.update_or_create(card_class=card_class, defaults={"pad": pad})
    return redirect("casting:table", pk)


@require_POST
@transaction.atomic
def marks(request: HttpRequest, pk: int) -> HttpResponse:
    """Two papers that always go together, or never; or no longer."""
    shown = _table(request, pk)
    kind = request.POST.get("kind", "")
    dropped = request.POST.get("drop", "")
    pair = dropped.split("|")[:2] if dropped else [request.POST.get("one", ""), request.POST.get("other", "")]
    known = dropped or (len(set(pair)) == 2 and set(pair) <= shown.papers.keys())
    if kind not in (TOGETHER, NEVER) or not known:
        messages.error(request, "Which two papers? Choose two that are not the same.")
        return redirect("casting:table", pk)
    kept = {key: [each for each in shown.use.marks.get(key, ()) if set(each) != set(pair)] for key in (TOGETHER, NEVER)}
    if not dropped:
        kept[kind].append(pair)
    ClassGuide.objects.update_or_create(card_class=shown.card_class, defaults={"marks": kept})
    return redirect("casting:table", pk)


@require_GET
def card(request: HttpRequest, pk: int, row: int, letter: str) -> HttpResponse:
    """A card as a casting has it, drawn small; its address says what it depends on, so it may be kept."""
    shown = _table(request, pk, row)
    found = next((card for card in shown.counted.designs if card.entry.letter == letter), None)
    if found is None:
        raise Http404
    held = shown.counted.held
    cast = shown.as_cast(found).shown
    about = found.entry.card, letter, held.known, held.papers, found.entry.version
    drawing = next(iter(drawings_of(*about, cast=cast)), None)
    template = "designs/_view.svg" if drawing else "designs/no_view.svg"
    context = {"drawing": drawing, "pid": "c", "alone": True, "still": True}
    page = render(request, template, context, content_type="image/svg+xml")
    page["Cache-Control"] = "private, max-age=86400, immutable"
    return page


@require_GET
def print_guide(request: HttpRequest, pk: int) -> HttpResponse:
    """The guide of a class: with the names of the sheets as they are cast, or to be filled in."""
    card_class = class_or_404(request.user, pk)
    use = use_of(card_class.pk)
    if not use.made:
        raise Http404
    shown = Table(card_class, None)
    names = {each.letter: each.paper.name for each in shown.letters if each.paper}
    cast = "uncast" not in request.GET
    page = page_asked(request, card_class.unit)
    context = {"sheets": guide_pages(drawn(use.made), names if cast else {}), "title": card_class.title, "cast": cast}
    context |= page_context(page, card_class.unit)
    name = f"{slugify(card_class.title) or 'class'}-guide"
    return pdf_response("casting/pdf/guide.html", context, name, f"{card_class.title}: guide", request)
