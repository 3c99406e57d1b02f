"""Riders of a search: retainer, valve, keepers and follower that move together, with what is judged of them alone."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valvetrain.kernels import set_search as kernel
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.parts.gaps import GapKind, GapReading
from valvetrain.parts.record import PartRecord
from valvetrain.studies.checks.assessment import judge
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.choose.checks import BIT, ORDER, SetCheck
from valvetrain.studies.choose.motions import Motion
from valvetrain.studies.choose.slots import Candidate, Slot
from valvetrain.studies.choose.spring_items import CODE
from valvetrain.studies.choose.tables import Group, Tables
from valvetrain.studies.gaps.others import follower_told
from valvetrain.studies.train.priors import ROWS
from valvetrain.studies.train.side_figures import lowest_retainer, retainer_gap

Array = NDArray[np.float64]
Codes = NDArray[np.uint8]
_ORDER = (Slot.RETAINER, Slot.VALVE, Slot.KEEPERS, Slot.FOLLOWER)
ENDLESS = 1e9  # h, of parts that nobody told a service life of


@dataclass(frozen=True, eq=False, kw_only=True)
class Riders:
    """Riders of one follower at one height. `rows` of each part's mass by place (parts, rows) kg, and `picks` which of them; `weighed` kg nominal,
    springs not in it; `numbers` and `guesses` of their figures; `needs` (riders, 4) what must be kept on the seat, variance, estimated part, gas;
    `money` price and days; `service` h."""

    group: Group
    rows: tuple[NDArray[np.float32], ...]
    picks: NDArray[np.int64]
    weighed: Array
    numbers: NDArray[np.int64]
    guesses: Codes
    needs: Array
    money: Array
    service: Array

    def masses(self, part: slice) -> NDArray[np.float32]:
        """Rows (riders, rows) of what some of them weigh, kg: made when they are judged, for all of a large shelf would fill the memory."""
        picks = self.picks[part]
        total = self.rows[0][picks[:, 0]]
        for place in range(1, len(self.rows)):
            total += self.rows[place][picks[:, place]]
        return np.asarray(total)


def riders_of(tables: Tables, follower: int, height: Figure) -> Riders | None:
    """The riders, worked out once; None where none stands at that height."""
    key = (follower, height)
    if key not in tables.riders:
        group = tables.groups(follower).get(height)
        tables.riders[key] = _riders(tables, group) if group else None
    found: Riders | None = tables.riders[key]
    return found


def _riders(tables: Tables, group: Group) -> Riders:
    picks, parts = group.picks, tables.shelf.parts
    shim = tables.train.masses[Owner.SHIM.value]
    level = tables.column(f"mass:{Owner.SHIM.value}", shim)
    count = len(picks)
    numbers, guesses = np.full((count, 5), -1, dtype=np.int64), np.zeros((count, 5), dtype=np.uint8)
    weighed, money, service, needs = np.full(count, shim.value), np.zeros((count, 2)), np.empty(count), np.empty((count, 4))
    known = {(slot, n): tables.mass(slot, n) for place, slot in enumerate(_ORDER) for n in set(picks[:, place].tolist())}
    rows = {key: tables.column(f"mass:{key[0].value}", figure) for key, figure in known.items()}
    own_number, own_guess = tables.number(f"mass:{Owner.SHIM.value}", shim), shim.basis is Basis.ESTIMATE
    for at, pick in enumerate(picks.tolist()):
        keys = [(slot, pick[place]) for place, slot in enumerate(_ORDER)]
        for place, key in enumerate(keys):
            figure = known[key]
            weighed[at] += figure.value
            numbers[at, place] = tables.number(f"mass:{key[0].value}", figure)
            guesses[at, place] = figure.basis is Basis.ESTIMATE
        numbers[at, 4], guesses[at, 4] = own_number, own_guess
        told = [parts[slot][n] for slot, n in keys]
        money[at] = sum(each.price or 0.0 for each in told), max(each.days or 0 for each in told)
        service[at] = min(each.service or ENDLESS for each in told)
        needs[at] = tables.needs(pick[1])
    tables_of, places = [], np.empty((count, len(_ORDER)), dtype=np.int64)
    for place, slot in enumerate(_ORDER):
        own = sorted(set(picks[:, place].tolist()))
        base = level if place == 0 else np.zeros(ROWS)  # what lies between follower and stem moves with every rider
        tables_of.append(np.array([rows[slot, n] + base for n in own], dtype=np.float32))
        places[:, place] = np.searchsorted(own, picks[:, place])
    return Riders(
        group=group, rows=tuple(tables_of), picks=places, weighed=weighed, numbers=numbers, guesses=guesses, needs=needs, money=money,
        service=service,
    )  # fmt: skip


def rider_codes(tables: Tables, motion: Motion, riders: Riders) -> tuple[Codes, Array]:
    """What is judged of riders under one lobe, worked out once: retainer to seal, whatever pushes the tip to the retainer, the valve's room."""
    key = (motion.motion, riders.group.height)
    if key not in tables.codes:
        tables.codes[key] = _codes(tables, motion, riders)
    return tables.codes[key]


