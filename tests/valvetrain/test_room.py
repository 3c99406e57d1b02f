"""Room as studies: from geometry, from readings, through the phaser's range, at speed; and what cannot be."""

import json
import math
from dataclasses import replace

import numpy as np
import pytest

from tests.valvetrain.builders import TRIPLE, empty_build, known_build, known_side, measured
from valvetrain.errors import BuildFileError, ContradictionError, OutOfRangeError
from valvetrain.formats import build_file
from valvetrain.formulas.piston_gaps import stem_gap
from valvetrain.formulas.slider_crank import piston_travel
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side, Use
from valvetrain.parts.figure import Figure
from valvetrain.parts.gaps import GapKind, GapReading, Way, check_reading
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord
from valvetrain.studies.checks.assessment import is_guess
from valvetrain.studies.checks.check import Check, CheckSubject, Verdict
from valvetrain.studies.gaps.at_speed import at_speed, check_at_speed, stretch_at
from valvetrain.studies.gaps.others import nested_gap, tip_gap
from valvetrain.studies.gaps.piston import crank_grid, gap_over, lift_over, rest_of_reading
from valvetrain.studies.gaps.remedies import clearance_volume, ratio_after
from valvetrain.studies.gaps.valves import apart_map, bore_gap, heads_apart, least_apart
from valvetrain.studies.motion.review import review_motion
from valvetrain.studies.review.build import BuildReview, review
from valvetrain.studies.train.estimates import room_limits

GEOMETRY = {
    "rod_length": 122e-3, "compression": 8.6, "gasket": 0.8e-3, "deck": 0.2e-3, "pin_offset": 0.0,
    **{f"valve_angle_{side}": math.radians(12) for side in Side}, **{f"pocket_angle_{side}": math.radians(12) for side in Side},
    **{f"head_height_{side}": 1.0e-3 for side in Side}, **{f"pocket_depth_{side}": 1.6e-3 for side in Side},
    **{f"pocket_diameter_{side}": 35e-3 for side in Side}, **{f"pocket_offset_{side}": 0.0 for side in Side},
    **{f"valve_offset_{side}": 17.5e-3 for side in Side}, **{f"valve_spread_{side}": 34e-3 for side in Side},
}  # fmt: skip


def _known(spread: float = 0.0, **figures: float) -> BuildRecord:
    record = known_build()
    given = GEOMETRY | figures
    return replace(record, engine={**record.engine, **{key: measured(value, spread) for key, value in given.items()}})


def _check(found: BuildReview, code: CheckSubject, side: Side | None = None) -> Check:
    return next(check for check in found.room.checks if check.code is code and check.side is side)


def test_gap_at_rest_from_told_geometry() -> None:
    """By hand: 0.8 + 1.0 + 15.5 sin 12 deg + 0.2 + 1.6 = 6.8226 mm down the bore, times cos 12 deg."""
    rest = review(_known()).room.pistons[Side.INTAKE].rest
    assert rest.how == "computed"
    assert rest.figure.value * 1e3 == pytest.approx(
        (0.8 + 1.0 + 15.5 * math.sin(math.radians(12)) + 0.2 + 1.6) * math.cos(math.radians(12))
    )


def test_least_gap_is_the_least_of_methods_arithmetic_over_all_angles() -> None:
    """METHODS 14.2 applied at each of 14,401 angles by hand."""
    found = review(_known())
    least = found.room.pistons[Side.INTAKE]
    train, a = found.completed.proposed.sides[Side.INTAKE], math.radians(12)
    angle = np.radians(np.linspace(-180, 180, 14401))
    lift = np.maximum(train.curve.lift_at((angle - train.lobe_centre.value) / 2) - 0.25e-3, 0.0)
    gaps = stem_gap(least.rest.figure.value, piston_travel(69e-3, 122e-3, 0.0, angle), a, a, lift)
    assert least.value == pytest.approx(gaps.min(), abs=2e-6)
    assert math.degrees(least.at) == pytest.approx(math.degrees(angle[gaps.argmin()]), abs=0.5)
    assert 5.0 < math.degrees(least.at) < 20.0  # common practice: near 5 to 15 deg after TDC for the intake
    assert math.degrees(found.room.pistons[Side.EXHAUST].at) == pytest.approx(-math.degrees(least.at), abs=1e-6)


