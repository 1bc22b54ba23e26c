"""``manage.py serve_demo``: the web server and the workers together, until stopped."""

from __future__ import annotations

import signal
import socket
import subprocess
import sys

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser

from zester.site.context import DEMO_PASSWORD, DEMO_USER


class Command(BaseCommand):
    """Starts the demo."""

    help = "Migrate, load the demo data, and serve Zester with its workers on this machine."

    def add_arguments(self, parser: CommandParser) -> None:
        """The port."""
        parser.add_argument("--port", type=int, default=8000)

    def handle(self, *args, port: int, **options) -> None:
        """Run all of them until the web server ends or Ctrl-C is pressed; a worker that dies is started again."""
        if not settings.DEMO:
            raise CommandError("Set ZESTER_DEMO=1 first: this serves a demo with a known password.")
        self._check_free(port)
        settings.STATIC_ROOT.mkdir(parents=True, exist_ok=True)
        call_command("migrate", verbosity=0)
        call_command("load_demo", stdout=self.stdout)
        commands = self._commands(port)
        processes = [_started(command) for command in commands]
        self.stdout.write(
            f"\n  Zester is at http://127.0.0.1:{port}/\n"
            f"  Sign in as {DEMO_USER} with the password {DEMO_PASSWORD}\n  Ctrl-C stops it.\n"
        )
        self.stdout.flush()
        signal.signal(signal.SIGTERM, _interrupt)
        try:
            while processes[0].poll() is None:
                signal.sigtimedwait([signal.SIGCHLD], 1)
                for number, process in enumerate(processes):
                    if number and process.poll() is not None:
                        self.stderr.write("A worker has died; another is started. It goes on with what waits.")
                        processes[number] = _started(commands[number])
        except KeyboardInterrupt:
            self.stdout.write("Stopping.")
        finally:
            for process in processes:
                process.terminate()
            for process in processes:
                process.wait(timeout=20)

    def _check_free(self, port: int) -> None:
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError as error:
                raise CommandError(f"Port {port} is taken. Choose another: make demo PORT={port + 1}") from error

    @staticmethod
    def _commands(port: int) -> list[list[str]]:
        manage = [sys.executable, "-m", "django"]
        web = [sys.executable, "-m", "gunicorn", "zester.site.wsgi", "--bind", f"127.0.0.1:{port}"]
        return [
            [*web, "--threads", "8", "--log-level", "warning"],
            [*manage, "fit_worker", "--short"],
            [*manage, "fit_worker"],
        ]


def _started(command: list[str]) -> subprocess.Popen:
    return subprocess.Popen(command)  # noqa: S603


def _interrupt(*_) -> None:
    raise KeyboardInterrupt
