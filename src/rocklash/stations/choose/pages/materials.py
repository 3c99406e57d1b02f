"""Advice on materials, form and treatment as view-models, and what is still to be told for it."""

from dataclasses import dataclass
from itertools import groupby

from rocklash.answers.advice import advice_of
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import side_rows
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.desk.words import FactView, engine_facts, fact_views, goal_facts
from rocklash.records.models import Build, Part, SetupRole
from valvetrain import wording
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.studies.advice.advice import Advised
from valvetrain.studies.advice.rules import TOPICS
from valvetrain.units import UnitSystem

# What the rules ask of each kind of part.
_ASKED: dict[str, tuple[Owner, tuple[str, ...]]] = {
    "valve": (Owner.VALVE, ("material", "stem", "back", "back_cut", "coat", "origin")), "outer_spring": (Owner.SPRING, ("form", "coat", "peened", "cold", "state")),
    "retainer": (Owner.RETAINER, ("material",)), "keepers": (Owner.KEEPERS, ("made_of",)), "follower": (Owner.FOLLOWER, ("made_of", "inside", "treated")),
    "cam": (Owner.CAM, ("made_of",)),
}  # fmt: skip
_WAIST = ["waist", "length_of_waist"]


@dataclass(frozen=True, kw_only=True)
class AdviceLine:
    """One piece of advice as it reads."""

    id: str
    sides: str
    advice: str
    because: str
    elsewhere: str
    caution: str
    basis: str


@dataclass(frozen=True, kw_only=True)
class TopicGroup:
    """Advice of one topic."""

    name: str
    lines: list[AdviceLine]


@dataclass(frozen=True, kw_only=True)
class AskedOf:
    """Words and figures that one part is asked for."""

    name: str
    facts: list[FactView]
    fields: list[FieldView]


@dataclass(frozen=True, kw_only=True)
class MaterialsPage:
    """Everything the page prints."""

    trouble: str
    count: int
    groups: list[TopicGroup]
    schools: list[tuple[str, str, str, str]]
    claims: list[tuple[str, str, str, str]]
    asked: list[AskedOf]
    untold: int


def _line(each: Advised, system: UnitSystem) -> AdviceLine:
    rule = each.rule
    told = lambda text: wording.told(text, system)
    return AdviceLine(
        id=rule.id, sides="" if len(each.sides) == len(Side) else each.sides[0].value, advice=told(each.advice), because=told(each.because),
        elsewhere=told(each.elsewhere), caution=told(each.caution), basis=rule.basis,
    )  # fmt: skip


def _parts(build: Build, system: UnitSystem, wrong: FieldError | None) -> list[AskedOf]:
    """What is asked of each part of the proposed set-up; a part that both sides use is asked once."""
    rows, seen = side_rows(build), dict[int, list[str]]()
    places: dict[int, tuple[Part, str]] = {}
    for side in Side:
        row = rows[SetupRole.PROPOSED, side.value]
        for slot in _ASKED:
            part: Part | None = getattr(row, slot)
            if part:
                seen.setdefault(part.pk, []).append(side.value)
                places.setdefault(part.pk, (part, slot))
    found = []
    for number, (part, slot) in places.items():
        owner, keys = _ASKED[slot]
        fields = field_views(f"part-{number}", owner, _WAIST, part.figures, None, system, wrong) if owner is Owner.VALVE else []
        where = "both sides" if len(seen[number]) > 1 else seen[number][0]
        found.append(AskedOf(name=f"{part.name} ({where})", facts=fact_views(part, owner, keys), fields=fields))
    return found


def _engine(build: Build) -> list[AskedOf]:
    head = ("head_metal", "cooling", "seals", *(f"{what}_{side}" for what in ("seats", "guides", "seat_cut") for side in Side))
    return [
        AskedOf(name="Fuel and air", facts=goal_facts(build, ("fuel", "air", "squish")), fields=[]),
        AskedOf(name="The head", facts=engine_facts(build, head), fields=[]),
    ]


def materials_page(answer: BuildResult, build: Build, system: UnitSystem, wrong: FieldError | None) -> MaterialsPage:
    """View-model of the page."""
    asked = [*_engine(build), *_parts(build, system, wrong)]
    untold = sum(1 for each in asked for fact in each.facts if not fact.seen)
    found = advice_of(answer) if answer.review else answer.contradiction
    if isinstance(found, str):
        return MaterialsPage(trouble=wording.told(found, system), count=0, groups=[], schools=[], claims=[], asked=asked, untold=untold)
    told = lambda text: wording.told(text, system)
    groups = [
        TopicGroup(name=TOPICS[topic], lines=[_line(each, system) for each in lines])
        for topic, lines in groupby(found.advised, lambda each: each.rule.topic)
    ]
    return MaterialsPage(
        trouble="", count=len(found.advised), groups=groups, asked=asked, untold=untold,
        schools=[(each.question, told(each.one), told(each.other), told(each.ours)) for each in found.schools],
        claims=[(each.said, told(each.answer), told(each.figure), each.basis) for each in found.claims],
    )  # fmt: skip
