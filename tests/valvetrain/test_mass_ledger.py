"""Grams and what they buy, rockers three ways, and valves that stand each at their own height."""

import math
from dataclasses import replace

import pytest

from tests.valvetrain.builders import known_build, with_proposed
from valvetrain.errors import BuildFileError, ContradictionError
from valvetrain.formats import build_file
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Figure
from valvetrain.parts.record import PartRecord, ValveStand
from valvetrain.studies.springs.mass_ledger import mean_of_weighings, rocker_by_geometry, rocker_by_pendulum, rocker_by_weighing, saving
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.side_figures import moving_mass, nominal_float_speed, nominal_seat_load, weakest


def test_grams_saved_and_the_speed_they_buy_follow_the_root_of_mass() -> None:
    record = known_build()
    light = record.proposed[Side.INTAKE]
    parts = {**light.parts, Owner.RETAINER: PartRecord("titanium", {"mass": Figure(6.4e-3)})}
    done = complete(with_proposed(record, Side.INTAKE, replace(light, parts=parts)))
    stock, proposed = done.stock.sides[Side.INTAKE], done.proposed.sides[Side.INTAKE]
    found = saving(stock, proposed)
    assert found.per_valve == pytest.approx(5.4e-3)
    assert found.over_side == pytest.approx(3 * 5.4e-3)  # three valves a side in this build
    ratio = math.sqrt(moving_mass(stock).value / moving_mass(proposed).value)
    now = nominal_float_speed(proposed, weakest(proposed))
    assert found.bought == pytest.approx(now - now / ratio)
    assert found.per_gram * 60 == pytest.approx(now * 60 * 0.5e-3 / moving_mass(proposed).value, rel=0.02)


def test_weighings_make_one_figure_with_their_spread() -> None:
    found = mean_of_weighings([42.4e-3, 42.6e-3, 42.8e-3])
    assert found.value == pytest.approx(42.6e-3)
    assert found.spread == pytest.approx(2 * math.hypot(0.2e-3, 0.1e-3 / math.sqrt(12)))
    assert mean_of_weighings([42.6e-3]).spread == pytest.approx(0.2e-3 / math.sqrt(12))
    with pytest.raises(ContradictionError, match=r"one weighs 4.2 g, another 42.6 g"):
        mean_of_weighings([4.2e-3, 42.6e-3])


def test_three_ways_to_a_finger_agree_within_what_they_claim() -> None:
    # closed form: an even bar of 30 g on a pivot at its end counts a third at its tip
    mass, arm = 0.030, 33e-3
    period = 2 * math.pi * math.sqrt(2 * arm / (3 * 9.80665))
    shape, swing = rocker_by_geometry(mass, arm, 0.0), rocker_by_pendulum(mass, arm / 2, 50, 50 * period, arm)
    ends = rocker_by_weighing(mass / 2, mass / 2, arm, 0.0)
    assert shape.value == pytest.approx(0.010)
    assert swing.value == pytest.approx(0.010, rel=1e-6)
    assert abs(ends.value - 0.010) < ends.spread
    assert swing.spread < shape.spread
    assert swing.spread < ends.spread


def test_each_valve_stands_at_its_own_height_with_its_own_shim() -> None:
    record = known_build()
    stands = {"IN 1": ValveStand(37.7e-3, 0.5e-3), "IN 2": ValveStand(None, 0.3e-3), "IN 3": ValveStand(37.0e-3)}
    done = complete(with_proposed(record, Side.INTAKE, replace(record.proposed[Side.INTAKE], stands=stands)))
    side = done.proposed.sides[Side.INTAKE]
    loads = {place.name: nominal_seat_load(side, place) for place in side.positions}
    assert loads["IN 1"] == pytest.approx(178.0)
    assert loads["IN 2"] == pytest.approx(178.0 + 0.3e-3 * 38400)
    assert loads["IN 3"] == pytest.approx(178.0 + 0.2e-3 * 38400)
    assert weakest(side).name == "IN 1"
    untouched = done.stock.sides[Side.INTAKE]
    assert all(nominal_seat_load(untouched, place) == pytest.approx(178.0) for place in untouched.positions)


def test_stands_survive_the_build_file() -> None:
    record = known_build()
    stands = {"IN 1": ValveStand(37.7e-3, 0.5e-3), "IN 2": ValveStand(None, 0.3e-3)}
    record = with_proposed(record, Side.INTAKE, replace(record.proposed[Side.INTAKE], stands=stands))
    again = build_file.read(build_file.write(record)).proposed[Side.INTAKE].stands
    assert again["IN 1"].height == pytest.approx(37.7e-3)
    assert again["IN 2"] == ValveStand(None, pytest.approx(0.3e-3))  # type: ignore[arg-type]
    wrong = build_file.write(record).replace('"value": 37.7', '"value": 377.0')
    with pytest.raises(BuildFileError, match=r"proposed.intake.stands.IN 1"):
        build_file.read(wrong)
