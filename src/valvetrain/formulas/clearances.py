"""Valve clearance arithmetic: shims, screws, feeler intervals."""

import math
from typing import Annotated

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above
from valvetrain.units import LENGTH, Metre, Ratio, SquareMetre, amount, bare

Interval = tuple[Annotated[float, "m"], Annotated[float, "m"]]


def shim_thickness(old_shim: Metre, measured: Metre, wanted: Metre, ratio: Ratio = 1.0) -> Metre:
    """Shim that turns the measured into the wanted clearance.

    Equation: t_new = t_old + (c_measured - c_wanted) i, i = valve motion / motion where the blade is
    Range: t_old > 0, i > 0; the result must be positive
    Source: definition

    >>> round(shim_thickness(2.45e-3, 0.13e-3, 0.20e-3) * 1000, 3)
    2.38
    """
    require_above("The shim in place", old_shim)
    require_above("The ratio", ratio)
    wanted_shim = old_shim + (measured - wanted) * ratio
    require_above("The wanted shim", wanted_shim)
    return wanted_shim


def clearance_with_shim(old_shim: Metre, measured: Metre, new_shim: Metre, ratio: Ratio = 1.0) -> Metre:
    """Clearance to expect after a shim is exchanged.

    Equation: c_new = c_measured + (t_old - t_new) / i
    Range: t_old, t_new > 0, i > 0; a negative result means the valve would be held open
    Source: definition

    >>> round(clearance_with_shim(2.45e-3, 0.13e-3, 2.40e-3) * 1000, 3)
    0.18
    """
    require_above("The shim in place", old_shim)
    require_above("The new shim", new_shim)
    require_above("The ratio", ratio)
    return measured + (old_shim - new_shim) / ratio


def screw_turns(measured: Metre, wanted: Metre, pitch: Metre, ratio: Ratio = 1.0) -> Ratio:
    """Turns of an adjusting screw, positive to open the gap; `ratio` = valve arm / screw arm.

    Equation: turns = (c_wanted - c_measured) / (P i)
    Range: P > 0, i > 0
    Source: definition

    >>> round(screw_turns(0.05e-3, 0.10e-3, 0.5e-3) * 360)
    36
    """
    require_above("The thread pitch", pitch)
    require_above("The ratio", ratio)
    return (wanted - measured) / (pitch * ratio)


def nearest_size(wanted: Metre, step: Metre, thinnest: Metre, thickest: Metre) -> Metre:
    """Size on sale nearest to the wanted one; a tie takes the thinner shim, which leaves the larger clearance.

    Equation: t = t_min + round_half_down((t_wanted - t_min) / step) step
    Range: step > 0, t_min <= result <= t_max, otherwise OutOfRangeError names the end that was passed
    Source: trade

    >>> round(nearest_size(2.38e-3, 0.05e-3, 1.2e-3, 3.5e-3) * 1000, 3)
    2.4
    >>> round(nearest_size(2.375e-3, 0.05e-3, 1.2e-3, 3.5e-3) * 1000, 3)
    2.35
    """
    require_above("The step between sizes", step)
    steps = (wanted - thinnest) / step
    # The tie is decided with a tolerance of a millionth of a step, so that 2.375 typed in mm is a tie.
    size = thinnest + math.ceil(steps - 0.5 - 1e-6) * step
    slack = step * 1e-6
    if size < thinnest - slack or size > thickest + slack:
        raise OutOfRangeError(
            f"A shim of {amount(wanted, LENGTH, 3)} is needed, and sizes run from {bare(thinnest, LENGTH)} to {amount(thickest, LENGTH)}."
        )
    return size


