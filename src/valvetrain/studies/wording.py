"""Checks, remedies and inputs in plain words, in either unit system. Every number in a sentence is computed."""

import re

from valvetrain.quantities import Kind, System, show, unit_symbol
from valvetrain.studies.assessment import Check, Code, Effect, Price, Remedy, Verdict
from valvetrain.studies.review import SetupReview

NAMES = {
    Code.FLOAT: "float",
    Code.LOW_FLOAT: "low lobe float",
    Code.MOTION: "contact at speed",
    Code.SEAT: "seat force",
    Code.COIL_BIND: "coil bind",
    Code.RETAINER: "retainer to seal",
    Code.PISTON: "piston speed",
    Code.PISTON_VALVE: "valve to piston",
    Code.AT_SPEED: "valve to piston at the over-rev",
    Code.POCKET_RIM: "valve to pocket wall",
    Code.VALVE_VALVE: "valve to valve",
    Code.VALVE_BORE: "valve to bore",
    Code.FOLLOWER: "follower to retainer",
    Code.NESTED: "springs nested",
    Code.SPRING_POCKET: "spring to pocket",
    Code.LOBE_HEAD: "lobe nose to head",
    Code.HEAD_ROOM: "valve to cylinder head",
}
_INPUTS = {
    "installed_height": "installed height",
    "spring_shim": "spring shim",
    "solid": "solid height of the spring",
    "retainer_to_seal": "retainer to seal, valve shut",
    "lift": "valve lift",
    "duration": "duration",
    "shape": "the lobe's flank, on a degree wheel",
    "clearance": "clearance",
    "stroke": "stroke",
    "shake:train_stiffness": "train stiffness",
    "shake:train_damping": "damping of the train",
    "shake:seat_stiffness": "stiffness of the seat",
    "shake:seat_damping": "damping of the seat",
    "shake:spring_damping": "damping of the springs",
    "shake:clash": "stiffness of closed coils",
    "shake:rounding": "how the lobe's flank is rounded",
    "room:rest": "valve to piston, measured",
    "room:gasket": "thickness of the pressed gasket",
    "room:deck": "crown below the deck",
    "room:height": "valve head above the gasket face",
    "room:depth": "depth of the pocket",
    "room:angle": "angle of the valve to the bore",
    "room:pocket_angle": "tilt of the pocket's floor",
    "room:diameter": "valve head diameter",
    "room:pocket_diameter": "pocket across",
    "room:pocket_offset": "pocket off the stem",
    "room:head_diameter": "valve head diameter",
    "room:offset": "valves from the bore's middle",
    "room:apart": "valves, one to the next",
    "room:bore": "bore",
    "room:margin": "margin of the valve head",
    "room:lift": "valve lift",
    "room:duration": "duration",
    "room:lobe_centre": "lobe centre",
    "room:clearance": "clearance",
    "room:follower_gap": "follower to retainer",
    "room:nested": "both springs' wire and coil",
    "room:lobe_to_head": "lobe nose to head",
    "goal:boost": "boost at the port",
    "goal:back": "back pressure",
    "goal:pulse": "exhaust pulses",
    "goal:vacuum": "vacuum behind a closed throttle",
    "goal:head": "valve head diameter",
    "goal:seat": "seat width",
    "goal:stem": "stem diameter",
    "goal:wanted": "force kept on the seat",
}
_HOW = {
    "installed_height": "depth gauge, each valve",
    "solid": "press one solid on the spring tester",
    "retainer_to_seal": "caliper, valve shut",
    "lift": "dial indicator on the retainer",
    "duration": "degree wheel",
    "shape": "degree wheel, every 2°",
    "clearance": "blades, cold",
    "shake:train_stiffness": "lobe held, known force on the valve, dial on the retainer",
    "shake:rounding": "degree wheel, every 2°",
    "shake:spring_damping": "an rpm at which it gave up, told on At speed",
    "shake:train_damping": "an rpm at which it gave up, told on At speed",
    "shake:clash": "spring tester, down to solid",
    "stroke": "depth gauge, or the manual",
    "room:rest": "clay on the crown, or a drop test at five crank angles",
    "room:gasket": "micrometer on a used one",
    "room:deck": "depth gauge at the crown's rim, piston up",
    "room:height": "rule across the head, depth gauge",
    "room:depth": "depth gauge from the crown's rim",
    "room:angle": "angle gauge on the stem",
    "room:pocket_angle": "angle gauge in the pocket",
    "room:pocket_diameter": "caliper",
    "room:pocket_offset": "clay, where the rim printed",
    "room:offset": "caliper across the head",
    "room:apart": "caliper, stem to stem",
    "room:lobe_centre": "degree the cam in",
    "room:follower_gap": "feeler between follower and retainer",
    "room:nested": "caliper on both springs",
    "room:lobe_to_head": "feeler or clay at the nose",
    "goal:boost": "gauge at the manifold",
    "goal:back": "tap at the exhaust manifold",
    "goal:pulse": "fast pressure pick-up",
    "goal:vacuum": "vacuum gauge on the port, throttle shut",
    "goal:head": "caliper",
    "goal:seat": "blue and a rule",
    "goal:stem": "micrometer",
}


