"""Gear that differs from the usual: one lobe over two valves, keyholes, caps beside screws, hydraulic elements, single-speed machines."""

import math
from dataclasses import replace

import pytest

from tests.valvetrain.builders import known_build, measured
from valvetrain.formats import build_file
from valvetrain.formulas.driveline import chain_links, shaft_distance
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side, kind_told
from valvetrain.parts.record import BuildRecord, PartRecord
from valvetrain.studies.cams.lobe_fit import lobe_fit, outline_of
from valvetrain.studies.checks.check import CheckCode, Verdict
from valvetrain.studies.review.build import review
from valvetrain.studies.running.gearing import driveline
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.side_figures import moving_mass, nominal_float_speed, weakest

ROCKERS = EngineKind(3, 2, Gear.OHC, Follower.ROCKER, Adjuster.SCREW)


def _build(kind: EngineKind, rocker: float, **facts: str) -> BuildRecord:
    """A measured triple with rockers of a mass (kg, at the valve) on both sides."""
    record = known_build()

    def with_rocker(side: Side) -> object:
        own = record.stock[side]
        return replace(own, parts={**own.parts, Owner.FOLLOWER: PartRecord("rocker", {"mass": measured(rocker)})})

    sides = {side: with_rocker(side) for side in Side}
    told = kind_told(kind.cylinders, kind.valves_per_side, kind.gear, kind.follower, kind.adjuster, facts)
    return replace(record, kind=told, stock=sides, proposed=dict(sides), facts=facts)  # type: ignore[arg-type]


def _float(record: BuildRecord, side: Side) -> float:
    return next(check.figure for check in review(record).proposed.checks if check.code is CheckCode.FLOAT and check.side is side)


def test_each_of_two_valves_carries_half_of_their_rocker() -> None:
    """Statics: two springs hold two valves and one rocker, so that a rocker over two weighs on each like one of half its mass on one."""
    shared, own = _build(ROCKERS, 0.080, lobe_intake="shared"), _build(ROCKERS, 0.080)
    assert _float(shared, Side.INTAKE) == pytest.approx(_float(_build(ROCKERS, 0.040), Side.INTAKE), rel=1e-9)
    assert _float(shared, Side.EXHAUST) == pytest.approx(_float(own, Side.EXHAUST), rel=1e-9)
    trains = [complete(each).proposed.sides[Side.INTAKE] for each in (own, shared)]
    heavy, light = (moving_mass(train).value for train in trains)
    assert heavy - light == pytest.approx(0.040)
    slow, fast = (nominal_float_speed(train, weakest(train)) for train in trains)
    assert fast / slow == pytest.approx(math.sqrt(heavy / light), rel=1e-4)


def test_one_lobe_bears_both_springs() -> None:
    """Force on the lobe is that of both valves; pressure of a line contact grows with the root of the force (Hertz)."""
    goal = 140.0
    own, shared = (complete(_build(ROCKERS, grams, **facts)) for grams, facts in ((0.040, {}), (0.080, {"lobe_intake": "shared"})))
    fits = [
        lobe_fit(each.proposed.sides[Side.INTAKE], each.proposed_sides[Side.INTAKE].parts[Owner.CAM], {}, "", goal)
        for each in (own, shared)
    ]
    assert fits[1].force_goal == pytest.approx(2.0 * fits[0].force_goal, rel=1e-9)
    assert fits[1].force_cranking == pytest.approx(2.0 * fits[0].force_cranking, rel=1e-9)
    assert fits[0].stress_goal
    assert fits[1].stress_goal == pytest.approx(math.sqrt(2.0) * fits[0].stress_goal, rel=1e-9)


def test_a_bucket_shares_no_lobe() -> None:
    kind = kind_told(3, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER, {"lobe_intake": "shared", "caps": "yes"})
    assert kind.on_a_lobe(Side.INTAKE) == 1
    assert not kind.caps


def test_two_camshafts_may_work_rockers() -> None:
    told = review(_build(replace(ROCKERS, gear=Gear.DOHC), 0.03))
    assert not told.completed.stock.kind.one_camshaft
    assert told.proposed.checks


def test_a_keyhole_retainer_has_no_keepers() -> None:
    record = _build(ROCKERS, 0.03)
    own = record.proposed[Side.INTAKE]
    keyed = replace(own, parts={**own.parts, Owner.RETAINER: replace(own.parts[Owner.RETAINER], facts={"held_by": "keyhole"})})
    before, after = (
        complete(each).proposed.sides[Side.INTAKE] for each in (record, replace(record, proposed={**record.proposed, Side.INTAKE: keyed}))
    )
    assert before.masses["keepers"].value == pytest.approx(1.9e-3)
    assert after.masses["keepers"].value == 0.0


def test_a_build_file_carries_the_gear() -> None:
    record = _build(ROCKERS, 0.08, lobe_intake="shared", caps="yes", machine="single")
    again = build_file.read(build_file.write(record))
    assert again.kind == record.kind
    assert again.kind.on_a_lobe(Side.INTAKE) == 2
    assert again.kind.caps


