"""What lies on the shelf: the ledger, stock-takes, sizes of papers, offcuts, bits and pads."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib import messages
from django.core.paginator import Paginator
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from zester.core.csv_files import write_csv
from zester.core.errors import ZesterError
from zester.core.lengths import TICKS_PER_INCH, write_length
from zester.core.stock.ledger import MOST, Held
from zester.core.stock.offcut_lines import read_offcuts
from zester.core.stock.shelf_files import offcut_lines, stock_rows
from zester.shelf.models import Entry, Paper, Sheet
from zester.shelf.services import known_papers, papers_of
from zester.shelf.signals import CHANGED, paper_changed
from zester.shelf.stock import (
    book,
    correct,
    offcuts_of,
    put_offcuts,
    stock_take,
    stop_counting,
)
from zester.shelf.stock_forms import EntryForm, OffcutLinesForm, SheetForm, TableForm
from zester.shelf.uses import plan_name, promised
from zester.site.owned import key_of, locked

A_PAGE = 60


@dataclass(frozen=True, kw_only=True)
class Lying:
    """One kind of sheet as it lies there."""

    paper: Paper
    """Of which paper."""
    sheet: Sheet | None
    """Its size or offcut; None: the usual size."""
    held: Held
    """What is there and what is promised."""
    classes: tuple[str, ...]
    """To which classes, and how many."""

    @property
    def name(self) -> str:
        """What its field is called in forms."""
        return f"{self.paper.pk}-{self.sheet.pk if self.sheet else 0}"

    @property
    def size(self) -> str:
        """In words."""
        return (self.sheet or self.paper).size_text


def lying_of(user, papers: list[Paper]) -> list[Lying]:
    """Every size and offcut of these papers, with what is promised of it."""
    wanted = promised(user.pk)
    found = []
    for paper in papers:
        for sheet in [None, *(each for each in paper.sheets.all() if each.removed_at is None)]:
            if sheet and sheet.is_offcut and not sheet.on_hand:
                continue
            row = wanted.get((paper.pk, plan_name(sheet)), [])
            on_hand = sheet.on_hand if sheet else paper.on_hand
            held = Held(on_hand=on_hand, reserved=sum(each.count for each in row))
            classes = tuple(f"{each.count} for {each.title}" for each in row)
            found.append(Lying(paper=paper, sheet=sheet, held=held, classes=classes))
    return found


def _paper(request: HttpRequest, pk: int) -> Paper:
    return get_object_or_404(Paper.objects.of(request.user), pk=pk)


def _sheet(request: HttpRequest, pk: int) -> Sheet:
    mine = Sheet.objects.filter(paper__owner=request.user, paper__removed_at=None, removed_at=None)
    return get_object_or_404(mine.select_related("paper"), pk=pk)


def stock(request: HttpRequest, pk: int) -> HttpResponse:
    """One paper's stock: its sizes, what is promised, its entries; booking one more."""
    return _stock_page(request, _paper(request, pk), EntryForm())


def _stock_page(request: HttpRequest, paper: Paper, form: EntryForm, size: str = "0") -> HttpResponse:
    entries = Entry.objects.filter(paper=paper).select_related("sheet", "corrects").prefetch_related("corrected_by")
    context = {
        "paper": paper,
        "lying": lying_of(request.user, [paper]),
        "entries": entries[:A_PAGE],
        "form": form,
        "size": size,
    }
    return render(request, "shelf/stock.html", context)


@require_POST
def book_entry(request: HttpRequest, pk: int) -> HttpResponse:
    """Book what happened to sheets of a paper."""
    paper, form = _paper(request, pk), EntryForm(request.POST)
    chosen = key_of(request.POST.get("size", "0"))
    if not form.is_valid():
        return _stock_page(request, paper, form, str(chosen))
    sheet = get_object_or_404(paper.sheets.filter(removed_at=None), pk=chosen) if chosen else None
    data = form.cleaned_data
    thing = sheet or paper
    if thing.on_hand is None and data["kind"] in ("used", "spoiled", "given"):
        form.add_error("number", "Nobody counts this paper, so nothing can go from it. Do a stock-take first.")
        return _stock_page(request, paper, form, str(chosen))
    try:
        entry = book(paper, sheet, data["kind"], data["number"], about=data["about"])
    except ZesterError as error:
        form.add_error("number", error.advice())
        return _stock_page(request, paper, form, str(chosen))
    messages.success(request, f"{entry} is booked.")
    thing.refresh_from_db()
    if thing.on_hand < 0:
        messages.error(request, f"That makes {thing.on_hand} on hand: more went than was there. Count it when you can.")
    return redirect("shelf:stock", pk)


