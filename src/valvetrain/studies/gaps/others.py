"""The gaps beside the piston's: follower to retainer, springs nested and in their pockets, lobe to head, a side valve's head room."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.coil_springs import spring_index
from valvetrain.parts.catalogue import FIGURES, Owner, usual_spread
from valvetrain.parts.engine import EngineKind, Follower, Gear
from valvetrain.parts.figure import Basis, Figure, FigureMap, estimate
from valvetrain.parts.gaps import WAY_SPREAD, GapKind, GapReading, Way
from valvetrain.parts.record import PartRecord
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.train.assembly import CompletedSide
from valvetrain.studies.train.uncertainty import Numbers, Propagated, propagate

_MM = 1e-3

_COILS = (("mean_diameter", 28.0), ("mean_diameter", 20.0), ("wire_diameter", 4.0), ("wire_diameter", 3.0))  # mm, usual; source: judgement
# What measuring a guessed gap leaves of its spread, m, k = 2, by the input that stands for the guess: nothing is known exactly by having been read.
# Sources: the spreads of the ways of reading and of the catalogue; between springs, half of two coils across and two wires.
LEFT_BY_MEASURING = {
    "rest": WAY_SPREAD[Way.CLAY],
    "follower_gap": WAY_SPREAD[Way.GAUGE],
    "lobe_to_head": WAY_SPREAD[Way.GAUGE],
    "nested": math.hypot(*(usual_spread(FIGURES[Owner.SPRING, key], size * _MM, Basis.MEASURED) for key, size in _COILS)) / 2.0,
}


@dataclass(frozen=True)
class OtherGap:
    """One gap, m: value with spread and shares, how it is known, on which valve, and a sentence."""

    gap: GapKind
    found: Propagated
    how: str
    valve: str
    why: str


def _plain(figure: Figure, name: str) -> Propagated:
    return Propagated(figure.value, figure.spread, ((f"room:{name}", 1.0),), 1.0 if figure.basis is Basis.ESTIMATE else 0.0)


def tip_gap(numbers: Numbers) -> float:
    """Least gap (m) between the pad of a finger or rocker and the retainer's top, while it pushes the stem's tip.

    The pad of radius R stands `height` above the retainer at the tip; along the arm its surface rises by R - sqrt(R^2 - s^2) and, turned by
    the arm's angle w at full lift, falls by s tan(w). Least over s from 0 to where pad or retainer ends. Source: definition (geometry).
    """
    radius, reach = numbers["radius"], min(numbers["reach"], numbers["radius"] * 0.999)
    slope = math.tan(numbers["swing"])
    # d/ds (R - sqrt(R^2 - s^2) - s tan w) = 0 at s = R sin w
    s = min(radius * math.sin(math.atan(slope)), reach)
    return numbers["height"] - s * slope + radius - math.sqrt(radius**2 - s**2)


def follower_told(kind: EngineKind, lift: Figure, fit: FigureMap, follower: FigureMap, retainer: FigureMap) -> tuple[Propagated, str]:
    """The gap of whatever pushes the stem to the retainer (m) and how it is known: as told, from the pad's form, or a guess."""
    if "follower_gap" in fit:
        return _plain(fit["follower_gap"], "follower_gap"), "gauge"
    if "tip_height" in fit and kind.follower in (Follower.FINGER, Follower.ROCKER) and "tip_radius" in follower:
        arm = follower.get("valve_arm", estimate(32e-3, 0.2))
        half = retainer.get("outer_diameter", estimate(24e-3, 0.2))
        width = follower.get("tip_width", half)
        # the arm stands square to the stem at half lift, so that it leans by half the lift over its length at either end
        swing = Figure(math.atan(lift.value / 2.0 / arm.value), math.atan(lift.value / 2.0 / arm.value) * 0.1, arm.basis)
        reach = Figure(min(half.value, width.value) / 2.0, 0.0, width.basis)
        return propagate(
            tip_gap, {"height": fit["tip_height"], "radius": follower["tip_radius"], "reach": reach, "swing": swing}
        ), "computed"
    return _plain(estimate(1.2 * _MM, spread=0.9 * _MM), "follower_gap"), "estimate"


def _follower(kind: EngineKind, train: TrainSide, done: CompletedSide) -> tuple[Propagated, str, str]:
    why = "Whatever pushes the stem must push its tip alone; once it pushes the retainer, the keepers let go."
    return (*follower_told(kind, train.lift, done.fit, done.parts[Owner.FOLLOWER], done.parts[Owner.RETAINER]), why)


def nested_gap(numbers: Numbers) -> float:
    """Radial gap between two nested springs (m): inside of the outer less outside of the inner, halved. Source: definition."""
    return (numbers["outer_mean"] - numbers["outer_wire"] - numbers["inner_mean"] - numbers["inner_wire"]) / 2.0


