"""Requests that are too large are turned away before anything of them is read."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


def limit_requests(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: 413 (RFC 9110, section 15.5.14) for a body of more than ``LARGEST_REQUEST`` bytes.

    A body of unknown length is read by Django as an empty one, so that the header can be relied on.
    """

    def limited(request: HttpRequest) -> HttpResponse:
        length = request.META.get("CONTENT_LENGTH") or "0"
        if length.isdigit() and int(length) <= settings.LARGEST_REQUEST:
            return answer(request)
        most = f"{settings.LARGEST_REQUEST / 1_000_000:g} MB"
        return render(request, "site/too_large.html", {"most": most}, status=413)

    return limited
