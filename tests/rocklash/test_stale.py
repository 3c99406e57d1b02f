"""Readings, gaps and signed sheets that a later change made void are marked wherever they are shown."""

import re

import pytest

from rocklash.answers.clearances import stale_sheet
from rocklash.answers.rows import record_of, side_rows
from rocklash.desk.registry import rail
from rocklash.records.figure_column import fingerprint
from rocklash.records.models import Build, CamTiming, ClearanceSession, GapReading, Membership, ValveFit
from rocklash.records.selectors.builds import build_or_404, last_session
from tests.rocklash.conftest import address, bench_of, client_for

MEASURE = "room/measure/"


def _fresh(build: Build) -> Build:
    return build_or_404(build.workshop, build.pk)


def _put(builder: Membership, build: Build, side: str, slot: str) -> None:
    """A copy of what is in the slot takes its place."""
    row = side_rows(_fresh(build))["proposed", side]
    sent = {"act": "copy", "row": row.pk, "slot": slot, "seen": getattr(row, f"{slot}_id")}
    assert client_for(builder).post(f"{address(build, 'springs/new/')}{slot}/?side={side}", sent).status_code == 302


@pytest.fixture
def read(builder: Membership, petrel: Build) -> Build:
    """A piston gap by clay, and a clearance on each side, signed as they are."""
    client = client_for(builder)
    places = {place.name: place for place in petrel.engine.positions.all()}
    gap = {"act": "read", "valve": places["EX 1 fore"].pk, "gap": "piston_to_valve", "way": "clay", "readings": "2.4"}
    assert client.post(address(petrel, MEASURE), gap).status_code == 200
    for name in ("EX 1 fore", "IN 1 fore"):
        sent = {
            "act": "read",
            "valve": places[name].pk,
            "goes": "0.20",
            "stops": "0.22",
            "shim": "2.5",
            "shim_source": "micrometer",
            "seen": "0",
        }
        assert client.post(address(petrel, "lash/"), sent).status_code == 200
    session = ClearanceSession.objects.get()
    session.signed_at, session.signed_by = session.started_at, builder.user
    session.save()
    return petrel


def test_another_cam_voids_the_clearances_of_its_side_and_the_signature(builder: Membership, read: Build) -> None:
    client = client_for(builder)
    assert "void" not in client.get(address(read, "lash/")).content.decode()
    _put(builder, read, "intake", "cam")
    for page in ("lash/", "sheet/"):
        html = client.get(address(read, page)).content.decode()
        assert "Intake: the cam was changed" in html, page
        assert "the signature no longer stands for it" in html
        assert "Exhaust: the cam" not in html
    item = next(item for item in rail(bench_of(builder, _fresh(read)), "lash") if item.name == "Lash")
    assert item.words == "signed, now void"


def test_there_and_back_is_no_change(builder: Membership, read: Build) -> None:
    before = side_rows(_fresh(read))["proposed", "intake"].cam_id
    _put(builder, read, "intake", "cam")
    row = side_rows(_fresh(read))["proposed", "intake"]
    client_for(builder).post(address(read, "springs/"), {"row": row.pk, "slot": "cam", "part": before, "seen": row.cam_id})
    assert stale_sheet(_fresh(read), last_session(read)) == {}


def test_springs_ask_for_another_look_only(builder: Membership, read: Build) -> None:
    _put(builder, read, "exhaust", "outer_spring")
    html = client_for(builder).get(address(read, "lash/")).content.decode()
    assert "Exhaust: the outer spring was changed" in html
    assert "should be read again" in html
    assert "is void" not in html


def test_a_void_gap_is_struck_and_counts_no_more(builder: Membership, read: Build) -> None:
    count = GapReading.objects.count()
    assert len(record_of(_fresh(read)).gaps) == count > 1
    _put(builder, read, "intake", "valve")
    assert len(record_of(_fresh(read)).gaps) == count
    _put(builder, read, "exhaust", "valve")
    assert record_of(_fresh(read)).gaps == ()
    html = client_for(builder).get(address(read, MEASURE)).content.decode()
    assert '<tr class="void">' in html.replace("\n", " ")
    assert "the valve was changed" in html
    assert GapReading.objects.count() == count  # never deleted


def test_a_surfaced_head_voids_piston_gaps(builder: Membership, read: Build) -> None:
    sent = {"holder": "engine", "key": "face_off", "text": "0.2", "basis": "measured", "seen": fingerprint(read.engine.figures, "face_off")}
    assert client_for(builder).post(address(read, MEASURE), sent).status_code == 200
    html = client_for(builder).get(address(read, MEASURE)).content.decode()
    assert "the head&#x27;s face was taken down" in html or "the head's face was taken down" in html
    assert record_of(_fresh(read)).gaps == ()
    assert "Compression ratio 8.60 becomes" in html


def test_heights_and_a_degreed_cam_are_marked_too(builder: Membership, petrel: Build) -> None:
    """Another retainer voids measured heights, another cam what was degreed in."""
    client, row = client_for(builder), side_rows(_fresh(petrel))["proposed", "intake"]
    place = petrel.engine.positions.filter(side="intake").first()
    assert place
    fit = ValveFit.objects.create(setup_side=row, position=place, height=37.3e-3)
    CamTiming.objects.create(setup_side=row, first=1.2, second=2.6, centre=1.9, wanted=1.9)
    assert "void" not in client.get(address(petrel, "springs/valves/?side=intake")).content.decode()
    _put(builder, petrel, "intake", "retainer")
    _put(builder, petrel, "intake", "cam")
    assert (
        f"Height of {fit.position}: void, the retainer was changed"
        in client.get(address(petrel, "springs/valves/?side=intake")).content.decode()
    )
    assert "Degreed in: void, the cam was changed" in client.get(address(petrel, "cams/timing/?side=intake")).content.decode()


def test_the_scale_says_whose_part_is_weighed(builder: Membership, petrel: Build) -> None:
    html = client_for(builder).get(address(petrel, "springs/valves/?side=intake")).content.decode()
    note = re.search(r"Stock intake valve[^<]*: this is also the stock part", html)
    assert note
    assert "Stock keepers" in note.group(0)  # said once for all of them


def test_a_cam_is_degreed_in_to_its_card_however_the_head_was_cut(builder: Membership, petrel: Build) -> None:
    """Surfacing leaves the cam late: that is what degreeing in puts right, so that what is wanted stays the card's."""
    where = address(petrel, "cams/timing/?side=intake")
    wanted = client_for(builder).get(where).context["page"].wanted
    sent = {
        "holder": "engine",
        "key": "face_off",
        "text": "0.8",
        "basis": "measured",
        "seen": fingerprint(petrel.engine.figures, "face_off"),
    }
    assert client_for(builder).post(address(petrel, MEASURE), sent).status_code == 200
    assert client_for(builder).get(where).context["page"].wanted == wanted
