"""The dynamic motion against scipy's integrators, closed forms of springs, limits and balances."""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.valvetrain.motion_reference import HALF, example, forces, one_turn, smooth_lobe, surge_of, two_springs
from valvetrain.errors import ContradictionError, OutOfRangeError
from valvetrain.formulas.separation import separation_speed
from valvetrain.kernels import valve_motion as kernel
from valvetrain.studies.motion.sweep import LOSS, SAMPLES, MotionCase, MovingSpring, sweep, sweeps, with_damping

ANGLES = np.linspace(-math.pi, math.pi, SAMPLES, endpoint=False)


@pytest.mark.parametrize("rpm", [3000.0, 7000.0, 8500.0])
@pytest.mark.slow
def test_trajectory_agrees_with_a_tight_general_integrator(rpm: float) -> None:
    # general-purpose library: scipy solve_ivp, DOP853, rtol 1e-9
    case = example()
    found = sweep(case, np.array([rpm / 60.0]), turns=1)
    wanted = one_turn(case, rpm / 60.0, ANGLES)
    off = np.abs(found.trace[kernel.LIFT, :, 0] - wanted)
    away = np.abs(ANGLES) < HALF + 0.1
    assert off[away].max() < 2e-6
    assert off.max() < 4e-6


@pytest.mark.slow
def test_loss_of_contact_comes_within_a_tenth_of_a_degree_of_the_general_integrator() -> None:
    # beyond float: the angle at which the gap passes LOSS, by both
    case = example()
    rpm = 11500.0
    found = sweep(case, np.array([rpm / 60.0]), turns=1, finer=2.0)
    fine = np.radians(np.arange(-60.0, 20.0, 0.02))
    position = one_turn(case, rpm / 60.0, fine)
    lift = 9e-3 * (1 - np.clip(fine / HALF, -1, 1) ** 2) ** 3 - case.clearance
    apart = (position - lift > LOSS) & (lift + case.clearance > 0.1 * 9e-3)
    assert apart.any()
    assert math.degrees(found.lost_at[0]) == pytest.approx(math.degrees(fine[np.argmax(apart)]), abs=0.1)


def test_slow_turning_gives_the_static_forces() -> None:
    case = example()
    found = sweep(case, np.array([5.0]))  # 300 rpm
    lift = found.trace[kernel.LIFT, :, 0].astype(float)
    raised = lift > 1e-3
    static = 290.0 + 41e3 * lift
    contact = found.trace[kernel.CONTACT, :, 0]
    assert np.abs(contact[raised] - static[raised]).max() < 1.5  # N of about 600
    assert found.trace[kernel.SEAT, 5, 0] == pytest.approx(290.0, abs=1.0)


def test_rigid_limit_is_the_separation_speed() -> None:
    # a stiff train on springs of almost no mass separates where the closed form says
    springs = tuple(replace(spring, mass=1e-4, room=0.05) for spring in two_springs(0.2))
    case = replace(example(train_stiffness=400e6, train_damping=0.3, clearance=0.0), springs=springs, clash=1.0)
    curve = case.curve
    slows = (curve.acceleration < 0.0) & (curve.lift > 0.5e-3)
    closed = 2.0 * float(separation_speed(case.felt_mass, curve.acceleration[slows], 290.0 + 41e3 * curve.lift[slows]))
    found = sweep(case, closed * np.array([0.97, 0.985, 1.02, 1.04]))
    assert list(found.loses) == [False, False, True, True]


def _energy(case: MotionCase, state: np.ndarray, dt: float, nodes: int, lift: float) -> float:
    """Kinetic and elastic energy of a state, J, from its meaning."""
    segments = nodes + 1
    y, v = state[kernel.POSITION], state[kernel.STEP] / dt
    total = 0.5 * (case.mass + sum(s.mass for s in case.springs) / 2 / segments) * v * v
    total += 0.5 * case.train_stiffness * max(lift - y, 0.0) ** 2 + 0.5 * case.seat_stiffness * max(-y, 0.0) ** 2
    for number, spring in enumerate(case.springs):
        rows = [kernel.node_row(nodes, number, node) for node in range(1, nodes + 1)]
        x = np.concatenate([[y], state[rows], [0.0]])
        squeeze = -np.diff(x)
        rate = spring.rate * segments
        total += float(np.sum(spring.preload * squeeze + 0.5 * rate * squeeze**2))
        total += float(np.sum(0.5 * case.clash * rate * np.maximum(squeeze - spring.room / segments, 0.0) ** 2))
        share = (math.sin(math.pi / 2 / segments) / (math.pi / 2 / segments)) ** 2
        total += float(0.5 * spring.mass / segments * share * np.sum((state[[row + 1 for row in rows]] / dt) ** 2))
    return total


