"""However a cam is known: logs of one flank, lift tables, caliper, events, the stand-in; and how its lobe sits under its follower."""

import io
import math
from dataclasses import replace

import ezdxf
import numpy as np
import openpyxl
import pytest
from scipy.integrate import simpson

from tests.valvetrain.builders import harmonic, known_build, known_side, measured
from valvetrain.errors import BuildFileError, ContradictionError, OutOfRangeError, ValveTrainError
from valvetrain.formats import build_file, lobe_file, lobe_log
from valvetrain.parts.cam_card import CamCard, from_card
from valvetrain.parts.cam_drive import Contact
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.lobe import Lobe, Origin, StatedAt, from_lobe
from valvetrain.parts.record import BuildRecord, PartRecord
from valvetrain.simulators.degree_wheel import WheelStandIn, as_text
from valvetrain.studies.cams.caliper import compare
from valvetrain.studies.cams.cam_events import clearance_effects, events_at, side_events
from valvetrain.studies.cams.degree_wheel import fit, lobe_of
from valvetrain.studies.cams.lobe_fit import lobe_fit, outline_of
from valvetrain.studies.checks.assessment import bare_checks, check_low_float
from valvetrain.studies.checks.check import CheckCode, Verdict
from valvetrain.studies.review.build import assess, review
from valvetrain.studies.train.assembly import complete, with_cam
from valvetrain.studies.train.side_figures import nominal_float_speed, weakest
from valvetrain.units import UnitSystem

SLOPE = 0.018e-3 * 180 / math.pi
TRUTH = from_card(CamCard(9.2e-3, ((1e-3, math.radians(242)),), 0.3e-3, SLOPE))


def noisy(low: float, high: float, step: float = 1.0, seed: int = 4) -> tuple[np.ndarray, np.ndarray]:
    angle = np.radians(np.arange(low, high + 1e-9, step))
    return angle, TRUTH.lift_at(angle) + np.random.default_rng(seed).normal(0.0, 0.01e-3, len(angle))


def with_intake(build: BuildRecord, cam: PartRecord | None = None, follower: PartRecord | None = None, **more: object) -> BuildRecord:
    side = build.proposed[Side.INTAKE]
    parts = dict(side.parts)
    if cam:
        parts[Owner.CAM] = cam
    if follower:
        parts[Owner.FOLLOWER] = follower
    return replace(build, proposed={**build.proposed, Side.INTAKE: replace(side, parts=parts, **more)})


def cam_part(facts: dict[str, str] | None = None, lobe: Lobe | None = None, **figures: float) -> PartRecord:
    return PartRecord("cam", {key: measured(value) for key, value in figures.items()}, facts or {}, lobe)


# ---- logs


def test_a_fitted_log_is_the_lobe_of_the_build() -> None:
    lobe, mirrored = lobe_of(fit(*noisy(-110, 110)), StatedAt.VALVE)
    curve = complete(with_intake(known_build(), cam_part(lobe=lobe, lobe_centre=1.85))).proposed.sides[Side.INTAKE].curve
    assert not mirrored
    assert curve.full == pytest.approx(9.2e-3, abs=0.02e-3)
    assert math.degrees(curve.duration_at(1e-3)) == pytest.approx(242, abs=0.5)
    assert curve.acceleration.max() == pytest.approx(TRUTH.acceleration.max(), rel=0.05)


def test_an_indicator_that_was_not_set_to_zero() -> None:
    """0.25 mm on the base circle is the indicator's zero, not lift."""
    angle, lift = noisy(-115, 115)
    lobe, _ = lobe_of(fit(angle, lift + 0.25e-3), StatedAt.VALVE)
    assert max(lobe.lifts) == pytest.approx(9.2e-3, abs=0.02e-3)


