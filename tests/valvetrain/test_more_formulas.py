"""Formulas beside the main job: contact depth, pitch, buckling, surge modes, rises, offset cranks, choking, screws, stacks of gaps."""

import math

import numpy as np
import pytest
from scipy.stats import norm

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.breathing import mach_index, sound_speed, speed_at_mach_index
from valvetrain.formulas.cam_curves import cycloidal_rise, polynomial_rise
from valvetrain.formulas.cam_followers import pressure_angle
from valvetrain.formulas.coil_springs import (
    Ends,
    buckling_deflection,
    coil_gap,
    coil_pitch,
    stable_length,
    surge_frequency,
    surge_mode,
)
from valvetrain.formulas.contact_stress import (
    contact_modulus,
    crowned_half_width,
    greatest_shear,
    line_half_width,
    line_pressure,
    shear_depth,
)
from valvetrain.formulas.fasteners import PROOF, preload_by_friction, preload_from_torque, stress_area
from valvetrain.formulas.slider_crank import dead_centres, piston_acceleration, piston_acceleration_at, piston_travel, piston_velocity
from valvetrain.formulas.stacks import likely_half_width, root_of_squares, worst_case

STEEL = contact_modulus(206e9, 0.3, 206e9, 0.3)


def test_contact_of_a_nose_under_a_flat_face() -> None:
    """Johnson's closed form (methods 4.7): half width 0.0595268 mm, p0 802.1 MPa, greatest shear 240.86 MPa at 0.0468 mm."""
    half = line_half_width(900.0, 12e-3, 1 / 4.2e-3, STEEL)
    assert half * 1e3 == pytest.approx(0.059526784, rel=1e-6)
    assert shear_depth(half) * 1e3 == pytest.approx(0.046797065, rel=1e-3)
    assert greatest_shear(line_pressure(900.0, 12e-3, 1 / 4.2e-3, STEEL)) / 1e6 == pytest.approx(240.85732, rel=1e-4)
    # US units (methods 4.6, closed form): 12 in wheel, 0.875 in wide, 5,000 lbf: 0.051789 in
    inch, psi, lbf = 0.0254, 6894.757293168361, 4.4482216152605
    plane = contact_modulus(30e6 * psi, 0.28, 30e6 * psi, 0.28)
    assert line_half_width(5000 * lbf, 0.875 * inch, 1 / (6 * inch), plane) / inch == pytest.approx(0.051788969, rel=1e-4)


def test_depth_of_greatest_shear_by_the_stress_field_itself() -> None:
    """The field under a line contact (Johnson, 4.46) maximised numerically gives 0.786 b and 0.300 p0."""
    z = np.linspace(0.01, 3.0, 300_001)
    along = -((1 + 2 * z**2) / np.sqrt(1 + z**2) - 2 * z)
    down = -1 / np.sqrt(1 + z**2)
    shear = np.abs(along - down) / 2
    place = int(np.argmax(shear))
    assert shear_depth(1.0) == pytest.approx(z[place], abs=1e-4)
    assert greatest_shear(1.0) == pytest.approx(shear[place], rel=1e-5)


def test_crowned_contact_the_narrow_way() -> None:
    """Methods 4.10 by exact elliptic integrals: a = 0.12908051 mm."""
    assert crowned_half_width(1100.0, 1 / 4.5e-3, 1 / 0.5, STEEL) * 1e3 == pytest.approx(0.12908051, rel=5e-4)
    # a ball on a flat (methods 4.9): 0.39069331 mm
    assert crowned_half_width(900.0, 1 / 10e-3, 1 / 10e-3, STEEL) * 1e3 == pytest.approx(0.39069331, rel=1e-6)


def test_pitch_and_gap_of_coils() -> None:
    """Shigley ex. 10-1, printed from memory: L0 2.06 in, squared ends, 10.5 active coils of 0.037 in: pitch 0.186 in."""
    assert coil_pitch(2.0656995, 0.037, 10.5, Ends.CLOSED) == pytest.approx(0.186, abs=5e-4)
    for ends, total in ((Ends.PLAIN_GROUND, 7.0), (Ends.CLOSED_GROUND, 8.0)):  # wound from pitch, the length is what it was
        pitch = coil_pitch(50e-3, 4e-3, 6.0, ends)
        assert (pitch * 7.0 if ends is Ends.PLAIN_GROUND else pitch * 6.0 + 2 * 4e-3) == pytest.approx(50e-3)
        assert total > 0
    assert coil_gap(36e-3, 23.56e-3, 4.2) * 4.2 == pytest.approx(12.44e-3)
    with pytest.raises(OutOfRangeError, match="free length"):
        coil_pitch(7e-3, 4e-3, 6.0, Ends.CLOSED_GROUND)


