"""What a class costs, brings and leaves: its page."""

from __future__ import annotations

import json
from decimal import Decimal

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from zester.classes.closed import leaves_class_alone
from zester.classes.models import CardClass
from zester.classes.services import class_or_404
from zester.core.csv_files import write_csv
from zester.core.errors import ZesterError
from zester.core.money.record import Record, designs_seen, mistakes_seen, papers_seen, read_record
from zester.fits.sheets import percent
from zester.money.closing import cards_beside, close_with, keep_record, kept_of, note, record_of, say_cards
from zester.money.costing import ClassMoney
from zester.money.forms import CostsForm, TryForm
from zester.money.models import ClassRecord
from zester.shelf.stock import OLD_DAYS, old_offcuts
from zester.site.dates import day
from zester.site.owned import key_of, locked
from zester.site.regions import current
from zester.site.stations import some, thread

# So many classes stand in the log's page; its files hold all.
MOST_ROWS = 200


@require_GET
def sums(request: HttpRequest, pk: int) -> HttpResponse:
    """What it costs and brings, with what is tried out."""
    return _page(request, class_or_404(request.user, pk))


def _page(request: HttpRequest, card_class: CardClass, form: CostsForm | None = None) -> HttpResponse:
    # Known already; asked for by what is reckoned.
    card_class.owner = request.user
    # Of what could not be saved nothing counts.
    found = ClassMoney(card_class if form is None else CardClass.objects.get(pk=card_class.pk))
    trying = TryForm(request.GET) if request.GET else TryForm()
    said = trying.cleaned_data if trying.is_bound and trying.is_valid() else {}
    context = {
        "card_class": card_class,
        "stations": thread(card_class, "count"),
        "money": found,
        "form": form or CostsForm(instance=card_class),
        "trying": trying,
        "tried": found.tried(said.get("people"), said.get("price"), said.get("spares")),
        "chart": _chart(found),
    }
    return render(request, "money/sums.html", context)


def _chart(found: ClassMoney) -> dict:
    """Where the money goes, as data for the chart; the same figures stand in the table beside it."""
    rows = [(entry.words, entry.amount) for entry in found.sum.costs]
    rows.append(("lacking", found.sum.lacks) if found.sum.lacks else ("left", found.sum.left))
    return {"names": [name for name, _ in rows], "amounts": [str(a) for _, a in rows], "currency": current().sign}


@require_POST
def costs(request: HttpRequest, pk: int) -> HttpResponse:
    """Write what it costs beside papers and bits."""
    with transaction.atomic():
        form = CostsForm(request.POST, instance=locked(CardClass.objects.of(request.user), pk=pk))
        if form.is_valid():
            form.save()
            messages.success(request, f"The costs are saved.{form.merged_words}")
            return redirect("money:sums", pk)
    return _page(request, class_or_404(request.user, pk), form)