@pytest.mark.parametrize("seed", [1, 3, 4, 7])
def test_noise_at_the_foot_of_a_log_throws_no_valve(seed: int) -> None:
    """Float of the fitted lobe against that of the hidden one: within 4 %, though a smooth curve swings where the ramp begins."""
    device = WheelStandIn(seed)
    log = lobe_log.read(as_text(device.readings(device.count)))
    fitted, _ = lobe_of(fit(log.angle, log.lift * math.cos(device.tilt)), StatedAt.VALVE)
    true = Lobe(tuple(device.truth.angle), tuple(device.truth.lift), StatedAt.VALVE, Origin.TABLE, 0.0, 0.0, 0.0)
    speeds = []
    for lobe in (true, fitted):
        train = complete(with_intake(known_build(), cam_part(lobe=lobe, lobe_centre=1.85))).proposed.sides[Side.INTAKE]
        speeds.append(nominal_float_speed(train, weakest(train)))
    assert speeds[1] == pytest.approx(speeds[0], rel=0.04)


def test_one_flank_is_mirrored_and_trusted_less() -> None:
    whole, _ = lobe_of(fit(*noisy(-110, 110)), StatedAt.VALVE)
    half, mirrored = lobe_of(fit(*noisy(-110, 12)), StatedAt.VALVE)
    assert mirrored
    curve = from_lobe(half)
    assert math.degrees(curve.duration_at(1e-3)) == pytest.approx(242, abs=2.5)
    assert half.duration_spread > whole.duration_spread
    assert half.acceleration_share > whole.acceleration_share
    with pytest.raises(ContradictionError, match="no whole flank"):
        lobe_of(fit(*noisy(-50, 50)), StatedAt.VALVE)


def test_an_unsymmetrical_lobe_keeps_both_flanks() -> None:
    """Opening flank 10 % shorter than the shutting one: the events must not be mirrored."""
    angle = np.linspace(-1.7, 1.7, 341)
    lift = TRUTH.lift_at(np.where(angle < 0, angle / 0.9, angle))
    lobe = lobe_file.from_table(angle, lift, StatedAt.VALVE)
    curve = from_lobe(lobe)
    opens, shuts = curve.flanks(1e-3)
    nose = curve.angle[curve.nose]
    assert (shuts - nose) / (nose - opens) == pytest.approx(1.0 / 0.9, rel=0.01)
    train = complete(with_intake(known_build(), cam_part(lobe=lobe, lobe_centre=1.9))).proposed.sides[Side.INTAKE]
    start, end = events_at(train, 1e-3, clearance=0.0)
    assert (start, end) == pytest.approx((1.9 + 2 * opens, 1.9 + 2 * shuts), abs=1e-4)


@pytest.mark.parametrize("seed", range(12))
def test_the_stand_in_gives_a_log_that_finds_its_hidden_cam(seed: int) -> None:
    """Backlash, resolution, tilt, noise and slips in; lift within 0.02 mm, duration within 0.6 deg, centre within 0.6 deg out."""
    device = WheelStandIn(seed)
    log = lobe_log.read(as_text(device.readings(device.count)))
    found = fit(log.angle, log.lift * math.cos(device.tilt))
    curve = from_lobe(lobe_of(found, StatedAt.VALVE)[0])
    assert curve.full == pytest.approx(device.truth.full, abs=0.02e-3)
    assert math.degrees(curve.duration_at(1e-3) - device.truth.duration_at(1e-3)) == pytest.approx(0.0, abs=0.6)
    assert math.degrees(2 * found.nose - device.centre) == pytest.approx(0.0, abs=0.6)
    assert 2 <= len(found.dropped) <= 6
    assert device.readings(9) == device.readings(20)[:9]
    # what a tilted indicator does when nobody takes it out: it reads too much
    assert fit(log.angle, log.lift).peak_lift > device.truth.full * 1.001


# ---- tables and files


def test_a_lift_table_is_met_and_a_half_is_mirrored() -> None:
    angle = np.radians(np.arange(0.0, 106.0, 1.0))
    half = lobe_file.from_table(angle, TRUTH.lift_at(angle), StatedAt.VALVE)
    curve = from_lobe(half)
    assert curve.lift_at(TRUTH.angle) == pytest.approx(TRUTH.lift, abs=2e-6)
    assert math.degrees(curve.duration_at(1e-3)) == pytest.approx(242, abs=0.05)


def test_readings_are_no_table() -> None:
    angle, lift = noisy(-110, 110)
    with pytest.raises(BuildFileError, match="degree-wheel log"):
        lobe_file.from_table(angle, lift + np.random.default_rng(1).normal(0, 0.03e-3, len(lift)), StatedAt.VALVE)


