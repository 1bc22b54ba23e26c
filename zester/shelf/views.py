"""The shelf's pages."""

from __future__ import annotations

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from zester.core.errors import ZesterError
from zester.core.paper_lines import read_papers
from zester.core.papers import COLOURS
from zester.core.stock.shelf_files import paper_lines
from zester.shelf.forms import PaperForm, PaperLinesForm, SwatchForm
from zester.shelf.models import Paper
from zester.shelf.services import (
    called,
    forget_name,
    keep_paper,
    keep_swatch,
    papers_of,
    put_back,
    put_lines_on,
    take_off,
)
from zester.shelf.starter import STARTERS
from zester.shelf.stock_forms import TableForm
from zester.shelf.stock_views import Lying, lying_of
from zester.shelf.uses import used_in
from zester.site.back import page_of_ours
from zester.site.owned import locked
from zester.site.regions import current
from zester.site.removed import bringing_back, removing

# Colours that are quick to choose, by what they are called.
PALETTE = [
    (name, COLOURS[name])
    for name in (
        *("white", "cream", "sand", "stone", "slate", "black", "red", "coral", "peach", "orange", "honey", "yellow"),
        *(
            "lime",
            "green",
            "pine",
            "mint",
            "teal",
            "lagoon",
            "sky",
            "blue",
            "navy",
            "lilac",
            "purple",
            "plum",
            "rose",
            "pink",
        ),
        *("brown", "brass"),
    )
]


def shelf(request: HttpRequest) -> HttpResponse:
    """All papers."""
    papers = list(papers_of(request.user).prefetch_related("sheets"))
    found: dict[int, list[Lying]] = {}
    for each in lying_of(request.user, papers):
        found.setdefault(each.paper.pk, []).append(each)
    rows = [{"paper": paper, "kind": paper.get_kind_display(), "lying": found[paper.pk]} for paper in papers]
    return render(request, "shelf/shelf.html", {"rows": rows})


def new_paper(request: HttpRequest) -> HttpResponse:
    """Put a paper on the shelf."""
    form = PaperForm(
        request.POST or None,
        owner=request.user,
        initial={"name": request.GET.get("name", ""), "sheet": current().paper},
    )
    if request.method == "POST" and form.is_valid():
        paper = keep_paper(form.save(commit=False), form.counted)
        messages.success(request, f"{paper.name} is on the shelf.")
        return redirect(_after(request))
    return render(request, "shelf/paper.html", {"form": form, "palette": PALETTE, "next": request.GET.get("next", "")})


def as_lines(request: HttpRequest) -> HttpResponse:
    """Put several papers on the shelf, one a line; ``starter`` begins with usual ones."""
    starter = STARTERS.get(request.GET.get("starter", ""), "")
    form = PaperLinesForm(
        request.POST or None, initial={"lines": starter, "unit": request.GET.get("starter", current().unit)}
    )
    read: list = []
    if request.method == "POST" and form.is_valid():
        read = read_papers(form.cleaned_data["lines"], metric=form.cleaned_data["unit"] == "mm")
        if read and not any(line.error for line in read):
            try:
                papers, pads = put_lines_on(request.user, read)
            except ZesterError as error:
                form.add_error("lines", error.advice())
            else:
                also = f" Pads: {', '.join(f'{pad.name}, {pad.sheets} sheets' for pad in pads)}." if pads else ""
                messages.success(request, f"{_some(papers)} on the shelf.{also}")
                return redirect(_after(request))
    context = {"form": form, "read": read, "starter": bool(starter), "next": request.GET.get("next", "")}
    return render(request, "shelf/lines.html", context)


