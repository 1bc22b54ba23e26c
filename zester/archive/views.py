"""Saving everything in one file, and bringing such a file in."""

from __future__ import annotations

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from zester.archive.intakes import answer, asked
from zester.archive.models import Intake
from zester.archive.reading import look_at
from zester.core.errors import ZesterError
from zester.printing.models import Print
from zester.printing.prints import asked_anew
from zester.site.fields import BootstrapMixin

COUNTED = (("class", "classes"), ("design", "designs"), ("paper", "papers"), ("tool", "tools"))


class ArchiveForm(BootstrapMixin, forms.Form):
    """An archive to bring in."""

    archive = forms.FileField(
        label="The ZIP file that “Save everything” made", error_messages={"required": "Choose the ZIP file first."}
    )


def archive(request: HttpRequest) -> HttpResponse:
    """What can be saved and brought in."""
    return _page(request, ArchiveForm())


@require_POST
def save(request: HttpRequest) -> HttpResponse:
    """Everything of one's own as a ZIP file: a worker makes it."""
    made = asked_anew(
        request.user, Print.Kind.ZIP, f"zester-{timezone.localdate():%Y-%m-%d}.zip", "Everything in one file"
    )
    return redirect("printing:waiting", made.pk)


@require_POST
def bring_in(request: HttpRequest) -> HttpResponse:
    """An archive was sent: workers make everything in it one's own."""
    form = ArchiveForm(request.POST, request.FILES)
    if form.is_valid():
        sent = form.cleaned_data["archive"]
        try:
            look_at(sent)
            return redirect("archive:intake", asked(request.user, sent).pk)
        except ZesterError as error:
            form.add_error("archive", error.advice())
    return _page(request, form)


def _page(request: HttpRequest, form: ArchiveForm) -> HttpResponse:
    mine = Intake.objects.filter(owner=request.user).first()
    saved = Print.objects.filter(owner=request.user, kind=Print.Kind.ZIP).first()
    return render(request, "archive/archive.html", {"form": form, "intake": mine, "saved": saved})


def _mine(request: HttpRequest, pk: int) -> Intake:
    return get_object_or_404(Intake, owner=request.user, pk=pk)


@require_GET
def intake(request: HttpRequest, pk: int) -> HttpResponse:
    """How far an archive is; the page can be left."""
    mine = _mine(request, pk)
    made = ", ".join(_some(mine.counts.get(kind, 0), one, kind) for one, kind in COUNTED)
    return render(request, f"archive/{'_' if request.htmx else ''}intake.html", {"intake": mine, "made": made})


@require_POST
def answer_intake(request: HttpRequest, pk: int) -> HttpResponse:
    """What is here already is wanted once more, or the archive is left."""
    mine, again = _mine(request, pk), "again" in request.POST
    answer(mine, again)
    return redirect("archive:intake", pk) if again else redirect("archive:archive")


def _some(number: int, one: str, many: str) -> str:
    return f"{number} {one if number == 1 else many}"
