"""What every page knows."""

from django.conf import settings
from django.http import HttpRequest

from zester.site.regions import current

DEMO_USER, DEMO_PASSWORD = "orla", "stargazer"
# Somebody who has nothing yet, to see how one begins; the same password.
DEMO_EMPTY = "wren"


def site(request: HttpRequest) -> dict:
    """Demo mode and its sign-in, the region."""
    demo = {"user": DEMO_USER, "empty": DEMO_EMPTY, "password": DEMO_PASSWORD} if settings.DEMO else None
    return {"demo": demo, "currency": current().sign, "region": current()}