@pytest.mark.parametrize("rpm", [4000.0, 8000.0])
def test_work_of_the_cam_is_kept_as_energy_where_nothing_is_damped(rpm: float) -> None:
    case = with_damping(example(train_damping=0.0, seat_damping=0.0), 1e-9)
    found = sweep(case, np.array([rpm / 60.0]), turns=1, finer=4.0)
    steps = SAMPLES * math.ceil(120.0 / rpm / (1e-6 * 0.9) / SAMPLES)
    dt = 120.0 / rpm / round(steps / SAMPLES) / SAMPLES
    state = found.state[:, 0]
    # the time step is that of the sweep: its weight row is dt^2 / mass
    dt = math.sqrt(state[kernel.WEIGHT] * (case.mass + sum(s.mass for s in case.springs) / 18.0))
    begun = _energy(case, np.where(np.arange(len(state)) == kernel.POSITION, -290.0 / 60e6, 0.0), dt, 8, -0.2e-3)
    kept = _energy(case, state, dt, 8, -0.2e-3) - begun
    turned = 0.5 * 41e3 * 8.8e-3**2 + 290.0 * 8.8e-3  # what goes in and comes out of the springs over the lobe
    assert found.work[0] == pytest.approx(kept, abs=0.01 * turned)
    assert found.work[0] > 0.0


def test_damping_takes_energy_every_turn() -> None:
    found = sweep(example(), np.array([6000.0, 8000.0]) / 60.0)
    assert (found.work > 0.0).all()


def test_first_own_motion_of_the_chain_is_the_springs_and_converges() -> None:
    # wahl1963: f1 = 0.5 sqrt(k/m). The bare chain of N masses is 0.84, 0.51, 0.24 % low for N = 6, 8, 12 (source: own eigenvalues)
    spring = MovingSpring(25.56554e3, 200.0, 22.77132e-3, 12e-3, 0.02)
    exact = 0.5 * math.sqrt(spring.rate / spring.mass)
    low = []
    for nodes in (4, 8, 16):
        segments = nodes + 1
        chain = np.diag(np.full(nodes, 2.0)) - np.eye(nodes, k=1) - np.eye(nodes, k=-1)
        bare = math.sqrt(np.linalg.eigvalsh(chain)[0] * spring.rate * segments / (spring.mass / segments)) / 2 / math.pi
        low.append(1.0 - bare / exact)
        share = (math.sin(math.pi / 2 / segments) / (math.pi / 2 / segments)) ** 2
        assert bare / math.sqrt(share) == pytest.approx(exact, rel=1e-9)
    assert low[0] / low[1] == pytest.approx((9 / 5) ** 2, rel=0.02)
    assert low[1] == pytest.approx(0.0051, abs=0.0001)
    assert exact == pytest.approx(529.78956, rel=1e-6)  # check 1.6 of the methods


def test_surge_rings_at_the_springs_own_frequency() -> None:
    case = replace(example(), springs=(MovingSpring(30e3, 300.0, 40e-3, 14e-3, 0.004),))
    rpm = 5000.0
    found = sweep(case, np.array([rpm / 60.0]))
    rest = np.abs(ANGLES) > HALF + 0.25
    late = ANGLES > 0
    ring = found.trace[3 + kernel.SURGE, rest & late, 0].astype(float)
    angle = ANGLES[rest & late]
    times = angle / (math.pi * rpm / 60.0)
    crossings = np.count_nonzero(np.diff(np.sign(ring)))
    assert crossings / 2 / (times[-1] - times[0]) == pytest.approx(case.springs[0].own / 2 / math.pi, rel=0.12)


def test_finer_steps_and_more_masses_change_little_below_float() -> None:
    speeds = np.array([5000.0, 7000.0, 8000.0]) / 60.0
    case = example()
    usual, fine, rich = sweep(case, speeds), sweep(case, speeds, finer=8.0), sweep(case, speeds, nodes=16)
    contact = kernel.CONTACT
    raised = usual.trace[kernel.LIFT] > 1e-3
    assert np.abs(usual.trace[contact] - fine.trace[contact])[raised].max() < 10.0  # N of 300 to 800
    assert np.abs(usual.trace[contact] - rich.trace[contact])[:, :2][raised[:, :2]].max() < 60.0  # near float surge itself differs


