"""Plans of jobs: conditions, order rules as a graph, what applies to which engine, cylinder by cylinder, what is out and must go in."""

import time
from collections import Counter

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from valvetrain.errors import ContradictionError
from valvetrain.parts.engine import FITTING, Adjuster, EngineKind, Follower, Gear, Side, ValvePosition
from valvetrain.studies.job.facts import HAS, KIND_WORDS, RENEWED, JobKind, JobSpec, facts_of
from valvetrain.studies.job.plan import CLOSES, Plan, broken_by, compose, edges, open_engine, sort, unaccounted, waiting_for
from valvetrain.studies.job.steps import condition, order_rules, steps

_ASKS = ("runs", "first", "revs", "boost", "blast", "broken", "studs", "gallery", "surfaced", "degree", "outside", "titanium", "keyhole")


def valves_of(kind: EngineKind) -> list[ValvePosition]:
    return [
        ValvePosition(f"{side[:2].upper()} {cylinder} {n}", side, cylinder)
        for side in Side
        for cylinder in range(1, kind.cylinders + 1)
        for n in range(kind.valves_per_side)
    ]


def plan_of(kind: EngineKind, spec: JobSpec) -> Plan:
    return compose(facts_of(kind, spec), valves_of(kind))


@st.composite
def jobs(draw: st.DrawFn) -> tuple[EngineKind, JobSpec]:
    """Any engine that can be, with any job on it."""
    gear = draw(st.sampled_from(list(Gear)))
    followers, adjusters = FITTING[gear]
    kind = EngineKind(
        draw(st.integers(1, 4)), draw(st.integers(1, 3)), gear, draw(st.sampled_from(followers)), draw(st.sampled_from(adjusters)), (), draw(st.booleans())
    )  # fmt: skip
    spec = JobSpec(
        kind=draw(st.sampled_from(list(JobKind))), here=draw(st.sampled_from(["machine", "engine", "head"])), in_frame=draw(st.booleans()),
        hold=draw(st.sampled_from(["rope", "air"])), lapping=draw(st.sampled_from(["hand", "shop", "none"])),
        drive=draw(st.sampled_from(["chain", "belt", "gears"])), held=draw(st.sampled_from(["caps", "bridge", "bores"])),
        has=draw(st.frozensets(st.sampled_from(sorted(HAS)))), renewed=draw(st.frozensets(st.sampled_from(sorted(RENEWED)))),
        asks=draw(st.frozensets(st.sampled_from(_ASKS))), seal_order=draw(st.sampled_from(["seat", "seal"])),
    )  # fmt: skip
    return kind, spec


@settings(max_examples=100, deadline=None)
@given(jobs())
@pytest.mark.slow
def test_any_job_of_any_engine(job: tuple[EngineKind, JobSpec]) -> None:
    """No circle, no step that does not apply, none missing, no rule broken; done to its end nothing is left out or in."""
    kind, spec = job
    facts = facts_of(kind, spec)
    plan = compose(facts, valves_of(kind))
    wanted = {each.id for each in steps().values() if each.when(facts)}
    assert {item.step.id for item in plan.items} == wanted
    assert broken_by([item.key for item in plan.items], plan.facts) == []
    assert len({item.key for item in plan.items}) == len(plan.items)
    left = [each for each in open_engine(plan, {item.key: item.times for item in plan.items}) if each.missing]
    assert left == []
    done: dict[str, int] = {}
    for item in plan.items[:60]:
        assert waiting_for(plan, item.key, done) == []
        done[item.key] = item.times


@settings(max_examples=60, deadline=None)
@given(jobs())
def test_what_never_goes_together(job: tuple[EngineKind, JobSpec]) -> None:
    """Looked at from outside, by the step's own words: what would be nonsense on this engine."""
    kind, spec = job
    acts = " | ".join(item.step.act.lower() for item in plan_of(kind, spec).items)
    if kind.gear is Gear.SIDE_VALVE:
        assert "feed the rope" not in acts
        assert "air up" not in acts
        assert "push-rods out" not in acts
        assert "stem seal" not in acts
    if kind.gear is not Gear.PUSH_ROD:
        assert "push-rods" not in acts.replace("push-rod holes", "")
    if kind.adjuster is Adjuster.HYDRAULIC:
        assert "clearances as they are found" not in acts
    else:
        assert "elements" not in acts
    if spec.here == "head":
        assert "battery" not in acts
        assert "compression of" not in acts
        assert "chain" not in acts.replace("upper chain guide", "")
    if spec.drive != "chain":
        assert "count the chain" not in acts
    if "titanium" in spec.asks:
        assert "lap lightly" not in acts
    if kind.follower is not Follower.BUCKET:
        assert "shim over the bucket" not in acts or kind.adjuster is Adjuster.SHIM_OVER


