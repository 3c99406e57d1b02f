"""From a side's figures to its motion, the band around it, and the refusal where nothing can be said."""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.valvetrain.builders import empty_build, known_build, measured, on_its_own_lobe
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.motion.case import draw, motion_case, motion_figures
from valvetrain.studies.motion.review import MotionReview, Onset, judge_motion, onsets, review_motion
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.side_figures import nominal_float_speed, nominal_seat_load, weakest
from valvetrain.units import told


def _side(**engine: float) -> tuple[TrainSide, Goal]:
    record = known_build()
    record = replace(record, engine={**record.engine, **{key: measured(value, value * 0.1) for key, value in engine.items()}})
    done = complete(record)
    return done.proposed.sides[Side.INTAKE], done.goal


def test_case_carries_the_sides_own_figures() -> None:
    side, _ = _side(train_stiffness=25e6)
    case = motion_case(side, weakest(side))
    assert sum(spring.preload for spring in case.springs) == pytest.approx(nominal_seat_load(side, weakest(side)))
    assert case.springs[0].rate == 38400.0
    assert case.springs[0].room == pytest.approx(37.2e-3 - 26.1e-3)
    assert case.mass == pytest.approx((42.6 + 11.8 + 1.9 + 36.4 + 1.4) * 1e-3)
    assert case.train_stiffness == 25e6
    assert case.rounding == 0.0  # the lobes that meet the card have corners of their own
    assert case.springs[0].mass + 2 * case.springs[0].end == pytest.approx(45.9e-3)


def test_bent_line_moves_rate_and_load_to_the_installed_height() -> None:
    side, _ = _side()
    spring = replace(side.springs[0].spring, bend=measured(5e5), load_height=measured(39.2e-3), load=measured(100.0), rate=measured(30e3))
    side = replace(side, springs=(replace(side.springs[0], spring=spring),))
    case = motion_case(side, weakest(side))
    assert case.springs[0].preload == pytest.approx(100.0 + 30e3 * 2e-3 + 5e5 * 4e-6)
    assert case.springs[0].rate == pytest.approx(30e3 + 2 * 5e5 * 2e-3)
    assert spring.force(spring.free_length) == pytest.approx(0.0, abs=1e-9)
    assert spring.rate_at(37.2e-3) == pytest.approx(case.springs[0].rate)


def test_draws_follow_their_distributions() -> None:
    figures = {"lift": Figure(9e-3, 0.2e-3), "shake:clash": Figure(20.0, 20.0, Basis.ESTIMATE), "exact": Figure(1.0)}
    drawn = draw(figures, 4000)
    assert drawn.names == ("lift", "shake:clash")
    lift, clash = drawn.values
    assert lift.mean() == pytest.approx(9e-3, rel=1e-4)
    assert lift.std() == pytest.approx(0.1e-3, rel=0.01)  # a spread is two standard deviations
    assert np.quantile(clash, [0.0228, 0.5, 0.9772]) == pytest.approx([10.0, 20.0, 40.0], rel=0.02)
    assert clash.min() > 0.0
    again = draw(figures, 4000)
    assert np.array_equal(drawn.values, again.values)
    assert set(drawn.case(0)) == {"lift", "shake:clash"}


def test_each_stratum_of_a_hypercube_holds_one_draw() -> None:
    # jcgm 101 draws at random; the hypercube must only spread them evenly
    drawn = draw({"a": Figure(0.0, 2.0), "b": Figure(0.0, 2.0)}, 16)
    for row in drawn.scores:
        share = 0.5 * (1 + np.vectorize(math.erf)(row / math.sqrt(2)))
        assert sorted((share * 16).astype(int)) == list(range(16))


@pytest.fixture(scope="module")
def found() -> tuple[TrainSide, Goal, MotionReview]:
    side, goal = _side()
    return side, goal, review_motion(side, goal)


