"""An answer in parts: what the page has already is not sent again.

The script of the page says which state of every part it shows; a part that is still the same is left out.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from hashlib import blake2b
from types import MappingProxyType

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from django_htmx.http import reswap, trigger_client_event


def answer_with(
    request: HttpRequest, templates: Mapping[str, str], context: dict, keys: Mapping[str, object] = MappingProxyType({})
) -> HttpResponse:
    """The parts, by name, that differ from what the page shows.

    The first is what htmx swaps, the others find their places themselves. ``keys`` are, for some, all that they are
    made of: such a part is not even drawn where that is as it was.
    """
    shown, now, new = _shown(request), {}, []
    context = context | {"in_parts": True}
    for name, template in templates.items():
        if name in keys:
            now[name] = _digest(repr(keys[name]))
            if shown.get(name) == now[name]:
                continue
        html = render_to_string(template, context, request)
        now.setdefault(name, _digest(html))
        if shown.get(name) != now[name]:
            new.append(html)
    response = HttpResponse("".join(new))
    if shown.get(next(iter(templates))) == now[next(iter(templates))]:
        response = reswap(response, "none")
    return trigger_client_event(response, "zester:parts", now)


def _digest(text: str) -> str:
    return blake2b(text.encode(), digest_size=6).hexdigest()


def _shown(request: HttpRequest) -> dict:
    try:
        shown = json.loads(request.POST.get("shown_parts", "{}")[:2000])
    except (ValueError, RecursionError):
        return {}
    return shown if isinstance(shown, dict) else {}
