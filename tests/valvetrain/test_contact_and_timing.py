"""Contact stress and the arithmetic of timing against METHODS 3 and 4."""

import math

import pytest
from scipy.integrate import quad

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.cam_timing import (
    centre_from_events,
    duration_from_events,
    equal_lift_centre,
    ramp_shift,
    slot_step,
    tooth_step,
)
from valvetrain.formulas.contact_stress import contact_modulus, crowned_pressure, line_pressure

STEEL = contact_modulus(206e9, 0.3, 206e9, 0.3)


def test_line_contact() -> None:
    """METHODS 4.7: 802.10083 MPa; 4.6 in US units: 70,243.285 psi."""
    assert line_pressure(900, 12e-3, 1 / 4.2e-3, STEEL) / 1e6 == pytest.approx(802.10083, rel=1e-7)
    pound, inch = 4.4482216152605, 0.0254
    psi = pound / inch**2
    half = contact_modulus(30e6 * psi, 0.28, 30e6 * psi, 0.28)
    assert line_pressure(5000 * pound, 0.875 * inch, 1 / (6 * inch), half) / psi == pytest.approx(70243.285, rel=1e-6)


def test_point_contact() -> None:
    """METHODS 4.9 (sphere, 2815.2174 MPa) and 4.10 (crowned, 1629.5792 MPa); the pressure's integral is the load (scipy)."""
    assert crowned_pressure(900, 100.0, 100.0, STEEL) / 1e6 == pytest.approx(2815.2174, rel=1e-4)
    assert crowned_pressure(900, 100.0, 100.001, STEEL) / 1e6 == pytest.approx(2815.2174, rel=1e-4)
    assert crowned_pressure(1100, 1 / 4.5e-3, 1 / 0.5, STEEL) / 1e6 == pytest.approx(1629.5792, rel=5e-4)
    assert crowned_pressure(1100, 2.0, 1 / 4.5e-3, STEEL) == pytest.approx(crowned_pressure(1100, 1 / 4.5e-3, 2.0, STEEL))
    peak = line_pressure(900, 12e-3, 1 / 4.2e-3, STEEL)
    half_width = 2 * 900 / (math.pi * peak * 12e-3)
    load, _ = quad(lambda x: 12e-3 * peak * math.sqrt(max(1 - (x / half_width) ** 2, 0.0)), -half_width, half_width)
    assert load == pytest.approx(900, rel=1e-6)


def test_contact_refuses_what_cannot_be() -> None:
    for call in (
        lambda: line_pressure(0.0, 1e-2, 100.0, STEEL),
        lambda: line_pressure(900.0, 1e-2, -1.0, STEEL),
        lambda: crowned_pressure(900.0, 100.0, 0.0, STEEL),
        lambda: contact_modulus(0.0, 0.3, 1e9, 0.3),
    ):
        with pytest.raises(OutOfRangeError):
            call()


@pytest.mark.parametrize(("opens", "shuts", "duration", "centre"), [(22, 58, 260, 108), (17, 55, 252, 109), (-6, 31, 205, 108.5)])
def test_events(opens: float, shuts: float, duration: float, centre: float) -> None:
    """METHODS 3.1 and 3.2; the exhaust's events mirrored: shuts after TDC first."""
    angles = math.radians(opens), math.radians(shuts)
    assert math.degrees(duration_from_events(*angles)) == pytest.approx(duration)
    assert math.degrees(centre_from_events(*angles)) == pytest.approx(centre)


def test_teeth_slots_and_ramp() -> None:
    """METHODS 3.4 and 3.5."""
    assert math.degrees(tooth_step(34)) == pytest.approx(21.176471)
    assert math.degrees(slot_step(10, 11)) == pytest.approx(6.5454545)
    assert math.degrees(ramp_shift(-0.1e-3, 0.015e-3 * 180 / math.pi)) == pytest.approx(-13.333333)


def test_equal_lift() -> None:
    """The mean of both angles (common practice, no source); readings in the wrong order are refused in words."""
    assert math.degrees(equal_lift_centre(math.radians(68.0), math.radians(146.0))) == pytest.approx(107.0)
    with pytest.raises(OutOfRangeError, match="keep turning the engine forwards"):
        equal_lift_centre(math.radians(146.0), math.radians(68.0))
    for call in (lambda: tooth_step(5), lambda: slot_step(0, 3), lambda: ramp_shift(1e-4, 0.0), lambda: duration_from_events(-2.0, -2.0)):
        with pytest.raises(OutOfRangeError):
            call()