def test_csv_json_workbook_and_drawing() -> None:
    """The area under the exported table is that of the curve by scipy; DXF and XLSX are read back by their libraries."""
    raw = lobe_file.write_csv(TRUTH).encode()
    lobe, part = lobe_file.read(raw, side=Side.INTAKE, crank=False, system=UnitSystem.INCH, at=StatedAt.VALVE)
    assert part is None
    assert lobe is not None
    curve = from_lobe(lobe)
    assert simpson(curve.lift, x=curve.angle) == pytest.approx(TRUTH.area(), rel=1e-3)
    again, _ = lobe_file.read(
        lobe_file.write_json(lobe, "x").encode(), side=Side.INTAKE, crank=False, system=UnitSystem.METRIC, at=StatedAt.VALVE
    )
    assert again is not None
    assert from_lobe(again).lift == pytest.approx(curve.lift, abs=1e-9)
    book = openpyxl.load_workbook(io.BytesIO(lobe_file.write_workbook(TRUTH, "Linnet 4")))
    rows = list(book["Lobe"].iter_rows(min_row=2, values_only=True))
    assert max(row[1] for row in rows) == pytest.approx(9.2, abs=1e-6)
    train = complete(known_build()).proposed.sides[Side.INTAKE]
    _, outline = outline_of(train)
    drawing = ezdxf.read(io.StringIO(lobe_file.write_drawing(outline, train.cam.base, "Linnet 4")))
    points = np.array([complex(x, y) for x, y, *_ in drawing.modelspace().query("LWPOLYLINE")[0].get_points()])
    assert np.abs(points).min() == pytest.approx(train.cam.base * 1e3, rel=1e-3)
    assert np.abs(points).max() == pytest.approx((train.cam.base + train.curve.full) * 1e3, rel=1e-3)
    assert drawing.units == ezdxf.units.MM


@pytest.mark.parametrize(
    ("raw", "part"),
    [
        (b'{"format": "rocklash.lobe/1", "angles_deg": [1,2,3,4,5,6,7,8], "lifts_mm": [1,2,3,4,5,6,7,8,9]}', "one lift for each angle"),
        (b'{"format": "rocklash.lobe/1", "angles_deg": [1,2,3,3,5,6,7,8], "lifts_mm": [1,2,3,4,5,4,3,2]}', "does not increase at row 4"),
        (b'{"format": "rocklash.lobe/1", "angles_deg": [1], "lifts_mm": [1]}', "angles_deg"),
        (b"[1, 2]", "eight rows"),
        (b"PK\x03\x04", "packed"),
    ],
)
def test_bad_files_are_told(raw: bytes, part: str) -> None:
    with pytest.raises(ValveTrainError, match=part):
        lobe_file.read(raw, side=Side.INTAKE, crank=False, system=UnitSystem.METRIC, at=StatedAt.VALVE)


def test_a_build_file_carries_facts_lobes_and_the_low_cam() -> None:
    lobe = lobe_file.from_table(TRUTH.angle, TRUTH.lift, StatedAt.VALVE)
    build = with_intake(known_build(), cam_part({"ground_for": "flat"}, lobe), low_cam=cam_part(lift=6e-3))
    again = build_file.read(build_file.write(build))
    side = again.proposed[Side.INTAKE]
    assert side.parts[Owner.CAM].facts == {"ground_for": "flat"}
    assert side.parts[Owner.CAM].lobe is not None
    assert side.parts[Owner.CAM].lobe.lifts == pytest.approx(lobe.lifts, abs=1e-12)
    assert side.low_cam is not None
    assert side.low_cam.figures["lift"].value == pytest.approx(6e-3)
    text = build_file.write(build).replace('"ground_for": "flat"', '"ground_for": "square"')
    with pytest.raises(BuildFileError, match="“square” is not known of cam"):
        build_file.read(text)


# ---- cards, events, caliper


