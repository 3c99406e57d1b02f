"""What a spring tester's readings tell: rate, rise of rate, coil bind, the spread of a set, and which springs are tired."""

import math
import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ContradictionError
from valvetrain.parts.figure import Basis, Figure
from valvetrain.quantities import from_unit
from valvetrain.units import FORCE, LENGTH, QuantityKind, UnitSystem, amount, bare, show, unit_symbol

Array = NDArray[np.float64]

_STEEP = 2.2  # times the usual slope: coils are closing. A progressive valve spring rises by less than half over its travel
_BENT = 0.05  # share by which the rate must rise over the readings, and beyond its own noise, to be called progressive
_SLACK = 0.01  # share of the greatest load by which a load may fall between neighbours: friction of the tester
_LOST, _ODD, _SHORTER = 0.06, 0.05, 0.01  # share of load lost to call a used spring tired; off its set; shorter than new. Source: trade
_OUT_OF_SQUARE = 0.035  # lean over length, about 2 degrees. Source: trade
_TESTER = 0.01  # share that a bench tester itself may be off, k = 2. Source: judgement


@dataclass(frozen=True)
class SpringFit:
    """One spring: force at height h is `load + rate x + bend x^2`, x = `height` - h, with `height` the highest that was read.

    `noise` N is the standard deviation of the readings about it; `solid` m where coil bind showed, None where no reading went so far;
    `free` m where the force would be zero; `bound` marks readings left out because coils had closed.
    """

    name: str
    height: float
    load: Figure
    rate: Figure
    bend: Figure
    solid: Figure | None
    free: float
    noise: float
    low: float
    bound: NDArray[np.bool_]

    @property
    def progressive(self) -> bool:
        """Whether its rate rises beyond doubt."""
        return self.bend.value != 0.0

    def load_at(self, height: float) -> Figure:
        """Load (N) at a height (m); beyond the heights that were read the spread grows."""
        x = self.height - height
        value = self.load.value + x * (self.rate.value + self.bend.value * x)
        middle = (self.height - self.low) / 2.0
        own = math.hypot(self.noise * 2.0, self.rate.spread * (x - middle), self.bend.spread * x * x * 0.3, _TESTER * value)
        return Figure(value, own, Basis.MEASURED)

    def rate_at(self, height: float) -> Figure:
        """Rate (N/m) at a height (m)."""
        x = self.height - height
        return Figure(self.rate.value + 2.0 * self.bend.value * x, math.hypot(self.rate.spread, self.bend.spread * x), Basis.MEASURED)


def fit_spring(name: str, height: Array, load: Array) -> SpringFit:
    """Line or parabola through a spring's readings (m, N), coil bind left out.

    Raises ContradictionError for fewer than two heights, for loads that fall as the spring is pressed, and for no load at all.
    """
    order = np.argsort(-height, kind="stable")
    h, f = height[order], load[order]
    if len(h) < 2 or h[0] - h[-1] < 0.2e-3:
        raise ContradictionError(f"Spring {name}: press it at two heights or more; one reading gives no rate.")
    if f.min() < 0.0:
        raise ContradictionError(f"Spring {name}: a load below zero cannot be; a spring tester only pushes.")
    slack = max(_SLACK * float(f.max()), 1.0)
    falls = np.flatnonzero((np.diff(f) < -slack) & (np.diff(h) < 0.0))
    if len(falls):
        at = int(falls[0])
        raise ContradictionError(
            f"Spring {name}: from {bare(h[at], LENGTH)} to {amount(h[at + 1], LENGTH)} the load falls from {bare(f[at], FORCE)} to {amount(f[at + 1], FORCE)}. "
            "A spring that is pressed pushes harder: are heights and loads swapped, or one row a slip?"
        )
    pushing = f > 0.0
    if pushing.sum() < 2:
        raise ContradictionError(f"Spring {name}: no two of these heights are below its free length; press it further.")
    h, f = h[pushing], f[pushing]
    bound = _bound(h, f)
    x, y = h[0] - h[~bound], f[~bound]
    terms, cover, noise = _polynomial(x, y)
    solid = _solid(h, f, bound, terms)
    load0, rate, bend = (float(term) for term in terms)
    spread = [2.0 * math.sqrt(max(float(own), 0.0)) for own in np.diag(cover)]
    own = Figure(rate, math.hypot(spread[1], _TESTER * rate), Basis.MEASURED)
    bent = Figure(bend, spread[2], Basis.MEASURED)
    root = rate**2 - 4.0 * bend * load0
    free = h[0] + (2.0 * load0 / (rate + math.sqrt(root)) if root >= 0.0 else load0 / rate)
    first = Figure(load0, math.hypot(spread[0], _TESTER * load0), Basis.MEASURED)
    return SpringFit(
        name=name,
        height=float(h[0]),
        load=first,
        rate=own,
        bend=bent,
        solid=solid,
        free=float(free),
        noise=noise,
        low=float(h[~bound][-1]),
        bound=bound,
    )


