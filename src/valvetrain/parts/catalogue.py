"""The catalogue: every figure and every word the product knows of an engine and its parts, by owner and key."""

from dataclasses import replace

from valvetrain.formulas.coil_springs import Ends
from valvetrain.formulas.spring_fatigue import Wire
from valvetrain.parts.figure_effects import COUNTS
from valvetrain.parts.figure_rows import figure_rows
from valvetrain.parts.fitting_rows import fitting_rows
from valvetrain.parts.head_rows import head_rows
from valvetrain.parts.kinds import FactKind, FigureKind, Owner, usual_spread

__all__ = ["FACTS", "FIGURES", "FUELS", "FactKind", "FigureKind", "Owner", "of_owner", "usual_spread"]

FIGURES: dict[tuple[Owner, str], FigureKind] = {
    (row.owner, row.key): row
    for row in (*(replace(row, counts=COUNTS.get(row.key, "")) for row in figure_rows()), *fitting_rows(), *head_rows())
}
_FACES = {"flat": "flat face", "domed": "domed face", "roller": "roller", "pad": "pad"}
_GROOVES = {"": "not known", "square": "one square groove", "round": "one round groove", "three": "three round grooves"}
_FEEDS = {
    "": "not known", "none": "none", "hole": "one hole, keyed followers", "groove": "a groove all round, turning followers",
    "second": "a second one, switched",
}  # fmt: skip
_DRIVES = {
    "": "not known",
    "bolted": "bolted sprocket",
    "pressed": "pressed gear",
    "phaser": "phaser",
    "one_piece": "one piece with the sprocket",
}
_CAM_METALS = {"": "not known", "chilled": "chilled iron", "steel": "hardened steel", "billet": "nitrided steel"}
_FACE_METALS = {"": "not known", "hardened": "hardened steel", "coated": "coated steel", "iron": "chilled iron", "roller": "a roller"}
_SEAT_METALS = {
    "": "not known",
    "sintered": "sintered iron",
    "iron": "alloyed iron",
    "bronze": "nickel-bronze",
    "copper": "copper alloy, soft",
}
_GUIDE_METALS = {"": "not known", "iron": "cast iron", "bronze": "bronze", "sintered": "sintered"}
FUELS = ("petrol", "petrol with ethanol", "E85", "methanol", "gas")
_TREATED = {
    "": "not known",
    "none": "no treatment",
    "peened": "shot-peened",
    "cold": "deep-cold treated",
    "both": "deep-cold treated and shot-peened",
}
_BOTH = ("intake", "exhaust")
FACTS: dict[tuple[Owner, str], FactKind] = {
    (fact.owner, fact.key): fact
    for fact in (
        FactKind(
            Owner.CAM,
            "stated_at",
            "Lifts are given at",
            {"valve": "the valve", "follower": "the lobe (follower motion)", "radius": "the bare lobe (radius)"},
        ),
        FactKind(
            Owner.CAM,
            "stated_clearance",
            "Lifts and heights are given",
            {"before": "before clearance", "after": "with the clearance taken off"},
        ),
        FactKind(Owner.CAM, "ground_for", "Ground for", {"": "unknown"} | _FACES),
        FactKind(Owner.SPRING, "form", "Form", {"": "cylinder", "cone": "cone", "beehive": "beehive"}),
        FactKind(
            Owner.SPRING, "ends", "Ends", {"": "closed, ground", **{end.value: end.value for end in Ends if end is not Ends.CLOSED_GROUND}}
        ),
        FactKind(
            Owner.SPRING,
            "wire",
            "Wire of",
            {"": "chrome-silicon", **{wire.value: wire.value for wire in Wire if wire is not Wire.CHROME_SILICON}},
        ),
        FactKind(Owner.SPRING, "peened", "Shot-peened", {"": "not known", "yes": "yes", "no": "no"}),
        FactKind(
            Owner.SPRING,
            "nested",
            "Inside the outer",
            {"": "not known", "free": "free", "interference": "press fit", "damper": "flat damper"},
        ),
        FactKind(Owner.SPRING, "state", "State", {"": "not known", "new": "new", "used": "used"}),
        FactKind(
            Owner.VALVE,
            "material",
            "Valve of",
            {"": "not known"} | {name: name for name in ("valve steel", "austenitic 21-4N", "nickel alloy", "titanium 6-4")},
        ),
        *(
            FactKind(
                Owner.ENGINE,
                f"holds_limiter_{side}",
                f"Stock {side} valves hold the stock limiter",
                {"": "yes, as stock engines do", "no": "no, or not known"},
            )
            for side in ("intake", "exhaust")
        ),
        *(
            FactKind(
                Owner.ENGINE,
                f"lobe_{side}",
                f"{side.capitalize()} lobes",
                {"": "one for each valve", "shared": "one for all valves of a cylinder: forked or roller rocker"},
            )
            for side in ("intake", "exhaust")
        ),
        *(
            FactKind(
                Owner.ENGINE,
                f"clearance_from_{side}",
                f"{side.capitalize()} clearance that counts",
                {"": "the manual's, until you say", "manual": "the manual's", "card": "the cam card's"},
            )
            for side in ("intake", "exhaust")
        ),
        FactKind(Owner.ENGINE, "caps", "Lash caps beside the screws", {"": "no", "yes": "yes, on the stems"}),
        FactKind(
            Owner.ENGINE,
            "machine",
            "It drives",
            {
                "": "not known",
                "gearbox": "a wheel, through a gearbox",
                "single": "a wheel, single speed with a clutch",
                "water": "a screw or impeller",
                "governed": "a pump or generator, held by a governor",
            },
        ),
        FactKind(
            Owner.ENGINE,
            "fuel",
            "Fuel",
            {"": "not known"} | {name: name for name in FUELS},
        ),
        FactKind(Owner.GOAL, "fuel", "Fuel it runs on", {"": "what it was made for"} | {name: name for name in FUELS}),
        FactKind(
            Owner.GOAL,
            "air",
            "Air it draws comes",
            {"": "not known", "clean": "through a serviced filter", "dusty": "out of dust or sand", "open": "without a filter"},
        ),
        FactKind(Owner.GOAL, "squish", "Squish band", {"": "not known", "kept": "full", "opened": "opened"}),
        FactKind(Owner.ENGINE, "head_metal", "Head of", {"": "aluminium", "iron": "cast iron"}),
        FactKind(Owner.ENGINE, "cooling", "Cooled by", {"": "not known", "water": "water", "air": "air"}),
        *(FactKind(Owner.ENGINE, f"seats_{side}", f"{side.capitalize()} seats of", _SEAT_METALS) for side in _BOTH),
        *(FactKind(Owner.ENGINE, f"guides_{side}", f"{side.capitalize()} guides of", _GUIDE_METALS) for side in _BOTH),
        *(
            FactKind(
                Owner.ENGINE,
                f"seat_cut_{side}",
                f"{side.capitalize()} seats cut with",
                {"": "not known", "one": "one angle", "three": "three angles", "radius": "a full radius"},
            )
            for side in _BOTH
        ),
        FactKind(
            Owner.ENGINE,
            "seals",
            "Stem seals of",
            {"": "not known", "nitrile": "nitrile", "fluorocarbon": "fluorocarbon", "acrylic": "acrylic"},
        ),
        FactKind(
            Owner.VALVE,
            "stem",
            "Stem",
            {"": "not known", "plain": "plain", "thin": "thinned under the head", "hollow": "hollow", "sodium": "hollow, sodium in it"},
        ),
        FactKind(Owner.VALVE, "back", "Back of the head", {"": "not known", "flat": "flat", "tulip": "tulip"}),
        FactKind(Owner.VALVE, "back_cut", "Back cut above the seat", {"": "not known", "no": "none", "yes": "back-cut"}),
        FactKind(Owner.VALVE, "coat", "Face and stem", {"": "not known", "none": "bare", "nitrided": "nitrided", "coated": "coated"}),
        FactKind(Owner.VALVE, "origin", "Made by", {"": "not known", "maker": "the engine's maker", "other": "another"}),
        FactKind(Owner.SPRING, "coat", "Surface", {"": "not known", "bare": "bare", "coated": "coated"}),
        FactKind(Owner.SPRING, "cold", "Deep-cold treated", {"": "not known", "no": "no", "yes": "yes"}),
        *(FactKind(owner, "treated", "Treatment", _TREATED) for owner in (Owner.RETAINER, Owner.CAM, Owner.FOLLOWER, Owner.VALVE)),
        FactKind(
            Owner.FOLLOWER, "inside", "Inside it", {"": "not known", "plain": "nothing moves", "switching": "a mechanism that switches"}
        ),
        FactKind(Owner.KEEPERS, "made_of", "Keepers of", {"": "not known", "steel": "steel", "titanium": "titanium"}),
        FactKind(Owner.RETAINER, "held_by", "Held by", {"": "keepers", "keyhole": "its keyhole, no keepers"}),
        FactKind(Owner.ENGINE, "rods", "Rods of", {"": "steel", "aluminium": "aluminium", "titanium": "titanium"}),
        FactKind(Owner.FOLLOWER, "contact", "Rides with a", {"": "not known"} | _FACES),
        FactKind(Owner.VALVE, "groove", "Keeper groove", _GROOVES),
        FactKind(Owner.KEEPERS, "groove", "Made for", _GROOVES),
        FactKind(Owner.VALVE, "tip", "Tip", {"": "not known", "hardened": "hardened", "soft": "soft, wants a cap"}),
        FactKind(Owner.SPRING, "hand", "Wound", {"": "not known", "left": "left", "right": "right"}),
        FactKind(
            Owner.RETAINER,
            "material",
            "Retainer of",
            {"": "not known", "steel": "steel", "titanium": "titanium", "aluminium": "aluminium"},
        ),
        FactKind(Owner.FOLLOWER, "turns", "In its bore", {"": "not known", "turns": "turns", "keyed": "is keyed"}),
        FactKind(Owner.CAM, "crown", "Lobes across", {"": "not known", "straight": "straight", "crowned": "crowned or tapered"}),
        FactKind(Owner.FOLLOWER, "feed", "Oil feed it wants", _FEEDS),
        FactKind(Owner.ENGINE, "oil_feed", "Oil feed to the followers", _FEEDS),
        FactKind(Owner.CAM, "drive", "Flange and journals", _DRIVES),
        FactKind(Owner.ENGINE, "cam_drive", "Cam flange and journals", _DRIVES),
        FactKind(Owner.CAM, "made_of", "Cam of", _CAM_METALS),
        FactKind(Owner.FOLLOWER, "made_of", "Face of", _FACE_METALS),
        FactKind(Owner.SEAT, "made_of", "Seat of", _SEAT_METALS),
        FactKind(Owner.GUIDE, "made_of", "Guide of", _GUIDE_METALS),
        FactKind(
            Owner.SEAL, "made_of", "Seal of", {"": "not known", "nitrile": "nitrile", "fluorocarbon": "fluorocarbon", "acrylic": "acrylic"}
        ),
    )
}


def of_owner(owner: Owner) -> tuple[FigureKind, ...]:
    """The figures of one owner, in the order in which a person gives them."""
    return tuple(row for row in FIGURES.values() if row.owner is owner)
