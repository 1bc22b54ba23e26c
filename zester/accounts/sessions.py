"""The session engine: Django's own in the database, with the columns that ``models.Session`` has more."""

from __future__ import annotations

from django.contrib.auth import BACKEND_SESSION_KEY, SESSION_KEY
from django.contrib.sessions.backends.base import UpdateError
from django.contrib.sessions.backends.db import SessionStore as InDatabase
from django.db import OperationalError
from django.db.models import QuerySet
from django.http import HttpRequest
from django.utils import timezone
from django.utils.dateparse import parse_date

from zester.accounts.backends import BACKEND
from zester.accounts.models import Session
from zester.site.prepared import prepared

BROWSER, USED_ON = "browser", "used_on"
# What sessions say they were begun by that were begun before there was a backend of our own; they go on.
_BEFORE = "django.contrib.auth.backends.ModelBackend"


@prepared
def _kept(key: str) -> QuerySet[Session]:
    return Session.objects.filter(session_key=key)


class SessionStore(InDatabase):
    """Django's, with whose session it is written beside it."""

    @classmethod
    def get_model_class(cls) -> type[Session]:
        """Where sessions are kept."""
        return Session

    def _get_session_from_db(self) -> Session | None:
        """As Django's, which asks for it with every request."""
        found = _kept(self.session_key)
        if found and found[0].expire_date > timezone.now():
            return found[0]
        self._session_key = None
        return None

    def load(self) -> dict:
        """What the session holds."""
        kept = super().load()
        if kept.get(BACKEND_SESSION_KEY) == _BEFORE:
            kept[BACKEND_SESSION_KEY] = BACKEND
        return kept

    def save(self, must_create: bool = False) -> None:
        """Where the disk is full or the database locked for long, that is not the end of the session."""
        try:
            super().save(must_create)
        except UpdateError as error:
            if isinstance(error.__context__, OperationalError):
                raise error.__context__ from None
            raise

    def create_model_instance(self, data: dict) -> Session:
        """The row for the session's data."""
        row: Session = super().create_model_instance(data)
        row.user_id = data.get(SESSION_KEY)
        row.browser = data.get(BROWSER, "")
        row.used_on = parse_date(data.get(USED_ON, "")) if data.get(USED_ON) else None
        before = Session.objects.filter(pk=row.pk).values_list("began_at", flat=True).first()
        if before:
            # Django saves a session as a whole row; when it began stays.
            row.began_at = before
        return row


def note_use(request: HttpRequest) -> None:
    """Write into the session what it is used on today, which prolongs it."""
    today = timezone.now().date().isoformat()
    if request.session.get(USED_ON) != today:
        request.session[USED_ON] = today
        request.session[BROWSER] = browser_of(request)


def browser_of(request: HttpRequest) -> str:
    """``a phone`` or ``a computer``: enough to tell one's own devices apart."""
    agent = request.headers.get("User-Agent", "")
    return "a phone or tablet" if "Mobi" in agent or "Tablet" in agent else "a computer"
