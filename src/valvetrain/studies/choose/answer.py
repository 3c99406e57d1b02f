"""What a search found, in the order a builder asks: does anything hold, what stops the others, what nearly does, and which limits clash."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valvetrain.studies.choose.checks import BIT, ORDER, SetCheck, Tray
from valvetrain.studies.choose.proposal import Bench
from valvetrain.studies.choose.search import Found, ShardResult, merged, search_shard, shards_of
from valvetrain.studies.choose.slots import Candidate, Shelf, Slot, Wishes
from valvetrain.studies.choose.tables import Joins, Tables

_BUILDABLE, _FITS = "all that can be built", "what goes together"


@dataclass(frozen=True, kw_only=True)
class Clash:
    """Limits that between them stop every set: without these checks `left` sets would be left."""

    checks: tuple[SetCheck, ...]
    left: int
    miss: float


def trays(joins: Joins, found: ShardResult) -> list[Tray]:
    """The sieve: what goes together, then every check in its order."""
    left = joins.trays[-1].left if joins.trays else joins.shelf.count
    rows = [Tray(_BUILDABLE, joins.shelf.count, 0, 0), Tray(_FITS, joins.shelf.count, joins.shelf.count - left, 0)]
    masks = np.arange(len(found.seen))
    came = int(found.seen.sum())
    gone = np.zeros(len(masks), dtype=np.bool_)
    for check in ORDER:
        bit = 1 << BIT[check]
        falls = (masks & bit).astype(np.bool_) & ~gone
        stops = int(found.seen[falls].sum())
        rows.append(Tray(check.value, came, stops, int(found.seen[bit])))
        came, gone = came - stops, gone | falls
    return rows


def clashes(found: ShardResult) -> tuple[Clash, ...]:
    """Where nothing is left: single checks, else pairs, that alone stand in the way of most sets; each with the nearest miss."""
    if sum(found.classes):
        return ()
    singles = [Clash(checks=(check,), left=_without(found.seen, (check,)), miss=_nearest(found, check)) for check in ORDER]
    singles = [each for each in singles if each.left]
    if singles:
        return tuple(sorted(singles, key=lambda each: -each.left)[:3])
    pairs = [
        Clash(checks=(a, b), left=_without(found.seen, (a, b)), miss=0.0) for n, a in enumerate(ORDER) for b in ORDER[n + 1 :]
    ]  # fmt: skip
    return tuple(sorted((each for each in pairs if each.left), key=lambda each: -each.left)[:3])


def _without(seen: NDArray[np.int64], checks: tuple[SetCheck, ...]) -> int:
    """How many sets fall short at nothing but these."""
    free = sum(1 << BIT[check] for check in checks)
    masks = np.arange(len(seen))
    return int(seen[(masks & ~free) == 0].sum())


def _nearest(found: ShardResult, check: SetCheck) -> float:
    rows = found.misses.get(check, ())
    return rows[0].miss if rows else 0.0


def near_misses(found: ShardResult, most: int = 6) -> list[tuple[SetCheck, Found]]:
    """The nearest misses, one of each check in turn, so that one cause does not fill the list; with equal cause other springs first."""
    rows = {check: _one_a_pack(each) for check, each in found.misses.items()}
    picked: list[tuple[SetCheck, Found]] = []
    for turn in range(most):
        picked += [(check, each[turn]) for check, each in rows.items() if turn < len(each) and check is not SetCheck.LOBE]
    return picked[:most]


def _one_a_pack(rows: tuple[Found, ...]) -> list[Found]:
    seen: dict[tuple[int, ...], Found] = {}
    for row in rows:
        seen.setdefault(row.numbers[:3], row)
    return list(seen.values())


def swaps(bench: Bench, shelf: Shelf, wishes: Wishes, miss: Found) -> list[tuple[Slot, Found]]:
    """Sets that hold and differ from a near miss by one part, the cheapest of each place, cheapest first; `numbers` are the shelf's."""
    found: list[tuple[Slot, Found]] = []
    for place, slot in enumerate(Slot):
        own: dict[Slot, tuple[Candidate, ...]] = {each: (shelf.parts[each][miss.numbers[n]],) for n, each in enumerate(Slot)}
        own[slot] = shelf.parts[slot]
        if len(own[slot]) < 2:
            continue
        tables = Tables(bench, Shelf(parts=own))
        results = [search_shard(tables, shard, wishes) for shard in shards_of(tables, 1)]
        total = merged([each for each in results if each])
        holds = [each for each in total.front if each.code < 2]
        if holds:
            best = min(holds, key=lambda each: (each.code, each.price, each.force))
            name = tables.shelf.parts[slot][best.numbers[place]].key
            at = next(n for n, each in enumerate(shelf.parts[slot]) if each.key == name)
            found.append((slot, replace(best, numbers=(*miss.numbers[:place], at, *miss.numbers[place + 1 :]))))
    return sorted(found, key=lambda each: (each[1].code, each[1].price))


def count_words(classes: tuple[int, int, int]) -> Mapping[str, int]:
    """How many sets stand how."""
    return dict(zip(("hold", "just hold", "not proven"), classes, strict=True))
