"""PDFs and files of the Cut station."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from zester.bench.cutter import report_of
from zester.bench.practice import practice_marks
from zester.bench.printed import cards_of, file_of, files_of, guides_of, home_guides, labels_of
from zester.bench.runs import fits_of
from zester.bench.views import class_of, fit_of
from zester.classes.models import Trimmer
from zester.core.cutting.machine_file import MachineFile, to_dxf, to_svg
from zester.core.cutting.steps_file import write_steps
from zester.core.printing.label_sheets import LABEL_SHEETS, label_pages
from zester.core.printing.pages import proof_line, usual_page
from zester.plans.models import PaperFit
from zester.printing.choosers import label_sheet_asked, page_asked, page_context
from zester.printing.views import pdf_response
from zester.site.stations import thread


@require_GET
def papers(request: HttpRequest, pk: int) -> HttpResponse:
    """Everything that can be printed or had as a file."""
    card_class = class_of(request, pk)
    files = [(fit, files_of(fit)) for fit in fits_of(card_class)]
    context = {
        "card_class": card_class,
        "stations": thread(card_class, "cut"),
        "files": files,
        "page": usual_page(card_class.unit),
        "label_sheets": LABEL_SHEETS,
        "at_home": bool(home_guides(card_class)),
    }
    return render(request, "bench/print.html", context)


_TITLES = {
    "cards": "cutting cards",
    "guides": "true-size guides",
    "labels": "pile labels",
    "self-cut": "guides to cut at home",
}


def _pdf(request: HttpRequest, pk: int, what: str, context: dict) -> HttpResponse:
    card_class = class_of(request, pk)
    page = context.get("page") or page_asked(request, card_class.unit)
    context |= {"card_class": card_class} | page_context(page, card_class.unit)
    name, title = f"{slugify(card_class.title) or 'class'}-{what}", f"{card_class.title}: {_TITLES[what]}"
    return pdf_response(f"bench/pdf/{what}.html", context, name, title, request)


@require_GET
def cards_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """Cutting cards, a page for every paper."""
    return _pdf(request, pk, "cards", {"cards": cards_of(class_of(request, pk))})


@require_GET
def guides_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """True-size guides, with a line that proves the printer's scale."""
    card_class = class_of(request, pk)
    page = page_asked(request, card_class.unit)
    context = {"pages": guides_of(card_class, page), "proof": proof_line(page), "page": page}
    return _pdf(request, pk, "guides", context)


@require_GET
def labels_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """Labels for the piles."""
    card_class = class_of(request, pk)
    sheet, start = label_sheet_asked(request, card_class.unit)

    def address(key: str) -> str:
        return request.build_absolute_uri(f"{reverse('bench:paper', args=[pk, key])}#count")

    pages = label_pages(labels_of(card_class, address), sheet, start)
    return _pdf(request, pk, "labels", {"pages": pages, "sheet": sheet, "page": sheet.paper})


@require_GET
def self_cut_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """Guides for those who cut at home."""
    guides = home_guides(class_of(request, pk))
    if not guides:
        messages.error(request, "No paper of this class is handed out to be cut at home.")
        return redirect("bench:print", pk)
    return _pdf(request, pk, "self-cut", {"guides": guides})


@require_GET
def practice_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """The practice sheet: marks beside the three cuts that show how far off they are."""
    trimmer = get_object_or_404(Trimmer.objects.of(request.user), pk=pk)
    page = usual_page(trimmer.unit)
    context = {"trimmer": trimmer} | page_context(page, trimmer.unit)
    context |= {"rows": practice_marks(trimmer.unit), "proof": proof_line(page), "foot": 250}
    title = f"Practice sheet for {trimmer}"
    return pdf_response("bench/pdf/practice.html", context, "practice-sheet", title, request)


@require_GET
def steps_json(request: HttpRequest, pk: int) -> HttpResponse:
    """The steps of all papers as open JSON: what the screens show, exactly."""
    card_class = class_of(request, pk)
    papers = [(paper.fit.key, paper.cut_steps) for paper in cards_of(card_class)]
    text = write_steps(papers, card_class.unit, card_class.cut_with.pace)
    answer = HttpResponse(text + "\n", content_type="application/json")
    answer["Content-Disposition"] = f'attachment; filename="{slugify(card_class.title) or "class"}-steps.json"'
    return answer


def _file(request: HttpRequest, pk: int, key: str, number: int) -> tuple[PaperFit, MachineFile]:
    fit = fit_of(request, pk, key)
    file = file_of(fit, number)
    if file is None:
        raise Http404
    return fit, file


def _saved(fit: PaperFit, number: int, text: str, ending: str, kind: str) -> HttpResponse:
    answer = HttpResponse(text, content_type=kind)
    answer["Content-Disposition"] = f'attachment; filename="{slugify(fit.name) or "paper"}-{number}.{ending}"'
    return answer


@require_GET
def layout_svg(request: HttpRequest, pk: int, key: str, number: int) -> HttpResponse:
    """A layout as SVG."""
    fit, file = _file(request, pk, key, number)
    return _saved(fit, number, to_svg(file), "svg", "image/svg+xml")


@require_GET
def layout_dxf(request: HttpRequest, pk: int, key: str, number: int) -> HttpResponse:
    """A layout as DXF."""
    fit, file = _file(request, pk, key, number)
    return _saved(fit, number, to_dxf(file), "dxf", "image/vnd.dxf")


@require_POST
def try_cutter(request: HttpRequest, pk: int, key: str, number: int) -> HttpResponse:
    """Cut a layout on the simulated machine, with or without one of its faults, and show what came out."""
    fit, file = _file(request, pk, key, number)
    report = report_of(fit, file, number, request.POST.get("fault", ""))
    card_class = fit.class_paper.card_class
    context = {"card_class": card_class, "stations": thread(card_class, "cut"), "fit": fit, "number": number}
    return render(request, "bench/cutter.html", context | {"report": report})
