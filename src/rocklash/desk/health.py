"""Whether the site is well: database, queue, room on the disk, last backup; for whoever watches over the server."""

import dataclasses
import shutil
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from health_check.base import HealthCheck
from health_check.exceptions import ServiceUnavailable, ServiceWarning
from health_check.views import HealthCheckView

from rocklash.answers.backup import newest

_LEAST_FREE = 500_000_000  # bytes
_LATE = timedelta(hours=30)
_QUEUE = (
    "SELECT EXISTS(SELECT 1 FROM procrastinate_workers WHERE last_heartbeat > now() - interval '2 minutes'), "
    "EXISTS(SELECT 1 FROM procrastinate_jobs WHERE status = 'todo' AND scheduled_at IS NULL)"
)


def _ask(question: str) -> list[tuple[Any, ...]]:
    """Rows of a question, by a connection of its own: checks run in threads that end."""
    fresh = connection.copy()
    try:
        with fresh.cursor() as cursor:
            cursor.execute(question)
            return list(cursor.fetchall())
    finally:
        fresh.close()


@dataclasses.dataclass
class Database(HealthCheck):  # type: ignore[misc]  # the package has no types
    """The database answers."""

    def run(self) -> None:
        """One question."""
        try:
            _ask("SELECT 1")
        except DatabaseError as error:
            raise ServiceUnavailable("the database does not answer") from error


@dataclasses.dataclass
class Queue(HealthCheck):  # type: ignore[misc]
    """A worker takes what waits; nothing to say where the site does long work itself."""

    def run(self) -> None:
        """Workers seen lately, or nothing that waits for one."""
        if settings.WORKERS == "never":
            return
        try:
            [(alive, waiting)] = _ask(_QUEUE)
        except DatabaseError as error:
            raise ServiceUnavailable("the database does not answer") from error
        if alive:
            return
        if waiting:
            raise ServiceUnavailable("work waits and no worker gives a sign of life")
        raise ServiceWarning("no worker gives a sign of life")


@dataclasses.dataclass
class Disk(HealthCheck):  # type: ignore[misc]
    """There is room where backups are written."""

    def run(self) -> None:
        """Half a gigabyte at least."""
        place = Path(settings.BACKUPS or ".")
        while not place.exists() and place != place.parent:
            place = place.parent
        if shutil.disk_usage(place).free < _LEAST_FREE:
            raise ServiceUnavailable("less than half a gigabyte is free")


@dataclasses.dataclass
class LastBackup(HealthCheck):  # type: ignore[misc]
    """A good backup of the last thirty hours lies there."""

    def run(self) -> None:
        """Its age."""
        found = newest()
        if found is None:
            raise ServiceWarning("there is no backup yet")
        if timezone.now() - found.at > _LATE:
            raise ServiceWarning(f"the last good backup is of {found.at:%d %b %Y, %H:%M}")


class Health(HealthCheckView):  # type: ignore[misc]
    """All of it as JSON, or as plain text with ?format=text: 200 while the site does its work, 500 else."""

    checks = (Database, Queue, Disk, LastBackup)

    def _status(self) -> int:
        """A warning is told and is no fault: a new server has no backup yet."""
        return 500 if any(each.error and not isinstance(each.error, ServiceWarning) for each in self.results) else 200

    def render_to_response(self, context: dict[str, Any], **told: Any) -> HttpResponse:  # noqa: ARG002  (the package hands it)
        """No page of the package's own."""
        return self.render_to_response_json(self._status())

    def render_to_response_json(self, status: int) -> HttpResponse:  # noqa: ARG002  (the package counts warnings as faults)
        """With the status of what is wrong."""
        answer: HttpResponse = super().render_to_response_json(self._status())
        return answer

    def render_to_response_text(self, status: int) -> HttpResponse:  # noqa: ARG002  (as above)
        """The same as text."""
        answer: HttpResponse = super().render_to_response_text(self._status())
        return answer


def ready(request: HttpRequest) -> HttpResponse:  # noqa: ARG001  (a view)
    """Whether requests can be sent here: 200, or 503 while the database does not answer."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except DatabaseError:
        return HttpResponse("not ready", status=503, content_type="text/plain")
    answer = HttpResponse("ready", content_type="text/plain")
    answer["Cache-Control"] = "no-store"
    return answer
