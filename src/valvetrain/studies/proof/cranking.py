"""What a compression gauge should show: a cranking cycle with leak and wall heat, and the band that remains when all is told."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.compression import swept_volume
from valvetrain.formulas.slider_crank import piston_drop, trapped_ratio
from valvetrain.formulas.valve_flow import flow_through

_GAS, _HEATS = 287.05, 1.4
_COEFFICIENT = 0.8  # of flow of a leak
_STEPS = 900
BAND: Final = 0.15  # what remains open even when all is told; judgement
_HEAT: Final = (90.0, 120.0, 150.0)  # W/(m2 K), judgement
_LEAK: Final = (0.05e-6, 0.25e-6, 0.5e-6)  # m2, a sound engine; judgement


@dataclass(frozen=True, kw_only=True)
class Cylinder:
    """Bore, stroke, rod in m, compression ratio, intake closing in rad after bottom dead centre."""

    bore: float
    stroke: float
    rod: float
    compression: float
    closing: float

    @property
    def trapped(self) -> float:
        """Ratio counted from intake closing."""
        return trapped_ratio(self.compression, self.stroke, self.rod, self.closing)

    @property
    def chamber(self) -> float:
        """Volume at top dead centre, m3."""
        return swept_volume(self.bore, self.stroke) / (self.compression - 1.0)


@dataclass(frozen=True, kw_only=True)
class Cranking:
    """How it is turned: rev/s, air in Pa and K, leak m2, wall heat W/(m2 K), wall K, hose m3 that is added where its valve sits at the gauge."""

    speed: float
    ambient: float = 101325.0
    temperature: float = 310.0
    leak: float = 0.25e-6
    heat: float = 120.0
    wall: float = 330.0
    hose: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Expected:
    """Gauge pressure to be expected: Pa, low and high, and the exponent in the middle."""

    middle: float
    low: float
    high: float
    exponent: float


def gauge(cylinder: Cylinder, cranking: Cranking) -> float:
    """Highest pressure over the air's in a cranked cylinder, Pa, from intake closing to a little past the top.

    First law with wall heat on crown, head and wetted liner, leak by compressible flow.
    Raises OutOfRangeError for speeds at which nobody cranks.
    """
    if not 0.5 <= cranking.speed <= 30.0:
        raise OutOfRangeError("The cranking speed must lie between 30 and 1,800 rpm.")
    area = math.pi / 4.0 * cylinder.bore**2
    clearance = cylinder.chamber + cranking.hose
    begin, end = math.pi + cylinder.closing, 2.0 * math.pi + 0.15
    step = (end - begin) / _STEPS
    turn = 2.0 * math.pi * cranking.speed

    def volume(angle: float) -> tuple[float, float]:
        drop = piston_drop(cylinder.stroke, cylinder.rod, angle)
        return clearance + area * drop, drop

    def slopes(angle: float, mass: float, energy: float) -> tuple[float, float]:
        space, drop = volume(angle)
        temperature = energy / (mass * _GAS / (_HEATS - 1.0))
        pressure = mass * _GAS * temperature / space
        out = (
            flow_through(_COEFFICIENT * cranking.leak, pressure, temperature, cranking.ambient, _GAS, _HEATS)
            if pressure > cranking.ambient and cranking.leak
            else 0.0
        )
        wetted = 2.0 * area + math.pi * cylinder.bore * drop
        wider = (volume(angle + 1e-5)[0] - volume(angle - 1e-5)[0]) / 2e-5
        warm = cranking.heat * wetted * (cranking.wall - temperature)
        enthalpy = _HEATS * _GAS / (_HEATS - 1.0) * temperature
        return -out / turn, (warm - out * enthalpy) / turn - pressure * wider

    mass = cranking.ambient * volume(begin)[0] / (_GAS * cranking.temperature)
    energy = mass * _GAS / (_HEATS - 1.0) * cranking.temperature
    most = cranking.ambient
    for number in range(_STEPS):
        angle = begin + number * step
        m1, e1 = slopes(angle, mass, energy)
        m2, e2 = slopes(angle + step / 2, mass + m1 * step / 2, energy + e1 * step / 2)
        m3, e3 = slopes(angle + step / 2, mass + m2 * step / 2, energy + e2 * step / 2)
        m4, e4 = slopes(angle + step, mass + m3 * step, energy + e3 * step)
        mass += (m1 + 2 * m2 + 2 * m3 + m4) * step / 6
        energy += (e1 + 2 * e2 + 2 * e3 + e4) * step / 6
        most = max(most, energy * (_HEATS - 1.0) / volume(angle + step)[0])
    return most - cranking.ambient


@lru_cache(maxsize=256)
def expected(cylinder: Cylinder, cranking: Cranking) -> Expected:
    """Gauge pressure of a sound engine with its band: wall heat and leak of a sound engine, and never closer than 15 % either way."""
    middle = gauge(cylinder, replace(cranking, heat=_HEAT[1], leak=_LEAK[1]))
    low = gauge(cylinder, replace(cranking, heat=_HEAT[2], leak=_LEAK[2]))
    high = gauge(cylinder, replace(cranking, heat=_HEAT[0], leak=_LEAK[0]))
    return Expected(
        middle=middle,
        low=min(low, middle * (1.0 - BAND)),
        high=max(high, middle * (1.0 + BAND)),
        exponent=math.log1p(middle / cranking.ambient) / math.log(cylinder.trapped),
    )
