"""Strength, taper, inertia and torque formulas against published examples and closed forms."""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.valvetrain.builders import known_build, measured, on_its_own_lobe
from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.cam_torque import friction_torque, lift_torque, shaft_power
from valvetrain.formulas.coil_springs import bergstraesser_factor, rate, shear_stress
from valvetrain.formulas.rocker_inertia import STANDARD_GRAVITY, bar_inertia, pendulum_inertia, weighed_inertia
from valvetrain.formulas.spring_fatigue import (
    Wire,
    endurance_goodman,
    gerber_factor,
    goodman_factor,
    least_coil_gaps,
    tensile_strength,
    torsional_ultimate,
    torsional_yield,
    turns_to_failure,
    wahl_factor,
)
from valvetrain.formulas.tapered_springs import cone_rate, series_rate
from valvetrain.parts.cam_drive import Contact, Drive
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Figure
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.spring import PackedSpring, Spring
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.springs.force_cost import cost_of_force
from valvetrain.studies.springs.spring_strength import strength_of
from valvetrain.studies.train.assembly import complete

INCH, LBF, KPSI = 0.0254, 4.4482216152605, 6894757.293168361


@pytest.mark.parametrize(
    "wire, strength",
    [
        (Wire.MUSIC, 1885.4115), (Wire.OIL_TEMPERED, 1510.5053), (Wire.HARD_DRAWN, 1447.0992), (Wire.CHROME_VANADIUM, 1667.086),
        (Wire.CHROME_SILICON, 1753.1459),
    ],
)  # fmt: skip
def test_tensile_strength_of_three_millimetre_wire(wire: Wire, strength: float) -> None:
    # shigley, table 10-4, from memory (methods check 1.8)
    assert tensile_strength(3e-3, wire) / 1e6 == pytest.approx(strength, rel=1e-6)
    with pytest.raises(OutOfRangeError):
        tensile_strength(20e-3, wire)


def test_static_example_of_the_textbook() -> None:
    # shigley, ex. 10-1, from memory: no. 16 music wire, 0.037 in, OD 7/16: S_ut 324 kpsi, S_sy 146 kpsi, F 6.46 lbf
    wire, mean = 0.037 * INCH, 0.4005 * INCH
    strength = tensile_strength(wire, Wire.MUSIC)
    assert strength / KPSI == pytest.approx(324.0, rel=0.005)
    limit = torsional_yield(strength, Wire.MUSIC)
    assert limit / KPSI == pytest.approx(146.0, rel=0.005)
    assert limit / shear_stress(1.0, wire, mean) / LBF == pytest.approx(6.46, rel=0.005)


def test_fatigue_example_of_the_textbook() -> None:
    # shigley, ex. 10-4, from memory: 0.092 in music wire, 5 to 35 lbf, unpeened: Gerber 1.21, Goodman 1.23, tau_a 29.7, tau_m 39.6 kpsi
    wire, mean = 0.092 * INCH, (0.5625 - 0.092) * INCH
    alternating, steady = shear_stress(15 * LBF, wire, mean), shear_stress(20 * LBF, wire, mean)
    assert alternating / KPSI == pytest.approx(29.7, rel=0.002)
    assert steady / KPSI == pytest.approx(39.6, rel=0.002)
    ultimate = torsional_ultimate(tensile_strength(wire, Wire.MUSIC))
    assert ultimate / KPSI == pytest.approx(190.3363, rel=0.005)
    assert gerber_factor(alternating, steady, ultimate) == pytest.approx(1.21, rel=0.01)
    endurance = endurance_goodman(ultimate)
    assert endurance / KPSI == pytest.approx(49.2, rel=0.01)
    assert goodman_factor(alternating, steady, endurance, ultimate) == pytest.approx(1.23, rel=0.01)
    assert gerber_factor(alternating, steady, ultimate, peened=True) > gerber_factor(alternating, steady, ultimate)


