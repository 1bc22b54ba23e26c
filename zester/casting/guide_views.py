"""The guides of the library: typed, looked at, printed, saved and brought in as files."""

from __future__ import annotations

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from zester.casting import searching
from zester.casting.forms import USUAL_SIDES, GuideFileForm, GuideForm
from zester.casting.guides import bring_in, drawn, keep_guide, reading_of, taken_from, use_guide
from zester.casting.models import LONGEST_LINES, Guide, GuideSearch
from zester.casting.nudging import cards_with, kept_nudges
from zester.casting.printed import guide_pages, shown_sheets
from zester.classes.models import CardClass
from zester.classes.services import class_or_404
from zester.core.casting.guide import Guide as Drawn
from zester.core.casting.nudges import Nudge, smaller
from zester.core.errors import GuideError, LengthError, PlanError, ZesterError
from zester.core.lengths import RULERS, parse_size, show_size
from zester.core.tally import some
from zester.printing.choosers import page_asked, page_context
from zester.printing.views import pdf_response
from zester.site.owned import locked, mine_or_404
from zester.site.regions import current
from zester.site.removed import bringing_back, removing


@require_GET
def guides(request: HttpRequest) -> HttpResponse:
    """All of them."""
    rows = [{"guide": guide, "drawn": drawn(guide.made)} for guide in Guide.objects.of(request.user)]
    return render(request, "casting/guides.html", {"rows": rows, "form": GuideFileForm()})


def guide(request: HttpRequest, pk: int = 0) -> HttpResponse:
    """A guide, new or changed: its lines, and every sheet as it is cut."""
    mine = Guide.objects.of(request.user)
    if request.method == "POST":
        with transaction.atomic():
            form = GuideForm(request.POST, instance=locked(mine, pk=pk) if pk else Guide(owner=request.user))
            if form.is_valid():
                reading = keep_guide(form.filled())
                words = f"To be mended: {some(reading.errors, 'line')}." if reading.errors else "It holds."
                messages.success(request, f"{form.instance.name} is saved. {words}{form.merged_words}")
                return redirect("casting:guide", form.instance.pk)
    else:
        form = GuideForm(instance=get_object_or_404(mine, pk=pk) if pk else _new(request))
    there = mine.filter(pk=pk).first()
    # Beside a form that is not right yet stands what of its lines can be read.
    context = {"form": form, "guide": there} | _read(form["lines"].value() or "", *form.sheet)
    return render(request, "casting/guide.html", context)


def _new(request: HttpRequest) -> Guide:
    unit = current().unit
    side = USUAL_SIDES[unit]
    return Guide(owner=request.user, unit=unit, width=side, height=side)


def _read(lines: str, width: int, height: int, unit: str) -> dict:
    reading = reading_of(lines[:LONGEST_LINES], width, height, unit)
    return {"reading": reading, "sheets": shown_sheets(reading.guide), "unit": unit}


@require_POST
def read(request: HttpRequest) -> HttpResponse:
    """What was understood of the lines as they stand; nothing is kept."""
    unit = request.POST.get("unit", "in")
    unit = unit if unit in ("in", "mm") else "in"
    try:
        width, height = parse_size(request.POST.get("size", ""), RULERS["mm" if unit == "mm" else "in16"])
    except LengthError as error:
        return render(request, "casting/_read.html", {"size_error": error.advice()})
    return render(request, "casting/_read.html", _read(request.POST.get("lines", ""), width, height, unit))


@require_POST
def bring(request: HttpRequest) -> HttpResponse:
    """A guide from its file."""
    form = GuideFileForm(request.POST, request.FILES)
    if not form.is_valid():
        messages.error(request, form.errors["file"][0])
        return redirect("casting:guides")
    try:
        made = bring_in(request.user, *form.cleaned_data["file"])
    except PlanError as error:
        messages.error(request, f"It cannot be taken in: {error.text()}. Choose a guide that was saved as JSON.")
        return redirect("casting:guides")
    messages.success(request, f"{made.name} is in your library.")
    return redirect("casting:guide", made.pk)


@require_GET
def save(request: HttpRequest, pk: int) -> HttpResponse:
    """A guide as open JSON."""
    found = mine_or_404(Guide, request.user, pk)
    answer = HttpResponse(found.made, content_type="application/json")
    answer["Content-Disposition"] = f'attachment; filename="{slugify(found.name) or "guide"}.json"'
    return answer


@require_GET
def print_guide(request: HttpRequest, pk: int) -> HttpResponse:
    """A guide to cut by, uncast: every letter with a line to fill in which sheet it is."""
    found = mine_or_404(Guide, request.user, pk)
    page = page_asked(request, found.unit)
    sheets = guide_pages(drawn(found.made), {})
    context = {"sheets": sheets, "title": found.name, "cast": False} | page_context(page, found.unit)
    return pdf_response("casting/pdf/guide.html", context, slugify(found.name) or "guide", found.name, request)


@require_POST
def take_plans(request: HttpRequest, pk: int) -> HttpResponse:
    """A guide made of the plans of a class."""
    card_class = class_or_404(request.user, pk)
    try:
        made, others = taken_from(card_class)
    except GuideError as error:
        messages.error(request, error.advice())
        return redirect("casting:table", pk)
    more = f" Of another size, and not in it: {', '.join(others)}." if others else ""
    messages.success(request, f"{made.name} is a guide now.{more}")
    return redirect("casting:guide", made.pk)


@require_GET
def looking(request: HttpRequest, pk: int) -> HttpResponse:
    """How the search of a class stands, as a part."""
    card_class = mine_or_404(CardClass, request.user, pk)
    search = GuideSearch.objects.filter(card_class=card_class).first()
    return render(request, "casting/_search.html", {"card_class": card_class, "search": search} | shown_search(search))


def shown_search(search: GuideSearch | None) -> dict:
    """What a page shows of a search: the sheets it has found."""
    found = drawn(search.made) if search else None
    if not found:
        return {"found": None}
    nudges = [_shown_nudge(nudge, found) for nudge in kept_nudges(search)]
    return {"found": found, "found_sheets": shown_sheets(found), "nudges": nudges}


def _shown_nudge(nudge: Nudge, found: Drawn) -> dict:
    sizes = [(show_size(*size, found.unit), show_size(*smaller(size, found.unit), found.unit)) for size in nudge.sizes]
    return {"sizes": sizes, "cards": cards_with(found, nudge.sizes), "sheets": nudge.sheets}


@require_POST
def look(request: HttpRequest, pk: int) -> HttpResponse:
    """Look for a guide for few sheets, stop it, keep what it found, or take one of its nudges and look again."""
    card_class = class_or_404(request.user, pk)
    act = request.POST.get("act", "")
    if act == "stop":
        searching.stop(card_class)
    elif act == "keep":
        try:
            made = searching.keep_found(card_class)
        except ZesterError as error:
            messages.error(request, error.advice())
            return redirect("casting:table", pk)
        use_guide(card_class, made)
        messages.success(request, f"{made.name}: kept as a guide. The lists say its letters; cast them anew.")
    elif act.startswith("nudge "):
        try:
            nudged = searching.take_nudge(card_class, act)
        except ZesterError as error:
            messages.error(request, error.advice())
            return redirect("casting:table", pk)
        messages.success(request, f"{some(nudged, 'list')} changed; the lists before are kept.")
    else:
        searching.ask(card_class)
    return redirect("casting:table", pk)


remove = removing(Guide, "casting:guides", words="{} is taken away. Classes that are cut by it keep it.")
restore = bringing_back(Guide, "casting:guides")
