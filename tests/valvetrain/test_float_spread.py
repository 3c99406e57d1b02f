"""Monte Carlo of the rigid separation speed against published uncertainty examples, first order, and its own logic."""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.valvetrain.builders import known_build, measured, on_its_own_lobe
from valvetrain.errors import ContradictionError
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.motion.case import draw
from valvetrain.studies.motion.float_spread import float_spread
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.float_rows import float_speed
from valvetrain.studies.train.side_figures import weakest
from valvetrain.studies.train.uncertainty import propagate


def _side() -> TrainSide:
    side = on_its_own_lobe(complete(known_build()).proposed.sides[Side.INTAKE])
    spring = side.springs[0].spring
    unsure = replace(spring, rate=Figure(38400.0, 2300.0, Basis.CARD), load=Figure(178.0, 11.0, Basis.CARD))
    masses = dict(side.masses) | {"valve": Figure(42.6e-3, 6e-3, Basis.ESTIMATE)}
    return replace(side, springs=(replace(side.springs[0], spring=unsure),), masses=masses, shape=Figure(1.0))


def test_end_gauge_calibration_of_the_gum() -> None:
    # JCGM 100, H.1, from memory: components 25, 9.7, 2.9, 16.6 nm combine to 32 nm
    parts = {name: Figure(0.0, 2.0 * u) for name, u in zip("abcd", (25.0, 9.7, 2.9, 16.6), strict=True)}
    found = propagate(lambda x: sum(x.values()), parts)
    assert found.spread / 2.0 == pytest.approx(32.0, rel=0.015)


def test_additive_model_of_the_supplement() -> None:
    # JCGM 101, 9.2.2, from memory: four standard normals add to u = 2 with a 95 % interval of 3.92 either side
    drawn = draw({name: Figure(0.0, 2.0) for name in "abcd"}, 80_000).values.sum(axis=0)
    low, high = np.quantile(drawn, [0.025, 0.975])
    assert drawn.std() == pytest.approx(2.0, rel=0.01)
    assert (-low, high) == pytest.approx((3.92, 3.92), rel=0.02)


def test_where_the_model_is_nearly_straight_both_ways_agree() -> None:
    side = _side()
    many, straight = float_spread(side, weakest(side)), float_speed(side, weakest(side))
    assert many.middle == pytest.approx(straight.value, rel=0.002)
    assert (many.high - many.low) / 2.0 == pytest.approx(straight.spread, rel=1e-9)
    assert len(many.speeds) == 1024
    assert many.lost == 0


def test_square_root_in_the_mass_is_carried_not_straightened() -> None:
    # n ~ m^-1/2: with the mass alone unsure by 30 % (k = 2) the quantiles are those of the mass, put through the root
    side = _side()
    spring = side.springs[0].spring
    exact = replace(spring, rate=measured(38400.0), load=measured(178.0))
    masses = {"all": Figure(0.1, 0.03, Basis.ESTIMATE)}
    side = replace(side, springs=(replace(side.springs[0], spring=exact),), masses=masses)
    found = float_spread(side, weakest(side))
    third = spring.mass.value / 3.0
    for quantile, score in ((found.low, 1.96), (found.high, -1.96)):
        assert quantile / found.middle == pytest.approx(math.sqrt((0.1 + third) / (0.1 + score * 0.015 + third)), rel=0.01)


def test_same_draws_every_time_and_shares_below_a_speed() -> None:
    side = _side()
    one, two = float_spread(side, weakest(side)), float_spread(side, weakest(side))
    assert np.array_equal(one.speeds, two.speeds)
    assert one.below(one.middle) == pytest.approx(0.5, abs=0.001)
    assert one.below(one.low) == pytest.approx(0.025, abs=0.001)
    assert one.below(0.0) == 0.0


def test_measure_next_is_what_narrows_most_and_tells_by_how_much() -> None:
    side = _side()
    found = float_spread(side, weakest(side))
    assert found.narrowing[0].what == "mass:valve"
    assert [item.after for item in found.narrowing] == sorted(item.after for item in found.narrowing)
    best = found.narrowing[0]
    weighed = dict(side.masses) | {"valve": Figure(42.6e-3, 42.6e-3 * 0.005, Basis.MEASURED)}
    after = float_spread(replace(side, masses=weighed), weakest(side))
    assert (after.high - after.low) / 2.0 == pytest.approx(best.after, rel=0.04)
    assert best.before > best.after


def test_springs_longer_than_their_space_are_not_given_a_number() -> None:
    side = _side()
    loose = replace(side.springs[0].spring, load=measured(-900.0))
    with pytest.raises(ContradictionError, match="longer than its space"):
        float_spread(replace(side, springs=(replace(side.springs[0], spring=loose),)), weakest(side))
