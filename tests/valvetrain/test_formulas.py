"""Formulas against published examples and closed forms. Where a number comes from stands in each row's `origin`.

Publications were not at hand: their printed values are from memory (the design's METHODS names edition and chapter).
"""

import math

import numpy as np
import pytest

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas import cam_curves, clearances, coil_springs, gas_loads, separation, slider_crank
from valvetrain.formulas.coil_springs import Ends
from valvetrain.quantities import from_unit
from valvetrain.units import QuantityKind

INCH, POUND = 0.0254, 4.4482216152605
LBF_PER_INCH = 175.12683524647636


def test_shigley_example_10_1_music_wire() -> None:
    """Shigley ex. 10-1, printed values from memory: k 4.13 lbf/in, C 10.8, K_B 1.124, Ls 0.5 in; tolerance 0.5 %."""
    wire, mean = 0.037 * INCH, 0.4005 * INCH
    coils = coil_springs.active_coils(12.5, Ends.CLOSED)
    modulus = from_unit(11850.0, QuantityKind.STRESS, "ksi")
    assert coils == 10.5
    assert coil_springs.spring_index(wire, mean) == pytest.approx(10.8, rel=5e-3)
    assert coil_springs.bergstraesser_factor(10.824324) == pytest.approx(1.124, rel=5e-4)
    assert coil_springs.rate(wire, mean, coils, modulus) / LBF_PER_INCH == pytest.approx(4.13, rel=5e-3)
    assert coil_springs.rate(wire, mean, coils, modulus) / LBF_PER_INCH == pytest.approx(4.1156497, rel=1e-4)
    assert coil_springs.solid_height(wire, 12.5, Ends.CLOSED) / INCH == pytest.approx(0.5, rel=5e-3)
    stress = coil_springs.shear_stress(6.46 * POUND, wire, mean)
    assert stress == pytest.approx(from_unit(146.0, QuantityKind.STRESS, "ksi"), rel=5e-3)


def test_shigley_example_10_4_surge() -> None:
    """Shigley ex. 10-4, printed from memory: k 48.1 lbf/in, active weight 0.0586 lbf, f1 281 Hz."""
    wire, mean = 0.092 * INCH, 0.4705 * INCH
    rate = coil_springs.rate(wire, mean, 21, from_unit(11750.0, QuantityKind.STRESS, "ksi"))
    mass = coil_springs.active_mass(wire, mean, 21, 0.284 * 0.45359237 / INCH**3)
    assert rate / LBF_PER_INCH == pytest.approx(48.1, rel=5e-3)
    assert mass / 0.45359237 == pytest.approx(0.0586, rel=5e-3)
    assert coil_springs.surge_frequency(rate, mass) == pytest.approx(281, rel=5e-3)


@pytest.mark.parametrize(
    ("d", "mean", "n", "total", "k", "solid"), [(3.8, 26.2, 4.2, 6.2, 27432.056, 23.56), (2.6, 18.2, 5.4, 7.4, 13949.627, 19.24)]
)
def test_nested_pair(d: float, mean: float, n: float, total: float, k: float, solid: float) -> None:
    """Closed form (METHODS 1.11)."""
    assert coil_springs.active_coils(total, Ends.CLOSED_GROUND) == pytest.approx(n)
    assert coil_springs.rate(d * 1e-3, mean * 1e-3, n, 79.5e9) == pytest.approx(k, rel=1e-6)
    assert coil_springs.solid_height(d * 1e-3, total, Ends.CLOSED_GROUND) * 1e3 == pytest.approx(solid)


def test_bergstraesser_is_the_en_13906_factor() -> None:
    """EN 13906-1 k = (w + 0.5)/(w - 0.75), identity (METHODS 1.5)."""
    assert coil_springs.bergstraesser_factor(7.3) == pytest.approx((7.3 + 0.5) / (7.3 - 0.75), rel=1e-12)


def test_surge_is_the_en_13906_form() -> None:
    """EN 13906-1 f_e = 3560 d/(n D^2) sqrt(G/rho), printed constant rounded: within 0.05 % (METHODS 1.6)."""
    k = coil_springs.rate(3.4e-3, 22.6e-3, 4.5, 79.5e9)
    m = coil_springs.active_mass(3.4e-3, 22.6e-3, 4.5, 7850.0)
    assert coil_springs.surge_frequency(k, m) == pytest.approx(3560 * 3.4 / (4.5 * 22.6**2) * math.sqrt(79500 / 7.85), rel=5e-4)


