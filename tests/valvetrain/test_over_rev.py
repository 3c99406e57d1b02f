"""Over-rev, its inspection, and gearing."""

import math
from dataclasses import replace

import pytest

from tests.valvetrain.builders import TRIPLE, known_build, measured
from valvetrain.errors import ContradictionError
from valvetrain.parts.engine import Gear, Side, ValvePosition
from valvetrain.parts.gaps import GapKind, GapReading, Way
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.gaps.piston import rest_of_reading
from valvetrain.studies.motion.review import MotionReview, review_motion
from valvetrain.studies.review.build import BuildReview, review
from valvetrain.studies.running.gearing import driveline, gears_of, rolling_at
from valvetrain.studies.running.inspection import inspection, outcome
from valvetrain.studies.running.over_rev import OverRev, judge_over_rev, overlapping, reached_by_log, reached_by_road, reached_by_shift

PLACES = tuple(ValvePosition(f"{side[:2].upper()} {n}", side, n) for side in Side for n in (1, 2, 3))
ROAD = {
    "primary_teeth_crank": 36.0, "primary_teeth_clutch": 76.0, "gear_1": 2.6, "gear_2": 1.933, "gear_3": 1.55, "front_teeth": 16.0,
    "rear_teeth": 47.0, "rolling": 1.8643656,
}  # fmt: skip


def _measured_build() -> BuildRecord:
    """A triple whose piston gaps were read, wide open."""
    record = known_build()
    found = review(record)
    rows = []
    for side, name in ((Side.INTAKE, "IN 1"), (Side.EXHAUST, "EX 1")):
        rest = rest_of_reading(found.room.geometry, found.completed.proposed.sides[side], 4.0e-3, None)
        rows.append(GapReading(GapKind.PISTON_VALVE, side, name, Way.CLAY, 4.0e-3, 0.1e-3, None, rest))
    return replace(record, gaps=tuple(rows))


@pytest.fixture(scope="module")
def judged() -> tuple[BuildReview, dict[Side, MotionReview]]:
    found = review(_measured_build())
    return found, {side: review_motion(train, found.completed.goal) for side, train in found.completed.proposed.sides.items()}


def _at(judged: tuple[BuildReview, dict[Side, MotionReview]], rpm: float) -> OverRev:
    found, motions = judged
    return judge_over_rev(found.completed, found.room, motions, "", reached_by_log(rpm / 60))


def test_the_trades_missed_shift() -> None:
    """PRACTICE D, common practice, no source: 9,200 rpm from third into second came to over 12,000. Ratios of such gearboxes: about 1.33."""
    found = reached_by_shift(9200 / 60, 1.45, 1.933)
    assert found.high * 60 > 12000
    assert found.high * 60 == pytest.approx(9200 * 1.933 / 1.45)
    assert found.low == pytest.approx(found.high * 0.9)
    with pytest.raises(ContradictionError, match="slows down"):
        reached_by_shift(150.0, 1.9, 1.4)


def test_a_road_speed_drags_the_engine_through_the_whole_ratio() -> None:
    """METHODS 11.1 and 11.3 together: 122.1943 km/h in second, 9.6121528 x 1.933 / 1.55: 13,094.516 rpm."""
    found = reached_by_road(122.1943 / 3.6, 1.8643656, 9.6121528 * 1.933 / 1.55)
    assert found.high * 60 == pytest.approx(13094.516, rel=1e-5)


@pytest.mark.parametrize(
    ("low", "high", "verdict"), [(80.0, 90.0, Verdict.HOLDS), (95.0, 105.0, Verdict.SLIM), (130.0, 140.0, Verdict.SHORT)]
)
def test_intervals_against_intervals(low: float, high: float, verdict: Verdict) -> None:
    assert overlapping(low, high, 100.0, 120.0) is verdict


@pytest.mark.slow
def test_verdict_worsens_with_speed(judged: tuple[BuildReview, dict[Side, MotionReview]]) -> None:
    slow, fast = _at(judged, 6000), _at(judged, 9700)
    assert slow.verdict is Verdict.HOLDS
    assert slow.missing == ()
    assert "stays inside every limit" in slow.sentence
    assert fast.verdict is Verdict.SHORT
    assert "Do not start it" in fast.sentence
    titles = {row.title for row in fast.against}
    assert {
        "intake contact",
        "exhaust valve to piston",
        "piston speed",
        "piston acceleration",
        "rod load over that at the stock limiter",
    } <= titles
    load = next(row for row in fast.against if row.title.startswith("rod load"))
    assert load.reached == pytest.approx((9700 * 1.01 / 7800) ** 2)
    left = [next(row.reached for row in found.against if row.title == "exhaust valve to piston") for found in (slow, fast)]
    assert left[1] < left[0]


