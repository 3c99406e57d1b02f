"""A regrind in plain words; amounts in SI until they are told."""

import math

from valvetrain.studies.regrind.from_build import Regrind
from valvetrain.units import LENGTH, QuantityKind, amount

LAW = "A cubic spline over the cam angle: of all that keep the limits the one of greatest lift area, and of those within 1 % of it the one of least jerk."


def regrind_headline(found: Regrind) -> str:
    """What is gained, or that nothing is."""
    if found.gain <= 0.002:
        return f"Nothing is gained: the present lobe has {-found.gain:.1%} more lift area than what these limits allow."
    return (
        f"{found.gain:.1%} more lift area: full lift {amount(found.old.full, LENGTH)} becomes {amount(found.curve.full, LENGTH)}, the base circle "
        f"{amount(2.0 * found.case.old_base, LENGTH)} becomes {amount(2.0 * found.base, LENGTH)}."
    )


def regrind_words(found: Regrind) -> list[str]:
    """What it follows to, what it asks of the adjusters, what it rests on."""
    follows = f"With the proposed springs and masses it follows to {amount(found.follows, QuantityKind.SPEED)} as a rigid train"
    said = [f"{follows}; the present lobe to {amount(found.old_follows, QuantityKind.SPEED)}.", found.makeup.words]
    opens = [math.degrees(curve.duration_at(1e-3)) for curve in (found.old, found.curve)]
    said.append(f"Duration at {amount(1e-3, LENGTH)}: {opens[0]:.1f}° becomes {opens[1]:.1f}°; the lobe centre stays.")
    if found.gain <= 0.002:
        said.append(
            "Measured springs and masses narrow the spread that holds it back; more room, more spring or a lower goal lets it grow."
        )
    return said
