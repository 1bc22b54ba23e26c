"""The one door to WeasyPrint: a template in, a PDF out. Only files that ship with Zester are read."""

from __future__ import annotations

from pathlib import Path

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

STATIC = Path(__file__).parents[1] / "site" / "static"
NO_PANGO = (
    "PDFs cannot be made on this machine: it lacks Pango. Install Debian’s packages libpango-1.0-0, libpangoft2-1.0-0"
    " and libharfbuzz-subset0, then try again. The pages themselves print from the browser."
)


def pdf_of(template: str, context: dict, request: HttpRequest | None = None) -> bytes:
    """A template as PDF; its ``url()`` and ``src`` are below the folder of static files.

    Raises OSError where Pango is not installed.
    """
    # Loaded late: it looks for Pango at once, and everything else works without.
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher

    class ShippedFiles(URLFetcher):
        """Fonts and styles of the house, and nothing else: no address outside, no other file."""

        def fetch(self, url: str, headers: dict | None = None):
            """The file, or ValueError; swatches of papers are part of the page itself."""
            if url.startswith("data:image/"):
                return super().fetch(url, headers)
            if not url.startswith(STATIC.as_uri() + "/") or ".." in url:
                raise ValueError("not a file of the house")
            return super().fetch(url, headers)

    text = render_to_string(template, context, request)
    shipped = ShippedFiles(allowed_protocols=["file", "data"])
    return HTML(string=text, base_url=STATIC.as_uri() + "/", url_fetcher=shipped).write_pdf()


def pdf_response(template: str, context: dict, name: str, request: HttpRequest | None = None) -> HttpResponse:
    """The same as an answer that a browser shows; ``name`` is what a saved file is called."""
    try:
        answer = HttpResponse(pdf_of(template, context, request), content_type="application/pdf")
    except OSError:
        return HttpResponse(NO_PANGO, content_type="text/plain; charset=utf-8", status=503)
    answer["Content-Disposition"] = f'inline; filename="{name}.pdf"'
    return answer
