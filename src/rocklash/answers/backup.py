"""Backups by PostgreSQL's own tools: written under another name first, read back, kept to their owner's eyes, and rotated.

Sessions and tries at the door are left out. A backup that cannot be read back is none.
"""

import os
import re
import shutil
import subprocess
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from django.conf import settings
from django.db import connection
from django.utils import timezone
from procrastinate.contrib.django import app

_NAME = re.compile(r"rocklash-(\d{8}-\d{6})(?:-[a-z]+)?\.dump")
_LEFT_OUT = ("django_session", "axes_accessattempt", "axes_accesslog", "axes_accessfailurelog")
_SECONDS = 3600


class BackupError(Exception):
    """A backup or its way back failed; the sentence says how."""


@dataclass(frozen=True, order=True)
class Backup:
    """One backup: when, where, how large."""

    at: datetime
    place: Path
    size: int


def _tool(name: str) -> str:
    found = sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{name}"), key=lambda path: int(path.parts[-3]), reverse=True)
    told = str(found[0]) if found else shutil.which(name)
    if not told:
        raise BackupError(f"{name} is not installed. On Debian, as root:  apt-get install postgresql-client")
    return told


def _run(tool: str, *arguments: str) -> str:
    database = connection.settings_dict
    environment = os.environ | {"PGPASSWORD": database["PASSWORD"] or "", "PGCONNECT_TIMEOUT": "10"}
    done = subprocess.run(  # noqa: S603  (PostgreSQL's own tools, arguments of ours)
        [_tool(tool), *arguments], env=environment, capture_output=True, text=True, check=False, timeout=_SECONDS, umask=0o077
    )
    if done.returncode:
        raise BackupError(f"{tool}: {(done.stderr or done.stdout).strip()[-600:]}")
    return done.stdout


def _at(database: bool = True) -> list[str]:  # noqa: FBT001, FBT002
    told = connection.settings_dict
    where = ["-h", told["HOST"] or "127.0.0.1", "-p", str(told["PORT"] or 5432), "-U", told["USER"]]
    return [*where, "-d", told["NAME"]] if database else where


def directory() -> Path:
    """Where backups lie. Raises BackupError where none are kept."""
    if not settings.BACKUPS:
        raise BackupError("ROCKLASH_BACKUPS is empty: no backups are kept here.")
    place = Path(settings.BACKUPS)
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    return place


def kept() -> list[Backup]:
    """Every good backup, the newest first."""
    if not settings.BACKUPS or not Path(settings.BACKUPS).is_dir():
        return []
    found = []
    for path in Path(settings.BACKUPS).iterdir():
        told = _NAME.fullmatch(path.name)
        if told:
            at = timezone.make_aware(datetime.strptime(told[1], "%Y%m%d-%H%M%S"))  # noqa: DTZ007  (made aware at once)
            found.append(Backup(at, path, path.stat().st_size))
    return sorted(found, reverse=True)


def newest() -> Backup | None:
    """The newest good one."""
    return next(iter(kept()), None)


def keep(why: str = "") -> Backup:
    """Make one, read it back, and drop those past the number that is kept. Raises BackupError; then nothing of it is left."""
    place, at = directory(), timezone.localtime()
    name = f"rocklash-{at:%Y%m%d-%H%M%S}{f'-{why}' if why else ''}.dump"
    part = place / f".{name}.part"
    try:
        _run(
            "pg_dump",
            *_at(),
            "-Fc",
            "--no-owner",
            "--no-privileges",
            *(f"--exclude-table-data={table}" for table in _LEFT_OUT),
            "-f",
            str(part),
        )
        listed = _run("pg_restore", "-l", str(part))
        if "TABLE DATA public records_build" not in listed:
            raise BackupError("What was written holds no builds: it is no backup.")
        part.chmod(0o600)
        with part.open("rb") as file:
            os.fsync(file.fileno())
        part.rename(place / name)
    finally:
        part.unlink(missing_ok=True)
    for old in kept()[max(1, settings.BACKUPS_KEPT) :]:
        old.place.unlink(missing_ok=True)
    return Backup(at, place / name, (place / name).stat().st_size)


def bring_back(file: Path) -> None:
    """Put the database back as a backup has it, whole or not at all; everybody signs in anew. Raises BackupError."""
    if not file.is_file():
        raise BackupError(f"There is no file {file}.")
    if "TABLE DATA public records_build" not in _run("pg_restore", "-l", str(file)):
        raise BackupError(f"{file.name} holds no builds: it is no backup of this site.")
    connection.close()
    _run(
        "pg_restore",
        *_at(),
        "--clean",
        "--if-exists",
        "--no-owner",
        "--no-privileges",
        "--single-transaction",
        "--exit-on-error",
        str(file),
    )


@app.periodic(cron="41 2 * * *")
@app.task(name="backup", queue="mend", queueing_lock="backup")
def nightly(timestamp: int) -> None:  # noqa: ARG001  (the library hands it)
    """One every night."""
    if settings.BACKUPS:
        keep()
