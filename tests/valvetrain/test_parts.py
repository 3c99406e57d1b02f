"""Lift curves and springs from what is known of them."""

import math

import numpy as np
import pytest

from valvetrain.errors import ContradictionError
from valvetrain.parts.cam_card import CamCard, from_card
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.spring import Spring, from_wire

SLOPE = 0.018e-3 * 180 / math.pi


def card(*heights: tuple[float, float], lift: float = 9.0, ramp: float = 0.3, known: bool = False) -> CamCard:
    pairs = tuple((height * 1e-3, math.radians(duration)) for height, duration in heights)
    return CamCard(lift * 1e-3, pairs, ramp * 1e-3, SLOPE, known)


@pytest.mark.parametrize(
    "heights",
    [
        [(1.0, 236)],
        [(1.27, 226)],
        [(1.0, 236), (0.2, 272)],
        [(1.0, 236), (0.2, 300)],
        [(1.0, 244), (2.0, 214)],
    ],
)
@pytest.mark.parametrize("lift", [7.2, 9.0, 11.5])
def test_every_number_of_the_card_is_met(heights: list[tuple[float, float]], lift: float) -> None:
    curve = from_card(card(*heights, lift=lift))
    assert curve.full == pytest.approx(lift * 1e-3, rel=1e-12)
    for height, duration in heights:
        assert math.degrees(curve.duration_at(height * 1e-3)) == pytest.approx(duration, abs=0.05)


@pytest.mark.parametrize("count", [3, 4, 5])
def test_a_card_with_many_heights_is_met(count: int) -> None:
    """METHODS 3.8, a 3-4-5 lobe of 8.6 mm and 72 cam degrees: 246.86246 at 0.20, 212.61992 at 1.00, 205.03245 at 1.27 mm; two more
    from its closed form. The curve between them must be that lobe, not only the card's numbers."""
    heights = [(0.2, 246.86246), (1.0, 212.61992), (1.27, 205.03245)]
    x = np.linspace(0.0, 1.0, 4001)
    rise = 8.6 * (10 * x**3 - 15 * x**4 + 6 * x**5)
    heights += [(at, 288 * (1 - float(np.interp(at, rise, x)))) for at in (4.3, 7.0)]
    curve = from_card(card(*heights[:count], lift=8.6, ramp=0.05))
    for height, duration in heights[:count]:
        assert math.degrees(curve.duration_at(height * 1e-3)) == pytest.approx(duration, abs=0.05)
    inner = curve.lift > 0.3e-3
    true = np.interp(1 - np.abs(np.degrees(curve.angle[inner])) / 72, x, rise) * 1e-3
    assert np.abs(curve.lift[inner] - true).max() < {3: 0.3e-3, 4: 0.25e-3, 5: 0.12e-3}[count]


def test_velocity_and_acceleration_are_derivatives_of_lift() -> None:
    curve = from_card(card((1.0, 236)))
    inner = slice(2, -2)
    assert np.gradient(curve.lift, curve.angle)[inner] == pytest.approx(curve.velocity[inner], abs=7e-5)
    assert np.gradient(curve.velocity, curve.angle)[inner] == pytest.approx(curve.acceleration[inner], abs=1.2e-3)
    off = np.abs(np.gradient(curve.acceleration, curve.angle)[inner] - curve.jerk[inner]) > 0.04 * np.abs(curve.jerk).max()
    assert off.mean() < 0.02  # jerk steps where the ramp begins and ends
    shutting = curve.angle >= 0.0
    assert np.trapezoid(curve.velocity[shutting], curve.angle[shutting]) == pytest.approx(-curve.full, rel=1e-4)


def test_the_ramp_has_the_stated_velocity_where_the_clearance_ends() -> None:
    curve = from_card(card((1.0, 236)))
    for angle, sign in zip(curve.flanks(0.2e-3), (1.0, -1.0), strict=True):
        assert np.interp(angle, curve.angle, curve.velocity) == pytest.approx(sign * SLOPE, rel=0.01)


def test_without_a_ramp_the_polynomial_stands_alone() -> None:
    """Stoddart's 2-8-14-20-26 at x = 0.5: 0.53910993 of full lift (closed form)."""
    curve = from_card(CamCard(8.5e-3, ((1e-3, math.radians(220)),), 0.0, 0.0))
    middle = np.interp(curve.angle[-1] / 2, curve.angle, curve.lift)
    assert middle == pytest.approx(8.5e-3 * 0.53910993, rel=1e-4)


@pytest.mark.parametrize(
    ("heights", "part"),
    [
        ([(1.0, 252), (0.2, 248)], "the lower height must have the longer duration"),
        ([(1.0, 236), (0.2, 238)], "the first lies between"),
        ([(9.5, 100)], "the lobe lifts 9.00 mm"),
        ([(1.0, 236), (0.5, 270), (0.2, 272)], "270° at 0.50 mm does not go with the other durations"),
        ([], "one to 6"),
    ],
)
def test_contradictions_are_named(heights: list[tuple[float, float]], part: str) -> None:
    with pytest.raises(ContradictionError, match=part):
        from_card(card(*heights))


def test_spring_from_wire_equals_its_closed_form() -> None:
    """METHODS 1.11 outer: 27432 N/m; at 36.0 mm it gives k (44 - 36) mm = 219.456 N; solid 23.56 mm."""
    figures = {key: Figure(value, 0.0, Basis.MEASURED) for key, value in
               {"wire_diameter": 3.8e-3, "mean_diameter": 26.2e-3, "total_coils": 6.2, "free_length": 44e-3}.items()}  # fmt: skip
    made = from_wire(figures)
    spring = Spring(*(made[key] for key in ("rate", "load", "load_height", "solid_height", "mass")))
    assert spring.force(36e-3) == pytest.approx(27432.056 * 8e-3, rel=1e-6)
    assert spring.solid_height.value == pytest.approx(23.56e-3)
    assert spring.free_length == pytest.approx(44e-3)
    assert made["rate"].spread > 0


def test_a_spring_shorter_than_its_coils_is_refused() -> None:
    figures = {"wire_diameter": Figure(4e-3), "mean_diameter": Figure(26e-3), "total_coils": Figure(7.0), "free_length": Figure(27e-3)}
    with pytest.raises(ContradictionError, match=r"27\.0 mm cannot be: the coils alone are 28\.0 mm"):
        from_wire(figures)