def test_a_phaser_takes_room_and_the_map_holds_the_least() -> None:
    plain = review(_known()).room.pistons[Side.INTAKE]
    found = review(_known(phaser_intake_advance=math.radians(20), sprocket_teeth=36.0))
    least = found.room.pistons[Side.INTAKE]
    assert least.value < plain.value - 1e-3
    assert math.degrees(least.advance) == pytest.approx(20.0)
    train = found.completed.proposed.sides[Side.INTAKE]
    advances, angle = np.linspace(0.0, math.radians(20), 41), crank_grid()
    gaps = gap_over(found.room.geometry, train, least.rest.figure.value, angle[None, :], advances[:, None])
    assert gaps.min() == pytest.approx(least.value, abs=2e-6)
    # a tooth of 20 crank degrees early takes more still, late none
    assert least.early is not None
    assert least.early < least.value < (least.late or 0.0)
    assert "tooth" in _check(found, GapKind.PISTON_VALVE, Side.INTAKE).why


def test_clay_and_drop_test_give_the_gap_back() -> None:
    """Readings made from a known gap at rest: both ways return it, the tighter valve counts, and the cam's own errors are in them already."""
    record = _known()
    found = review(record)
    geometry, train = found.room.geometry, found.completed.proposed.sides[Side.EXHAUST]
    true = 5.2e-3
    angles = np.radians([-25.0, -15.0, -8.0, 0.0])
    readings = [
        GapReading(
            GapKind.PISTON_VALVE,
            Side.EXHAUST,
            "EX 2",
            Way.DROP,
            float(gap),
            0.05e-3,
            float(a),
            rest_of_reading(geometry, train, float(gap), float(a)),
        )
        for a, gap in zip(angles, gap_over(geometry, train, true, angles), strict=True)
    ]
    clay = float(gap_over(geometry, train, true + 0.3e-3, crank_grid()).min())
    readings.append(
        GapReading(GapKind.PISTON_VALVE, Side.EXHAUST, "EX 1", Way.CLAY, clay, 0.1e-3, None, rest_of_reading(geometry, train, clay, None))
    )
    room = review(replace(record, gaps=tuple(readings))).room
    rest = room.pistons[Side.EXHAUST].rest
    assert rest.valve == "EX 2"
    assert rest.how == "drop test, 4"
    assert rest.figure.value == pytest.approx(true, abs=2e-6)
    assert rest.by_valve["EX 1"].value == pytest.approx(true + 0.3e-3, abs=3e-6)
    assert rest.same_cam
    assert room.pistons[Side.EXHAUST].spread == pytest.approx(rest.figure.spread, rel=0.2)
    # geometry says 7.0 mm: measured wins, and the difference is told
    assert any("disagree" in note for note in room.notes)


def test_a_reading_stays_true_when_the_cam_is_changed() -> None:
    record = _known()
    found = review(record)
    rest = rest_of_reading(found.room.geometry, found.completed.proposed.sides[Side.INTAKE], 1.8e-3, None)
    record = replace(record, gaps=(GapReading(GapKind.PISTON_VALVE, Side.INTAKE, "IN 1", Way.CLAY, 1.8e-3, 0.1e-3, None, rest),))
    cam = record.proposed[Side.INTAKE].parts[Owner.CAM]
    longer = replace(cam, figures={**cam.figures, "duration_1": measured(math.radians(256), math.radians(2))})
    changed = replace(record.proposed[Side.INTAKE], parts={**record.proposed[Side.INTAKE].parts, Owner.CAM: longer})
    after = review(replace(record, proposed={**record.proposed, Side.INTAKE: changed})).room.pistons[Side.INTAKE]
    assert review(record).room.pistons[Side.INTAKE].value == pytest.approx(1.8e-3, abs=2e-6)
    assert after.value < 1.4e-3
    assert not after.rest.same_cam
    assert after.spread > after.rest.figure.spread  # now the new lobe's own errors count


