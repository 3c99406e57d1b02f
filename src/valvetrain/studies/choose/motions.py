"""One cam under one follower in a search: its lobes row by row, its room, and whether it can ride at all."""

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ValveTrainError
from valvetrain.kernels import set_search as kernel
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import Basis
from valvetrain.parts.gaps import GapKind
from valvetrain.parts.record import PartRecord
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.cams.lobe_fit import lobe_fit
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.choose.proposal import with_set
from valvetrain.studies.choose.slots import PartSet, Slot
from valvetrain.studies.choose.spring_items import CODE
from valvetrain.studies.choose.tables import Tables
from valvetrain.studies.gaps.gaps import room_review
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.float_rows import lobes_alone
from valvetrain.studies.train.priors import ROWS
from valvetrain.studies.train.side_figures import slowing

Array = NDArray[np.float64]
# Gaps that do not hang on cam and valve: they are judged where they belong.
_ELSEWHERE = (GapKind.NESTED, GapKind.SPRING_POCKET, GapKind.FOLLOWER)


class Motion:
    """One cam under one follower: its lobes row by row, its room, and whether it can ride at all."""

    def __init__(self, tables: Tables, motion: tuple[int, int]) -> None:
        self.tables, self.motion = tables, motion
        parts = tables.shelf.parts
        self.picks = {**tables.base, Slot.CAM: parts[Slot.CAM][motion[0]], Slot.FOLLOWER: parts[Slot.FOLLOWER][motion[1]]}
        self.why = ""
        self.known: tuple[Array, Array] | None = None
        self.table: NDArray[np.float32] | None = None
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
        self.lobe = (self.train.cam, self.train.lift, self.train.duration, self.train.shape, self.train.clearance)
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
        """Code and miss of the gaps that hang on lobe and valve: piston, pocket, bore, the other side's valves, lobe to head."""
        tables, slot = self.tables, Slot.VALVE
        part, follower = tables.shelf.parts[slot][valve].record, self.picks[Slot.FOLLOWER].record
        own = tables.bench.record.proposed[tables.bench.side].parts
        about = tuple(part.figures.get(key) for key in ("head_diameter", "margin"))
        same = (part == own.get(Owner.VALVE, PartRecord()), follower == own.get(Owner.FOLLOWER, PartRecord()))
        key = (self.lobe, self.picks[Slot.CAM].record.figures.get("base_diameter"), about, same)
        if key not in tables.rooms:
            tables.rooms[key] = self._room(valve)
        return tables.rooms[key]

    def _room(self, valve: int) -> tuple[int, float]:
        tables = self.tables
        picks = {**self.picks, Slot.VALVE: tables.shelf.parts[Slot.VALVE][valve]}
        try:
            record = with_set(tables.bench, PartSet(picks))
            found = room_review(record, complete(record))
        except ValveTrainError:
            return kernel.SHORT, 9.0
        code, miss = kernel.HOLDS, 0.0
        for check in found.checks:
            if check.side not in (None, tables.bench.side) or check.code in _ELSEWHERE:
                continue
            if check.verdict is Verdict.UNPROVEN and found.how[check.code, check.about] == "estimate":
                continue  # a guess until somebody measures, whatever the set
            code, miss = max(code, CODE[check.verdict]), max(miss, -check.margin / max(check.limit, 1e-4))
        return code, miss
