"""``manage.py load_demo``: the demo's classes, fitted, once."""

from django.core.management.base import BaseCommand

from zester.classes.demo import load
from zester.fits.models import Fit
from zester.fits.services import run_fit, start_fit


class Command(BaseCommand):
    """Loads the demo; does nothing where it is loaded."""

    help = "Make the demo's user, papers and classes, and fit them. Safe to run again."

    def handle(self, *args, **options) -> None:
        """Load, then fit here rather than in the worker, which may not run yet."""
        loaded = load()
        if not loaded:
            self.stdout.write("The demo is there already.")
        for card_class in loaded:
            found: Fit = start_fit(card_class)
            run_fit(found.pk)
            self.stdout.write(f"{card_class.title} is loaded and fitted.")
