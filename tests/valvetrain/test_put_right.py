"""Slips that were found on real work, held one by one: by hand, with figures of their own."""

import json
import time
from dataclasses import replace
from pathlib import Path

import pytest

from tests.valvetrain.builders import known_build, measured, with_proposed
from valvetrain.errors import ValveTrainError
from valvetrain.formats import build_file
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side
from valvetrain.parts.figure import Basis, Figure, estimate
from valvetrain.parts.record import ValveStand
from valvetrain.quantities import from_unit, in_unit, parse
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.side_figures import retainer_gap
from valvetrain.studies.train.spring_told import worst_basis
from valvetrain.units import QuantityKind

DEMO = Path(__file__).resolve().parents[2] / "src/rocklash/demo/builds/petrel_1498.json"
HOSTILE = ("9**9**9**9", "mm**99999999", "(((((mm)))))", "mm*mm/mm", "1e999 mm", "__import__('os')", "mm" * 5000)


@pytest.mark.parametrize("unit", HOSTILE, ids=lambda unit: unit[:16])
def test_units_come_from_a_closed_list(unit: str) -> None:
    """A unit is a word, never a sum to be worked out: refused at once, wherever it comes from."""
    document = json.loads(DEMO.read_text(encoding="utf-8"))
    document["engine"]["figures"]["bore"]["unit"] = unit
    begun = time.perf_counter()
    with pytest.raises(build_file.BuildFileError, match=r"engine\.figures\.bore"):
        build_file.read(json.dumps(document))
    for ask in (
        lambda: parse(f"96 {unit}", QuantityKind.LENGTH),
        lambda: from_unit(96.0, QuantityKind.LENGTH, unit),
        lambda: in_unit(0.096, QuantityKind.LENGTH, unit),
    ):
        with pytest.raises(ValveTrainError):
            ask()
    assert time.perf_counter() - begun < 2.0


def test_a_valves_own_spring_shim_leaves_its_retainer_where_it_is() -> None:
    """A shim lies under the spring: 0.5 mm more of it presses the spring, the keepers stay in their groove. A valve that stands 0.2 mm
    higher, its height measured, has its retainer 0.2 mm further from the seal."""
    record = known_build()
    stands = {"IN 1": ValveStand(None, 0.5e-3), "IN 2": ValveStand(37.4e-3), "IN 3": ValveStand(37.4e-3, 0.5e-3)}
    done = complete(with_proposed(record, Side.INTAKE, replace(record.proposed[Side.INTAKE], stands=stands)))
    side = done.proposed.sides[Side.INTAKE]
    plain = complete(record).proposed.sides[Side.INTAKE]
    gap = retainer_gap(plain, plain.positions[0]).value
    found = {place.name: retainer_gap(side, place).value - gap for place in side.positions}
    assert found == pytest.approx({"IN 1": 0.0, "IN 2": 0.2e-3, "IN 3": 0.2e-3}, abs=1e-9)


@pytest.mark.parametrize("follower, adjuster, ratio", [
    (Follower.FINGER, Adjuster.SHIM_ON_STEM, 1.42), (Follower.ROCKER, Adjuster.SCREW, 1.3), (Follower.BUCKET, Adjuster.SHIM_UNDER, 1.0),
])  # fmt: skip
def test_a_blade_at_the_cam_is_brought_to_the_valve(follower: Follower, adjuster: Adjuster, ratio: float) -> None:
    """0.25 mm under a finger of ratio 1.42 is 0.355 mm at the valve; under a bucket the blade is at the valve."""
    record = known_build()
    kind = EngineKind(1, 1, Gear.OHC if follower is Follower.ROCKER else Gear.DOHC, follower, adjuster)
    record = replace(record, kind=kind, positions=(), engine={**record.engine, "rocker_ratio": measured(1.42 if ratio > 1.4 else 1.3)})
    side = complete(record).stock.sides[Side.INTAKE]
    assert side.clearance.value == pytest.approx(0.25e-3 * ratio)


def test_the_worst_basis_is_the_least_sure_and_not_the_last_by_name() -> None:
    """By alphabet “measured” comes after “estimate” and “card”; what rests on a guess is a guess."""
    card, sure, guess = Figure(1.0, 0.1, Basis.CARD), measured(1.0), estimate(1.0, 0.1)
    assert worst_basis(sure, guess) is Basis.ESTIMATE
    assert worst_basis(sure, card) is Basis.CARD
    assert worst_basis(card, guess, sure) is Basis.ESTIMATE
    assert worst_basis(sure, sure) is Basis.MEASURED
