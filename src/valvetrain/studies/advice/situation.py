"""What the rules ask of a build: words and numbers of one side by name, in the units of the trade."""

from collections.abc import Mapping
from dataclasses import dataclass

from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side, Use
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.record import BuildRecord, PartRecord
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.advice.rules import Situation
from valvetrain.studies.checks.check import Check, CheckCode
from valvetrain.studies.head.areas import Breathing, SideAreas, breathing, ports_of
from valvetrain.studies.head.fuel import Blown, FuelAnswer, blow_through, fuel_answer
from valvetrain.studies.review.build import BuildReview
from valvetrain.studies.springs.mass_ledger import saving
from valvetrain.studies.train.assembly import CompletedBuild
from valvetrain.studies.train.side_figures import open_load, weakest
from valvetrain.units import QuantityKind, amount

_HOUR = 3600.0
_TITANIUM = 0.42  # of a steel retainer's mass that one of titanium saves (density, same form). Source: definition
_WAY = 30e-3  # m from the head to the guide along the stem. Source: judgement
# What shows the same word whatever the side's own parts are.
_PART_WORDS = (
    (Owner.VALVE, "material", "valve"), (Owner.VALVE, "stem", "stem"), (Owner.VALVE, "back", "back"), (Owner.VALVE, "back_cut", "back_cut"),
    (Owner.VALVE, "coat", "coat"), (Owner.VALVE, "origin", "origin"), (Owner.RETAINER, "material", "retainer"), (Owner.KEEPERS, "made_of", "keepers"),
    (Owner.FOLLOWER, "inside", "follower_inside"), (Owner.FOLLOWER, "treated", "follower_treated"), (Owner.FOLLOWER, "made_of", "follower_metal"),
    (Owner.CAM, "made_of", "cam"),
)  # fmt: skip


@dataclass(frozen=True)
class Findings:
    """What the rules rest on that is computed: fuel, areas, what blows through at the goal."""

    fuel: FuelAnswer
    breath: Breathing
    blown: Blown


def findings_of(record: BuildRecord, review: BuildReview) -> Findings:
    """The computed part, once for both sides."""
    done = review.completed
    fuel = fuel_answer(record, done)
    blown = blow_through(done, ports_of(record, done), done.goal.goal_rpm, fuel.charge.value)
    return Findings(fuel, breathing(record, done), blown)


def _known(figure: Figure | None) -> float | None:
    return figure.value if figure is not None and figure.basis is not Basis.ESTIMATE else None


def _check(review: BuildReview, code: CheckCode, side: Side) -> Check | None:
    return next((check for check in review.proposed.checks if check.code is code and check.side is side), None)


def _words_of_parts(record: BuildRecord, side: Side) -> dict[str, str]:
    parts = record.proposed[side].parts
    found = {name: parts.get(owner, PartRecord()).facts.get(fact, "") for owner, fact, name in _PART_WORDS}
    spring = record.proposed[side].springs[0]
    found["stock_valve"] = record.stock[side].parts.get(Owner.VALVE, PartRecord()).facts.get("material", "")
    found["cam_new"] = "yes" if parts.get(Owner.CAM) != record.stock[side].parts.get(Owner.CAM) else "no"
    found["spring_form"] = spring.facts.get("form", "") or "cylinder"
    found["spring_wire"] = spring.facts.get("wire", "") or "chrome-silicon"
    found["spring_nested"] = "yes" if len(record.proposed[side].springs) > 1 else "no"
    for fact in ("coat", "peened", "cold", "state"):
        found[f"spring_{fact}"] = spring.facts.get(fact, "")
    return found


def _words_of_engine(record: BuildRecord, side: Side) -> dict[str, str]:
    facts, goal = record.facts, record.goal_facts
    utility = "governed" in record.engine or facts.get("machine") == "governed" or record.use is Use.WORK
    phaser = any(f"phaser_{each}_{way}" in record.engine for each in Side for way in ("advance", "retard"))
    return {
        "side": side.value, "use": record.use.value, "air": goal.get("air", ""), "squish": goal.get("squish", ""), "cooling": facts.get("cooling", ""),
        "seats": facts.get(f"seats_{side}", ""), "guides": facts.get(f"guides_{side}", ""), "seat_cut": facts.get(f"seat_cut_{side}", ""),
        "seals": facts.get("seals", ""), "adjuster": record.kind.adjuster.value, "phaser": "yes" if phaser else "no", "utility": "yes" if utility else "no",
    }  # fmt: skip


