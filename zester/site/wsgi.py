"""The WSGI application, for gunicorn."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zester.site.settings")
application = get_wsgi_application()

# The compiled tables are loaded before the first keystroke asks for them. What was loaded by then stays, so the
# garbage collector need not look through it again: in the middle of typing that would take a sixth of a second.
from zester.core.cards.yields import most_of_one  # noqa: E402

most_of_one(2, 3, 17, 22, True)
gc.collect()
gc.freeze()
# A request makes tens of thousands of small things, nearly all of which go by themselves: looking for circles among
# them every 700 is a twentieth of its time.
gc.set_threshold(50_000, 20, 50)
