"""What is shown on the rev ladder, and the same in figures and words."""

from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Figures


@dataclass(frozen=True)
class FloatMark:
    """A float figure in rpm: which camshaft, value, spread (k = 2)."""

    side: str
    rpm: float
    spread: float


@dataclass(frozen=True)
class MotionMark:
    """Where a camshaft's valves lose contact for good, rpm, with the interval; `beyond`: not within the speeds that were tried."""

    side: str
    rpm: float
    low: float
    high: float
    beyond: bool = False


@dataclass(frozen=True)
class SurgeMark:
    """A stretch of rpm where a spring rings: its name (order and spring), camshaft, and amplitude in m."""

    name: str
    side: str
    low: float
    peak: float
    high: float
    amplitude: float


@dataclass(frozen=True)
class LadderData:
    """What stands on the ladder, rpm throughout; None is not known or not asked."""

    idle: float
    peak: float
    limiter: float
    goal: float
    over_rev: float
    piston: float
    piston_label: str
    stock: tuple[FloatMark, ...]
    proposed: tuple[FloatMark, ...]
    stock_motion: tuple[MotionMark, ...] = ()
    proposed_motion: tuple[MotionMark, ...] = ()
    stock_surge: tuple[SurgeMark, ...] = ()
    proposed_surge: tuple[SurgeMark, ...] = ()
    reached: tuple[float, float] | None = None
    measured: tuple[tuple[str, float], ...] = ()
    tried: tuple[FloatMark, ...] = ()


def rpm_text(value: float) -> str:
    """A speed as the ladder writes it: to ten rpm from a thousand on."""
    return f"{round(value / 10) * 10:,.0f}" if value >= 1000 else f"{value:.0f}"


def worst_surges(marks: tuple[SurgeMark, ...]) -> list[SurgeMark]:
    """The strongest surge of each order and spring, whichever camshaft it is on, strongest first; five at most."""
    best: dict[str, SurgeMark] = {}
    for mark in sorted(marks, key=lambda mark: -mark.amplitude):
        best.setdefault(mark.name, mark)
    return list(best.values())[:5]


def figures(data: LadderData) -> Figures:
    """The ladder as a table, rpm: what stands on it, where, and from where to where it may be."""

    def spread(speed: float, low: float, high: float) -> tuple[str, str]:
        return rpm_text(speed), f"{rpm_text(low)} to {rpm_text(high)}"

    rows = [("idle", rpm_text(data.idle), ""), ("stock peak", rpm_text(data.peak), ""), ("stock limiter", rpm_text(data.limiter), "")]
    rows += [("goal", rpm_text(data.goal), ""), ("over-rev", rpm_text(data.over_rev), ""), (data.piston_label, rpm_text(data.piston), "")]
    if data.reached:
        rows.append(("over-rev reached", *spread(data.reached[1], *data.reached)))
    rows += [(words, rpm_text(speed), "") for words, speed in data.measured]
    for name, marks in (("stock", data.stock), ("proposed", data.proposed), ("with the fix that is tried,", data.tried)):
        rows += [
            (f"{name} {mark.side} float, simple sum", *spread(mark.rpm, mark.rpm - mark.spread, mark.rpm + mark.spread)) for mark in marks
        ]
    for name, motions in (("stock", data.stock_motion), ("proposed", data.proposed_motion)):
        rows += [
            (f"{name} {mark.side} float at speed{', or beyond' if mark.beyond else ''}", *spread(mark.rpm, mark.low, mark.high))
            for mark in motions
        ]
    for name, surges in (("stock", data.stock_surge), ("proposed", data.proposed_surge)):
        rows += [
            (f"{name} {mark.side} spring surge, {mark.name}", *spread(mark.peak, mark.low, mark.high)) for mark in worst_surges(surges)
        ]
    return Figures(("", "rpm", "from, to"), tuple(rows))


def key(data: LadderData) -> str:
    """What the marks of this ladder mean, in a line."""
    if data.proposed_motion or data.stock_motion:
        bars = "Bars: float at speed (simulated); box: two in three; whiskers: whole spread; diamond: float, simple sum (rigid)"
    else:
        bars = "Bars: float, simple sum (rigid); box: two in three; whiskers: whole spread"
    bars += "; dashed: float, simple sum (rigid), with the fix that is tried" if data.tried else ""
    return bars + ("; hatched: surge" if data.proposed_surge or data.stock_surge else "") + "."
