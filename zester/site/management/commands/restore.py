"""``manage.py restore FILE``: back from a backup."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError, CommandParser

from zester.site.backups import BackupError, read_backup


class Command(BaseCommand):
    """Reads a backup back."""

    help = "Put a backup in place of what is here. A backup of an older version is brought up to date."

    def add_arguments(self, parser: CommandParser) -> None:
        """From where."""
        parser.add_argument("file", type=Path)
        parser.add_argument("--replace", action="store_true", help="even if there are accounts here, which are lost")

    def handle(self, *args, file: Path, replace: bool, **options) -> None:
        """Read."""
        try:
            about = read_backup(file, replace=replace)
        except BackupError as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"Restored as it was on {about['made_at']}, with {about['photos']} photos.")
