"""Helpers of a job against statics, probability and closed forms: caps, head bolts, air, dates, symptoms, troubles."""

import itertools
import math
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import linprog
from scipy.stats import triang

from tests.valvetrain.test_job_plan import plan_of
from valvetrain.errors import OutOfRangeError, QuantityError
from valvetrain.formats import build_file
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side
from valvetrain.studies.clearance.measuring_plan import read_firing
from valvetrain.studies.job import bolts, caps, dates, holding, knowledge, symptoms
from valvetrain.studies.job.facts import JobKind, JobSpec, facts_of
from valvetrain.studies.job.plan import Detour, moved, newly_broken, waiting_for, with_detours
from valvetrain.studies.job.steps import order_rules, steps
from valvetrain.studies.train.assembly import CompletedBuild, complete

DEMO = Path(__file__).resolve().parents[2] / "src/rocklash/demo/builds/petrel_1498.json"
TRIPLE = EngineKind(3, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)


@pytest.fixture(scope="module")
def petrel_done() -> CompletedBuild:
    return complete(build_file.read(DEMO.read_text(encoding="utf-8")))


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.floats(0.0, 4.0), st.floats(0.0, 0.012)), min_size=2, max_size=8), st.floats(0.5, 3.5))
def test_a_shaft_lies_as_a_linear_programme_says(points: list[tuple[float, float]], middle: float) -> None:
    """Source: scipy's linear programming; the lowest line at the middle over all points."""
    points = [*points, (0.0, 0.0), (4.0, 0.0)]
    points = [(round(x, 3), round(y, 6)) for x, y in points]
    x, y = (np.array(each) for each in zip(*points, strict=True))
    zero, slope = caps.lie_of(x, y, middle)
    found = linprog([1.0, middle], A_ub=-np.column_stack([np.ones_like(x), x]), b_ub=-y, bounds=[(None, None)] * 2)
    assert zero + slope * middle == pytest.approx(found.fun, abs=1e-9)
    assert np.all(zero + slope * x >= y - 1e-9)


@given(st.floats(-1.0, 6.0), st.lists(st.floats(0.0, 5.0), min_size=2, max_size=6, unique=True))
def test_shares_keep_force_and_moment(station: float, supports: list[float]) -> None:
    """Source: statics; the parts add up to one, and about any point to the force's own moment."""
    supports.sort()
    if any(two - one < 1e-3 for one, two in itertools.pairwise(supports)):
        return
    parts = caps.shares(station, supports)
    assert sum(parts) == pytest.approx(1.0)
    assert sum(part * each for part, each in zip(parts, supports, strict=True)) == pytest.approx(station, abs=1e-6)


def test_caps_of_a_triple(petrel_done: CompletedBuild) -> None:
    """Every push finds its caps, the thrust cap comes last and never first, the lobes that push name the first ones."""
    train = petrel_done.proposed.sides[Side.INTAKE]
    plan = caps.plan_caps(train, read_firing("1-3-2", 3), thrust_last=False)
    assert sum(cap.load for cap in plan.caps) == pytest.approx(sum(lobe.push for lobe in plan.lobes))
    assert sum(cap.load * cap.station for cap in plan.caps) == pytest.approx(sum(lobe.push * lobe.station for lobe in plan.lobes))
    thrust = next(cap for cap in plan.caps if cap.thrust)
    assert thrust.turn == len(plan.caps)
    first = next(cap for cap in plan.caps if cap.turn == 1)
    assert first.load == max(cap.load for cap in plan.caps if not cap.thrust)
    evenly = caps.plan_caps(train, read_firing("1-3-2", 3), evenly=True)
    assert min(evenly.caps, key=lambda cap: cap.turn).number in (2, 3)
    for lobe in plan.lobes:
        assert (lobe.push > 0.0) == (lobe.lift > 0.02e-3)


def test_a_single_has_a_rest_position(petrel_done: CompletedBuild) -> None:
    """One cylinder: a place where no lobe pushes, at its own TDC of compression; turned to full lift the springs' whole push is on the caps."""
    train = petrel_done.proposed.sides[Side.INTAKE]
    one = type(train)(**{**train.__dict__, "positions": tuple(each for each in train.positions if each.cylinder == 1)})
    firing = read_firing("1", 1)
    plan = caps.plan_caps(one, firing)
    assert plan.rests
    assert plan.angle == 0.0
    assert plan.rounds == 0
    at = math.degrees(petrel_done.proposed_sides[Side.INTAKE].parts["cam"]["lobe_centre"].value) + 360.0
    full = caps.plan_caps(one, firing, angle=at)
    lift = one.curve.full - one.clearance.value
    spring = sum(each.spring.force(one.installed_height.value - one.spring_shim.value - lift) for each in one.springs)
    assert full.lobes[0].push == pytest.approx(spring, rel=0.03)
    assert full.rounds == math.ceil(lift / 0.5e-3) or full.rounds > 0


