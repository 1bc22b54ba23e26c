"""Pages for what went wrong: what happened, what to do, and what was typed, so that it can be copied."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.auth.decorators import login_not_required
from django.contrib.sessions.exceptions import SessionInterrupted
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string

from zester.site.kept import kept_fields, shown_fields
from zester.site.requests import number_now


@dataclass(frozen=True)
class Trouble:
    """What a page says."""

    title: str
    """What happened."""
    words: str
    """What to do."""


BAD = Trouble(
    "That could not be read",
    "What the browser sent is damaged, or not from one of Zester’s pages. Go back and try again.",
)
ENDED = Trouble("You were signed out", "Sign in again, go back, and send it once more.")
FORBIDDEN = Trouble("That is not yours to do", "Sign in as somebody who may.")
STALE = Trouble(
    "This page is out of date",
    "You have signed in or out since it was opened, or cookies are switched off. Nothing was changed. "
    "Load the page again and send it once more.",
)
GONE = Trouble("There is nothing here", "It was removed, or the address is not right.")
LARGE = Trouble(
    "That was too large", "Nothing was changed. Go back, make the photo or the file smaller, and send it again."
)
MANY = Trouble(
    "Those were too many rows at once",
    "Nothing was changed. Send them in parts; what you typed stands below, and is there when you go back.",
)
BROKEN = Trouble(
    "Something went wrong here", "It is Zester’s fault, not yours, and is noted. Go back and try once more."
)
UNREADABLE = Trouble("That cannot be read", "A newer version of Zester kept it, or it is damaged. Nothing was changed.")
BUSY = Trouble(
    "Zester is busy",
    "It could not store anything just now: the disk is full, or very slow. Nothing was changed. Try again soon.",
)


def trouble(request: HttpRequest, kind: Trouble, status: int, more: str = "") -> HttpResponse:
    """A page, or for a script a line."""
    if getattr(request, "htmx", False) or request.headers.get("X-Requested-With") == "fetch":
        return HttpResponse(
            f"{kind.title}. {more or kind.words}", status=status, content_type="text/plain; charset=utf-8"
        )
    context = {"kind": kind, "more": more, "number": number_now(), "status": status}
    context["typed"] = shown_fields(kept_fields(request)) if request.method == "POST" else []
    if status < 500:
        return render(request, "site/trouble.html", context, status=status)
    # Nothing that might itself be broken: no database, no sign-in.
    return HttpResponse(render_to_string("site/trouble.html", context), status=status)


@login_not_required
def bad_request(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """400; a sign-in that was ended while the answer was made is asked for anew."""
    if isinstance(exception, SessionInterrupted):
        return trouble(request, ENDED, 401)
    return trouble(request, BAD, 400)


@login_not_required
def forbidden(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """403."""
    return trouble(request, FORBIDDEN, 403)


@login_not_required
def stale(request: HttpRequest, reason: str = "") -> HttpResponse:
    """403 for a form whose token is not the browser's."""
    return trouble(request, STALE, 403)


@login_not_required
def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """404."""
    return trouble(request, GONE, 404)


@login_not_required
def server_error(request: HttpRequest) -> HttpResponse:
    """500."""
    return trouble(request, BROKEN, 500)
