"""Where on the site a check, a fix or a measurement is seen to: the page, and the field on it that lights up."""

from typing import Any

from rocklash.answers.rows import side_rows
from rocklash.records.models import Build, SetupRole
from valvetrain.parts.gaps import GapKind
from valvetrain.studies.checks.check import Check, CheckCode, Remedy

_SPRING = {"rate": "rate", "load": "load", "load_height": "load_height", "solid": "solid_height", "active": "active_coils", "bend": "rate"}
_FIT = {"installed_height": "installed_height", "spring_shim": "spring_shim", "retainer_to_seal": "retainer_to_seal", "step": "inner_step"}
_GOAL = {"boost": "boost", "back": "back_pressure", "pulse": "pulse_factor", "vacuum": "back_pressure"}
_VALVE = {"head": "head_diameter", "seat": "seat_width", "stem": "stem_diameter"}
_FIXED_ON = {
    "a lower goal": ("goal", "goal-goal_rpm"), "less boost": ("goal", "goal-boost"), "an earlier change-over": ("cams", ""), "deeper pockets": ("room", ""), "a thicker gasket": ("room", ""),
    "the cam later": ("cam-timing", ""), "the cam earlier": ("cam-timing", ""), "less phaser range": ("cams", ""), "more clearance": ("lash", ""), "stiffer springs at this height": ("choose", ""),
    "springs with a lower solid height": ("choose", ""), "lighter retainer": ("choose", ""), "spring seat cut deeper": ("job-shop", ""), "lower seal or guide": ("job-shop", ""),
}  # fmt: skip


def _row(build: Build, side: str) -> Any:
    return side_rows(build).get((SetupRole.PROPOSED, side))


def _part(build: Build, side: str, slot: str, key: str) -> str:
    number = getattr(_row(build, side), f"{slot}_id", None)
    return f"part-{number}-{key}" if number else ""


def place_of_input(what: str, side: str, build: Build) -> tuple[str, str]:
    """Page and field of an input, by the name the core gives it."""
    head, _, rest = what.partition(":")
    if head == "mass":
        slot = "outer_spring" if rest.startswith("spring") else rest
        return "springs", _part(build, side, slot, "mass")
    if head == "goal":
        if rest in _VALVE:
            return "springs", _part(build, side, "valve", _VALVE[rest])
        return "goal", f"goal-seat_force_{side}" if rest == "wanted" else f"goal-{_GOAL.get(rest, 'boost')}"
    if head in ("room", "shake"):
        return ("room-measure" if head == "room" else "spring-speed"), ""
    stem = what.rstrip("0123456789").rstrip("_")
    if stem in _FIT:
        row = _row(build, side)
        return "springs", f"fit-{row.pk}-{_FIT[stem]}" if row else ""
    if stem in _SPRING:
        return "springs", _part(build, side, "inner_spring" if what.endswith("_1") else "outer_spring", _SPRING[stem])
    if what == "shape":
        return "wheel", ""
    return {"lift": ("cams", ""), "duration": ("cams", ""), "clearance": ("lash", ""), "stroke": ("engine", "engine-stroke")}.get(
        what, ("springs", "")
    )


def place_of_check(check: Check) -> tuple[str, str]:
    """The page on which a check is drawn and argued."""
    if check.code in (CheckCode.FLOAT, CheckCode.MOTION, CheckCode.LOW_FLOAT):
        return "spring-speed", ""
    if check.code is CheckCode.PISTON:
        return "goal", "goal-goal_rpm"
    if check.code in (CheckCode.SEAT, GapKind.RETAINER, GapKind.COIL_BIND):
        return "springs", ""
    if check.code is CheckCode.LIFTERS:
        return "engine", ""
    return ("room-over-rev" if check.code is CheckCode.AT_SPEED else "room"), ""


def place_of_fix(remedy: Remedy, side: str, build: Build) -> tuple[str, str]:
    """The page on which a fix is entered."""
    if remedy.action in _FIXED_ON:
        return _FIXED_ON[remedy.action]
    row = _row(build, side)
    return "springs", f"fit-{row.pk}-spring_shim" if row else ""
