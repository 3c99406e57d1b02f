"""The Engine station as view-models."""

from dataclasses import dataclass

from rocklash.answers.clearances import clearance_keys
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import kind_of
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.records.models import Build
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import LEVERS, Adjuster
from valvetrain.quantities import plain
from valvetrain.units import QuantityKind, UnitSystem, unit_symbol

_WORDS = {
    "dohc": "DOHC", "ohc": "OHC", "push_rod": "push-rod", "side_valve": "side valve", "bucket": "bucket", "finger": "finger follower",
    "rocker": "rocker", "tappet": "tappet", "shim_under": "shim under bucket", "shim_over": "shim over bucket", "shim_on_stem": "shim on the stem tip", "graded_bucket": "graded buckets",
    "screw": "adjusting screw", "lash_cap": "lash cap", "stem_grind": "stem ground to length", "hydraulic": "hydraulic",
}  # fmt: skip
_LAYOUT = {1: "single", 2: "twin", 3: "triple", 4: "four"}


@dataclass(frozen=True, kw_only=True)
class ValveError:
    """Why a valve's height was not kept, and what was typed."""

    valve: int
    text: str
    sentence: str


@dataclass(frozen=True)
class ValveRow:
    """A valve position with its height."""

    pk: int
    name: str
    side: str
    value: str
    seen: str
    error: str
    unit: str


@dataclass(frozen=True, kw_only=True)
class EnginePage:
    """Everything the Engine station prints."""

    make_up: list[tuple[str, str]]
    geometry: list[FieldView]
    life: list[FieldView]
    clearance: list[FieldView]
    valves: list[ValveRow]


def detail_keys(build: Build) -> tuple[str, ...]:
    """Words that tell this gear more closely, as far as it can differ."""
    engine, keys = build.engine, ["machine"]
    if engine.adjuster == Adjuster.SCREW:
        keys.insert(0, "caps")
    if engine.follower in LEVERS and engine.valves_per_side > 1:
        keys[:0] = ["lobe_intake", "lobe_exhaust"]
    return tuple(keys)


def engine_page(answer: BuildResult, build: Build, system: UnitSystem, trouble: FieldError | None, wrong: ValveError | None) -> EnginePage:
    """View-model of the station."""
    engine = build.engine
    completed = answer.review.completed.engine if answer.review else None

    def fields(keys: list[str]) -> list[FieldView]:
        return field_views("engine", Owner.ENGINE, keys, engine.figures, completed, system, trouble)

    total = engine.cylinders * engine.valves_per_side * 2
    make_up = [
        ("Layout", f"{_LAYOUT.get(engine.cylinders, engine.cylinders)}, {total} valves"),
        ("Valve gear", _WORDS[engine.gear]),
        ("Follower", _WORDS[engine.follower]),
        ("Clearance by", _WORDS[engine.adjuster]),
        ("Camshafts", "one, with the lobes of both sides" if kind_of(engine).one_camshaft else "one a side"),
    ]
    valves = [
        ValveRow(
            row.pk, row.name, row.side,
            wrong.text if wrong and wrong.valve == row.pk else (plain(row.deviation, QuantityKind.LENGTH, system) if row.deviation else ""),
            f"{row.deviation:.7f}",
            wrong.sentence if wrong and wrong.valve == row.pk else "",
            unit_symbol(QuantityKind.LENGTH, system),
        )
        for row in engine.positions.all()
    ]  # fmt: skip
    return EnginePage(
        make_up=make_up,
        geometry=fields(["bore", "stroke", "rod_length", "compression"]),
        life=fields(["idle", "peak", "limiter"]),
        clearance=fields(clearance_keys(engine.adjuster, engine.follower)),
        valves=valves,
    )