def test_polynomial_2_8_14_20_26() -> None:
    """Stoddart's family, coefficients verified by an independent 5x5 solve here (METHODS 2.4)."""
    terms = cam_curves.polynomial_coefficients(8, 14, 20, 26)
    exponents = [e for e, _ in terms]
    rows = [[math.prod(e - s for s in range(order)) for e in exponents] for order in range(5)]
    solved = np.linalg.solve(np.array(rows, dtype=float), np.array([-1.0, 0, 0, 0, 0]))
    assert [c for _, c in terms] == pytest.approx(list(solved), rel=1e-9)
    x = np.linspace(0, 1, 20001)
    assert np.max(np.abs(cam_curves.unit_lift(terms, x, 1))) == pytest.approx(1.8600733, rel=1e-5)
    assert np.max(cam_curves.unit_lift(terms, x, 2)) == pytest.approx(8.38656, rel=1e-5)
    assert cam_curves.unit_lift(terms, np.array([0.0]), 2)[0] == pytest.approx(-3.744856, rel=1e-6)
    assert np.trapezoid(cam_curves.unit_lift(terms, x), x) == pytest.approx(0.50723975, rel=1e-5)


@pytest.mark.parametrize("fullness", [3.5, 5.0, 8.0, 13.7, 22.0])
def test_polynomial_ends_smoothly_for_every_fullness(fullness: float) -> None:
    terms = cam_curves.polynomial_coefficients(*cam_curves.flank_exponents(fullness))
    edge = np.array([1.0 - 1e-9])
    for order in range(3):
        assert abs(cam_curves.unit_lift(terms, edge, order)[0]) < 1e-5
    lift = cam_curves.unit_lift(terms, np.linspace(0, 1, 500))
    assert (np.diff(lift) <= 1e-12).all()


def test_separation_over_the_profile_is_below_the_nose() -> None:
    """METHODS 4.3, closed form: nose 9916.207, least over the profile 9562.1686 at x = 0.3325."""
    terms = cam_curves.polynomial_coefficients(8, 14, 20, 26)
    half, x = math.radians(66), np.linspace(0, 1, 40001)
    lift = 8.2e-3 * cam_curves.unit_lift(terms, x)
    bend = 8.2e-3 / half**2 * cam_curves.unit_lift(terms, x, 2)
    force = 190.0 + 24000.0 * lift
    assert separation.separation_speed(0.062, bend[:1], force[:1]) * 120 == pytest.approx(9916.207, rel=1e-6)
    assert separation.separation_speed(0.062, bend, force) * 120 == pytest.approx(9562.1686, rel=1e-6)
    at_11000 = separation.contact_force(0.062, bend[:1], force[:1], 11000 / 120)
    assert at_11000[0] == pytest.approx(-89.171193, rel=1e-5)


def test_separation_of_a_harmonic_lobe() -> None:
    """h = L/2 (1 + cos(pi t / half)): closed form at the nose (METHODS 4.4)."""
    bend = np.array([-0.5 * 9e-3 * (math.pi / math.radians(72)) ** 2])
    assert separation.separation_speed(0.085, bend, np.array([230.0 + 31000 * 9e-3])) * 120 == pytest.approx(8812.6098, rel=1e-6)


def test_separation_of_many_cases_equals_one_by_one() -> None:
    bend = np.array([[-20e-3, 5e-3, -10e-3]] * 2)
    force = np.array([[400.0, 300.0, 250.0], [500.0, 300.0, 150.0]])
    together = separation.separation_speed(np.array([0.06, 0.08]), bend, force)
    assert list(together) == [separation.separation_speed(m, b, f) for m, b, f in zip((0.06, 0.08), bend, force, strict=True)]


def test_finger_follower_mass() -> None:
    """METHODS 4.1: 49.305785 g."""
    moving = 0.024 + 0.0095 + 0.0015 + separation.spring_share(0.033) + separation.rotating_mass_at_valve(3.6e-6, 0.033)
    assert moving == pytest.approx(49.305785e-3, rel=1e-7)


def test_rayleigh_third_against_the_exact_frequency() -> None:
    """x tan x = m/M (METHODS 4.2): the third is 0.0847 % off at m/M = 0.3."""
    from scipy.optimize import brentq

    exact = brentq(lambda x: x * math.tan(x) - 0.3, 0.1, 1.5) / math.sqrt(0.3)
    third = 1 / math.sqrt(1 + float(separation.spring_share(0.3)))
    assert third / exact - 1 == pytest.approx(0.00084668, rel=1e-3)


def test_gas_forces() -> None:
    """METHODS 5.1 to 5.3, statics."""
    assert gas_loads.opening_force(120e3, 0, 0, 33e-3, 0.0) == pytest.approx(102.63583, rel=1e-6)
    assert gas_loads.opening_force(120e3, 0, 0, 31.6e-3, 5.5e-3) == pytest.approx(91.261067, rel=1e-6)
    assert gas_loads.opening_force(260e3, 190e3, 101.325e3, 26.8e-3, 5.5e-3) == pytest.approx(35.717459, rel=1e-6)
    fifteen = gas_loads.opening_force(from_unit(15, QuantityKind.PRESSURE, "psi"), 0, 0, 1.25 * INCH, 0.0)
    assert fifteen / POUND == pytest.approx(18.407769, rel=1e-6)