@pytest.mark.parametrize(("rpm", "verdict"), [(9000.0, Verdict.HOLDS), (8410.0, Verdict.SLIM), (7000.0, Verdict.SHORT)])
def test_hydraulic_elements_are_held_against_the_goal(rpm: float, verdict: Verdict) -> None:
    """The goal is 8,400 rpm; what the maker says of the elements is known to 2 %."""
    record = _build(replace(ROCKERS, adjuster=Adjuster.HYDRAULIC), 0.03)
    limit = measured(rpm / 60.0, 0.02 * rpm / 60.0)
    found = review(replace(record, engine={**record.engine, "hydraulic_limit": limit})).proposed
    check = next(each for each in found.checks if each.code is CheckCode.LIFTERS)
    assert check.verdict is verdict
    if verdict is Verdict.SHORT:
        assert check.remedies
        assert found.good_to <= 7000.0 / 60.0  # type: ignore[operator]


def test_only_hydraulic_engines_have_that_check() -> None:
    assert not [check for check in review(_build(ROCKERS, 0.03)).proposed.checks if check.code is CheckCode.LIFTERS]


def test_chain_and_distance_answer_one_another() -> None:
    """A chain round two equal sprockets is two distances and one of their rounds, whatever the pitch."""
    assert chain_links(0.381, 12.7e-3, 20, 20) == pytest.approx(2 * 0.381 / 12.7e-3 + 20)
    for teeth in (9, 15, 31):
        assert shaft_distance(chain_links(0.45, 7.774e-3, teeth, 74), 7.774e-3, teeth, 74) == pytest.approx(0.45, rel=1e-12)


def test_a_single_speed_machine_needs_no_gears() -> None:
    """Crank to wheel is the sprockets alone: rpm = v i / C."""
    told = {
        "front_teeth": 11.0,
        "rear_teeth": 66.0,
        "rolling": 0.86,
        "clutch_engages": 3600 / 60,
        "chain_pitch": 7.774e-3,
        "chain_links": 106.0,
    }
    engine = {key: measured(value) for key, value in told.items()}
    found = driveline(engine, (100.0,), 50 / 3.6, 90.0, 110.0, "single")
    assert found.kind == "single"
    assert found.lines[0].speeds[0] == pytest.approx(100.0 * 0.86 / 6.0)
    assert found.needs == pytest.approx(50 / 3.6 * 6.0 / 0.86)
    assert found.clutch == pytest.approx((60.0, 60.0 * 0.86 / 6.0))
    assert found.pairs
    for pair in found.pairs:
        assert found.distance
        assert pair.length == pytest.approx(chain_links(found.distance, 7.774e-3, pair.front, pair.rear))
    without = driveline({key: engine[key] for key in ("front_teeth", "rear_teeth", "rolling")}, (100.0,), None, 90.0, 110.0)
    assert without.missing == ("the gear ratios",)


def test_a_shift_lands_where_the_ratios_say() -> None:
    engine = {
        key: measured(value)
        for key, value in {"front_teeth": 14.0, "rear_teeth": 42.0, "rolling": 1.9, "gear_1": 2.5, "gear_2": 2.0, "gear_4": 1.25}.items()
    }
    found = driveline(engine, (100.0,), None, 150.0, 160.0)
    assert [(shift.gear, round(shift.limiter, 3), round(shift.goal, 3)) for shift in found.shifts] == [(1, 120.0, 128.0), (2, 93.75, 100.0)]


@pytest.mark.parametrize("shared", [{}, {"lobe_intake": "shared"}])
def test_a_forked_rocker_lifts_and_clears_by_its_arms(shared: dict[str, str]) -> None:
    """Small turns: the valve moves as its arm to the cam's, both valves alike. Pivot 38, cam arm 30, valve arm 42 mm: 1.4 times; a blade of 0.10 mm
    at the roller, where the ratio to the valve is 1.4, is 0.14 mm at the valve."""
    record = _build(ROCKERS, 0.05, **shared)
    own = record.proposed[Side.INTAKE]
    arms = {
        "pivot": measured(38e-3),
        "arm": measured(30e-3),
        "valve_arm": measured(42e-3),
        "face_radius": measured(9e-3),
        "mass": measured(0.05),
    }
    rocker = PartRecord("forked", arms, {"contact": "roller"})
    fit = {**own.fit, "clearance": measured(0.10e-3)}
    forked = replace(own, parts={**own.parts, Owner.FOLLOWER: rocker}, fit=fit)
    engine = {**record.engine, "rocker_ratio": measured(1.4)}
    train = complete(replace(record, engine=engine, proposed={**record.proposed, Side.INTAKE: forked})).proposed.sides[Side.INTAKE]
    drive = train.cam.drive
    assert drive.valve_arm / drive.arm == pytest.approx(1.4)
    assert train.clearance.value == pytest.approx(0.14e-3)
    assert train.on_a_lobe == (2 if shared else 1)
    # by the law of cosines: the roller's centre turns about the pivot by lift over valve arm, and stands that much further from the cam's axis
    _, outline = outline_of(train)
    shut = train.cam.base + 9e-3
    angle = math.acos((38e-3**2 + 30e-3**2 - shut**2) / (2.0 * 38e-3 * 30e-3)) + train.curve.full / 42e-3
    away = math.sqrt(38e-3**2 + 30e-3**2 - 2.0 * 38e-3 * 30e-3 * math.cos(angle)) - 9e-3
    assert float(abs(outline).max()) == pytest.approx(away, rel=2e-3)
