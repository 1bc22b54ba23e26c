"""``manage.py load_demo``: the demo's classes, fitted, once."""

from django.core.management.base import BaseCommand

from zester.demo.data import load
from zester.plans.models import Work
from zester.plans.work import run


class Command(BaseCommand):
    """Loads the demo; does nothing where it is loaded."""

    help = "Make the demo’s user, papers and classes, and fit them. Safe to run again."

    def handle(self, *args, **options) -> None:
        """Load, then do here what is urgent rather than wait for a worker, which may not run yet."""
        loaded = load()
        if not loaded:
            self.stdout.write("The demo is there already.")
        for card_class in loaded:
            mine = Work.objects.filter(fit__class_paper__card_class=card_class, status=Work.Status.WAITING)
            while urgent := list(mine.filter(kind__in=(Work.Kind.QUICK, Work.Kind.PROVE))):
                for work in urgent:
                    run(work.pk)
            self.stdout.write(f"{card_class.title} is loaded and fitted.")
