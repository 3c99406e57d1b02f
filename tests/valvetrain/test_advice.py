"""Advice: every rule fires on its case and is silent on the other, the situation feeds every name they ask, claims against sums of one's own."""

import math
import time
from dataclasses import replace

import numpy as np
import pytest

from tests.valvetrain.builders import known_build, known_side, measured
from valvetrain.errors import ContradictionError
from valvetrain.parts.catalogue import FACTS, Owner
from valvetrain.parts.engine import Side, Use
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord
from valvetrain.studies.advice.advice import Advice, advise
from valvetrain.studies.advice.claims import cooler_valve, piston_inertia, train_inertia
from valvetrain.studies.advice.rules import TOPICS, Rule, School, Term, rules, schools, term_of
from valvetrain.studies.advice.situation import findings_of, heat_through_waist, situation_of
from valvetrain.studies.review.build import review
from valvetrain.studies.train.side_figures import moving_mass

ALL = [*rules(), *schools()]


@pytest.mark.parametrize("rule", ALL, ids=lambda rule: rule.id)
def test_every_rule_speaks_once_and_is_silent_once(rule: Rule | School) -> None:
    """The two cases differ in what is told, not in that nothing is told: a rule that is silent because it was asked nothing proves nothing."""
    assert rule.speaks(rule.fires)
    assert not rule.speaks(rule.silent)
    asked = {term.name for term in rule.when if term.sign != "?"}
    assert asked <= rule.fires.keys()
    assert asked <= rule.silent.keys()
    assert rule.topic in TOPICS


@pytest.mark.parametrize("rule", ALL, ids=lambda rule: rule.id)
def test_every_condition_counts(rule: Rule | School) -> None:
    """Each condition by itself keeps the rule silent when what it asks of is not told."""
    for term in rule.when:
        changed = (
            {**rule.fires, term.name: "told"} if term.sign == "?" else {name: v for name, v in rule.fires.items() if name != term.name}
        )
        assert not rule.speaks(changed), term


def test_rules_are_named_once_and_speak_of_what_is_known() -> None:
    names = [rule.id for rule in ALL]
    assert len(names) == len(set(names))
    assert len(rules()) >= 60
    words = {word for fact in FACTS.values() for word in fact.choices} | {use.value for use in Use}
    words |= {"yes", "no", "intake", "exhaust", "holds", "slim", "unproven", "short", "45", "cylinder", "hydraulic"}
    for rule in ALL:
        for term in rule.when:
            assert term.words <= words, (rule.id, term)


def test_conditions_as_they_are_written() -> None:
    assert term_of("fuel = methanol|E85") == Term("fuel", "=", frozenset({"methanol", "E85"}))
    assert term_of("boost_bar > 0.25").holds({"boost_bar": 0.3})
    assert not term_of("boost_bar > 0.25").holds({"boost_bar": 0.25})
    assert not term_of("boost_bar > 0.25").holds({})
    assert term_of("valve ?").holds({})
    assert not term_of("valve ?").holds({"valve": "nickel alloy"})
    assert term_of("valve != titanium 6-4").holds({"valve": "valve steel"})
    assert not term_of("valve != titanium 6-4").holds({})
    for text in ("fuel", "fuel == petrol", "fuel is petrol", ""):
        with pytest.raises(ContradictionError, match="no condition"):
            term_of(text)


def with_facts(side: SideRecord, owner: Owner, **facts: str) -> SideRecord:
    part = side.parts.get(owner, PartRecord(owner.value))
    return replace(side, parts={**side.parts, owner: replace(part, facts={**part.facts, **facts})})


def rich() -> BuildRecord:
    """A build of which everything that rules may ask is told."""
    record = known_build(boost=0.6e5, altitude=200.0, season_hours=60.0 * 3600, interval=50.0 * 3600, passes=80.0)
    side = known_side(throat=26.5e-3, seat_angle=math.radians(45.0))
    side = with_facts(
        side, Owner.VALVE, material="valve steel", stem="plain", back="tulip", back_cut="no", coat="nitrided", origin="other"
    )  # fmt: skip
    side = with_facts(side, Owner.RETAINER, material="steel")
    side = with_facts(side, Owner.KEEPERS, made_of="titanium")
    side = with_facts(side, Owner.FOLLOWER, inside="switching", treated="peened", made_of="hardened")
    side = with_facts(side, Owner.CAM, made_of="chilled")
    valve = side.parts[Owner.VALVE]
    side = replace(side, parts={**side.parts, Owner.VALVE: replace(valve, figures={**valve.figures, "margin": measured(1.2e-3)})})
    spring = replace(
        side.springs[0], facts={"form": "cone", "wire": "music wire", "peened": "no", "cold": "yes", "coat": "bare", "state": "used"}
    )
    side = replace(side, springs=(spring,))
    facts = {"seals": "nitrile", "cooling": "water", "fuel": "petrol"}
    facts |= {f"{key}_{each}": word for each in Side for key, word in (("seats", "sintered"), ("guides", "iron"), ("seat_cut", "one"))}
    engine = {**record.engine, "compression": measured(9.0)}
    sides = dict.fromkeys(Side, side)
    return replace(
        record, engine=engine, facts=facts, goal_facts={"fuel": "methanol", "air": "dusty", "squish": "kept"}, stock=sides, proposed=dict(sides)
    )  # fmt: skip


@pytest.fixture(scope="module")
def advice() -> Advice:
    record = rich()
    return advise(record, review(record))


def test_the_situation_feeds_every_name_that_rules_ask() -> None:
    record = rich()
    found = review(record)
    told = situation_of(record, found, Side.EXHAUST, findings_of(record, found))
    assert {term.name for rule in ALL for term in rule.when} <= told.keys()


