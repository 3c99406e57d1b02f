"""Rescale the base units by odd factors: a formula with sound dimensions scales with its own unit, one without does not."""

import inspect
import math
import re
import typing
from collections.abc import Callable

import numpy as np
import pint
import pytest

from tests.architecture.test_rules import FORMULAS
from valvetrain.formulas.coil_springs import Ends
from valvetrain.formulas.damage import Below
from valvetrain.formulas.spring_fatigue import Wire

# one metre is 3.7 new lengths, and so on: powers of these factors cannot cancel by chance
BASE = {"meter": 3.7, "kilogram": 0.23, "second": 1.9, "kelvin": 0.61}
REGISTRY: pint.UnitRegistry[float] = pint.UnitRegistry()

# Arguments for which each formula is inside its range, SI. Anything not named takes 1.
ARGUMENTS: dict[str, dict[str, object]] = {
    "spring_index": {"wire_diameter": 3.4e-3, "mean_diameter": 22.6e-3},
    "active_coils": {"total_coils": 6.5, "ends": Ends.CLOSED_GROUND},
    "solid_height": {"wire_diameter": 3.4e-3, "total_coils": 6.5, "ends": Ends.CLOSED},
    "rate": {"wire_diameter": 3.4e-3, "mean_diameter": 22.6e-3, "coils": 4.5, "shear_modulus": 79.5e9},
    "bergstraesser_factor": {"index": 7.3},
    "shear_stress": {"load": 500.0, "wire_diameter": 3.4e-3, "mean_diameter": 22.6e-3},
    "active_mass": {"wire_diameter": 3.4e-3, "mean_diameter": 22.6e-3, "coils": 4.5, "density": 7850.0},
    "surge_frequency": {"spring_rate": 25565.0, "mass": 0.0228},
    "torsional_yield": {"tensile": 1.7e9, "wire": Wire.CHROME_SILICON},
    "torsional_ultimate": {"tensile": 1.7e9},
    "wahl_factor": {"index": 7.3},
    "goodman_factor": {"alternating": 2e8, "mean": 5e8, "endurance": 4e8, "ultimate": 1.2e9},
    "turns_to_failure": {"alternating": 3e8, "mean": 5e8, "endurance": 4e8, "ultimate": 1.2e9},
    "reversed_stress": {"alternating": 3e8, "mean": 5e8, "ultimate": 1.2e9},
    "slope_exponent": {"endurance": 4e8, "ultimate": 1.2e9},
    "turns_borne": {"reversed_": 5e8, "endurance": 4e8, "ultimate": 1.2e9, "below": Below.LESS},
    "doubt_of_life": {"exponent": 18.6, "stress": 0.05, "material": 0.25},
    "impact_energy": {"mass": 0.06, "speed": 1.8},
    "reliability_bound": {"parts": 32.0, "confidence": 0.95, "life": 1.5, "shape": 2.0},
    "least_coil_gaps": {"wire_diameter": 3.4e-3, "mean_diameter": 22.6e-3, "coils": 4.5},
    "cone_rate": {"wire_diameter": 3.2e-3, "small_diameter": 16e-3, "large_diameter": 24e-3, "coils": 5.0, "shear_modulus": 79.5e9},
    "series_rate": {"first": 25e3, "second": 50e3},
    "bar_inertia": {"mass": 0.03, "valve_arm": 0.033, "other_arm": 0.02},
    "pendulum_inertia": {"mass": 0.03, "centre_distance": 0.0165, "period": 0.3, "gravity": 9.8},
    "weighed_inertia": {"valve_end": 0.015, "other_end": 0.012, "valve_arm": 0.033, "other_arm": 0.02},
    "lift_torque": {"force": np.array([650.0]), "slope": np.array([0.0112])},
    "friction_torque": {"force": np.array([650.0]), "reach": np.array([0.021]), "friction": 0.1},
    "shaft_power": {"torque": 1.4, "cam_speed": 75.0},
    "opening_force": {"port": 120e3, "cylinder": 20e3, "case": 5e3, "seal_diameter": 31.6e-3, "stem_diameter": 5.5e-3},
    "mean_piston_speed": {"stroke": 0.0536, "speed": 158.0},
    "speed_at_piston_speed": {"stroke": 0.0536, "piston_speed": 17.0},
    "piston_drop": {"stroke": 0.0536, "rod": 0.101, "angle": 1.2},
    "piston_travel": {"stroke": 0.0536, "rod": 0.101, "offset": 1e-3, "angle": np.array([0.2, 1.2])},
    "piston_acceleration": {"stroke": 0.0536, "rod": 0.101, "speed": 200.0},
    "rod_stretch": {"mass": 0.3, "acceleration": 53551.0, "rod": 0.101, "section": 110e-6, "modulus": 206e9},
    "stem_gap_at_rest": {"height": 5e-3, "valve_angle": 0.2, "pocket_angle": 0.15, "head_diameter": 32e-3},
    "stem_gap": {
        "rest_gap": 4e-3,
        "travel": np.array([1e-3, 2e-3]),
        "valve_angle": 0.2,
        "pocket_angle": 0.15,
        "lift": np.array([1e-3, 3e-3]),
    },
    "rim_gap": {"pocket_diameter": 36e-3, "head_diameter": 32e-3, "offset": 1e-4, "travel": np.array([1e-3]), "valve_angle": 0.2},
    "disc_gap": {
        "centre_1": np.zeros((1, 3)),
        "axis_1": np.array([[0.0, 0.0, 1.0]]),
        "diameter_1": np.array([0.03]),
        "centre_2": np.array([[0.04, 0.01, 0.02]]),
        "axis_2": np.array([[0.6, 0.0, 0.8]]),
        "diameter_2": np.array([0.025]),
    },
    "overall_ratio": {"primary": 2.1, "gear": 1.55, "front_teeth": 16.0, "rear_teeth": 47.0},
    "road_speed": {"speed": 175.0, "circumference": 1.86, "ratio": 9.6},
    "engine_speed": {"road": 33.0, "circumference": 1.86, "ratio": 9.4},
    "cam_retard": {"taken_off": 0.3e-3, "distance": 0.35, "pitch": 6.35e-3, "cam_teeth": 34.0, "crank_teeth": 17.0},
    "chain_links": {"distance": 0.4, "pitch": 12.7e-3, "first_teeth": 17.0, "second_teeth": 50.0},
    "shaft_distance": {"links": 97.4, "pitch": 12.7e-3, "first_teeth": 17.0, "second_teeth": 50.0},
    "speed_in_gear": {"speed": 175.0, "gear_from": 1.55, "gear_to": 1.93},
    "rolling_circumference": {"rim": 0.43, "width": 0.15, "aspect": 0.6, "squash": 0.97},
    "sprocket_diameter": {"pitch": 15.875e-3, "teeth": 15.0},
    "water_speed": {"speed": 130.0, "pitch": 0.16, "ratio": 1.0, "slip": 0.15},
    "trapped_ratio": {"compression": 13.2, "stroke": 0.0536, "rod": 0.101, "closing": 0.9},
    "rotating_mass_at_valve": {"inertia": 3.6e-6, "valve_arm": 0.033},
    "spring_share": {"spring_mass": 0.033},
    "contact_force": {"mass": 0.06, "acceleration": np.array([-0.02, 0.03]), "spring_force": np.array([400.0, 300.0]), "cam_speed": 70.0},
    "separation_speed": {"mass": 0.06, "acceleration": np.array([-0.02, -0.01]), "spring_force": np.array([400.0, 300.0])},
    "shim_thickness": {"old_shim": 2.45e-3, "measured": 0.13e-3, "wanted": 0.2e-3, "ratio": 1.3},
    "clearance_with_shim": {"old_shim": 2.45e-3, "measured": 0.13e-3, "new_shim": 2.4e-3, "ratio": 1.3},
    "screw_turns": {"measured": 0.05e-3, "wanted": 0.1e-3, "pitch": 0.5e-3, "ratio": 1.3},
    "nearest_size": {"wanted": 2.38e-3, "step": 0.05e-3, "thinnest": 1.2e-3, "thickest": 3.5e-3},
    "probability_inside": {"middle": 0.25e-3, "half": 0.02e-3, "sigma": 0.01e-3, "least": 0.22e-3, "most": 0.26e-3},
    "chance_of_reaching": {
        "hours": 50.0,
        "room": 60e-6,
        "rate": 1e-6,
        "room_variance": 36e-12,
        "covariance": -0.8e-12,
        "rate_variance": 0.01e-12,
    },
    "growth": {"length": np.array([0.09, 0.03]), "expansion": np.array([21e-6, 11e-6]), "warming": np.array([80.0, 200.0])},
    "warm_clearance": {"cold": 0.2e-3, "head_growth": 0.17e-3, "chain_growth": 0.28e-3},
    "reading_shift": {"length": 92e-3, "head": 21.8e-6, "chain": 11.7e-6, "warming": 15.0},
    "rectangular_uncertainty": {"low": 0.15e-3, "high": 0.18e-3},
    "seating_velocity": {"ramp_slope": 1.0e-3, "cam_speed": 66.0},
    "contact_modulus": {"elastic_1": 206e9, "poisson_1": 0.3, "elastic_2": 116e9, "poisson_2": 0.33},
    "line_pressure": {"load": 900.0, "length": 12e-3, "bend": 238.0, "modulus": 113e9},
    "crowned_pressure": {"load": 900.0, "bend_x": 238.0, "bend_y": 7.0, "modulus": 113e9},
    "flat_face_radius": {"base": 15e-3, "lift": np.array([4.7e-3]), "acceleration": np.array([-0.7e-3])},
    "least_face_diameter": {"opening": 12e-3, "shutting": 13e-3, "lobe_width": 12e-3},
    "force_at_lobe": {"valve_force": 620.0, "ratio": 1.5},
    "duration_from_events": {"before_tdc": 0.38, "after_bdc": 1.0},
    "centre_from_events": {"before_tdc": 0.38, "after_bdc": 1.0},
    "equal_lift_centre": {"first": 1.3, "second": 2.4},
    "tooth_step": {"teeth": 34},
    "slot_step": {"first": 10, "second": 11},
    "ramp_shift": {"change": 1e-4, "slope": 8.6e-4},
    "line_half_width": {"load": 900.0, "length": 12e-3, "bend": 238.0, "modulus": 113e9},
    "crowned_half_width": {"load": 900.0, "bend_x": 238.0, "bend_y": 7.0, "modulus": 113e9},
    "shear_depth": {"half_width": 0.06e-3},
    "greatest_shear": {"pressure": 800e6},
    "coil_pitch": {"free_length": 44e-3, "wire_diameter": 3.8e-3, "coils": 4.2, "ends": Ends.CLOSED_GROUND},
    "coil_gap": {"height": 36e-3, "solid": 23.56e-3, "coils": 4.2},
    "stable_length": {"mean_diameter": 22.6e-3, "elastic": 206e9, "shear_modulus": 79.5e9, "seating": 0.5},
    "buckling_deflection": {"free_length": 0.14, "mean_diameter": 22.6e-3, "elastic": 206e9, "shear_modulus": 79.5e9, "seating": 0.5},
    "surge_mode": {"spring_rate": 25565.0, "mass": 0.0228, "number": 2},
    "cycloidal_rise": {"x": np.array([0.2, 0.6])},
    "polynomial_rise": {"x": np.array([0.2, 0.6]), "highest": 7},
    "pressure_angle": {"pitch_radius": 24e-3, "offset": 2e-3, "lift": np.array([2.4e-3]), "velocity": np.array([3.6e-3])},
    "dead_centres": {"stroke": 0.0536, "rod": 0.101, "offset": 1e-3},
    "piston_velocity": {"stroke": 0.0536, "rod": 0.101, "offset": 1e-3, "angle": np.array([0.2, 1.2]), "speed": 150.0},
    "piston_acceleration_at": {"stroke": 0.0536, "rod": 0.101, "offset": 1e-3, "angle": np.array([0.2, 1.2]), "speed": 150.0},
    "mach_index": {"bore": 77e-3, "piston_speed": 17.0, "head_diameter": 31e-3, "valves": 2.0, "flow": 0.38, "sound": 346.0},
    "speed_at_mach_index": {
        "bore": 77e-3,
        "stroke": 53.6e-3,
        "head_diameter": 31e-3,
        "valves": 2.0,
        "flow": 0.38,
        "sound": 346.0,
        "index": 0.6,
    },
    "preload_from_torque": {"torque": 9.5, "diameter": 6e-3, "factor": 0.18},
    "stress_area": {"diameter": 8e-3, "pitch": 1.25e-3},
    "preload_by_friction": {"torque": 24.6, "diameter": 8e-3, "pitch": 1.25e-3, "thread": 0.12, "head": 0.12, "bearing": 10.3e-3},
    "worst_case": {"halves": np.array([1e-5, 2e-5])},
    "root_of_squares": {"halves": np.array([1e-5, 2e-5])},
    "likely_half_width": {"halves": np.array([1e-5, 2e-5, 0.5e-5])},
    "flank_exponents": {"fullness": 8.0},
    "polynomial_coefficients": {"p": 8.0, "q": 14.0, "r": 20.0, "s": 26.0},
    "press_pressure": {
        "interference": 0.1e-3,
        "diameter": 32e-3,
        "inner": 26e-3,
        "outer": 52e-3,
        "elastic_in": 120e9,
        "poisson_in": 0.28,
        "elastic_out": 71e9,
        "poisson_out": 0.33,
    },
    "hoop_outside": {"pressure": 42e6, "diameter": 32e-3, "outer": 52e-3},
    "hoop_inside": {"pressure": 42e6, "diameter": 32e-3, "inner": 26e-3},
    "push_out_force": {"pressure": 42e6, "diameter": 32e-3, "length": 6e-3, "friction": 0.12},
    "warm_interference": {
        "interference": 0.1e-3,
        "diameter": 32e-3,
        "inner": 11.5e-6,
        "outer": 22.5e-6,
        "warm_in": 120.0,
        "warm_out": 150.0,
    },
    "warming_to_drop_in": {"interference": 0.1e-3, "play": 0.03e-3, "diameter": 32e-3, "expansion": 22.5e-6},
    "swept_volume": {"bore": 76.8e-3, "stroke": 53.6e-3},
    "chamber_volume": {"swept": 248e-6, "compression": 13.5},
    "end_pressure": {"pressure": 1.8e5, "compression": 9.0, "exponent": 1.33},
    "end_temperature": {"temperature": 300.0, "compression": 8.0, "exponent": 1.4},
    "ratio_of_equal_pressure": {"compression": 9.0, "pressure_ratio": 1.8, "exponent": 1.33},
    "ratio_of_equal_temperature": {"compression": 9.0, "charge": 326.0, "ambient": 293.0, "exponent": 1.33},
    "compressor_outlet": {"ambient": 293.0, "pressure_ratio": 1.8, "efficiency": 0.65},
    "cooled_charge": {"charge": 375.0, "coolant": 293.0, "effectiveness": 0.6},
    "curtain_area": {"head_diameter": 32e-3, "lift": np.array([4e-3, 8e-3])},
    "throat_area": {"throat": 27.5e-3, "stem": 5.5e-3},
    "lift_of_full_throat": {"head_diameter": 32e-3, "seat_width": 1.5e-3, "angle": 0.785, "throat": 27.5e-3, "stem": 5.5e-3},
    "least_area": {
        "head_diameter": 32e-3,
        "seat_width": 1.5e-3,
        "angle": 0.785,
        "throat": 27.5e-3,
        "stem": 5.5e-3,
        "lift": np.array([1e-3, 5e-3, 9e-3]),
    },
    "critical_pressure_ratio": {"heat_ratio": 1.33},
    "flow_through": {"area": 350e-6, "before": 1e5, "temperature": 300.0, "behind": 0.92e5, "gas": 287.05, "heat_ratio": 1.4},
    "cranking_gauge": {"ambient": 1e5, "trapped": 8.6, "exponent": 1.25},
    "exponent_of_gauge": {"ambient": 1e5, "trapped": 8.6, "gauge": 13e5},
    "spread_of_highest": {"least": 10e5, "most": 12e5},
    "leak_share": {"regulated": 5.5e5, "behind": 4.9e5},
    "leak_area": {"regulated": 5.5e5, "behind": 4.9e5, "ambient": 1e5, "restrictor": 0.785e-6},
    "wet_ratio": {"trapped": 8.6, "oil": 5e-6, "volume": 30e-6},
    "compressions_per_second": {"speed": 4.3, "cylinders": 3.0},
    "error_of_median": {"spread": 2.0, "count": 8.0},
    "half_order": {"speed": 150.0},
    "firing_frequency": {"speed": 150.0, "cylinders": 3.0},
    "line_weights": {"angles": [0.0, 4.71], "count": 6},
    "heard_frequency": {"frequency": 300.0, "closing": 25.0, "sound": 343.0},
    "speed_of_a_pass": {"coming": 320.0, "going": 280.0},
    "power_of_air": {"speed": 30.0, "density": 1.18, "drag_area": 0.32},
    "power_of_gain": {"speed": 30.0, "gain": 3.0, "mass": 250.0, "turning": 9.0},
    "power_of_road": {"speed": 30.0, "weight": 2450.0, "rolling": 0.015, "slope": 0.01},
    "power_kept": {"inertia": 0.1, "speed": 17.5, "gain": 1.9},
    "area_of_vacuum": {"flow": 0.0475, "density": 1.18, "vacuum": 4000.0},
    "curing_diameter": {"diameter": 36e-3, "vacuum": 6200.0, "wanted": 1500.0},
    "most_gained": {"pressure": 101300.0, "vacuum": 6200.0, "left": 1500.0},
    "pulsation_factor": {"sharing": 2, "open_for": 0.33},
    "unit_lift": {"terms": ((2.0, -1.0), (4.0, 0.5)), "x": np.array([0.2, 0.5]), "order": 0},
}
# A verdict, not a quantity: it compares with a slack of a nanometre, which does not scale.
NO_QUANTITY = {"interval_inside"}
# Empirical: fits of published tables, and endurance figures that stand in pascal inside the formula.
NO_QUANTITY |= {"tensile_strength", "endurance_goodman", "gerber_factor"}
# The gas constant of air stands inside the formula.
NO_QUANTITY |= {"sound_speed"}
# Published corrections hold their reference air inside.
NO_QUANTITY |= {"saturation_pressure", "dry_pressure", "sae_j1349", "sae_j607", "iso_1585", "din_70020"}
# The standard atmosphere and three published fits hold their own units inside.
NO_QUANTITY |= {"air_pressure", "friction_pressure", "wall_heat", "knock_delay"}


