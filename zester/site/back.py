"""Where somebody came from: a page of ours, or nowhere."""

from __future__ import annotations

from django.http import HttpRequest
from django.utils.http import url_has_allowed_host_and_scheme


def page_of_ours(request: HttpRequest, url: str) -> str:
    """The address as it was sent if one can be sent there; empty for another host's, and for what is no address."""
    ours = url.startswith("/") and url_has_allowed_host_and_scheme(url, allowed_hosts={request.get_host()})
    return url if ours else ""
