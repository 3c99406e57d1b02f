"""Room's formulas against closed forms, brute force and scipy."""

import math

import numpy as np
import pytest
from scipy.optimize import minimize

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.driveline import (
    engine_speed,
    overall_ratio,
    road_speed,
    rolling_circumference,
    speed_in_gear,
    sprocket_diameter,
    water_speed,
)
from valvetrain.formulas.piston_gaps import disc_gap, rim_gap, stem_gap, stem_gap_at_rest
from valvetrain.formulas.slider_crank import piston_acceleration, piston_drop, piston_travel, rod_stretch

ANGLES = np.radians(np.linspace(-180.0, 180.0, 73))


def test_piston_travel_without_offset_is_the_textbook_slider_crank() -> None:
    """Heywood eq. 2.5 through the scalar formula that METHODS 7.2 checks."""
    expected = [piston_drop(0.0536, 0.101, float(angle)) for angle in ANGLES]
    assert piston_travel(0.0536, 0.101, 0.0, ANGLES) == pytest.approx(np.array(expected), abs=1e-15)


def test_piston_travel_with_offset_against_plain_geometry() -> None:
    """Closed form: the pin lies on the circle of the rod about the crank pin; highest place and stroke from the two stretched positions."""
    stroke, rod, offset = 0.069, 0.122, 2e-3
    r = stroke / 2
    fine = np.radians(np.linspace(-180, 180, 200001))
    pin = r * np.cos(fine) + np.sqrt(rod**2 - (r * np.sin(fine) - offset) ** 2)
    assert piston_travel(stroke, rod, offset, np.array([0.0]))[0] == pytest.approx(0.0, abs=1e-15)
    whole = math.sqrt((r + rod) ** 2 - offset**2) - math.sqrt((rod - r) ** 2 - offset**2)
    assert pin.max() - pin.min() == pytest.approx(whole, rel=1e-9)
    assert piston_travel(stroke, rod, offset, fine).max() == pytest.approx(whole, rel=1e-8)
    # the way down and the way up differ with an offset, and only then
    down, up = piston_travel(stroke, rod, offset, np.array([0.5, -0.5]))
    assert down != pytest.approx(up, rel=1e-3)


def test_acceleration_is_the_second_derivative_of_travel() -> None:
    """METHODS 6: a(TDC) = w^2 r (1 + r / l); here by a central difference of the travel in time."""
    stroke, rod, speed, step = 0.0536, 0.101, 200.0, 1e-3
    x = piston_travel(stroke, rod, 0.0, np.array([-step, 0.0, step]))
    second = (x[0] - 2 * x[1] + x[2]) / (step / (2 * math.pi * speed)) ** 2
    assert piston_acceleration(stroke, rod, speed) == pytest.approx(second, rel=1e-5)


def test_rod_stretch_is_hookes_law() -> None:
    assert rod_stretch(1.0, 1000.0, 0.1, 1e-4, 200e9) == pytest.approx(1000.0 * 0.1 / (200e9 * 1e-4))
    with pytest.raises(OutOfRangeError, match="modulus"):
        rod_stretch(1.0, 1000.0, 0.1, 1e-4, 0.0)


def test_gap_along_the_valve_of_the_parallel_pocket() -> None:
    """METHODS 14.2: 4.1 mm at rest, 10 deg after TDC, lift 2.35 mm, 11 deg: drop 0.51442496, along the axis 0.50497352, gap 2.2549735 mm."""
    a = math.radians(11.0)
    travel = piston_travel(0.0536, 0.101, 0.0, np.radians([10.0]))
    assert travel[0] * 1e3 == pytest.approx(0.51442496, rel=1e-6)
    assert travel[0] * math.cos(a) * 1e3 == pytest.approx(0.50497352, rel=1e-6)
    assert stem_gap(4.1e-3, travel, a, a, np.array([2.35e-3]))[0] * 1e3 == pytest.approx(2.2549735, rel=1e-6)


