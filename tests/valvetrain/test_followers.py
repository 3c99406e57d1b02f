"""Followers: the eccentric circle as an exact cam for every kind, closed forms of curvature, and lobe to valve and back."""

import math

import numpy as np
import pytest
from scipy.integrate import cumulative_trapezoid

from tests.valvetrain.builders import eccentric, harmonic, roller_pitch_radius, roller_pressure_angle
from valvetrain.errors import ContradictionError, OutOfRangeError
from valvetrain.formulas.cam_followers import (
    flat_face_radius,
    force_at_lobe,
    least_face_diameter,
)
from valvetrain.parts.cam_card import CamCard, from_card
from valvetrain.parts.cam_drive import Contact, Drive, Path, lobe_from_valve, outline_from_radius, valve_from_lobe
from valvetrain.parts.cam_source import CamSource
from valvetrain.parts.lift_curve import LiftCurve, through
from valvetrain.parts.lobe import Lobe, Origin, StatedAt

E, R = 4e-3, 19e-3
FLAT = Drive(Contact.FLAT)
ROLLER = Drive(Contact.ROLLER, radius=9e-3)
FINGER = Drive(Contact.PAD, Path.PIVOTED, radius=8e-3, pivot=40e-3, arm=32e-3, valve_arm=41e-3)
CARD = from_card(CamCard(9e-3, ((1e-3, math.radians(244)),), 0.25e-3, 0.018e-3 * 180 / math.pi))


def law(name: str, x: np.ndarray) -> np.ndarray:
    """Unit rise of a classic law (METHODS 2), the two with sines in parts from their acceleration, integrated by scipy."""
    closed = {
        "3-4-5": 10 * x**3 - 15 * x**4 + 6 * x**5,
        "4-5-6-7": 35 * x**4 - 84 * x**5 + 70 * x**6 - 20 * x**7,
        "cycloidal": x - np.sin(2 * np.pi * x) / (2 * np.pi),
        "harmonic": (1 - np.cos(np.pi * x)) / 2,
    }
    if name in closed:
        return closed[name]
    if name == "modified sine":
        pieces = [x < 1 / 8, x < 7 / 8, x <= 1]
        shape = np.select(pieces, [np.sin(4 * np.pi * x), np.cos(4 * np.pi / 3 * (x - 1 / 8)), -np.cos(4 * np.pi * (x - 7 / 8))])
    else:
        pieces = [x < 1 / 8, x < 3 / 8, x < 5 / 8, x < 7 / 8, x <= 1]
        parts = [
            np.sin(4 * np.pi * x),
            np.ones_like(x),
            np.cos(4 * np.pi * (x - 3 / 8)),
            -np.ones_like(x),
            -np.cos(4 * np.pi * (x - 7 / 8)),
        ]
        shape = np.select(pieces, parts)
    rise = cumulative_trapezoid(cumulative_trapezoid(shape, x, initial=0.0), x, initial=0.0)
    return np.asarray(rise / rise[-1])


@pytest.mark.parametrize(
    ("name", "velocity", "acceleration", "jerk"),
    [
        ("3-4-5", 1.875, 5.7735027, 60.0),
        ("4-5-6-7", 2.1875, 7.5131884, 52.5),
        ("cycloidal", 2.0, 6.2831853, 39.478418),
        ("harmonic", 1.5707963, 4.9348022, 15.503138),
        ("modified sine", 1.7596034, 5.5279571, None),
        ("modified trapezoid", 2.0, 4.8881238, None),
    ],
)
def test_classic_laws_keep_their_peaks_through_a_table(name: str, velocity: float, acceleration: float, jerk: float | None) -> None:
    """Published peak coefficients (METHODS 2.1 and 2.2; Norton, Rothbart, from memory) from a table of 721 rows."""
    x = np.linspace(0.0, 1.0, 721)
    curve = through(x, law(name, x), 1441)
    assert curve.velocity.max() == pytest.approx(velocity, rel=1e-4)
    assert curve.acceleration.max() == pytest.approx(acceleration, rel=2e-3)
    if jerk:
        assert np.abs(curve.jerk).max() == pytest.approx(jerk, rel=2e-2)


def test_eccentric_circle_under_a_flat_face() -> None:
    """METHODS 2.7: s = e (1 - cos theta) from the lowest point; the radius is the circle's everywhere."""
    curve = valve_from_lobe(FLAT, R - E, eccentric(R - E, E))
    assert curve.lift == pytest.approx(E * (1 + np.cos(curve.angle)), abs=1e-9)
    shape = lobe_from_valve(FLAT, R - E, curve)
    assert shape.radius == pytest.approx(np.full(curve.angle.shape, R), abs=2e-7)
    assert flat_face_radius(15e-3, np.array([4.6945927e-3]), np.array([-0.69459271e-3])) == pytest.approx([19e-3], rel=1e-7)


