"""What was typed into a form that could not be taken, to be carried along or shown."""

from __future__ import annotations

from django.http import HttpRequest

# Never kept or shown.
SECRET = ("csrfmiddlewaretoken", "password", "password1", "password2", "old_password", "new_password1", "new_password2")
MOST_KEPT = 200_000


def kept_fields(request: HttpRequest) -> list[tuple[str, str]]:
    """Names and values of a form that was sent; empty if there is too much to carry, or it cannot be read."""
    try:
        sent = request.POST.lists()
    except Exception:
        # What cannot be parsed was no form of ours.
        return []
    fields = [(name, value) for name, values in sent for value in values if name not in SECRET and name != "kept"]
    return fields if sum(len(name) + len(value) for name, value in fields) <= MOST_KEPT else []
