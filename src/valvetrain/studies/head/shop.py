"""What the machine shop is asked to do to seats, guides and faces: fits with their pressures and temperatures, and what each valve must come back to."""

import csv
import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources

from valvetrain.errors import ContradictionError, ValveTrainError
from valvetrain.formulas.press_fits import hoop_inside, hoop_outside, press_pressure, push_out_force, warm_interference, warming_to_drop_in
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.train.assembly import CompletedBuild
from valvetrain.units import LENGTH, amount

_MM = 1e-3
COLD = 293.15  # K
DRY_ICE, NITROGEN = 195.15, 77.35  # K
OVEN_LIMIT = 453.15  # K, 180 degC: above it a heat-treated aluminium head goes soft by the hour. Source: trade
PRESS_WARM = 393.15  # K, 120 degC: a head is warmed so far where a guide is pressed in. Source: trade
_DROP_PLAY = 0.03 * _MM  # play with which a ring drops in without catching. Source: trade
# Usual interference on the diameter, share of it, by metal of the head: seats 0.05 to 0.12 mm on 28 to 38 mm in aluminium. Source: trade
_SEAT_SHARE = {"aluminium": (0.0016, 0.0025, 0.0033), "cast iron": (0.0010, 0.0016, 0.0022)}
_GUIDE_SHARE = {"aluminium": (0.0025, 0.0035, 0.0045), "cast iron": (0.0015, 0.0025, 0.0035)}
_BOSS = 1.35  # metal around a seat over its diameter, where nobody measured. Source: judgement
_GUIDE_BOSS = 1.7
# Warmth at full power over 20 degC, K: of seat ring and of the head around it. Source: judgement
_WARM = {Side.INTAKE: (150.0, 120.0), Side.EXHAUST: (280.0, 170.0)}
_GUIDE_WARM = {Side.INTAKE: (110.0, 100.0), Side.EXHAUST: (180.0, 130.0)}
_FRICTION = 0.12
# Play of a stem of about 5.5 mm in its guide, mm; bronze takes the lower half. Source: trade
_PLAY = {Side.INTAKE: (0.010, 0.040), Side.EXHAUST: (0.025, 0.055)}
_CONTACT = {Side.INTAKE: (0.8, 1.2), Side.EXHAUST: (1.0, 1.5)}  # mm of seat contact. Source: trade
_CONTACT_TITANIUM = (1.2, 1.5)
RUNOUT = 0.04 * _MM  # of a seat to its guide, total. Source: trade (0.02 to 0.05)
_MARGIN = {Side.INTAKE: 0.9 * _MM, Side.EXHAUST: 1.1 * _MM}  # least thickness of a valve head's edge. Source: trade


@dataclass(frozen=True)
class Metal:
    """A metal: modulus Pa, Poisson's number, mean expansions 1/K warm and cold, stress Pa at which it yields."""

    name: str
    elastic: float
    poisson: float
    warm: float
    cold: float
    yields: float


@cache
def metals() -> dict[tuple[str, str], Metal]:
    """The metals of the data file by part (head, seat, guide) and name."""
    text = resources.files("valvetrain").joinpath("data/metals.csv").read_text(encoding="utf-8")
    found = {}
    for row in csv.DictReader(line for line in text.splitlines() if not line.startswith("#")):
        numbers = [float(row[key]) for key in ("elastic", "poisson", "warm", "cold", "yields")]
        scaled = numbers[0] * 1e9, numbers[1], numbers[2] * 1e-6, numbers[3] * 1e-6, numbers[4] * 1e6
        found[row["part"], row["metal"]] = Metal(row["metal"], *scaled)
    return found


@dataclass(frozen=True)
class Fit:
    """One press fit. Lengths m, stresses Pa, temperatures K, force N; `asked` least, aim and most interference on the diameter.

    `interference` is what the parts that were measured give, or the aim; `told` says which. `oven` is how warm the head must be for the part to drop in by
    itself, with the part cold as it is, out of dry ice, or out of liquid nitrogen. `left_warm` of it at full power, `holds_warm` the force along the axis
    then. `closes` is by how much its bore shrinks, `push_in` the force that presses it in with the head at PRESS_WARM.
    """

    what: str
    diameter: float
    asked: tuple[float, float, float]
    interference: float
    told: bool
    pressure: float
    head_stress: float
    head_bears: float
    part_stress: float
    part_bears: float
    oven: tuple[float, float, float]
    left_warm: float
    holds_warm: float
    closes: float
    push_in: float
    guessed: tuple[str, ...]
    notes: tuple[str, ...]


