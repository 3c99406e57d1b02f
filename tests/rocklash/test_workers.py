"""Workers as processes of their own on one queue: share told, one result for all who ask, cancelled when left out, taken up again after a kill."""

import os
import pickle
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest
from django.db import connection
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker

from rocklash.answers import store, tasks
from rocklash.answers.calibration import CalibrationJob, begin_learning, learning_of, stop_learning
from rocklash.answers.choose import begin, plan_of, progress_of, stop
from rocklash.answers.motion import STRAIN, strain_key
from rocklash.answers.results import BuildResult, result_of, train_key, trains_of
from rocklash.commands.builds import keep_record
from rocklash.demo.shelf_parts import load_parts
from rocklash.records.models import Build, Membership, Observation, Result, ResultState, Role, Search, User, Workshop
from rocklash.records.selectors.builds import build_or_404
from tests.rocklash.conftest import address, client_for
from valvetrain.formats import build_file
from valvetrain.parts.engine import Side
from valvetrain.studies.choose.search import merged, search_shard, shards_of
from valvetrain.studies.logbook.spring_use import LoadTurns

ROOT = Path(__file__).resolve().parents[2]
pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.slow]


def _until(true: Callable[[], Any], seconds: float, what: str) -> Any:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        found = true()
        if found:
            return found
        time.sleep(0.1)
    results = list(Result.objects.values("kind", "state", "share", "tries", "asked_at", "begun_at"))
    jobs = list(ProcrastinateJob.objects.values("id", "task_name", "status", "attempts", "worker_id"))
    raise AssertionError(
        f"not within {seconds:.0f} s: {what}; results {results}; jobs {jobs}; workers {list(ProcrastinateWorker.objects.values())}"
    )


@pytest.fixture
def workers(settings: Any) -> Iterator[Callable[[int], list["subprocess.Popen[bytes]"]]]:
    settings.WORKERS = "auto"
    running: list[subprocess.Popen[bytes]] = []
    environment = os.environ | {"ROCKLASH_DB_NAME": str(connection.settings_dict["NAME"]), "ROCKLASH_WORKERS": "auto"}

    def start(count: int) -> list["subprocess.Popen[bytes]"]:
        command = [sys.executable, str(ROOT / "manage.py"), "run_worker", "--settings", "rocklash.config.settings.dev"]
        running.extend(subprocess.Popen(command, env=environment, cwd=ROOT) for _ in range(count))
        tasks._looked["at"] = -1e9
        _until(lambda: ProcrastinateWorker.objects.count() >= count, 60, "workers give a sign of life")
        tasks._looked["at"] = -1e9
        return running

    yield start
    for each in running:
        each.kill()
        each.wait()
    tasks._looked.update(at=-1e9, alive=False)


@pytest.fixture
def seen(settings: Any) -> tuple[Membership, Build, list[Observation]]:
    shop = Workshop.objects.create(name="Shed", slug="shed")
    member = Membership.objects.create(workshop=shop, user=User.objects.create_user("wilma", password="long-enough-1"), role=Role.OWNER)
    record = build_file.read((ROOT / "src/rocklash/demo/builds/petrel_1498.json").read_text(encoding="utf-8"))
    build = keep_record(member, record)
    rows = [
        Observation.objects.create(build=build, role="stock", side="exhaust", speed=speed / 60.0, spread=1.5, by=member.user)
        for speed in (8300.0, 8400.0)
    ]
    tasks.forget("calibration")
    return member, build, rows


def _state(answer: BuildResult, row: Observation) -> CalibrationJob:
    job = learning_of(answer, row)
    assert job
    return job


def _held(count: int) -> bool:
    """Whether so many results are being worked out, and said so."""
    return Result.objects.filter(state=ResultState.RUNNING, share__gt=0.0).count() == count


def test_two_workers_share_one_queue_and_one_is_killed(
    workers: Callable[[int], list["subprocess.Popen[bytes]"]], seen: tuple[Membership, Build, list[Observation]]
) -> None:
    """Motions, each a second or two, of one build at several goals; the worker is held still while it is seen to have one in hand."""
    answer = result_of(seen[1])
    assert answer.review
    train, stock = trains_of(answer.review)["proposed", Side.EXHAUST], trains_of(answer.review)["stock", Side.EXHAUST]
    goals = [replace(answer.review.completed.goal, goal_rpm=speed / 60.0) for speed in (8100.0, 8200.0, 8300.0, 8400.0, 8500.0, 8600.0)]
    keys = [train_key(train, goal, stock=stock) for goal in goals]
    running = workers(2)
    for key, goal in zip(keys, goals, strict=True):
        for _ in range(3):  # however many ask
            assert isinstance(tasks.ask("motion", key, (train, goal, stock)), tasks.Running | tasks.Ready)
    killed, held = running[0], False
    for _ in range(20):
        _until(lambda: _held(2), 60, "both have one in hand")
        os.kill(killed.pid, signal.SIGSTOP)
        held = _held(2)
        if held:
            break
        os.kill(killed.pid, signal.SIGCONT)
    assert held
    killed.kill()
    wanted = [f"{store.code_key()}-{key}" for key in keys]
    _until(lambda: Result.objects.filter(key__in=wanted, state=ResultState.DONE).count() == len(keys), 120, "all are done")
    tries = sorted(Result.objects.filter(key__in=wanted).values_list("tries", flat=True))
    assert tries[0] == 1
    assert tries[-1] == 2, tries  # what the killed one held was taken up again by the other
    assert all(isinstance(tasks.peek("motion", key), tasks.Ready) for key in keys)


