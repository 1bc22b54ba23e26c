"""PDFs of the Pack station: labels and the packing list."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from zester.bags.board import board_of
from zester.bags.printed import BAGS, KITS, ORDERS, bag_labels, kit_labels, parts_of
from zester.bags.sharing import shared_of
from zester.bags.views import class_of, page_of
from zester.classes.models import CardClass
from zester.core.printing.label_sheets import LABEL_SHEETS, label_pages, usual_label_sheet
from zester.printing.choosers import label_sheet_asked, page_asked, page_context
from zester.printing.views import pdf_response
from zester.site.owned import key_of


@require_GET
def papers(request: HttpRequest, pk: int) -> HttpResponse:
    """Everything that can be printed for packing."""
    card_class = class_of(request, pk)
    board = board_of(card_class)
    context = page_of(
        card_class, board=board, label_sheets=LABEL_SHEETS, orders=ORDERS, parts=parts_of(len(board.bags))
    )
    default = usual_label_sheet(card_class.unit)
    return render(request, "bags/print.html", context | {"default_sheet": default, "shared": shared_of(card_class)})


_TITLES = {"guides": "guides to cut at home", "handout": "hand-out", "labels": "labels", "list": "packing list"}


def pdf(request: HttpRequest, card_class: CardClass, what: str, page: str, context: dict) -> HttpResponse:
    """One of the station's PDFs on a page of this size."""
    context |= {"card_class": card_class} | page_context(page, card_class.unit)
    name, title = f"{slugify(card_class.title) or 'class'}-{what}", f"{card_class.title}: {_TITLES[what]}"
    return pdf_response(f"bags/pdf/{what}.html", context, name, title, request)


@require_GET
def labels_pdf(request: HttpRequest, pk: int, what: str) -> HttpResponse:
    """Labels for bags or for kits, from any label of the sheet on."""
    if what not in (BAGS, KITS):
        raise Http404
    card_class = class_of(request, pk)
    sheet, start = label_sheet_asked(request, card_class.unit)

    def address(kind: str, key: str) -> str:
        return request.build_absolute_uri(reverse(f"bags:{kind}", args=[pk, key]))

    board = board_of(card_class)
    shared = shared_of(card_class)
    page = ""
    if request.GET.get("code") == "page" and shared.is_open:
        page = request.build_absolute_uri(reverse("bags:shared", args=[shared.token]))
    if what == KITS:
        labels = kit_labels(board, address, page)
    else:
        labels = bag_labels(board, request.GET.get("order", ""), address, max(1, key_of(request.GET.get("part", ""))))
    pages = label_pages(labels, sheet, start)
    return pdf(request, card_class, "labels", sheet.paper, {"pages": pages, "sheet": sheet, "what": what})


@require_GET
def list_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """The packing list, with boxes to tick."""
    card_class = class_of(request, pk)
    board = board_of(card_class)
    page = page_asked(request, card_class.unit)
    kits = kit_labels(board, lambda kind, key: key)
    return pdf(request, card_class, "list", page, {"board": board, "kits": kits})