@require_POST
def correct_entry(request: HttpRequest, pk: int) -> HttpResponse:
    """Take an entry back by another."""
    entry = get_object_or_404(Entry.objects.filter(owner=request.user), pk=pk)
    try:
        correct(entry)
    except ZesterError as error:
        messages.error(request, error.advice())
    else:
        messages.success(request, "Taken back by another entry.")
    return redirect("shelf:stock", entry.paper_id) if entry.paper_id else redirect("shelf:ledger")


def ledger(request: HttpRequest) -> HttpResponse:
    """All entries, the newest first."""
    entries = (
        Entry.objects.filter(owner=request.user)
        .select_related("paper", "sheet", "bit")
        .prefetch_related("corrected_by")
    )
    page = Paginator(entries, A_PAGE).get_page(request.GET.get("page"))
    return render(request, "shelf/ledger.html", {"page": page})


def take_stock(request: HttpRequest) -> HttpResponse:
    """Type what was counted; the differences are booked. A table fills the fields in first."""
    papers = list(papers_of(request.user).prefetch_related("sheets"))
    rows = lying_of(request.user, papers)
    typed, wrong, form = {}, {}, TableForm()
    if request.method == "POST" and "table" in request.FILES:
        form = TableForm(request.POST, request.FILES)
        if form.is_valid():
            typed, wrong = _from_table(form, rows)
    elif request.method == "POST":
        typed = {row.name: request.POST.get(row.name, "").strip() for row in rows}
        seen = {row.name: request.POST.get(f"seen-{row.name}", "") for row in rows}
        wrong = _wrong_counts(rows, typed, seen)
        if not wrong:
            return _booked(request, rows, typed)
    lines = [{"row": row, "typed": typed.get(row.name, ""), "wrong": wrong.get(row.name, "")} for row in rows]
    context = {"lines": lines, "form": form, "unknown": wrong.get("", ()), "filled": any(typed.values())}
    return render(request, "shelf/take_stock.html", context)


def _wrong_counts(rows: list[Lying], typed: dict[str, str], seen: dict[str, str]) -> dict[str, str]:
    wrong = {}
    for row in rows:
        text = typed[row.name]
        if not text:
            continue
        if not text.isdecimal() or len(text) > 6 or int(text) > MOST:
            wrong[row.name] = f"Write a whole number from 0 to {MOST:,}."
        elif seen[row.name] and seen[row.name] != str(row.held.on_hand):
            there = "nobody counted it" if row.held.on_hand is None else f"{row.held.on_hand} are booked now"
            wrong[row.name] = f"Something was booked while you counted: {there}. Is {text} still right? Send it again."
    return wrong


def _booked(request: HttpRequest, rows: list[Lying], typed: dict[str, str]) -> HttpResponse:
    done = 0
    with transaction.atomic():
        for row in rows:
            if typed[row.name]:
                done += stock_take(row.paper, row.sheet, int(typed[row.name])) is not None
    some = "1 difference is" if done == 1 else f"{done} differences are"
    messages.success(request, f"Counted: {some} booked." if done else "Counted: all is as it was booked.")
    return redirect("shelf:shelf")


def _from_table(form: TableForm, rows: list[Lying]) -> tuple[dict[str, str], dict]:
    """What a table says was counted, by field; what names no paper of the shelf."""
    try:
        found = stock_rows(form.cleaned_data["table"])
    except ZesterError as error:
        form.add_error("table", error.advice())
        return {}, {}
    typed, unknown = {}, []
    for name, size, count in found:
        mine = [row for row in rows if row.paper.name.casefold() == name.casefold()]
        if size:
            mine = [row for row in mine if size.casefold() in row.size.casefold()]
        if len(mine) >= 1 and (size or len(mine) == 1 or mine[0].sheet is None):
            typed[mine[0].name] = count
        else:
            unknown.append(f"{name} {size}".strip())
    return typed, {"": tuple(unknown)} if unknown else {}


def stock_csv(request: HttpRequest) -> HttpResponse:
    """What lies there as a CSV table, which a stock-take reads again."""
    rows = lying_of(request.user, list(papers_of(request.user).prefetch_related("sheets")))
    table = [(row.paper.name, row.size, row.held.on_hand) for row in rows if not (row.sheet and row.sheet.is_offcut)]
    return _csv("stock", ("paper", "size", "on hand"), table)


