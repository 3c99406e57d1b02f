"""The registry of cautions: every kind of engine and use shows what applies and nothing else."""

import pytest

from tests.valvetrain.builders import known_build, measured
from valvetrain.parts.engine import FITTING, Adjuster, EngineKind, Follower, Gear, Use
from valvetrain.studies.train.assembly import complete
from valvetrain.wording.cautions import CAUTIONS, Place, Situation, cautions_at, situation_of

DOHC = EngineKind(4, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
KART = EngineKind(1, 1, Gear.PUSH_ROD, Follower.ROCKER, Adjuster.SCREW)
SIDE = EngineKind(1, 1, Gear.SIDE_VALVE, Follower.TAPPET, Adjuster.STEM_GRIND)
ALL = {
    Place.LASH: {"hot-engine"}, Place.SPRINGS: {"valve-held", "springs-fly"}, Place.VALVES: {"springs-fly", "dust"}, Place.TIMING: {"piston-stop"},
    Place.OVER_REV: {"valve-held", "leak-down"}, Place.LEAK_DOWN: {"leak-down"}, Place.NEW_PART: {"valve-held", "springs-fly", "dust"},
    Place.SHEET: {"valve-held", "springs-fly", "dust"}, Place.MATERIALS: {"dust"}, Place.REGRIND: {"hard-case", "new-lobe"},
    Place.MACHINE_SHOP: {"dust", "licensed-shop", "oven-and-nitrogen"}, Place.CRANKING: {"cranking"}, Place.PULL: {"full-throttle"},
}  # fmt: skip


def _more(about: Situation) -> dict[str, set[str]]:
    """What a situation shows beyond what every engine shows, by caution: the places."""
    found: dict[str, set[str]] = {}
    for place in Place:
        for caution in cautions_at(place, about):
            if caution.id not in ALL.get(place, set()):
                found.setdefault(caution.id, set()).add(place.value)
        shown = {caution.id for caution in cautions_at(place, about)}
        usual = {each.replace("valve-held", "valve-held-keyhole") if about.keyhole else each for each in ALL.get(place, set())}
        usual -= {"hot-engine"} if about.kind.adjuster is Adjuster.HYDRAULIC else set()
        assert usual <= shown
    return found


OVERHEAD = {"chain-off": {"timing"}, "borescope-first": {"over-rev"}}
SHIMS = {"cams-out": {"lash", "sheet"}}
VAPOUR = {"fuel-vapour": {"stops", "measure", "over-rev", "lash", "timing", "leak-down", "cranking"}}
FAST = {"governed-speed": {"overview", "goal", "gearing", "springs", "sheet", "pull"}}


@pytest.mark.parametrize(
    ("about", "more"),
    [
        (Situation(DOHC), OVERHEAD | SHIMS),
        (Situation(DOHC, boosted=True), OVERHEAD | SHIMS | {"boost": {"overview", "goal"}}),
        (Situation(DOHC, fuel="methanol"), OVERHEAD | SHIMS | {"methanol": {"goal", "materials"}}),
        (Situation(DOHC, machine="water"), OVERHEAD | SHIMS | VAPOUR),
        (Situation(DOHC, use=Use.RESCUE), OVERHEAD | SHIMS | VAPOUR),
        (Situation(EngineKind(1, 2, Gear.OHC, Follower.ROCKER, Adjuster.SCREW)), OVERHEAD),
        (Situation(EngineKind(1, 1, Gear.OHC, Follower.BUCKET, Adjuster.HYDRAULIC)), OVERHEAD | {"hydraulic": {"lash"}}),
        (Situation(KART, use=Use.ROAD_RACE, utility=True, goal=100.0, maker=60.0), FAST | {"borescope-first": {"over-rev"}}),
        (Situation(KART, use=Use.WORK, utility=True, goal=60.0, maker=60.0), {"borescope-first": {"over-rev"}}),
        (Situation(SIDE, use=Use.WORK, utility=True, goal=62.0, maker=60.0), FAST | {"stem-grinding": {"lash", "sheet"}}),
        (Situation(DOHC, practice=True), OVERHEAD | SHIMS | {"practice": {place.value for place in Place}}),
        (Situation(DOHC, keyhole=True), OVERHEAD | SHIMS | {"valve-held-keyhole": {"springs", "new part", "over-rev", "sheet"}}),
    ],
)
def test_what_applies_stands_and_nothing_else(about: Situation, more: dict[str, set[str]]) -> None:
    assert _more(about) == more


def test_a_governed_engine_is_warned_whatever_it_is_used_for() -> None:
    """A utility engine is known by its governor, its use, its machine, or because its maker holds a push-rod engine so low."""
    record = known_build(goal_rpm=150.0, over_rev=160.0)
    plain = situation_of(record, complete(record))
    assert not plain.utility
    governed = {**record.engine, "governed": measured(60.0)}
    about = situation_of(record.__class__(**{**record.__dict__, "engine": governed, "use": Use.ROAD_RACE}), None)
    assert about.utility
    assert about.maker == 60.0


def test_every_caution_is_well_told() -> None:
    assert len({caution.id for caution in CAUTIONS}) == len(CAUTIONS) >= 13
    kinds = [
        EngineKind(1, 1, gear, follower, adjuster)
        for gear, (followers, adjusters) in FITTING.items()
        for follower in followers
        for adjuster in adjusters
    ]
    bold = [
        Situation(kind, machine, "water", True, 2.0, 1.0, True, keyhole, True, "methanol")
        for kind in kinds
        for machine in Use
        for keyhole in (True, False)
    ]
    for caution in CAUTIONS:
        assert any(caution.when(about) for about in bold), f"{caution.id} never applies"
        assert caution.words.endswith(".")
        assert caution.places
