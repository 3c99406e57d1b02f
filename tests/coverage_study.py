"""How often the 95 % bands hold a truth that the product does not know: `make coverage-study` prints and publishes it.

Hidden lobes are drawn of each kind of law in turn, and that kind is left out of the laws that the band is made of, so that the truth is never
among what is thought possible. Everything goes the way of the product: card or log, a side with its figures, float, motion, calibration.
Widths are halves of the band over its middle; beside each stands what would have been needed, half the 2.5 to 97.5 % range of truth over
middle. Not part of `make test`: it takes minutes. Run as `python -m tests.coverage_study [lobes per kind]`.
"""

import math
import re
import sys
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tests.valvetrain.builders import known_build, measured
from valvetrain.errors import ValveTrainError
from valvetrain.parts import cam_source
from valvetrain.parts.cam_card import CamCard
from valvetrain.parts.cam_source import CamSource
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, Figure, estimate
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.lobe import StatedAt
from valvetrain.parts.lobe_family import family_of, members, sound
from valvetrain.parts.lobe_laws import LawKind, draw_laws
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.cams import degree_wheel
from valvetrain.studies.clearance.hours_left import Passage, hours_left
from valvetrain.studies.clearance.shim_plan import ClearanceLimits
from valvetrain.studies.motion.calibration import Observation, calibrate
from valvetrain.studies.motion.case import motion_case, motion_figures
from valvetrain.studies.motion.review import onsets
from valvetrain.studies.motion.sweep import sweep
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.float_rows import float_speed
from valvetrain.studies.train.lobe_bands import peak_acceleration
from valvetrain.studies.train.side_figures import nominal_float_speed, weakest

Array = NDArray[np.float64]
ROOT = Path(__file__).resolve().parents[1]
SLOPE = 0.018e-3 * 180 / math.pi
CLEARANCE = 0.20e-3
SEED = 20260


@dataclass
class Tally:
    """What one band did over many truths."""

    held: list[bool] = field(default_factory=list)
    width: list[float] = field(default_factory=list)
    off: list[float] = field(default_factory=list)
    refused: int = 0

    def add(self, low: float, middle: float, high: float, truth: float) -> None:
        self.held.append(bool(low <= truth <= high))
        self.width.append((high - low) / 2.0 / middle)
        self.off.append(truth / middle)

    def merge(self, other: "Tally") -> None:
        self.held += other.held
        self.width += other.width
        self.off += other.off
        self.refused += other.refused

    @property
    def share(self) -> float:
        return float(np.mean(self.held)) if self.held else math.nan

    @property
    def needed(self) -> float:
        return float(np.quantile(self.off, 0.975) - np.quantile(self.off, 0.025)) / 2.0 if self.off else math.nan


def leave_out(kind: LawKind | None) -> None:
    """Let the product know every law but one; None gives all back."""
    cam_source.family_of = family_of if kind is None else partial(family_of, without=kind)  # type: ignore[attr-defined]
    for kept in (cam_source._family, cam_source._resolve, cam_source._member, cam_source._rows, cam_source._lobes):
        kept.cache_clear()


def hidden(kind: LawKind, count: int, random: np.random.Generator) -> Iterator[tuple[LiftCurve, float]]:
    """Lobes of one kind that nobody knows, each with the ramp height that its maker might tell (m)."""
    laws = draw_laws((kind,), 2 * count, SEED)
    half = np.radians(random.uniform(58.0, 82.0, len(laws)))
    lifts = random.uniform(6e-3, 11e-3, len(laws))
    given = 0
    for number in range(len(laws)):
        one = replace_lean(laws.one(number), float(laws.lean[number]), float(laws.ramp_height[number]), float(laws.ramp_slope[number]))
        flanks = members(one, float(lifts[number]), half[number : number + 1], (CLEARANCE + 0.05e-3, SLOPE))
        if given < count and bool(sound(flanks)[0]):
            given += 1
            yield flanks.curve(0, float(laws.lean[number])).centred(), float(flanks.ramp_height[0])