@require_GET
def sums_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The same as a table."""
    card_class = class_or_404(request.user, pk)
    found = ClassMoney(card_class)
    rows: list[tuple[str, str, Decimal]] = [("brings", entry.words, entry.amount) for entry in found.sum.income]
    rows += [("costs", entry.words, entry.amount) for entry in found.sum.costs]
    rows.append(("left", "", found.sum.left))
    response = HttpResponse(write_csv(("what", "words", "amount"), rows), content_type="text/csv; charset=utf-8")
    name = slugify(card_class.title) or "class"
    response["Content-Disposition"] = f'attachment; filename="{name}-money.csv"'
    return response


# What to mind belongs to the designs, which are not the class.
@leaves_class_alone
@require_http_methods(["GET", "POST"])
def closing(request: HttpRequest, pk: int) -> HttpResponse:
    """What the class came to, what to mind next time; and the button that closes it."""
    card_class = class_or_404(request.user, pk)
    money = ClassMoney(card_class)
    designs = money.counted.designs
    lessons = {read.entry.card_id: request.POST.get(f"lesson{read.entry.card_id}", "") for read in designs}
    if request.method == "POST":
        try:
            return _closed(request, card_class, lessons, _cards(request))
        except ZesterError as error:
            messages.error(request, error.advice())
    kept, board = kept_of(card_class), money.board
    context = {
        "card_class": card_class,
        "stations": thread(card_class, "pack"),
        "record": kept or record_of(money),
        # One that was closed before records were kept has none.
        "kept": kept is not None,
        "designs": [(read, lessons[read.entry.card_id]) for read in designs],
        "beside": cards_beside(money.counted),
        "fates": [
            (name, words, request.POST.get(name, "") or getattr(kept, name, 0) or "") for name, words in FATES.items()
        ],
        "unpacked": sum(bag.mark is None for bag in board.bags.values()),
        "strays": len(board.surplus),
        "uncut": [entry.fit.name for entry in money.state.entries if entry.state not in ("cut", "off")],
    }
    return render(request, "money/closing.html", context)


# What becomes of the cards that go into nobody's kit.
FATES = {"shown": "shown", "given": "given away", "kept_cards": "kept"}


def _cards(request: HttpRequest) -> dict[str, int]:
    """What is written of them; raises ZesterError for what is no number."""
    found = {}
    for name, words in FATES.items():
        typed = request.POST.get(name, "").strip()
        if typed and typed != "0" and not key_of(typed):
            raise ZesterError(f"“{typed[:20]}” is no number of cards {words}", mend="Write a whole number, or nothing")
        if typed:
            found[name] = key_of(typed)
    return found


def _closed(
    request: HttpRequest, card_class: CardClass, lessons: dict[int, str], cards: dict[str, int]
) -> HttpResponse:
    if "keep" in request.POST and card_class.closed_at:
        keep_record(card_class)
        messages.success(request, f"{card_class.title} stands in the log now.")
    elif card_class.closed_at or "note" in request.POST:
        count = note(card_class, lessons)
        say_cards(card_class, cards)
        messages.success(request, f"{some(count, 'note')} written to the designs.")
    else:
        close_with(card_class, lessons, cards)
        messages.success(request, f"{card_class.title} is closed. What it came to stands in the log.")
    return redirect("money:closing", card_class.pk)


@require_GET
def log(request: HttpRequest) -> HttpResponse:
    """What the classes came to that are closed, beside each other."""
    rows = list(ClassRecord.objects.filter(owner=request.user)[:MOST_ROWS])
    records = [(row, read_record(row.kept)) for row in rows]
    found = [record for _, record in records]
    context = {
        "rows": records,
        "designs": designs_seen(found),
        "papers": papers_seen(found),
        "mistakes": mistakes_seen(found),
        "mistakes_cost": sum((record.mishaps_cost for record in found), Decimal(0)),
        "offcuts": (sum(record.offcuts for record in found), sum(record.offcuts_used for record in found)),
        "old": old_offcuts(request.user),
        "old_days": OLD_DAYS,
        "made_up": any(row.made_up for row in rows),
        "chart": {
            "names": [_called(row) for row, _ in reversed(records)],
            "used": [_percent(record.used) for _, record in reversed(records)],
            "left": [str(record.left) for _, record in reversed(records)],
            "currency": current().sign,
        },
    }
    return render(request, "money/log.html", context)


def _called(row: ClassRecord) -> str:
    return f"{row.title}, {day(row.date, 'short')}" if row.date else row.title


def _percent(share: Decimal | None) -> str:
    return "" if share is None else percent(share).removesuffix(" %")


LOG_COLUMNS = ("class", "date", "made up", "people", "kits", "sheets", "yield %", "waste", "minutes planned")
LOG_COLUMNS += (
    "minutes taken",
    "usual minutes by hand",
    "minutes by hand",
    "shown",
    "given away",
    "kept",
    "mistakes",
    "cost of mistakes",
    "offcuts",
    "offcuts used",
    "brings",
    "costs",
    "left",
    "open",
)


@require_GET
def log_file(request: HttpRequest, kind: str) -> HttpResponse:
    """The log as a table, or as JSON with papers and designs."""
    rows = ClassRecord.objects.filter(owner=request.user)
    if kind == "json":
        told = [{"class": row.title, "date": row.date, "made up": row.made_up, **row.kept} for row in rows]
        answer = HttpResponse(
            json.dumps(told, default=str, ensure_ascii=False, indent=1), content_type="application/json"
        )
    else:
        table = write_csv(LOG_COLUMNS, (_log_cells(row, read_record(row.kept)) for row in rows))
        answer = HttpResponse(table, content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="classes.{kind}"'
    return answer


def _log_cells(row: ClassRecord, record: Record) -> tuple:
    about = (row.title, row.date or "", "yes" if row.made_up else "", record.people, record.kits, record.sheets)
    about += (
        _percent(record.used),
        record.waste,
        record.planned_minutes,
        record.minutes,
        *record.hand_minutes,
        record.shown,
        record.given,
        record.kept_cards,
        record.mistakes,
        record.mishaps_cost,
        record.offcuts,
        record.offcuts_used,
    )
    return (*about, record.brings, record.takes, record.left, record.owing)
