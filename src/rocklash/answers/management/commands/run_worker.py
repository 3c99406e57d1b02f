"""Run one worker: it takes one long computation after another from the queue in the database, until it is stopped."""

from typing import Any

from django.core.management.base import BaseCommand
from procrastinate.contrib.django import app

from valvetrain.studies.choose.warm import warm as warm_search
from valvetrain.studies.motion.sweep import warm

_SIGN, _GONE = 3.0, 12.0  # s between signs of life, and without one until a worker counts as gone


class Command(BaseCommand):
    """The command."""

    help = __doc__

    def handle(self, *_: Any, **__: Any) -> None:
        """Until a signal ends it; what it works at is then given back to the queue."""
        warm()
        warm_search()
        connector = app.connector.get_worker_connector()  # type: ignore[attr-defined]
        with app.replace_connector(connector) as workers_app:
            workers_app.run_worker(
                queues=["heavy", "mend"], concurrency=1, update_heartbeat_interval=_SIGN, stalled_worker_timeout=_GONE,
                shutdown_graceful_timeout=2.0, install_signal_handlers=True, delete_jobs="successful",
            )  # fmt: skip
