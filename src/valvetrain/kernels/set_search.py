"""Sets of parts judged by the million: rows of what is not known stand side by side, so that the inner loops become vector instructions."""

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

Array = NDArray[np.float64]
Small = NDArray[np.float32]
Codes = NDArray[np.uint8]
Numbers = NDArray[np.int64]

HOLDS, SLIM, UNPROVEN, SHORT = 0, 1, 2, 3
TILE = 16
LOWER, MIDDLE, UPPER = 0.025, 0.5, 0.975
_FAST = {"contract", "nsz", "reassoc", "arcp", "nnan"}


@njit(cache=True, nogil=True, error_model="numpy", fastmath=_FAST)
def least_ratios(
    raised: Array, eased: Array, points: Numbers, counts: Numbers, level: Array, slope: Array, bend: Array, out: Array, tile: int = 128
) -> None:  # pragma: no cover  (compiled)
    """Least force times easing (N rad^2/m) of each item over its own lobe points, row by row.

    `raised` and `eased` (points, rows): rise of the valve m, and 1 / deceleration, infinite where the valve sits or the lobe does not slow;
    `points` (items, most) with `counts` of them; `level` N, `slope` N/m, `bend` N/m^2 (items, rows) the springs' force over the rise.
    Writes `out` (items, rows).
    """
    items, rows = level.shape
    best = np.empty(tile)
    for start in range(0, rows, tile):
        stop = min(start + tile, rows)
        size = stop - start
        for i in range(items):
            own_level, own_slope, own_bend = level[i, start:stop], slope[i, start:stop], bend[i, start:stop]
            for r in range(size):
                best[r] = np.inf
            for k in range(counts[i]):
                rise, ease = raised[points[i, k], start:stop], eased[points[i, k], start:stop]
                for r in range(size):
                    force = rise[r] * (own_slope[r] + rise[r] * own_bend[r]) + own_level[r]
                    ratio = (max(1.0, force)) * ease[r]
                    best[r] = min(best[r], ratio)
            for r in range(size):
                out[i, start + r] = best[r]


@njit(cache=True, nogil=True, error_model="numpy")
def binding_points(
    lift: Array,
    slows: Array,
    clearance: float,
    level: Array,
    slope: Array,
    bend: Array,
    near: float,
    most: int,
    points: Numbers,
    counts: Numbers,
) -> None:  # pragma: no cover  (compiled)
    """The points of one known lobe that may bind within any spread, for each item with its springs' nominal line: as the float of one side does it.

    Arrays (points,) `lift` m, `slows` m/rad^2 positive; (items,) the nominal force line. Writes `points` (items, most + 1) and `counts`.
    """
    margins = np.empty(lift.size)
    for i in range(level.size):
        for p in range(lift.size):
            up = lift[p] - clearance
            margins[p] = (level[i] + up * (slope[i] + up * bend[i])) / slows[p]
        least, at = margins[0], 0
        for p in range(1, lift.size):
            if margins[p] < least:
                least, at = margins[p], p
        found = 0
        chosen = np.empty(lift.size, dtype=np.int64)
        for p in range(lift.size):
            if margins[p] <= near * least:
                chosen[found] = p
                found += 1
        if found <= most:
            for k in range(found):
                points[i, k] = chosen[k]
            counts[i] = found
            continue
        thin, there, last = 0, False, -1
        step = (found - 1) / (most - 1)
        for k in range(most):
            p = chosen[found - 1 if k == most - 1 else int(k * step)]
            if p != last:
                points[i, thin] = p
                thin += 1
            there = there or p == at
            last = p
        if not there:
            points[i, thin] = at
            thin += 1
        counts[i] = thin


@njit(cache=True, nogil=True, error_model="numpy", fastmath=_FAST)
def _share_below(weights: Small, rider: Small, threshold: Small) -> float:  # pragma: no cover  (compiled)
    """Weight of the rows in which a rider is too heavy for the speed asked."""
    total = np.float32(0.0)
    for r in range(weights.size):
        total += weights[r] if rider[r] >= threshold[r] else np.float32(0.0)
    return float(total)


