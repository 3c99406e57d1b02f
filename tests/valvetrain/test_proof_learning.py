"""What results teach: own hand, workshop's priors, scores, which test next, throttles, evidence. Against closed forms and simulated truth.

Check values: 22.1 to 22.5, 23.1 to 23.3 of the trade's list of methods; conjugate normal model after Gelman et al.
"""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from scipy.stats import binomtest

from tests.valvetrain.builders import known_build
from valvetrain.errors import OutOfRangeError
from valvetrain.formats import build_file
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, Figure
from valvetrain.studies.clearance.hours_left import Passage, hours_left
from valvetrain.studies.clearance.shim_plan import ClearanceLimits
from valvetrain.studies.proof import evidence, own_hand, own_results, planner, score, throttle
from valvetrain.studies.proof.own_hand import PRIOR, Pair, Seen
from valvetrain.studies.proof.own_results import Learned, Result
from valvetrain.studies.train.assembly import complete

EIGHT = [0.008, -0.003, 0.004, 0.006, 0.001, 0.009, -0.002, 0.005]


def pairs(errors: list[float], **more: object) -> list[Pair]:
    return [Pair(promised=0.2e-3, read=0.2e-3 + error * 1e-3, **more) for error in errors]  # type: ignore[arg-type]


def test_eight_pairs() -> None:
    """22.1 and 22.2."""
    found = PRIOR.after_all(each * 1e-3 for each in EIGHT)
    assert (found.mean * 1e3, found.spread * 1e3, found.spread_worth) == pytest.approx((0.0031111111, 0.0048495895, 12.0))
    assert found.half_width() * 1e3 == pytest.approx(0.0111379086)
    assert PRIOR.half_width() * 1e3 == pytest.approx(0.0226695794)
    hand = own_hand.learn(pairs(EIGHT))
    assert hand.used
    assert hand.half * 1e3 == pytest.approx(0.0111379086)
    assert hand.wider


def test_spread_of_one_blade() -> None:
    """22.3: sqrt((s^2 - 2 u^2) / 2)."""
    square = (9e-6**2 - 2 * own_hand.MICROMETER**2) / 2
    assert math.sqrt(square) * 1e3 == pytest.approx(0.0053795896)


def test_own_pairs_see_neither_bias_nor_zero() -> None:
    """22.4: the rank of the design; pairs by another hand or by label do not count into the spread."""
    assert own_hand.design_rank() == 0
    assert [own_hand.design_rank(**{key: True}) for key in ("other_hand", "by_label", "known_gap", "known_shim")] == [1, 1, 1, 1]
    assert own_hand.sees(pairs([0.0])[0]) is Seen.SPREAD
    assert own_hand.sees(pairs([0.0], by_label=True)[0]) is Seen.ZERO
    assert own_hand.sees(pairs([0.0], other_hand=True)[0]) is Seen.BIAS
    assert own_hand.learn(pairs(EIGHT) + pairs([0.08] * 5, other_hand=True)).pairs == 8


def test_a_block_shows_the_zero() -> None:
    """22.5."""
    found = own_hand.zero_of([2.5e-3 + each * 1e-6 for each in (4, 6, 5, 3, 7)], 2.5e-3)
    assert (found.zero * 1e3, found.uncertainty * 1e3) == pytest.approx((0.005, 0.0012247449))
    assert found.told
    with pytest.raises(OutOfRangeError):
        own_hand.zero_of([1.0, 1.0], 1.0)


@pytest.mark.parametrize(("spread", "least"), [(0.004, 0.93), (0.006, 0.93)])
def test_the_band_of_a_hand_holds(spread: float, least: float) -> None:
    """Simulated hands, 8 pairs then one more: the 95 % band holds the next in 93 of 100 and more; a fine hand gets a band under the trade's."""
    draw = np.random.default_rng(4)
    held, halves = 0, []
    for _ in range(600):
        errors = draw.normal(0.0, spread, 17).tolist()
        hand = own_hand.learn(pairs(errors[:16]))
        belief = PRIOR.after_all(each * 1e-3 for each in errors[:16])
        held += abs(errors[16] * 1e-3 - belief.mean) <= hand.half
        halves.append(hand.half)
    assert held / 600 > least
    assert (float(np.median(halves)) < own_hand.DEFAULT_HALF) == (spread < 0.005)


def test_a_slip_is_set_aside_and_named() -> None:
    hand = own_hand.learn(pairs([*EIGHT, 0.05]))
    assert [round(each.error * 1e3, 3) for each in hand.slips] == [0.05]
    assert hand.pairs == 8


def test_too_few_pairs_leave_the_trade_alone() -> None:
    assert not own_hand.learn(pairs(EIGHT[:7])).used
    assert own_hand.learn(pairs(EIGHT[:5], kind="shim under"), "shim under").used
    assert not own_hand.learn([]).used


