"""Asking for a sign-in without losing what was sent; sessions that live as long as they are used."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from zester.accounts.sessions import BROWSER, USED_ON
from zester.accounts.views import sign_in_first

# How browsers and systems name themselves, the more special first: enough to tell one's own devices apart.
_BROWSERS = (("Firefox/", "Firefox"), ("Edg/", "Edge"), ("OPR/", "Opera"), ("Chrom", "Chromium"), ("Safari/", "Safari"))
_SYSTEMS = (("Android", "Android"), ("iPhone", "a phone"), ("iPad", "a tablet"), ("Windows", "Windows"))
_SYSTEMS += (("Mac OS", "a Mac"), ("Linux", "Linux"))


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
        if request.user.is_authenticated:
            today = timezone.now().date().isoformat()
            if request.session.get(USED_ON) != today:
                request.session[USED_ON] = today
                request.session[BROWSER] = browser_of(request)
        return answer(request)

    return used


def browser_of(request: HttpRequest) -> str:
    """``Firefox on Linux``."""
    agent = request.headers.get("User-Agent", "")
    name = next((name for sign, name in _BROWSERS if sign in agent), "another browser")
    system = next((name for sign, name in _SYSTEMS if sign in agent), "")
    return f"{name} on {system}" if system else name