@pytest.mark.parametrize("pocket", [0.0, 6.0, 12.0, 18.0])
def test_gap_of_a_tilted_head_against_brute_force(pocket: float) -> None:
    """Every point of the head's rim is pushed down the stem until it meets the floor; the least way is the gap."""
    a, b, radius, height, drop = math.radians(12.0), math.radians(pocket), 16e-3, 6e-3, 0.7e-3
    turn = np.radians(np.arange(0.0, 360.0, 0.5))
    centre = np.array([0.0, height])  # across, up; the floor passes through the origin, tilted like the valve's face
    edge = centre[None, :] + radius * np.cos(turn)[:, None] * np.array([math.cos(a), -math.sin(a)])
    normal, stem = np.array([math.sin(b), math.cos(b)]), np.array([math.sin(a), math.cos(a)])
    floor = np.array([0.0, -drop])
    ways = ((edge - floor) @ normal) / (stem @ normal)
    rest = stem_gap_at_rest(height, a, b, 2 * radius)
    found = stem_gap(rest, np.array([drop]), a, b, np.array([0.0]))[0]
    assert found == pytest.approx(ways.min(), abs=1e-6)


def test_rim_gap_loses_what_the_pocket_moves_aside() -> None:
    gaps = rim_gap(36e-3, 33e-3, 0.2e-3, np.array([0.0, 2e-3]), math.radians(12))
    assert gaps == pytest.approx([1.5e-3 - 0.2e-3, 1.5e-3 - 0.2e-3 - 2e-3 * math.sin(math.radians(12))])


def _axes(rng: np.random.Generator, count: int) -> np.ndarray:
    axis = rng.normal(size=(count, 3))
    return axis / np.linalg.norm(axis, axis=1, keepdims=True)


