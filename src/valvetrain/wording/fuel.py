"""What the fuel bears, what blows through and what the valves pass, in plain words; amounts in SI until they are told."""

import math

from valvetrain.parts.engine import Side
from valvetrain.studies.head.areas import Breathing
from valvetrain.studies.head.effort import Rung, enough
from valvetrain.studies.head.fuel import Blown, FuelAnswer
from valvetrain.units import QuantityKind, amount

_VERDICTS = {
    "holds": "{name} of {octane:.0f} octane is enough.",
    "slim": "{name} of {octane:.0f} octane is enough, but only just.",
    "unproven": "{name} of {octane:.0f} octane: not proven.",
    "short": "{name} of {octane:.0f} octane is not enough.",
}


def fuel_headline(found: FuelAnswer) -> str:
    """The verdict in one sentence."""
    return _VERDICTS[found.verdict.value].format(name=found.fuel.name[0].upper() + found.fuel.name[1:], octane=found.octane.value)


def fuel_words(found: FuelAnswer) -> list[str]:
    """What the verdict rests on."""
    said = [
        (
            f"Built {found.built.value:.1f} to 1; as hard on the fuel as {found.equal.value:.1f} ±{found.equal.spread:.1f} without boost at the sea "
            f"({found.by_pressure.value:.1f} by pressure alone, {found.by_temperature.value:.1f} by heat alone)."
        ),
        f"Limit of this fuel in this engine: {found.bears.value:.1f} ±{found.bears.spread:.1f}, "
        + ("by what the stock engine was built with on its own fuel." if found.anchored else "common practice, no source."),
        f"Charge at the port {amount(found.charge.value, QuantityKind.TEMPERATURE)}"
        + (f", leaving the compressor at {amount(found.outlet, QuantityKind.TEMPERATURE)}." if found.outlet else "."),
    ]
    if abs(found.equal.value / found.built.value - 1.0) > 0.02:
        said.append(f"With this boost, heat and height the ratio to build is {found.static.value:.1f} ±{found.static.spread:.1f}.")
    if abs(found.richer - 1.0) > 0.06:
        said.append(f"It takes {found.richer:.1f} times the fuel that petrol takes for the same air: injectors or jets, pump and tank.")
    return said


def blown_words(found: Blown, boost: float) -> str:
    """What overlap lets through at the goal; empty where there is nothing to say."""
    if boost <= 0.0:
        return ""
    way = "blows through from intake to exhaust" if found.share >= 0.0 else "comes back from the exhaust"
    return (
        f"At overlap ({math.degrees(found.overlap):.0f}° with both valves off their seats) {abs(found.share):.1%} of a charge {way} at the goal, steady flow; twice "
        "that at half the speed."
    )


def breathing_words(found: Breathing) -> list[str]:
    """What the intake's index means."""
    said = [
        f"It fills well to {amount(found.chokes_at, QuantityKind.SPEED)}, and worse with every rev beyond.",
        f"There the inlet Mach index is 0.6; at the goal it is {found.index.value:.2f} ±{found.index.spread:.2f}.",
    ]
    intake = found.proposed[Side.INTAKE]
    share = intake.above / intake.open_for if intake.open_for else 0.0
    if share > 0.05:
        said.append(f"For {share:.0%} of the intake's event its throat is the narrowest place: more lift alone gains nothing there.")
    return said


def effort_words(rungs: tuple[Rung, ...]) -> list[str]:
    """What is enough for the goal: one sentence for breathing, one for following, one for what bears it."""
    said = []
    for about, asked in (
        ("breathes", "For filling well at the goal"),
        ("follows", "For the valves to follow"),
        ("bears", "For crank and pistons"),
    ):
        first = enough(rungs, about)
        said.append(f"{asked}: {first.name[0].lower() + first.name[1:]}." if first else f"{asked}: nothing on this list is enough.")
    return said