BUCKET = EngineKind(3, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
ROCKER = EngineKind(1, 1, Gear.OHC, Follower.ROCKER, Adjuster.SCREW)
RODS = EngineKind(1, 1, Gear.PUSH_ROD, Follower.ROCKER, Adjuster.LASH_CAP)
SIDE = EngineKind(1, 1, Gear.SIDE_VALVE, Follower.TAPPET, Adjuster.STEM_GRIND)


@pytest.mark.parametrize(
    ("kind", "spec", "has", "hasnt"),
    [
        (BUCKET, JobSpec(JobKind.SPRINGS), "h02 s03 o14 a07 a10 a13 n08 n14 l10", "h05 o23 m01 o21 l02 s09 v02"),
        (BUCKET, JobSpec(JobKind.SPRINGS, hold="air"), "p16 h04 h05 a14", "h02 a13 h06"),
        (BUCKET, JobSpec(JobKind.FULL, lapping="shop", renewed=frozenset({"seat"})), "h06 a15 s09 m01 m05 o23 n03 v05", "h02 h05 v02 v04"),
        (BUCKET, JobSpec(JobKind.CLEARANCES), "b04 l01 l10 o02 z06", "o14 s01 b02 q01 r01 o23"),
        (BUCKET, JobSpec(JobKind.CLEARANCES, asks=frozenset({"outside", "runs"})), "o14 l13 n30 n08 o06 n14", "s01"),
        (BUCKET, JobSpec(JobKind.CAMS, renewed=frozenset({"cam"})), "p04 n26 n27 o12 n10", "s01 h01"),
        (BUCKET, JobSpec(JobKind.OVER_REV), "b05 b06 b07 b08 b03 i19", "b04 b01x s01"),
        (BUCKET, JobSpec(JobKind.STUDS, asks=frozenset({"broken"})), "s11 s12 c06 c09", "o02 l01 o14"),
        (BUCKET, JobSpec(JobKind.GALLERY, here="head"), "s10 c03 c04 c08", "p08 o23 n02 r02 o05"),
        (BUCKET, JobSpec(JobKind.SURFACING), "m01 n26 n27 i17", "s01 v02"),
        (ROCKER, JobSpec(JobKind.SPRINGS, has=frozenset({"tip"})), "o17 o11 h02 l02", "o14 o16 o12 n08"),
        (ROCKER, JobSpec(JobKind.SPRINGS), "o16 n19 o14", "o17"),
        (RODS, JobSpec(JobKind.SPRINGS), "o20 o21 n22 n23 h02 l06", "o14 o12 o06 l02"),
        (RODS, JobSpec(JobKind.CAMS, renewed=frozenset({"cam"})), "o26 n20 n21 o21", "o14 n08 n26"),
        (SIDE, JobSpec(JobKind.FULL), "o03 s03 s09 l07 o23", "h01 h06 s06 a04 i08 o02"),
        (SIDE, JobSpec(JobKind.SPRINGS), "o03 s03 a07", "h01 h02 s06"),
        (BUCKET, JobSpec(JobKind.FULL, has=frozenset({"craft", "liquid", "ratchet", "deflect"})), "p06 z11 p14 z13 o09 n17 l11 o04 z04", "p07"),
    ],
)  # fmt: skip
def test_what_applies_to_which_engine(kind: EngineKind, spec: JobSpec, has: str, hasnt: str) -> None:
    """A table by hand of what a builder would expect in the plan, and what he would laugh at."""
    found = {item.step.id for item in plan_of(kind, spec).items}
    assert set(has.split()) <= found
    assert not set(hasnt.split()) & found


def test_head_on_goes_cylinder_by_cylinder() -> None:
    """Hold, strip, refit, prove and release one cylinder before the next is touched: one hole open at a time."""
    plan = plan_of(BUCKET, JobSpec(JobKind.SPRINGS))
    rounds = [item.cylinder for item in plan.items if item.cylinder]
    assert rounds == sorted(rounds)
    assert set(rounds) == {1, 2, 3}
    first = [item.step.id for item in plan.items if item.cylinder == 1]
    for chain in ("h01 h02 h03 s01 s02 s03 s05", "a03 a06 a07 a09 a10 a13"):
        places = [first.index(step) for step in chain.split()]
        assert places == sorted(places)
    knock = next(item for item in plan.items if item.key == "a10-2")
    assert knock.places == ("IN 2 0", "IN 2 1", "EX 2 0", "EX 2 1")


def test_against_a_rule_it_says_which_and_why() -> None:
    plan = plan_of(BUCKET, JobSpec(JobKind.SPRINGS))
    order = [item.key for item in plan.items]
    order.remove("s03-1")
    order.insert(order.index("h02-1"), "s03-1")
    found = broken_by(order)
    assert found
    assert any(each.rule.stop and "held before its keepers crack" in each.rule.why for each in found)
    waits = waiting_for(plan, "s01-1", {})
    assert {each.earlier for each in waits} >= {"h01", "h03", "h02"}
    assert all(each.later == "s01" for each in waits)


def test_open_engine_counts_out_and_in() -> None:
    """Twelve valves have 24 keepers: four valves stripped and one refitted leave six out, and the rope in."""
    plan = plan_of(BUCKET, JobSpec(JobKind.SPRINGS))
    done = {"h02-1": 1, "s03-1": 4, "s05-1": 4, "a06-1": 1, "a07-1": 1, "o07": 1}
    found = {each.what: each for each in open_engine(plan, done)}
    assert (found["keepers"].out, found["keepers"].back, found["keepers"].missing) == (8, 2, 6)
    assert found["springs"].missing == 3
    assert found["rope"].missing == 1
    assert found["blockings"].missing == 1
    assert "cams" not in found


def test_conditions_as_they_are_written() -> None:
    asked, names = condition("(a/b)+!c")
    assert names == {"a", "b", "c"}
    assert asked(frozenset({"b"}))
    assert not asked(frozenset({"b", "c"}))
    assert not asked(frozenset())
    assert condition("all")[0](frozenset())
    for wrong in ("", "a+", "(a", "a)", "a b", "a & b", "+a"):
        with pytest.raises(ContradictionError):
            condition(wrong)


def test_rules_speak_of_steps_that_are_and_circles_are_named() -> None:
    named = {step for rule in order_rules() for chain in rule.chains for group in chain for step in group}
    assert named <= steps().keys()
    assert len(order_rules()) >= 55
    assert sum(rule.stop for rule in order_rules()) >= 20
    with pytest.raises(ContradictionError, match="wait for one another: a, b"):
        sort(["a", "b", "c"], [("a", "b"), ("b", "a")])
    assert sort(["a", "b", "c"], [("c", "a")]) == ["b", "c", "a"]
    pairs = {(one, two) for one, two, _ in edges(["o02", "b04", "o11"])}
    assert ("o02", "o11") in pairs  # passed through what is not there


def test_every_step_is_whole_and_applies_somewhere() -> None:
    asked = Counter(name for each in steps().values() for name in each.names)
    assert set(KIND_WORDS) == set(JobKind)
    assert asked["springs"] > 10
    for each in steps().values():
        assert each.act
        assert each.why
        assert each.done
        assert 0 <= each.least <= each.most
        assert each.per in ("job", "head", "cyl", "valve", "cam", "side", "stud", "bolt")
        assert each.hard in (1, 2, 3)


def test_a_head_of_24_valves_is_composed_in_time() -> None:
    """Under 50 ms; the best of five."""
    kind = EngineKind(6, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
    spec = JobSpec(JobKind.FULL, has=frozenset(HAS), renewed=frozenset(RENEWED), asks=frozenset(_ASKS))
    took = []
    for _ in range(5):
        begun = time.perf_counter()
        plan = plan_of(kind, spec)
        took.append(time.perf_counter() - begun)
    assert len(plan.items) > 100
    assert min(took) < 0.05
    low, high = plan.hours()
    assert 0 < low < high
    assert plan.waits()[1] > plan.waits()[0] > 0


@settings(max_examples=60, deadline=None)
@given(jobs())
def test_done_in_its_order_every_closing_step_finds_all_that_must_be_back(job: tuple[EngineKind, JobSpec]) -> None:
    """What comes back only behind a step that closes (plugs behind the cover) does not hold it up; a rope left in does."""
    plan = plan_of(*job)
    done: dict[str, int] = {}
    for item in plan.items:
        assert unaccounted(plan, done, item.key) == []
        done[item.key] = item.times
    ropes = [item.key for item in plan.items if item.step.id == "a13"]
    closing = [item.key for item in plan.items if item.step.id in CLOSES]
    if ropes and closing:
        done[ropes[0]] = 0
        assert [each.what for each in unaccounted(plan, done, closing[-1])] == ["rope"]
