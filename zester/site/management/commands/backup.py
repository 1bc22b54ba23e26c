"""``manage.py backup [FILE]``: everything into one file, while Zester runs."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError, CommandParser

from zester.site.backups import BackupError, usual_name, write_backup


class Command(BaseCommand):
    """Writes a backup."""

    help = "Write the database and the photos into one file. Safe while Zester runs."

    def add_arguments(self, parser: CommandParser) -> None:
        """Where to."""
        parser.add_argument("file", nargs="?", type=Path, help="the file to write (one with today’s date)")

    def handle(self, *args, file: Path | None, **options) -> None:
        """Write."""
        file = file or Path(usual_name())
        try:
            about = write_backup(file)
        except BackupError as error:
            raise CommandError(str(error)) from error
        rows = sum(about["rows"].values())
        self.stdout.write(f"{file}: {rows:,} rows, {about['photos']} photos. It holds personal data; keep it safe.")
