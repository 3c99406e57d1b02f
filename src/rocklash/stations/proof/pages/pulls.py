"""Rev tests and recordings of pulls, as view-models."""

from dataclasses import dataclass
from typing import Any

from rocklash.answers import tasks
from rocklash.records.models import Observation, Phase, ProofKind, ProofTest
from rocklash.stations.proof.commands.tests import speed_of
from rocklash.stations.proof.forms import GAVE_UP
from rocklash.ui.drawings.pull import Pull
from valvetrain.units import UnitSystem, told
from valvetrain.wording import proof as wording

_HOW = dict(GAVE_UP)
LOOKS = (
    ("valves float", "the same speed in every gear, a soft wall or clatter, normal again some 300 rpm lower, later with stiffer springs"),
    ("a clearance is wrong", "weak before as well, rough idle or noise, one cylinder low on the gauge"),
    ("mixture", "another speed in another gear, better or worse with a richer jet at once"),
    ("spark", "ragged, gone with new plugs and a closed gap, worse when hot or with boost"),
    ("limiter or governor", "clean, a steady beat, always to the rpm the same"),
)


@dataclass(frozen=True, kw_only=True)
class PullView:
    """One rev test or recording."""

    pk: int
    title: str
    when: str
    phase: str
    speed: str
    doubt: str
    words: str
    notes: list[str]
    odds: list[tuple[str, str, int]]
    changes: list[str]
    picture: Pull | None
    rests: str


def _sound(test: ProofTest) -> dict[str, Any]:
    found = test.found
    end, odds = found["end"], found["odds"]
    picture = Pull(
        time=found["time"], speed=[60.0 * each for each in found["speed"]], heard=found["heard"], changes=[each["at"] for each in found["changes"]],
        end_at=end["at"], end=60.0 * end["speed"], doubt=60.0 * end["doubt"],
        spoken=f"Speed over {found['seconds']:.0f} seconds; it ends at {60 * end['speed']:,.0f} rpm.",
    )  # fmt: skip
    notes = [f"{100 * found['share']:.0f} % of it is heard.", *found["warnings"]]
    if end["crest"] > end["speed"] * 1.004:
        notes.append(f"It reached {60 * end['crest']:,.0f} rpm at most.")
    changes = [
        f"{each['at']:.1f} s: {60 * each['before']:,.0f} to {60 * each['after']:,.0f} rpm, ratio {each['ratio']:.2f}"
        for each in found["changes"]
    ]
    rows = [(words, f"{100 * part:.0f}", round(100 * part)) for words, part in wording.odds_rows(odds)]
    return {"picture": picture, "notes": notes, "changes": changes, "odds": rows, "words": wording.odds_sentence(odds)}


def view_of(test: ProofTest, seen: list[Observation]) -> PullView:
    """One of them; `seen` is what predictions rest on."""
    speed, doubt = speed_of(test)
    sides = [row.side for row in seen if abs(row.speed - speed) < 1e-6]
    more: dict[str, Any]
    if test.kind == ProofKind.SOUND:
        more = _sound(test)
    else:
        told = test.conditions
        words = [
            _HOW.get(told.get("how", ""), ""),
            f"gear {told['gear']}" if told.get("gear") else "",
            told.get("stretch", ""),
            told.get("by", ""),
        ]
        notes = [told["note"]] if told.get("note") else []
        more = {"picture": None, "notes": notes, "changes": [], "odds": [], "words": ", ".join(word for word in words if word)}
    return PullView(
        pk=test.pk, title=test.get_kind_display().capitalize(), when=f"{test.made_on:%d %b %Y}", phase=test.phase, speed=f"{60 * speed:,.0f}",
        doubt=f"{60 * doubt:,.0f}", rests=f"The forecast for the {' and the '.join(sides)} valves rests on it." if sides else "", **more,
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Working:
    """A file that is being worked out: the share done and the seconds left, or that it is `done`, or why nothing comes of it."""

    pk: int
    title: str
    share: float
    left: float | None
    done: bool
    trouble: str


def working_of(test: ProofTest, asked: tasks.Asked, system: UnitSystem) -> Working:
    """One of them."""
    share, left, trouble = 1.0, None, ""
    match asked:
        case tasks.Running():
            share, left = asked.share, asked.left
        case tasks.Refused():
            trouble = told(asked.sentence, system)
        case tasks.Stopped():
            trouble = "It was left out."
    return Working(
        pk=test.pk, title=f"{str(test).capitalize()}, {test.made_on:%d %b %Y}", share=share, left=left, done=isinstance(asked, tasks.Ready), trouble=trouble
    )  # fmt: skip


def difference(tests: list[ProofTest]) -> str:
    """What changed between the newest pull before and the newest after, with its doubt; empty where one is missing."""
    found = {}
    for phase in Phase.values:
        mine = [test for test in tests if test.phase == phase and test.kind in (ProofKind.REV, ProofKind.SOUND)]
        if not mine:
            return ""
        found[phase] = speed_of(mine[-1])
    (first, doubt_1), (last, doubt_2) = found["before"], found["after"]
    gained, doubt = 60 * (last - first), 60 * (doubt_1**2 + doubt_2**2) ** 0.5
    if abs(gained) <= doubt:
        return f"Before and after lie {abs(gained):,.0f} rpm apart, within the {doubt:,.0f} that both readings leave open."
    return f"It gives up {abs(gained):,.0f} rpm {'later' if gained > 0 else 'earlier'} than before, give or take {doubt:,.0f}."


def on_the_ladder(tests: list[ProofTest]) -> tuple[tuple[str, float], ...]:
    """Where it gave up, newest before and newest after: words and rpm."""
    found = []
    for phase, words in ((Phase.BEFORE, "measured before"), (Phase.AFTER, "measured after")):
        mine = [test for test in tests if test.phase == phase and test.kind in (ProofKind.REV, ProofKind.SOUND)]
        if mine:
            found.append((words, 60.0 * speed_of(mine[-1])[0]))
    return tuple(found)
