"""Springs as they stand at one height over one shim: everything of them that does not hang on the cam, worked out once a search."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from valvetrain.kernels import set_search as kernel
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.gaps import GapKind
from valvetrain.parts.setup import TrainSide
from valvetrain.parts.spring import PackedSpring
from valvetrain.studies.checks.assessment import judge
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.choose.checks import BIT, ORDER, SetCheck
from valvetrain.studies.choose.slots import Slot
from valvetrain.studies.choose.tables import Tables
from valvetrain.studies.gaps.others import nested_told, pocket_told
from valvetrain.studies.train.priors import ROWS
from valvetrain.studies.train.side_figures import coil_bind, seat_load, spring_figures, spring_weight, tightest

Array = NDArray[np.float64]
Codes = NDArray[np.uint8]
CODE = {Verdict.HOLDS: kernel.HOLDS, Verdict.SLIM: kernel.SLIM, Verdict.UNPROVEN: kernel.UNPROVEN, Verdict.SHORT: kernel.SHORT}


@dataclass(frozen=True, eq=False, kw_only=True)
class SpringItem:
    """A pack over a shim at a height. `level`, `slope`, `bend` (rows) the force line N, N/m, N/m^2 over the rise of the valve, `line` the same
    nominal; `springs` (rows) and `mass` kg that moves of them; `has` the seat force with its variance and the estimated part of it; `rooms` of each
    spring: travel left shut, variance, estimated part, and whether its solid height was drawn; `columns` numbers of its figures and whether each is
    an estimate."""

    pack: tuple[int, int]
    shim: int
    level: Array
    slope: Array
    bend: Array
    line: Array
    springs: Array
    mass: float
    has: Array
    same: bool
    codes: Codes
    miss: Array
    money: Array
    rooms: tuple[tuple[float, float, float, bool], ...]
    columns: tuple[tuple[int, bool], ...]
    guessed: bool


def spring_item(tables: Tables, pack: tuple[int, int], shim: int, height: Figure) -> SpringItem:
    """The item, worked out once."""
    key = (pack, shim, height)
    if key not in tables.items:
        tables.items[key] = _item(tables, pack, shim, height)
    found: SpringItem = tables.items[key]
    return found


def _item(tables: Tables, pack: tuple[int, int], shim: int, height: Figure) -> SpringItem:
    parts, place = tables.shelf.parts, tables.place
    packed = tables.springs(pack, height)
    lay = parts[Slot.SPRING_SHIM][shim].record.figures.get("thickness", Figure(0.0, 0.0, Basis.CARD))
    side = replace(tables.train, springs=packed, installed_height=height, spring_shim=lay)
    figures = spring_figures(side)
    x = {name: tables.column(name, figure) for name, figure in figures.items()}
    level, slope, bend, springs = (np.zeros(ROWS) for _ in range(4))
    line = np.zeros(3)
    columns = [(tables.number(name, figure), figure.basis is Basis.ESTIMATE) for name, figure in figures.items()]
    guessed = any(figure.basis is Basis.ESTIMATE for figure in figures.values())
    for n, each in enumerate(packed):
        drop = x[f"drop_{n}"] if f"drop_{n}" in x else x[f"load_height_{n}"] - (x["installed_height"] - x[f"step_{n}"])
        shut, own = drop - place.deviation + x["spring_shim"], x.get(f"bend_{n}", 0.0)
        level = level + (x[f"load_{n}"] + shut * (x[f"rate_{n}"] + own * shut))
        slope, bend = slope + (x[f"rate_{n}"] + 2.0 * own * shut), bend + own
        mass, active = each.spring.mass, each.spring.active
        for name, figure in ((f"mass:spring {n}", mass), (f"active_{n}", active)):
            columns.append((tables.number(name, figure), figure.basis is Basis.ESTIMATE))
            guessed |= figure.basis is Basis.ESTIMATE
        springs = springs + tables.column(f"mass:spring {n}", mass) * spring_weight(tables.column(f"active_{n}", active))
        squeeze = each.spring.load_height.value - (height.value + place.deviation - lay.value - each.step.value)
        rate, own_bend = each.spring.rate.value, each.spring.bend.value
        line += [each.spring.load.value + squeeze * (rate + own_bend * squeeze), rate + 2.0 * own_bend * squeeze, own_bend]
    codes, miss = _codes(tables, side, pack, height)
    same = packed == tables.goal.seat_reference.get(side.side)
    load = seat_load(_exactly_loaded(side) if same else side, place)
    picks = (parts[Slot.OUTER][pack[0]], parts[Slot.INNER][pack[1]], parts[Slot.SPRING_SHIM][shim])
    money = np.array([sum(each.price or 0.0 for each in picks), float(max(each.days or 0 for each in picks))])
    return SpringItem(
        pack=pack, shim=shim, level=level, slope=slope, bend=bend, line=line, springs=springs,
        mass=sum(each.spring.mass.value * float(spring_weight(each.spring.active.value)) for each in packed),
        has=np.array([load.value, load.spread**2, load.spread**2 * load.estimated]), same=same, codes=codes, miss=miss, money=money,
        rooms=tuple(_room(side, n) for n in range(len(packed))), columns=tuple(columns), guessed=guessed,
    )  # fmt: skip


@dataclass(frozen=True, eq=False, kw_only=True)
class Pile:
    """Items of several packs with every shim at one height, their columns on one another: as in `SpringItem`, (items, rows) or (items, ..)."""

    packs: list[tuple[int, int]]
    shims: list[int]
    rooms: list[tuple[tuple[float, float, float, bool], ...]]
    level: Array
    slope: Array
    bend: Array
    line: Array
    springs: Array
    light: NDArray[np.float32]
    mass: Array
    has: Array
    same: Codes
    codes: Codes
    miss: Array
    money: Array
    service: Array
    columns: NDArray[np.int64]
    guesses: Codes
    guessed: Codes

    def allowed(self, tables: Tables, retainers: NDArray[np.int64]) -> Codes:
        """Which item goes on the retainer of which rider, (items, riders)."""
        own = sorted(set(retainers.tolist()))
        on = np.array([[tables.packs_on(r)[pack] for r in own] for pack in self.packs], dtype=np.uint8)
        return np.ascontiguousarray(on[:, np.searchsorted(own, retainers)])


def pile_of(tables: Tables, packs: Iterable[tuple[int, int]], height: Figure) -> Pile:
    """The items of packs at a height."""
    rows = [spring_item(tables, pack, shim, height) for pack in packs for shim in range(len(tables.shelf.parts[Slot.SPRING_SHIM]))]
    stack = lambda name: np.array([getattr(row, name) for row in rows])
    width = max(len(row.columns) for row in rows)
    columns, guesses = np.full((len(rows), width), -1, dtype=np.int64), np.zeros((len(rows), width), dtype=np.uint8)
    for at, row in enumerate(rows):
        columns[at, : len(row.columns)] = [number for number, _ in row.columns]
        guesses[at, : len(row.columns)] = [guess for _, guess in row.columns]
    springs = stack("springs")
    hours = lambda row: [tables.shelf.parts[slot][n].service or 1e9 for slot, n in zip((Slot.OUTER, Slot.INNER), row.pack, strict=True)]
    return Pile(
        packs=[row.pack for row in rows], shims=[row.shim for row in rows], rooms=[row.rooms for row in rows], level=stack("level"),
        slope=stack("slope"), bend=stack("bend"), line=stack("line"), springs=springs, light=springs.astype(np.float32), mass=stack("mass"),
        has=stack("has"), same=stack("same").astype(np.uint8), codes=stack("codes"), miss=stack("miss"), money=stack("money"),
        service=np.array([min(hours(row)) for row in rows]), columns=columns, guesses=guesses, guessed=stack("guessed").astype(np.uint8),
    )  # fmt: skip


def bind_codes(tables: Tables, motion: "Lifts", pile: Pile) -> tuple[Codes, Array]:
    """The codes of items with coil bind under a lift: what is left shut, less the travel; spreads add as squares."""
    codes, miss = pile.codes.copy(), pile.miss.copy()
    if motion.why:
        codes[:, BIT[SetCheck.LOBE]], miss[:, BIT[SetCheck.LOBE]] = kernel.SHORT, 9.0
    limit, bit = tables.goal.coil_bind_limit, BIT[SetCheck.BIND]
    lift, clearance = motion.train.lift, motion.train.clearance
    guess = lift.basis is Basis.ESTIMATE
    for at, rooms in enumerate(pile.rooms):
        for value, wide, estimated, drawn in rooms:
            own_lift = 0.0 if drawn and guess else lift.spread**2
            variance = wide + own_lift + clearance.spread**2
            part = estimated + (own_lift if guess else 0.0) + (clearance.spread**2 if clearance.basis is Basis.ESTIMATE else 0.0)
            margin = value - motion.travel - limit
            code = CODE[judge(margin, variance**0.5, on_estimates=variance > 0.0 and part > 0.5 * variance)]
            codes[at, bit], miss[at, bit] = max(codes[at, bit], code), max(miss[at, bit], -margin / limit)
    return codes, miss


class Lifts(Protocol):
    """What lifts the valve: the side with its cam, the travel of the springs (m), and why it cannot ride at all."""

    train: TrainSide
    travel: float
    why: str


def _exactly_loaded(side: TrainSide) -> TrainSide:
    """The side with its springs' loads taken as exact: what the stock springs give is not held against themselves."""
    exact = (PackedSpring(replace(p.spring, load=Figure(p.spring.load.value, 0.0, p.spring.load.basis)), p.step) for p in side.springs)
    return replace(side, springs=tuple(exact))


