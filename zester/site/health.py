"""Whether everything that Zester needs works, for a monitor."""

from __future__ import annotations

import logging
from collections.abc import Callable

from django.contrib.auth.decorators import login_not_required
from django.db import DatabaseError, connection
from django.http import HttpRequest, JsonResponse
from django.views.decorators.cache import never_cache

log = logging.getLogger(__name__)
# Gives a few words; raises RuntimeError with words where something is wrong.
Check = Callable[[], str]
_CHECKS: dict[str, Check] = {}


def register(name: str, check: Check) -> None:
    """Have something looked at."""
    _CHECKS[name] = check


def _database() -> str:
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    return "ok"


register("database", _database)


@login_not_required
@never_cache
def health(request: HttpRequest) -> JsonResponse:
    """200 if all is well, else 503; what is wrong with what."""
    found, well = {}, True
    for name, check in _CHECKS.items():
        try:
            found[name] = check()
        except (RuntimeError, DatabaseError) as error:
            well = False
            log.warning("not well: %s", name)
            found[name] = str(error) if isinstance(error, RuntimeError) else "cannot be used"
    return JsonResponse({"well": well, **found}, status=200 if well else 503)
