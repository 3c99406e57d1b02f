"""Every set of a shelf judged against the goal, shard by shard: any split gives the same, and what shards found adds up."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valvetrain.kernels import set_search as kernel
from valvetrain.studies.checks.assessment import float_limit
from valvetrain.studies.choose.checks import BIT, ORDER, SetCheck
from valvetrain.studies.choose.motions import Motion
from valvetrain.studies.choose.riders import Riders, rider_codes, riders_of
from valvetrain.studies.choose.slots import Slot, Wishes
from valvetrain.studies.choose.spring_items import Pile, bind_codes, pile_of
from valvetrain.studies.choose.tables import Tables
from valvetrain.studies.train.float_rows import float_near
from valvetrain.studies.train.priors import ROWS

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]

MOST_SETS = 300_000_000  # that go together and can be searched at once: some minutes of two processors. Source: measured
_NEAR_MISSES, _FRONT, _RIDERS = 6, 1500, 1024
_ROUND = (
    1.0,
    0.1e-3,
    1.0,
    1.0,
    5.0,
)  # N, kg, money, days, hours: sets nearer than this are not told apart on the front. Source: judgement
_BITS = np.array([BIT[SetCheck.SEAT], BIT[SetCheck.FLOAT], BIT[SetCheck.BUDGET], BIT[SetCheck.DAYS]])


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
    """Part of a search: some of the cams with some of the packs, by number."""

    cams: tuple[int, ...]
    packs: tuple[tuple[int, int], ...]


def shards_of(tables: Tables, about: int = 32) -> list[Shard]:
    """The search in about so many parts: packs apart first, for each needs work of its own; cams apart where packs are few."""
    cams, packs = sorted({cam for cam, _ in tables.motions}), tables.packs
    if not cams or not packs:
        return []
    size = -(-len(packs) // min(about, len(packs)))
    blocks = [tuple(packs[at : at + size]) for at in range(0, len(packs), size)]
    each = max(1, -(-len(cams) * len(blocks) // about))
    return [Shard(tuple(cams[at : at + each]), block) for block in blocks for at in range(0, len(cams), each)]


def search_shard(tables: Tables, shard: Shard, wishes: Wishes, go_on: Callable[[float], bool] | None = None) -> ShardResult | None:
    """Judge every set of a shard; None when it was left out on the way (`go_on` is told the share done, and answers whether to)."""
    total, lobes = Sum(), {}
    motions = [tables.motion(each, Motion) for each in tables.motions if each[0] in shard.cams]
    heights = tables.heights
    for number, height in enumerate(heights):
        if go_on and not go_on(number / len(heights)):
            return None
        pile = pile_of(tables, shard.packs, height)
        lasts: dict[object, tuple[NDArray[np.float32], NDArray[np.float32]]] = {}
        for motion in motions:
            if motion.why:
                lobes[motion.picks[Slot.CAM].record.name] = motion.why
            riders = riders_of(tables, motion.motion[1], height)
            if riders is None:
                continue
            if motion.lobe not in lasts:
                lasts[motion.lobe] = _bears(tables, motion, pile)
            _judge(tables, motion, pile, riders, lasts[motion.lobe], wishes, total)
    return replace(total.result(), lobes=tuple(sorted(lobes.items())))


def _bears(tables: Tables, motion: Motion, pile: Pile) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Moving mass (kg, items by rows) at which each item just holds the speed asked, less its springs' own; and half its logarithm with them."""
    count = len(pile.packs)
    if motion.known is None:
        every = len(motion.raised)
        points, counts = np.repeat(np.arange(every)[None, :], count, axis=0), np.full(count, every, dtype=np.int64)
    else:
        near, most = float_near()
        points, counts = np.zeros((count, most + 1), dtype=np.int64), np.zeros(count, dtype=np.int64)
        level, slope, bend = (np.ascontiguousarray(pile.line[:, n]) for n in range(3))
        kernel.binding_points(*motion.known, motion.train.clearance.value, level, slope, bend, near, most, points, counts)
    ratios = np.empty_like(pile.level)
    kernel.least_ratios(motion.raised, motion.eased, points, counts, pile.level, pile.slope, pile.bend, ratios)
    bears = ratios / (np.pi * float_limit(tables.goal)) ** 2 / motion.factor
    return (bears - pile.springs).astype(np.float32), (0.5 * np.log(bears)).astype(np.float32)


