"""Everything of one person in one file, and back."""

from django.apps import AppConfig
from django.db.models.signals import post_delete


class ArchiveConfig(AppConfig):
    """Reads and writes what the apps before it keep."""

    name = "zester.archive"

    def ready(self) -> None:
        """Of an archive that is forgotten nothing stays; workers know how one is made."""
        from zester.archive.intakes import clear_away
        from zester.archive.models import Intake
        from zester.archive.packing import saved
        from zester.printing.models import Print
        from zester.printing.prints import MAKERS

        post_delete.connect(clear_away, sender=Intake)
        MAKERS[Print.Kind.ZIP] = saved
