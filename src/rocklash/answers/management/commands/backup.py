"""Make a backup of the database, read back before it counts."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from rocklash.answers.backup import BackupError, keep


class Command(BaseCommand):
    """The command."""

    help = __doc__

    def handle(self, *_: Any, **__: Any) -> None:
        """One backup."""
        try:
            made = keep()
        except BackupError as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"Kept as {made.place}, {made.size // 1024} kB.")
