"""Every set of a shelf judged against the goal, shard by shard: any split gives the same, and what shards found adds up."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ValveTrainError
from valvetrain.kernels import set_search as kernel
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.gaps import GapKind
from valvetrain.parts.setup import TrainSide
from valvetrain.parts.spring import PackedSpring
from valvetrain.studies.cams.lobe_fit import lobe_fit
from valvetrain.studies.checks.assessment import float_limit, judge
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.choose.checks import BIT, ORDER, SetCheck
from valvetrain.studies.choose.proposal import with_set
from valvetrain.studies.choose.slots import Candidate, PartSet, Slot, Wishes
from valvetrain.studies.choose.tables import Group, Tables
from valvetrain.studies.gaps.gaps import room_review
from valvetrain.studies.gaps.others import nested_told, pocket_told
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.float_rows import float_near, lobes_alone
from valvetrain.studies.train.priors import ROWS
from valvetrain.studies.train.side_figures import (
    coil_bind,
    lowest_retainer,
    retainer_gap,
    seat_load,
    slowing,
    spring_figures,
    spring_weight,
    tightest,
)
from valvetrain.studies.train.uncertainty import Propagated

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]

_CODE = {Verdict.HOLDS: kernel.HOLDS, Verdict.SLIM: kernel.SLIM, Verdict.UNPROVEN: kernel.UNPROVEN, Verdict.SHORT: kernel.SHORT}
_NEAR_MISSES, _FRONT, _BLOCK = 6, 1500, 1 << 17
_ROUND = (1.0, 0.1e-3, 1.0, 1.0, 5.0)  # N, kg, money, days, hours: sets nearer than this are not told apart on the front. Source: judgement


@dataclass(frozen=True, order=True)
class Found:
    """One set by the numbers of its parts in the order of the places, with what it is compared by: open force N, moving mass kg, price, days,
    service hours (endless 1e9); `code` how it stands, 0 holds, 1 just, 2 not proven; `miss` how far it falls short where it does."""

    code: int
    miss: float
    force: float
    mass: float
    price: float
    days: float
    service: float
    numbers: tuple[int, ...]


@dataclass(frozen=True)
class ShardResult:
    """What one shard found. `seen` counts sets by mask of the checks they fall short at; `classes` those that fall short at nothing: hold, just
    hold, are not proven; `front` none of which another beats; `misses` by check, each short at that alone. `lobes` say which cams cannot ride."""

    seen: NDArray[np.int64]
    classes: tuple[int, int, int]
    front: tuple[Found, ...]
    misses: Mapping[SetCheck, tuple[Found, ...]]
    lobes: tuple[tuple[str, str], ...] = ()
    total: int = 0


@dataclass(frozen=True)
class Shard:
    """Part of a search: one cam under one follower with some of the packs."""

    motion: tuple[int, int]
    packs: tuple[tuple[int, int], ...] = field(default=())


def shards_of(tables: Tables, about: int = 32) -> list[Shard]:
    """The search in about so many parts."""
    motions, packs = tables.motions, tables.packs
    if not motions or not packs:
        return []
    size = max(1, -(-len(packs) * len(motions) // about))
    size = min(size, len(packs))
    return [Shard(motion, tuple(packs[at : at + size])) for motion in motions for at in range(0, len(packs), size)]


class _Motion:
    """One cam under one follower: its lobes row by row, its room, and whether it can ride at all."""

    def __init__(self, tables: Tables, motion: tuple[int, int]) -> None:
        self.tables, self.motion = tables, motion
        parts = tables.shelf.parts
        self.picks = {**tables.base, Slot.CAM: parts[Slot.CAM][motion[0]], Slot.FOLLOWER: parts[Slot.FOLLOWER][motion[1]]}
        self.why = ""
        self.known: tuple[Array, Array] | None = None
        try:
            done = complete(with_set(tables.bench, PartSet(self.picks)))
            self.train: TrainSide = done.proposed.sides[tables.bench.side]
            own = done.proposed_sides[tables.bench.side]
            ground = self.picks[Slot.CAM].record.facts.get("ground_for", "")
            found = lobe_fit(self.train, own.parts[Owner.CAM], own.parts[Owner.FOLLOWER], ground, tables.goal.goal_rpm)
            self.why = found.refusals[0] if found.refusals else ""
        except ValveTrainError as error:
            self.train, self.why = tables.train, error.sentence
        self.travel = self.train.lift.value - self.train.clearance.value
        self._rows()

    def _rows(self) -> None:
        """Rise of the valve and easing at the lobe's points, row by row; what else the speed hangs on."""
        side, tables = self.train, self.tables
        told = {"lift": side.lift, "duration": side.duration, "shape": side.shape, "clearance": side.clearance}
        x = {name: tables.column(name, figure) for name, figure in told.items()}
        lobes = side.cam.lobes
        own: Array | None = None
        if lobes is None:
            _, lift, bend = slowing(side.curve, side.clearance.value)
            self.known = (lift, -bend)
            table, eased = np.repeat(lift[:, None], ROWS, axis=1), np.repeat((1.0 / -bend)[:, None], ROWS, axis=1)
        else:
            lifts, easing = lobes.table(ROWS)
            table, eased = np.ascontiguousarray(lifts.T), np.ascontiguousarray(easing.T)
            own = lobes_alone(side, tables.place, lobes.lift, lobes.slows)[lobes.rows(ROWS)]
        scale = x["lift"] / side.lift.value
        self.raised = table * scale - x["clearance"]
        self.eased = np.where(self.raised > 0.0, eased, np.inf)
        self.factor = scale * x["shape"] * (side.duration.value / x["duration"]) ** 2
        self.figures = [(tables.number(name, figure), figure.basis is Basis.ESTIMATE) for name, figure in told.items() if name != "shape"]
        self.shape = (tables.number("shape", side.shape), side.shape.basis is Basis.ESTIMATE or lobes is not None)
        self.own, self.guessed = own, any(figure.basis is Basis.ESTIMATE for figure in told.values())

    def room(self, valve: int) -> tuple[int, float]:
        """Code and miss of the gaps that hang on cam and valve: piston, pocket, bore, the other side's valves, lobe to head."""
        tables = self.tables
        picks = {**self.picks, Slot.VALVE: tables.shelf.parts[Slot.VALVE][valve]}
        try:
            record = with_set(tables.bench, PartSet(picks))
            found = room_review(record, complete(record))
        except ValveTrainError:
            return kernel.SHORT, 9.0
        code, miss = kernel.HOLDS, 0.0
        for check in found.checks:
            if check.side not in (None, tables.bench.side) or check.code in (GapKind.NESTED, GapKind.SPRING_POCKET):
                continue
            own = _CODE[check.verdict]
            if check.verdict is Verdict.UNPROVEN and found.how[check.code, check.about] == "estimate":
                continue  # a guess until somebody measures, whatever the set
            code, miss = max(code, own), max(miss, -check.margin / max(check.limit, 1e-4))
        return code, miss


