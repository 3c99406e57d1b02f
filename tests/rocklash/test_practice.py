"""Practice copies: simulated instruments work there and nowhere else, the mark goes wherever the copy goes, and nothing is signed."""

import json

import pytest

from rocklash.answers.rows import PART_OWNERS, record_of, side_rows
from rocklash.commands.builds import keep_record
from rocklash.records.models import Build, ClearanceSession, InstrumentRun, JournalEntry, Membership, Reading
from rocklash.records.selectors.builds import build_or_404, parts_that_fit
from tests.rocklash.conftest import address, client_for
from valvetrain.formats import build_file


def test_a_copy_is_made_from_the_overview_and_is_alike(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    answer = client.post(address(petrel), {"act": "practice"})
    copy = Build.objects.get(practice=True)
    assert answer.url == address(copy)  # type: ignore[attr-defined]
    assert copy.name == "Petrel 1498, practice"
    one, other = (record_of(build_or_404(each.workshop, each.pk)) for each in (petrel, copy))
    assert other.stock == one.stock
    assert other.proposed == one.proposed
    assert JournalEntry.objects.filter(build=copy, verb="practice copy").exists()
    assert client.post(address(copy), {"act": "practice"}).status_code == 422


def test_no_part_of_a_copy_is_anybody_elses(petrel: Build, practice: Build) -> None:
    theirs = {getattr(row, slot) for row in side_rows(practice).values() for slot in PART_OWNERS} - {None}
    assert {part.engine_id for part in theirs} == {practice.engine_id}
    assert set(parts_that_fit(practice)) >= theirs
    assert not set(parts_that_fit(practice)) & set(parts_that_fit(petrel))


@pytest.mark.parametrize("page", ["", "engine/", "cams/", "springs/", "room/", "lash/", "sheet/"])
def test_every_page_says_so(builder: Membership, petrel: Build, practice: Build, page: str) -> None:
    client = client_for(builder)
    assert "Practice copy." in client.get(address(practice, page)).content.decode()
    assert "Practice copy." not in client.get(address(petrel, page)).content.decode()


def test_instruments_stay_off_real_engines(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    row = side_rows(petrel)["proposed", "exhaust"]
    for where in (f"cams/lobe/{row.cam_id}/wheel/", f"springs/part/{row.outer_spring_id}/tester/"):
        client.post(address(petrel, where), {"act": "begin"})
    valve = petrel.engine.positions.first()
    assert valve
    answer = client.post(address(petrel, "lash/"), {"act": "instrument", "valve": str(valve.pk), "seen": "0"})
    assert answer.status_code == 422
    assert "practice copy only" in answer.content.decode()
    assert not InstrumentRun.objects.exists()
    assert not Reading.objects.exists()


def test_a_copy_cannot_be_signed(builder: Membership, practice: Build) -> None:
    client, where = client_for(builder), address(practice, "lash/")
    places = list(practice.engine.positions.all())
    for again in (False, True):
        for place in places:
            client.post(where, {"act": "instrument", "valve": str(place.pk), "seen": "0"})
        if not again:
            client.post(where, {"act": "recheck"})
    assert Reading.objects.count() == 2 * len(places)
    answer = client.post(where, {"act": "sign"})
    assert answer.status_code == 422
    assert "A practice copy cannot be signed" in answer.content.decode()
    assert ClearanceSession.objects.get().signed_at is None


def test_the_mark_goes_with_its_files(builder: Membership, practice: Build) -> None:
    client = client_for(builder)
    text = client.get(address(practice, "file.json")).content.decode()
    assert json.loads(text)["engine"]["facts"]["practice"] == "yes"
    again = keep_record(builder, build_file.read(text))
    assert again.practice
    lines = client.get(address(practice, "lash/sheet.csv")).content.decode("utf-8-sig").splitlines()
    assert lines[0].endswith("practice copy")
    assert all(line.endswith("yes") for line in lines[1:])
