"""Workers as processes of their own on one queue: share told, one result for all who ask, cancelled when left out, taken up again after a kill."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from django.db import connection

from rocklash.answers import tasks
from rocklash.answers.calibration import CalibrationJob, begin_learning, learning_of, stop_learning
from rocklash.answers.results import BuildResult, result_of
from rocklash.commands.builds import keep_record
from rocklash.records.models import Build, Membership, Observation, Result, ResultState, Role, User, Workshop
from tests.rocklash.conftest import address, client_for
from valvetrain.formats import build_file

ROOT = Path(__file__).resolve().parents[2]
pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.slow]


def _until(true: Callable[[], Any], seconds: float, what: str) -> Any:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        found = true()
        if found:
            return found
        time.sleep(0.1)
    raise AssertionError(f"not within {seconds:.0f} s: {what}")


@pytest.fixture
def workers(settings: Any) -> Iterator[Callable[[int], list["subprocess.Popen[bytes]"]]]:
    settings.WORKERS = "auto"
    running: list[subprocess.Popen[bytes]] = []
    environment = os.environ | {"ROCKLASH_DB_NAME": str(connection.settings_dict["NAME"]), "ROCKLASH_WORKERS": "auto"}

    def start(count: int) -> list["subprocess.Popen[bytes]"]:
        command = [sys.executable, str(ROOT / "manage.py"), "run_worker", "--settings", "rocklash.config.settings.dev"]
        running.extend(subprocess.Popen(command, env=environment, cwd=ROOT) for _ in range(count))
        tasks._looked["at"] = -1e9
        _until(lambda: tasks.ProcrastinateWorker.objects.count() >= count, 60, "workers give a sign of life")
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


def test_two_workers_share_one_queue_and_one_is_killed(
    workers: Callable[[int], list["subprocess.Popen[bytes]"]], seen: tuple[Membership, Build, list[Observation]]
) -> None:
    _, build, rows = seen
    running, answer = workers(2), result_of(build)
    for row in rows:
        for _ in range(3):  # however many ask
            assert begin_learning(answer, row).running
    assert Result.objects.filter(kind="calibration").count() == len(rows)
    started = _until(lambda: list(Result.objects.filter(state=ResultState.RUNNING, share__gt=0.0)), 60, "work is begun")
    os.kill(running[0].pid, signal.SIGKILL)
    _until(lambda: not Result.objects.exclude(state=ResultState.DONE).exists(), 240, "all are done")
    assert started
    tries = sorted(Result.objects.values_list("tries", flat=True))
    assert tries[0] == 1
    assert tries[-1] == 2, tries  # what the killed one held was taken up again by the other
    assert all(_state(answer, row).result for row in rows)


def test_what_is_left_out_is_cancelled_and_a_page_tells_the_share(
    workers: Callable[[int], list["subprocess.Popen[bytes]"]], seen: tuple[Membership, Build, list[Observation]]
) -> None:
    member, build, rows = seen
    workers(1)
    answer = result_of(build)
    job = begin_learning(answer, rows[0])
    _until(lambda: _state(answer, rows[0]).share > 0.0, 60, "share told")
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
