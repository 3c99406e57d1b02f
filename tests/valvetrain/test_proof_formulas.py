"""Formulas of what an engine did, against published references and closed forms.

Check values: 18.2 to 18.8, 17.1 to 17.7, 12.1 to 12.5, 25.1 to 25.4 of the trade's list of methods (identities, computed apart);
saturation pressures of water from the steam tables, from memory.
"""

import math

import pytest
from scipy.optimize import brentq

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.air_correction import din_70020, dry_pressure, iso_1585, sae_j607, sae_j1349, saturation_pressure
from valvetrain.formulas.cylinder_tests import (
    compressions_per_second,
    cranking_gauge,
    error_of_median,
    exponent_of_gauge,
    leak_area,
    leak_share,
    spread_of_highest,
    wet_ratio,
)
from valvetrain.formulas.intake_vacuum import area_of_vacuum, curing_diameter, most_gained, pulsation_factor
from valvetrain.formulas.road_load import power_kept, power_of_air, power_of_gain, power_of_road
from valvetrain.formulas.slider_crank import trapped_ratio
from valvetrain.formulas.valve_flow import flow_through


def test_each_standard_is_one_on_its_own_day() -> None:
    assert sae_j1349(99000.0, 298.15) == pytest.approx(1.0)
    assert iso_1585(99000.0, 298.15) == pytest.approx(1.0)
    assert din_70020(101300.0, 293.15) == pytest.approx(1.0)
    assert sae_j607(29.92 * 3386.389, 273.15 + 28.0 / 1.8) == pytest.approx(1.0)


def test_one_day_in_four_standards() -> None:
    """32 C, 965 hPa, 55 %: the four lie 5.4 % apart, so they may never be laid over one another."""
    dry = dry_pressure(96500.0, 305.15, 0.55)
    assert dry == pytest.approx(93888.258, rel=1e-6)
    told = [sae_j1349(dry, 305.15), iso_1585(dry, 305.15), din_70020(96500.0, 305.15), sae_j607(dry, 305.15)]
    assert told[:3] == pytest.approx([1.0787738338, 1.0806345264, 1.0710216296], rel=1e-6)
    assert told[3] == pytest.approx(1.12915, rel=5e-5)  # an inch of mercury has more than one size


@pytest.mark.parametrize(("celsius", "hectopascal"), [(20.0, 23.393), (30.0, 42.470), (40.0, 73.849)])
def test_vapour_against_steam_tables(celsius: float, hectopascal: float) -> None:
    """Source: steam tables, from memory; the published form is good to 0.4 %."""
    assert saturation_pressure(celsius + 273.15) == pytest.approx(hectopascal * 100.0, rel=4e-3)


def test_no_air_of_this_world() -> None:
    for call in (lambda: sae_j1349(20e3, 298.0), lambda: iso_1585(99e3, 200.0), lambda: dry_pressure(99e3, 298.0, 1.2)):
        with pytest.raises(OutOfRangeError):
            call()


def test_gauge_pressures() -> None:
    trapped = trapped_ratio(12.2, 42.5e-3, 91e-3, math.radians(65.0))
    assert trapped == pytest.approx(9.509879883)
    assert [cranking_gauge(101325.0, trapped, n) / 1e5 for n in (1.20, 1.27, 1.34)] == pytest.approx(
        [14.105874742, 16.687794849, 19.710634093]
    )
    assert exponent_of_gauge(101325.0, trapped, cranking_gauge(101325.0, trapped, 1.27)) == pytest.approx(1.27)
    assert spread_of_highest(10.2e5, 12.6e5) == pytest.approx(0.1904761905)
    assert wet_ratio(8.6, 0.0, 30e-6) == 8.6
    assert wet_ratio(8.6, 5e-6, 30e-6) > 8.6
    assert compressions_per_second(260.0 / 60.0, 4.0) == pytest.approx(8.6666667)
    assert error_of_median(2.0, 8.0) == pytest.approx(0.8838834765)


def test_leak_pairs_and_the_flow_through_both_holes() -> None:
    """What passes the restrictor passes the leak: the area is checked by the flow formula at both (choked and not)."""
    restrictor = math.pi / 4.0 * 1e-6
    assert leak_share(550e3, 490e3) == pytest.approx(0.1090909)
    assert leak_area(550e3, 490e3, 101325.0, restrictor) * 1e6 == pytest.approx(0.5148379137)
    small = math.pi / 4.0 * 1.016e-3**2
    psi = 6894.757
    for behind, ratio in ((72.0, 0.62532592), (60.0, 1.0585559), (76.0, 0.43305769)):
        assert leak_area(80.0 * psi, behind * psi, 14.696 * psi, small) / small == pytest.approx(ratio, rel=1e-4)
    for behind in (20e3, 90e3, 300e3, 540e3):
        area = leak_area(550e3, behind, 101325.0, restrictor)
        through = [
            flow_through(a, p + 101325.0, 293.0, q + 101325.0, 287.05, 1.4)
            for a, p, q in ((restrictor, 550e3, behind), (area, behind, 0.0))
        ]
        assert through[0] == pytest.approx(through[1], rel=1e-9)
    with pytest.raises(OutOfRangeError):
        leak_area(550e3, 560e3, 101325.0, restrictor)


def test_road_and_rotating_power() -> None:
    air, gain, road = power_of_air(30.0, 1.18, 0.32), power_of_gain(30.0, 3.0, 250.0, 9.0), power_of_road(30.0, 250.0 * 9.80665, 0.015, 0.0)
    assert (air + gain + road) / 1e3 == pytest.approx(29.510848125)
    assert (power_of_road(30.0, 250.0 * 9.80665, 0.0, 0.01)) / 1e3 == pytest.approx(0.7354068195, rel=1e-4)
    assert power_kept(0.1, 110.0 / (2.0 * math.pi), 12.0 / (2.0 * math.pi)) == pytest.approx(132.0)


def test_vacuum_and_size() -> None:
    assert curing_diameter(36e-3, 6200.0, 1500.0) * 1e3 == pytest.approx(51.3307498274)
    assert most_gained(101300.0, 6200.0, 1500.0) == pytest.approx(0.0494216614)
    assert area_of_vacuum(0.0475, 1.18, 4000.0) * 1e6 == pytest.approx(576.8854955708)
    assert pulsation_factor(1, 1.0 / 3.0) == pytest.approx(math.pi**2 / 8.0 * 3.0, rel=1e-3)
    assert [pulsation_factor(n, 1.0 / 3.0) for n in (2, 3, 4)] == pytest.approx([1.85, 1.23, 1.01], abs=0.01)


def test_curing_size_against_compressible_flow() -> None:
    """25.2: with compressible flow the size comes out 1.3 % smaller; the closed form is on the safe side."""
    air, area = 101300.0, 0.82 * math.pi / 4.0 * 36e-3**2
    flow = flow_through(area, air, 293.15, air - 6200.0, 287.05, 1.4)
    found = brentq(lambda d: flow_through(0.82 * math.pi / 4.0 * d**2, air, 293.15, air - 1500.0, 287.05, 1.4) - flow, 0.03, 0.08)
    assert found * 1e3 == pytest.approx(50.67, rel=2e-3)
    assert curing_diameter(36e-3, 6200.0, 1500.0) == pytest.approx(found, rel=0.015)