def _table(tables: Tables, motion: Motion) -> NDArray[np.float32]:
    """The rows of every figure that may decide, with those of which lobe it is behind them; made anew only when a figure came."""
    if motion.table is None or len(motion.table) != len(tables.rows) + 1:
        own = [np.zeros(ROWS)] if motion.own is None else [tables.normal(motion.own)]
        motion.table = np.array([*tables.rows, *own], dtype=np.float32)
    return motion.table


def _columns(tables: Tables, motion: Motion, pile: Pile) -> tuple[Numbers, NDArray[np.uint8], int]:
    """Numbers of the figures of each item under the lobe, which are estimates, and where the lobe stands among them.

    Which lobe it is and how well its form is known are one figure; where the lobe is known, the form stands for both.
    """
    count, width = pile.columns.shape
    more = len(motion.figures)
    columns, guesses = np.full((count, width + more + 2), -1, dtype=np.int64), np.zeros((count, width + more + 2), dtype=np.uint8)
    columns[:, :width], guesses[:, :width] = pile.columns, pile.guesses
    for place, (number, guess) in enumerate(motion.figures):
        columns[:, width + place], guesses[:, width + place] = number, guess
    lobe = width + more + 1
    columns[:, lobe] = motion.shape[0] if motion.own is None else len(tables.rows)
    columns[:, lobe - 1] = -1 if motion.own is None else motion.shape[0]
    guesses[:, lobe - 1 :] = motion.shape[1]
    return columns, guesses, lobe


def _judge(
    tables: Tables, motion: Motion, pile: Pile, riders: Riders, bears: tuple[NDArray[np.float32], NDArray[np.float32]], wishes: Wishes,
    total: "Sum",
) -> None:  # fmt: skip
    codes, miss = bind_codes(tables, motion, pile)
    own_codes, own_miss = rider_codes(tables, motion, riders)
    columns, guesses, lobe = _columns(tables, motion, pile)
    cam = tables.shelf.parts[Slot.CAM][motion.motion[0]]
    money = np.column_stack([pile.money[:, 0] + (cam.price or 0.0), np.maximum(pile.money[:, 1], float(cam.days or 0))])
    service = np.minimum(pile.service, cam.service or 1e9)
    up = motion.travel
    force = pile.line[:, 0] + up * (pile.line[:, 1] + up * pile.line[:, 2])
    asked = np.array([wishes.budget if wishes.budget is not None else 1e12, float(wishes.days) if wishes.days is not None else 1e6])
    allowed = pile.allowed(tables, riders.group.picks[:, 0])
    light, table = tables.weights.astype(np.float32), _table(tables, motion)
    clear, count = 6.0 * float(tables.weights @ tables.weights), len(pile.packs)
    for start in range(0, len(riders.weighed), _RIDERS):
        part = slice(start, start + _RIDERS)
        size = len(riders.weighed[part])
        heap, which = np.full((count, len(ORDER)), np.inf), np.zeros((count, len(ORDER)), dtype=np.int64)
        kept, classes = np.empty((count * size, 2), dtype=np.int64), np.empty(count * size, dtype=np.uint8)
        found = kernel.judge_sets(
            tables.weights, light, riders.masses(part), bears[0], bears[1], pile.springs, pile.light, allowed[:, part], codes, own_codes[part],
            miss, own_miss[part], pile.has, pile.same, riders.needs[part], money, riders.money[part], asked, table, columns, guesses,
            riders.numbers[part], riders.guesses[part], pile.guessed | motion.guessed, clear, lobe, _BITS, heap, which, kept, classes,
            total.classes, total.seen,
        )  # fmt: skip
        known = _Known(motion.motion[0], pile, riders, force, money, service, tables.radix)
        i, j = kept[:found, 0], kept[:found, 1] + start
        total.keep(known, i, j, classes[:found])
        for check in ORDER:
            total.near(known, check, heap[:, BIT[check]], which[:, BIT[check]] + start)


