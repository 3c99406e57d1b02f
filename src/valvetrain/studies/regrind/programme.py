"""The largest lobe as a linear programme: area under a cubic spline, held by spring, metal, follower and room.

The law is a cubic B-spline over the cam angle: its acceleration bends only at the knots and its jerk is constant between them, so that what
holds at the points of a cell holds everywhere. Under a flat face every limit is linear in the spline's coefficients and the base radius; under a
roller, dome or pad the curvature and the standing of the follower are made linear about the last lobe, a few rounds over. Source: closed form.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, TypeAlias

import numpy as np
from scipy.interpolate import BSpline
from scipy.optimize import linprog
from scipy.sparse import csr_matrix, diags, hstack, vstack

from valvetrain.errors import ContradictionError, OutOfRangeError, ValveTrainError
from valvetrain.parts.cam_drive import Contact, Drive, LobeShape, lobe_from_valve
from valvetrain.parts.lift_curve import Array, LiftCurve, both_flanks

_EACH = 4  # points a cell
_MM = 1e3  # the programme counts in mm and N, so that its numbers are near one another
_SETTLED = 2e-7  # m of lift between two rounds
_ROUNDS = 8
_STEP = 1e-7  # m, of the differences
_PATIENCE = {"time_limit": 5.0}  # s; a programme of this size takes a twentieth of one
_LOOSE = 0.99  # of the area is kept where the greatest jerk is made least

Matrix: TypeAlias = Any  # sparse rows of scipy, which has no types


@dataclass(frozen=True)
class Height:
    """A limit of the lift (m, at the valve before clearance) at a cam angle (rad from the lobe centre), and why."""

    angle: float
    most: float
    why: str = "room"


@dataclass(frozen=True)
class GrindLimits:
    """What the new lobe must keep. SI, per rad of cam, at the valve: `acceleration` upwards m/rad^2, `jerk` m/rad^3, full `lift` m. At the lobe:
    `reach` of the contact along a flat face m, `pressure` angle rad of other faces, least convex `radius` m and radius of the grinding `wheel` m
    (hollow flanks), base radius from `base_least` to `base_most` m; `clean` m is ground
    off all round; `in_hand` m is kept on the convex radius for the table that is read back."""

    acceleration: float
    jerk: float
    lift: float
    radius: float
    base_least: float
    base_most: float
    clean: float
    reach: float = math.inf
    pressure: float = math.inf
    wheel: float = math.inf
    in_hand: float = 0.0
    heights: tuple[Height, ...] = ()


@dataclass(frozen=True)
class GrindCase:
    """One lobe to grind. `old` is the present lift curve at the valve, standing on `old_base` (radius, m) under `drive`.

    The new lobe runs from `low` to `high` (cam rad), where it meets its ramps with `ends`: lift m, velocity m/rad, acceleration m/rad^2 at low and at
    high. With `low` zero it is the same on both flanks. `mass` kg at the valve, `speed` crank rev/s that it must follow; spring force over the valve's
    lift x: `force` + `rate` x + `bend` x^2, N; `clearance` m.
    """

    drive: Drive
    old: LiftCurve
    old_base: float
    low: float
    high: float
    ends: tuple[tuple[float, float, float], tuple[float, float, float]]
    mass: float
    speed: float
    force: float
    rate: float
    clearance: float
    limits: GrindLimits
    bend: float = 0.0

    @property
    def mirrored(self) -> bool:
        """Whether one flank stands for both."""
        return self.low == 0.0


@dataclass(frozen=True)
class Ground:
    """The largest lobe. Arrays over `angle` (cam rad, both flanks): the spline's lift and derivatives, at the valve. `base` radius m.

    `area` m rad; `worth` tells by limit how much 1 % of it changes the area (share); `binding` the limits that it touches.
    """

    curve: LiftCurve
    base: float
    area: float
    worth: dict[str, float]
    binding: tuple[str, ...]
    rounds: int


@dataclass(frozen=True, eq=False)
class _Grid:
    """The spline's values at the points: matrices (points, coefficients) of lift, velocity, acceleration and (cells) jerk."""

    at: Array
    value: tuple[Matrix, Matrix, Matrix, Matrix]
    weight: Array
    count: int
    spline: BSpline

    def over(self, x: Array, order: int) -> Array:
        """Lift or a derivative of coefficients `x` (mm), at the points."""
        return np.asarray(self.value[order] @ x[: self.count])


