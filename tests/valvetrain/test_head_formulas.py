"""Formulas of the head: press fits, compression and boost, valve areas and flow, friction and wall heat."""

import math

import numpy as np
import pytest
from scipy.integrate import quad, solve_bvp
from scipy.optimize import brentq

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.compression import (
    air_pressure,
    chamber_volume,
    compressor_outlet,
    cooled_charge,
    end_pressure,
    end_temperature,
    ratio_of_equal_pressure,
    ratio_of_equal_temperature,
    swept_volume,
)
from valvetrain.formulas.losses import friction_pressure, wall_heat
from valvetrain.formulas.press_fits import (
    hoop_inside,
    hoop_outside,
    press_pressure,
    push_out_force,
    warm_interference,
    warming_to_drop_in,
)
from valvetrain.formulas.valve_flow import (
    critical_pressure_ratio,
    curtain_area,
    flow_through,
    least_area,
    lift_of_full_throat,
    throat_area,
)

SEAT = {
    "diameter": 32e-3,
    "inner": 26e-3,
    "outer": 52e-3,
    "elastic_in": 120e9,
    "poisson_in": 0.28,
    "elastic_out": 71e9,
    "poisson_out": 0.33,
}


def test_seat_ring_by_the_constants_of_lame() -> None:
    """Methods 9.6: u = A r + B / r and sigma = E/(1-nu^2)(...) for both rings, four conditions solved as a linear system (numpy)."""
    inner, joint, outer = 13e-3, 16e-3, 26e-3

    def row(elastic: float, poisson: float, radius: float, *, hoop: bool = False) -> np.ndarray:
        a, b = elastic / (1 - poisson), elastic / (1 + poisson) / radius**2
        return np.array([a, b if hoop else -b])

    ring, head = (120e9, 0.28), (71e9, 0.33)
    system, right = np.zeros((4, 4)), np.zeros(4)
    system[0, :2] = row(*ring, inner)  # no stress at the seat's bore
    system[1, 2:] = row(*head, outer)  # nor outside the boss
    system[2, :2], system[2, 2:] = row(*ring, joint), -row(*head, joint)  # the same pressure at the joint
    system[3] = [-joint, -1 / joint, joint, 1 / joint]  # the parts overlap by half the interference
    right[3] = 0.05e-3
    scale = np.abs(system).max(axis=1)
    found = np.linalg.solve(system / scale[:, None], right / scale)
    p = -row(*ring, joint) @ found[:2]
    pressure = press_pressure(0.1e-3, **SEAT)
    assert pressure == pytest.approx(p, rel=1e-8)
    assert pressure / 1e6 == pytest.approx(42.071927, rel=1e-7)
    assert hoop_outside(pressure, 32e-3, 52e-3) == pytest.approx(row(*head, joint, hoop=True) @ found[2:], rel=1e-8)
    assert hoop_inside(pressure, 32e-3, 26e-3) == pytest.approx(row(*ring, inner, hoop=True) @ found[:2], rel=1e-8)
    assert push_out_force(pressure, 32e-3, 6e-3, 0.12) == pytest.approx(3045.2626, rel=1e-6)


def test_seat_ring_by_a_general_solver() -> None:
    """scipy's boundary-value solver on the equilibrium of both rings, u'' + u'/r - u/r^2 = 0, knows nothing of Lame's formula."""

    def stress(elastic: float, poisson: float, r: float, u: float, slope: float) -> float:
        return elastic / (1 - poisson**2) * (slope + poisson * u / r)

    def slopes(x: np.ndarray, y: np.ndarray) -> np.ndarray:
        low, high = 13e-3 + 3e-3 * x, 16e-3 + 10e-3 * x
        return np.array([3e-3 * y[1], 3e-3 * (y[0] / low**2 - y[1] / low), 10e-3 * y[3], 10e-3 * (y[2] / high**2 - y[3] / high)])

    def ends(left: np.ndarray, right: np.ndarray) -> np.ndarray:
        in_joint, out_joint = stress(120e9, 0.28, 16e-3, right[0], right[1]), stress(71e9, 0.33, 16e-3, left[2], left[3])
        return np.array([
            stress(120e9, 0.28, 13e-3, left[0], left[1]) / 1e9, stress(71e9, 0.33, 26e-3, right[2], right[3]) / 1e9, (in_joint - out_joint) / 1e9,
            (left[2] - right[0] - 0.05e-3) * 1e3,
        ])  # fmt: skip

    grid = np.linspace(0.0, 1.0, 41)
    found = solve_bvp(slopes, ends, grid, np.zeros((4, grid.size)), tol=1e-8, max_nodes=20000)
    assert found.success
    joint = stress(120e9, 0.28, 16e-3, found.y[0, -1], found.y[1, -1])
    assert press_pressure(0.1e-3, **SEAT) == pytest.approx(-joint, rel=1e-5)