def _factor(unit: str) -> float:
    """How a number in this unit changes when the base units are rescaled."""
    if not unit:
        return 1.0
    base = REGISTRY.Quantity(1.0, unit).to_base_units()
    return math.prod(BASE[name] ** float(power) for name, power in base._units.items() if name in BASE)


def _unit(hint: object) -> str:
    if typing.get_origin(hint) is typing.Annotated:
        return str(typing.get_args(hint)[1])
    for option in typing.get_args(hint):  # a union of a float and an array of the same unit
        if typing.get_origin(option) is typing.Annotated:
            return str(typing.get_args(option)[1])
    return ""


@pytest.mark.parametrize("function", [f for f in FORMULAS if f.__name__ not in NO_QUANTITY], ids=lambda function: function.__name__)
def test_formula_scales_with_its_units(function: Callable[..., object]) -> None:
    hints = typing.get_type_hints(function, include_extras=True)
    given = ARGUMENTS[function.__name__]
    scaled = {
        name: value * _factor(_unit(hints[name])) if isinstance(value, float | np.ndarray) else value for name, value in given.items()
    }
    plain, again = function(**given), function(**scaled)
    if isinstance(plain, tuple) and function.__name__ == "weighed_inertia":
        assert np.array(again) == pytest.approx(np.array(plain) * _factor("kg*m**2"))
        return
    if isinstance(plain, tuple):
        assert np.ravel(np.array(again, dtype=float)) == pytest.approx(np.ravel(np.array(plain, dtype=float)))
        return
    assert np.asarray(again) == pytest.approx(np.asarray(plain) * _factor(_unit(hints["return"])), rel=1e-9)


def test_the_check_can_fail() -> None:
    """A formula with a hidden constant of the wrong dimension must be caught by the same comparison."""

    def wrong(stroke: float) -> float:
        return 2.0 * stroke + 0.001

    assert wrong(0.05 * _factor("m")) != pytest.approx(wrong(0.05) * _factor("m"))


def test_every_formula_has_arguments_here() -> None:
    assert {f.__name__ for f in FORMULAS} - NO_QUANTITY == ARGUMENTS.keys()
    for function in FORMULAS:
        if function.__name__ in ARGUMENTS:
            required = {n for n, p in inspect.signature(function).parameters.items() if p.default is inspect.Parameter.empty}
            assert required <= ARGUMENTS[function.__name__].keys()
            assert re.match(r"^[a-z_]+$", function.__name__)
