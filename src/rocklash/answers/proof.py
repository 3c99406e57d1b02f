"""What tests of a build rest on and come to: layout for the ear, cylinder for the gauge, forecasts, own hand, what the workshop learnt."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from rocklash.answers.calibration import learning_of
from rocklash.answers.results import BuildResult
from rocklash.answers.stops import firing_of, firing_text
from rocklash.records.models import Build, Forecast, ProofKind, ProofTest
from rocklash.records.selectors.springs import rested_on
from valvetrain.errors import ContradictionError, ValveTrainError
from valvetrain.formulas.compression import air_pressure
from valvetrain.parts.engine import Side
from valvetrain.studies.cams.cam_events import events_at
from valvetrain.studies.checks.assessment import check_float
from valvetrain.studies.checks.remedies import add_shim, lighten_retainer
from valvetrain.studies.job.symptoms import WayHeard
from valvetrain.studies.motion.review import Onset
from valvetrain.studies.proof import compression, leak_down, score
from valvetrain.studies.proof.compression import CompressionResult, Condition, Oil, Reading
from valvetrain.studies.proof.cranking import Cranking, Cylinder, Expected, expected
from valvetrain.studies.proof.sound.tracker import Layout
from valvetrain.units import QuantityKind

_SHUT = 0.1e-3  # lift (m) below which what is left open no longer counts at cranking speed; judgement
_SHIM, _LIGHTER = 0.5e-3, 3e-3  # m under the springs, kg off a retainer: the planner's two changes
USUAL_CRANKING = 300.0 / 60.0  # rev/s


def angles_of(build: Build) -> tuple[float, ...]:
    """Firing angles (rad of 4 pi) in the order of firing; even where no order is told. Raises ContradictionError for an order that cannot be."""
    text = firing_text(build)
    if not text:
        return tuple(4.0 * math.pi * each / build.engine.cylinders for each in range(build.engine.cylinders))
    return tuple(math.radians(angle) for angle in sorted(firing_of(text, build).at.values()))


def order_of(build: Build) -> list[int]:
    """Cylinders in the order in which they fire."""
    text = firing_text(build)
    if not text:
        return list(range(1, build.engine.cylinders + 1))
    at = firing_of(text, build).at
    return sorted(at, key=lambda number: at[number])


def layout_of(build: Build, top: float) -> Layout:
    """What the ear is told of an engine whose pull is expected to end near `top` (rev/s)."""
    return Layout(angles=angles_of(build), least=0.2 * top, most=1.25 * top)


def usual_top(answer: BuildResult) -> float:
    """Speed near which a pull is expected to end: limiter or goal, whichever is higher."""
    if answer.review is None:
        return 150.0
    done = answer.review.completed
    return max(done.engine["limiter"].value, done.goal.goal_rpm)


def cylinder_of(answer: BuildResult, role: str = "proposed") -> Cylinder | None:
    """The cylinder as the gauge meets it; None while the build's figures contradict one another."""
    if answer.review is None:
        return None
    done = answer.review.completed
    setup = done.stock if role == "stock" else done.proposed
    engine = done.engine
    try:
        intake = setup.sides[Side.INTAKE]
        shuts = events_at(intake, _SHUT, clearance=intake.clearance.value)[1] - math.pi
    except (KeyError, ValveTrainError):
        return None
    return Cylinder(
        bore=engine["bore"].value, stroke=engine["stroke"].value, rod=engine["rod_length"].value, compression=engine["compression"].value,
        closing=min(max(shuts, -math.pi / 2.0), math.pi),
    )  # fmt: skip


def ambient_of(answer: BuildResult) -> float:
    """The air's pressure where the engine works, Pa."""
    high = answer.review.completed.goal_figures.get("altitude") if answer.review else None
    return air_pressure(high.value if high else 0.0)


def expected_gauge(answer: BuildResult, test: ProofTest | None = None, role: str = "proposed") -> Expected | None:
    """What a gauge should show, with its band; None where a decompressor or a gap in the figures leaves nothing to say."""
    cylinder = cylinder_of(answer, role)
    told = test.conditions if test else {}
    if cylinder is None or told.get("decompressor"):
        return None
    try:
        return expected(
            cylinder,
            Cranking(
                speed=told.get("cranking") or USUAL_CRANKING,
                ambient=told.get("ambient") or ambient_of(answer),
                hose=told.get("hose") or 0.0,
            ),
        )
    except ValveTrainError:
        return None