def _csv(name: str, head: tuple[str, ...], rows: list) -> HttpResponse:
    response = HttpResponse(write_csv(head, rows), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{name}.csv"'
    return response


def papers_csv(request: HttpRequest) -> HttpResponse:
    """The papers as a CSV table, which the page for papers as lines reads again."""
    head = ("name", "size", "kind", "price", "on hand", "pack", "weight", "repeat", "colour")
    rows = []
    for paper in papers_of(request.user):
        size = f"{write_length(paper.width, paper.unit)} x {write_length(paper.height, paper.unit)} {paper.unit}"
        about = (paper.kind, paper.price, paper.on_hand, paper.pack, paper.weight, paper.repeat, paper.colour)
        rows.append((paper.name, size, *about))
    return _csv("papers", head, rows)


def sheet(request: HttpRequest, pk: int, size: int = 0) -> HttpResponse:
    """Another size of a paper, new or changed."""
    paper = _paper(request, pk)
    mine = paper.sheets.filter(is_offcut=False, removed_at=None)
    if request.method != "POST":
        form = SheetForm(instance=get_object_or_404(mine, pk=size) if size else Sheet(paper=paper))
    else:
        with transaction.atomic():
            form = SheetForm(request.POST, instance=locked(mine, pk=size) if size else Sheet(paper=paper))
            if form.is_valid():
                made = form.save()
                counted = form.cleaned_data["on_hand"]
                if counted is None:
                    stop_counting(paper, made)
                else:
                    stock_take(paper, made, counted, by="by hand")
                paper_changed.send(Paper, paper=paper, kind=CHANGED)
                messages.success(request, f"{paper.name} comes in {made.size_text}, too.{form.merged_words}")
                return redirect("shelf:stock", pk)
    return render(request, "shelf/sheet.html", {"form": form, "paper": paper, "sheet": mine.filter(pk=size).first()})


@require_POST
def remove_sheet(request: HttpRequest, pk: int, size: int) -> HttpResponse:
    """Say that a paper does not come in a size any more. Its entries stay."""
    paper = _paper(request, pk)
    found = get_object_or_404(paper.sheets.filter(is_offcut=False, removed_at=None), pk=size)
    with transaction.atomic():
        found.removed_at = timezone.now()
        found.save(update_fields=["removed_at"])
        paper_changed.send(Paper, paper=paper, kind=CHANGED)
    messages.success(request, f"{paper.name} is no longer taken in {found.size_text}.")
    return redirect("shelf:stock", pk)


def offcuts(request: HttpRequest) -> HttpResponse:
    """The board: every offcut drawn to scale, by paper; a field to add more, one a line."""
    form = OffcutLinesForm(request.POST or None)
    read = []
    if request.method == "POST" and "table" in request.FILES:
        form, read = _offcut_table(request)
    elif request.method == "POST" and form.is_valid():
        read = read_offcuts(form.cleaned_data["lines"], known_papers(papers_of(request.user)))
        if read and not any(line.error for line in read):
            found = put_offcuts(request.user, [line.offcut for line in read])
            some = "1 kind of offcut is" if len(found) == 1 else f"{len(found)} kinds of offcuts are"
            messages.success(request, f"{some} on the shelf.")
            return redirect("shelf:offcuts")
    rows = offcuts_of(request.user)
    wanted = promised(request.user.pk)
    lying = [
        {
            "sheet": each,
            "classes": [f"{row.count} for {row.title}" for row in wanted.get((each.paper_id, each.key), [])],
            "width": each.width / TICKS_PER_INCH,
        }
        for each in rows
    ]
    # An example that would be understood: a short name may mean several of somebody's papers.
    example = papers_of(request.user).values_list("name", flat=True).first() or "brass"
    wrong = [line for line in read if line.error]
    context = {"lying": lying, "form": form, "read": read, "wrong": wrong, "example": example}
    return render(request, "shelf/offcuts.html", context)


def _offcut_table(request: HttpRequest) -> tuple[OffcutLinesForm, list]:
    """A table of offcuts as lines in the field, to be looked at."""
    form = TableForm(request.POST, request.FILES)
    try:
        if not form.is_valid():
            raise ZesterError(form.errors["table"][0].removesuffix("."), mend="Choose a CSV table")
        text = offcut_lines(form.cleaned_data["table"])
    except ZesterError as error:
        messages.error(request, error.advice())
        return OffcutLinesForm(), []
    return OffcutLinesForm(initial={"lines": text}), read_offcuts(text, known_papers(papers_of(request.user)))


@require_POST
def offcut_gone(request: HttpRequest, pk: int) -> HttpResponse:
    """An offcut is used up, spoiled or given away: booked, not erased."""
    found = _sheet(request, pk)
    kind = request.POST.get("kind", "")
    count = min(key_of(request.POST.get("count", "")) or 1, max(found.on_hand or 0, 1))
    if kind in ("used", "spoiled", "given") and found.is_offcut:
        entry = book(found.paper, found, kind, count)
        messages.success(request, f"{entry}: {found.paper.name}, {found.size_text}.")
    return redirect("shelf:offcuts")


def offcuts_csv(request: HttpRequest) -> HttpResponse:
    """The offcuts as a CSV table, which the board reads again."""
    rows = [
        (
            each.paper.name,
            f"{write_length(each.width, each.unit)} x {write_length(each.height, each.unit)} {each.unit}",
            each.on_hand,
            each.place,
            each.up,
        )
        for each in offcuts_of(request.user)
    ]
    return _csv("offcuts", ("paper", "size", "count", "place", "top"), rows)
