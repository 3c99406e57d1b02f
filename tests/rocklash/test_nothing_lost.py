"""What people keep stays: through files out and in, figures cleared later, learning left out, and styles under names of their content."""

import time
from pathlib import Path
from typing import Any

import pytest
from django.contrib.staticfiles import finders
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from pytest_django import DjangoCaptureOnCommitCallbacks

from rocklash.answers import calibration as learnings
from rocklash.answers import tasks
from rocklash.answers.results import result_of
from rocklash.answers.rows import side_rows
from rocklash.commands.builds import keep_record
from rocklash.records.models import Build, JournalEntry, Membership, Observation, OverRevCase, ValveFit
from rocklash.ui import pdf
from tests.rocklash.conftest import DEMO, address, client_for
from valvetrain.formats import build_file

SEEN = {"act": "seen", "role": "stock", "side": "exhaust", "speed": "8,450", "doubt": "150", "note": "soft wall on the lake"}


@pytest.fixture
def dunlin(owner: Membership) -> Build:
    return keep_record(owner, build_file.read((DEMO / "dunlin_598.json").read_text(encoding="utf-8")))


def _clear(build: Build, key: str) -> None:
    build.engine.figures.pop(key)
    build.engine.save(update_fields=["figures"])


def test_an_over_rev_by_road_speed_outlives_the_sprocket_it_was_told_with(builder: Membership, dunlin: Build) -> None:
    client, where = client_for(builder), address(dunlin, "room/over-rev/")
    page = client.post(where, {"act": "begin", "road": "140", "gear_to": "1.87"})
    assert page.status_code == 200
    case = OverRevCase.objects.get()
    _clear(dunlin, "front_teeth")
    again = client.get(f"{where}?case={case.pk}&motions=1")
    assert again.status_code == 200
    assert "the front sprocket" in again.content.decode()
    assert again.context["page"].steps  # the inspection is as it was


@pytest.mark.parametrize(("key", "text"), [("hours", "41.5"), ("temperature", "18"), ("aim", "loose end")])
def test_how_a_sheet_is_read_never_changes_without_a_journal_line(builder: Membership, petrel: Build, key: str, text: str) -> None:
    client, where = client_for(builder), address(petrel, "lash/")
    for _ in range(2):  # what did not change leaves no line
        assert client.post(where, {"act": "manner", "method": "go_no_go", "aim": "middle"} | {key: text}).status_code == 200
    lines = JournalEntry.objects.filter(verb="sheet")
    assert lines.count() == 1
    assert lines.get().before != lines.get().after
    assert text in lines.get().after


def test_leaving_an_observation_out_stops_what_was_learning_from_it(
    builder: Membership, petrel: Build, django_capture_on_commit_callbacks: DjangoCaptureOnCommitCallbacks
) -> None:
    tasks.forget("calibration")
    client, where = client_for(builder), address(petrel, "springs/speed/") + "?side=exhaust"
    client.post(where, SEEN)
    row = Observation.objects.get()
    answer = result_of(petrel)
    learnings.begin_learning(answer, row)
    with django_capture_on_commit_callbacks(execute=True):
        client.post(where, {"act": "use", "observation": str(row.pk), "use": "no"})
    for _ in range(200):
        found = learnings.learning_of(answer, row)
        if found and not found.running:
            break
        time.sleep(0.05)
    assert found
    assert found.stopped
    assert not Observation.objects.get().in_use


def test_a_build_file_out_and_in_again_keeps_every_height_and_shim(builder: Membership, petrel: Build) -> None:
    client, row = client_for(builder), side_rows(petrel)["proposed", "exhaust"]
    first, second = petrel.engine.positions.filter(side="exhaust").order_by("place")[:2]
    where = address(petrel, "springs/valves/") + "?side=exhaust"
    measured = {"act": "stand", "row": str(row.pk), "seen": "none"}
    assert client.post(where, measured | {"valve": str(first.pk), "height": "37.8"}).status_code == 200
    assert client.post(where, measured | {"valve": str(second.pk), "height": "37.2", "shim": "0.5"}).status_code == 200
    raw = client.get(address(petrel, "file.json")).content
    sent = client.post("/shop/shed/import/", {"file": SimpleUploadedFile("petrel.json", raw)})
    assert sent.status_code in {200, 302}
    copy = Build.objects.exclude(pk=petrel.pk).get()

    def stands(build: Build) -> dict[str, tuple[float | None, float | None]]:
        rows = ValveFit.objects.filter(setup_side__setup__build=build, setup_side__setup__role="proposed")
        return {fit.position.name: (fit.height, fit.shim) for fit in rows}

    assert len(stands(petrel)) == 2
    assert stands(copy) == stands(petrel)


def test_the_limiter_can_be_switched_off_per_side_and_the_page_says_which(builder: Membership, petrel: Build) -> None:
    client, where = client_for(builder), address(petrel, "engine/")
    spread = result_of(petrel).review
    answer = client.post(where, {"act": "fact", "fact": "holds_limiter_exhaust", "word": "no", "seen": ""})
    assert answer.status_code == 200
    petrel.engine.refresh_from_db()
    assert petrel.engine.facts["holds_limiter_exhaust"] == "no"
    assert result_of(petrel).review != spread
    late = client.post(where, {"act": "fact", "fact": "holds_limiter_exhaust", "word": "", "seen": ""})
    assert late.status_code == 409
    assert "Meanwhile" in late.content.decode()
    assert client.post(where, {"act": "fact", "fact": "holds_limiter_exhaust", "word": "perhaps", "seen": "no"}).status_code == 422


def test_a_collected_style_is_found_under_its_hashed_name(settings: Any, tmp_path: Path) -> None:
    settings.STATIC_ROOT = tmp_path
    backend = "whitenoise.storage.CompressedManifestStaticFilesStorage"
    settings.STORAGES = settings.STORAGES | {"staticfiles": {"BACKEND": backend}}
    call_command("collectstatic", interactive=False, verbosity=0)
    hashed = next(path.name for path in (tmp_path / "css").glob("tokens.*.css"))
    assert finders.find(f"css/{hashed}") is None
    found = pdf._shipped(f"css/{hashed}")
    assert found
    assert Path(found).read_bytes()
    assert pdf._shipped("css/absent.css") is None