def test_each_speed_of_a_sweep_is_what_it_is_alone() -> None:
    speeds = np.linspace(80.0, 130.0, 20)
    case = example()
    many = sweep(case, speeds)
    one = sweep(case, speeds[3:4])
    # alone it takes its own time step, so only what does not depend on chatter is compared
    assert many.contact_most[3] == pytest.approx(one.contact_most[0], rel=0.02)
    assert many.surge[0, 3] == pytest.approx(one.surge[0, 0], rel=0.03)
    both = sweeps([(case, speeds), (with_damping(case, 0.1), speeds)])
    assert np.array_equal(both[0].gap, many.gap)
    assert (both[1].surge < both[0].surge + 1e-4).mean() > 0.9


def test_bounce_and_hard_seating_come_with_float() -> None:
    found = sweep(example(), np.array([6000.0, 13500.0]) / 60.0)
    assert not found.loses[0]
    assert found.loses[1]
    assert found.bounce[1] > 0.2e-3 > found.bounce[0]
    assert found.seating[1] > 5 * found.seating[0]
    assert np.isnan(found.lost_at[0])


def test_progressive_spring_follows_its_bent_line_when_slow() -> None:
    springs = (replace(two_springs()[0], bend=4e5),)
    case = replace(example(), springs=springs)
    found = sweep(case, np.array([5.0]))
    lift = found.trace[kernel.LIFT, :, 0].astype(float)
    raised = lift > 1e-3
    wanted = 190.0 + 27e3 * lift + 4e5 * lift**2
    assert np.abs(found.trace[kernel.CONTACT, :, 0][raised] - wanted[raised]).max() < 1.5


def test_coils_clash_when_the_room_is_gone_locally() -> None:
    tight = tuple(replace(spring, room=9.4e-3) for spring in two_springs())
    found = sweep(replace(example(), springs=tight), np.array([3000.0, 9500.0]) / 60.0)
    assert (found.clashing[:, 0] < 0.0).all()
    assert found.clashing[:, 1].max() > 0.0


def test_reference_knows_rest() -> None:
    case = example()
    still = np.zeros(2 + 32)
    still[0] = -290.0 / 60e6
    out, push = forces(case, 8, still, (-0.2e-3, 0.0))
    # the chains' own few newtons at 5 um of squeeze are all that is left
    assert push == 0.0
    assert abs(out[1]) < 30.0


@pytest.mark.parametrize(
    "change, words",
    [
        ({"springs": (MovingSpring(27e3, -5.0, 33e-3, 12.5e-3, 0.02),)}, "longer than its space"),
        ({"springs": (MovingSpring(27e3, 190.0, 33e-3, 8.0e-3, 0.02),)}, "solid after 8.00 mm, before the full lift of 8.80 mm"),
        ({"mass": -0.01}, "above zero"),
    ],
)
def test_nonsense_is_refused_with_a_sentence(change: dict[str, object], words: str) -> None:
    with pytest.raises(ContradictionError, match=words):
        sweep(replace(example(), **change), np.array([100.0]))  # type: ignore[arg-type]


def test_speeds_must_be_above_zero() -> None:
    with pytest.raises(OutOfRangeError, match="above zero"):
        sweep(example(), np.array([0.0, 100.0]))


def test_lobe_of_the_reference_is_the_curve() -> None:
    curve = smooth_lobe()
    assert curve.full == pytest.approx(9e-3)
    assert curve.lift_at(np.array([0.5]))[0] == pytest.approx(9e-3 * (1 - (0.5 / HALF) ** 2) ** 3, rel=1e-6)


@pytest.mark.slow
def test_surge_is_the_amplitude_that_a_general_integrator_finds() -> None:
    # general-purpose library: scipy solve_ivp on the same chain written a second time, projected on the first mode; the end coil moves along
    case = example()
    case = replace(case, springs=tuple(replace(spring, end=4e-3) for spring in case.springs))
    heavy = replace(case, mass=case.mass + 8e-3, springs=two_springs())  # the reference knows no end coils: they ride with the valve
    found = sweep(case, np.array([7000.0 / 60.0]), turns=1)
    wanted = surge_of(heavy, 7000.0 / 60.0, ANGLES)
    for number in range(2):
        assert found.surge[number, 0] == pytest.approx(np.abs(wanted[number]).max(), rel=0.03)
        assert np.abs(found.trace[3 + 4 * number + kernel.SURGE, :, 0]).max() == pytest.approx(found.surge[number, 0], rel=1e-6)
