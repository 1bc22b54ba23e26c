"""Takes the pictures in docs/screenshots from the demo data: ``make shots``."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import django

FOLDER = Path(__file__).parents[2] / "docs" / "screenshots"


def main() -> int:
    """Run as a test, so that the demo lives in a database of its own."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zester.site.settings")
    django.setup()
    from django.core.management import call_command

    call_command("test", "tests.browser.shots_case", verbosity=0)
    return 0


if __name__ == "__main__":
    sys.exit(main())