def test_it_is_never_called_fine_with_data_missing(judged: tuple[BuildReview, dict[Side, MotionReview]]) -> None:
    """The same harmless speed, without the piston gaps or without the motion: unproven, and what is missing is named."""
    _, motions = judged
    bare = review(known_build())
    found = judge_over_rev(bare.completed, bare.room, motions, "", reached_by_log(6500 / 60))
    assert found.verdict is Verdict.UNPROVEN
    assert "cannot be called fine" in found.sentence
    assert any("never measured" in words for words in found.missing)
    full, _ = judged
    still = judge_over_rev(full.completed, full.room, {}, "", reached_by_log(6500 / 60))
    assert still.verdict is Verdict.UNPROVEN
    assert any("move" in words for words in still.missing)
    far = _at(judged, 30000)
    assert far.verdict is Verdict.SHORT  # piston speed alone says so, whatever lies beyond the sweep
    assert any("the motion of" in words for words in far.missing)


def test_inspection_comes_in_the_trades_order() -> None:
    """PRACTICE D: borescope on each crown before anything is turned, leak-down, retainers and keepers of every valve, clearances; only then it runs."""
    steps = inspection(TRIPLE, PLACES)
    kinds = [step.key.partition("-")[0] for step in steps]
    assert list(dict.fromkeys(kinds)) == ["crown", "drive", "leak", "keepers", "spring", "clearance", "bearings"]
    assert kinds.count("crown") == kinds.count("leak") == 3
    assert kinds.count("keepers") == kinds.count("clearance") == 6
    side = inspection(replace(TRIPLE, gear=Gear.SIDE_VALVE), PLACES)
    assert not any(step.key.startswith("crown") for step in side)


def test_outcome_needs_every_step_and_one_grave_finding_stops_it() -> None:
    steps = inspection(TRIPLE, PLACES)
    sound = {step.key: step.findings[0].key for step in steps}
    assert outcome(steps, {})[0] == "open"
    assert outcome(steps, dict(list(sound.items())[:-1]))[0] == "open"
    assert outcome(steps, sound)[0] == "clear"
    state, words = outcome(steps, sound | {"crown-2": "kissed"})
    assert state == "stop"
    assert "cylinder 2" in words
    assert all(step.findings[0].grave is False for step in steps)
    assert all(any(finding.grave for finding in step.findings) for step in steps)


def test_speeds_in_the_gears() -> None:
    """METHODS 11.1: third at 10,500 rpm is 122.1943 km/h."""
    engine = {key: measured(value) for key, value in ROAD.items()}
    found = driveline(engine, (175.0,), None, 175.0, 190.0)
    assert found.kind == "road"
    third = next(line for line in found.lines if line.gear == 3)
    assert third.speeds[0] * 3.6 == pytest.approx(122.1943, rel=1e-6)
    assert gears_of(engine) == {1: 2.6, 2: 1.933, 3: 1.55}


def test_sprockets_that_give_the_speed_within_the_limiter() -> None:
    engine = {key: measured(value) for key, value in ROAD.items()}
    found = driveline(engine, (175.0,), 130 / 3.6, 175.0, 190.0)
    assert found.needs is not None
    assert found.needs * 60 == pytest.approx(10500 * 130 / 122.1943, rel=1e-5)
    assert found.pairs
    assert all(pair.needs <= 175.0 for pair in found.pairs)
    assert [pair.changed for pair in found.pairs] == sorted(pair.changed for pair in found.pairs)
    best = found.pairs[0]
    assert best.needs == pytest.approx(found.needs * (best.rear / best.front) / (47 / 16))
    assert "cheaper speed" in found.sentence
    # ISO 606, first term of the chain's length: half the teeth that come or go
    assert all(pair.links == (pair.front - 16 + pair.rear - 47) / 2 for pair in found.pairs)
    enough = driveline(engine, (175.0,), 100 / 3.6, 175.0, 190.0)
    assert enough.pairs == ()
    assert "power is short" in enough.sentence


def test_growth_and_slip_of_the_wheel() -> None:
    engine = {key: measured(value) for key, value in (ROAD | {"tyre_growth": 0.02, "wheel_slip": 0.05}).items()}
    assert rolling_at(engine, top=True) == pytest.approx(1.8643656 * 1.02 * 0.95)
    assert rolling_at(engine, top=False) == pytest.approx(1.8643656 * 0.95)


def test_water_governor_and_gaps_in_what_is_told() -> None:
    craft = {key: measured(value) for key, value in {"impeller_pitch": 0.16, "impeller_slip": 0.15, "impeller_ratio": 1.0}.items()}
    found = driveline(craft, (130.0,), 19.0, 130.0, 140.0)
    assert found.kind == "water"
    assert found.lines[0].speeds[0] == pytest.approx(130 * 0.16 * 0.85)
    assert found.needs == pytest.approx(19.0 / (0.16 * 0.85))
    assert "within the goal" in found.sentence
    pump = driveline({"governed": measured(60.0)}, (60.0,), None, 60.0, 96.0)
    assert pump.kind == "governed"
    assert "flywheel" in pump.sentence
    none = driveline({"front_teeth": measured(15.0)}, (130.0,), None, 130.0, 140.0)
    assert none.kind == "none"
    assert none.missing == ("rear sprocket", "how far the wheel rolls in one turn", "the gear ratios")
    assert not math.isnan(found.lines[0].ratio)
