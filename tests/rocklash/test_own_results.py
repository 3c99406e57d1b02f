"""What a workshop's own engines taught: gathered, taken in, switched, used, and never across workshops or for the engine itself."""

import math
from datetime import timedelta
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone

from rocklash.answers import tasks
from rocklash.answers.calibration import _inputs
from rocklash.answers.own_priors import own_blade, own_figures, own_pace, prior_of
from rocklash.answers.own_results import aged, gather
from rocklash.answers.results import result_of
from rocklash.answers.store import content_key
from rocklash.answers.wear import trends_of
from rocklash.commands.builds import keep_record
from rocklash.records.models import Build, ClearanceSession, JournalEntry, Membership, Observation, Part, Reading, SpringLog, Workshop
from rocklash.records.selectors.builds import build_or_404
from rocklash.records.selectors.clearances import sheets_of
from tests.rocklash.conftest import DEMO, address, client_for
from valvetrain.formats import build_file
from valvetrain.studies.motion.calibration import Calibration, Learnt
from valvetrain.studies.motion.review import Onset
from valvetrain.studies.proof.own_results import Learned


@pytest.fixture
def client(builder: Membership) -> Client:
    return client_for(builder)


def fresh(build: Build) -> Build:
    return build_or_404(Workshop.objects.get(pk=build.workshop_id), build.pk)


def told(what: Learned, values: list[float], about: str = "", builds: list[int] | None = None) -> dict[str, Any]:
    numbers = builds or [0] * len(values)
    rows = [[value, 0.1, f"result {n}", number, about] for n, (value, number) in enumerate(zip(values, numbers, strict=True))]
    return {what.name.lower(): {"used": True, "results": rows}}


def give(build: Build, own: dict[str, Any]) -> Build:
    Workshop.objects.filter(pk=build.workshop_id).update(own=own)
    return fresh(build)


def log_of(part: Part, loads: list[float], *, used: bool) -> SpringLog:
    text = "height mm;load N\n" + "\n".join(f"{height};{load}" for height, load in zip((37.0, 34.0, 31.0, 28.0), loads, strict=True))
    return SpringLog.objects.create(part=part, text=text, used=used, readings=4)


def sheet(build: Build, member: Membership, hours: float, gap: float) -> None:
    session = ClearanceSession.objects.create(
        build=build, started_by=member.user, hours=hours, signed_at=timezone.now() + timedelta(hours=hours), signed_by=member.user
    )
    for place in build.engine.positions.all():
        Reading.objects.create(
            session=session, position=place, recheck=False, goes=gap, stops=gap + 0.01e-3, goes_typed="x", by=member.user
        )


def test_three_stiff_engines_move_the_next_ones_estimate(petrel: Build, client: Client) -> None:
    plain = result_of(petrel)
    assert plain.review is not None
    usual = plain.review.completed.engine["train_stiffness"]
    build = give(petrel, told(Learned.STIFFNESS, [1.7, 1.8, 1.9], petrel.engine.gear))
    moved = result_of(build)
    assert moved.review is not None
    now = moved.review.completed.engine["train_stiffness"]
    assert 1.3 * usual.value < now.value < 1.9 * usual.value
    assert now.spread / now.value < usual.spread / usual.value
    assert moved.train_keys != plain.train_keys
    page = client.get(address(petrel, "proof/learn/"))
    row = next(each for each in page.context["own"] if each.count)
    assert (row.count, row.used, row.enough) == (3, True, True)
    assert client.post(address(petrel, "proof/learn/"), {"act": "use"}).status_code == 200
    off = result_of(fresh(petrel))
    assert off.review is not None
    assert off.review.completed.engine["train_stiffness"] == usual
    assert JournalEntry.objects.filter(verb="own results").count() == 1


def test_an_engine_s_own_results_never_count_for_itself_nor_another_gear_s(petrel: Build) -> None:
    gear, mine = petrel.engine.gear, petrel.pk
    assert own_figures(give(petrel, told(Learned.STIFFNESS, [1.7, 1.8, 1.9], gear, [mine, mine + 1, mine + 2]))) == {}
    assert own_figures(give(petrel, told(Learned.STIFFNESS, [1.7, 1.8, 1.9], "side_valve"))) == {}
    found = own_figures(give(petrel, told(Learned.STIFFNESS, [1.7, 1.8, 1.9, 9.0], gear, [mine + 1, mine + 2, mine + 3, mine])))
    assert found["train_stiffness"].value < 2.0


def test_results_stay_with_their_workshop(petrel: Build, stranger: Membership) -> None:
    give(petrel, told(Learned.STIFFNESS, [1.7, 1.8, 1.9], petrel.engine.gear))
    text = (DEMO / "petrel_1498.json").read_text(encoding="utf-8")
    theirs = keep_record(stranger, build_file.read(text))
    assert own_figures(build_or_404(stranger.workshop, theirs.pk)) == {}
    page = client_for(stranger).get(address(theirs, "proof/learn/"))
    assert [each.count for each in page.context["own"]] == [0] * 5