def test_buckling_by_two_standards() -> None:
    """Methods 1.7: Shigley's and EN 13906-1's forms agree; below 118.2 mm this coil never buckles."""
    assert stable_length(22.6e-3, 206e9, 79.5e9, 0.5) * 1e3 == pytest.approx(118.22304, rel=1e-6)
    found = buckling_deflection(140e-3, 22.6e-3, 206e9, 79.5e9, 0.5)
    share = 79.5 / 206.0
    en = 0.140 * 0.5 / (1 - share) * (1 - math.sqrt(1 - (1 - share) / (0.5 + share) * (math.pi * 22.6e-3 / (0.5 * 0.140)) ** 2))
    assert found == pytest.approx(en, rel=1e-9)
    assert buckling_deflection(45e-3, 22.6e-3, 206e9, 79.5e9, 0.5) == 45e-3


def test_modes_of_surge() -> None:
    """Wahl: held at both ends 1, 2, 3 times the first; one end free a quarter wave: half of it, then odd multiples."""
    first = surge_frequency(25565.54, 22.77132e-3)
    assert [surge_mode(25565.54, 22.77132e-3, n) / first for n in (1, 2, 3)] == pytest.approx([1.0, 2.0, 3.0])
    assert [surge_mode(25565.54, 22.77132e-3, n, free_end=True) / first for n in (1, 2, 3)] == pytest.approx([0.5, 1.5, 2.5])


@pytest.mark.parametrize(
    ("rise", "velocity", "acceleration", "jerk"),
    [
        (cycloidal_rise, 2.0, 2 * math.pi, 4 * math.pi**2),
        (lambda x, order=0: polynomial_rise(x, 5, order), 15 / 8, 10 / math.sqrt(3), 60.0),
        (lambda x, order=0: polynomial_rise(x, 7, order), 35 / 16, 84 * math.sqrt(5) / 25, 52.5),
    ],
)
def test_rises_have_the_factors_of_the_handbook(rise, velocity: float, acceleration: float, jerk: float) -> None:  # type: ignore[no-untyped-def]
    """Norton, Cam Design Handbook, table of Cv, Ca, Cj; exact values by calculus."""
    x = np.linspace(1e-9, 1.0 - 1e-9, 200_001)
    assert [float(np.abs(rise(x, n)).max()) for n in (1, 2, 3)] == pytest.approx([velocity, acceleration, jerk], rel=1e-6)
    assert (float(rise(np.array([0.0]))[0]), float(rise(np.array([1.0]))[0])) == pytest.approx((0.0, 1.0))
    for order in (1, 2, 3):  # each derivative integrates to the one before
        whole = np.cumsum((rise(x, order)[1:] + rise(x, order)[:-1]) / 2 * np.diff(x))
        assert np.abs(whole - (rise(x, order - 1)[1:] - rise(x, order - 1)[0])).max() < 1e-3
    with pytest.raises(OutOfRangeError, match="degree 6"):
        polynomial_rise(x, 6)


def test_pressure_angle_with_an_offset() -> None:
    """Eccentric circle R 19, throw 4 under a roller of 9 (methods 2.8): 7.7147793 deg without offset; with one, by the triangle itself."""
    lift, slope = np.array([2.3784804e-3]), np.array([3.5734394e-3])
    assert math.degrees(float(pressure_angle(24e-3, 0.0, lift, slope)[0])) == pytest.approx(7.7147793, rel=1e-6)
    throw, circle, offset = 4e-3, 28e-3, 3e-3  # circle: cam radius plus roller
    turn = np.radians(70.0)
    centre = lambda t: -throw * np.cos(t) * 1j + throw * np.sin(t)  # of the eccentric, cam axis at zero
    height = lambda t: centre(t).imag + math.sqrt(circle**2 - (offset - centre(t).real) ** 2)
    start = math.sqrt((circle - throw) ** 2 - offset**2)
    slope = (height(turn + 1e-6) - height(turn - 1e-6)) / 2e-6
    push = (offset + 1j * height(turn)) - centre(turn)  # the roller's centre stands off the eccentric's along the push
    exact = math.atan2(-push.real, push.imag)
    found = float(pressure_angle(circle - throw, offset, np.array([height(turn) - start]), np.array([slope]))[0])
    assert abs(found) == pytest.approx(abs(exact), rel=1e-4)