@given(st.integers(1, 4), st.integers(1, 12))
def test_a_bolt_pattern_takes_each_once_from_the_middle(rows: int, columns: int) -> None:
    """Common practice, no source: from the middle outwards, never a second bolt of a column while its ring has another side."""
    order = bolts.pattern(rows, columns)
    assert {(bolt.row, bolt.column) for bolt in order} == {(row, column) for row in range(rows) for column in range(columns)}
    assert [bolt.turn for bolt in order] == list(range(1, rows * columns + 1))
    away = [abs(bolt.column - (columns - 1) / 2.0) for bolt in order]
    assert away == sorted(away)
    if rows == 2 and columns > 1:  # the second of each ring lies across both ways
        one, two = order[-4], order[-3]
        assert one.row != two.row
        assert one.column != two.column


def test_stages_as_a_manual_writes_them() -> None:
    """1 lbf ft = 1.355 817 948 N m: NIST SP 811, appendix B.8."""
    found = bolts.read_stages("10 lbf ft, 25 Nm, 90°, 60 deg")
    assert found[0].torque == pytest.approx(10.0 * 1.3558179483)
    assert [round(math.degrees(stage.angle)) for stage in found] == [0, 0, 90, 60]
    for wrong in ("", "25 Nm, 20 Nm", "90°, 20 Nm", "720°", "8000 Nm", "10 mm", "a, b", "1,2,3,4,5,6,7 Nm"):
        with pytest.raises(QuantityError):
            bolts.read_stages(wrong)
    with pytest.raises(OutOfRangeError):
        bolts.pattern(0, 4)


@given(st.floats(0.02, 1.5), st.floats(0.035, 0.1), st.floats(0.03, 0.1))
def test_air_on_the_crank_does_the_work_of_its_volume(angle: float, bore: float, stroke: float) -> None:
    """Source: work; torque over an angle is pressure times the volume swept over it."""
    rod, pressure, step = 1.8 * stroke, 4e5, 1e-5
    area = math.pi / 4.0 * bore**2
    near = [holding.crank_under_air(pressure, bore, stroke, rod, [at])[0].down for at in (angle - step, angle + step)]
    torque = holding.crank_under_air(pressure, bore, stroke, rod, [angle])[0].torque
    assert torque == pytest.approx(pressure * area * (near[1] - near[0]) / (2.0 * step), rel=1e-4)
    assert holding.crank_under_air(pressure, bore, stroke, rod, [0.0])[0].torque == pytest.approx(0.0, abs=1e-6)


def test_a_cone_lets_go() -> None:
    """Source: statics of a wedge; without friction it holds nothing, and with the wedge angle's own friction it is on the edge."""
    assert holding.release(600.0, math.tan(math.radians(7.0))) == pytest.approx(0.0, abs=1e-9)
    assert holding.release(600.0, 0.0) == 0.0
    normal = 600.0 / (math.sin(math.radians(7.0)) + 0.25 * math.cos(math.radians(7.0)))
    assert holding.release(600.0, 0.25) == pytest.approx(normal * (0.25 * math.cos(math.radians(7.0)) - math.sin(math.radians(7.0))))


def test_air_as_the_trade_uses_it(petrel_done: CompletedBuild) -> None:
    """Common practice, no source: 2 bar hold, 3.5 bar where a knock keeps popping the valve."""
    for side in Side:
        train = petrel_done.proposed.sides[side]
        found = holding.held(train, train.positions[0], 0.06)
        assert found.rests < 0.02e5
        assert found.rests < found.clean < found.baked
        assert 0.3e5 < found.clean < holding.TRADE[1]
        assert found.baked < 5e5
    assert holding.could_fall(1.2e-3, 4e-3) == pytest.approx(5.2e-3)


def start_on(day: str) -> datetime:
    return datetime.fromisoformat(day).replace(tzinfo=UTC)


