"""The search's compiled loops made ready before anybody waits for them: a search of nothing but stock parts."""

import numpy as np

from valvetrain.kernels.set_search import binding_points
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side, Use
from valvetrain.parts.figure import Figure
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord
from valvetrain.studies.choose.proposal import bench_of
from valvetrain.studies.choose.search import search_shard, shards_of
from valvetrain.studies.choose.slots import NOTHING, Candidate, Shelf, Slot, Wishes
from valvetrain.studies.choose.tables import Tables


def warm() -> int:
    """Compile, or load what was compiled; returns how many sets were judged on the way."""
    sides = dict.fromkeys(Side, SideRecord())
    goal = {"goal_rpm": Figure(150.0)}
    kind = EngineKind(1, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
    record = BuildRecord("", kind, {}, goal, Use.STREET, (), sides, dict(sides))
    stock = Candidate(key="stock", record=PartRecord(), price=0.0, days=0, stock=True)
    parts = {slot: (NOTHING,) if slot in (Slot.INNER, Slot.SPRING_SHIM) else (stock,) for slot in Slot}
    tables = Tables(bench_of(record, Side.INTAKE), Shelf(parts=parts))
    found = [search_shard(tables, shard, Wishes(budget=1.0, days=1)) for shard in shards_of(tables)]
    line = np.ones(1)
    lobe = np.linspace(1e-3, 9e-3, 4)
    binding_points(lobe, lobe, 0.0, line, line, line, 1.6, 2, np.zeros((1, 3), dtype=np.int64), np.zeros(1, dtype=np.int64))
    return sum(each.total for each in found if each)