def _numbers(record: BuildRecord, review: BuildReview, side: Side, found: Findings) -> dict[str, float | None]:
    done: CompletedBuild = review.completed
    train, stock = done.proposed.sides[side], done.stock.sides[side]
    areas: SideAreas = found.breath.proposed[side]
    opened, before = (open_load(each, weakest(each)).value for each in (train, stock))
    held = _check(review, CheckCode.FLOAT, side)
    valve, fit = done.proposed_sides[side].parts[Owner.VALVE], done.proposed_sides[side].fit
    angle = fit.get("seat_angle")
    goal = record.goal
    return {
        "boost_bar": done.goal.boost.value / 1e5,
        "goal_rpm": done.goal.goal_rpm * 60.0,
        "rpm_over_stock": done.goal.goal_rpm / done.engine["limiter"].value,
        "open_force": opened,
        "open_force_over_stock": opened / before if before > 0.0 else None,
        "float_in_hand": held.figure / held.limit - 1.0 if held else None,
        "z_index": found.breath.index.value,
        "throat_share": areas.above / areas.open_for if areas.open_for else None,
        "throat_over_head": fit["throat"].value / valve["head_diameter"].value if "throat" in fit else None,
        "blown_percent": 100.0 * found.blown.share,
        "seat_width_mm": _in_mm(_known(valve.get("seat_width"))),
        "margin_mm": _in_mm(_known(valve.get("margin"))),
        "head_grown_mm": (valve["head_diameter"].value - done.stock_sides[side].parts[Owner.VALVE]["head_diameter"].value) * 1e3,
        "seat_angle": 45.0 if angle is None else round(angle.value * 57.29577951308232),
        "altitude_m": goal["altitude"].value if "altitude" in goal else None,
        "passes": goal["passes"].value if "passes" in goal else None,
        "season_hours": goal["season_hours"].value / _HOUR if "season_hours" in goal else None,
        "interval_hours": goal["interval"].value / _HOUR if "interval" in goal else None,
    }


def _in_mm(value: float | None) -> float | None:
    return None if value is None else value * 1e3


def situation_of(record: BuildRecord, review: BuildReview, side: Side, found: Findings) -> Situation:
    """Everything that the rules may ask of one side; what nobody told is left out."""
    fuel = found.fuel
    words = _words_of_parts(record, side) | _words_of_engine(record, side)
    seat = _check(review, CheckCode.SEAT, side)
    words |= {
        "fuel": fuel.fuel.name, "fuel_changed": "yes" if fuel.fuel.name != fuel.made_for.name else "no", "borne": fuel.verdict.value,
        "contact": review.completed.proposed.sides[side].cam.drive.contact.value, "seat_held": seat.verdict.value if seat else "",
    }  # fmt: skip
    numbers = {name: value for name, value in _numbers(record, review, side, found).items() if value is not None}
    angle = numbers.pop("seat_angle")
    told: dict[str, str | float] = {name: word for name, word in words.items() if word}
    return told | numbers | {"seat_angle": f"{angle:.0f}"}


def heat_through_waist(valve: Mapping[str, Figure], stem: float) -> float:
    """Share of the heat that a stem (m across) thinned to its waist carries from the head to the guide: conduction through waist and full stem one after
    the other (closed form); over the whole way where nobody told how far it is thinned."""
    thin = min(valve["length_of_waist"].value / _WAY, 1.0) if "length_of_waist" in valve else 1.0
    return 1.0 / (1.0 + thin * ((stem / valve["waist"].value) ** 2 - 1.0))


def filled(record: BuildRecord, review: BuildReview, side: Side, found: Findings) -> dict[str, str]:
    """What stands in a rule's words for its braces; amounts in SI until they are told."""
    done = review.completed
    train: TrainSide = done.proposed.sides[side]
    fuel, areas = found.fuel, found.breath.proposed[side]
    valve = done.proposed_sides[side].parts[Owner.VALVE]
    own = record.proposed[side].parts.get(Owner.VALVE, PartRecord()).figures
    waist = ""
    if "waist" in own:
        share = heat_through_waist(own, valve["stem_diameter"].value)
        waist = f"The waist of this one lets {share:.0%} of the heat pass that the full stem would."
    gram = saving(done.stock.sides[side], train).per_gram
    lighter = _TITANIUM * train.masses[Owner.RETAINER.value].value
    held = _check(review, CheckCode.FLOAT, side)
    return {
        "waist": waist,
        "retainer_gain": f"here about {amount(lighter, QuantityKind.MASS)} each, worth {amount(lighter * 1e3 * gram, QuantityKind.SPEED)}",
        "in_hand": f"{held.figure / held.limit - 1.0:.0%}" if held else "some",
        "equal": (
            f"With boost and heat the {fuel.built.value:.1f} to 1 as built works like {fuel.equal.value:.1f} ±{fuel.equal.spread:.1f}, and {fuel.fuel.name} of "
            f"{fuel.octane.value:.0f} octane is good for {fuel.bears.value:.1f} ±{fuel.bears.spread:.1f}."
        ),
        "richer": f"{fuel.richer:.1f}",
        "blown": f"{abs(found.blown.share):.0%}",
        "thin": f"{1.0 - fuel.pressure_ratio:.0%}",
        "above": f"{areas.above / areas.open_for:.0%}" if areas.open_for else "none",
    }  # fmt: skip
