"""Heights and shims, the answers backwards, what force costs, and gas against spring: closed forms, and each answer put back in."""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.valvetrain.builders import harmonic, known_build, measured, on_its_own_lobe
from valvetrain.errors import ContradictionError
from valvetrain.formulas.coil_springs import rate, shear_stress
from valvetrain.parts.engine import Side, ValvePosition
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.studies.checks.assessment import float_limit
from valvetrain.studies.checks.check import CheckCode, Verdict
from valvetrain.studies.motion.case import motion_case
from valvetrain.studies.motion.forces import least_contact, moving_forces, rigid_forces
from valvetrain.studies.motion.sweep import sweep
from valvetrain.studies.review.build import review
from valvetrain.studies.springs.demands import demand, wanted_spring
from valvetrain.studies.springs.force_cost import cost_of_force
from valvetrain.studies.springs.gas_hold import gas_hold
from valvetrain.studies.springs.installed import height_from_protrusion, plan_heights, recession
from valvetrain.studies.springs.spring_strength import strength_of
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.side_figures import moving_mass, nominal_float_speed, nominal_force, nominal_seat_load, weakest


def _side(**goal: float) -> tuple[TrainSide, Goal]:
    done = complete(known_build(**goal))
    return done.proposed.sides[Side.INTAKE], done.goal


def open_load(side: TrainSide) -> float:
    """Nominal spring force (N) of the weakest valve at full lift."""
    return float(nominal_force(side, weakest(side), np.array(side.lift.value - side.clearance.value)))


def with_seat(side: TrainSide, seat: float) -> TrainSide:
    """The side with springs of the same rate that give another seat load (N) on its weakest valve."""
    first = side.springs[0]
    load = first.spring.load.plus(seat - nominal_seat_load(side, weakest(side)))
    return replace(side, springs=(replace(first, spring=replace(first.spring, load=load)), *side.springs[1:]))


def test_height_from_protrusion() -> None:
    assert height_from_protrusion(45.6e-3, 8.4e-3) == pytest.approx(37.2e-3)
    with pytest.raises(ContradictionError, match="no room for a spring"):
        height_from_protrusion(8e-3, 8.4e-3)


def test_each_valve_gets_the_least_shim_that_brings_its_seat_load() -> None:
    side, goal = _side()
    places = tuple(
        ValvePosition(f"IN {n}", Side.INTAKE, n, deviation) for n, deviation in enumerate((0.0, 0.0, -0.6e-3, 2.2e-3), 1)
    )  # IN 2 stands 0.5 mm high on 0.5 mm of shim
    plan = plan_heights(replace(side, positions=places), goal, 178.0, {"IN 2": 0.5e-3})
    by_name = {each.place.name: each for each in plan}
    assert by_name["IN 1"].shim_next == 0.0
    assert by_name["IN 1"].load_after == pytest.approx(178.0)
    assert by_name["IN 2"].shim == 0.5e-3
    assert by_name["IN 2"].load == pytest.approx(178.0)
    assert by_name["IN 2"].shim_next == pytest.approx(0.5e-3)
    assert by_name["IN 3"].shim_next == 0.0
    assert by_name["IN 3"].load == pytest.approx(178.0 + 0.6e-3 * 38400)
    assert "stands low" in by_name["IN 3"].words
    assert by_name["IN 4"].shim_next == pytest.approx(2.25e-3)
    assert by_name["IN 4"].shims == (0.75e-3, 1.5e-3)
    assert all(each.verdict in (Verdict.HOLDS, Verdict.SLIM) for each in plan)
    assert all(each.bind_after >= goal.coil_bind_limit for each in plan)


def test_coil_bind_comes_before_the_seat_load() -> None:
    side, goal = _side()
    plan = plan_heights(side, goal, 300.0, {})
    assert plan[0].verdict is Verdict.SHORT
    assert plan[0].words == "no shim brings it: coil bind comes first"
    tall = replace(side.springs[0].spring, solid_height=measured(29e-3))
    bound = plan_heights(replace(side, springs=(replace(side.springs[0], spring=tall),)), goal, 178.0, {})
    assert bound[0].words == "binds at full lift even without a shim"


def test_a_receded_seat_costs_load_and_clearance() -> None:
    side, _ = _side()
    found = recession(side, weakest(side), 0.1e-3, 1.0)
    assert found.load == pytest.approx(-3.84)
    assert found.clearance == pytest.approx(-0.1e-3)
    assert found.closes_at == pytest.approx(0.25e-3)
    assert recession(side, weakest(side), 0.1e-3, 1.4).clearance == pytest.approx(-0.1e-3 / 1.4)