@dataclass(frozen=True, eq=False)
class _Rows:
    """`matrix` x <= `right`, of one limit."""

    name: str
    matrix: Matrix
    right: Array


def _grid(low: float, high: float, cells: int) -> _Grid:
    knots = np.linspace(low, high, cells + 1)
    full = np.concatenate([[low] * 3, knots, [high] * 3])
    count = cells + 3
    inner = (np.arange(cells * _EACH) % _EACH) / _EACH
    at = np.append(np.repeat(knots[:-1], _EACH) + inner * (high - low) / cells, high)
    middle = (knots[:-1] + knots[1:]) / 2.0
    spline = BSpline(full, np.eye(count), 3)
    parts = [csr_matrix(spline.derivative(order)(at) if order else spline(at)) for order in range(3)]
    parts.append(csr_matrix(spline.derivative(3)(middle)))
    weight = np.full(at.shape, (high - low) / (cells * _EACH))
    weight[[0, -1]] /= 2.0
    return _Grid(at, (parts[0], parts[1], parts[2], parts[3]), weight, count, spline)


def _wide(matrix: Matrix, base: Array | float) -> Matrix:
    """The matrix with a column for the base radius."""
    column = np.broadcast_to(np.asarray(base, dtype=float), (matrix.shape[0],)).reshape(-1, 1)
    return csr_matrix(hstack([matrix, csr_matrix(column)]))


def _curve(grid: _Grid, x: Array) -> LiftCurve:
    parts = [grid.over(x, order) / _MM for order in range(3)]
    jerk = np.append(np.repeat(grid.over(x, 3) / _MM, _EACH), 0.0)
    jerk[-1] = jerk[-2]
    return LiftCurve(grid.at, parts[0], parts[1], parts[2], jerk)


def _standing(case: GrindCase, shape: LobeShape) -> Array:
    """How far the follower stands out, m along its path."""
    if case.drive.pivot and case.drive.arm:
        return np.asarray(-case.drive.arm * np.unwrap(np.angle(shape.centre - case.drive.pivot)))
    return np.asarray(shape.centre.imag, dtype=float)


def _pitch_bend(case: GrindCase, shape: LobeShape) -> Array:
    """Curvature of the path of the face's centre, 1/m."""
    return np.asarray(1.0 / (shape.radius + case.drive.bow))


def _shape(case: GrindCase, curve: LiftCurve, base: float) -> LobeShape:
    return lobe_from_valve(case.drive, base, curve)


def _metal(case: GrindCase, grid: _Grid) -> Array:
    """Most that the follower may stand out at the points, m: the old lobe less what is ground clean."""
    old = case.old
    parts = [np.interp(grid.at, old.angle, part, left=0.0, right=0.0) for part in (old.lift, old.velocity, old.acceleration, old.jerk)]
    shape = _shape(case, LiftCurve(grid.at, *parts), case.old_base)
    lean = np.cos(shape.pressure) if case.drive.contact is not Contact.FLAT else 1.0
    most = _standing(case, shape) - case.limits.clean / lean
    if case.mirrored:
        other = np.interp(-grid.at, old.angle, old.lift, left=0.0, right=0.0)
        turned = LiftCurve(grid.at, other, parts[1], parts[2], parts[3])
        most = np.minimum(most, _standing(case, _shape(case, turned, case.old_base)) - case.limits.clean / lean)
    return np.asarray(most)


def _flat_rows(case: GrindCase, grid: _Grid, metal: Array) -> list[_Rows]:
    """Curvature, metal and reach under a flat face: linear as they are."""
    limits, ratio = case.limits, case.drive.ratio
    value, slope, bend, _ = grid.value
    rows = [
        _Rows("curvature", _wide(-(value + bend) / ratio, -1.0), np.full(grid.at.shape, -(limits.radius + limits.in_hand / ratio) * _MM)),
        _Rows("metal", _wide(value / ratio, 1.0), metal * _MM),
    ]
    if math.isfinite(limits.reach):
        reach = np.full(grid.at.shape, limits.reach * _MM)
        rows += [_Rows("face", _wide(sign * slope / ratio, 0.0), reach) for sign in (1.0, -1.0)]
    return rows