DAYS = dates.WorkDays(hours=6.0, opens=8.0)


def test_a_calendar_goes_round_the_night_and_the_week() -> None:
    """2026-11-27 is a Friday."""
    calendar = dates.Calendar(start_on("2026-11-27T10:00"), DAYS)
    for worked, expected in (
        (2 * 3600.0, "2026-11-27T12:00"),
        (4 * 3600.0, "2026-11-27T14:00"),
        (5 * 3600.0, "2026-11-30T09:00"),
        (16 * 3600.0, "2026-12-01T14:00"),
    ):
        moment = start_on("2026-11-27T10:00") + timedelta(seconds=float(calendar.moment(np.array([worked]))[0]))
        assert moment == start_on(expected), worked
    wall = (start_on("2026-11-30T09:30") - start_on("2026-11-27T10:00")).total_seconds()
    assert calendar.worked(np.array([wall]))[0] == pytest.approx(5.5 * 3600.0)


@settings(max_examples=20, deadline=None)
@given(st.lists(st.tuples(st.floats(60.0, 4000.0), st.floats(0.0, 8000.0)), min_size=1, max_size=12))
def test_work_left_is_the_sum_of_its_means(pieces: list[tuple[float, float]]) -> None:
    """Closed form: the mean of a sum is the sum of triangular means (scipy.stats.triang)."""
    work = [dates.Work(least, least + more) for least, more in pieces]
    exact = sum(triang.mean(1.0 / 3.0, loc=least, scale=more) if more else least for least, more in pieces)
    assert sum(dates.mean_of(each.least, each.most) for each in work) == pytest.approx(exact)
    found = dates.finish(work, [], start_on("2026-11-30T08:00"), DAYS, trouble=0.0, common=0.0, draws=4000)
    spread = math.sqrt(sum(triang.var(1.0 / 3.0, loc=least, scale=more) if more else 0.0 for least, more in pieces))
    assert found.work == pytest.approx(exact, abs=4.0 * spread / math.sqrt(4000.0) + 1e-6)


def test_a_wait_decides_when_it_is_longer() -> None:
    """Closed forms: the later of work and arrival; an arrival spread over five days is on each of them one time in five."""
    start = start_on("2026-11-30T08:00")  # a Monday
    work = [dates.Work(3600.0, 3600.0), dates.Work(3600.0, 3600.0, after=(0,))]
    sure = dates.finish(work, [dates.Arrival(date(2026, 12, 9), date(2026, 12, 9))], start, DAYS, trouble=0.0, common=0.0)
    assert sure.early == sure.late == date(2026, 12, 9)
    early = dates.finish(work, [dates.Arrival(date(2026, 11, 20), date(2026, 11, 20))], start, DAYS, trouble=0.0, common=0.0)
    assert early.late == date(2026, 11, 30)
    spread = dates.finish(
        work,
        [dates.Arrival(date(2026, 11, 30), date(2026, 12, 4))],
        start,
        DAYS,
        trouble=0.0,
        common=0.0,
        promised=date(2026, 12, 1),
        draws=8000,
    )
    assert spread.kept == pytest.approx(2.0 / 5.0, abs=0.03)
    assert [day for day, _ in spread.days] == [date(2026, 11, 30) + timedelta(days=n) for n in range(5)]
    cold = dates.finish(
        [dates.Work(12 * 3600.0, 12 * 3600.0, waits=True), dates.Work(60.0, 60.0)], [], start, DAYS, trouble=0.0, common=0.0
    )
    assert cold.middle == date(2026, 12, 1)
    late = dates.finish([dates.Work(8 * 3600.0, 8 * 3600.0)], [], start, DAYS, trouble=1.0, common=0.0)
    assert late.late > date(2026, 12, 1)


def test_own_times_weigh_more_the_more_there_are() -> None:
    slow = [(1500.0, 1000.0)]
    assert dates.own_factor([])[0] == 1.0
    one, many = dates.own_factor(slow)[0], dates.own_factor(slow * 60)[0]
    assert 1.0 < one < many < 1.5
    assert many == pytest.approx(1.5, rel=0.02)