ODDS = {"float": 0.35, "clearance": 0.15, "fuel": 0.2, "spark": 0.2, "limiter": 0.1}


def test_bits_of_the_worked_example() -> None:
    """23.1 and 23.2."""
    assert planner.entropy(list(ODDS.values())) == pytest.approx(2.201609497)
    ranked = {each.test.key: each for each in planner.rank(ODDS, 60.0)}
    sound = ranked["sound"]
    assert (sound.bits, sound.about_float, sound.cost, sound.an_hour) == pytest.approx((0.6691348218, 0.3879719474, 5.0, 8.0296178614))
    assert (ranked["plugs"].bits, ranked["plugs"].about_float, ranked["plugs"].cost) == pytest.approx((0.3876853238, 0.0796928281, 27.0))
    assert (ranked["gear"].bits, ranked["gear"].about_float) == pytest.approx((0.153799, 0.0736173), rel=1e-4)
    assert ranked["shim"].about_float == pytest.approx(0.53, abs=0.01)
    assert planner.rank(ODDS, 60.0)[0].test.key == "sound"


def test_a_useless_and_a_perfect_test() -> None:
    """23.3."""
    odds = list(ODDS.values())
    assert planner.expected_bits(odds, [[0.3] * 5, [0.7] * 5]) == pytest.approx(0.0, abs=1e-9)
    assert planner.expected_bits(odds, np.eye(5).tolist()) == pytest.approx(planner.entropy(odds))


@pytest.mark.parametrize("test", planner.tests(), ids=lambda each: each.key)
def test_tables_add_up_under_every_cause(test: planner.RevTest) -> None:
    for cause in range(5):
        assert sum(outcome.under[cause] for outcome in test.outcomes) == pytest.approx(1.0)
    assert all(each >= 0.01 for outcome in test.outcomes for each in outcome.under)
    for outcome in test.outcomes:
        assert sum(planner.after(ODDS, outcome).values()) == pytest.approx(1.0)


def test_odds_must_add_up() -> None:
    with pytest.raises(OutOfRangeError):
        planner.entropy([0.5, 0.4])


def test_scores_say_when_bands_are_too_narrow() -> None:
    """Source: scipy's exact binomial interval."""
    good = [score.Forecast(kind="float", middle=10.0, low=9.0, high=11.0, result=each) for each in (9.5, 10.2, 10.4, 10.9, 11.4)]
    found = score.score("float", good)
    exact = binomtest(4, 5).proportion_ci(method="exact")
    assert (found.held, found.count, found.low, found.high) == pytest.approx((4, 5, exact.low, exact.high))
    assert not found.too_narrow
    assert found.bias == pytest.approx((-0.5 + 0.2 + 0.4 + 0.9 + 1.4) / 5)
    bad = [score.Forecast(kind="p", middle=1.0, low=0.9, high=1.1, result=2.0)] * 12
    assert score.score("p", bad).too_narrow
    assert [each.kind for each in score.by_kind([*good, *bad, score.Forecast(kind="x", middle=1, low=0, high=2)])] == ["p", "float"]
    assert good[0].inside
    assert not good[-1].inside
    assert score.Forecast(kind="x", middle=1, low=0, high=2).inside is None


@given(st.lists(st.floats(1e6, 1e8), min_size=1, max_size=20))
def test_own_results_move_towards_what_was_found(results: list[float]) -> None:
    trade = (20e6, 5e6, 40e6)
    found = own_results.learn(Learned.STIFFNESS, [Result(value=each) for each in results], trade)
    mean = math.exp(sum(math.log(each) for each in results) / len(results))
    assert min(mean, trade[0]) * 0.999 <= found.middle <= max(mean, trade[0]) * 1.001
    assert found.low < found.middle < found.high
    assert found.usable == (len(results) >= 3)


def test_own_results_cover_the_next_engine() -> None:
    """Simulated workshops whose engines scatter by a fifth: the band after six results holds the seventh in over 90 of 100, and is narrower."""
    draw = np.random.default_rng(9)
    held = narrower = 0
    trade = (20e6, 5e6, 40e6)
    for _ in range(300):
        engines = np.exp(math.log(draw.uniform(12e6, 30e6)) + 0.2 * draw.standard_normal(7))
        found = own_results.learn(Learned.STIFFNESS, [Result(value=each) for each in engines[:6].tolist()], trade)
        held += found.low <= engines[6] <= found.high
        narrower += found.high / found.low < trade[2] / trade[1]
    assert held / 300 > 0.9
    assert narrower / 300 > 0.9
    with pytest.raises(OutOfRangeError):
        own_results.learn(Learned.DAMPING, [Result(value=0.0)])