def _bent_rows(case: GrindCase, grid: _Grid, metal: Array, x: Array) -> list[_Rows]:
    """The same of a roller, dome or pad, made linear about the last lobe `x`."""
    limits, bow = case.limits, case.drive.bow
    curve, base = _curve(grid, x), float(x[-1]) / _MM
    shape = _shape(case, curve, base)
    moved: list[LobeShape] = []
    for order, scale in enumerate((1.0, 1.0, 1.0)):
        parts = [curve.lift, curve.velocity, curve.acceleration]
        parts[order] = parts[order] + scale * _STEP
        # the valve arm stands square at half of the lobe's own lift: the nose moves it as little as a difference may
        moved.append(_shape(case, LiftCurve(curve.angle, parts[0], parts[1], parts[2], curve.jerk), base))
    moved.append(_shape(case, curve, base + _STEP))

    def linear(name: str, of: object, sign: float, most: Array | float, scale: float) -> _Rows:
        assert callable(of)
        middle = of(case, shape)
        slopes = [(of(case, each) - middle) / _STEP for each in moved]
        matrix = sum((diags(slope) @ grid.value[order] for order, slope in enumerate(slopes[:3])), csr_matrix(grid.value[0].shape))
        wide = csr_matrix(hstack([matrix, csr_matrix(slopes[3].reshape(-1, 1))]))
        room = most - sign * middle
        return _Rows(name, wide * (sign * scale / _MM), room * scale + np.asarray(wide @ x).ravel() * (sign * scale / _MM))

    rows = [
        linear("curvature", _pitch_bend, 1.0, 1.0 / (limits.radius + limits.in_hand + bow), 1e-1),
        linear("metal", _standing, 1.0, metal, _MM),
    ]
    if math.isfinite(limits.wheel):
        rows.append(linear("wheel", _pitch_bend, -1.0, 1.0 / max(limits.wheel - bow, 1e-3), 1e-1))
    if math.isfinite(limits.pressure):
        rows.append(linear("pressure angle", lambda _, each: each.pressure, 1.0, limits.pressure, 10.0))
    return rows


def _rows(case: GrindCase, grid: _Grid, metal: Array, x: Array) -> list[_Rows]:
    limits = case.limits
    value, slope, bend, jerk = grid.value
    ones = np.ones(grid.at.shape)
    push = case.mass * (math.pi * case.speed) ** 2
    # a spring that stiffens is taken by its tangent at the last lobe: it gives more than that beside it
    last = np.maximum(grid.over(x, 0) / _MM - case.clearance, 0.0)
    rate = case.rate + 2.0 * case.bend * last
    ground = case.force - case.bend * last**2 - rate * case.clearance
    rows = [
        _Rows("spring", _wide(-(diags(rate) @ value + push * bend) / _MM, 0.0), ground),
        _Rows("acceleration", _wide(bend, 0.0), ones * limits.acceleration * _MM),
        *(_Rows("jerk", _wide(sign * jerk, 0.0), np.full(jerk.shape[0], limits.jerk * _MM)) for sign in (1.0, -1.0)),
        _Rows("lift", _wide(value, 0.0), ones * limits.lift * _MM),
        *(_flat_rows(case, grid, metal) if case.drive.contact is Contact.FLAT else _bent_rows(case, grid, metal, x)),
    ]
    falls = grid.at > 1e-9
    rises = grid.at < -1e-9
    rows.append(_Rows("monotone", _wide(csr_matrix(vstack([slope[falls], -slope[rises]])), 0.0), np.zeros(int(falls.sum() + rises.sum()))))
    inside = [each for each in limits.heights if case.low <= each.angle <= case.high]
    for why in dict.fromkeys(each.why for each in inside):
        mine = [each for each in inside if each.why == why]
        at = grid.spline(np.array([each.angle for each in mine]))
        rows.append(_Rows(why, _wide(csr_matrix(at), 0.0), np.array([each.most for each in mine]) * _MM))
    return rows


def _fixed(case: GrindCase, grid: _Grid) -> tuple[Matrix, Array]:
    """What the ends and, of a mirrored lobe, the nose must be."""
    value, slope, bend, jerk = grid.value
    rows, right = [], []
    for at, (lift, velocity, acceleration) in ((0, case.ends[0]), (-1, case.ends[1])):
        if at == 0 and case.mirrored:
            rows += [slope[[0]], jerk[[0]]]
            right += [0.0, 0.0]
            continue
        rows += [value[[at]], slope[[at]], bend[[at]]]
        right += [lift, velocity, acceleration]
    if not case.mirrored:
        nose = int(np.argmin(np.abs(grid.at)))
        rows.append(slope[[nose]])
        right.append(0.0)
    return _wide(csr_matrix(vstack(rows)), 0.0), np.array(right) * _MM


