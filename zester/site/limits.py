"""Requests that are too large or cannot be read are turned away at the door, before anything is done with them."""

from __future__ import annotations

import logging
from collections.abc import Callable
from urllib.parse import parse_qsl

from django.conf import settings
from django.core.exceptions import RequestDataTooBig, TooManyFieldsSent
from django.db import OperationalError
from django.http import HttpRequest, HttpResponse, QueryDict, UnreadablePostError

from zester.core.errors import ShapeError
from zester.site.errors import BAD, BUSY, LARGE, MANY, UNREADABLE, trouble

log = logging.getLogger(__name__)
BODY_ALLOWED = ("POST", "PUT", "PATCH", "DELETE")


def limit_requests(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: 413 (RFC 9110, section 15.5.14) for a body of more than ``LARGEST_REQUEST`` bytes; 400 for one that
    is no form; 404 for an address with a sign that is none.

    A body of unknown length is read by Django as an empty one, so that the header can be relied on.
    """

    def limited(request: HttpRequest) -> HttpResponse:
        # No key or name has such a sign, and PostgreSQL takes no text with it.
        if "\0" in request.path or "%00" in request.META.get("QUERY_STRING", ""):
            return trouble(request, BAD, 404)
        length = request.META.get("CONTENT_LENGTH") or "0"
        most = settings.LARGER_REQUESTS.get(request.path, settings.LARGEST_REQUEST)
        if not (length.isascii() and length.isdecimal() and len(length) < 16 and int(length) <= most):
            return trouble(
                request,
                LARGE,
                413,
                f"Zester takes up to {most / 1_000_000:g} MB at once. {LARGE.words}",
            )
        if request.method in BODY_ALLOWED:
            try:
                _read(request)
            except RequestDataTooBig:
                return trouble(request, LARGE, 413)
            except TooManyFieldsSent:
                _read_all(request)
                return trouble(request, MANY, 413, f"Zester takes up to {settings.DATA_UPLOAD_MAX_NUMBER_FIELDS:,} "
                               f"fields at once. {MANY.words}")  # fmt: skip
            except (LookupError, ValueError, UnreadablePostError) as error:
                # A charset nobody knows, a broken form of many parts: the library raises what comes.
                log.info("a form could not be read: %s", type(error).__name__)
                return trouble(request, BAD, 400)
        return answer(request)

    return limited


def _read(request: HttpRequest) -> None:
    """Read what was sent. Raises ValueError for a sign that is none, which nobody can type."""
    fields = request.POST
    if request.content_type == "multipart/form-data":
        found = any("\0" in value for _, values in fields.lists() for value in values)
    else:
        found = any(sign in request.body for sign in (b"%00", b"\0", b"\\u0000"))
    if found:
        raise ValueError("NUL")


def _read_all(request: HttpRequest) -> None:
    """All fields of a plain form, to be shown; how large it is was looked at before."""
    fields = QueryDict(mutable=True)
    if request.content_type == "application/x-www-form-urlencoded":
        for name, value in parse_qsl(request.body.decode(errors="replace"), keep_blank_values=True):
            fields.appendlist(name, value)
    request.POST = fields


class StorageTrouble:
    """Middleware: a page that says so, where the database cannot write (disk full, read-only, locked for long) or what
    it keeps cannot be read.
    """

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]):
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer."""
        return self.answer(request)

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """A view could not go on."""
        if isinstance(exception, ShapeError):
            log.error("something kept could not be read", exc_info=exception)
            return trouble(request, UNREADABLE, 500, exception.advice())
        if not isinstance(exception, OperationalError) and getattr(exception, "errno", None) not in (28, 30):
            return None
        log.error("nothing could be stored", exc_info=exception)
        return trouble(request, BUSY, 503)
