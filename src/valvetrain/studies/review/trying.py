"""A fix tried: the record as it would stand with it, so that everything is judged anew, and the figures that taking it would write."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import TypeVar

from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Figure
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.checks.check import Remedy
from valvetrain.studies.train.assembly import CompletedBuild

# Slots of a set-up's side, as they are told: springs outer first.
OUTER, INNER, RETAINER = "outer_spring", "inner_spring", "retainer"


_T = TypeVar("_T")


@dataclass(frozen=True)
class Change:
    """What a fix writes: figures of the goal, of how a side is fitted, and of the parts in its slots."""

    goal: Mapping[str, Figure] = field(default_factory=dict)
    fit: Mapping[str, Figure] = field(default_factory=dict)
    parts: Mapping[str, Mapping[str, Figure]] = field(default_factory=dict)


def change_of(remedy: Remedy, side: Side | None, record: BuildRecord, done: CompletedBuild) -> Change | None:
    """What taking the fix would write, SI; None where it is no figure of goal, fit or part that it changes (a cam timed otherwise, a pocket cut)."""
    amount = remedy.amount
    if remedy.action == "a lower goal":
        goal = {"goal_rpm": Figure(amount)}
        if "over_rev" in record.goal:
            goal["over_rev"] = Figure(min(record.goal["over_rev"].value, amount * (1.0 + done.goal.reserve)))
        return Change(goal=goal)
    if remedy.action == "less boost":
        return Change(goal={"boost": Figure(amount, done.goal.boost.spread, done.goal.boost.basis)})
    train = done.proposed.sides.get(side) if side else None
    if side is None or train is None:
        return None
    fit = {
        "more spring shim": ("spring_shim", train.spring_shim.plus(amount)),
        "less spring shim": ("spring_shim", train.spring_shim.plus(-amount)),
        "spring seat cut deeper": ("installed_height", train.installed_height.plus(amount)),
        "lower seal or guide": ("retainer_to_seal", train.retainer_to_seal.plus(amount)),
    }.get(remedy.action)
    if fit:
        # what is estimated from the height stays where it is: a seat cut deeper makes no other spring
        known = record.proposed[side]
        kept = {} if "installed_height" in known.fit or fit[0] == "retainer_to_seal" else {"installed_height": train.installed_height}
        springs = {} if fit[0] == "retainer_to_seal" else _springs(train, known, moved=fit[0] == "installed_height")
        return Change(fit={**kept, fit[0]: fit[1]}, parts=springs)
    if remedy.action == "lighter retainer":
        return Change(parts={RETAINER: {"mass": train.masses["retainer"].plus(-amount)}})
    if remedy.action == "springs with a lower solid height":
        return Change(parts=_springs(train, record.proposed[side], lower=amount))
    return Change(parts=_springs(train, record.proposed[side], push=amount)) if remedy.action == "stiffer springs at this height" else None


def _springs(
    train: TrainSide, known: SideRecord, *, push: float = 0.0, lower: float = 0.0, moved: bool = False
) -> dict[str, dict[str, Figure]]:
    """The line a catalogue would print of each spring wanted: its share of `push` (N) more force at the height at which its load is told, solid `lower`
    (m) lower. What was not known is told with it: left to be estimated anew it would move with the change. Where the seat is `moved` a force on the seat
    is told as one at its height."""
    total = sum(packed.spring.load.value for packed in train.springs)
    parts: dict[str, dict[str, Figure]] = {}
    for number, (slot, packed) in enumerate(zip((OUTER, INNER), train.springs, strict=False)):
        spring = packed.spring
        share = push * (spring.load.value / total if total > 0.0 else 1.0 / len(train.springs))
        figures = known.springs[number].figures if number < len(known.springs) else {}
        line = {"rate": spring.rate, "solid_height": spring.solid_height.plus(-lower), "mass": spring.mass}
        if "seat_load" in figures and not moved:
            line["seat_load"] = figures["seat_load"].plus(share)
        else:
            line |= {"load": spring.load.plus(share), "load_height": spring.load_height}
        line = {key: figure for key, figure in line.items() if key not in figures or figures[key].value != figure.value}
        if line:
            parts[slot] = line
    return parts


def still_told(own: Mapping[str, _T], figures: Mapping[str, Figure]) -> dict[str, _T]:
    """What stays of a part's own figures beside new ones: a load at a height takes the place of a force on the seat, the same thing told otherwise."""
    return {key: told for key, told in own.items() if not (key == "seat_load" and "load" in figures)}


def with_figures(part: PartRecord, figures: Mapping[str, Figure]) -> PartRecord:
    """The part with other figures."""
    return replace(part, figures={**still_told(part.figures, figures), **figures})


def tried(change: Change, side: Side | None, record: BuildRecord) -> BuildRecord:
    """The record with the change in its proposed set-up and its goal; the stock set-up is history and stays."""
    found = replace(record, goal={**record.goal, **change.goal})
    if side is None or not (change.fit or change.parts):
        return found
    own = record.proposed[side]
    springs = list(own.springs)
    for number, slot in enumerate((OUTER, INNER)):
        if slot in change.parts and number < len(springs):
            springs[number] = with_figures(springs[number], change.parts[slot])
    parts = dict(own.parts)
    if RETAINER in change.parts:
        parts[Owner.RETAINER] = with_figures(parts.get(Owner.RETAINER, PartRecord()), change.parts[RETAINER])
    own = replace(own, springs=tuple(springs), parts=parts, fit={**own.fit, **change.fit})
    return replace(found, proposed={**record.proposed, side: own})