def replace_lean(laws, lean: float, height: float, slope: float):  # type: ignore[no-untyped-def]
    return replace(laws, lean=np.array([lean]), ramp_height=np.array([height]), ramp_slope=np.array([slope]))


def card_of(curve: LiftCurve, ramp: float, durations: int, *, told: bool) -> CamCard:
    """What a card in whole degrees tells of a lobe; in some cases with its ramp."""
    at = {1: (1e-3,), 2: (0.3e-3, 1e-3), 3: (0.3e-3, 1e-3, 0.6 * curve.full)}[durations]
    heights = tuple((height, math.radians(round(math.degrees(curve.duration_at(height))))) for height in at)
    return CamCard(curve.full, heights, ramp if told else CLEARANCE + 0.05e-3, SLOPE, ramp_known=told)


def side_with(source: CamSource, rate: float, random: np.random.Generator, shape: Figure) -> tuple[TrainSide, dict[str, float]]:
    """A side with measured figures on a cam, and the true values behind them."""
    base = complete(known_build()).proposed.sides[Side.INTAKE]
    near = lambda value, share: Figure(value, share * value, Basis.MEASURED)
    springs = (replace(base.springs[0], spring=replace(
        base.springs[0].spring, rate=near(rate, 0.02), load=near(190.0, 0.02), mass=near(40e-3, 0.02), solid_height=measured(20e-3))),)  # fmt: skip
    masses = {name: near(figure.value, 0.01) for name, figure in base.masses.items()}
    full = source.curve.full
    side = replace(
        base, cam=source, lift=near(full, 0.003), duration=measured(source.curve.duration_at(1e-3)), shape=shape, springs=springs, masses=masses,
        clearance=measured(CLEARANCE, 0.01e-3), joint=None,
    )  # fmt: skip
    figures = motion_figures(side)
    truth = {}
    for name, figure in figures.items():
        if name.startswith("shake:"):
            truth[name] = figure.value * math.exp(random.normal() * math.log1p(figure.spread / figure.value) / 2.0)
        elif name not in ("shape", "lift", "duration"):
            truth[name] = random.normal(figure.value, figure.spread / 2.0) if figure.spread else figure.value
    return side, truth


def true_float(side: TrainSide, curve: LiftCurve, truth: dict[str, float]) -> float:
    """Rigid float (rev/s) of the hidden lobe with the true figures, by the closed form at every point."""
    down = (curve.acceleration < 0.0) & (curve.lift > truth["clearance"])
    squeeze = truth["load_height_0"] - truth["installed_height"] + truth["spring_shim"] + curve.lift[down] - truth["clearance"]
    force = truth["load_0"] + truth["rate_0"] * squeeze
    active = truth["active_0"]
    mass = sum(value for name, value in truth.items() if name.startswith("mass:") and "spring" not in name)
    mass += truth["mass:spring 0"] * (active / 3.0 + (1.0 - active) / 2.0)
    return float(np.sqrt((force / -curve.acceleration[down]).min() / mass) / math.pi)


def cards(kind: LawKind, durations: int, count: int) -> tuple[Tally, Tally]:
    """Float and peak acceleration from a card of one to three durations."""
    random = np.random.default_rng(SEED + durations)
    speeds, peaks = Tally(), Tally()
    for curve, ramp in hidden(kind, count, random):
        try:
            card = card_of(curve, ramp, durations, told=random.random() < 0.4)
            source = CamSource(card, StatedAt.VALVE, known_drive(), 17e-3)
            side, truth = side_with(
                source, random.uniform(26e3, 42e3), random, estimate(1.0, spread={1: 0.20, 2: 0.15}.get(durations, 0.14))
            )
            found = float_speed(side, weakest(side))
        except ValveTrainError:
            continue
        assert found.low
        assert found.high
        speeds.add(found.low, found.value, found.high, true_float(side, curve, truth))
        peak = peak_acceleration(side)
        peaks.add(peak.low, peak.value, peak.high, float(curve.acceleration.max()))
    return speeds, peaks


def known_drive():  # type: ignore[no-untyped-def]
    return complete(known_build()).proposed.sides[Side.INTAKE].cam.drive