def test_a_point_off_the_curve_is_named() -> None:
    record = _known()
    found = review(record)
    geometry, train = found.room.geometry, found.completed.proposed.sides[Side.INTAKE]
    angles = np.radians([0.0, 6.0, 12.0, 18.0])
    gaps = gap_over(geometry, train, 6e-3, angles) + np.array([0.0, 0.0, 0.4e-3, 0.0])
    rows = tuple(
        GapReading(
            GapKind.PISTON_VALVE,
            Side.INTAKE,
            "IN 2",
            Way.CHECKING,
            float(g),
            0.05e-3,
            float(a),
            rest_of_reading(geometry, train, float(g), float(a)),
        )
        for a, g in zip(angles, gaps, strict=True)
    )
    notes = review(replace(record, gaps=rows)).room.notes
    assert any("IN 2" in note and "12°" in note and "Read it again" in note for note in notes)


def test_unknown_pockets_give_a_range_and_what_to_measure_never_more_than_unproven() -> None:
    record = known_build()
    cam = record.proposed[Side.INTAKE].parts[Owner.CAM]
    taller = replace(cam, name="other", figures={**cam.figures, "lift": measured(9.6e-3)})
    changed = replace(record.proposed[Side.INTAKE], parts={**record.proposed[Side.INTAKE].parts, Owner.CAM: taller})
    found = review(replace(record, proposed={**record.proposed, Side.INTAKE: changed}))
    check = _check(found, GapKind.PISTON_VALVE, Side.INTAKE)
    assert check.verdict is Verdict.UNPROVEN
    assert check.spread > 1e-3
    assert check.dominant[0][0] == "room:rest"
    assert is_guess(check)
    assert check.remedies == ()  # a guess is measured, not mended
    # it counts for the whole build, because its cam is not the stock one; the exhaust side's does not
    assert check in found.proposed.checks
    assert not any(each.code is GapKind.PISTON_VALVE and each.side is Side.EXHAUST for each in found.proposed.checks)
    assert "room:rest" in {item.what for item in found.proposed.measure_next}


def test_heads_apart_of_two_valves_in_one_plane_by_hand() -> None:
    """Two heads in line, upright, without margin: 35 mm between centres less both radii."""
    record = _known(
        **{f"valve_angle_{side}": 0.0 for side in Side}, **{f"pocket_angle_{side}": 0.0 for side in Side}
    )  # fmt: skip
    found = review(record)
    apart = least_apart(found.room.geometry, found.completed.proposed.sides, found.completed.engine)
    # lifts differ, so that rims pass at unequal heights: never nearer than side by side
    assert apart.value == pytest.approx(35e-3 - 31e-3, abs=0.1e-3)
    assert apart.value >= 4e-3 - 1e-9


def test_larger_heads_meet_where_the_phaser_advances() -> None:
    """PRACTICE: with 30 to 40 degrees of phaser, larger valves can clash at overlap; stock sizes do not."""
    small = review(_known(phaser_intake_advance=math.radians(35)))
    record = _known(phaser_intake_advance=math.radians(35), **{f"valve_offset_{side}": 16.4e-3 for side in Side})
    sides = {}
    for side in Side:
        own = record.proposed[side]
        valve = own.parts[Owner.VALVE]
        larger = replace(valve, name="larger", figures={**valve.figures, "head_diameter": measured(33.5e-3)})
        sides[side] = replace(own, parts={**own.parts, Owner.VALVE: larger})
    large = review(replace(record, proposed=sides))
    assert _check(small, GapKind.VALVE_VALVE).verdict is Verdict.HOLDS
    assert _check(large, GapKind.VALVE_VALVE).verdict is Verdict.SHORT
    assert _check(large, GapKind.VALVE_VALVE) in large.proposed.checks