def test_reverse_answers_hold_the_goal_when_put_back_in() -> None:
    side, goal = _side(goal_rpm=150.0, over_rev=155.0, reserve=0.1)
    side = on_its_own_lobe(side)
    found, place, limit = demand(side, goal), weakest(side), float_limit(goal)
    assert found.limit == limit
    assert found.seat
    assert nominal_float_speed(with_seat(side, found.seat), place) == pytest.approx(limit, rel=1e-6)
    scaled = {name: Figure(figure.value * found.mass / found.has_mass) for name, figure in side.masses.items()}
    spring = replace(side.springs[0].spring, mass=Figure(side.springs[0].spring.mass.value * found.mass / found.has_mass))
    light = replace(side, masses=scaled, springs=(replace(side.springs[0], spring=spring),))
    assert moving_mass(light).value == pytest.approx(found.mass)
    assert nominal_float_speed(light, place) == pytest.approx(limit, rel=1e-6)
    assert found.rate
    stiff = replace(side.springs[0].spring, rate=Figure(found.rate), load=Figure(178.0), load_height=Figure(37.2e-3))
    assert nominal_float_speed(replace(side, springs=(replace(side.springs[0], spring=stiff),)), place) == pytest.approx(limit, rel=1e-6)


def test_acceleration_that_would_hold_is_the_closed_form_on_a_harmonic_lobe() -> None:
    # methods check 4.4: the nose decides on a harmonic lobe; F = m omega^2 a there
    side, goal = _side()
    curve = harmonic(9.0e-3, 72.0)

    class _Cam:
        def __init__(self) -> None:
            self.curve, self.shape, self.lobes = curve, None, None

    side = replace(side, cam=_Cam(), lift=measured(9e-3), clearance=measured(0.0), joint=None, shape=Figure(1.0))  # type: ignore[arg-type]
    found = demand(side, goal)
    omega = math.pi * found.limit
    assert found.has_acceleration == pytest.approx(28.125e-3)
    assert found.acceleration == pytest.approx(open_load(side) / (moving_mass(side).value * omega**2), rel=1e-5)


def test_surplus_is_told_and_least_force_is_ours() -> None:
    side, goal = _side(goal_rpm=110.0, over_rev=112.0, reserve=0.05)
    found = demand(side, goal)
    assert found.seat is not None
    assert found.shim == 0.0


def test_shim_that_does_it_and_no_shim_where_coils_bind() -> None:
    side, goal = _side(goal_rpm=138.0, over_rev=138.0, reserve=0.0)
    side = on_its_own_lobe(side)
    base = nominal_float_speed(side, weakest(side))
    need = replace(goal, goal_rpm=base * 1.01, over_rev=base * 1.01, reserve=0.0)
    found = demand(side, need)
    assert found.shim
    assert nominal_float_speed(replace(side, spring_shim=side.spring_shim.plus(found.shim)), weakest(side)) >= base * 1.01
    assert demand(side, replace(goal, goal_rpm=base * 1.3, over_rev=base * 1.3)).shim is None


def test_a_wanted_spring_is_one_that_could_be_wound() -> None:
    found = wanted_spring(180.0, 520.0, 37e-3, 9e-3, 1e-3, 29e-3)
    assert found.wire
    mean = 29e-3 - found.wire
    wound = rate(found.wire, mean, found.coils - 2.0, 79.5e9)
    assert wound == pytest.approx((520.0 - 180.0) / 9e-3, rel=1e-6)
    assert found.coils * found.wire <= 37e-3 - 9e-3 - 1e-3
    assert found.stress < 1.0
    assert shear_stress(520.0, found.wire, mean) > 0


def test_no_such_spring_fits_this_height_where_true() -> None:
    found = wanted_spring(400.0, 1500.0, 24e-3, 12e-3, 1e-3, 24e-3)
    assert found.wire is None
    assert "no such single spring fits this height" in found.words


def test_rigid_forces_meet_the_balance_at_the_nose() -> None:
    side, _ = _side()
    lines = rigid_forces(side, weakest(side), 130.0)
    nose = int(np.argmax(lines.lift))
    a = side.curve.acceleration[nose]
    assert lines.inertia[nose] == pytest.approx(-moving_mass(side).value * (math.pi * 130.0) ** 2 * a)
    assert lines.contact[nose] == pytest.approx(lines.spring[nose] - lines.inertia[nose])
    assert lines.spring[nose] == pytest.approx(open_load(side), rel=1e-6)


def test_traces_of_a_motion_tell_lift_contact_and_gap() -> None:
    side, _ = _side()
    found = sweep(motion_case(side, weakest(side)), np.array([60.0, 200.0]))
    slow, fast = moving_forces(found, 61.0), moving_forces(found, 199.0)
    assert (slow.speed, fast.speed) == (60.0, 200.0)
    assert not slow.apart.any()
    assert fast.apart.any()
    assert slow.lift.max() == pytest.approx(9.0e-3, rel=0.01)
    assert least_contact(found, 60.0) > 0.0
    assert least_contact(found, 200.0) == 0.0