@pytest.mark.parametrize("drive", [ROLLER, Drive(Contact.DOMED, radius=80e-3)], ids=["roller", "domed"])
def test_eccentric_circle_under_a_round_face(drive: Drive) -> None:
    """The centre of the face keeps R + r from the circle's centre; METHODS 2.8 for the roller's pressure angle."""
    curve = valve_from_lobe(drive, R - E, eccentric(R - E, E))
    exact = E * np.cos(curve.angle) + np.sqrt((R + drive.radius) ** 2 - (E * np.sin(curve.angle)) ** 2) - (R - E) - drive.radius
    assert curve.lift == pytest.approx(exact, abs=1e-9)
    shape = lobe_from_valve(drive, R - E, curve)
    assert shape.radius == pytest.approx(np.full(curve.angle.shape, R), abs=1e-6)
    assert np.abs(shape.outline - 1j * E) == pytest.approx(np.full(curve.angle.shape, R), abs=1e-8)
    expected = np.arcsin(E * np.abs(np.sin(curve.angle)) / (R + drive.radius))
    assert shape.pressure == pytest.approx(expected, abs=1e-6)


@pytest.mark.parametrize("sense", [1, -1])
@pytest.mark.parametrize("contact", [Contact.PAD, Contact.ROLLER])
def test_eccentric_circle_under_a_finger_is_a_four_bar_linkage(contact: Contact, sense: int) -> None:
    """METHODS 2.10: links e, R + r, arm and pivot distance; arm angle 137.8172 deg and total swing 14.375412 deg."""
    drive = Drive(contact, Path.PIVOTED, radius=8e-3, pivot=40e-3, arm=32e-3, valve_arm=32e-3, sense=sense)
    base = 15e-3 - E
    curve = valve_from_lobe(drive, base, eccentric(base, E)[::sense])
    swing = 2.0 * math.asin(curve.full / (2.0 * 32e-3))
    assert math.degrees(swing) == pytest.approx(14.375412, rel=1e-5)
    shape = lobe_from_valve(drive, base, curve)
    eye = 1j * E * np.exp(1j * sense * shape.angle)  # the eccentre as it stands in the engine
    assert np.abs(shape.centre - eye) == pytest.approx(np.full(eye.shape, 23e-3), abs=1e-8)
    assert shape.radius == pytest.approx(np.full(eye.shape, 15e-3), abs=1e-6)
    turned = sense * np.unwrap(np.angle(eye))
    wanted = sense * math.radians(60.0)
    wanted += 2 * math.pi * round((turned.mean() - wanted) / (2 * math.pi))
    assert math.degrees(np.interp(wanted, turned, np.angle(shape.centre - 40e-3))) == pytest.approx(137.8172, abs=0.002)


def test_curvature_of_a_short_rise() -> None:
    """METHODS 2.9: translating roller on a 3-4-5 rise, hollow flank: largest wheel radius 29.4, least convex 4.73, pressure 32.65 deg."""
    x = np.linspace(1e-6, 1.0 - 1e-6, 20001)
    beta, h = math.radians(60.0), 9e-3
    s = h * (10 * x**3 - 15 * x**4 + 6 * x**5)
    v = h / beta * (30 * x**2 - 60 * x**3 + 30 * x**4)
    a = h / beta**2 * (60 * x - 180 * x**2 + 120 * x**3)
    pitch = roller_pitch_radius(14e-3, 7e-3, s, v, a)
    assert np.abs(pitch[pitch < 0]).min() + 7e-3 == pytest.approx(29.399604e-3, rel=1e-3)
    assert pitch[pitch > 0].min() - 7e-3 == pytest.approx(4.7306008e-3, rel=1e-3)
    assert math.degrees(roller_pressure_angle(14e-3, 7e-3, s, v).max()) == pytest.approx(32.650904, rel=1e-5)
    curve = LiftCurve(x * beta, s, v, a, np.zeros_like(x))
    shape = lobe_from_valve(Drive(Contact.ROLLER, radius=7e-3), 14e-3, curve)
    assert shape.radius[shape.radius < 0].max() == pytest.approx(-29.399604e-3, rel=1e-3)
    assert math.degrees(shape.pressure.max()) == pytest.approx(32.650904, rel=1e-5)
    assert flat_face_radius(15e-3, s * 8 / 9, a * 8 / 9 * (60 / 68) ** 2).min() == pytest.approx(-10.346792e-3, rel=1e-4)  # METHODS 2.6


def test_small_formulas() -> None:
    """METHODS 2.6 (face) and 2.11 (rocker)."""
    assert least_face_diameter(12.638775e-3, 12.638775e-3, 12e-3) == pytest.approx(27.981325e-3, rel=1e-6)
    assert force_at_lobe(620.0, 1.5) == pytest.approx(930.0)
    for call in (lambda: force_at_lobe(1.0, 0.0), lambda: flat_face_radius(0.0, np.ones(1), np.ones(1))):
        with pytest.raises(OutOfRangeError):
            call()