def test_turns_to_failure_meets_both_ends_of_its_line() -> None:
    ultimate, endurance = 1200e6, 400e6
    assert turns_to_failure(0.9 * ultimate, 0.0, endurance, ultimate) == pytest.approx(1e3)
    assert turns_to_failure(endurance * 1.0000001, 0.0, endurance, ultimate) == pytest.approx(1e6, rel=1e-4)
    assert turns_to_failure(endurance, 0.0, endurance, ultimate) == math.inf
    # on Goodman's line itself a spring just lasts
    assert goodman_factor(200e6, 600e6, endurance, ultimate) == pytest.approx(1.0)
    assert turns_to_failure(200e6, 600e6, endurance, ultimate) == math.inf
    with pytest.raises(OutOfRangeError):
        turns_to_failure(1150e6, 100e6, 0.95 * ultimate, ultimate)


@pytest.mark.parametrize("index, wanted", [(4, 1.404), (6, 1.253), (10, 1.145), (12, 1.119)])
def test_wahl_factor_table(index: float, wanted: float) -> None:
    # wahl 1963, from memory
    assert wahl_factor(index) == pytest.approx(wanted, abs=5e-4)
    assert 0.0 < wahl_factor(index) / bergstraesser_factor(index) - 1.0 < 0.016


def test_cone_rate_is_the_integral_and_the_cylinder_its_limit() -> None:
    # closed form: 1/k = integral of 64 R^3 n / (G d^4) over a linear taper (methods check 1.9)
    wire, small, large, coils, modulus = 3.2e-3, 16e-3, 24e-3, 5.0, 79.5e9
    radius = np.linspace(small / 2, large / 2, 20001)
    whole = np.trapezoid(64.0 * radius**3 * coils / (modulus * wire**4), radius) / (radius[-1] - radius[0])
    assert cone_rate(wire, small, large, coils, modulus) == pytest.approx(1.0 / whole, rel=1e-7)
    assert cone_rate(wire, small, large, coils, modulus) == pytest.approx(25048.615, rel=1e-6)
    assert cone_rate(wire, 20e-3, 20e-3, coils, modulus) == pytest.approx(rate(wire, 20e-3, coils, modulus))


def test_beehive_stands_in_series() -> None:
    # methods check 1.10
    cylinder = rate(3.2e-3, 24e-3, 3.0, 79.5e9)
    taper = cone_rate(3.2e-3, 16e-3, 24e-3, 2.5, 79.5e9)
    assert series_rate(cylinder, taper) == pytest.approx(16733.402, rel=1e-4)
    assert series_rate(rate(3.2e-3, 24e-3, 2.0, 79.5e9), taper) == pytest.approx(21508.058, rel=1e-4)


def test_sum_of_coil_gaps() -> None:
    # en 13906-1, from memory (methods check 1.12)
    assert least_coil_gaps(3.4e-3, 22.6e-3, 4.5, moving=False) == pytest.approx(2.5440088e-3, rel=1e-6)
    assert least_coil_gaps(3.4e-3, 22.6e-3, 4.5) == pytest.approx(3.8160132e-3, rel=1e-6)


def test_three_ways_to_the_inertia_of_one_bar() -> None:
    # closed form: a bar of 30 g and 33 mm hung by its end swings with T = 2 pi sqrt(2 L / 3 g)
    mass, length = 0.030, 33e-3
    true = mass * length**2 / 3.0
    assert bar_inertia(mass, length, 0.0) == pytest.approx(true)
    period = 2.0 * math.pi * math.sqrt(2.0 * length / (3.0 * STANDARD_GRAVITY))
    assert pendulum_inertia(mass, length / 2.0, period, STANDARD_GRAVITY) == pytest.approx(true)
    low, high = weighed_inertia(mass / 2.0, mass / 2.0, length, 0.0)
    assert low < true < high


def test_bar_across_its_pivot_and_the_bounds_of_weighing_it() -> None:
    mass, a, b = 0.08, 30e-3, 22e-3
    true = mass * (a * a - a * b + b * b) / 3.0
    assert bar_inertia(mass, a, b) == pytest.approx(true)
    low, high = weighed_inertia(mass / 2, mass / 2, a, b)  # an even bar rests half on each end
    assert low == pytest.approx(mass * ((a - b) / 2) ** 2)
    assert low < true < high