def test_phaser_map_of_the_heads_against_exact_distances() -> None:
    """Two hundred places of the map against the distance worked out for that very pair of lifts: within 0.03 mm."""
    found = review(_known(phaser_intake_advance=math.radians(35)))
    done, geometry = found.completed, found.room.geometry
    advances, angle, gaps = apart_map(geometry, done.proposed.sides, done.engine, Side.INTAKE)
    rng = np.random.default_rng(2)
    rows, columns = rng.integers(0, 41, 200), rng.integers(241, 481, 200)
    numbers = {"gasket": np.full(200, geometry.chamber.gasket.value)}
    for side, place in geometry.places.items():
        for key in ("angle", "height", "offset", "head_diameter", "margin", "apart"):
            numbers[f"{side}:{key}"] = np.full(200, getattr(place, key).value)
    intake = np.array(
        [lift_over(done.proposed.sides[Side.INTAKE], angle[c : c + 1], advances[r])[0] for r, c in zip(rows, columns, strict=True)]
    )
    exhaust = lift_over(done.proposed.sides[Side.EXHAUST], angle[columns])
    assert gaps[rows, columns] == pytest.approx(heads_apart(numbers, intake, exhaust), abs=0.03e-3)


def test_head_to_bore_by_hand() -> None:
    """An upright single valve 20 mm off the middle of a 90 mm bore, 32 mm across: 45 - 36 = 9 mm."""
    numbers = {"angle": 0.0, "head_diameter": 32e-3, "offset": 20e-3, "apart": 0.0, "height": -0.5e-3}
    assert bore_gap(numbers, 90e-3, 9e-3) == pytest.approx(9e-3, abs=1e-6)
    # tilted, it moves away from the wall as it opens: shut is the nearest, if it stands in the bore at all
    tilted = numbers | {"angle": math.radians(15)}
    assert bore_gap(tilted, 90e-3, 9e-3) > 9e-3


def test_remedies_do_what_they_say() -> None:
    record = _known(pocket_depth_intake=0.0, spread=0.0)
    found = review(replace(record, use=Use.STREET, engine={**record.engine, "head_height_intake": measured(-2.5e-3)}))
    check = _check(found, GapKind.PISTON_VALVE, Side.INTAKE)
    assert check.verdict is Verdict.SHORT
    deeper = next(remedy for remedy in check.remedies if remedy.action == "deeper pockets")
    assert deeper.suffices
    again = review(
        replace(record, engine={**record.engine, "head_height_intake": measured(-2.5e-3), "pocket_depth_intake": measured(deeper.amount)})
    )
    assert _check(again, GapKind.PISTON_VALVE, Side.INTAKE).figure == pytest.approx(deeper.effects[0].figure, abs=1e-6)
    later = next(remedy for remedy in check.remedies if remedy.action == "the cam later")
    assert later.effects[0].figure > check.figure


def test_price_in_compression() -> None:
    """METHODS 7.1: Vd 248.30022 cm3, rc 13.5 has Vc 19.864018 cm3; the gasket for 13.5 from 15.084 adds 2.234 cm3."""
    record = _known(stroke=53.6e-3, bore=76.8e-3, compression=13.5, rod_length=101e-3)
    geometry = review(record).room.geometry
    assert clearance_volume(geometry) * 1e6 == pytest.approx(19.864018, rel=1e-6)
    assert ratio_after(replace_ratio(geometry, 15.084166), (19.864018 - 17.629743) * 1e-6) == pytest.approx(13.5, rel=1e-6)


def replace_ratio(geometry: object, ratio: float) -> object:
    chamber = replace(geometry.chamber, compression=Figure(ratio))  # type: ignore[attr-defined]
    return replace(geometry, chamber=chamber)  # type: ignore[type-var]


def test_pad_over_retainer_by_brute_force() -> None:
    """The least of height - s tan(w) + R - sqrt(R^2 - s^2) by trying 100,000 places."""
    numbers = {"height": 1.2e-3, "radius": 14e-3, "reach": 9e-3, "swing": math.radians(8)}
    s = np.linspace(0, numbers["reach"], 100001)
    tried = numbers["height"] - s * math.tan(numbers["swing"]) + numbers["radius"] - np.sqrt(numbers["radius"] ** 2 - s**2)
    assert tip_gap(numbers) == pytest.approx(tried.min(), abs=1e-9)
    assert tip_gap(numbers) < numbers["height"]


def test_nested_springs_from_wire() -> None:
    figures = {"outer_mean": 25e-3, "outer_wire": 3.6e-3, "inner_mean": 18e-3, "inner_wire": 2.4e-3}
    assert nested_gap(figures) == pytest.approx(0.5e-3)


