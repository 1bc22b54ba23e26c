"""Printing: PDFs, codes, which page and which sheet of labels; for every station alike."""

from django.apps import AppConfig


class PrintingConfig(AppConfig):
    """No tables, no pages of its own."""

    name = "zester.printing"
