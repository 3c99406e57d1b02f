"""Choices of words as a page shows them: of a part, or of the engine."""

from dataclasses import dataclass

from rocklash.records.models import Build, Engine, Part
from valvetrain.parts.catalogue import FACTS, Owner

# The places for parts of a side, in the order of a page.
SLOT_WORDS = {
    "outer_spring": "Spring, outer", "inner_spring": "Spring, inner", "retainer": "Retainer", "keepers": "Keepers", "valve": "Valve",
    "follower": "Follower", "shim": "Shim or lash cap", "cam": "Cam",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class FactView:
    """A choice of words: whose, which, what was seen, and the options (stored, read, on)."""

    part: int
    of: str
    key: str
    label: str
    seen: str
    options: list[tuple[str, str, bool]]


def _view(number: int, row: Engine | Part | Build, owner: Owner, key: str, usual: str) -> FactView:
    fact = FACTS[owner, key]
    now = row.facts.get(key) or usual
    return FactView(
        part=number,
        of=owner.value,
        key=key,
        label=fact.label,
        seen=now,
        options=[(word, words, word == now) for word, words in fact.choices.items()],
    )


def fact_views(part: Part, owner: Owner, keys: tuple[str, ...] = ()) -> list[FactView]:
    """The choices of a part, all of them or those named."""
    mine = [key for place, key in FACTS if place is owner and (not keys or key in keys)]
    return [_view(part.pk, part, owner, key, next(iter(FACTS[owner, key].choices))) for key in mine]


def engine_facts(build: Build, keys: tuple[str, ...]) -> list[FactView]:
    """Choices of the engine itself, by key."""
    return [_view(0, build.engine, Owner.ENGINE, key, "") for key in keys]


def goal_facts(build: Build, keys: tuple[str, ...]) -> list[FactView]:
    """Choices of the goal, by key."""
    return [_view(0, build, Owner.GOAL, key, "") for key in keys]
