"""What the gaps follow from, and the readings, as view-models."""

import math
from dataclasses import dataclass

from django.utils.timezone import localtime

from rocklash.answers.gaps import clay_words
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import changes_of, side_rows
from rocklash.answers.side_numbers import completed_side
from rocklash.answers.stale import Stale, stale_gaps
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.records.models import Build, GapReading, SetupRole
from valvetrain.parts.catalogue import FACTS, Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.gaps import GapKind
from valvetrain.studies.train.head_change import head_change
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol
from valvetrain.wording import told
from valvetrain.wording.head import head_words

_PISTON_KEYS = ("bore", "stroke", "rod_length", "compression", "gasket", "deck", "pin_offset")
_SIDE_KEYS = (
    "valve_angle", "head_height", "pocket_depth", "pocket_angle", "pocket_diameter", "pocket_offset", "valve_offset", "valve_spread",
)  # fmt: skip
_HEAD_KEYS = ("face_off", "gasket_new", "chamber_share", "cam_chain_pitch", "cam_distance")
_ROD_KEYS = ("piston_mass", "rod_small_end", "rod_section", "bearing_play", "sprocket_teeth")
_LIMITS = (
    "piston_gap_limit_intake", "piston_gap_limit_exhaust", "pocket_rim_limit", "valve_valve_limit", "valve_bore_limit", "coil_bind_limit",
    "retainer_limit", "follower_limit", "nested_limit", "spring_pocket_limit", "lobe_head_limit", "head_room_limit", "gap_at_speed_limit",
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class ReadingRow:
    """One reading as kept."""

    pk: int
    valve: str
    gap: str
    way: str
    figure: str
    at: str
    rest: str
    by: str
    stale: str
    void: bool


@dataclass(frozen=True, kw_only=True)
class MeasurePage:
    """Everything the page prints."""

    piston: list[FieldView]
    sides: list[tuple[str, list[FieldView]]]
    fits: list[tuple[str, list[FieldView]]]
    rod: list[FieldView]
    limits: list[FieldView]
    rods: list[tuple[str, str, bool]]
    rods_seen: str
    readings: list[ReadingRow]
    notes: tuple[str, ...]
    clay: str
    head: list[FieldView]
    head_words: list[str]


def _reading(row: GapReading, stale: Stale | None, system: UnitSystem) -> ReadingRow:
    unit = unit_symbol(QuantityKind.LENGTH, system)
    at = "" if row.angle is None else f"{math.degrees(row.angle):.0f}°".replace("-", "\N{MINUS SIGN}")
    rest = "" if row.rest is None else show(row.rest, QuantityKind.LENGTH, system)
    return ReadingRow(
        pk=row.pk, valve=row.position.name, gap=GapKind(row.gap).words, way=row.way, figure=f"{show(row.value, QuantityKind.LENGTH, system)} {unit}", at=at, rest=rest,
        by=f"{row.by or 'from a file'}, {localtime(row.at):%d %b}", stale=stale.reason if stale else "", void=bool(stale and stale.void),
    )  # fmt: skip


def _head_words(answer: BuildResult, system: UnitSystem) -> list[str]:
    change = head_change(answer.record.kind, answer.review.completed.engine) if answer.review else None
    return [told(said, system) for said in head_words(change)] if change else []


def measure_page(
    answer: BuildResult, build: Build, readings: list[GapReading], system: UnitSystem, trouble: FieldError | None
) -> MeasurePage:
    """View-model of the page; fields stay usable when the figures contradict one another."""
    room = answer.review.room.geometry.figures if answer.review else None
    goal = answer.review.completed.goal_figures if answer.review else None

    def engine(keys: tuple[str, ...] | list[str]) -> list[FieldView]:
        return field_views("engine", Owner.ENGINE, list(keys), build.engine.figures, room, system, trouble)

    rows, fits = side_rows(build), []
    stale = stale_gaps(changes_of(build), readings) if readings else {}
    side_valve = build.engine.gear == "side_valve"
    for side in Side:
        row = rows[SetupRole.PROPOSED, side.value]
        keys = ["head_room"] if side_valve else ["follower_gap", "tip_height", "lobe_to_head", "spring_pocket", "retainer_to_seal"]
        if side_valve:
            keys += ["lobe_to_head", "spring_pocket"]
        elif build.engine.follower == "bucket":
            keys.remove("tip_height")
        done = completed_side(answer, "proposed", side).fit if answer.review else None
        fits.append((side.value, field_views(f"fit-{row.pk}", Owner.FIT, keys, row.figures, done, system, trouble)))
    word, fact = build.engine.facts.get("rods", ""), FACTS[Owner.ENGINE, "rods"]
    limits = [
        key
        for key in _LIMITS
        if (key == "head_room_limit") == side_valve or not key.startswith(("head_room", "piston_gap", "pocket_rim", "valve_"))
    ]
    return MeasurePage(
        piston=engine(_PISTON_KEYS),
        sides=[] if side_valve else [(side.value, engine([f"{key}_{side}" for key in _SIDE_KEYS])) for side in Side],
        fits=fits,
        rod=engine(_ROD_KEYS),
        limits=field_views("goal", Owner.GOAL, limits, build.figures, goal, system, trouble),
        rods=[(value, words, value == word) for value, words in fact.choices.items()],
        rods_seen=word,
        readings=[_reading(row, stale.get(row.pk), system) for row in readings],
        head=engine(_HEAD_KEYS if not side_valve else _HEAD_KEYS[:2]),
        clay=clay_words(answer, system),
        head_words=_head_words(answer, system),
        notes=tuple(told(note, system) for note in answer.review.room.notes) if answer.review else (),
    )