@pytest.mark.parametrize("values", [[], [1.3], [0.8, 0.9, 1.3, 0.7, 1.5]])
def test_exact_results_follow_the_closed_form(values: list[float]) -> None:
    """Without doubts of their own the next engine is a Student's t (Gelman et al., BDA3, section 3.3), and with none at all the trade's band."""
    trade = (1.0, 0.5, 2.0)
    found = own_results.learn(Learned.STIFFNESS, [Result(value=each) for each in values], trade)
    spread = math.log(4.0) / (2.0 * stats.t.ppf(0.975, 4) * math.sqrt(2.0))
    logs = np.log(values)
    worth, freedom = 1.0 + len(values), 4.0 + len(values)
    mean = logs.sum() / worth
    square = 4.0 * spread**2 + (logs**2).sum() - worth * mean**2
    half = stats.t.ppf(0.975, freedom) * math.sqrt(square / freedom * (1.0 + 1.0 / worth))
    assert (found.low, found.middle, found.high) == pytest.approx((math.exp(mean - half), math.exp(mean), math.exp(mean + half)), rel=2e-4)


def test_a_vague_result_moves_little_and_no_order_matters() -> None:
    """A result as wide as the trade itself counts for less than an exact one; what it is told with never turns the band about."""
    exact = own_results.learn(Learned.DAMPING, [Result(value=2.0)] * 4)
    vague = own_results.learn(Learned.DAMPING, [Result(value=2.0, doubt=0.8)] * 4)
    assert 1.0 < vague.middle < exact.middle < 2.0
    assert vague.high / vague.low > exact.high / exact.low
    mixed = [Result(value=1.2, doubt=0.2), Result(value=0.7, doubt=0.5), Result(value=1.9)]
    there, back = (own_results.learn(Learned.DAMPING, each) for each in (mixed, mixed[::-1]))
    assert (there.low, there.high) == pytest.approx((back.low, back.high))


@pytest.mark.parametrize(("truth", "doubt"), [(1.5, 0.3), (0.7, 0.1), (1.0, 0.9)])
def test_what_an_observation_says_alone_is_told_apart_from_the_belief_it_was_mixed_with(truth: float, doubt: float) -> None:
    """Product of two normal courses by hand: belief about 1.2 of the trade's within a factor of 2 (k = 2), an observation of `truth`."""
    share, part = 1.0, 1.2
    wide = math.log1p(share) / 2.0
    precision = 1.0 / wide**2 + 1.0 / doubt**2
    after = (math.log(part) / wide**2 + math.log(truth) / doubt**2) / precision
    told = own_results.told_by((after - math.log(part)) / wide, 1.0 / math.sqrt(precision) / wide, share, part)
    assert told is not None
    assert (told.value, told.doubt) == pytest.approx((truth, doubt))
    assert own_results.told_by(0.1, 0.99, share) is None


def test_own_results_move_estimates_and_nothing_else() -> None:
    """A train twice as stiff as supposed floats elsewhere; what was typed stays; the record's file carries none of it."""
    record = known_build()
    own = {"train_stiffness": Figure(2.0, 0.6, Basis.ESTIMATE), "spring_damping": Figure(0.5, 0.2, Basis.ESTIMATE)}
    plain, moved = complete(record), complete(replace(record, own=own))
    for key, part, share in (("train_stiffness", 2.0, 0.3), ("spring_damping", 0.5, 0.4)):
        assert moved.engine[key].value == pytest.approx(part * plain.engine[key].value)
        assert moved.engine[key].spread == pytest.approx(share * moved.engine[key].value)
    vibration = moved.proposed.sides[Side.INTAKE].vibration
    assert vibration["train_stiffness"] == moved.engine["train_stiffness"]
    typed = Figure(17e6, 1e6, Basis.MEASURED)
    both = replace(record, own=own, engine={**record.engine, "train_stiffness": typed})
    assert complete(both).engine["train_stiffness"] == typed
    assert build_file.write(replace(record, own=own)) == build_file.write(record)


def test_a_pace_of_ones_own_shortens_the_wait_where_little_was_read() -> None:
    """Two sheets that show no wear: with engines that close fast the limit may come sooner, with slow ones later."""
    limits = ClearanceLimits(0.10e-3, 0.20e-3)
    sheets = [Passage(0.0, 0.14e-3, 0.14e-3, 0.01e-3), Passage(8.0, 0.14e-3, 0.14e-3, 0.01e-3)]
    fast, usual, slow = (hours_left(sheets, limits, pace) for pace in ((3e-6, 1e-6), None, (0.2e-6, 0.1e-6)))
    assert fast.least is not None
    assert usual.least is not None
    assert fast.least < usual.least < (slow.least or math.inf)


