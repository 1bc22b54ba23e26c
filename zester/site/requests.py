"""Every request has a number: it stands in the log, in the answer's header, and on the page of an error."""

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


class WithNumber(logging.Filter):
    """Puts the number into every record of the log."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Always true."""
        record.number = number_now()
        return True