def test_a_higher_lobe_takes_its_growth_from_the_heads_room() -> None:
    record = _known()
    stock = replace(record.stock[Side.INTAKE], fit={**record.stock[Side.INTAKE].fit, "lobe_to_head": measured(1.4e-3)})
    own = record.proposed[Side.INTAKE]
    cam = replace(own.parts[Owner.CAM], name="high", figures={**own.parts[Owner.CAM].figures, "lift": measured(10.25e-3)})
    proposed = replace(own, parts={**own.parts, Owner.CAM: cam})
    record = replace(record, stock={**record.stock, Side.INTAKE: stock}, proposed={**record.proposed, Side.INTAKE: proposed})
    check = _check(review(record), GapKind.LOBE_HEAD, Side.INTAKE)
    assert check.figure == pytest.approx(0.4e-3, abs=1e-6)
    assert check.verdict is Verdict.SHORT


def test_limits_of_the_trade_by_use_and_rods() -> None:
    """METHODS 14, common practice, no source: intake 1.0 (race), 1.5 prudent, 2.0 with aluminium rods; exhaust 1.5 and 2.0."""
    race, life, soft = room_limits(Use.DRAG, ""), room_limits(Use.STREET, ""), room_limits(Use.DRAG, "aluminium")
    values = [found[f"piston_gap_limit_{side}"].value * 1e3 for found in (race, life, soft) for side in Side]
    assert values == pytest.approx([1.0, 1.5, 1.5, 2.0, 2.0, 2.5])
    record = _known()
    typed = replace(record, goal={**record.goal, "piston_gap_limit_intake": measured(3.1e-3)})
    check = _check(review(typed), GapKind.PISTON_VALVE, Side.INTAKE)
    assert check.limit == 3.1e-3
    assert check.limit_origin == "typed over on the Goal station"


def test_left_at_speed_is_rest_less_overshoot_and_stretch() -> None:
    """Slow, the motion follows the lobe: nothing but rod and play is taken. Far beyond float, more."""
    found = review(_known())
    done = found.completed
    train, least = done.proposed.sides[Side.EXHAUST], found.room.pistons[Side.EXHAUST]
    motion = review_motion(train, done.goal)
    assert motion.sweep is not None
    slow = at_speed(found.room.geometry, train, least, motion.sweep, done.engine, "", float(motion.sweep.speed[0]))
    fast = at_speed(found.room.geometry, train, least, motion.sweep, done.engine, "", float(motion.sweep.speed[-1]))
    assert abs(slow.overshoot) < 0.05e-3
    assert slow.left == pytest.approx(slow.at_rest - slow.overshoot - slow.stretch)
    assert fast.overshoot > 0.3e-3
    assert fast.left < slow.left
    assert check_at_speed(fast, done.goal).figure == fast.left
    with pytest.raises(OutOfRangeError, match="lies beyond"):
        at_speed(found.room.geometry, train, least, motion.sweep, done.engine, "", 900.0)


def test_aluminium_stretches_more_and_with_the_square_of_speed() -> None:
    engine = review(_known(bearing_play=0.0)).completed.engine
    steel, twice = stretch_at(engine, "", 100.0), stretch_at(engine, "", 200.0)
    assert twice.value == pytest.approx(4 * steel.value)
    assert stretch_at(engine, "aluminium", 100.0).value == pytest.approx(steel.value * 206 / 71 / 1.8)


@pytest.mark.parametrize(
    ("figures", "words"),
    [
        ({"pocket_diameter_intake": 28e-3}, "would not go in"),
        ({"valve_offset_exhaust": 75e-3}, "outside the bore"),
        ({"rod_length": 36e-3, "pin_offset": 3e-3}, "could not pass the crank"),
    ],
)
def test_geometry_that_cannot_be_is_refused(figures: dict[str, float], words: str) -> None:
    with pytest.raises(ContradictionError, match=words):
        review(_known(**figures))