def test_friction_grows_with_spring_force_and_power_with_speed() -> None:
    side, _ = _side()
    plain, strong = cost_of_force(side, 20.0, 2, 3), cost_of_force(with_seat(side, 278.0), 20.0, 2, 3)
    assert strong.power > plain.power * 1.15
    assert strong.torque_most > plain.torque_most
    # at idle force hardly depends on speed: power follows it
    assert cost_of_force(side, 22.0, 2, 3).power == pytest.approx(plain.power * 1.1, rel=0.02)
    # flat face: mu F (Rb + h), a lobe a turn; bounds of the mean from seat and open load over the event (norton_cam, closed form)
    base, event = side.cam.base, np.ptp(side.curve.angle[side.curve.lift > 0.25e-3])
    low, high = 0.1 * 178.0 * base, 0.1 * open_load(side) * (base + 9e-3) * 1.3
    assert low * event / (2 * math.pi) * 6 < plain.torque_mean < high * event / (2 * math.pi) * 6


def test_half_a_bar_on_a_valve() -> None:
    # closed form, methods section 5: 0.5 bar on 31 mm less 1.5 mm of seat, less the 6 mm stem
    side, goal = _side(boost=0.5e5)
    found = gas_hold(side, goal)
    seal = 0.5e5 * math.pi / 4 * (29.5e-3**2 - 6e-3**2)
    assert np.interp(0.5e5, found.pressure, found.closed) == pytest.approx(seal, rel=1e-6)
    assert found.kept == pytest.approx(178.0 - seal)
    assert np.interp(0.5e5, found.pressure, found.cracked) == pytest.approx(0.5e5 * math.pi / 4 * (31e-3**2 - 6e-3**2), rel=1e-6)
    assert found.returns < found.just_open - seal
    assert found.lifts_at == pytest.approx(178.0 / (math.pi / 4 * (29.5e-3**2 - 6e-3**2)), rel=1e-6)


def test_exhaust_feels_pulses_against_a_boosted_cylinder() -> None:
    # statics: the pulses win while they are more than twice the mean and boost is small
    done = complete(known_build(boost=0.2e5, back_pressure=0.8e5, pulse_factor=3.0))
    found = gas_hold(done.proposed.sides[Side.EXHAUST], done.goal)
    area, stem = math.pi / 4 * 29.5e-3**2, math.pi / 4 * 6e-3**2
    wanted = (0.8e5 * 3.0 - 0.2e5) * area - 0.8e5 * 3.0 * stem
    assert np.interp(0.8e5, found.pressure, found.closed) == pytest.approx(wanted, rel=1e-6)
    assert not found.lifting_off
    assert found.closed[0] < 0.0  # without back pressure the boosted cylinder holds it shut


def test_lifting_off_under_boost_is_the_worse_moment_for_the_exhaust() -> None:
    """Statics by hand: 0.8 bar still behind the valve, 0.55 bar of vacuum before it, against 2 x 0.8 - 0.6 bar at full power."""
    done = complete(known_build(boost=0.6e5, back_pressure=0.8e5, pulse_factor=2.0))
    found = gas_hold(done.proposed.sides[Side.EXHAUST], done.goal)
    area, stem = math.pi / 4 * 29.5e-3**2, math.pi / 4 * 6e-3**2
    assert found.lifting_off
    assert np.interp(0.8e5, found.pressure, found.closed) == pytest.approx((0.8e5 + 0.55e5) * area - 0.8e5 * stem, rel=1e-6)
    assert "lifting off" in next(check.why for check in review(known_build(boost=0.6e5, back_pressure=0.8e5)).proposed.checks
                                 if check.code is CheckCode.SEAT and check.about == "exhaust")  # fmt: skip


def test_strength_of_a_spring_over_the_planned_hours() -> None:
    side, goal = _side()
    figures = {
        key: Figure(value, 0.0, Basis.MEASURED)
        for key, value in (("wire_diameter", 4.0e-3), ("mean_diameter", 26e-3), ("total_coils", 6.5))
    }
    found = strength_of(side.springs[0], figures, {}, 37.2e-3, 9e-3, goal.goal_rpm, 100 * 3600.0)
    assert found
    assert found.open == pytest.approx(shear_stress(178.0 + 38400 * 9e-3, 4e-3, 26e-3))
    assert found.turns == pytest.approx(goal.goal_rpm / 2 * 360000)
    assert found.surge == pytest.approx(0.5 * math.sqrt(38400 / (45.9e-3 * 4.5 / 6.5)))  # active coils alone: shigley, sec. 10-8
    worse = strength_of(side.springs[0], figures, {}, 37.2e-3, 9e-3, goal.goal_rpm, 360000.0, moving_force=1300.0)
    assert worse
    assert worse.fatigue_moving
    assert worse.fatigue_moving < found.fatigue
    peened = strength_of(side.springs[0], figures, {"peened": "yes"}, 37.2e-3, 9e-3, goal.goal_rpm, 360000.0)
    assert peened
    assert peened.fatigue > found.fatigue
    assert strength_of(side.springs[0], {}, {}, 37.2e-3, 9e-3, 140.0, 1.0) is None


def test_seat_load_of_springs_is_that_of_the_weakest_valve() -> None:
    side, _ = _side()
    assert nominal_seat_load(with_seat(side, 212.0), weakest(side)) == pytest.approx(212.0)
