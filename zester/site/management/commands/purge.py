"""``manage.py purge``: what was removed long ago goes for good; the workers do it by themselves, too."""

from django.core.management.base import BaseCommand

from zester.site.removed import purge


class Command(BaseCommand):
    """Deletes what was removed long ago."""

    help = "Delete for good what was removed longer ago than it is kept (ZESTER_KEEP_REMOVED_DAYS)."

    def handle(self, *args, **options) -> None:
        """Delete."""
        self.stdout.write(f"{purge()} removed things are gone for good.")
