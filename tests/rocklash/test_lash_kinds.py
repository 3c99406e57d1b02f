"""Clearances by whatever sets them. Arithmetic by hand in each test; METHODS 10 holds the formulas (closed form)."""

import pytest

from rocklash.commands.builds import keep_record
from rocklash.records.figure_column import stored_figure
from rocklash.records.models import Build, ClearanceSession, Membership, Reading
from tests.rocklash.conftest import address, client_for
from tests.valvetrain.builders import empty_build
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear
from valvetrain.parts.figure import Basis

LIMITS = {
    "clearance_intake_least": 0.08e-3,
    "clearance_intake_most": 0.12e-3,
    "clearance_exhaust_least": 0.13e-3,
    "clearance_exhaust_most": 0.17e-3,
}


def engine(owner: Membership, gear: Gear, follower: Follower, adjuster: Adjuster, **figures: float) -> Build:
    """A single whose limits are known: intake 0.08-0.12, exhaust 0.13-0.17 mm."""
    build = keep_record(owner, empty_build(EngineKind(1, 1, gear, follower, adjuster)))
    for key, value in (LIMITS | figures).items():
        build.engine.figures[key] = stored_figure(Owner.ENGINE, key, value, Basis.CARD)
    build.engine.save()
    return build


def read(member: Membership, build: Build, valve: str, goes: str, stops: str, shim: str = "") -> str:
    place = build.engine.positions.get(name=valve)
    data = {"act": "read", "valve": place.pk, "goes": goes, "stops": stops, "shim": shim, "source": "micrometer", "seen": "0"}
    answer = client_for(member, htmx=True).post(address(build, "lash/"), data)
    assert answer.status_code == 200
    return str(answer.content.decode())


def test_a_screw_is_told_in_degrees(owner: Membership) -> None:
    """0.05 read, 0.10 wanted, M5x0.5, ratio 1 at the screw: a tenth of a turn out."""
    build = engine(owner, Gear.OHC, Follower.ROCKER, Adjuster.SCREW, screw_pitch=0.5e-3)
    page = read(owner, build, "IN 1", "0.04", "0.06")
    assert "turn 36° out" in page
    assert "it creeps" in page
    assert "fitted shim" not in page
    assert "screws set and locked" in page
    assert "turn 36° in" in read(owner, build, "EX 1", "0.19", "0.21")
    sheet = client_for(owner).get(address(build, "sheet/")).content.decode()
    assert "turn 36° out" in sheet
    assert "shim fitted" not in sheet


def test_a_ground_stem_cannot_be_put_back(owner: Membership) -> None:
    build = engine(owner, Gear.SIDE_VALVE, Follower.TAPPET, Adjuster.STEM_GRIND)
    assert "grind 0.05" in read(owner, build, "IN 1", "0.04", "0.06")
    assert "Metal cannot be put back" in read(owner, build, "EX 1", "0.24", "0.26")


def test_hydraulic_followers_are_looked_at_and_signed(owner: Membership) -> None:
    build = engine(owner, Gear.DOHC, Follower.BUCKET, Adjuster.HYDRAULIC)
    client, url = client_for(owner, htmx=True), address(build, "lash/")
    page = client.get(url).content.decode()
    assert "nothing to read" in page
    assert 'id="goes-' not in page
    assert client.post(url, {"act": "sign"}).status_code == 200
    assert ClearanceSession.objects.get().signed_by == owner.user


def test_a_finger_moves_the_valve_more_than_the_blade(owner: Membership) -> None:
    """Intake wanted 0.10, read 0.06 with 2.225 in, ratio 1.45: 2.225 - 0.04 x 1.45 = 2.167, nearest of 0.025 steps 2.175."""
    sizes = {"rocker_ratio": 1.45, "shim_step": 0.025e-3, "shim_thinnest": 1.6e-3, "shim_thickest": 3.0e-3}
    build = engine(owner, Gear.DOHC, Follower.FINGER, Adjuster.SHIM_ON_STEM, **sizes)
    page = read(owner, build, "IN 1", "0.05", "0.07", "2.225")
    assert "2.225 → 2.175" in page
    place = build.engine.positions.get(name="IN 1")
    panel = client_for(owner).get(address(build, "lash/"), {"valve": place.pk}).content.decode()
    assert "reading 0.060 less aim 0.100, times ratio 1.45" in panel
    assert "− 0.058" in panel  # the column adds up: 2.225 - 0.058 = 2.167
    assert "2.167" in panel


def test_a_best_blade_counts_with_its_feel(owner: Membership) -> None:
    """0.125 is 0.005 over the limit: with the feel of 0.01 mm it may be inside, so it is not called loose."""
    build = engine(owner, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
    client_for(owner, htmx=True).post(address(build, "lash/"), {"act": "manner", "method": "blade", "aim": "middle"})
    page = read(owner, build, "IN 1", "0.125", "", "2.5")
    assert "undecided" in page
    assert "in range" in read(owner, build, "EX 1", "0.15", "", "2.5")
    assert Reading.objects.count() == 2


def test_aiming_at_the_loose_end_takes_a_thinner_shim(owner: Membership) -> None:
    """Exhaust 0.13-0.17, read 0.04-0.06 with 2.5: middle wants 2.400; three quarters up, 0.16, wants 2.390."""
    sizes = {"shim_step": 0.01e-3, "shim_thinnest": 1.6e-3, "shim_thickest": 3.0e-3}
    build = engine(owner, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER, **sizes)
    assert "2.500 → 2.400" in read(owner, build, "EX 1", "0.04", "0.06", "2.5")
    page = (
        client_for(owner, htmx=True)
        .post(address(build, "lash/"), {"act": "manner", "method": "go_no_go", "aim": "loose end"})
        .content.decode()
    )
    assert "2.500 → 2.390" in page


def test_a_shim_beyond_the_sizes_is_told_as_a_seat_to_look_at(owner: Membership) -> None:
    sizes = {"shim_step": 0.05e-3, "shim_thinnest": 2.45e-3, "shim_thickest": 3.0e-3}
    build = engine(owner, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER, **sizes)
    page = read(owner, build, "EX 1", "0.00", "0.02", "2.5")
    assert "sizes run from 2.45 to 3.00" in page
    assert "Look at seat and stem tip" in page


def test_a_shim_typed_by_its_number_is_understood(owner: Membership) -> None:
    """People call 2.65 mm “265”."""
    build = engine(owner, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
    read(owner, build, "EX 1", "0.14", "0.16", "265")
    assert Reading.objects.get().shim == pytest.approx(2.65e-3)


@pytest.mark.parametrize("act", ["fly", ""])
def test_an_unknown_act_changes_nothing(owner: Membership, act: str) -> None:
    build = engine(owner, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
    answer = client_for(owner, htmx=True).post(address(build, "lash/"), {"act": act})
    assert answer.status_code == 422
    assert not ClearanceSession.objects.exists()


def test_estimated_limits_are_flagged_until_they_are_known(owner: Membership) -> None:
    known = engine(owner, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
    unknown = keep_record(owner, empty_build(EngineKind(1, 1, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)))
    client = client_for(owner)
    assert "limits are estimates" not in client.get(address(known, "lash/")).content.decode()
    assert "limits are estimates" in client.get(address(unknown, "lash/")).content.decode()