def quantity(value: float, kind: Kind, system: System, decimals: int | None = None) -> str:
    """A figure with its unit: `1.10 mm`, `8,610 rpm`."""
    return f"{show(value, kind, system, decimals)} {unit_symbol(kind, system)}".strip()


# Metric figures inside sentences, with the kind that turns them for a reader in inches; longer units first
_METRIC = (
    (r"N/mm", Kind.RATE, 1e3), (r"mm/deg²", None, 1.0), (r"mm/rad²", None, 1.0), (r"mm", Kind.LENGTH, 1e-3), (r"N·?m", None, 1.0),
    (r"N", Kind.FORCE, 1.0), (r"bar", Kind.PRESSURE, 1e5), (r"m/s²", None, 1.0), (r"m/s", Kind.VELOCITY, 1.0),
)  # fmt: skip
_NUMBER = r"\d[\d,]*(?:\.\d+)?"
_IN_TEXT = re.compile(
    rf"(?P<first>{_NUMBER})(?P<between> to |–| and |…)?(?P<second>(?<=[ –d…]){_NUMBER})? (?P<unit>{'|'.join(row[0] for row in _METRIC)})(?![\w/²])"
)


def told(text: str, system: System) -> str:
    """A sentence of the core, which speaks metric, for the reader's own units: `0.12 mm` becomes `.0047 in`."""
    if system is System.METRIC:
        return text

    def turned(found: re.Match[str]) -> str:
        for unit, kind, factor in _METRIC:
            if re.fullmatch(unit, found["unit"]):
                if kind is None:
                    return found[0]
                given = [found[name].replace(",", "") for name in ("first", "second") if found[name]]
                places = [len(each.partition(".")[2]) for each in given]
                shown = [
                    show(float(each) * factor, kind, system, None if kind is not Kind.LENGTH else min(place + 2, 4))
                    for each, place in zip(given, places, strict=True)
                ]
                return f"{(found['between'] or '').join(shown)} {unit_symbol(kind, system)}"
        return found[0]

    return _IN_TEXT.sub(turned, text)


def input_name(what: str) -> str:
    """The name of an input as a person knows it."""
    if what.startswith("mass:spring"):
        return "spring mass"
    if what.startswith("mass:"):
        return f"{what.removeprefix('mass:')} mass"
    head, _, rest = what.removeprefix("room:").partition(":")
    if what.startswith("room:") and rest:  # an input of one side among both
        return f"{head} {_INPUTS.get('room:' + rest, rest)}"
    for stem, words in (
        ("rate_", "spring rate"),
        ("load_height_", "height of the stated load"),
        ("load_", "spring load"),
        ("step_", "step of the inner seat"),
        ("solid_", "solid height of the spring"),
        ("bend_", "rise of the spring's rate"),
        ("active_", "active coils of the spring"),
    ):
        if what.startswith(stem):
            return words if what.endswith("_0") else f"{words}, inner"
    return _INPUTS.get(what, what)


def how_to_measure(what: str) -> str:
    """How an input is measured at the bench."""
    if what.startswith("mass:"):
        return "scale"
    if what.startswith("room:") and what.count(":") == 2:
        return _HOW.get(f"room:{what.rpartition(':')[2]}", "caliper")
    if what.startswith("active_"):
        return "count the coils, and those that lie flat at the ends"
    if what.startswith(("rate_", "load_", "bend_", "solid_")):
        return "spring tester, at installed height and full lift"
    return _HOW.get(what, "see the manual")


def title(check: Check | Effect) -> str:
    """`Exhaust float`, `Intake coil bind, outer`, `Piston speed`."""
    name = NAMES[check.code]
    if not check.about or check.code is Code.PISTON:
        return name.capitalize()
    side, _, spring = check.about.partition(" ")
    return f"{side.capitalize()} {name}{', ' + spring if spring else ''}"


def effect(item: Effect, system: System) -> str:
    """`float 8,610 rpm (slim)`."""
    return f"{NAMES[item.code]} {quantity(item.figure, item.kind, system)} ({item.verdict})"


def turn(turns: float) -> str:
    """`turn 58° out`: an adjusting screw, positive to open the gap."""
    return f"turn {abs(turns) * 360:.0f}° {'out' if turns > 0 else 'in'}"