@dataclass(frozen=True, eq=False)
class _Known:
    """What sets of a block are compared by, and what they are made of."""

    cam: int
    pile: Pile
    riders: Riders
    force: Array
    money: Array
    service: Array
    radix: Numbers

    def ids(self, i: Numbers, j: Numbers) -> Numbers:
        """Numbers by which sets are ordered as their parts' numbers are: equal sets are the same whatever the split."""
        radix = self.radix
        packs = np.array(self.pile.packs, dtype=np.int64)[i]
        picks = self.riders.group.picks[j]
        return np.asarray(
            self.cam * radix[0] + packs @ radix[1:3] + picks[:, 0] * radix[3] + picks[:, 2] * radix[4] + picks[:, 1] * radix[5]
            + picks[:, 3] * radix[6] + np.array(self.pile.shims, dtype=np.int64)[i] * radix[7]
        )  # fmt: skip

    def criteria(self, i: Numbers, j: Numbers) -> Array:
        """Force N, mass kg, price, days, service h of items with riders, (sets, 5)."""
        riders = self.riders
        return np.column_stack([
            self.force[i], self.pile.mass[i] + riders.weighed[j], self.money[i, 0] + riders.money[j, 0],
            np.maximum(self.money[i, 1], riders.money[j, 1]), np.minimum(self.service[i], riders.service[j]),
        ])  # fmt: skip

    def found(self, code: int, miss: float, i: int, j: int) -> Found:
        """One set."""
        riders = self.riders
        return Found(
            code, miss, float(self.force[i]), float(self.pile.mass[i] + riders.weighed[j]), float(self.money[i, 0] + riders.money[j, 0]),
            float(max(self.money[i, 1], riders.money[j, 1])), float(min(self.service[i], riders.service[j])), self.numbers(i, j),
        )  # fmt: skip

    def numbers(self, i: int, j: int) -> tuple[int, ...]:
        """Numbers of a set's parts in the order of the places."""
        retainer, valve, keepers, follower = self.riders.group.picks[j].tolist()
        outer, inner = self.pile.packs[i]
        return (self.cam, outer, inner, retainer, keepers, valve, follower, self.pile.shims[i])


