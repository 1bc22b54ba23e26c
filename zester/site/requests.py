"""Every request has a number, in the log, the answer's header, and on the page of an error; what browsers may keep."""

from __future__ import annotations

import logging
import secrets
from collections.abc import Callable
from contextvars import ContextVar
from functools import wraps

from django.contrib.messages import get_messages
from django.http import HttpRequest, HttpResponse
from django.utils.cache import add_never_cache_headers

_number: ContextVar[str] = ContextVar("request_number", default="-")


def number_now() -> str:
    """The number of the request being answered; ``-`` outside of one."""
    return _number.get()


def number_requests(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware, the outermost."""

    def numbered(request: HttpRequest) -> HttpResponse:
        token = _number.set(secrets.token_hex(4))
        try:
            response = answer(request)
            response["X-Request-Number"] = number_now()
            return response
        finally:
            _number.reset(token)

    return numbered


def parts_are_not_kept(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: a part of a page, asked for by its script, is no page to come back to.

    Some parts have the address of their page; the browser's back button showed the part alone.
    """

    def answered(request: HttpRequest) -> HttpResponse:
        response = answer(request)
        if "HX-Request" in request.headers:
            response["Cache-Control"] = "no-store"
        return response

    return answered


def saves_as_one_types(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """For a page whose script saves at once: a browser keeps no copy, so going back shows what was typed since.

    Only a page on which something is said, once and perhaps with a way to undo it, is kept.
    """

    @wraps(view)
    def viewed(request: HttpRequest, *args, **kwargs) -> HttpResponse:
        said = len(get_messages(request))
        response = view(request, *args, **kwargs)
        if not said:
            add_never_cache_headers(response)
        return response

    return viewed


class WithNumber(logging.Filter):
    """Puts the number into every record of the log."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Always true."""
        record.number = number_now()
        return True