def test_piston_with_and_without_offset() -> None:
    """Methods 6.11 (Heywood): 26.66165 m/s at 90 deg, 9694.2814 m/s2 at 60, -19379.857 at the bottom; with offset by differences."""
    speed, none = 9500 / 60, 0.0
    at = lambda degrees: np.array([math.radians(degrees)])
    assert piston_velocity(0.0536, 0.0995, none, at(90), speed)[0] == pytest.approx(26.66165, rel=1e-6)
    assert piston_velocity(0.0536, 0.0995, none, at(75.850052), speed)[0] == pytest.approx(27.616185, rel=1e-6)
    assert piston_acceleration_at(0.0536, 0.0995, none, at(60), speed)[0] == pytest.approx(9694.2814, rel=1e-6)
    assert piston_acceleration_at(0.0536, 0.0995, none, at(180), speed)[0] == pytest.approx(-19379.857, rel=1e-6)
    assert piston_acceleration_at(0.0536, 0.0995, none, at(0), speed)[0] == pytest.approx(piston_acceleration(0.0536, 0.0995, speed))
    angle, step, omega = np.linspace(0.0, 6.2, 80), 1e-4, 2 * math.pi * speed
    travel = lambda a: piston_travel(0.0536, 0.0995, 2e-3, a)
    assert piston_velocity(0.0536, 0.0995, 2e-3, angle, speed) == pytest.approx(
        (travel(angle + step) - travel(angle - step)) / (2 * step) * omega, abs=1e-5
    )
    bent = (travel(angle + step) - 2 * travel(angle) + travel(angle - step)) / step**2 * omega**2
    assert piston_acceleration_at(0.0536, 0.0995, 2e-3, angle, speed) == pytest.approx(bent, abs=0.05)
    top, bottom = dead_centres(0.0536, 0.0995, 2e-3)
    assert piston_velocity(0.0536, 0.0995, 2e-3, np.array([0.0, bottom - top]), speed) == pytest.approx([0.0, 0.0], abs=1e-9)


def test_when_intake_valves_choke() -> None:
    """Methods 6.9 and 6.10: Z 0.39806263, 0.6 at 14,319.355 rpm; 343.23 m/s at 20 degC for an ideal gas."""
    assert sound_speed(293.15) == pytest.approx(343.23198, rel=1e-6)
    assert mach_index(77e-3, 16.973333, 31e-3, 2, 0.38, 346.1467) == pytest.approx(0.39806263, rel=1e-5)
    assert speed_at_mach_index(77e-3, 53.6e-3, 31e-3, 2, 0.38, 346.1467, 0.6) * 60 == pytest.approx(14319.355, rel=1e-5)


def test_preload_of_a_screw() -> None:
    """ISO 898-1 areas, printed from memory (14.2 to 84.3 mm2); Shigley's nut factor; VDI 2230's M8 8.8 row, 24.6 Nm, from memory."""
    for size, pitch, area in ((5, 0.8, 14.2), (6, 1.0, 20.1), (8, 1.25, 36.6), (10, 1.5, 58.0), (12, 1.75, 84.3)):
        assert stress_area(size * 1e-3, pitch * 1e-3) * 1e6 == pytest.approx(area, rel=3e-3)
    force = preload_from_torque(9.5, 6e-3, 0.18)
    assert force == pytest.approx(8796.2963, rel=1e-6)
    assert force / stress_area(6e-3, 1e-3) / PROOF["8.8"] == pytest.approx(0.75365887, rel=1e-5)
    assert preload_by_friction(24.6, 8e-3, 1.25e-3, 0.12, 0.12, 10.315e-3) == pytest.approx(18627.3, rel=3e-3)


def test_sums_of_gaps_worst_likely_and_by_squares() -> None:
    """JCGM 101, 9.2.3, from memory: four rectangular parts of u = 1 give 3.88; Irwin and Hall exactly 2 sqrt3 (2 - (3/5)^(1/4))."""
    four = math.sqrt(3.0) * np.ones(4)
    assert likely_half_width(four) == pytest.approx(3.88, rel=5e-3)
    assert likely_half_width(four) == pytest.approx(2 * math.sqrt(3) * (2 - 0.6**0.25), rel=1e-9)
    assert worst_case(four) == pytest.approx(4 * math.sqrt(3))
    assert root_of_squares(four) == pytest.approx(2 * math.sqrt(3))
    assert likely_half_width(np.array([0.02])) == pytest.approx(0.019)  # one part alone: 95 % of its half width
    draws = np.random.default_rng(1).uniform(-1.0, 1.0, (400_000, 3)) @ np.array([0.1, 0.25, 0.4])
    assert likely_half_width(np.array([0.1, 0.25, 0.4])) == pytest.approx(np.quantile(np.abs(draws), 0.95), rel=4e-3)
    many = np.full(12, 0.01)  # near to normal
    assert likely_half_width(many) == pytest.approx(norm.ppf(0.975) * root_of_squares(many) / math.sqrt(3), rel=0.01)
    with pytest.raises(OutOfRangeError, match="more than 12"):
        likely_half_width(np.ones(13))