def interval_inside(low: Metre, high: Metre, least: Metre, most: Metre) -> bool | None:
    """Whether a clearance known as `low <= c < high` lies in the limits: True, False, or None where it straddles one.

    Equation: inside if least <= low and high <= most; outside if high <= least or low > most
    Range: low <= high, least <= most
    Source: definition

    >>> interval_inside(0.15, 0.18, 0.13, 0.20), interval_inside(0.18, 0.20, 0.13, 0.19)
    (True, None)
    """
    if low > high or least > most:
        raise OutOfRangeError("An interval must not end before it begins.")
    slack = 1e-9  # a nanometre: typed decimals must not fall out by binary rounding
    if low >= least - slack and high <= most + slack:
        return True
    if high <= least + slack or low > most + slack:
        return low == high and abs(low - least) <= slack
    return None


def rectangular_uncertainty(low: Metre, high: Metre) -> Metre:
    """Standard uncertainty of a value that lies anywhere between two bounds.

    Equation: u = (high - low) / (2 sqrt 3)
    Range: low <= high
    Source: gum

    >>> round(rectangular_uncertainty(0.15, 0.18), 6)
    0.00866
    """
    if low > high:
        raise OutOfRangeError("An interval must not end before it begins.")
    return (high - low) / (2.0 * math.sqrt(3.0))


def probability_inside(middle: Metre, half: Metre, sigma: Metre, least: Metre, most: Metre) -> Ratio:
    """Probability that a clearance lies in its limits: anywhere in middle +/- half alike (a feeler's interval), plus a normal error.

    Equation: P = (G(most) - G(least)), G(x) = (sigma / 2h) [F((x - m + h) / sigma) - F((x - m - h) / sigma)], F(z) = z Phi(z) + phi(z)
    Range: half >= 0, sigma >= 0, least <= most; where both are zero the clearance is exact
    Source: gum

    >>> round(probability_inside(0.25e-3, 0.01e-3, 0.005e-3, 0.22e-3, 0.28e-3), 4)
    1.0
    """
    if half < 0.0 or sigma < 0.0 or least > most:
        raise OutOfRangeError("Half width and spread must not be below zero, and limits must not end before they begin.")
    if half < 1e-9 and sigma < 1e-9:
        return 1.0 if least - 1e-9 <= middle <= most + 1e-9 else 0.0

    def below(x: float) -> float:
        if sigma < 1e-9:
            return min(max((x - middle + half) / (2.0 * half), 0.0), 1.0)
        if half < 1e-9:
            return 0.5 * (1.0 + math.erf((x - middle) / (sigma * math.sqrt(2.0))))
        low, high = (x - middle - half) / sigma, (x - middle + half) / sigma

        def rising(z: float) -> float:
            return z * 0.5 * (1.0 + math.erf(z / math.sqrt(2.0))) + math.exp(-0.5 * z * z) / math.sqrt(2.0 * math.pi)

        return sigma / (2.0 * half) * (rising(high) - rising(low))

    return min(max(below(most) - below(least), 0.0), 1.0)


def chance_of_reaching(
    hours: Ratio, room: Metre, rate: Metre, room_variance: SquareMetre, covariance: SquareMetre, rate_variance: SquareMetre
) -> Ratio:  # fmt: skip
    """Chance that a room is used up within so many hours at a rate per hour, both normal with their covariance.

    Equation: P = Phi((r h - room) / sqrt(s_g^2 - 2 h s_gr + h^2 s_r^2)); its 2.5 % and 97.5 % points are Fieller's interval for room / r
    Range: hours >= 0, variances >= 0
    Source: gum

    >>> round(chance_of_reaching(45.26862, 60e-6, 1e-6, 36e-12, 0.0, 0.01e-12), 4)
    0.025
    """
    require_above("The hours", hours, -1e-30)
    require_above("The variance of the room", room_variance, -1e-30)
    require_above("The variance of the rate", rate_variance, -1e-30)
    away = rate * hours - room
    wide = math.sqrt(max(room_variance - 2.0 * hours * covariance + hours**2 * rate_variance, 0.0))
    if wide == 0.0:
        return 1.0 if away >= 0.0 else 0.0
    return 0.5 * (1.0 + math.erf(away / (wide * math.sqrt(2.0))))