def test_cam_torque_and_friction_power() -> None:
    # methods check 4.13
    force = np.array([650.0])
    assert lift_torque(force, np.array([11.2e-3]))[0] == pytest.approx(7.28)
    lost = friction_torque(force, np.array([21e-3]), 0.1)[0]
    assert lost == pytest.approx(1.365)
    assert shaft_power(float(lost), 9000 / 120) == pytest.approx(643.2411, rel=1e-6)


def test_work_of_lifting_is_given_back() -> None:
    # a spring pressed by a symmetric lobe gives back what it took: the mean frictionless torque is zero
    angle = np.linspace(-1.2, 1.2, 2001)
    lift = 9e-3 * (1 - (angle / 1.2) ** 2) ** 3
    torque = lift_torque(200.0 + 40e3 * lift, np.gradient(lift, angle))
    assert abs(np.trapezoid(torque, angle)) < 1e-9


def test_wire_that_sets_at_speed_is_short_however_well_it_bears_fatigue() -> None:
    """By the formula (shigley, 10-5): a peak force that brings the stress to 106 % of the wire's yield is no “endless” spring."""
    figures = {key: Figure(value) for key, value in (("wire_diameter", 3.4e-3), ("mean_diameter", 22.6e-3), ("total_coils", 6.5))}
    spring = Spring(Figure(28e3), Figure(200.0), Figure(36e-3), Figure(22.1e-3), Figure(33e-3))
    yields = 0.5 * 1974e6 / 3.4**0.108  # chrome-silicon: A, m and 0.50 of table 10-4 and 10-6, from memory
    force = 1.06 * yields / (shear_stress(1.0, 3.4e-3, 22.6e-3))
    packed, peened = PackedSpring(spring, Figure(0.0)), {"peened": "yes"}
    calm = strength_of(packed, figures, peened, 36e-3, 8e-3, 100.0, 3600.0)
    wild = strength_of(packed, figures, peened, 36e-3, 8e-3, 100.0, 3600.0, moving_force=force)
    assert calm
    assert wild
    assert calm.verdict is not Verdict.SHORT
    assert "at full lift is" in calm.words
    assert wild.verdict is Verdict.SHORT
    assert "sets at speed" in wild.words
    assert "at speed 106%" in wild.words


def test_only_active_coils_surge() -> None:
    """Shigley ex. 10-4, printed from memory: 0.0586 lbf of active wire and 48.1 lbf/in surge at 281 Hz; two dead coils do not count."""
    figures = {key: Figure(value * 0.0254) for key, value in (("wire_diameter", 0.092), ("mean_diameter", 0.4705))}
    figures |= {"total_coils": Figure(23.0)}
    whole = 0.058602031 * 0.45359237 * 23.0 / 21.0
    spring = Spring(Figure(48.106195 * 175.12683524647636), Figure(100.0), Figure(60e-3), Figure(30e-3), Figure(whole))
    found = strength_of(PackedSpring(spring, Figure(0.0)), figures, {}, 60e-3, 5e-3, 50.0, 3600.0)
    assert found
    assert found.surge == pytest.approx(281.45, rel=0.002)


def test_friction_under_a_flat_face_acts_at_base_radius_plus_lift() -> None:
    """Closed form: an eccentric circle of base 15 mm and throw 4 mm under a flat face; the contact travels, the arm of friction does not."""
    half = math.radians(90.0)
    angle = np.linspace(-half, half, 4001)
    lift = 4e-3 * np.cos(angle)
    curve = LiftCurve(angle, lift, -4e-3 * np.sin(angle), -4e-3 * np.cos(angle), 4e-3 * np.sin(angle))
    side = on_its_own_lobe(complete(known_build()).proposed.sides[Side.INTAKE])

    class _Cam:
        def __init__(self) -> None:
            self.curve, self.shape, self.lobes, self.base = curve, None, None, 15e-3
            self.drive = Drive(Contact.FLAT)

    flat = replace(side, cam=_Cam(), clearance=measured(0.0))  # type: ignore[arg-type]
    found = cost_of_force(flat, 1.0, 1, 1)
    force = 178.0 + 38400.0 * lift
    mean = float(np.trapezoid(0.10 * force * (15e-3 + lift), angle)) / (2.0 * math.pi)
    assert found.torque_mean == pytest.approx(mean, rel=0.005)