def _figure(fit: FigureMap, key: str, usual: float, words: str, guessed: list[str]) -> float:
    if key in fit:
        return fit[key].value
    guessed.append(words)
    return usual


def press_fit(
    what: str, head: Metal, part: Metal, diameter: float, inner: float, outer: float, length: float, asked: tuple[float, float, float],
    interference: float | None, warmth: tuple[float, float], guessed: tuple[str, ...] = (), *, pressed: bool = False,
) -> Fit:  # fmt: skip
    """A ring or guide in a head. Raises ValveTrainError for rings that cannot be."""
    given = asked[1] if interference is None else interference
    if given < 0.0:
        raise ContradictionError(
            f"{what}: the part measures {amount(-given, LENGTH, 3)} less than its hole: there is play where it must be pressed. Is one of the two figures wrong?"
        )
    if not inner < diameter < outer:
        raise ContradictionError(
            f"{what}: a bore of {amount(inner, LENGTH)}, an outside of {amount(diameter, LENGTH)} and {amount(outer, LENGTH)} of metal around it cannot be. Which "
            "figure is wrong?"
        )
    if given > 0.02 * diameter:
        raise ContradictionError(
            f"{what}: {amount(given, LENGTH, 3)} of interference on {amount(diameter, LENGTH)} cannot be pressed. Is one of the two figures wrong?"
        )
    pressure = press_pressure(given, diameter, inner, outer, part.elastic, part.poisson, head.elastic, head.poisson)
    stress, push = hoop_outside(pressure, diameter, outer), hoop_inside(pressure, diameter, inner)
    ovens = []
    for cooled in (COLD, DRY_ICE, NITROGEN):
        shrunk = given - diameter * part.cold * (COLD - cooled)
        warming = warming_to_drop_in(shrunk, _DROP_PLAY, diameter, head.warm) if shrunk > -_DROP_PLAY else 0.0
        ovens.append(COLD + warming)

    def force(tight: float) -> float:
        if tight <= 0.0:
            return 0.0
        squeeze = press_pressure(tight, diameter, inner, outer, part.elastic, part.poisson, head.elastic, head.poisson)
        return push_out_force(squeeze, diameter, length, _FRICTION)

    left = warm_interference(given, diameter, part.warm, head.warm, *warmth)
    notes = []
    if given > asked[2] * 1.001:
        notes.append(
            f"{amount(given, LENGTH, 3)} is more than the {amount(asked[2], LENGTH, 3)} that is usual: the head may crack, or stretch and lose its grip."
        )
    if given < asked[0] * 0.999:
        notes.append(
            f"{amount(given, LENGTH, 3)} is less than the {amount(asked[0], LENGTH, 3)} that is usual: it may come loose when warm."
        )
    if stress > head.yields:
        notes.append("The head yields around it: what is pressed beyond that is lost at once.")
    if left <= 0.0:
        notes.append("Warm there is no interference left: it falls out. More of it, or a metal that grows as the head does.")
    if ovens[0] > OVEN_LIMIT and not pressed:
        notes.append("The head alone would have to be hotter than it can stand: cool the part as well.")
    shrinks = inner * (-push) / part.elastic
    return Fit(
        what=what, diameter=diameter, asked=asked, interference=given, told=interference is not None, pressure=pressure, head_stress=stress,
        head_bears=head.yields, part_stress=push, part_bears=part.yields, oven=(ovens[0], ovens[1], ovens[2]), left_warm=left, holds_warm=force(left),
        closes=shrinks, push_in=force(warm_interference(given, diameter, part.warm, head.warm, 0.0, PRESS_WARM - COLD)), guessed=guessed, notes=tuple(notes),
    )  # fmt: skip


@dataclass(frozen=True)
class Target:
    """What one measure must come back to, m: from `low` to `high` (None leaves an end open), and where that comes from."""

    low: float | None
    high: float | None
    origin: str

    def holds(self, value: float) -> bool:
        """Whether a reading (m) lies within, but for binary rounding."""
        return (self.low is None or value >= self.low - 1e-9) and (self.high is None or value <= self.high + 1e-9)