@settings(max_examples=25, deadline=None)
@given(st.lists(st.tuples(st.integers(1, 12), st.integers(0, 30)), min_size=2, max_size=5))
def test_what_is_due_first_comes_first(jobs: list[tuple[int, int]]) -> None:
    """Jackson's rule against every order there is (Jackson 1955): no order has a smaller worst lateness."""
    start = start_on("2026-11-30T08:00")
    asked = [
        dates.BenchJob(f"job {n}", hours * 3600.0, date(2026, 11, 30) + timedelta(days=due), start.date())
        for n, (hours, due) in enumerate(jobs)
    ]
    calendar = dates.Calendar(start, DAYS)

    def worst(order: tuple[dates.BenchJob, ...]) -> int:
        done, late = 0.0, 0
        for job in order:
            done += job.work
            ends = (start + timedelta(seconds=float(calendar.moment(np.array([done]))[0]))).date()
            late = max(late, (ends - job.due).days if job.due else 0)
        return late

    assert max(turn.late for turn in dates.bench_order(asked, start, DAYS)) == min(worst(order) for order in itertools.permutations(asked))


def test_what_waits_for_parts_lets_others_before_it() -> None:
    start = start_on("2026-11-30T08:00")
    turns = dates.bench_order(
        [dates.BenchJob("waits", 3600.0, date(2026, 12, 1), date(2026, 12, 7)), dates.BenchJob("ready", 3600.0, None, start.date())], start, DAYS
    )  # fmt: skip
    assert [turn.name for turn in turns] == ["ready", "waits"]
    assert turns[1].begins == date(2026, 12, 7)
    assert turns[1].late == 6


@pytest.mark.parametrize("name", sorted(symptoms.symptoms()))
def test_what_a_test_tells(name: str) -> None:
    """Identities of probability: odds expected after a test are those before it; what it tells is the mutual information, computed the other way round."""
    symptom = symptoms.symptoms()[name]
    assert sum(symptom.odds.values()) == pytest.approx(1.0)
    assert set(symptom.odds) <= symptoms.causes().keys()
    for worth in symptoms.next_tests(symptom, []):
        yes, no = (symptoms.after(symptom.odds, worth.test, true=true) for true in (True, False))
        for cause, share in symptom.odds.items():
            assert worth.chance * yes[cause] + (1.0 - worth.chance) * no[cause] == pytest.approx(share)
        binary = lambda p: -(p * math.log2(p) + (1.0 - p) * math.log2(1.0 - p))
        mutual = binary(worth.chance) - sum(share * binary(worth.test.likely[cause]) for cause, share in symptom.odds.items())
        assert worth.bits == pytest.approx(mutual)
        assert worth.bits >= 0.0
    first = symptoms.next_tests(symptom, [])[0]
    left = symptoms.next_tests(symptom, [(first.test.id, True)])
    assert first.test.id not in {each.test.id for each in left}


def test_symptoms_end_in_a_job_there_is() -> None:
    assert {cause.job for cause in symptoms.causes().values()} - {""} <= {kind.value for kind in JobKind}


def test_what_is_kept_as_data_hangs_together() -> None:
    """Every trouble's own step that names one of the plan's exists; every sign says what it means; every school is told at a step there is."""
    assert len(knowledge.troubles()) >= 16
    assert all(trouble.steps and trouble.at_once for trouble in knowledge.troubles().values())
    assert all(1 <= sign.grade <= 5 and sign.means and sign.follows for sign in knowledge.signs().values())
    assert all(way.step in steps() and way.because for school in knowledge.schools().values() for way in school.ways)
    assert all(len(school.ways) > 1 for school in knowledge.schools().values())
    told = [step for step in steps().values() if step.torque or step.slip or step.reading or step.used_up]
    assert len(told) > 70


def test_coming_back_counts_every_valve() -> None:
    offer = next(each for each in knowledge.offers(facts_of(TRIPLE, JobSpec(JobKind.FULL))) if each.id == "seals")
    one, twelve = knowledge.again_for(offer, 1, 1), knowledge.again_for(offer, 12, 3)
    per = [steps()[each] for each in offer.again if steps()[each].per == "valve"]
    assert twelve[0] - one[0] == pytest.approx(11.0 * sum(step.least for step in per))


