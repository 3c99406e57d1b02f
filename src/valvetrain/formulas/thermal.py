"""What warming does to a valve clearance."""

from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above
from valvetrain.units import Metre

Metres = Annotated[NDArray[np.float64], "m"]
Kelvins = Annotated[NDArray[np.float64], "K"]
PerKelvin = Annotated[NDArray[np.float64], "1/K"]
OnePerKelvin = Annotated[float, "1/K"]
Kelvin = Annotated[float, "K"]


def growth(length: Metres, expansion: PerKelvin, warming: Kelvins) -> Metre:
    """Growth of parts that stand in one chain.

    Equation: dL = sum of alpha_i L_i dT_i
    Range: L_i >= 0; mean coefficients between the two temperatures; arrays of equal shape
    Source: definition

    >>> round(growth(np.array([0.092]), np.array([21.8e-6]), np.array([85.0])) * 1e3, 6)
    0.170476
    """
    if length.shape != expansion.shape or length.shape != warming.shape:
        raise OutOfRangeError("Every part of the chain needs a length, a coefficient and a warming.")
    if (length < 0.0).any():
        raise OutOfRangeError("A length in the chain must not be below zero.")
    return float((length * expansion * warming).sum())


def warm_clearance(cold: Metre, head_growth: Metre, chain_growth: Metre) -> Metre:
    """Clearance of a warm engine: the head lifts the cam away, valve and gear grow towards it.

    Equation: c_hot = c_cold + dL_head - dL_chain
    Range: c_cold > 0; below zero the valve no longer shuts
    Source: definition

    >>> round(warm_clearance(0.22e-3, 0.170476e-3, 0.2837951e-3) * 1e3, 7)
    0.1066809
    """
    require_above("The cold clearance", cold)
    return cold + head_growth - chain_growth


def reading_shift(length: Metre, head: OnePerKelvin, chain: OnePerKelvin, warming: Kelvin) -> Metre:
    """How much larger a clearance reads in an evenly warm engine than at the temperature its limits are for.

    Equation: dc = L (alpha_head - alpha_chain) dT
    Range: L > 0
    Source: definition

    >>> round(reading_shift(92e-3, 21.8e-6, 11.7e-6, 15.0) * 1e3, 6)
    0.013938
    """
    require_above("The distance from seat to cam axis", length)
    return length * (head - chain) * warming
