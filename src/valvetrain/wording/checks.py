"""Checks and remedies in plain words, in either unit system. Every number in a sentence is computed."""

from valvetrain.parts.gaps import GapKind
from valvetrain.studies.checks.check import Check, CheckCode, CheckSubject, Effect, Remedy, SideEffect, Verdict
from valvetrain.units import UnitSystem, quantity

NAMES: dict[CheckSubject, str] = {
    CheckCode.FLOAT: "float, simple sum (rigid)",
    CheckCode.LOW_FLOAT: "low lobe float",
    CheckCode.MOTION: "float at speed (simulated)",
    CheckCode.SEAT: "seat force",
    CheckCode.PISTON: "piston speed",
    CheckCode.LIFTERS: "hydraulic elements",
    CheckCode.AT_SPEED: "valve to piston at the over-rev",
} | {kind: kind.words for kind in GapKind}


# The glossary's term of a check.
TERM_OF: dict[CheckSubject, str] = {
    CheckCode.FLOAT: "float-sum", CheckCode.LOW_FLOAT: "float-sum", CheckCode.MOTION: "float-at-speed", CheckCode.SEAT: "seat-load", CheckCode.AT_SPEED: "valve-to-piston",
    GapKind.COIL_BIND: "coil-bind", GapKind.RETAINER: "retainer-to-seal", GapKind.PISTON_VALVE: "valve-to-piston",
}  # fmt: skip
# The formula that decides a check, by its name in the reference.
FORMULA_OF: dict[CheckSubject, str] = {
    CheckCode.FLOAT: "separation_speed", CheckCode.LOW_FLOAT: "separation_speed", CheckCode.MOTION: "contact_force", CheckCode.SEAT: "opening_force",
    CheckCode.PISTON: "mean_piston_speed", CheckCode.AT_SPEED: "rod_stretch", GapKind.COIL_BIND: "least_coil_gaps", GapKind.PISTON_VALVE: "piston_travel",
}  # fmt: skip
VERDICT_WORDS = {Verdict.HOLDS: "holds", Verdict.SLIM: "marginal", Verdict.UNPROVEN: "not proven", Verdict.SHORT: "short"}


def verdict_word(verdict: str) -> str:
    """`marginal`, `not proven`: a verdict in words."""
    return VERDICT_WORDS.get(Verdict(verdict), verdict) if verdict in set(Verdict) else verdict


def title(check: Check | Effect) -> str:
    """`Exhaust float`, `Intake coil bind, outer`, `Piston speed`."""
    name = NAMES[check.code]
    if not check.about or check.code in (CheckCode.PISTON, CheckCode.LIFTERS):
        return name.capitalize()
    side, _, spring = check.about.partition(" ")
    return f"{side.capitalize()} {name}{', ' + spring if spring else ''}"


def effect(item: Effect, system: UnitSystem) -> str:
    """`float 8,610 rpm (marginal)`."""
    return (
        f"{NAMES[item.code].removesuffix(', simple sum (rigid)')} {quantity(item.figure, item.kind, system)} ({verdict_word(item.verdict)})"
    )


def turn(turns: float) -> str:
    """`turn 58° out`: an adjusting screw, positive to open the gap."""
    return f"turn {abs(turns) * 360:.0f}° {'out' if turns > 0 else 'in'}"


def price(item: SideEffect) -> str:
    """`compression ratio 8.60 → 8.53`, `overlap −2.0 degrees`."""
    if item.before == 0.0:
        what, _, unit = item.what.partition(", ")
        return f"{what} {item.after:.1f} {unit}".replace("-", "\N{MINUS SIGN}").rstrip()
    return f"{item.what} {item.before:.2f} → {item.after:.2f}"


def action(remedy: Remedy, system: UnitSystem) -> str:
    """`1.5 mm more spring shim`, `goal lowered to 7,800 rpm`."""
    amount = quantity(remedy.amount, remedy.kind, system)
    match remedy.action:
        case "a lower goal":
            return f"Lower the goal to {amount}"
        case "an earlier change-over":
            return f"Change to the high lobe at {amount}"
        case "deeper pockets":
            return f"Pockets {amount} deeper"
        case "a thicker gasket":
            return f"Gasket {amount} thicker"
        case "the cam later" | "the cam earlier":
            return f"{remedy.action.replace('the cam', 'Cam')} by {amount}".replace(" °", "°")
        case "less phaser range":
            return f"Stop the phaser {amount} short".replace(" °", "°")
        case "more clearance":
            return f"{amount} more clearance"
        case "less boost":
            return f"Lower the boost to {amount}"
        case "stiffer springs at this height":
            return f"Springs with {amount} more at this height, same rate"
        case "spring seat cut deeper":
            return f"Spring seats {amount} deeper"
        case "springs with a lower solid height":
            return f"Springs with {amount} less solid height"
        case "lighter retainer":
            return f"Retainer lighter by {amount}"
        case "lower seal or guide":
            return f"Seal or guide {amount} lower"
        case "less spring shim":
            return f"{amount} less spring shim"
    return f"+{amount} of spring shim"


def remedy(item: Remedy, system: UnitSystem) -> str:
    """A remedy with its effect: `+1.5 mm of spring shim: float 8,610 rpm (holds), coil bind 1.10 mm (holds)`."""
    tail = f"; {', '.join(price(each) for each in item.prices)}" if item.prices else ""
    tail += "" if item.suffices else "; that alone is not enough"
    return f"{action(item, system)}: {', '.join(effect(each, system) for each in item.effects)}{tail}"
