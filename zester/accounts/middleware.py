"""Asking for a sign-in without losing what was sent; sessions that live as long as they are used."""

from __future__ import annotations

import logging
from collections.abc import Callable

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.contrib.sessions.middleware import SessionMiddleware
from django.db import OperationalError
from django.http import HttpRequest, HttpResponse

from zester.accounts.sessions import note_use
from zester.accounts.slowing import remember
from zester.accounts.views import sign_in_first

log = logging.getLogger(__name__)


class AskForSignIn(LoginRequiredMiddleware):
    """A script is told in a way it understands; a form that was sent is kept and sent again after signing in."""

    def handle_no_permission(  # type: ignore[override]  # Django redirects; a script gets an answer it understands.
        self, request: HttpRequest, view_func: Callable
    ) -> HttpResponse:
        """Nobody is signed in."""
        if request.htmx or request.headers.get("X-Requested-With") == "fetch":
            # 401 and no page: what is on the screen stays there.
            return HttpResponse("Sign in first.", status=401, content_type="text/plain")
        if request.method == "POST":
            return sign_in_first(request)
        return super().handle_no_permission(request, view_func)


class Sessions(SessionMiddleware):
    """Django's. Where nothing can be stored just now the answer, which is true, is given all the same."""

    def process_response(self, request: HttpRequest, response: HttpResponse) -> HttpResponse:
        """What a session would only have remembered, a message perhaps, is lost with it."""
        try:
            return super().process_response(request, response)
        except OperationalError:
            log.exception("a session could not be stored")
            return response


def prolong(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: a session that is used is written anew once a day, and so never ends; its device is known after."""

    def used(request: HttpRequest) -> HttpResponse:
        before = request.user.is_authenticated
        if before:
            note_use(request)
        response = answer(request)
        if before:
            # Nobody else's cache keeps it; one's own browser asks whether it is still so.
            response.headers.setdefault("Cache-Control", "private, no-cache")
        if request.user.is_authenticated:
            remember(request, response)
        return response

    return used
