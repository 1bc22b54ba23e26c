"""The WSGI application, for gunicorn."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zester.site.settings")
application = get_wsgi_application()

# The compiled tables are loaded before the first keystroke asks for them.
from zester.core.cards.yields import most_of_one  # noqa: E402

most_of_one(2, 3, 17, 22, True)
