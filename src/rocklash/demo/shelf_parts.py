"""The demo's shelf: some three hundred invented parts of invented suppliers, drawn by rule so that each has its reasons."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from decimal import Decimal

from rocklash.records.figure_column import stored_figure
from rocklash.records.models import Individual, Part, Workshop
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.figure import Basis
from valvetrain.quantities import from_unit
from valvetrain.units import QuantityKind

_UNITS = {
    QuantityKind.LENGTH: "mm", QuantityKind.MASS: "g", QuantityKind.FORCE: "N", QuantityKind.RATE: "N/mm", QuantityKind.ANGLE: "deg",
}  # fmt: skip
_HALYARD, _SKERRIES, _LUGGER, _QUAY = "Halyard Spring Co.", "Skerries Cam Grinding", "Lugger Valve Works", "Quayside Engine Spares"


@dataclass(frozen=True, kw_only=True)
class Row:
    """One part of the shelf; figures in mm, g, N, N/mm and degrees."""

    kind: Owner
    name: str
    figures: dict[str, float]
    facts: dict[str, str] = field(default_factory=dict)
    side: str = ""
    supplier: str = _QUAY
    price: str = ""
    days: int | None = None
    here: int = 0
    pack: int = 1
    service: float | None = None
    exchange: str = ""
    basis: Basis = Basis.CARD


def _cams() -> Iterator[Row]:
    lobes = (
        ("1498-E stage 1", "exhaust", 9.55, 240, 272, 110, "310.00", 21), ("1498-E stage 2", "exhaust", 9.95, 246, 280, 109, "345.00", 28),
        ("1498-E quick ramp", "exhaust", 9.80, 238, 268, 110, "395.00", 35), ("1498-I stage 1", "intake", 9.75, 246, 278, 108, "310.00", 21),
        ("1498-I stage 2", "intake", 10.15, 252, 286, 107, "345.00", 28), ("1498-I quick ramp", "intake", 10.00, 244, 275, 108, "395.00", 35),
    )  # fmt: skip
    for name, side, lift, long, low, centre, price, days in lobes:
        figures = {
            "lift": lift, "height_1": 1.0, "duration_1": float(long), "height_2": 0.3, "duration_2": float(low), "height_3": 5.0,
            "duration_3": float(long - 84), "lobe_centre": float(centre), "base_diameter": 36.0, "lobe_width": 14.0,
        }  # fmt: skip
        facts = {"ground_for": "flat", "crown": "crowned", "made_of": "chilled"}
        yield Row(kind=Owner.CAM, name=name, figures=figures, facts=facts, side=side, supplier=_SKERRIES, price=price, days=days)


def _springs() -> Iterator[Row]:
    for n in range(44):
        load, rate = 176.0 + 7.5 * (n % 22), 34.0 + 1.1 * ((5 * n) % 17)
        wire, mean = 3.9 + 0.05 * ((3 * n) % 13), 23.0 + 0.1 * (n % 9)
        solid = 37.2 - 9.25 - 3.1 + 0.32 * ((7 * n) % 10)
        yield Row(
            kind=Owner.SPRING, name=f"BL-{20 + n}", supplier=_HALYARD, price=f"{58 + 2.4 * n:.2f}", days=(6, 9, 14, 21, 30)[n % 5], pack=6,
            here=6 if n % 7 == 0 else 0, service=(150.0, 200.0, 90.0)[n % 3],
            figures={
                "rate": rate, "load": load, "load_height": 37.2, "solid_height": round(solid, 2), "mass": 43.0 + 0.35 * (n % 22), "wire_diameter": wire,
                "mean_diameter": mean, "height_low": 34.0, "height_high": 39.5,
            },
            facts={"hand": "right", "peened": "yes" if n % 3 else "", "wire": "chrome-silicon" if n % 4 else ""},
        )  # fmt: skip
    for n in range(16):
        yield Row(
            kind=Owner.SPRING, name=f"BL-{20 + n} inner", supplier=_HALYARD, price=f"{34 + 1.6 * n:.2f}", days=(6, 14, 21)[n % 3], pack=6,
            figures={
                "rate": 9.5 + 0.6 * n, "load": 38.0 + 2.6 * n, "load_height": 35.9, "solid_height": 20.4 + 0.12 * n, "mass": 13.5 + 0.25 * n,
                "wire_diameter": 2.3 + 0.03 * n, "mean_diameter": 14.6 + 0.08 * (n % 5),
            },
            facts={"hand": "left" if n % 6 else "right", "nested": "free"},
        )  # fmt: skip


def _tops() -> Iterator[Row]:
    metals = (("titanium", 6.2, 38.0), ("steel", 10.4, 14.0), ("aluminium", 5.4, 26.0))
    for n in range(33):
        metal, mass, price = metals[n % 3]
        yield Row(
            kind=Owner.RETAINER, name=f"TR-{1 + n}" if metal == "titanium" else f"{metal.capitalize()} retainer {1 + n}", price=f"{price + 1.1 * n:.2f}",
            days=(4, 8, 15, 22)[n % 4], here=12 if n % 11 == 0 else 0, service=60.0 if metal == "aluminium" else 250.0 if metal == "titanium" else None,
            figures={
                "mass": round(mass + 0.07 * n, 2), "outer_diameter": 28.4 + 0.15 * (n % 8), "step_outer": 18.5 + 0.08 * (n % 9),
                "step_inner": 12.0 + 0.08 * (n % 4), "stem_diameter": 6.0 if n % 8 else 5.5, "cone_angle": 7.0 if n % 6 else 10.0,
                "underside": 2.4 + 0.1 * (n % 5), "top_height": 0.9 + 0.1 * (n % 6),
            },
            facts={"material": metal},
        )  # fmt: skip
    for n in range(14):
        rise = (0.0, 0.0, 0.6, 0.0, -0.4)[n % 5]
        yield Row(
            kind=Owner.KEEPERS, name=f"Keepers K{60 + n}", price=f"{2.1 + 0.35 * n:.2f}", days=(3, 7)[n % 2], here=24 if n in (0, 3) else 0,
            figures={"mass": 1.7 + 0.04 * (n % 6), "stem_diameter": 6.0 if n % 5 != 4 else 5.5, "cone_angle": 7.0 if n % 4 != 3 else 10.0, "rise": rise},
            facts={"groove": "round" if n % 7 != 6 else "square"},
        )  # fmt: skip
    for n in range(36):
        side = "exhaust" if n % 2 else "intake"
        head, mass = (31.0, 41.0) if n % 2 else (36.0, 43.5)
        light = n % 6 == 5
        yield Row(
            kind=Owner.VALVE, name=f"LV-{100 + n}{' Ti' if light else ''}", side=side, supplier=_LUGGER, price=f"{24 + 1.9 * n + (60 if light else 0):.2f}",
            days=(9, 16, 24, 40)[n % 4], service=80.0 if light else None,
            figures={
                "head_diameter": head + (0.5 if n % 9 == 8 else 0.0), "seat_width": 1.4 if n % 2 else 1.2, "stem_diameter": 6.0 if n % 7 else 5.5,
                "mass": round(mass * (0.62 if light else 1.0 - 0.012 * (n % 8)), 2), "length": 101.5 + 0.1 * (n % 4), "tip_height": 3.0 + 0.1 * (n % 5),
            },
            facts={"groove": "round", "tip": "hardened" if n % 10 else "soft", "material": "titanium 6-4" if light else "austenitic 21-4N"},
        )  # fmt: skip
    for n in range(18):
        turns = n % 3 != 2
        yield Row(
            kind=Owner.FOLLOWER, name=f"Bucket 33-{n + 1}", price=f"{19 + 2.3 * n:.2f}", days=(5, 12, 19)[n % 3], here=12 if n == 4 else 0,
            figures={"mass": 29.0 + 0.5 * n, "outside": 32.965, "inside": 29.4 + 0.1 * (n % 6), "face_diameter": 32.9, "shim_recess": 9.6},
            facts={"turns": "turns" if turns else "keyed", "contact": "flat", "feed": "groove" if turns else "hole", "made_of": "coated" if n % 4 == 0 else "hardened"},
        )  # fmt: skip


def _head_parts() -> Iterator[Row]:
    for n in range(24):
        yield Row(
            kind=Owner.SEAL, name=f"Stem seal S{n + 1}", price=f"{9 + 0.8 * n:.2f}", days=(2, 5, 9)[n % 3], pack=8 if n % 2 else 12, here=(0, 4, 9)[n % 3],
            figures={"stem_diameter": 6.0 if n % 4 else 5.5, "grip_diameter": 10.6 + 0.05 * (n % 5), "outer_diameter": 11.4 + 0.1 * (n % 6)},
        )  # fmt: skip
    for n in range(20):
        yield Row(
            kind=Owner.GUIDE, name=f"Guide G{n + 1}", price=f"{7 + 0.9 * n:.2f}", days=(6, 13)[n % 2],
            figures={"bore": 6.02 if n % 4 else 5.52, "top_diameter": 10.9 + 0.05 * (n % 4), "outer_diameter": 11.05 + 0.01 * (n % 6)},
            facts={"made_of": ("iron", "bronze", "sintered")[n % 3]},
        )  # fmt: skip
    for n in range(24):
        large = n % 2 == 0
        yield Row(
            kind=Owner.SEAT, name=f"Seat ring R{n + 1}", price=f"{11 + 1.2 * n:.2f}", days=(8, 15)[n % 2], supplier=_LUGGER,
            figures={"outer_diameter": (38.5 if large else 33.5) + 0.1 * (n % 4), "throat": (31.5 if large else 26.5) + 0.1 * (n % 3)},
            facts={"made_of": ("sintered", "iron", "bronze", "copper")[n % 4]},
        )  # fmt: skip
    for n in range(14):
        yield Row(
            kind=Owner.SPRING_SEAT, name=f"Spring seat P{n + 1}", price=f"{3 + 0.4 * n:.2f}", days=(4, 9)[n % 2],
            figures={"bore": 11.8 + 0.2 * (n % 4), "locator": 18.2 + 0.1 * (n % 6), "thickness": 0.8 + 0.1 * (n % 4)},
        )  # fmt: skip
    for n, thick in enumerate((0.25, 0.4, 0.5, 0.75, 1.0)):
        yield Row(
            kind=Owner.SPRING_SHIM, name=f"Spring shim {thick:.2f}", price=f"{1.2 + 0.3 * n:.2f}", days=2, here=40 - 6 * n, figures={"thickness": thick}
        )  # fmt: skip
    for n in range(10):
        yield Row(
            kind=Owner.CAP, name=f"Lash cap C{n + 1}", price=f"{2.4 + 0.3 * n:.2f}", days=5,
            figures={"bore": 6.04 if n % 3 else 5.54, "depth": 2.0 + 0.1 * (n % 4), "thickness": 1.6 + 0.1 * n, "mass": 1.9 + 0.1 * n},
        )  # fmt: skip
    for n in range(36):
        yield Row(
            kind=Owner.SHIM, name=f"Lash shim 9.5 set {n + 1}", price=f"{5.8 + 0.1 * n:.2f}", days=3, pack=1 + (n % 2) * 9, figures={"diameter": 9.5, "mass": 1.3 + 0.01 * n},
            exchange="changed one for one for two weeks after the sale" if n % 3 == 0 else "",
        )  # fmt: skip


def rows() -> list[Row]:
    """Every part, in the order of the head from the cam down."""
    return [*_cams(), *_springs(), *_tops(), *_head_parts()]


def load_parts(shop: Workshop) -> None:
    """Put them on the shelf of a workshop, with a few used ones that have something behind them."""
    made = []
    for row in rows():
        figures = {}
        for key, value in row.figures.items():
            kind = FIGURES[row.kind, key].kind
            unit = _UNITS[kind]
            figures[key] = stored_figure(
                row.kind, key, from_unit(value, kind, unit), row.basis, typed=f"{value:g} {unit}", unit=unit, by="owner"
            )  # fmt: skip
        made.append(
            Part(
                workshop=shop, kind=row.kind.value, name=row.name, side=row.side, figures=figures, facts={k: w for k, w in row.facts.items() if w},
                supplier=row.supplier, price=Decimal(row.price) if row.price else None, lead_days=row.days, quantity=row.here, pack=row.pack,
                service_hours=row.service, exchange=row.exchange, number=row.name.upper().replace(" ", "-")[:40],
            )
        )  # fmt: skip
    Part.objects.bulk_create(made)
    spring = Part.objects.get(workshop=shop, engine=None, kind="spring", name__startswith="HD-48 outer")
    tested = ((156.4, 35.9), (158.0, 36.1), (154.1, 35.6), (157.2, 36.0), (152.8, 35.5), (158.9, 36.2), (147.5, 35.0))
    for n, (load, rate) in enumerate(tested, start=1):
        Individual.objects.create(
            part=spring, name=f"HD-48 no. {n}", seasons=2, hours=71.0, condition="marginal" if n == 7 else "good", load=load, load_height=37.2e-3,
            rate=rate * 1e3, history="from the spare head of the second rescue craft",
        )  # fmt: skip
    retainer = Part.objects.get(workshop=shop, engine=None, name="TR-1")
    Individual.objects.create(
        part=retainer, name="came off EX 3 fore", seasons=1, hours=38.0, mass=6.24e-3, history="hairline at the cone looked for, none found"
    )
    Individual.objects.create(part=retainer, name="donor head, lot 2", count=5, mass=6.21e-3, history="whole set of a scrapped head")
