"""The one door to WeasyPrint: a template in, a PDF out. Only files that ship with Zester are read."""

from __future__ import annotations

from pathlib import Path

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from weasyprint import HTML
from weasyprint.urls import URLFetcher

STATIC = Path(__file__).parent / "static"


class _ShippedFiles(URLFetcher):
    """Fonts and styles of the house, and nothing else: no address outside, no other file."""

    def fetch(self, url: str, headers: dict | None = None):
        """The file, or ValueError."""
        if not url.startswith(STATIC.as_uri() + "/") or ".." in url:
            raise ValueError("not a file of the house")
        return super().fetch(url, headers)


def pdf_of(template: str, context: dict, request: HttpRequest | None = None) -> bytes:
    """A template as PDF; its ``url()`` and ``src`` are below the folder of static files."""
    text = render_to_string(template, context, request)
    return HTML(
        string=text, base_url=STATIC.as_uri() + "/", url_fetcher=_ShippedFiles(allowed_protocols=["file"])
    ).write_pdf()


def pdf_response(template: str, context: dict, name: str, request: HttpRequest | None = None) -> HttpResponse:
    """The same as an answer that a browser shows; ``name`` is what a saved file is called."""
    answer = HttpResponse(pdf_of(template, context, request), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="{name}.pdf"'
    return answer