def test_advice_of_a_rich_build(advice: Advice) -> None:
    spoken = {each.rule.id: each for each in advice.advised}
    for rule in (
        "steel-valve-boosted-exhaust",
        "alcohol-seats",
        "alcohol-guides",
        "never-peen-a-mechanism",
        "oil-alcohol",
        "alcohol-fuel-flow",
    ):
        assert rule in spoken
    assert spoken["steel-valve-boosted-exhaust"].sides == (Side.EXHAUST,)
    assert spoken["alcohol-seats"].sides == tuple(Side)
    assert "2.3 times" in spoken["alcohol-fuel-flow"].advice
    assert "titanium-guide" not in spoken
    order = [list(TOPICS).index(each.rule.topic) for each in advice.advised]
    assert order == sorted(order)
    assert {school.id for school in advice.schools} == {"makers-valves", "squish"}


def test_no_brace_is_left_in_any_word(advice: Advice) -> None:
    for each in advice.advised:
        assert not set("{}") & set(each.advice + each.because)


@pytest.mark.parametrize(
    ("change", "fires", "gone"),
    [
        ({"fuel": "petrol"}, "", "alcohol-seats"),
        ({"fuel": "gas"}, "gas-charge", "oil-alcohol"),
        ({"air": "clean"}, "", "titanium-dust"),
    ],
)
def test_advice_follows_the_fuel_and_the_air(change: dict[str, str], fires: str, gone: str) -> None:
    record = rich()
    record = replace(record, goal_facts={**record.goal_facts, **change})
    spoken = {each.rule.id for each in advise(record, review(record)).advised}
    assert gone not in spoken
    assert not fires or fires in spoken


def test_titanium_asks_for_its_guides_seats_and_filter() -> None:
    record = rich()
    sides = {side: with_facts(each, Owner.VALVE, material="titanium 6-4", coat="coated") for side, each in record.proposed.items()}
    record = replace(record, proposed=sides)
    spoken = {each.rule.id for each in advise(record, review(record)).advised}
    assert {"titanium-dust", "titanium-hard-seat", "titanium-guide", "titanium-lapping", "titanium-exhaust-boost"} <= spoken
    back = replace(
        record, stock=sides, proposed={side: with_facts(each, Owner.VALVE, material="valve steel") for side, each in sides.items()}
    )
    assert "steel-for-titanium" in {each.rule.id for each in advise(back, review(back)).advised}


def test_inertia_of_the_valves_by_energy_over_a_cycle() -> None:
    """Kinetic energy stepped through two turns of the crank at 6,000 rpm, by differences of the lift: half J omega^2 in the mean."""
    record = rich()
    found = review(record)
    omega = 2 * math.pi * 100.0
    energy = 0.0
    for train in found.completed.proposed.sides.values():
        angle = np.linspace(-math.pi, math.pi, 20001)  # of the cam
        lift = train.curve.smooth_lift_at(angle)
        speed = np.gradient(lift, angle / (omega / 2.0))
        energy += 0.5 * moving_mass(train).value * float(np.mean(speed**2)) * len(train.positions)
    assert train_inertia(found) == pytest.approx(2.0 * energy / omega**2, rel=1e-3)


def test_inertia_of_the_pistons_of_a_long_rod() -> None:
    """With a rod without end the piston's way is r cos: J is half of m r^2 (closed form)."""
    record = rich()
    record = replace(record, engine={**record.engine, "piston_mass": measured(0.4), "rod_length": measured(0.4)})
    found, told = piston_inertia(record, review(record))
    assert told
    assert found == pytest.approx(3 * 0.4 * (69e-3 / 2) ** 2 / 2, rel=0.01)


def test_a_cooler_valve_does_little_on_the_mean() -> None:
    record = rich()
    found = review(record)
    charge, end = cooler_valve(found, findings_of(record, found))
    assert 0.05 < charge < 5.0
    assert end == pytest.approx(charge * 9.0**0.33, rel=1e-6)


def test_heat_through_a_waist() -> None:
    """Two resistances one after the other: half of the way at half of the section carries two thirds (closed form)."""
    half = {"waist": measured(6e-3 / math.sqrt(2.0)), "length_of_waist": measured(15e-3)}
    assert heat_through_waist(half, 6e-3) == pytest.approx(2.0 / 3.0)
    assert heat_through_waist({"waist": measured(5e-3)}, 6e-3) == pytest.approx((5 / 6) ** 2)
    assert heat_through_waist({"waist": measured(6e-3)}, 6e-3) == pytest.approx(1.0)


def test_claims_are_answered_with_a_figure(advice: Advice) -> None:
    by_id = {claim.id: claim for claim in advice.claims}
    assert by_id.keys() == {"lighter-snappier", "springs-for-misfire", "most-friction", "cooler-valve-knock"}
    assert all(any(sign.isdigit() for sign in claim.figure) for claim in advice.claims)
    assert "nobody can feel it" in by_id["lighter-snappier"].answer


def test_misfire_is_answered_by_the_checks() -> None:
    """Springs with much in hand cannot be the cause; springs that float may be."""
    strong = known_build(goal_rpm=80.0, over_rev=85.0)
    weak = known_build(goal_rpm=160.0, over_rev=170.0)
    answers = [next(c for c in advise(record, review(record)).claims if c.id == "springs-for-misfire").answer for record in (strong, weak)]
    assert "neither happens" in answers[0]
    assert "may" in answers[1]


def test_advice_is_quick() -> None:
    """Under 50 ms for a build that is reviewed; the best of five."""
    record = rich()
    found = review(record)
    took = []
    for _ in range(5):
        begun = time.perf_counter()
        advise(record, found)
        took.append(time.perf_counter() - begun)
    assert min(took) < 0.05
