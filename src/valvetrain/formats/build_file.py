"""The build file: open, versioned JSON with a JSON Schema. A figure is `{"value": 37.2, "unit": "mm", "basis": "measured"}`.

Unknown figures are left out; reading fills nothing in, the studies estimate. Writing gives metric shop units.
"""

import json
import math
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from valvetrain.errors import BuildFileError, ContradictionError, OutOfRangeError, QuantityError
from valvetrain.formats.lobe_document import LobeDocument
from valvetrain.formats.lobe_document import document as lobe_document
from valvetrain.parts.catalogue import FACTS, FIGURES, FigureKind, Owner, usual_spread
from valvetrain.parts.engine import FITTING, Adjuster, Follower, Gear, Side, Use, ValvePosition, kind_told
from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.parts.flow import FlowTest
from valvetrain.parts.gaps import WAY_SPREAD, GapKind, GapReading, Way, check_reading
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord, ValveStand
from valvetrain.quantities import from_unit, in_unit
from valvetrain.units import QuantityKind, UnitSystem, shown_unit

FORMAT = "rocklash.build/1"
PRACTICE = "practice"  # `yes` on a copy whose readings may be simulated: it stays marked wherever the file goes
_NOW_OF_THE_GOAL = frozenset({"altitude"})
ENGINE_WORDS = frozenset({"firing", "lash_note", "shim_shape", PRACTICE})  # free words of an engine, beside its facts
_ANY_SIZE = 2_000_000  # characters; a build of 32 valves is about 60,000


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


class FigureDocument(_Strict):
    """One figure. `spread` is in the same unit, k = 2; without it the spread usual for the basis is taken."""

    value: float
    unit: str = ""
    spread: Annotated[float, Field(ge=0)] | None = None
    basis: Basis = Basis.CARD


Figures = dict[str, FigureDocument]


class PartDocument(_Strict):
    """A part by name with what is known of it; `facts` are words the catalogue knows, `lobe` a cam point by point."""

    name: str = ""
    figures: Figures = {}
    facts: dict[str, str] = {}
    lobe: LobeDocument | None = None


class StandDocument(_Strict):
    """One valve's springs as found: height shut without shim, and the shim under them."""

    height: FigureDocument | None = None
    shim: FigureDocument | None = None


class SideDocument(_Strict):
    """One side of a set-up. `springs` outer first; `stands` by the valve's name."""

    cam: PartDocument = PartDocument()
    valve: PartDocument = PartDocument()
    retainer: PartDocument = PartDocument()
    keepers: PartDocument = PartDocument()
    follower: PartDocument = PartDocument()
    shim: PartDocument = PartDocument()
    low_cam: PartDocument | None = None
    springs: Annotated[list[PartDocument], Field(min_length=1, max_length=3)] = [PartDocument()]
    fit: Figures = {}
    stands: dict[str, StandDocument] = {}


class SetupDocument(_Strict):
    """The parts of both sides."""

    intake: SideDocument = SideDocument()
    exhaust: SideDocument = SideDocument()


class EngineDocument(_Strict):
    """Make-up and figures of the engine."""

    cylinders: Annotated[int, Field(ge=1, le=8)]
    valves_per_side: Annotated[int, Field(ge=1, le=3)] = 2
    gear: Gear
    follower: Follower
    adjuster: Adjuster
    figures: Figures = {}
    facts: dict[str, str] = {}


class ValveDocument(_Strict):
    """Where a valve sits; `deviation` is how much higher than its side's figure the spring stands."""

    name: str
    side: Side
    cylinder: Annotated[int, Field(ge=1, le=8)]
    deviation: FigureDocument | None = None


class GapDocument(_Strict):
    """A gap measured on one valve; `angle` in crank degrees from overlap TDC, `rest` the piston gap with valve shut and piston up."""

    gap: GapKind
    side: Side
    valve: str
    way: Way
    value: FigureDocument
    angle: float | None = None
    rest: FigureDocument | None = None


class FlowRow(_Strict):
    """One reading of a flow bench."""

    lift_mm: float
    litres_per_second: float


