"""Printing: PDFs, codes, which page and which sheet of labels; for every station alike."""

from django.apps import AppConfig


class PrintingConfig(AppConfig):
    """Files that workers make, and the page that waits for them."""

    name = "zester.printing"