def test_one_material_and_a_solid_inner_part() -> None:
    """Methods 9.7: p = E i / (2 d) (1 - d^2 / D^2), closed form."""
    same = press_pressure(0.1e-3, 32e-3, 0.0, 52e-3, 71e9, 0.33, 71e9, 0.33)
    assert same == pytest.approx(71e9 * 0.1e-3 / (2 * 32e-3) * (1 - (32 / 52) ** 2), rel=1e-9)
    assert same / 1e6 == pytest.approx(68.925666, rel=1e-7)


def test_temperatures_of_a_shrink_fit() -> None:
    """Methods 9.8, closed form."""
    assert warming_to_drop_in(0.1e-3, 0.03e-3, 32e-3, 22.5e-6) == pytest.approx(180.55556, rel=1e-7)
    cooled = 32e-3 * 10.5e-6 * 98.0
    assert cooled * 1e3 == pytest.approx(0.032928, rel=1e-6)
    assert warming_to_drop_in(0.1e-3 - cooled, 0.03e-3, 32e-3, 22.5e-6) == pytest.approx(134.82222, rel=1e-7)
    assert warm_interference(0.1e-3, 32e-3, 11.5e-6, 22.5e-6, 150.0, 150.0) * 1e3 == pytest.approx(0.0472, rel=1e-9)


@pytest.mark.parametrize(
    "wrong",
    [{"inner": 32e-3}, {"outer": 32e-3}, {"diameter": 0.0}, {"interference": -1e-4}, {"interference": 2e-3}, {"elastic_in": math.nan}],
)
def test_a_fit_that_cannot_be_is_refused(wrong: dict[str, float]) -> None:
    with pytest.raises(OutOfRangeError):
        press_pressure(**({"interference": 0.1e-3} | SEAT | wrong))


def test_volumes_from_parts() -> None:
    """Methods 7.1, closed form: chamber 14.6 cm3, gasket 78 x 0.45, deck 0.6, dome 1.9 cm3 give 15.084; 13.5 wants 19.864 cm3."""
    swept = swept_volume(76.8e-3, 53.6e-3)
    gasket, deck = math.pi / 4 * 78e-3**2 * 0.45e-3, math.pi / 4 * 76.8e-3**2 * 0.6e-3
    left = 14.6e-6 + gasket + deck - 1.9e-6
    assert left * 1e6 == pytest.approx(17.629743, rel=1e-7)
    assert 1 + swept / left == pytest.approx(15.084166, rel=1e-7)
    assert chamber_volume(swept, 13.5) * 1e6 == pytest.approx(19.864018, rel=1e-7)


def test_boost_told_three_ways() -> None:
    """Methods 7.5 and 7.6, closed form."""
    assert ratio_of_equal_pressure(9.0, 1.8, 1.33) == pytest.approx(14.00157, rel=1e-6)
    hot = compressor_outlet(293.15, 1.8, 0.65)
    assert hot == pytest.approx(375.62189, rel=1e-7)
    cooled = cooled_charge(hot, 293.15, 0.6)
    assert cooled == pytest.approx(326.13876, rel=1e-7)
    assert ratio_of_equal_temperature(9.0, cooled, 293.15, 1.33) == pytest.approx(12.433215, rel=1e-6)
    assert pytest.approx(8.778824, rel=1e-6) == 12.5 / 1.6 ** (1 / 1.33)
    assert ratio_of_equal_pressure(8.778824, 1.6, 1.33) == pytest.approx(12.5, rel=1e-6)  # and back
    assert end_pressure(1.8e5, 9.0, 1.33) == pytest.approx(end_pressure(1.0e5, ratio_of_equal_pressure(9.0, 1.8, 1.33), 1.33), rel=1e-12)


def test_compressed_air_against_a_kinetics_library() -> None:
    """Methods 7.4: Cantera 3.2.0 (air.yaml, frozen) from 300 K, 101.325 kPa; an average exponent of 1.387 and 1.383 stands for real heats."""
    assert end_temperature(300.0, 8.0, 1.387) == pytest.approx(670.51384, rel=5e-3)
    assert end_temperature(300.0, 12.0, 1.383) == pytest.approx(776.29797, rel=5e-3)
    assert end_pressure(101325.0, 8.0, 1.387) == pytest.approx(1811728.4, rel=5e-3)
    assert end_pressure(101325.0, 12.0, 1.383) == pytest.approx(3146335.7, rel=5e-3)
    assert end_temperature(300.0, 10.0, 1.4) == pytest.approx(753.56593, rel=1e-7)  # gamma 1.4 told


def test_air_above_the_sea() -> None:
    """ISO 2533 rows, from memory: 89,875 Pa at 1,000 m, 54,020 at 5,000; methods 12.5 (fluids 1.3.1) 84,560 Pa at 1,500 m, within 0.02 %."""
    assert air_pressure(0.0) == 101325.0
    assert air_pressure(1000.0) == pytest.approx(89875.0, rel=1e-4)
    assert air_pressure(1500.0) == pytest.approx(84559.677, rel=2e-4)
    assert air_pressure(5000.0) == pytest.approx(54020.0, rel=2e-4)


VALVE = (32e-3, 1.5e-3, math.radians(45), 27.5e-3, 5.5e-3)