def wheel(kind: LawKind, count: int) -> tuple[Tally, Tally]:
    """Float and peak acceleration from a degree-wheel log every 2 crank degrees, indicator of 0.01 mm."""
    random = np.random.default_rng(SEED + 9)
    speeds, peaks = Tally(), Tally()
    for curve, _ in hidden(kind, count, random):
        angle = np.radians(np.arange(-95.0, 95.0, 1.0) + random.uniform(0.0, 1.0))
        lift = np.round((curve.lift_at(angle) + random.normal(0.0, 4e-6, len(angle))) / 1e-5) * 1e-5
        found = degree_wheel.fit(angle, lift)
        lobe, _ = degree_wheel.lobe_of(found, StatedAt.VALVE)
        source = CamSource(lobe, StatedAt.VALVE, known_drive(), 17e-3)
        side, truth = side_with(source, random.uniform(26e3, 42e3), random, Figure(1.0, lobe.acceleration_share, Basis.MEASURED))
        band = float_speed(side, weakest(side))
        assert band.low
        assert band.high
        speeds.add(band.low, band.value, band.high, true_float(side, curve, truth))
        peak, spread = found.peak_acceleration
        peaks.add(peak - spread, peak, peak + spread, float(curve.acceleration.max()))
    return speeds, peaks


def calibrations(kind: LawKind, count: int) -> Tally:
    """The next springs' loss of contact, predicted from where a hidden engine gave up with the first."""
    random, tally = np.random.default_rng(SEED + 17), Tally()
    for curve, ramp in hidden(kind, count, random):
        try:
            source = CamSource(card_of(curve, ramp, 1, told=False), StatedAt.VALVE, known_drive(), 17e-3)
            side, truth = side_with(source, random.uniform(26e3, 36e3), random, estimate(1.0, spread=0.20))
            packed = side.springs[0]
            share = random.uniform(1.1, 1.3)
            new = replace(packed.spring, rate=Figure(packed.spring.rate.value * share, packed.spring.rate.value * 0.03, Basis.CARD),
                          load=Figure(packed.spring.load.value * share, packed.spring.load.value * 0.04, Basis.CARD))  # fmt: skip
            planned = replace(side, springs=(replace(packed, spring=new),))
            after = dict(truth)
            for name, figure in (("rate_0", new.rate), ("load_0", new.load)):
                after[name] = random.normal(figure.value, figure.spread / 2.0)
            gone = []
            for each, numbers in ((side, truth), (planned, after)):
                case = replace(motion_case(each, weakest(each), numbers), curve=curve, lift_scale=1.0, width_scale=1.0, rounding=0.0)
                grid = np.linspace(0.45, 1.2, 96) * nominal_float_speed(each, weakest(each))
                gone.append(onsets(sweep(case, grid))[1])
            seen = Observation(gone[0] + random.normal(0.0, 25.0 / 60.0), 50.0 / 60.0)
            found = calibrate(side, planned, seen, count=96)
        except ValveTrainError:
            continue
        if found.fits:
            tally.refused += 1  # the page says that the observation does not fit, and predicts nothing from it
            continue
        tally.add(found.after.low, found.after.value, found.after.high, gone[1])
    return tally


def courses(random: np.random.Generator) -> dict[str, Callable[[Array], Array]]:
    """Wear (m) over hours, by course, each drawn anew."""
    rate = abs(random.normal(1e-6, 0.6e-6)) + 0.1e-6
    s, tau, span = random.uniform(0.5, 4.0), random.uniform(8.0, 60.0), random.uniform(80.0, 250.0)
    uneven = np.concatenate([[0.0], np.cumsum(np.maximum(1.0 + 0.3 * random.normal(size=3000), 0.05))])
    at, jump = random.uniform(0.0, 60.0), random.uniform(0.01e-3, 0.04e-3)
    return {
        "steady": lambda t: rate * t,
        "settling": lambda t: rate * (t + s * tau * (1.0 - np.exp(-t / tau))),
        "growing": lambda t: rate * t * (0.4 + t / span),
        "uneven": lambda t: rate * 10.0 * np.interp(t / 10.0, np.arange(3001), uneven),
        "sudden": lambda t: rate * t + jump * (t > at),
    }


