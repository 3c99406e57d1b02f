"""What people have is carried over: a database that the code of migration 0007 filled, brought to today's."""

import json
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import psycopg
import pytest
from django.db import connection

ROOT = Path(__file__).resolve().parents[2]
FILLED = ROOT / "tests/data/records_0007.sql"  # the demo by the code of that time, with a sheet under way: pins, a plan, a firing order


def _migrate(name: str, *target: str) -> None:
    command = [sys.executable, str(ROOT / "manage.py"), "migrate", *target, "-v", "0", "--settings", "rocklash.config.settings.test"]
    done = subprocess.run(command, check=False, cwd=ROOT, env=os.environ | {"ROCKLASH_DB_NAME": name}, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr[-3000:]


@pytest.fixture
def old(django_db_setup: None) -> Iterator["psycopg.Connection[Any]"]:
    here = connection.settings_dict
    place = {"host": here["HOST"], "port": here["PORT"], "user": here["USER"], "password": here["PASSWORD"]}
    name = f"carried_{os.getpid()}"
    with psycopg.connect(dbname="postgres", autocommit=True, **place) as admin:
        admin.execute(f"CREATE DATABASE {name}")
        try:
            _migrate(name, "records", "0007")
            with psycopg.connect(dbname=name, autocommit=True, **place) as database:
                database.execute(FILLED.read_text(encoding="utf-8"))
                database.execute("SET search_path TO public")
                yield database
        finally:
            admin.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")


def _there_and_back(old: "psycopg.Connection[Any]") -> None:
    """The height above the sea, told of an engine until 0017; from 0018 on each build runs where it runs: there, and back as it was."""
    name = str(old.info.dbname)
    _migrate(name, "records", "0017")
    figure = {"value": 410.0, "spread": 0.0, "basis": "measured", "typed": "410 m", "unit": "m", "by": "builder", "at": "", "page": ""}
    engine, build = old.execute("SELECT engine_id, id FROM records_build ORDER BY id LIMIT 1").fetchall()[0]
    old.execute("UPDATE records_engine SET figures = figures || %s WHERE id = %s", (json.dumps({"altitude": figure}), engine))
    before = old.execute("SELECT figures FROM records_build WHERE id = %s", (build,)).fetchall()[0][0]
    _migrate(name, "records", "0018")
    after = old.execute("SELECT figures, facts, flows FROM records_build WHERE id = %s", (build,)).fetchall()[0]
    assert after == (before | {"altitude": figure}, {}, [])
    assert "altitude" not in old.execute("SELECT figures FROM records_engine WHERE id = %s", (engine,)).fetchall()[0][0]
    others = old.execute("SELECT figures FROM records_build WHERE engine_id <> %s", (engine,)).fetchall()
    assert all("altitude" not in figures for (figures,) in others)
    _migrate(name, "records", "0017")
    assert old.execute("SELECT figures FROM records_engine WHERE id = %s", (engine,)).fetchall()[0][0]["altitude"] == figure
    old.execute("UPDATE records_engine SET figures = figures - 'altitude' WHERE id = %s", (engine,))


@pytest.mark.slow
def test_a_database_filled_by_the_code_before_keeps_everything(old: "psycopg.Connection[Any]") -> None:
    def all_of(query: str) -> list[Any]:
        return old.execute(query).fetchall()

    session, pins, plan = all_of("SELECT id, pins, plan FROM records_clearancesession WHERE pins <> '{}'")[0]
    figures = all_of("SELECT figures FROM records_part ORDER BY id") + all_of("SELECT figures FROM records_engine ORDER BY id")
    figures += all_of("SELECT figures FROM records_build ORDER BY id") + all_of("SELECT figures FROM records_setupside ORDER BY id")
    facts = dict(all_of("SELECT id, facts FROM records_engine ORDER BY id"))
    lines = all_of("SELECT id, what, about, before, after FROM records_entry ORDER BY id")
    spring, cam = (all_of(f"SELECT min(id) FROM records_part WHERE kind = '{kind}'")[0][0] for kind in ("spring", "cam"))
    for table, part, seed in (("wheelrun", cam, 11), ("testerrun", spring, 12)):
        old.execute(f"INSERT INTO records_{table} (part_id, begun_at, seed, pace) VALUES ({part}, '2026-11-01 10:00+00', {seed}, 5)")
    counted = {table: all_of(f"SELECT count(*) FROM records_{table}") for table in ("reading", "part", "build", "shimstock", "gapreading")}
    _there_and_back(old)
    _migrate(str(old.info.dbname))
    runs = all_of("SELECT kind, part_id, seed, pace, begun_at::date::text FROM records_instrumentrun ORDER BY seed")
    assert runs == [("wheel", cam, 11, 5.0, "2026-11-01"), ("tester", spring, 12, 5.0, "2026-11-01")]
    assert {table: all_of(f"SELECT count(*) FROM records_{table}") for table in counted} == counted
    kept = {
        (place, kind, key)
        for place, kind, key in all_of(f"SELECT position_id, kind, key FROM records_shimpin WHERE session_id = {session}")
    }
    wanted = {(int(place), "stays", "") for place, pin in pins.items() if pin.get("stays")}
    wanted |= {(int(place), "never", key) for place, pin in pins.items() for key in pin.get("never", [])}
    assert kept == wanted
    assert len(kept) == 3
    planned = {
        str(place): (size, low, high) for place, size, low, high in all_of("SELECT position_id, size, low, high FROM records_plannedshim")
    }
    assert planned == {place: (each["size"], each["low"], each["high"]) for place, each in plan.items()}
    assert len(planned) == 12
    engines = {
        number: row for number, *row in all_of("SELECT id, firing_order, clearance_note, shim_shape, facts FROM records_engine ORDER BY id")
    }
    for number, words in facts.items():
        left = {key: word for key, word in words.items() if key not in ("firing", "lash_note", "shim_shape")}
        assert engines[number] == [words.get("firing", ""), words.get("lash_note", ""), words.get("shim_shape", ""), left]
    assert any(row[0] == "1-2-3" for row in engines.values())
    histories = all_of("SELECT count(*), count(by_id) FROM records_figurechange")[0]
    assert histories[0] == sum(len(each) for (each,) in figures)
    assert histories[1] > 0  # what was typed tells who typed it
    assert all_of("SELECT id, verb, about, before, after FROM records_journalentry ORDER BY id") == lines
    assert all_of("SELECT count(*) FROM records_journalentry WHERE build_id IS NOT NULL")[0][0] >= 10
    assert json.dumps(figures) == json.dumps(
        all_of("SELECT figures FROM records_part ORDER BY id") + all_of("SELECT figures FROM records_engine ORDER BY id")
        + all_of("SELECT figures FROM records_build ORDER BY id") + all_of("SELECT figures FROM records_setupside ORDER BY id")
    )  # fmt: skip