def test_what_is_left_out_is_cancelled_and_a_page_tells_the_share(
    workers: Callable[[int], list["subprocess.Popen[bytes]"]], seen: tuple[Membership, Build, list[Observation]]
) -> None:
    member, build, rows = seen
    workers(1)
    answer = result_of(build)
    job = begin_learning(answer, rows[0])
    # on a busy machine a worker may for a moment look dead, and nothing is told then
    _until(lambda: (found := learning_of(answer, rows[0])) is not None and found.share > 0.0, 60, "share told")
    Observation.objects.exclude(pk=rows[0].pk).update(in_use=False)
    page = client_for(member, htmx=True).get(address(build, "springs/speed/learn/") + "?side=exhaust").content.decode()
    assert "<progress" in page
    stop_learning(job)
    assert _state(answer, rows[0]).stopped
    assert begin_learning(answer, rows[0]).running  # begun anew
    stop_learning(job)
    asked = client_for(member, htmx=True).get(address(build, "motion/"))
    assert "computing the motion at speed" in asked.content.decode()
    assert asked["HX-Retarget"] == "#motion-pending"
    again = address(build, "motion/") + "?next=" + address(build, "springs/")
    _until(lambda: "HX-Retarget" not in client_for(member, htmx=True).get(again), 120, "the motion arrives on the page")
    keys = [strain_key(key) for (role, _), key in answer.train_keys.items() if role == "proposed"]
    tasks.forget(STRAIN)
    assert all(
        isinstance(each.value[0], LoadTurns) for each in tasks.peek_many(STRAIN, keys).values()
    )  # beside the motion, not in its place
    assert len(tasks.peek_many(STRAIN, keys)) == len(set(keys))


def test_two_workers_share_a_search_and_find_what_one_would(
    workers: Callable[[int], list["subprocess.Popen[bytes]"]], seen: tuple[Membership, Build, list[Observation]]
) -> None:
    """Shards go to whichever is free; merged they are what this process finds alone. Cancelled, nothing more is begun."""
    member, build, _ = seen
    load_parts(member.workshop)
    search = Search(build=build, side="exhaust", budget=480, days=30, places=["outer", "retainer", "keepers", "spring_shim"])
    plan = plan_of(build_or_404(member.workshop, build.pk), Side.EXHAUST, search)
    workers(2)
    begin(plan)
    begin(plan)  # asked twice, done once
    _until(lambda: progress_of(plan).state == "done", 120, "the search is through")
    found = progress_of(plan).found
    alone = merged(each for shard in shards_of(plan.tables, 3) if (each := search_shard(plan.tables, shard, plan.wishes)))
    assert found is not None
    assert found.total == plan.tables.joins.count() > 10_000
    assert (found.classes, found.front, found.misses) == (alone.classes, alone.front, alone.misses)
    assert (found.seen == alone.seen).all()
    search.budget = 470
    other = plan_of(build_or_404(member.workshop, build.pk), Side.EXHAUST, search)
    begin(other)
    stop(other)
    _until(
        lambda: not Result.objects.filter(kind="choose", state__in=[ResultState.QUEUED, ResultState.RUNNING]).exists(),
        60,
        "nothing goes on",
    )
    assert progress_of(other).state in ("stopped", "done")


def test_what_is_left_out_in_the_moment_it_is_taken_up_stays_out(monkeypatch: pytest.MonkeyPatch) -> None:
    """Between reading the row and beginning, somebody cancels: nothing is worked out and nothing comes back to life."""
    row = Result.objects.create(key="race", kind="motion", inputs=pickle.dumps(None), state=ResultState.QUEUED)
    begun: list[object] = []

    def late() -> datetime:
        Result.objects.filter(pk=row.pk).update(state=ResultState.CANCELLED, inputs=None)
        return datetime.now(UTC)

    monkeypatch.setattr(tasks, "close_old_connections", lambda: None)
    monkeypatch.setattr(tasks, "timezone", SimpleNamespace(now=late))
    monkeypatch.setitem(tasks._KINDS, "motion", lambda inputs, _: begun.append(inputs))
    tasks.compute(row_key="race", key="race")
    row.refresh_from_db()
    assert row.state == ResultState.CANCELLED
    assert begun == []
