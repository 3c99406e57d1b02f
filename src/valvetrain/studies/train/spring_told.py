"""One spring's line of force over height from what is told of it: seat force, rate, and a load at another height, in any combination."""

import math

from valvetrain.errors import ContradictionError
from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.units import FORCE, LENGTH, RATE, amount

_DISAGREE = 3.5  # standard deviations by which three figures of one line may miss one another. Source: judgement


def worst_basis(*figures: Figure) -> Basis:
    """The least sure basis among figures."""
    return max((figure.basis for figure in figures), key=list(Basis).index)


def settle_line(known: FigureMap, height: float, height_spread: float) -> dict[str, Figure]:
    """The spring's figures with `load` and `load_height` standing for all that is told of its force; `height` is its own installed height, m.

    A seat force counts at the installed height, and so does a load that nobody gave a height. Seat force and a load at another height give the
    rate; with the rate told too all three are adjusted by least squares. Raises ContradictionError when three figures cannot be one line.
    """
    spring = dict(known)
    seat = spring.pop("seat_load", None)
    paired = "load" in spring and "load_height" in spring
    if seat is None:
        if "load" not in spring:
            spring.pop("load_height", None)
        return spring
    if not paired:
        spring.pop("load_height", None)
        return {**spring, "load": seat}
    squeeze = height - spring["load_height"].value
    load = spring.pop("load")
    spring.pop("load_height")
    if abs(squeeze) < 0.05e-3:  # both are told at the installed height: their mean, by weight
        weights = [1.0 / max(each.spread, 1e-6) ** 2 for each in (seat, load)]
        mean = (seat.value * weights[0] + load.value * weights[1]) / sum(weights)
        return {**spring, "load": Figure(mean, math.sqrt(1.0 / sum(weights)), worst_basis(seat, load))}
    by_pair = (load.value - seat.value) / squeeze
    wide = math.hypot(seat.spread, load.spread, by_pair * height_spread) / abs(squeeze)
    if "rate" not in spring:
        if by_pair <= 0.0:
            raise ContradictionError(
                f"{amount(seat.value, FORCE)} on the seat at {amount(height, LENGTH)} and {amount(load.value, FORCE)} at {amount(height - squeeze, LENGTH)} cannot be one "
                "spring: shorter must push harder."
            )
        return {**spring, "load": seat, "rate": Figure(by_pair, wide, worst_basis(seat, load))}
    rate = spring["rate"]
    off = rate.value - by_pair
    if abs(off) > _DISAGREE / 2.0 * math.hypot(rate.spread, wide) and abs(off) > 0.02 * rate.value:
        raise ContradictionError(
            f"{amount(seat.value, FORCE)} on the seat, {amount(load.value, FORCE)} at {amount(height - squeeze, LENGTH)} and {amount(rate.value, RATE)} cannot all be: "
            f"the two loads give {amount(by_pair, RATE)}. Take one of the three out."
        )
    doubt = [max(each, 1e-9) ** 2 for each in (seat.spread, rate.spread, math.hypot(load.spread, rate.value * height_spread))]
    miss = load.value - seat.value - rate.value * squeeze
    total = doubt[0] + doubt[1] * squeeze**2 + doubt[2]
    value = seat.value + miss * doubt[0] / total
    adjusted = rate.value + miss * doubt[1] * squeeze / total
    return {
        **spring,
        "load": Figure(value, math.sqrt(doubt[0] - doubt[0] ** 2 / total), worst_basis(seat, load)),
        "rate": Figure(adjusted, math.sqrt(doubt[1] - (doubt[1] * squeeze) ** 2 / total), rate.basis),
    }
