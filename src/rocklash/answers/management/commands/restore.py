"""Put the database back as a backup has it. What stands now is backed up first."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from rocklash.answers.backup import BackupError, bring_back, keep


class Command(BaseCommand):
    """The command."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """The file."""
        parser.add_argument("file", type=Path)

    def handle(self, *_: Any, file: Path, **__: Any) -> None:
        """Whole or not at all."""
        try:
            before = keep("before")
            bring_back(file)
        except BackupError as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"The records are as {file.name} has them. What stood before is kept as {before.place}.")