def test_where_and_how_a_card_is_told() -> None:
    """Lobe lift times the ratio is valve lift; heights after clearance stand higher by it (definitions, METHODS 3.9)."""
    figures = {"lift": 9.0e-3, "height_1": 1.0e-3, "duration_1": math.radians(240), "lobe_centre": 1.85}
    plain = complete(with_intake(known_build(), cam_part(**figures))).proposed.sides[Side.INTAKE]
    after = complete(with_intake(known_build(), cam_part({"stated_clearance": "after"}, card_clearance=0.2e-3, **figures)))
    train = after.proposed.sides[Side.INTAKE]
    assert train.curve.full == pytest.approx(plain.curve.full + 0.2e-3)
    assert math.degrees(train.curve.duration_at(1.2e-3)) == pytest.approx(240, abs=0.1)
    build = replace(
        known_build(), kind=replace(known_build().kind, follower="finger"), engine={**known_build().engine, "lift_ratio": measured(1.5)}
    )
    at_lobe = complete(with_intake(build, cam_part({"stated_at": "follower"}, **figures | {"lift": 6.0e-3})))
    curve = at_lobe.proposed.sides[Side.INTAKE].curve
    assert curve.full == pytest.approx(9.0e-3)
    assert math.degrees(curve.duration_at(1.5e-3)) == pytest.approx(240, abs=0.1)


def test_events_give_duration_and_centre_for_both_sides() -> None:
    """METHODS 3.1: 22/58 gives 260 and 108; the exhaust 55/17 gives 252 and 109."""
    cam = {"lift": 9e-3, "height_1": 1e-3}
    build = with_intake(known_build(), cam_part(opens_1=math.radians(22), shuts_1=math.radians(58), **cam))
    side = build.proposed[Side.EXHAUST]
    exhaust = replace(side, parts={**side.parts, Owner.CAM: cam_part(opens_1=math.radians(55), shuts_1=math.radians(17), **cam)})
    done = complete(replace(build, proposed={**build.proposed, Side.EXHAUST: exhaust}))
    found = [(math.degrees(train.curve.duration_at(1e-3)), math.degrees(train.lobe_centre.value)) for train in done.proposed.sides.values()]
    assert found[0] == pytest.approx((260, 108), abs=0.1)
    assert found[1] == pytest.approx((252, 109), abs=0.1)


def test_centres_give_events() -> None:
    """METHODS 3.3: duration 264 at centre 106 opens 26 before TDC and shuts 58 after BDC; advanced by 4 degrees 30 and 54."""
    for centre, expected in ((106, (26, 58)), (102, (30, 54))):
        figures = {"lift": 9e-3, "height_1": 1e-3, "duration_1": math.radians(264), "lobe_centre": math.radians(centre)}
        train = complete(with_intake(known_build(), cam_part({"stated_clearance": "after"}, **figures))).proposed.sides[Side.INTAKE]
        events = side_events(train, 100.0)
        assert (math.degrees(events.opens), math.degrees(events.shuts)) == pytest.approx(expected, abs=0.05)


def test_two_heights_by_caliper() -> None:
    """PRACTICE A: 30.75 against 30.98 mm (common practice, no source): 0.23 mm more, if the base circles are equal."""
    first, second = {"lobe_height": measured(30.75e-3, 0.02e-3)}, {"lobe_height": measured(30.98e-3, 0.02e-3)}
    told = compare(first, second, 1.0)
    assert told is not None
    assert told.more.value == pytest.approx(0.23e-3)
    assert told.more.spread == pytest.approx(0.02e-3 * math.sqrt(2))
    assert "0.23 mm more lift at the valve, if both base circles are equal" in told.sentence(UnitSystem.METRIC)
    assert ".0091 in more" in told.sentence(UnitSystem.INCH)
    known = compare(first | {"base_diameter": measured(22e-3)}, second | {"base_diameter": measured(21.7e-3)}, 1.4)
    assert known is not None
    assert known.bases_known
    assert known.more.value == pytest.approx(0.53e-3 * 1.4)
    assert compare(first, {}, 1.0) is None


def test_lift_from_heel_and_nose() -> None:
    build = with_intake(known_build(), cam_part(lobe_height=38.2e-3, base_diameter=29.0e-3))
    assert complete(build).proposed.sides[Side.INTAKE].curve.full == pytest.approx(9.2e-3)
    with pytest.raises(ContradictionError, match="lifts nothing"):
        complete(with_intake(known_build(), cam_part(lobe_height=29.0e-3, base_diameter=29.0e-3)))


# ---- what follows