def test_least_area_in_its_three_stages() -> None:
    """Methods 6.1 (Heywood 6.7 to 6.9)."""
    lifts = np.array([1.0, 2.9, 3.1, 6.0, 8.0, 10.0]) * 1e-3
    wanted = [65.532523, 196.16439, 210.14654, 454.50741, 570.19907, 570.19907]
    assert least_area(*VALVE, lifts) * 1e6 == pytest.approx(np.array(wanted), rel=1e-6)
    assert lift_of_full_throat(*VALVE) * 1e3 == pytest.approx(7.2586678, rel=1e-7)
    assert throat_area(27.5e-3, 5.5e-3) * 1e6 == pytest.approx(570.19907, rel=1e-7)


def test_stages_meet_for_a_seat_of_thirty_degrees() -> None:
    """Methods 6.2: 287.45573 mm2 at 3.4641016 mm on both sides of the joint."""
    valve = (32e-3, 1.5e-3, math.radians(30), 27.5e-3, 5.5e-3)
    joint = 3.4641016151e-3
    both = least_area(*valve, np.array([joint - 1e-10, joint + 1e-10])) * 1e6
    assert both == pytest.approx(np.array([287.45573, 287.45573]), rel=1e-6)
    assert lift_of_full_throat(*valve) * 1e3 == pytest.approx(6.6246932, rel=1e-7)


def test_first_stage_is_a_frustum() -> None:
    """The slant face between valve and seat, turned round the stem and integrated by scipy: the least area is the cone's that stands square
    on the seat. Independent of the closed form."""
    lift, (head, width, angle, *_) = 1.7e-3, VALVE
    inner = head / 2 - width  # the seat's inner edge, from the stem
    slant = lift * math.cos(angle)  # square to both faces
    area = quad(lambda t: 2 * math.pi * (inner + t * math.sin(angle)), 0.0, slant)[0]
    assert least_area(*VALVE, np.array([lift]))[0] == pytest.approx(area, rel=1e-9)


def test_curtain_equals_the_head_at_a_quarter() -> None:
    """Methods 6.3."""
    assert curtain_area(32e-3, np.array([8e-3]))[0] == pytest.approx(math.pi / 4 * 32e-3**2, rel=1e-12)


def test_flow_through_a_restriction() -> None:
    """Methods 6.4 to 6.8: critical ratio and flow parameter of air, one flow below choking, two choked, one hot and backwards."""
    assert critical_pressure_ratio(1.4) == pytest.approx(0.52828179, rel=1e-8)
    assert 250000 * critical_pressure_ratio(1.33) == pytest.approx(135091.0, rel=1e-5)  # fluids 1.3.1
    assert flow_through(1.0, 1e5, 300.0, 1e4, 287.05, 1.4) * math.sqrt(300.0) / 1e5 == pytest.approx(0.0404149, rel=1e-5)
    assert flow_through(350e-6, 1e5, 300.0, 92e3, 287.05, 1.4) == pytest.approx(0.045617501, rel=1e-7)
    assert flow_through(350e-6, 180e3, 300.0, 80e3, 287.05, 1.4) == pytest.approx(0.14700138, rel=1e-6)
    assert flow_through(350e-6, 120e3, 900.0, 100e3, 287.05, 1.33) == pytest.approx(0.043018513, rel=1e-6)
    assert flow_through(math.pi * 1e-4, 101325.0, 288.15, 1e4, 287.05, 1.4) == pytest.approx(0.075787691, rel=1e-6)


def test_flow_agrees_with_the_isentropic_table() -> None:
    """Methods 6.6 and 6.7: at the pressure of Mach 0.5 the flow is 1 / 1.33984 of the choked one (NACA 1135, from memory)."""
    part = flow_through(1e-4, 1e5, 300.0, 0.84301918e5, 287.05, 1.4) / flow_through(1e-4, 1e5, 300.0, 1e4, 287.05, 1.4)
    assert part == pytest.approx(1 / 1.3398438, rel=1e-7)
    mach = brentq(lambda m: (1 + 0.2 * m**2) ** -3.5 - 0.92, 0.1, 0.9)
    area_ratio = ((1 + 0.2 * mach**2) / 1.2) ** 3 / mach
    slow = flow_through(1e-4, 1e5, 300.0, 92e3, 287.05, 1.4) / flow_through(1e-4, 1e5, 300.0, 1e4, 287.05, 1.4)
    assert slow == pytest.approx(1 / area_ratio, rel=1e-9)


def test_published_fits() -> None:
    """Methods 6.15 and 6.16: evaluations of the formulas as remembered."""
    assert friction_pressure(75e5, 17.0) / 1e5 == pytest.approx(3.266, rel=1e-9)
    assert wall_heat(0.077, 3.2e6, 2100.0, 55.275687) == pytest.approx(1278.9281, rel=1e-6)
    with pytest.raises(OutOfRangeError):
        friction_pressure(75e5, 50.0)
    with pytest.raises(OutOfRangeError):
        wall_heat(0.0, 1e5, 300.0, 10.0)
