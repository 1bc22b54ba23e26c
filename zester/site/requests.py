"""Every request has a number, in the log, the answer's header, and on the page of an error; what browsers may keep."""

from __future__ import annotations

import logging
import secrets
from collections.abc import Callable
from contextvars import ContextVar

from django.http import HttpRequest, HttpResponse

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


class WithNumber(logging.Filter):
    """Puts the number into every record of the log."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Always true."""
        record.number = number_now()
        return True
