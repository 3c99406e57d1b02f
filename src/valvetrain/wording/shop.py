"""A press fit and a target in plain words; amounts in SI until they are told."""

import math

from valvetrain.studies.head.shop import PRESS_WARM, Fit, Target
from valvetrain.units import FORCE, LENGTH, QuantityKind, amount


def fit_words(fit: Fit) -> list[tuple[str, str]]:
    """A fit as rows of a sheet: what, and how much."""
    fine = lambda value: amount(value, LENGTH, 3)
    low, aim, high = fit.asked
    asked = f"{fine(low)} to {fine(high)}, aim {fine(aim)}"
    rows = [("Interference on the diameter", f"{fine(fit.interference)} as measured; usual {asked}" if fit.told else asked)]
    if fit.pressure:
        rows.append((
            "Pressure; pull in the head, push in the part",
            (f"{amount(fit.pressure, QuantityKind.STRESS)}; {amount(fit.head_stress, QuantityKind.STRESS)} of {amount(fit.head_bears, QuantityKind.STRESS)}, "
            f"{amount(-fit.part_stress, QuantityKind.STRESS)} of {amount(fit.part_bears, QuantityKind.STRESS)}"),
        ))  # fmt: skip
    rows.append(
        ("Left of it at full power", f"{fine(fit.left_warm)}, holds {amount(fit.holds_warm, FORCE)}" if fit.left_warm > 0.0 else "none")
    )
    return rows


def drop_in_words(fit: Fit) -> str:
    """How warm the head must be for a ring to drop in."""
    plain, ice, nitrogen = (amount(at, QuantityKind.TEMPERATURE) for at in fit.oven)
    return f"head at {plain} with the ring as it is, {ice} with it out of dry ice, {nitrogen} out of liquid nitrogen"


def press_in_words(fit: Fit) -> str:
    """How a guide goes in, and what its bore does."""
    return (
        f"pressed in with the head at {amount(PRESS_WARM, QuantityKind.TEMPERATURE)}: about {amount(fit.push_in, FORCE)}; its bore closes by "
        f"{amount(fit.closes, LENGTH, 3)}: hone after pressing, wash"
    )


def target_words(target: Target) -> str:
    """What a measure must come back to."""
    most = max(target.low or 0.0, target.high or 0.0)
    fine = lambda value: amount(value, LENGTH, 3 if most < 0.2e-3 else 2)
    if target.low is None and target.high is None:
        return target.origin
    if target.high is None:
        return f"{fine(target.low or 0.0)} or more"
    if not target.low:
        return f"{fine(target.high)} at most"
    return f"{fine(target.low)} to {fine(target.high)}"


def angle_words(angle: float, *, told: bool) -> str:
    """The seat's angle."""
    return f"{math.degrees(angle):.0f}°" + ("" if told else ", usual: by the manual")