def test_clearance_on_a_straight_ramp() -> None:
    """METHODS 3.5: on a ramp of 0.015 mm/cam deg 0.1 mm less clearance moves each event by 13.333 and the duration by 26.667 deg."""
    curve = from_card(CamCard(9e-3, ((1e-3, math.radians(240)),), 0.40e-3, 0.015e-3 * 180 / math.pi))
    lobe = Lobe(tuple(curve.angle), tuple(curve.lift), StatedAt.VALVE, Origin.TABLE, 0.0, 0.0, 0.0)
    done = complete(with_intake(known_build(), cam_part(lobe=lobe, lobe_centre=1.85))).proposed.sides
    wide, close = clearance_effects(done[Side.INTAKE], done[Side.EXHAUST], [(0.25e-3, 0.2e-3), (0.15e-3, 0.2e-3)], Side.INTAKE)
    assert math.degrees(close.duration - wide.duration) == pytest.approx(26.667, abs=0.05)
    assert math.degrees(close.overlap - wide.overlap) == pytest.approx(13.333, abs=0.05)


def test_a_low_lobe_is_judged_at_the_change_over() -> None:
    """Lighter follower and lower lobe hold far beyond the change-over; a low lobe higher than the high one is refused."""
    low = cam_part(lift=5.5e-3, height_1=1e-3, duration_1=math.radians(205), lobe_centre=1.85)
    fit_figures = {**known_side().fit, "low_follower_mass": measured(29e-3), "switch_speed": measured(90.0)}
    done = complete(with_intake(known_build(), low_cam=low, fit=fit_figures))
    profile = done.proposed.low[Side.INTAKE]
    assert profile.train.masses["follower"].value == pytest.approx(29e-3)
    assert check_low_float(profile, done.goal).verdict is Verdict.HOLDS
    assert CheckCode.LOW_FLOAT in {check.code for check in bare_checks(done.proposed, done.goal)}
    late = replace(done.proposed, low={Side.INTAKE: replace(profile, switch_speed=measured(400.0))})
    check = next(check for check in assess(late, done.goal) if check.code is CheckCode.LOW_FLOAT)
    assert check.verdict is Verdict.SHORT
    (earlier,) = check.remedies
    mended = replace(late, low={Side.INTAKE: replace(profile, switch_speed=measured(earlier.amount))})
    assert check_low_float(mended.low[Side.INTAKE], done.goal).verdict is Verdict.HOLDS
    with pytest.raises(ContradictionError, match="swapped"):
        complete(with_intake(known_build(), low_cam=replace(low, figures={**low.figures, "lift": measured(12e-3)})))


def _fit(build: BuildRecord, ground: str = "") -> object:
    done = complete(build)
    side = done.proposed_sides[Side.INTAKE]
    return lobe_fit(done.proposed.sides[Side.INTAKE], side.parts[Owner.CAM], side.parts[Owner.FOLLOWER], ground, 140.0)


def test_flat_face_figures_of_the_feasible_half_event() -> None:
    """METHODS 2.6b: lift 8.5, half 68, Rb 16.5: nose 2.4014027, least 1.4299337 mm, contact offset 13.321793 mm."""
    curve = from_card(CamCard(8.5e-3, ((1e-3, math.radians(172.0)),), 0.0, 0.0))
    scale = math.radians(68) / curve.angle[-1]
    lobe = Lobe(tuple(curve.angle * scale), tuple(curve.lift), StatedAt.VALVE, Origin.TABLE, 0.0, 0.0, 0.0)
    follower = PartRecord("bucket", {**known_side().parts[Owner.FOLLOWER].figures, "face_diameter": measured(26e-3)}, {"contact": "flat"})
    build = with_intake(
        known_build(), cam_part({"ground_for": "flat"}, lobe, lobe_centre=1.85, base_diameter=33e-3, lobe_width=12e-3), follower
    )
    found = _fit(build, "flat")
    assert found.nose_radius * 1e3 == pytest.approx(2.4014, abs=0.02)  # type: ignore[attr-defined]
    assert found.least_radius * 1e3 == pytest.approx(1.43, abs=0.03)  # type: ignore[attr-defined]
    assert max(found.travel) * 1e3 == pytest.approx(13.3218, abs=0.01)  # type: ignore[attr-defined]
    assert any("travels off the face" in said for said in found.refusals)  # type: ignore[attr-defined]
    assert any("an edge that wears" in said for said in found.refusals)  # type: ignore[attr-defined]