def _frame(axis: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    first = np.cross(axis, [1.0, 0.0, 0.0] if abs(axis[0]) < 0.8 else [0.0, 1.0, 0.0])
    first /= np.linalg.norm(first)
    return first, np.cross(axis, first)


def _by_scipy(c1: np.ndarray, a1: np.ndarray, r1: float, c2: np.ndarray, a2: np.ndarray, r2: float) -> float:
    """Least distance of two whole discs by general constrained minimisation, from several starts."""
    (u1, v1), (u2, v2) = _frame(a1), _frame(a2)

    def apart(x: np.ndarray) -> float:
        p, q = c1 + r1 * (x[0] * u1 + x[1] * v1), c2 + r2 * (x[2] * u2 + x[3] * v2)
        return float(((p - q) ** 2).sum() * 1e4)

    limits = [{"type": "ineq", "fun": lambda x: 1 - x[0] ** 2 - x[1] ** 2}, {"type": "ineq", "fun": lambda x: 1 - x[2] ** 2 - x[3] ** 2}]
    starts = np.random.default_rng(3).uniform(-0.7, 0.7, size=(4, 4))
    found = min(minimize(apart, start, constraints=limits, method="SLSQP", options={"ftol": 1e-14, "maxiter": 400}).fun for start in starts)
    return math.sqrt(max(found, 0.0) / 1e4)


@pytest.mark.slow
def test_disc_gap_against_scipy() -> None:
    """Thirty pairs in any attitude: within a micrometre of scipy's constrained minimum (a convex problem, so its minimum is the one)."""
    rng = np.random.default_rng(11)
    c1, c2 = rng.uniform(-1, 1, (30, 3)) * 5e-3, rng.uniform(-1, 1, (30, 3)) * 5e-3 + np.array([0.035, 0.0, 0.01])
    a1, a2, d1, d2 = _axes(rng, 30), _axes(rng, 30), rng.uniform(26e-3, 38e-3, 30), rng.uniform(22e-3, 34e-3, 30)
    found = disc_gap(c1, a1, d1, c2, a2, d2)
    for n in range(30):
        assert found[n] == pytest.approx(_by_scipy(c1[n], a1[n], d1[n] / 2, c2[n], a2[n], d2[n] / 2), abs=2e-6)


def test_disc_gap_against_brute_sampling() -> None:
    """Points sampled densely on both discs can only be farther apart, and come close."""
    rng = np.random.default_rng(5)
    a1, a2 = _axes(rng, 1), _axes(rng, 1)
    c1, c2 = np.zeros((1, 3)), np.array([[0.02, 0.014, 0.02]])
    found = float(disc_gap(c1, a1, np.array([0.03]), c2, a2, np.array([0.026]))[0])
    radius, turn = np.sqrt(rng.uniform(0, 1, 2500)), rng.uniform(0, 2 * math.pi, 2500)
    radius[:1200] = 1.0

    def cloud(centre: np.ndarray, axis: np.ndarray, size: float) -> np.ndarray:
        u, v = _frame(axis)
        return centre + size * radius[:, None] * (np.cos(turn)[:, None] * u + np.sin(turn)[:, None] * v)

    one, two = cloud(c1[0], a1[0], 0.015), cloud(c2[0], a2[0], 0.013)
    least = min(float(np.linalg.norm(one - point, axis=1).min()) for point in two)
    assert found <= least + 1e-9
    assert least - found < 0.2e-3


def test_discs_that_cut_one_another_have_no_gap() -> None:
    up, across = np.array([[0.0, 0.0, 1.0]]), np.array([[1.0, 0.0, 0.0]])
    size = np.array([0.03])
    assert disc_gap(np.zeros((1, 3)), up, size, np.array([[0.01, 0.0, 0.0]]), across, size)[0] == pytest.approx(0.0, abs=1e-5)
    # parallel discs above one another: the distance of their planes
    assert disc_gap(np.zeros((1, 3)), up, size, np.array([[0.01, 0.0, 0.004]]), up, size)[0] == pytest.approx(0.004, abs=1e-9)


def test_road_speed_and_the_shifts_of_the_example() -> None:
    """METHODS 11.1: 150/60-17, 0.97; 76/36, 1.55, 47/16 at 10,500 rpm: 611.8 mm, 1.8643656 m, 9.6121528, 122.1943 km/h; 2nd 13,094.516,
    4th 8,752.2581 rpm."""
    around = rolling_circumference(17 * 25.4e-3, 0.150, 0.60, 0.97)
    assert around / 0.97 / math.pi * 1e3 == pytest.approx(611.8)
    assert around == pytest.approx(1.8643656, rel=1e-6)
    ratio = overall_ratio(76 / 36, 1.55, 16, 47)
    assert ratio == pytest.approx(9.6121528, rel=1e-6)
    assert road_speed(10500 / 60, around, ratio) * 3.6 == pytest.approx(122.1943, rel=1e-6)
    assert speed_in_gear(10500 / 60, 1.55, 1.933) * 60 == pytest.approx(13094.516, rel=1e-6)
    assert speed_in_gear(10500 / 60, 1.55, 1.292) * 60 == pytest.approx(8752.2581, rel=1e-6)


def test_sprockets_and_inverse() -> None:
    """METHODS 11.2 and 11.3."""
    assert [sprocket_diameter(15.875e-3, teeth) * 1e3 for teeth in (15, 45)] == pytest.approx([76.354533, 227.57744], rel=1e-6)
    assert engine_speed(120 / 3.6, 1.86, 9.4) * 60 == pytest.approx(10107.527, rel=1e-7)
    assert engine_speed(road_speed(150.0, 1.9, 8.0), 1.9, 8.0) == pytest.approx(150.0)


def test_water_speed_is_pitch_times_turns_less_slip() -> None:
    assert water_speed(100.0, 0.2, 1.0, 0.0) == pytest.approx(20.0)
    assert water_speed(100.0, 0.2, 2.0, 0.25) == pytest.approx(7.5)
    with pytest.raises(OutOfRangeError, match="slip"):
        water_speed(100.0, 0.2, 1.0, 1.0)


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda: piston_travel(0.06, 0.03, 0.0, ANGLES), "connecting rod"),
        (lambda: stem_gap_at_rest(5e-3, math.radians(60), 0.0, 30e-3), "angle between valve and bore"),
        (lambda: disc_gap(np.zeros((1, 3)), np.eye(3)[:1], np.array([0.0]), np.ones((1, 3)), np.eye(3)[:1], np.array([0.03])), "diameter"),
        (lambda: speed_in_gear(100.0, 0.0, 1.0), "gear it came from"),
        (lambda: rolling_circumference(0.4, 0.1, 0.6, 2.0), "Rolling over free"),
        (lambda: sprocket_diameter(0.0, 15), "pitch"),
    ],
)
def test_out_of_range_is_said_aloud(call: object, words: str) -> None:
    with pytest.raises(OutOfRangeError, match=words):
        call()  # type: ignore[operator]
