"""Files, to print or to keep: asked for, waited for, shown."""

from __future__ import annotations

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.utils import timezone
from django.views.decorators.http import require_GET

from zester.core.errors import ZesterError
from zester.printing.models import Print
from zester.printing.prints import asked, before

SHOWN = 12


def pdf_response(template: str, context: dict, name: str, title: str, request: HttpRequest) -> HttpResponse:
    """A template as PDF: at once where the same was made before, otherwise the page that waits for it.

    ``name`` is what a saved file is called, ``title`` what people call it.
    """
    try:
        made = asked(request.user, render_to_string(template, context, request), f"{name}.pdf"[-160:], title[:160])
    except ZesterError as error:
        messages.error(request, error.advice())
        return redirect("printing:files")
    return _shown(made) if made.ready else redirect("printing:waiting", made.pk)


def _shown(made: Print) -> HttpResponse:
    answer = HttpResponse(made.file.read_bytes(), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="{made.name}"'
    return answer


def _mine(request: HttpRequest, pk: int) -> Print:
    return get_object_or_404(Print.objects.filter(owner=request.user), pk=pk)


@require_GET
def waiting(request: HttpRequest, pk: int) -> HttpResponse:
    """A file that is being made: the page goes on to one to print by itself, and can be left."""
    made = _mine(request, pk)
    shown = made.ready and made.kind == Print.Kind.PDF
    if shown and request.htmx:
        return HttpResponse(status=204, headers={"HX-Replace-Url": "false", "HX-Redirect": f"{request.path}file/"})
    if shown:
        return redirect("printing:file", pk)
    page = "printing/_waiting.html" if request.htmx else "printing/waiting.html"
    return render(request, page, {"made": made, "before": before(made), "others": _others(request, made)})


def _others(request: HttpRequest, but: Print | None = None) -> list[Print]:
    mine = Print.objects.filter(owner=request.user, kind=Print.Kind.PDF)
    return list((mine.exclude(pk=but.pk) if but else mine)[:SHOWN])


@require_GET
def files(request: HttpRequest) -> HttpResponse:
    """The files that were made lately, and those that are being made."""
    return render(request, "printing/files.html", {"others": _others(request)})


@require_GET
def file(request: HttpRequest, pk: int) -> HttpResponseBase:
    """A file that is there: one to print is shown, another is saved."""
    made = _mine(request, pk)
    if not made.ready:
        raise Http404
    Print.objects.filter(pk=pk).update(used_at=timezone.now())
    if made.kind == Print.Kind.PDF:
        return _shown(made)
    return FileResponse(made.file.open("rb"), as_attachment=True, filename=made.name, content_type="application/zip")