def _codes(tables: Tables, motion: Motion, riders: Riders) -> tuple[Codes, Array]:
    goal, picks = tables.goal, riders.group.picks
    codes, miss = np.zeros((len(picks), len(ORDER)), dtype=np.uint8), np.full((len(picks), len(ORDER)), -1e9)
    if motion.why:
        return codes, miss
    rooms = {int(v): motion.room(int(v)) for v in set(picks[:, 1].tolist())}
    seals: dict[Figure, tuple[int, float]] = {}
    bit, room = BIT[SetCheck.RETAINER], BIT[SetCheck.ROOM]
    pushed = _Pushed(tables, motion)
    for at, pick in enumerate(picks.tolist()):
        seal = riders.group.seals[at]
        if seal not in seals:
            side = replace(motion.train, retainer_to_seal=seal)
            found = retainer_gap(side, lowest_retainer(side))
            margin = found.value - goal.retainer_limit
            seals[seal] = CODE[judge(margin, found.spread, on_estimates=found.rests_on_estimates)], -margin / goal.retainer_limit
        codes[at, bit], miss[at, bit] = seals[seal]
        codes[at, room], miss[at, room] = max(rooms[pick[1]], pushed.code(pick))
    return codes, miss


class _Pushed:
    """The gap of whatever pushes the tip to the retainer: as told or read of the very parts, computed from their figures, or a guess."""

    def __init__(self, tables: Tables, motion: Motion) -> None:
        self.tables, self.motion = tables, motion
        side = tables.bench.side
        own = tables.bench.record.proposed[side]
        self.own = {slot: own.parts.get(slot.owner, PartRecord()) for slot in _ORDER}
        self.read = [gap for gap in tables.bench.record.gaps if gap.gap is GapKind.FOLLOWER and gap.side is side]
        stock = tables.done.stock_sides[side].fit
        self.stock = {key: stock[key] for key in ("follower_gap", "tip_height") if key in stock}
        self.told = {key: own.fit[key] for key in ("follower_gap", "tip_height") if key in own.fit}
        self.kept: dict[tuple[object, ...], tuple[int, float]] = {}

    def code(self, pick: list[int]) -> tuple[int, float]:
        """Code and miss of one rider."""
        parts = self.tables.shelf.parts
        told: dict[Slot, Candidate] = {slot: parts[slot][n] for slot, n in zip(_ORDER, pick, strict=True)}
        same = all(told[slot].record == self.own[slot] for slot in _ORDER)
        retainer, follower = told[Slot.RETAINER].record.figures, told[Slot.FOLLOWER].record.figures
        key = (same, retainer.get("outer_diameter"), pick[3])
        if key not in self.kept:
            self.kept[key] = self._judge(self.stock | (self.told if same else {}), self.read if same else [], follower, retainer)
        return self.kept[key]

    def _judge(self, fit: FigureMap, read: list[GapReading], follower: FigureMap, retainer: FigureMap) -> tuple[int, float]:
        goal = self.tables.goal
        limit = goal.limits[GapKind.FOLLOWER.limit_key]
        if read:
            worst = min(read, key=lambda gap: gap.value)
            return CODE[judge(worst.value - limit, worst.spread, on_estimates=False)], -(worst.value - limit) / max(limit, 1e-4)
        found, how = follower_told(self.tables.bench.record.kind, self.motion.train.lift, fit, follower, retainer)
        verdict = judge(found.value - limit, found.spread, on_estimates=found.rests_on_estimates)
        guess = how == "estimate" or (how == "computed" and found.estimated > 0.5)
        if guess and verdict is not Verdict.SHORT:
            return kernel.HOLDS, 0.0
        return CODE[verdict], -(found.value - limit) / max(limit, 1e-4)