class FlowDocument(_Strict):
    """A port on the flow bench, at a depression in kPa; `state` is `stock` or `now`."""

    side: Side
    state: Literal["stock", "now"]
    depression_kpa: float
    valves: Annotated[int, Field(ge=1, le=3)] = 1
    name: str = ""
    rows: Annotated[list[FlowRow], Field(min_length=2, max_length=200)]

    def test(self) -> FlowTest:
        """The flow test. Raises OutOfRangeError for figures no bench gives."""
        lifts, flows = zip(*((row.lift_mm * 1e-3, row.litres_per_second * 1e-3) for row in self.rows), strict=True)
        return FlowTest(self.side, self.state, self.depression_kpa * 1e3, lifts, flows, self.valves, self.name)


class BuildDocument(_Strict):
    """A whole build file."""

    format: Literal["rocklash.build/1"]
    name: str
    use: Use = Use.STREET
    engine: EngineDocument
    goal: Figures = {}
    goal_facts: dict[str, str] = {}
    valves: list[ValveDocument] = []
    stock: SetupDocument = SetupDocument()
    proposed: SetupDocument | None = None
    gaps: list[GapDocument] = []
    flows: list[FlowDocument] = []


def schema() -> dict[str, object]:
    """The JSON Schema (draft 2020-12) of the build file."""
    return BuildDocument.model_json_schema() | {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": FORMAT}


def _figure(document: FigureDocument, kind: FigureKind, where: str) -> Figure:
    try:
        unit = document.unit or shown_unit(kind.kind, UnitSystem.METRIC)
        value = from_unit(document.value, kind.kind, unit)
        kind.check(value)
        zero = from_unit(0.0, kind.kind, unit)
        spread = None if document.spread is None else from_unit(document.spread, kind.kind, unit) - zero
    except QuantityError as error:
        raise BuildFileError(f"{where}.{kind.key}: {error.sentence}") from error
    return Figure(value, usual_spread(kind, value, document.basis) if spread is None else spread, document.basis)


def _figures(documents: Figures, owner: Owner, where: str) -> FigureMap:
    found = {}
    for key, document in documents.items():
        kind = FIGURES.get((owner, key))
        if kind is None:
            known = ", ".join(name for place, name in FIGURES if place is owner)
            raise BuildFileError(f"{where}.{key} is not a figure of {owner}. Known are: {known}.")
        found[key] = _figure(document, kind, where)
    return found


_PARTS = (Owner.CAM, Owner.VALVE, Owner.RETAINER, Owner.KEEPERS, Owner.FOLLOWER, Owner.SHIM)


def _check_facts(facts: dict[str, str], owner: Owner, where: str) -> None:
    for key, word in facts.items():
        if owner is Owner.ENGINE and key in ENGINE_WORDS:
            continue
        fact = FACTS.get((owner, key))
        if fact is None or word not in fact.choices:
            choices = ", ".join(
                f"{name}: {' | '.join(filter(None, row.choices))}" for (place, name), row in FACTS.items() if place is owner
            )
            raise BuildFileError(f"{where}.{key}: “{word}” is not known of {owner}. Known are {choices or 'none'}.")


def _part(document: PartDocument, owner: Owner, where: str) -> PartRecord:
    _check_facts(document.facts, owner, f"{where}.facts")
    lobe = None
    if document.lobe:
        try:
            lobe = document.lobe.lobe()
        except OutOfRangeError as error:
            raise BuildFileError(f"{where}.lobe: {error.sentence}") from error
    return PartRecord(document.name, _figures(document.figures, owner, where), document.facts, lobe)


def _side(document: SideDocument, where: str) -> SideRecord:
    given = {owner: _part(getattr(document, owner.value), owner, f"{where}.{owner}") for owner in _PARTS}
    return SideRecord(
        parts={owner: part for owner, part in given.items() if part.name or part.figures or part.facts or part.lobe},
        springs=tuple(_part(spring, Owner.SPRING, f"{where}.springs[{n}]") for n, spring in enumerate(document.springs)),
        fit=_figures(document.fit, Owner.FIT, f"{where}.fit"),
        low_cam=_part(document.low_cam, Owner.CAM, f"{where}.low_cam") if document.low_cam else None,
        stands={name: _stand(stand, f"{where}.stands.{name}") for name, stand in document.stands.items()},
    )


def _stand(document: StandDocument, where: str) -> ValveStand:
    def read_one(figure: FigureDocument | None, key: str) -> float | None:
        return None if figure is None else _figure(figure, FIGURES[Owner.FIT, key], where).value

    return ValveStand(read_one(document.height, "installed_height"), read_one(document.shim, "spring_shim"))


def _gap(document: GapDocument, number: int) -> GapReading:
    def metres(figure: FigureDocument) -> float:
        try:
            return from_unit(figure.value, QuantityKind.LENGTH, figure.unit or "mm")
        except QuantityError as error:
            raise BuildFileError(f"gaps[{number}]: {error.sentence}") from error

    value, spread = metres(document.value), document.value.spread
    wide = WAY_SPREAD[document.way] if spread is None else metres(FigureDocument(value=spread, unit=document.value.unit))
    angle = None if document.angle is None else math.radians(document.angle)
    rest = None if document.rest is None else metres(document.rest)
    try:
        check_reading(document.gap, value, angle)
    except ContradictionError as error:
        raise BuildFileError(f"gaps[{number}]: {error.sentence}") from error
    return GapReading(document.gap, document.side, document.valve, document.way, value, wide, angle, rest)


def _position(document: ValveDocument, number: int) -> ValvePosition:
    deviation = 0.0
    if document.deviation:
        try:
            deviation = from_unit(document.deviation.value, QuantityKind.LENGTH, document.deviation.unit or "mm")
        except QuantityError as error:
            raise BuildFileError(f"valves[{number}].deviation: {error.sentence}") from error
    return ValvePosition(document.name, document.side, document.cylinder, deviation)


def _flow(document: FlowDocument, number: int) -> FlowTest:
    try:
        return document.test()
    except OutOfRangeError as error:
        raise BuildFileError(f"flows[{number}]: {error.sentence}") from error


def flow_document(test: FlowTest) -> FlowDocument:
    """The form of a flow test in files and records."""
    rows = [
        FlowRow(lift_mm=_rounded(lift * 1e3), litres_per_second=_rounded(flow * 1e3))
        for lift, flow in zip(test.lifts, test.flows, strict=True)
    ]
    state: Literal["stock", "now"] = "stock" if test.state == "stock" else "now"
    return FlowDocument(
        side=test.side, state=state, depression_kpa=_rounded(test.depression / 1e3), valves=test.valves, name=test.name, rows=rows
    )


def _moved(document: BuildDocument) -> tuple[Figures, Figures]:
    """Engine and goal figures: what files of before told of the engine and belongs to the goal now is taken there."""
    engine, goal = dict(document.engine.figures), dict(document.goal)
    for key in _NOW_OF_THE_GOAL & engine.keys():
        goal.setdefault(key, engine[key])
        del engine[key]
    return engine, goal


def read(text: str) -> BuildRecord:
    """Build record from the text of a build file. Raises BuildFileError naming place and trouble."""
    if len(text) > _ANY_SIZE:
        raise BuildFileError("This file is far too large to be a build file.")
    try:
        document = BuildDocument.model_validate(json.loads(text))
    except json.JSONDecodeError as error:
        raise BuildFileError(f"This is not JSON: line {error.lineno}, column {error.colno}: {error.msg}.") from error
    except RecursionError as error:
        raise BuildFileError("This is nested too deeply to be a build file.") from error
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        where = ".".join(str(step) for step in first["loc"]) or "the file"
        raise BuildFileError(f"{where}: {first['msg']}.") from error
    engine = document.engine
    followers, adjusters = FITTING[engine.gear]
    if engine.follower not in followers or engine.adjuster not in adjusters:
        fit = f"followers {', '.join(followers)}; adjusters {', '.join(adjusters)}"
        raise BuildFileError(f"engine: {engine.follower} with {engine.adjuster} does not go with {engine.gear}. It takes {fit}.")
    proposed = document.proposed or document.stock
    _check_facts(engine.facts, Owner.ENGINE, "engine.facts")
    _check_facts(document.goal_facts, Owner.GOAL, "goal_facts")
    engine_figures, goal_figures = _moved(document)
    return BuildRecord(
        name=document.name,
        kind=kind_told(engine.cylinders, engine.valves_per_side, engine.gear, engine.follower, engine.adjuster, engine.facts),
        engine=_figures(engine_figures, Owner.ENGINE, "engine.figures"),
        goal=_figures(goal_figures, Owner.GOAL, "goal"),
        use=document.use,
        positions=tuple(_position(valve, number) for number, valve in enumerate(document.valves)),
        stock={side: _side(getattr(document.stock, side.value), f"stock.{side}") for side in Side},
        proposed={side: _side(getattr(proposed, side.value), f"proposed.{side}") for side in Side},
        facts=engine.facts,
        gaps=tuple(_gap(gap, number) for number, gap in enumerate(document.gaps)),
        goal_facts=document.goal_facts,
        flows=tuple(_flow(flow, number) for number, flow in enumerate(document.flows)),
    )


def _rounded(value: float) -> float:
    return float(f"{value:.9g}")


def _dump_figures(figures: FigureMap, owner: Owner) -> Figures:
    dumped = {}
    for key, figure in figures.items():
        kind = FIGURES[owner, key].kind
        unit = shown_unit(kind, UnitSystem.METRIC)
        value, zero = in_unit(figure.value, kind, unit), in_unit(0.0, kind, unit)
        spread = in_unit(figure.spread, kind, unit) - zero
        dumped[key] = FigureDocument(value=_rounded(value), unit=unit, spread=_rounded(spread), basis=figure.basis)
    return dumped


def _dump_part(part: PartRecord, owner: Owner) -> PartDocument:
    lobe = lobe_document(part.lobe) if part.lobe else None
    return PartDocument(name=part.name, figures=_dump_figures(part.figures, owner), facts=dict(part.facts), lobe=lobe)


def _dump_side(record: SideRecord) -> SideDocument:
    parts = {owner.value: _dump_part(part, owner) for owner, part in record.parts.items()}
    springs = [_dump_part(part, Owner.SPRING) for part in record.springs]
    low = _dump_part(record.low_cam, Owner.CAM) if record.low_cam else None
    stands = {
        name: StandDocument(height=_millimetres(stand.height), shim=_millimetres(stand.shim)) for name, stand in record.stands.items()
    }
    return SideDocument(**parts, springs=springs, fit=_dump_figures(record.fit, Owner.FIT), low_cam=low, stands=stands)


def _millimetres(value: float | None) -> FigureDocument | None:
    return None if value is None else FigureDocument(value=_rounded(value * 1000.0), unit="mm", basis=Basis.MEASURED)


def _dump_gap(gap: GapReading) -> GapDocument:
    value = FigureDocument(value=_rounded(gap.value * 1e3), unit="mm", spread=_rounded(gap.spread * 1e3), basis=Basis.MEASURED)
    angle = None if gap.angle is None else _rounded(math.degrees(gap.angle))
    return GapDocument(gap=gap.gap, side=gap.side, valve=gap.valve, way=gap.way, value=value, angle=angle, rest=_millimetres(gap.rest))


def write(record: BuildRecord) -> str:
    """Text of the build file of a record; `read(write(r)) == r` but for rounding to nine digits."""
    kind = record.kind
    valves = [
        ValveDocument(
            name=place.name,
            side=place.side,
            cylinder=place.cylinder,
            deviation=FigureDocument(value=_rounded(place.deviation * 1000.0), unit="mm", basis=Basis.MEASURED)
            if place.deviation
            else None,
        )
        for place in record.positions
    ]
    document = BuildDocument(
        format=FORMAT,
        name=record.name,
        use=record.use,
        engine=EngineDocument(
            cylinders=kind.cylinders,
            valves_per_side=kind.valves_per_side,
            gear=kind.gear,
            follower=kind.follower,
            adjuster=kind.adjuster,
            figures=_dump_figures(record.engine, Owner.ENGINE),
            facts=dict(record.facts),
        ),
        goal=_dump_figures(record.goal, Owner.GOAL),
        valves=valves,
        stock=SetupDocument(**{side.value: _dump_side(record.stock[side]) for side in Side}),
        proposed=SetupDocument(**{side.value: _dump_side(record.proposed[side]) for side in Side}),
        gaps=[_dump_gap(gap) for gap in record.gaps],
        goal_facts=dict(record.goal_facts),
        flows=[flow_document(test) for test in record.flows],
    )
    return document.model_dump_json(indent=1, exclude_none=True) + "\n"