@njit(cache=True, nogil=True, error_model="numpy")
def _share_at(weights: Array, rider: Small, threshold: Small, springs: Array) -> float:  # pragma: no cover  (compiled)
    """Where the asked speed lies among the weighted rows, between them as the quantiles are: `threshold` and `rider` kg, `springs` kg in the rows.

    A row's speed over the asked one is sqrt((threshold + springs) / (rider + springs)).
    """
    below, last, next_, last_weight, next_weight = 0.0, -1.0, 1e30, 0.0, 0.0
    for r in range(weights.size):
        speed = math.sqrt(max((float(threshold[r]) + springs[r]) / (float(rider[r]) + springs[r]), 0.0))
        if speed <= 1.0:
            below += weights[r]
            if speed > last:
                last, last_weight = speed, weights[r]
        elif speed < next_:
            next_, next_weight = speed, weights[r]
    if last < 0.0:
        return 0.0
    if next_ > 1e29:
        return 1.0
    low, high = below - last_weight / 2.0, below + next_weight / 2.0
    return low + (1.0 - last) / (next_ - last) * (high - low)


@njit(cache=True, nogil=True, error_model="numpy", fastmath=_FAST)
def _guessed(
    rates: Small,
    weights: Small,
    rider: Small,
    springs: Small,
    table: Small,
    columns: Numbers,
    guesses: Codes,
    clear: float,
    lobe: int,
    y: Small,
) -> float:  # pragma: no cover  (compiled)
    """Share of the estimates in what decides the speed: squared correlations of its logarithm with each unsure figure, those that stand out.

    `rates` half the logarithm of threshold and springs; `table` (figures, rows) centred, weighted and of unit variance; `columns` those of this
    set, with `guesses` 1 where estimated; number `lobe` of them and the one before it are one figure. -1 where none stands out.
    """
    middle = np.float32(0.0)
    rows = weights.size
    for r in range(rows):
        middle += weights[r] * (rider[r] + springs[r])
    one, half, third = np.float32(1.0), np.float32(0.5), np.float32(1.0 / 3.0)
    shift, square = np.float32(0.0), np.float32(0.0)
    for r in range(rows):
        d = (rider[r] + springs[r]) / middle - one
        y[r] = rates[r] - half * d * (one - d * (half - d * third))
        shift += weights[r] * y[r]
    for r in range(rows):
        square += weights[r] * (y[r] - shift) * (y[r] - shift)
    if square <= 0.0:
        return -1.0
    total, guessed, before = 0.0, 0.0, 0.0
    for k in range(columns.size):
        dot = np.float32(0.0)
        row = columns[k]
        if row < 0:
            continue
        for r in range(rows):
            dot += table[row, r] * y[r]
        share = min(float(dot) * float(dot) / float(square), 1.0)
        if k == lobe:
            share = max(share, before)
        elif k == lobe - 1:
            before = share
            continue
        if share > clear:
            total += share
            guessed += share * guesses[k]
    return guessed / total if total > 0.0 else -1.0


@njit(cache=True, nogil=True, error_model="numpy")
def _margin_code(margin: float, variance: float, estimated: float) -> int:  # pragma: no cover  (compiled)
    """Code of a margin with the variance of its spread (k = 2) and the part of it that is estimated: as a check is judged."""
    spread = math.sqrt(variance)
    if margin > spread or (spread == 0.0 and margin > -1e-9):
        return HOLDS
    if margin < -spread:
        return SHORT
    if variance > 0.0 and estimated > 0.5 * variance:
        return UNPROVEN
    return SLIM if margin >= 0.0 else SHORT


