"""What was foretold and what came: kept with the test where nobody asked before, held against what was seen before the work, and promises of shims."""

import pytest
from django.test import Client
from django.utils import timezone

from rocklash.answers import tasks
from rocklash.answers.calibration import _inputs
from rocklash.answers.results import result_of
from rocklash.answers.store import content_key
from rocklash.records.models import Build, ClearanceSession, Forecast, Membership, Observation, PlannedShim, ProofTest, Reading
from tests.rocklash.conftest import address, client_for
from valvetrain.studies.motion.calibration import Calibration
from valvetrain.studies.motion.review import Onset


@pytest.fixture
def client(builder: Membership) -> Client:
    return client_for(builder)


def anchored(build: Build, member: Membership, seen: float, after: tuple[float, float, float]) -> None:
    """Stock springs seen to give up, and the working out of the next ones done."""
    row = Observation.objects.create(build=build, role="stock", side="exhaust", speed=seen / 60, spread=50 / 60, by=member.user)
    onset = Onset(*(each / 60 for each in after))
    key = content_key(*_inputs(result_of(build), row))
    tasks.keep("calibration", key, Calibration(onset, onset, onset, "", 20.0, (), ()))


def rev(client: Client, build: Build, speed: str, phase: str = "after") -> None:
    told = {"phase": phase, "speed": speed, "by": "tachometer", "how": "wall", "doubt": "", "stretch": "", "gear": ""}
    assert client.post(address(build, "proof/pulls/"), {"act": "rev", **told}).status_code == 200


def test_float_and_gain_are_foretold_from_what_was_seen_before(petrel: Build, builder: Membership, client: Client) -> None:
    anchored(petrel, builder, 8000.0, (8900.0, 8600.0, 9200.0))
    assert client.post(address(petrel, "proof/"), {"act": "foretell"}).status_code == 200
    gain = Forecast.objects.get(kind="gain exhaust")
    assert [60 * each for each in (gain.low, gain.middle, gain.high)] == pytest.approx([550.0, 900.0, 1250.0])
    assert "8,000 rpm" in gain.rests_on
    rev(client, petrel, "8780")
    gain.refresh_from_db()
    told = Forecast.objects.get(kind="float exhaust")
    assert 60 * told.result == pytest.approx(8780.0)  # type: ignore[operator]
    assert 60 * gain.result == pytest.approx(780.0)  # type: ignore[operator]
    page = client.get(address(petrel, "proof/")).content.decode()
    assert "Exhaust valves float later by" in page


def test_a_test_that_nobody_foretold_is_foretold_as_it_is_kept(petrel: Build, builder: Membership, client: Client) -> None:
    """The band is the model's, not drawn about the result; removed with its test it is open again."""
    anchored(petrel, builder, 8000.0, (8900.0, 8600.0, 9200.0))
    rev(client, petrel, "10400")
    row = Forecast.objects.get(kind="float exhaust")
    assert 60 * row.high == pytest.approx(9200.0)
    assert row.result > row.high  # type: ignore[operator]
    assert "kept with the test" in row.rests_on
    client.post(address(petrel, "proof/pulls/"), {"act": "remove", "test": ProofTest.objects.get().pk})
    row.refresh_from_db()
    assert row.result is None


def test_a_gauge_is_held_against_the_cranking_it_was_read_at(petrel: Build, client: Client) -> None:
    """A starter that turns half as fast lets more leak by: the forecast for that day's cranking lies lower, and replaces the usual one."""
    client.post(address(petrel, "proof/"), {"act": "foretell"})
    usual = Forecast.objects.get(kind="compression")
    client.post(
        address(petrel, "proof/cylinders/"),
        {
            "act": "compression",
            "phase": "after",
            "dry_1": "9.8 bar",
            "cranking": "150",
            "ambient": "",
            "hose": "",
            "oil_volume": "",
            "oil": "",
        },
    )
    row = Forecast.objects.get(kind="compression")
    assert row.pk != usual.pk
    assert row.middle < usual.middle
    assert row.result == pytest.approx(9.8e5)
    assert "as entered" in row.rests_on


def test_promises_of_shims_are_scored_beside_the_rest(petrel: Build, builder: Membership, client: Client) -> None:
    session = ClearanceSession.objects.create(build=petrel, started_by=builder.user, signed_at=timezone.now(), signed_by=builder.user)
    for place, read in zip(petrel.engine.positions.all(), (0.195e-3, 0.205e-3, 0.24e-3), strict=False):
        for recheck, value in ((False, 0.16e-3), (True, read)):
            Reading.objects.create(
                session=session, position=place, recheck=recheck, goes=value, stops=value, goes_typed="x", shim=2.4e-3, by=builder.user
            )
        PlannedShim.objects.create(session=session, position=place, size=2.36e-3, source="shelf", low=0.19e-3, high=0.21e-3)
    scores = {row.kind: row for row in client.get(address(petrel, "proof/learn/")).context["scores"]}
    assert scores["clearance by a shim"].held == "2 of 3"
