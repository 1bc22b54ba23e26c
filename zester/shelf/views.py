"""The shelf's pages."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from zester.classes.services import follow_paper_name
from zester.designs.services import follow_paper, known_to, lists_naming
from zester.shelf.forms import PaperForm
from zester.shelf.models import Paper
from zester.shelf.services import papers_of


def shelf(request: HttpRequest) -> HttpResponse:
    """All papers."""
    return render(request, "shelf/shelf.html", {"papers": papers_of(request.user)})


def new_paper(request: HttpRequest) -> HttpResponse:
    """Put a paper on the shelf."""
    form = PaperForm(request.POST or None, owner=request.user, initial={"name": request.GET.get("name", "")})
    if request.method == "POST" and form.is_valid():
        paper = form.save()
        messages.success(request, f"{paper.name} is on the shelf.")
        return redirect(_after(request))
    return render(request, "shelf/paper.html", {"form": form, "next": request.GET.get("next", "")})


def edit_paper(request: HttpRequest, pk: int) -> HttpResponse:
    """Change a paper; a new name is carried into the cut lists."""
    paper = get_object_or_404(Paper.objects.of(request.user), pk=pk)
    old_name, before = paper.name, known_to(request.user)
    form = PaperForm(request.POST or None, instance=paper, owner=request.user)
    if request.method == "POST" and form.is_valid():
        paper = form.save()
        changed = 0
        if paper.name != old_name:
            changed = follow_paper(request.user, old_name, paper.name, before)
            follow_paper_name(request.user, old_name, paper.name)
        followed = f" {changed} cut list{'' if changed == 1 else 's'} follow the new name." if changed else ""
        messages.success(request, f"{paper.name} is saved.{followed}")
        return redirect("shelf:shelf")
    return render(request, "shelf/paper.html", {"form": form, "paper": paper, "old_name": old_name})


@require_POST
def remove_paper(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a paper off the shelf; can be undone."""
    paper = get_object_or_404(Paper.objects.of(request.user), pk=pk)
    used = lists_naming(request.user, paper.name, known_to(request.user))
    paper.remove()
    still = f" It is still named in {', '.join(used)}." if used else ""
    messages.info(request, f"{paper.name} is off the shelf.{still}", extra_tags=f"undo:shelf:restore:{paper.pk}")
    return redirect("shelf:shelf")


@require_POST
def restore_paper(request: HttpRequest, pk: int) -> HttpResponse:
    """Undo a removal, unless another paper has taken the name."""
    paper = get_object_or_404(Paper.objects.removed_of(request.user), pk=pk)
    if papers_of(request.user).filter(name__iexact=paper.name).exists():
        messages.error(request, f"Another paper is called {paper.name} now. Rename that one first.")
    else:
        paper.restore()
        messages.success(request, f"{paper.name} is back on the shelf.")
    return redirect("shelf:shelf")


def _after(request: HttpRequest) -> str:
    """Back to the cut list one came from, if it is a page of Zester's."""
    target = request.GET.get("next", "")
    return target if target and url_has_allowed_host_and_scheme(target, allowed_hosts=None) else "shelf:shelf"