def _start(case: GrindCase, grid: _Grid) -> Array:
    """Coefficients of the old lobe, on the new base, to make things linear about."""
    lift = np.interp(grid.at, case.old.angle, case.old.lift) * _MM
    found = np.linalg.lstsq(grid.value[0].toarray(), lift, rcond=None)[0]
    return np.append(found, case.limits.base_most * _MM)


def _solve(case: GrindCase, grid: _Grid, rows: list[_Rows], cost: Array) -> tuple[Array, Array]:
    """The coefficients, and the worth of each row's right side. Raises ContradictionError, naming the limits that cannot be kept together."""
    fixed, ends = _fixed(case, grid)
    limits = case.limits
    bounds = [(None, None)] * grid.count + [(limits.base_least * _MM, limits.base_most * _MM)]
    matrix, right = csr_matrix(vstack([each.matrix for each in rows])), np.concatenate([each.right for each in rows])
    found = linprog(cost, A_ub=matrix, b_ub=right, A_eq=fixed, b_eq=ends, bounds=bounds, method="highs-ds", options=_PATIENCE)
    if found.status == 0:
        return np.asarray(found.x), np.asarray(found.ineqlin.marginals)
    raise ContradictionError(_clash(rows, fixed, ends, bounds, grid.count + 1))


_WORDS = {
    "spring": "the spring at this speed", "acceleration": "the acceleration allowed", "jerk": "the jerk allowed", "lift": "the full lift allowed",
    "curvature": "the least radius of the nose", "metal": "the metal that is there", "face": "the width of the follower's face",
    "monotone": "rise to the nose and fall after it", "wheel": "the grinding wheel", "pressure angle": "the pressure angle",
}  # fmt: skip

_PRICED = frozenset({"spring", "acceleration", "jerk", "lift", "face"})  # of the others 1 % says nothing to anybody


def limit_words(name: str) -> str:
    """A limit of the programme in words."""
    return _WORDS.get(name, name)


def _clash(rows: list[_Rows], fixed: Matrix, ends: Array, bounds: Sequence[tuple[float | None, float | None]], count: int) -> str:
    """Which limits stand in one another's way: each row may give way at a price by its own size, and the cheapest way out names them."""
    names = list(dict.fromkeys(each.name for each in rows if each.name != "monotone"))
    blocks, costs = [], np.zeros(count + len(names))
    for each in rows:
        slack = np.zeros((each.matrix.shape[0], len(names)))
        if each.name in names:
            slack[:, names.index(each.name)] = -max(float(np.abs(each.right).max()), 1e-3)
        blocks.append(hstack([each.matrix, csr_matrix(slack)]))
    costs[count:] = 1.0
    wide = csr_matrix(hstack([fixed, csr_matrix((fixed.shape[0], len(names)))]))
    found = linprog(
        costs, A_ub=csr_matrix(vstack(blocks)), b_ub=np.concatenate([each.right for each in rows]), A_eq=wide, b_eq=ends,
        bounds=[*bounds, *[(0.0, None)] * len(names)], method="highs-ds", options=_PATIENCE,
    )  # fmt: skip
    if found.status != 0:
        return "No lobe meets its ramps between these angles: give it more duration."
    given = sorted(((float(found.x[count + n]), name) for n, name in enumerate(names)), reverse=True)
    told = [f"{limit_words(name)} by {share * 100:.1f} %" for share, name in given if share > 1e-6]
    return f"No lobe keeps all of these limits. Nearest would be to ease {' and '.join(told[:3])}."


