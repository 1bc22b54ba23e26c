"""Asking for a sign-in without losing what was sent; sessions that live as long as they are used."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import HttpRequest, HttpResponse

from zester.accounts.sessions import note_use
from zester.accounts.views import sign_in_first


class AskForSignIn(LoginRequiredMiddleware):
    """A script is told in a way it understands; a form that was sent is kept and sent again after signing in."""

    def handle_no_permission(self, request: HttpRequest, view_func: Callable) -> HttpResponse:
        """Nobody is signed in."""
        if request.htmx or request.headers.get("X-Requested-With") == "fetch":
            # 401 and no page: what is on the screen stays there.
            return HttpResponse("Sign in first.", status=401, content_type="text/plain")
        if request.method == "POST":
            return sign_in_first(request)
        return super().handle_no_permission(request, view_func)


def prolong(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: a session that is used is written anew once a day, and so never ends while it is."""

    def used(request: HttpRequest) -> HttpResponse:
        if not request.user.is_authenticated:
            return answer(request)
        note_use(request)
        response = answer(request)
        # Nobody else's cache keeps it; one's own browser asks whether it is still so.
        response.headers.setdefault("Cache-Control", "private, no-cache")
        return response

    return used
