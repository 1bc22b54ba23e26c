"""What was typed into a form that could not be taken, to be carried along or shown."""

from __future__ import annotations

from django.http import HttpRequest

# Never kept or shown.
SECRET = ("csrfmiddlewaretoken", "password", "password1", "password2", "old_password", "new_password1", "new_password2")
MOST_KEPT = 200_000
# What pages send along for themselves.
OWN = ("seen", "saves", "editor", "view", "shown", "shown_parts", "force", "next")


def kept_fields(request: HttpRequest) -> list[tuple[str, str]]:
    """Names and values of a form that was sent; empty if there is too much to carry, or it cannot be read."""
    try:
        sent = request.POST.lists()
    except Exception:
        # What cannot be parsed was no form of ours.
        return []
    fields = [(name, value) for name, values in sent for value in values if name not in SECRET and name != "kept"]
    return fields if sum(len(name) + len(value) for name, value in fields) <= MOST_KEPT else []


def shown_fields(fields: list[tuple[str, str]]) -> list[tuple[str, str]]:
    """What of it somebody typed, under names that can be read: without what pages send along for themselves."""
    named = [(name.rpartition("-")[2], value) for name, value in fields]
    return [
        (name.replace("_", " "), value)
        for name, value in named
        if value and name not in OWN and not name.startswith(("choose_", "against_"))
    ]