@pytest.mark.parametrize(
    "drive",
    [FLAT, Drive(Contact.DOMED, radius=60e-3), Drive(Contact.ROLLER, radius=8e-3, ratio=1.4), FINGER],
    ids=lambda d: d.contact.value,
)
def test_from_valve_to_lobe_and_back(drive: Drive) -> None:
    shape = lobe_from_valve(drive, 17e-3, CARD)
    back = valve_from_lobe(drive, 17e-3, shape.outline, CARD.full)
    assert np.interp(CARD.angle, back.angle, back.lift) == pytest.approx(CARD.lift, abs=1e-6)
    inner = slice(60, -60)
    found = np.interp(CARD.angle[inner], back.angle, back.acceleration)
    assert found == pytest.approx(CARD.acceleration[inner], abs=0.02 * np.abs(CARD.acceleration).max())


def test_the_ratio_of_a_finger_varies_through_the_lift() -> None:
    shape = lobe_from_valve(FINGER, 17e-3, CARD)
    assert shape.lever.max() / shape.lever.min() > 1.002
    # by power: valve velocity over the velocity of the face's centre along its path, where both move
    moving = np.abs(CARD.velocity) > 0.2 * CARD.velocity.max()
    pace = np.abs(np.gradient(shape.centre, CARD.angle))
    assert np.abs(CARD.velocity[moving]) / pace[moving] == pytest.approx(shape.lever[moving], rel=2e-3)


def test_a_flat_face_refuses_a_hollow_flank() -> None:
    quick = harmonic(10e-3, 45.0, 721)
    hollow = lobe_from_valve(Drive(Contact.ROLLER, radius=6e-3), 14e-3, quick)
    assert hollow.radius.min() < 0.0
    with pytest.raises(ContradictionError, match="flank is hollow"):
        valve_from_lobe(FLAT, 14e-3, hollow.outline)
    with pytest.raises(ContradictionError, match="wider than the hollow"):
        valve_from_lobe(Drive(Contact.DOMED, radius=300e-3), 14e-3, hollow.outline)


@pytest.mark.parametrize(
    ("values", "part"),
    [
        ({"contact": Contact.ROLLER}, "needs its radius"),
        ({"contact": Contact.PAD, "path": Path.PIVOTED, "radius": 8e-3}, "pivot's distance"),
        ({"contact": Contact.FLAT, "ratio": 0.0}, "above zero"),
        ({"contact": Contact.FLAT, "path": Path.PIVOTED, "pivot": 0.03, "arm": 0.03, "valve_arm": 0.03}, "pad or a roller"),
    ],
)
def test_geometry_that_cannot_be_is_refused(values: dict[str, object], part: str) -> None:
    with pytest.raises(OutOfRangeError, match=part):
        Drive(**values)  # type: ignore[arg-type]


def test_arms_that_do_not_meet_are_refused() -> None:
    short = Drive(Contact.PAD, Path.PIVOTED, radius=8e-3, pivot=80e-3, arm=20e-3, valve_arm=30e-3)
    with pytest.raises(ContradictionError, match="do not meet a base circle"):
        lobe_from_valve(short, 16e-3, CARD)
    with pytest.raises(ContradictionError, match="longer than half the lift"):
        lobe_from_valve(Drive(Contact.PAD, Path.PIVOTED, radius=8e-3, pivot=40e-3, arm=32e-3, valve_arm=4e-3), 16e-3, CARD)


def test_a_bare_lobe_read_with_a_point_moves_the_valve_through_its_follower() -> None:
    """A flat face on the radius table of the lobe that a flat face needs gives the lift it was made for."""
    shape = lobe_from_valve(FLAT, 17e-3, CARD)
    turn = math.pi / 2 - np.unwrap(np.angle(shape.outline))
    lobe = Lobe(tuple(turn), tuple(np.abs(shape.outline) - 17e-3), StatedAt.RADIUS, Origin.TABLE, 0.0, 0.0, 0.0)
    found = CamSource(lobe, StatedAt.RADIUS, FLAT, 17e-3, exact=True).curve
    assert found.full == pytest.approx(CARD.full, abs=1e-6)
    assert math.degrees(found.duration_at(1e-3)) == pytest.approx(244.0, abs=0.2)
    # the same points without geometry stand for a constant ratio, and would be wrong by degrees
    assumed = CamSource(lobe, StatedAt.RADIUS, FLAT, 17e-3, exact=False).curve
    assert abs(math.degrees(assumed.duration_at(1e-3)) - 244.0) > 5.0


def test_outline_from_radius_is_the_circle_for_no_lift() -> None:
    angle = np.linspace(-3.0, 3.0, 100)
    assert np.abs(outline_from_radius(15e-3, angle, np.zeros(100))) == pytest.approx(np.full(100, 15e-3))
