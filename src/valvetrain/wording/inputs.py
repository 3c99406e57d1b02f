"""What a check rests on, by the names the bench knows, and how it is measured there."""

from valvetrain.parts.figure import Basis

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
    "room:pocket_diameter": "pocket diameter",
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
    "goal:wanted": "seat force to keep",
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
    "shake:spring_damping": "an rpm at which it gave up, entered on At speed",
    "shake:train_damping": "an rpm at which it gave up, entered on At speed",
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


_BASES = {Basis.MEASURED: "measured", Basis.MAKER: "manual", Basis.CARD: "maker's data", Basis.ESTIMATE: "estimate"}


def basis_words(basis: Basis) -> str:
    """How a figure is known, as printed beside it."""
    return _BASES[basis]


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