class Sum:
    """What was found so far."""

    def __init__(self) -> None:
        self.seen = np.zeros(1 << len(ORDER), dtype=np.int64)
        self.classes = np.zeros(3, dtype=np.int64)
        self.front: list[Found] = []
        self.misses: dict[SetCheck, list[Found]] = {check: [] for check in ORDER}
        self._waiting: list[list[tuple[Array, Numbers, _Known, Numbers, Numbers]]] = [[], [], []]
        self._held = [0, 0, 0]

    def keep(self, known: _Known, i: Numbers, j: Numbers, codes: NDArray[np.uint8]) -> None:
        """The sets of a block that nothing beats, class by class; made into sets once many have come together."""
        if not len(i):
            return
        criteria, ids = known.criteria(i, j), known.ids(i, j)
        for code in range(3):
            rows = np.flatnonzero(codes == code)
            if len(rows):
                best = rows[front_rows(criteria[rows], ids[rows])]
                self._waiting[code].append((criteria[best], ids[best], known, i[best], j[best]))
                self._held[code] += len(best)
                if self._held[code] > 4 * _FRONT:
                    self._gather(code)

    def _gather(self, code: int) -> None:
        """Of all that waits, what nothing beats."""
        blocks, self._waiting[code], self._held[code] = self._waiting[code], [], 0
        if not blocks:
            return
        best = front_rows(np.concatenate([block[0] for block in blocks]), np.concatenate([block[1] for block in blocks]))
        starts = np.cumsum([0, *(len(block[0]) for block in blocks)])
        which = np.searchsorted(starts, best, side="right") - 1
        for row, block in zip(best.tolist(), which.tolist(), strict=True):
            _, _, known, i, j = blocks[block]
            at = row - int(starts[block])
            self.front.append(known.found(code, 0.0, int(i[at]), int(j[at])))
        self.front = best_front(self.front)

    def near(self, known: _Known, check: SetCheck, score: Array, which: Numbers) -> None:
        """The nearest misses of a block at one check, one an item."""
        worst = self.misses[check][-1].miss if len(self.misses[check]) == _NEAR_MISSES else 1e300
        rows = np.flatnonzero(score <= worst)
        best = rows[np.argsort(score[rows], kind="stable")]
        cut = score[best[_NEAR_MISSES - 1]] if len(best) > _NEAR_MISSES else np.inf
        more = [known.found(3, float(score[k]), int(k), int(which[k])) for k in best if score[k] <= cut]
        if more:
            self.misses[check] = nearest([*self.misses[check], *more])

    def result(self) -> ShardResult:
        """All of it."""
        for code in range(3):
            self._gather(code)
        classes = (int(self.classes[0]), int(self.classes[1]), int(self.classes[2]))
        misses = {check: tuple(rows) for check, rows in self.misses.items() if rows}
        return ShardResult(self.seen.copy(), classes, tuple(best_front(self.front)), misses, (), int(self.seen.sum()))


def nearest(found: list[Found]) -> list[Found]:
    """The nearest misses, one of each cam with springs and shim, so that one cause does not fill the list; the same for any order."""
    best: dict[tuple[int, ...], Found] = {}
    for each in sorted(found):
        best.setdefault((*each.numbers[:3], each.numbers[-1]), each)
    return list(best.values())[:_NEAR_MISSES]


def front_rows(criteria: Array, ids: Numbers) -> Numbers:
    """Rows (force, mass, price, days, service) that no other beats in everything, each rounded to what is worth telling apart; of equal ones the
    least by its id."""
    values = np.round(criteria / _ROUND)
    values[:, 4] = -values[:, 4]
    spread = np.maximum(values.max(axis=0) - values.min(axis=0), 1.0)
    order = np.lexsort((ids, ((values - values.min(axis=0)) / spread).sum(axis=1)))
    keep = np.empty(len(values), dtype=np.int64)
    found = kernel.front_of(np.ascontiguousarray(values), order.astype(np.int64), keep)
    return np.sort(keep[:found])


def best_front(found: list[Found]) -> list[Found]:
    """The front of each class among sets found in any order; the same for any order."""
    kept: list[Found] = []
    for code in range(3):
        rows = sorted((each for each in found if each.code == code), key=lambda each: each.numbers)
        if not rows:
            continue
        criteria = np.array([[each.force, each.mass, each.price, each.days, each.service] for each in rows])
        best = [rows[n] for n in front_rows(criteria, np.arange(len(rows)))]
        kept += best if len(best) <= _FRONT else [best[n] for n in np.linspace(0, len(best) - 1, _FRONT).astype(int)]
    return kept


def merged(results: Iterable[ShardResult]) -> ShardResult:
    """What several shards found together."""
    total, lobes = Sum(), {}
    for each in results:
        total.seen += each.seen
        total.classes += np.array(each.classes)
        total.front += each.front
        for check, rows in each.misses.items():
            total.misses[check] = nearest([*total.misses[check], *rows])
        lobes.update(dict(each.lobes))
    return replace(total.result(), lobes=tuple(sorted(lobes.items())))
