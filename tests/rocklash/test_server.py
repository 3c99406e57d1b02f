"""A server of one's own: bounds, pages for what goes wrong, health, backups and the way back."""

import json
import logging
import os
import stat
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from django.conf import settings as site
from django.core.management import CommandError, call_command
from django.db import OperationalError, connection
from django.test import Client, override_settings
from django.utils import timezone

from rocklash.answers import backup
from rocklash.desk import bounds
from rocklash.records.models import Build, Membership
from tests.rocklash.conftest import address, client_for


def test_a_broken_page_is_told_by_its_name_and_tells_nothing(petrel: Build, builder: Membership, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("rocklash.stations.board.views.numbers_as_asked", lambda *_: 1 / 0)
    client = client_for(builder)
    client.raise_request_exception = False
    answer = client.get("/shop/shed/")
    page = answer.content.decode()
    assert answer.status_code == 500
    assert answer["X-Request-ID"] in page
    assert "division" not in page
    assert "still in the form" in page


def test_without_the_database_the_page_says_so(builder: Membership, monkeypatch: pytest.MonkeyPatch) -> None:
    def gone(*_: Any) -> None:
        raise OperationalError("connection refused")

    client = client_for(builder)
    monkeypatch.setattr("rocklash.stations.board.views.numbers_as_asked", gone)
    client.raise_request_exception = False
    answer = client.get("/shop/shed/")
    assert answer.status_code == 503
    assert answer["Retry-After"] == "30"
    assert "Nothing you typed was lost" in answer.content.decode()


@pytest.mark.parametrize(
    ("ask", "status", "words"),
    [
        (lambda c: c.get("/shop/shed/%00/"), 400, "cannot be read"), (lambda c: c.get("/shop/shed/?q=" + "x" * 7000), 400, "cannot be read"),
        (lambda c: c.get("/nowhere/"), 404, "leads nowhere"), (lambda c: c.post("/shop/shed/", {"act": "x"}, CONTENT_LENGTH="99999999999"), 413, "too large"),
        (lambda c: c.post("/shop/shed/", {f"f{n}": "x" for n in range(2000)}), 400, "cannot be read"), (lambda c: c.post("/shop/shed/ran/", {"text": "x" * 3_000_000}), 413, "too large"),
    ],
    ids=["nul", "long", "nowhere", "huge", "fields", "text"],
)  # fmt: skip
def test_what_goes_wrong_has_a_page_of_its_own(builder: Membership, ask: Any, status: int, words: str) -> None:
    client = client_for(builder)
    client.raise_request_exception = False
    answer = ask(client)
    assert answer.status_code == status
    assert words in answer.content.decode().lower() or words in answer.content.decode()


def test_lines_of_the_log_are_json_with_the_requests_name_and_no_secret(builder: Membership) -> None:
    record = logging.LogRecord(
        "rocklash.x", logging.ERROR, "f", 1, "asked %s and %s", ("/join/abcDEF123/", "http://h/calendar/s3cret.ics"), None
    )
    bounds.RequestName().filter(record)
    told = json.loads(bounds.Line().format(record))
    assert told["level"] == "error"
    assert "abcDEF123" not in told["words"]
    assert "s3cret" not in told["words"]
    assert set(told) == {"at", "level", "from", "request", "words"}


def test_no_statement_outlasts_its_bound(db: None) -> None:
    with connection.cursor() as cursor:
        cursor.execute("SHOW statement_timeout")
        assert cursor.fetchone()[0] == "15s"
        cursor.execute("SHOW lock_timeout")
        assert cursor.fetchone()[0] == "8s"


def test_health_and_readiness(db: None, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    assert Client().get("/ready/").content == b"ready"
    with override_settings(BACKUPS=str(tmp_path)):
        answer = Client().get("/health/", headers={"Accept": "application/json"})
        assert answer["Content-Type"] == "application/json"
        assert answer.status_code == 200  # no backup yet is a warning, no fault
        told = json.loads(answer.content)
        assert any("Database" in name and state == "OK" for name, state in told.items())
        assert any("LastBackup" in name and "no backup yet" in state for name, state in told.items())
    monkeypatch.setattr("rocklash.desk.health.shutil.disk_usage", lambda _: type("Room", (), {"free": 10})())
    assert Client().get("/health/").status_code == 500


# Backups


@pytest.fixture
def kept(tmp_path: Path) -> Any:
    with override_settings(BACKUPS=str(tmp_path), BACKUPS_KEPT=3):
        yield tmp_path


def _tables() -> dict[str, list[Any]]:
    """Every row of every table, sessions and tries at the door left out."""
    found = {}
    with connection.cursor() as cursor:
        cursor.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY 1")
        for (name,) in cursor.fetchall():
            if name not in backup._LEFT_OUT:
                cursor.execute(f"SELECT md5(string_agg(t::text, E'\\n' ORDER BY t::text)), count(*) FROM {name} t")
                found[name] = list(cursor.fetchone())
    return found


@pytest.mark.slow
@pytest.mark.django_db(transaction=True)
def test_a_backup_is_read_back_and_brings_every_table_back(kept: Path) -> None:
    from rocklash.demo import load

    load.load()
    before = _tables()
    made = backup.keep()
    assert stat.S_IMODE(made.place.stat().st_mode) == 0o600
    assert [path.name for path in kept.iterdir()] == [made.place.name]
    Build.objects.filter(name="Knot 389").update(name="changed")
    Build.objects.filter(name="Petrel 1498").first().entries.all().delete()  # type: ignore[union-attr]
    assert _tables() != before
    call_command("restore", str(made.place), verbosity=0)
    assert _tables() == before
    assert len(backup.kept()) == 2  # what stood before the way back is kept too
    assert any(each.place.name.endswith("-before.dump") for each in backup.kept())


@pytest.mark.django_db(transaction=True)
def test_what_is_no_backup_changes_nothing(kept: Path, owner: Membership) -> None:
    wrong = kept / "x.dump"
    wrong.write_bytes(b"PGDMP nothing")
    for file in (wrong, kept / "absent.dump"):
        with pytest.raises(CommandError):
            call_command("restore", str(file), verbosity=0)
    assert Membership.objects.count() == 1


def test_backups_are_rotated_and_a_failed_one_leaves_nothing(kept: Path, db: None, monkeypatch: pytest.MonkeyPatch) -> None:
    for number in range(5):
        at = timezone.localtime() - timedelta(days=number + 1)
        (kept / f"rocklash-{at:%Y%m%d-%H%M%S}.dump").write_bytes(b"old")

    def dumped(tool: str, *arguments: str) -> str:
        if tool == "pg_dump":
            Path(arguments[-1]).write_bytes(b"new")
        return "TABLE DATA public records_build"

    monkeypatch.setattr(backup, "_run", dumped)
    backup.keep()
    assert len(backup.kept()) == 3
    assert backup.kept()[0].size == 3
    monkeypatch.setattr(backup, "_run", lambda tool, *arguments: dumped(tool, *arguments) if tool == "pg_dump" else "")
    with pytest.raises(backup.BackupError):
        backup.keep()
    assert not list(kept.glob("*.part")) + list(kept.glob(".*.part"))
    assert len(backup.kept()) == 3


def test_owners_see_when_the_last_backup_was(owner: Membership, builder: Membership, kept: Path) -> None:
    (kept / f"rocklash-{timezone.localtime() - timedelta(hours=3):%Y%m%d-%H%M%S}.dump").write_bytes(b"x" * 2000)
    assert "last good backup" in client_for(owner).get("/shop/shed/people/").content.decode()
    assert "last good backup" not in client_for(builder).get("/shop/shed/people/").content.decode()


def test_settings_of_a_server_are_sound(petrel: Build) -> None:
    """Django's own check of a deployment finds nothing to say of `prod`."""
    import subprocess
    import sys

    kept_ = {key: value for key, value in os.environ.items() if key != "DJANGO_ALLOW_ASYNC_UNSAFE"}
    environment = kept_ | {
        "DJANGO_SETTINGS_MODULE": "rocklash.config.settings.prod",
        "ROCKLASH_SECRET_KEY": "k" * 20 + "Zq7-x9!" * 6,
        "ROCKLASH_HOSTS": "bench.example",
    }
    done = subprocess.run(
        [sys.executable, "-m", "django", "check", "--deploy", "--fail-level", "WARNING"],
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert site.LARGEST_REQUEST > 10**8
    assert address(petrel)
