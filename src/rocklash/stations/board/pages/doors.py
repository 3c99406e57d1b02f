"""What brings an engine in: six doors, each to the page where that work begins."""

from dataclasses import dataclass
from typing import Any, Final

from django.urls import reverse

from rocklash.answers.rows import side_rows
from rocklash.records.models import Build, Membership, SetupRole
from valvetrain.parts.beginnings import BEGINNINGS
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Side, Use
from valvetrain.units import UnitSystem, show, told
from valvetrain.wording.uses import use_sets

# How the figures that a beginning may fill are told in its fields.
_OF = {"bore": Owner.ENGINE, "stroke": Owner.ENGINE, "limiter": Owner.ENGINE, "goal_rpm": Owner.GOAL, "boost": Owner.GOAL}


@dataclass(frozen=True)
class Door:
    """One thing that brings an engine in; `view` is where it leads, `part` the stock part of the intake side whose page that is."""

    key: str
    name: str
    line: str
    button: str
    view: str
    part: str = ""

    def url(self, member: Membership, build: Build) -> str:
        """The page for a build (with its parts, as `with_parts` reads it)."""
        numbers = [build.pk]
        if self.part:
            numbers.append(getattr(side_rows(build)[SetupRole.STOCK, Side.INTAKE.value], f"{self.part}_id"))
        return reverse(self.view, args=[member.workshop.slug, *numbers])


DOORS: Final[dict[str, Door]] = {
    door.key: door
    for door in (
        Door("raise", "Raise rpm or boost", "what limits it first", "To the first verdict", "overview"),
        Door("clearances", "Set clearances", "blades, shims, screws", "To its clearances", "lash"),
        Door("missed", "Missed a shift", "look before the crank is turned", "To what it may have hurt", "room-over-rev"),
        Door("spring", "Test a spring", "two heights, two loads", "To the spring tester", "spring", "outer_spring"),
        Door("cam", "Measure a cam", "degree wheel or caliper", "To measuring its cam", "lobe", "cam"),
        Door("compression", "Test compression", "gauge or leak-down", "To its cylinders", "proof-cylinders"),
    )
}


def door_of(key: str) -> Door:
    """The door by its key, or the first."""
    return DOORS.get(key, DOORS["raise"])


def fills(system: UnitSystem) -> dict[str, dict[str, str]]:
    """What each plausible engine writes into the form, by its fields' names, in the reader's units."""
    found = {}
    for key, each in BEGINNINGS.items():
        kind = each.kind
        words = {
            "cylinders": str(kind.cylinders), "gear": kind.gear.value, "valves_per_side": str(kind.valves_per_side),
            "follower": kind.follower.value, "adjuster": kind.adjuster.value, "use": each.use.value,
        }  # fmt: skip
        numbers = {
            name: show(each.figures[name], FIGURES[owner, name].kind, system) if name in each.figures else "" for name, owner in _OF.items()
        }
        found[key] = words | numbers
    return found


def uses_told(words: dict[str, str], system: UnitSystem) -> list[dict[str, Any]]:
    """Each use with the limits it sets."""
    return [{"key": use.value, "name": words[use.value], "sets": told(use_sets(use), system)} for use in Use]