@pytest.mark.parametrize("offer", ["seals", "chain", "belt", "guidebush", "springs", "followers", "rods", "water"])
def test_each_offer_is_made_once_and_withheld_once(offer: str) -> None:
    every = JobSpec(JobKind.FULL, has=frozenset({"liquid"}), renewed=frozenset({"cam"}))
    belt = JobSpec(JobKind.FULL, drive="belt")
    pushrod = EngineKind(1, 1, Gear.PUSH_ROD, Follower.ROCKER, Adjuster.SCREW)
    made = {
        each.id
        for facts in (facts_of(TRIPLE, every), facts_of(TRIPLE, belt), facts_of(pushrod, JobSpec(JobKind.SPRINGS)))
        for each in knowledge.offers(facts)
    }
    assert offer in made
    bare = JobSpec(JobKind.CLEARANCES, renewed=frozenset({"spring", "follower"}), here="engine")
    assert offer not in {
        each.id for each in knowledge.offers(facts_of(EngineKind(1, 1, Gear.SIDE_VALVE, Follower.TAPPET, Adjuster.STEM_GRIND), bare))
    }


def test_a_detour_comes_first_and_then_the_plan_goes_on() -> None:
    plan = plan_of(TRIPLE, JobSpec(JobKind.FULL))
    longer = with_detours(plan, [Detour(7, knowledge.troubles()["stud"], "o23")])
    keys = [item.key for item in longer.items]
    mended = [f"t7.{n + 1}" for n in range(len(knowledge.troubles()["stud"].steps))]
    assert keys[keys.index("o23") - len(mended) : keys.index("o23")] == mended
    done = {item.key: item.times for item in plan.items[: [item.key for item in plan.items].index("o23")]}
    assert "A trouble" in waiting_for(longer, "o23", done)[0].rule.why
    assert waiting_for(longer, "t7.1", done) == []
    done |= dict.fromkeys(mended, 1)
    assert waiting_for(longer, "o23", done) == []
    low, high = (sum(getattr(item.step, each) for item in longer.items if item.detour) for each in ("least", "most"))
    assert (low, high) == pytest.approx(tuple(3600.0 * each for each in knowledge.troubles()["stud"].hours))


def test_a_person_may_reorder_within_the_rules() -> None:
    """A step goes earlier where no rule stands against it; against a rule the rule is named; and a later one does not repeat it."""
    plan = plan_of(TRIPLE, JobSpec(JobKind.SPRINGS))
    keys = [item.key for item in plan.items]
    assert newly_broken(plan, "i03-1", "i02-1") == [] or {each.rule.why for each in newly_broken(plan, "i03-1", "i02-1")}
    wrong = newly_broken(plan, "s03-1", "h02-1")
    assert wrong
    assert all(each.rule.why for each in wrong)
    swapped = moved(plan, [("s03-1", "h02-1"), ("nothing", "h02-1")])
    assert [item.key for item in swapped.items].index("s03-1") == keys.index("h02-1")
    assert {item.key for item in swapped.items} == set(keys)


def test_seals_before_seats_only_where_the_seat_passes() -> None:
    for has, order, first in ((set(), "seal", "a03"), ({"passes"}, "seal", "a04"), ({"passes"}, "seat", "a03"), (set(), "seat", "a03")):
        plan = plan_of(TRIPLE, JobSpec(JobKind.FULL, has=frozenset(has), seal_order=order))
        keys = [item.key for item in plan.items]
        assert min(("a03", "a04"), key=keys.index) == first, (has, order)
    assert sum(rule.id == "seat-then-seal" for rule in order_rules()) == 1


def test_what_was_heard_weighs_the_causes_by_bayes() -> None:
    """By hand for two causes: limiter 0.5 and float 0.5, a beat heard with 90 in 100 and ten left open; nothing heard moves nothing."""
    heard = symptoms.WayHeard(beat=0.9, ragged=0.0, clatter=0.0)
    third = 0.1 / 3.0
    limiter = 0.93 * (0.9 + third) + 0.06 * third + 0.01 * third
    floats = 0.03 * (0.9 + third) + 0.17 * third + 0.80 * third
    told = symptoms.heard_odds({"limiter": 0.5, "float": 0.5}, heard)
    assert told["limiter"] == pytest.approx(limiter / (limiter + floats))
    for name, symptom in symptoms.symptoms().items():
        nothing = symptoms.told_odds(symptom, [], symptoms.WayHeard(beat=0.0, ragged=0.0, clatter=0.0))
        assert nothing == pytest.approx(dict(symptom.odds)), name
        clatter = symptoms.told_odds(symptom, [], symptoms.WayHeard(beat=0.0, ragged=0.05, clatter=0.9))
        assert sum(clatter.values()) == pytest.approx(1.0)
        if "float" in symptom.odds:
            assert clatter["float"] > symptom.odds["float"]
