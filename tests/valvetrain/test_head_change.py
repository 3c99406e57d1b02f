"""A surfaced head: ratio by volumes, gaps by geometry, cam timing by the trigonometry of the chain."""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.valvetrain.builders import known_build, measured
from valvetrain.errors import ContradictionError
from valvetrain.formulas.driveline import cam_retard, sprocket_diameter
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side
from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.gaps.gaps import room_review
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.head_change import head_change
from valvetrain.wording.head import head_words

DOHC = EngineKind(3, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
GEOMETRY = {
    "rod_length": 122e-3, "compression": 10.0, "gasket": 0.85e-3, "deck": 0.45e-3, "cam_chain_pitch": 6.35e-3, "sprocket_teeth": 38.0,
    **{f"valve_angle_{side}": math.radians(12.0) for side in Side}, **{f"head_height_{side}": 0.6e-3 for side in Side},
    **{f"pocket_depth_{side}": 1.6e-3 for side in Side},
}  # fmt: skip


def _build(**more: float) -> BuildRecord:
    record = known_build()
    engine = {**record.engine, **{key: measured(value) for key, value in (GEOMETRY | more).items()}}
    return replace(record, engine=engine)


def _engine(**more: float) -> FigureMap:
    return complete(_build(**more)).engine


def test_ratio_by_volumes() -> None:
    """By hand: 96 x 69 mm at 10.0 has 499.4 cm3 swept and 55.49 left; 0.5 mm over the whole bore takes 3.619 of it: 10.63."""
    change = head_change(DOHC, _engine(face_off=0.5e-3, chamber_share=1.0))
    assert change
    assert change.ratio.value == pytest.approx(10.628, abs=2e-3)
    assert change.squish == pytest.approx(0.5e-3)
    band = head_change(DOHC, _engine(face_off=0.5e-3, chamber_share=0.6))
    assert band
    assert band.ratio.value == pytest.approx(1 + 499.4 / (55.49 - 0.6 * 3.619), abs=2e-3)
    assert band.squish == 0.0


def test_a_gasket_alone_counts_over_the_whole_bore() -> None:
    thinner = head_change(DOHC, _engine(gasket_new=0.35e-3))
    assert thinner
    assert thinner.ratio.value == pytest.approx(10.628, abs=2e-3)
    assert thinner.nearer == pytest.approx(0.5e-3)
    thicker = head_change(DOHC, _engine(gasket_new=1.35e-3))
    assert thicker
    assert thicker.retard == pytest.approx(-thinner.retard, rel=1e-2)
    assert thicker.ratio.value < 10.0 < thinner.ratio.value
    assert head_change(DOHC, _engine()) is None


def _half_length(distance: float, crank: float, cam: float) -> float:
    """The pulling side of an open belt from the foot of one circle to the top of the other, walked point by point."""
    lean = math.asin((cam - crank) / distance)
    one = crank * np.exp(1j * np.linspace(math.pi, math.pi / 2 + lean, 4001))
    other = distance + cam * np.exp(1j * np.linspace(math.pi / 2 + lean, 0.0, 4001))
    points = np.concatenate([one, other])
    return float(np.abs(np.diff(points)).sum())


@pytest.mark.parametrize(("taken", "teeth"), [(0.2e-3, 34), (0.5e-3, 38), (1.2e-3, 46)])
def test_the_cam_falls_back_by_what_the_chain_hangs(taken: float, teeth: int) -> None:
    """The same chain walked point by point at both distances; with equal circles it is taken / r exactly."""
    crank, cam = sprocket_diameter(6.35e-3, teeth / 2) / 2, sprocket_diameter(6.35e-3, teeth) / 2
    walked = (_half_length(0.33, crank, cam) - _half_length(0.33 - taken, crank, cam)) / cam
    assert cam_retard(taken, 0.33, 6.35e-3, teeth, teeth / 2) == pytest.approx(walked, rel=2e-3)
    assert cam_retard(taken, 0.33, 6.35e-3, teeth, teeth) == pytest.approx(taken / cam, rel=1e-9)


@pytest.mark.parametrize("gear", [Gear.PUSH_ROD, Gear.SIDE_VALVE])
def test_cams_below_stay_where_they_are(gear: Gear) -> None:
    change = head_change(replace(DOHC, gear=gear), _engine(face_off=0.5e-3))
    assert change
    assert change.retard == 0.0


def test_gaps_and_lobe_centres_follow_and_stock_stays() -> None:
    """Half a millimetre along the bore is that times the cosine of the pockets' angle along the stem, less what late cams change."""
    plain, cut = _build(), _build(face_off=0.5e-3)
    before, after = complete(plain), complete(cut)
    change = head_change(plain.kind, after.engine)
    assert change
    cam = after.proposed_sides[Side.INTAKE].parts[Owner.CAM]["lobe_centre"]
    assert cam.value == before.proposed_sides[Side.INTAKE].parts[Owner.CAM]["lobe_centre"].value  # measured: degreed in stays
    for side in Side:
        stock, was = after.stock.sides[side], before.stock.sides[side]
        assert (stock.lobe_centre, stock.masses, stock.springs) == (was.lobe_centre, was.masses, was.springs)
    gaps = [room_review(record, done).pistons[Side.INTAKE].rest.figure.value for record, done in ((plain, before), (cut, after))]
    assert gaps[0] - gaps[1] == pytest.approx(0.5e-3 * math.cos(math.radians(12.0)), rel=0.02)


def test_a_cam_of_the_card_is_later() -> None:
    record = _build(face_off=0.5e-3)

    def carded(side: Side) -> object:
        own = record.proposed[side]
        cam = own.parts[Owner.CAM]
        figures = {**cam.figures, "lobe_centre": Figure(math.radians(110), 0.0, Basis.CARD)}
        return replace(own, parts={**own.parts, Owner.CAM: replace(cam, figures=figures)})

    sides = {side: carded(side) for side in Side}
    done = complete(replace(record, stock=sides, proposed=dict(sides)))  # type: ignore[arg-type]
    change = head_change(record.kind, done.engine)
    assert change
    late = {side: done.proposed_sides[side].parts[Owner.CAM]["lobe_centre"].value - math.radians(110) for side in Side}
    assert late[Side.INTAKE] == pytest.approx(change.retard)
    assert late[Side.EXHAUST] == pytest.approx(-change.retard)
    assert 0.5 < math.degrees(change.retard) < 2.5
    assert done.stock_sides[Side.INTAKE].parts[Owner.CAM]["lobe_centre"].value == pytest.approx(math.radians(110))
    assert any("late" in said for said in head_words(change))


def test_more_than_there_is_is_refused() -> None:
    with pytest.raises(ContradictionError, match="hardly any chamber"):
        head_change(DOHC, _engine(face_off=4e-3, gasket_new=0.2e-3, compression=16.0, chamber_share=1.0))