def price(item: Price) -> str:
    """`compression ratio 8.60 → 8.53`, `overlap −2.0 degrees`."""
    if item.before == 0.0:
        what, _, unit = item.what.partition(", ")
        return f"{what} {item.after:.1f} {unit}".replace("-", "\N{MINUS SIGN}").rstrip()
    return f"{item.what} {item.before:.2f} → {item.after:.2f}"


def action(remedy: Remedy, system: System) -> str:
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
            return f"Springs that are solid {amount} lower"
        case "lighter retainer":
            return f"Retainer lighter by {amount}"
        case "lower seal or guide":
            return f"Seal or guide {amount} lower"
        case "less spring shim":
            return f"{amount} less spring shim"
    return f"+{amount} of spring shim"


def remedy(item: Remedy, system: System) -> str:
    """A remedy with its effect: `+1.5 mm of spring shim: float 8,610 rpm (holds), coil bind 1.10 mm (holds)`."""
    tail = f"; {', '.join(price(each) for each in item.prices)}" if item.prices else ""
    tail += "" if item.suffices else "; that alone is not enough"
    return f"{action(item, system)}: {', '.join(effect(each, system) for each in item.effects)}{tail}"


def _listed(names: list[str]) -> str:
    if len(names) > 5:
        names = [*names[:4], f"{len(names) - 4} more"]
    text = " and ".join(names) if len(names) < 3 else f"{', '.join(names[:-1])} and {names[-1]}"
    return text[:1].upper() + text[1:].lower()


def headline(found: SetupReview) -> str:
    """The answer in two or three words."""
    return {
        Verdict.SHORT: "Not yet.",
        Verdict.UNPROVEN: "Unproven.",
        Verdict.SLIM: "It holds, slimly.",
        Verdict.HOLDS: "It holds.",
    }[found.verdict]


def answer(found: SetupReview, goal: float, system: System) -> str:
    """Whether the valves follow the cams to the goal (crank rev/s), and what holds them back: the question that was asked."""
    moved = [check for check in found.checks if check.code is Code.MOTION]
    known = {check.side for check in moved}
    rigid = [check for check in found.checks if check.code is Code.FLOAT and check.side not in known]
    speeds = moved + rigid
    if not speeds:
        return ""
    worst = min(speeds, key=lambda check: check.figure if check.low is None else check.low)
    to, low = quantity(goal, Kind.SPEED, system), worst.low if worst.low is not None else worst.figure - worst.spread
    high = worst.high if worst.high is not None else worst.figure + worst.spread
    between = f"{show(low, Kind.SPEED, system)} and {quantity(high, Kind.SPEED, system)}"
    side = worst.about.split(" ")[0]
    if low >= goal:
        if rigid:  # vibration and surge may still take some of it: that is not known yet, or cannot be judged
            return f"As rigid parts, before vibration and surge, the valves follow the cams to {to}: the {side} lets go between {between}."
        return f"The valves follow the cams to {to}: the {side} lets go between {between}."
    if high < goal:
        return f"The valves do not follow the cams to {to}: the {side} lets go between {between}."
    first = input_name(worst.dominant[0][0]) if worst.dominant else ""
    decides = f" What would settle it most: {first}." if first else ""
    return f"Whether the valves follow the cams to {to} is not proven: the {side} lets go between {between}.{decides}"


def summary(found: SetupReview, system: System, goal: float | None = None) -> list[str]:
    """Sentences below the headline: what falls short by how much, what is slim, what is unproven, what holds."""
    follows = answer(found, goal, system) if goal is not None else ""
    sentences = [follows] if follows else []
    sentences += [
        f"{title(check)} is {'short' if check.at_least else 'over'} by {quantity(abs(check.margin), check.kind, system)}."
        for check in found.checks
        if check.verdict is Verdict.SHORT
    ]
    for verdict, words in ((Verdict.SLIM, "slim"), (Verdict.UNPROVEN, "unproven: estimates decide")):
        names = [title(check).lower() for check in found.checks if check.verdict is verdict]
        if names:
            sentences.append(f"{_listed(names)} {'is' if len(names) == 1 else 'are'} {words}.")
    holding = sum(check.verdict is Verdict.HOLDS for check in found.checks)
    if holding:
        sentences.append(f"{holding} of {len(found.checks)} checks hold.")
    return sentences


def good_to(found: SetupReview, system: System) -> str:
    """What the parts are good for as they stand."""
    if found.good_to is None:
        return "No lower speed mends this: a gap or a seat force falls short."
    speed = int(found.good_to * 6.0) / 6.0
    return f"As it stands the figures are good to {quantity(speed, Kind.SPEED, system)}, reserve kept."
