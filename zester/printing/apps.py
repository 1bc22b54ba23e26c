"""Printing: PDFs, codes, which page and which sheet of labels; for every station alike."""

from django.apps import AppConfig
from django.db.models.signals import post_delete


class PrintingConfig(AppConfig):
    """Files that workers make, and the page that waits for them."""

    name = "zester.printing"

    def ready(self) -> None:
        """Of a file that is forgotten, or whose account is deleted, nothing stays."""
        from zester.printing.prints import clear_away

        post_delete.connect(clear_away, sender=self.get_model("Print"))
