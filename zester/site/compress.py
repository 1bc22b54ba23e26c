"""Pages, parts and lists are sent compressed."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponseBase
from django.middleware.gzip import GZipMiddleware

_WORDS = ("text/", "image/svg+xml", "application/json")


class CompressWords(GZipMiddleware):
    """Django's, for words only: PDFs, photos and archives are compressed in themselves.

    Of a compressed page its length tells what repeats in it (BREACH, 2013). What is secret in a page is the key of its
    forms, which is masked anew each time; and to every answer Django adds some random bytes (Heal the Breach, 2022).
    """

    max_random_bytes = 100

    def process_response(self, request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        """Compressed if it is words."""
        if response.streaming or not response.headers.get("Content-Type", "").startswith(_WORDS):
            return response
        return super().process_response(request, response)
