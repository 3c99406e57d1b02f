"""`manage.py load_demo [--again]`: the invented scenario, once; --again restores it."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from rocklash.demo import load


class Command(BaseCommand):
    """Loads the demo where it is not there yet."""

    help = "Load the demo workshop once; --again restores it."

    def add_arguments(self, parser: CommandParser) -> None:
        """One switch."""
        parser.add_argument("--again", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:  # noqa: ARG002
        """Load, or restore."""
        if options["again"]:
            load.remove()
        if load.is_loaded():
            return
        load.load()
        self.stdout.write("Demo workshop loaded.")
