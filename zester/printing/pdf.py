"""The one door to WeasyPrint: a page in, a PDF out. Only files that ship with Zester are read."""

from __future__ import annotations

import gc
import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from zester.printing.codes import ADDRESS, code_points

STATIC = Path(__file__).parents[1] / "site" / "static"
NO_PANGO = (
    "PDFs cannot be made on this machine: it lacks Pango. Install Debian’s packages libpango-1.0-0, libpangoft2-1.0-0"
    " and libharfbuzz-subset0, then try again. The pages themselves print from the browser."
)

_INDENT = re.compile(r"\s*\n\s*")


def pdf_of(page: str) -> bytes:
    """A page of HTML as PDF; its ``url()`` and ``src`` are below the folder of static files, or codes.

    Raises OSError where Pango is not installed.
    """
    # Loaded late: it looks for Pango at once, and everything else works without.
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    class ShippedFiles(URLFetcher):
        """Fonts and styles of the house, codes, and nothing else: no address outside, no other file."""

        def fetch(self, url: str, headers: dict | None = None):
            """The file, or ValueError; swatches of papers are part of the page itself."""
            if url.startswith(ADDRESS):
                return URLFetcherResponse(url, code_points(url), {"Content-Type": "image/png"})
            if url.startswith("data:image/"):
                return super().fetch(url, headers)
            if not url.startswith(STATIC.as_uri() + "/") or ".." in url:
                raise ValueError("not a file of the house")
            return super().fetch(url, headers)

    shipped = ShippedFiles(allowed_protocols=["file", "data"])
    with _nothing_collected():
        # What templates indent by is a third of some pages.
        return HTML(string=_INDENT.sub("\n", page), base_url=STATIC.as_uri() + "/", url_fetcher=shipped).write_pdf()


@contextmanager
def _nothing_collected() -> Iterator[None]:
    """Without looking for what can be thrown away: boxes come in hundreds of thousands, and all are needed."""
    gc.disable()
    try:
        yield
    finally:
        gc.enable()
