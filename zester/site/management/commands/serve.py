"""``manage.py serve``: the web server and the workers together, as a service runs them."""

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from zester.site.serving import CannotServe, Supervisor, check_folder, cores, web_command, worker_commands


class Command(BaseCommand):
    """Runs everything that one machine needs."""

    help = "Serve Zester with its workers. Whatever dies is started again; SIGTERM stops all within three seconds."

    def add_arguments(self, parser: CommandParser) -> None:
        """Where, and how much of it."""
        parser.add_argument("--bind", default="127.0.0.1:8000", help="address and port (%(default)s)")
        parser.add_argument("--web", type=int, default=cores(), help="web processes (as many as cores: %(default)s)")
        parser.add_argument(
            "--workers", type=int, default=max(1, cores() - 1), help="workers for all work, beside one for short work"
        )

    def handle(self, *args, bind: str, web: int, workers: int, **options) -> None:
        """Serve."""
        try:
            check_folder(settings.DATA_DIR)
        except CannotServe as error:
            raise CommandError(str(error)) from error
        Supervisor([web_command(bind, web), *worker_commands(workers)], self.stderr.write).run()