@dataclass(eq=False, kw_only=True)
class _Items:
    """Packs with shims at one height: the force line of each over the rise of its valve, and what is judged of it alone."""

    packs: list[tuple[int, int]]
    shims: list[int]
    level: Array
    slope: Array
    bend: Array
    nominal: Array
    springs: Array
    has: Array
    same: NDArray[np.uint8]
    codes: NDArray[np.uint8]
    miss: Array
    money: Array
    force: Array
    mass: Array
    columns: list[list[tuple[int, bool]]]
    guessed: NDArray[np.bool_]


def search_shard(tables: Tables, shard: Shard, wishes: Wishes, go_on: Callable[[float], bool] | None = None) -> ShardResult | None:
    """Judge every set of a shard; None when it was left out on the way (`go_on` is told the share done, and answers whether to)."""
    motion = _Motion(tables, shard.motion)
    total = _Sum()
    groups = tables.groups(shard.motion[1])
    for number, group in enumerate(groups):
        if go_on and not go_on(number / len(groups)):
            return None
        _judge_group(tables, motion, shard, group, wishes, total)
    lobes = ((tables.shelf.parts[Slot.CAM][shard.motion[0]].record.name, motion.why),) if motion.why else ()
    return replace(total.result(), lobes=lobes)


def _judge_group(tables: Tables, motion: _Motion, shard: Shard, group: Group, wishes: Wishes, total: "_Sum") -> None:
    items = _items(tables, motion, shard.packs, group.height)
    masses, numbers, guesses, weighed = tables.riders(group.picks)
    limit = float_limit(tables.goal)
    points, counts = _points(motion, items)
    ratios = np.empty_like(items.level)
    kernel.least_ratios(motion.raised, motion.eased, points, counts, items.level, items.slope, items.bend, ratios)
    bears = ratios / (np.pi * limit) ** 2 / motion.factor
    thresholds = (bears - items.springs).astype(np.float32)
    rates = 0.5 * np.log(bears)
    width = max(len(row) for row in items.columns)
    own = -1
    if motion.own is not None:
        own = len(tables.rows)
    columns, marks = np.full((len(items.packs), width + 2), -1, dtype=np.int64), np.zeros((len(items.packs), width + 2), dtype=np.uint8)
    for at, row in enumerate(items.columns):
        for place, (name, guess) in enumerate(row):
            columns[at, place], marks[at, place] = name, guess
        columns[at, width], marks[at, width] = motion.shape
        columns[at, width + 1], marks[at, width + 1] = own, motion.shape[1]
    table = np.array([*tables.rows, *([] if motion.own is None else [tables.normal(motion.own)])]) if tables.rows else np.zeros((1, ROWS))
    if motion.own is None:  # the lobe is one figure with the shape: where it is known, the shape stands for both
        columns[:, width + 1], columns[:, width] = columns[:, width], -1
    rider_codes, rider_miss, rider_money, service, needs = _riders(tables, motion, group)
    allowed = _allowed(tables, items, group)
    budget = wishes.budget if wishes.budget is not None else 1e12
    days = float(wishes.days) if wishes.days is not None else 1e6
    parts = tables.shelf.parts
    clear = 6.0 * float(tables.weights @ tables.weights)
    bits = np.array([BIT[SetCheck.SEAT], BIT[SetCheck.FLOAT], BIT[SetCheck.BUDGET], BIT[SetCheck.DAYS]])
    step = max(1, _BLOCK // len(items.packs))
    for start in range(0, len(group.picks), step):
        part = slice(start, start + step)
        size = len(group.picks[part])
        heap = np.full((len(items.packs), len(ORDER)), np.inf)
        which = np.zeros(heap.shape, dtype=np.int64)
        kept, classes = np.empty((len(items.packs) * size, 2), dtype=np.int64), np.empty(len(items.packs) * size, dtype=np.uint8)
        found = kernel.judge_sets(
            tables.weights, tables.weights.astype(np.float32), masses[part].astype(np.float32), thresholds, rates, items.springs,
            allowed[:, part].astype(np.uint8), items.codes, rider_codes[part], items.miss, rider_miss[part], items.has, items.same, needs[part],
            items.money, rider_money[part], np.array([budget, days]), table, columns, marks, numbers[part], guesses[part],
            (items.guessed | motion.guessed).astype(np.uint8), clear, width + 1, bits, heap, which, kept, classes,
            total.classes, total.seen,
        )  # fmt: skip
        i, j = kept[:found, 0], kept[:found, 1] + start
        criteria = np.column_stack([
            items.force[i], items.mass[i] + weighed[j],
            items.money[i, 0] + rider_money[j, 0], np.maximum(items.money[i, 1], rider_money[j, 1]), service.item(items.packs, parts)[i],
        ])  # fmt: skip
        criteria[:, 4] = np.minimum(criteria[:, 4], service.riders[j])
        name_it = lambda k, i=i, j=j: _numbers(shard, items, group, int(i[k]), int(j[k]))
        total.keep(criteria, classes[:found], name_it)
        total.near(heap, which + start, items, group, shard, weighed, rider_money, service, parts)


def _numbers(shard: Shard, items: _Items, group: Group, item: int, rider: int) -> tuple[int, ...]:
    """Numbers of a set's parts in the order of the places."""
    retainer, valve, keepers, follower = (int(n) for n in group.picks[rider])
    outer, inner = items.packs[item]
    return (shard.motion[0], outer, inner, retainer, keepers, valve, follower, items.shims[item])


def _points(motion: _Motion, items: _Items) -> tuple[Numbers, Numbers]:
    """Which points of the lobe are looked at for each item: all of a family's, those near to binding of one that is known."""
    count = len(items.packs)
    if motion.known is None:
        every = len(motion.raised)
        return np.repeat(np.arange(every)[None, :], count, axis=0), np.full(count, every, dtype=np.int64)
    near, most = float_near()
    points, counts = np.zeros((count, most + 1), dtype=np.int64), np.zeros(count, dtype=np.int64)
    lift, slows = motion.known
    level, slope, bend = (np.ascontiguousarray(items.nominal[:, n]) for n in range(3))
    kernel.binding_points(lift, slows, motion.train.clearance.value, level, slope, bend, near, most, points, counts)
    return points, counts


def _allowed(tables: Tables, items: _Items, group: Group) -> NDArray[np.bool_]:
    """Which pack goes on the retainer of which rider."""
    on = {int(r): tables.joins.packs_of(int(r)) for r in set(group.picks[:, 0].tolist())}
    found = np.zeros((len(items.packs), len(group.picks)), dtype=np.bool_)
    for j, r in enumerate(group.picks[:, 0].tolist()):
        mask = on[r]
        found[:, j] = [mask[pack] for pack in items.packs]
    return found


def _money(each: Candidate) -> tuple[float, float]:
    return each.price or 0.0, float(each.days or 0)


def _items(tables: Tables, motion: _Motion, packs: Iterable[tuple[int, int]], height: Figure) -> _Items:
    parts, goal, place = tables.shelf.parts, tables.goal, tables.place
    rows: list[tuple[tuple[int, int], int]] = [(pack, shim) for pack in packs for shim in range(len(parts[Slot.SPRING_SHIM]))]
    count = len(rows)
    level, slope, bend = (np.empty((count, ROWS)) for _ in range(3))
    springs, nominal, has = np.empty((count, ROWS)), np.empty((count, 3)), np.empty((count, 3))
    codes, miss = np.zeros((count, len(ORDER)), dtype=np.uint8), np.full((count, len(ORDER)), -1e9)
    same, guessed = np.zeros(count, dtype=np.uint8), np.zeros(count, dtype=np.bool_)
    money, force, mass, columns = np.zeros((count, 2)), np.empty(count), np.empty(count), []
    side_of: dict[tuple[int, int], tuple[PackedSpring, ...]] = {}
    for at, (pack, shim) in enumerate(rows):
        if pack not in side_of:
            side_of[pack] = tables.springs(pack, height)
        packed = side_of[pack]
        lay = parts[Slot.SPRING_SHIM][shim].record.figures.get("thickness", Figure(0.0, 0.0, Basis.CARD))
        side = replace(motion.train, springs=packed, installed_height=height, spring_shim=lay)
        figures = spring_figures(side)
        x = {name: tables.column(name, figure) for name, figure in figures.items()}
        total = [np.zeros(ROWS), np.zeros(ROWS), np.zeros(ROWS)]
        weight, line = np.zeros(ROWS), np.zeros(3)
        row = [(tables.number(name, figure), figure.basis is Basis.ESTIMATE) for name, figure in figures.items()]
        for n, each in enumerate(packed):
            drop = x[f"drop_{n}"] if f"drop_{n}" in x else x[f"load_height_{n}"] - (x["installed_height"] - x[f"step_{n}"])
            shut, own = drop - place.deviation + x["spring_shim"], x.get(f"bend_{n}", 0.0)
            total[0] = total[0] + (x[f"load_{n}"] + shut * (x[f"rate_{n}"] + own * shut))
            total[1], total[2] = total[1] + (x[f"rate_{n}"] + 2.0 * own * shut), total[2] + own
            for name, figure in ((f"mass:spring {n}", each.spring.mass), (f"active_{n}", each.spring.active)):
                row.append((tables.number(name, figure), figure.basis is Basis.ESTIMATE))
                guessed[at] |= figure.basis is Basis.ESTIMATE
            weight = weight + tables.column(f"mass:spring {n}", each.spring.mass) * spring_weight(
                tables.column(f"active_{n}", each.spring.active)
            )
            squeeze = each.spring.load_height.value - (height.value + place.deviation - lay.value - each.step.value)
            line += [each.spring.load.value + squeeze * (each.spring.rate.value + each.spring.bend.value * squeeze),
                     each.spring.rate.value + 2.0 * each.spring.bend.value * squeeze, each.spring.bend.value]  # fmt: skip
        guessed[at] |= any(figure.basis is Basis.ESTIMATE for figure in figures.values())
        level[at], slope[at], bend[at] = total
        springs[at], nominal[at] = weight, line
        columns.append(row + motion.figures)
        codes[at], miss[at] = _item_codes(tables, side, pack, height)
        if motion.why:
            codes[at, BIT[SetCheck.LOBE]], miss[at, BIT[SetCheck.LOBE]] = kernel.SHORT, 9.0
        reference = goal.seat_reference.get(side.side)
        exact = side
        if packed == reference:
            same[at] = 1
            exact = replace(side, springs=tuple(
                PackedSpring(replace(p.spring, load=Figure(p.spring.load.value, 0.0, p.spring.load.basis)), p.step) for p in packed
            ))  # fmt: skip
        load = seat_load(exact, place)
        has[at] = load.value, load.spread**2, load.spread**2 * load.estimated
        opened = motion.travel
        force[at] = line[0] + opened * (line[1] + opened * line[2])
        mass[at] = sum(each.spring.mass.value * float(spring_weight(each.spring.active.value)) for each in packed)
        picks = (parts[Slot.OUTER][pack[0]], parts[Slot.INNER][pack[1]], parts[Slot.SPRING_SHIM][shim], parts[Slot.CAM][motion.motion[0]])
        told = [_money(each) for each in picks]
        money[at] = sum(price for price, _ in told), max(days for _, days in told)
    return _Items(
        packs=[pack for pack, _ in rows], shims=[shim for _, shim in rows], level=level, slope=slope, bend=bend, nominal=nominal, springs=springs,
        has=has, same=same, codes=codes, miss=miss, money=money, force=force, mass=mass, columns=columns, guessed=guessed,
    )  # fmt: skip


def _item_codes(tables: Tables, side: TrainSide, pack: tuple[int, int], height: Figure) -> tuple[NDArray[np.uint8], Array]:
    """What is judged of a pack as it stands: that it is made for that height and pushes, coil bind, the nest and its pocket."""
    goal, parts = tables.goal, tables.shelf.parts
    codes, miss = np.zeros(len(ORDER), dtype=np.uint8), np.full(len(ORDER), -1e9)

    def note(check: SetCheck, code: int, short: float) -> None:
        at = BIT[check]
        codes[at], miss[at] = max(codes[at], code), max(miss[at], short)

    stands = height.value - side.spring_shim.value
    for n, packed in enumerate(side.springs):
        own = parts[Slot.INNER if n else Slot.OUTER][pack[n]].record.figures
        shut = stands - packed.step.value
        for key, sign in (("height_low", 1.0), ("height_high", -1.0)):
            if key in own and sign * (own[key].value - shut) > height.spread + 1e-9:
                note(SetCheck.STAND, kernel.SHORT, sign * (own[key].value - shut) / own[key].value)
        loose = packed.spring.force(shut + tables.place.deviation)
        if loose <= 0.0:
            note(SetCheck.STAND, kernel.SHORT, 1.0)
        found = coil_bind(side, tightest(side), n)
        margin = found.value - goal.coil_bind_limit
        note(SetCheck.BIND, _CODE[judge(margin, found.spread, on_estimates=found.rests_on_estimates)], -margin / goal.coil_bind_limit)
    told = [parts[Slot.INNER if n else Slot.OUTER][pack[n]].record for n in range(len(side.springs))]
    fit = {**tables.bench.fit, **tables.bench.record.proposed[tables.bench.side].fit}
    for gap, rows in ((GapKind.NESTED, nested_told(told)), (GapKind.SPRING_POCKET, pocket_told(fit, told[0].figures))):
        if rows is None or rows[1] == "estimate":
            continue
        limit = goal.limits[gap.limit_key]
        judged = judge(rows[0].value - limit, rows[0].spread, on_estimates=rows[0].rests_on_estimates)
        note(SetCheck.ROOM, _CODE[judged], (limit - rows[0].value) / max(limit, 1e-4))
    return codes, miss


@dataclass(frozen=True, kw_only=True)
class _Service:
    riders: Array
    motion: float

    def item(self, packs: list[tuple[int, int]], parts: Mapping[Slot, tuple[Candidate, ...]]) -> Array:
        """Service hours of the springs of each item, with the cam's."""
        hours = lambda slot, n: parts[slot][n].service or 1e9
        return np.array([min(hours(Slot.OUTER, o), hours(Slot.INNER, i), self.motion) for o, i in packs])


def _riders(tables: Tables, motion: _Motion, group: Group) -> tuple[NDArray[np.uint8], Array, Array, _Service, Array]:
    parts, goal = tables.shelf.parts, tables.goal
    count = len(group.picks)
    codes, miss = np.zeros((count, len(ORDER)), dtype=np.uint8), np.full((count, len(ORDER)), -1e9)
    money, service, needs = np.zeros((count, 2)), np.full(count, 1e9), np.empty((count, 4))
    rooms = {int(v): motion.room(int(v)) if not motion.why else (0, 0.0) for v in set(group.picks[:, 1].tolist())}
    gaps: dict[Figure, Propagated] = {}
    order = (Slot.RETAINER, Slot.VALVE, Slot.KEEPERS, Slot.FOLLOWER)
    for j, pick in enumerate(group.picks.tolist()):
        seal = group.seals[j]
        if seal not in gaps:
            gaps[seal] = _retainer(motion, seal)
        found = gaps[seal]
        margin = found.value - goal.retainer_limit
        bit = BIT[SetCheck.RETAINER]
        codes[j, bit] = _CODE[judge(margin, found.spread, on_estimates=found.rests_on_estimates)]
        miss[j, bit] = -margin / goal.retainer_limit
        codes[j, BIT[SetCheck.ROOM]], miss[j, BIT[SetCheck.ROOM]] = rooms[pick[1]]
        needs[j] = tables.needs(pick[1])
        told = [parts[slot][pick[place]] for place, slot in enumerate(order)]
        money[j] = sum(each.price or 0.0 for each in told), max(each.days or 0 for each in told)
        service[j] = min((each.service or 1e9) for each in told)
    return codes, miss, money, _Service(riders=service, motion=parts[Slot.CAM][motion.motion[0]].service or 1e9), needs


def _retainer(motion: _Motion, seal: Figure) -> Propagated:
    """The gap of the retainer to its seal at full lift, as the check makes it."""
    side = replace(motion.train, retainer_to_seal=seal)
    return retainer_gap(side, lowest_retainer(side))


class _Sum:
    """What was found so far."""

    def __init__(self) -> None:
        self.seen = np.zeros(1 << len(ORDER), dtype=np.int64)
        self.classes = np.zeros(3, dtype=np.int64)
        self.front: list[Found] = []
        self.misses: dict[SetCheck, list[Found]] = {check: [] for check in ORDER}

    def keep(self, criteria: Array, codes: NDArray[np.uint8], numbers: Callable[[int], tuple[int, ...]]) -> None:
        """The sets of a block that nothing beats, class by class."""
        for code in range(3):
            rows = np.flatnonzero(codes == code)
            if not len(rows):
                continue
            for k in rows[front_rows(criteria[rows])]:
                force, mass, price, days, service = (float(value) for value in criteria[k])
                self.front.append(Found(code, 0.0, force, mass, price, days, service, numbers(int(k))))
        self.front = best_front(self.front)

    def near(
        self, heap: Array, at: Numbers, items: _Items, group: Group, shard: Shard, weighed: Array, money: Array, service: _Service,
        parts: Mapping[Slot, tuple[Candidate, ...]],
    ) -> None:  # fmt: skip
        """The nearest misses of a block, one an item and check."""
        own = service.item(items.packs, parts)
        for check in ORDER:
            column = heap[:, BIT[check]]
            for i in np.argsort(column, kind="stable")[:_NEAR_MISSES]:
                if not np.isfinite(column[i]):
                    break
                j = int(at[i, BIT[check]])
                self.misses[check].append(
                    Found(
                        3, float(column[i]), float(items.force[i]), float(items.mass[i] + weighed[j]), float(items.money[i, 0] + money[j, 0]),
                        float(max(items.money[i, 1], money[j, 1])), float(min(own[i], service.riders[j])), _numbers(shard, items, group, int(i), j),
                    )
                )  # fmt: skip
            self.misses[check] = sorted(self.misses[check])[:_NEAR_MISSES]

    def result(self) -> ShardResult:
        """All of it."""
        classes = (int(self.classes[0]), int(self.classes[1]), int(self.classes[2]))
        misses = {check: tuple(rows) for check, rows in self.misses.items() if rows}
        return ShardResult(self.seen.copy(), classes, tuple(self.front), misses, (), int(self.seen.sum()))


def front_rows(criteria: Array) -> Numbers:
    """Rows (force, mass, price, days, service) that no other beats in everything, each rounded to what is worth telling apart."""
    values = np.round(criteria / _ROUND)
    values[:, 4] = -values[:, 4]
    spread = np.maximum(values.max(axis=0) - values.min(axis=0), 1.0)
    order = np.lexsort((np.arange(len(values)), ((values - values.min(axis=0)) / spread).sum(axis=1)))
    keep = np.empty(len(values), dtype=np.int64)
    found = kernel.front_of(np.ascontiguousarray(values), order.astype(np.int64), keep)
    return np.sort(keep[:found])


def best_front(found: list[Found]) -> list[Found]:
    """The front of each class among sets found in any order; the same for any order."""
    kept: list[Found] = []
    for code in range(3):
        rows = sorted(each for each in found if each.code == code)
        if not rows:
            continue
        criteria = np.array([[each.force, each.mass, each.price, each.days, each.service] for each in rows])
        best = [rows[n] for n in front_rows(criteria)]
        kept += best if len(best) <= _FRONT else [best[n] for n in np.linspace(0, len(best) - 1, _FRONT).astype(int)]
    return kept


def merged(results: Iterable[ShardResult]) -> ShardResult:
    """What several shards found together."""
    total, lobes = _Sum(), {}
    for each in results:
        total.seen += each.seen
        total.classes += np.array(each.classes)
        total.front += each.front
        for check, rows in each.misses.items():
            total.misses[check] = sorted([*total.misses[check], *rows])[:_NEAR_MISSES]
        lobes.update(dict(each.lobes))
    total.front = best_front(total.front)
    return replace(total.result(), lobes=tuple(sorted(lobes.items())))
