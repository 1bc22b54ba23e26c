"""``manage.py fit_worker``: a worker for the work in the background, until stopped."""

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser

from zester.plans.worker import FitWorker, give_way, limit_memory


class Command(BaseCommand):
    """Runs one worker; run as many as there are cores, one of them with ``--short``."""

    help = "Do the work in the background: plans, proofs, questions. Run several; keep one for short work (--short)."

    def add_arguments(self, parser: CommandParser) -> None:
        """What it takes, how often it looks."""
        parser.add_argument("--short", action="store_true", help="take only first plans and proofs, nothing long")
        parser.add_argument("--interval", type=float, default=0.05, help="seconds between two looks (%(default)s)")

    def handle(self, *args, short: bool, interval: float, **options) -> None:
        """Work."""
        # The answer to a keystroke comes first, then what somebody waits for, then the rest.
        give_way(5 if short else 10)
        limit_memory(settings.WORKER_MEMORY)
        worker = FitWorker(short=short, interval=interval)
        worker.configure_signals()
        worker.run()