@dataclass(frozen=True)
class ShopSide:
    """What is asked of one side of a head."""

    side: Side
    seat: Fit | None
    guide: Fit | None
    targets: Mapping[str, Target]
    angle: float
    angle_told: bool
    metals: tuple[str, str]
    head_metal: str
    troubles: tuple[str, ...]


# What a machine shop can be asked for, in the order of the work.
WORKS = {
    "clean": "Clean: blast, ultrasonic bath, every oil way looked through", "test": "Pressure test for cracks", "guides_new": "New valve guides",
    "guides_hone": "Hone the guides to the play asked", "seats_new": "New seat rings", "seats_cut": "Cut the seats: angle, width and place as asked",
    "faces": "Grind the valve faces (never coated, nitrided or titanium ones)", "lap": "Lap valves to their seats and number them", "surface": "Surface the head's face",
}  # fmt: skip
HEAD_MEASURES = {"face_off": "Taken off the head's face", "flatness": "Out of flat, the whole face"}
FLAT = 0.05 * _MM  # of a small head, over its whole face. Source: trade
MEASURES = {
    "protrusion": "Stem protrusion", "contact": "Seat contact, width", "runout": "Seat run-out", "play": "Stem play in the guide",
    "margin": "Valve margin", "guide_height": "Guide above the spring seat",
}  # fmt: skip


def _targets(record: BuildRecord, done: CompletedBuild, side: Side, guide: str) -> dict[str, Target]:
    fit = record.proposed[side].fit or record.stock[side].fit
    valve = record.proposed[side].parts.get(Owner.VALVE)
    titanium = valve is not None and valve.facts.get("material", "").startswith("titanium")
    trade = "common practice"
    low, high = (each * _MM for each in (_CONTACT_TITANIUM if titanium else _CONTACT[side]))
    stem = done.proposed_sides[side].parts[Owner.VALVE]["stem_diameter"].value / (5.5 * _MM)
    play = [each * _MM * stem for each in _PLAY[side]]
    if guide == "bronze":
        play[1] = (play[0] + play[1]) / 2.0
    found = {
        "contact": Target(low, high, trade),
        "runout": Target(0.0, RUNOUT, trade),
        "play": Target(play[0], play[1], trade),
        "margin": Target(_MARGIN[side], None, trade),
    }
    if "seat_contact" in fit:
        wanted = fit["seat_contact"].value
        found["contact"] = Target(wanted - 0.1 * _MM, wanted + 0.1 * _MM, "as you typed it")
    if "stem_play_least" in fit or "stem_play_most" in fit:
        ends = [fit[key].value if key in fit else None for key in ("stem_play_least", "stem_play_most")]
        found["play"] = Target(ends[0], ends[1], "the manual, as typed")
    if "guide_height" in fit:
        found["guide_height"] = Target(fit["guide_height"].value - 0.2 * _MM, fit["guide_height"].value + 0.2 * _MM, "the manual, as typed")
    if "protrusion_least" in fit or "protrusion_most" in fit:
        ends = [fit[key].value if key in fit else None for key in ("protrusion_least", "protrusion_most")]
        found["protrusion"] = Target(ends[0], ends[1], "the manual, as typed")
    return found


def _seat_fit(done: CompletedBuild, side: Side, head: Metal, seat: Metal) -> Fit:
    fit = done.proposed_sides[side].fit
    guessed: list[str] = []
    valve = done.proposed_sides[side].parts[Owner.VALVE]["head_diameter"].value
    outer = _figure(fit, "seat_outer", valve + 3.0 * _MM, "the ring's outside", guessed)
    inner = _figure(fit, "seat_inner", 0.86 * valve, "its bore", guessed)
    depth = _figure(fit, "seat_depth", 6.0 * _MM, "its height", guessed)
    boss = _figure(fit, "seat_boss", _BOSS * outer, "the metal around it", guessed)
    low, aim, high = (share * outer for share in _SEAT_SHARE[head.name])
    given = fit["seat_outer"].value - fit["seat_bore"].value if {"seat_outer", "seat_bore"} <= fit.keys() else None
    return press_fit(
        f"{side.capitalize()} seat", head, seat, outer, inner, boss, depth, (low, aim, high), given, _WARM[side], tuple(guessed)
    )  # fmt: skip