def test_review_finds_loss_of_contact_below_the_rigid_speed(found: tuple[TrainSide, Goal, MotionReview]) -> None:
    side, goal, review = found
    assert review.cannot == ""
    assert review.rigid == pytest.approx(nominal_float_speed(side, weakest(side)))
    assert review.first
    assert review.sustained
    assert review.sweep
    # common practice: real trains let go 10 to 20 % before a rigid one, and the band must not be nothing
    assert 0.7 * review.rigid < review.sustained.value < 1.1 * review.rigid
    assert review.first.value <= review.sustained.value
    assert review.sustained.low < review.sustained.value < review.sustained.high
    assert review.sustained.low < onsets(review.sweep)[1] < review.sustained.high  # the lobe that is drawn is one of many
    assert np.isclose(review.sweep.speed, goal.goal_rpm).any()


def test_surge_marks_stand_where_the_order_meets_the_springs_own_frequency(found: tuple[TrainSide, Goal, MotionReview]) -> None:
    _, _, review = found
    assert review.case
    assert review.surge
    for zone in review.surge:
        own = review.case.springs[zone.spring].own / (2 * math.pi)
        assert zone.peak / 2.0 * zone.order == pytest.approx(own, rel=0.5 / zone.order)
        assert zone.low <= zone.peak <= zone.high


def test_stiffer_springs_hold_longer() -> None:
    side, goal = _side()
    spring = side.springs[0].spring
    strong = replace(spring, rate=measured(spring.rate.value * 1.3), load=measured(spring.load.value * 1.3))
    more = replace(side, springs=(replace(side.springs[0], spring=strong),))
    before, after = review_motion(side, goal, draws=4), review_motion(more, goal, draws=4)
    assert before.sustained
    assert after.sustained
    assert after.sustained.value > 1.05 * before.sustained.value


def test_nothing_is_said_of_an_engine_of_which_nothing_is_known() -> None:
    done = complete(empty_build(EngineKind(1, 1, Gear.OHC, Follower.ROCKER, Adjuster.SCREW)))
    review = review_motion(done.proposed.sides[Side.INTAKE], done.goal)
    assert "weigh one and press it at two heights" in review.cannot
    assert review.sweep is None
    assert judge_motion(review, 100.0) is Verdict.UNPROVEN


def test_untrusted_acceleration_is_named() -> None:
    side, goal = _side()
    review = review_motion(replace(on_its_own_lobe(side), shape=Figure(1.0, 0.4, Basis.ESTIMATE)), goal)
    assert "acceleration is not known well enough (±40%)" in review.cannot
    assert "degree-wheel log" in review.cannot


def test_spring_that_binds_is_named_not_computed() -> None:
    side, goal = _side()
    tall = replace(side.springs[0].spring, solid_height=measured(30e-3))
    review = review_motion(replace(side, springs=(replace(side.springs[0], spring=tall),)), goal)
    assert "solid after 7.20 mm, before the full lift" in told(review.cannot)


@pytest.mark.parametrize(
    "onset, estimated, limit, verdict",
    [
        (Onset(150.0, 140.0, 155.0), True, 130.0, Verdict.HOLDS),
        (Onset(150.0, 140.0, 155.0), True, 145.0, Verdict.UNPROVEN),
        (Onset(150.0, 140.0, 155.0), False, 145.0, Verdict.SLIM),
        (Onset(150.0, 140.0, 155.0), True, 160.0, Verdict.SHORT),
        (Onset(150.0, 140.0, 155.0), True, 152.0, Verdict.UNPROVEN),
        (Onset(170.0, 160.0, 170.0, beyond=True), True, 150.0, Verdict.HOLDS),
    ],
)
def test_verdict_of_a_motion(onset: Onset, *, estimated: bool, limit: float, verdict: Verdict) -> None:
    side, _ = _side()
    assert judge_motion(MotionReview(weakest(side), sustained=onset, estimated=estimated), limit) is verdict


def test_figures_of_a_motion_are_named_once() -> None:
    side, _ = _side()
    figures = motion_figures(side)
    assert {"rate_0", "solid_0", "mass:spring 0", "shake:train_stiffness", "active_0", "shape"} <= figures.keys()