def _bound(h: Array, f: Array) -> NDArray[np.bool_]:
    """Readings at the low end whose slope has left the spring's own: coils are closing."""
    bound = np.zeros(len(h), dtype=bool)
    if len(h) < 4:
        return bound
    slope = np.diff(f) / np.maximum(-np.diff(h), 1e-6)
    usual = float(np.median(slope[: max(len(slope) // 2, 2)]))
    steep = slope > _STEEP * usual
    at = len(slope)
    while at > 2 and steep[at - 1]:
        at -= 1
    bound[at + 1 :] = True
    return bound


def _polynomial(x: Array, y: Array) -> tuple[Array, Array, float]:
    """Load, rate, bend with their covariance, and the noise: a parabola only where the rate's rise stands out of the noise."""

    def solve(degree: int) -> tuple[Array, Array, float]:
        table = np.vander(x, degree + 1, increasing=True)
        terms, *_ = np.linalg.lstsq(table, y, rcond=None)
        left = y - table @ terms
        spare = len(x) - degree - 1
        noise = math.sqrt(float(left @ left) / spare) if spare > 0 else 0.0
        # with no reading to spare the tester's own resolution stands in: half a newton
        inverse = np.linalg.pinv(table.T @ table)
        whole, cover = np.zeros(3), np.zeros((3, 3))
        whole[: degree + 1] = terms
        cover[: degree + 1, : degree + 1] = inverse * max(noise, 0.5) ** 2
        return whole, cover, noise

    straight = solve(1)
    if len(x) < 5:
        return straight
    curved = solve(2)
    rise = 2.0 * curved[0][2] * float(x.max()) / max(curved[0][1], 1.0)
    sure = abs(curved[0][2]) > 3.0 * math.sqrt(curved[1][2, 2])
    return curved if sure and abs(rise) > _BENT else straight


def _solid(h: Array, f: Array, bound: NDArray[np.bool_], terms: Array) -> Figure | None:
    """Where the steep end meets the spring's own line; None where nothing bound."""
    if not bound.any():
        return None
    last = int(np.flatnonzero(~bound)[-1])
    first = last + 1
    if bound.sum() >= 2:
        steep, base = np.polyfit(h[bound], f[bound], 1)
        tries = np.linspace(h[bound].max() - 0.2e-3, h[last], 200)
        x = h[0] - tries
        own = terms[0] + x * (terms[1] + terms[2] * x)
        at = float(tries[np.argmin(np.abs(own - (steep * tries + base)))])
        return Figure(at, max(0.1e-3, float(h[last] - h[first]) / 3.0), Basis.MEASURED)
    return Figure(float(h[last] + h[first]) / 2.0, float(h[last] - h[first]) / 2.0, Basis.MEASURED)


@dataclass(frozen=True)
class SpringTold:
    """What is to be said of one spring of a set: its loads and, in words, what is wrong with it."""

    fit: SpringFit
    seat: Figure
    opened: Figure | None
    wrong: tuple[str, ...]


@dataclass(frozen=True)
class SpringSetResult:
    """A set at its installed height (m) and lift (m): each spring, the set's middle, and half the range over it."""

    springs: tuple[SpringTold, ...]
    seat: float
    half_range: float
    figures: dict[str, Figure]


def _lean(lean: float | None, fit: SpringFit) -> list[str]:
    if lean is None or lean / fit.free <= _OUT_OF_SQUARE:
        return []
    return [f"out of square: leans {amount(lean, LENGTH, 1)} over {amount(fit.free, LENGTH, 0)}"]


def read_set(
    fits: list[SpringFit],
    installed: float,
    lift: float,
    *,
    new: SpringFit | None = None,
    new_free: float | None = None,
    leans: dict[str, float] | None = None,
) -> SpringSetResult:
    """Judge the springs of a set at installed height and full lift (m); `new` is a spring as it came, `leans` m by name.

    Raises ContradictionError when the installed height is above a spring's free length.
    """
    leans = leans or {}
    for fit in fits:
        if installed >= fit.free:
            raise ContradictionError(
                f"Spring {fit.name}: the installed height of {amount(installed, LENGTH, 1)} is above its free length of {amount(fit.free, LENGTH, 1)}: "
                "it would not push at all."
            )
    seats = np.array([fit.load_at(installed).value for fit in fits])
    middle = float(np.median(seats))
    told = []
    for fit, seat in zip(fits, seats, strict=True):
        wrong = _lean(leans.get(fit.name), fit)
        if len(fits) > 1 and abs(seat - middle) > _ODD * middle:
            wrong.append(f"{abs(seat - middle) / middle:.0%} {'below' if seat < middle else 'above'} its set")
        if new is not None:
            was = new.load_at(installed).value
            if seat < (1.0 - _LOST) * was:
                wrong.append(f"has lost {1.0 - seat / was:.0%} of its load")
            if fit.free < (1.0 - _SHORTER) * (new_free or new.free):
                wrong.append(f"is {amount((new_free or new.free) - fit.free, LENGTH, 1)} shorter than new")
        solid_first = fit.solid is not None and fit.solid.value > installed - lift
        if solid_first and fit.solid is not None:
            wrong.append(f"is solid at {amount(fit.solid.value, LENGTH)}, before full lift at {amount(installed - lift, LENGTH)}")
        opened = None if solid_first else fit.load_at(installed - lift)
        told.append(SpringTold(fit, fit.load_at(installed), opened, tuple(wrong)))
    half = float(seats.max() - seats.min()) / 2.0
    return SpringSetResult(tuple(told), middle, half, _figures_of_set(fits, installed, seats))


def _figures_of_set(fits: list[SpringFit], installed: float, seats: Array) -> dict[str, Figure]:
    """Figures for the part: the set's middle, with the spread of the set on top of the tester's."""
    rates = [fit.rate_at(installed) for fit in fits]
    rate = float(np.median([each.value for each in rates]))
    between = 2.0 * float(np.std([each.value for each in rates], ddof=1)) if len(fits) > 1 else 0.0
    scatter = 2.0 * float(np.std(seats, ddof=1)) if len(fits) > 1 else 0.0
    seat = float(np.median(seats))
    own = float(np.median([fit.load_at(installed).spread for fit in fits]))
    figures = {
        "rate": Figure(rate, math.hypot(between, float(np.median([each.spread for each in rates]))), Basis.MEASURED),
        "load": Figure(seat, math.hypot(scatter, own), Basis.MEASURED),
        "load_height": Figure(installed, 0.0, Basis.MEASURED),
    }
    bends = [fit.bend for fit in fits if fit.progressive]
    if len(bends) * 2 > len(fits):
        figures["bend"] = Figure(
            float(np.median([bend.value for bend in bends])), float(np.median([bend.spread for bend in bends])), Basis.MEASURED
        )
    solids = [fit.solid for fit in fits if fit.solid]
    if solids:
        worst = max(solids, key=lambda solid: solid.value)
        figures["solid_height"] = Figure(worst.value, worst.spread, Basis.MEASURED)
    return figures


@dataclass(frozen=True)
class Claim:
    """What a packet says, as a figure: `kind` force (at the seat), rate or speed; `words` as printed."""

    words: str
    kind: QuantityKind
    value: float


_CLAIM = re.compile(r"([\d][\d,.]*)\s*-?\s*(rpm|lbs?/in|n/mm|lbf|lbs?|kgf|kg|n)\b", re.IGNORECASE)


def claim_of(words: str) -> Claim | None:
    """The figure in a packet's words: “9,750-rpm springs”, “14 lb”, “190 lb/in”; None where there is none."""
    found = _CLAIM.search(words)
    if not found:
        return None
    number, unit = found.groups()
    unit = unit.lower()
    kind = QuantityKind.SPEED if unit == "rpm" else QuantityKind.RATE if "/" in unit else QuantityKind.FORCE
    plain = number.replace(",", "") if kind is QuantityKind.SPEED or re.fullmatch(r"\d{1,3}(,\d{3})+", number) else number.replace(",", ".")
    try:
        value = float(plain.rstrip("."))
    except ValueError:
        return None
    if kind is QuantityKind.SPEED:
        return Claim(words, kind, value / 60.0)
    return Claim(words, kind, from_unit(value, kind, "lbf/in" if unit in ("lb/in", "lbs/in") else unit))


def weigh_claim(
    claim: Claim, seat: Figure, rate: Figure, float_speed: float, float_spread: float, system: UnitSystem = UnitSystem.METRIC
) -> str:
    """The claim beside the measured truth, in one sentence. `float_speed` (rev/s) is what the build's valves hold with these springs."""
    value, spread = {
        QuantityKind.FORCE: (seat.value, seat.spread), QuantityKind.RATE: (rate.value, rate.spread), QuantityKind.SPEED: (float_speed, float_spread)
    }[claim.kind]  # fmt: skip
    unit = unit_symbol(claim.kind, system)
    what = {
        QuantityKind.FORCE: "at the seat it gives",
        QuantityKind.RATE: "its rate is",
        QuantityKind.SPEED: "in this engine, with these parts, it holds",
    }[claim.kind]
    measured = f"{show(value, claim.kind, system)} {unit}"
    off = value - claim.value
    if abs(off) <= max(spread, 0.03 * claim.value):
        return f"The packet says {claim.words}; {what} {measured}: the claim stands."
    return f"The packet says {claim.words}; {what} {measured}, {abs(off) / claim.value:.0%} {'less' if off < 0 else 'more'}."