def _guide_fit(done: CompletedBuild, side: Side, head: Metal, guide: Metal) -> Fit:
    fit = done.proposed_sides[side].fit
    guessed: list[str] = []
    stem = done.proposed_sides[side].parts[Owner.VALVE]["stem_diameter"].value
    outer = _figure(fit, "guide_outer", 2.0 * stem, "the guide's outside", guessed)
    length = _figure(fit, "guide_length", 36.0 * _MM, "its length", guessed)
    low, aim, high = (share * outer for share in _GUIDE_SHARE[head.name])
    given = fit["guide_outer"].value - fit["guide_hole"].value if {"guide_outer", "guide_hole"} <= fit.keys() else None
    return press_fit(
        f"{side.capitalize()} guide", head, guide, outer, stem, _GUIDE_BOSS * outer, length, (low, aim, high), given, _GUIDE_WARM[side], tuple(guessed), pressed=True,
    )  # fmt: skip


def shop_side(record: BuildRecord, done: CompletedBuild, side: Side) -> ShopSide:
    """Everything that is asked of one side. A fit whose figures contradict one another stands among the troubles, in words."""
    facts = record.facts
    head_name = "cast iron" if facts.get("head_metal") == "iron" else "aluminium"
    seat_name, guide_name = facts.get(f"seats_{side}") or "sintered", facts.get(f"guides_{side}") or "iron"
    head = metals()["head", head_name]
    troubles, fits = [], {}
    for what, make in (
        ("seat", lambda: _seat_fit(done, side, head, metals()["seat", seat_name])),
        ("guide", lambda: _guide_fit(done, side, head, metals()["guide", guide_name])),
    ):
        try:
            fits[what] = make()
        except ValveTrainError as error:
            troubles.append(error.sentence)
    told = done.proposed_sides[side].fit.get("seat_angle", Figure(math.radians(45.0), 0.0, Basis.ESTIMATE))
    return ShopSide(
        side=side, seat=fits.get("seat"), guide=fits.get("guide"), targets=_targets(record, done, side, guide_name), angle=told.value,
        angle_told=told.basis is not Basis.ESTIMATE, metals=(seat_name, guide_name), head_metal=head_name, troubles=tuple(troubles),
    )  # fmt: skip


@dataclass(frozen=True)
class Returned:
    """One measure of one valve that came back: what was asked, what it was before and is now (m), whether it holds, what follows."""

    valve: str
    side: Side
    measure: str
    target: Target
    before: float | None
    now: float
    holds: bool
    follows: str


def returned(
    side: ShopSide, valve: str, measure: str, before: float | None, now: float, *, blade_ratio: float = 1.0
) -> Returned:  # fmt: skip
    """One measure judged. Protrusion without the manual's figures is asked to come back to what it was, 0.10 mm either way."""
    target = side.targets.get(measure) or (
        Target(before - 0.1 * _MM, before + 0.1 * _MM, "what it was before")
        if before is not None
        else Target(None, None, "nothing entered")
    )
    holds, follows = target.holds(now), ""
    if measure == "protrusion" and before is not None:
        up = now - before
        way = "sits deeper" if up > 0.0 else "sits higher"
        if abs(up) > 0.005 * _MM:
            follows = (
                f"The valve {way} by {amount(abs(up), LENGTH)}: its spring stands {amount(abs(up), LENGTH)} {'taller' if up > 0.0 else 'shorter'}, and the "
                f"clearance {'closes' if up > 0.0 else 'opens'} by {amount(abs(up) / blade_ratio, LENGTH)}."
            )
    elif not holds:
        follows = _MEANS[measure]
    return Returned(valve, side.side, measure, target, before, now, holds, follows)


_MEANS = {
    "contact": "Too narrow burns and pounds in, too wide traps carbon and cools badly: send it back.",
    "runout": "The seat does not stand round to its guide: it cannot seal. Cut again from the guide.",
    "play": "Too tight seizes, too loose rocks the valve and drinks oil: guide to be honed, or renewed.",
    "margin": "Too thin an edge glows and cups: another valve.",
    "guide_height": "The seal or the retainer meets the guide: press it to height.",
    "protrusion": "Outside its limits the rest of the gear no longer stands right.",
}  # fmt: skip