def test_piston_speed_and_back() -> None:
    """METHODS 6.11: 16.973333 m/s."""
    assert slider_crank.mean_piston_speed(0.0536, 9500 / 60) == pytest.approx(16.973333, rel=1e-6)
    assert slider_crank.speed_at_piston_speed(0.0536, 16.973333) * 60 == pytest.approx(9500, rel=1e-6)


def test_seating_velocity() -> None:
    """METHODS 4.5: 0.432 m/s."""
    assert cam_curves.seating_velocity(0.018e-3 * 180 / math.pi, 8000 / 120) == pytest.approx(0.432, rel=1e-9)


def test_shim_arithmetic() -> None:
    """METHODS 10.1, 10.2; and the worked exchange of the trade (common practice, no source): 0.013 with 0.088, wanted 0.011."""
    assert clearances.shim_thickness(2.45, 0.13, 0.20) == pytest.approx(2.38)
    assert clearances.clearance_with_shim(2.45, 0.13, 2.40) == pytest.approx(0.18)
    assert clearances.shim_thickness(2.225, 0.08, 0.14, 1.45) == pytest.approx(2.138)
    assert clearances.shim_thickness(0.088, 0.013, 0.011) == pytest.approx(0.090)
    assert clearances.shim_thickness(0.090, 0.008, 0.006) == pytest.approx(0.092)


def test_screw_turns() -> None:
    """METHODS 10.3 and 10.4: 36 and 22.15 degrees."""
    assert clearances.screw_turns(0.05e-3, 0.10e-3, 0.5e-3) * 360 == pytest.approx(36)
    assert clearances.screw_turns(0.0, 0.06e-3, 0.75e-3, 1.3) * 360 == pytest.approx(22.153846, rel=1e-6)


@pytest.mark.parametrize(
    ("wanted", "step", "size"),
    [(2.38, 0.05, 2.40), (2.625, 0.025, 2.625), (2.375, 0.05, 2.35), (2.3751, 0.05, 2.40), (2.634, 0.025, 2.625), (2.6375, 0.025, 2.625)],
)
def test_sizes_on_sale(wanted: float, step: float, size: float) -> None:
    """Nearest size; a tie takes the thinner shim, which leaves the larger clearance (METHODS 10, common practice)."""
    found = clearances.nearest_size(wanted * 1e-3, step * 1e-3, 2.0e-3, 3.2e-3)
    assert found * 1e3 == pytest.approx(size, abs=1e-9)


def test_size_beyond_the_range_is_named() -> None:
    with pytest.raises(OutOfRangeError, match=r"3\.300 mm is needed, and sizes run from 2\.00 to 3\.20"):
        clearances.nearest_size(3.3e-3, 0.05e-3, 2.0e-3, 3.2e-3)


@pytest.mark.parametrize(
    ("low", "high", "least", "most", "inside"),
    [
        (0.15, 0.18, 0.13, 0.20, True),  # METHODS 10.5 case 1
        (0.18, 0.20, 0.13, 0.19, None),  # METHODS 10.5 case 2: straddles
        (0.10, 0.13, 0.13, 0.20, False),  # n <= min: certainly outside
        (0.21, 0.23, 0.13, 0.20, False),
        (0.13, 0.20, 0.13, 0.20, True),
        (0.20, 0.20, 0.13, 0.20, True),
        (0.13, 0.13, 0.13, 0.20, True),
    ],
)
def test_go_no_go_intervals(low: float, high: float, least: float, most: float, inside: bool | None) -> None:
    assert clearances.interval_inside(low * 1e-3, high * 1e-3, least * 1e-3, most * 1e-3) is inside


def test_uncertainty_of_an_interval() -> None:
    """METHODS 10.5, GUM: 0.008660254."""
    assert clearances.rectangular_uncertainty(0.15, 0.18) == pytest.approx(0.008660254, rel=1e-7)


@pytest.mark.parametrize(
    "call",
    [
        lambda: coil_springs.rate(3e-3, 7e-3, 4, 79.5e9),
        lambda: coil_springs.rate(3e-3, 22e-3, 0.2, 79.5e9),
        lambda: coil_springs.active_coils(2.0, Ends.CLOSED_GROUND),
        lambda: gas_loads.opening_force(1e5, 0, 0, -0.03, 0.005),
        lambda: gas_loads.opening_force(1e5, 0, 0, 0.03, 0.05),
        lambda: slider_crank.mean_piston_speed(0.0, 100.0),
        lambda: separation.separation_speed(0.06, np.array([0.01]), np.array([100.0])),
        lambda: separation.separation_speed(0.06, np.array([-0.01]), np.array([-1.0])),
        lambda: separation.separation_speed(-0.06, np.array([-0.01]), np.array([1.0])),
        lambda: clearances.shim_thickness(0.5e-3, 0.0, 1.0e-3),
        lambda: clearances.interval_inside(0.2, 0.1, 0.1, 0.3),
        lambda: cam_curves.flank_exponents(2.0),
    ],
)
def test_outside_its_range_a_formula_says_so(call: object) -> None:
    with pytest.raises(OutOfRangeError):
        call()  # type: ignore[operator]