def hours(count: int) -> dict[str, Tally]:
    """Hours to the limit, three to eight sheets, three kinds of blades, re-set where it had to be."""
    random, limits = np.random.default_rng(SEED + 29), ClearanceLimits(0.10e-3, 0.20e-3)
    found = {name: Tally() for name in courses(random)}
    ahead = np.linspace(0.0, 5000.0, 50001)
    for name, tally in found.items():
        while len(tally.held) < count:
            worn = courses(random)[name]
            at = np.cumsum(random.uniform(8.0, 30.0, int(random.integers(3, 9))))
            blade, offset = random.choice([0.01e-3, 0.02e-3, 0.03e-3]), random.uniform(0.0, 0.01e-3)
            read = lambda gap, blade=blade, offset=offset: math.floor((gap + offset) / blade) * blade - offset + blade / 2.0
            gap, before, sheets = random.uniform(0.16e-3, 0.195e-3), float(at[0]), []
            for number, hour in enumerate(at):
                gap -= float(worn(np.array(float(hour))) - worn(np.array(before)))
                before, seen = float(hour), read(gap)
                left = seen
                if gap < 0.12e-3 and number < len(at) - 1:
                    gap += 0.06e-3
                    left = read(gap)
                sheets.append(Passage(float(hour), seen, left, float(blade) / 2.0))
            if not limits.least < gap < limits.most:
                continue
            down = gap - (worn(at[-1] + ahead) - worn(at[-1])) < limits.least
            truth = float(ahead[int(np.argmax(down))]) if down.any() else 5000.0
            band = hours_left(sheets, limits)
            tally.add(band.least or 0.0, band.middle or 5000.0, 1e9 if band.most is None else band.most, truth)
    return found


def _row(name: str, tallies: list[tuple[str, Tally]]) -> str:
    whole = Tally()
    for _, tally in tallies:
        whole.merge(tally)
    least = min(tallies, key=lambda item: item[1].share)
    return f"| {name} | {len(whole.held)}{f' and {whole.refused} told not to fit' if whole.refused else ''} | {whole.share:.1%} | {least[1].share:.0%}, {least[0]} | ±{np.median(whole.width):.1%} | ±{whole.needed:.1%} |"


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 60
    lines = ["| band of | lobes | held | least of a kind left out | half width | needed |", "|---|---|---|---|---|---|"]

    def publish(line: str) -> None:
        lines.append(line)
        print(line, flush=True)

    made: dict[str, list[tuple[str, Tally]]] = {}
    for kind in LawKind:
        leave_out(kind)
        for durations in (1, 2, 3):
            one, two = cards(kind, durations, count)
            made.setdefault(f"float, card of {durations}", []).append((kind.value, one))
            made.setdefault(f"peak acceleration, card of {durations}", []).append((kind.value, two))
        made.setdefault("calibrated prediction", []).append((kind.value, calibrations(kind, max(count // 3, 4))))
        leave_out(None)
        one, two = wheel(kind, count)
        made.setdefault("float, degree wheel", []).append((kind.value, one))
        made.setdefault("peak acceleration, degree wheel", []).append((kind.value, two))
        print(kind.value, {name: round(tallies[-1][1].share, 3) for name, tallies in made.items()}, flush=True)
    for name in sorted(made):
        publish(_row(name, made[name]))
    publish(_row("hours to a limit", list(hours(max(3 * count, 60)).items())))
    page = ROOT / "docs/how-the-numbers-are-made.md"
    text = page.read_text(encoding="utf-8")
    table = "<!-- coverage -->\n" + "\n".join(lines) + "\n<!-- end of coverage -->"
    page.write_text(re.sub(r"<!-- coverage -->.*?<!-- end of coverage -->", lambda _: table, text, flags=re.DOTALL), encoding="utf-8")


if __name__ == "__main__":
    main()
