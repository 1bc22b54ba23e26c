"""``manage.py serve_demo``: the demo's data, then the web server and the workers, until stopped."""

from __future__ import annotations

import socket

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import DatabaseError

from zester.site.context import DEMO_EMPTY, DEMO_PASSWORD, DEMO_USER
from zester.site.serving import CannotServe, Supervisor, check_folder, cores, web_command, worker_commands
from zester.site.turns import one_at_a_time


class Command(BaseCommand):
    """Starts the demo."""

    help = "Migrate, load the demo data, and serve Zester with its workers on this machine."

    def add_arguments(self, parser: CommandParser) -> None:
        """The port."""
        parser.add_argument("--port", type=int, default=8000, help="0: one that is free; it is printed")

    def handle(self, *args, port: int, **options) -> None:
        """Prepare, then run everything until Ctrl-C or SIGTERM."""
        if not settings.DEMO:
            raise CommandError("Set ZESTER_DEMO=1 first: this serves a demo with a known password.")
        with self._bound(port) as door:
            self._serve(door)

    def _serve(self, door: socket.socket) -> None:
        try:
            check_folder(settings.DATA_DIR)
            # Two that start at once in one folder prepare it one after the other.
            with one_at_a_time("start"):
                settings.STATIC_ROOT.mkdir(parents=True, exist_ok=True)
                call_command("migrate", verbosity=0)
                call_command("load_demo", stdout=self.stdout)
        except CannotServe as error:
            raise CommandError(str(error)) from error
        except (DatabaseError, OSError) as error:
            raise CommandError(f"The data in {settings.DATA_DIR} cannot be prepared: {error}") from error
        commands = [web_command(f"fd://{door.fileno()}", cores()), *worker_commands()]
        supervisor = Supervisor(commands, self.stderr.write, [door.fileno()])
        self.stdout.write(
            f"\n  Zester is at http://127.0.0.1:{door.getsockname()[1]}/\n"
            f"  Sign in as {DEMO_USER} with the password {DEMO_PASSWORD}, or as {DEMO_EMPTY}, who has nothing yet\n"
            "  Ctrl-C stops it.\n"
        )
        self.stdout.flush()
        supervisor.run()
        self.stdout.write("Stopped. What was in work is gone on with at the next start.")

    def _bound(self, port: int) -> socket.socket:
        """The port is taken now, before anything is prepared, and given to the web server."""
        door = socket.socket()
        door.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            door.bind(("127.0.0.1", port))
        except OSError as error:
            door.close()
            raise CommandError(f"Port {port} is taken. Choose another: make demo PORT={port + 1}") from error
        return door