def test_throttles() -> None:
    """25.1 and 25.4, and pulses: one cylinder on its own throttle reads 3.7 times its mean flow's vacuum."""
    intake = throttle.Intake(bore=36e-3, throttles=1, cylinders=4, swept=0.6e-3, pressure=101300.0)
    found = throttle.judge(
        [throttle.Vacuum(speed=150.0, vacuum=3000.0), throttle.Vacuum(speed=10_000 / 60, vacuum=6200.0, before=1550.0)], intake
    )
    assert found.restriction is throttle.Restriction.WORTH
    assert (found.cure * 1e3, found.gain, found.filter_share) == pytest.approx((51.3307498, 0.0494216614, 0.25))
    assert found.pulses == pytest.approx(1.01, abs=0.01)
    calm = throttle.judge([throttle.Vacuum(speed=10_000 / 60, vacuum=4000.0)], intake)
    assert calm.effective_bore * 1e3 == pytest.approx(29.929, rel=0.01)
    single = throttle.judge(
        [throttle.Vacuum(speed=150.0, vacuum=1000.0)], throttle.Intake(bore=42e-3, throttles=2, cylinders=2, swept=0.6e-3)
    )
    assert single.restriction is throttle.Restriction.NONE
    assert single.pulses == pytest.approx(3.70, abs=0.01)
    assert single.gain == 0.0
    for wrong in ([], [throttle.Vacuum(speed=100.0, vacuum=90e3)]):
        with pytest.raises(OutOfRangeError):
            throttle.judge(wrong, intake)


@pytest.mark.parametrize(
    ("seen", "absent", "first"),
    [
        (["face_burnt", "gap_closed"], ["piston_mark"], "tight"),
        (["stem_seized", "bent_one"], ["face_burnt"], "guide"),
        (["break_clash", "break_slant", "seal_struck"], ["piston_mark"], "coil_bind"),
        (["bent_all", "piston_mark"], ["retainer_pulled"], "over_rev"),
        (["retainer_pulled", "keeper_track", "gap_wider"], ["bent_all"], "keeper"),
        (["cam_blue", "stem_seized"], [], "oil"),
        (["clean"], ["piston_mark", "keeper_track", "seat_beaten"], "limiter"),
        (["seat_beaten", "keeper_track", "retainer_hair"], ["bent_all", "break_clash"], "float"),
    ],
)  # fmt: skip
def test_marks_point_where_the_trade_looks(seen: list[str], absent: list[str], first: str) -> None:
    """Common practice, no source."""
    found = evidence.weigh(seen, absent)
    assert found[0].key == first
    assert sum(each.odds for each in found) == pytest.approx(1.0)
    assert found[0].odds < 0.97  # never a verdict


def test_the_model_is_heard_and_told() -> None:
    plain = {each.key: each for each in evidence.weigh(["keeper_track"], [])}
    word = evidence.ModelWitness(scenario="over_rev", factor=4.0, why="The log shows 12,000 rpm.")
    heard = {each.key: each for each in evidence.weigh(["keeper_track"], [], [word])}
    assert heard["over_rev"].odds > 2.0 * plain["over_rev"].odds
    assert heard["over_rev"].model == ("The log shows 12,000 rpm.",)
    assert "keeper groove of the stem worn or rolled over" in heard["keeper"].speaks_for
    assert heard["piston"].would_leave
    with pytest.raises(OutOfRangeError, match="as seen and as not there"):
        evidence.weigh(["clean"], ["clean"])
    with pytest.raises(OutOfRangeError):
        evidence.weigh(["magic"], [])
    assert len(evidence.CANNOT_KNOW) >= 3


def test_a_table_of_ones_own_is_brought_to_one_and_refused_where_it_cannot_be() -> None:
    """A test that shows the same whatever the cause tells nothing; one that never mistakes float tells all there is about float."""
    gear = next(test for test in planner.tests() if test.key == "gear")
    even = planner.changed(gear, 10.0, 0.0, [[25.0] * 5] * 4)
    assert planner.rank(ODDS, 0.0, [even])[0].bits == pytest.approx(0.0, abs=1e-9)
    sure = planner.changed(gear, 10.0, 0.0, [[300.0, 0, 0, 0, 0], [0, 100, 100, 100, 100], [0] * 5, [0] * 5])
    for place in range(5):
        assert sum(outcome.under[place] for outcome in sure.outcomes) == pytest.approx(1.0)
        assert min(outcome.under[place] for outcome in sure.outcomes) > 0.003
    alone = [ODDS["float"], 1.0 - ODDS["float"]]
    assert 0.7 * planner.entropy(alone) < planner.rank(ODDS, 0.0, [sure])[0].about_float < planner.entropy(alone)
    for minutes, rows in ((10.0, [[1.0] * 5] * 3), (0.0, [[1.0] * 5] * 4), (10.0, [[-1.0] * 5] * 4), (10.0, [[0.0, 1, 1, 1, 1]] * 4)):
        with pytest.raises(OutOfRangeError):
            planner.changed(gear, minutes, 0.0, rows)