def largest_lobe(case: GrindCase, cells: int = 40) -> Ground:
    """The lobe of greatest area that keeps the limits; `cells` of the spline a flank.

    Raises ContradictionError naming the limits that cannot be kept together, OutOfRangeError for figures that are no lobe.
    """
    _require(case)
    grid = _grid(case.low, case.high, cells if case.mirrored else 2 * cells)
    metal, x = _metal(case, grid), _start(case, grid)
    cost = np.append(-np.asarray(grid.value[0].T @ grid.weight).ravel(), 0.0)
    rows, worth, rounds = _rows(case, grid, metal, x), np.zeros(0), 0
    moves = case.drive.contact is not Contact.FLAT or case.bend != 0.0
    for rounds in range(1, _ROUNDS + 1):  # noqa: B007  (how many it took is told)
        before = x
        x, worth = _solve(case, grid, rows, cost)
        settled = float(np.abs(grid.over(x, 0) - grid.over(before, 0)).max()) < _SETTLED * _MM
        if not moves or settled:
            break
        try:
            rows = _rows(case, grid, metal, x)
        except ValveTrainError as error:
            raise ContradictionError(f"The follower cannot ride on such a lobe: {error.sentence}") from error
    area = -float(cost @ x)
    if float(x @ cost) >= 0.0:
        raise ContradictionError("No lobe is left between these limits.")
    kept = _Rows("area", csr_matrix(cost.reshape(1, -1)), np.array([-_LOOSE * area]))
    calm = _calmest(case, grid, [each for each in rows if each.name != "jerk"] + [kept])
    gains, binding = _worth(case, grid, rows, cost, worth, area)
    return _ground(grid, x if calm is None else calm, gains, binding, rounds, mirrored=case.mirrored)


def _require(case: GrindCase) -> None:
    if not (math.isfinite(case.speed) and case.speed > 0.0 and case.mass > 0.0):
        raise OutOfRangeError("A lobe is ground for a speed above zero and a mass above zero.")
    if not case.low < case.high:
        raise OutOfRangeError("The lobe must end after it begins.")
    most = case.old_base - case.limits.clean + 1e-12
    if not (case.limits.clean >= 0.0 and case.limits.base_least <= case.limits.base_most <= most):
        raise ContradictionError("What is ground clean leaves less than the least base circle: nothing can be ground.")


def _calmest(case: GrindCase, grid: _Grid, rows: list[_Rows]) -> Array | None:
    """The lobe of least greatest jerk for nearly the same area: the largest one slams from limit to limit."""
    fixed, ends = _fixed(case, grid)
    count = grid.count + 1
    jerk = _wide(grid.value[3], 0.0)
    cap = csr_matrix(np.full((jerk.shape[0], 1), -1.0))
    blocks = [hstack([each.matrix, csr_matrix((each.matrix.shape[0], 1))]) for each in rows]
    blocks += [hstack([sign * jerk, cap]) for sign in (1.0, -1.0)]
    right = np.concatenate([*(each.right for each in rows), np.zeros(2 * jerk.shape[0])])
    cost = np.zeros(count + 1)
    cost[-1] = 1.0
    limits = case.limits
    bounds = [(None, None)] * grid.count + [(limits.base_least * _MM, limits.base_most * _MM), (0.0, limits.jerk * _MM)]
    found = linprog(
        cost, A_ub=csr_matrix(vstack(blocks)), b_ub=right, A_eq=csr_matrix(hstack([fixed, csr_matrix((fixed.shape[0], 1))])), b_eq=ends, bounds=bounds,
        method="highs-ds", options=_PATIENCE,
    )  # fmt: skip
    return np.asarray(found.x[:count]) if found.status == 0 else None


def _worth(
    case: GrindCase, grid: _Grid, rows: list[_Rows], cost: Array, worth: Array, area: float
) -> tuple[dict[str, float], tuple[str, ...]]:
    """Share of area that 1 % more of each limit gives, solved again with it; and the limits that the lobe touches.

    The programme's own prices tell which limits count, but are those of a step without size: the area bends quickly.
    """
    touched, begin = [], 0
    for each in rows:
        price = -float(worth[begin : begin + each.matrix.shape[0]] @ np.abs(each.right))
        begin += each.matrix.shape[0]
        if price > 1e-4 * area and each.name != "monotone" and each.name not in touched:
            touched.append(each.name)
    gains = {}
    for name in touched:
        if name not in _PRICED:
            continue
        eased = [replace(each, right=each.right + 0.01 * np.abs(each.right)) if each.name == name else each for each in rows]
        gains[name] = -float(cost @ _solve(case, grid, eased, cost)[0]) / area - 1.0
    return gains, tuple(touched)


def _ground(grid: _Grid, x: Array, gains: dict[str, float], binding: tuple[str, ...], rounds: int, *, mirrored: bool) -> Ground:
    curve = _curve(grid, x)
    if mirrored:
        curve = both_flanks(curve.angle, (curve.lift, curve.velocity, curve.acceleration, curve.jerk))
    area = (2.0 if mirrored else 1.0) * float(grid.weight @ grid.over(x, 0)) / _MM
    return Ground(curve, float(x[-1]) / _MM, area, gains, binding, rounds)