@require_POST
def read_table(request: HttpRequest) -> HttpResponse:
    """A table of papers as lines, to be looked at and mended before they are put on the shelf."""
    form = TableForm(request.POST, request.FILES)
    try:
        if not form.is_valid():
            raise ZesterError(form.errors["table"][0].removesuffix("."), mend="Choose a CSV table")
        text = paper_lines(form.cleaned_data["table"])
    except ZesterError as error:
        messages.error(request, error.advice())
        return redirect("shelf:lines")
    lines = PaperLinesForm(initial={"lines": text, "unit": "in"})
    return render(request, "shelf/lines.html", {"form": lines, "read": read_papers(text), "starter": False})


def _some(papers: list[Paper]) -> str:
    return f"{papers[0].name} is" if len(papers) == 1 else f"{len(papers)} papers are"


def edit_paper(request: HttpRequest, pk: int) -> HttpResponse:
    """Change a paper. A new name changes only what is shown: lists stay as typed and still mean it."""
    if request.method == "POST":
        with transaction.atomic():
            paper = locked(Paper.objects.of(request.user), pk=pk)
            old_name, former = paper.name, list(paper.former_names)
            form = PaperForm(request.POST, instance=paper, owner=request.user)
            if form.is_valid():
                paper = keep_paper(form.save(commit=False), form.counted)
                renamed = f" Lists that say {old_name} still mean it." if paper.name != old_name else ""
                messages.success(request, f"{paper.name} is saved.{renamed}{form.merged_words}")
                return redirect("shelf:shelf")
    else:
        paper = get_object_or_404(Paper.objects.of(request.user), pk=pk)
        old_name, former = paper.name, list(paper.former_names)
        form = PaperForm(instance=paper, owner=request.user)
    about = {"form": form, "paper": paper, "old_name": old_name, "former": former}
    about |= {"swatch": SwatchForm(), "palette": PALETTE}
    return render(request, "shelf/paper.html", about)


@require_POST
def swatch(request: HttpRequest, pk: int) -> HttpResponse:
    """Draw a side of a paper by a photo of its sheet, or no longer."""
    paper = get_object_or_404(Paper.objects.of(request.user), pk=pk)
    side = "b" if request.POST.get("side") == "b" else "a"
    called = f"{paper.name}, side B," if side == "b" else paper.name
    if "away" in request.POST:
        keep_swatch(paper, "", paper.colour if side == "a" else paper.back_colour, side)
        messages.success(request, f"{called} is drawn by its colour and repeat again.")
        return redirect("shelf:edit", pk)
    form = SwatchForm(request.POST, request.FILES)
    if form.is_valid():
        photo, colour = form.cleaned_data["photo"]
        keep_swatch(paper, photo, colour, side)
        messages.success(request, f"{called} is drawn by its photo.")
    else:
        messages.error(request, form.errors["photo"][0])
    return redirect("shelf:edit", pk)


@require_POST
def forget(request: HttpRequest, pk: int) -> HttpResponse:
    """Let a former name of a paper go."""
    paper = get_object_or_404(Paper.objects.of(request.user), pk=pk)
    name = request.POST.get("name", "")
    if name in paper.former_names:
        forget_name(paper, name)
        messages.success(request, f"“{name}” no longer means {paper.name}.")
    return redirect("shelf:edit", pk)


def _taken_off(paper: Paper) -> str:
    used = used_in(paper)
    take_off(paper)
    return f" It is still named in {', '.join(used)}." if used else ""


remove_paper = removing(Paper, "shelf:shelf", words="{} is off the shelf.", take_away=_taken_off)


def _name_taken(paper: Paper) -> str:
    other = called(paper.owner, paper.name)
    if not other:
        return ""
    was = "is called" if other.name.casefold() == paper.name.casefold() else f"({other.name}) was once called"
    return f"Another paper {was} {paper.name} now. Rename that one first."


restore_paper = bringing_back(
    Paper, "shelf:shelf", words="{} is back on the shelf.", put_back=put_back, in_the_way=_name_taken
)


def _after(request: HttpRequest) -> str:
    """Back to the cut list one came from, if it is a page of Zester's."""
    return page_of_ours(request, request.GET.get("next", "")) or "shelf:shelf"