def test_the_tell_tale_mismatches_are_refused() -> None:
    domed = PartRecord("domed", {**known_side().parts[Owner.FOLLOWER].figures, "face_radius": measured(60e-3)}, {"contact": "domed"})
    figures = {key: figure.value for key, figure in known_side().parts[Owner.CAM].figures.items()} | {"base_diameter": 33e-3}
    found = _fit(with_intake(known_build(), cam_part(**figures), domed), "flat")
    assert "ground for a flat follower and rides under a domed one" in found.refusals[0]  # type: ignore[attr-defined]
    found = _fit(with_intake(known_build(), cam_part(**figures)), "roller")
    assert "ground for a roller follower and rides under a flat one" in found.refusals[0]  # type: ignore[attr-defined]
    quick = harmonic(10e-3, 46.0, 721)
    lobe = Lobe(tuple(quick.angle), tuple(quick.lift), StatedAt.VALVE, Origin.TABLE, 0.0, 0.0, 0.0)
    found = _fit(with_intake(known_build(), cam_part(None, lobe, lobe_centre=1.85, base_diameter=26e-3)))
    assert any("negative radius" in said for said in found.refusals)  # type: ignore[attr-defined]
    # with an estimated base circle the same is a doubt, not a refusal
    found = _fit(with_intake(known_build(), cam_part(None, lobe, lobe_centre=1.85)))
    assert found.refusals == ()  # type: ignore[attr-defined]
    assert found.doubts  # type: ignore[attr-defined]


def test_stress_falls_with_speed_until_nothing_presses() -> None:
    build = known_build()
    done = complete(build)
    side = done.proposed_sides[Side.INTAKE]
    cam, follower, train = side.parts[Owner.CAM], side.parts[Owner.FOLLOWER], done.proposed.sides[Side.INTAKE]
    slow, quick, over = (lobe_fit(train, cam, follower, "", speed) for speed in (1.0, 120.0, 400.0))
    assert slow.stress_goal == pytest.approx(slow.stress_cranking, rel=1e-3)
    assert quick.stress_goal is not None
    assert slow.stress_cranking is not None
    assert quick.stress_goal < slow.stress_cranking
    assert over.stress_goal is None
    assert slow.contact is Contact.FLAT


def test_another_cam_tried_leaves_the_rest_alone() -> None:
    build = known_build()
    tried = with_cam(build, complete(build), Side.INTAKE, cam_part(lift=8.0e-3, height_1=1e-3, duration_1=math.radians(230)))
    assert tried.proposed.sides[Side.INTAKE].curve.full == pytest.approx(8.0e-3)
    assert tried.proposed.sides[Side.EXHAUST].curve is complete(build).proposed.sides[Side.EXHAUST].curve
    assert review(build).completed.proposed.sides[Side.INTAKE].springs == tried.proposed.sides[Side.INTAKE].springs


def test_lobes_that_are_none() -> None:
    with pytest.raises(OutOfRangeError, match="eight points"):
        Lobe((0.0,), (0.0,), StatedAt.VALVE, Origin.TABLE, 0.0, 0.0, 0.0)
    flat = LiftCurve(*(np.zeros(5) for _ in range(5)))
    with pytest.raises(ContradictionError, match="no duration"):
        flat.duration_at(1e-3)


def test_the_arms_of_a_push_rod_rocker_set_its_ratio() -> None:
    """27 over 18 mm is 1.5 (METHODS 2.11): a lobe of 6 mm lifts the valve by 9 mm."""
    kind = EngineKind(1, 1, Gear.PUSH_ROD, Follower.ROCKER, Adjuster.SCREW)
    follower = PartRecord("rocker", {"arm": measured(18e-3), "valve_arm": measured(27e-3)})
    cam = cam_part({"stated_at": "follower"}, lift=6e-3, height_1=1e-3, duration_1=math.radians(230))
    train = complete(with_intake(replace(known_build(), kind=kind), cam, follower)).proposed.sides[Side.INTAKE]
    assert train.curve.full == pytest.approx(9e-3)