def _room(side: TrainSide, number: int) -> tuple[float, float, float, bool]:
    """Travel a spring has shut (m) with its variance: coil bind at no lift and no clearance, to which those add as they are."""
    still = replace(side, lift=Figure(0.0, 0.0, side.lift.basis), clearance=Figure(0.0))
    found = coil_bind(still, tightest(still), number)
    drawn = side.springs[number].spring.solid_height.basis is Basis.ESTIMATE
    return found.value, found.spread**2, found.spread**2 * found.estimated, drawn


def _codes(tables: Tables, side: TrainSide, pack: tuple[int, int], height: Figure) -> tuple[Codes, Array]:
    """What is judged of a pack as it stands: that it is made for that height and pushes, the nest and its pocket."""
    goal, parts = tables.goal, tables.shelf.parts
    codes, miss = np.zeros(len(ORDER), dtype=np.uint8), np.full(len(ORDER), -1e9)

    def note(check: SetCheck, code: int, short: float) -> None:
        at = BIT[check]
        codes[at], miss[at] = max(codes[at], code), max(miss[at], short)

    told = [parts[Slot.INNER if n else Slot.OUTER][pack[n]].record for n in range(len(side.springs))]
    for packed, part in zip(side.springs, told, strict=True):
        shut = height.value - side.spring_shim.value - packed.step.value
        for key, sign in (("height_low", 1.0), ("height_high", -1.0)):
            bound = part.figures.get(key)
            if bound and sign * (bound.value - shut) > height.spread + 1e-9:
                note(SetCheck.STAND, kernel.SHORT, sign * (bound.value - shut) / bound.value)
        if packed.spring.force(shut + tables.place.deviation) <= 0.0:
            note(SetCheck.STAND, kernel.SHORT, 1.0)
    fit = {**tables.bench.fit, **tables.bench.record.proposed[tables.bench.side].fit}
    for gap, found in ((GapKind.NESTED, nested_told(told)), (GapKind.SPRING_POCKET, pocket_told(fit, told[0].figures))):
        if found is None or found[1] == "estimate":
            continue
        limit = goal.limits[gap.limit_key]
        judged = judge(found[0].value - limit, found[0].spread, on_estimates=found[0].rests_on_estimates)
        note(SetCheck.ROOM, CODE[judged], (limit - found[0].value) / max(limit, 1e-4))
    return codes, miss