def nested_told(springs: Sequence[PartRecord]) -> tuple[Propagated, str] | None:
    """The gap between nested springs (m) and how it is known; None for one spring, and for those that are meant to touch."""
    if len(springs) < 2 or springs[1].facts.get("nested", "") in ("interference", "damper"):
        return None
    outer, inner = springs[0].figures, springs[1].figures
    if all({"wire_diameter", "mean_diameter"} <= spring.keys() for spring in (outer, inner)):
        for spring in (outer, inner):
            spring_index(spring["wire_diameter"].value, spring["mean_diameter"].value)
        figures = {
            "outer_mean": outer["mean_diameter"], "outer_wire": outer["wire_diameter"],
            "inner_mean": inner["mean_diameter"], "inner_wire": inner["wire_diameter"],
        }  # fmt: skip
        return propagate(nested_gap, figures), "computed"
    return _plain(estimate(0.5 * _MM, spread=0.4 * _MM), "nested"), "estimate"


def pocket_told(fit: FigureMap, outer: FigureMap) -> tuple[Propagated, str] | None:
    """The gap of the outer spring to its pocket (m) and how it is known; None while either is not known."""
    if "spring_pocket" not in fit or not {"wire_diameter", "mean_diameter"} <= outer.keys():
        return None
    figures = {"pocket": fit["spring_pocket"], "mean": outer["mean_diameter"], "wire": outer["wire_diameter"]}
    return propagate(lambda x: (x["pocket"] - x["mean"] - x["wire"]) / 2.0, figures), "computed"


def _nested(done: CompletedSide) -> tuple[Propagated, str, str] | None:
    facts = (*done.spring_facts, {}, {})
    told = nested_told([PartRecord("", figures, facts[n]) for n, figures in enumerate(done.springs)])
    return (*told, "Nested springs that touch rub through one another's wire.") if told else None


def _spring_pocket(done: CompletedSide) -> tuple[Propagated, str, str] | None:
    told = pocket_told(done.fit, done.springs[0])
    return (*told, "A spring that swings against its pocket wears both, and throws chips into the oil.") if told else None


def _lobe_to_head(
    train: TrainSide, stock: TrainSide, done: CompletedSide, own: CompletedSide, told: FigureMap
) -> tuple[Propagated, str, str] | None:  # fmt: skip
    """As measured with the cam that is in; or from the stock cam's, less what the new lobe stands further out."""
    why = "A higher lobe may touch the casting, a cam carrier's rib or a head stud as it turns past."
    if "lobe_to_head" in told:  # told of this set-up; what the stock set-up's says is the stock cam's
        return _plain(told["lobe_to_head"], "lobe_to_head"), "gauge", why
    grown = train.lift.value - stock.lift.value
    bases = [figures.parts[Owner.CAM].get("base_diameter") for figures in (done, own)]
    if all(base is not None and base.basis is not Basis.ESTIMATE for base in bases):
        grown += sum(sign * base.value / 2.0 for sign, base in zip((1.0, -1.0), bases, strict=True) if base)
    if abs(grown) < 1e-6:
        return None  # the stock lobe clears its own head
    stock_gap = own.fit.get("lobe_to_head", estimate(2.5 * _MM, spread=1.5 * _MM))
    figures = {"stock": stock_gap, "grown": Figure(grown, 0.05 * _MM, Basis.CARD)}
    how = "computed" if "lobe_to_head" in own.fit else "estimate"
    return propagate(lambda x: x["stock"] - x["grown"], figures), how, why


def other_gaps(
    kind: EngineKind, train: TrainSide, stock: TrainSide, done: CompletedSide, own: CompletedSide, told: FigureMap,
    readings: tuple[GapReading, ...], nearer: float = 0.0,
) -> list[OtherGap]:  # fmt: skip
    """Every such gap of one side; what was read at a valve wins over what is computed. `own` is the stock side as completed,
    `told` the figures of fit that were told of this very set-up; the head came `nearer` (m) by surfacing or a thinner gasket."""
    found: list[OtherGap] = []

    def add(gap: GapKind, told: tuple[Propagated, str, str] | None) -> None:
        rows = [row for row in readings if row.gap is gap and row.side is train.side]
        if rows:
            worst = min(rows, key=lambda row: row.value)
            why = told[2] if told else "As read at the bench."
            found.append(OtherGap(gap, Propagated(worst.value, worst.spread, (), 0.0), worst.way.value, worst.valve, why))
        elif told:
            found.append(OtherGap(gap, *told[:2], "", told[2]))

    if kind.gear is not Gear.SIDE_VALVE:
        add(GapKind.FOLLOWER, _follower(kind, train, done))
    try:
        add(GapKind.NESTED, _nested(done))
    except OutOfRangeError as error:
        raise OutOfRangeError(f"{train.side.capitalize()} springs: {error.sentence}") from error
    add(GapKind.SPRING_POCKET, _spring_pocket(done))
    add(GapKind.LOBE_HEAD, _lobe_to_head(train, stock, done, own, told))
    if kind.gear is Gear.SIDE_VALVE:
        shut = done.fit.get("head_room", estimate(train.lift.value + 2.5 * _MM, spread=1.5 * _MM))
        shut = shut.plus(-nearer)
        figures: Mapping[str, Figure] = {"shut": shut, "lift": train.lift, "clearance": train.clearance}
        how = "gauge" if "head_room" in done.fit else "estimate"
        room = propagate(lambda x: x["shut"] - x["lift"] + x["clearance"], figures)
        add(GapKind.HEAD_ROOM, (room, how, "Open, a side valve stands under the cylinder head."))
    return found