def test_everything_the_records_hold_is_taken_in_once(petrel: Build, builder: Membership, client: Client) -> None:
    """A calibration, two sheets with hours and a spring tested new and used: one result each of a side, a spring; again finds nothing new."""
    answer = result_of(petrel)
    seen = Observation.objects.create(build=petrel, role="stock", side="exhaust", speed=180.0, spread=2.0, by=builder.user)
    onset = Onset(180.0, 170.0, 190.0)
    learnt = (Learnt("shake:train_stiffness", 20e6, 26e6, 0.8, 0.3), Learnt("shake:spring_damping", 0.02, 0.02, 0.0, 0.005))
    tasks.keep("calibration", content_key(*_inputs(answer, seen)), Calibration(onset, onset, onset, "", 20.0, learnt, ()))
    sheet(petrel, builder, 10.0, 0.15e-3)
    sheet(petrel, builder, 30.0, 0.11e-3)
    side = next(row for setup in petrel.setups.all() for row in setup.sides.all() if row.outer_spring)
    assert side.outer_spring is not None
    log_of(side.outer_spring, [200.0, 320.0, 440.0, 560.0], used=False)
    log_of(side.outer_spring, [190.0, 308.0, 426.0, 544.0], used=True)
    found = gather(petrel.workshop)
    stiff, loss = found[Learned.STIFFNESS][0], found[Learned.LOAD_LOSS][0]
    assert stiff.value > 1.3
    assert stiff.about == petrel.engine.gear
    assert not found[Learned.DAMPING]
    assert loss.value == pytest.approx(0.05, rel=0.02)
    rates = [row.value for row in found[Learned.RECESSION]]
    assert rates == pytest.approx([0.04e-3 / 20.0] * 2, rel=0.02)
    where = address(petrel, "proof/learn/")
    assert client.post(where, {"act": "take-in"}).status_code == 200
    kept = Workshop.objects.get(pk=petrel.workshop_id).own
    assert {key: len(each["results"]) for key, each in kept.items()} == {"stiffness": 1, "load_loss": 1, "recession": 2}
    again = client.post(where, {"act": "take-in"})
    assert again.status_code == 422
    assert "nothing new" in again.content.decode()
    tasks.forget("calibration")
    assert not gather(petrel.workshop)[Learned.STIFFNESS]
    sheet(petrel, builder, 50.0, 0.08e-3)
    assert client.post(where, {"act": "take-in"}).status_code == 200
    assert len(Workshop.objects.get(pk=petrel.workshop_id).own["stiffness"]["results"]) == 1
    assert client.post(where, {"act": "undo", "entry": str(JournalEntry.objects.latest("pk").pk)}).status_code == 200
    assert Workshop.objects.get(pk=petrel.workshop_id).own == kept


def test_pace_load_loss_and_blade_of_the_shop_are_used(petrel: Build, builder: Membership) -> None:
    sheet(petrel, builder, 10.0, 0.18e-3)
    sheet(petrel, builder, 12.0, 0.18e-3)
    usual = trends_of(petrel, result_of(petrel), sheets_of(petrel))
    own = (
        told(Learned.RECESSION, [4e-6, 5e-6, 6e-6])
        | told(Learned.LOAD_LOSS, [0.08, 0.09, 0.10])
        | told(Learned.BLADE, [0.018e-3, 0.02e-3, 0.022e-3])
    )
    build = give(petrel, own)
    pace = own_pace(build)
    assert pace is not None
    assert 2e-6 < pace[0] < 6e-6
    soon = trends_of(build, result_of(build), sheets_of(build))
    first, then = (next(trend for _, side, trend, _ in found if side == "intake" and trend is not None) for found in (soon, usual))
    assert 0.0 < (first.limit_least or math.inf) < (then.limit_least or math.inf)
    prior, sides = aged(build, result_of(build))
    assert prior is not None
    assert prior.middle == prior_of(build.workshop, Learned.LOAD_LOSS).middle
    for each in sides:
        assert each.then == pytest.approx(each.now * (1.0 - prior.middle))
        assert each.least < each.then < each.most
        assert 0.9 < each.part < 1.0
    blade = own_blade(build.workshop)
    assert blade is not None
    assert 0.012e-3 < blade < 0.022e-3
    client_for(builder).post(address(petrel, "lash/"), {"act": "manner", "method": "blade"})
    assert ClearanceSession.objects.get(build=petrel, signed_at=None).feel == pytest.approx(blade)


def test_who_only_looks_takes_nothing_in(petrel: Build, viewer: Membership) -> None:
    assert client_for(viewer).post(address(petrel, "proof/learn/"), {"act": "take-in"}).status_code == 403