def compression_of(test: ProofTest, answer: BuildResult, tight: tuple[int, ...] = ()) -> CompressionResult | None:
    """What a compression test says; None without a reading."""
    rows = [
        Reading(cylinder=int(number), dry=tuple(each.get("dry", ())), wet=tuple(each.get("wet", ())), first=each.get("first"))
        for number, each in sorted(test.readings.get("cylinders", {}).items(), key=lambda pair: int(pair[0]))
    ]
    band = expected_gauge(answer, test, "stock" if test.phase == "before" else "proposed")
    cylinder, told = cylinder_of(answer), test.conditions
    oil = None
    if told.get("oil_volume") and cylinder and band:
        oil = Oil(volume=told["oil_volume"], chamber=cylinder.chamber, trapped=cylinder.trapped, exponent=band.exponent)
    met = [each for each in Condition if each.name.lower() in told.get("met", ())]
    try:
        return compression.judge(rows, met=met, band=band, oil=oil, tight=tight)
    except ValveTrainError:
        return None


def leaks_of(test: ProofTest) -> tuple[leak_down.LeakResult, ...]:
    """What a leak-down test says."""
    told = test.conditions
    tester = leak_down.Tester(
        regulated=told.get("regulated") or leak_down.USUAL_REGULATED, restrictor=told.get("restrictor") or leak_down.USUAL_RESTRICTOR,
        told=bool(told.get("regulated") and told.get("restrictor")),
    )  # fmt: skip
    rows = [
        leak_down.LeakReading(
            cylinder=int(number), behind=each["behind"], hisses=tuple(leak_down.Hiss(hiss) for hiss in each.get("hisses", ()))
        )
        for number, each in sorted(test.readings.get("cylinders", {}).items(), key=lambda pair: int(pair[0]))
    ]
    try:
        return leak_down.judge(rows, tester)
    except ValveTrainError:
        return ()


@dataclass(frozen=True, kw_only=True)
class Foretold:
    """A forecast to be kept: kind, words, unit, middle, low, high (SI), what it rests on."""

    kind: str
    words: str
    unit: QuantityKind
    middle: float
    low: float
    high: float
    rests_on: str


@dataclass(frozen=True, kw_only=True)
class Anchor:
    """What a side was seen to do with the stock parts (rev/s, k = 2), and where the proposed ones give up in the light of it."""

    seen: float
    spread: float
    after: Onset


def anchors_of(build: Build, answer: BuildResult) -> dict[str, Anchor]:
    """Sides whose next float is foretold from what they were seen to do before, where that was worked out and fits."""
    found = {}
    for row in rested_on(build):
        job = learning_of(answer, row) if row.role == "stock" else None
        if job is not None and job.result is not None and not job.result.fits:
            found[row.side] = Anchor(seen=row.speed, spread=row.spread, after=job.result.after)
    return found


def _ordered(onset: Onset) -> tuple[float, float, float]:
    return onset.value, min(onset.low, onset.value), max(onset.high, onset.value)


def _floats(answer: BuildResult, anchors: Mapping[str, Anchor]) -> list[Foretold]:
    found: list[Foretold] = []
    for side in Side:
        anchor, motion = anchors.get(side.value), answer.motions.get(("proposed", side))
        onset = anchor.after if anchor else motion.sustained if motion else None
        if onset is None or (anchor is None and onset.beyond):
            continue
        middle, low, high = _ordered(onset)
        rests = f"what it did before, {60 * anchor.seen:,.0f} rpm, and the motion at speed" if anchor else "motion at speed, weakest valve"
        words = f"{side.value.capitalize()} valves float"
        found.append(
            Foretold(kind=f"float {side.value}", words=words, unit=QuantityKind.SPEED, middle=middle, low=low, high=high, rests_on=rests)
        )
        if anchor:
            off = anchor.seen
            found.append(
                Foretold(
                    kind=f"gain {side.value}", words=f"{words} later by", unit=QuantityKind.SPEED, middle=middle - off,
                    low=low - off - anchor.spread, high=high - off + anchor.spread, rests_on=rests,
                )
            )  # fmt: skip
    return found


