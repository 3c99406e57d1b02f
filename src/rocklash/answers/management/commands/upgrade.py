"""Bring the database up to this version: a backup first where anything is to be changed, then the migrations."""

from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from rocklash.answers.backup import BackupError, keep


class Command(BaseCommand):
    """The command."""

    help = __doc__

    def handle(self, *_: Any, **options: Any) -> None:
        """Nothing to do where nothing changed."""
        executor = MigrationExecutor(connection)
        plan = executor.migration_plan(executor.loader.graph.leaf_nodes())
        if not plan:
            return
        if executor.loader.applied_migrations and settings.BACKUPS:
            try:
                made = keep("before")
            except BackupError as error:
                raise CommandError(f"No backup, so nothing was changed. {error}") from error
            self.stdout.write(f"Kept as {made.place} before {len(plan)} changes.")
        call_command("migrate", verbosity=options.get("verbosity", 1))
