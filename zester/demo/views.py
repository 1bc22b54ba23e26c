"""The example class, taken into one's account and thrown away again."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from zester.demo.data import give_example, throw_example_away


@require_POST
def take(request: HttpRequest) -> HttpResponse:
    """Look at a class that is ready."""
    example = give_example(request.user)
    messages.success(request, "This is an example to try everything on. Throw it away when you have seen enough.")
    return redirect("classes:desk", example.pk)


@require_POST
def throw_away(request: HttpRequest) -> HttpResponse:
    """Take the example and what came with it away."""
    throw_example_away(request.user)
    messages.success(
        request, "The example is gone, with the papers and designs that came with it and are used nowhere else."
    )
    return redirect("classes:list")