def as_cranked(answer: BuildResult, test: ProofTest | None = None) -> Foretold | None:
    """What the gauge will show on the middle cylinder: as it was cranked where a test tells, else at the usual speed."""
    band = expected_gauge(answer, test)
    if band is None:
        return None
    told = bool(test and test.conditions.get("cranking"))
    rests = f"trapped compression ratio, {'cranking as entered' if told else 'cranking at 300 rpm'}, usual leak and wall heat"
    return Foretold(
        kind="compression", words="Compression, middle of the cylinders", unit=QuantityKind.PRESSURE, middle=band.middle, low=band.low,
        high=band.high, rests_on=rests,
    )  # fmt: skip


def foretell(answer: BuildResult, anchors: Mapping[str, Anchor] | None = None) -> list[Foretold]:
    """What the model says of the proposed set-up before it is tested: where each side floats, how much later than it was seen to, what the gauge
    will show."""
    if answer.review is None:
        return []
    gauge = as_cranked(answer)
    return _floats(answer, anchors or {}) + ([gauge] if gauge else [])


def would_move(answer: BuildResult, observed: float | None) -> dict[str, tuple[float, float, str]]:
    """What half a millimetre under the springs and 3 g off the retainers would move the first float to (rev/s), from where it is held to be now,
    with the side: by the ratio of the rigid model, which both share; from the speed observed where there is one."""
    if answer.review is None:
        return {}
    done, found = answer.review.completed, {}
    sides = {side: check_float(train, done.goal).figure for side, train in done.proposed.sides.items()}
    side = min(sides, key=lambda each: sides[each])
    train, now = done.proposed.sides[side], observed or sides[side]
    changes = {"shim": add_shim(train, _SHIM)}
    if train.masses["retainer"].value > 1.5 * _LIGHTER:
        changes["retainer"] = lighten_retainer(train, _LIGHTER)
    for key, changed in changes.items():
        found[key] = (now, now * check_float(changed, done.goal).figure / sides[side], side.value)
    return found


def as_scored(row: Forecast) -> score.Forecast:
    """A kept forecast for scoring."""
    return score.Forecast(kind=row.kind, middle=row.middle, low=row.low, high=row.high, result=row.result)


def newest(tests: list[ProofTest], kind: ProofKind, phase: str = "") -> ProofTest | None:
    """The newest test of a kind; of one phase where it is named."""
    return next((test for test in reversed(tests) if test.kind == kind and phase in ("", test.phase)), None)


def firing_trouble(build: Build) -> str:
    """Why the firing order cannot be used, or an empty text."""
    try:
        angles_of(build)
    except ContradictionError as error:
        return error.sentence
    return ""


_SEEN = {
    "clean": WayHeard(beat=0.8, ragged=0.1, clatter=0.05),
    "ragged": WayHeard(beat=0.05, ragged=0.75, clatter=0.1),
    "clatter": WayHeard(beat=0.02, ragged=0.13, clatter=0.8),
}
_WORDS = {"clean": "a clean cut", "ragged": "ragged", "clatter": "clatter"}


def way_heard(tests: list[ProofTest]) -> tuple[WayHeard, str] | None:
    """How the engine gave up on its newest pull, by ear of the machine or as somebody said, with that in words; None where nothing tells it."""
    for test in reversed(tests):
        if test.kind == ProofKind.SOUND:
            odds = test.found["odds"]
            kinds = {"a steady beat": odds["limiter"], "ragged": odds["ragged"], "clatter": odds["clatter"]}
            best = max(kinds, key=lambda each: kinds[each])
            if odds["cannot_tell"] < 0.5:
                words = f"Recording of {test.made_on:%d %b %Y}: {best}, {100 * kinds[best]:.0f} in 100"
                return WayHeard(beat=odds["limiter"], ragged=odds["ragged"], clatter=odds["clatter"]), words
        elif test.conditions.get("how") in _SEEN:
            how = test.conditions["how"]
            return _SEEN[how], f"Rev test of {test.made_on:%d %b %Y}: {_WORDS[how]}"
    return None
