"""Everything of one person in one file, and back."""

from django.apps import AppConfig


class ArchiveConfig(AppConfig):
    """Reads and writes what the apps before it keep."""

    name = "zester.archive"
