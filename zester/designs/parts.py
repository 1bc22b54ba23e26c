"""An answer in parts: what the page has already is not sent again.

The script of the page says which state of every part it shows; a part that is still the same is left out.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from hashlib import blake2b

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from django_htmx.http import reswap, trigger_client_event


def answer_with(request: HttpRequest, templates: Mapping[str, str], context: dict) -> HttpResponse:
    """The parts, by name, that differ from what the page shows; the first is what htmx swaps, the others find their
    places themselves."""
    shown = _shown(request)
    rendered = {
        name: render_to_string(template, context | {"in_parts": True}, request) for name, template in templates.items()
    }
    now = {name: blake2b(html.encode(), digest_size=6).hexdigest() for name, html in rendered.items()}
    new = [name for name in rendered if shown.get(name) != now[name]]
    response = HttpResponse("".join(rendered[name] for name in new))
    first = next(iter(templates))
    if first not in new:
        response = reswap(response, "none")
    return trigger_client_event(response, "zester:parts", now)


def _shown(request: HttpRequest) -> dict:
    try:
        shown = json.loads(request.POST.get("shown_parts", "{}")[:2000])
    except (ValueError, RecursionError):
        return {}
    return shown if isinstance(shown, dict) else {}
