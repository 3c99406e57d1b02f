"""One side valve by valve: seat loads, shims, recession and grams, from the rows."""

from dataclasses import dataclass

from rocklash.answers.results import BuildResult
from rocklash.records.models import Build
from valvetrain.errors import QuantityError
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.quantities import parse
from valvetrain.studies.springs.installed import SUNK, Recession, ValveHeight, plan_heights, recession
from valvetrain.studies.springs.mass_ledger import Saving, saving
from valvetrain.studies.train.estimates import blade_ratio
from valvetrain.studies.train.side_figures import seat_demand, weakest
from valvetrain.units import QuantityKind, UnitSystem

# Parts that are weighed valve by valve, by the place they have in a set-up.
WEIGHED = {"valve": Owner.VALVE, "retainer": Owner.RETAINER, "keepers": Owner.KEEPERS, "follower": Owner.FOLLOWER, "shim": Owner.SHIM}


@dataclass(frozen=True)
class ValvesAnswer:
    """Everything of one side valve by valve. `masses` (name, stock kg, proposed kg) a valve; `ratio` valve motion over blade motion."""

    wanted: float
    plan: tuple[ValveHeight, ...]
    recession: Recession
    ratio: float
    saving: Saving
    masses: tuple[tuple[str, float, float], ...]


def valves_answer(answer: BuildResult, side: Side, wanted: float | None) -> ValvesAnswer | None:
    """Plan the shims of a side to a seat load (N), or to what the goal needs; None when the figures contradict one another."""
    if answer.review is None:
        return None
    done = answer.review.completed
    stock, train = done.stock.sides[side], done.proposed.sides[side]
    stands = done.proposed_sides[side].stands
    shims = {name: stand.shim for name, stand in stands.items() if stand.shim is not None}
    load = wanted if wanted is not None else seat_demand(train, done.goal).needed.value
    # the stands' own shims are in each valve's deviation already; the plan begins from the bare height
    ratio = blade_ratio(answer.record.kind, done.engine).value
    masses = tuple((name, stock.masses[name].value, figure.value) for name, figure in train.masses.items())
    return ValvesAnswer(
        load,
        plan_heights(train, done.goal, load, shims),
        recession(train, weakest(train), SUNK, ratio),
        ratio,
        saving(stock, train),
        masses,
    )


def planned_shims(build: Build, found: ValvesAnswer) -> dict[int, float]:
    """The planned shim (m) of each valve by its position's number."""
    numbers = {place.name: place.pk for place in build.engine.positions.all()}
    return {numbers[each.place.name]: each.shim_next for each in found.plan}


def length_asked(text: str, system: UnitSystem) -> float | None:
    """The length (m) that an address asks for; None for nothing, or for what is no length of a spring."""
    try:
        value = parse(text, QuantityKind.LENGTH, system).value
    except QuantityError:
        return None
    return value if 5e-3 <= value <= 0.2 else None


def load_asked(text: str, system: UnitSystem) -> float | None:
    """The seat load (N) that an address asks for; None for nothing, or for what is no force."""
    try:
        return parse(text, QuantityKind.FORCE, system).value or None
    except QuantityError:
        return None
