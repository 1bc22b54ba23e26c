"""Saving everything in one file, and bringing such a file in."""

from __future__ import annotations

import tempfile

from django import forms
from django.contrib import messages
from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from zester.archive.packing import pack
from zester.archive.unpacking import TwiceError, unpack
from zester.classes.follow import later
from zester.classes.models import CardClass
from zester.core.errors import ZesterError
from zester.site.fields import BootstrapMixin
from zester.site.turns import one_at_a_time

COUNTED = (("class", "classes"), ("design", "designs"), ("paper", "papers"), ("tool", "tools"))


class ArchiveForm(BootstrapMixin, forms.Form):
    """An archive to bring in."""

    archive = forms.FileField(
        label="The ZIP file that “Save everything” made", error_messages={"required": "Choose the ZIP file first."}
    )
    again = forms.BooleanField(required=False, label="Bring it in all the same: they are here twice then")


def archive(request: HttpRequest) -> HttpResponse:
    """What can be saved and brought in."""
    return render(request, "archive/archive.html", {"form": ArchiveForm()})


def save(request: HttpRequest) -> FileResponse:
    """Everything of one's own as a ZIP file."""
    out = tempfile.TemporaryFile()  # noqa: SIM115 — the answer closes it
    pack(request.user, out)
    out.seek(0)
    name = f"zester-{timezone.localdate():%Y-%m-%d}.zip"
    return FileResponse(out, as_attachment=True, filename=name, content_type="application/zip")


@require_POST
def bring_in(request: HttpRequest) -> HttpResponse:
    """Make everything in an archive one's own."""
    form, twice = ArchiveForm(request.POST, request.FILES), False
    if form.is_valid():
        try:
            with one_at_a_time("archives"):
                made = unpack(request.user, form.cleaned_data["archive"], form.cleaned_data["again"])
        except ZesterError as error:
            form.add_error("archive", error.advice())
            twice = isinstance(error, TwiceError)
        else:
            later(CardClass.objects.of(request.user).values_list("pk", flat=True))
            words = ", ".join(_some(made.get(kind, 0), one, kind) for one, kind in COUNTED)
            messages.success(request, f"Brought in: {words}.")
            return redirect("classes:list")
    return render(request, "archive/archive.html", {"form": form, "twice": twice})


def _some(number: int, one: str, many: str) -> str:
    return f"{number} {one if number == 1 else many}"