@pytest.mark.parametrize(
    ("gap", "value", "angle", "words"),
    [
        (GapKind.PISTON_VALVE, -0.1e-3, None, "cannot be"),
        (GapKind.PISTON_VALVE, 80e-3, None, "unit right"),
        (GapKind.PISTON_VALVE, 2e-3, math.radians(120), "far from TDC"),
        (GapKind.NESTED, 2e-3, 0.1, "at a crank angle"),
    ],
)
def test_readings_that_cannot_be(gap: GapKind, value: float, angle: float | None, words: str) -> None:
    with pytest.raises(ContradictionError, match=words):
        check_reading(gap, value, angle)


def test_room_survives_the_build_file() -> None:
    record = replace(
        _known(),
        facts={"rods": "titanium"},
        gaps=(
            GapReading(GapKind.PISTON_VALVE, Side.EXHAUST, "EX 1", Way.DROP, 1.24e-3, 0.05e-3, math.radians(-4), 6.1e-3),
            GapReading(GapKind.VALVE_BORE, Side.INTAKE, "IN 1", Way.GAUGE, 2.1e-3, 0.05e-3),
        ),
    )
    text = build_file.write(record)
    again = build_file.read(text)
    assert again.facts == {"rods": "titanium"}
    assert again.gaps[1].value == pytest.approx(record.gaps[1].value)
    assert (again.gaps[1].gap, again.gaps[1].way, again.gaps[1].rest) == (GapKind.VALVE_BORE, Way.GAUGE, None)
    assert again.gaps[0].angle == pytest.approx(math.radians(-4))
    assert again.gaps[0].rest == pytest.approx(6.1e-3)
    bad = json.loads(text)
    bad["gaps"][0]["angle"] = 200
    with pytest.raises(BuildFileError, match=r"gaps\[0\]: 200° is far from TDC"):
        build_file.read(json.dumps(bad))


@pytest.mark.parametrize(
    "kind",
    [
        TRIPLE,
        EngineKind(1, 1, Gear.OHC, Follower.ROCKER, Adjuster.SCREW),
        EngineKind(1, 1, Gear.SIDE_VALVE, Follower.TAPPET, Adjuster.STEM_GRIND),
        EngineKind(2, 1, Gear.PUSH_ROD, Follower.ROCKER, Adjuster.LASH_CAP),
    ],
)
def test_every_kind_from_nothing_has_room_unproven(kind: EngineKind) -> None:
    found = review(empty_build(kind))
    assert found.room.checks
    assert all(check.verdict in (Verdict.UNPROVEN, Verdict.SHORT) for check in found.room.checks)
    assert found.room.counting == []  # stock parts in a stock engine: nothing to answer for
    codes = {check.code for check in found.room.checks}
    assert (GapKind.HEAD_ROOM in codes) == (kind.gear is Gear.SIDE_VALVE)
    assert (GapKind.PISTON_VALVE in codes) == (kind.gear is not Gear.SIDE_VALVE)


def test_a_measured_gap_wins_over_any_estimate() -> None:
    record = replace(known_build(), gaps=(GapReading(GapKind.FOLLOWER, Side.INTAKE, "IN 3", Way.GAUGE, 0.3e-3, 0.05e-3),))
    check = _check(review(record), GapKind.FOLLOWER, Side.INTAKE)
    assert (check.figure, check.worst, check.verdict) == (0.3e-3, "IN 3", Verdict.SHORT)
    assert check.basis == "gauge"


def test_springs_pressed_into_one_another_are_not_asked_for_a_gap() -> None:
    side = known_side()
    wire = {"wire_diameter": measured(2.4e-3), "mean_diameter": measured(16e-3)}
    inner = PartRecord("inner", {**side.springs[0].figures, **wire}, {"nested": "interference"})
    pack: SideRecord = replace(side, springs=(side.springs[0], inner))
    record = replace(known_build(), proposed=dict.fromkeys(Side, pack), stock=dict.fromkeys(Side, pack))
    assert GapKind.NESTED not in {check.code for check in review(record).room.checks}
    free = replace(pack, springs=(pack.springs[0], replace(inner, facts={})))
    record = replace(record, proposed=dict.fromkeys(Side, free), stock=dict.fromkeys(Side, free))
    assert GapKind.NESTED in {check.code for check in review(record).room.checks}
