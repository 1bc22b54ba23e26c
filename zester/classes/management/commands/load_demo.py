"""``manage.py load_demo``: the demo class, fitted, once."""

from django.core.management.base import BaseCommand

from zester.classes.demo import load
from zester.fits.models import Fit
from zester.fits.services import run_fit, start_fit


class Command(BaseCommand):
    """Loads the demo; does nothing where it is loaded."""

    help = "Make the demo's user, papers and class, and fit it. Safe to run again."

    def handle(self, *args, **options) -> None:
        """Load, then fit here rather than in the worker, which may not run yet."""
        card_class = load()
        if card_class is None:
            self.stdout.write("The demo is there already.")
            return
        found: Fit = start_fit(card_class)
        run_fit(found.pk)
        self.stdout.write(f"{card_class.title} is loaded and fitted.")