@njit(cache=True, nogil=True, error_model="numpy")
def judge_sets(  # noqa: PLR0915  (one loop: what the compiler must see whole)
    weights: Array, light: Small, riders: Small, thresholds: Small, rates: Small, springs: Array, light_springs: Small, allowed: Codes,
    item_codes: Codes, rider_codes: Codes, item_miss: Array, rider_miss: Array, has: Array, same: Codes, needs: Array, item_money: Array,
    rider_money: Array, wishes: Array, table: Small, item_columns: Numbers, item_guesses: Codes, rider_columns: Numbers, rider_guesses: Codes,
    untold: Codes, clear: float, lobe: int, bits: Numbers, heap: Array, heap_at: Numbers, kept: Numbers, kept_class: Codes, counts: Numbers,
    seen: Numbers,
) -> int:  # fmt: skip  # pragma: no cover  (compiled)
    """Judge every item with every rider. `riders` (riders, rows) kg, `thresholds` (items, rows) kg at which the asked speed is just held.

    `item_codes`/`rider_codes` (.., checks) verdict codes known beforehand, `_miss` how far each falls short; `has` (items, 3) seat force, its
    variance, its estimated part; `needs` (riders, 3) likewise; `_money` (.., 2) price and days; `wishes` budget and days; `bits` numbers of
    the checks seat, float, budget, days. Writes `heap` (items, checks) least misses with the rider in `heap_at`, `kept` (most, 2) sets that fall short in
    nothing with `kept_class`, `counts` by class and `seen` by mask of what falls short; returns how many were kept.
    """
    items, count, checks = thresholds.shape[0], riders.shape[0], item_codes.shape[1]
    seat, floats, budget, days = bits[0], bits[1], bits[2], bits[3]
    widest = weights.max() + 2e-5
    y = np.empty(weights.size, dtype=np.float32)
    width = item_columns.shape[1] + rider_columns.shape[1]
    columns, guesses = np.empty(width, dtype=np.int64), np.empty(width, dtype=np.uint8)
    found = 0
    # tiles of items and riders stay near the processor while they meet; of one item the riders come in their order all the same
    for first_item in range(0, items, TILE):
        for first_rider in range(0, count, TILE):
            for j in range(first_rider, min(first_rider + TILE, count)):
                for i in range(first_item, min(first_item + TILE, items)):
                    if not allowed[i, j]:
                        continue
                    mask, worst, last, score = 0, HOLDS, -1, 0.0
                    for check in range(checks):
                        if check == floats:
                            continue
                        code = max(item_codes[i, check], rider_codes[j, check])
                        miss = max(item_miss[i, check], rider_miss[j, check])
                        if check == seat:
                            margin = has[i, 0] - needs[j, 0]
                            code = _margin_code(margin, has[i, 1] + needs[j, 1], has[i, 2] + needs[j, 2])
                            if same[i] and needs[j, 3] <= 0.0 and margin > -1e-6:
                                code = HOLDS
                            miss = -margin / needs[j, 0]
                        elif check == budget:
                            over = item_money[i, 0] + rider_money[j, 0] - wishes[0]
                            code, miss = (SHORT, over / max(wishes[0], 1.0)) if over > 1e-6 else (HOLDS, 0.0)
                        elif check == days:
                            late = max(item_money[i, 1], rider_money[j, 1]) - wishes[1]
                            code, miss = (SHORT, late / max(wishes[1], 1.0)) if late > 0.0 else (HOLDS, 0.0)
                        if code == SHORT:
                            mask |= 1 << check
                            last, score = check, miss
                        worst = max(worst, code)
                    share = _share_below(light, riders[j], thresholds[i])
                    if min(abs(share - LOWER), abs(share - MIDDLE), abs(share - UPPER)) < widest:
                        share = _share_at(weights, riders[j], thresholds[i], springs[i])
                    code = HOLDS if share < LOWER else SHORT if share > UPPER else SLIM
                    # what rests on estimates decides between not proven and just or short: not asked of a set that falls elsewhere anyway
                    if code == SLIM and (share > MIDDLE or mask == 0):
                        for k in range(item_columns.shape[1]):
                            columns[k], guesses[k] = item_columns[i, k], item_guesses[i, k]
                        for k in range(rider_columns.shape[1]):
                            at = item_columns.shape[1] + k
                            columns[at], guesses[at] = rider_columns[j, k], rider_guesses[j, k]
                        part = _guessed(rates[i], light, riders[j], light_springs[i], table, columns, guesses, clear, lobe, y)
                        if part > 0.5 or (part < 0.0 and (untold[i] or rider_guesses[j].any())):
                            code = UNPROVEN
                        elif share > MIDDLE:
                            code = SHORT
                    if code == SHORT:
                        mask |= 1 << floats
                        last, score = floats, share
                    worst = max(worst, code)
                    seen[mask] += 1
                    if mask == 0:
                        counts[worst] += 1
                        kept[found, 0], kept[found, 1], kept_class[found] = i, j, worst
                        found += 1
                    elif mask == 1 << last and score < heap[i, last]:
                        heap[i, last], heap_at[i, last] = score, j
    return found


@njit(cache=True, nogil=True, error_model="numpy")
def front_of(values: Array, order: Numbers, keep: Numbers) -> int:  # pragma: no cover  (compiled)
    """Rows of `values` (rows, criteria), less is better, that no other is at least as good as in everything; rows are taken in `order`, in which
    none comes after one it beats. Equal rows: the first stays. Writes their numbers into `keep`, returns how many."""
    found, width = 0, values.shape[1]
    for at in range(order.size):
        row = order[at]
        beaten = False
        for k in range(found):
            other = keep[k]
            worse = True
            for c in range(width):
                if values[other, c] > values[row, c]:
                    worse = False
                    break
            if worse:
                beaten = True
                if k > 0:  # what beats one beats its neighbours: look there first
                    keep[k], keep[k // 2] = keep[k // 2], keep[k]
                break
        if not beaten:
            keep[found] = row
            found += 1
    return found
