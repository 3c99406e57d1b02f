"""Small invented shelves for the tests of Choose: parts drawn about a build's own, some of which do not go together."""

import math

import numpy as np

from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.record import BuildRecord, PartRecord
from valvetrain.studies.choose.proposal import bench_of, stock_part
from valvetrain.studies.choose.slots import NOTHING, Candidate, PartSet, Shelf, Slot, Wishes
from valvetrain.studies.choose.tables import set_at
from valvetrain.units import QuantityKind

__all__ = ["PartSet", "QuantityKind", "Wishes", "bench_of", "drawn_shelf", "set_at"]


def _card(value: float, share: float = 0.02, basis: Basis = Basis.CARD) -> Figure:
    return Figure(value, abs(value) * share, basis)


def drawn_shelf(record: BuildRecord, side: Side, counts: dict[Slot, int], seed: int = 0, *, told: float = 1.0) -> Shelf:
    """The stock parts and `counts` more of each; `told` is the share of their figures that is told."""
    random = np.random.default_rng(seed)
    done = bench_of(record, side).done
    own, fit = done.stock_sides[side], done.stock_sides[side].fit
    height, lift = fit["installed_height"].value, own.parts[Owner.CAM]["lift"].value
    found: dict[Slot, tuple[Candidate, ...]] = {}

    def figures(**known: Figure) -> dict[str, Figure]:
        must = {"lift", "load", "load_height", "stem_diameter"}
        return {key: figure for key, figure in known.items() if key in must or random.random() < told}

    def spring(n: int, share: float, inner: bool) -> PartRecord:
        wire = (2.6 if inner else 4.0) * random.uniform(0.92, 1.08)
        mean = (15.5 if inner else 23.5) * random.uniform(0.96, 1.04)
        rate = 32e3 * share * random.uniform(0.8, 1.5)
        step = fit["inner_step"].value if inner else 0.0
        at = height - step - random.choice([0.0, 4e-3])
        load = share * 240.0 * random.uniform(0.7, 1.5) + rate * (height - step - at)
        known = figures(
            rate=_card(rate), load=_card(load), load_height=Figure(at), solid_height=_card(height - step - lift - random.uniform(0.2e-3, 5e-3), 0.01),
            mass=_card(0.045 * share), wire_diameter=_card(wire * 1e-3, 0.005), mean_diameter=_card(mean * 1e-3, 0.005),
        )  # fmt: skip
        return PartRecord(f"{'inner' if inner else 'outer'} {n}", known, {"hand": str(random.choice(["", "left", "right"]))})

    def part(slot: Slot, n: int) -> PartRecord:
        stem = _card(float(random.choice([5.5e-3, 6.0e-3], p=[0.25, 0.75])), 0.001)
        angle = _card(math.radians(float(random.choice([7.0, 10.0], p=[0.7, 0.3]))), 0.001)
        groove = {"groove": str(random.choice(["", "square", "round"], p=[0.3, 0.6, 0.1]))}
        match slot:
            case Slot.CAM:
                known = {"lift": _card(lift * random.uniform(0.95, 1.15), 0.005), "height_1": Figure(1e-3)}
                known |= {"duration_1": _card(own.parts[Owner.CAM]["duration_1"].value * random.uniform(0.97, 1.08), 0.006)}
                return PartRecord(f"cam {n}", known)
            case Slot.VALVE:
                known = figures(
                    mass=_card(own.parts[Owner.VALVE]["mass"].value * random.uniform(0.7, 1.0)), stem_diameter=stem,
                    head_diameter=_card(own.parts[Owner.VALVE]["head_diameter"].value + float(random.choice([0.0, 0.5e-3])), 0.001),
                    seat_width=_card(1.3e-3, 0.1), groove_height=_card(95e-3 + float(random.choice([0.0, 0.5e-3])), 1e-4),
                    tip_height=_card(random.uniform(2e-3, 4e-3), 0.02),
                )  # fmt: skip
                return PartRecord(f"valve {n}", known, groove)
            case Slot.KEEPERS:
                known = figures(
                    mass=_card(1.9e-3), stem_diameter=stem, cone_angle=angle, rise=Figure(float(random.choice([0.0, 0.6e-3])), 2e-5)
                )
                return PartRecord(f"keepers {n}", known, groove)
            case Slot.RETAINER:
                known = figures(
                    mass=_card(random.uniform(5e-3, 12e-3)), stem_diameter=stem, cone_angle=angle, spring_face=_card(random.uniform(1e-3, 2e-3)),
                    underside=_card(random.uniform(2e-3, 4e-3)), top_height=_card(random.uniform(0.5e-3, 2.5e-3)),
                    outer_diameter=_card(random.uniform(27e-3, 31e-3), 0.001), step_outer=_card(random.uniform(18.5e-3, 20e-3), 0.001),
                )  # fmt: skip
                return PartRecord(f"retainer {n}", known)
            case Slot.FOLLOWER:
                return PartRecord(f"follower {n}", figures(mass=_card(own.parts[Owner.FOLLOWER]["mass"].value * random.uniform(0.7, 1.1))))
            case Slot.SPRING_SHIM:
                return PartRecord(f"shim {n}", {"thickness": Figure(0.5e-3 * (n + 1), 1e-5)})
            case _:
                return spring(n, 0.3 if slot is Slot.INNER else 1.0, slot is Slot.INNER)

    for slot in Slot:
        stock = stock_part(record, side, slot)
        rows = [Candidate(key="stock", record=stock, price=0.0, days=0, stock=True)] if stock is not None else []
        if slot in (Slot.INNER, Slot.SPRING_SHIM):
            rows.insert(0, NOTHING)
        rows += [
            Candidate(
                key=f"{slot}{n}", record=part(slot, n), price=float(random.integers(5, 90)), days=int(random.integers(0, 40)),
                service=float(random.choice([50.0, 200.0])) if random.random() < 0.5 else None,
            )
            for n in range(counts.get(slot, 0))
        ]  # fmt: skip
        found[slot] = tuple(rows)
    return Shelf(parts=found)
